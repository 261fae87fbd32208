// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useShow } from "../../show/document";
import { hearPicture, pictureOf, useLooks } from "../../show/looks";
import { peaksOf } from "../../show/sound";
import { clock, hearRun, runTime, scrub, useRun } from "../../show/run";
import { useSelection } from "../../show/selection";
import type { Row, RunEvent } from "../../show/types";
import { changed, desk, done, row } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import { LooksBench } from "./Bench";
import { LooksCard } from "./Card";
import { comesAfter, lengthOf, secondsText, startsOf, type Step, timeOf } from "./times";

const step = (key: string, look: string, more: Partial<Step> = {}): Step => ({ key, look, fade_in_s: 2, hold_s: 3, ...more }) as Step;
const run = (more: Partial<RunEvent> = {}): RunEvent => ({ event: "run", order: "o", at_s: 1, step: "s1", playing: false, waiting: false, speed: 1, total_s: 10, haze_per_m: null, house_light_lx: null, exposure_ev: null, ...more });
const late = { trouble: "lit on the way", fixtures: ["f1"], seconds: 1.4, text: "Fixture 1 is lit while still on the way: 1.4 s are missing.", repairs: [
  { label: "Move 1 head in the dark before", kind: "go ahead", args: { id: "o", steps: ["s2"], fixtures: ["f1"] } }, { label: "Light it 1.4 s later", kind: "set step", args: { id: "o", steps: ["s2"], sort: "intensity", delay: "1.40", fade_in: "2.00" } },
] };
const times = [
  { key: "s1", starts_s: 0, comes_s: 2, over_s: 2, ends_s: 5, seen: [] },
  { key: "s2", starts_s: 5, comes_s: 7, over_s: 8.4, ends_s: 10, seen: [late] },
];
const says = { groups: [{ name: "Truss 1 heads", fixtures: ["f1", "f2"], lit: 1, text: "1 of 2 at 80 %, blue", leaves: ["beam"] }, { name: "Truss 2 lamps", fixtures: ["f3"], lit: 0, text: "", leaves: ["intensity", "colour", "position", "beam"] }], links: [{ id: "p", name: "Lectern", sort: "position", fixtures: 2 }] };

function show(...rows: Row[]): void {
  const every = [row("show", "show", { name: "Tide", follow_console: true }), row("a", "look", { name: "Slack", number: 1, values: "" }), row("b", "look", { name: "Flood", number: 4.5, values: "" }), row("f1", "fixture", { number: 1 }), ...rows];
  useShow.setState({ id: "s", rev: 4, objects: Object.fromEntries(every.map((one) => [one.id, one])), looks: { a: { fixtures: 2, lit: 1, sorts: {}, prints: "x" }, b: { fixtures: 2, lit: 2, sorts: {}, prints: "y" } } as never, pictures: {}, stand: "s1", findings: [] });
}

const order = (...steps: Step[]): Row => row("o", "order", { name: "Evening", steps });
const answers = { "/says": says, "/times": times, "/edits": () => changed(), "/run": {} };

beforeEach(() => {
  vi.stubGlobal("ResizeObserver", class { observe() {} disconnect() {} });
  useSelection.setState({ selection: [], step: "looks" });
  useLooks.setState({ view: "run", order: "", steps: [], look: "", blind: "", against: "" });
  hearRun(run({ order: null }));
});
afterEach(() => vi.unstubAllGlobals());

describe("the times of steps", () => {
  it("are those of core: the longest of all sorts, and the hold", () => {
    const one = step("s", "a", { fade_in_s: 3, fade_out_s: 5, delay_s: 1, hold_s: 4, times: { colour: [2, 7] } } as Partial<Step>);
    expect(timeOf(one, "intensity", true)).toEqual([1, 5]);
    expect(timeOf(one, "beam")).toEqual([1, 3]);
    expect([comesAfter(one), lengthOf(one)]).toEqual([9, 13]);
    expect(startsOf([one, step("t", "b", { hold_s: -1 })])).toEqual([0, 13, 14]);
  });

  it("are written as people write them", () => {
    expect([0.5, 4, 59.99, 60, 92.5, -2, -90].map(secondsText)).toEqual(["0.5 s", "4 s", "59.99 s", "1:00", "1:32.5", "-2 s", "-1:30"]);
    expect([clock(0), clock(67), clock(67.49, true), clock(3599.96, true)]).toEqual(["0:00", "1:07", "1:07.4", "59:59.9"]);
  });
});

describe("where the running order stands", () => {
  it("goes on between what is told, by its speed, and stops where it waits and at the end", () => {
    hearRun(run({ playing: true, speed: 0.5, at_s: 2 }));
    const { heardAt } = useRun.getState();
    expect(runTime(heardAt + 1000)).toBeCloseTo(2.5);
    expect(runTime(heardAt + 60_000)).toBe(10);
    hearRun(run({ playing: true, waiting: true, at_s: 4.999 }));
    expect(runTime(useRun.getState().heardAt + 5000)).toBe(4.999);
  });

  it("is asked for one time at a time while it is dragged, the latest next", async () => {
    let let_go: (answer: object) => void = () => undefined;
    const asked = desk({ "/run": () => new Promise((resolve) => (let_go = resolve)) });
    for (const to of [1, 2, 3]) scrub(to);
    expect(useRun.getState().run.at_s).toBe(3);
    await waitFor(() => expect(asked).toHaveLength(1));
    let_go({});
    await waitFor(() => expect(asked.map(({ body }) => body?.value)).toEqual([1, 3]));
    let_go({});
  });
});

