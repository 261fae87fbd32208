// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { carry, carryAs, carryOver, leaveCarried, takeCarried, useCarried } from "../../show/carrying";
import { compareList, leaveCompared, mapColumn } from "../../show/compared";
import { useShow } from "../../show/document";
import { useGhost } from "../../show/edits";
import { useSelection } from "../../show/selection";
import { changed, desk, done, ghost, row } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import { PatchBench } from "./Bench";
import { Breaks } from "./Breaks";
import { PatchCard } from "./Card";
import { dragOffStage } from "./dragging";
import { marksOf } from "./marks";
import { seePatch, usePatchView, type View } from "./view";

const TYPES = { t: { name: "Heron", maker: "Quill", modes: [{ name: "Standard", footprint: 16, breaks: [{ number: 1, slots: 16 }], channels: [{ attribute: "Dimmer", slots: [1], dmx_break: 1 }] }] } };
const fixture = (id: string, number: number, universe: number | null, address: number | null) => row(id, "fixture", { number, type: "t", mode: "Standard", universe, address, breaks: [] });
/** Where the pointer is, in a page that has no places. */
let under: Element | null = null;

beforeEach(() => {
  useShow.setState({ id: "s", rev: 4, types: TYPES as never, objects: { a: fixture("a", 1, 1, 1), b: fixture("b", 2, 1, 17), c: fixture("c", 3, null, null), d: fixture("d", 4, null, null) } });
  useSelection.setState({ selection: [], step: "patch" });
  useGhost.setState({ ghost: null });
  document.elementFromPoint = () => under;
});
afterEach(() => {
  act(() => { leaveCarried(); leaveCompared(); usePatchView.setState({ view: "universes", universe: null }); });
  localStorage.clear();
  vi.unstubAllGlobals();
});

const told = (report: string[] = []) => (args: { preview?: boolean } | null) => (args?.preview ? ghost(report, fixture("c", 3, 2, 5), fixture("d", 4, 2, 21)) : changed(fixture("c", 3, 2, 5), fixture("d", 4, 2, 21)));

describe("the map of universes", () => {
  it("says how full each is, and leads to one slot by slot", () => {
    drawn(<PatchBench />);
    const map = within(screen.getByRole("group", { name: "Universes" }));
    expect(map.getByText("480 free")).toBeTruthy();
    expect(map.getByText("empty")).toBeTruthy();
    fireEvent.click(map.getByRole("button", { name: "Show universe 1" }));
    expect(screen.getByRole("gridcell", { name: "Slot 1: fixture 1, Dimmer" }).textContent).toBe("1");
    expect(screen.getByText("32 of 512 slots taken")).toBeTruthy();
  });

  it("draws fixtures of one mode on one address as driven together, and an accident as a conflict", () => {
    const { objects } = useShow.getState();
    useShow.setState({ objects: { ...objects, b: fixture("b", 2, 1, 1), c: fixture("c", 3, 1, 30), d: fixture("d", 4, 1, 40) } });
    drawn(<PatchBench />);
    fireEvent.click(screen.getByRole("button", { name: "Show universe 1" }));
    expect(screen.getByRole("gridcell", { name: /^Slot 1: .*driven together$/ }).dataset.tone).toBe("start");
    expect(screen.getByRole("gridcell", { name: /^Slot 41: .*conflict$/ }).dataset.tone).toBe("conflict");
    expect(screen.getByText("42 of 512 slots taken, 6 in conflict")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "All universes" }));
    expect(document.querySelectorAll("[data-strip='1'] [data-part='conflict']")).toHaveLength(6);
  });

  it("takes what is dragged from the shelf: the ghost shows each before it is let go", async () => {
    const asked = desk({ "/edits": told() });
    drawn(<PatchBench />);
    fireEvent.click(screen.getByRole("button", { name: "Select all of them" }));
    const chip = screen.getByRole("button", { name: "Fixture 3, not patched" });
    fireEvent.pointerDown(chip, { button: 0, clientX: 5, clientY: 5 });
    fireEvent.pointerMove(window, { clientX: 50, clientY: 50 });
    expect(useCarried.getState().ids).toEqual(["c", "d"]);
    under = document.querySelector("[data-strip='2']");
    (under as HTMLElement).getBoundingClientRect = () => ({ left: 0, width: 512 }) as DOMRect;
    await waitFor(() => {
      fireEvent.pointerMove(window, { clientX: 4.5, clientY: 50 });
      expect(screen.getByText("from 2.005 to 2.036")).toBeTruthy();
    });
    fireEvent.pointerUp(window, { clientX: 4.5, clientY: 50 });
    await waitFor(() => expect(done(asked)).toEqual([["address", { ids: ["c", "d"], start: "2.005", order: "number", gap: "0", same: false, cut: false, reverse: false }]]));
    await waitFor(() => expect(useCarried.getState().ids).toEqual([]));
  });

  it("leaves what is let go of beside it", () => {
    drawn(<PatchBench />);
    act(() => carry(["c"], true));
    under = document.body;
    fireEvent.pointerUp(window, { clientX: 1, clientY: 1 });
    expect(useCarried.getState().ids).toEqual([]);
  });

  it("says beside the ghost what would be shared, and lays it as is asked", async () => {
    const asked = desk({ "/edits": told(["Fixture 3 and fixture 2 share slots."]) });
    drawn(<PatchBench />);
    act(() => carry(["c", "d"]));
    act(() => carryOver({ universe: 2, slot: 5 }));
    await waitFor(() => expect(screen.getByText("◇ Fixture 3 and fixture 2 share slots.")).toBeTruthy());
    fireEvent.change(screen.getByLabelText("Order"), { target: { value: "place" } });
    fireEvent.click(screen.getByRole("button", { name: "Same address on purpose" }));
    act(() => carryAs({ gap: "4" }));
    await act(() => takeCarried());
    expect(done(asked)).toEqual([["address", { ids: ["c", "d"], start: "2.005", order: "place", gap: "4", same: true, cut: false, reverse: false }]]);
  });
});

