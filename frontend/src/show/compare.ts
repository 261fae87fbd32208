import { create } from "zustand";
import type { Vec3 } from "../stage/data";
import { standsElsewhere, thing, useShow } from "./document";
import { fetchLookPicture, fetchLookStand, standing } from "./link";
import { lookName } from "./looks";
import { notify } from "./messages";
import { usePanes } from "./panes";

/** Two pictures over the stage: beside each other, wiped with a line, in turn, or what differs between them. */
export type CompareMode = "beside" | "wipe" | "blink" | "difference";
export const MODES: readonly { value: CompareMode; label: string; says: string }[] = [
  { value: "beside", label: "Beside", says: "One beside the other" },
  { value: "wipe", label: "Wipe", says: "One over the other, up to a line that is dragged" },
  { value: "blink", label: "Blink", says: "One and the other in turn" },
  { value: "difference", label: "Difference", says: "How much brighter or darker the right one is, in stops" },
];

/** A picture that was drawn to be compared. */
export interface Shot {
  url: string;
  title: string;
  width: number;
  height: number;
  /** cd/m2, rows from the top. */
  luminance: Float32Array;
}

/** What is on one side: a look, what is driven, or the picture that was kept; and from where it is seen. */
export interface Side {
  picture: string;
  /** A viewpoint; empty: from where the main pane looks. */
  from: string;
}
export const KEPT = "kept";

export const useCompare = create<{ left: Side; right: Side; kept: Shot | null; shown: { left: Shot; right: Shot } | null; mode: CompareMode; at: number; drawing: boolean }>(() => ({
  left: { picture: "live", from: "" }, right: { picture: "live", from: "" }, kept: null, shown: null, mode: "wipe", at: 0.5, drawing: false,
}));
const { getState: now, setState: set } = useCompare;

const MOST_PX = 1280;

/** The size of pictures to compare: that of the stage. */
function size(): { width: number; height: number } {
  const canvas = document.querySelector<HTMLCanvasElement>("main canvas");
  const [wide, high] = [canvas?.width || 960, canvas?.height || 540];
  const share = Math.min(1, MOST_PX / wide);
  return { width: Math.max(Math.round(wide * share), 16), height: Math.max(Math.round(high * share), 16) };
}

function placeOf(from: string): { eye: Vec3; target: Vec3; name: string } | null {
  const { stage, viewNames, panes } = usePanes.getState();
  const named = thing(useShow.getState().objects, from, "viewpoint");
  if (named) return { eye: named.body.eye as Vec3, target: named.body.target as Vec3, name: named.body.name };
  const pane = panes.find((one) => one.view === "free");
  const here = pane && stage?.viewpoint(pane.id);
  return here ? { eye: here.eye.toArray() as Vec3, target: here.target.toArray() as Vec3, name: viewNames[pane.id] ?? "" } : null;
}

/** Draw one side. All sides have the exposure that the show has now. */
async function shoot({ picture, from }: Side): Promise<Shot> {
  const { kept } = now();
  if (picture === KEPT) {
    if (!kept) throw new Error("No picture is kept yet: keep one first.");
    return kept;
  }
  const { stage, panes } = usePanes.getState();
  const { objects } = useShow.getState();
  const place = placeOf(from);
  if (!stage || !place) throw new Error("There is no free view to look from: show one in a pane.");
  const look = thing(objects, picture, "look");
  const away = look && standsElsewhere(objects, look.body);
  if (look) await fetchLookPicture(picture);
  if (away) stage.setStand(picture, standing(await fetchLookStand(picture)));
  const { width, height } = size();
  let luminance = new Float32Array();
  try {
    const blob = await stage.pictureFrom(look ? picture : "live", place, width, height, {}, { luminance: (cd) => (luminance = cd as Float32Array<ArrayBuffer>) });
    return { url: URL.createObjectURL(blob), title: [look ? `Look ${lookName(look)}` : "As driven", place.name].filter(Boolean).join(", "), width, height, luminance };
  } finally {
    if (away && !panes.some((pane) => pane.picture === picture)) stage.setStand(picture, null);
  }
}

const failed = (wrong: unknown): void => notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong");

/** Draw both sides, and lay them over the stage. */
export async function showCompared(): Promise<void> {
  if (now().drawing) return;
  set({ drawing: true });
  try {
    const left = await shoot(now().left);
    const right = await shoot(now().right);
    leaveCompared();
    set({ shown: { left, right } });
  } catch (wrong) {
    failed(wrong);
  } finally {
    set({ drawing: false });
  }
}

/** Keep what is seen now, to be compared with what it becomes. */
export async function keepBefore(): Promise<void> {
  set({ drawing: true });
  try {
    const shot = await shoot({ picture: "live", from: "" });
    const old = now().kept;
    if (old && old !== now().shown?.left && old !== now().shown?.right) URL.revokeObjectURL(old.url);
    set({ kept: { ...shot, title: `Kept at ${new Date().toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })}` }, left: { picture: KEPT, from: "" }, right: { picture: "live", from: "" } });
    notify("Kept: change something, then compare.");
  } catch (wrong) {
    failed(wrong);
  } finally {
    set({ drawing: false });
  }
}

export function leaveCompared(): void {
  const { shown, kept } = now();
  for (const shot of [shown?.left, shown?.right]) if (shot && shot !== kept) URL.revokeObjectURL(shot.url);
  set({ shown: null });
}

/** Darker than this neither is anything. */
const DARK_CD = 2e-3;
export const STOPS = 4;

/** How many stops the second is brighter than the first, pixel by pixel; NaN where both are dark. */
export function stopsBetween(left: Float32Array, right: Float32Array): Float32Array {
  return Float32Array.from(left, (a, i) => {
    const b = right[i] ?? 0;
    if (a < DARK_CD && b < DARK_CD) return NaN;
    return Math.log2(Math.max(b, DARK_CD) / Math.max(a, DARK_CD));
  });
}

/** Colours of differences: blue is darker, orange brighter, grey alike; black where both are dark. */
export function stopsColour(stops: number): [number, number, number] {
  if (Number.isNaN(stops)) return [8, 10, 12];
  const share = Math.min(Math.abs(stops) / STOPS, 1);
  const end = stops < 0 ? [58, 132, 255] : [255, 148, 40];
  return [0, 1, 2].map((i) => Math.round(74 + ((end[i] ?? 0) - 74) * share)) as [number, number, number];
}
