import * as THREE from "three";
import tables from "../../tables.json";
import { describe, expect, it } from "vitest";
import type { Body, Cell, Mounted, PatchInfo, Quat } from "./data";
import { BeamState } from "./scene/beams";
import { LAYOUT } from "./scene/fields";
import { readMesh } from "./scene/meshes";
import { broken } from "./tools/ghosts";
import { handlesAt } from "./tools/handles";
import type { ShownPane } from "./view/panes";
import { project } from "./tools/sheet";
import { cameraFor, frame, homeViewpoint, orbit, pan, type Viewpoint, zoom } from "./view/cameras";

// The server's own names, in its own order.
const FIELDS = tables.frame_fields;
const CELL = { pan: [0, 0, -0.2], tilt: [0, 0, -0.3], lens: [0, 0, -0.25], lensRadius: 0.05, mountTurn: [0, 0, 0, 1], lensTurn: [0, 0, 0, 1], zero: [0, 0], mirror: false } satisfies Body["cells"][number];
const BODY: Body = { key: "t/m", parts: [], cells: [CELL] };
const PATCH: PatchInfo = { rig: 1, fixtures: ["a", "b"], fields: FIELDS, peak: [1000, 2000], gobos: [], webs: [], prisms: [] };
const UPRIGHT: Quat = [0, 0, 0, 1];

function rig(): BeamState {
  const state = new BeamState();
  const mounted = (id: string, x: number): Mounted => ({ id, label: id, kind: "wash", body: "t/m", position: [x, 0, 6], rotation: UPRIGHT });
  state.setPatch(PATCH);
  state.setRig([mounted("a", 1), mounted("b", 2)], [BODY]);
  return state;
}

function frameOf(a: number[], b: number[]): Float32Array {
  const full = (given: number[]) => [...given, ...new Array<number>(FIELDS.length - given.length).fill(0)];
  return new Float32Array([...full(a), ...full(b)]);
}

describe("beam state", () => {
  it("poses a lens by the chain, as the server does", () => {
    const state = rig();
    state.setFrame("live", frameOf([0, Math.PI / 2], [Math.PI / 2, Math.PI / 2]));
    const a = state.pose("a", "live");
    expect(a?.along.toArray().map((v) => Math.round(v * 1e6) / 1e6)).toEqual([0, 1, 0]);
    expect(a?.lens.z).toBeCloseTo(5.5);
    expect(a?.lens.y).toBeCloseTo(0.25);
    const b = state.pose("b", "live");
    expect(b?.along.x).toBeCloseTo(-1);
  });

  it("turns the light of a mirror twice as far, and what stands in its gate by its pan", () => {
    const state = rig();
    const s = Math.SQRT1_2;
    // Light that comes along -Y meets a mirror that sends it down (core/types/chain.py).
    const mirror = { ...CELL, pan: [0, 0.2, -0.4], tilt: [0, 0, 0], lens: [0, 0, 0], mountTurn: [-s, 0, 0, s], zero: [0, 0.75 * Math.PI], mirror: true } satisfies Cell;
    state.setRig([{ id: "a", label: "a", kind: "scanner", body: "t/m", position: [1, 0, 6], rotation: UPRIGHT }], [{ ...BODY, cells: [mirror] }]);
    state.setFrame("live", frameOf([0, 0.2], []));
    const tilted = state.pose("a", "live");
    expect(tilted?.lens.toArray().map((v) => Math.round(v * 1e6) / 1e6)).toEqual([1, -0.4, 5.8]);
    expect(tilted?.along.y).toBeCloseTo(Math.sin(0.4));
    expect(tilted?.along.z).toBeCloseTo(-Math.cos(0.4));
    expect(tilted?.side.x).toBeCloseTo(1);
    state.setFrame("live", frameOf([0.5, 0], []));
    const panned = state.pose("a", "live");
    expect(panned?.along.x).toBeCloseTo(-Math.sin(0.5));
    // The head's own X would be at (cos 0.5, 0, -sin 0.5): the gate is turned by another 0.5.
    expect(panned?.side.toArray().map((v) => Math.round(v * 1e6) / 1e6)).toEqual([Math.cos(0.5) ** 2, Math.sin(0.5), -Math.sin(0.5) * Math.cos(0.5)].map((v) => Math.round(v * 1e6) / 1e6));
  });

  it("gives candela as share times peak, for each picture by itself", () => {
    const state = rig();
    state.setFrame("live", frameOf([0, 0, 0.3, 0.2, 0.5, 0, 0], [0, 0, 0.3, 0.2, 0, 0, 1]));
    state.setFrame("look", frameOf([], []));
    expect(state.candela("a", "live")).toEqual([500, 0, 0]);
    expect(state.candela("b", "live")).toEqual([0, 0, 2000]);
    expect(state.candela("b", "look")).toEqual([0, 0, 0]);
  });

  it("shows a preview's place instead of the real one, and the real one after it", () => {
    const state = rig();
    state.setOverride([{ id: "a", position: [9, 0, 6], rotation: UPRIGHT }]);
    expect(state.pose("a", "live")?.lens.x).toBeCloseTo(9);
    state.setOverride([]);
    expect(state.pose("a", "live")?.lens.x).toBeCloseTo(1);
  });

  it("knows when something lit flashes or turns, and forgets pictures of an older patch", () => {
    const state = rig();
    state.setFrame("live", frameOf([0, 0, 0, 0, 1, 0, 0, 0, 1, 5], []));
    expect(state.moves("live")).toBe("flashes");
    state.setFrame("live", frameOf([0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 0, 2, 0, 0.5], []));
    expect(state.moves("live")).toBe("turns");
    // What is dark may flash and turn as it likes.
    state.setFrame("live", frameOf([0, 0, 0, 0, 0, 0, 0, 0, 1, 5], []));
    expect(state.moves("live")).toBeNull();
    state.setPatch({ ...PATCH, rig: 2 });
    expect(state.moves("live")).toBeNull();
    expect(state.pictures.size).toBe(0);
  });

  it("has room for more than one row of beams", () => {
    const state = new BeamState();
    const fixtures = Array.from({ length: 150 }, (_, i) => `f${i}`);
    state.setPatch({ ...PATCH, fixtures, peak: fixtures.map(() => 1) });
    expect(state.static.image.height).toBe(3);
    expect(state.rowOf("f149")).toBe(149);
  });
});

