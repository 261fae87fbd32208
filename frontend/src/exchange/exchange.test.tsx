// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useShow, who } from "../show/document";
import { hearJobs, useJobs } from "../show/jobs";
import { useSelection } from "../show/selection";
import { changed, desk, done } from "../testing/desk";
import { drawn } from "../testing/drawn";
import { Exchange } from "./Exchange";
import { type Compared, lookAtScene, putAway, useExchange } from "./state";

const line = (key: string, change: string, group = "fixtures") => ({ key, id: null, group, change, name: `Fixture ${key}`, text: `what of ${key}` });
const option = (choice: string, name: string, source: string, modes: Record<string, string>, reason = "the reason") => ({ choice, name, source, reason, modes });
const compared = (more: Partial<Compared> = {}): Compared => ({
  name: "tour.mvr", provider: "Somebody", same: 12, findings: [], suspicions: [], beside: [], low: [0, 0, 0], high: [10, 5, 8],
  groups: ["layers", "carriers", "structures", "scenery", "people", "focus points", "fixtures"].map((name) => ({ name, in_file: name === "fixtures" ? 3 : 0, added: name === "fixtures" ? 2 : 0, changed: 0, removed: 0, kept: name === "fixtures" ? 1 : 0 })),
  lines: [line("1", "added"), line("2", "added"), line("9", "kept")],
  types: [
    { spec: "Heron.gdtf", name: "Heron", maker: "Q", why: "", fixtures: 2, slots: { Standard: 16 }, chosen: "show:h", options: [option("show:h", "Heron", "show", { Standard: "Standard" }), option("plain", "Stand-in for Heron", "plain", { Standard: "Standard" })] },
    { spec: "F.gdtf", name: "Fulmar", maker: "", why: "it is not in the file", fixtures: 1, slots: { Wide: 9 }, chosen: "plain", options: [option("plain", "Stand-in for Fulmar", "plain", { Wide: "Wide" })] },
  ],
  ...more,
});

const jobs = (result: unknown, state = "done") => ({
  "/jobs": { id: "j2" },
  "/jobs/j1": { job: { id: "j1", who: "me", name: "Read", of: 1, done: 1, state, problem: state === "failed" ? "tour.mvr is no MVR file" : "" }, result: null },
  "/jobs/j2": { job: { id: "j2", who: "me", name: "Take", of: 1, done: 1, state: "done", problem: "" }, result },
});
const ending = (id: string) => useJobs.setState({ jobs: [{ id, who: "me", name: "x", of: 1, done: 1, state: "done", problem: "" }] });

async function arrive(answer: unknown, more: Record<string, unknown> = {}): Promise<ReturnType<typeof desk>> {
  const asked = desk({ "/scenes": { key: "k", name: "tour.mvr", bytes: 9, job: "j1" }, "/scenes/k": answer, "/forget": {}, ...jobs(changed()), ...more });
  vi.stubGlobal("FormData", class { set() { return undefined; } });
  drawn(<Exchange />);
  ending("j1");
  await act(() => lookAtScene(new File(["x"], "tour.mvr")));
  return asked;
}
const choices = (asked: { path: string; body: Record<string, unknown> | null }[]) => asked.filter((one) => one.path.endsWith("/scenes/k")).at(-1)?.body;

beforeEach(() => {
  useShow.setState({ id: "s", rev: 4, objects: {} });
  useSelection.setState({ selection: [], step: "papers" });
});
afterEach(() => {
  putAway();
  useExchange.setState({ open: false, reading: null });
  useJobs.setState({ jobs: [] });
  vi.unstubAllGlobals();
});

