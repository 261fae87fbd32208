import * as THREE from "three";
import { describe, expect, it } from "vitest";
import type { Solid, Walls } from "../data";
import { Cutaway, within } from "./cutaway";

const RING: [number, number][] = [[-7, -4.5], [7, -4.5], [7, 4.5], [-7, 4.5]];
const solid = (id: string, screens: Solid["screens"], more: Partial<Solid> = {}): Solid => ({
  id, kind: "wall", mesh: id, position: [0, 0, 0], rotation: [0, 0, 0, 1], albedo: [0.5, 0.5, 0.5], finish: "plain", sheer: [0, 0], scale: 1, screens, ring: [], gaps: [], far: null, least: null, ...more,
});
const ROOM = solid("room", "wall", { ring: RING });
const BEFORE = solid("before", "wall");
const FLAT = solid("flat", "sheet", { position: [0, -2, 0] });
const BEHIND = solid("behind", "sheet", { position: [0, 4, 0] });
const OUTWARD = 5, INWARD = 4, FACING_DOWNSTAGE = 6.75;

function seenFrom(eye: [number, number, number], walls: Walls, drawn = false): Cutaway {
  const camera = drawn ? new THREE.OrthographicCamera() : new THREE.PerspectiveCamera();
  camera.up.set(0, 0, 1);
  camera.position.set(...eye);
  camera.lookAt(0, 1, eye[2]);
  camera.updateMatrixWorld();
  return new Cutaway(camera, walls, [ROOM, BEFORE, FLAT, BEHIND], new THREE.Vector3(0, 1, 1));
}

const face = (point: [number, number, number], normal: [number, number, number], part: number) => ({ point: new THREE.Vector3(...point), normal: new THREE.Vector3(...normal), own: point[2], part });

describe("what stands in the way", () => {
  it("is inside a ring or outside of it", () => {
    expect(within(RING, 0, 0)).toBe(true);
    expect(within(RING, 0, 5)).toBe(false);
    expect(within([], 0, 0)).toBe(false);
  });

  it("of a room is what looks out of it, for who is outside, but for a kerb", () => {
    const outside = seenFrom([0, -20, 3], "rooms");
    expect(outside.hides("room", face([2, -4.6, 2], [0, -1, 0], OUTWARD))).toBe(true);
    expect(outside.hides("room", face([2, -4.6, 0.1], [0, -1, 0], OUTWARD))).toBe(false);
    expect(outside.hides("room", face([2, 4.4, 2], [0, -1, 0], INWARD))).toBe(false);
    // The side of a door goes with its wall.
    expect(outside.hides("room", face([3, -4.5, 2], [1, 0, 0], FACING_DOWNSTAGE))).toBe(true);
    // Whoever stands in the room sees it whole, and so does who asks for it.
    expect(seenFrom([0, -4, 3], "rooms").hides("room", face([2, -4.6, 2], [0, -1, 0], OUTWARD))).toBe(false);
    expect(seenFrom([0, -20, 3], "whole").hides("room", face([2, -4.6, 2], [0, -1, 0], OUTWARD))).toBe(false);
    // In an elevation there is no kerb.
    expect(seenFrom([0, -100, 3], "rooms", true).hides("room", face([2, -4.6, 0.1], [0, -1, 0], OUTWARD))).toBe(true);
  });

  it("is, on demand, every wall before the work, and a flat as a whole", () => {
    const open = face([2, -4.6, 2], [0, -1, 0], INWARD);
    expect(seenFrom([0, -20, 3], "rooms").hides("before", open)).toBe(false);
    const all = seenFrom([0, -20, 3], "front");
    expect(all.hides("before", open)).toBe(true);
    expect(all.hides("before", face([2, 6, 2], [0, -1, 0], INWARD))).toBe(false);
    expect([all.of("flat") > 3, all.of("behind")]).toEqual([true, 0]);
    expect(all.key).not.toBe(seenFrom([0, -3, 3], "front").key);
  });
});
