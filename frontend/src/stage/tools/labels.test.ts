import { describe, expect, it, vi } from "vitest";
import type { Driver, Mounted, Pane, StageLabels } from "../data";
import { cameraFor, homeViewpoint } from "../view/cameras";
import type { ShownPane } from "../view/panes";
import { drawDriven, drawMarks } from "./driven";
import { Labels, LEAST_PX } from "./labels";
import { type Obstacle, placeCaption, thinned } from "./placing";
import { Sheet, type StageTheme } from "./sheet";

const [WIDTH, HEIGHT] = [800, 600];

/** A pen that only keeps what is written, and how large. */
function pen() {
  const written: { text: string; px: number }[] = [];
  const made = {
    font: "", measureText: (text: string) => ({ width: text.length * parseFloat(made.font) * 0.6 }),
    fillText: (text: string) => written.push({ text, px: parseFloat(made.font) }),
    beginPath: () => undefined, moveTo: () => undefined, lineTo: () => undefined, stroke: () => undefined, fill: () => undefined, closePath: () => undefined,
    rect: () => undefined, drawImage: () => undefined, roundRect: () => undefined, ellipse: () => undefined, arc: () => undefined,
  };
  return { made: made as unknown as CanvasRenderingContext2D, written };
}

/** A plan that shows so many metres from top to bottom. */
function plan(metres: number, more: Partial<Pane> = {}): ShownPane {
  const viewpoint = { ...homeViewpoint("plan"), height: metres };
  const pane: Pane = { id: "main", view: "plan", picture: "live", share: 1, shade: "lines", ...more };
  const camera = cameraFor(viewpoint, WIDTH / HEIGHT);
  camera.updateMatrixWorld();
  return { pane, viewpoint, camera, left: 0, top: 0, width: WIDTH, height: HEIGHT };
}

// A rig of eight bars with twelve each, half a metre apart.
const mounted = Array.from({ length: 96 }, (_, i) => ({ id: `f${i}`, label: String(101 + i), position: [(i % 12) * 0.5 - 3, Math.floor(i / 12) * 1.2 - 4, 6], rotation: [0, 0, 0, 1] })) as unknown as Mounted[];
const state = { placeOf: () => undefined } as never;
const parts = (label: string) => [{ field: "type", text: "Heron", shape: "plain" }, { field: "number", text: label, shape: "circle" }, { field: "address", text: "2.101", shape: "box" }];
const style: StageLabels = { views: ["plan"], sizeMm: 180, sizePx: 11, leader: true, texts: new Map(mounted.map((one) => [one.id, parts(one.label)])) };

describe("who drives", () => {
  it("is marked beside each fixture: hands square, a console with three corners, a look round, home not at all", () => {
    const { made } = pen();
    const shapes: string[] = [];
    Object.assign(made, { rect: () => shapes.push("square"), arc: () => shapes.push("round"), closePath: () => shapes.push("triangle") });
    const drivers = new Map<string, Driver>([["f0", "hands"], ["f1", "console"], ["f2", "look"], ["f3", "home"]]);
    const sheet = new Sheet(made, {} as StageTheme);
    drawDriven(sheet, plan(20), mounted, state, drivers);
    expect(shapes).toEqual(["square", "triangle", "round"]);
    // A look that is shown beside has nobody who drives; where labels are left out marks are as well.
    drawDriven(sheet, plan(20, { picture: "look-1" }), mounted, state, drivers);
    drawDriven(sheet, plan(20, { labels: false }), mounted, state, drivers);
    expect(shapes).toHaveLength(3);
  });
});

describe("what a fixture belongs to", () => {
  const marks = new Map(mounted.map((one, i) => [one.id, { text: i < 3 ? "" : String(1 + Math.floor(i / 12)), colour: "plum" }] as const));
  const marked = (pane: ShownPane) => {
    const { made, written } = pen();
    const shapes = { plates: 0, dots: 0 };
    Object.assign(made, { save: () => undefined, restore: () => undefined, roundRect: () => shapes.plates++, arc: () => shapes.dots++ });
    drawMarks(new Sheet(made, { numbers: "mono" } as StageTheme), pane, mounted, state, marks);
    return { ...shapes, written };
  };

  it("is written on it where there is room, else a dot of its colour; a ring where it is nothing", () => {
    const near = marked(plan(10));
    expect([near.plates, near.dots]).toEqual([93, 3]);
    expect(near.written[0]).toEqual({ text: "1", px: 600 });
    const far = marked(plan(120));
    expect(far.plates).toBeGreaterThan(5);
    expect(far.plates + far.dots).toBe(96);
    expect(far.dots).toBeGreaterThan(50);
    expect(marked(plan(10, { labels: false })).plates).toBe(0);
  });
});

