// @vitest-environment jsdom
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { missingPictures, useBook } from "../../show/book";
import { STOPS, stopsBetween, stopsColour, useCompare } from "../../show/compare";
import { useShow, who } from "../../show/document";
import { pathOf, standingOf } from "../../show/notes";
import { usePanes } from "../../show/panes";
import { askAgain, kelvinColour, nextLook, notesInOrder, paintOf, seenColour, useReview } from "../../show/review";
import { useSelection } from "../../show/selection";
import { useSharing } from "../../show/sharing";
import type { LightMap, Row, Thing } from "../../show/types";
import { changed, desk, done, row } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import { ReviewBench } from "./Bench";
import { ReviewCard } from "./Card";
import { fitted } from "./HouseMap";
import { height } from "./LightCard";
import { aboutOf } from "./Notes";

const seats = [
  { id: "c/1", name: "Row 1, seat 1", group: "Stalls", eye: [0, -10, 1.2], target: [0, 0, 1.5] },
  { id: "c/2", name: "Row 2, seat 1", group: "Stalls", eye: [0, -11, 1.3], target: [0, 0, 1.5] },
];
const sight = { seats: [{ id: "c/1", seen: 1, hidden_by: [], hiding: [] }, { id: "c/2", seen: 0.2, hidden_by: ["Stalls, row 1, seat 1"], hiding: ["c/1"] }], blocks: [{ name: "Stalls", seeing: 1, of: 2 }], seeing: 1, of: 2 };
const map: LightMap = { points: [2, 1], places: [[0, 0, 0], [1, 0, 0], [2, 0, 0], [0, 1, 0], [1, 1, 0], [2, 1, 0]], lux: [0, 800], cct_k: [null, 3200], mean: 400, least: 0, most: 800, evenness: 0, contours: [{ lux: 400, lines: [[[1, 0, 0], [1, 1, 0]]] }], colours: ["#000", "#888", "#fff"], fresh: true };
const measured = { made_of: "stand px", points: [2, 1], mean: 400, least: 0, most: 800, rgb: "x" };

function show(...rows: Row[]): void {
  const every = [
    row("show", "show", { name: "Tide", playing: "a" }), row("a", "look", { name: "Slack", number: 1, values: "" }), row("b", "look", { name: "Flood", number: 2, values: "" }, 1),
    row("f1", "fixture", { number: 41 }), row("c", "crowd", { name: "Stalls", corners: [] }), row("v", "viewpoint", { name: "Desk", eye: [0, -20, 2], target: [0, 0, 1] }),
    row("d", "deck", { name: "Deck", width_m: 6, depth_m: 4, position: [0, 2, 0] }), ...rows,
  ];
  useShow.setState({ id: "s", rev: 4, objects: Object.fromEntries(every.map((one) => [one.id, one])), looks: { a: { fixtures: 1, lit: 1, sorts: {}, prints: "pa" }, b: { fixtures: 1, lit: 1, sorts: {}, prints: "px" } } as never, pictures: {}, stand: "stand", findings: [] });
}

const answers = { "/seats": seats, "/sight": sight, "/lit": { lux: 500, x: 0.4, y: 0.4, cct_k: 3200, parts: [{ fixture: "f1", cell: 1, lux: 500, share: 1, clear: 500, direction: [0, 0.7, -0.7], blocked_by: null }] }, "/map": map, "/review": { name: "", point: null, changes: [] }, "/edits": () => changed(row("n", "note", { text: "x" })) };

beforeEach(() => {
  vi.stubGlobal("ResizeObserver", class { observe() {} disconnect() {} });
  localStorage.setItem("zarfwright.name", "Wren");
  useSelection.setState({ selection: [], step: "review" });
  useReview.setState({ view: "house", asks: "", place: null, sight: null, lit: null, look: "", seat: "", area: "", map: null, note: "", people: "as they are", size: 0.25 });
  usePanes.setState({ tool: "select" });
  useCompare.setState({ left: { picture: "live", from: "" }, right: { picture: "live", from: "" }, kept: null, shown: null });
  useBook.setState({ looks: null, views: null });
});
afterEach(() => vi.unstubAllGlobals());