describe("meshes", () => {
  it("reads the bytes of the server and refuses others", () => {
    const data = new ArrayBuffer(16 + 3 * 28 + 3 * 4);
    const head = new DataView(data);
    [0x5a, 0x4d, 0x53, 0x48].forEach((byte, i) => head.setUint8(i, byte));
    head.setUint32(4, 2, true);
    head.setUint32(8, 3, true);
    head.setUint32(12, 3, true);
    head.setFloat32(16, 7, true);
    [0, 1, 2].forEach((index, i) => head.setUint32(16 + 84 + i * 4, index, true));
    const mesh = readMesh(data);
    expect(mesh.getAttribute("position").count).toBe(3);
    expect(mesh.getAttribute("position").getX(0)).toBe(7);
    expect(() => readMesh(new ArrayBuffer(20))).toThrow("does not know");
  });
});

function paneOf(viewpoint: Viewpoint): ShownPane {
  return {
    pane: { id: "main", view: viewpoint.view, picture: "live", share: 1, shade: "lit" }, viewpoint, camera: cameraFor(viewpoint, 2), left: 100, top: 0,
    width: 800, height: 400,
  };
}

describe("views", () => {
  it("puts stage left to the right in plan, upstage up, and the middle in the middle", () => {
    const home = homeViewpoint("plan");
    const pane = paneOf({ ...home, target: new THREE.Vector3(0, 0, 0) });
    expect(project(pane, new THREE.Vector3(0, 0, 0))).toEqual({ x: 500, y: 200 });
    expect(project(pane, new THREE.Vector3(1, 0, 0))?.x).toBeCloseTo(500 + 400 / home.height);
    expect(project(pane, new THREE.Vector3(0, 1, 0))?.y).toBeCloseTo(200 - 400 / home.height);
  });

  it("looks upstage from the front, so that stage left is on the right", () => {
    const pane = paneOf(homeViewpoint("front"));
    const middle = project(pane, new THREE.Vector3(0, 0, 4));
    expect(project(pane, new THREE.Vector3(1, 5, 4))?.x).toBeGreaterThan(middle?.x ?? 0);
    expect(project(pane, new THREE.Vector3(0, 5, 5))?.y).toBeLessThan(middle?.y ?? 0);
  });

  it("does not project what is behind the camera", () => {
    const pane = paneOf({ view: "free", eye: new THREE.Vector3(0, 0, 2), target: new THREE.Vector3(0, 5, 2), height: 1 });
    expect(project(pane, new THREE.Vector3(0, -5, 2))).toBeNull();
  });

  it("keeps the place under the pointer while it orbits, and stays level", () => {
    const about = new THREE.Vector3(1, 2, 1);
    const from = homeViewpoint("free");
    const to = orbit(from, about, 0.4, 0.2);
    expect(to.eye.distanceTo(about)).toBeCloseTo(from.eye.distanceTo(about));
    const before = project(paneOf(from), about);
    const after = project(paneOf(to), about);
    expect(after?.x).toBeCloseTo(before?.x ?? 0, 0);
  });

  it("never turns over the top", () => {
    let view = homeViewpoint("free");
    for (let i = 0; i < 40; i++) view = orbit(view, view.target, 0, -0.2);
    expect(view.eye.z).toBeGreaterThan(view.target.z);
  });

  it("zooms to the place under the pointer, in plan and in the free view", () => {
    for (const name of ["plan", "free"] as const) {
      const from = homeViewpoint(name);
      const place = new THREE.Vector3(2, 3, 0);
      const before = project(paneOf(from), place);
      const after = project(paneOf(zoom(from, place, 0.7)), place);
      expect(after?.x).toBeCloseTo(before?.x ?? 0, 3);
      expect(after?.y).toBeCloseTo(before?.y ?? 0, 3);
    }
  });

  it("goes through a wall by the wheel, and on from there", () => {
    let from: Viewpoint = { ...homeViewpoint("free"), eye: new THREE.Vector3(0, -10, 2), target: new THREE.Vector3(0, 0, 2) };
    const wall = new THREE.Vector3(0, -5, 2);
    for (let i = 0; i < 40 && from.eye.y < -5; i++) from = zoom(from, wall, 0.86);
    expect(from.eye.y).toBeGreaterThan(-5);
    expect(from.eye.y).toBeLessThan(-4);
  });

  it("begins where all of what is built can be seen, unless one is inside of it", () => {
    const built = new THREE.Box3(new THREE.Vector3(-30, -20, 0), new THREE.Vector3(10, 30, 12));
    for (const view of ["plan", "front", "left", "section", "free"] as const) {
      const pane = paneOf(homeViewpoint(view, view === "free" ? built.clone().translate(new THREE.Vector3(0, 40, 0)) : built, 2));
      const box = view === "free" ? built.clone().translate(new THREE.Vector3(0, 40, 0)) : built;
      for (const x of [box.min.x, box.max.x]) for (const y of [box.min.y, box.max.y]) {
        const at = project(pane, new THREE.Vector3(x, y, 6));
        // What a section has cut away is not seen.
        if (view === "section" && x < 0) continue;
        expect([view, at !== null && at.x >= 100 && at.x <= 900 && at.y >= 0 && at.y <= 400]).toEqual([view, true]);
      }
    }
    expect(homeViewpoint("free", built)).toEqual(homeViewpoint("free"));
    expect(homeViewpoint("plan", new THREE.Box3(new THREE.Vector3(-1, -1, 0), new THREE.Vector3(1, 1, 1)), 2)).toEqual(homeViewpoint("plan"));
  });

  it("frames from beside or nearer where a wall is in the way", () => {
    const from: Viewpoint = { ...homeViewpoint("free"), eye: new THREE.Vector3(0, -20, 2), target: new THREE.Vector3(0, 0, 2) };
    const middle = new THREE.Vector3(0, 0, 1);
    const beside = frame(from, middle, 2, ({ eye }) => eye.x > 2);
    expect(beside.eye.x).toBeGreaterThan(2);
    expect(beside.eye.distanceTo(middle)).toBeCloseTo(frame(from, middle, 2).eye.distanceTo(middle));
    const inside = frame(from, middle, 2, ({ eye }) => eye.distanceTo(middle) < 3);
    expect(inside.eye.distanceTo(middle)).toBeLessThan(3);
    expect(frame(from, middle, 2, () => false)).toEqual(frame(from, middle, 2));
  });

  it("pans eye and target alike and frames a ball so that it fits", () => {
    const from = homeViewpoint("free");
    const moved = pan(from, new THREE.Vector3(1, 0, 0));
    expect(moved.target.clone().sub(from.target).x).toBe(1);
    const middle = new THREE.Vector3(4, 4, 1);
    const framed = paneOf(frame(from, middle, 2));
    const at = project(framed, middle);
    expect(at?.x).toBeCloseTo(500);
    const edge = project(framed, middle.clone().add(new THREE.Vector3(0, 0, 2)));
    expect(Math.abs((edge?.y ?? 0) - (at?.y ?? 0))).toBeLessThan(200);
  });
});

