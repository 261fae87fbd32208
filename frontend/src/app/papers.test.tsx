// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useShow } from "../show/document";
import { dropped, leavePicked, nudgePicked, paperStamp, placeIn, removePicked, sheetShown, usePapers, viewAt } from "../show/papers";
import { useSelection } from "../show/selection";
import type { DrawnSheet, Row } from "../show/types";
import { changed, desk, done, Refusal, row } from "../testing/desk";
import { drawn } from "../testing/drawn";
import { PapersBench } from "../steps/papers/Bench";
import { PapersCard } from "../steps/papers/Card";
import { linesOf } from "../steps/papers/List";
import { Paper } from "./Paper";

const SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 420 297"><g data-part="view/v1"><path d="M0 0L9 9"/></g><g data-part="label/v1/f1"><rect width="9" height="9"/></g><g data-part="words/w1"><text>Here</text></g></svg>';
const view = { key: "v1", name: "Plan", scale: 50, scale_text: "1:50", box: [20, 30, 220, 180], at: [120, 110], middle: [1, 2], axes: [[1, 0, 0], [0, 1, 0]], fixtures: 1, labels: [{ fixture: "f1", box: [60, 60, 70, 68], symbol: [65, 75] }] };
const picture = { drawn: 3, svg: SVG, width: 420, height: 297, views: [view], findings: [{ text: "1 label is without room", where: ["s1", "f1"], wrong: false }] } as unknown as DrawnSheet;
const body = { name: "Plan", number: "L1", paper: "A3", views: [{ key: "v1", look: "plan", dimensions: [{ key: "d1", kind: "rail", structure: "t1" }], labels: { f1: [3, 4] } }], words: [{ key: "w1", text: "Here", at: [50, 50], size_mm: 2.5 }] };
const list = {
  name: "hookup", title: "Channel hookup", every: ["Number", "Type", "Position"], columns: ["Number", "Type", "Position"], rows: [[1, "Heron", "Truss 1"], [2, "Heron", "Truss 1"], [3, "Dunlin", "Truss 2"]],
  things: [["f1"], ["f2"], ["f3"]], totals: [{ name: "fixtures", value: 3 }], group: "Position", note: "", changed: [1], since: "A",
};
const answers = { "/sheets/s1": picture, "/sheets/s2": { ...picture, views: [], findings: [] }, "/papers/issued": { since: "A", changes: [{ id: "f1", text: "fixture 1: address none, now 1.001", sort: "changed" }], sheets: [] }, "/edits": () => changed(row("s1", "sheet", body)), "/schedules/hookup": list, "/schedules/cables": { ...list, name: "cables", rows: [], things: [], note: "Place a distribution point first" } };

function show(...rows: Row[]): void {
  const every = [row("show", "show", { name: "Tide", system: "metric" }), row("f1", "fixture", { number: 1, type: "x" }), row("t1", "truss", { name: "Truss 1" }), ...rows];
  useShow.setState({ id: "s", rev: 4, objects: Object.fromEntries(every.map((one) => [one.id, one])), types: {}, findings: [] });
}
const sheets = [row("s1", "sheet", body, 1), row("s2", "sheet", { name: "Section", number: "L2", paper: "A3" }, 2)];

beforeEach(() => {
  vi.stubGlobal("ResizeObserver", class { observe() {} disconnect() {} unobserve() {} });
  localStorage.setItem("zarfwright.name", "Wren");
  Element.prototype.setPointerCapture = () => undefined;
  useSelection.setState({ selection: [], step: "papers" });
  usePapers.setState({ view: "sheets", list: "hookup", sheet: "", picked: null, drawn: {}, busy: "", writing: null, measuring: false, drawing: null });
});
afterEach(() => vi.unstubAllGlobals());

