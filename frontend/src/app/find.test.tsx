// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useShow } from "../show/document";
import { useJobs } from "../show/jobs";
import { usePanes } from "../show/panes";
import { useSelection } from "../show/selection";
import { changed, desk, done, row } from "../testing/desk";
import { drawn } from "../testing/drawn";
import { FindDo } from "./FindDo";

const box = (): HTMLElement => screen.getByLabelText("What to find or do");
const found = (): string[] => screen.queryAllByRole("option").map((one) => one.textContent ?? "");
const type = (text: string): boolean => fireEvent.change(box(), { target: { value: text } });

beforeEach(() => {
  // Lists are scrolled to what is chosen; jsdom has no layout.
  Element.prototype.scrollTo = () => undefined;
  useShow.setState({ id: "s", objects: { show: row("show", "show", { work_light_lx: 6, follow_console: true }), f: row("f", "fixture", { number: 64 }), l: row("l", "look", { name: "Ebb" }), d: row("d", "deck", { name: "Ebb deck" }) } });
  useJobs.setState({ jobs: [] });
});
afterEach(() => vi.unstubAllGlobals());

describe("find or do", () => {
  it("takes who is found to where it is worked on, selected", () => {
    const closed = vi.fn();
    drawn(<FindDo onClose={closed} onHistory={() => undefined} />);
    type("fixture 64");
    fireEvent.keyDown(box(), { key: "Enter" });
    expect(useSelection.getState()).toMatchObject({ step: "hang", selection: ["f"] });
    expect(closed).toHaveBeenCalledOnce();
  });

  it("finds by parts of words in any order, and goes through what it found by the arrows", () => {
    drawn(<FindDo onClose={() => undefined} onHistory={() => undefined} />);
    type("ebb");
    expect(found()).toEqual(["Ebblook", "Ebb deckdeck"]);
    fireEvent.keyDown(box(), { key: "ArrowDown" });
    fireEvent.keyDown(box(), { key: "ArrowDown" });
    expect(screen.getByRole("option", { selected: true }).textContent).toBe("Ebb deckdeck");
    fireEvent.keyDown(box(), { key: "Enter" });
    expect(useSelection.getState()).toMatchObject({ step: "site", selection: ["d"] });
    type("deck ebb");
    expect(found()).toEqual(["Ebb deckdeck"]);
    type("nobody");
    screen.getByText(/Nothing is called that/);
  });

  it("does commands, and says what they would do now", async () => {
    const asked = desk({ "/edits": () => changed() });
    drawn(<FindDo onClose={() => undefined} onHistory={() => undefined} />);
    type("following");
    expect(found()).toEqual(["Stop following the consolecommand"]);
    fireEvent.keyDown(box(), { key: "Enter" });
    await waitFor(() => expect(done(asked)).toEqual([["set show", { follow_console: false }]]));
    usePanes.setState({ active: "main" });
    type("view: plan");
    fireEvent.click(screen.getByRole("option"));
    expect(usePanes.getState().panes.find((pane) => pane.id === "main")?.view).toBe("plan");
    type("stop: thin");
    expect(found()).toEqual([]);
  });

  it("does to what is selected what cards do, and offers it only then", async () => {
    const asked = desk({ "/edits": () => changed() });
    useSelection.setState({ selection: [] });
    const { unmount } = drawn(<FindDo onClose={() => undefined} onHistory={() => undefined} />);
    type("mirror");
    expect(found()).toEqual([]);
    unmount();
    useSelection.setState({ selection: ["d"] });
    const history = vi.fn();
    drawn(<FindDo onClose={() => undefined} onHistory={history} />);
    type("mirror deck further");
    fireEvent.keyDown(box(), { key: "Enter" });
    type("duplicate");
    expect(found()).toEqual(["Duplicate 1 deckcommandCtrl+D"]);
    fireEvent.keyDown(box(), { key: "Enter" });
    await waitFor(() => expect(done(asked)).toEqual([["mirror", { ids: ["d"], keep: true }], ["duplicate", { ids: ["d"], count: "1", x: "1m", y: "0", z: "0" }]]));
    type("restore");
    fireEvent.keyDown(box(), { key: "Enter" });
    expect(history).toHaveBeenCalledOnce();
  });

  it("stops work that is under way", async () => {
    const asked = desk({ "/stop": {} });
    useJobs.setState({ jobs: [{ id: "job-1", who: "me", name: "Thin crowds", of: 2, done: 1, state: "running", problem: "" }] });
    drawn(<FindDo onClose={() => undefined} onHistory={() => undefined} />);
    type("stop: thin");
    fireEvent.click(screen.getByRole("option", { name: /^Stop: Thin crowds/ }));
    await waitFor(() => expect(asked.map((one) => one.path)).toEqual(["/api/shows/s/jobs/job-1/stop"]));
  });
});
