import { create } from "zustand";
import type { Pane, Shade, Stats, Tool, ViewName, Walls } from "../stage/data";
import type { Stage } from "../stage/Stage";

/** The panes of this browser, the tool in hand, and the stage itself for who must ask it something. */
interface PaneState {
  panes: Pane[];
  active: string;
  tool: Tool;
  stage: Stage | null;
  pointer: { point: [number, number, number] | null; normal: [number, number, number] | null; away: number | null; id: string | null };
  stats: Stats;
  lost: boolean;
  benchShown: boolean;
  /** CSS pixels. */
  benchHeight: number;
  viewNames: Record<string, string>;
}

/** The panes to begin with: those of a window of its own are in its address. */
function firstPanes(): Pane[] {
  const asked = new URLSearchParams(location.search);
  const view = asked.get("pane") as ViewName | null;
  if (view) return [{ id: "main", view, picture: asked.get("picture") ?? "live", share: 1, shade: (asked.get("shade") as Shade | null) ?? "lit" }];
  return [
    { id: "main", view: "free", picture: "live", share: 1.42, shade: "lit" },
    { id: "side", view: "plan", picture: "live", share: 1, shade: "lines" },
  ];
}

export const usePanes = create<PaneState>(() => ({
  panes: firstPanes(),
  active: "main",
  tool: "select",
  stage: null,
  pointer: { point: null, normal: null, away: null, id: null },
  stats: { fps: 0, jsMs: 0, lit: 0, load: 0, step: "Build", ev: 8 },
  lost: false,
  benchShown: true,
  benchHeight: 206,
  viewNames: {},
}));

const set = usePanes.setState;
const get = usePanes.getState;

/** Another view in a pane; the free view starts lit, drawn ones as lines. */
export function setView(pane: string, view: ViewName): void {
  const shade = view === "free" ? "lit" : "lines";
  set({ panes: get().panes.map((one) => (one.id === pane ? { ...one, view, shade } : one)), viewNames: { ...get().viewNames, [pane]: "" } });
}

/** Lit by the show, plainly shaded, or as lines. */
export function setShade(pane: string, shade: Shade): void {
  set({ panes: get().panes.map((one) => (one.id === pane ? { ...one, shade } : one)) });
}

/** Labels and numbers in a pane, or none. */
export function toggleLabels(pane: string): void {
  set({ panes: get().panes.map((one) => (one.id === pane ? { ...one, labels: one.labels === false } : one)) });
}

const WALLS: readonly Walls[] = ["rooms", "front", "whole"];
/** What each says of a pane. */
export const WALLS_SAID: Record<Walls, string> = {
  rooms: "Rooms are looked into from outside: their near walls are left out",
  front: "Walls, flats and cloths between you and the work are left out",
  whole: "All walls are there",
};

/** What is left out of a pane because it stands in the way: the next of the three ways. Gives what that is. */
export function nextWalls(pane: string): Walls {
  const now = get().panes.find((one) => one.id === pane)?.walls ?? "rooms";
  const next = WALLS[(WALLS.indexOf(now) + 1) % WALLS.length] as Walls;
  set({ panes: get().panes.map((one) => (one.id === pane ? { ...one, walls: next } : one)) });
  return next;
}

/** Move the edge after a pane to a share (0..1) of what it and the next have between them. */
export function moveEdge(pane: string, share: number): void {
  const { panes } = get();
  const i = panes.findIndex((one) => one.id === pane);
  const [left, right] = [panes[i], panes[i + 1]];
  if (!left || !right) return;
  const both = left.share + right.share;
  const part = Math.min(Math.max(share, LEAST_SHARE), 1 - LEAST_SHARE) * both;
  set({ panes: panes.map((one, k) => (k === i ? { ...one, share: part } : k === i + 1 ? { ...one, share: both - part } : one)) });
}
const LEAST_SHARE = 0.2;

/** Show a pane in a window of its own, for a second screen: same show, same selection. */
export function openPaneWindow({ view, shade, picture }: Pane): void {
  const asked = new URLSearchParams(location.search);
  for (const [key, value] of Object.entries({ pane: view, shade, picture })) asked.set(key, value);
  window.open(`/?${asked.toString()}`, "_blank", "popup,width=960,height=640");
}

/** Whether two pictures are compared: then the exposure is locked. */
export function comparing(panes: Pane[]): boolean {
  return new Set(panes.filter((pane) => pane.shade === "lit").map((pane) => pane.picture)).size > 1;
}

/** Show a picture in a pane: "live", or the id of a look. */
export function setPicture(pane: string, picture: string): void {
  set({ panes: get().panes.map((one) => (one.id === pane ? { ...one, picture } : one)) });
}

/** One, two or three panes; new ones start where the eye is used to find them. */
export function setPaneCount(count: number): void {
  const order: Pane[] = [
    { id: "main", view: "free", picture: "live", share: 1.42, shade: "lit" },
    { id: "side", view: "plan", picture: "live", share: 1, shade: "lines" },
    { id: "third", view: "front", picture: "live", share: 1, shade: "lines" },
  ];
  set({ panes: order.slice(0, count).map((pane) => get().panes.find((one) => one.id === pane.id) ?? pane), active: "main" });
}

/** Look from a place in a pane, and say where that is. */
export function lookFrom(pane: string, name: string, eye: [number, number, number], target: [number, number, number]): void {
  const { stage, panes } = get();
  if (panes.find((one) => one.id === pane)?.view !== "free") setView(pane, "free");
  set({ viewNames: { ...get().viewNames, [pane]: name } });
  // The stage learns of a changed view first.
  queueMicrotask(() => stage?.lookFrom(pane, eye, target));
}

/** Two pictures beside each other from one place. */
export function compare(left: string, right: string): void {
  const { stage } = get();
  const panes: Pane[] = [
    { id: "main", view: "free", picture: left, share: 1, shade: "lit" },
    { id: "side", view: "free", picture: right, share: 1, shade: "lit" },
  ];
  const name = get().viewNames.main ?? "";
  set({ panes, viewNames: { main: name, side: name } });
  queueMicrotask(() => {
    stage?.setViewpoint("side", stage.viewpoint("main"));
    // Moving the pane forgot its name.
    set({ viewNames: { main: name, side: name } });
  });
}
