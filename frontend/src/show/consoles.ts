import { create } from "zustand";
import { get, post } from "./api";
import { hearCompared } from "./compared";
import { at, useShow, who } from "./document";
import { refused } from "./messages";
import { goTo } from "./selection";
import type { CheckReport, CheckRequest, ConsolesReport, LinkedConsole, OfferedRig } from "./types";

export type Way = "add" | "replace" | "clear";
/** What Signal's bench shows of consoles: the rig that one is offered, a simulated one, or the line check; null: none of that. */
export type View = { of: "offer"; key: string; /** What is selected, in place of what the console has. */ ours?: boolean } | { of: "simulated"; key: string } | { of: "check" };

/** Consoles that are linked, what one was offered, and the line check. `asking`: an answer is waited for. */
export const useConsoles = create<{ report: ConsolesReport | null; view: View | null; offers: Record<string, OfferedRig>; asking: string | null; check: CheckReport | null }>(() => ({ report: null, view: null, offers: {}, asking: null, check: null }));

const set = useConsoles.setState;
const of = (key: string) => ({ params: { path: { show: useShow.getState().id, key } } });

export function seeConsole(view: View | null): void {
  set({ view });
  const { report, offers } = useConsoles.getState();
  // What it was offered before this page was loaded.
  if (view?.of === "offer" && !offers[view.key] && report?.consoles.find((one) => one.key === view.key)?.offer) void readOffer(view.key);
}

export function hearConsoles(report: ConsolesReport): void {
  const { offers, view } = useConsoles.getState();
  set({ report });
  for (const one of report.consoles) {
    const known = offers[one.key];
    // What a person at the console has said meanwhile, or what another browser has asked for.
    const news = one.offer && (known?.key !== one.offer || (one.done && !known.result));
    if (news && view?.of === "offer" && view.key === one.key) void readOffer(one.key);
  }
}

export async function readConsoles(): Promise<void> {
  hearConsoles(await get("/api/shows/{show}/consoles", at()));
  hearCheck(await get("/api/shows/{show}/check", at()));
}

const keep = (key: string, offer: OfferedRig): void => set({ offers: { ...useConsoles.getState().offers, [key]: offer } });

async function readOffer(key: string): Promise<void> {
  try {
    keep(key, await get("/api/shows/{show}/consoles/{key}/offer", of(key)));
  } catch (wrong) {
    refused(wrong);
  }
}

async function asking<T>(what: string, work: () => Promise<T>): Promise<T | null> {
  set({ asking: what });
  try {
    return await work();
  } catch (wrong) {
    refused(wrong);
    return null;
  } finally {
    set({ asking: null });
  }
}

/** Tell a console of the rig, and ask what taking it would come to. */
export async function offerRig(key: string, wish: { only: "all" | "shown" | "fixtures"; ids: string[]; comment: string }): Promise<void> {
  const offer = await asking("offer", () => post("/api/shows/{show}/consoles/{key}/offer", { ...of(key), body: wish }));
  if (offer) keep(key, offer);
}

/** Have a console take what it was told of. */
export async function haveTaken(key: string, way: Way): Promise<void> {
  const offer = await asking("take", () => post("/api/shows/{show}/consoles/{key}/take", { ...of(key), body: { way } }));
  if (offer) keep(key, offer);
}

/** Fetch a console's rig, and see it beside the patch. */
export async function compareRig(one: LinkedConsole): Promise<void> {
  const found = await asking("compare", () => post("/api/shows/{show}/consoles/{key}/compare", of(one.key)));
  if (!found) return;
  hearCompared(found, one.key);
  goTo("patch");
}

/** Have a console of its own way: for those that only run beside the show. */
export async function setBeside(key: string, how: { hand_over?: boolean; outline?: boolean }): Promise<void> {
  try {
    hearConsoles(await post("/api/shows/{show}/consoles/{key}/beside", { ...of(key), body: how }));
  } catch (wrong) {
    refused(wrong);
  }
}

/** Keep a console's palettes as ours. */
export async function takePalettes(key: string): Promise<void> {
  await asking("palettes", () => post("/api/shows/{show}/consoles/{key}/palettes", { ...of(key), body: { who } }));
}

export function hearCheck(check: CheckReport): void {
  set({ check });
}

/** Begin the line check, say how a step ended, or end it. */
export async function checkLine(body: Partial<CheckRequest> & { do: CheckRequest["do"] }): Promise<void> {
  try {
    hearCheck(await post("/api/shows/{show}/check", { ...at(), body: { ids: [], way: "hand", console: "", ...body, who } }));
  } catch (wrong) {
    refused(wrong);
  }
}
