import * as THREE from "three";
import { type Measures, METRIC } from "./measures";
import type { Body, CarrierMark, Exposure, Ghost, LabelChoice, Mounted, Pane, PatchInfo, RailLine, Solid, StageEvents, StageLabels, Told, Tool, Vec3 } from "./data";
import { Beat } from "./beat";
import { Drawing } from "./drawing";
import { GoboStore, WebStore } from "./light/gobos";
import type { Forecast, StepName, Wish } from "./light/quality";
import type { StillOptions } from "./light/still";
import { type Air, air, pixels, probe, type Probed, report, type StageReport } from "./report";
import { BeamState } from "./scene/beams";
import { type Carried, Carrying } from "./scene/carried";
import { Landings } from "./scene/landings";
import { MeshStore } from "./scene/meshes";
import { Solids } from "./scene/solids";
import { type Stand, Stands } from "./scene/stands";
import { AimTool } from "./tools/aim";
import { AskTool } from "./tools/ask";
import { ArrangeTool } from "./tools/arrange";
import { BladeTool } from "./tools/blades";
import { CutTool } from "./tools/cut";
import { MeasureTool } from "./tools/measure";
import { OutlineTool } from "./tools/outline";
import { PathTool } from "./tools/path";
import { PutTool } from "./tools/put";
import { SelectTool } from "./tools/select";
import { inBox, thingAt } from "./tools/picking";
import { type OthersSelection, Overlay } from "./tools/overlay";
import { Pointer } from "./tools/pointer";
import { project, type StageTheme } from "./tools/sheet";
import type { StageTool, Surface } from "./tools/tool";
import { cameraFor, frame, homeViewpoint, type Viewpoint } from "./view/cameras";
import { Panes, type ShownPane, wallsOf } from "./view/panes";

const TELL_MS = 500;

/** Where the stage gets meshes and gobo images from, by key. */
export interface Sources {
  mesh: (key: string) => Promise<ArrayBuffer>;
  gobo: (key: string) => Promise<ArrayBuffer>;
  web: (key: string) => Promise<ArrayBuffer>;
}

