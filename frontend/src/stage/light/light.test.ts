import * as THREE from "three";
import { describe, expect, it } from "vitest";
import type { Body, Mounted, PatchInfo } from "../data";
import tables from "../../../tables.json";
import { BeamState } from "../scene/beams";
import type { FieldName } from "../scene/fields";
import { placeLabels } from "../tools/placing";
import { wantedFor } from "./eye";
import { Pace } from "./pace";
import { merged, type Patch } from "./patch";
import { effectiveAngle } from "./patches";
import { advice, Governor } from "./quality";

describe("the governor", () => {
  const frames = (governor: Governor, ms: number, from: number, count: number) => {
    for (let i = 0; i < count; i++) governor.took(ms, from + i * ms, true);
    return from + count * ms;
  };

  it("finds at once what keeps the rate, resolution before quality, and goes up a rung at a time when there is room", () => {
    const governor = new Governor();
    // The first picture of all is there at once.
    expect(governor.rung(false)).toEqual({ step: "Build", share: 0.25 });
    governor.refined(20, 9000);
    expect(governor.rung(false)).toEqual({ step: "Depth", share: 1 });
    // A frame that takes twice what is allowed: half of the pixels do.
    let now = frames(governor, 60, 10_000, 1);
    expect(governor.rung(false)).toEqual({ step: "Depth", share: 0.5 });
    now = frames(governor, 4000, now + 5000, 1);
    expect(governor.rung(false)).toEqual({ step: "Build", share: 0.25 });
    now = frames(governor, 4000, now + 2000, 2);
    expect(governor.rung(false)).toEqual({ step: "Build", share: 0.25 });
    now = frames(governor, 5, now + 2000, 3);
    expect(governor.rung(false)).toEqual({ step: "Build", share: 0.35 });
    frames(governor, 5, now + 2000, 3);
    expect(governor.rung(false)).toEqual({ step: "Build", share: 0.5 });
  });

  it("begins to move at what the last whole picture forecasts", () => {
    const governor = new Governor();
    governor.refined(3200, 1000);
    expect(governor.rung(false)).toEqual({ step: "Build", share: 0.25 });
    const quick = new Governor();
    quick.refined(20, 1000);
    expect(quick.rung(false)).toEqual({ step: "Depth", share: 1 });
    // Moved before it was whole once, on a machine that is quick: there is no need to climb.
    const early = new Governor();
    frames(early, 3, 1000, 2);
    early.refined(20, 2000);
    expect(early.rung(false)).toEqual({ step: "Depth", share: 1 });
    const middling = new Governor();
    middling.refined(60, 1000);
    expect(middling.rung(false)).toEqual({ step: "Depth", share: 0.5 });
  });

  it("shows everything while nothing moves, and a chosen step whole, always", () => {
    const governor = new Governor();
    frames(governor, 300, 10_000, 30);
    expect(governor.refines).toBe(true);
    expect(governor.rung(true)).toEqual({ step: "Depth", share: 1 });
    governor.wish = { ...governor.wish, rests: true };
    expect(governor.refines).toBe(false);
    governor.wish = { ...governor.wish, step: "Air", rests: false };
    expect([governor.rung(true), governor.rung(false), governor.refines]).toEqual([{ step: "Air", share: 1 }, { step: "Air", share: 1 }, false]);
  });

  it("rests after each frame so that the cap holds", () => {
    const governor = new Governor();
    governor.wish = { step: "Depth", fps: 25, cap: 0.5 };
    governor.took(100, 1000, true);
    expect(governor.mayDraw(1090)).toBe(false);
    expect(governor.mayDraw(1101)).toBe(true);
    expect(governor.load(1100)).toBeCloseTo(0.1);
  });

  it("says what a forecast means", () => {
    const wish = { step: "auto", fps: 25, cap: 1 } as const;
    const at = (fps: number[]) => (["Build", "Air", "Pattern", "Depth"] as const).map((step, i) => ({ step, fps: fps[i] ?? 0, ms: 1000 / (fps[i] ?? 1) }));
    expect(advice(at([90, 80, 60, 40]), wish)).toContain("shows everything");
    expect(advice(at([90, 30, 10, 5]), wish)).toContain("Up to Air");
    expect(advice(at([3, 1, 1, 1]), wish)).toContain("stays below 25");
  });
});

describe("slices", () => {
  it("cut long passes into bands and take short ones together, as they turn out to be", () => {
    const pace = new Pace();
    expect(pace.bands("pools")).toBe(1);
    pace.sliced = true;
    pace.began("tone", 1);
    pace.took(2);
    for (let k = 0; k < 6; k++) {
      pace.began("pools", 1 / pace.bands("pools"));
      pace.took(600 / pace.bands("pools"));
    }
    expect(pace.bands("pools")).toBeGreaterThan(6);
    pace.began("tone", 1);
    expect(pace.full).toBe(false);
    pace.began("pools", 1 / pace.bands("pools"));
    expect(pace.full).toBe(true);
  });
});

