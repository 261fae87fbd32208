export const HEIGHT = 15;
export const PAD = 4;
/** Labels that would lie over others step aside to one of these places round their anchor, or are left out. */
const PLACES: readonly [number, number][] = [[0, -1], [0, 1], [1, 0], [-1, 0], [0, -2], [1, -1], [-1, -1], [0, 2]];

export interface Label {
  text: string;
  x: number;
  y: number;
  tone: "body" | "landing" | "chosen";
  /** Who it is, so that it stays where it stood while the view moves. */
  key?: string;
  /** How far it stands off its anchor, CSS pixels. */
  gap?: number;
}

export interface Placed extends Label {
  left: number;
  top: number;
  width: number;
  /** How far it had to step aside from its anchor: then a leader is drawn. */
  aside: boolean;
}

/** What labels keep off: bodies and the edges of structures, CSS pixels. */
export interface Obstacle {
  left: number;
  top: number;
  width: number;
  height: number;
}

export interface Placing {
  height?: number;
  obstacles?: readonly Obstacle[];
  /** What is written there already: nothing is put over it. */
  taken?: readonly Obstacle[];
  /** Where each label stood last, by `key`: it stays there as long as there is room. */
  memory?: Map<string, number>;
}

/**
 * Find a free place for each label, the first ones first, none over another; those without room are left out. With
 * obstacles they keep off those too where they can: a place beside its own is better than one over a body.
 */
export function placeLabels<L extends Label>(labels: L[], widthOf: (label: L) => number, { height = HEIGHT, obstacles = [], taken: written = [], memory }: Placing = {}): (L & Placed)[] {
  const cell = 64;
  const grid = new Map<string, { box: Obstacle; soft: boolean }[]>();
  const over = (one: Obstacle, box: Obstacle) => one.left < box.left + box.width && box.left < one.left + one.width && one.top < box.top + box.height && box.top < one.top + one.height;
  const cells = (box: Obstacle) => {
    const keys: string[] = [];
    for (let i = Math.floor(box.left / cell); i <= Math.floor((box.left + box.width) / cell); i++) {
      for (let j = Math.floor(box.top / cell); j <= Math.floor((box.top + box.height) / cell); j++) keys.push(`${i},${j}`);
    }
    return keys;
  };
  const put = (box: Obstacle, soft: boolean) => {
    for (const key of cells(box)) {
      const there = grid.get(key);
      if (there) there.push({ box, soft });
      else grid.set(key, [{ box, soft }]);
    }
  };
  for (const obstacle of obstacles) put(obstacle, true);
  for (const box of written) put(box, false);
  const placed: (L & Placed)[] = [];
  for (const label of labels) {
    const width = widthOf(label) + 2 * PAD;
    const last = label.key === undefined ? undefined : memory?.get(label.key);
    const order = last === undefined ? PLACES.map((_, k) => k) : [last, ...PLACES.map((_, k) => k).filter((k) => k !== last)];
    let fallback: { k: number; box: Obstacle; hits: number } | null = null;
    let taken: { k: number; box: Obstacle } | null = null;
    for (const k of order) {
      const [dx, dy] = PLACES[k] as [number, number];
      const box = { left: label.x - width / 2 + dx * (width / 2 + (label.gap ?? 2) + width / 2), top: label.y - height / 2 + dy * (height + (label.gap ?? 1)), width, height };
      const near = new Set(cells(box).flatMap((key) => grid.get(key) ?? []));
      let hits = 0;
      let blocked = false;
      for (const one of near) {
        if (!over(one.box, box)) continue;
        if (one.soft) hits += 1;
        else blocked = true;
      }
      if (blocked) continue;
      if (hits === 0) {
        taken = { k, box };
        break;
      }
      if (!fallback || hits < fallback.hits) fallback = { k, box, hits };
    }
    const chosen = taken ?? fallback;
    if (!chosen) continue;
    if (label.key !== undefined) memory?.set(label.key, chosen.k);
    put(chosen.box, false);
    placed.push({ ...label, left: chosen.box.left, top: chosen.box.top, width, aside: chosen.k > 0 || label.gap !== undefined });
  }
  return placed;
}

/** What of a label is said: all of it (0), number and address (1), the number alone (2), or what comes first. */
export function thinned<P extends { field: string }>(parts: readonly P[], level: number): readonly P[] {
  if (level === 0) return parts;
  const kept = parts.filter(({ field }) => field === "number" || (level === 1 && field === "address"));
  return kept.length ? kept : parts.slice(0, 1);
}

/** A place for a caption: beside, above or below what it is of, or in a corner, where it covers the fewest bodies. */
export function placeCaption(size: { width: number; height: number }, of: Obstacle, obstacles: readonly Obstacle[], within: Obstacle, gap = 14): { left: number; top: number } {
  const { width, height } = size;
  const [middle, centre] = [of.left + of.width / 2 - width / 2, of.top + of.height / 2 - height / 2];
  const [right, bottom] = [within.left + within.width - width, within.top + within.height - height];
  const places: [number, number][] = [
    [of.left + of.width + gap, centre], [of.left - gap - width, centre], [middle, of.top + of.height + gap], [middle, of.top - gap - height],
    [within.left + gap, bottom - gap], [right - gap, bottom - gap], [within.left + gap, within.top + gap], [right - gap, within.top + gap],
  ];
  let best = { left: within.left, top: within.top, cost: Infinity };
  for (const [n, [x, y]] of places.entries()) {
    const left = Math.min(Math.max(x, within.left), right);
    const top = Math.min(Math.max(y, within.top), bottom);
    const over = [...obstacles, of].filter((one) => left < one.left + one.width && one.left < left + width && top < one.top + one.height && one.top < top + height).length;
    // Nearer places are better ones, but never over a body.
    const cost = over * 10 + n;
    if (cost < best.cost) best = { left, top, cost };
  }
  return { left: best.left, top: best.top };
}
