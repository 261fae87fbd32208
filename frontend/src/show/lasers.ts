import { create } from "zustand";
import type { LaserPath } from "../stage/scene/lasers";
import { get, post, sendFile } from "./api";
import { at, useShow } from "./document";
import { edit } from "./edits";
import { notify, refused } from "./messages";
import { useSelection } from "./selection";
import type { LaserFeedOut, LasersEvent, LaserZones } from "./types";

interface LasersState {
  /** The heads in the order of the messages, and what of them draws its test pattern. */
  told: LasersEvent;
  feed: LaserFeedOut | null;
  /** Where zones land and what they reach, as they were asked last; shown over the picture while somebody looks at lasers. */
  zones: LaserZones | null;
  shown: boolean;
}

const NOBODY: LasersEvent = { event: "lasers", plan: 0, heads: [], testing: [], alone: null };

/** The lasers of the show as the live process has them, and the simulated feed. */
export const useLasers = create<LasersState>()(() => ({ told: NOBODY, feed: null, zones: null, shown: false }));

/** Paths go straight from the socket to the stage, as frames do. */
type Listener = (told: LasersEvent, paths: readonly LaserPath[]) => void;
const listeners = new Set<Listener>();
let latest: readonly LaserPath[] = [];

export function onLasers(listener: Listener): () => void {
  listeners.add(listener);
  listener(useLasers.getState().told, latest);
  return () => listeners.delete(listener);
}

export function hearLasers(told: LasersEvent): void {
  const other = told.plan !== useLasers.getState().told.plan;
  useLasers.setState({ told });
  // What is drawn by another plan is no longer anybody's.
  if (other) hearPaths(told.plan & 0xffff, []);
}

export function hearPaths(plan: number, paths: readonly LaserPath[]): void {
  const { told } = useLasers.getState();
  if (plan !== (told.plan & 0xffff)) return;
  latest = paths;
  for (const listener of listeners) listener(told, paths);
}

export function hearFeed(feed: LaserFeedOut): void {
  useLasers.setState({ feed });
}

export async function readFeed(): Promise<void> {
  hearFeed(await get("/api/shows/{show}/laser-feed", at()));
}

/** Start the simulated feed with one of its figures, or shut it down. */
export async function runFeed(pattern: LaserFeedOut["pattern"] | null): Promise<void> {
  try {
    const how = { feeds: "", points: 600, still: false, pattern: (pattern ?? "mixed") as "mixed", run: pattern !== null };
    hearFeed(await post("/api/shows/{show}/laser-feed", { ...at(), body: how }));
  } catch (wrong) {
    refused(wrong);
  }
}

/** Let heads draw their test pattern, or one alone while all others are dark. */
export async function testLasers(heads: string[], alone: string | null): Promise<void> {
  try {
    await post("/api/shows/{show}/lasers/test", { ...at(), body: { heads, alone } });
  } catch (wrong) {
    refused(wrong);
  }
}

/** The lasers of the show, and those of them that are selected. */
export const laserIds = (): string[] => [...new Set(useLasers.getState().told.heads.map(({ key }) => key.split("/")[0] ?? ""))];

export function chosenLasers(): string[] {
  const all = new Set(laserIds());
  return useSelection.getState().selection.filter((id) => all.has(id));
}

let asks = 0;

/** Ask where zones land, in a look or as they are. */
export async function readZones(look = ""): Promise<void> {
  const ask = ++asks;
  const zones = await get("/api/shows/{show}/lasers", { params: { ...at().params, query: { look } } }).catch(() => null);
  if (zones && ask === asks) useLasers.setState({ zones });
}

/** Let lasers draw an ILDA file: looked into, kept, and given to them in one edit. */
export async function drawFile(ids: string[], file: File): Promise<void> {
  try {
    const read = await sendFile("/api/shows/{show}/lasers/files", { show: useShow.getState().id }, file);
    await edit("draw file", { ids, asset: read.asset, name: read.name }, { quiet: true });
    const odd = read.findings.length ? ` ${read.findings.length} things in it are odd: ${read.findings[0]?.what ?? ""}.` : "";
    notify(`${read.name}: ${read.frames} frames, format ${read.formats.join(", ")}, ${read.seconds} s.${odd}`, odd ? "attention" : "done");
  } catch (wrong) {
    refused(wrong);
  }
}