describe("labels", () => {
  const width = ({ text }: { text: string }) => text.length * 7;

  it("lie beside each other, never over another, and those without room are left out", () => {
    const crowd = Array.from({ length: 40 }, (_, i) => ({ text: `${100 + i}`, x: 200 + (i % 3), y: 200, tone: "body" as const }));
    const placed = placeLabels(crowd, width);
    expect(placed.length).toBeGreaterThan(4);
    expect(placed.length).toBeLessThan(40);
    for (const [i, a] of placed.entries()) {
      for (const b of placed.slice(i + 1)) {
        const apart = a.left >= b.left + b.width || b.left >= a.left + a.width || Math.abs(a.top - b.top) >= 15;
        expect(apart).toBe(true);
      }
    }
  });

  it("keep their first place when there is room, the first ones first", () => {
    const [first, second] = placeLabels([{ text: "1", x: 50, y: 50, tone: "chosen" }, { text: "2", x: 52, y: 50, tone: "body" }], width);
    expect(first?.aside).toBe(false);
    expect(second?.aside).toBe(true);
  });

  it("take no time for hundreds", () => {
    const many = Array.from({ length: 800 }, (_, i) => ({ text: `${i}`, x: (i % 40) * 30, y: Math.floor(i / 40) * 20, tone: "body" as const }));
    expect(placeLabels(many, width).length).toBeGreaterThan(600);
  });
});

const FIELDS = tables.frame_fields;
const BODY: Body = { key: "t", parts: [], cells: [{ pan: [0, 0, 0], tilt: [0, 0, 0], lens: [0, 0, 0], lensRadius: 0.05, mountTurn: [0, 0, 0, 1], lensTurn: [0, 0, 0, 1], zero: [0, 0], mirror: false }] };
const MEANS = { gobos: [1, 0.25], webs: [0, 0.7] };

function beam(values: Partial<Record<FieldName, number>>): BeamState {
  const state = new BeamState();
  const patch: PatchInfo = { rig: 1, fixtures: ["a"], fields: FIELDS, peak: [1000], gobos: ["g"], webs: ["w"], prisms: [[[0.5, 0, 0], [-0.5, 0, 180]]] };
  state.setPatch(patch);
  state.setRig([{ id: "a", label: "1", kind: "wash", body: "t", position: [0, 0, 5], rotation: [0, 0, 0, 1] } satisfies Mounted], [BODY]);
  const row = new Float32Array(FIELDS.length);
  const all = { field: 0.3, beam: 0.3, hard: 1, iris: 1, focus: 1, red: 1, ...values };
  for (const [name, value] of Object.entries(all)) row[FIELDS.indexOf(name)] = value;
  state.setFrame("live", row);
  return state;
}

describe("how much light a beam carries", () => {
  const angle = (values: Partial<Record<FieldName, number>> = {}) => effectiveAngle(beam(values), 0, "live", MEANS);

  it("is a cap of the ball for a hard edge, less what falls off to its rim", () => {
    expect(angle()).toBeCloseTo(2 * Math.PI * (1 - Math.cos(0.15)) * 0.95, 4);
  });

  it("goes with the iris' area, the gobo's openness, and half for a blade in the middle", () => {
    expect(angle({ iris: 0.5 }) / angle()).toBeCloseTo((0.25 * (1 - 0.0125)) / 0.95, 3);
    expect(angle({ gobo: 1 }) / angle()).toBeCloseTo(0.25, 6);
    expect(angle({ blade1: 1 }) / angle()).toBeCloseTo(0.5, 6);
  });

  it("is the web's own where there is one, and wider than the field for a soft edge", () => {
    expect(angle({ web: 1 })).toBe(0.7);
    const soft = angle({ hard: 0, beam: 0.15 });
    expect(soft).toBeGreaterThan(0.3 * Math.PI * 0.15 * 0.15);
    expect(soft).toBeLessThan(Math.PI * 0.15 * 0.15);
  });

  it("reaches as far as its frost and its prism carry it", () => {
    expect(beam({}).cone(0, "live").outer).toBeCloseTo(Math.tan(0.15) * 1.012, 5);
    expect(beam({ frost: 0.5 }).cone(0, "live").outer).toBeGreaterThan(Math.tan(0.25));
    expect(beam({ prism: 1 }).cone(0, "live").outer).toBeCloseTo(Math.tan(0.15) * 1.512, 4);
  });
});

describe("lit patches", () => {
  const patch = (x: number, flux: number, normal: [number, number, number] = [0, 0, 1]): Patch => ({
    point: new THREE.Vector3(x, 0, 0), normal: new THREE.Vector3(...normal), flux: [flux, flux / 2, 0], area: 1,
  });

  it("become few, and together give back as much light as before", () => {
    const many = Array.from({ length: 300 }, (_, i) => patch(i * 0.1, 1 + (i % 5)));
    const few = merged(many, 16);
    expect(few.length).toBeLessThanOrEqual(16);
    const sum = (list: Patch[]) => list.reduce((whole, one) => whole + one.flux[0], 0);
    expect(sum(few)).toBeCloseTo(sum(many), 6);
  });

  it("keep faces that look different ways apart, and lie where most of their light is", () => {
    expect(merged([patch(0, 1), patch(0, 1, [0, -1, 0])], 8)).toHaveLength(2);
    const [one] = merged([patch(0, 9), patch(0.2, 1)], 1);
    expect(one?.point.x).toBeCloseTo(0.02, 6);
  });
});

describe("the eye", () => {
  const half = (value: number) => THREE.DataUtils.toHalfFloat(value);
  it("brings the log mean of what is lit to middle grey, and takes no notice of the dark", () => {
    const picture = new Uint16Array([...[0.04, 0.04, 0.04, 1].map(half), ...[0.36, 0.36, 0.36, 1].map(half), ...[0, 0, 0, 1].map(half)]);
    expect(wantedFor(picture, 1)).toBeCloseTo(0.18 / 0.12, 1);
    expect(wantedFor(new Uint16Array(8), 2.5)).toBe(2.5);
  });
});
