import { create } from "zustand";
import type { Vec3 } from "../stage/data";
import { post } from "./api";
import { at } from "./document";
import { edit, gesture } from "./edits";
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

/** The pointer over the set while a focus is picked: the picture follows it, a click makes the gates sharp there. */
export function sharpAt(place: { point: Vec3 } | null, phase: "hover" | "click"): void {
  if (!place) return;
  const args = { ids: useSelection.getState().selection, point: place.point };
  if (phase === "hover") gesture("sharp at", args);
  else {
    usePanes.setState({ tool: "select" });
    void edit("sharp at", args).catch(() => undefined);
  }
}

/** Take such a tool in hand, or put it back. */
export function toggleTool(tool: "cut" | "sharp" | "blades"): void {
  useCutting.setState({ edge: null });
  usePanes.setState({ tool: usePanes.getState().tool === tool ? "select" : tool });
}

export function leaveShaping(): void {
  const { tool } = usePanes.getState();
  if (tool === "cut" || tool === "sharp" || tool === "blades") toggleTool(tool);
}
