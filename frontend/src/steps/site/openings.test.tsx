// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useShow } from "../../show/document";
import { useGhost } from "../../show/edits";
import { useSelection } from "../../show/selection";
import { changed, desk, done, ghost, Refusal, row } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import { leaveOpening } from "./opening";
import { Openings } from "./Openings";

const FACTS = {
  sides: [{ name: "DS side", length_m: 14, end: "SR" }, { name: "SL side", length_m: 9, end: "DS" }],
  openings: [{ door: true, side: 1, along_m: 3, width_m: 1.2, sill_m: 0, head_m: 2.1 }],
};

afterEach(() => {
  leaveOpening();
  vi.unstubAllGlobals();
});

describe("doors and windows", () => {
  let asked: ReturnType<typeof desk> = [];

  beforeEach(() => {
    useShow.setState({ id: "s", objects: { w: row("w", "wall", { name: "Wall 1" }) } });
    useSelection.setState({ selection: ["w"], step: "site" });
    asked = desk({
      "/walls/w": FACTS,
      "/edits": (told: { preview?: boolean; args: { along: string } } | null) => (told?.args.along === "20" ? new Refusal("That would go round a corner", "along") : told?.preview ? { ...ghost(), sentence: "Cut a door 1.00 m × 2.10 m into Wall 1" } : changed(row("w", "wall", { name: "Wall 1" }))),
    });
  });

  it("are cut as a ghost shows, measured from the end that is said, or refused with what is wrong", async () => {
    drawn(<Openings />);
    fireEvent.click(await screen.findByRole("button", { name: "Cut a door or window" }));
    fireEvent.change(screen.getByLabelText("On the"), { target: { value: "1" } });
    screen.getByText("from its DS end, up to 9.00 m");
    fireEvent.change(screen.getByLabelText("Middle at"), { target: { value: "20" } });
    await screen.findByText(/^That would go round a corner/);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Cut it" }).disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Middle at"), { target: { value: "2" } });
    await waitFor(() => expect(useGhost.getState().ghost).not.toBeNull());
    fireEvent.click(await screen.findByRole("button", { name: "Cut a door 1.00 m × 2.10 m" }));
    await waitFor(() => expect(done(asked)).toEqual([["cut opening", { id: "w", side: 1, along: "2", width: "1m", sill: "0", head: "2.1m" }]]));
    await screen.findByRole("button", { name: "Cut a door or window" });
    expect(useGhost.getState().ghost).toBeNull();
  });

  it("are listed, and filled or changed from there", async () => {
    drawn(<Openings />);
    fireEvent.click(await screen.findByRole("button", { name: /^Door, SL side/ }));
    expect([screen.getByLabelText<HTMLInputElement>("Middle at").value, screen.getByLabelText<HTMLInputElement>("Width").value]).toEqual(["3.00 m", "1.20 m"]);
    fireEvent.click(screen.getByRole("button", { name: "Fill it" }));
    await waitFor(() => expect(done(asked)).toEqual([["fill opening", { id: "w", at: 0 }]]));
  });
});
