import * as THREE from "three";
import type { Solids } from "../scene/solids";
import { merged, type Patch } from "./patch";

const SOURCES = 40;
const WAYS = 16;
const GENERATIONS = 6;
/** A room that gives back more than this share of its light each time would never come to rest. */
const SHARE_MOST = 0.93;
const LEAST = 0.02;
const GOLDEN = 2.399963;

const sum = ([r, g, b]: readonly [number, number, number]): number => r + g + b;
/** All light that patches give back, lumen over all colours. */
export const fluxOf = (patches: readonly Patch[]): number => patches.reduce((whole, one) => whole + sum(one.flux), 0);

/** Directions over a hemisphere, as many as the cosine asks for; each source turns them its own way. */
function ways(normal: THREE.Vector3, turn: number): THREE.Vector3[] {
  const side = new THREE.Vector3(Math.abs(normal.x) < 0.9 ? 1 : 0, Math.abs(normal.x) < 0.9 ? 0 : 1, 0).cross(normal).normalize();
  const up = new THREE.Vector3().crossVectors(normal, side);
  return Array.from({ length: WAYS }, (_, k) => {
    const share = (k + 0.5) / WAYS;
    const [r, z, a] = [Math.sqrt(share), Math.sqrt(1 - share), k * GOLDEN + turn];
    return side.clone().multiplyScalar(r * Math.cos(a)).addScaledVector(up, r * Math.sin(a)).addScaledVector(normal, z);
  });
}

/**
 * Where light that bounced once goes on to, again and again: lit patches of all later generations. Each sends its light on in
 * a few directions; what the last one would still do follows from how much each gave back of the one before.
 */
export function bouncedOn(first: readonly Patch[], solids: Solids, most: number): Patch[] {
  const all: Patch[] = [];
  const caster = new THREE.Raycaster();
  caster.far = 80;
  caster.firstHitOnly = true;
  const whole = fluxOf(first);
  let before = [...first];
  for (let generation = 0; generation < GENERATIONS && before.length; generation++) {
    const next: Patch[] = [];
    merged(before, SOURCES, generation > 0).forEach((source, i) => {
      for (const way of ways(source.normal, i * 1.3 + generation)) {
        caster.set(source.point, way);
        const hit = solids.hit(caster, false);
        const albedo = hit && solids.get(hit.id)?.albedo;
        if (!hit || !albedo) continue;
        const slant = Math.max(Math.abs(hit.normal.dot(way)), 0.1);
        next.push({
          point: hit.point.clone().addScaledVector(hit.normal, 0.02), normal: hit.normal.clone(),
          flux: source.flux.map((one, c) => (one * (albedo[c] as number)) / WAYS) as [number, number, number],
          area: Math.max((Math.PI * hit.distance * hit.distance) / WAYS / slant, 0.02),
        });
      }
    });
    const given = fluxOf(next);
    const share = Math.min(given / Math.max(fluxOf(before), 1e-9), SHARE_MOST);
    const last = generation === GENERATIONS - 1 || given < LEAST * whole;
    // All that would still follow, where this one is.
    if (last) for (const one of next) one.flux = one.flux.map((part) => part / (1 - share)) as [number, number, number];
    all.push(...next);
    if (last) break;
    before = next;
  }
  return merged(all, most, true);
}

/** The same patches with another amount of light, for while there is no time to follow it. */
export function dimmed(patches: readonly Patch[], by: number): Patch[] {
  return patches.map((one) => ({ ...one, flux: one.flux.map((part) => part * by) as [number, number, number] }));
}
