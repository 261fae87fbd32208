/**
 * The blades of a beam as they stand in its gate, and what is taken hold of to move them. Gate coordinates are those of
 * core/optics/gate.py: x along the head's X, y along its Y, 1 at the rim. Blades come from the top, left, bottom and right.
 */
export interface Blade {
  /** From the rim (0) to the middle (1). */
  depth: number;
  /** About the middle of its edge, radians. */
  angle: number;
}

export interface Gate {
  blades: readonly Blade[];
  /** Of the whole set, radians. */
  turn: number;
}

/** What the blades of a type can do: how far each turns either way, and the whole set does, radians. */
export interface Able {
  askew: number;
  whole: number;
  /** The two ends of a blade are set by themselves. */
  ends: boolean;
}

export interface Spot {
  x: number;
  y: number;
}

/** What is taken hold of: a blade (0..3) in the middle of its edge or at one end, or the whole set. */
export interface Grip extends Spot {
  blade: number;
  part: "edge" | "start" | "end" | "set";
}

export const SIDES = ["Top", "Left", "Bottom", "Right"] as const;
export const OPEN: Gate = { blades: SIDES.map(() => ({ depth: 0, angle: 0 })), turn: 0 };
/** The ends of a blade are taken hold of so far from the middle of its edge, and the set so far from the axis, gate radii. */
const [ARM, RING] = [0.42, 1.22];
/** How far askew a blade lies whose ends are set apart: half a gate between them (core/aiming/blades.py). */
const ENDS_MOST = Math.atan(0.5);
/** As a blade, but with two ends: what its own angle comes to. */
const SPAN = 2;
const OUT = 0.002;

const around = (gate: Gate, k: number): number => gate.turn + (Math.PI / 2) * (k + 1);
const clamp = (value: number, low: number, high: number): number => Math.min(Math.max(value, low), high);
const wrapped = (angle: number): number => Math.atan2(Math.sin(angle), Math.cos(angle));
const most = (able: Able): number => (able.ends && !able.askew ? ENDS_MOST : able.askew);

/** The middle of a blade's edge, and the way along it. */
function edgeOf(gate: Gate, k: number): { middle: Spot; way: Spot } {
  const { depth, angle } = gate.blades[k] ?? { depth: 0, angle: 0 };
  const a = around(gate, k);
  return { middle: { x: (1 - depth) * Math.cos(a), y: (1 - depth) * Math.sin(a) }, way: { x: -Math.sin(a + angle), y: Math.cos(a + angle) } };
}

/** Both ends of a blade's edge within the gate; null where it is out, or passes the gate by. */
export function chord(gate: Gate, k: number): [Spot, Spot] | null {
  if ((gate.blades[k]?.depth ?? 0) <= OUT) return null;
  const { middle, way } = edgeOf(gate, k);
  const b = middle.x * way.x + middle.y * way.y;
  const rest = b * b - (middle.x ** 2 + middle.y ** 2 - 1);
  if (rest <= 0) return null;
  const at = (t: number): Spot => ({ x: middle.x + t * way.x, y: middle.y + t * way.y });
  return [at(-b - Math.sqrt(rest)), at(-b + Math.sqrt(rest))];
}

/** Whether no blade stands before a place of the gate. */
export function clear(gate: Gate, { x, y }: Spot): boolean {
  return gate.blades.every(({ depth, angle }, k) => {
    const a = around(gate, k);
    return depth <= OUT || x * Math.cos(a + angle) + y * Math.sin(a + angle) <= (1 - depth) * Math.cos(angle) + 1e-9;
  });
}

/** What can be taken hold of, in gate coordinates. */
export function gripsOf(gate: Gate, able: Able): Grip[] {
  const grips = SIDES.flatMap((_, k): Grip[] => {
    const { middle, way } = edgeOf(gate, k);
    const end = (part: "start" | "end", side: number): Grip => ({ blade: k, part, x: middle.x + side * ARM * way.x, y: middle.y + side * ARM * way.y });
    const turns = most(able) > 0 && (gate.blades[k]?.depth ?? 0) > OUT;
    return [{ blade: k, part: "edge", ...middle }, ...(turns ? [end("start", -1), end("end", 1)] : [])];
  });
  if (able.whole) grips.push({ blade: 0, part: "set", x: RING * Math.cos(gate.turn + Math.PI / 4), y: RING * Math.sin(gate.turn + Math.PI / 4) });
  return grips;
}

/** The gate after a grip has been dragged to a place. */
export function draggedTo(gate: Gate, able: Able, { blade: k, part }: Pick<Grip, "blade" | "part">, { x, y }: Spot): Gate {
  if (part === "set") return { ...gate, turn: clamp(wrapped(Math.atan2(y, x) - Math.PI / 4), -able.whole, able.whole) };
  const a = around(gate, k);
  const { depth, angle } = gate.blades[k] ?? { depth: 0, angle: 0 };
  const after = (blade: Blade): Gate => ({ ...gate, blades: gate.blades.map((one, i) => (i === k ? blade : one)) });
  if (part === "edge") return after({ depth: clamp(1 - (x * Math.cos(a) + y * Math.sin(a)), 0, 1), angle });
  const { middle } = edgeOf(gate, k);
  const side = part === "end" ? 1 : -1;
  const [dx, dy] = [side * (x - middle.x), side * (y - middle.y)];
  const lean = Math.atan2(-(dx * Math.cos(a) + dy * Math.sin(a)), -dx * Math.sin(a) + dy * Math.cos(a));
  return after({ depth, angle: clamp(lean, -most(able), most(able)) });
}

/** The features that set what has changed of a gate (core/dmx/features.py). */
export function featuresOf(before: Gate, after: Gate, able: Able): Record<string, number> {
  const values: Record<string, number> = {};
  if (after.turn !== before.turn) values["blades turn"] = after.turn;
  after.blades.forEach(({ depth, angle }, k) => {
    const was = before.blades[k];
    if (was?.depth === depth && was.angle === angle) return;
    const name = `blade ${k + 1}`;
    values[name] = depth;
    if (able.askew) values[`${name} angle`] = angle;
    else if (able.ends) {
      const lean = Math.tan(angle);
      values[name] = clamp(depth - lean, 0, 1);
      values[`${name} far`] = clamp(depth + lean, 0, 1);
    }
  });
  return values;
}

/** How blades stand by values that are held; what is not held stands as `now`. */
export function gateOf(values: Readonly<Record<string, number>>, now: Gate = OPEN): Gate {
  const blades = SIDES.map((_, k): Blade => {
    const [name, was] = [`blade ${k + 1}`, now.blades[k] ?? { depth: 0, angle: 0 }];
    const near = values[name] ?? was.depth;
    const far = values[`${name} far`] ?? -1;
    if (far >= 0) return { depth: clamp((near + far) / 2, 0, 1), angle: Math.atan2(far - near, SPAN) };
    return { depth: near, angle: values[`${name} angle`] ?? was.angle };
  });
  return { blades, turn: values["blades turn"] ?? now.turn };
}
