import tables from "../tables.json";

/** What the things of each kind are (core/kinds.py): the one list, so that a new kind is in every place. */
interface Traits {
  step: string;
  layered: boolean;
  solid: boolean;
  placed: boolean;
  carried: boolean;
  stood_on: boolean;
  around: boolean;
  tall: boolean;
  parts: boolean;
  snapped: boolean;
  offset: boolean;
  printed: boolean;
  fields: Record<string, string[]>;
}
export type Trait = { [K in keyof Traits]: Traits[K] extends boolean ? K : never }[keyof Traits];

const KINDS: Record<string, Traits> = tables.kinds;

/** Whether things of a kind are so. */
export function isA(kind: string | undefined, trait: Trait): boolean {
  return KINDS[kind ?? ""]?.[trait] ?? false;
}

/** The kinds of which that is so. */
export function kindsThatAre(trait: Trait): string[] {
  return Object.keys(KINDS).filter((kind) => isA(kind, trait));
}

/** Whether things of a kind have such a field, to be typed into. */
export function hasField(kind: string, field: string): boolean {
  return field in (KINDS[kind]?.fields ?? {});
}

/** What can be chosen for a field of a kind. */
export function choices(kind: string, field: string): readonly string[] {
  return KINDS[kind]?.fields[field] ?? [];
}
