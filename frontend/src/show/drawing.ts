import { create } from "zustand";
import { kindsThatAre } from "../kinds";
import type { DrawPhase, DrawPlane, DrawPoint } from "../stage/data";
import { bulgeThrough, type Corner, curveThrough, type Plan, sampledLines, snap, type SnapTo } from "../stage/tools/draw";
import { get as ask } from "./api";
import { settings, useShow } from "./document";
import { setView, usePanes } from "./panes";
import type { Bodies, Row } from "./types";

/** An outline in hand: its corners, where the next would be, and what that was snapped to. */
interface DrawingState {
  on: boolean;
  /** What a click adds: a corner, a place of a smooth curve, a corner or the middle of a whole shape. */
  shape: Shape;
  /** Whether it is drawn on the floor or upright, and once begun, in which plane. */
  upright: boolean;
  plane: DrawPlane;
  /** The next click says where the last line passes through. */
  bending: boolean;
  corners: Corner[];
  closed: boolean;
  next: Plan | null;
  why: string;
  /** The thing whose outline is drawn anew; null: a new one. */
  editing: string | null;
  /** The corner that is being dragged. */
  held: number | null;
  /** What Enter does with it: closes it, or takes it; null: it is not drawn by hand. */
  finish: (() => void) | null;
}

export type Shape = "lines" | "curve" | "rectangle" | "circle";
const NONE = { shape: "lines" as Shape, upright: false, plane: "plan" as DrawPlane, bending: false };

export const useDrawing = create<DrawingState>(() => ({ on: false, ...NONE, corners: [], closed: false, next: null, why: "", editing: null, held: null, finish: null }));
const { getState: get, setState: set } = useDrawing;

/** Lines of the base drawings that are shown, and what each was read for. */
export const useUnderlay = create<{ read: Record<string, { rev: number; lines: number[][] }> }>(() => ({ read: {} }));

/** Read the lines of base drawings that are new or have changed. */
export async function readUnderlay(drawings: readonly { id: string; rev: number; shown: boolean }[], show: string): Promise<void> {
  const { read } = useUnderlay.getState();
  const kept: typeof read = {};
  for (const { id, rev, shown } of drawings) {
    if (!shown) continue;
    const had = read[id];
    kept[id] = had && had.rev === rev ? had : { rev, lines: await ask("/api/shows/{show}/drawings/{thing}/lines", { params: { path: { show, thing: id } } }) };
  }
  useUnderlay.setState({ read: kept });
}

/** The next click in the plan is the place that is asked for. */
export function pickPlace(then: (at: Plan) => void, back: "select" | "guide" = "select"): void {
  picked = then;
  backTo = back;
  usePanes.setState({ tool: "draw" });
}
let backTo: "select" | "guide" = "select";
let picked: ((at: Plan) => void) | null = null;

/** Begin an outline on the floor, or upright in an elevation; a pane is turned to where it can be drawn. */
export function beginDrawing(upright = false): void {
  set({ on: true, ...NONE, upright, plane: upright ? "front" : "plan", corners: [], closed: false, next: null, why: "", editing: null, held: null });
  const { panes } = usePanes.getState();
  const fits = panes.some(({ view }) => (upright ? !["plan", "free"].includes(view) : view === "plan"));
  const last = panes[panes.length - 1];
  if (!fits && last) setView(last.id, upright ? "front" : "plan");
  usePanes.setState({ tool: "draw" });
}

/** Draw another shape: what was clicked so far is kept where it can be. */
export function drawShape(shape: Shape): void {
  const { corners, closed } = get();
  const whole = shape === "rectangle" || shape === "circle";
  set({ shape, bending: false, ...(whole && (closed || corners.length > 1) ? { corners: [], closed: false } : {}) });
}

/** The outline as it will be: the clicked corners, or the curve through them. */
export function outlineNow({ shape, corners, closed }: Pick<DrawingState, "shape" | "corners" | "closed">): Corner[] {
  return shape === "curve" ? curveThrough(corners, closed) : corners;
}

