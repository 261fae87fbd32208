import { SORTS, type Sort } from "../../show/looks";
import type { Thing } from "../../show/types";

export type Step = NonNullable<Thing<"order">["body"]["steps"]>[number];

/** Delay and time of a sort of what a step does, seconds; of what becomes darker with `falling` (core/playback/order.py). */
export function timeOf(step: Step, sort: Sort, falling = false): [delay: number, fade: number] {
  const own = step.times?.[sort];
  if (own) return own as [number, number];
  const fade = step.fade_in_s ?? 0;
  return [step.delay_s ?? 0, falling && sort === "intensity" ? (step.fade_out_s ?? fade) : fade];
}

/** How long until all of a step has come, as planned. */
export function comesAfter(step: Step): number {
  return Math.max(...SORTS.flatMap((sort) => [false, true].map((falling) => timeOf(step, sort, falling).reduce((a, b) => a + b, 0))));
}

export const lengthOf = (step: Step): number => Math.max(comesAfter(step) + (step.hold_s ?? 0), 0);

/** When each step begins, and when all is over. */
export function startsOf(steps: readonly Step[]): number[] {
  const starts = [0];
  for (const step of steps) starts.push((starts.at(-1) ?? 0) + lengthOf(step));
  return starts;
}

/** A time as it is written in a field: `4 s`, `1:30`. */
export function secondsText(seconds: number): string {
  const rounded = Math.round(seconds * 100) / 100;
  if (Math.abs(rounded) < 60) return `${rounded} s`;
  const sign = rounded < 0 ? "-" : "";
  const whole = Math.abs(rounded);
  const rest = Math.round((whole % 60) * 100) / 100;
  return `${sign}${Math.floor(whole / 60)}:${rest < 10 ? "0" : ""}${rest}`;
}
