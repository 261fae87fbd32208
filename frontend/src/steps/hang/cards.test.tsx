// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useShow } from "../../show/document";
import { useGhost } from "../../show/edits";
import { putAt } from "../../show/put";
import { useSelection } from "../../show/selection";
import { changed, desk, done, ghost, Refusal, row } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import { HangCard } from "./Card";
import { Numbers } from "./Numbers";
import { Swap } from "./Swap";

const fixture = (id: string, number: number, type = "t") => row(id, "fixture", { number, type, mode: "Standard" });
const TYPES = { t: { name: "Heron", maker: "Quill", modes: [] }, u: { name: "Bittern", maker: "Quill", modes: [{ name: "Dimmer", footprint: 1 }] } };

beforeEach(() => {
  useShow.setState({ id: "s", rev: 4, objects: { a: fixture("a", 71), b: fixture("b", 72) }, types: TYPES as never });
  useSelection.setState({ selection: ["a", "b"] });
  useGhost.setState({ ghost: null });
});
afterEach(() => vi.unstubAllGlobals());

describe("numbers", () => {
  it("are seen beside the old ones before they are taken", async () => {
    const after = [fixture("a", 171), fixture("b", 172)];
    const asked = desk({ "/edits": (told: { preview?: boolean }) => (told.preview ? ghost([], ...after) : changed(...after)) });
    drawn(<Numbers />);
    fireEvent.change(screen.getByLabelText("From"), { target: { value: "171" } });
    await waitFor(() => expect(screen.getByRole("region", { name: "Old and new" }).textContent).toBe("71 → 17172 → 172"));
    expect(done(asked)).toEqual([]);
    fireEvent.click(screen.getByRole("button", { name: "Number 2 fixtures" }));
    await waitFor(() => expect(done(asked)).toHaveLength(1));
    expect(done(asked)[0]).toEqual(["number", { ids: ["a", "b"], start: "171", step: "1", share: "1", what: "number", order: "number", reverse: false }]);
  });
});

describe("how it hangs", () => {
  it("is turned on by steps, which change the angle that there is", async () => {
    const hang = { structure: "t", rail: "lower", along_m: 2, turn_deg: 30, side: "under" };
    useShow.setState({ objects: { a: row("a", "fixture", { number: 71, type: "t", mode: "Standard", hang }) } });
    useSelection.setState({ selection: ["a"] });
    const asked = desk({ "/edits": () => changed() });
    drawn(<HangCard />);
    fireEvent.click(screen.getByRole("button", { name: "-15° about the rail" }));
    fireEvent.click(screen.getByRole("button", { name: "+90° about the rail" }));
    await waitFor(() => expect(done(asked).map(([, args]) => (args as { text: string }).text)).toEqual(["-=15", "+=90"]));
  });
});

describe("a swap", () => {
  it("says what goes before it does anything", async () => {
    const asked = desk({ "/edits": (told: { preview?: boolean }) => (told.preview ? ghost(["Looks lose what a Bittern does not have: zoom."]) : changed()) });
    drawn(<Swap />);
    fireEvent.click(screen.getByRole("button", { name: "Another type for 2 fixtures" }));
    await screen.findByText(/^Looks lose what a Bittern does not have/);
    expect(done(asked)).toEqual([]);
    fireEvent.change(screen.getByLabelText("Mode"), { target: { value: "Dimmer" } });
    fireEvent.click(screen.getByRole("button", { name: "Swap 2 fixtures to Bittern" }));
    await waitFor(() => expect(done(asked)).toEqual([["swap type", { ids: ["a", "b"], type: "u", mode: "Dimmer" }]]));
  });

  it("that takes nothing away says so", async () => {
    desk({ "/edits": () => ghost() });
    drawn(<Swap />);
    fireEvent.click(screen.getByRole("button", { name: "Another type for 2 fixtures" }));
    await screen.findByText("Places, numbers, addresses and looks stay as they are.");
  });
});

