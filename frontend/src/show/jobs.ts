import { create } from "zustand";
import { get, post } from "./api";
import { at, applyUpdate, useShow, who } from "./document";
import { notify, refused } from "./messages";
import type { EditArgs, EditResult, JobOut } from "./types";

/** Work that takes long and is done elsewhere: what runs, and what has ended and was not fetched yet. */
export const useJobs = create<{ jobs: JobOut[] }>(() => ({ jobs: [] }));

type Ended = { job: JobOut; result: EditResult | null };
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

async function fetchJob(id: string): Promise<void> {
  if (fetching.has(id)) return;
  fetching.add(id);
  try {
    const ended = await get("/api/shows/{show}/jobs/{job}", { params: { path: { show: useShow.getState().id, job: id } } });
    if (ended.result?.update) applyUpdate(ended.result.update);
    useJobs.setState({ jobs: useJobs.getState().jobs.filter((one) => one.id !== id) });
    const told = { job: ended.job, result: ended.result ?? null };
    // Of a visit before this one: nobody waits, but it has to be said.
    if (!settle(id, told)) said(told);
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

/** Do an edit whose work takes long; it goes on when the page is left. Throws Refused where it cannot even begin. */
export async function editAtLength<K extends keyof EditArgs>(kind: K, args: EditArgs[K]): Promise<void> {
  let id: string;
  try {
    ({ id } = await post("/api/shows/{show}/jobs", { ...at(), body: { kind, args, who } }));
  } catch (wrong) {
    throw refused(wrong, true);
  }
  const ended = await new Promise<Ended | null>((resolve) => {
    awaited.set(id, resolve);
    // It may have ended before anybody waited.
    if (useJobs.getState().jobs.some((job) => job.id === id && job.state !== "running")) void fetchJob(id);
  });
  if (ended) said(ended);
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
