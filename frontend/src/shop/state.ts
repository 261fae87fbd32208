import { create } from "zustand";
import { oneAtATime } from "../show/again";
import { get as ask, post, Refused, sendFile } from "../show/api";
import type { components } from "../show/api.generated";
import { applyUpdate, at, thing, useShow, who } from "../show/document";
import { edit, takeType } from "../show/edits";
import { notify } from "../show/messages";
import { useSelection } from "../show/selection";
import type { EditResult, TypePreview } from "../show/types";
import { atFull, type Draft } from "./draft";

type Schemas = components["schemas"];
export type Trial = Schemas["TrialOut"];
export type AttributeOut = Schemas["AttributeOut"];
export type LibraryEntry = Schemas["LibraryEntry"];
export type ImageOut = Schemas["ImageOut"];

interface ShopState {
  /** What is open over the work line. */
  screen: "none" | "library" | "draft";
  draft: string | null;
  mode: number;
  channel: number;
  range: number;
  /** Levels that are tried, by break; null: all at home. */
  slots: Record<string, number[]> | null;
  /** The lamp begins at full, so that it is seen. */
  lit: boolean;
  trial: Trial | null;
  problem: string | null;
  attributes: AttributeOut[];
  library: LibraryEntry[];
  favourites: string[];
  /** A GDTF file that is looked at before it is added. */
  looked: { file: File; read: TypePreview | null; wrong: string | null } | null;
}

const KEPT = "zarfwright.favourites";
function keptFavourites(): string[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "[]");
    return Array.isArray(kept) ? kept.filter((one): one is string => typeof one === "string") : [];
  } catch {
    return [];
  }
}

export const useShop = create<ShopState>(() => ({
  screen: "none", draft: null, mode: 0, channel: 0, range: 0, slots: null, lit: true, trial: null, problem: null, attributes: [], library: [], favourites: keptFavourites(),
  looked: null,
}));
const { getState: get, setState: set } = useShop;

const path = (rest: string): string => `/api/shows/${useShow.getState().id}${rest}`;
const of = (thing: string): { params: { path: { show: string; thing: string } } } => ({ params: { path: { ...at().params.path, thing } } });

/** Say what could not be done. */
async function attempt<T>(work: Promise<T>): Promise<T | null> {
  try {
    return await work;
  } catch (wrong) {
    notify(wrong instanceof Refused ? wrong.message : String(wrong), "wrong");
    return null;
  }
}

/** Read a file and say what it holds; nothing is added yet. */
export async function lookAt(file: File): Promise<void> {
  set({ looked: { file, read: null, wrong: null } });
  try {
    set({ looked: { file, read: await takeType(file, false), wrong: null } });
  } catch (wrong) {
    set({ looked: { file, read: null, wrong: wrong instanceof Error ? wrong.message : String(wrong) } });
  }
}

export async function addLooked(): Promise<void> {
  const file = get().looked?.file;
  if (!file) return;
  const added = await attempt(takeType(file, true));
  if (!added) return;
  notify(`${added.name} is in the show now.`);
  set({ looked: null });
}

export function openLibrary(dropped: File | null = null): void {
  set({ screen: "library" });
  if (dropped) void lookAt(dropped);
  if (!get().library.length) void attempt(ask("/api/library")).then((library) => library && set({ library }));
}

export function openDraft(id: string): void {
  set({ screen: "draft", draft: id, mode: 0, channel: 0, range: 0, slots: null, trial: null, problem: null });
  if (!get().attributes.length) void attempt(ask("/api/attributes")).then((attributes) => attributes && set({ attributes }));
  void tryOut();
}

export function leaveShop(): void {
  set({ screen: "none", trial: null });
}

/** Begin a draft: of a kind, or from a type of the show. */
export async function startDraft(from: { kind?: Draft["kind"]; of_type?: string; change?: boolean; empty?: boolean }): Promise<boolean> {
  const result = await attempt(edit("start draft", { kind: from.kind ?? "moving head", name: "", maker: "My own", of_type: from.of_type ?? null, change: from.change ?? false, empty: from.empty ?? false }, { quiet: true }));
  const id = result?.select?.[0];
  if (id) openDraft(id);
  return Boolean(id);
}

export function draftNow(): Draft | undefined {
  return thing(useShow.getState().objects, get().draft, "draft")?.body as Draft | undefined;
}

/** Put the open draft as `change` makes it; `what` names it in the history. */
export async function changeDraft(what: string, change: (draft: Draft) => Draft): Promise<boolean> {
  const id = get().draft;
  const before = draftNow();
  if (!id || !before) return false;
  const done = await attempt(edit("change draft", { id, draft: change(before) as never, what }, { quiet: true }));
  return done !== null;
}

/** Let the server work the draft out at the levels that are tried. */
export const tryOut = oneAtATime(async () => {
  const { draft, mode, slots } = get();
  if (!draft || !thing(useShow.getState().objects, draft, "draft")) return;
  try {
    const trial = await post("/api/shows/{show}/drafts/{thing}/trial", { ...of(draft), body: { mode, slots } });
    if (get().draft !== draft) return;
    set({ trial, problem: null });
  } catch (wrong) {
    set({ problem: wrong instanceof Error ? wrong.message : String(wrong) });
    return;
  }
  // Of what was asked for meanwhile it will be worked out once more: these may be the levels of another mode.
  if (slots === null && get().lit && get().slots === null && get().mode === get().trial?.mode) {
    set({ slots: fullNow() });
    void tryOut();
  }
});

