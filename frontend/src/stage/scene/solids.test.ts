import * as THREE from "three";
import { describe, expect, it } from "vitest";
import type { Body, Mounted, PatchInfo, Solid } from "../data";
import { ShadowAtlas } from "../light/shadows";
import tables from "../../../tables.json";
import { BeamState } from "./beams";
import { Landings } from "./landings";
import { MeshStore, readMesh } from "./meshes";
import { hullOf } from "./silhouettes";
import { Solids } from "./solids";

/** The bytes of a box, as the server sends meshes. */
function boxBytes(x: number, y: number, z: number): ArrayBuffer {
  const box = new THREE.BoxGeometry(x, y, z);
  const place = box.getAttribute("position").array;
  const normal = box.getAttribute("normal").array;
  const index = box.getIndex()?.array ?? [];
  const count = place.length / 3;
  const data = new ArrayBuffer(16 + count * 28 + index.length * 4);
  const head = new DataView(data);
  head.setUint32(0, 0x5a4d5348, false);
  [2, count, index.length].forEach((value, i) => head.setUint32(4 + i * 4, value, true));
  new Float32Array(data, 16, count * 3).set(place);
  new Float32Array(data, 16 + count * 12, count * 3).set(normal);
  new Uint32Array(data, 16 + count * 28, index.length).set(index);
  return data;
}

const SIZES: Record<string, [number, number, number]> = { floor: [20, 20, 0.2], lid: [1, 1, 0.2], person: [0.4, 0.4, 1.7], simple: [0.4, 0.4, 1.7] };

function solid(id: string, mesh: string, position: [number, number, number], kind = "deck", far: string | null = null): Solid {
  return { id, kind, mesh, position, rotation: [0, 0, 0, 1], albedo: [0.5, 0.4, 0.3], finish: "plain", sheer: [0, 0], scale: 1, screens: "", ring: [], gaps: [], far, least: far };
}

async function standing(list: Solid[]): Promise<{ solids: Solids; put: (list: Solid[]) => Promise<void> }> {
  let changed: () => void = () => undefined;
  const store = new MeshStore((key) => Promise.resolve(boxBytes(...(SIZES[key] as [number, number, number]))));
  const solids = new Solids(store, {}, () => changed());
  const put = (next: Solid[]) =>
    new Promise<void>((resolve) => {
      changed = resolve;
      solids.setSolids(next);
    });
  await put(list);
  return { solids, put };
}

function ray(from: [number, number, number], to: [number, number, number]): THREE.Raycaster {
  const caster = new THREE.Raycaster(new THREE.Vector3(...from), new THREE.Vector3(...to).sub(new THREE.Vector3(...from)).normalize());
  caster.firstHitOnly = true;
  return caster;
}

