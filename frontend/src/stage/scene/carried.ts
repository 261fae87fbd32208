import * as THREE from "three";
import type { CarrierMark, Pose, Quat, RailLine, Solid, Vec3 } from "../data";
import type { BeamState } from "./beams";
import type { Solids } from "./solids";

/** What drivers have brought elsewhere together: solids and clamps by their ids, and the pose that they are brought by. */
export interface Carried {
  readonly solids: readonly string[];
  readonly mounts: readonly string[];
  /** All things that go along: handles of carriers, focus points, and structures with their rails. */
  readonly marks: readonly string[];
  readonly pose: Pose;
}

const UPRIGHT = new Set(["figure", "crowd"]);
const UP = new THREE.Vector3(0, 0, 1);

/** A place brought along: x -> position + size . R x. */
export function broughtPlace({ position, rotation, size }: Pose, place: Vec3): Vec3 {
  const at = new THREE.Vector3(...place).applyQuaternion(new THREE.Quaternion(...rotation)).multiplyScalar(size);
  return [at.x + position[0], at.y + position[1], at.z + position[2]];
}

/** How something is turned once it is brought along. */
export function broughtTurn({ rotation }: Pose, turn: Quat): Quat {
  return new THREE.Quaternion(...rotation).multiply(new THREE.Quaternion(...turn)).toArray() as Quat;
}

/** A solid where a pose has brought it. People stay upright, whatever they stand on. */
export function brought(solid: Solid, pose: Pose): Solid {
  if (UPRIGHT.has(solid.kind)) {
    const ahead = new THREE.Vector3(1, 0, 0).applyQuaternion(new THREE.Quaternion(...pose.rotation));
    const turn = new THREE.Quaternion().setFromAxisAngle(UP, Math.atan2(ahead.y, ahead.x));
    return { ...solid, position: broughtPlace(pose, solid.position), rotation: broughtTurn({ ...pose, rotation: turn.toArray() as Quat }, solid.rotation) };
  }
  return { ...solid, position: broughtPlace(pose, solid.position), rotation: broughtTurn(pose, solid.rotation), scale: solid.scale * pose.size };
}

/** Brings what drivers move to where it is, in all pictures that do not say otherwise (stands.ts). */
export class Carrying {
  private groups: readonly Carried[] = [];
  private marks: readonly CarrierMark[] = [];
  private rails: Readonly<Record<string, readonly RailLine[]>> = {};
  private marked = new Map<string, Pose>();

  constructor(
    private readonly beams: BeamState,
    private readonly solids: Solids,
  ) {}

  /** Where everything is now. Returns whether anything has moved. */
  set(groups: readonly Carried[]): boolean {
    if (!groups.length && !this.groups.length) return false;
    this.groups = groups;
    this.solids.carry(new Map(groups.flatMap(({ solids, pose }) => solids.map((id) => [id, pose]))));
    this.beams.carry(new Map(groups.flatMap(({ mounts, pose }) => mounts.map((id) => [id, pose]))));
    this.marked = new Map(groups.flatMap(({ marks, pose }) => marks.map((id) => [id, pose])));
    return true;
  }

  setRails(rails: Readonly<Record<string, readonly RailLine[]>>): void {
    this.rails = rails;
  }

  /** The rails of structures where they are now. */
  get railsNow(): Readonly<Record<string, readonly RailLine[]>> {
    if (!this.marked.size) return this.rails;
    return Object.fromEntries(
      Object.entries(this.rails).map(([id, lines]) => {
        const pose = this.marked.get(id);
        return [id, pose ? lines.map((line) => ({ ...line, length_m: line.length_m * pose.size, points: line.points.map((point) => broughtPlace(pose, point)) })) : lines];
      }),
    );
  }

  setMarks(marks: readonly CarrierMark[]): void {
    this.marks = marks;
  }

  /** The marks where they are now. */
  get marksNow(): readonly CarrierMark[] {
    if (!this.marked.size) return this.marks;
    return this.marks.map((mark) => {
      const pose = this.marked.get(mark.id);
      return pose ? { ...mark, position: broughtPlace(pose, mark.position) } : mark;
    });
  }
}
