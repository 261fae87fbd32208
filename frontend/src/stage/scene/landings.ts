import * as THREE from "three";
import type { BeamState, Posed } from "./beams";
import type { Solids } from "./solids";

/** Where one ray of a beam lands. */
export interface Hit {
  point: THREE.Vector3;
  normal: THREE.Vector3;
  id: string;
  albedo: [number, number, number];
  distance: number;
}

interface Kept {
  pose: Posed;
  half: number;
  version: number;
  hits: (Hit | null)[];
}

// The axis and four rays on the ring that halves what is left: a fifth of the flux of an even beam each.
const RAYS: readonly [number, number][] = [[0, 0], [0.72, 0], [-0.72, 0], [0, 0.72], [0, -0.72]];
const BEAMS_A_TIME = 10;
/** A frame takes no longer for them than this. */
const TIME_MS = 0.4;

/** Poses are kept from frame to frame: mostly it is the very same one. */
const alike = (a: Posed, b: Posed): boolean => a === b || (a.lens.distanceToSquared(b.lens) < 1e-6 && a.along.distanceToSquared(b.along) < 1e-6);

/**
 * Where beams land, for light that bounces and for numbers on the floor: a few beams a frame, the brightest first. People are
 * passed through.
 */
export class Landings {
  private readonly kept = new Map<string, Kept>();
  private readonly ranked = new Map<string, { version: number; placed: number; rows: number[] }>();
  private readonly caster = new THREE.Raycaster();

  constructor(
    private readonly beams: BeamState,
    private readonly solids: Solids,
  ) {
    this.caster.far = 80;
    this.caster.firstHitOnly = true;
  }

  /** The hits of a row's beam in a picture, if they are known; they may be a moment old. */
  of(row: number, picture: string): (Hit | null)[] | null {
    return this.kept.get(`${picture}/${row}`)?.hits ?? null;
  }

  /** Bring some of these rows up to date. Returns whether all of them are. */
  update(rows: number[], picture: string, most = BEAMS_A_TIME): boolean {
    let left = most;
    const until = performance.now() + TIME_MS;
    if (this.kept.size > 20_000) this.kept.clear();
    for (const row of rows) {
      const pose = this.beams.poseRow(row, picture);
      if (!pose) continue;
      const { half } = this.beams.cone(row, picture);
      const key = `${picture}/${row}`;
      const old = this.kept.get(key);
      if (old && old.version === this.solids.version && Math.abs(old.half - half) < 1e-3 && alike(old.pose, pose)) continue;
      // At least one of them, however long it took to look through the others.
      const late = most === BEAMS_A_TIME && left < most && performance.now() > until;
      if (left-- <= 0 || late) return false;
      const up = new THREE.Vector3().crossVectors(pose.side, pose.along);
      const wide = Math.tan(half);
      const hits = RAYS.map(([x, y]) => {
        const way = pose.along.clone().addScaledVector(pose.side, x * wide).addScaledVector(up, y * wide).normalize();
        this.caster.set(pose.lens, way);
        const hit = this.solids.hit(this.caster, false);
        const solid = hit && this.solids.get(hit.id);
        return hit && solid ? { point: hit.point.clone(), normal: hit.normal, id: hit.id, albedo: solid.albedo, distance: hit.distance } : null;
      });
      this.kept.set(key, { pose, half, version: this.solids.version, hits });
    }
    return true;
  }

  /** The rows that put out light in a picture, the brightest first, at most `most`. */
  lit(picture: string, most: number): number[] {
    const { version } = this.beams.pictures.get(picture) ?? { version: 0 };
    const known = this.ranked.get(picture);
    if (known?.version === version && known.placed === this.beams.placed) return known.rows.slice(0, most);
    const rows: { row: number; weight: number }[] = [];
    for (let row = 0; row < this.beams.count; row++) {
      const weight = this.beams.luminance(row, picture);
      if (weight > 0.5) {
        const half = this.beams.field(row, picture, "field") / 2;
        rows.push({ row, weight: weight * half * half });
      }
    }
    rows.sort((a, b) => b.weight - a.weight);
    if (this.ranked.size > 8) this.ranked.clear();
    this.ranked.set(picture, { version, placed: this.beams.placed, rows: rows.map((one) => one.row) });
    return rows.slice(0, most).map((one) => one.row);
  }
}
