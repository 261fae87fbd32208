import type { components } from "./api.generated";

/** What things can be faced with, in the words of core/site/things.py. */
export const FINISHES: readonly NonNullable<components["schemas"]["AddWall"]["finish"]>[] = [
  "black", "gloss", "timber", "cloth", "brick", "steel", "gauze", "black gauze", "translucent",
];
