import * as THREE from "three";
import { type Exposure, NEUTRAL, type Stats } from "./data";
import { DeferredLight } from "./light/deferred";
import { Eye } from "./light/eye";
import type { GoboStore, WebStore } from "./light/gobos";
import { Mean, shifted } from "./light/mean";
import { type Steps } from "./light/steps";
import type { PaneShot } from "./light/pipeline";
import { type Forecast, Governor, QUALITIES, type Rung, type StepName, STEPS } from "./light/quality";
import { finished, makeStill, png, type StillOptions } from "./light/still";
import type { BeamState } from "./scene/beams";
import type { Landings } from "./scene/landings";
import type { Solids } from "./scene/solids";
import type { Stands } from "./scene/stands";
import { type ShownPane, wallsOf } from "./view/panes";

const CLOCK_S = 4096;
const STILL_AFTER_MS = 350;
/** However slow the machine is, a pane is drawn at least so wide. */
const LEAST_PX = 240;
const WARM_PX = [32, 18] as const;
const SMOOTH_FROM = 6;
const TEST_MS = 4000;
const TEST_FRAMES = 12;

/** A picture that is being drawn, slice by slice. */
interface Job {
  panes: string[];
  rung: Rung;
  /** It refines a picture that stands still: left off as soon as anything changes. */
  refining: boolean;
  /** It only makes a whole picture smoother. */
  polishing: boolean;
  steps: Generator<string, void, void>;
  began: number;
  ms: number;
  moving: boolean;
  /** All of it has been asked for. */
  whole: boolean;
}

/** Draws panes on the canvas when something in them has changed, at the quality that the machine keeps up with. */
export class Drawing {
  readonly renderer: THREE.WebGLRenderer;
  readonly light: DeferredLight;
  readonly governor = new Governor();
  readonly eye = new Eye();
  exposure: Exposure = NEUTRAL;
  /** The server's clock minus this page's, seconds. */
  clockOffset = 0;
  frames = 0;
  /** The quality that the last frame was drawn at. */
  drawn: StepName = "Build";
  private readonly stale = new Set<string>();
  private shape = "";
  private movedAt = -1e9;
  private begunAt = -1e9;
  private refined = true;
  /** How many pictures are mixed in what is shown, while nothing moves; 0: what is shown is on its way. */
  polished = 0;
  private polishMs = 0;
  /** At rest so many pictures are mixed into one, as long as drawing them takes no longer than this in all. */
  readonly polish = { most: 16, ms: 9000 };
  private readonly means = new Map<string, Mean>();
  private fence: WebGLSync | null = null;
  private fenceAt = 0;
  private job: Job | null = null;
  private scripted: number[] = [];
  private scriptMs = 0;
  /** The share of the resolution that the last frame was drawn at. */
  share = 1;
  private shown: PaneShot | null = null;
  private readonly warmed = new Set<StepName>();
  private readonly again = new Set<string>();
  frameMs = 0;
  private busy = false;