describe("handles", () => {
  it("are named by the trade, and there are none without a selection", () => {
    expect(handlesAt(null)).toEqual([]);
    expect(handlesAt(new THREE.Vector3()).map((handle) => handle.name)).toEqual(["SL", "US", "up", "floor"]);
  });

  it("move along their axis only, to where the pointer's ray comes nearest", () => {
    const [sl] = handlesAt(new THREE.Vector3(1, 2, 3));
    const ray = new THREE.Ray(new THREE.Vector3(4, -10, 3), new THREE.Vector3(0, 1, 0));
    const to = sl?.along(ray);
    expect(to?.toArray()).toEqual([4, 2, 3]);
  });

  it("cannot be dragged along an axis that points at the eye", () => {
    const [, us] = handlesAt(new THREE.Vector3(0, 0, 0));
    expect(us?.along(new THREE.Ray(new THREE.Vector3(0, -10, 0), new THREE.Vector3(0, 1, 0)))).toBeNull();
    const plan = paneOf({ ...homeViewpoint("plan"), target: new THREE.Vector3() });
    expect(handlesAt(new THREE.Vector3())[2]?.ends(plan)).toBeNull();
  });

  it("are taken near their line and not beside it", () => {
    const plan = paneOf({ ...homeViewpoint("plan"), target: new THREE.Vector3() });
    const [sl] = handlesAt(new THREE.Vector3());
    expect(sl?.holds(plan, 540, 203)).toBe(true);
    expect(sl?.holds(plan, 540, 240)).toBe(false);
  });

  it("drag over the level plane by the middle handle", () => {
    const floor = handlesAt(new THREE.Vector3(0, 0, 2))[3];
    const to = floor?.along(new THREE.Ray(new THREE.Vector3(3, 4, 10), new THREE.Vector3(0, 0, -1)));
    expect(to?.toArray()).toEqual([3, 4, 2]);
  });
});

