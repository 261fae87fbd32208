import * as THREE from "three";
import { describe, expect, it, vi } from "vitest";
import { METRIC } from "../measures";
import type { Pane, StageEvents } from "../data";
import { cameraFor, homeViewpoint } from "../view/cameras";
import type { ShownPane } from "../view/panes";
import { AimTool } from "./aim";
import { ArrangeTool } from "./arrange";
import { AskTool } from "./ask";
import { BladeTool } from "./blades";
import { MeasureTool } from "./measure";
import { OutlineTool } from "./outline";
import { SelectTool } from "./select";
import { project, Sheet, type StageTheme } from "./sheet";
import type { At, ToolStage } from "./tool";

const [WIDTH, HEIGHT] = [800, 600];

function plan(): ShownPane {
  const viewpoint = homeViewpoint("plan");
  const pane: Pane = { id: "main", view: "plan", picture: "live", share: 1, shade: "lines" };
  return { pane, viewpoint, camera: cameraFor(viewpoint, WIDTH / HEIGHT), left: 0, top: 0, width: WIDTH, height: HEIGHT };
}

/** A stage with a floor, and one thing on it at 2 m stage left, 3 m upstage. */
function bench() {
  const pane = plan();
  pane.camera.updateMatrixWorld();
  const events = { onSelect: vi.fn(), onCarry: vi.fn((_id: string | null) => false), onAim: vi.fn(), onRaise: vi.fn(), onPath: vi.fn(), onCut: vi.fn(), onSharp: vi.fn(), onBlades: vi.fn(), onDrag: vi.fn(), onMeasured: vi.fn(), onDraw: vi.fn(), onPut: vi.fn(), onGuide: vi.fn(), onAsk: vi.fn() };
  const ray = (_: ShownPane, x: number, y: number) => {
    const caster = new THREE.Raycaster();
    caster.setFromCamera(new THREE.Vector2((x / WIDTH) * 2 - 1, 1 - (y / HEIGHT) * 2), pane.camera);
    return caster;
  };
  const place = { position: [2, 3, 1] as [number, number, number] };
  const stage = {
    events: events as unknown as StageEvents,
    state: { placeOf: () => place }, solids: { get: () => undefined, bounds: () => null },
    mounted: [], carriers: [], rails: {}, measures: METRIC, ray, touchOverlay: vi.fn(),
    surfaceAt: (_: ShownPane, x: number, y: number) => {
      const point = ray(pane, x, y).ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 0, 1), 0), new THREE.Vector3());
      return point && { point, normal: new THREE.Vector3(0, 0, 1), id: "floor", distance: 5 };
    },
    thingAt: () => "thing",
    inBox: (_: ShownPane, from: { x: number }, to: { x: number }, touching: boolean) => (touching ? ["touched"] : [`${from.x} to ${to.x}`]),
  } as unknown as ToolStage;
  const at = (x: number, y: number, z = 0, more: Partial<At> = {}): At => {
    const spot = project(pane, new THREE.Vector3(x, y, z)) ?? { x: 0, y: 0 };
    return { pane, ...spot, shift: false, ctrl: false, ...more };
  };
  return { stage, events, at, pane };
}

describe("selecting", () => {
  it("takes what is clicked, adds with Shift, and draws a box from where the button went down", () => {
    const { stage, events, at } = bench();
    const tool = new SelectTool(stage);
    tool.click(at(0, 0));
    tool.click(at(0, 0, 0, { shift: true }));
    expect(events.onSelect.mock.calls).toEqual([[["thing"], false], [["thing"], true]]);
    const box = tool.pull(at(-3, 0));
    box.move(at(1, 1));
    box.end(at(1, 1, 0, { shift: true }));
    expect(events.onSelect).toHaveBeenLastCalledWith(["touched"], false);
  });

  it("leaves what is carried off the stage to who carries it, until Escape", () => {
    const { stage, events, at } = bench();
    events.onCarry.mockReturnValue(true);
    const held = new SelectTool(stage).pull(at(2, 3));
    held.move(at(1, 1));
    held.end(at(1, 1));
    expect(events.onSelect).not.toHaveBeenCalled();
    held.cancel?.();
    expect(events.onCarry.mock.calls).toEqual([["thing"], [null]]);
  });

  it("drags by a handle in steps of ten centimetres, exactly with Ctrl, and not at all when Escape is pressed", () => {
    const { stage, events, at } = bench();
    const tool = new SelectTool(stage);
    tool.place(new Set(["lamp"]), true, false, true);
    expect(tool.handles.map((one) => one.name)).toEqual(["SL", "US", "up", "floor"]);
    const floor = at(2, 3, 1);
    expect(tool.hover(floor)).toBe("floor");
    const hold = tool.press(floor);
    hold?.move(at(3.234, 3, 1));
    expect(events.onDrag).toHaveBeenLastCalledWith([expect.closeTo(1.2), expect.closeTo(0), 0], "move", "floor");
    hold?.move(at(3.234, 3, 1, { ctrl: true }));
    expect(events.onDrag.mock.lastCall?.[0][0]).toBeCloseTo(1.234, 2);
    hold?.cancel?.();
    expect(events.onDrag).toHaveBeenLastCalledWith([0, 0, 0], "cancel", "floor");
    // Beside the handles there is nothing to hold.
    expect(tool.press(at(-4, -4))).toBeNull();
  });
});

