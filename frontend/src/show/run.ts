import { create } from "zustand";
import { get, post } from "./api";
import { at } from "./document";
import { refused } from "./messages";
import type { RunCommand, RunEvent } from "./types";

type Told = Required<RunEvent>;
const NONE: Told = { event: "run", order: null, at_s: 0, step: null, playing: false, waiting: false, speed: 1, total_s: 0, haze_per_m: null, house_light_lx: null, exposure_ev: null };

/** Where the running order stands, as it was told last, and when that was by this page's clock (ms). */
export const useRun = create<{ run: Told; heardAt: number }>(() => ({ run: NONE, heardAt: 0 }));

export function hearRun(run: RunEvent): void {
  useRun.setState({ run: { ...NONE, ...run }, heardAt: performance.now() });
}

export async function readRun(): Promise<void> {
  hearRun(await get("/api/shows/{show}/run", at()));
}

/** The order's time now, seconds: between what is told it goes on by itself. */
export function runTime(now = performance.now()): number {
  const { run, heardAt } = useRun.getState();
  const on = run.playing && !run.waiting ? ((now - heardAt) / 1000) * run.speed : 0;
  return Math.min(run.at_s + on, run.total_s);
}

let scrubbing: number | null = null;
let asked: Promise<void> | null = null;

async function tell(command: RunCommand["command"], value?: number): Promise<void> {
  try {
    await post("/api/shows/{show}/run", { ...at(), body: { command, value: value ?? null } });
  } catch (wrong) {
    refused(wrong);
  }
}

/** Play, pause, step, jump. Everybody sees it. */
export const commandRun = (command: RunCommand["command"], value?: number): void => void tell(command, value);

/** Go to a time while it is dragged: one is on its way at a time, and the latest is what comes next. */
export function scrub(to: number): void {
  scrubbing = to;
  // It is there at once for who drags; what is told then says the same.
  const { run } = useRun.getState();
  useRun.setState({ run: { ...run, at_s: to, waiting: false }, heardAt: performance.now() });
  if (!asked) asked = send();
}

async function send(): Promise<void> {
  while (scrubbing !== null) {
    const to = scrubbing;
    scrubbing = null;
    await tell("to", to);
  }
  asked = null;
}

/** Seconds as they are written over a strip: `0:07`, `1:32.5`. */
export function clock(seconds: number, tenths = false): string {
  const whole = Math.max(seconds, 0);
  const shown = tenths ? Math.floor(whole * 10) / 10 : Math.floor(whole + 1e-6);
  const minutes = Math.floor(shown / 60);
  const rest = shown - minutes * 60;
  return `${minutes}:${tenths ? rest.toFixed(1).padStart(4, "0") : String(Math.round(rest)).padStart(2, "0")}`;
}
