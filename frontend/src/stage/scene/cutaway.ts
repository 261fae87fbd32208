import * as THREE from "three";
import type { Solid, Walls } from "../data";

/** Of what is cut away of a wall so much is left standing, metres: where it is can still be seen. */
export const KERB_M = 0.15;
/** As light/faces.frag.glsl counts how a thing is cut, on top of its finish. */
export const CUT_STEP = 32;
/** Faces of walls (core/mesh.py): what looks out of a room, and the sides of openings with the way the wall faces. */
const OUTWARD = 5;
const REVEAL = 6;

/** Whole; a room's wall that the eye is outside of; a wall, or what comes out of a file, between eye and work; not at all. */
const WHOLE = 0, ROOM = 1, WALL = 2, MESH = 3;
export const GONE = 4;
export type Cut = typeof WHOLE | typeof ROOM | typeof WALL | typeof MESH | typeof GONE;

/** Whether a place is inside a closed outline, in plan. */
export function within(ring: readonly (readonly [number, number])[], x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, k = ring.length - 1; i < ring.length; k = i++) {
    const [ax, ay] = ring[i] as readonly [number, number];
    const [bx, by] = ring[k] as readonly [number, number];
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
  }
  return inside;
}

/** A face that is met by a ray or drawn: where, its normal, its height in its own frame and its part. */
interface Face {
  point: THREE.Vector3;
  normal: THREE.Vector3;
  own: number;
  part: number;
}

/**
 * What is left out of a picture because it stands between the eye and the work: walls of a closed room that the eye is
 * outside of ("rooms"), besides them all walls, flats, cloths and rooms out of files that stand before the middle of the
 * work ("front"), or nothing ("whole"). What light meets is never changed by it.
 */
export class Cutaway {
  readonly work = new THREE.Vector3();
  private readonly cuts = new Map<string, Cut>();

  /** `work`: the middle of what is built there; null where there is nothing yet. */
  constructor(
    private readonly camera: THREE.Camera,
    walls: Walls,
    screens: Iterable<Solid>,
    work: THREE.Vector3 | null,
  ) {
    if (work) this.work.copy(work);
    const eye = camera.position;
    for (const solid of screens) {
      const room = solid.ring.length > 2 && !within(solid.ring, eye.x, eye.y);
      if (walls === "front" && work) this.cuts.set(solid.id, solid.screens === "sheet" ? this.sheet(solid) : solid.screens === "mesh" ? MESH : room ? ROOM : WALL);
      else if (walls !== "whole" && room) this.cuts.set(solid.id, ROOM);
    }
  }

  /** A flat thing is left out as a whole where its plane stands between the eye and the work. */
  private sheet({ position, rotation }: Solid): Cut {
    const facing = new THREE.Vector3(0, 1, 0).applyQuaternion(new THREE.Quaternion(...rotation));
    const at = new THREE.Vector3(...position);
    return facing.dot(this.toEye(at)) * facing.dot(this.work.clone().sub(at)) < 0 ? GONE : WHOLE;
  }

  private toEye(from: THREE.Vector3): THREE.Vector3 {
    if (this.camera instanceof THREE.OrthographicCamera) return this.camera.getWorldDirection(new THREE.Vector3()).negate();
    return this.camera.position.clone().sub(from);
  }

  of(id: string): Cut {
    return this.cuts.get(id) ?? WHOLE;
  }

  /** What sorting for a camera depends on. */
  get key(): string {
    return [...this.cuts].filter(([, cut]) => cut !== WHOLE).join();
  }

  /** Whether a face is left out, as light/faces.frag.glsl has it. */
  hides(id: string, { point, normal, own, part }: Face): boolean {
    const cut = this.of(id);
    if (cut === WHOLE || cut === GONE) return cut === GONE;
    const flat = this.camera instanceof THREE.OrthographicCamera;
    if (!flat && cut !== MESH && own < KERB_M) return false;
    const eye = this.toEye(point), work = this.work.clone().sub(point);
    if (part > REVEAL - 0.5) {
      const heading = (part - REVEAL) * 2 * Math.PI;
      const out = new THREE.Vector3(Math.cos(heading), Math.sin(heading), 0);
      return cut === ROOM ? out.dot(eye) > 0 : out.dot(eye) * out.dot(work) < 0;
    }
    if (cut === ROOM) return part > OUTWARD - 0.5;
    return normal.dot(work) < 0 && (cut === MESH || Math.abs(normal.z) < 0.5);
  }
}
