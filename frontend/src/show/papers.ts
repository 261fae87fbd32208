import { useEffect } from "react";
import { create } from "zustand";
import { isA } from "../kinds";
import { get } from "./api";
import { at, things, useShow } from "./document";
import { edit } from "./edits";
import { refused } from "./messages";
import { goTo } from "./selection";
import type { DrawnSheet, DrawnView, EditArgs, Row, Thing } from "./types";

/** What of a sheet is taken: a view, or something in one; `key` is the fixture of a label. */
export interface Picked {
  sort: "view" | "label" | "dimension" | "words";
  view: string;
  key: string;
}

interface PapersState {
  view: "sheets" | "lists";
  list: string;
  sheet: string;
  picked: Picked | null;
  /** The sheets that were drawn, by id. */
  drawn: Record<string, DrawnSheet>;
  /** The sheet that is being drawn anew. */
  busy: string;
  /** Words that a click puts on the sheet; none: nothing is written. */
  writing: string | null;
  /** The first place of a dimension between two, and its view; false: none is measured, true: the first is wanted. */
  measuring: boolean | { view: string; place: [number, number, number] };
  /** How far a set has come that is being drawn for a file. */
  drawing: { done: number; of: number } | null;
}

export const usePapers = create<PapersState>(() => ({ view: "sheets", list: "instruments", sheet: "", picked: null, drawn: {}, busy: "", writing: null, measuring: false, drawing: null }));
const { getState: now, setState: set } = usePapers;

export const LISTS: readonly { value: string; label: string }[] = [
  { value: "instruments", label: "Instruments by position" }, { value: "hookup", label: "Channel hookup" }, { value: "addresses", label: "Addresses by universe" },
  { value: "colours", label: "Colours and gobos" }, { value: "circuits", label: "Circuits and dimmers" }, { value: "power", label: "Power and phases" }, { value: "weights", label: "Weights" },
  { value: "focus", label: "Focus chart" }, { value: "cables", label: "Cables" }, { value: "looks", label: "Looks" }, { value: "notes", label: "Notes" },
  { value: "moves", label: "What moves" },
];

export type SheetLook = NonNullable<EditArgs["set view"]["look"]>;
export const LOOKS: readonly { value: SheetLook; label: string }[] = [
  { value: "plan", label: "Plan" }, { value: "below", label: "From below" }, { value: "front", label: "From the house" }, { value: "back", label: "From upstage" },
  { value: "left", label: "From stage left" }, { value: "right", label: "From stage right" }, { value: "section", label: "Section" }, { value: "square", label: "Square to it" },
];

export const PAPERS = ["A4", "A3", "A2", "A1", "A0", ...["ARCH", "ANSI"].flatMap((size) => ["A", "B", "C", "D", "E"].map((name) => `${size} ${name}`))] as const;

/** The sheet that is shown: the chosen one, else the first. */
export function sheetShown(objects: Record<string, Row>, chosen: string): Thing<"sheet"> | undefined {
  const sheets = things(objects, "sheet");
  return sheets.find((one) => one.id === chosen) ?? sheets[0];
}

export function seeSheet(sheet: string): void {
  goTo("papers");
  set({ view: "sheets", sheet, ...(sheet !== now().sheet && { picked: null, writing: null, measuring: false }) });
}

export function seeList(list: string): void {
  goTo("papers");
  set({ view: "lists", list });
}

/** Let go of what is in hand on a sheet, then of what is picked; whether there was something. */
export function leavePicked(): boolean {
  const { picked, writing, measuring } = now();
  if (writing === null && !measuring && !picked) return false;
  set(writing !== null || measuring ? { writing: null, measuring: false } : { picked: null });
  return true;
}

const waiting = new Map<string, ReturnType<typeof setTimeout>>();
const SOON_MS = 120;

async function draw(id: string): Promise<void> {
  set({ busy: id });
  try {
    const have = now().drawn[id];
    const fresh = await get("/api/shows/{show}/sheets/{thing}", { params: { path: { show: useShow.getState().id, thing: id }, query: { have: have?.drawn ?? 0 } } });
    set({ drawn: { ...now().drawn, [id]: { ...fresh, svg: fresh.svg || (have?.svg ?? "") } } });
  } catch (wrong) {
    if (useShow.getState().objects[id]) refused(wrong);
  } finally {
    if (now().busy === id) set({ busy: "" });
  }
}

/** A sheet as it is drawn; asked for again when something in the show changes. */
export function useDrawnSheet(id: string | undefined): DrawnSheet | undefined {
  const objects = useShow((state) => state.objects);
  useEffect(() => {
    if (!id) return undefined;
    clearTimeout(waiting.get(id));
    const timer = setTimeout(() => void draw(id), now().drawn[id] ? SOON_MS : 0);
    waiting.set(id, timer);
    return () => clearTimeout(timer);
  }, [id, objects]);
  return usePapers((state) => (id ? state.drawn[id] : undefined));
}