describe("the strip", () => {
  it("shows the steps over time, plays by taking the order in hand first, and says who is seen to move", async () => {
    show(order(step("s1", "a"), step("s2", "b")));
    const asked = desk(answers);
    drawn(<LooksBench />);
    expect(screen.getByRole("button", { name: /Step 2: look\s*4.5\s*Flood/ })).toBeTruthy();
    await waitFor(() => expect(screen.getByTitle(late.text)).toBeTruthy());
    fireEvent.click(screen.getByRole("button", { name: "Play" }));
    await waitFor(() => expect(done(asked)).toEqual([["play order", { id: "o" }]]));
    await waitFor(() => expect(asked.filter(({ path }) => path.endsWith("/run")).map(({ body }) => body?.command)).toEqual(["play"]));
    act(() => hearRun(run({ playing: true })));
    fireEvent.click(screen.getByRole("button", { name: "Pause" }));
    await waitFor(() => expect(asked.at(-1)?.body?.command).toBe("pause"));
  });

  it("sets the length of a step by its edge, by the arrows as well", async () => {
    show(order(step("s1", "a"), step("s2", "b")));
    const asked = desk(answers);
    drawn(<LooksBench />);
    fireEvent.keyDown(screen.getByRole("slider", { name: "Length of step 1" }), { key: "ArrowRight" });
    await waitFor(() => expect(done(asked)).toEqual([["set step", { id: "o", steps: ["s1"], hold: "3.50" }]]));
    fireEvent.keyDown(screen.getByRole("slider", { name: "Fade in of step 1" }), { key: "ArrowRight", shiftKey: true });
    // What the fade takes more, the hold takes less: the next step begins when it did, as long as there is anything left.
    await waitFor(() => expect(done(asked).at(-1)).toEqual(["set step", { id: "o", steps: ["s1"], fade_in: "7.00", hold: "0.00" }]));
  });

  it("is made of all looks where there is none yet, and says so where an order is empty", async () => {
    show();
    const asked = desk(answers);
    const { unmount } = drawn(<LooksBench />);
    fireEvent.click(screen.getByRole("button", { name: "Make a running order of 2 looks" }));
    await waitFor(() => expect(done(asked)).toEqual([["add order", {}]]));
    unmount();
    show(order());
    drawn(<LooksBench />);
    expect(screen.getByText(/Evening is empty/)).toBeTruthy();
  });
});

describe("the sound under an order", () => {
  it("is drawn by the loudest of each stretch", () => {
    expect(peaksOf(new Float32Array([0, 0.5, -0.8, 0.1, 0, 0, 0.2, -0.3]), 4).map((one) => Math.round(one * 100) / 100)).toEqual([0.5, 0.8, 0, 0.3]);
    expect(peaksOf(new Float32Array([0.2, 0.9]), 4).map((one) => Math.round(one * 10) / 10)).toEqual([0.2, 0.2, 0.9, 0.9]);
  });

  it("is laid by choosing a file; moments are marked, gone to and taken away", async () => {
    show({ ...order(step("s1", "a"), step("s2", "b")), body: { name: "Evening", steps: [step("s1", "a"), step("s2", "b")], markers: [[2.5, "1"]] } } as Row);
    const asked = desk({ ...answers, "/sound": changed() });
    drawn(<LooksBench />);
    fireEvent.change(screen.getByLabelText("Lay a sound file under it"), { target: { files: [new File(["RIFF"], "tide.wav")] } });
    await waitFor(() => expect(asked.some(({ path }) => path.endsWith("/orders/o/sound"))).toBe(true));
    act(() => hearRun(run({ at_s: 4 })));
    fireEvent.click(screen.getByRole("button", { name: "Tap" }));
    await waitFor(() => expect(done(asked)).toEqual([["mark order", { id: "o", markers: [[2.5, "1"], [4, "2"]] }]]));
    const marker = screen.getByRole("button", { name: "Marker 1 at 0:02.5" });
    fireEvent.click(marker);
    expect(useRun.getState().run.at_s).toBe(2.5);
    fireEvent.keyDown(marker, { key: "Delete" });
    await waitFor(() => expect(done(asked).at(-1)).toEqual(["mark order", { id: "o", markers: [] }]));
  });
});

