// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useKeys } from "./keys";
import { useShow } from "../show/document";
import { leaveDrawing, placeFirst, useDrawing } from "../show/drawing";
import { useSelection } from "../show/selection";
import { changed, desk, done, ghost } from "../testing/desk";
import { drawn } from "../testing/drawn";
import { SiteCard } from "../steps/site/Card";

function Page() {
  useKeys({ find: () => undefined, help: () => undefined });
  return <SiteCard />;
}

const press = (key: string) => fireEvent.keyDown(document.activeElement ?? document.body, { key });
const line = (far: string, way: string) => {
  fireEvent.change(screen.getByLabelText("Length of the next line"), { target: { value: far } });
  fireEvent.change(screen.getByLabelText("Direction of the next line"), { target: { value: way } });
  fireEvent.click(screen.getByRole("button", { name: "Take" }));
};

beforeEach(() => {
  useShow.setState({ id: "s", rev: 4, objects: {} });
  useSelection.setState({ selection: [], step: "site" });
});
afterEach(() => {
  leaveDrawing();
  vi.unstubAllGlobals();
});

describe("an outline in hand", () => {
  it("is closed and then added by Enter, and loses its last corner by Backspace", async () => {
    const asked = desk({ "/edits": (told: { preview?: boolean }) => (told.preview ? ghost() : changed()) });
    drawn(<Page />);
    fireEvent.click(screen.getByRole("button", { name: "Draw an outline instead" }));
    act(() => placeFirst(0, 0));
    for (const [far, way] of [["4m", "0"], ["18in", "90"], ["4m", "180"], ["1m", "180"]] as const) line(far, way);
    expect(useDrawing.getState().corners).toHaveLength(5);
    (document.activeElement as HTMLElement).blur();
    act(() => void press("Backspace"));
    expect(useDrawing.getState().corners.map(([x, y]) => [x, Number(y.toFixed(4))])).toEqual([[0, 0], [4, 0], [4, 0.4572], [0, 0.4572]]);
    act(() => void press("Enter"));
    expect(useDrawing.getState().closed).toBe(true);
    act(() => void press("Enter"));
    await waitFor(() => expect(done(asked).map(([kind]) => kind)).toEqual(["add outline deck"]));
  });
});
