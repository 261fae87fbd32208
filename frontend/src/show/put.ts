import { create } from "zustand";
import type { PutPlace } from "../stage/data";
import { Refused } from "./api";
import { things, useShow } from "./document";
import { edit, leaveGhost, preview } from "./edits";
import { usePanes } from "./panes";
import type { EditArgs } from "./types";

/** The fixture in hand: what is put where the stage is clicked, one after another. */
interface PutState {
  on: boolean;
  type: string;
  mode: string;
  side: "under" | "upper" | "left" | "right";
  slopes: "follow" | "plumb";
  out: string;
  drop: string;
  /** The number of the next one; empty: none. */
  number: string;
  purpose: string;
  /** Why it cannot be put with what was typed. */
  wrong: { field: string | null; text: string } | null;
}

export const usePut = create<PutState>(() => ({ on: false, type: "", mode: "", side: "under", slopes: "follow", out: "0", drop: "0", number: "", purpose: "", wrong: null }));
const { getState: get, setState: set } = usePut;

/** Types that were put last, newest first: offered first. */
const RECENT = "zarfwright.recentTypes";
export const recentTypes = (): string[] => JSON.parse(localStorage.getItem(RECENT) ?? "[]") as string[];

function used(type: string): void {
  localStorage.setItem(RECENT, JSON.stringify([type, ...recentTypes().filter((one) => one !== type)].slice(0, 8)));
}

/** The number after the highest there is. */
export function nextNumber(): string {
  return String(Math.max(0, ...things(useShow.getState().objects, "fixture").map((one) => one.body.number ?? 0)) + 1);
}

/** Take a type in hand: the next clicks on the stage put one there. */
export function takeInHand(part: Partial<Omit<PutState, "on" | "wrong">>): void {
  set({ ...part, on: true, wrong: null });
  usePanes.setState({ tool: "put" });
}

export function letGo(): void {
  if (!get().on) return;
  set({ on: false, wrong: null });
  leaveGhost();
  if (usePanes.getState().tool === "put") usePanes.setState({ tool: "select" });
}

function argsAt(place: PutPlace): EditArgs["place one"] | null {
  const { type, mode, side, slopes, out, drop, number, purpose } = get();
  const common = { type, mode, number, purpose };
  if (place.rail) {
    return { ...common, structure: place.rail.structure, rail: place.rail.rail, along_m: place.rail.along, side, on_slopes: slopes, out, drop };
  }
  return place.point && place.normal ? { ...common, position: place.point, normal: place.normal } : null;
}

function refused(why: unknown): void {
  set({ wrong: { field: why instanceof Refused ? why.field : null, text: why instanceof Error ? why.message : String(why) } });
}

/** The pointer over the stage with a fixture in hand: a ghost where it would be, and a click puts it there. */
export function putAt(place: PutPlace, phase: "hover" | "click"): void {
  const args = argsAt(place);
  if (!args) {
    leaveGhost();
    return;
  }
  if (phase === "hover") {
    void preview("place one", args, (result) => result.sentence.replace(/^Place /, "")).then((seen) => seen && set({ wrong: null }), refused);
    return;
  }
  // The next click may come before this one's answer: it has the next number already.
  const { number } = get();
  const next = /^\d+$/.test(number.trim()) ? String(Number(number) + 1) : number;
  set({ number: next });
  void edit("place one", args, { select: true, quiet: true }).then(
    () => used(args.type),
    (why: unknown) => {
      refused(why);
      if (get().number === next) set({ number });
    },
  );
}