describe("the note of a ghost", () => {
  it("is broken after commas and colons, so that it fits beside what it says", () => {
    expect(broken("Lantern, lower inner rail: 8.35 m from US, 0.97 m to fixture 104")).toEqual(["Lantern, lower inner rail:", "8.35 m from US,", "0.97 m to fixture 104"]);
    expect(broken("short, and whole")).toEqual(["short, and whole"]);
    expect(broken("")).toEqual([""]);
  });
});

describe("frames by their fields' names", () => {
  it("are read in whatever order the server has them", () => {
    const fields = [...FIELDS].reverse();
    const state = new BeamState();
    state.setPatch({ ...PATCH, fields });
    const values = new Float32Array(fields.length * 2);
    for (const [name, value] of [["pan", 0.5], ["red", 0.25], ["gobo_spin", 0.3], ["blade4_angle", 0.7]] as const) values[fields.length + fields.indexOf(name)] = value;
    state.setFrame("live", values);
    expect(state.field(1, "live", "pan")).toBe(0.5);
    expect(state.candelaRow(1, "live")[0]).toBe(500);
    expect(state.moves("live")).toBe("turns");
    const texture = state.pictures.get("live")?.dynamic.image.data as Float32Array;
    // What the shader reads: pan first, the colour in candela, blade 4's angle where light/state.glsl looks for it.
    expect([texture[40], texture[44], texture[40 + LAYOUT.indexOf("blade4_angle")]]).toEqual([0.5, 500, Math.fround(0.7)]);
  });

  it("that lack one are refused with its name", () => {
    expect(() => new BeamState().setPatch({ ...PATCH, fields: FIELDS.filter((name) => name !== "focus") })).toThrow("“focus”");
  });
});
