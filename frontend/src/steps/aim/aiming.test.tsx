// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { settings, useShow } from "../../show/document";
import { bladedNow } from "../../show/blades";
import { sharpAt } from "../../show/cutting";
import { usePanes } from "../../show/panes";
import { drawPath, pathAt, takePath } from "../../show/paths";
import { beginAim, leaveAim, pointAt, raise, setAbove, setPattern, usePointing } from "../../show/pointing";
import { useSelection } from "../../show/selection";
import type { Row } from "../../show/types";
import type { PointedAt } from "../../stage/data";
import { changed, desk, row } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import { AimBench } from "./Bench";
import { AimCard } from "./Card";

let asked: ReturnType<typeof desk> = [];
const FLOOR: PointedAt = { point: [1, 2, 1.1], normal: [0, 0, 1], foot: [1, 2, 1.1], thing: "deck", focus: null };
const WALL: PointedAt = { point: [1, 9, 3], normal: [0, -1, 0], foot: [1, 9, 0], thing: "wall", focus: null };
const head = { id: "a", lens: [0, 0, 7], at: [1, 2, 1.1], target: [1, 2, 2.7], thing: "Main deck", blocked_by: null, missing_deg: 0, half_field: 0.1 };
const short = [{ id: "b", missing_deg: 12.5, repairs: [{ label: "Turn fixture 2 by 90°", kind: "set field", args: { ids: ["b"], field: "spin", text: "=90" } }] }];

function fixture(id: string, number: number, more: object = {}): Row {
  return row(id, "fixture", { type: "heron", mode: "Standard", number, hands: {}, fixed: {}, purpose: "", ...more } as never);
}

beforeEach(() => {
  const objects = {
    show: row("show", "show", { ...settings({}), system: "metric" }),
    a: fixture("a", 1, { aim: { place: [0, 0, 0], point: "p", offset: [0, 0, 0] }, hands: { pan: 0.5, tilt: 0.2 } }),
    b: fixture("b", 2),
    p: row("p", "focus point", { name: "Lectern", number: 3, position: [0, 1, 2], rides: null } as never),
    who: row("who", "figure", { name: "Storyteller", position: [4, 4, 1.1], path: [[0, 0, 0], [3, 0, 0]], group: "" } as never),
  };
  useShow.setState({ id: "s", rev: 4, objects, bodies: [{ type: "heron", mode: "Standard", parts: [], cells: [], pan_deg: [-270, 270], tilt_deg: [-135, 135], by_hand: false, blades: { askew: 0.8, whole: 1, ends: false } }] as never });
  useSelection.setState({ selection: ["a", "b"], step: "aim" });
  usePointing.setState({ pattern: "point", above: 0, radius: "1m", from: null, taken: null, shown: null, short: [] });
  usePanes.setState({ tool: "select" });
  asked = desk({
    "/pointing": () => ({ heads: [head], still: [] }),
    "/reach": () => short,
    "/landings": () => [],
    "/edits": () => changed(),
  });
});
afterEach(() => vi.unstubAllGlobals());

const edits = (kind: string) => asked.filter(({ path, body }) => path.endsWith("/edits") && body?.kind === kind && !body.preview).map(({ body }) => body?.args as Record<string, unknown>);

