import * as THREE from "three";
import { isA } from "../../kinds";
import type { ToolStage } from "./tool";
import type { PutPlace, Vec3 } from "../data";
import type { ShownPane } from "../view/panes";
import { project } from "./sheet";
import { railAt } from "./rails";

const CARRIER_PX = 10;
/** How near to the middle of a fixture, and to the way from there to its lens, it is taken; how far off a lens may be. */
const [BODY_M, LENS_M, FAR_M] = [0.34, 0.18, 1.5];
/** How near to a rail the pointer takes it. */
const RAIL_PX = 22;
const FLOOR = new THREE.Plane(new THREE.Vector3(0, 0, 1), 0);

/** Where a fixture would be put: on the rail near the pointer, else on the surface there, else at the height of the floor. */
export function putPlace(stage: ToolStage, pane: ShownPane, x: number, y: number, free: boolean): PutPlace {
  const rail = railAt(pane, x, y, stage.rails, RAIL_PX, free, stage.measures.rail);
  if (rail) return { rail: { structure: rail.structure, rail: rail.rail, along: rail.along, point: rail.point }, point: rail.point, normal: null };
  const surface = stage.surfaceAt(pane, x, y);
  if (surface) return { rail: null, point: surface.point.toArray() as Vec3, normal: surface.normal.toArray() as Vec3 };
  // A show without a venue has no floor that is drawn; one stands on the ground all the same.
  const ground = pane.pane.view === "front" || pane.pane.view === "back" || pane.pane.view === "left" || pane.pane.view === "right" ? null : stage.ray(pane, x, y).ray.intersectPlane(FLOOR, new THREE.Vector3());
  return { rail: null, point: ground ? (ground.toArray() as Vec3) : null, normal: ground ? [0, 0, 1] : null };
}

/** Whether a fixture is under the pointer: its middle, or what leads from there to its lens, turned as it is now. */
function holds(stage: ToolStage, pane: ShownPane, id: string, middle: THREE.Vector3, reach: number, ray: THREE.Ray): boolean {
  const off = ray.distanceToPoint(middle);
  if (off < reach || off > FAR_M) return off < reach;
  const lens = stage.state.pose(id, pane.pane.picture)?.lens;
  return lens !== undefined && ray.distanceSqToSegment(middle, lens) < LENS_M ** 2;
}

/** What a click would take: a carrier's handle, a fixture where its body is near the pointer, else the surface's owner. */
export function thingAt(stage: ToolStage, pane: ShownPane, x: number, y: number): string | null {
  const carrier = stage.carriers.find(({ position }) => {
    const at = project(pane, new THREE.Vector3(...position));
    return at !== null && Math.hypot(at.x - x, at.y - y) < CARRIER_PX;
  });
  if (carrier) return carrier.id;
  const { ray, near } = stage.ray(pane, x, y);
  let best: { id: string; away: number } | null = null;
  for (const fixture of stage.mounted) {
    const place = stage.state.placeOf(fixture.id);
    if (!place) continue;
    const down = new THREE.Vector3(0, 0, -0.3).applyQuaternion(new THREE.Quaternion(...place.rotation));
    const middle = new THREE.Vector3(...place.position).add(down);
    const along = middle.clone().sub(ray.origin).dot(ray.direction);
    const reach = pane.pane.view === "free" ? BODY_M : Math.max(BODY_M, (7 * pane.viewpoint.height) / pane.height);
    if (along > near && (!best || along < best.away) && holds(stage, pane, fixture.id, middle, reach, ray)) best = { id: fixture.id, away: along };
  }
  const surface = stage.surfaceAt(pane, x, y);
  // A drawn view has no depth to speak of: symbols lie on top there.
  if (best && (pane.pane.view !== "free" || !surface || best.away < surface.distance + 0.6)) return best.id;
  // One of a crowd is the crowd.
  return surface && !isA(stage.solids.get(surface.id)?.kind, "around") ? (surface.id.split("/")[0] ?? null) : null;
}

/** The things wholly inside a box of a pane's picture, or (`touching`) those that it touches. Rooms are never taken. */
export function inBox(stage: ToolStage, pane: ShownPane, from: { x: number; y: number }, to: { x: number; y: number }, touching: boolean): string[] {
  const [left, right, top, bottom] = [Math.min(from.x, to.x), Math.max(from.x, to.x), Math.min(from.y, to.y), Math.max(from.y, to.y)];
  const state = new Map<string, { inside: boolean; touched: boolean }>();
  const take = (id: string, corners: readonly ({ x: number; y: number } | null)[]) => {
    const seen = corners.filter((one): one is { x: number; y: number } => one !== null);
    if (!seen.length) return;
    const [x0, x1] = [Math.min(...seen.map((one) => one.x)), Math.max(...seen.map((one) => one.x))];
    const [y0, y1] = [Math.min(...seen.map((one) => one.y)), Math.max(...seen.map((one) => one.y))];
    const inside = seen.length === corners.length && x0 >= left && x1 <= right && y0 >= top && y1 <= bottom;
    const touched = x1 >= left && x0 <= right && y1 >= top && y0 <= bottom;
    const before = state.get(id);
    state.set(id, { inside: inside && (before?.inside ?? true), touched: touched || (before?.touched ?? false) });
  };
  for (const solid of stage.solids.all()) {
    const bounds = isA(solid.kind, "around") ? null : stage.solids.bounds(solid.id);
    if (!bounds) continue;
    const corners = Array.from({ length: 8 }, (_, i) => new THREE.Vector3(i & 1 ? bounds.max.x : bounds.min.x, i & 2 ? bounds.max.y : bounds.min.y, i & 4 ? bounds.max.z : bounds.min.z));
    take(solid.id.split("/")[0] ?? solid.id, corners.map((corner) => project(pane, corner)));
  }
  for (const fixture of stage.mounted) {
    const place = stage.state.placeOf(fixture.id);
    if (place) take(fixture.id, [project(pane, new THREE.Vector3(...place.position))]);
  }
  return [...state].filter(([, one]) => (touching ? one.touched : one.inside)).map(([id]) => id);
}