describe("solids", () => {
  it("are brought along by what drives them, back again, and elsewhere for one picture alone", async () => {
    const { solids, put } = await standing([solid("f", "floor", [0, 0, 0]), solid("l", "lid", [1, 0, 4]), solid("p", "person", [2, 0, 1], "figure")]);
    const quarter: [number, number, number, number] = [0, 0, Math.SQRT1_2, Math.SQRT1_2];
    const tilted: [number, number, number, number] = [Math.SQRT1_2, 0, 0, Math.SQRT1_2];
    solids.takeMoved();
    const { version } = solids;
    solids.carry(new Map([["l", { position: [0, 0, 2], rotation: quarter, size: 2 }], ["p", { position: [0, 0, 3], rotation: tilted, size: 1 }]]));
    expect(solids.version).not.toBe(version);
    // About the upright axis by a quarter and twice as far, then up by 2; those who stand stay upright.
    expect(solids.get("l")).toMatchObject({ scale: 2 });
    expect(solids.get("l")?.position.map((one) => Number(one.toFixed(6)) + 0)).toEqual([0, 2, 10]);
    expect(solids.get("p")?.rotation.map((one) => Number(one.toFixed(6)) + 0)).toEqual([0, 0, 0, 1]);
    expect(solids.hit(ray([0, 2, 20], [0, 2, 0]))).toMatchObject({ id: "l" });
    expect(solids.takeMoved().map((ball) => Number(ball.center.z.toFixed(3)))).toContain(10);
    // One picture has it elsewhere; what it goes back to is where it has been brought meanwhile.
    solids.stand(1, [solid("l", "lid", [5, 0, 1])]);
    expect(solids.hit(ray([5, 0, 20], [5, 0, 0]))?.point.z).toBeCloseTo(1.1);
    solids.carry(new Map([["l", { position: [0, 0, 1], rotation: [0, 0, 0, 1], size: 1 }]]));
    expect(solids.hit(ray([5, 0, 20], [5, 0, 0]))?.point.z).toBeCloseTo(1.1);
    solids.stand(0, []);
    expect(solids.hit(ray([1, 0, 20], [1, 0, 0]))?.point.z).toBeCloseTo(5.1);
    expect(solids.get("p")?.position).toEqual([2, 0, 1]);
    // What is drawn anew is brought along as well.
    await put([solid("f", "floor", [0, 0, 0]), solid("l", "lid", [3, 0, 4])]);
    expect(solids.hit(ray([3, 0, 20], [3, 0, 0]))?.point.z).toBeCloseTo(5.1);
    solids.carry(new Map());
    expect(solids.hit(ray([3, 0, 20], [3, 0, 0]))?.point.z).toBeCloseTo(4.1);
  });

  it("are met where they stand, whoever is nearest, with the face towards the ray", async () => {
    const { solids } = await standing([solid("f", "floor", [0, 0, 0]), solid("l", "lid", [0, 0, 4])]);
    const hit = solids.hit(ray([0, 0, 9], [0, 0, 0]));
    expect(hit?.id).toBe("l");
    expect(hit?.point.z).toBeCloseTo(4.1);
    expect(hit?.normal.toArray()).toEqual([0, 0, 1]);
    expect(solids.hit(ray([3, 0, 9], [3, 0, 0]))?.id).toBe("f");
    expect(solids.hit(ray([30, 0, 9], [30, 0, 0]))).toBeNull();
  });

  it("are met as large and turned as they are, at distances of the show, by light not where they are sheer", async () => {
    const turned: Solid = { ...solid("t", "lid", [0, 5, 0]), scale: 2, rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] };
    const gauze: Solid = { ...solid("g", "lid", [0, 2, 0]), finish: "gauze", sheer: [0.6, 0.07] };
    const { solids } = await standing([turned, gauze]);
    const way = ray([0.05, -3, 0.05], [0.05, 9, 0.05]);
    expect(solids.hit(way)).toMatchObject({ id: "g", distance: 4.5 });
    // Twice as large: from 4 m on, and a quarter turn about y leaves it 0.4 m across.
    expect(solids.hit(way, false)?.id).toBe("t");
    expect(solids.hit(way, false)?.distance).toBeCloseTo(7);
    expect(solids.hit(ray([0.25, -3, 0.05], [0.25, 9, 0.05]), false)).toBeNull();
    // The same mesh, and yet drawn apart: one hides, the other does not.
    expect(solids.sheer.map(({ ids }) => ids)).toEqual([["g"]]);
    expect(solids.scene.children).toHaveLength(2);
  });

  it("let a room be seen into from outside, and end it from inside", async () => {
    const { solids } = await standing([solid("r", "lid", [0, 0, 9], "venue"), solid("f", "floor", [0, 0, 0])]);
    // The box of this room faces outwards: it is met from above.
    expect(solids.hit(ray([0, 0, 20], [0, 0, 0]))?.id).toBe("r");
    expect(solids.hit(ray([0, 0, 9], [0, 0, 0]))?.id).toBe("f");
  });

  it("leave people out for who throws many rays", async () => {
    const { solids } = await standing([solid("f", "floor", [0, 0, 0]), solid("p", "person", [0, 0, 1], "figure", "simple")]);
    expect(solids.hit(ray([0, 0, 9], [0, 0, 0]))?.id).toBe("p");
    expect(solids.hit(ray([0, 0, 9], [0, 0, 0]), false)?.id).toBe("f");
  });

  it("are drawn whole from near and simply from far", async () => {
    const people = Array.from({ length: 10 }, (_, i) => solid(`p${i}`, "person", [0, i * 10, 0.85], "figure", "simple"));
    const { solids } = await standing(people);
    // A box has 36 corners: by the simplest mesh all are one draw.
    const drawn = () => {
      const [baked, ...levels] = solids.scene.children as THREE.InstancedMesh[];
      return [...levels.map((mesh) => mesh.count), baked?.visible ? baked.geometry.drawRange.count / 36 : 0];
    };
    const eye = new THREE.PerspectiveCamera(60, 1, 0.1, 500);
    eye.up.set(0, 0, 1);
    const look = (y: number, at: number) => {
      eye.position.set(0, y, 1.5);
      eye.lookAt(0, at, 1.5);
      solids.prepare(eye, solids.cutawayFor(eye, "rooms"));
    };
    look(-1, 50);
    expect(drawn()).toEqual([2, 1, 7]);
    // What is behind the eye is not drawn at all.
    look(45, 90);
    expect(drawn()).toEqual([1, 2, 2]);
    look(45, -90);
    expect(drawn()).toEqual([1, 2, 2]);
    // A drawn view looks from far away.
    const plan = new THREE.OrthographicCamera(-200, 200, 200, -200, 0, 100);
    plan.position.set(0, 45, 50);
    solids.prepare(plan, solids.cutawayFor(plan, "rooms"));
    expect(drawn()).toEqual([0, 10, 0]);
  });

  it("throw shadows where light reaches them, and nowhere else", async () => {
    const people = Array.from({ length: 10 }, (_, i) => solid(`p${i}`, "person", [0, i * 10, 0.85], "figure", "simple"));
    const { solids } = await standing(people);
    solids.castIn({ apex: new THREE.Vector3(0, 20, 8), along: new THREE.Vector3(0, 0, -1), reach: 0.3 });
    const [baked] = solids.casters.children as [THREE.Mesh];
    expect(baked.geometry.drawRange.count).toBe(36);
    const corner = baked.geometry.getIndex()?.getX(0) ?? 0;
    expect(Math.abs(baked.geometry.getAttribute("position").getY(corner) - 20)).toBeCloseTo(0.2);
    solids.castIn({ apex: new THREE.Vector3(0, 20, 8), along: new THREE.Vector3(0, 0, 1), reach: 0.3 });
    expect(baked.visible).toBe(false);
    // One that stands elsewhere throws its shadow from there.
    solids.stand(1, [solid("p0", "person", [0, 60, 0.85], "figure", "simple")]);
    solids.castIn({ apex: new THREE.Vector3(0, 60, 8), along: new THREE.Vector3(0, 0, -1), reach: 0.3 });
    expect(baked.geometry.drawRange.count).toBe(72);
  });

  it("say what moved, from where and to where, and nothing else", async () => {
    const { solids, put } = await standing([solid("f", "floor", [0, 0, 0]), solid("l", "lid", [0, 0, 4])]);
    expect(solids.takeMoved()).toHaveLength(2);
    await put([solid("f", "floor", [0, 0, 0]), solid("l", "lid", [3, 0, 4])]);
    expect(solids.takeMoved().map((ball) => Math.round(ball.center.x)).sort()).toEqual([0, 3]);
    // What light passes through from now on is as good as gone.
    const gauze: Solid = { ...solid("l", "lid", [3, 0, 4]), finish: "gauze", sheer: [0.6, 0.07] };
    await put([solid("f", "floor", [0, 0, 0]), gauze]);
    expect(solids.takeMoved().map((ball) => Math.round(ball.center.x))).toEqual([3, 3]);
    expect(solids.boxes(2)).toHaveLength(1);
    await put([solid("f", "floor", [0, 0, 0])]);
    expect(solids.takeMoved()).toHaveLength(1);
    expect(solids.takeMoved()).toHaveLength(0);
  });

  it("give the largest flat things as boxes that stand in the way of bounced light", async () => {
    const { solids } = await standing([solid("l", "lid", [0, 0, 4]), solid("f", "floor", [0, 0, 0]), solid("p", "person", [0, 0, 1], "figure", "simple")]);
    const boxes = solids.boxes(1);
    expect(boxes).toHaveLength(1);
    expect(boxes[0]?.half.toArray().map((part) => Math.round(part * 10) / 10)).toEqual([9.9, 9.9, 0.1]);
  });
});

