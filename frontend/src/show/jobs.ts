import { create } from "zustand";
import { get, post } from "./api";
import { at, applyUpdate, useShow, who } from "./document";
import { beginGhost, showGhost } from "./edits";
import { notify, refused } from "./messages";
import type { EditArgs, EditResult, JobOut } from "./types";

/** Work that takes long and is done elsewhere: what runs, and what has ended and was not fetched yet. */
export const useJobs = create<{ jobs: JobOut[] }>(() => ({ jobs: [] }));

export type Ended = { job: JobOut; result: EditResult | null };
/** Who waits for a job's end: null where the end was told elsewhere, or nobody knows it. */
const awaited = new Map<string, (ended: Ended | null) => void>();

/** Whether somebody waited. */
function settle(id: string, ended: Ended | null): boolean {
  const waiting = awaited.get(id);
  awaited.delete(id);
  waiting?.(ended);
  return waiting !== undefined;
}

/** The jobs as the desk tells them; those of this browser that have ended are fetched. */
export function hearJobs(jobs: JobOut[]): void {
  useJobs.setState({ jobs });
  for (const job of jobs) if (job.who === who && job.state !== "running") void fetchJob(job.id);
}

const fetching = new Set<string>();
/** Ends that nobody waits for: of a visit before this one, or of a job that is quicker than the answer to its beginning. */
const unclaimed: Ended[] = [];
let beginning = 0;

/** Take the end of a job; once no job is beginning any more, those that nobody takes are said. */
function claim(id?: string): Ended | null {
  const at = unclaimed.findIndex((ended) => ended.job.id === id);
  const mine = at < 0 ? null : (unclaimed.splice(at, 1)[0] ?? null);
  if (!beginning) for (const ended of unclaimed.splice(0)) said(ended);
  return mine;
}

async function fetchJob(id: string): Promise<void> {
  if (fetching.has(id)) return;
  fetching.add(id);
  try {
    const ended = await get("/api/shows/{show}/jobs/{job}", { params: { path: { show: useShow.getState().id, job: id } } });
    if (ended.result?.update) applyUpdate(ended.result.update);
    useJobs.setState({ jobs: useJobs.getState().jobs.filter((one) => one.id !== id) });
    const told = { job: ended.job, result: ended.result ?? null };
    if (!settle(id, told)) unclaimed.push(told);
    claim();
  } catch {
    // Another tab of this person has fetched it; or the line is cut, and it is heard of again once that is mended.
    settle(id, null);
  } finally {
    fetching.delete(id);
  }
}

function said({ job, result }: Ended): void {
  if (job.state === "failed") notify(job.problem, "wrong");
  else if (job.state === "stopped") notify(`${job.name}: stopped, nothing was changed`, "attention");
  for (const line of result?.report ?? []) notify(line, "attention");
}

/** Begin what becomes a job, and wait for its end: `begun` is told as soon as it runs. Throws Refused where it cannot even begin. */
export async function throughJob<T>(begin: () => Promise<T>, idOf: (begun: T) => string, begun: (begun: T) => void = () => undefined): Promise<Ended | null> {
  let told: T;
  beginning += 1;
  try {
    told = await begin();
  } catch (wrong) {
    beginning -= 1;
    claim();
    throw refused(wrong, true);
  }
  beginning -= 1;
  begun(told);
  const id = idOf(told);
  const over = claim(id);
  if (over) return over;
  return new Promise<Ended | null>((resolve) => {
    awaited.set(id, resolve);
    // It may have ended before anybody waited.
    if (useJobs.getState().jobs.some((job) => job.id === id && job.state !== "running")) void fetchJob(id);
  });
}

/** Begin a job and wait for its end. Throws Refused where it cannot even begin. */
export function atLength<K extends keyof EditArgs>(kind: K, args: EditArgs[K], preview: boolean): Promise<Ended | null> {
  return throughJob(() => post("/api/shows/{show}/jobs", { ...at(), body: { kind, args, who, preview } }), (begun) => begun.id);
}

/** Do an edit whose work takes long; it goes on when the page is left. Throws Refused where it cannot even begin. */
export async function editAtLength<K extends keyof EditArgs>(kind: K, args: EditArgs[K]): Promise<void> {
  const ended = await atLength(kind, args, false);
  if (ended) said(ended);
}

/** What an edit whose work takes long would come to, as a ghost; its report is for whoever asked, unless another ghost has been asked for since. Throws Refused. */
export async function previewAtLength<K extends keyof EditArgs>(kind: K, args: EditArgs[K]): Promise<string[]> {
  const mine = beginGhost();
  const ended = await atLength(kind, args, true);
  if (!ended?.result) {
    if (ended) said(ended);
    return [];
  }
  return showGhost(mine, ended.result, "") ? (ended.result.report ?? []) : [];
}

export async function stopJob(id: string): Promise<void> {
  try {
    await post("/api/shows/{show}/jobs/{job}/stop", { params: { path: { show: useShow.getState().id, job: id } } });
  } catch (wrong) {
    refused(wrong);
  }
}

export async function readJobs(): Promise<void> {
  const before = [...awaited.keys()];
  const jobs = await get("/api/shows/{show}/jobs", at());
  hearJobs(jobs);
  for (const id of before)
    if (!jobs.some((job) => job.id === id) && !fetching.has(id) && settle(id, null))
      notify("What was at work is no longer there, for the program was started again: look into the history whether it was done, and begin it again if not", "attention");
}
