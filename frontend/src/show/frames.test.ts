import { describe, expect, it } from "vitest";
import { DELTA, FrameReader, FULL, LEVELS } from "./frames";

const scaling = { rig: 7, scale: [0.5, 2], offset: [-1, 0] };

function message(kind: number, sequence: number, rig: number, count: number, changed: number, body: number[], beams: number[] = []): ArrayBuffer {
  const data = new ArrayBuffer(32 + beams.length * 4 + body.length * 2);
  const head = new DataView(data);
  head.setUint32(0, sequence, true);
  head.setUint8(4, kind);
  head.setUint8(5, 2);
  head.setUint16(6, rig, true);
  head.setFloat64(8, 10, true);
  head.setFloat64(16, 11, true);
  head.setUint32(24, count, true);
  head.setUint32(28, changed, true);
  beams.forEach((beam, i) => head.setUint32(32 + i * 4, beam, true));
  body.forEach((value, i) => head.setUint16(32 + beams.length * 4 + i * 2, value, true));
  return data;
}

describe("frames", () => {
  it("scales a full frame as the patch says", () => {
    const read = new FrameReader().read(message(FULL, 1, 7, 2, 0, [4, 5, 6, 7]), scaling);
    expect(read).toMatchObject({ kind: "frame", rig: 7, came: 10, left: 11 });
    expect(read.kind === "frame" && [...read.values]).toEqual([1, 10, 2, 14]);
  });

  it("lays a delta over the frame before it", () => {
    const reader = new FrameReader();
    reader.read(message(FULL, 1, 7, 2, 0, [4, 5, 6, 7]), scaling);
    const read = reader.read(message(DELTA, 2, 7, 2, 1, [8, 9], [1]), scaling);
    expect(read.kind === "frame" && [...read.values]).toEqual([1, 10, 3, 18]);
  });

  it("does not lay a delta over a frame that it does not belong to", () => {
    const reader = new FrameReader();
    reader.read(message(FULL, 1, 7, 2, 0, [4, 5, 6, 7]), scaling);
    expect(reader.read(message(DELTA, 3, 7, 2, 1, [8, 9], [1]), scaling).kind).toBe("skipped");
  });

  it("skips frames of another patch and rubbish", () => {
    const reader = new FrameReader();
    expect(reader.read(message(FULL, 1, 8, 1, 0, [1, 2]), scaling).kind).toBe("skipped");
    expect(reader.read(new ArrayBuffer(5), scaling).kind).toBe("skipped");
  });

  it("reads the levels of a universe", () => {
    const data = message(LEVELS, 1, 0, 3, 0, new Array<number>(256).fill(0x0201));
    const read = new FrameReader().read(data, null);
    expect(read).toMatchObject({ kind: "levels", universe: 3 });
    expect(read.kind === "levels" && [...read.levels.slice(0, 3)]).toEqual([1, 2, 1]);
  });
});