/** A channel's raw value put on its slots, coarse first. */
export function setRaw(dmxBreak: number, slots: readonly number[], raw: number): void {
  const trial = get().trial;
  if (!trial) return;
  const levels = { ...(get().slots ?? trial.slots) };
  const own = (levels[String(dmxBreak)] ?? []).slice();
  slots.forEach((slot, i) => {
    own[slot - 1] = Math.floor(raw / 256 ** (slots.length - 1 - i)) % 256;
  });
  levels[String(dmxBreak)] = own.map((level) => level ?? 0);
  set({ slots: levels });
  void tryOut();
}

/** The levels of now, with the lamp at full. */
function fullNow(): Record<string, number[]> {
  const { trial, mode, slots } = get();
  return atFull(draftNow()?.modes[mode]?.channels ?? [], slots ?? trial?.slots ?? {});
}

/** All slots at home, or the lamp at full besides. */
export function goHome(): void {
  set({ slots: null, lit: false });
  void tryOut();
}

export function goFull(): void {
  set({ slots: fullNow(), lit: true });
  void tryOut();
}

/** All slots of the trial at once. */
export function setSlots(slots: Record<string, number[]>): void {
  set({ slots });
  void tryOut();
}

export function chooseMode(mode: number): void {
  set({ mode, channel: 0, range: 0, slots: null });
  void tryOut();
}

export const choose = (channel: number, range = 0): void => set({ channel, range });

export async function repair(check: { kind: string; mode: number | null; channel: number | null; range: number | null } | null): Promise<void> {
  const id = get().draft;
  if (!id) return;
  await attempt(edit("repair draft", check ? { id, kind: check.kind, mode: check.mode, channel: check.channel, range: check.range } : { id }, { quiet: true }));
}

export async function drawGobo(drawing: { pattern: string; count: number; weight: number; turn_deg: number; seed: number; text: string }): Promise<ImageOut | null> {
  return attempt(post("/api/shows/{show}/gobos", { ...at(), body: drawing }));
}

export async function takeImage(file: File): Promise<ImageOut | null> {
  return attempt(sendFile("/api/shows/{show}/images", at().params.path, file));
}

/** An IES file for the lens of a lamp: its light is as it was measured. */
export async function takePhotometry(file: File): Promise<void> {
  const taken = await attempt(sendFile("/api/shows/{show}/photometry", at().params.path, file));
  const lens = get().trial?.lenses[0];
  if (!taken || !lens) return;
  for (const found of taken.findings) notify(`${found.where}: ${found.what}; ${found.done}.`, "attention");
  await changeDraft("Measured light", (now) => ({ ...now, webs: { ...now.webs, [lens]: taken.asset } }));
}

export const assetPicture = (asset: string): string => path(`/assets/${asset}/picture`);
export const gdtfOf = (draft: string): string => path(`/drafts/${draft}/gdtf`);

/** What a copy, written now, would not keep of its file. */
export async function lostNow(): Promise<string[]> {
  const id = get().draft;
  if (!id || !draftNow()?.older) return [];
  return (await attempt(ask("/api/shows/{show}/drafts/{thing}/kept", of(id))))?.lost ?? [];
}

/** What finishing would change, said before it is done. */
export async function finish(previewOnly: boolean): Promise<EditResult | null> {
  const id = get().draft;
  if (!id) return null;
  const result = await attempt(post("/api/shows/{show}/drafts/{thing}/finish", { params: { ...of(id).params, query: { who, preview: previewOnly } } }));
  if (!result || previewOnly) return result;
  if (result.update) applyUpdate(result.update);
  for (const line of result.report ?? []) notify(line, "attention");
  notify(result.sentence);
  leaveShop();
  return result;
}

export async function addShipped(entry: LibraryEntry): Promise<void> {
  const result = await attempt(post("/api/shows/{show}/library/{type_id}", { params: { path: { ...at().params.path, type_id: entry.type_id }, query: { who } } }));
  if (!result) return;
  if (result.update) applyUpdate(result.update);
  notify(`${entry.name} is in the show now.`);
}

export function toggleFavourite(typeId: string): void {
  const now = get().favourites;
  const favourites = now.includes(typeId) ? now.filter((one) => one !== typeId) : [...now, typeId];
  localStorage.setItem(KEPT, JSON.stringify(favourites));
  set({ favourites });
}

// The open draft is tried out again whenever it changes, by whoever; when it is gone, the shop closes.
useSelection.subscribe((now, before) => now.step !== before.step && leaveShop());
useShow.subscribe((now, before) => {
  const { screen, draft } = get();
  if (screen !== "draft" || !draft || now.objects[draft] === before.objects[draft]) return;
  if (!now.objects[draft]) {
    leaveShop();
    return;
  }
  const body = draftNow();
  const mode = Math.min(get().mode, Math.max(0, (body?.modes.length ?? 1) - 1));
  const channel = Math.min(get().channel, Math.max(0, (body?.modes[mode]?.channels.length ?? 1) - 1));
  set({ mode, channel, range: Math.min(get().range, Math.max(0, (body?.modes[mode]?.channels[channel]?.ranges.length ?? 1) - 1)) });
  void tryOut();
});
