import * as THREE from "three";
import type { Ghost, Mounted, Vec3 } from "./data";
import type { Drawing } from "./drawing";
import { QUALITIES, type StepName } from "./light/quality";
import type { BeamState } from "./scene/beams";
import type { Solids } from "./scene/solids";
import type { Stands } from "./scene/stands";
import type { ArrangeTool } from "./tools/arrange";
import type { Overlay } from "./tools/overlay";
import type { SelectTool } from "./tools/select";
import type { ShownPane } from "./view/panes";
import { handlesOf } from "./tools/guide";
import { project } from "./tools/sheet";

/** What is drawn now, for tests: beams with place, direction and candela, panes, and how long frames take. */
export interface StageReport {
  frames: number;
  settled: boolean;
  step: string;
  jsMs: number;
  frameMs: number;
  drawCalls: number;
  shadowTiles: number;
  labels: number;
  /** How many labels of the show's styles are drawn. */
  styled: number;
  solids: number;
  /** Names of those whose selections are drawn. */
  others: string[];
  panes: {
    id: string;
    view: string;
    picture: string;
    shade: string;
    left: number;
    width: number;
    height: number;
    eye: Vec3;
    target: Vec3;
    beams: { id: string; lens?: Vec3; along?: Vec3; candela: Vec3 }[];
  }[];
  /** How many fixtures a ghost is of. */
  ghosts: number;
  handles: { name: string; places: ({ x: number; y: number } | null)[] }[];
}

/** What a report is made of. */
export interface Reported {
  readonly drawing: Drawing | null;
  readonly state: BeamState;
  readonly solids: Solids;
  readonly stands: Stands;
  readonly mounted: readonly Mounted[];
  readonly overlay: Overlay;
  readonly asked: number;
  readonly settled: number;
  readonly gliding: boolean;
  readonly overlayDirty: boolean;
  readonly othersShown: readonly { name: string }[];
  readonly tools: { select: SelectTool; guide: ArrangeTool };
  readonly ghostNow: Ghost | null;
  layout(): ShownPane[];
  ray(pane: ShownPane, x: number, y: number): THREE.Raycaster;
  where(pane: string, p: Vec3): { x: number; y: number } | null;
  invalidate(): void;
}

export function report(stage: Reported): StageReport {
  const layout = stage.layout();
  const { drawing } = stage;
  return {
    frames: drawing?.frames ?? 0,
    settled: stage.asked === stage.settled && !stage.gliding && !stage.overlayDirty,
    step: drawing?.drawn ?? "",
    jsMs: drawing?.jsMs() ?? 0,
    frameMs: drawing?.frameMs ?? 0,
    drawCalls: drawing?.renderer.info.render.calls ?? 0,
    shadowTiles: drawing?.light.shadows.redrawn ?? 0,
    labels: stage.overlay.count("shown"),
    styled: stage.overlay.count("styled"),
    solids: stage.solids.all().length,
    others: stage.othersShown.map((one) => one.name),
    panes: layout.map(({ pane, viewpoint, left, width, height }) => ({
      ...pane, left, width, height, eye: viewpoint.eye.toArray(), target: viewpoint.target.toArray(),
      beams: stage.stands.within(pane.picture, () =>
        stage.mounted.map(({ id }) => {
          const pose = stage.state.pose(id, pane.picture);
          return { id, lens: pose?.lens.toArray(), along: pose?.along.toArray(), candela: stage.state.candela(id, pane.picture) };
        }),
      ),
    })),
    handles: [
      ...stage.tools.select.handles.map((handle) => ({ name: handle.name, places: layout.map((pane) => handle.ends(pane)?.to ?? null) })),
      ...(stage.tools.guide.shape ? handlesOf(stage.tools.guide.shape) : []).map(({ name, at }) => ({ name: `guide ${name}`, places: layout.map((pane) => project(pane, new THREE.Vector3(...at))) })),
    ],
    ghosts: stage.ghostNow?.mounts.length ?? 0,
  };
}

/** The light of the show at a place in a pane, as the picture has it: lux on the face there, without haze, bounce, house
 * light and work light, and with the exposure divided out; with light that has bounced where asked. For photometric tests. */
export interface Probed {
  point: Vec3;
  normal: Vec3;
  lux: Vec3;
  albedo: Vec3;
  /** What is seen there, gauze before it and all, cd/m2 by colour. */
  seen: Vec3;
}