  constructor(
    canvas: HTMLCanvasElement,
    private readonly beams: BeamState,
    landings: Landings,
    solids: Solids,
    private readonly stands: Stands,
    uniforms: Record<string, THREE.IUniform>,
    gobos: GoboStore,
    webs: WebStore,
  ) {
    // Panes that have not changed are left as they are on the canvas.
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: false, powerPreference: "high-performance", preserveDrawingBuffer: true });
    this.renderer.info.autoReset = false;
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    this.light = new DeferredLight(this.renderer, solids, beams, landings, gobos, webs);
    Object.assign(uniforms, this.light.uniforms);
  }

  /** A pane has to be drawn again; all of them where none is named. `moving` says that more changes are likely to follow. */
  touch(panes: Iterable<string>, moving = true): void {
    for (const pane of panes) this.stale.add(pane);
    if (moving) this.movedAt = performance.now();
    this.refined = false;
    this.beginMeans();
  }

  /** Nothing is being drawn that is waited for. */
  get idle(): boolean {
    return this.job === null || this.job.polishing;
  }

  /** A picture is being drawn, be it only to become smoother. */
  get working(): boolean {
    return this.job !== null;
  }

  /** The last picture left something for the next. */
  owes = false;

  resize(width: number, height: number, ratio: number): void {
    this.renderer.setPixelRatio(ratio);
    this.renderer.setSize(width, height, false);
  }

  /** A frame that left the server at `left`, by its clock in seconds, came at `now`. */
  heard(left: number, now: number): void {
    // The quickest frame tells the clocks' difference best; slow drift is followed.
    const offset = left - (performance.timeOrigin + now) / 1000;
    const far = this.clockOffset === 0 || Math.abs(offset - this.clockOffset) > 1;
    this.clockOffset = far ? offset : Math.max(offset, this.clockOffset - 1e-4);
  }

  /** The server's clock as the shaders count it. */
  clock(now: number): number {
    return ((performance.timeOrigin + now) / 1000 + this.clockOffset) % CLOCK_S;
  }

  shotOf(pane: ShownPane, ratio: number, quality: PaneShot["quality"], now: number, atRest = true): PaneShot {
    return {
      camera: pane.camera, x: Math.floor(pane.left * ratio), y: 0, width: Math.max(2, Math.floor(pane.width * ratio)),
      height: Math.max(2, Math.floor(pane.height * ratio)), picture: pane.pane.picture, shade: pane.pane.shade,
      walls: wallsOf(pane.pane), section: pane.pane.view === "section", quality, atRest,
      exposure: this.exposure, adapt: this.eye.adapt, clock: this.clock(now), now, target: null,
    };
  }

  /**
   * Whether the graphics processor has finished what it was asked, and has rested for its share of time: nothing ever queues
   * up, and a slow machine keeps room for pointer, keys and the console beside it.
   */
  ready(now: number): boolean {
    if (this.busy) return false;
    const gl = this.renderer.getContext() as WebGL2RenderingContext;
    if (gl.isContextLost()) return false;
    if (this.fence) {
      if (gl.getSyncParameter(this.fence, gl.SYNC_STATUS) !== gl.SIGNALED) return false;
      gl.deleteSync(this.fence);
      this.fence = null;
      const ms = now - this.fenceAt;
      this.light.passes.pace.took(ms);
      this.governor.rest(ms, now);
      if (this.job) {
        this.job.ms += ms;
        if (this.job.whole) this.finish(this.job, now);
      }
    }
    return this.governor.mayDraw(now);
  }

  private finish(job: Job, now: number): void {
    this.job = null;
    this.frameMs = job.ms;
    this.governor.took(job.ms, now, job.moving);
    if (job.rung.step === "Depth" && job.rung.share === 1 && !job.moving) this.governor.refined(job.ms, now);
    if (job.refining && job.rung.step === "Depth") {
      this.polishMs = this.polished ? this.polishMs + job.ms : 0;
      this.polished += 1;
    }
    if (job.refining) this.warm(this.governor.rung(false).step);
  }

  /** Have the programs of a step made ready before a picture waits for them: once, with a picture too small to be seen. */
  private warm(step: StepName): void {
    if (!this.shown || this.warmed.has(step)) return;
    this.warmed.add(step);
    const target = new THREE.WebGLRenderTarget(...WARM_PX, { depthBuffer: false });
    this.light.passes.pace.sliced = false;
    const [width, height] = WARM_PX;
    const shot = { ...this.shown, x: 0, y: 0, width: width * 2, height: height * 2, share: 0.5, quality: QUALITIES[step], atRest: false, target };
    this.stands.within(shot.picture, () => this.light.draw(shot));
    target.dispose();
    this.mark(performance.now());
  }

  private mark(from: number): void {
    const gl = this.renderer.getContext() as WebGL2RenderingContext;
    this.fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    this.fenceAt = from;
    gl.flush();
  }

  /** Leave off what is being drawn; it is begun again when its turn comes. */
  interrupt(): void {
    if (!this.job) return;
    for (const pane of this.job.panes) this.stale.add(pane);
    this.job = null;
  }

  /** Make room for a picture that is waited for: it is drawn whole, and what was being drawn begins again after it. */
  putAside(): void {
    this.interrupt();
    this.light.passes.pace.sliced = false;
  }

  /** Draw what is stale, a slice at a time. Returns whether a picture was finished. */
  draw(layout: ShownPane[], now: number): boolean {
    this.noteMotion(layout, now);
    // However long a change has waited for its turn, it is shown coarsely and at once before it is drawn whole.
    const still = now - this.movedAt > STILL_AFTER_MS && this.movedAt <= this.begunAt;
    if (this.job?.refining && this.movedAt > this.job.began) this.interrupt();
    if (!this.job) {
      if (!this.stale.size && still && !this.refined) {
        this.refined = true;
        if (this.governor.refines && !(this.drawn === "Depth" && this.share === 1)) for (const pane of layout) if (pane.pane.shade === "lit") this.stale.add(pane.pane.id);
      }
      if (!this.stale.size && !this.mayPolish(layout, still)) return false;
      this.job = this.begin(layout, now, still);
    }
    return this.slice(this.job);
  }

  private mayPolish(layout: ShownPane[], still: boolean): boolean {
    const whole = this.refined && this.drawn === "Depth" && this.share === 1 && this.governor.wish.step === "auto";
    return still && whole && layout.some(({ pane }) => pane.shade === "lit") && this.polished < this.polish.most && this.polishMs < this.polish.ms;
  }

  /** What is mixed from now on is of another view, or of a changed one. */
  private beginMeans(): void {
    this.polished = 0;
    for (const mean of this.means.values()) mean.count = 0;
  }

  /** The mean of a pane's pictures; none while something moves. */
  private meanOf(pane: string, shot: PaneShot): Mean | undefined {
    if (shot.shade !== "lit" || (shot.share ?? 1) < 1 || shot.quality.name !== "Depth") return undefined;
    let mean = this.means.get(pane);
    if (mean?.width !== shot.width || mean.height !== shot.height) {
      mean?.dispose();
      mean = new Mean(shot.width, shot.height);
      this.means.set(pane, mean);
    }
    shifted(shot.camera, mean.count, shot.width, shot.height);
    return mean;
  }

  private begin(layout: ShownPane[], now: number, still: boolean): Job {
    this.renderer.info.reset();
    this.begunAt = performance.now();
    const auto = this.governor.wish.step === "auto";
    const polishing = !this.stale.size;
    if (!polishing) this.beginMeans();
    else for (const { pane } of layout) if (pane.shade === "lit") this.stale.add(pane.id);
    // What moves is drawn as coarsely as the rate asks for, and at once.
    this.light.passes.pace.sliced = still || !auto;
    const rung = this.governor.rung(still);
    for (const [id, mean] of this.means) {
      if (layout.some(({ pane }) => pane.id === id)) continue;
      mean.dispose();
      this.means.delete(id);
    }
    const ratio = this.renderer.getPixelRatio();
    const shown = layout.filter((pane) => this.stale.has(pane.pane.id));
    this.stale.clear();
    const shots = shown.map((pane) => {
      const shot = this.shotOf(pane, ratio, QUALITIES[rung.step], now, still);
      const made = { ...shot, share: Math.min(Math.max(rung.share, LEAST_PX / shot.width), 1) };
      const mean = still && auto ? this.meanOf(pane.pane.id, made) : undefined;
      // Once several are mixed, edges are smooth by themselves.
      const smooth = made.quality.smooth && (mean?.count ?? 0) < SMOOTH_FROM;
      return { pane, shot: { ...made, mean, quality: { ...made.quality, smooth } } };
    });
    return { panes: shown.map((pane) => pane.pane.id), rung, refining: still && auto, polishing, steps: this.panesOf(shots), began: performance.now(), ms: 0, moving: !still, whole: false };
  }

  /** Draws pane after pane; gives the name of each when it is done. */
  private *panesOf(shots: { pane: ShownPane; shot: PaneShot }[]): Generator<string, void, void> {
    for (const { pane, shot } of shots) {
      this.light.seed(shot.mean?.count ?? 0);
      const steps: Steps = this.light.steps(shot);
      while (!this.stands.within(pane.pane.picture, () => steps.next()).done) yield "";
      if (this.light.unfinished) this.again.add(pane.pane.id);
      if (pane.pane.shade === "lit") {
        this.shown = shot;
        this.drawn = shot.quality.name as StepName;
        this.share = shot.share ?? 1;
        if (this.exposure.adapts && shot.quality.bloom) this.eye.look(this.renderer, this.light.targetsOf(shot).bloom.at(-1) as THREE.WebGLRenderTarget);
      }
      yield pane.pane.id;
    }
  }

  /** Ask for as much of a picture as a slice may take. */
  private slice(job: Job): boolean {
    const started = performance.now();
    const { pace } = this.light.passes;
    do {
      const next = job.steps.next();
      if (next.value) job.panes = job.panes.filter((pane) => pane !== next.value);
      job.whole = next.done === true;
    } while (!job.whole && !pace.full);
    this.mark(started);
    this.scriptMs += performance.now() - started;
    if (!job.whole) return false;
    this.owes = this.again.size > 0;
    for (const pane of this.again) this.stale.add(pane);
    this.again.clear();
    this.frames += 1;
    this.scripted = [...this.scripted.slice(-59), this.scriptMs];
    this.scriptMs = 0;
    return true;
  }

  /** Panes whose picture moves by itself (strobes, turning wheels, a blend from frame to frame, drifting haze, the eye). */
  private noteMotion(layout: ShownPane[], now: number): void {
    const shape = layout.map((pane) => `${pane.pane.id}:${pane.left}:${pane.width}:${pane.height}`).join();
    if (shape !== this.shape) this.touch(layout.map((pane) => pane.pane.id));
    this.shape = shape;
    const adapting = this.eye.tick(now, this.exposure.adapts, this.exposure.held);
    for (const { pane } of layout) {
      if (pane.shade !== "lit") continue;
      const blending = (this.beams.pictures.get(pane.picture)?.mix(now) ?? 1) < 1;
      const own = this.beams.moves(pane.picture);
      if (adapting || blending || (own === "flashes" && !this.governor.wish.rests)) this.touch([pane.id]);
      // Wheels that turn for ever do not keep the picture from being refined.
      else if (own === "turns" && !this.governor.wish.rests) this.stale.add(pane.id);
    }
  }

  /** Median JavaScript time of the last frames, milliseconds. */
  jsMs(): number {
    const sorted = [...this.scripted].sort((a, b) => a - b);
    return sorted[sorted.length >> 1] ?? 0;
  }

  stats(now: number): Omit<Stats, "lit"> {
    const refined = this.governor.wish.step === "auto" && this.drawn === "Depth" && this.share === 1 && this.governor.refines;
    return {
      fps: this.governor.fps(now), jsMs: this.jsMs(), load: this.governor.load(now),
      step: refined ? `${this.drawn}, at rest` : this.share < 1 ? `${this.drawn}, ${Math.round(this.share * 100)} % sharp` : this.drawn, ev: this.eye.ev(this.exposure.ev),
    };
  }

  private async alone<T>(work: () => Promise<T>): Promise<T> {
    while (this.busy) await new Promise((again) => setTimeout(again, 40));
    this.busy = true;
    this.putAside();
    try {
      await finished(this.renderer);
      return await work();
    } finally {
      this.busy = false;
    }
  }

  /** A pane's picture at a size of its own, as PNG: at once, or as a still of many samples. */
  picture(pane: ShownPane, camera: PaneShot["camera"], options: StillOptions & { still: boolean }, exposed: Partial<Exposure> = {}): Promise<Blob> {
    return this.alone(async () => {
      const { width, height } = options;
      const now = performance.now();
      const shot = { ...this.shotOf(pane, 1, QUALITIES.Depth, now), camera, x: 0, y: 0, width, height };
      shot.exposure = { ...shot.exposure, ...exposed };
      if (exposed.ev !== undefined) shot.adapt = 1;
      const before = this.stands.take(pane.pane.picture);
      try {
        return await (options.still ? makeStill(this.renderer, this.light, shot, options) : this.once(shot, options.luminance));
      } finally {
        this.stands.take(before);
      }
    });
  }

  /** A picture of its own size, drawn until nothing is left to be caught up with. */
  private async once(shot: PaneShot, luminance?: StillOptions["luminance"]): Promise<Blob> {
    const { width, height } = shot;
    const target = new THREE.WebGLRenderTarget(width, height, { depthBuffer: false });
    try {
      do this.light.draw({ ...shot, target });
      while (this.light.unfinished);
      luminance?.(this.light.luminance(shot));
      const pixels = new Uint8Array(width * height * 4);
      this.renderer.readRenderTargetPixels(target, 0, 0, width, height, pixels);
      return await png(pixels, width, height);
    } finally {
      target.dispose();
    }
  }

  /** Measure each step on this show as it is shown now; at most a minute in all. */
  selfTest(layout: ShownPane[], onProgress: (share: number, step: StepName) => void): Promise<Forecast[]> {
    return this.alone(async () => {
      const forecasts: Forecast[] = [];
      for (const [i, step] of STEPS.entries()) {
        const times: number[] = [];
        const until = performance.now() + TEST_MS;
        for (let k = 0; k < TEST_FRAMES && (k < 3 || performance.now() < until); k++) {
          onProgress((i + k / TEST_FRAMES) / STEPS.length, step);
          const started = performance.now();
          for (const pane of layout) this.stands.within(pane.pane.picture, () => this.light.draw(this.shotOf(pane, this.renderer.getPixelRatio(), QUALITIES[step], started)));
          await finished(this.renderer);
          // The first frame compiles and fills what the next ones reuse.
          if (k > 0) times.push(performance.now() - started);
        }
        const ms = times.sort((a, b) => a - b)[times.length >> 1] ?? 0;
        forecasts.push({ step, ms, fps: ms > 0 ? 1000 / ms : 0 });
      }
      return forecasts;
    });
  }

  dispose(): void {
    for (const mean of this.means.values()) mean.dispose();
    this.light.dispose();
    this.renderer.dispose();
  }
}