describe("places on a sheet", () => {
  it("are in the view that is drawn last of those they are in", () => {
    const over = { ...view, key: "v2", box: [100, 100, 300, 280] };
    const both = { ...picture, views: [view, over] } as unknown as DrawnSheet;
    expect(viewAt(both, 30, 40)?.key).toBe("v1");
    expect(viewAt(both, 150, 150)?.key).toBe("v2");
    expect(viewAt(both, 400, 5)).toBeUndefined();
  });

  it("stand for places of the show by the view's scale, and for a symbol that is near", () => {
    const one = picture.views[0] as DrawnSheet["views"][number];
    expect(placeIn(one, 140, 110)).toEqual([2, 2, 0]);
    expect(placeIn(one, 66, 74)).toEqual([1 + (65 - 120) * 0.05, 2 + (75 - 110) * 0.05, 0]);
  });

  it("change the pictures of sheets when something on paper changes, and not for looks", () => {
    show(...sheets);
    const { objects } = useShow.getState();
    const before = paperStamp(objects);
    expect(paperStamp({ ...objects, l: row("l", "look", { name: "Slack" }) })).toBe(before);
    expect(paperStamp({ ...objects, f1: row("f1", "fixture", { number: 2 }) })).not.toBe(before);
    expect(sheetShown(objects, "gone")?.id).toBe("s1");
    expect(sheetShown(objects, "s2")?.id).toBe("s2");
  });
});

describe("what is dragged", () => {
  it("comes to lie where it was let go of: views, labels from their symbols, words", async () => {
    show(...sheets);
    const asked = desk(answers);
    await dropped("s1", { sort: "view", view: "v1", key: "" }, picture, 10, -5);
    await dropped("s1", { sort: "label", view: "v1", key: "f1" }, picture, 10, -5);
    await dropped("s1", { sort: "words", view: "", key: "w1" }, picture, 10, -5);
    expect(done(asked)).toEqual([
      ["set view", { id: "s1", view: "v1", at: [130, 105] }],
      ["put label", { id: "s1", view: "v1", fixture: "f1", at: [10, -16] }],
      ["write on sheet", { id: "s1", words: "w1", at: [60, 45] }],
    ]);
  });

  it("is moved by keys, taken off, and let go of", async () => {
    show(...sheets);
    const asked = desk(answers);
    usePapers.setState({ drawn: { s1: picture }, picked: { sort: "view", view: "v1", key: "" } });
    nudgePicked(1, 0);
    await waitFor(() => expect(done(asked)).toHaveLength(1));
    expect(done(asked)[0]).toEqual(["set view", { id: "s1", view: "v1", at: [121, 110] }]);
    usePapers.setState({ picked: { sort: "label", view: "v1", key: "f1" } });
    removePicked();
    await waitFor(() => expect(done(asked)[1]).toEqual(["put label", { id: "s1", view: "v1", fixture: "f1", at: null }]));
    usePapers.setState({ picked: { sort: "view", view: "v1", key: "" }, writing: "x" });
    expect(leavePicked()).toBe(true);
    expect(usePapers.getState()).toMatchObject({ writing: null, picked: { view: "v1" } });
    expect(leavePicked()).toBe(true);
    expect(leavePicked()).toBe(false);
  });
});