describe("other tools", () => {
  it("aim where a surface or a focus point is clicked, and raise the place by the top of its plumb line", () => {
    const { stage, events, at } = bench();
    const marked = { ...stage, carriers: [{ id: "p", name: "Lectern", position: [4, 1, 0], focus: true }], solids: { ...stage.solids, hit: () => null } } as unknown as ToolStage;
    const tool = new AimTool(marked);
    tool.hover(at(1, 2));
    tool.click(at(1, 2));
    tool.click(at(4, 1));
    const told = events.onAim.mock.calls.map(([place, phase]) => [(place as { point: number[]; focus: string | null } | null)?.focus, phase as string]);
    expect(told).toEqual([[null, "hover"], [null, "click"], ["p", "click"]]);
    expect((events.onAim.mock.calls[1]?.[0] as { point: number[] }).point).toEqual([expect.closeTo(1), expect.closeTo(2), expect.closeTo(0)]);
    // From above a height cannot be dragged; seen from the front it can.
    const shown = { target: [1, 2, 3] as [number, number, number], foot: [1, 2, 0] as [number, number, number], said: "", from: null, taken: true, heads: [] };
    tool.show(shown);
    const front = { ...plan(), viewpoint: homeViewpoint("front") };
    front.camera = cameraFor(front.viewpoint, WIDTH / HEIGHT);
    front.camera.updateMatrixWorld();
    const seen = (z: number): At => ({ pane: front, ...(project(front, new THREE.Vector3(1, 2, z)) ?? { x: 0, y: 0 }), shift: false, ctrl: false });
    const ray = (_: ShownPane, x: number, y: number) => {
      const caster = new THREE.Raycaster();
      caster.setFromCamera(new THREE.Vector2((x / WIDTH) * 2 - 1, 1 - (y / HEIGHT) * 2), front.camera);
      return caster;
    };
    const upright = new AimTool({ ...marked, ray } as ToolStage);
    upright.show(shown);
    expect([upright.hover(seen(3)), upright.press(seen(1))]).toEqual(["height", null]);
    const hold = upright.press(seen(3));
    hold?.move(seen(4.02));
    hold?.end(seen(4.02));
    expect(events.onRaise.mock.calls).toEqual([[expect.closeTo(4), "move"], [expect.closeTo(4), "end"]]);
    // Its foot takes the spot along over the floor.
    expect(upright.hover(seen(0))).toBe("place");
    upright.press(seen(0))?.move(seen(0));
    expect(events.onAim.mock.calls.at(-1)?.[1]).toBe("drag");
  });

  it("measure from one click to the next, follow the pointer between them, and begin anew after", () => {
    const { stage, events, at } = bench();
    const tool = new MeasureTool(stage);
    tool.click(at(0, 0));
    tool.hover(at(3, 0));
    expect(events.onMeasured.mock.lastCall?.[0]).toBeCloseTo(3);
    tool.click(at(3, 4));
    expect(events.onMeasured.mock.lastCall?.[0]).toBeCloseTo(5);
    tool.hover(at(9, 9));
    expect(tool.measured?.done).toBe(true);
    expect(events.onMeasured.mock.lastCall?.[0]).toBeCloseTo(5);
    tool.leave();
    expect(events.onMeasured).toHaveBeenLastCalledWith(null);
  });

  it("draw on the pane's own plane: down, drag, up, and a click where it has not moved", () => {
    const { stage, events, at } = bench();
    const tool = new OutlineTool(stage);
    const hold = tool.press(at(1, 1));
    hold.move(at(1, 1));
    hold.end(at(1, 1));
    const moved = tool.press(at(1, 1));
    moved.end(at(4, 1));
    expect(events.onDraw.mock.calls.map(([, phase]) => phase as string)).toEqual(["down", "drag", "up", "click", "down", "up"]);
    expect(events.onDraw.mock.calls[0]?.[0]).toMatchObject({ plane: "plan", at: [expect.closeTo(1), expect.closeTo(1)] });
  });

  it("arrange: the guide by its handles, and elsewhere one selects", () => {
    const { stage, events, at } = bench();
    const tool = new ArrangeTool(stage, new SelectTool(stage));
    tool.show({ kind: "line", start: [-2, 0, 0], end: [2, 0, 0] });
    expect(tool.hover(at(2, 0))).toBe("end");
    const hold = tool.press(at(2, 0));
    hold?.move(at(4.01, 1));
    hold?.end(at(4.01, 1));
    // Handles go in steps of five centimetres.
    expect(events.onGuide.mock.calls.map(([name, to, phase]) => [name, to, phase] as unknown)).toEqual([
      ["end", [expect.closeTo(4), expect.closeTo(1), 0], "move"],
      ["end", [expect.closeTo(4), expect.closeTo(1), 0], "end"],
    ]);
    expect(tool.press(at(0, 3))).toBeNull();
    tool.click(at(0, 3));
    expect(events.onSelect).toHaveBeenCalledWith(["thing"], false);
  });
});