describe("the card", () => {
  it("offers what mends heads that are seen to move", async () => {
    show(order(step("s1", "a"), step("s2", "b")));
    useLooks.setState({ steps: ["s2"], look: "b" });
    const asked = desk(answers);
    drawn(<LooksCard />);
    fireEvent.click(await screen.findByRole("button", { name: "Move 1 head in the dark before" }));
    fireEvent.click(screen.getByRole("button", { name: "Light it 1.4 s later" }));
    await waitFor(() => expect(done(asked)).toEqual([["go ahead", { id: "o", steps: ["s2"], fixtures: ["f1"] }], ["set step", { id: "o", steps: ["s2"], sort: "intensity", delay: "1.40", fade_in: "2.00" }]]));
  });

  it("says what a look says and leaves alone, and what it follows; a group is selected by a click", async () => {
    show();
    useLooks.setState({ look: "b" });
    desk(answers);
    drawn(<LooksCard />);
    const group = await screen.findByRole("button", { name: /Truss 1 heads/ });
    expect(group.textContent).toBe("Truss 1 heads 1 of 2 at 80 %, blue · leaves alone: beam");
    expect(screen.getByText("1 group is left alone.")).toBeTruthy();
    expect(screen.getByText("Follows Lectern (position, 2)")).toBeTruthy();
    fireEvent.click(group);
    expect(useSelection.getState().selection).toEqual(["f1", "f2"]);
  });

  it("tells the differences in words and outlines who differs", async () => {
    show();
    useLooks.setState({ look: "b" });
    desk({ ...answers, "/diff": { groups: [{ fixtures: ["f1"], text: "Truss 1 head 1: 50 % less" }], fixtures: ["f1"] } });
    drawn(<LooksCard />);
    fireEvent.change(await screen.findByLabelText("Compare with"), { target: { value: "a" } });
    const words = await screen.findByRole("region", { name: "Differences in words" });
    fireEvent.click(within(words).getByRole("button", { name: "Truss 1 head 1: 50 % less" }));
    expect(useSelection.getState().selection).toEqual(["f1"]);
  });

  it("keeps a part: what is held by hand, and of it only what is ticked", async () => {
    show();
    const asked = desk(answers);
    drawn(<LooksCard />);
    fireEvent.change(screen.getByLabelText("Name"), { target: { value: "Sky" } });
    fireEvent.click(screen.getByRole("button", { name: "A part, or a number of its own" }));
    fireEvent.change(screen.getByLabelText("Of"), { target: { value: "held" } });
    for (const sort of ["beam", "position"]) fireEvent.click(screen.getByRole("checkbox", { name: sort }));
    fireEvent.click(screen.getByRole("button", { name: "Keep what is held by hand as a look" }));
    await waitFor(() => expect(done(asked)).toEqual([["keep look", { name: "Sky", number: "", note: "", ids: [], sorts: ["intensity", "colour"], what: "held" }]]));
  });
});

describe("looks from elsewhere", () => {
  it("are kept each time it settles, and near-doubles are removed together", async () => {
    show();
    const asked = desk({ ...answers, "/settling": { on: true, kept: ["a", "b", "gone"], doubles: [["a", "b", "gone"]], problem: "" } });
    drawn(<LooksCard />);
    fireEvent.click(screen.getByRole("button", { name: "Keep each time it settles" }));
    expect(await screen.findByText("Nearly the same: 1, Slack; 4.5, Flood")).toBeTruthy();
    expect(screen.getByRole("button", { name: "Stop keeping" })).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Remove 1 near-double" }));
    await waitFor(() => expect(done(asked)).toEqual([["remove", { ids: ["b"] }]]));
  });

  it("come from a list, looked at first; what is left out is said", async () => {
    show();
    const asked = desk({ ...answers, "/looks": { sentence: "Take looks in from a list: 2 new", looks: 2, left_out: ["Row 3: there is no fixture 99 in this show."], select: [] } });
    drawn(<LooksCard />);
    fireEvent.click(screen.getByRole("button", { name: "Looks from a list (CSV)" }));
    fireEvent.change(screen.getByLabelText("A CSV list of looks"), { target: { files: [new File(["Look"], "looks.csv")] } });
    expect(await screen.findByText("Row 3: there is no fixture 99 in this show.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Take 2 looks in" }));
    await waitFor(() => expect(screen.queryByLabelText("A CSV list of looks")).toBeNull());
    expect(asked.filter(({ path }) => path.endsWith("/looks"))).toHaveLength(2);
  });
});

describe("pictures of looks", () => {
  it("are of before once anything that is drawn has changed, or the look has", () => {
    show();
    expect(pictureOf("a", useShow.getState())).toBeNull();
    hearPicture({ event: "picture", look: "a", made_of: "s1-x" });
    expect(pictureOf("a", useShow.getState())).toEqual({ url: "/api/shows/s/looks/a/picture?made_of=s1-x", stale: false });
    useShow.setState({ stand: "s2" });
    expect(pictureOf("a", useShow.getState())?.stale).toBe(true);
  });

  it("that are of before are counted in the card, and their looks selected by a click", () => {
    show();
    hearPicture({ event: "picture", look: "a", made_of: "s1-x" });
    desk(answers);
    drawn(<LooksCard />);
    expect(screen.queryByText(/of before/)).toBeNull();
    act(() => useShow.setState({ stand: "s2" }));
    fireEvent.click(screen.getByText(/1 picture of before: drawn anew/));
    expect(useSelection.getState().selection).toEqual(["a"]);
  });
});
