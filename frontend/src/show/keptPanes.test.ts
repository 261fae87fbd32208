// @vitest-environment jsdom
import * as THREE from "three";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { row } from "../testing/desk";
import { useShow } from "./document";
import { keepPanes } from "./keptPanes";
import { moveEdge, setPaneCount, setView, toggleLabels, usePanes } from "./panes";

/** A stage, as far as panes ask it. */
function stage() {
  const from = new Map<string, object>();
  const home = (view: string) => ({ view, eye: new THREE.Vector3(), target: new THREE.Vector3(0, 1, 0), height: 10 });
  const viewpoint = (pane: string) => from.get(pane) ?? home(usePanes.getState().panes.find((one) => one.id === pane)?.view ?? "free");
  return { viewpoint, setViewpoint: (pane: string, to: object) => void from.set(pane, to) };
}

/** The page is loaded again: nothing of what it held is there. */
function reload(show = "s") {
  usePanes.setState({ panes: [{ id: "main", view: "free", picture: "live", share: 1, shade: "lit" }], benchShown: true, benchHeight: 206, viewNames: {}, stage: stage() as never });
  useShow.setState({ id: show, objects: { l: row("l", "look") } });
  return keepPanes();
}

beforeEach(() => {
  localStorage.clear();
  window.history.replaceState({}, "", "/");
});

describe("panes", () => {
  it("come back after a reload: views, where they look from, widths, labels, the bench", () => {
    let stop = reload();
    setPaneCount(2);
    setView("side", "front");
    moveEdge("main", 0.75);
    toggleLabels("side");
    usePanes.setState({ benchHeight: 300, benchShown: false, viewNames: { main: "Gallery" }, panes: usePanes.getState().panes.map((one) => (one.id === "main" ? { ...one, picture: "l" } : one)) });
    usePanes.getState().stage?.setViewpoint("main", { view: "free", eye: new THREE.Vector3(1, 2, 3), target: new THREE.Vector3(4, 5, 6), height: 7 });
    const before = usePanes.getState();
    window.dispatchEvent(new Event("pagehide"));
    stop();
    stop = reload();
    const now = usePanes.getState();
    expect(now.panes).toEqual(before.panes);
    expect(now.panes.map((one) => [one.view, one.labels])).toEqual([["free", undefined], ["front", false]]);
    expect([now.benchHeight, now.benchShown, now.viewNames]).toEqual([300, false, { main: "Gallery" }]);
    expect(now.stage?.viewpoint("main").eye.toArray()).toEqual([1, 2, 3]);
    stop();
    // Another show has its own.
    stop = reload("another");
    expect(usePanes.getState().panes).toHaveLength(1);
    stop();
  });

  it("are kept a moment after they change, and a look that is gone is not asked for", () => {
    vi.useFakeTimers();
    let stop = reload();
    usePanes.setState({ panes: [{ id: "main", view: "plan", picture: "gone", share: 1, shade: "lit" }] });
    vi.advanceTimersByTime(300);
    vi.useRealTimers();
    stop();
    stop = reload();
    expect(usePanes.getState().panes).toEqual([{ id: "main", view: "plan", picture: "live", share: 1, shade: "lit" }]);
    stop();
  });

  it("of a window of its own are those of its address, and rubbish is passed over", () => {
    localStorage.setItem("zarfwright.panes", "{rubbish");
    reload()();
    expect(usePanes.getState().panes).toHaveLength(1);
    window.history.replaceState({}, "", "/?pane=plan");
    const stop = reload();
    setPaneCount(3);
    window.dispatchEvent(new Event("pagehide"));
    stop();
    expect(localStorage.getItem("zarfwright.panes")).toBe("{rubbish");
  });

  it("keep a part each, however far their edge is dragged", () => {
    reload()();
    setPaneCount(2);
    moveEdge("main", 3);
    const [main, side] = usePanes.getState().panes.map((one) => one.share);
    expect((main as number) / ((main as number) + (side as number))).toBeCloseTo(0.8);
  });
});