export const bendThroughClick = (): void => set({ bending: true });

/** In which elevation the face of a panel is seen as it is, if in any. */
function panelSeen(panel: Bodies["panel"]): DrawPlane | null {
  const turn = (((panel.turn_deg ?? 0) % 360) + 360) % 360;
  return turn === 0 ? "front" : turn === 270 ? "side" : null;
}

/** The corners in hand as an edit takes them: a panel's are about its position. */
export function cornersFor(row: Row | undefined, corners: Corner[]): Corner[] {
  if (row?.kind !== "panel") return corners;
  const panel = row.body;
  const [x, y, z] = panel.position ?? [0, 0, 0];
  return corners.map(([across, up, b]): Corner => (panelSeen(panel) === "front" ? [across - x, up - z, b] : [y - across, up - z, -b]));
}

/** The outline of a thing in plan, of a panel in the elevation that shows its face; null for things without one. */
export function outlineOf(row: Row | undefined): { corners: Corner[]; closed: boolean } | null {
  if (row?.kind === "crowd") return { corners: row.body.corners as Corner[], closed: true };
  if (row?.kind === "wall") {
    const wall = row.body;
    const [x, y] = wall.position ?? [0, 0, 0];
    return { corners: wall.corners.map(([cx, cy, b]): Corner => [cx + x, cy + y, b]), closed: wall.closed ?? false };
  }
  if (row?.kind === "panel") {
    const panel = row.body;
    const seen = panelSeen(panel);
    const [x, y, z] = panel.position ?? [0, 0, 0];
    // Across is towards stage left from the front; from stage right it is upstage, which is the panel's right hand.
    return seen && { closed: true, corners: (panel.corners as Corner[]).map(([cx, cz, b]): Corner => (seen === "front" ? [x + cx, z + cz, b] : [y - cx, z + cz, -b])) };
  }
  if (row?.kind !== "deck") return null;
  const deck = row.body;
  const [w, d] = [(deck.width_m ?? 2) / 2, (deck.depth_m ?? 1) / 2];
  const own = deck.corners?.length ? (deck.corners as Corner[]) : ([[-w, -d, 0], [w, -d, 0], [w, d, 0], [-w, d, 0]] as Corner[]);
  const turn = ((deck.turn_deg ?? 0) * Math.PI) / 180;
  const [x, y] = deck.position ?? [0, 0, 0];
  return { closed: true, corners: own.map(([cx, cy, b]): Corner => [x + cx * Math.cos(turn) - cy * Math.sin(turn), y + cx * Math.sin(turn) + cy * Math.cos(turn), b]) };
}

/** Take a thing's outline in hand: its corners can be dragged, lines cut by a click on them. */
export function editOutline(id: string): void {
  const row = useShow.getState().objects[id];
  const found = outlineOf(row);
  if (!found) return;
  const upright = row?.kind === "panel";
  set({ on: true, ...NONE, upright, plane: (row?.kind === "panel" && panelSeen(row.body)) || "plan", corners: found.corners, closed: found.closed, next: null, why: "", editing: id, held: null });
  usePanes.setState({ tool: "draw" });
}

/** A corner of the outline in hand taken out. */
export function dropCorner(at: number): void {
  const { corners, closed } = get();
  if (corners.length > (closed ? 3 : 2)) set({ corners: corners.filter((_, i) => i !== at) });
}

export function leaveDrawing(): void {
  picked = null;
  set({ on: false, ...NONE, corners: [], closed: false, next: null, why: "", editing: null, held: null });
  if (usePanes.getState().tool === "draw") usePanes.setState({ tool: "select" });
}

export const takeBack = (): void => set({ corners: get().closed ? get().corners : get().corners.slice(0, -1), closed: false });

export function closeOutline(): void {
  if (get().corners.length >= 3) set({ closed: true, next: null, why: "" });
}