describe("the sheet", () => {
  const over = () => screen.getByRole("region", { name: "Sheet Plan" });
  const sheet = async () => {
    show(...sheets);
    const asked = desk(answers);
    drawn(<><Paper /><PapersCard /></>);
    await waitFor(() => expect(over().querySelector("svg [data-part='view/v1']")).toBeTruthy());
    return asked;
  };
  const press = (on: Element, x = 0, y = 0) => {
    fireEvent.pointerDown(on, { button: 0, clientX: x, clientY: y, pointerId: 1 });
    fireEvent.pointerUp(on, { button: 0, clientX: x, clientY: y, pointerId: 1 });
  };

  it("picks what is clicked, and its card says what it is", async () => {
    await sheet();
    press(over().querySelector("[data-part='label/v1/f1'] rect") as Element);
    expect(usePapers.getState().picked).toEqual({ sort: "label", view: "v1", key: "f1" });
    expect(await screen.findByText("Fixture 1")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Back to the sheet" }));
    expect(usePapers.getState().picked).toBeNull();
    press(over().querySelector("[data-part='words/w1'] text") as Element);
    expect(await screen.findByLabelText("They say")).toHaveProperty("value", "Here");
  });

  it("is dragged in a copy, and the edit is made where it is let go of", async () => {
    const asked = await sheet();
    const label = over().querySelector("[data-part='label/v1/f1'] rect") as Element;
    fireEvent.pointerDown(label, { button: 0, clientX: 10, clientY: 10, pointerId: 1 });
    fireEvent.pointerMove(label, { clientX: 40, clientY: 10, pointerId: 1 });
    expect(over().querySelectorAll("[data-part='label/v1/f1']")).toHaveLength(2);
    fireEvent.pointerUp(label, { clientX: 40, clientY: 10, pointerId: 1 });
    await waitFor(() => expect(done(asked)[0]?.[0]).toBe("put label"));
  });

  it("shows again what could not be moved", async () => {
    show(...sheets);
    desk({ ...answers, "/edits": new Refusal("A label stays on the sheet.") });
    drawn(<Paper />);
    await waitFor(() => expect(over().querySelector("svg [data-part]")).toBeTruthy());
    const label = over().querySelector("[data-part='label/v1/f1'] rect") as Element;
    fireEvent.pointerDown(label, { button: 0, clientX: 10, clientY: 10, pointerId: 1 });
    fireEvent.pointerMove(label, { clientX: 90, clientY: 10, pointerId: 1 });
    fireEvent.pointerUp(label, { clientX: 90, clientY: 10, pointerId: 1 });
    await waitFor(() => expect(over().querySelectorAll("[data-part='label/v1/f1']")).toHaveLength(1));
    expect((over().querySelector("[data-part='label/v1/f1']") as SVGElement).style.opacity).toBe("");
  });

  it("takes words and a dimension between two places by clicks", async () => {
    const asked = await sheet();
    fireEvent.change(screen.getByLabelText("Words"), { target: { value: "Mind the step" } });
    fireEvent.click(screen.getByRole("button", { name: "Write them" }));
    expect(screen.getByText("Click where the words go")).toBeTruthy();
    press(over().querySelector("[data-drawn]") as Element, 20, 20);
    await waitFor(() => expect(done(asked)[0]?.[0]).toBe("write on sheet"));
    expect(usePapers.getState().writing).toBeNull();
  });
});

describe("small sheets", () => {
  it("are asked for one after another, and again when what is on them has changed", async () => {
    show(...sheets);
    desk(answers);
    const { container } = drawn(<PapersBench />);
    const pictures = () => [...container.querySelectorAll("img")].map((one) => one.getAttribute("src") ?? "");
    expect(pictures().map((src) => src.includes("/s1/"))).toEqual([true]);
    fireEvent.load(container.querySelector("img") as Element);
    expect(pictures()).toHaveLength(2);
    // One that cannot be drawn does not keep the others waiting.
    fireEvent.error(container.querySelectorAll("img")[1] as Element);
    const before = pictures();
    act(() => show(...sheets, row("f2", "fixture", { number: 2 })));
    expect(pictures()[0]).not.toBe(before[0]);
    expect(pictures()[1]).toBe(before[1]);
  });
});

describe("the card", () => {
  it("makes the first sheet of an empty set", async () => {
    show();
    const asked = desk(answers);
    drawn(<><PapersBench /><PapersCard /></>);
    fireEvent.change(screen.getByLabelText("With"), { target: { value: "section" } });
    fireEvent.change(screen.getByLabelText("On"), { target: { value: "A2" } });
    fireEvent.click(screen.getByRole("button", { name: "Make the sheet" }));
    await waitFor(() => expect(done(asked)[0]).toEqual(["add sheet", { paper: "A2", upright: false, look: "section" }]));
    expect(usePapers.getState().sheet).toBe("s1");
  });

  it("makes a sheet of the structures that are selected alone", async () => {
    show(...sheets);
    useSelection.setState({ selection: ["t1", "f1"] });
    const asked = desk(answers);
    drawn(<PapersCard />);
    fireEvent.change(await screen.findByLabelText("With"), { target: { value: "alone" } });
    fireEvent.click(screen.getByRole("button", { name: "Make the sheet" }));
    await waitFor(() => expect(done(asked)[0]).toEqual(["add sheet", { paper: "A1", upright: false, of: ["t1"] }]));
  });

  it("sets up a picked view: scale, cut, what it shows, its dimensions", async () => {
    show(...sheets);
    const asked = desk(answers);
    usePapers.setState({ picked: { sort: "view", view: "v1", key: "" } });
    drawn(<PapersCard />);
    const scale = await screen.findByLabelText("Scale");
    fireEvent.change(scale, { target: { value: "1:25" } });
    fireEvent.keyDown(scale, { key: "Enter" });
    fireEvent.click(screen.getByLabelText("People"));
    fireEvent.change(screen.getByLabelText("Show"), { target: { value: "centre" } });
    fireEvent.click(screen.getByRole("button", { name: "Labels by themselves (1)" }));
    await waitFor(() => expect(done(asked)).toHaveLength(4));
    expect(done(asked)).toEqual([
      ["set view", { id: "s1", view: "v1", scale: "1:25" }],
      ["set view", { id: "s1", view: "v1", people: false }],
      ["add dimension", { id: "s1", view: "v1", sort: "centre", structures: ["t1"] }],
      ["set view", { id: "s1", view: "v1", again: ["labels"] }],
    ]);
  });

  it("issues the papers, and says what has changed since", async () => {
    show(...sheets, row("i", "issue", { number: "A", date: "2026-11-30", note: "Load-in" }));
    const asked = desk(answers);
    drawn(<PapersCard />);
    expect(await screen.findByText("fixture 1: address none, now 1.001")).toBeTruthy();
    expect(screen.getByText(/1 thing changed since/)).toBeTruthy();
    fireEvent.change(screen.getByLabelText("For"), { target: { value: "Focus" } });
    fireEvent.click(screen.getByRole("button", { name: "Issue the papers" }));
    await waitFor(() => expect(done(asked)[0]).toMatchObject(["issue papers", { number: "", note: "Focus", by: "Wren" }]));
  });
});

describe("lists", () => {
  it("are grouped, with what has changed marked", () => {
    expect(linesOf(list).map((line) => line.group ?? `${line.cells[0]}${line.changed ? " changed" : ""}`)).toEqual(["Truss 1: 2", "1", "2 changed", "Truss 2: 1", "3"]);
    expect(linesOf({ ...list, group: "" })).toHaveLength(3);
  });

  it("are shown as they will be printed, and are arranged by their card", async () => {
    show(...sheets);
    vi.spyOn(HTMLElement.prototype, "offsetHeight", "get").mockReturnValue(400);
    vi.spyOn(HTMLElement.prototype, "offsetWidth", "get").mockReturnValue(900);
    const asked = desk(answers);
    usePapers.setState({ view: "lists" });
    drawn(<><Paper /><PapersCard /></>);
    const table = await screen.findByRole("table", { name: "Channel hookup" });
    await waitFor(() => expect(within(table).getByText("Truss 1: 2")).toBeTruthy());
    fireEvent.click(within(table).getByText("Dunlin"));
    expect(useSelection.getState().selection).toEqual([]);
    fireEvent.change(await screen.findByLabelText("Sorted by"), { target: { value: "Type" } });
    fireEvent.click(screen.getByLabelText("Position"));
    await waitFor(() => expect(done(asked)).toHaveLength(2));
    expect(done(asked)).toEqual([
      ["set list", { name: "hookup", columns: [], order: ["Type"], group: null, only: {} }],
      ["set list", { name: "hookup", columns: ["Number", "Type"], order: [], group: null, only: {} }],
    ]);
  });

  it("say what is wanted first where there is nothing on them", async () => {
    show(...sheets);
    const asked = desk(answers);
    usePapers.setState({ view: "lists", list: "cables" });
    drawn(<><Paper /><PapersCard /></>);
    expect(await screen.findByText("Place a distribution point first")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Another at"), { target: { value: "SR 8" } });
    fireEvent.change(screen.getByLabelText("and"), { target: { value: "US 9" } });
    fireEvent.click(screen.getByRole("button", { name: "Place a distribution point" }));
    await waitFor(() => expect(done(asked)[0]).toEqual(["add supply", { x: "SR 8", y: "US 9" }]));
  });
});