describe("putting by pointing", () => {
  it("sends arm and drop as they were typed, and says beside the field what cannot be", async () => {
    const asked = desk({ "/edits": (told: { args: { out: string } }) => (told.args.out === "a bit" ? new Refusal("“a bit” is not a length", "out") : changed()) });
    useShow.setState({ objects: {}, types: TYPES as never, rails: {} });
    useSelection.setState({ selection: [], step: "hang" });
    drawn(<HangCard />);
    fireEvent.click(screen.getByRole("button", { name: /^Put Herons by pointing/ }));
    const place = { rail: { structure: "t", rail: "lower", along: 2 }, point: null, normal: null } as never;
    fireEvent.change(screen.getByLabelText("Arm out by"), { target: { value: "a bit" } });
    act(() => putAt(place, "hover"));
    await screen.findByText("“a bit” is not a length");
    fireEvent.change(screen.getByLabelText("Arm out by"), { target: { value: "18in" } });
    act(() => putAt(place, "click"));
    await waitFor(() => expect(done(asked)).toHaveLength(1));
    expect(done(asked)[0]).toMatchObject(["place one", { out: "18in", drop: "0" }]);
  });
});

describe("a driver", () => {
  const LIFT = { name: "Lift z 0 to 3600 mm", maker: "Drivers", modes: [], driver: { channels: [{ axis: "z", low: 0, home: 0, high: 3.6, speed: 0.6, acceleration: 0.4, bits: 16 }], returns: false } };
  const bridge = row("bridge", "carrier", { name: "Bridge", position: [0, 8, 1] });
  const lift = (body: Record<string, unknown> = {}) => row("d", "fixture", { number: 901, type: "l", mode: "Standard", drives: { thing: "bridge" }, universe: 6, address: 451, ...body });

  beforeEach(() => {
    useShow.setState({ objects: { bridge, d: lift() }, types: { ...TYPES, l: LIFT } as never });
    useSelection.setState({ selection: ["bridge"] });
  });

  it("is given to a carrier in one step, and refused with the field at fault", async () => {
    useShow.setState({ objects: { bridge } });
    let answer: unknown = new Refusal("Slot 900 does not exist: a universe has 1 to 512.", "start");
    const asked = desk({ "/edits": () => answer });
    drawn(<HangCard />);
    fireEvent.click(screen.getByText("Carry"));
    fireEvent.change(screen.getByLabelText("Moves as"), { target: { value: "turntable" } });
    fireEvent.change(screen.getByLabelText("First slot"), { target: { value: "6.900" } });
    fireEvent.click(screen.getByRole("button", { name: "Move Bridge by a turntable" }));
    await waitFor(() => expect(screen.getByLabelText("First slot").getAttribute("aria-invalid")).toBe("true"));
    answer = changed(lift());
    fireEvent.click(screen.getByRole("button", { name: "Move Bridge by a turntable" }));
    await waitFor(() => expect(done(asked).at(-1)).toEqual(["add driver", { thing: "bridge", usual: "turntable", number: "", start: "6.900" }]));
  });

  it("is dragged by hand in its own unit, one edit for all of it", async () => {
    const asked = desk({ "/edits": (told: { preview?: boolean }) => (told.preview ? ghost() : changed(lift({ hands: { "shift z": 1.8 } }))) });
    drawn(<HangCard />);
    fireEvent.click(screen.getByText("Carry"));
    const slider = screen.getByLabelText("Raised");
    expect(slider.getAttribute("aria-valuetext")).toBe("0.00 m");
    fireEvent.pointerDown(slider);
    fireEvent.change(slider, { target: { value: "250" } });
    fireEvent.change(slider, { target: { value: "500" } });
    expect(slider.getAttribute("aria-valuetext")).toBe("1.80 m");
    fireEvent.pointerUp(slider);
    await waitFor(() => expect(done(asked)).toEqual([["hold values", { ids: ["d"], values: { "shift z": 1.8 } }]]));
  });

  it("has its range and speed typed, the other channels as they are", async () => {
    const asked = desk({ "/edits": () => changed(lift()) });
    drawn(<HangCard />);
    fireEvent.click(screen.getByText("Carry"));
    const end = screen.getByLabelText("Raised, high");
    fireEvent.focus(end);
    fireEvent.change(end, { target: { value: "4.2m" } });
    fireEvent.keyDown(end, { key: "Enter" });
    await waitFor(() => expect(done(asked)).toEqual([["set driver", { id: "d", channels: [{ axis: "z", low: "0.00 m", home: "0.00 m", high: "4.2m", speed: "0.60 m", acceleration: "0.40 m", bits: 16 }] }]]));
  });

  it("that is itself selected is shown alone, without what lamps have", () => {
    useSelection.setState({ selection: ["d"] });
    drawn(<HangCard />);
    expect(screen.getByText("Driver 901: Lift z 0 to 3600 mm")).toBeTruthy();
    expect(screen.queryByText("Attitude")).toBeNull();
    expect(screen.queryByLabelText("Moves as")).toBeNull();
  });
});