describe("the house from above", () => {
  it("lies on its side where it is longer than wide, with all of it inside", () => {
    const long = fitted([[-10, -40], [10, 10]], 600, 170);
    expect(long.turned).toBe(true);
    const [x, y] = long.to([0, 10]);
    expect(x).toBeGreaterThan(long.to([0, -40])[0]);
    expect([x, y].every((value) => value >= 0 && value <= 600)).toBe(true);
    const wide = fitted([[-20, -5], [20, 5]], 600, 170);
    expect(wide.turned).toBe(false);
    expect(wide.to([20, 0])[0]).toBeGreaterThan(wide.to([-20, 0])[0]);
    expect(wide.to([0, 5])[1]).toBeLessThan(wide.to([0, -5])[1]);
  });

  it("lists the worst seats first once a place was asked for, and what hides it", async () => {
    show();
    const asked = desk(answers);
    drawn(<><ReviewBench /><ReviewCard /></>);
    await screen.findByText("Row 1, seat 1");
    useReview.setState({ asks: "sight", place: { point: [0, 1, 2], normal: [0, -1, 0], thing: "d", eye: [0, -9, 2], target: [0, 0, 1] } });
    askAgain();
    await screen.findByText("1 of 2 seats see it");
    const rows = within(screen.getByRole("table", { name: "Seats and viewpoints" })).getAllByRole("row").slice(1);
    expect(rows[0]?.textContent).toContain("Row 2, seat 1");
    expect(rows[0]?.textContent).toContain("20 %");
    expect(rows[0]?.textContent).toContain("Stalls, row 1, seat 1");
    expect(asked.find((one) => one.path.endsWith("/sight"))?.body).toEqual({ point: [0, 1, 2], normal: [0, -1, 0], size_m: 0.25, people: "as they are" });
    fireEvent.click(screen.getByRole("radio", { name: "all stand" }));
    const sights = () => asked.filter((one) => one.path.endsWith("/sight"));
    await waitFor(() => expect(sights().at(-1)?.body?.people).toBe("standing"));
    // Something that is drawn has changed: it may be seen otherwise now.
    const before = sights().length;
    useShow.setState({ stand: "moved" });
    await waitFor(() => expect(sights()).toHaveLength(before + 1));
  });

  it("tells seats apart by what they see", () => {
    const palette = { none: "n", some: "s", all: "a", unknown: "u" };
    expect([undefined, 0, 0.49, 0.5, 0.95].map((seen) => seenColour(seen, palette))).toEqual(["u", "n", "n", "s", "a"]);
  });
});

describe("light as numbers", () => {
  it("is painted from nothing to the most, with numbers, or by its temperature", () => {
    const paint = paintOf(map, "lux", true);
    expect(paint.colours).toEqual(["#000", "#fff"]);
    expect(paint.texts).toEqual(["0.0", "800"]);
    expect(paint.contours).toHaveLength(1);
    const warm = paintOf(map, "cct", false);
    expect(warm.texts).toEqual(["", "3200"]);
    expect(warm.contours).toEqual([]);
    expect(kelvinColour(null)).not.toBe(kelvinColour(3000));
    expect(kelvinColour(9000)).toBe(kelvinColour(12000));
  });

  it("is measured in the look that is chosen, marked where it is of before, and off where it is", async () => {
    show(row("m", "area", { name: "Choir", position: [0, 0, 1], width_m: 4, depth_m: 2, wanted_lx: 700, tolerance: 20, maps: { a: measured, b: measured } }));
    const asked = desk({ ...answers, "/jobs": { id: "job-1" }, "/job-1": { job: { id: "job-1", who: "me", name: "Measure light", of: 1, done: 1, state: "done", problem: "" }, result: null } });
    useReview.setState({ view: "light", area: "m", look: "b" });
    drawn(<><ReviewBench /><ReviewCard /></>);
    const rows = within(await screen.findByRole("table", { name: "Measured areas" })).getAllByRole("row").slice(1);
    expect(rows.map((one) => one.textContent)).toEqual([expect.stringContaining("of before"), expect.stringContaining("off")]);
    await screen.findByRole("img", { name: "False colours from 0 to 800 lux" });
    fireEvent.click(screen.getByText("Measure it again"));
    await waitFor(() => expect(done(asked)).toEqual([["measure light", { ids: ["m"], looks: ["b"] }]]));
  });

  it("says who lights a place, from where and how much", async () => {
    show();
    desk(answers);
    useReview.setState({ view: "light", asks: "light", look: "driven", place: { point: [0, 1, 2], normal: [0, -1, 0], thing: "d", eye: [0, -9, 2], target: [0, 0, 1] } });
    drawn(<ReviewCard />);
    askAgain();
    const list = await screen.findByRole("list", { name: "Who lights it" });
    expect(list.textContent).toBe("41from DS, 45°500 lx100 %");
    fireEvent.click(screen.getByText("Select 1 fixture"));
    expect(useSelection.getState().selection).toEqual(["f1"]);
    expect([height([0, 0, -1]), height([0.9, 0.1, -0.4]), height([-0.9, 0.1, -0.4]), height([0, -1, -1])]).toEqual(["from above", "from SR, 24°", "from SL, 24°", "from US, 45°"]);
  });
});