/** Corners and lines of what stands, in plan. */
function standing(objects: Record<string, Row>, plane: DrawPlane): { corners: Plan[]; lines: [Plan, Plan][]; under: [Plan, Plan][] } {
  const { editing } = get();
  if (plane !== "plan") return { under: [], ...elevation(plane) };
  const outlines = Object.values(objects).flatMap((row) => (row.id === editing || row.kind === "panel" ? [] : (outlineOf(row) ?? [])));
  const under = Object.values(useUnderlay.getState().read).flatMap(({ lines }) => lines.slice(0, 2000));
  const drawn = under.flatMap((line): [Plan, Plan][] => Array.from({ length: Math.min(line.length / 2 - 1, 20) }, (_, i) => [[line[2 * i] as number, line[2 * i + 1] as number], [line[2 * i + 2] as number, line[2 * i + 3] as number]]));
  return {
    under: drawn,
    corners: outlines.flatMap((one) => one.corners.map(([x, y]): Plan => [x, y])),
    lines: outlines.flatMap((one) => sampledLines(one.corners, one.closed).flatMap((line): [Plan, Plan][] => (line.length === 2 ? [[line[0] as Plan, line[1] as Plan]] : []))),
  };
}

const OUTLINED = new Set(kindsThatAre("snapped"));

/** Corners and edges of what stands, as an elevation shows it: the slope of a raked truss, the ridge of a roof. */
function elevation(plane: DrawPlane): { corners: Plan[]; lines: [Plan, Plan][] } {
  const { stage } = usePanes.getState();
  const outlines: Plan[][] = stage?.solids.silhouettes(plane === "front" ? "x" : "y", OUTLINED) ?? [];
  return {
    corners: outlines.flat(),
    lines: outlines.flatMap((one) => one.map((corner, i): [Plan, Plan] => [corner, one[(i + 1) % one.length] as Plan])),
  };
}

/** The corner that a place means: snapped to what stands, to what is drawn but for the corner in hand, to the grid. */
function meant(point: DrawPoint): { at: Plan; why: string } {
  const { corners, held, editing } = get();
  const objects = useShow.getState().objects;
  const there = standing(objects, point.plane);
  const others = corners.filter((_, i) => i !== held);
  const [last, before] = editing ? [undefined, undefined] : [corners[corners.length - 1], corners[corners.length - 2]];
  // Of a base drawing only what is near: it may have thousands of lines.
  const near = there.under.filter(([a, b]) => Math.min(Math.hypot(a[0] - point.at[0], a[1] - point.at[1]), Math.hypot(b[0] - point.at[0], b[1] - point.at[1])) < 2);
  const to: SnapTo = {
    corners: [...near.flat(), ...there.corners, ...others.map(([x, y]): Plan => [x, y])], lines: there.lines.slice(0, 400), grid: settings(objects).system === "imperial" ? 0.1524 : 0.1,
    last: last ? [last[0], last[1]] : null, before: before ? [before[0], before[1]] : null,
  };
  return snap(point.at, point.reach, to, { locked: point.locked, free: point.free });
}

