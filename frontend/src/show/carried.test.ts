// @vitest-environment jsdom
import { beforeEach, describe, expect, it, vi } from "vitest";
import { row } from "../testing/desk";
import { groupsOf, hearCarried, hearPoses, membersOf, onPoses, useCarried } from "./carried";
import { FrameReader, POSES } from "./frames";
import type { Row } from "./types";

const on = (parent: string, one: Row): Row => ({ ...one, parent });
const OBJECTS: Record<string, Row> = Object.fromEntries(
  [
    row("bridge", "carrier", { name: "Bridge" }), on("bridge", row("truss", "truss")), on("bridge", row("wagon", "carrier", { name: "Wagon" })), on("wagon", row("crate", "piece")),
    row("head", "fixture", { hang: { structure: "truss" } }), on("bridge", row("driver", "fixture", { drives: { thing: "bridge" } })), row("lost", "fixture", { hang: { structure: "gone" } }),
    row("point", "focus point", { rides: "wagon" }), row("floor", "deck"), on("elsewhere", row("flat", "piece")),
  ].map((one) => [one.id, one]),
);

beforeEach(() => useCarried.setState({ plan: 0, groups: [], poses: new Map() }));

describe("what goes along", () => {
  it("is what it is on, hangs on or rides on, with the nearest that is driven", () => {
    const of = groupsOf(OBJECTS, ["bridge", "crate"]);
    expect(Object.fromEntries(of)).toEqual({ bridge: "bridge", truss: "bridge", wagon: "bridge", crate: "crate", head: "bridge", driver: "bridge", point: "bridge" });
    expect(groupsOf(OBJECTS, []).size).toBe(0);
    const members = membersOf(of, ["truss/1", "truss/2", "crate", "floor"], OBJECTS);
    expect(members.get("bridge")).toEqual({ solids: ["truss/1", "truss/2"], mounts: ["head", "driver"], marks: ["bridge", "truss", "wagon", "point"] });
    expect(members.get("crate")).toEqual({ solids: ["crate"], mounts: [], marks: ["crate"] });
  });

  it("does not go round in circles that a file may hold", () => {
    expect(groupsOf({ a: on("b", row("a", "carrier")), b: on("a", row("b", "carrier")) }, ["c"]).size).toBe(0);
  });
});

describe("poses", () => {
  it("are heard by the plan that they are of, and told to whoever listens, at once and from then on", () => {
    hearCarried({ event: "carried", plan: 65538, groups: ["bridge", "wagon"] });
    const heard = vi.fn();
    const stop = onPoses(heard);
    expect(heard).toHaveBeenCalledTimes(1);
    hearPoses(1, new Float32Array(16));
    expect(heard).toHaveBeenCalledTimes(1);
    hearPoses(2, new Float32Array([0, 0, 3, 0, 0, 0, 1, 1, 1, 2, 0, 0, 0, 1, 0, 2]));
    expect(heard).toHaveBeenCalledTimes(2);
    expect(useCarried.getState().poses.get("bridge")).toEqual({ position: [0, 0, 3], rotation: [0, 0, 0, 1], size: 1 });
    expect(useCarried.getState().poses.get("wagon")).toEqual({ position: [1, 2, 0], rotation: [0, 0, 1, 0], size: 2 });
    // Another plan: what stays among it stays where it is until it is told anew.
    hearCarried({ event: "carried", plan: 65539, groups: ["wagon"] });
    expect([...useCarried.getState().poses.keys()]).toEqual(["wagon"]);
    stop();
    hearPoses(3, new Float32Array(8));
    expect(heard).toHaveBeenCalledTimes(2);
  });

  it("are read off the wire with their plan", () => {
    const data = new ArrayBuffer(64);
    const head = new DataView(data);
    head.setUint8(4, POSES);
    head.setUint8(5, 8);
    head.setUint16(6, 7, true);
    head.setUint32(24, 1, true);
    new Float32Array(data, 32).set([1, 2, 3, 0, 0, 0, 1, 4]);
    const read = new FrameReader().read(data, null);
    expect(read).toMatchObject({ kind: "poses", plan: 7 });
    expect(read.kind === "poses" && [...read.values]).toEqual([1, 2, 3, 0, 0, 0, 1, 4]);
  });
});
