import { create } from "zustand";
import { oneAtATime } from "../show/again";
import { get as ask, post, sendFile } from "../show/api";
import type { components } from "../show/api.generated";
import { applyUpdate, at, useShow, who } from "../show/document";
import { edit } from "../show/edits";
import { atLength, stopJob, throughJob } from "../show/jobs";
import { notify, refused } from "../show/messages";
import { useSelection } from "../show/selection";

type Schemas = components["schemas"];
export type Compared = Schemas["SceneCompared"];
export type Choices = Required<Schemas["SceneChoices"]>;
export type Line = Schemas["SceneLine"];
export type SceneType = Schemas["SceneType"];
export type Suspicion = Schemas["SuspicionOut"];
export type Offer = Schemas["OfferOut"];
export type Listed = Schemas["ListOut"];

/** What of the show goes out. */
export interface Wish {
  only: "all" | "shown" | "selected";
  people: boolean;
}

interface ExchangeState {
  open: boolean;
  /** A file that is being read, with its job. */
  reading: { name: string; job: string | null } | null;
  key: string | null;
  compared: Compared | null;
  choices: Choices;
  wrong: string;
  /** What it came to, once it is taken in. */
  taken: { sentence: string; report: string[]; beside: Compared["beside"] } | null;
  wish: Wish;
  offer: Offer | null;
  /** A list of fixtures that is looked at before it is added. */
  list: Listed | null;
  busy: boolean;
}

const AS_IT_IS: Choices = {
  kinds: ["layers", "carriers", "structures", "scenery", "people", "focus points", "fixtures"], remove: [], leave: [], types: {}, factor: 1, over: false, shift: [0, 0, 0],
};

export const useExchange = create<ExchangeState>(() => ({
  open: false, reading: null, key: null, compared: null, choices: AS_IT_IS, wrong: "", taken: null, wish: { only: "all", people: false }, offer: null, list: null, busy: false,
}));
const { getState: get, setState: set } = useExchange;

const scene = (key: string) => ({ params: { path: { show: useShow.getState().id, key } } });
const said = (wrong: unknown): string => (wrong instanceof Error ? wrong.message : String(wrong));

export function openExchange(): void {
  set({ open: true });
  void seeOffer();
}

export function leaveExchange(): void {
  set({ open: false });
}

/** Read a file; it is compared once it has been read. Nothing of it is in the show yet. */
export async function lookAtScene(file: File): Promise<void> {
  putAway();
  set({ open: true, reading: { name: file.name, job: null }, wrong: "" });
  let key = "";
  try {
    const ended = await throughJob(
      () => sendFile("/api/shows/{show}/scenes", at().params.path, file, `?who=${encodeURIComponent(who)}`),
      (begun) => begun.job,
      (begun) => {
        key = begun.key;
        set({ reading: { name: begun.name, job: begun.job } });
      },
    );
    if (ended?.job.state === "failed") set({ reading: null, wrong: ended.job.problem });
    else if (ended?.job.state === "stopped") set({ reading: null, wrong: `${file.name} was not read to its end: nothing was changed.` });
    else {
      set({ reading: null, key, choices: AS_IT_IS });
      await compareAgain();
    }
  } catch (wrong) {
    set({ reading: null, wrong: said(wrong) });
  }
}

export function stopReading(): void {
  const job = get().reading?.job;
  if (job) void stopJob(job);
}

/** Ask anew how the file differs, as it is chosen now. */
export const compareAgain = oneAtATime(async () => {
  const { key, choices } = get();
  if (!key) return;
  try {
    const compared = await post("/api/shows/{show}/scenes/{key}", { ...scene(key), body: choices });
    // How the scene lies is judged as it came: what was odd then is still told when it has been put right.
    const before = get().compared;
    if (get().key === key) set({ compared: { ...compared, suspicions: compared.suspicions.length || !before ? compared.suspicions : before.suspicions }, wrong: "" });
  } catch (wrong) {
    if (get().key === key) set({ wrong: said(wrong) });
  }
});

export function choose(change: Partial<Choices>): void {
  set({ choices: { ...get().choices, ...change } });
  void compareAgain();
}

const without = (list: string[], one: string): string[] => list.filter((other) => other !== one);
export const toggled = (list: string[], one: string): string[] => (list.includes(one) ? without(list, one) : [...list, one]);

