import { isA } from "../kinds";
import { create } from "zustand";
import { getJson, postFile, postJson, Refused } from "./api";
import type { ConsoleReport, EditArgs, EditResult, Finding, FindingsEvent, GhostOut, HistoryEntry, Kind, PatchEvent, Point, Row, ShowDocument, SignalEvent, Step, Thing, TypePreview, Update } from "./types";

/** A short message at the edge of the screen. */
export interface Notice {
  id: number;
  text: string;
  tone: "done" | "attention" | "wrong";
  at: Date;
}

export interface ShowState {
  loaded: boolean;
  problem: string | null;
  id: string;
  rev: number;
  objects: Record<string, Row>;
  scene: Record<string, ShowDocument["scene"][number]>;
  mounts: ShowDocument["mounts"];
  types: ShowDocument["types"];
  bodies: ShowDocument["bodies"];
  camera: ShowDocument["camera"] | null;
  counts: Record<string, number>;
  findings: Finding[];
  /** The revision that the findings are of. */
  foundAt: number;
  undo: string | null;
  redo: string | null;
  savedAt: Date | null;
  selection: string[];
  step: Step;
  patch: PatchEvent | null;
  signal: SignalEvent | null;
  console: ConsoleReport | null;
  connected: boolean;
  rails: ShowDocument["rails"];
  ghost: (GhostOut & { note: string; order: string[]; numbered: boolean }) | null;
  notices: Notice[];
  /** The messages of this visit, newest first: what has gone from the screen can be read again. */
  said: Notice[];
  watching: number | null;
  levels: Uint8Array | null;
}

export const useShow = create<ShowState>(() => ({
  loaded: false, problem: null, id: "", rev: 0, objects: {}, scene: {}, mounts: {}, rails: {}, types: {}, bodies: [], camera: null, counts: {},
  findings: [], foundAt: 0, undo: null, redo: null, savedAt: null, selection: [], step: "site", patch: null, signal: null, console: null,
  connected: false, ghost: null, notices: [], said: [], watching: null, levels: null,
}));

const set = useShow.setState;
const get = useShow.getState;

/** Who this browser is: the journal's name for its edits, kept across restarts. */
export const who: string = (() => {
  const kept = localStorage.getItem("zarfwright.who");
  if (kept) return kept;
  const made = `browser-${crypto.getRandomValues(new Uint32Array(1))[0]?.toString(36) ?? "0"}`;
  localStorage.setItem("zarfwright.who", made);
  return made;
})();

const SAID_KEPT = 60;
let noticeCount = 0;

export function notify(text: string, tone: Notice["tone"] = "done"): void {
  const notice = { id: ++noticeCount, text, tone, at: new Date() };
  set({ notices: [...get().notices.slice(-3), notice], said: [notice, ...get().said.slice(0, SAID_KEPT - 1)] });
}

/** What is wrong comes behind the edits of a large show; what is older than what is known says nothing new. */
export function hearFindings(event: FindingsEvent): void {
  if (event.rev >= get().foundAt) set({ findings: event.findings, foundAt: event.rev });
}

export function dismiss(id: number): void {
  set({ notices: get().notices.filter((notice) => notice.id !== id) });
}

function path(rest: string): string {
  return `/api/shows/${get().id}${rest}`;
}

/** Load the open show whole. */
export async function load(): Promise<void> {
  try {
    const shows = await getJson<{ id: string }[]>("/api/shows");
    const first = shows[0];
    if (!first) throw new Refused("No show is open: start the program with a show file.", null, 404);
    const document = await getJson<ShowDocument>(`/api/shows/${first.id}?who=${encodeURIComponent(who)}`);
    set({
      loaded: true, problem: null, id: document.id, rev: document.rev,
      objects: Object.fromEntries(document.objects.map((row) => [row.id, row])),
      scene: Object.fromEntries(document.scene.map((solid) => [solid.id, solid])),
      mounts: document.mounts, rails: document.rails, camera: document.camera, types: document.types, bodies: document.bodies, counts: document.counts,
      findings: document.findings ?? [], foundAt: document.rev, undo: document.undo, redo: document.redo,
      selection: get().selection.filter((id) => document.objects.some((row) => row.id === id)),
      console: await getJson<ConsoleReport>(`/api/shows/${first.id}/console`),
    });
  } catch (wrong) {
    set({ problem: wrong instanceof Error ? wrong.message : String(wrong) });
    throw wrong;
  }
}