describe("the stage beside the map", () => {
  it("lets fixtures be dragged off it to the map, not to a list, and not in another step", () => {
    useSelection.setState({ step: "patch", selection: ["a", "b"] });
    expect(dragOffStage("a")).toBe(true);
    expect(useCarried.getState()).toMatchObject({ ids: ["a", "b"], dragged: true });
    expect(dragOffStage(null)).toBe(false);
    expect(useCarried.getState().ids).toEqual([]);
    expect(dragOffStage("c")).toBe(true);
    expect([useCarried.getState().ids, useSelection.getState().selection]).toEqual([["c"], ["c"]]);
    act(() => leaveCarried());
    expect(dragOffStage("truss")).toBe(false);
    usePatchView.setState({ view: "list" });
    expect(dragOffStage("a")).toBe(false);
    usePatchView.setState({ view: "universes" });
    useSelection.setState({ step: "hang" });
    expect(dragOffStage("a")).toBe(false);
  });

  it("marks each fixture with its universe, of one universe only its own, lamps with their dimmers", () => {
    const objects = { ...useShow.getState().objects, b: fixture("b", 2, 7, 17), r: row("r", "rack", { name: "R", first: 1, count: 4 }), l: row("l", "fixture", { number: 9, type: "t", mode: "Standard", universe: 3, address: 9, breaks: [], dimmer: 2 }) };
    const texts = (view: View, universe: number | null = null) => Object.fromEntries([...marksOf(objects as never, view, universe)].map(([id, { text }]) => [id, text]));
    expect(texts("universes")).toEqual({ a: "1", b: "7", c: "", d: "", l: "3" });
    expect(texts("one", 7)).toEqual({ b: "7" });
    expect(texts("dimmers")).toEqual({ l: "2" });
    expect(texts("list")).toEqual({});
    expect(new Set([...marksOf(objects as never, "universes", null).values()].map(({ colour }) => colour)).size).toBe(4);
  });
});

