import * as THREE from "three";
import type { CarrierMark } from "../data";
import type { BeamState } from "../scene/beams";
import type { Solids } from "../scene/solids";
import type { ShownPane } from "../view/panes";
import { project } from "./sheet";

const REACH_PX = 62;
const NEAR_PX = 9;
const AXES: [string, THREE.Vector3][] = [
  ["SL", new THREE.Vector3(1, 0, 0)],
  ["US", new THREE.Vector3(0, 1, 0)],
  ["up", new THREE.Vector3(0, 0, 1)],
];

/** A handle to drag a selection along an axis named by the trade, or (no axis) over the floor plane. */
export class Handle {
  constructor(
    readonly name: string,
    readonly at: THREE.Vector3,
    readonly axis: THREE.Vector3 | null,
  ) {}

  /** Its ends in CSS pixels; null when it is behind the camera or points at the eye. */
  ends(pane: ShownPane): { from: { x: number; y: number }; to: { x: number; y: number } } | null {
    const from = project(pane, this.at);
    if (!from) return null;
    if (!this.axis) return { from, to: from };
    const tip = project(pane, this.at.clone().addScaledVector(this.axis, 0.2));
    if (!tip) return null;
    const dx = tip.x - from.x;
    const dy = tip.y - from.y;
    const far = Math.hypot(dx, dy);
    if (far < 0.8) return null;
    return { from: { x: from.x + (dx / far) * 10, y: from.y + (dy / far) * 10 }, to: { x: from.x + (dx / far) * REACH_PX, y: from.y + (dy / far) * REACH_PX } };
  }

  /** Whether a pointer is on it. */
  holds(pane: ShownPane, x: number, y: number): boolean {
    const ends = this.ends(pane);
    if (!ends) return false;
    const { from, to } = ends;
    const lx = to.x - from.x;
    const ly = to.y - from.y;
    const share = lx || ly ? THREE.MathUtils.clamp(((x - from.x) * lx + (y - from.y) * ly) / (lx * lx + ly * ly), 0, 1) : 0;
    return Math.hypot(x - from.x - share * lx, y - from.y - share * ly) < NEAR_PX;
  }

  /** The place on the axis, or on the level plane, that a ray comes nearest to. */
  along(ray: THREE.Ray): THREE.Vector3 | null {
    if (this.axis) {
      // Nearest points of two lines.
      const between = this.at.clone().sub(ray.origin);
      const b = this.axis.dot(ray.direction);
      const denominator = 1 - b * b;
      if (denominator < 1e-6) return null;
      const s = (b * ray.direction.dot(between) - this.axis.dot(between)) / denominator;
      return this.at.clone().addScaledVector(this.axis, s);
    }
    return ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 0, 1), -this.at.z), new THREE.Vector3());
  }
}

/** The handles of a selection about a place; with a `top`, one more that sets its height from there. */
export function handlesAt(at: THREE.Vector3 | null, top: THREE.Vector3 | null = null): Handle[] {
  if (!at) return [];
  return [...(top ? [new Handle("height", top, new THREE.Vector3(0, 0, 1))] : []), ...AXES.map(([name, axis]) => new Handle(name, at, axis)), new Handle("floor", at, null)];
}

/** The handles of what is selected: in its middle where it can be moved, at its top where it is one thing with a height. */
export function handlesOfSelection(of: { state: BeamState; solids: Solids; carriers: readonly CarrierMark[] }, selected: ReadonlySet<string>, movable: boolean, tall: boolean): Handle[] {
  const points: THREE.Vector3[] = [];
  for (const id of movable ? selected : []) {
    const place = of.state.placeOf(id) ?? of.solids.get(id);
    const carrier = of.carriers.find((one) => one.id === id);
    const bounds = place ?? carrier ? null : of.solids.bounds(id);
    if (carrier) points.push(new THREE.Vector3(...carrier.position));
    else if (place) points.push(new THREE.Vector3(...place.position));
    else if (bounds) points.push(bounds.getCenter(new THREE.Vector3()).setZ(bounds.min.z));
  }
  const middle = points.reduce((sum, p) => sum.add(p), new THREE.Vector3()).divideScalar(points.length || 1);
  const bounds = tall && selected.size === 1 ? of.solids.bounds([...selected][0] ?? "") : null;
  return handlesAt(points.length ? middle : null, bounds && bounds.getCenter(new THREE.Vector3()).setZ(bounds.max.z));
}
