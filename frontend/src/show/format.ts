/** Lengths and places as people of the trade read them; the server has the parser. */

export type System = "metric" | "imperial";

export function length(metres: number, system: System): string {
  if (system === "metric") return `${metres.toFixed(2)} m`;
  const sixteenths = Math.round((Math.abs(metres) / 0.0254) * 16);
  const feet = Math.floor(sixteenths / 192);
  const inches = Math.floor((sixteenths % 192) / 16);
  let part = sixteenths % 16;
  let whole = 16;
  while (part && part % 2 === 0) {
    part /= 2;
    whole /= 2;
  }
  return `${metres < 0 && sixteenths ? "-" : ""}${feet}' ${inches}${part ? ` ${part}/${whole}` : ""}"`;
}

const SIDES = { x: ["SL", "SR"], y: ["US", "DS"], z: ["up", "down"] } as const;

/** A coordinate with its side: `SL 1.25 m`, `DS 3.40 m`, `up 7.40 m`. */
export function coordinate(metres: number, axis: keyof typeof SIDES, system: System): string {
  const side = SIDES[axis][metres < -0.0005 ? 1 : 0];
  return `${side} ${length(Math.abs(metres), system)}`;
}

const FOOT = 0.3048;
const UNITS: Record<string, number> = { m: 1, mm: 0.001, cm: 0.01, ft: FOOT, in: 0.0254, "'": FOOT, '"': 0.0254 };

/** A typed length in metres, for what is drawn while it is typed: a number with its unit (`18in`, `20'6"`), or in the show's
 * own; null for what only the server's parser reads. */
export function metresOf(text: string, system: System): number | null {
  const match = /^\s*([-+]?\d+(?:[.,]\d+)?)\s*(m|mm|cm|ft|in|'|")?\s*(?:(\d+(?:[.,]\d+)?)\s*("|in))?\s*$/.exec(text);
  if (!match) return null;
  const [whole, inches] = [match[1], match[3]].map((part) => Number((part ?? "0").replace(",", "."))) as [number, number];
  const metres = whole * (UNITS[match[2] ?? (system === "imperial" ? "ft" : "m")] ?? 1);
  return metres + Math.sign(metres || 1) * inches * 0.0254;
}

/** A length short enough for one of three in a field: `6`, `19.69'`. */
export const shortLength = (metres: number, system: System): string =>
  system === "metric" ? String(Number(metres.toFixed(3)) + 0) : `${Number((metres / FOOT).toFixed(2)) + 0}'`;

/** A place as one text, in the signs of the show's frame: `-4, 0, 6` in metres, `-13.12', 0', 19.69'` in feet. */
export const placeText = (place: readonly number[], system: System): string => place.map((metres) => shortLength(metres, system)).join(", ");

const SIDED = [/^(SL|SR)\b/i, /^(US|DS)\b/i, /^(up|down)\b/i];

/** A typed place in metres: `-4, 0, 6` or `SR 4, US 0, up 20ft`; null for what is none. */
export function placeOfText(text: string, system: System): [number, number, number] | null {
  const parts = text.split(/[,;]/).map((part) => part.trim());
  const values = parts.map((part, i) => {
    const side = SIDED[i]?.exec(part)?.[1]?.toUpperCase();
    const metres = metresOf(side ? part.slice(side.length) : part, system);
    return metres !== null && ["SR", "DS", "DOWN"].includes(side ?? "") ? -metres : metres;
  });
  const [x, y, z] = values;
  return values.length === 3 && x != null && y != null && z != null ? [x, y, z] : null;
}

/** A typed angle in degrees; null for what only the server's parser reads. */
export function degreesOf(text: string): number | null {
  const plain = text.replace("°", "").replace(",", ".").trim();
  return plain && Number.isFinite(Number(plain)) ? Number(plain) : null;
}

export function angle(degrees: number): string {
  return `${Number(degrees.toFixed(2))}°`;
}

/** Universe and slot: `2.001`. */
export function address(universe: number | null | undefined, slot: number | null | undefined): string {
  return universe == null || slot == null ? "none" : `${universe}.${String(slot).padStart(3, "0")}`;
}

export function many(count: number, noun: string): string {
  return `${count} ${noun}${count === 1 ? "" : /(s|x|ch|sh)$/.test(noun) ? "es" : "s"}`;
}

/** Watts as people write them: `2.3 kW`, `750 W`. */
export function power(watts: number): string {
  return watts >= 1000 && watts % 10 === 0 ? `${Number((watts / 1000).toFixed(2))} kW` : `${Number(watts.toPrecision(6))} W`;
}
