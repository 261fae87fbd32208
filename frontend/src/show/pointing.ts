import { create } from "zustand";
import type { PointedAt, PointingShown, Vec3 } from "../stage/data";
import { post } from "./api";
import { at, called, placeOf, settings, thing, useShow } from "./document";
import { edit, gesture } from "./edits";
import { length } from "./format";
import { notify } from "./messages";
import { usePanes } from "./panes";
import { useSelection } from "./selection";
import type { EditArgs, PointingOut, ReachOut } from "./types";

export type Pattern = NonNullable<EditArgs["aim at"]["pattern"]>;
type Wish = Omit<EditArgs["aim at"], "ids">;

/** Heights over what is under a place that have a key each, in metres: a person's, standing. */
export const HEIGHTS = [["Floor", 0], ["Waist", 1.05], ["Face", 1.6]] as const;

interface PointingState {
  pattern: Pattern;
  /** How high over what is under the pointer. */
  above: number;
  radius: string;
  /** Where a line began that is being drawn. */
  from: Vec3 | null;
  /** What was taken last. */
  taken: { wish: Wish; foot: Vec3 | null; from: Vec3 | null } | null;
  shown: PointingShown | null;
  /** Who of what was taken cannot reach, and what would let them. */
  short: ReachOut[];
}

export const usePointing = create<PointingState>(() => ({ pattern: "point", above: 0, radius: "1m", from: null, taken: null, shown: null, short: [] }));
const { getState: get, setState: set } = usePointing;

/** Whether a pattern is drawn from one place to another. */
export const lined = (pattern: Pattern): boolean => pattern === "line" || pattern === "crossed";

export function setPattern(pattern: Pattern): void {
  set({ pattern, from: null, taken: null, shown: null, short: [] });
}

export function beginAim(): void {
  set({ from: null, taken: commonPlace(), shown: null, short: [] });
  usePanes.setState({ tool: "aim" });
  showTaken();
}

/** Others are selected: what was taken was of those before. */
export function otherHeads(): void {
  set({ short: [], taken: null, shown: null });
  if (usePanes.getState().tool !== "aim") return;
  if (useSelection.getState().selection.some((id) => thing(useShow.getState().objects, id, "fixture"))) beginAim();
  else leaveAim();
}

/** What all of the selection are aimed at already: it can be dragged on from there. */
function commonPlace(): PointingState["taken"] {
  const { objects } = useShow.getState();
  const aims = useSelection.getState().selection.map((id) => thing(objects, id, "fixture")?.body.aim);
  const first = aims[0];
  if (lined(get().pattern) || !first || aims.some((aim) => aim?.place.some((part, i) => Math.abs(part - (first.place[i] ?? 0)) > 1e-3) ?? true)) return null;
  return { wish: first.point ? { focus: first.point } : { point: first.place as Vec3 }, foot: null, from: null };
}

/** Leave the tool; whoever was aimed stays so. */
export function leaveAim(): void {
  if (get().from) return set({ from: null, shown: null });
  set({ from: null, taken: null, shown: null });
  if (usePanes.getState().tool === "aim") usePanes.setState({ tool: "select" });
}

const raised = (foot: Vec3, above: number): Vec3 => [foot[0], foot[1], foot[2] + above];

/** The place aimed at, from what is under the pointer: as high over it as asked; on a wall the place itself. */
function targetOf(place: PointedAt): { target: Vec3; foot: Vec3 | null; wish: Wish } {
  const { pattern, above, radius } = get();
  const common = { pattern, radius };
  if (place.focus) return { target: place.point, foot: place.foot, wish: { ...common, focus: place.focus } };
  // Whoever is pointed at is aimed at over where they stand.
  const person = thing(useShow.getState().objects, place.thing, "figure");
  const stands = person ? placeOf(person) : undefined;
  const upright = Math.abs(place.normal[2]) < 0.5 && !stands;
  const foot = stands ?? (upright ? place.foot : place.point);
  const target = upright ? place.point : raised(foot ?? place.point, above);
  return { target, foot: foot ?? null, wish: { ...common, point: target } };
}

function said(target: Vec3, foot: Vec3 | null, focus: string | null | undefined): string {
  const { objects } = useShow.getState();
  if (focus) return called(objects[focus]);
  return foot && target[2] - foot[2] > 0.02 ? length(target[2] - foot[2], settings(objects).system) : "";
}

const headsOf = (heads: PointingOut["heads"]): PointingShown["heads"] => {
  const { objects } = useShow.getState();
  return heads.map((one) => ({ id: one.id, lens: one.lens, at: one.at, half: one.half_field, missing: one.missing_deg, blocked: one.blocked_by, label: called(objects[one.id]) }));
};

let asked = 0;
let asking = false;
let next: (() => Promise<void>) | null = null;

/** Ask where each would look; one question is on its way at a time, and the latest is what comes next. */
function ask(wish: Wish, shown: Omit<PointingShown, "heads">): void {
  const ids = useSelection.getState().selection;
  const mine = ++asked;
  next = async () => {
    const answer = await post("/api/shows/{show}/pointing", { ...at(), body: { ids, ...wish } });
    // Whoever has left the tool meanwhile sees none of it.
    if (mine === asked && usePanes.getState().tool === "aim") set({ shown: { ...shown, heads: headsOf(answer.heads) } });
  };
  if (!asking) void work();
}