const BODY: Body = { key: "t", parts: [], cells: [{ pan: [0, 0, 0], tilt: [0, 0, 0], lens: [0, 0, 0], lensRadius: 0.05, mountTurn: [0, 0, 0, 1], lensTurn: [0, 0, 0, 1], zero: [0, 0], mirror: false }] };

const FIELDS = tables.frame_fields;

/** A row of lamps at 6 m that shine down, each with its own candela. */
function lamps(candela: number[]): BeamState {
  const state = new BeamState();
  const fixtures = candela.map((_, i) => `a${i}`);
  const patch: PatchInfo = { rig: 1, fixtures, fields: FIELDS, peak: candela.map(() => 1000), gobos: [], webs: [], prisms: [] };
  state.setPatch(patch);
  state.setRig(fixtures.map((id, i): Mounted => ({ id, label: id, kind: "wash", body: "t", position: [i, 0, 6], rotation: [0, 0, 0, 1] })), [BODY]);
  const rows = new Float32Array(FIELDS.length * candela.length);
  candela.forEach((cd, i) => {
    for (const [field, value] of [["field", 0.3], ["beam", 0.2], ["hard", 1], ["iris", 1], ["focus", 1], ["red", cd / 1000], ["green", cd / 1000]] as const) {
      rows[i * FIELDS.length + FIELDS.indexOf(field)] = value;
    }
  });
  state.setFrame("live", rows);
  return state;
}

