import * as THREE from "three";
import { describe, expect, it } from "vitest";
import type { Solids } from "../scene/solids";
import { bouncedOn, dimmed, fluxOf } from "./further";
import type { Patch } from "./patch";

/** A closed box of 4 m about the origin whose walls give back a share of the light; a ray meets one of its sides. */
function room(albedo: number, open = false): Solids {
  const hit = (ray: THREE.Raycaster) => {
    const { origin, direction } = ray.ray;
    let best = Infinity;
    let normal = new THREE.Vector3();
    for (const axis of ["x", "y", "z"] as const) {
      if (Math.abs(direction[axis]) < 1e-6) continue;
      const t = (Math.sign(direction[axis]) * 2 - origin[axis]) / direction[axis];
      if (t > 1e-6 && t < best) {
        best = t;
        normal = new THREE.Vector3();
        normal[axis] = -Math.sign(direction[axis]);
      }
    }
    if (open && normal.z === 0) return null;
    return { point: ray.ray.at(best, new THREE.Vector3()), normal, id: "w", distance: best };
  };
  return { hit, get: () => ({ albedo: [albedo, albedo, albedo] }) } as unknown as Solids;
}

const floor: Patch = { point: new THREE.Vector3(0, 0, -1.98), normal: new THREE.Vector3(0, 0, 1), flux: [30, 20, 10], area: 1 };

describe("light that bounces on", () => {
  it("comes to flux . r / (1 - r) in a closed room, in every colour", () => {
    for (const albedo of [0.2, 0.5, 0.8]) {
      const later = bouncedOn([floor], room(albedo), 60);
      expect(fluxOf(later)).toBeCloseTo((60 * albedo) / (1 - albedo), 1);
      const red = later.reduce((sum, one) => sum + one.flux[0], 0);
      expect(red / fluxOf(later)).toBeCloseTo(0.5, 6);
      expect(later.length).toBeLessThanOrEqual(60);
    }
  });

  it("is lost where there is no wall, and none at all where nothing gives it back", () => {
    expect(fluxOf(bouncedOn([floor], room(0.5, true), 60))).toBeLessThan(40);
    expect(fluxOf(bouncedOn([floor], room(0), 60))).toBe(0);
    expect(bouncedOn([], room(0.5), 60)).toHaveLength(0);
  });

  it("lies on the walls, none of it larger than its cell, and is dimmed as a whole", () => {
    const later = bouncedOn([floor], room(0.6), 60);
    for (const { point, area } of later) {
      const away = Math.max(...point.toArray().map(Math.abs));
      expect(away).toBeGreaterThan(1.3);
      expect(away).toBeLessThan(2.01);
      expect(area).toBeLessThan(16);
    }
    expect(fluxOf(dimmed(later, 0.25))).toBeCloseTo(fluxOf(later) / 4, 6);
  });
});
