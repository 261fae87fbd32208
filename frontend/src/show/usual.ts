import type { System } from "./format";

/** A length that a form begins with, in the unit that the show is in: `4m` is `13'`, `0.4m` is `16"`. */
export function usual(text: string, system: System): string {
  const match = /^((?:DS|US|SL|SR) )?(-?\d+(?:\.\d+)?)(m)?$/.exec(text);
  // A bare number is a count, an angle or nought; with its side it is a place.
  if (system === "metric" || !match || !(match[3] || match[1])) return text;
  const inches = Number(match[2]) / 0.0254;
  const said = Math.abs(inches) >= 36 ? `${Math.round(inches / 12)}'` : Math.abs(inches) >= 6 ? `${Math.round(inches)}"` : `${Math.round(inches * 4) / 4}"`;
  return `${match[1] ?? ""}${said}`;
}

/** All texts that a form begins with. */
export const usuals = <T extends Record<string, string>>(texts: T, system: System): T => Object.fromEntries(Object.entries(texts).map(([field, text]) => [field, usual(text, system)])) as T;
