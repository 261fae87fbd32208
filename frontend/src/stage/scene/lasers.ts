import * as THREE from "three";
import type { Vec3 } from "../data";

/** A head as the live process tells it: its row by key, its light in lumen (3 by 3: of red, green, blue at full), its beam. */
export interface LaserHead {
  key: string;
  lm: readonly number[];
  diameter: number;
  /** Radians, the full angle by which it grows. */
  divergence: number;
}

/** What one head draws: angles to the right and up of its axis (radians, two a place), light to the next place 0..1 (three). */
export interface LaserPath {
  head: number;
  angles: Float32Array;
  light: Float32Array;
}

/** Texels of a piece: its ends; its light in lumen and its beam's row; its beam's width, how that grows, the tangent that its head keeps within, 0. */
const TEXELS = 3;
const PIECES_A_ROW = 320;
/** Pieces are no longer than this, so that each is as good as one beam (radians). */
const LONGEST = 0.006;
const DARK = 1e-5;
/** Round a figure, as a tangent: a shadow tile covers that as well. */
const MARGIN = 0.01;

/** What all lasers draw just now, piece by piece, for the shader: ends of a piece in a head's angles, and its light. */
export class LaserFigures {
  texture = made(1);
  count = 0;
  /** Of each row that draws: the tangent that its figure keeps within about the axis, and its light in lumen. */
  readonly rows = new Map<number, { outer: number; lumen: number }>();
  /** Counts what was shown. */
  version = 0;

  show(heads: readonly LaserHead[], paths: readonly LaserPath[], rowOf: (key: string) => number | undefined): void {
    this.rows.clear();
    let at = 0;
    let data = this.room(paths.reduce((sum, path) => sum + path.angles.length / 2, 0));
    for (const path of paths) {
      const head = heads[path.head];
      const row = head && rowOf(head.key);
      if (!head || row === undefined) continue;
      const n = path.angles.length / 2;
      const first = at;
      let outer = 0;
      let lumen = 0;
      for (let i = 0; i < n; i++) {
        const light = lumens(head.lm, path.light, i);
        const luminance = 0.2127 * light[0] + 0.7152 * light[1] + 0.0722 * light[2];
        if (luminance < DARK && Math.max(...light) < DARK) continue;
        lumen += luminance / n;
        const [a0, b0, a1, b1] = ends(path.angles, i, n);
        outer = Math.max(outer, Math.tan(Math.min(Math.acos(Math.cos(a0) * Math.cos(b0)), 1.3)));
        const parts = Math.max(1, Math.ceil(Math.hypot(a1 - a0, b1 - b0) / LONGEST));
        if ((at + parts) * TEXELS * 4 > data.length) data = this.room((at + parts) * 2);
        for (let k = 0; k < parts; k++, at++) {
          const from = k / parts;
          const to = (k + 1) / parts;
          const t = at * TEXELS * 4;
          data[t] = a0 + (a1 - a0) * from;
          data[t + 1] = b0 + (b1 - b0) * from;
          data[t + 2] = a0 + (a1 - a0) * to;
          data[t + 3] = b0 + (b1 - b0) * to;
          for (let c = 0; c < 3; c++) data[t + 4 + c] = (light[c] as number) / n / parts;
          data[t + 7] = row;
          data[t + 8] = head.diameter;
          data[t + 9] = 2 * Math.tan(head.divergence / 2);
        }
      }
      for (let k = first; k < at; k++) data[k * TEXELS * 4 + 10] = outer + MARGIN;
      if (lumen > 0) this.rows.set(row, { outer: outer + MARGIN, lumen });
    }
    this.count = at;
    this.version += 1;
    this.texture.needsUpdate = true;
  }

  /** The texture's numbers, with room for so many pieces; what is in them stays. */
  private room(pieces: number): Float32Array {
    const rows = Math.max(1, Math.ceil(pieces / PIECES_A_ROW));
    const before = this.texture.image.data as Float32Array;
    if (rows * PIECES_A_ROW * TEXELS * 4 <= before.length) return before;
    this.texture.dispose();
    this.texture = made(2 ** Math.ceil(Math.log2(rows)));
    const data = this.texture.image.data as Float32Array;
    data.set(before);
    return data;
  }
}

function made(rows: number): THREE.DataTexture {
  const texture = new THREE.DataTexture(new Float32Array(PIECES_A_ROW * TEXELS * rows * 4), PIECES_A_ROW * TEXELS, rows, THREE.RGBAFormat, THREE.FloatType);
  texture.minFilter = texture.magFilter = THREE.NearestFilter;
  texture.needsUpdate = true;
  return texture;
}

/** The light from a place on in linear colours, lumen. */
function lumens(lm: readonly number[], light: Float32Array, i: number): Vec3 {
  const [r, g, b] = [light[i * 3] as number, light[i * 3 + 1] as number, light[i * 3 + 2] as number];
  return [0, 1, 2].map((c) => r * (lm[c] as number) + g * (lm[3 + c] as number) + b * (lm[6 + c] as number)) as Vec3;
}

function ends(angles: Float32Array, i: number, n: number): [number, number, number, number] {
  const j = (i + 1) % n;
  return [angles[i * 2] as number, angles[i * 2 + 1] as number, angles[j * 2] as number, angles[j * 2 + 1] as number];
}
