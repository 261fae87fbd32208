import { describe, expect, it, vi } from "vitest";

vi.stubGlobal("localStorage", { getItem: () => null, setItem: () => undefined });
vi.stubGlobal("location", { search: "" });
const { readTime, writeTime, offScale } = await import("./PicturePanel");
const { luxLine } = await import("./StatusLine");
const { comparing, setPaneCount, setShade, setView, usePanes } = await import("../show/panes");
const { nextLabels, setWish, usePicture } = await import("../show/picture");

describe("the picture's panel", () => {
  it("reads exposure times as photographers write them", () => {
    expect(readTime("1/50")).toBeCloseTo(0.02);
    expect(readTime("1/125 s")).toBeCloseTo(0.008);
    expect(readTime("0,5")).toBe(0.5);
    expect(readTime("soon")).toBeNaN();
    expect([writeTime(0.02), writeTime(2)]).toEqual(["1/50 s", "2 s"]);
  });

  it("knows when the picture is not true", () => {
    const show = { shaft_gain: 1, pool_gain: 1, body_gain: 1 } as Parameters<typeof offScale>[0];
    expect(offScale(show)).toBe(false);
    expect(offScale({ ...show, pool_gain: 1.5 })).toBe(true);
  });

  it("says lux only of the place that is pointed at", () => {
    expect(luxLine([1, 2, 3], { value: 231.4, at: [1, 2, 3] }, 12.34)).toBe("231 lx · 12.3 m away");
    expect(luxLine([1, 2, 4], { value: 231.4, at: [1, 2, 3] }, null)).toBe("");
    expect(luxLine([1, 2, 3], { value: 2.26, at: [1, 2, 3] }, null)).toBe("2.3 lx");
    expect(luxLine(null, null, 3)).toBe("");
  });

  it("goes from no numbers to bodies to landings and back, and keeps its wish", () => {
    nextLabels();
    expect(usePicture.getState().labels).toEqual({ bodies: true, landings: false });
    nextLabels();
    expect(usePicture.getState().labels).toEqual({ bodies: true, landings: true });
    nextLabels();
    expect(usePicture.getState().labels).toEqual({ bodies: false, landings: false });
    setWish({ step: "Air" });
    expect(usePicture.getState().wish).toMatchObject({ step: "Air", fps: 25 });
  });
});

describe("panes", () => {
  it("are lit in the free view and drawn in the others, until told otherwise", () => {
    setPaneCount(2);
    setView("side", "section");
    expect(usePanes.getState().panes[1]).toMatchObject({ view: "section", shade: "lines" });
    setShade("side", "lit");
    expect(usePanes.getState().panes[1]?.shade).toBe("lit");
    setView("side", "free");
    expect(usePanes.getState().panes[1]?.shade).toBe("lit");
  });

  it("know when two pictures are compared", () => {
    const pane = (picture: string, shade: "lit" | "lines" = "lit") => ({ id: picture, view: "free" as const, picture, share: 1, shade });
    expect(comparing([pane("live"), pane("live")])).toBe(false);
    expect(comparing([pane("live"), pane("look")])).toBe(true);
    expect(comparing([pane("live"), pane("look", "lines")])).toBe(false);
  });
});
