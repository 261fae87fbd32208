// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { hearCompared, takeLines, useCompared } from "../../show/compared";
import { hearCheck, hearConsoles, useConsoles } from "../../show/consoles";
import { useLink } from "../../show/connection";
import { useShow } from "../../show/document";
import { useSelection } from "../../show/selection";
import { hearSimulated, useSimulated } from "../../show/simulated";
import type { CheckReport, ConsoleState, LinkedConsole, OfferedRig, PatchCompared } from "../../show/types";
import { changed, desk, done, row } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import { Check } from "./Check";
import { Consoles } from "./Consoles";
import { Offer } from "./Offer";
import { Simulated } from "./Simulated";

const link = (more: Partial<LinkedConsole> = {}): LinkedConsole => ({
  key: "c1", name: "Front desk", kept: false, said: "", linked: true, station: "Front desk", provider: "Maker", version: "1.6", features: [], misfits: [], rigs: [], asked_for: false, offer: "", waits: false, done: false, offer_said: "",
  hand_over: false, outline: true, values_port: 8000, values_sent: 0, selected: 0, palettes: [], ...more,
});
const report = (...consoles: LinkedConsole[]) => ({ consoles, found: [], looking_on: "", port: 42810, problems: [] });
const line = (number: number, answer: string, reason = "") => ({ id: `f${number}`, number, name: `Lamp ${number}`, answer, reason, mode: "Std" });
const answered = (lines: ReturnType<typeof line>[], more = {}) => ({ taken: lines.filter((one) => one.answer === "taken" || one.answer === "other mode").length, gone: 0, replaced: 0, counts: {}, lines, missing: [], ...more });
const rig = (more: Partial<OfferedRig> = {}): OfferedRig => {
  const lines = [line(1, "taken"), line(2, "number in use", "Number 2 is a Heron here.")];
  return { key: "k", fixtures: 2, bytes: 2 ** 20, left_out: [], there: 0, asks: false, ways: { add: answered(lines), replace: answered([line(1, "taken"), line(2, "taken")], { replaced: 1 }) }, way: null, result: null, said: "", ...more };
};

beforeEach(() => {
  useShow.setState({ id: "s", rev: 4, objects: {} });
  useSelection.setState({ selection: [], step: "signal" });
  useLink.setState({ signal: null });
  useConsoles.setState({ report: report(link()), view: null, offers: {}, asking: null, check: null });
  useSimulated.setState({ report: null, patch: null, levels: {} });
});
afterEach(() => vi.unstubAllGlobals());

describe("linked consoles", () => {
  it("say what does not fit with what still works, and stop what cannot be", () => {
    const misfit = { what: "Front desk speaks MVR 2.0, this program 1.6: no rig can be given or fetched.", still: "Levels still come.", stops: ["offer", "compare", "answers"] };
    useConsoles.setState({ report: report(link({ version: "2.0", misfits: [misfit], rigs: [{ key: "r", name: "a", comment: "", size: 1 }] })) });
    drawn(<Consoles />);
    expect(screen.getByText(/no rig can be given or fetched/).textContent).toContain("Levels still come.");
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Offer rig" }).disabled).toBe(true);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Compare rig" }).disabled).toBe(true);
  });

  it("hand values over: beside the show by its own way, kept with it by an edit", async () => {
    const asked = desk({ "/beside": report(link({ hand_over: true, values_sent: 7 })), "/edits": () => changed() });
    drawn(<Consoles />);
    fireEvent.click(screen.getByRole("button", { name: "Hand over values" }));
    await waitFor(() => expect(screen.getByRole("button", { name: "Hand over values: 7 sent" })).toBeTruthy());
    expect(asked[0]?.body).toEqual({ hand_over: true });
    act(() => {
      useShow.setState({ objects: { c1: row("c1", "console", { name: "Front desk", host: "10.0.0.9", port: 4000, station: "", values_port: 8000, hand_over: false, outline: true }) } });
      hearConsoles(report(link({ kept: true })));
    });
    fireEvent.click(screen.getByRole("button", { name: "Hand over values" }));
    await waitFor(() => expect(done(asked)).toEqual([["set console", { id: "c1", hand_over: true }]]));
  });

  it("say what is one way where the switch would be", () => {
    useConsoles.setState({ report: report(link({ values_port: 0 })) });
    drawn(<Consoles />);
    expect(screen.getByText("One way: no port for values is set, so what is aimed here stays here.")).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Hand over values" })).toBeNull();
  });

  it("are linked at an address; what is typed wrong stays typed", async () => {
    const asked = desk({ "/edits": () => changed() });
    useConsoles.setState({ report: report() });
    drawn(<Consoles />);
    fireEvent.click(screen.getByRole("button", { name: "Link a console" }));
    const form = within(screen.getByRole("group", { name: "A console at an address" }));
    fireEvent.change(form.getByLabelText("Console"), { target: { value: "Bar desk" } });
    fireEvent.change(form.getByLabelText("MVR-xchange port"), { target: { value: "4000" } });
    fireEvent.click(form.getByRole("button", { name: "Link this console" }));
    await waitFor(() => expect(done(asked)).toEqual([["link console", { name: "Bar desk", host: "127.0.0.1", port: "4000", values_port: "" }]]));
  });
});