/** Another number whenever something changes that is on paper: pictures of sheets are asked for by it. */
export function paperStamp(objects: Record<string, Row>): number {
  let sum = 7;
  for (const row of Object.values(objects)) {
    if (!isA(row.kind, "printed")) continue;
    const text = JSON.stringify(row.body);
    for (let i = 0; i < text.length; i += 1) sum = (sum * 31 + text.charCodeAt(i)) | 0;
  }
  return sum >>> 0;
}

/** What of a drawn sheet is at a place of it (millimetres from its lower left): the view whose box it is in, the last one drawn first. */
export function viewAt(sheet: DrawnSheet, x: number, y: number): DrawnView | undefined {
  return [...sheet.views].reverse().find(({ box: [left, low, right, high] }) => x >= left && x <= right && y >= low && y <= high);
}

/** The place of the show that a place on paper stands for, in the middle plane of its view; a symbol nearby is meant. */
export function placeIn(view: DrawnView, x: number, y: number): [number, number, number] {
  const near = view.labels.map((one) => one.symbol).find(([sx, sy]) => Math.hypot(sx - x, sy - y) < 2.5) ?? [x, y];
  const [u, v] = [0, 1].map((k) => view.middle[k as 0 | 1] + ((near[k as 0 | 1] - view.at[k as 0 | 1]) * view.scale) / 1000) as [number, number];
  return [0, 1, 2].map((k) => view.axes[0][k as 0] * u + view.axes[1][k as 0] * v) as [number, number, number];
}

/** Where something that was dragged comes to lie: the edit that puts it there. */
export function dropped(sheet: string, picked: Picked, drawn: DrawnSheet, dx: number, dy: number): Promise<unknown> {
  const view = drawn.views.find((one) => one.key === picked.view);
  if (picked.sort === "view" && view) return edit("set view", { id: sheet, view: view.key, at: [view.at[0] + dx, view.at[1] + dy] });
  if (picked.sort === "label" && view) {
    const label = view.labels.find((one) => one.fixture === picked.key);
    if (!label) return Promise.resolve();
    const [left, low, right, high] = label.box;
    return edit("put label", { id: sheet, view: view.key, fixture: picked.key, at: [(left + right) / 2 + dx - label.symbol[0], (low + high) / 2 + dy - label.symbol[1]] });
  }
  if (picked.sort === "words") {
    const words = things(useShow.getState().objects, "sheet").find((one) => one.id === sheet)?.body.words?.find((one) => one.key === picked.key);
    if (words) return edit("write on sheet", { id: sheet, words: words.key, at: [words.at[0] + dx, words.at[1] + dy] });
  }
  return Promise.resolve();
}

/** Take what is picked off the sheet; a label goes back to where there is room. */
export function removePicked(): void {
  const { picked } = now();
  const sheet = sheetShown(useShow.getState().objects, now().sheet);
  if (!picked || !sheet) return;
  const id = sheet.id;
  const gone = {
    view: () => edit("remove view", { id, view: picked.view }),
    label: () => edit("put label", { id, view: picked.view, fixture: picked.key, at: null }),
    dimension: () => edit("set dimension", { id, view: picked.view, dimension: picked.key, gone: true }),
    words: () => edit("write on sheet", { id, words: picked.key, text: "" }),
  };
  void gone[picked.sort]().then(() => set({ picked: null }), () => undefined);
}

/** Move what is picked by millimetres of paper. */
export function nudgePicked(dx: number, dy: number): void {
  const { picked, drawn } = now();
  const sheet = sheetShown(useShow.getState().objects, now().sheet);
  const picture = sheet && drawn[sheet.id];
  if (sheet && picture && picked) void dropped(sheet.id, picked, picture, dx, dy).catch(() => undefined);
}

let stopped = false;

/** Draw all sheets, one after another, so that the file of the set is there at once; whether nobody stopped it. */
export async function drawSet(): Promise<boolean> {
  const sheets = things(useShow.getState().objects, "sheet");
  stopped = false;
  for (const [done, sheet] of sheets.entries()) {
    set({ drawing: { done, of: sheets.length } });
    await draw(sheet.id);
    if (stopped) break;
  }
  set({ drawing: null });
  return !stopped;
}

export function stopSet(): void {
  stopped = true;
}

/** Where a schedule, asked for again when something changes, is. */
export const listPath = (name: string): { params: { path: { show: string; name: string } } } => ({ params: { path: { ...at().params.path, name } } });