/** At several places of one picture; null where all of it cannot be seen. */
export function probe(stage: Reported, paneId: string, places: Vec3[], step: StepName = "Build", bounce = false): Probed[] | null {
  const { drawing } = stage;
  const pane = stage.layout().find((one) => one.pane.id === paneId);
  const at = places.map((p) => stage.where(paneId, p));
  if (!drawing || !pane || !at.every((one) => one !== null)) return null;
  const ratio = drawing.renderer.getPixelRatio();
  const quality = { ...QUALITIES[step], bounce };
  const shot = drawing.shotOf(pane, ratio, quality, performance.now());
  const exposure = { ...shot.exposure, hazePerM: 0, workLightLx: 0, houseLightLx: 0, poolGain: 1 };
  const pixels = at.map(({ x, y }) => [Math.floor((x - pane.left) * ratio), shot.height - 1 - Math.floor(y * ratio)] as const);
  drawing.putAside();
  const read = stage.stands.within(pane.pane.picture, () => {
    let found = drawing.light.probe({ ...shot, exposure }, pixels);
    for (let tries = 0; drawing.light.unfinished && tries < 20; tries++) found = drawing.light.probe({ ...shot, exposure }, pixels);
    return found;
  });
  return read.map((found, i) => {
    // Back from the middle of the pixel to the place that it shows.
    const [px, py] = pixels[i] as readonly [number, number];
    const x = pane.left + (px + 0.5) / ratio;
    const y = pane.top + pane.height - (py + 0.5) / ratio * (pane.height / (shot.height / ratio));
    const { ray } = stage.ray(pane, x, y);
    const forward = pane.viewpoint.target.clone().sub(pane.viewpoint.eye).normalize();
    const origin = pane.pane.view === "free" ? pane.viewpoint.eye : ray.origin.clone().addScaledVector(ray.direction, pane.camera.position.clone().sub(ray.origin).dot(forward));
    return {
      point: origin.clone().addScaledVector(ray.direction, found.away).toArray(),
      normal: found.normal as Vec3,
      lux: found.luminance.map((one, c) => (one * Math.PI) / Math.max(found.albedo[c] as number, 1e-6)) as Vec3,
      albedo: found.albedo as Vec3,
      seen: found.seen as Vec3,
    };
  });
}

/** The light in the air of a pane as the picture has it, without what the surfaces give back: for each texel luminance by
 * colour (cd/m2), the way of its ray, and how far that goes before it meets a surface. For photometric tests. */
export interface Air {
  luminance: number[];
  ways: number[];
  away: number[];
}

export function air(stage: Reported, paneId: string, step: StepName, kind: "plain" | "gate"): Air | null {
  const { drawing } = stage;
  const pane = stage.layout().find((one) => one.pane.id === paneId);
  if (!drawing || !pane) return null;
  const shot = drawing.shotOf(pane, drawing.renderer.getPixelRatio(), { ...QUALITIES[step], bounce: false }, performance.now());
  drawing.putAside();
  const read = stage.stands.within(pane.pane.picture, () => drawing.light.air({ ...shot, exposure: { ...shot.exposure, hazeUneven: 0 } }, kind));
  const ways: number[] = [];
  const ray = new THREE.Raycaster();
  for (let y = 0; y < read.height; y++) for (let x = 0; x < read.width; x++) {
    ray.setFromCamera(new THREE.Vector2(((x + 0.5) / read.width) * 2 - 1, ((y + 0.5) / read.height) * 2 - 1), pane.camera);
    ways.push(...ray.ray.direction.toArray());
  }
  return { luminance: read.luminance, ways, away: read.away };
}

/** Mean colour (0..255) over a small square of the canvas as it is shown, in CSS pixels from its top left. */
export function pixels(stage: Reported, x: number, y: number, size: number): number[] {
  if (!stage.drawing) return [0, 0, 0];
  const { renderer } = stage.drawing;
  const gl = renderer.getContext();
  renderer.setRenderTarget(null);
  const ratio = renderer.getPixelRatio();
  const data = new Uint8Array(size * size * 4);
  const down = renderer.domElement.height - y * ratio;
  gl.readPixels(Math.round(x * ratio - size / 2), Math.round(down - size / 2), size, size, gl.RGBA, gl.UNSIGNED_BYTE, data);
  return [0, 1, 2].map((c) => data.filter((_value, i) => i % 4 === c).reduce((sum, v) => sum + v, 0) / (size * size));
}