/** The stage: give it solids, a rig, frames and panes; it draws them when something has changed, and never else. */
export class Stage {
  readonly state = new BeamState();
  readonly solids: Solids;
  readonly landings: Landings;
  readonly stands: Stands;
  private readonly carrying: Carrying;
  drawing: Drawing | null = null;
  private readonly uniforms: Record<string, THREE.IUniform> = {};
  private readonly gobos: GoboStore;
  private readonly webs: WebStore;
  readonly overlay: Overlay;
  private readonly pointer: Pointer;
  private readonly panes = new Panes();
  mounted: Mounted[] = [];
  private bodies: Body[] = [];
  private selected: ReadonlySet<string> = new Set();
  ghostNow: Ghost | null = null;
  private movable = false;
  private tall = false;
  private others: OthersSelection[] = [];
  private hovered: string | null = null;
  private handleHot: string | null = null;
  private labels: LabelChoice = { bodies: false, landings: false };
  rails: Readonly<Record<string, readonly RailLine[]>> = {};
  /** The panes where what is drawn over the picture is to be drawn again. */
  private readonly overStale = new Set<string>();
  private readonly beat = new Beat((now) => this.look(now));
  private ratio = 1;
  private toldAt = 0;
  readonly tools: { select: SelectTool; aim: AimTool; measure: MeasureTool; draw: OutlineTool; put: PutTool; guide: ArrangeTool; path: PathTool; cut: CutTool; sharp: CutTool; blades: BladeTool; ask: AskTool };
  tool: StageTool;
  /** Counts what was asked to be drawn; equals `settled` when all of it is on screen. */
  asked = 0;
  settled = 0;
  /** What had been asked when the picture that is being drawn was begun. */
  private begun = 0;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly overlayCanvas: HTMLCanvasElement,
    private readonly theme: StageTheme,
    sources: Sources,
    readonly events: StageEvents,
    private readonly scale: number,
  ) {
    const meshes = new MeshStore(sources.mesh);
    this.overlay = new Overlay(overlayCanvas, theme, meshes, () => this.touchOverlay());
    this.solids = new Solids(meshes, this.uniforms, () => {
      const rooms = this.solids.built(true);
      this.panes.setBuilt(rooms, this.solids.built(false) ?? rooms);
      this.invalidate();
    });
    this.landings = new Landings(this.state, this.solids);
    this.stands = new Stands(this.state, this.solids);
    this.carrying = new Carrying(this.state, this.solids);
    this.gobos = new GoboStore(sources.gobo, () => this.invalidate());
    this.webs = new WebStore(sources.web, () => this.invalidate());
    const selecting = new SelectTool(this);
    this.tools = { select: selecting, aim: new AimTool(this), measure: new MeasureTool(this), draw: new OutlineTool(this), put: new PutTool(this), guide: new ArrangeTool(this, selecting), path: new PathTool(this), cut: new CutTool(this, (place, phase) => this.events.onCut(place, phase)), sharp: new CutTool(this, (place, phase) => this.events.onSharp(place, phase)), blades: new BladeTool(this), ask: new AskTool(this) };
    this.tool = selecting;
    this.start();
    this.pointer = new Pointer(this, overlayCanvas);
    canvas.addEventListener("webglcontextlost", (event) => {
      event.preventDefault();
      this.events.onLost(true);
      this.touchOverlay();
    });
    canvas.addEventListener("webglcontextrestored", () => {
      // What was on the card is gone: the pipeline is made anew from what the page still holds.
      this.drawing?.dispose();
      this.start();
    });
  }

  private start(): void {
    try {
      this.drawing = new Drawing(this.canvas, this.state, this.landings, this.solids, this.stands, this.uniforms, this.gobos, this.webs);
    } catch {
      this.drawing = null;
      this.events.onLost(true);
      return;
    }
    this.drawing.light.setTheme(this.theme.ground, this.theme.line, this.theme.fill, this.theme.text);
    this.events.onLost(false);
    if (this.panes.width) this.resize(this.panes.width, this.panes.height);
    this.invalidate();
  }

  dispose(): void {
    this.beat.stop();
    this.pointer.dispose();
    this.gobos.dispose();
    this.webs.dispose();
    this.drawing?.dispose();
  }

  /** Draw panes again; all of them where none is named. */
  invalidate(panes = this.panes.ids): void {
    this.drawing?.touch(panes);
    this.touchOverlay(panes);
  }

  touchOverlay(panes = this.panes.ids): void {
    this.asked += 1;
    for (const pane of panes) this.overStale.add(pane);
    this.beat.wake();
  }

  /** Whether something is to be drawn over the picture. */
  get overlayDirty(): boolean { return this.overStale.size > 0; }

  // What is shown

  resize(width: number, height: number): void {
    const [w, h] = [Math.max(2, Math.round(width)), Math.max(2, Math.round(height))];
    Object.assign(this.panes, { width: w, height: h });
    this.ratio = window.devicePixelRatio || 1;
    this.drawing?.resize(w, h, this.ratio * this.scale);
    this.overlayCanvas.width = Math.round(w * this.ratio);
    this.overlayCanvas.height = Math.round(h * this.ratio);
    this.invalidate();
  }

  setPanes(panes: Pane[]): void {
    this.panes.set(panes);
    this.invalidate();
  }

  setSolids(solids: Solid[]): void {
    this.solids.setSolids(solids);
    this.invalidate();
  }

  setRig(mounted: Mounted[], bodies: Body[]): void {
    this.mounted = mounted;
    this.bodies = bodies;
    this.state.setRig(mounted, bodies);
    void this.solids.setBodies(mounted, bodies, this.state);
    this.placeHandles();
    this.invalidate();
  }

  setPatch(patch: PatchInfo): void {
    this.state.setPatch(patch);
    void this.gobos.show(patch.gobos);
    void this.webs.show(patch.webs);
    void this.solids.setBodies(this.mounted, this.bodies, this.state);
    this.invalidate();
  }

  /** A frame of a picture; `left` is when it left the server, by the server's clock in seconds. */
  setFrame(picture: string, values: Float32Array, left?: number): void {
    const now = performance.now();
    if (left !== undefined) this.drawing?.heard(left, now);
    this.state.setFrame(picture, values, now);
    const shown = this.panes.list.filter((pane) => pane.picture === picture && (pane.shade === "lit" || pane.shade === "unlit"));
    if (shown.length) this.invalidate(shown.map((pane) => pane.id));
    else if (this.panes.list.some((pane) => pane.picture === picture)) this.touchOverlay();
  }

  /** How lengths are stepped and said. */
  measures: Measures = METRIC;

  setMeasures(measures: Measures): void {
    this.measures = measures;
    this.overlay.measures = measures;
    this.touchOverlay();
  }

  setExposure(exposure: Exposure): void {
    if (this.drawing) this.drawing.exposure = exposure;
    this.invalidate();
  }

  setWish(wish: Wish): void {
    if (this.drawing) this.drawing.governor.wish = wish;
    this.invalidate();
  }

  setLabels(labels: LabelChoice): void {
    this.labels = labels;
    this.touchOverlay();
  }

  /** Fixtures whose shadows are always drawn. */
  pinShadows(ids: ReadonlySet<string>): void {
    if (this.drawing) this.drawing.light.shadows.pinned = ids;
    this.invalidate();
  }

  /** What is selected; whether it can be moved, and whether it is one thing with a height to be set. */
  setSelection(ids: ReadonlySet<string>, movable: boolean, tall = false): void {
    this.selected = ids;
    this.movable = movable;
    this.tall = tall;
    this.placeHandles();
    this.touchOverlay();
  }

  private told: Told = { drivers: new Map(), moved: new Map(), marks: new Map(), zones: [] };

  /** Tell something of fixtures, to be drawn by them; an empty map: nothing is. */
  tell(told: Partial<Told>): void {
    this.told = { ...this.told, ...told };
    this.touchOverlay();
  }

  /** What others have selected: drawn faintly, with their names. */
  setOthers(others: OthersSelection[]): void {
    this.others = others;
    this.touchOverlay();
  }

  get othersShown(): readonly OthersSelection[] { return this.others; }

  setGhost(ghost: Ghost | null): void {
    if (!ghost && !this.ghostNow) return;
    this.ghostNow = ghost;
    this.state.setOverride(ghost?.mounts.filter((mount) => this.state.rowOf(mount.id) !== undefined) ?? []);
    this.solids.setOverride(ghost?.solids ?? []);
    this.overlay.ghosts.prepare(ghost?.bodies ?? []);
    this.invalidate();
  }

  /** What stands elsewhere in one picture; null: all of it stands as it is. */
  setStand(picture: string, stand: Stand | null): void {
    if (!this.stands.set(picture, stand)) return;
    this.drawing?.light.shadows.forget();
    this.invalidate();
  }

  get carriers(): readonly CarrierMark[] { return this.carrying.marksNow; }

  /** Where drivers have brought what they move. */
  setCarried(groups: readonly Carried[]): void {
    if (!this.carrying.set(groups)) return;
    this.rails = this.overlay.rails = this.carrying.railsNow;
    this.invalidate();
  }

  /** The rails that fixtures are put on. */
  setRails(rails: Readonly<Record<string, readonly RailLine[]>>): void {
    this.carrying.setRails(rails);
    this.rails = this.overlay.rails = this.carrying.railsNow;
    this.touchOverlay();
  }

  setCarriers(marks: readonly CarrierMark[]): void {
    this.carrying.setMarks(marks);
    this.touchOverlay();
  }

  setLabelStyles(styles: readonly StageLabels[]): void {
    this.overlay.labels.styles = styles;
    this.touchOverlay();
  }

  /** Lines that lie under the work in plan: x, y, x, y ... in metres each. */
  setUnderlay(lines: readonly (readonly number[])[]): void {
    this.overlay.setUnderlay(lines);
    this.touchOverlay();
  }

  setTool(tool: Tool): void {
    if (this.tool !== this.tools[tool]) this.tool.leave();
    this.tool = this.tools[tool];
    this.touchOverlay();
  }

  /** Whether a pane is on its way to a viewpoint. */
  get gliding(): boolean { return this.panes.gliding; }

  setHover(over: string | null, handle: string | null): void {
    // Aiming at a place takes the place, not the thing: nothing lights up then.
    const id = this.tool.lights ? over : null;
    if (id === this.hovered && handle === this.handleHot) return;
    this.hovered = id;
    this.handleHot = handle;
    this.touchOverlay();
  }

  private placeHandles(): void {
    this.tools.select.place(this.selected, this.movable, this.tall, this.tool === this.tools.select);
  }

  // Views

  viewpoint(pane: string): Viewpoint { return this.panes.viewpoint(pane); }

  setViewpoint(pane: string, to: Viewpoint): void {
    this.panes.look(pane, to);
    this.events.onViewChanged(pane);
    this.invalidate([pane]);
  }

  /** Go to a place to look from, with a short glide unless the system asks for no motion. */
  lookFrom(pane: string, eye: Vec3, target: Vec3): void {
    this.panes.lookFrom(pane, eye, target);
    this.invalidate();
  }

  home(pane: string): void {
    this.setViewpoint(pane, this.panes.home(pane));
  }

  /** Bring the selection, or everything, into view. */
  frameSelection(pane: string): void {
    const box = new THREE.Box3();
    for (const id of this.selected) {
      const bounds = this.solids.bounds(id);
      const place = this.state.placeOf(id);
      if (bounds) box.union(bounds);
      else if (place) box.expandByPoint(new THREE.Vector3(...place.position));
    }
    if (box.isEmpty()) return this.home(pane);
    const middle = box.getCenter(new THREE.Vector3());
    const radius = Math.max(box.getSize(new THREE.Vector3()).length() / 2, 1.2);
    const shown = this.panes.list.find((one) => one.id === pane);
    const walls = shown ? wallsOf(shown) : "rooms";
    // What is framed does not stand in its own way.
    const clear = (from: Viewpoint) => !this.solids.between(from.eye, middle, this.solids.cutawayFor(cameraFor(from, 1), walls), this.selected);
    this.setViewpoint(pane, frame(this.viewpoint(pane), middle, radius, clear));
  }

  /** The panes as they lie now, in CSS pixels. */
  layout(): ShownPane[] {
    return this.panes.layout();
  }

  paneAt(x: number): ShownPane | undefined {
    return this.layout().find((pane) => x >= pane.left && x < pane.left + pane.width);
  }

  ray(pane: ShownPane, x: number, y: number): THREE.Raycaster {
    const caster = new THREE.Raycaster();
    caster.firstHitOnly = true;
    const at = new THREE.Vector2(((x - pane.left) / pane.width) * 2 - 1, 1 - ((y - pane.top) / pane.height) * 2);
    caster.setFromCamera(at, pane.camera);
    // What a section has cut away is not met: a drawn camera's rays begin at its eye, far before the cut.
    if (pane.pane.view === "section") caster.near = pane.camera.near;
    return caster;
  }

  /** The surface under a place of the stage, and whose it is. */
  surfaceAt(pane: ShownPane, x: number, y: number): Surface | null {
    return this.stands.within(pane.pane.picture, () => this.solids.hit(this.ray(pane, x, y), true, this.solids.cutawayFor(pane.camera, wallsOf(pane.pane))));
  }

  /** What a click would take (tools/picking.ts). */
  thingAt(pane: ShownPane, x: number, y: number): string | null {
    return this.tools.ask.pinAt(pane, x, y) ?? this.stands.within(pane.pane.picture, () => thingAt(this, pane, x, y));
  }

  /** What a box takes: what is wholly inside of it, or what it touches (tools/picking.ts). */
  inBox(pane: ShownPane, from: { x: number; y: number }, to: { x: number; y: number }, touching: boolean): string[] {
    return this.stands.within(pane.pane.picture, () => inBox(this, pane, from, to, touching));
  }

  // Drawing

  /** Draw what is to be drawn; gives whether more is on its way. */
  private look(now: number): boolean {
    const gone = this.panes.step(now);
    if (gone !== null) {
      this.events.onViewChanged(gone);
      this.invalidate([gone]);
    }
    const { drawing } = this;
    if (document.hidden || (drawing && !drawing.ready(now))) return true;
    if (!drawing || drawing.idle) this.begun = this.asked;
    const layout = this.layout();
    const drew = drawing !== null && this.panes.width > 2 && drawing.draw(layout, now);
    // Where beams land is found while a picture is drawn.
    if (drew && this.labels.landings) for (const { pane } of layout) this.overStale.add(pane.id);
    if (this.overlayDirty) this.drawOverlay(layout);
    this.overStale.clear();
    if (drew ? !drawing?.owes : !drawing || drawing.idle) this.settled = this.begun;
    if (drawing && now - this.toldAt > TELL_MS) {
      this.toldAt = now;
      this.events.onStats({ ...drawing.stats(now), lit: this.litCount("live") });
    }
    return drew || this.asked !== this.settled || this.gliding || drawing?.working === true;
  }

  private drawOverlay(layout: ShownPane[]): void {
    this.placeHandles();
    this.overlay.draw(
      layout,
      this.overStale,
      {
        stands: this.stands, mounted: this.mounted, state: this.state, solids: this.solids, landings: this.landings, selected: this.selected, others: this.others, hovered: this.hovered,
        ghost: this.ghostNow, handleHot: this.handleHot, carriers: this.carriers, ...this.told, tools: Object.values(this.tools), labels: this.labels, lost: this.drawing === null || this.drawing.renderer.getContext().isContextLost(),
      },
      this.ratio,
    );
  }

  litCount(picture: string): number {
    return this.mounted.filter((one) => this.state.candela(one.id, picture).some((candela) => candela > 0.5)).length;
  }

  /** A pane's picture at a size of its own, as PNG: at once, or as a still of many samples. */
  async snapshot(paneId: string, width: number, height: number, still?: Pick<StillOptions, "onProgress" | "stopped" | "samples">): Promise<Blob> {
    const pane = this.layout().find((one) => one.pane.id === paneId) ?? this.layout()[0];
    if (!this.drawing || !pane) throw new Error("There is no picture to save: WebGL is not available here.");
    const blob = await this.drawing.picture(pane, cameraFor(pane.viewpoint, width / height), { width, height, still: still !== undefined, ...still });
    this.invalidate();
    return blob;
  }

  /** A picture by its name (a look's) from a place, with an exposure of its own, as PNG. */
  async pictureFrom(picture: string, from: { eye: Vec3; target: Vec3 }, width: number, height: number, exposed: Partial<Exposure>, { still, luminance }: { still?: Pick<StillOptions, "samples" | "stopped">; luminance?: StillOptions["luminance"] } = {}): Promise<Blob> {
    if (!this.drawing) throw new Error("There is no picture: WebGL is not available here.");
    const viewpoint = { ...homeViewpoint("free"), eye: new THREE.Vector3(...from.eye), target: new THREE.Vector3(...from.target) };
    const camera = cameraFor(viewpoint, width / height);
    const pane = { pane: { id: "", view: "free" as const, picture, share: 1, shade: "lit" as const }, viewpoint, camera, left: 0, top: 0, width, height };
    const blob = await this.drawing.picture(pane, camera, { width, height, still: still !== undefined, ...still, luminance }, exposed);
    this.invalidate();
    return blob;
  }

  /** How fast this machine shows this show at each step of quality. */
  async selfTest(onProgress: (share: number, step: StepName) => void): Promise<Forecast[]> {
    if (!this.drawing) throw new Error("There is no picture to test: WebGL is not available here.");
    const forecasts = await this.drawing.selfTest(this.layout(), onProgress);
    this.invalidate();
    return forecasts;
  }

  // For tests and for the status line

  report(): StageReport {
    return report(this);
  }

  /** The light at places as one picture has it (report.ts). */
  probe(paneId: string, places: Vec3[], step?: StepName, bounce?: boolean): Probed[] | null {
    return probe(this, paneId, places, step, bounce);
  }

  /** The light in the air of a pane (report.ts). */
  air(paneId: string, step: StepName, kind: "plain" | "gate"): Air | null {
    return air(this, paneId, step, kind);
  }

  /** Where a place of the show is on the page of the stage, CSS pixels from its top left. */
  where(paneId: string, p: Vec3): { x: number; y: number } | null {
    const pane = this.layout().find((one) => one.pane.id === paneId);
    return pane ? project(pane, new THREE.Vector3(...p)) : null;
  }

  /** Mean colour over a small square of the canvas (report.ts). */
  pixels(_: string, x: number, y: number, size = 3): number[] {
    return pixels(this, x, y, size);
  }
}