describe("a file beside the show", () => {
  it("lists what is new and keeps what it lacks aside, and says what will happen on its button", async () => {
    await arrive(compared());
    await screen.findByText("Fixture 1");
    expect(screen.queryByText("Fixture 9")).toBeNull();
    expect(screen.getByRole("button", { name: "Take in: 2 new" })).toBeTruthy();
    fireEvent.click(screen.getByRole("radio", { name: "stays 1" }));
    expect(screen.getByText("Fixture 9")).toBeTruthy();
  });

  it("leaves single things, whole kinds and removes what it lacks only when that is ticked", async () => {
    const asked = await arrive(compared());
    fireEvent.click(await screen.findByRole("button", { name: "Leave Fixture 2 as it is" }));
    await waitFor(() => expect(choices(asked)).toMatchObject({ leave: ["2"], remove: [] }));
    fireEvent.click(screen.getByRole("checkbox", { name: /Remove 1 fixture/ }));
    await waitFor(() => expect(choices(asked)).toMatchObject({ remove: ["fixtures"] }));
    fireEvent.click(screen.getByRole("checkbox", { name: /^Fixtures/ }));
    await waitFor(() => expect((choices(asked)?.kinds as string[]).includes("fixtures")).toBe(false));
  });

  it("puts what a person has to look at first among the types, and takes another one", async () => {
    const asked = await arrive(compared());
    fireEvent.click(await screen.findByRole("tab", { name: /^Types/ }));
    const rows = within(screen.getByRole("list", { name: "Types" })).getAllByRole("listitem");
    expect(rows.map((row) => row.getAttribute("data-type"))).toEqual(["Fulmar", "Heron"]);
    fireEvent.change(screen.getByLabelText("Heron becomes"), { target: { value: "plain" } });
    await waitFor(() => expect(choices(asked)).toMatchObject({ types: { "Heron.gdtf": "plain" } }));
  });

  it("lays the whole scene as is said, and again as it came", async () => {
    const odd = { what: "It is on its head", button: "Turn it over", factor: 1, over: true, shift: [0, 0, 2] as [number, number, number] };
    const asked = await arrive(compared({ suspicions: [odd] }), { "/scenes/k": (told: { over?: boolean } | null) => compared({ suspicions: told?.over ? [] : [odd] }) });
    fireEvent.click(await screen.findByRole("button", { name: "Turn it over" }));
    await waitFor(() => expect(choices(asked)).toMatchObject({ over: true, shift: [0, 0, 2] }));
    // It is still told what was wrong, and can be taken back.
    fireEvent.click(await screen.findByRole("button", { name: "Turn it over", pressed: true }));
    await waitFor(() => expect(choices(asked)).toMatchObject({ over: false, shift: [0, 0, 0] }));
  });

  it("is taken in as it was chosen, and then offers the rails to heads beside them", async () => {
    const beside = [{ structure: "t", name: "LX1", ids: ["a", "b"], nearest_m: 0.04, furthest_m: 0.09 }];
    const asked = await arrive(compared({ beside }), { "/edits": changed() });
    await screen.findByText(/2 heads beside LX1, 4 cm to 9 cm/);
    ending("j2");
    fireEvent.click(screen.getByRole("button", { name: "Take in: 2 new" }));
    fireEvent.click(await screen.findByRole("button", { name: "Put 2 back on LX1: 4 cm to 9 cm away" }));
    await waitFor(() => expect(done(asked).map(([kind]) => kind)).toEqual(["take scene", "put back"]));
    expect(done(asked)[0]?.[1]).toMatchObject({ key: "k", remove: [], leave: [] });
    expect(done(asked)[1]?.[1]).toEqual({ ids: ["a", "b"], structure: "t" });
    await waitFor(() => expect(screen.queryByRole("button", { name: /^Put 2 back/ })).toBeNull());
  });

  it("is read in steps that are seen, and can be stopped", async () => {
    const asked = desk({ "/scenes": { key: "k", name: "tour.mvr", bytes: 9, job: "j1" }, "/stop": {}, ...jobs(null, "stopped") });
    vi.stubGlobal("FormData", class { set() { return undefined; } });
    drawn(<Exchange />);
    act(() => void lookAtScene(new File(["x"], "tour.mvr")));
    await screen.findByRole("button", { name: "Stop reading" });
    act(() => useJobs.setState({ jobs: [{ id: "j1", who: "me", name: "Read", of: 20, done: 7, state: "running", problem: "" }] }));
    expect(screen.getByText("7 of 20")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Stop reading" }));
    await waitFor(() => expect(asked.some((one) => one.path.endsWith("/jobs/j1/stop"))).toBe(true));
    act(() => hearJobs([{ id: "j1", who, name: "Read", of: 20, done: 7, state: "stopped", problem: "" }]));
    await screen.findByText(/was not read to its end: nothing was changed/);
  });

  it("says why a file cannot be read", async () => {
    await arrive(compared(), jobs(null, "failed"));
    await screen.findByText("tour.mvr is no MVR file");
  });
});

describe("a list of fixtures", () => {
  it("is looked at first, and what is left out of it is said", async () => {
    const rows = [{ type: "show:h", mode: "", number: 3, unit: null, position: [0, 0, 0], turn_deg: [0, 0, 0], start: "", purpose: "", note: "" }];
    const asked = desk({ "/lists": { name: "new.csv", columns: { type: "Type" }, rows, types: [{ name: "Heron", becomes: "Heron", reason: "in the show", rows: 1 }], left_out: ["Row 2: it names no type."] }, "/edits": changed(), "/scene": { fixtures: 0, types: 0, structures: 0, others: 1, bytes: 900, left_out: [{ what: "9 people", why: "not asked for" }] } });
    vi.stubGlobal("FormData", class { set() { return undefined; } });
    useExchange.setState({ open: true });
    drawn(<Exchange />);
    fireEvent.change(screen.getByLabelText("A CSV list"), { target: { files: [new File(["x"], "new.csv")] } });
    await screen.findByText("Left out: Row 2: it names no type.");
    await screen.findByText("Left out: 9 people, not asked for.");
    fireEvent.click(screen.getByRole("button", { name: "Add 1 fixture" }));
    await waitFor(() => expect(done(asked)).toEqual([["add fixtures", { rows }]]));
  });
});
