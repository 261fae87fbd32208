/**
 * The fields of a beam in the order in which its texture holds them, four to a texel: what light/state.glsl reads. Where
 * each stands in a frame is what the live process says (core/picture/fields.py).
 */
export const LAYOUT = [
  "pan", "tilt", "field", "beam", "red", "green", "blue", "hard", "iris", "strobe", "focus", "frost", "gobo", "gobo_turn", "gobo_spin", "prism",
  "gobo2", "gobo2_turn", "gobo2_spin", "prism_turn", "blade1", "blade2", "blade3", "blade4",
  "blade1_angle", "blade2_angle", "blade3_angle", "blade4_angle", "blades_turn", "prism_spin", "frost_gain", "web",
] as const;
export type FieldName = (typeof LAYOUT)[number] | "strobe_kind" | "sharp_at";

/** Where the fields stand in a frame's row: by name, and in the order of the texture. */
export interface Places {
  at: Readonly<Record<FieldName, number>>;
  inTexture: readonly number[];
  /** How many fields a row has. */
  count: number;
}

/** The places by what the server says of its frames. Throws where it does not know one that is drawn by. */
export function placesOf(fields: readonly string[]): Places {
  const place = (name: FieldName): number => {
    const at = fields.indexOf(name);
    if (at < 0) throw new Error(`The picture comes without “${name}”: load the page again.`);
    return at;
  };
  const at = Object.fromEntries([...LAYOUT, "strobe_kind" as const, "sharp_at" as const].map((name) => [name, place(name)])) as Record<FieldName, number>;
  return { at, inTexture: LAYOUT.map((name) => at[name]), count: fields.length };
}
