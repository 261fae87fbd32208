import { create } from "zustand";
import { oneAtATime } from "../show/again";
import { post } from "../show/api";
import type { components } from "../show/api.generated";
import { at } from "../show/document";
import { type Channel, type Draft, type Range, withRange } from "./draft";
import { changeDraft, chooseMode, startDraft, useShop } from "./state";

type Out = components["schemas"]["ReadingOut"];
/** What the server made of a text: the draft as it would be, and where each part of it was read. */
export type Read = Omit<Out, "draft"> & { draft: Draft };

interface ReadingState {
  open: boolean;
  /** Whose text it is. */
  draft: string | null;
  text: string;
  /** The channel whose table it is; null: a whole list. */
  channel: number | null;
  /** What is read takes the place of the mode that is open. */
  replacing: boolean;
  read: Read | null;
  wrong: string | null;
  /** What was changed by hand, by the words of the line and which of its ranges it is. */
  byHand: Record<string, Partial<Range>>;
  mode: number;
}

export const useReading = create<ReadingState>(() => ({ open: false, draft: null, text: "", channel: null, replacing: false, read: null, wrong: null, byHand: {}, mode: 0 }));
const { getState: get, setState: set } = useReading;

/** One range that was read: where it is in the draft, and what it is called for changes by hand. */
export interface ReadRange {
  key: string;
  c: number;
  r: number;
  range: Range;
}

/** A line of the text with what was read from it: channels that begin in it, and ranges. */
export interface ReadLine {
  number: number;
  text: string;
  begins: Channel[];
  ranges: ReadRange[];
  left: string | null;
}

/** The lines of a text, each with what one of the modes has from it. */
export function readLines(text: string, read: Read | null, mode: number, byHand: ReadingState["byHand"]): ReadLine[] {
  const lines = text.split("\n").map((line, i): ReadLine => ({ number: i + 1, text: line, begins: [], ranges: [], left: null }));
  for (const one of read?.left ?? []) {
    const line = lines[one.line - 1];
    if (line) line.left = one.why;
  }
  const place = read?.modes[mode];
  const channels = place ? (read?.draft.modes[place.mode]?.channels ?? []) : [];
  const counts: Record<string, number> = {};
  place?.lines.forEach((own, c) => {
    const channel = channels[c];
    if (!channel) return;
    own.forEach((number, r) => {
      const line = lines[number - 1];
      const range = channel.ranges[r];
      if (!line || !range) return;
      const n = (counts[line.text] = (counts[line.text] ?? 0) + 1);
      const key = `${line.text}\n${n}`;
      if (r === 0) line.begins.push(channel);
      line.ranges.push({ key, c, r, range: { ...range, ...byHand[key] } });
    });
  });
  return lines;
}

/** The draft as it is taken: as it was read, with what was changed by hand. */
export function taken(text: string, read: Read, byHand: ReadingState["byHand"]): Draft {
  let draft = read.draft;
  read.modes.forEach((place, i) => {
    for (const line of readLines(text, read, i, byHand)) {
      for (const one of line.ranges) if (byHand[one.key]) draft = withRange(draft, place.mode, one.c, one.r, one.range);
    }
  });
  return draft;
}

/** How much was read, and how much of it somebody has to look at. */
export function summary(text: string, read: Read | null, byHand: ReadingState["byHand"]): { modes: number; channels: number; doubts: number; left: number } {
  const modes = read?.modes ?? [];
  const ranges = modes.flatMap((_, i) => readLines(text, read, i, byHand).flatMap((line) => line.ranges));
  return { modes: modes.length, channels: modes.reduce((sum, one) => sum + one.lines.filter((own) => own.length).length, 0), doubts: ranges.filter((one) => one.range.doubt).length, left: read?.left.length ?? 0 };
}

/** Let the server read the text. */
export const readAgain = oneAtATime(async () => {
  const { draft, text, channel, replacing } = get();
  if (!draft || !text.trim()) {
    set({ read: null, wrong: null });
    return;
  }
  const { mode } = useShop.getState();
  try {
    const read = (await post("/api/shows/{show}/drafts/{thing}/reading", { params: { path: { ...at().params.path, thing: draft } }, body: { text, mode, channel, replacing } })) as Read;
    const now = get();
    if (now.draft === draft) set({ read, wrong: null, mode: Math.min(now.mode, Math.max(0, read.modes.length - 1)) });
  } catch (wrong) {
    set({ wrong: wrong instanceof Error ? wrong.message : String(wrong) });
  }
});

/** Open the manual's page of a draft; what was typed there before is there again. */
export function openReading(channel: number | null = null, text?: string): void {
  const draft = useShop.getState().draft;
  const same = get().draft === draft && get().channel === channel;
  set({ open: true, draft, channel, text: text ?? (same ? get().text : ""), ...(same ? {} : { read: null, byHand: {}, replacing: false, mode: 0 }), wrong: null });
  void readAgain();
}

export const closeReading = (): void => set({ open: false });

export function typeText(text: string): void {
  set({ text });
  void readAgain();
}

export function setReplacing(replacing: boolean): void {
  set({ replacing });
  void readAgain();
}

export const lookAtMode = (mode: number): void => set({ mode });

export function byHand(key: string, change: Partial<Range>): void {
  set({ byHand: { ...get().byHand, [key]: { ...get().byHand[key], doubt: "", ...change } } });
}

/** Lenses in a row, as many as the text speaks of: then its cells have something to drive. */
export async function giveCells(count: number): Promise<void> {
  const pitch = Math.min(0.1, 2 / count);
  const cells = Array.from({ length: count }, (_, i): [number, number] => [Number(((i - (count - 1) / 2) * pitch).toFixed(4)), 0]);
  if (await changeDraft(`${count} lenses in a row`, (draft) => ({ ...draft, body: { ...draft.body, cells } }))) await readAgain();
}

/** Take what was read into the draft, and look at the first mode of it. */
export async function takeReading(): Promise<void> {
  // What was chosen a moment ago is still on its way: what is taken is read so.
  await readAgain();
  const { text, read, byHand: changes, channel } = get();
  const first = read?.modes[0];
  if (!read || !first) return;
  if (!(await changeDraft(channel === null ? "Read the manual" : "Read a table of the manual", () => taken(text, read, changes)))) return;
  set({ open: false, text: "", read: null, byHand: {} });
  if (channel === null) chooseMode(first.mode);
}

/** Begin a type from a manual's text. */
export async function startFromText(kind: Draft["kind"], text: string): Promise<void> {
  if (await startDraft({ kind, empty: true })) openReading(null, text);
}

// The text belongs to its draft.
useShop.subscribe((now, before) => {
  if (now.draft !== before.draft || now.screen !== before.screen) set({ open: false });
});
