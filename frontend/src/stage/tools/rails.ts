import * as THREE from "three";
import type { RailLine, Vec3 } from "../data";
import type { ShownPane } from "../view/panes";
import { project } from "./sheet";

/** The place of a rail under the pointer. */
export interface RailPlace {
  structure: string;
  rail: string;
  label: string;
  along: number;
  length: number;
  point: Vec3;
  /** How far from the pointer, CSS pixels. */
  away: number;
}


/** The nearest rail to the pointer in a pane's picture, no further than `reach` pixels; along it in steps of `step`. */
export function railAt(pane: ShownPane, x: number, y: number, rails: Readonly<Record<string, readonly RailLine[]>>, reach: number, free = false, step = 0.05): RailPlace | null {
  let best: RailPlace | null = null;
  for (const [structure, lines] of Object.entries(rails)) {
    for (const line of lines) {
      let before = 0;
      for (let i = 0; i + 1 < line.points.length; i++) {
        const [a, b] = [new THREE.Vector3(...(line.points[i] as Vec3)), new THREE.Vector3(...(line.points[i + 1] as Vec3))];
        const long = a.distanceTo(b);
        const [pa, pb] = [project(pane, a), project(pane, b)];
        if (pa && pb) {
          const [dx, dy] = [pb.x - pa.x, pb.y - pa.y];
          const share = THREE.MathUtils.clamp(((x - pa.x) * dx + (y - pa.y) * dy) / (dx * dx + dy * dy || 1), 0, 1);
          const away = Math.hypot(x - pa.x - share * dx, y - pa.y - share * dy);
          // Of rails that lie behind each other the lower one is meant: fixtures hang from it.
          if (away <= reach && (!best || away < best.away - 0.5)) {
            const raw = ((before + share * long) / lengthOf(line)) * line.length_m;
            const along = THREE.MathUtils.clamp(free ? raw : Math.round(raw / step) * step, 0, line.length_m);
            best = { structure, rail: line.name, label: line.label, along, length: line.length_m, point: pointAt(line, along), away };
          }
        }
        before += long;
      }
    }
  }
  return best;
}

/** The length of a rail's chords: a little less than its own where it is bent. */
function lengthOf(line: RailLine): number {
  let sum = 0;
  for (let i = 0; i + 1 < line.points.length; i++) sum += new THREE.Vector3(...(line.points[i] as Vec3)).distanceTo(new THREE.Vector3(...(line.points[i + 1] as Vec3)));
  return sum || 1;
}

/** The place of a rail at a distance from its start. */
export function pointAt(line: RailLine, along: number): Vec3 {
  let left = (along / (line.length_m || 1)) * lengthOf(line);
  for (let i = 0; i + 1 < line.points.length; i++) {
    const [a, b] = [new THREE.Vector3(...(line.points[i] as Vec3)), new THREE.Vector3(...(line.points[i + 1] as Vec3))];
    const long = a.distanceTo(b);
    if (left <= long || i + 2 === line.points.length) return a.lerp(b, long ? Math.min(left / long, 1) : 0).toArray() as Vec3;
    left -= long;
  }
  return line.points[0] ?? [0, 0, 0];
}