describe("a console's list", () => {
  const line = { number: 2, kind: "mode", fixture: "b", ours: { type: "Heron", mode: "Standard", address: "1.017" }, theirs: { type: "Heron", mode: "Extended", address: "1.017" }, take: { id: "b", mode: "Extended" } };
  const found = {
    name: "desk.csv", columns: ["Chan", "Where"], mapping: { number: 0, place: 1 }, fields: ["number", "type", "mode", "place", "universe", "address", "footprint"], sample: [["2", "1.017"]], missing: "", left_out: [], same: 1, lines: [line],
    causes: [{ cause: "other_mode", text: "From 1.017 on all is shifted.", numbers: [2], start: "1.017" }],
  };
  const read = () => act(() => compareList(new File(["x"], "desk.csv")));

  it("is compared by cause, and taken line by line or all of a cause", async () => {
    const asked = desk({ "/patch/compare": found, "/edits": () => changed() });
    drawn(<PatchBench />);
    await read();
    fireEvent.click(screen.getByRole("button", { name: "From 1.017 on all is shifted." }));
    expect(useSelection.getState().selection).toEqual(["b"]);
    fireEvent.click(screen.getByRole("button", { name: "Take the list's 1 value" }));
    await waitFor(() => expect(done(asked)).toEqual([["take patch", { lines: [{ id: "b", mode: "Extended" }] }]]));
    fireEvent.click(screen.getByRole("button", { name: "Take the list's side of fixture 2, other mode" }));
    await waitFor(() => expect(done(asked)).toHaveLength(2));
  });

  it("takes all of the list but for what the list has not", async () => {
    const gone = { ...line, number: 3, kind: "missing", fixture: "c", theirs: null, take: { id: "c", unpatch: true } };
    const asked = desk({ "/patch/compare": { ...found, lines: [line, gone] }, "/edits": () => changed() });
    drawn(<PatchBench />);
    await read();
    fireEvent.click(screen.getByRole("button", { name: "Take all of the list" }));
    await waitFor(() => expect(done(asked)).toEqual([["take patch", { lines: [{ id: "b", mode: "Extended" }] }]]));
  });

  it("says circuits and dimmers where those differ", async () => {
    const side = { type: "Bittern", mode: "Dimmer", address: "7.001", circuit: "", dimmer: 2 };
    const plugged = { ...line, kind: "dimmer", ours: side, theirs: { ...side, dimmer: 4 }, take: { id: "b", dimmer: 4 } };
    desk({ "/patch/compare": { ...found, lines: [plugged, { ...plugged, kind: "circuit", theirs: { ...side, circuit: "A4" }, take: { id: "b", circuit: "A4" } }] } });
    drawn(<PatchBench />);
    await read();
    for (const text of ["dimmer 2", "dimmer 4", "no circuit", "circuit A4"]) expect(screen.getByText(text)).toBeTruthy();
  });

  it("remembers which column says what for lists with such headings", async () => {
    const asked = desk({ "/patch/compare": found });
    drawn(<PatchBench />);
    await read();
    await act(() => mapColumn("mode", 1));
    await read();
    expect(asked.filter((one) => one.path.endsWith("/compare"))).toHaveLength(4);
    expect(localStorage.getItem("patch list columns")).toContain("Chan|Where");
  });

  it("says what is missing before it can be compared", async () => {
    desk({ "/patch/compare": { ...found, missing: "No column holds addresses: say which one does.", lines: [], causes: [] } });
    drawn(<PatchBench />);
    await read();
    expect(screen.getByText("No column holds addresses: say which one does.")).toBeTruthy();
    expect(screen.getByLabelText("Column of Number")).toBeTruthy();
  });
});

describe("further breaks", () => {
  const TWO = { t: { ...TYPES.t, modes: [{ ...TYPES.t.modes[0], name: "Split", breaks: [{ number: 1, slots: 4 }, { number: 2, slots: 3 }] }, TYPES.t.modes[0]] } };
  const split = (breaks: number[][]) => row("a", "fixture", { number: 1, type: "t", mode: "Split", universe: 2, address: 10, breaks });

  it("are placed by typing, and follow the one before them again when emptied", async () => {
    useShow.setState({ types: TWO as never, objects: { a: split([]), b: fixture("b", 2, 1, 1) } });
    useSelection.setState({ selection: ["a"], step: "patch" });
    const asked = desk({ "/edits": () => changed(split([[2, 7, 101]])) });
    drawn(<Breaks />);
    const field = screen.getByLabelText<HTMLInputElement>("Break 2, 3 slots");
    expect([field.value, field.placeholder]).toEqual(["", "follows, 2.014"]);
    fireEvent.focus(field);
    fireEvent.change(field, { target: { value: "7.101" } });
    fireEvent.keyDown(field, { key: "Enter" });
    await waitFor(() => expect(done(asked)).toEqual([["place break", { ids: ["a"], number: 2, start: "7.101" }]]));
    await waitFor(() => expect(field.value).toBe("7.101"));
    fireEvent.focus(field);
    fireEvent.change(field, { target: { value: "" } });
    fireEvent.keyDown(field, { key: "Enter" });
    await waitFor(() => expect(done(asked).at(-1)).toEqual(["place break", { ids: ["a"], number: 2, start: null }]));
  });

  it("are asked for only where all that is selected has them", () => {
    useShow.setState({ types: TWO as never, objects: { a: split([]), b: fixture("b", 2, 1, 1) } });
    useSelection.setState({ selection: ["a", "b"], step: "patch" });
    drawn(<Breaks />);
    expect(screen.queryByText("Further breaks")).toBeNull();
  });
});

