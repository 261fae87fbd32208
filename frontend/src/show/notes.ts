import { create } from "zustand";
import type { Vec3 } from "../stage/data";
import { sendFile } from "./api";
import { thing, useShow } from "./document";
import { edit } from "./edits";
import { fetchLookPicture } from "./link";
import { notify } from "./messages";
import { lookFrom, setPicture, usePanes } from "./panes";
import { myName } from "./presence";
import { useReview } from "./review";
import type { EditArgs, Thing } from "./types";

export type StrokeKind = "free" | "arrow" | "circle";
export interface Stroke {
  kind: StrokeKind;
  places: [number, number][];
}

interface Drawn {
  /** The picture that is drawn on; empty: none is. */
  url: string;
  blob: Blob | null;
  kind: StrokeKind;
  strokes: Stroke[];
  seenFrom: [Vec3, Vec3] | null;
}

const NOTHING: Drawn = { url: "", blob: null, kind: "free", strokes: [], seenFrom: null };
/** A picture while somebody draws on it. */
export const useDrawn = create<Drawn>(() => NOTHING);

const said = (wrong: unknown): void => notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong");

/** From where the free view looks, and what it shows. */
export function viewNow(): { seenFrom: [Vec3, Vec3]; look: string | null } | null {
  const { stage, panes } = usePanes.getState();
  const pane = panes.find((one) => one.view === "free");
  const from = pane && stage?.viewpoint(pane.id);
  if (!from) return null;
  const playing = thing(useShow.getState().objects, "show", "show")?.body.playing ?? null;
  return { seenFrom: [from.eye.toArray() as Vec3, from.target.toArray() as Vec3], look: pane.picture === "live" ? playing : pane.picture };
}

/** Take the picture of now to draw on. */
export async function beginDrawn(): Promise<void> {
  const { stage, panes } = usePanes.getState();
  const now = viewNow();
  const pane = panes.find((one) => one.view === "free");
  if (!stage || !now || !pane) return notify("There is no free view to draw on: show one in a pane.", "attention");
  const canvas = document.querySelector<HTMLCanvasElement>("main canvas");
  const shown = stage.layout().find((one) => one.pane.id === pane.id);
  const width = Math.min(Math.round(((shown?.width ?? 960) / (shown?.height ?? 540)) * 720), 1280);
  const share = Math.min(1, (canvas?.height ?? 720) / 720);
  const [eye, target] = now.seenFrom;
  try {
    const blob = await stage.pictureFrom(pane.picture, { eye, target }, Math.max(Math.round(width * share), 64), Math.max(Math.round(720 * share), 36), {});
    useDrawn.setState({ ...NOTHING, url: URL.createObjectURL(blob), blob, seenFrom: now.seenFrom });
  } catch (wrong) {
    said(wrong);
  }
}

export function leaveDrawn(): void {
  if (useDrawn.getState().url) URL.revokeObjectURL(useDrawn.getState().url);
  useDrawn.setState(NOTHING);
}

type Written = Omit<EditArgs["write note"], "by" | "at">;

/** Write a note, by this person and now. */
export async function writeNote(note: Written): Promise<string> {
  const made = await edit("write note", { ...note, by: myName(), at: new Date().toISOString() });
  const id = made.select?.[0] ?? "";
  if (!note.verdict) useReview.setState({ note: id });
  return id;
}

/** Write a note with what was drawn; its picture is kept. */
export async function writeDrawn(text: string, tags: string[]): Promise<void> {
  const { blob, strokes, seenFrom } = useDrawn.getState();
  if (!blob) return;
  const { asset } = await sendFile("/api/shows/{show}/note-pictures", { show: useShow.getState().id }, new File([blob], "note.png"));
  await writeNote({ text, tags, strokes, picture: asset, seen_from: seenFrom, look: viewNow()?.look ?? null, about: viewNow()?.look ?? null });
  leaveDrawn();
}

export const answerNote = (id: string, text: string): Promise<unknown> => edit("answer note", { id, text, by: myName(), at: new Date().toISOString() });

/** Go to where a note was seen from, and to its look. */
export function goToNote(note: Thing<"note">): void {
  useReview.setState({ note: note.id });
  const { look, seen_from: from } = note.body;
  const { objects } = useShow.getState();
  if (from) lookFrom("main", "", from[0] as Vec3, from[1] as Vec3);
  if (look && objects[look]) void fetchLookPicture(look).then(() => setPicture("main", look), said);
}

/** A stroke as an SVG path, over a picture of that size. */
export function pathOf({ kind, places }: { kind?: string; places: readonly (readonly number[])[] }, width: number, height: number): string {
  const spots = places.map(([u, v]) => [(u ?? 0) * width, (v ?? 0) * height] as const);
  const [first, last] = [spots[0], spots.at(-1)];
  if (!first || !last) return "";
  if (kind === "circle") {
    const r = Math.hypot(last[0] - first[0], last[1] - first[1]);
    return `M ${first[0] - r} ${first[1]} a ${r} ${r} 0 1 0 ${2 * r} 0 a ${r} ${r} 0 1 0 ${-2 * r} 0`;
  }
  if (kind === "arrow") {
    const turn = Math.atan2(last[1] - first[1], last[0] - first[0]);
    const head = Math.min(0.3 * Math.hypot(last[0] - first[0], last[1] - first[1]), 18);
    const barb = (by: number) => `L ${last[0] - head * Math.cos(turn + by)} ${last[1] - head * Math.sin(turn + by)}`;
    return `M ${first[0]} ${first[1]} L ${last[0]} ${last[1]} ${barb(0.5)} M ${last[0]} ${last[1]} ${barb(-0.5)}`;
  }
  return spots.map(([x, y], i) => `${i ? "L" : "M"} ${x} ${y}`).join(" ");
}

/** What people say of a look: each by what they said last (core/review/notes.py). */
export function standingOf(notes: readonly Thing<"note">[], look: string): { verdict: "" | "agreed" | "not yet"; agreed: string[]; notYet: string[] } {
  const last = new Map<string, string>();
  for (const note of [...notes].sort((a, b) => (a.body.at ?? "").localeCompare(b.body.at ?? ""))) if (note.body.about === look && note.body.verdict) last.set(note.body.who ?? "", note.body.verdict);
  const who = (verdict: string) => [...last].filter(([, one]) => one === verdict).map(([name]) => name || "Somebody");
  const [agreed, notYet] = [who("agreed"), who("not yet")];
  return { verdict: notYet.length ? "not yet" : agreed.length ? "agreed" : "", agreed, notYet };
}
