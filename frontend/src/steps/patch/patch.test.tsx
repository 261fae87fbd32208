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
  act(() => { leaveCarried(); leaveCompared(); });
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
    const asked = desk({ "/edits": told(["Fixture 3 and fixture 2 would share slots."]) });
    drawn(<PatchBench />);
    act(() => carry(["c", "d"]));
    act(() => carryOver({ universe: 2, slot: 5 }));
    await waitFor(() => expect(screen.getByText("◇ Fixture 3 and fixture 2 would share slots.")).toBeTruthy());
    fireEvent.change(screen.getByLabelText("Order"), { target: { value: "place" } });
    fireEvent.click(screen.getByRole("button", { name: "Same address on purpose" }));
    act(() => carryAs({ gap: "4" }));
    await act(() => takeCarried());
    expect(done(asked)).toEqual([["address", { ids: ["c", "d"], start: "2.005", order: "place", gap: "4", same: true, cut: false, reverse: false }]]);
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