async function work(): Promise<void> {
  asking = true;
  while (next) {
    const now = next;
    next = null;
    await now().catch(() => undefined);
  }
  asking = false;
}

/** The pointer over the stage while aiming; null: over nothing. */
export function pointAt(place: PointedAt | null, phase: "hover" | "drag" | "click"): void {
  const { from, taken, shown } = get();
  if (!place) {
    // What was taken is shown again, with its plumb line.
    asked += 1;
    set({ shown: taken && shown?.taken ? shown : null });
    if (taken && !shown?.taken) showTaken();
    return;
  }
  const { target, foot, wish } = targetOf(place);
  const { pattern } = get();
  if (phase === "drag") {
    // The spot is dragged over the set: beams follow in the picture, the edit comes when it is let go.
    gesture("aim at", { ids: useSelection.getState().selection, ...wish });
    ask(wish, { target, foot, said: said(target, foot, place.focus), from: null, taken: true });
    return;
  }
  if (lined(pattern) && !from) {
    if (phase === "click") set({ from: target, taken: null, short: [] });
    else {
      asked += 1;
      set({ shown: { target, foot, said: "the line begins here", heads: [], from: null, taken: false } });
    }
    return;
  }
  const whole: Wish = lined(pattern) && from ? { pattern, radius: wish.radius, point: from, to: target } : wish;
  if (phase === "click") void take(whole, foot, from);
  else ask(whole, { target, foot, said: said(target, foot, place.focus), from, taken: false });
}

/** The place that a wish is about: of a line its end. */
function endOf(wish: Wish): Vec3 {
  return (wish.to ?? wish.point ?? placeOf(useShow.getState().objects[wish.focus ?? ""]) ?? [0, 0, 0]) as Vec3;
}

function showTaken(): void {
  const { taken } = get();
  if (!taken || usePanes.getState().tool !== "aim") return;
  const target = endOf(taken.wish);
  ask(taken.wish, { target, foot: taken.foot, said: said(target, taken.foot, taken.wish.focus), from: taken.from, taken: true });
}

/** Aim the selection; whoever cannot reach is listed with what would let them. */
export async function take(wish: Wish, foot: Vec3 | null = null, from: Vec3 | null = null): Promise<void> {
  const ids = useSelection.getState().selection;
  try {
    const done = await edit("aim at", { ids, ...wish }, { tellsItself: true });
    set({ taken: { wish, foot, from }, from: null, short: [] });
    showTaken();
    if (!done.report?.length) return;
    const short = await post("/api/shows/{show}/reach", { ...at(), body: { ids, ...wish } });
    set({ short });
    if (!short.length) for (const line of done.report) notify(line, "attention");
  } catch {
    // It has been said.
  }
}

/** The top of the plumb line is dragged to a height over the datum; null: left where it was. */
export function raise(height: number | null, phase: "move" | "end"): void {
  const { taken } = get();
  if (!taken || taken.wish.focus) return;
  const end = endOf(taken.wish);
  const to: Vec3 = [end[0], end[1], height ?? end[2]];
  const by = to[2] - end[2];
  const level = (place: Vec3 | null | undefined): Vec3 | undefined => (place ? [place[0], place[1], place[2] + by] : undefined);
  const wish: Wish = taken.wish.to ? { ...taken.wish, point: level(taken.wish.point as Vec3), to } : { ...taken.wish, point: to };
  if (phase === "move") {
    gesture("aim at", { ids: useSelection.getState().selection, ...wish });
    ask(wish, { target: to, foot: taken.foot, said: said(to, taken.foot, null), from: level(taken.from) ?? null, taken: true });
  } else if (height !== null) {
    set({ above: taken.foot ? Math.max(to[2] - taken.foot[2], 0) : get().above });
    void take(wish, taken.foot, level(taken.from) ?? null);
  }
}

/** Another height: of what was taken as well, where it stands on something. */
export function setAbove(above: number): void {
  const { taken } = get();
  set({ above });
  if (usePanes.getState().tool === "aim" && taken?.foot && !taken.wish.focus) raise(taken.foot[2] + above, "end");
}

/** The place that was taken last is named, and what was aimed there is aimed at the point of that name. */
export async function nameTaken(name: string): Promise<void> {
  const { taken } = get();
  if (!taken?.wish.point || taken.wish.to) return;
  const ids = useSelection.getState().selection;
  const made = await edit("add focus point", { name, number: "", point: taken.wish.point as Vec3, rides: null }, { quiet: true });
  const focus = made.select?.[0];
  if (!focus) return;
  await edit("aim at", { ids, focus, pattern: taken.wish.pattern, radius: taken.wish.radius }, { quiet: true, tellsItself: true });
  set({ taken: { ...taken, wish: { pattern: taken.wish.pattern, radius: taken.wish.radius, focus } } });
  showTaken();
}

/** What a fixture is aimed at, in words: a focus point by its name, else its place. */
export function aimedAt(id: string): string {
  const { objects } = useShow.getState();
  const fixture = thing(objects, id, "fixture");
  const point = fixture?.body.aim?.point;
  return point ? called(objects[point]) : fixture?.body.aim ? "a place" : "";
}