describe("landings", () => {
  it("are found a few beams at a time, the brightest first, and kept until something moves", async () => {
    const { solids, put } = await standing([solid("f", "floor", [0, 0, 0])]);
    const state = lamps([10, 0, 900, 50]);
    const landings = new Landings(state, solids);
    expect(landings.lit("live", 9)).toEqual([2, 3, 0]);
    expect(landings.lit("live", 1)).toEqual([2]);
    expect(landings.update([2, 3, 0], "live", 2)).toBe(false);
    expect(landings.of(2, "live")?.[0]?.point.toArray().map((part) => Math.round(part * 100) / 100)).toEqual([2, 0, 0.1]);
    expect(landings.of(0, "live")).toBeNull();
    expect(landings.update([2, 3, 0], "live", 2)).toBe(true);
    expect(landings.update([2, 3, 0], "live", 0)).toBe(true);
    await put([solid("f", "floor", [0, 0, 0]), solid("l", "lid", [2, 0, 3])]);
    expect(landings.update([2, 3, 0], "live", 3)).toBe(true);
    expect(landings.of(2, "live")?.[0]?.id).toBe("l");
  });
});

describe("shadow tiles", () => {
  const renderer = { setRenderTarget: () => undefined, clear: () => undefined, render: () => undefined } as unknown as THREE.WebGLRenderer;
  const tileOf = (state: BeamState, row: number) => (state.pictures.get("live")?.dynamic.image.data as Float32Array)[row * 40 + 36];

  it("go to the brightest beams and to those that are pinned, a few drawn in each frame", async () => {
    const { solids } = await standing([solid("f", "floor", [0, 0, 0])]);
    const state = lamps([100, 900, 0, 400, 300]);
    const atlas = new ShadowAtlas(renderer, state, solids);
    expect(atlas.update("live", 0, 2, 1)).toBe(false);
    expect(atlas.update("live", 0, 2, 1)).toBe(true);
    expect([1, 3].every((row) => (tileOf(state, row) ?? 0) > 0)).toBe(true);
    expect([0, 2, 4].every((row) => tileOf(state, row) === 0)).toBe(true);
    atlas.pinned = new Set(["a0"]);
    atlas.update("live", 0, 2, 8);
    expect(tileOf(state, 0)).toBeGreaterThan(0);
    expect(tileOf(state, 3)).toBe(0);
  });

  it("are drawn again at once where something moved in their light, and not elsewhere", async () => {
    const { solids, put } = await standing([solid("f", "floor", [0, 0, 0]), solid("l", "lid", [30, 0, 3])]);
    const state = lamps([900, 800, 700, 600]);
    const atlas = new ShadowAtlas(renderer, state, solids);
    atlas.update("live", 0, 4, 8);
    expect(atlas.redrawn).toBe(4);
    atlas.update("live", 0, 4, 8);
    expect(atlas.redrawn).toBe(0);
    // Under the fourth lamp only: no budget, and yet its tile is new in this frame.
    await put([solid("f", "floor", [0, 0, 0]), solid("l", "lid", [3.9, 0, 3])]);
    atlas.update("live", 0, 4, 0);
    expect(atlas.redrawn).toBe(1);
  });
});

describe("the meshes that are kept", () => {
  it("are those that somebody has, and a few besides", async () => {
    const asked: string[] = [];
    const store = new MeshStore((key) => {
      asked.push(key);
      return Promise.resolve(boxBytes(1, 1, 1));
    });
    let drawn: () => void = () => undefined;
    const solids = new Solids(store, {}, () => drawn());
    for (let n = 0; n < 200; n++) {
      const there = new Promise<void>((resolve) => (drawn = resolve));
      solids.setOverride([solid(`preview ${n}`, `mesh ${n}`, [0, 0, 0])]);
      await there;
      expect(solids.bounds(`preview ${n}`)).not.toBeNull();
    }
    // Of two hundred previews the last one, and what was let go last.
    expect(asked).toHaveLength(200);
    expect(store.size).toBeLessThan(30);
    solids.setOverride([]);
    store.keep("other", ["mesh 199"]);
    await store.get("mesh 199");
    expect(asked).toHaveLength(200);
  });
});

