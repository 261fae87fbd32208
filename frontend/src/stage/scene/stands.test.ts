import { describe, expect, it } from "vitest";
import type { Solid } from "../data";
import type { BeamState } from "./beams";
import type { Solids } from "./solids";
import { Stands } from "./stands";

const solid = (id: string, z: number): Solid => ({ id, mesh: "m", far: null, kind: "deck", position: [0, 0, z], rotation: [0, 0, 0, 1], scale: 1, albedo: [0.1, 0.1, 0.1] }) as Solid;

/** What beams and solids are told. */
function listening() {
  const told: number[] = [];
  const beams = { stand: (number: number) => told.push(number) } as unknown as BeamState;
  const solids = { stand: () => undefined } as unknown as Solids;
  return { stands: new Stands(beams, solids), told };
}

describe("stands", () => {
  it("are taken for one picture and given back, also when the work fails", () => {
    const { stands, told } = listening();
    stands.set("flood", { solids: [solid("bridge", 4.8)], mounts: [] });
    stands.set("ebb", { solids: [solid("bridge", 1.2)], mounts: [] });
    stands.within("flood", () => stands.within("ebb", () => undefined));
    expect(told).toEqual([1, 2, 1, 0]);
    expect(() => stands.within("ebb", () => { throw new Error("no"); })).toThrow("no");
    expect(told.slice(-2)).toEqual([2, 0]);
    expect(stands.within("live", () => 7)).toBe(7);
    expect(told.slice(-2)).toEqual([0, 0]);
  });

  it("are news only where they differ", () => {
    const { stands } = listening();
    expect(stands.set("flood", { solids: [solid("bridge", 4.8)], mounts: [] })).toBe(true);
    expect(stands.set("flood", { solids: [solid("bridge", 4.8)], mounts: [] })).toBe(false);
    expect(stands.set("flood", { solids: [solid("bridge", 4.7)], mounts: [] })).toBe(true);
    expect(stands.set("flood", null)).toBe(true);
    expect(stands.set("flood", null)).toBe(false);
  });
});