function drawn(pane: ShownPane, styles: readonly StageLabels[] = [style], selected: readonly string[] = [], bodies = false) {
  const { made, written } = pen();
  // Numbers are drawn once each and copied.
  vi.stubGlobal("document", { createElement: () => ({ getContext: () => Object.assign(Object.create(made) as object, { scale: () => undefined }) }) });
  const labels = new Labels({ ground: "", faint: "", text: "", selected: "", active: "", numbers: "mono" } as unknown as StageTheme, made);
  labels.styles = styles;
  labels.drawStyles(pane, mounted, state, new Set(selected), {}, bodies);
  labels.draw(pane, { bodies, landings: false }, mounted, state, {} as never, new Set(selected), 1);
  return { written, said: new Set(written.map(({ text }) => text)), count: labels.styled + labels.plain };
}

describe("labels in a plan", () => {
  it("say everything where there is room, less from further away, and are never dust", () => {
    const near = drawn(plan(2.5));
    expect([near.said.has("Heron"), near.said.has("2.101")]).toEqual([true, true]);
    const less = drawn(plan(7));
    expect([less.said.has("Heron"), less.said.has("2.101"), less.said.has("101")]).toEqual([false, true, true]);
    const least = drawn(plan(20));
    expect([least.said.has("2.101"), least.said.has("101")]).toEqual([false, true]);
    const far = drawn(plan(60));
    expect(far.said.has("2.101")).toBe(false);
    // Where not even all numbers find room, some do.
    expect(far.count).toBeGreaterThan(3);
    expect(far.count).toBeLessThan(96);
    for (const { written } of [near, less, least, far]) expect(Math.min(...written.map(({ px }) => px))).toBeGreaterThanOrEqual(LEAST_PX);
  });

  it("stand once where numbers on bodies are wanted too", () => {
    const half: StageLabels = { ...style, texts: new Map([...style.texts].slice(0, 48)) };
    const { written } = drawn(plan(12), [half], [], true);
    const numbers = written.map(({ text }) => text).filter((text) => /^\d{3}$/.test(text));
    expect(new Set(numbers).size).toBe(numbers.length);
    expect(numbers.some((one) => Number(one) > 148)).toBe(true);
  });

  it("begin with those that are selected", () => {
    expect(drawn(plan(60), [style], ["f95"]).said.has("196")).toBe(true);
  });

  it("are the numbers where no style says more, and none where the pane does without", () => {
    expect(drawn(plan(7), []).said.has("101")).toBe(true);
    expect(drawn(plan(7, { labels: false })).written).toEqual([]);
  });

  it("keep their number longest, then their address; what has neither keeps what comes first", () => {
    const all = parts("7");
    expect([0, 1, 2].map((level) => thinned(all, level).map(({ field }) => field))).toEqual([["type", "number", "address"], ["number", "address"], ["number"]]);
    expect(thinned([{ field: "purpose" }, { field: "note" }], 2)).toEqual([{ field: "purpose" }]);
  });
});

describe("the caption of what is arranged", () => {
  const within: Obstacle = { left: 0, top: 0, width: 800, height: 600 };
  const over = (at: { left: number; top: number }, one: Obstacle): boolean => at.left < one.left + one.width && one.left < at.left + 120 && at.top < one.top + one.height && one.top < at.top + 32;

  it("keeps off bodies and off what it is of, inside the pane", () => {
    for (const [x, y] of [[400, 300], [10, 10], [760, 20], [30, 560], [700, 580]] as const) {
      const of = { left: x, top: y, width: 60, height: 20 };
      const bodies = Array.from({ length: 30 }, (_, i): Obstacle => ({ left: 60 + (i % 10) * 70, top: 120 + Math.floor(i / 10) * 150, width: 18, height: 18 }));
      const at = placeCaption({ width: 120, height: 32 }, of, bodies, within);
      expect(bodies.filter((one) => over(at, one))).toEqual([]);
      expect(over(at, of)).toBe(false);
      expect(at.left >= 0 && at.top >= 0 && at.left <= 680 && at.top <= 568).toBe(true);
    }
  });
});