describe("meshes", () => {
  it("bring a tree for rays with them", () => {
    expect(readMesh(boxBytes(1, 1, 1)).boundsTree).toBeDefined();
  });
});

describe("poses", () => {
  it("are kept while neither the head nor its clamp moves", () => {
    const state = lamps([10, 10]);
    const first = state.poseRow(1, "live");
    expect(state.poseRow(1, "live")).toBe(first);
    const values = state.pictures.get("live")?.values.slice() as Float32Array;
    values[FIELDS.length + FIELDS.indexOf("tilt")] = Math.PI / 2;
    state.setFrame("live", values);
    expect(state.poseRow(1, "live")?.along.y).toBeCloseTo(1);
    state.setOverride([{ id: "a1", position: [7, 0, 6], rotation: [0, 0, 0, 1] }]);
    expect(state.poseRow(1, "live")?.lens.x).toBeCloseTo(7);
    expect(state.luminance(0, "live")).toBeCloseTo(10 * (0.2127 + 0.7152));
  });
});

describe("what stands elsewhere in one picture", () => {
  it("is hit and boxed there, and is where it was afterwards, also when all was built anew", async () => {
    const list = [solid("f", "floor", [0, 0, 0]), solid("l", "lid", [2, 0, 3])];
    const { solids, put } = await standing(list);
    const top = () => solids.bounds("l")?.max.z ?? 0;
    const ray = new THREE.Raycaster(new THREE.Vector3(2, 0, 9), new THREE.Vector3(0, 0, -1));
    const [own, version] = [top(), solids.version];
    expect(solids.hit(ray)?.id).toBe("l");
    solids.stand(1, [solid("l", "lid", [7, 0, 5])]);
    expect(top()).toBeCloseTo(own + 2);
    expect(solids.hit(ray)?.id).toBe("f");
    expect(solids.version).not.toBe(version);
    const stood = solids.version;
    await put(list);
    expect(top()).toBeCloseTo(own + 2);
    solids.stand(0, []);
    expect(top()).toBeCloseTo(own);
    expect(solids.hit(ray)?.id).toBe("l");
    expect([version, stood]).not.toContain(solids.version);
    expect(solids.takeMoved().length).toBe(2);
  });

  it("takes its lamps along, and poses are those of the picture", () => {
    const state = lamps([10, 10]);
    const placed = state.placed;
    state.stand(3, [{ id: "a1", position: [1, 0, 9], rotation: [0, 0, 0, 1] }]);
    expect(state.poseRow(1, "live")?.lens.z).toBeCloseTo(9);
    expect(state.poseRow(0, "live")?.lens.z).toBeCloseTo(6);
    expect(state.placed).not.toBe(placed);
    state.stand(0, []);
    expect(state.placed).toBe(placed);
    expect(state.poseRow(1, "live")?.lens.z).toBeCloseTo(6);
  });
});

describe("what things cover in an elevation", () => {
  it("is their convex outline, on the slope of what is raked", async () => {
    const sine = Math.sin(Math.PI / 8);
    // A quarter of a right angle about y: the far end of x goes down.
    const raked: Solid = { ...solid("t", "lid", [0, 0, 5], "truss"), rotation: [0, sine, 0, Math.cos(Math.PI / 8)] };
    const { solids } = await standing([raked, solid("p", "person", [3, 0, 1], "figure")]);
    const [outline, ...more] = solids.silhouettes("x", new Set(["truss"]));
    expect(more).toEqual([]);
    const [run, rise] = [Math.SQRT1_2 * (0.5 + 0.1), Math.SQRT1_2 * (0.5 - 0.1)];
    const wanted = [[-run, 5 + rise], [-rise, 5 + run], [run, 5 - rise], [rise, 5 - run]];
    const places = (outline ?? []).map((point) => point.map((part) => part.toFixed(3)).join());
    expect(places.sort()).toEqual(wanted.map((point) => point.map((part) => (part as number).toFixed(3)).join()).sort());
    expect(solids.silhouettes("y", new Set(["truss"]))[0]).toHaveLength(4);
  });

  it("leaves out what lies on a line of it", () => {
    expect(hullOf([[0, 0], [1, 0], [2, 0], [2, 2], [0, 2], [1, 1]])).toEqual([[0, 0], [2, 0], [2, 2], [0, 2]]);
  });
});
