import * as THREE from "three";
import { type Exposure, NEUTRAL, type Stats } from "./data";
import { DeferredLight } from "./light/deferred";
import { Eye } from "./light/eye";
import type { GoboStore, WebStore } from "./light/gobos";
import type { PaneShot } from "./light/pipeline";
import { type Forecast, Governor, QUALITIES, type StepName, STEPS } from "./light/quality";
import { finished, makeStill, png, type StillOptions } from "./light/still";
import type { BeamState } from "./scene/beams";
import type { Landings } from "./scene/landings";
import type { Solids } from "./scene/solids";
import type { Stands } from "./scene/stands";
import type { OverlayPane } from "./tools/overlay";

const CLOCK_S = 4096;
const STILL_AFTER_MS = 350;
const TEST_MS = 9000;
const TEST_FRAMES = 12;

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
  private refined = true;
  private fence: WebGLSync | null = null;
  private fenceAt = 0;
  private fenceMoving = false;
  private scripted: number[] = [];
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
  }

  get pending(): boolean {
    return this.stale.size > 0;
  }

  resize(width: number, height: number, ratio: number): void {
    this.renderer.setPixelRatio(ratio);
    this.renderer.setSize(width, height, false);
  }

  /** The server's clock as the shaders count it. */
  clock(now: number): number {
    return ((performance.timeOrigin + now) / 1000 + this.clockOffset) % CLOCK_S;
  }

  shotOf(pane: OverlayPane, ratio: number, quality: PaneShot["quality"], now: number, atRest = true): PaneShot {
    return {
      camera: pane.camera, x: Math.floor(pane.left * ratio), y: 0, width: Math.max(2, Math.floor(pane.width * ratio)),
      height: Math.max(2, Math.floor(pane.height * ratio)), picture: pane.pane.picture, shade: pane.pane.shade, quality, atRest,
      exposure: this.exposure, adapt: this.eye.adapt, clock: this.clock(now), now, target: null,
    };
  }

  /**
   * Whether the graphics processor has finished the frame before, and has rested for its share of time: frames never
   * queue up, and a slow machine keeps room for pointer, keys and the console beside it.
   */
  ready(now: number): boolean {
    if (this.busy) return false;
    const gl = this.renderer.getContext() as WebGL2RenderingContext;
    if (gl.isContextLost()) return false;
    if (this.fence) {
      if (gl.getSyncParameter(this.fence, gl.SYNC_STATUS) !== gl.SIGNALED) return false;
      gl.deleteSync(this.fence);
      this.frameMs = now - this.fenceAt;
      this.governor.took(this.frameMs, now, this.fenceMoving);
      this.fence = null;
    }
    return this.governor.mayDraw(now);
  }

  /** Draw what is stale. Returns whether anything was drawn. */
  draw(layout: OverlayPane[], now: number): boolean {
    this.noteMotion(layout, now);
    const still = now - this.movedAt > STILL_AFTER_MS;
    if (!this.stale.size && still && !this.refined) {
      this.refined = true;
      if (this.governor.refines && this.drawn !== "Depth") for (const pane of layout) if (pane.pane.shade === "lit") this.stale.add(pane.pane.id);
    }
    if (!this.stale.size) return false;
    this.renderer.info.reset();
    const started = performance.now();
    const quality = QUALITIES[this.governor.step(still)];
    const ratio = this.renderer.getPixelRatio();
    const again = new Set<string>();
    for (const pane of layout) {
      if (!this.stale.has(pane.pane.id)) continue;
      const shot = this.shotOf(pane, ratio, quality, now, still);
      this.stands.within(pane.pane.picture, () => this.light.draw(shot));
      if (this.light.unfinished) again.add(pane.pane.id);
      if (pane.pane.shade === "lit") {
        this.drawn = quality.name as StepName;
        if (this.exposure.adapts && quality.bloom) this.eye.look(this.renderer, this.light.targetsOf(shot).bloom.at(-1) as THREE.WebGLRenderTarget);
      }
    }
    this.stale.clear();
    for (const pane of again) this.stale.add(pane);
    const gl = this.renderer.getContext() as WebGL2RenderingContext;
    this.fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    this.fenceAt = started;
    this.fenceMoving = !still;
    gl.flush();
    this.frames += 1;
    this.scripted = [...this.scripted.slice(-59), performance.now() - started];
    return true;
  }

  /** Panes whose picture moves by itself (strobes, turning wheels, a blend from frame to frame, drifting haze, the eye). */
  private noteMotion(layout: OverlayPane[], now: number): void {
    const shape = layout.map((pane) => `${pane.pane.id}:${pane.left}:${pane.width}:${pane.height}`).join();
    if (shape !== this.shape) this.touch(layout.map((pane) => pane.pane.id));
    this.shape = shape;
    const adapting = this.eye.tick(now, this.exposure.adapts, this.exposure.held);
    for (const { pane } of layout) {
      if (pane.shade !== "lit") continue;
      const blending = (this.beams.pictures.get(pane.picture)?.mix(now) ?? 1) < 1;
      const own = this.beams.moves(pane.picture);
      if (adapting || blending || own === "flashes") this.touch([pane.id]);
      // Wheels that turn for ever do not keep the picture from being refined.
      else if (own === "turns") this.stale.add(pane.id);
    }
  }

  /** Median JavaScript time of the last frames, milliseconds. */
  jsMs(): number {
    const sorted = [...this.scripted].sort((a, b) => a - b);
    return sorted[sorted.length >> 1] ?? 0;
  }

  stats(now: number): Omit<Stats, "lit"> {
    const refined = this.governor.wish.step === "auto" && this.drawn === "Depth" && this.governor.refines;
    return {
      fps: this.governor.fps(now), jsMs: this.jsMs(), load: this.governor.load(now),
      step: refined ? `${this.drawn}, at rest` : this.drawn, ev: this.eye.ev(this.exposure.ev),
    };
  }

  private async alone<T>(work: () => Promise<T>): Promise<T> {
    if (this.busy) throw new Error("Another picture is being made: wait until it is done.");
    this.busy = true;
    try {
      await finished(this.renderer);
      return await work();
    } finally {
      this.busy = false;
    }
  }

  /** A pane's picture at a size of its own, as PNG: at once, or as a still of many samples. */
  picture(pane: OverlayPane, camera: PaneShot["camera"], options: StillOptions & { still: boolean }): Promise<Blob> {
    return this.alone(async () => {
      const { width, height } = options;
      const now = performance.now();
      const shot = { ...this.shotOf(pane, 1, QUALITIES.Depth, now), camera, x: 0, y: 0, width, height };
      const before = this.stands.take(pane.pane.picture);
      try {
        return await (options.still ? makeStill(this.renderer, this.light, shot, options) : this.once(shot));
      } finally {
        this.stands.take(before);
      }
    });
  }

  /** A picture of its own size, drawn until nothing is left to be caught up with. */
  private async once(shot: PaneShot): Promise<Blob> {
    const { width, height } = shot;
    const target = new THREE.WebGLRenderTarget(width, height, { depthBuffer: false });
    try {
      do this.light.draw({ ...shot, target });
      while (this.light.unfinished);
      const pixels = new Uint8Array(width * height * 4);
      this.renderer.readRenderTargetPixels(target, 0, 0, width, height, pixels);
      return await png(pixels, width, height);
    } finally {
      target.dispose();
    }
  }

  /** Measure each step on this show as it is shown now; at most a minute in all. */
  selfTest(layout: OverlayPane[], onProgress: (share: number, step: StepName) => void): Promise<Forecast[]> {
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
    this.light.dispose();
    this.renderer.dispose();
  }
}
