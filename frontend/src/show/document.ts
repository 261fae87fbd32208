import { create } from "zustand";
import { isA } from "../kinds";
import { get as ask, Refused } from "./api";
import { keepSelected } from "./selection";
import type { Finding, FindingsEvent, Kind, Row, ShowDocument, Thing, Update } from "./types";

/** The open show as the server has it. */
export interface ShowState {
  loaded: boolean;
  problem: string | null;
  id: string;
  rev: number;
  objects: Record<string, Row>;
  scene: Record<string, ShowDocument["scene"][number]>;
  mounts: ShowDocument["mounts"];
  rails: ShowDocument["rails"];
  types: ShowDocument["types"];
  bodies: ShowDocument["bodies"];
  camera: ShowDocument["camera"] | null;
  /** What is said of looks that is not in them: how much each says, and what it is made of. */
  looks: ShowDocument["looks"];
  /** What the pictures of looks are made of, where there are any. */
  pictures: Record<string, string>;
  /** Changes when anything changes that is drawn. */
  stand: string;
  counts: Record<string, number>;
  findings: Finding[];
  /** The revision that the findings are of. */
  foundAt: number;
  undo: string | null;
  redo: string | null;
  savedAt: Date | null;
}

export const useShow = create<ShowState>(() => ({
  loaded: false, problem: null, id: "", rev: 0, objects: {}, scene: {}, mounts: {}, rails: {}, types: {}, bodies: [], camera: null, looks: {}, pictures: {}, stand: "", counts: {},
  findings: [], foundAt: 0, undo: null, redo: null, savedAt: null,
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

/** The open show as a place in the API's paths. */
export const at = (): { params: { path: { show: string } } } => ({ params: { path: { show: get().id } } });

/** What is wrong comes behind the edits of a large show; what is older than what is known says nothing new. */
export function hearFindings(event: FindingsEvent): void {
  if (event.rev >= get().foundAt) set({ findings: event.findings, foundAt: event.rev });
}

/** Load the open show whole. */
export async function load(): Promise<void> {
  try {
    const first = (await ask("/api/shows"))[0];
    if (!first) throw new Refused("No show is open: start the program with a show file.", null, 404);
    const document = await ask("/api/shows/{show}", { params: { path: { show: first.id }, query: { who } } });
    const objects = Object.fromEntries(document.objects.map((row) => [row.id, row as Row]));
    keepSelected((id) => id in objects);
    set({
      loaded: true, problem: null, id: document.id, rev: document.rev, objects,
      scene: Object.fromEntries(document.scene.map((solid) => [solid.id, solid])),
      mounts: document.mounts, rails: document.rails, camera: document.camera, types: document.types, bodies: document.bodies, counts: document.counts,
      looks: document.looks, pictures: document.pictures, stand: document.stand,
      findings: document.findings ?? [], foundAt: document.rev, undo: document.undo, redo: document.redo,
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
    if (after) objects[after.id] = after as Row;
    else if (before) {
      Reflect.deleteProperty(objects, before.id);
      Reflect.deleteProperty(scene, before.id);
      Reflect.deleteProperty(mounts, before.id);
    }
  }
  for (const solid of update.scene) scene[solid.id] = solid;
  Object.assign(mounts, update.mounts);
  keepSelected((id) => id in objects);
  const own = update.who === who;
  set({
    rev: update.rev, objects, scene, mounts, camera: update.camera, types: update.types ?? state.types, bodies: update.bodies ?? state.bodies, rails: update.rails ?? state.rails,
    looks: { ...state.looks, ...update.looks }, stand: update.stand, counts: update.counts, ...(update.findings && { findings: update.findings, foundAt: update.rev }), savedAt: new Date(),
    undo: own ? update.undo : state.undo, redo: own ? update.redo : state.redo,
  });
}

// Reading the document

const indexes = new WeakMap<Record<string, Row>, Map<string, Row[]>>();

/** The rows of each kind in their order: worked out once for each state of the document. */
function byKind(objects: Record<string, Row>): Map<string, Row[]> {
  let found = indexes.get(objects);
  if (!found) {
    found = new Map<string, Row[]>();
    for (const row of Object.values(objects)) {
      const of = found.get(row.kind);
      if (of) of.push(row);
      else found.set(row.kind, [row]);
    }
    for (const rows of found.values()) rows.sort((a, b) => a.ord - b.ord);
    indexes.set(objects, found);
  }
  return found;
}

export function things<K extends Kind>(objects: Record<string, Row>, kind: K): readonly Thing<K>[] {
  return (byKind(objects).get(kind) ?? []) as Thing<K>[];
}

export function thing<K extends Kind>(objects: Record<string, Row>, id: string | null | undefined, kind: K): Thing<K> | undefined {
  const row = id ? objects[id] : undefined;
  return row?.kind === kind ? (row as Thing<K>) : undefined;
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

/** Whether anything may stand elsewhere in a look than it does now: a carrier, or what a driver moves. */
export function standsElsewhere(objects: Record<string, Row>, look: Thing<"look">["body"]): boolean {
  return keptCarriers(objects, look).some((one) => !one.there) || things(objects, "fixture").some((one) => one.body.drives);
}

export type Settings = Required<Thing<"show">["body"]>;
const UNSET: Settings = {
  name: "", venue: "", system: "metric", playing: null, running: null, look_first: false, active_layer: null, follow_console: true, only_connection: null, consoles_on: null, spare_console: false, haze_per_m: 0.015, haze_uneven: 0, exposure_kind: "eye", exposure_ev: 8,
  eye_adapts: false, exposure_locked: false, iso: 800, shutter_s: 0.02, aperture: 2.8, white_k: 4500, bloom: 1, work_light_lx: 250, house_light_lx: 0,
  background_low: "#000000", background_high: "#000000", shaft_gain: 1, pool_gain: 1, body_gain: 1, laser_limit_w_m2: 25, laser_clear_m: 0.5,
};

export function settings(objects: Record<string, Row>): Settings {
  // The server always sends every setting.
  return (thing(objects, "show", "show")?.body as Settings | undefined) ?? UNSET;
}

/** What stands in a field of a thing's body, whatever kind it is of: undefined where that has no such field. */
export function valueOf(row: Row | undefined, field: string): unknown {
  return (row?.body as Record<string, unknown> | undefined)?.[field];
}

/** Where a thing is that has a place of its own. */
export function placeOf(row: Row | undefined): [number, number, number] | undefined {
  return valueOf(row, "position") as [number, number, number] | undefined;
}

/** What people call a thing. */
export function called(row: Row | undefined): string {
  if (!row) return "";
  if (row.kind === "fixture") return row.body.number == null ? "no number" : String(row.body.number);
  if (row.kind === "note") return row.body.text || row.body.verdict || "a drawn note";
  if (row.kind === "issue") return `revision ${row.body.number}`;
  return row.body.name || row.kind;
}
