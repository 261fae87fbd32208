// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { settings, thing, useShow } from "../../show/document";
import { useLasers } from "../../show/lasers";
import type { Row, Thing } from "../../show/types";
import { changed, desk, done, row } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import Lasers from "./Lasers";

let asked: ReturnType<typeof desk> = [];
const FEED = { running: false, feeds: "", pattern: "", rate_hz: 0, problem: "" };
const crossing = (over: boolean) => ({ what: "people", where: [0, -9, 1.6], who: "House, Row 1, seat 4", ids: ["house"], count: 12, irradiance_w_m2: 900, limit_w_m2: 25, over, text: "The zone of fixture 7 crosses 12 people" });
const head = (id: string, ...crossings: object[]) => ({ id, number: 7, name: "fixture 7", feed: 1, draws: true, on: true, place: [0, 0, 6], edge: [], power_w: 6, flux_lm: 1383, safe_m: 500, crossings });

function laser(id: string, number: number, more: object = {}): Row {
  return row(id, "fixture", { type: "stilt", mode: "Simple", number, hands: {}, fixed: {}, purpose: "", laser: null, ...more } as never);
}

beforeEach(() => {
  const objects = { show: row("show", "show", { ...settings({}), system: "metric" }), a: laser("a", 7), b: laser("b", 8, { laser: { feed: 4, rate_kpps: 30, zone: { width_deg: 12, mirror: "up" } } }) };
  useShow.setState({ id: "s", rev: 4, objects });
  useLasers.setState({ told: { event: "lasers", plan: 1, heads: [], testing: [], alone: null }, feed: FEED, zones: null, shown: false });
  asked = desk({ "/edits": () => changed(), "/lasers": () => ({ heads: [head("a", crossing(true)), head("b", crossing(false))], note: "This is an aid to planning and no proof of safety." }), "/lasers/test": () => ({}), "/laser-feed": (body: { run: boolean }) => ({ ...FEED, running: body.run, feeds: "1-2" }) });
});
afterEach(() => vi.unstubAllGlobals());

const shown = () => {
  const { objects } = useShow.getState();
  return drawn(<Lasers chosen={["a", "b"].map((id) => thing(objects, id, "fixture") as Thing<"fixture">)} />);
};

describe("the lasers' card", () => {
  it("numbers feeds by place from where one says, and types a zone for all with a spread", async () => {
    shown();
    // One is as usual, the other is not.
    expect(screen.getByLabelText<HTMLInputElement>("Width").placeholder).toBe("several values");
    expect(screen.getByLabelText<HTMLInputElement>("Height").value).toContain("20");
    fireEvent.change(screen.getByLabelText("First feed"), { target: { value: "11" } });
    fireEvent.blur(screen.getByLabelText("First feed"));
    fireEvent.click(await screen.findByRole("button", { name: "Number 2 feeds by place" }));
    await waitFor(() => expect(done(asked)).toContainEqual(["number feeds", { ids: ["a", "b"], first: "11" }]));
    const across = screen.getByLabelText("To the right");
    fireEvent.focus(across);
    fireEvent.change(across, { target: { value: "-10 to 10" } });
    fireEvent.keyDown(across, { key: "Enter" });
    await waitFor(() => expect(done(asked)).toContainEqual(["set field", { ids: ["a", "b"], field: "zone across", text: expect.stringContaining("-10 to 10") as string }]));
  });

  it("says who is reached, and cuts the zones of those alone whose light is over the limit", async () => {
    shown();
    expect(await screen.findAllByText("The zone of fixture 7 crosses 12 people", {}, { timeout: 20_000 })).toHaveLength(1);
    expect(screen.getByText("This is an aid to planning and no proof of safety.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Cut 1 zone clear of people" }));
    await waitFor(() => expect(done(asked)).toContainEqual(["cut zones", { ids: ["a"] }]));
  });

  it("verifies one after the other, round and round, and leaves nothing on alone", async () => {
    const { unmount } = shown();
    fireEvent.click(screen.getByRole("button", { name: "Verify one by one" }));
    const tests = () => asked.filter(({ path }) => path.endsWith("/lasers/test")).map(({ body }) => body?.alone);
    await waitFor(() => expect(tests()).toEqual(["a"]));
    useLasers.setState({ told: { ...useLasers.getState().told, alone: "a" } });
    expect(await screen.findByText(/alone, 1 of 2: all others are dark/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Before" }));
    await waitFor(() => expect(tests()).toEqual(["a", "b"]));
    unmount();
    await waitFor(() => expect(tests()).toEqual(["a", "b", null]));
  });

  it("plays the simulated feed with a figure, and stops it", async () => {
    shown();
    fireEvent.change(screen.getByLabelText("Simulated feed"), { target: { value: "star" } });
    fireEvent.click(screen.getByRole("button", { name: "Play the simulated feed" }));
    fireEvent.click(await screen.findByRole("button", { name: "Stop the simulated feed" }));
    await waitFor(() => expect(asked.filter(({ path }) => path.endsWith("/laser-feed")).map(({ body }) => [body?.run, body?.pattern])).toEqual([[true, "star"], [false, "mixed"]]));
  });
});
