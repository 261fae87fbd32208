/** What a point that is drawn is snapped to, and the lines of an outline as chords. Plan metres. */

export type Plan = [number, number];
export type Corner = [number, number, number];

export interface SnapTo {
  /** Corners of what stands, and of what is being drawn. */
  corners: readonly Plan[];
  /** Lines of what stands: snapped to at their middles, their crossings with the datums, and along them. */
  lines: readonly (readonly [Plan, Plan])[];
  grid: number;
  last: Plan | null;
  before: Plan | null;
}

export interface Snapped {
  at: Plan;
  why: string;
}

const far = (a: Plan, b: Plan): number => Math.hypot(a[0] - b[0], a[1] - b[1]);

function foot(at: Plan, [a, b]: readonly [Plan, Plan]): Plan | null {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const whole = dx * dx + dy * dy;
  if (whole < 1e-12) return null;
  const share = ((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / whole;
  return share < 0 || share > 1 ? null : [a[0] + share * dx, a[1] + share * dy];
}

function crossing([a, b]: readonly [Plan, Plan], [c, d]: readonly [Plan, Plan]): Plan | null {
  const [rx, ry, sx, sy] = [b[0] - a[0], b[1] - a[1], d[0] - c[0], d[1] - c[1]];
  const between = rx * sy - ry * sx;
  if (Math.abs(between) < 1e-12) return null;
  const t = ((c[0] - a[0]) * sy - (c[1] - a[1]) * sx) / between;
  const u = ((c[0] - a[0]) * ry - (c[1] - a[1]) * rx) / between;
  return t < 0 || t > 1 || u < 0 || u > 1 ? null : [a[0] + t * rx, a[1] + t * ry];
}

/** The point a click means: a corner, a middle, a crossing, square to the last line, on a datum, on a line, on the grid. */
export function snap(at: Plan, reach: number, to: SnapTo, how: { locked: boolean; free: boolean }): Snapped {
  const { last, before } = to;
  if (how.free) return { at, why: "" };
  if (how.locked && last) {
    // Along an axis, or square to the line before.
    const level = Math.abs(at[0] - last[0]) >= Math.abs(at[1] - last[1]);
    const grid = (value: number, from: number) => from + Math.round((value - from) / to.grid) * to.grid;
    return level ? { at: [grid(at[0], last[0]), last[1]], why: "straight across" } : { at: [last[0], grid(at[1], last[1])], why: "straight up and down stage" };
  }
  const near = (points: readonly Plan[], why: string): Snapped | null => {
    const best = points.reduce<Plan | null>((found, one) => (far(one, at) <= reach && (!found || far(one, at) < far(found, at)) ? one : found), null);
    return best ? { at: best, why } : null;
  };
  const middles = to.lines.map(([a, b]): Plan => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]);
  const crossings: Plan[] = [];
  to.lines.forEach((one, i) => {
    for (const other of to.lines.slice(i + 1)) {
      const met = crossing(one, other);
      if (met) crossings.push(met);
    }
  });
  const found = near(to.corners, "corner") ?? near(crossings, "crossing") ?? near(middles, "middle");
  if (found) return found;
  if (last && before) {
    // Square to the last line.
    const [dx, dy] = [last[0] - before[0], last[1] - before[1]];
    const length = Math.hypot(dx, dy) || 1;
    const across: Plan = [-dy / length, dx / length];
    const share = (at[0] - last[0]) * across[0] + (at[1] - last[1]) * across[1];
    const square: Plan = [last[0] + across[0] * share, last[1] + across[1] * share];
    if (far(square, at) <= reach && Math.abs(share) > reach) {
      const step = Math.round(share / to.grid) * to.grid;
      return { at: [last[0] + across[0] * step, last[1] + across[1] * step], why: "square" };
    }
  }
  const feet = to.lines.map((line) => foot(at, line)).filter((one): one is Plan => one !== null);
  const datum: Plan = [Math.abs(at[0]) <= reach ? 0 : at[0], Math.abs(at[1]) <= reach ? 0 : at[1]];
  const grid: Plan = [Math.round(datum[0] / to.grid) * to.grid, Math.round(datum[1] / to.grid) * to.grid];
  if (datum[0] === 0 || datum[1] === 0) return { at: grid, why: datum[0] === 0 && datum[1] === 0 ? "origin" : datum[0] === 0 ? "centre line" : "setting line" };
  return near(feet, "on a line") ?? { at: grid, why: "" };
}

/** The points of the line from a to b: the two ends where it is straight, chords of its arc else. */
function chords(a: Corner, b: Corner): Plan[] {
  if (Math.abs(a[2]) < 1e-9) return [[a[0], a[1]], [b[0], b[1]]];
  const chord = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const angle = 4 * Math.atan(a[2]);
  const radius = chord / (2 * Math.sin(Math.abs(angle) / 2));
  const away = chord / 2 / Math.tan(angle / 2);
  const centre: Plan = [(a[0] + b[0]) / 2 - ((b[1] - a[1]) / chord) * away, (a[1] + b[1]) / 2 + ((b[0] - a[0]) / chord) * away];
  const start = Math.atan2(a[1] - centre[1], a[0] - centre[0]);
  return Array.from({ length: 25 }, (_, i): Plan => [centre[0] + radius * Math.cos(start + (angle * i) / 24), centre[1] + radius * Math.sin(start + (angle * i) / 24)]);
}

/** Each line of an outline as points. */
export function sampledLines(corners: readonly Corner[], closed: boolean): Plan[][] {
  const count = closed ? corners.length : corners.length - 1;
  return Array.from({ length: Math.max(count, 0) }, (_, i) => chords(corners[i] as Corner, corners[(i + 1) % corners.length] as Corner));
}

/** The area of a closed outline of straight lines and arcs. */
export function areaOf(corners: readonly Corner[]): number {
  const points = sampledLines(corners, true).flatMap((line) => line.slice(0, -1));
  return Math.abs(points.reduce((sum, [x, y], i) => sum + x * (points[(i + 1) % points.length] as Plan)[1] - (points[(i + 1) % points.length] as Plan)[0] * y, 0) / 2);
}

/** A smooth line through places, as many short straight ones: centripetal Catmull-Rom, which neither loops nor overshoots. */
export function curveThrough(places: readonly Corner[], closed: boolean, steps = 8): Corner[] {
  const count = places.length;
  if (count < 3) return [...places];
  const get = (i: number): Plan => {
    const at = closed ? ((i % count) + count) % count : Math.min(Math.max(i, 0), count - 1);
    const [x, y] = places[at] as Corner;
    return [x, y];
  };
  const made: Corner[] = [];
  for (let i = 0; i < (closed ? count : count - 1); i++) {
    const p = [get(i - 1), get(i), get(i + 1), get(i + 2)] as [Plan, Plan, Plan, Plan];
    const knot = [0];
    for (let k = 0; k < 3; k++) knot.push((knot[k] as number) + Math.max(Math.sqrt(far(p[k] as Plan, p[k + 1] as Plan)), 1e-6));
    for (let step = 0; step < steps; step++) {
      const t = (knot[1] as number) + (((knot[2] as number) - (knot[1] as number)) * step) / steps;
      // Neville's scheme on the knots (Barry and Goldman).
      let level: Plan[] = p;
      for (let width = 1; width < 4; width++) {
        level = level.slice(0, -1).map((left, j): Plan => {
          const span = width === 3 ? [1, 2] : [j, j + width];
          const [a, b] = [knot[span[0] as number] as number, knot[span[1] as number] as number];
          const share = (t - a) / (b - a);
          const right = level[j + 1] as Plan;
          return [left[0] + (right[0] - left[0]) * share, left[1] + (right[1] - left[1]) * share];
        });
      }
      const [x, y] = level[0] as Plan;
      made.push([Math.round(x * 1e4) / 1e4, Math.round(y * 1e4) / 1e4, 0]);
    }
  }
  if (!closed) made.push([...get(count - 1), 0]);
  return made;
}

/** The bulge of the line from a to b that passes through p: the tangent of a quarter of its angle, positive anticlockwise. */
export function bulgeThrough(a: Plan, b: Plan, p: Plan): number {
  const [ax, ay, bx, by] = [a[0] - p[0], a[1] - p[1], b[0] - p[0], b[1] - p[1]];
  const cross = ax * by - ay * bx;
  // The angle under which the chord is seen from the arc; the arc turns by twice what is left of it.
  const seen = Math.atan2(Math.abs(cross), ax * bx + ay * by);
  const bulge = Math.tan((Math.PI - seen) / 2);
  return Math.abs(cross) < 1e-9 ? 0 : -Math.sign(cross) * Math.min(bulge, 20);
}