describe("dimmers", () => {
  const LAMP = { ...TYPES, l: { name: "Bittern", maker: "Ember", modes: [{ name: "Dimmer", footprint: 1, breaks: [{ number: 1, slots: 1 }], channels: [{ attribute: "Dimmer", slots: [1], dmx_break: 1 }] }] } };
  const lamp = (id: string, number: number, dimmer: number | null) => row(id, "fixture", { number, type: "l", mode: "Dimmer", universe: dimmer && 1, address: dimmer && 300 + dimmer, breaks: [], dimmer, circuit: "" });
  const dimmer = (number: number, fixtures: string[], more = {}) => ({ number, rack: "r", place: `1.${300 + number}`, carries_w: 2300, switched: false, fixtures, circuits: [], load_w: 1000 * fixtures.length, unknown: [], ...more });
  const dimmers = [dimmer(1, ["a", "b", "c"]), dimmer(2, []), dimmer(3, [], { switched: true, carries_w: 5000 })];

  const cell = (number: number) => waitFor(() => document.querySelector<HTMLElement>(`[data-dimmer='${number}']`) ?? Promise.reject(new Error("not there yet")));

  beforeEach(() => {
    useShow.setState({ types: LAMP as never, objects: { r: row("r", "rack", { name: "Dimmers SR", first: 1, count: 3, carries_w: 2300, universe: 1, address: 301, others: [], switched: [3] }), a: lamp("a", 21, 1), b: lamp("b", 22, 1), c: lamp("c", 23, 1), d: lamp("d", 24, null) } });
    seePatch("dimmers");
  });
  afterEach(() => act(() => usePatchView.setState({ view: "universes", dimmers: "" })));

  it("says what is on each, what that loads it with, and what is on none", async () => {
    desk({ "/dimmers": { dimmers } });
    drawn(<PatchBench />);
    const over = await cell(1);
    expect(over.textContent).toBe("Dimmer 1: fixtures 21, 22, 23, 3 kW of 2.3 kW, overloaded");
    expect(over.dataset.tone).toBe("over");
    const steady = await cell(3);
    expect(steady.textContent).toBe("Dimmer 3: free, 5 kW ⎓ steady power");
    expect(screen.getByText("1–3 · 1.301 · 2.3 kW each")).toBeTruthy();
    expect(within(screen.getByRole("group", { name: "Not on a dimmer" })).getByRole("button", { name: "Fixture 24, not on a dimmer" })).toBeTruthy();
    fireEvent.click(over);
    expect(useSelection.getState().selection).toEqual(["a", "b", "c"]);
    fireEvent.click(steady, { shiftKey: true });
    expect(usePatchView.getState().dimmers).toBe("1, 3");
  });

  it("takes what is dragged from one to another, one on each or all on one", async () => {
    const edits = (args: { preview?: boolean } | null) => (args?.preview ? ghost(["Dimmer 2 carries 2.3 kW."], lamp("a", 21, 2), lamp("b", 22, 3)) : changed(lamp("a", 21, 2)));
    const asked = desk({ "/dimmers": { dimmers }, "/edits": edits });
    drawn(<PatchBench />);
    under = await cell(2);
    act(() => carry(["a", "d"]));
    fireEvent.pointerMove(window, { clientX: 5, clientY: 5 });
    await screen.findByText("to dimmers 2 to 3");
    expect(under.textContent).toContain("+ 21");
    expect(screen.getByText("◇ Dimmer 2 carries 2.3 kW.")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("On each dimmer"), { target: { value: "2" } });
    fireEvent.pointerDown(under, { clientX: 5, clientY: 5 });
    await waitFor(() => expect(done(asked)).toEqual([["plug", { ids: ["a", "d"], dimmer: "2", on_each: "2", order: "number", reverse: false }]]));
    act(() => carry(["b", "c"]));
    act(() => carryOver({ dimmer: 3 }));
    // What is on one dimmer stays together, unless it is asked for otherwise.
    expect(screen.getByRole("button", { name: "All on one" }).ariaPressed).toBe("true");
    await act(() => takeCarried());
    expect(done(asked).at(-1)).toEqual(["plug", { ids: ["b", "c"], dimmer: "3", on_each: "", order: "number", reverse: false }]);
  });

  it("are rated and racked in the card", async () => {
    const asked = desk({ "/dimmers": { dimmers }, "/edits": () => changed() });
    act(() => { useSelection.setState({ selection: ["r"], step: "patch" }); usePatchView.setState({ dimmers: "2" }); });
    drawn(<PatchCard />);
    const start = screen.getByLabelText<HTMLInputElement>("Start at");
    expect(start.value).toBe("1.301");
    fireEvent.focus(start);
    fireEvent.change(start, { target: { value: "4.001" } });
    fireEvent.keyDown(start, { key: "Enter" });
    await waitFor(() => expect(done(asked)).toEqual([["set rack", { id: "r", start: "4.001" }]]));
    fireEvent.change(screen.getByLabelText("Carry"), { target: { value: "5 kW" } });
    fireEvent.click(screen.getByRole("button", { name: "Set load" }));
    fireEvent.click(screen.getByRole("button", { name: "Steady" }));
    await waitFor(() => expect(done(asked).slice(1)).toEqual([["rate dimmers", { dimmers: "2", carries: "5 kW" }], ["rate dimmers", { dimmers: "2", switched: true }]]));
    act(() => useSelection.setState({ selection: ["a", "d"] }));
    fireEvent.click(screen.getByRole("button", { name: "Unplug 1 fixture" }));
    await waitFor(() => expect(done(asked).at(-1)).toEqual(["plug", { ids: ["a"], dimmer: "" }]));
  });
});
