import { describe, expect, it } from "vitest";
import { type Able, chord, clear, draggedTo, featuresOf, gateOf, gripsOf, OPEN } from "./gate";

const ALL: Able = { askew: Math.PI / 4, whole: Math.PI / 2, ends: false };
const DOORS: Able = { askew: 0, whole: Math.PI / 4, ends: false };
const ENDS: Able = { askew: 0, whole: 0, ends: true };

describe("blades in the gate", () => {
  it("come from the top, left, bottom and right, and go in by as much as their edge is dragged", () => {
    const at = gripsOf(OPEN, ALL).filter((grip) => grip.part === "edge").map(({ x, y }) => [Math.round(x) + 0, Math.round(y) + 0]);
    expect(at).toEqual([[0, 1], [-1, 0], [0, -1], [1, 0]]);
    const left = draggedTo(OPEN, ALL, { blade: 1, part: "edge" }, { x: -0.3, y: 0.6 });
    expect(left.blades[1]?.depth).toBeCloseTo(0.7);
    expect(draggedTo(OPEN, ALL, { blade: 0, part: "edge" }, { x: 0, y: -0.4 }).blades[0]?.depth).toBe(1);
    expect(featuresOf(OPEN, left, ALL)).toEqual({ "blade 2": left.blades[1]?.depth, "blade 2 angle": 0 });
  });

  it("lie along the line from the middle of their edge to where an end is dragged", () => {
    const half = draggedTo(OPEN, ALL, { blade: 0, part: "edge" }, { x: 0, y: 0.5 });
    // The top blade's way is to the left: its end is there.
    const end = gripsOf(half, ALL).find((grip) => grip.blade === 0 && grip.part === "end");
    expect(end?.x).toBeLessThan(0);
    for (const part of ["start", "end"] as const) {
      const side = part === "end" ? -1 : 1;
      const askew = draggedTo(half, ALL, { blade: 0, part }, { x: side * 0.4, y: 0.5 - 0.2 });
      const line = chord(askew, 0) as [{ x: number; y: number }, { x: number; y: number }];
      // Through the pivot and the place dragged to.
      const slope = (line[1].y - line[0].y) / (line[1].x - line[0].x);
      expect(slope).toBeCloseTo((0.3 - 0.5) / (side * 0.4));
    }
    expect(draggedTo(half, ALL, { blade: 0, part: "end" }, { x: -0.1, y: -3 }).blades[0]?.angle).toBeCloseTo(Math.PI / 4);
  });

  it("do only what the type can: doors do not lean, ends are set apart, a set turns within its range", () => {
    const half = draggedTo(OPEN, DOORS, { blade: 2, part: "edge" }, { x: 0, y: -0.5 });
    expect(gripsOf(half, DOORS).map((grip) => grip.part)).toEqual(["edge", "edge", "edge", "edge", "set"]);
    expect(featuresOf(OPEN, half, DOORS)).toEqual({ "blade 3": 0.5 });
    const turned = draggedTo(half, DOORS, { blade: 0, part: "set" }, { x: 0, y: 1 });
    expect(turned.turn).toBeCloseTo(Math.PI / 4);
    expect(draggedTo(half, DOORS, { blade: 0, part: "set" }, { x: -1, y: 0.2 }).turn).toBeCloseTo(Math.PI / 4);
    const ends = draggedTo(draggedTo(OPEN, ENDS, { blade: 0, part: "edge" }, { x: 0, y: 0.5 }), ENDS, { blade: 0, part: "end" }, { x: -0.4, y: 0.42 });
    const values = featuresOf(OPEN, ends, ENDS);
    expect(Object.keys(values)).toEqual(["blade 1", "blade 1 far"]);
    expect((values["blade 1"] as number) + (values["blade 1 far"] as number)).toBeCloseTo(1);
    // What was set so is seen so.
    expect(gateOf(values).blades[0]?.angle).toBeCloseTo(ends.blades[0]?.angle as number);
  });

  it("are where they are driven to until they are held", () => {
    const driven = { blades: [{ depth: 0.3, angle: 0.1 }, ...OPEN.blades.slice(1)], turn: 0.2 };
    expect(gateOf({ "blade 2": 0.4 }, driven)).toEqual({ blades: [driven.blades[0], { depth: 0.4, angle: 0 }, OPEN.blades[2], OPEN.blades[3]], turn: 0.2 });
    expect(chord(OPEN, 0)).toBeNull();
    const half = { ...OPEN, blades: [{ depth: 0.5, angle: 0 }, ...OPEN.blades.slice(1)] };
    expect([clear(half, { x: 0, y: 0.4 }), clear(half, { x: 0, y: 0.6 }), clear(OPEN, { x: 0, y: 1 })]).toEqual([true, false, true]);
  });
});
