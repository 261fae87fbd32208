import { describe, expect, test } from "vitest";
import { areaOf, bulgeThrough, curveThrough, sampledLines, snap, type SnapTo } from "./draw";

const to: SnapTo = { corners: [[2, 2]], lines: [[[0, 4], [6, 4]], [[5, 0], [5, 8]]], grid: 0.5, last: null, before: null };
const plain = { locked: false, free: false };

describe("snapping", () => {
  test("a corner, a crossing and a middle come before the grid", () => {
    expect(snap([2.05, 1.96], 0.1, to, plain)).toEqual({ at: [2, 2], why: "corner" });
    expect(snap([5.04, 3.97], 0.1, to, plain)).toEqual({ at: [5, 4], why: "crossing" });
    expect(snap([3.06, 4.02], 0.1, to, plain)).toEqual({ at: [3, 4], why: "middle" });
  });
  test("datums, lines, then the grid", () => {
    expect(snap([0.04, 2.6], 0.1, to, plain)).toEqual({ at: [0, 2.5], why: "centre line" });
    expect(snap([1.2, -0.03], 0.1, to, plain)).toEqual({ at: [1, 0], why: "setting line" });
    expect(snap([1.23, 4.03], 0.1, to, plain)).toEqual({ at: [1.23, 4], why: "on a line" });
    expect(snap([1.2, 1.3], 0.1, to, plain)).toEqual({ at: [1, 1.5], why: "" });
  });
  test("square to the last line, straight with a key, free with another", () => {
    const drawn = { ...to, before: [1, 1] as [number, number], last: [3, 3] as [number, number] };
    const square = snap([1.52, 4.55], 0.1, { ...drawn, lines: [] }, plain);
    expect(square.why).toBe("square");
    expect(square.at[0] + square.at[1]).toBeCloseTo(6);
    expect(snap([7.1, 3.4], 0.1, drawn, { locked: true, free: false })).toEqual({ at: [7, 3], why: "straight across" });
    expect(snap([2.01, 2.01], 0.1, to, { locked: false, free: true })).toEqual({ at: [2.01, 2.01], why: "" });
  });
});

test("areas of straight outlines and of a circle by two bulges", () => {
  expect(areaOf([[0, 0, 0], [4, 0, 0], [4, 3, 0], [0, 3, 0]])).toBeCloseTo(12);
  expect(areaOf([[-1, 0, 1], [1, 0, 1]])).toBeCloseTo(Math.PI, 1);
  expect(sampledLines([[0, 0, 0], [4, 0, 0], [4, 3, 0]], false).length).toBe(2);
});

describe("curves and arcs", () => {
  test("an arc through a click: half a circle on the right of its way has a bulge of 1", () => {
    expect(bulgeThrough([0, 0], [2, 0], [1, -1])).toBeCloseTo(1);
    expect(bulgeThrough([0, 0], [2, 0], [1, 1])).toBeCloseTo(-1);
    // A quarter: the tangent of 22.5 degrees.
    expect(Math.abs(bulgeThrough([1, 0], [0, 1], [Math.SQRT1_2, Math.SQRT1_2]))).toBeCloseTo(Math.tan(Math.PI / 8));
    expect(bulgeThrough([0, 0], [2, 0], [1, 0])).toBe(0);
  });
  test("the arc really passes through the place", () => {
    const [a, b, p] = [[1, 2], [5, 1], [4, 4]] as [[number, number], [number, number], [number, number]];
    const line = sampledLines([[...a, bulgeThrough(a, b, p)], [...b, 0]], false)[0] ?? [];
    const nearest = Math.min(...line.map(([x, y]) => Math.hypot(x - p[0], y - p[1])));
    expect(nearest).toBeLessThan(0.15);
  });
  test("a curve passes through its places and stays near them", () => {
    const places: [number, number, number][] = [[0, 0, 0], [2, 1, 0], [4, 0, 0], [6, 3, 0]];
    const open = curveThrough(places, false);
    expect(open[0]).toEqual([0, 0, 0]);
    expect(open.at(-1)).toEqual([6, 3, 0]);
    for (const [x, y] of places) expect(Math.min(...open.map((one) => Math.hypot(one[0] - x, one[1] - y)))).toBeLessThan(1e-3);
    // Eight places on a circle: a closed curve through them is nearly the circle.
    const circle = Array.from({ length: 8 }, (_, i): [number, number, number] => [Math.cos((i * Math.PI) / 4), Math.sin((i * Math.PI) / 4), 0]);
    const round = curveThrough(circle, true);
    expect(round).toHaveLength(64);
    expect(areaOf(round)).toBeGreaterThan(0.96 * Math.PI);
    expect(areaOf(round)).toBeLessThan(1.01 * Math.PI);
  });
  test("two places are a straight line", () => {
    expect(curveThrough([[0, 0, 0], [1, 1, 0]], false)).toEqual([[0, 0, 0], [1, 1, 0]]);
  });
});