/** The pointer over the plan: a click sets a corner or cuts a line of a closed outline, a corner can be dragged. */
export function drawAt(point: DrawPoint, phase: DrawPhase): void {
  const { corners, closed, on, held, editing, upright, plane, shape, bending } = get();
  if (picked) {
    if (point.plane !== "plan") return;
    if (phase !== "click") return;
    const then = picked;
    picked = null;
    usePanes.setState({ tool: backTo });
    then(point.at);
    return;
  }
  if (!on) return;
  // An outline lies in one plane: clicks in other views do not add to it.
  if (upright ? point.plane === "plan" || (corners.length > 0 && point.plane !== plane) : point.plane !== "plan") {
    if (phase === "hover") set({ next: null, why: "" });
    return;
  }
  if (upright && !corners.length && phase === "click") set({ plane: point.plane });
  if (bending && phase === "click") {
    const at = closed ? corners.length - 1 : corners.length - 2;
    const [a, b] = [corners[at], corners[closed ? 0 : at + 1]];
    if (a && b) set({ bending: false, corners: corners.map((one, i): Corner => (i === at ? [one[0], one[1], bulgeThrough([a[0], a[1]], [b[0], b[1]], point.at)] : one)) });
    return;
  }
  const whole = closed || editing !== null;
  if (phase === "down") {
    const near = corners.findIndex(([x, y]) => Math.hypot(x - point.at[0], y - point.at[1]) <= point.reach);
    if (whole) set({ held: near < 0 ? null : near });
  } else if (phase === "drag" && held !== null) {
    const { at, why } = meant(point);
    set({ corners: corners.map((one, i): Corner => (i === held ? [round(at[0]), round(at[1]), one[2]] : one)), next: at, why });
  } else if (phase === "up") set({ held: null, next: null, why: "" });
  else if (phase === "click" && whole) cutAt(point);
  else if (phase === "hover" && !whole) set(((found) => ({ next: found.at, why: found.why }))(meant(point)));
  else if (phase === "click") {
    const { at, why } = meant(point);
    const first = corners[0];
    if (first && shape === "rectangle") {
      if (Math.abs(first[0] - at[0]) > 1e-6 && Math.abs(first[1] - at[1]) > 1e-6) {
        const [x, y] = [round(at[0]), round(at[1])];
        set({ corners: [[first[0], first[1], 0], [x, first[1], 0], [x, y, 0], [first[0], y, 0]], closed: true, next: null, why: "" });
      }
    } else if (first && shape === "circle") {
      const radius = round(Math.hypot(at[0] - first[0], at[1] - first[1]));
      if (radius > 1e-6) set({ corners: [[round(first[0] - radius), first[1], 1], [round(first[0] + radius), first[1], 1]], closed: true, next: null, why: "" });
    } else if (first && corners.length >= 3 && Math.hypot(first[0] - at[0], first[1] - at[1]) < 1e-6) closeOutline();
    else set({ corners: [...corners, [round(at[0]), round(at[1]), 0]], next: at, why });
  }
}

/** A straight line of the outline cut in two where it is clicked; a click on a corner does nothing. */
function cutAt(point: DrawPoint): void {
  const { corners, closed } = get();
  if (corners.some(([x, y]) => Math.hypot(x - point.at[0], y - point.at[1]) <= point.reach)) return;
  const count = closed ? corners.length : corners.length - 1;
  for (let i = 0; i < count; i++) {
    const [a, b] = [corners[i] as Corner, corners[(i + 1) % corners.length] as Corner];
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const share = ((point.at[0] - a[0]) * dx + (point.at[1] - a[1]) * dy) / (dx * dx + dy * dy || 1);
    const foot: Plan = [a[0] + share * dx, a[1] + share * dy];
    if (a[2] !== 0 || share <= 0 || share >= 1 || Math.hypot(foot[0] - point.at[0], foot[1] - point.at[1]) > point.reach) continue;
    set({ corners: [...corners.slice(0, i + 1), [round(foot[0]), round(foot[1]), 0], ...corners.slice(i + 1)] });
    return;
  }
}

const round = (value: number): number => Math.round(value * 1e6) / 1e6;

/** A corner by its distance and direction from the last (0 towards stage left, 90 upstage); the first by its place. */
export function drawTyped(metres: number, degrees: number): void {
  const { corners } = get();
  const [x, y] = corners[corners.length - 1] ?? [0, 0, 0];
  const angle = (degrees * Math.PI) / 180;
  set({ corners: [...corners, [round(x + metres * Math.cos(angle)), round(y + metres * Math.sin(angle)), 0]], closed: false });
}

/** The last line bent into an arc: how far its middle is pushed out, as a share of half its length (1: half a circle). */
export function bendLast(bulge: number): void {
  const { corners, closed } = get();
  const at = closed ? corners.length - 1 : corners.length - 2;
  set({ corners: corners.map((one, i): Corner => (i === at ? [one[0], one[1], bulge] : one)) });
}

export function placeFirst(x: number, y: number): void {
  set({ corners: [[round(x), round(y), 0]], closed: false });
}