/** Lay the whole scene as a suspicion has it; again: as it came. */
export function layAs(one: Suspicion): void {
  const { factor, over, shift } = get().choices;
  const on = factor === one.factor && over === one.over && shift.join() === one.shift.join();
  choose(on ? { factor: 1, over: false, shift: [0, 0, 0] } : { factor: one.factor, over: one.over, shift: one.shift });
}

/** Take the file in as it is chosen. */
export async function takeScene(): Promise<void> {
  const { key, choices, compared, busy } = get();
  if (!key || !compared || busy) return;
  set({ busy: true, wrong: "" });
  try {
    const ended = await atLength("take scene", { key, ...choices }, false);
    if (ended?.job.state === "failed") set({ wrong: ended.job.problem });
    else if (ended?.result) {
      set({ taken: { sentence: ended.result.sentence, report: ended.result.report ?? [], beside: compared.beside } });
      useSelection.setState({ selection: ended.result.select ?? [] });
    }
  } catch (wrong) {
    set({ wrong: said(wrong) });
  } finally {
    set({ busy: false });
  }
}

/** Heads that came in beside a structure, onto its rails. */
export async function putOnRails(one: Compared["beside"][number]): Promise<void> {
  const { taken } = get();
  try {
    const result = await edit("put back", { ids: one.ids, structure: one.structure }, { tellsItself: true });
    notify(result.sentence);
    if (taken) set({ taken: { ...taken, beside: taken.beside.filter((other) => other.structure !== one.structure) } });
  } catch {
    // It was said.
  }
}

/** The comparison as a text to be kept. */
export async function saveReport(): Promise<void> {
  const { key, choices, compared } = get();
  if (!key || !compared) return;
  const response = await fetch(`/api/shows/${useShow.getState().id}/scenes/${key}/report`, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(choices) });
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await response.blob());
  link.download = `${compared.name.replace(/\.mvr$/i, "")} - report.txt`;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** Let go of the file. */
export function putAway(): void {
  const { key } = get();
  if (key) void post("/api/shows/{show}/scenes/{key}/forget", scene(key)).catch(() => undefined);
  set({ key: null, compared: null, choices: AS_IT_IS, wrong: "", taken: null, list: null });
}

// Out

/** The part of an address that says what goes out. */
export function queryOf(wish: Wish): string {
  const ids = wish.only === "selected" ? useSelection.getState().selection.join(",") : "";
  return `?only=${wish.only === "shown" ? "shown" : "all"}&people=${wish.people}${ids ? `&ids=${encodeURIComponent(ids)}` : ""}`;
}

export const seeOffer = oneAtATime(async () => {
  const { wish } = get();
  const ids = wish.only === "selected" ? useSelection.getState().selection.join(",") : "";
  try {
    set({ offer: await ask("/api/shows/{show}/scene", { params: { path: at().params.path, query: { only: wish.only === "shown" ? "shown" : "all", people: wish.people, ids } } }) });
  } catch (wrong) {
    set({ offer: null });
    refused(wrong, true);
  }
});

export function wishFor(change: Partial<Wish>): void {
  set({ wish: { ...get().wish, ...change } });
  void seeOffer();
}

// Lists of fixtures

/** Read a list of new fixtures and say what it holds. */
export async function lookAtList(file: File): Promise<void> {
  putAway();
  set({ open: true, wrong: "" });
  try {
    set({ list: await sendFile("/api/shows/{show}/lists", at().params.path, file) });
  } catch (wrong) {
    set({ wrong: said(wrong) });
  }
}

export async function addList(): Promise<void> {
  const { list } = get();
  if (!list) return;
  try {
    const result = await edit("add fixtures", { rows: list.rows }, { quiet: true, tellsItself: true, select: true });
    if (result.update) applyUpdate(result.update);
    set({ list: null, taken: { sentence: result.sentence, report: result.report ?? [], beside: [] } });
  } catch (wrong) {
    set({ wrong: said(wrong) });
  }
}

// The file is beside the show as it is now, whoever changes it; another step leaves the page.
useShow.subscribe((now, before) => {
  if (now.rev !== before.rev && get().open && get().key && !get().taken && !get().busy) void compareAgain();
});
useSelection.subscribe((now, before) => {
  if (now.step !== before.step) leaveExchange();
  else if (now.selection !== before.selection && get().open && get().wish.only === "selected") void seeOffer();
});
