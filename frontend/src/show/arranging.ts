import { create } from "zustand";
import type { GuideShape, Vec3 } from "../stage/data";
import { placeOf, settings, thing, useShow } from "./document";
import { edit, leaveGhost, preview } from "./edits";
import { degreesOf, metresOf, shortLength } from "./format";
import { usePanes } from "./panes";
import type { EditArgs } from "./types";
import { usuals } from "./usual";

export type GuideKind = "line" | "ring" | "grid" | "rail";
type Args = EditArgs["arrange"];

/** A selection on its way onto a guide: what it will come to is shown before it is taken, and can be changed after. */
interface ArrangeState {
  on: boolean;
  ids: string[];
  args: Omit<Args, "ids"> & { guide: GuideKind };
  /** Which of them stays where an end of the line is dragged. */
  hold: "first" | "middle" | "last";
  said: string;
  report: string[];
  wrong: { field: string | null; text: string } | null;
  taken: boolean;
}

const LENGTHS = { across: "1m", back: "1m", step: "1m", margin: "0.5m" };
const START: ArrangeState["args"] = {
  guide: "line", start: [-4, 0, 6], end: [4, 0, 6], centre: [0, 0, 6], radius: "2m", end_radius: "", start_angle: "90", span: "360", columns: "3", turn: "0", ...LENGTHS,
  structure: "", rail: "lower right", rail_from: "", rail_to: "", spacing: "fill", ends: "on", step_from: "start", order: "number", reverse: false, heights: "keep",
  facing: "keep", fan_from: "-25", fan_to: "25", at: null,
};

export const useArrange = create<ArrangeState>(() => ({ on: false, ids: [], args: START, hold: "first", said: "", report: [], wrong: null, taken: false }));
const { getState: get, setState: set } = useArrange;

/** Where things are that can be arranged, by their clamps or their own places. */
function placesOf(ids: readonly string[]): Vec3[] {
  const { mounts, objects } = useShow.getState();
  const { stage } = usePanes.getState();
  return ids.flatMap((id): Vec3[] => {
    const place = mounts[id]?.position ?? placeOf(objects[id]);
    if (place) return [place];
    const bounds = stage?.solids.bounds(id);
    return bounds ? [[(bounds.min.x + bounds.max.x) / 2, (bounds.min.y + bounds.max.y) / 2, bounds.min.z]] : [];
  });
}

const round = (value: number): number => Math.round(value * 1000) / 1000;

const radiusText = (metres: number): string => {
  const { system } = settings(useShow.getState().objects);
  return shortLength(metres, system) + (system === "metric" ? "m" : "");
};

/** Begin: the line goes from the one end of the selection to the other, the ring about its middle, the rail is the one that it hangs on. */
export function beginArrange(ids: string[]): void {
  const places = placesOf(ids);
  const { objects } = useShow.getState();
  const [first] = places;
  if (!first) return;
  const axis = [0, 1].map((k) => Math.max(...places.map((one) => one[k] as number)) - Math.min(...places.map((one) => one[k] as number)));
  const k = (axis[0] ?? 0) >= (axis[1] ?? 0) ? 0 : 1;
  const sorted = [...places].sort((a, b) => (a[k] as number) - (b[k] as number));
  const [start, end] = [sorted[0] ?? first, sorted.at(-1) ?? first];
  const middle = [0, 1, 2].map((i) => round(places.reduce((sum, one) => sum + (one[i] as number), 0) / places.length)) as Vec3;
  const apart = Math.hypot(end[0] - start[0], end[1] - start[1]);
  const far: Vec3 = apart > 0.1 ? end : [start[0] + Math.max(ids.length - 1, 1), start[1], start[2]];
  const hang = thing(objects, ids[0], "fixture")?.body.hang;
  // All on one rail are on their way along it; all else begins with a line.
  const hangs = ids.map((id) => thing(objects, id, "fixture")?.body.hang);
  const together = hangs.every((one) => one && one.structure === hang?.structure && one.rail === hang.rail);
  const radius = Math.max(...places.map((one) => Math.hypot(one[0] - middle[0], one[1] - middle[1])), 1);
  set({
    on: true, ids, said: "", report: [], wrong: null, taken: false,
    // It begins anew: what was reversed, faced or spaced last time is not silently still on.
    args: { ...START, ...usuals(LENGTHS, settings(objects).system), guide: together ? "rail" : "line", start: start.map(round) as Vec3, end: far.map(round) as Vec3, centre: middle, radius: radiusText(radius), structure: hang?.structure ?? "", rail: hang?.rail ?? START.rail },
    hold: "first",
  });
  usePanes.setState({ tool: "guide" });
  look();
}

