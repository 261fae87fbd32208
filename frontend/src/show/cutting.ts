import { create } from "zustand";
import type { Vec3 } from "../stage/data";
import { post } from "./api";
import { at } from "./document";
import { edit } from "./edits";
import { usePanes } from "./panes";
import { useSelection } from "./selection";

/** The edge of the set that a click would cut to. */
export const useCutting = create<{ edge: [Vec3, Vec3] | null }>(() => ({ edge: null }));

let asking = false;
let next: { point: Vec3; thing: string } | null = null;

async function work(): Promise<void> {
  asking = true;
  while (next) {
    const question = next;
    next = null;
    const found = await post("/api/shows/{show}/edge", { ...at(), body: question }).catch(() => null);
    if (usePanes.getState().tool === "cut") useCutting.setState({ edge: found?.ends ?? null });
  }
  asking = false;
}

/** The pointer over the set while cutting: its nearest edge lights up, a click lays the nearest blade of each head along it. */
export function cutAt(place: { point: Vec3; thing: string } | null, phase: "hover" | "click"): void {
  if (!place) return useCutting.setState({ edge: null });
  if (phase === "click") void edit("cut to edge", { ids: useSelection.getState().selection, ...place }).catch(() => undefined);
  else {
    next = place;
    if (!asking) void work();
  }
}

export function toggleCutting(): void {
  const on = usePanes.getState().tool === "cut";
  useCutting.setState({ edge: null });
  usePanes.setState({ tool: on ? "select" : "cut" });
}
