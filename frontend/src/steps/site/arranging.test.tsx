// @vitest-environment jsdom
import { act, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { beginArrange, leaveArrange, setArrange, shapeOf, useArrange } from "../../show/arranging";
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

  it("draws a ring as large as it was typed", () => {
    const args = { ...useArrange.getState().args, guide: "ring" as const };
    expect(shapeOf({ ...args, radius: "18in" })).toMatchObject({ radius: expect.closeTo(18 * 0.0254, 9) as number });
    expect(shapeOf({ ...args, radius: "6'6\"" })).toMatchObject({ radius: expect.closeTo(6.5 * 0.3048, 9) as number });
  });
});
