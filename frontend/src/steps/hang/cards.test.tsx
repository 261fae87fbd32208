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