/** Bring the document up to date; when something was missed, it is loaded anew. */
export function applyUpdate(update: Update): void {
  const state = get();
  if (update.rev <= state.rev) return;
  if (update.rev !== state.rev + 1) {
    void load().catch(() => undefined);
    return;
  }
  const objects = { ...state.objects };
  const scene = { ...state.scene };
  const mounts = { ...state.mounts };
  for (const { before, after } of update.changes) {
    const changed = after ?? before;
    // What is drawn in parts is drawn anew: people, materials, what lifts a structure.
    if (changed && isA(changed.kind, "parts")) {
      for (const id of Object.keys(scene)) if (id.startsWith(`${changed.id}/`)) Reflect.deleteProperty(scene, id);
    }
    if (after) objects[after.id] = after;
    else if (before) {
      Reflect.deleteProperty(objects, before.id);
      Reflect.deleteProperty(scene, before.id);
      Reflect.deleteProperty(mounts, before.id);
    }
  }
  for (const solid of update.scene) scene[solid.id] = solid;
  Object.assign(mounts, update.mounts);
  const own = update.who === who;
  set({
    rev: update.rev, objects, scene, mounts, camera: update.camera, types: update.types ?? state.types, bodies: update.bodies ?? state.bodies, rails: update.rails ?? state.rails,
    counts: update.counts, ...(update.findings && { findings: update.findings, foundAt: update.rev }), savedAt: new Date(),
    undo: own ? update.undo : state.undo, redo: own ? update.redo : state.redo,
    selection: state.selection.filter((id) => objects[id]),
  });
}

/** Say what went wrong; gives the error back for a field to show. */
function refused(wrong: unknown, quiet: boolean): Refused {
  const error = wrong instanceof Refused ? wrong : new Refused(String(wrong), null, 0);
  if (!quiet) notify(error.message, "wrong");
  return error;
}

/** Do an edit. Its report is shown; what it made is selected where `select` says so. Throws Refused. */
export async function edit<K extends keyof EditArgs>(kind: K, args: EditArgs[K], options: { select?: boolean; quiet?: boolean; tellsItself?: boolean } = {}): Promise<EditResult> {
  let result: EditResult;
  const selected = get().selection.join();
  try {
    result = await postJson<EditResult>(path("/edits"), { kind, args, who, base_rev: get().rev });
  } catch (wrong) {
    throw refused(wrong, options.quiet ?? false);
  }
  if (result.update) applyUpdate(result.update);
  // Whoever has selected something else meanwhile keeps that.
  if (options.select && get().selection.join() === selected) set({ selection: result.select ?? [] });
  // A place of its own may say the report.
  if (!options.tellsItself) for (const line of result.report ?? []) notify(line, "attention");
  return result;
}

/** What an edit would come to, as a ghost on the stage. The latest asked wins. Throws Refused. */
let previews = 0;
export async function preview<K extends keyof EditArgs>(kind: K, args: EditArgs[K], note: string | ((result: EditResult) => string) = "", numbered = false): Promise<EditResult | null> {
  const mine = ++previews;
  try {
    const result = await postJson<EditResult>(path("/edits"), { kind, args, who, preview: true });
    if (mine !== previews) return null;
    set({ ghost: result.ghost ? { ...result.ghost, note: typeof note === "string" ? note : note(result), order: result.select ?? [], numbered } : null });
    return result;
  } catch (wrong) {
    if (mine === previews) set({ ghost: null });
    throw refused(wrong, true);
  }
}

export function leaveGhost(): void {
  previews += 1;
  set({ ghost: null });
}

export const getHistory = (): Promise<HistoryEntry[]> => getJson<HistoryEntry[]>(path("/history"));
export const getPoints = (): Promise<Point[]> => getJson<Point[]>(path("/points"));

export async function namePoint(name: string): Promise<Point[]> {
  try {
    return await postJson<Point[]>(path("/points"), { name });
  } catch (wrong) {
    throw refused(wrong, false);
  }
}

