/**
 * What a sign before a typed value means. `adds`: in a field that holds a value, + and - change it; a minus of its own is
 * typed from an emptied field. `own`: the value may well be negative (turn, pan, tilt), so a minus is its own; += and -=
 * change it.
 */
export type Signs = "adds" | "own";

/** What is typed changes the value by `by` (with `sign`), or is the value itself. */
export type Read = { sign: 1 | -1; by: string } | { sign: 0; text: string };

export function readSigns(typed: string, signs: Signs, emptied: boolean): Read {
  const text = typed.trim().replace(/^−/, "-");
  const change = /^([-+])=\s*(.+)$/.exec(text) ?? (signs === "adds" && !emptied && !/\bto\b/.test(text) ? /^([-+])\s*(.+)$/.exec(text) : null);
  if (change) return { sign: change[1] === "-" ? -1 : 1, by: change[2] as string };
  return { sign: 0, text: text.replace(/^=\s*/, "") };
}

/** The text as the server's parser takes it: there + and - before a length always change it. */
export function sentText(typed: string, signs: Signs, emptied: boolean): string {
  return signs === "adds" && emptied && /^\s*[-+−](?!=)/.test(typed) && !/\bto\b/.test(typed) ? `=${typed.trim()}` : typed;
}

/** The number that is meant, where the browser itself takes it. Throws where it is none. */
export function meantNumber(typed: string, now: number, signs: Signs, emptied: boolean, read: (text: string) => number): number {
  const meant = readSigns(typed, signs, emptied);
  const value = meant.sign === 0 ? read(meant.text) : now + meant.sign * read(meant.by);
  if (!Number.isFinite(value)) throw new Error(`“${typed.trim()}” is not a number.`);
  return value;
}

/** A plain number, whatever unit stands with it: `× 2.5`, `0,02`; NaN where there is none. */
export function plainNumber(text: string): number {
  return /\d/.test(text) ? Number(text.replace(",", ".").replace(/[^\d.\-e]/g, "")) : NaN;
}

/** `10.00 − 1.50 = 8.50`, while a change is typed; nothing where none is, or it cannot be read. */
export function sum(typed: string, signs: Signs, emptied: boolean, base: number | undefined, read: (text: string) => number | null, shown: (value: number) => string): string {
  const meant = readSigns(typed, signs, emptied);
  if (meant.sign === 0) return "";
  const by = read(meant.by);
  if (by === null || !Number.isFinite(by)) return "";
  const sign = meant.sign * Math.sign(by || 1) < 0 ? "−" : "+";
  const step = shown(Math.abs(by));
  return base === undefined ? `each ${sign} ${step}` : `${shown(base)} ${sign} ${step} = ${shown(base + meant.sign * by)}`;
}

/** What a sign will do, for the edge of the field. */
export const SIGNS_SAY: Record<Signs, { mark: string; says: string }> = {
  adds: { mark: "±", says: "+1.5 or -1.5 changes it. Emptied first, -1.5 is the value." },
  own: { mark: "+=", says: "-30 is the value. +=5 or -=5 changes it." },
};
