/** How lengths are stepped and said on the stage, in the unit that the show is in. Metres in, words out. */

export interface Measures {
  /** What is dragged goes in steps of this many metres. */
  move: number;
  /** What is dragged along a rail. */
  rail: number;
  said: (metres: number) => string;
  /** Lengths that a scale bar may have, with their words. */
  bars: readonly (readonly [number, string])[];
}

const FOOT = 0.3048;
const feet = (metres: number): string => {
  const quarters = Math.round((Math.abs(metres) / FOOT) * 48);
  const [whole, inches] = [Math.floor(quarters / 48), (quarters % 48) / 4];
  return `${metres < 0 && quarters ? "-" : ""}${whole}' ${inches}"`;
};

export const METRIC: Measures = {
  move: 0.1, rail: 0.05, said: (metres) => `${metres.toFixed(2)} m`,
  bars: [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50].map((metres) => [metres, `${metres} m`] as const),
};
export const IMPERIAL: Measures = {
  move: FOOT / 4, rail: FOOT / 6, said: feet,
  bars: [0.5, 1, 2, 5, 10, 25, 50, 100, 200].map((one) => [one * FOOT, one < 1 ? "6\"" : `${one}'`] as const),
};
