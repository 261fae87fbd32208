// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { changed, desk, done, ghost, Refusal, row } from "../testing/desk";
import { drawn } from "../testing/drawn";
import { BodyFields } from "./BodyFields";
import { Readiness } from "./CardHead";
import { useShow } from "./document";
import { useGhost } from "./edits";
import { GelField } from "./GelField";
import { useSelection } from "./selection";

const TRUSS = { name: "Truss 1", form: "straight", length_m: 16, position: [0, 1.5, 7.6], rake_deg: 0, turn_deg: 0, hoists: 0, kg_per_m: 9, section_m: 0.4 };
const field = (label: string): HTMLInputElement => screen.getByLabelText(label);

beforeEach(() => {
  useShow.setState({ id: "s", rev: 4, objects: { a: row("a", "truss", TRUSS), b: row("b", "truss", { ...TRUSS, name: "Truss 2", length_m: 12 }) }, findings: [] });
  useGhost.setState({ ghost: null });
});
afterEach(() => vi.unstubAllGlobals());

describe("the values of what is selected", () => {
  it("are seen as a ghost while they are typed, and stored when they are entered", async () => {
    const moved = row("a", "truss", { ...TRUSS, position: [2, 1.5, 7.6] });
    const asked = desk({ "/edits": (told: { preview?: boolean }) => (told.preview ? ghost([], moved) : changed(moved)) });
    drawn(<BodyFields ids={["a"]} />);
    expect(field("Length").value).toBe("16.00 m");
    fireEvent.change(field("SL / SR"), { target: { value: "SL 2" } });
    await waitFor(() => expect(useGhost.getState().ghost?.objects).toEqual([moved]));
    expect(done(asked)).toEqual([]);
    fireEvent.keyDown(field("SL / SR"), { key: "Escape" });
    expect(useGhost.getState().ghost).toBeNull();
    fireEvent.change(field("SL / SR"), { target: { value: "SL 2" } });
    fireEvent.keyDown(field("SL / SR"), { key: "Enter" });
    await waitFor(() => expect(field("SL / SR").value).toBe("SL 2.00 m"));
    expect(done(asked)).toEqual([["set field", { ids: ["a"], field: "x", text: "SL 2" }]]);
    await waitFor(() => expect(useGhost.getState().ghost).toBeNull());
  });

  it("show the sum while a change is typed, and take a minus of its own from an emptied field", async () => {
    const asked = desk({ "/edits": (told: { preview?: boolean }) => (told.preview ? ghost() : changed()) });
    drawn(<BodyFields ids={["a"]} />);
    const length = field("Length");
    fireEvent.focus(length);
    screen.getByText("+1.5 or -1.5 changes it. Emptied first, -1.5 is the value.");
    fireEvent.change(length, { target: { value: "-1.5" } });
    screen.getByText("16.00 m − 1.50 m = 14.50 m");
    fireEvent.keyDown(length, { key: "Escape" });
    const side = field("SL / SR");
    fireEvent.focus(side);
    for (const text of ["", "-4"]) fireEvent.change(side, { target: { value: text } });
    fireEvent.keyDown(side, { key: "Enter" });
    await waitFor(() => expect(done(asked)).toEqual([["set field", { ids: ["a"], field: "x", text: "=-4" }]]));
    const turn = field("Turn");
    fireEvent.focus(turn);
    fireEvent.change(turn, { target: { value: "-30" } });
    fireEvent.keyDown(turn, { key: "Enter" });
    await waitFor(() => expect(done(asked).at(-1)).toEqual(["set field", { ids: ["a"], field: "turn", text: "-30" }]));
  });

  it("say where several are not the same, and are set for all of them", async () => {
    const asked = desk({ "/edits": new Refusal("“wide” is not a length", "text") });
    drawn(<BodyFields ids={["a", "b"]} />);
    expect([field("Length").value, field("Length").placeholder, field("Section").value]).toEqual(["", "several values", "0.40 m"]);
    fireEvent.change(field("Length"), { target: { value: "wide" } });
    fireEvent.keyDown(field("Length"), { key: "Enter" });
    await screen.findByText("“wide” is not a length");
    expect(field("Length").value).toBe("wide");
    expect(done(asked)).toEqual([["set field", { ids: ["a", "b"], field: "length", text: "wide" }]]);
  });

  it("are none of kinds that are mixed", () => {
    useShow.setState({ objects: { a: row("a", "truss", TRUSS), d: row("d", "deck", { name: "Deck" }) } });
    drawn(<BodyFields ids={["a", "d"]} />);
    expect(screen.queryAllByRole("textbox")).toEqual([]);
  });
});

describe("a gel", () => {
  it("is typed in words or with numbers, and what names none is refused where it was typed", async () => {
    const asked = desk({ "/edits": (told: { args: { text: string } }) => (told.args.text === "tartan" ? new Refusal("“tartan” names no colour", "gel") : changed()) });
    drawn(<GelField ids={["f"]} gels={[null]} />);
    for (const text of ["tartan", "Harbour 0.20 0.22 30"]) {
      fireEvent.change(field("Gel"), { target: { value: text } });
      fireEvent.keyDown(field("Gel"), { key: "Enter" });
      if (text === "tartan") await screen.findByText("“tartan” names no colour");
    }
    await waitFor(() => expect(done(asked).at(-1)).toEqual(["set field", { ids: ["f"], field: "gel", text: "Harbour 0.20 0.22 30" }]));
  });
});

describe("what is found wrong", () => {
  it("selects what is concerned, and is put right by its button", async () => {
    const repair = { label: "Put it straight", kind: "straighten", args: { ids: ["a"] } };
    useShow.setState({ findings: [{ step: "site", where: ["a"], text: "Truss 1 is 1° off straight across.", wrong: false, repair } as never, { step: "patch", where: [], text: "Elsewhere", wrong: true, repair: null }] });
    const asked = desk({ "/edits": () => changed() });
    drawn(<Readiness step="site" />);
    expect(screen.queryByText("Elsewhere")).toBeNull();
    fireEvent.click(screen.getByText(/off straight across/));
    expect(useSelection.getState().selection).toEqual(["a"]);
    fireEvent.click(screen.getByRole("button", { name: "Put it straight" }));
    await waitFor(() => expect(done(asked)).toEqual([["straighten", { ids: ["a"] }]]));
  });
});
