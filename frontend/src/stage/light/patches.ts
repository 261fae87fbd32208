import * as THREE from "three";
import type { BeamState } from "../scene/beams";
import type { FieldName } from "../scene/fields";
import type { Hit, Landings } from "../scene/landings";
import type { Solids } from "../scene/solids";
import { bouncedOn, dimmed, fluxOf } from "./further";
import { merged, type Patch } from "./patch";

const PATCHES = 52;
const LATER = 96;
const ROWS = PATCHES + LATER;
const BEAMS_MOST = 160;
const RAY_SHARE = 0.2;

/** What gobos let through on the whole, and the solid angles of webs, by their number in the frame. */
export interface Means {
  gobos: number[];
  webs: number[];
}

/** The solid angle that a beam fills evenly with its peak: flux = peak candela . this (numbers.md, Beam). */
export function effectiveAngle(beams: BeamState, row: number, picture: string, means: Means): number {
  const value = (field: FieldName) => beams.field(row, picture, field);
  const { half } = beams.cone(row, picture);
  const web = Math.round(value("web"));
  if (web > 0) return means.webs[web] ?? 0;
  const field = 2 * half;
  const beam = Math.max(value("beam"), 0.002);
  const iris = value("iris");
  if (value("hard") > 0.5) {
    const u = Math.tan(beam / 2) / Math.tan(half);
    const h = beam < field * 0.999 ? Math.min(Math.max(0.5 / (u * u), 0), 0.9) : 0.1;
    const stop = iris < 0.995 ? iris : 1;
    let open = 2 * Math.PI * (1 - Math.cos(half)) * (1 - (h / 2) * stop * stop) * stop * stop;
    for (const gobo of ["gobo", "gobo2"] as const) open *= means.gobos[Math.round(value(gobo))] ?? 1;
    // What a blade at depth d cuts off a disc: the segment beyond its chord.
    for (const blade of ["blade1", "blade2", "blade3", "blade4"] as const) {
      const d = value(blade);
      if (d <= 0.002) continue;
      const from = Math.min(Math.max(1 - d, -1), 1);
      open *= 1 - (Math.acos(from) - from * Math.sqrt(1 - from * from)) / Math.PI;
    }
    return Math.max(open, 0);
  }
  const f = Math.max(field, 1.1 * beam);
  const p = Math.min(Math.max(Math.log(Math.log2(10)) / Math.log(f / beam), 1), 12.6);
  const last = Math.min(1.5 * (f / 2), Math.PI / 2);
  let sum = 0;
  for (let i = 0; i < 24; i++) {
    const t = ((i + 0.5) / 24) * last;
    const s = Math.min(Math.max((t - f / 2) / (last - f / 2), 0), 1);
    sum += 2 ** -(((2 * t) / beam) ** p) * (1 - s * s * (3 - 2 * s)) * Math.sin(t);
  }
  return (sum * last * 2 * Math.PI) / 24;
}

const PAUSE = 30;
const PAUSE_MS = 90;

/** The lit patches of a picture as a texture for light/bounce.frag.glsl. */
export class Patches {
  readonly texture = new THREE.DataTexture(new Float32Array(ROWS * 12), 3, ROWS, THREE.RGBAFormat, THREE.FloatType);
  /** How many patches are lit by beams; those that are lit by others follow them. */
  count = 0;
  further = 0;
  list: Patch[] = [];
  private later: { patches: Patch[]; flux: number } = { patches: [], flux: 0 };
  private made = "";
  /** When it may be made anew: what it costs is kept to a small share of the time. */
  private due = 0;

  constructor(
    private readonly beams: BeamState,
    private readonly landings: Landings,
    private readonly solids: Solids,
  ) {
    this.texture.minFilter = this.texture.magFilter = THREE.NearestFilter;
    this.texture.needsUpdate = true;
  }

  /** Bring the patches of a picture up to date, as far as a frame allows; with `catchUp` also where beams land. Returns whether nothing is left to do. */
  update(picture: string, version: string, means: Means, atOnce: boolean, catchUp = true): boolean {
    if (version === this.made) return true;
    const rows = this.landings.lit(picture, BEAMS_MOST);
    const done = (catchUp || atOnce) && this.landings.update(rows, picture, atOnce ? BEAMS_MOST : undefined);
    const from = performance.now();
    if (!atOnce && from < this.due) return false;
    const found: Patch[] = [];
    for (const row of rows) {
      const hits = this.landings.of(row, picture);
      if (!hits) continue;
      const angle = effectiveAngle(this.beams, row, picture, means);
      const candela = this.beams.candelaRow(row, picture);
      const { half } = this.beams.cone(row, picture);
      for (const hit of hits) if (hit) found.push(patchOf(hit, candela, angle, half));
    }
    this.list = merged(found, PATCHES);
    const flux = fluxOf(this.list);
    // Light is followed through the room while nothing moves; until then its later bounces go with the first.
    if (atOnce) this.later = { patches: bouncedOn(this.list, this.solids, LATER), flux };
    else if (this.later.flux > 0) this.later = { patches: dimmed(this.later.patches, flux / this.later.flux), flux };
    this.write();
    this.made = done && atOnce ? version : "";
    this.due = from + Math.max((performance.now() - from) * PAUSE, PAUSE_MS);
    return done && atOnce;
  }

  private write(): void {
    const data = this.texture.image.data as Float32Array;
    data.fill(0);
    [...this.list, ...this.later.patches].forEach((patch, i) => {
      data.set([...patch.point.toArray(), patch.area], i * 12);
      data.set([...patch.normal.toArray(), 0], i * 12 + 4);
      data.set([...patch.flux, 0], i * 12 + 8);
    });
    this.count = this.list.length;
    this.further = this.later.patches.length;
    this.texture.needsUpdate = true;
  }

  dispose(): void {
    this.texture.dispose();
  }
}

function patchOf(hit: Hit, candela: [number, number, number], angle: number, half: number): Patch {
  const across = hit.distance * Math.tan(half);
  const flux = candela.map((one, c) => Math.max(one, 0) * angle * RAY_SHARE * (hit.albedo[c] as number)) as [number, number, number];
  // A fifth of the pool, longer where it lands aslant.
  return { point: hit.point.clone().addScaledVector(hit.normal, 0.02), normal: hit.normal, flux, area: Math.max(Math.PI * across * across * RAY_SHARE * 1.3, 0.01) };
}
