import { create } from "zustand";
import type { Asked, AskedPlace, Vec3 } from "../stage/data";
import { get, post } from "./api";
import { at, thing, things, useShow } from "./document";
import { edit } from "./edits";
import { looksInOrder } from "./looks";
import { notify } from "./messages";
import { usePanes } from "./panes";
import { goTo } from "./selection";
import type { LightMap, LitAnswer, SightAnswer } from "./types";

/** What the Review step shows, and what a click on the picture asks there. */
export type ReviewView = "house" | "light" | "compare" | "notes" | "book" | "share";
export type Asks = "sight" | "light" | "note";
export type People = "as they are" | "standing" | "left out";

interface ReviewState {
  view: ReviewView;
  /** What is asked of a place; empty: nothing. */
  asks: Asks | "";
  place: AskedPlace | null;
  people: People;
  /** How large what is looked at is, metres. */
  size: number;
  sight: SightAnswer | null;
  lit: LitAnswer | null;
  /** In which look light is asked for; empty: as it is driven. */
  look: string;
  /** The seat that is chosen, by its id. */
  seat: string;
  /** The area whose light is painted, and what was measured there in `look`. */
  area: string;
  map: LightMap | null;
  paints: "lux" | "cct";
  numbers: boolean;
  note: string;
}

export const useReview = create<ReviewState>(() => ({
  view: "house", asks: "", place: null, people: "as they are", size: 0.25, sight: null, lit: null, look: "", seat: "", area: "", map: null, paints: "lux", numbers: false, note: "",
}));
const { getState: now, setState: set } = useReview;

/** Take the pointer to ask about places, or let go of it. */
export function toggleAsk(asks: Asks): void {
  const on = now().asks === asks && usePanes.getState().tool === "ask";
  set({ asks: on ? "" : asks });
  usePanes.setState({ tool: on ? "select" : "ask" });
}

export function leaveAsk(): void {
  set({ asks: "" });
  if (usePanes.getState().tool === "ask") usePanes.setState({ tool: "select" });
}

/** Nothing is asked of a place any more. */
export function forgetPlace(): void {
  set({ place: null, sight: null, lit: null });
}

export function askedAt(place: AskedPlace | null): void {
  if (!place) {
    notify("There is nothing there: click a surface.", "attention");
    return;
  }
  set({ place });
  if (now().asks === "note") leaveAsk();
  else askAgain();
}

let asked = 0;

/** Ask of the place that is chosen what is to be known of it. */
export function askAgain(): void {
  const { place, asks } = now();
  if (!place) return;
  const mine = (asked += 1);
  // Of a person it is the head that is meant, not the side of it that was clicked.
  const person = useShow.getState().objects[place.thing.split("/")[0] ?? ""]?.kind === "figure";
  const answered = (part: Partial<ReviewState>) => mine === asked && set(part);
  const failed = (wrong: unknown) => notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong");
  if (asks === "light" || (!asks && now().lit)) {
    void post("/api/shows/{show}/lit", { ...at(), body: { point: place.point, normal: place.normal, look: now().look === DRIVEN ? "" : now().look } }).then((lit) => answered({ lit, sight: null }), failed);
  } else {
    void post("/api/shows/{show}/sight", { ...at(), body: { point: place.point, normal: person ? null : place.normal, size_m: now().size, people: now().people } }).then((sight) => answered({ sight, lit: null }), failed);
  }
}

/** Show what was measured on an area in a look; asked for again when either changes. */
export async function showMap(area: string, look: string): Promise<void> {
  set({ area, look });
  const measured = thing(useShow.getState().objects, area, "area")?.body.maps?.[look];
  if (!measured) return set({ map: null });
  const map = await get("/api/shows/{show}/areas/{thing}/map", { params: { path: { show: useShow.getState().id, thing: area }, query: { look } } });
  if (now().area === area && now().look === look) set({ map });
}

/** Whether what was measured is of the show as it is now. */
export function freshMap(look: string, madeOf: string): boolean {
  const { stand, looks } = useShow.getState();
  const prints = looks[look]?.prints;
  return prints === undefined ? madeOf.startsWith(`${stand} `) : madeOf === `${stand} ${prints}`;
}

/** Where on a false scale a seat is that sees so much: none, some, all; told apart by more than their hue. */
export function seenColour(seen: number | undefined, palette: { none: string; some: string; all: string; unknown: string }): string {
  if (seen === undefined) return palette.unknown;
  return seen >= 0.9 ? palette.all : seen >= 0.5 ? palette.some : palette.none;
}

/** In place of a look: as it is driven, or was when it was measured. */
export const DRIVEN = "driven";

const KELVIN: readonly [number, number] = [2000, 8000];
/** Warm to cold; for what is no white there is none. */
export function kelvinColour(kelvin: number | null): string {
  if (kelvin === null) return "#3b3f46";
  const share = Math.min(Math.max((1e6 / kelvin - 1e6 / KELVIN[1]) / (1e6 / KELVIN[0] - 1e6 / KELVIN[1]), 0), 1);
  const stops: readonly (readonly [number, number, number])[] = [[96, 142, 232], [232, 236, 240], [240, 178, 92], [196, 84, 40]];
  const place = share * (stops.length - 1);
  const [a, b] = [stops[Math.floor(place)] ?? stops[0], stops[Math.min(Math.floor(place) + 1, stops.length - 1)] ?? stops[0]] as [(typeof stops)[number], (typeof stops)[number]];
  const rest = place - Math.floor(place);
  return `rgb(${[0, 1, 2].map((i) => Math.round((a[i] as number) * (1 - rest) + (b[i] as number) * rest)).join(" ")})`;
}

/** The light of a map as the stage paints it. */
export function paintOf(map: LightMap, paints: "lux" | "cct", numbers: boolean): NonNullable<Asked["light"]> {
  const last = map.colours.length - 1;
  const most = Math.max(map.most, 1e-9);
  const lux = paints === "lux";
  return {
    points: map.points as [number, number],
    places: map.places as Vec3[],
    colours: lux ? map.lux.map((one) => map.colours[Math.round((one / most) * last)] ?? "#000") : map.cct_k.map(kelvinColour),
    texts: lux ? map.lux.map((one) => (one < 9.95 ? one.toFixed(1) : String(Math.round(one)))) : map.cct_k.map((one) => (one === null ? "" : String(Math.round(one / 10) * 10))),
    numbers,
    contours: lux ? (map.contours as { lux: number; lines: Vec3[][] }[]) : [],
  };
}

/** The open notes, those that are done after them; newest first. */
export function notesInOrder(objects: Parameters<typeof things>[0]) {
  const open = (note: { done?: boolean; verdict?: string }) => (note.done || note.verdict === "agreed" ? 1 : 0);
  return [...things(objects, "note")].sort((a, b) => open(a.body) - open(b.body) || (b.body.at ?? "").localeCompare(a.body.at ?? "") || b.ord - a.ord);
}

/** Recall the look after the one that is played, or before it. */
export async function nextLook(by: 1 | -1): Promise<void> {
  const { objects } = useShow.getState();
  const looks = looksInOrder(objects);
  const playing = thing(objects, "show", "show")?.body.playing;
  const at = looks.findIndex((one) => one.id === playing);
  const next = looks[at < 0 ? 0 : Math.min(Math.max(at + by, 0), looks.length - 1)];
  if (next && next.id !== playing) await edit("play look", { id: next.id });
}

/** Go to one of the views of Review. */
export function seeReview(view: ReviewView): void {
  goTo("review");
  set({ view });
}