describe("what is compared", () => {
  it("differs in stops, and in nothing where both are dark", () => {
    const stops = stopsBetween(Float32Array.from([1, 1, 0, 4]), Float32Array.from([2, 1, 0, 1]));
    expect([...stops]).toEqual([1, 0, NaN, -2]);
    expect(stopsColour(STOPS)).toEqual([255, 148, 40]);
    expect(stopsColour(-STOPS - 3)).toEqual([58, 132, 255]);
    expect(stopsColour(0)).toEqual([74, 74, 74]);
  });

  it("is chosen by clicking looks: the left one, with Shift the right", () => {
    show();
    desk(answers);
    useReview.setState({ view: "compare" });
    drawn(<><ReviewBench /><ReviewCard /></>);
    const list = screen.getByRole("list", { name: "Looks to compare" });
    fireEvent.click(within(list).getByText("Slack"));
    fireEvent.click(within(list).getByText("Flood"), { shiftKey: true });
    expect([useCompare.getState().left.picture, useCompare.getState().right.picture]).toEqual(["a", "b"]);
    expect(list.textContent).toContain("left");
  });
});

describe("notes", () => {
  it("are on what is meant, by whom and when", async () => {
    show();
    const asked = desk(answers);
    useReview.setState({ view: "notes" });
    useSelection.setState({ selection: ["f1"] });
    drawn(<ReviewCard />);
    fireEvent.change(screen.getByLabelText("What is to be noted"), { target: { value: "Too warm" } });
    fireEvent.change(screen.getByLabelText("On"), { target: { value: "selected" } });
    fireEvent.change(screen.getByLabelText("Tags of the note"), { target: { value: "#colour focus" } });
    fireEvent.click(screen.getByText("Write the note"));
    await waitFor(() => expect(done(asked)).toHaveLength(1));
    const [kind, args] = done(asked)[0] as [string, Record<string, unknown>];
    expect([kind, args.text, args.about, args.by, args.tags]).toEqual(["write note", "Too warm", "f1", "Wren", ["#colour", "focus"]]);
    expect(Number.isNaN(new Date(args.at as string).getTime())).toBe(false);
  });

  it("are listed open ones first, found by tag, answered and done", async () => {
    show(row("n1", "note", { text: "Old", done: true, at: "2026-11-30T12:00:00Z" }), row("n2", "note", { text: "Left is dark", at: "2026-11-30T10:00:00Z", tags: ["focus"], about: "b", who: "Teal" }), row("n3", "note", { text: "Warmer", at: "2026-11-30T11:00:00Z", about: "gone" }));
    const asked = desk(answers);
    useReview.setState({ view: "notes" });
    drawn(<><ReviewBench /><ReviewCard /></>);
    const names = () => within(screen.getByRole("table", { name: "Notes" })).getAllByRole("row").slice(1).map((one) => one.textContent);
    expect(names().map((text) => text?.slice(1, 4))).toEqual(["War", "Lef", "Old"]);
    expect(names()[0]).toContain("what is gone");
    fireEvent.change(screen.getByLabelText("Find a note"), { target: { value: "#focus" } });
    expect(names()).toHaveLength(1);
    fireEvent.click(screen.getByText("Left is dark"));
    fireEvent.change(await screen.findByLabelText("An answer"), { target: { value: "Refocused" } });
    fireEvent.click(screen.getByText("Answer"));
    fireEvent.click(screen.getByText("It is done"));
    await waitFor(() => expect(done(asked).map(([kind]) => kind)).toEqual(["answer note", "set note"]));
    expect(aboutOf(useShow.getState().objects, { text: "", about: "b" } as Thing<"note">["body"])).toBe("look 2, Flood");
    expect(notesInOrder(useShow.getState().objects).map((one) => one.id).filter((id) => id !== "n")).toEqual(["n3", "n2", "n1"]);
  });

  it("say of looks what each person said last, and lead to the next look", async () => {
    const notes = [row("n1", "note", { verdict: "not yet", who: "Wren", about: "a", at: "1" }), row("n2", "note", { verdict: "agreed", who: "Wren", about: "a", at: "2" }), row("n3", "note", { verdict: "not yet", who: "Teal", about: "a", at: "1" })];
    expect(standingOf(notes as never, "a")).toEqual({ verdict: "not yet", agreed: ["Wren"], notYet: ["Teal"] });
    show(...notes);
    const asked = desk(answers);
    useReview.setState({ view: "notes" });
    drawn(<ReviewCard />);
    fireEvent.click(screen.getByText("Agreed"));
    await waitFor(() => expect((done(asked)[0]?.[1] as { verdict: string }).verdict).toBe("agreed"));
    await nextLook(1);
    expect(done(asked).at(-1)).toEqual(["play look", { id: "b" }]);
  });

  it("are drawn as lines over a picture", () => {
    expect(pathOf({ kind: "free", places: [[0, 0], [0.5, 1]] }, 100, 50)).toBe("M 0 0 L 50 50");
    expect(pathOf({ kind: "circle", places: [[0.5, 0.5], [0.6, 0.5]] }, 100, 100)).toMatch(/^M 40 50 a 10 10/);
    expect(pathOf({ kind: "arrow", places: [[0, 0], [1, 0]] }, 100, 100)).toMatch(/^M 0 0 L 100 0 L /);
    expect(pathOf({ places: [] }, 1, 1)).toBe("");
  });
});