describe("blades on the lit surface", () => {
  const ABLE = { askew: 0.8, whole: 0, ends: false };
  const lit = () => {
    const made = bench();
    const straightDown = { lens: new THREE.Vector3(2, 3, 6), along: new THREE.Vector3(0, 0, -1), side: new THREE.Vector3(1, 0, 0) };
    const gate = { blades: [0, 0, 0.5, 0].map((depth) => ({ depth, angle: 0 })), turn: 0 };
    const onFloor = ({ ray }: THREE.Raycaster) => ({ point: ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 0, 1), 0), new THREE.Vector3()) });
    Object.assign(made.stage.state, { pose: () => straightDown, rowOf: () => 0, gate: () => gate, cone: () => ({ half: Math.atan(0.25), apex: 2, outer: 0.3 }) });
    Object.assign(made.stage.solids, { hit: onFloor, version: 1 });
    const tool = new BladeTool(made.stage);
    tool.show([{ id: "head", able: ABLE }]);
    return { ...made, tool };
  };

  it("are dragged where their edges fall: the light of a rim of a quarter over 8 m is 2 m wide there", () => {
    const { tool, events, at } = lit();
    // Seen along the beam its Y is upstage: the top blade comes from there, 2 m from the middle.
    expect(tool.hover(at(2, 5))).toBe("head edge 0");
    expect(tool.hover(at(3, 4))).toBeNull();
    const held = tool.press(at(2, 5));
    held?.move(at(2, 4));
    expect(events.onBlades).toHaveBeenLastCalledWith("head", { "blade 1": expect.closeTo(0.5, 1), "blade 1 angle": 0 }, "move");
    held?.end(at(2, 4));
    expect(events.onBlades).toHaveBeenLastCalledWith("head", { "blade 1": expect.closeTo(0.5, 1), "blade 1 angle": 0 }, "end");
  });

  it("turn about the middle of their edge by an end, and are left as they were by Escape", () => {
    const { tool, events, at } = lit();
    // The bottom blade is half in: its edge lies 1 m downstage of the middle, its ends 0.84 m to either side.
    const end = [at(2.84, 2), at(1.16, 2)].find((spot) => tool.hover(spot)?.startsWith("head end 2"));
    expect(end).toBeDefined();
    const held = tool.press(end as At);
    held?.move(at(2.84, 2.4));
    const said = events.onBlades.mock.lastCall?.[1] as Record<string, number>;
    expect(Math.abs(Math.tan(said["blade 3 angle"] as number))).toBeCloseTo(0.4 / 0.84, 1);
    held?.cancel?.();
    expect(events.onBlades.mock.lastCall?.[2]).toBe("move");
    tool.click(at(0, 0));
    expect(events.onSelect).toHaveBeenCalledWith(["thing"], false);
  });
});

