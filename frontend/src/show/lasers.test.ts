// @vitest-environment jsdom
import { beforeEach, describe, expect, it, vi } from "vitest";
import { LaserFigures } from "../stage/scene/lasers";
import { FrameReader, LASERS } from "./frames";
import { chosenLasers, hearLasers, hearPaths, laserIds, onLasers, useLasers } from "./lasers";
import { useSelection } from "./selection";
import type { LasersEvent } from "./types";

const WHITE = [1, 0, 0, 0, 1, 0, 0, 0, 1].map((one) => one * 300);
const told = (plan: number, ...keys: string[]): LasersEvent => ({ event: "lasers", plan, testing: [], alone: null, heads: keys.map((key) => ({ key, number: null, lm: WHITE, diameter_m: 0.005, divergence_mrad: 1.1 })) });

/** A message of lasers: heads with their places (angles in hundredths of a degree, red, green, blue). */
function message(plan: number, heads: [number, [number, number, number, number, number][]][]): ArrayBuffer {
  const total = heads.reduce((sum, [, places]) => sum + places.length, 0);
  const data = new ArrayBuffer(32 + heads.length * 4 + total * 8);
  const view = new DataView(data);
  view.setUint8(4, LASERS);
  view.setUint16(6, plan, true);
  view.setUint32(24, heads.length, true);
  let at = 32 + heads.length * 4;
  heads.forEach(([head, places], i) => {
    view.setUint16(32 + i * 4, head, true);
    view.setUint16(34 + i * 4, places.length, true);
    for (const [a, b, ...rgb] of places) {
      view.setInt16(at, a * 2, true);
      view.setInt16(at + 2, b * 2, true);
      rgb.forEach((one, c) => view.setUint8(at + 4 + c, one));
      at += 8;
    }
  });
  return data;
}

beforeEach(() => useLasers.setState({ told: told(0), feed: null, zones: null, shown: false }));

describe("what lasers draw", () => {
  it("is read head by head, with angles in radians and light in shares", () => {
    const read = new FrameReader().read(message(7, [[2, [[1000, -500, 255, 0, 51], [0, 0, 0, 0, 0]]], [0, []]]), null);
    if (read.kind !== "lasers") throw new Error(read.kind);
    expect([read.plan, read.paths.length]).toEqual([7, 2]);
    expect(read.paths[0]?.head).toBe(2);
    expect([...(read.paths[0]?.angles ?? [])].map((one) => Number(((one * 180) / Math.PI).toFixed(4)))).toEqual([10, -5, 0, 0]);
    expect([...(read.paths[0]?.light ?? [])].slice(0, 3)).toEqual([1, 0, expect.closeTo(0.2)]);
  });

  it("goes to whoever listens by the plan that it is of; another plan begins dark", () => {
    const heard = vi.fn();
    const stop = onLasers(heard);
    hearLasers(told(65537, "a", "b/2"));
    expect(heard).toHaveBeenLastCalledWith(expect.anything(), []);
    const path = { head: 0, angles: new Float32Array(2), light: new Float32Array(3) };
    hearPaths(9, [path]);
    expect(heard.mock.lastCall?.[1]).toEqual([]);
    hearPaths(1, [path]);
    expect(heard.mock.lastCall?.[1]).toEqual([path]);
    hearLasers(told(65538, "a"));
    expect(heard.mock.lastCall?.[1]).toEqual([]);
    stop();
    expect(laserIds()).toEqual(["a"]);
    useSelection.setState({ selection: ["x", "a"] });
    expect(chosenLasers()).toEqual(["a"]);
  });
});

describe("figures", () => {
  const heads = [{ key: "a", lm: WHITE, diameter: 0.005, divergence: 0.001 }];
  const path = (angles: number[], light: number[]) => ({ head: 0, angles: new Float32Array(angles), light: new Float32Array(light) });
  const texel = (figures: LaserFigures, piece: number, k: number) => [...(figures.texture.image.data as Float32Array).slice(piece * 12 + k * 4, piece * 12 + k * 4 + 4)];

  it("are pieces with their light in lumen; what is dark is left out, what is long is cut up with no light lost", () => {
    const figures = new LaserFigures();
    // Lit from the first place to the second only: 0.0116 radians, two pieces. Each way takes a third of the time.
    figures.show(heads, [path([0, 0, 0.0116, 0, 0, 0.1], [0, 1, 0, 0, 0, 0, 0, 0, 0])], () => 5);
    expect(figures.count).toBe(2);
    expect(texel(figures, 0, 0)).toEqual([0, 0, expect.closeTo(0.0058), 0]);
    expect(texel(figures, 1, 1)).toEqual([0, expect.closeTo(50, 3), 0, 5]);
    expect(texel(figures, 0, 2).slice(0, 2)).toEqual([expect.closeTo(0.005), expect.closeTo(0.001)]);
    expect(figures.rows.get(5)?.lumen).toBeCloseTo((300 * 0.7152) / 3, 2);
    expect(figures.rows.get(5)?.outer).toBeCloseTo(0.01, 2);
  });

  it("have room for all that 64 heads draw, and are nothing once nobody draws", () => {
    const figures = new LaserFigures();
    const n = 512;
    const round = Array.from({ length: n }, (_, i) => [0.2 * Math.cos((i / n) * 2 * Math.PI), 0.2 * Math.sin((i / n) * 2 * Math.PI)]).flat();
    const many = Array.from({ length: 64 }, () => path(round, new Array(n * 3).fill(1) as number[]));
    figures.show(heads, many, () => 1);
    expect(figures.count).toBe(64 * n);
    expect(texel(figures, 64 * n - 1, 1)[1]).toBeCloseTo(300 / n, 3);
    figures.show(heads, [], () => 1);
    expect([figures.count, figures.rows.size]).toEqual([0, 0]);
    // Of a head that the patch does not have nothing is drawn.
    figures.show(heads, [path([0, 0], [1, 1, 1])], () => undefined);
    expect(figures.count).toBe(0);
  });
});