describe("pointing", () => {
  it("shows where each would look while the pointer is held, and a click takes it as high as was asked", async () => {
    beginAim();
    setAbove(1.6);
    pointAt(FLOOR, "hover");
    await vi.waitFor(() => expect(usePointing.getState().shown?.heads[0]?.label).toBe("1"), { timeout: 20_000 });
    const { shown } = usePointing.getState();
    expect([shown?.target[2], shown?.foot, shown?.said]).toEqual([expect.closeTo(2.7), [1, 2, 1.1], "1.60 m"]);
    expect(edits("aim at")).toHaveLength(0);
    pointAt(FLOOR, "click");
    await vi.waitFor(() => expect(edits("aim at")).toHaveLength(1), { timeout: 20_000 });
    expect(edits("aim at")[0]).toMatchObject({ ids: ["a", "b"], pattern: "point", point: [1, 2, expect.closeTo(2.7)] });
  });

  it("takes the place itself on a wall, a person over where they stand, and a focus point by itself", async () => {
    beginAim();
    setAbove(1.6);
    pointAt(WALL, "click");
    await vi.waitFor(() => expect(edits("aim at")[0]?.point).toEqual([1, 9, 3]), { timeout: 20_000 });
    pointAt({ ...WALL, thing: "who" }, "click");
    await vi.waitFor(() => expect(edits("aim at")[1]?.point).toEqual([4, 4, expect.closeTo(2.7)]), { timeout: 20_000 });
    pointAt({ ...FLOOR, focus: "p" }, "click");
    await vi.waitFor(() => expect(edits("aim at")[2]).toMatchObject({ focus: "p" }), { timeout: 20_000 });
  });

  it("draws a line from one click to the next, and Escape takes the first one back", async () => {
    setPattern("line");
    beginAim();
    pointAt(FLOOR, "click");
    expect(usePointing.getState().from).toEqual([1, 2, 1.1]);
    leaveAim();
    expect([usePointing.getState().from, usePanes.getState().tool]).toEqual([null, "aim"]);
    pointAt(FLOOR, "click");
    pointAt(WALL, "click");
    await vi.waitFor(() => expect(edits("aim at")[0]).toMatchObject({ point: [1, 2, 1.1], to: [1, 9, 3], pattern: "line" }), { timeout: 20_000 });
    leaveAim();
    expect(usePanes.getState().tool).toBe("select");
  });

  it("is raised by the top of its plumb line: the picture follows, one edit ends it", async () => {
    beginAim();
    pointAt(FLOOR, "click");
    await vi.waitFor(() => expect(usePointing.getState().taken).not.toBeNull(), { timeout: 20_000 });
    raise(2.0, "move");
    raise(2.5, "move");
    await vi.waitFor(() => expect(asked.some(({ body }) => body?.live && body.kind === "aim at")).toBe(true), { timeout: 20_000 });
    raise(2.5, "end");
    await vi.waitFor(() => expect(edits("aim at")).toHaveLength(2), { timeout: 20_000 });
    expect(edits("aim at")[1]?.point).toEqual([1, 2, 2.5]);
    expect(usePointing.getState().above).toBeCloseTo(1.4);
  });
});

describe("the spot", () => {
  it("is dragged over the set, and begins where all of them are aimed already", async () => {
    const aim = { place: [3, 3, 1], point: null, offset: [0, 0, 0] };
    useShow.setState({ objects: { ...useShow.getState().objects, a: fixture("a", 1, { aim }), b: fixture("b", 2, { aim }) } });
    beginAim();
    await vi.waitFor(() => expect(usePointing.getState().shown).toMatchObject({ target: [3, 3, 1], taken: true }), { timeout: 20_000 });
    pointAt(FLOOR, "drag");
    pointAt({ ...FLOOR, point: [2, 2, 1.1] }, "drag");
    await vi.waitFor(() => expect(asked.some(({ body }) => body?.live && JSON.stringify(body.args).includes("[2,2,1.1]"))).toBe(true), { timeout: 20_000 });
    expect(edits("aim at")).toHaveLength(0);
    pointAt({ ...FLOOR, point: [2, 2, 1.1] }, "click");
    await vi.waitFor(() => expect(edits("aim at")[0]?.point).toEqual([2, 2, 1.1]), { timeout: 20_000 });
  });
});

describe("what was taken", () => {
  it("is forgotten when others are selected, and is not drawn once the tool is left", async () => {
    drawn(<AimCard />);
    beginAim();
    pointAt(FLOOR, "click");
    await waitFor(() => expect(usePointing.getState().shown?.taken).toBe(true));
    act(() => useSelection.setState({ selection: ["b"], step: "aim" }));
    await waitFor(() => expect([usePointing.getState().taken, usePanes.getState().tool]).toEqual([null, "aim"]));
    act(() => useSelection.setState({ selection: [], step: "aim" }));
    await waitFor(() => expect(usePanes.getState().tool).toBe("select"));
    pointAt(FLOOR, "hover");
    await vi.waitFor(() => expect(asked.filter(({ path }) => path.endsWith("/pointing")).length).toBeGreaterThan(1), { timeout: 20_000 });
    expect(usePointing.getState().shown).toBeNull();
  });
});

