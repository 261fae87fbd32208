// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { beginArrange, dragGuide, leaveArrange, setArrange, shapeOf, useArrange } from "../../show/arranging";
import { useShow } from "../../show/document";
import { useGhost } from "../../show/edits";
import { useSelection } from "../../show/selection";
import { desk, ghost, row } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import { SiteCard } from "./Card";

afterEach(() => vi.unstubAllGlobals());

describe("arranging", () => {
  const apart = (id: string, x: number) => row(id, "deck", { name: id, position: [x, 0, 0] });

  beforeEach(() => {
    leaveArrange();
    useShow.setState({ objects: { a: apart("a", 0), b: apart("b", 2) } });
    useSelection.setState({ selection: ["a", "b"], step: "site" });
    desk({ "/edits": () => ghost() });
  });

  it("begins anew each time: nothing that was turned round or faced is silently still on", () => {
    beginArrange(["a", "b"]);
    setArrange({ reverse: true, facing: "in", spacing: "given", guide: "ring" });
    leaveArrange();
    beginArrange(["a", "b"]);
    expect(useArrange.getState().args).toMatchObject({ reverse: false, facing: "keep", spacing: "fill", guide: "line" });
  });

  it("stays in hand, with its ghosts, when something else is selected meanwhile", async () => {
    drawn(<SiteCard />);
    act(() => beginArrange(["a", "b"]));
    await waitFor(() => expect(useGhost.getState().ghost).not.toBeNull());
    for (const selection of [["a"], []]) {
      act(() => useSelection.setState({ selection }));
      screen.getByRole("button", { name: /^Arrange 2 things/ });
      expect([useArrange.getState().on, useGhost.getState().ghost === null]).toEqual([true, false]);
    }
    act(leaveArrange);
  });

  it("takes the ends of its line typed, as far as they can be read, and follows what is dragged", () => {
    drawn(<SiteCard />);
    act(() => beginArrange(["a", "b"]));
    const start = screen.getByLabelText<HTMLInputElement>("Starts at");
    expect(start.value).toBe("0, 0, 0");
    fireEvent.change(start, { target: { value: "SR 3, DS 1, 6" } });
    expect([start.value, useArrange.getState().args.start]).toEqual(["SR 3, DS 1, 6", [-3, -1, 6]]);
    fireEvent.change(start, { target: { value: "SR 3, DS 1, 6x" } });
    screen.getByText(/^Type three lengths/);
    expect(useArrange.getState().args.start).toEqual([-3, -1, 6]);
    act(() => dragGuide("start", [1, 2, 3]));
    expect(start.value).toBe("1, 2, 3");
    act(leaveArrange);
  });

  it("begins in feet in a show in feet", () => {
    useShow.setState({ objects: { ...useShow.getState().objects, show: row("show", "show", { system: "imperial" }) } });
    beginArrange(["a", "b"]);
    expect(useArrange.getState().args).toMatchObject({ step: "3'", across: "3'", margin: '20"', radius: "3.28'" });
    expect(shapeOf({ ...useArrange.getState().args, guide: "ring" })).toMatchObject({ radius: expect.closeTo(1, 2) as number });
    leaveArrange();
  });

  it("draws a ring as large as it was typed", () => {
    const args = { ...useArrange.getState().args, guide: "ring" as const };
    expect(shapeOf({ ...args, radius: "18in" })).toMatchObject({ radius: expect.closeTo(18 * 0.0254, 9) as number });
    expect(shapeOf({ ...args, radius: "6'6\"" })).toMatchObject({ radius: expect.closeTo(6.5 * 0.3048, 9) as number });
  });
});
