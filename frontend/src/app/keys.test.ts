// @vitest-environment jsdom
import { describe, expect, it, vi } from "vitest";

const { bound, KEYS, written } = await import("./keys");
const { useGhost } = await import("../show/edits");
const { usePanes } = await import("../show/panes");
const { useSelection } = await import("../show/selection");

const press = (key: string, more: Partial<KeyboardEvent> = {}): string => written({ key, code: "", altKey: false, ctrlKey: false, metaKey: false, shiftKey: false, ...more });
const opens = { find: vi.fn(), help: vi.fn() };

describe("keys", () => {
  it("are written as the list of keys has them, whatever the keyboard makes of them", () => {
    expect(press("z", { ctrlKey: true, shiftKey: true })).toBe("Ctrl+Shift+Z");
    expect(press("z", { metaKey: true })).toBe("Ctrl+Z");
    // Alt and 3 is another letter on many keyboards.
    expect(press("£", { altKey: true, code: "Digit3" })).toBe("Alt+3");
    expect([press("?", { shiftKey: true }), press("Escape"), press("Delete")]).toEqual(["?", "Escape", "Delete"]);
  });

  it("go to steps and to the finder also while something is typed, and nothing else does", () => {
    bound("Alt+4", "", true)?.act(opens);
    expect(useSelection.getState().step).toBe("patch");
    bound("Ctrl+K", "", true)?.act(opens);
    expect(opens.find).toHaveBeenCalledOnce();
    for (const key of ["W", "Delete", "Escape", "?", "Ctrl+Z"]) expect(bound(key, "", true)).toBeNull();
  });

  it("after V show a side, and by themselves do what they always do", () => {
    usePanes.setState({ active: "main" });
    bound("P", "V", false)?.act(opens);
    expect(usePanes.getState().panes[0]?.view).toBe("plan");
    bound("S", "V", false)?.act(opens);
    expect(usePanes.getState().panes[0]?.view).toBe("free");
    expect(bound("P", "", false)).toBeNull();
    // B after V is the view from the back, B alone the bench.
    const shown = usePanes.getState().benchShown;
    bound("B", "V", false)?.act(opens);
    expect([usePanes.getState().benchShown, usePanes.getState().panes[0]?.view]).toEqual([shown, "back"]);
    bound("B", "", false)?.act(opens);
    expect(usePanes.getState().benchShown).toBe(!shown);
  });

  it("of arranging are there while something is arranged", () => {
    expect([bound("Enter", "", false), bound("R", "", false)]).toEqual([null, null]);
  });

  it("leave the tool first, then the selection", () => {
    useSelection.setState({ selection: ["a"] });
    usePanes.setState({ tool: "measure" });
    const escape = bound("Escape", "", false);
    escape?.act(opens);
    expect([usePanes.getState().tool, useSelection.getState().selection]).toEqual(["select", ["a"]]);
    escape?.act(opens);
    expect(useSelection.getState().selection).toEqual([]);
  });

  it("are all in the list, in groups of their own, those of a step with it", () => {
    for (const group of KEYS) expect(new Set(group.keys.map(([keys]) => keys)).size).toBe(group.keys.length);
    const named = KEYS.flatMap((group) => group.keys.map(([keys]) => keys));
    for (const key of ["Ctrl+K", "Z", "W", "E", "L", "M", "B", "Delete", "Escape", "?", "Enter", "Backspace", "R"]) expect(named).toContain(key);
    expect(KEYS.filter((group) => group.steps?.includes("hang")).map((group) => group.title)).toEqual(["Arranging", "Putting by pointing", "Tables"]);
  });

  it("first leave what is drawn and was not taken", () => {
    useGhost.setState({ ghost: {} as never });
    usePanes.setState({ tool: "select" });
    useSelection.setState({ selection: ["a"] });
    bound("Escape", "", false)?.act(opens);
    expect([useGhost.getState().ghost, useSelection.getState().selection]).toEqual([null, ["a"]]);
  });
});