describe("the card", () => {
  it("names who cannot reach and offers what would let them", async () => {
    desk({ "/edits": () => ({ ...(changed() as object), report: ["Fixture 2 cannot reach"] }), "/pointing": () => ({ heads: [head], still: [] }), "/reach": () => short, "/landings": () => [] });
    drawn(<AimCard />);
    beginAim();
    pointAt(FLOOR, "click");
    const repair = await screen.findByRole("button", { name: "Turn fixture 2 by 90°" });
    expect(screen.getByText("Fixture 2 cannot reach: 12.5° are missing.")).toBeTruthy();
    fireEvent.click(repair);
    await waitFor(() => expect(screen.queryByText(/12\.5°/)).toBeNull());
  });

  it("makes a focus point of the place that was taken", async () => {
    drawn(<AimCard />);
    beginAim();
    pointAt(FLOOR, "click");
    fireEvent.change(await screen.findByLabelText("Name it"), { target: { value: "Altar" } });
    fireEvent.click(screen.getByRole("button", { name: "Make it the focus point Altar" }));
    await waitFor(() => expect(edits("add focus point")[0]).toMatchObject({ name: "Altar", point: [1, 2, 1.1] }));
  });

  it("turns heads by typed angles, fans, pairs and the other way round", async () => {
    drawn(<AimCard />);
    fireEvent.click(screen.getByRole("radio", { name: "from the middle" }));
    const tilt = screen.getByLabelText("Tilt");
    fireEvent.change(tilt, { target: { value: "0 to 25" } });
    fireEvent.keyDown(tilt, { key: "Enter" });
    await waitFor(() => expect(edits("turn heads")[0]).toMatchObject({ feature: "tilt", text: "0 to 25", fan: "middle" }));
    fireEvent.click(screen.getByRole("button", { name: "Flip" }));
    fireEvent.click(screen.getByRole("button", { name: "Mirror SR to SL" }));
    await waitFor(() => expect([edits("flip").length, edits("mirror aims")[0]?.source]).toEqual([1, "SR"]));
  });

  it("shows a focus point with who is aimed at it, and lets it ride", async () => {
    useSelection.setState({ selection: ["p"], step: "aim" });
    drawn(<AimCard />);
    expect(screen.getByText("1 fixture: 1. They follow it.")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Rides on"), { target: { value: "who" } });
    await waitFor(() => expect(edits("ride on")[0]).toEqual({ id: "p", on: "who" }));
  });

  it("walks a person along a way that was drawn, and draws another", async () => {
    useSelection.setState({ selection: ["who"], step: "aim" });
    drawn(<AimCard />);
    const along = screen.getByLabelText("Along the way");
    fireEvent.pointerDown(along);
    fireEvent.change(along, { target: { value: "500" } });
    fireEvent.pointerUp(along);
    await waitFor(() => expect(edits("walk")[0]).toEqual({ id: "who", share: 0.5 }));
    drawPath("who");
    pathAt(WALL, "click");
    pathAt(FLOOR, "click");
    pathAt({ ...FLOOR, point: [2, 2, 1.1] }, "click");
    takePath();
    await waitFor(() => expect(edits("set path")[0]).toEqual({ id: "who", path: [[1, 2, 1.1], [2, 2, 1.1]] }));
  });
});

describe("colour, shape and gate", () => {
  const colours = {
    kinds: [
      { ids: ["a"], type: "Heron", outline: [[0.2, 0.1], [0.6, 0.3], [0.3, 0.6], [0.2, 0.1]], slots: [{ slot: 1, name: "Open", xy: [0.31, 0.33] }, { slot: 2, name: "Harbour red", xy: [0.64, 0.33] }], emitters: [], flags: ["cyan"] },
      { ids: ["b"], type: "Curlew", outline: [], slots: [], emitters: [], flags: [] },
    ],
    now: [0.4, 0.4],
  };
  const wheels = [{ feature: "gobo slot", ids: ["a"], type: "Heron", slots: [{ slot: 1, name: "Open", image: null }, { slot: 2, name: "Shingle", image: null }], turn: "gobo turn", spin: null }];
  beforeEach(() => {
    asked = desk({ "/colours": () => colours, "/wheels": () => wheels, "/landings": () => [], "/edits": () => changed() });
    const channels = ["Zoom", "Iris", "Focus1", "Blade1A"].map((attribute, i) => ({ attribute, slots: [i + 1], dmx_break: 1 }));
    useShow.setState({ types: { heron: { name: "Heron", maker: "", type_id: "", weight_kg: 1, sort: "moving head, profile", words: "", modes: [{ name: "Standard", footprint: 3, breaks: [], channels }] } } as never });
  });

  it("picks whites, slots and the colour of another, and says who has none", async () => {
    drawn(<AimCard />);
    fireEvent.click(await screen.findByRole("button", { name: "3200" }));
    await waitFor(() => expect(edits("set colour")[0]).toEqual({ ids: ["a", "b"], kelvin: 3200 }));
    fireEvent.click(screen.getByRole("button", { name: "Harbour red" }));
    await waitFor(() => expect(edits("hold values")[0]).toEqual({ ids: ["a"], values: { "colour slot": 2 } }));
    const white = screen.getByLabelText("White, tint");
    fireEvent.change(white, { target: { value: "warm" } });
    fireEvent.keyDown(white, { key: "Enter" });
    expect(await screen.findByText(/Type kelvin/)).toBeTruthy();
    expect(screen.getByText("1 of them have no colour of their own: they stay as they are.")).toBeTruthy();
  });

  it("shapes only what can be shaped, and chooses gobos by their pictures", async () => {
    drawn(<AimCard />);
    const zoom = await screen.findByLabelText("Zoom");
    fireEvent.change(zoom, { target: { value: "24" } });
    fireEvent.keyDown(zoom, { key: "Enter" });
    await waitFor(() => expect(edits("hold values").at(-1)).toEqual({ ids: ["a", "b"], values: { zoom: 24 } }));
    expect(screen.queryByLabelText("Frost")).toBeNull();
    fireEvent.click(await screen.findByRole("button", { name: "Shingle" }));
    await waitFor(() => expect(edits("hold values").at(-1)).toEqual({ ids: ["a"], values: { "gobo slot": 2 } }));
    const sharp = screen.getByLabelText("Sharp at");
    fireEvent.change(sharp, { target: { value: "8m" } });
    fireEvent.keyDown(sharp, { key: "Enter" });
    await waitFor(() => expect(edits("sharp at")[0]).toEqual({ ids: ["a", "b"], distance: "8m" }));
    fireEvent.click(screen.getByRole("button", { name: "Pick" }));
    sharpAt({ point: [1, 2, 3] }, "hover");
    sharpAt({ point: [1, 2, 3] }, "click");
    await waitFor(() => expect(edits("sharp at")[1]).toEqual({ ids: ["a", "b"], point: [1, 2, 3] }));
    expect(usePanes.getState().tool).toBe("select");
    fireEvent.click(screen.getByRole("button", { name: "Cut to an edge" }));
    expect(usePanes.getState().tool).toBe("cut");
  });

  it("gives values to single cells of a batten, and picks which mixture", async () => {
    const cell = { pan: [0, 0, 0], tilt: [0, 0, 0], lens: [0, 0, 0], lens_radius: 0.02, mount_turn: [0, 0, 0, 1], lens_turn: [0, 0, 0, 1], zero: [0, 0], mirror: false };
    useShow.setState({ bodies: [{ type: "heron", mode: "Standard", parts: [], cells: Array.from({ length: 6 }, () => cell), pan_deg: [0, 0], tilt_deg: [-90, 90], by_hand: false, apart: true, blades: null }] as never });
    asked = desk({ "/colours": () => ({ ...colours, kinds: [{ ...colours.kinds[0], emitters: ["red", "green", "blue", "white"], spectra: true }] }), "/wheels": () => [], "/landings": () => [], "/edits": () => changed() });
    drawn(<AimCard />);
    fireEvent.click(screen.getByRole("button", { name: "Cell 2" }));
    fireEvent.click(screen.getByRole("button", { name: "Cell 4" }), { shiftKey: true });
    expect(screen.getByRole("group", { name: "3 cells picked" })).toBeTruthy();
    fireEvent.click(await screen.findByRole("radio", { name: "fullest" }));
    fireEvent.click(screen.getByRole("button", { name: "3200" }));
    await waitFor(() => expect(edits("set colour")[0]).toEqual({ ids: ["a", "b"], cells: [2, 3, 4], kelvin: 3200, prefer: "fullest" }));
    const tilt = screen.getByLabelText("Tilt");
    fireEvent.change(tilt, { target: { value: "-10 to 10" } });
    fireEvent.keyDown(tilt, { key: "Enter" });
    await waitFor(() => expect(edits("turn heads")[0]).toMatchObject({ cells: [2, 3, 4], text: "-10 to 10" }));
    fireEvent.click(screen.getByRole("button", { name: "Odd" }));
    expect(screen.getByRole("group", { name: "3 cells picked" })).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "All" }));
    const level = screen.getByLabelText("Intensity");
    fireEvent.pointerDown(level);
    fireEvent.change(level, { target: { value: "40" } });
    fireEvent.pointerUp(level);
    await waitFor(() => expect(edits("hold values")[0]).toEqual({ ids: ["a", "b"], values: { dimmer: 0.4, shutter: 1, strobe: 0 } }));
  });

  it("drags blades on a face view of the gate, for all that have them", async () => {
    drawn(<AimCard />);
    const face = screen.getByRole("group", { name: "Blades" });
    Object.assign(face, { setPointerCapture: () => undefined });
    // The top blade's edge is 70 px above the middle, at (95, 95).
    fireEvent.pointerDown(face, { pointerId: 1, clientX: 95, clientY: 25 });
    fireEvent.pointerMove(face, { pointerId: 1, clientX: 99, clientY: 60 });
    fireEvent.pointerUp(face, { pointerId: 1, clientX: 99, clientY: 60 });
    await waitFor(() => expect(edits("hold values").at(-1)).toEqual({ ids: ["a", "b"], values: { "blade 1": expect.closeTo(0.5), "blade 1 angle": 0 } }));
    expect(asked.some(({ body }) => body?.preview === true && body.live === true)).toBe(true);
    fireEvent.keyDown(screen.getByRole("slider", { name: "Left blade" }), { key: "ArrowRight" });
    await waitFor(() => expect(edits("hold values").at(-1)).toMatchObject({ values: { "blade 2": expect.closeTo(0.02) } }));
    fireEvent.keyDown(screen.getByRole("slider", { name: "Turn the whole set" }), { key: "ArrowUp" });
    await waitFor(() => expect(Object.keys(edits("hold values").at(-1)?.values as object)).toEqual(["blades turn"]));
    fireEvent.click(screen.getByRole("button", { name: "Open all" }));
    await waitFor(() => expect(edits("hold values").at(-1)?.values).toMatchObject({ "blade 4": 0, "blade 4 angle": 0, "blades turn": 0 }));
    fireEvent.click(screen.getByRole("button", { name: "On the lit surface" }));
    expect([usePanes.getState().tool, bladedNow().map((one) => one.id)]).toEqual(["blades", ["a", "b"]]);
  });

  it("keeps and gives palettes, and tells who has them", async () => {
    const palette = row("w", "palette", { name: "Warm", number: 1, sort: "colour", xy: [0.45, 0.4], values: {}, aims: {}, focus: null } as never);
    useShow.setState({ objects: { ...useShow.getState().objects, w: palette, a: fixture("a", 1, { palettes: { colour: "w" } }) } });
    drawn(<AimBench />);
    fireEvent.click(screen.getByRole("button", { name: "Palettes" }));
    expect(screen.getByText("1 fixture has it")).toBeTruthy();
    asked.length = 0;
    fireEvent.mouseEnter(screen.getByRole("button", { name: "Update Warm" }));
    await waitFor(() => expect(screen.getByRole("status").textContent).toContain("would change"));
    expect(asked.every(({ body }) => body?.preview === true)).toBe(true);
    fireEvent.mouseLeave(screen.getByRole("button", { name: "Update Warm" }));
    expect(screen.getByRole("status").textContent).toContain("Point at a palette");
    fireEvent.click(screen.getByRole("button", { name: "Give Warm" }));
    await waitFor(() => expect(edits("apply palette")[0]).toEqual({ id: "w", ids: ["a", "b"] }));
    fireEvent.click(screen.getByRole("button", { name: "Update Warm" }));
    fireEvent.change(screen.getByLabelText("Keep as"), { target: { value: "Tide" } });
    fireEvent.click(screen.getByRole("button", { name: "Keep the position" }));
    await waitFor(() => expect([edits("update palette")[0]?.id, edits("keep palette")[0]]).toEqual(["w", { ids: ["a", "b"], sort: "position", name: "Tide" }]));
  });
});

