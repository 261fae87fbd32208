import { create } from "zustand";
import type { PointedAt, Vec3 } from "../stage/data";
import { edit } from "./edits";
import { usePanes } from "./panes";

/** A way that is drawn on the stage: whose, and its places so far. */
export const usePath = create<{ of: string | null; places: Vec3[]; next: Vec3 | null }>(() => ({ of: null, places: [], next: null }));
const { getState: get, setState: set } = usePath;

/** Begin to draw where somebody walks; null: leave it. */
export function drawPath(of: string | null): void {
  set({ of, places: [], next: null });
  const { tool } = usePanes.getState();
  if (of) usePanes.setState({ tool: "path" });
  else if (tool === "path") usePanes.setState({ tool: "select" });
}

export const leavePath = (): void => drawPath(null);

export function pathAt(place: PointedAt | null, phase: "hover" | "click"): void {
  // One walks on what is level.
  const at = place && place.normal[2] > 0.5 ? place.point : null;
  if (phase === "click" && at) set({ places: [...get().places, at], next: at });
  else set({ next: at });
}

/** The way as it was clicked is where they walk. */
export function takePath(): void {
  const { of, places } = get();
  if (of && places.length > 1) void edit("set path", { id: of, path: places }).catch(() => undefined);
  drawPath(null);
}