/** Bring the show back to a restore point, or to how it was after an entry of the history. */
export async function goBack(to: { point: number } | { seq: number }): Promise<void> {
  try {
    const result = await postJson<EditResult>(path("/back"), { who, ...to });
    if (result.update) applyUpdate(result.update);
    notify(result.sentence);
  } catch (wrong) {
    refused(wrong, false);
  }
}

async function step(which: "undo" | "redo"): Promise<void> {
  try {
    const result = await postJson<EditResult>(path(`/${which}`), { who });
    if (result.update) applyUpdate(result.update);
    notify(result.sentence);
  } catch (wrong) {
    refused(wrong, false);
  }
}
export const undo = (): Promise<void> => step("undo");
export const redo = (): Promise<void> => step("redo");

export function select(ids: string[], add = false): void {
  const now = get().selection;
  if (!add) return set({ selection: ids });
  // Adding what is there already takes it away.
  const kept = now.filter((id) => !ids.includes(id));
  set({ selection: [...kept, ...ids.filter((id) => !now.includes(id))] });
}

export function goTo(to: Step): void {
  set({ step: to });
}

/** Press something on the simulated console. */
export async function commandConsole(command: { do: string; level?: number | null; number?: number }): Promise<void> {
  try {
    const report = await postJson<ConsoleReport>(path("/console"), command);
    // What the console tells by itself may have come first: an answer without its screen is older.
    if (report.state || !report.running || !get().console?.running) set({ console: report });
  } catch (wrong) {
    refused(wrong, false);
  }
}

/** Read a GDTF file: described first, added when `add` says so. Throws Refused. */
export async function takeType(file: File, add: boolean): Promise<TypePreview> {
  try {
    return await postFile<TypePreview>(path(`/types?who=${encodeURIComponent(who)}&preview=${!add}`), file);
  } catch (wrong) {
    throw refused(wrong, false);
  }
}

// Reading the document

export function things<K extends Kind>(objects: Record<string, Row>, kind: K): Thing<K>[] {
  return Object.values(objects)
    .filter((row) => row.kind === kind)
    .sort((a, b) => a.ord - b.ord) as unknown as Thing<K>[];
}

export function thing<K extends Kind>(objects: Record<string, Row>, id: string | null | undefined, kind: K): Thing<K> | undefined {
  const row = id ? objects[id] : undefined;
  return row?.kind === kind ? (row as unknown as Thing<K>) : undefined;
}

/** Where a look has the carriers, and whether they are there now. */
export function keptCarriers(objects: Record<string, Row>, look: Thing<"look">["body"]): { id: string; name: string; place: [number, number, number, number]; there: boolean }[] {
  return Object.entries(look.carriers ?? {}).flatMap(([id, kept]) => {
    const carrier = thing(objects, id, "carrier");
    if (!carrier) return [];
    const place = kept as [number, number, number, number];
    const now = [...(carrier.body.position ?? [0, 0, 0]), carrier.body.turn_deg ?? 0];
    return [{ id, name: carrier.body.name, place, there: place.every((value, i) => Math.abs(value - (now[i] ?? 0)) < 1e-4) }];
  });
}

export type Settings = Required<Thing<"show">["body"]>;
const UNSET: Settings = {
  name: "", venue: "", system: "metric", playing: null, active_layer: null, follow_console: true, haze_per_m: 0.015, haze_uneven: 0, exposure_kind: "eye", exposure_ev: 8,
  eye_adapts: false, exposure_locked: false, iso: 800, shutter_s: 0.02, aperture: 2.8, white_k: 4500, bloom: 1, work_light_lx: 40, house_light_lx: 0,
  background_low: "#000000", background_high: "#000000", shaft_gain: 1, pool_gain: 1, body_gain: 1,
};

export function settings(objects: Record<string, Row>): Settings {
  // The server always sends every setting.
  return (thing(objects, "show", "show")?.body as Settings | undefined) ?? UNSET;
}

/** What people call a thing. */
export function called(row: Row | undefined): string {
  if (!row) return "";
  if (row.kind === "fixture") {
    const number = (row.body as { number?: number | null }).number;
    return number == null ? "no number" : String(number);
  }
  return String((row.body as { name?: string }).name ?? row.kind);
}