export function leaveArrange(): void {
  if (!get().on) return;
  set({ on: false, ids: [], said: "", report: [], wrong: null, taken: false });
  leaveGhost();
  if (usePanes.getState().tool === "guide") usePanes.setState({ tool: "select" });
}

/** Change what is asked for; the ghosts follow. */
export function setArrange(part: Partial<ArrangeState["args"]>): void {
  set({ args: { ...get().args, ...part }, taken: false });
  look();
}

export const setHold = (hold: ArrangeState["hold"]): void => set({ hold });

function look(): void {
  const { on, ids, args } = get();
  if (!on) return;
  void preview("arrange", { ids, ...args }, (result) => result.sentence.replace(/^Arrange .*? (?:on|along) /, ""), true).then(
    (result) => result && set({ said: result.sentence, report: result.report ?? [], wrong: null }),
    (error: unknown) => set({ wrong: { field: (error as { field?: string | null }).field ?? null, text: error instanceof Error ? error.message : String(error) }, said: "" }),
  );
}

/** Take it. The guide stays, so that count, step or ends can still be changed. */
export function takeArrange(): void {
  const { ids, args } = get();
  void edit("arrange", { ids, ...args }, { quiet: true, select: true }).then(
    (result) => {
      // It was left meanwhile, or others are being arranged.
      if (get().ids !== ids) return;
      leaveGhost();
      set({ taken: true, wrong: null, ids: result.select ?? ids, report: result.report ?? [] });
    },
    (error: unknown) => set({ wrong: { field: null, text: error instanceof Error ? error.message : String(error) } }),
  );
}

/** The guide as it is drawn. */
export function shapeOf(args: ArrangeState["args"]): GuideShape | null {
  const { system } = settings(useShow.getState().objects);
  const metres = (text: string | undefined, otherwise: number): number => metresOf(text ?? "", system) ?? otherwise;
  const degrees = (text: string | undefined, otherwise: number): number => degreesOf(text ?? "") ?? otherwise;
  if (args.guide === "line") return { kind: "line", start: args.start as Vec3, end: args.end as Vec3 };
  if (args.guide === "grid") return { kind: "grid", centre: args.centre as Vec3 };
  if (args.guide !== "ring") return null;
  const radius = metres(args.radius, 2);
  return { kind: "ring", centre: args.centre as Vec3, radius, endRadius: metres(args.end_radius, radius), startAngle: degrees(args.start_angle, 0), span: degrees(args.span, 360) };
}

/** A handle of the guide dragged: an end with the first, the middle or the last held, the middle with all of it. */
export function dragGuide(handle: string, to: Vec3): void {
  const { args, hold } = get();
  const shift = (place: Vec3, from: Vec3): Vec3 => place.map((value, i) => round(value + (to[i] as number) - (from[i] as number))) as Vec3;
  const [start, end, centre] = [args.start as Vec3, args.end as Vec3, args.centre as Vec3];
  if (args.guide === "line") {
    const middle = start.map((value, i) => (value + (end[i] as number)) / 2) as Vec3;
    if (handle === "middle") return setArrange({ start: shift(start, middle), end: shift(end, middle) });
    const mirrored = middle.map((value, i) => round(2 * value - (to[i] as number))) as Vec3;
    if (hold === "middle") return setArrange(handle === "start" ? { start: to, end: mirrored } : { end: to, start: mirrored });
    // The held one stays, whichever end is dragged: its own end takes the line along.
    if (hold === "first" && handle === "start") return setArrange({ start: to, end: shift(end, start) });
    if (hold === "last" && handle === "end") return setArrange({ end: to, start: shift(start, end) });
    return setArrange(handle === "start" ? { start: to } : { end: to });
  }
  if (handle === "middle") return setArrange({ centre: to });
  const [dx, dy] = [to[0] - centre[0], to[1] - centre[1]];
  const degrees = Math.round((Math.atan2(dy, dx) * 180) / Math.PI);
  const radius = radiusText(Math.hypot(dx, dy));
  if (handle === "start") setArrange({ start_angle: String(degrees), radius });
  else setArrange({ span: String(((degrees - parseFloat(args.start_angle ?? "0")) % 360 + 360) % 360 || 360), end_radius: radius });
}