describe("the light that is aimed", () => {
  it("is drawn by its rim on whatever it falls on: a wall cuts it, few heads or many", () => {
    const { stage, at, pane } = bench();
    // A floor, and upstage of 4 m a platform of 1 m.
    const onSet = ({ ray }: THREE.Raycaster) => {
      const level = (z: number) => ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 0, 1), -z), new THREE.Vector3());
      const high = level(1);
      return { point: high && high.y > 4 ? high : level(0) };
    };
    Object.assign(stage.solids, { hit: onSet });
    const tool = new AimTool(stage);
    const head = { id: "a", label: "1", lens: [0, 4, 6], at: [0, 4, 0], half: Math.atan(0.25), missing: 0, blocked: null } as never;
    const drawn: [number, number][] = [];
    const pen = new Proxy({ lineTo: (x: number, y: number) => drawn.push([x, y]), moveTo: (x: number, y: number) => drawn.push([x, y]), measureText: () => ({ width: 1 }) } as Record<string, unknown>, { get: (of, key: string) => of[key] ?? (() => undefined) });
    const sheet = new Sheet(pen as unknown as CanvasRenderingContext2D, {} as StageTheme);
    for (const heads of [[head], Array.from({ length: 20 }, () => head)]) {
      drawn.length = 0;
      tool.show({ heads, target: [0, 4, 0], foot: null, from: null, said: "", taken: false } as never);
      tool.draw(sheet, pane, null);
      const far = (way: number) => Math.max(...drawn.map(([, y]) => way * (at(0, 4).y - y)));
      // Downstage 1.5 m on the floor; upstage 1.25 m on the platform, where the rim of few is thrown on the set.
      expect(far(-1)).toBeCloseTo(at(0, 2.5).y - at(0, 4).y, 0);
      expect(far(1)).toBeCloseTo(at(0, 4).y - at(0, heads.length === 1 ? 5.25 : 5.5).y, -0.5);
    }
  });
});

describe("asking about a place", () => {
  it("tells what was clicked with where it was seen from, and that there was nothing", () => {
    const { stage, events, at } = bench();
    const tool = new AskTool(stage);
    tool.hover(at(1, 1));
    expect(events.onAsk).not.toHaveBeenCalled();
    tool.click(at(1, 2));
    expect(events.onAsk).toHaveBeenCalledOnce();
    const told = events.onAsk.mock.calls[0]?.[0] as { point: number[]; thing: string; eye: number[] };
    expect(told.point.map((value) => Math.round(value * 100) / 100)).toEqual([1, 2, 0]);
    expect([told.thing, told.eye.length]).toEqual(["floor", 3]);
    Object.assign(stage, { surfaceAt: () => null });
    tool.click(at(1, 2));
    expect(events.onAsk).toHaveBeenLastCalledWith(null);
  });

  it("has a note under its pin, the one on top where two are there", () => {
    const { stage, at, pane } = bench();
    const tool = new AskTool(stage);
    const pin = (id: string) => ({ id, at: [1, 2, 0] as [number, number, number], text: "1", done: false, chosen: false });
    tool.show({ light: null, seats: [], place: null, rays: [], pins: [pin("below"), pin("above")] });
    const { x, y } = at(1, 2);
    expect(tool.pinAt(pane, x, y - 17)).toBe("above");
    expect(tool.pinAt(pane, x, y + 6)).toBeNull();
  });

  it("paints each cell of measured light once, but those that something stands before", () => {
    const { stage, pane } = bench();
    const tool = new AskTool(stage);
    const places = [0, 1].flatMap((y) => [0, 1, 2].map((x): [number, number, number] => [x, y, 0]));
    const light = { points: [2, 1] as [number, number], places, colours: ["#111111", "#eeeeee"], texts: ["1", "800"], numbers: true, contours: [{ lux: 400, lines: [[[1, 0, 0], [1, 1, 0]] as [number, number, number][]] }] };
    tool.show({ light, seats: [{ at: [0, -3, 1], colour: "#123456", chosen: true }], place: [0, 0, 0], rays: [], pins: [] });
    const filled: string[] = [];
    const written: string[] = [];
    const pen = { fillStyle: "" } as Record<string, unknown>;
    const sheet = new Sheet(new Proxy(pen, { get: (of, key: string) => (key === "fill" ? () => filled.push(String(of.fillStyle)) : key === "fillText" ? (words: string) => written.push(words) : (of[key] ?? (() => undefined))) }) as unknown as CanvasRenderingContext2D, {} as StageTheme);
    tool.draw(sheet, pane);
    expect(filled).toEqual(["#111111", "#eeeeee", "#123456"]);
    expect(written).toContain("1");
    // From the front, with something before all of it, none is painted.
    filled.length = 0;
    Object.assign(stage, { surfaceAt: () => ({ point: new THREE.Vector3(0, -90, 0), normal: new THREE.Vector3(0, -1, 0), id: "wall", distance: 0.5 }), ray: () => ({ ray: { origin: new THREE.Vector3(0, -100, 0) } }) });
    tool.draw(sheet, { ...pane, pane: { ...pane.pane, id: "side", view: "front" } });
    expect(filled).toEqual(["#123456"]);
  });
});
