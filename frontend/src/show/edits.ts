import { create } from "zustand";
import { get, post, sendFile } from "./api";
import { applyUpdate, at, useShow, who } from "./document";
import { notify, refused } from "./messages";
import { useSelection } from "./selection";
import type { EditArgs, EditResult, Finding, GhostOut, HistoryEntry, Point, ShowDocument, Thing, TypePreview } from "./types";

/** What an edit would come to, drawn as a ghost. */
export type ShownGhost = GhostOut & { note: string; order: string[]; numbered: boolean };
export const useGhost = create<{ ghost: ShownGhost | null }>(() => ({ ghost: null }));

interface How {
  /** Select what it made. */
  select?: boolean;
  /** A refusal is shown by whoever asked. */
  quiet?: boolean;
  /** The report is shown by whoever asked. */
  tellsItself?: boolean;
}

/** Do an edit. Its report is shown; what it made is selected where `select` says so. Throws Refused. */
export async function edit<K extends keyof EditArgs>(kind: K, args: EditArgs[K], how: How = {}): Promise<EditResult> {
  let result: EditResult;
  const selected = useSelection.getState().selection.join();
  try {
    await gestureAsked();
    result = await post("/api/shows/{show}/edits", { ...at(), body: { kind, args, who, base_rev: useShow.getState().rev } });
  } catch (wrong) {
    endGesture();
    throw refused(wrong, how.quiet);
  }
  if (result.update) applyUpdate(result.update);
  endGesture();
  // Whoever has selected something else meanwhile keeps that.
  if (how.select && useSelection.getState().selection.join() === selected) useSelection.setState({ selection: result.select ?? [] });
  if (!how.tellsItself) for (const line of result.report ?? []) notify(line, "attention");
  return result;
}

/** Do the edit that puts something right. */
export function repair(how: NonNullable<Finding["repair"]>): void {
  void edit(how.kind as keyof EditArgs, how.args as EditArgs[keyof EditArgs]).catch(() => undefined);
}

/** What an edit would come to, as it is answered; nothing is stored or drawn. Throws Refused. */
export function seen<K extends keyof EditArgs>(kind: K, args: EditArgs[K]): Promise<EditResult> {
  return post("/api/shows/{show}/edits", { ...at(), body: { kind, args, who, preview: true } });
}

let previews = 0;

/** A ghost is asked for: those that were asked for before are shown no more. */
export const beginGhost = (): number => ++previews;

/** Show what was asked for, unless another has been since. */
export function showGhost(mine: number, result: EditResult, note: string, numbered = false): boolean {
  if (mine !== previews) return false;
  useGhost.setState({ ghost: result.ghost ? { ...result.ghost, note, order: result.select ?? [], numbered } : null });
  return true;
}

/** What an edit would come to, as a ghost on the stage. The latest asked wins: null for the others. Throws Refused. */
export async function preview<K extends keyof EditArgs>(kind: K, args: EditArgs[K], note: string | ((result: EditResult) => string) = "", numbered = false): Promise<EditResult | null> {
  const mine = beginGhost();
  try {
    const result = await seen(kind, args);
    return showGhost(mine, result, typeof note === "string" ? note : note(result), numbered) ? result : null;
  } catch (wrong) {
    if (mine === previews) useGhost.setState({ ghost: null });
    throw refused(wrong, true);
  }
}

/** What is dragged just now in place of what the document has: settings of the show, and how they expose. */
export const useGesture = create<{ show: Thing<"show">["body"] | null; camera: ShowDocument["camera"] | null }>(() => ({ show: null, camera: null }));

let shownByGesture = false;
let next: (() => Promise<void>) | null = null;
let asking: Promise<void> | null = null;

/** Let the picture show an edit while a slider or handle is dragged: nothing is stored. One is on its way at a time, and
 * the latest is what comes next. The edit that ends it takes its place. */
export function gesture<K extends keyof EditArgs>(kind: K, args: EditArgs[K]): void {
  next = async () => {
    const { ghost } = await post("/api/shows/{show}/edits", { ...at(), body: { kind, args, who, preview: true, live: true } });
    const row = ghost?.objects.find((one) => one.kind === "show") as Thing<"show"> | undefined;
    if (row && ghost) useGesture.setState({ show: row.body, camera: ghost.camera });
    // What stands elsewhere meanwhile: a person who walks, a focus point with its mark.
    if (ghost && (ghost.scene.length || ghost.objects.some((one) => one.kind === "focus point"))) {
      shownByGesture = true;
      useGhost.setState({ ghost: { ...ghost, note: "", order: [], numbered: false } });
    }
  };
  if (!asking) void work();
}

async function work(): Promise<void> {
  while (next) {
    const now = next;
    next = null;
    asking = now().catch(() => undefined);
    await asking;
  }
  asking = null;
}

/** No more of the gesture is asked, and what was asked has come: its edit must not be overtaken by it. */
async function gestureAsked(): Promise<void> {
  next = null;
  await asking;
}

/** The gesture is over: its edit has been made or refused. */
function endGesture(): void {
  useGesture.setState({ show: null, camera: null });
  if (shownByGesture) useGhost.setState({ ghost: null });
  shownByGesture = false;
}

export function leaveGhost(): void {
  previews += 1;
  useGhost.setState({ ghost: null });
}

export const getHistory = (): Promise<HistoryEntry[]> => get("/api/shows/{show}/history", at());
export const getPoints = (): Promise<Point[]> => get("/api/shows/{show}/points", at());

export async function namePoint(name: string): Promise<Point[]> {
  try {
    return await post("/api/shows/{show}/points", { ...at(), body: { name } });
  } catch (wrong) {
    throw refused(wrong);
  }
}

/** Do what changes the show by its history, and say what it was. */
async function told(asked: Promise<EditResult>): Promise<void> {
  try {
    const result = await asked;
    if (result.update) applyUpdate(result.update);
    notify(result.sentence);
  } catch (wrong) {
    refused(wrong);
  }
}

/** Bring the show back to a restore point, or to how it was after an entry of the history. */
export const goBack = (to: { point: number } | { seq: number }): Promise<void> => told(post("/api/shows/{show}/back", { ...at(), body: { who, ...to } }));
export const undo = (): Promise<void> => told(post("/api/shows/{show}/undo", { ...at(), body: { who } }));
export const redo = (): Promise<void> => told(post("/api/shows/{show}/redo", { ...at(), body: { who } }));

/** Read a GDTF file: described first, added when `add` says so. Throws Refused. */
export async function takeType(file: File, add: boolean): Promise<TypePreview> {
  try {
    return await sendFile("/api/shows/{show}/types", { show: useShow.getState().id }, file, `?who=${encodeURIComponent(who)}&preview=${!add}`);
  } catch (wrong) {
    throw refused(wrong);
  }
}