describe("the look book", () => {
  it("has pictures still to be drawn until each is of the show as it is", async () => {
    show();
    desk(answers);
    expect(missingPictures()).toEqual([["a", "v"], ["b", "v"]]);
    useReview.setState({ view: "book" });
    drawn(<><ReviewBench /><ReviewCard /></>);
    expect(await screen.findByText("Draw 2 pictures")).toBeTruthy();
    fireEvent.click(screen.getByLabelText(/2, Flood/));
    expect(useBook.getState().looks).toEqual(["a"]);
    expect(await screen.findByText("Draw 1 picture")).toBeTruthy();
  });
});

describe("guests", () => {
  it("are let in and put out again, and it is seen who is there", async () => {
    show();
    const report = { on: true, presenter: who, notes: true, links: ["http://192.0.2.7:4000/join/abc"], qr: "<svg></svg>", guests: [{ name: "Wren", address: "192.0.2.9", minutes: 3 }] };
    const asked = desk({ ...answers, "/sharing": (body: { on: boolean } | null) => (body?.on === false ? { ...report, on: false, guests: [], links: [] } : report) });
    useSharing.setState({ report: { ...report, on: false, guests: [], links: [] } });
    useReview.setState({ view: "share" });
    drawn(<><ReviewBench /><ReviewCard /></>);
    expect(screen.getByText("Not shared: nothing is open to other devices")).toBeTruthy();
    fireEvent.click(screen.getByLabelText("Guests may write notes"));
    fireEvent.click(screen.getByText("Share with guests"));
    expect(await screen.findByText("1 guest there")).toBeTruthy();
    expect(screen.getByText("http://192.0.2.7:4000/join/abc")).toBeTruthy();
    expect(screen.getByText("Shared: 1 guest, they see what you show, and may write notes")).toBeTruthy();
    fireEvent.click(screen.getByText("End sharing"));
    await screen.findByText("Share with guests");
    expect(asked.filter((one) => one.path.endsWith("/sharing")).map((one) => one.body)).toEqual([{ on: true, who, notes: true }, { on: false, who, notes: false }]);
  });
});