describe("the bench", () => {
  it("has a row a focus point with its heads, and aims the selection there", async () => {
    drawn(<AimBench />);
    const lectern = screen.getByRole("row", { name: "3 Lectern" });
    expect(within(lectern).getByRole("button", { name: "1" })).toBeTruthy();
    fireEvent.click(within(lectern).getByRole("button", { name: "Aim 2 fixtures here" }));
    await waitFor(() => expect(edits("aim at")[0]).toMatchObject({ ids: ["a", "b"], focus: "p" }));
    fireEvent.drop(lectern, { dataTransfer: { getData: () => JSON.stringify(["b"]), types: [] } });
    await waitFor(() => expect(edits("aim at")[1]).toEqual({ ids: ["b"], focus: "p" }));
    const landing = { key: "b/1", fixture: "b", thing: "deck", throw_m: 6.25, lux: 812.4, mean_lux: 500, across_m: 1, along_m: 1, overlaps: [] };
    asked = desk({ "/landings": () => [landing, { ...landing, key: "b/2", lux: 10 }], "/edits": () => changed() });
    fireEvent.click(screen.getByRole("button", { name: "As a table" }));
    expect(screen.getByText("Lectern")).toBeTruthy();
    // Of a batten its first cell's.
    expect(await screen.findByText("812 lx")).toBeTruthy();
    expect(screen.getByText("6.25 m")).toBeTruthy();
  });
});
