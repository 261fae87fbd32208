// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type Settings, settings, useShow } from "../show/document";
import { usePanes } from "../show/panes";
import { usePicture } from "../show/picture";
import { useSelection } from "../show/selection";
import { changed, desk, done, Refusal, row } from "../testing/desk";
import { drawn } from "../testing/drawn";
import { PicturePanel } from "./PicturePanel";
import { StatusLine } from "./StatusLine";

const now = (): Settings => settings(useShow.getState().objects);

/** A desk that sets what it is told to set. */
const setting = () =>
  desk({ "/edits": (told: { args: Partial<Settings> }) => ((told.args.haze_per_m ?? 0) > 1 ? new Refusal("The haze per m cannot be 7: type at most 1.", "haze_per_m") : changed(row("show", "show", { ...now(), ...told.args }))) });

function enter(label: string, text: string): void {
  const field = screen.getByLabelText(label);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.keyDown(field, { key: "Enter" });
}

const foot = (): string => document.querySelector("[data-part=picture]")?.textContent ?? "";

beforeEach(() => {
  const show = { ...settings({}), system: "metric", exposure_ev: 9.5 };
  useShow.setState({ id: "s", rev: 4, objects: { show: row("show", "show", show), f: row("f", "fixture", { number: 61 }) }, camera: { ev100: 8.64, shown_per_cd: 0.003, white: [1, 0, 0, 0, 1, 0, 0, 0, 1] } });
  usePicture.setState({ pinned: [], forecasts: [], testing: null });
});
afterEach(() => vi.unstubAllGlobals());

describe("the picture's panel", () => {
  it("says what each quality is for, and keeps the one that is chosen with this browser", () => {
    drawn(<PicturePanel />);
    fireEvent.click(screen.getByRole("radio", { name: "Air" }));
    screen.getByText("Shafts in the haze as well.");
    expect(usePicture.getState().wish.step).toBe("Air");
    expect(JSON.parse(localStorage.getItem("zarfwright.picture") ?? "{}")).toMatchObject({ wish: { step: "Air" } });
    enter("Keep", "soon");
    expect(usePicture.getState().wish.fps).toBe(25);
  });

  it("refuses beside the field what cannot be, and makes edits of the rest", async () => {
    const asked = setting();
    drawn(<PicturePanel />);
    enter("Haze, 1/m", "7");
    await screen.findByText("The haze per m cannot be 7: type at most 1.");
    enter("Haze, 1/m", "0.02");
    await waitFor(() => expect(now().haze_per_m).toBe(0.02));
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
    enter("Bloom", "much");
    await screen.findByText("“much” is not a number.");
    expect(done(asked)).toEqual([["set show", { haze_per_m: 7 }], ["set show", { haze_per_m: 0.02 }]]);
  });

  it("exposes like a camera or like an eye, and the status line says which", async () => {
    const asked = setting();
    drawn(<><PicturePanel /><StatusLine /></>);
    expect(foot()).toContain("by look");
    fireEvent.click(screen.getByRole("radio", { name: "Camera" }));
    await screen.findByText("comes to EV 8.6");
    expect(foot()).toContain("camera");
    for (const [label, text] of [["ISO", "400"], ["Time", "1/100"], ["Aperture, f/", "f/4"]] as const) {
      const asked_before = asked.length;
      enter(label, text);
      await waitFor(() => expect(asked).toHaveLength(asked_before + 1));
    }
    await waitFor(() => expect(now()).toMatchObject({ iso: 400, shutter_s: 0.01, aperture: 4 }));
    fireEvent.click(screen.getByRole("radio", { name: "Eye" }));
    fireEvent.click(await screen.findByLabelText("Locked: looks leave it as it is"));
    await waitFor(() => expect(foot()).toContain("locked"));
    fireEvent.click(screen.getByLabelText("The eye adapts"));
    await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>("Exposure, EV").disabled).toBe(true));
    expect(foot()).not.toMatch(/locked|by look|camera/);
    fireEvent.click(screen.getByRole("button", { name: "Dusk" }));
    await waitFor(() => expect(done(asked).at(-1)).toEqual(["set show", { exposure_start: "dusk" }]));
  });

  it("says that it is not true where a strength is off scale, until all are set back", async () => {
    setting();
    drawn(<><PicturePanel /><StatusLine /></>);
    expect(foot()).not.toContain("off scale");
    enter("Shafts", "2.5");
    const back = await screen.findByRole("button", { name: /Off scale: the picture is not true/ });
    expect(foot()).toContain("off scale");
    fireEvent.click(back);
    await waitFor(() => expect(now().shaft_gain).toBe(1));
    expect(foot()).not.toContain("off scale");
  });

  it("pins shadows of the fixtures that are selected", () => {
    useSelection.setState({ selection: [] });
    drawn(<PicturePanel />);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: /^Always of/ }).disabled).toBe(true);
    act(() => useSelection.setState({ selection: ["f"] }));
    fireEvent.click(screen.getByRole("button", { name: "Always of 1 selected fixture" }));
    expect(usePicture.getState().pinned).toEqual(["f"]);
    screen.getByText(/Of 1 fixture always/);
    fireEvent.click(screen.getByRole("button", { name: "Of none" }));
    expect(usePicture.getState().pinned).toEqual([]);
  });

  it("forecasts each step by testing this machine", async () => {
    let end: (value: unknown) => void = () => undefined;
    const selfTest = vi.fn((tell: (share: number, step: string) => void) => {
      tell(0.5, "Air");
      return new Promise((resolve) => (end = resolve));
    });
    usePanes.setState({ stage: { selfTest } as never });
    drawn(<PicturePanel />);
    fireEvent.click(screen.getByRole("button", { name: "Test what this machine carries" }));
    await screen.findByText("Testing Air, 50 %");
    screen.getByRole("progressbar", { name: "Self-test" });
    end([{ step: "Build", ms: 20, fps: 50 }, { step: "Air", ms: 125, fps: 8 }]);
    await screen.findByText("20 ms · 50 fps");
    screen.getByText("125 ms · 8.0 fps");
    usePanes.setState({ stage: null });
  });
});