describe("the offer", () => {
  it("asks first, shows the worst first, and gives what was chosen", async () => {
    const taken = rig({ way: "add", result: answered([line(1, "taken"), line(2, "number in use", "Number 2 is a Heron here.")], { missing: [{ what: "1 of 2 structures", why: "the console has not taken them" }] }) });
    const asked = desk({ "/offer": rig(), "/take": taken });
    drawn(<Offer one={link()} />);
    expect(screen.queryByRole("button", { name: /^Give/ })).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Ask Front desk what it would take" }));
    await waitFor(() => expect(screen.getByText("Its patch is empty.")).toBeTruthy());
    const rows = screen.getAllByRole("row").slice(1).map((one) => one.textContent);
    expect(rows[0]).toContain("number in use");
    expect(rows[0]).toContain("Number 2 is a Heron here.");
    fireEvent.click(screen.getByRole("button", { name: "Give 1 fixture" }));
    await waitFor(() => expect(screen.getByText("Front desk has taken 1 fixture.")).toBeTruthy());
    expect(asked.at(-1)?.body).toEqual({ way: "add" });
    expect(screen.getByText("Not arrived: 1 of 2 structures: the console has not taken them.")).toBeTruthy();
  });

  it("into a patch that has all of it already replaces, and says how many", () => {
    const none = answered([line(1, "number in use"), line(2, "number in use")]);
    useConsoles.setState({ offers: { c1: rig({ there: 2, ways: { add: none, replace: rig().ways.replace as never } }) } });
    drawn(<Offer one={link()} />);
    expect(screen.getByText("It has 2 fixtures in its patch.")).toBeTruthy();
    expect(screen.getByRole("button", { name: "Give 2 fixtures, 1 fixture of its own replaced" })).toBeTruthy();
    fireEvent.click(screen.getByRole("radio", { name: "Add" }));
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Give 0 fixtures" }).disabled).toBe(true);
  });

  it("to a console that knows the standard only says whether it was fetched", () => {
    const plain = { misfits: [{ what: "It does not answer line by line.", still: "", stops: ["answers"] }] };
    useConsoles.setState({ offers: { c1: rig({ ways: {} }) } });
    const { unmount } = drawn(<Offer one={link(plain)} />);
    expect(screen.getByText(/has not fetched it yet/)).toBeTruthy();
    unmount();
    drawn(<Offer one={link({ ...plain, asked_for: true })} />);
    expect(screen.getByText(/It has fetched the rig/)).toBeTruthy();
  });
});

describe("a rig beside the patch", () => {
  it("is compared again as it is after theirs was taken", async () => {
    const found = { name: "Front desk", scene: "scene-1", columns: [], mapping: {}, fields: [], sample: [], missing: "", left_out: [], same: 3, lines: [], causes: [] } as PatchCompared;
    const asked = desk({ "/edits": () => changed(), "/patch/compare/scene-1": { ...found, same: 4 } });
    hearCompared(found, "c1");
    await takeLines([{ id: "f1", unpatch: false, mode: "Wide" } as never]);
    expect(asked.map((one) => one.path.split("/").at(-1))).toEqual(["edits", "scene-1"]);
    expect(useCompared.getState()).toMatchObject({ console: "c1", found: { same: 4 } });
  });
});

