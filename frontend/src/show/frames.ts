import type { LaserPath } from "../stage/scene/lasers";

/** The wire format of links/frames.py: a 32-byte header, then u16 fields scaled as the patch says. */

export const FULL = 1;
export const DELTA = 2;
export const LEVELS = 3;
export const POSES = 4;
export const LASERS = 5;
/** Of the angles of lasers, in radians. */
const ANGLE_STEP = Math.PI / 180 / 200;

export interface Scaling {
  rig: number;
  scale: number[];
  offset: number[];
}

export type Message =
  | { kind: "frame"; rig: number; sequence: number; came: number; left: number; values: Float32Array }
  | { kind: "poses"; plan: number; values: Float32Array }
  | { kind: "lasers"; plan: number; paths: LaserPath[] }
  | { kind: "levels"; universe: number; levels: Uint8Array }
  | { kind: "skipped"; why: string };

/** Keeps the last frame, so that deltas can be laid over it. */
export class FrameReader {
  private raw: Uint16Array = new Uint16Array(0);
  private sequence = -1;

  read(data: ArrayBuffer, scaling: Scaling | null): Message {
    if (data.byteLength < 32) return { kind: "skipped", why: "too short" };
    const head = new DataView(data);
    const sequence = head.getUint32(0, true);
    const kind = head.getUint8(4);
    const fields = head.getUint8(5);
    const rig = head.getUint16(6, true);
    const count = head.getUint32(24, true);
    if (kind === LEVELS) return { kind: "levels", universe: count, levels: new Uint8Array(data, 32, 512) };
    if (kind === POSES) return { kind: "poses", plan: rig, values: new Float32Array(data.slice(32, 32 + count * 32)) };
    if (kind === LASERS) return { kind: "lasers", plan: rig, paths: laserPaths(data, count) };
    if (!scaling || (scaling.rig & 0xffff) !== rig) return { kind: "skipped", why: "of another patch" };
    if (kind === FULL) this.raw = new Uint16Array(data.slice(32, 32 + count * fields * 2));
    else if (kind === DELTA) {
      if (sequence !== this.sequence + 1 || this.raw.length !== count * fields) return { kind: "skipped", why: "a frame was missed" };
      const changed = head.getUint32(28, true);
      const beams = new Uint32Array(data.slice(32, 32 + changed * 4));
      const values = new Uint16Array(data.slice(32 + changed * 4));
      beams.forEach((beam, i) => this.raw.set(values.subarray(i * fields, (i + 1) * fields), beam * fields));
    } else return { kind: "skipped", why: "of an unknown kind" };
    this.sequence = sequence;
    const values = new Float32Array(this.raw.length);
    for (let i = 0; i < values.length; i++) {
      const field = i % fields;
      values[i] = (this.raw[i] as number) * (scaling.scale[field] ?? 0) + (scaling.offset[field] ?? 0);
    }
    return { kind: "frame", rig, sequence, came: head.getFloat64(8, true), left: head.getFloat64(16, true), values };
  }
}

/** What lasers draw: a table of heads and their numbers of places, then the places of all. */
function laserPaths(data: ArrayBuffer, count: number): LaserPath[] {
  const view = new DataView(data);
  let at = 32 + count * 4;
  return Array.from({ length: count }, (_, i) => {
    const head = view.getUint16(32 + i * 4, true);
    const n = view.getUint16(34 + i * 4, true);
    const angles = new Float32Array(n * 2);
    const light = new Float32Array(n * 3);
    for (let k = 0; k < n; k++, at += 8) {
      angles[k * 2] = view.getInt16(at, true) * ANGLE_STEP;
      angles[k * 2 + 1] = view.getInt16(at + 2, true) * ANGLE_STEP;
      for (let c = 0; c < 3; c++) light[k * 3 + c] = view.getUint8(at + 4 + c) / 255;
    }
    return { head, angles, light };
  });
}