describe("the line check", () => {
  const steps = [
    { id: "f1", number: 1, function: "intensity", state: "answered", came: "at 100 %", cause: "" },
    { id: "f2", number: 2, function: "intensity", state: "silent", came: "at 0 %", cause: "Its slots have not moved." },
  ] as CheckReport["steps"];
  const check = (more: Partial<CheckReport> = {}): CheckReport => ({ going: false, way: "hand", steps: [], at: 0, expects: "", came: "", picture: "", said: "", answered: 0, silent: 0, left: 0, ...more });

  it("says what it expects and sees what came, and takes a person's word", async () => {
    const asked = desk({ "/check": check({ going: true }) });
    useConsoles.setState({ check: check({ going: true, steps: [{ ...steps[0], state: "waits" } as never], expects: "Fixture 1: take it dark, then to full.", came: "at 40 %", picture: "the picture has it at 40 %", left: 1 }) });
    drawn(<Check />);
    expect(screen.getByText("Fixture 1: take it dark, then to full.")).toBeTruthy();
    expect(screen.getByText("Levels: at 40 %")).toBeTruthy();
    expect(screen.getByText("And the picture has it at 40 %")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Nothing came" }));
    await waitFor(() => expect(asked[0]?.body).toMatchObject({ do: "silent" }));
  });

  it("lists who did not answer first, and checks those again", async () => {
    const asked = desk({ "/check": check({ going: true }) });
    useShow.setState({ objects: { f1: row("f1", "fixture", { number: 1, address: 1 }), f2: row("f2", "fixture", { number: 2, address: 9 }), l: row("l", "line check", { name: "Line check", checked: 2, failed: { f2: "intensity." } }) } });
    drawn(<Check />);
    act(() => hearCheck(check({ steps, answered: 1, silent: 1 })));
    const rows = screen.getAllByRole("row").slice(1).map((one) => one.textContent);
    expect(rows[0]).toContain("did not answer");
    expect(rows[0]).toContain("Its slots have not moved.");
    expect(screen.getByText(/They stand in Readiness/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Check the 1 fixture again that failed" }));
    await waitFor(() => expect(asked[0]?.body).toMatchObject({ do: "start", ids: ["f2"], way: "hand" }));
  });

  it("by sending needs a console that takes values", () => {
    useConsoles.setState({ report: report(link({ values_port: 0 })) });
    drawn(<Check />);
    fireEvent.click(screen.getByRole("radio", { name: "From here" }));
    expect(screen.getByText(/No linked console takes values/)).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: /^Check all/ }).disabled).toBe(true);
  });
});

describe("a simulated console", () => {
  const state = {
    name: "Sim", sacn: "all", artnet: "", priority: 100, playing: false, cue: 1, cues: [{ number: 1, name: "First", fade_s: 2, delay_s: 0, follow_s: null, fixtures: 2 }], master: 1, masters: [], groups: {}, palettes: [],
    editor: [{ number: 61, function: "Pan", value: 12.5 }], functions: [{ function: "Tilt", value: -20 }], selected: [61], sweep_s: null, identify_s: null, identified: null, fixtures: 2, universes: [1], others: {}, patched: 3, modes: {},
    faults: { shift: 0, modes: {}, silent: [], unknown: [], universe: 0, drop: 0, preview: false, dead: false },
    station: { port: 1, version: "1.6", features: { answers: 1 }, asks: false, peers: [], offers: [{ key: "o", name: "a", comment: "New", by: "Zarfwright", way: "add", fixtures: 4 }] }, osc: { port: 2, came: 1, problem: "" }, announced: false,
  } as ConsoleState;
  const one = { key: "s1", name: "Sim", problem: "", state };

  it("shows what it plays, has patched and has been handed; its person answers an offer", async () => {
    const rows = [{ number: 61, name: "", type: "Heron", mode: "Std", places: ["1.001"] }, { number: 62, name: "", type: "Heron", mode: "Std", places: ["1.017"] }];
    const asked = desk({ "/simulated/s1": (told: unknown) => (told ? { consoles: [one], problem: "" } : { rows, levels: [0.5, 0] }) });
    drawn(<Simulated one={one} />);
    await waitFor(() => expect(screen.getAllByRole("row")).toHaveLength(3));
    expect(screen.getAllByRole("row")[1]?.textContent).toContain("50 %");
    expect(screen.getByRole("button", { name: /1First/ }).getAttribute("aria-current")).toBe("true");
    expect(within(screen.getByRole("list", { name: "Values in the editor" })).getByRole("listitem").textContent).toBe("61Pan12.5");
    fireEvent.click(screen.getByRole("button", { name: "Take them" }));
    await waitFor(() => expect(asked.at(-1)?.body).toEqual({ do: "answer", key: "o", yes: true }));
    const tilt = screen.getByLabelText("Tilt");
    fireEvent.focus(tilt);
    fireEvent.change(tilt, { target: { value: "-35" } });
    fireEvent.keyDown(tilt, { key: "Enter" });
    await waitFor(() => expect(asked.at(-1)?.body).toEqual({ do: "value", number: 61, function: "Tilt", value: -35 }));
    // What is taken in its patch is selected on the console, not here.
    fireEvent.click(screen.getAllByRole("row")[2] as HTMLElement);
    await waitFor(() => expect(asked.at(-1)?.body).toEqual({ do: "select", numbers: [62] }));
    expect(useSelection.getState().selection).toEqual([]);
  });

  it("says that it died", () => {
    hearSimulated({ consoles: [one], problem: "" });
    drawn(<Simulated one={{ ...one, state: { ...state, faults: { ...state.faults, dead: true } } }} />);
    expect(screen.getByText("✕ dead")).toBeTruthy();
    expect(screen.getByRole("button", { name: "Come back" })).toBeTruthy();
  });
});
