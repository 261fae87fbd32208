import { afterEach, describe, expect, it, vi } from "vitest";

vi.stubGlobal("localStorage", { getItem: () => null, setItem: () => undefined });
const { desk, row } = await import("../testing/desk");
const { useShow } = await import("../show/document");
const { chooseMode, tryOut, useShop } = await import("./state");

afterEach(() => vi.unstubAllGlobals());

describe("a mode that is chosen while another is tried", () => {
  it("begins at its own home and full, not at the levels of the one before", async () => {
    const dimmer = { part: "Lens", slots: [2], home: 0, dmx_break: 1, ranges: [{ start: 0, end: 255, attribute: "Dimmer", low: 0, high: 1, name: "" }] };
    const pan = { ...dimmer, part: "Yoke", slots: [1], home: 128, ranges: [{ start: 0, end: 255, attribute: "Pan", low: -270, high: 270, name: "" }] };
    useShow.setState({ id: "s", objects: { d: row("d", "draft", { modes: [{ name: "M", channels: [pan, dimmer] }] }) } });
    useShop.setState({ draft: "d", mode: 0, slots: { 1: [7, 9] }, lit: true, trial: null });
    let answer: () => void = () => undefined;
    const late = new Promise<void>((then) => (answer = then));
    const asked = desk({
      "/trial": async (told: { mode: number; slots: Record<string, number[]> | null }) => {
        if (told.slots?.["1"]?.[0] === 7) await late;
        return { mode: told.mode, slots: told.slots ?? { 1: [128, 0] }, checks: [], doing: [] };
      },
    });
    const first = tryOut();
    await vi.waitFor(() => expect(asked).toHaveLength(1), { timeout: 20_000 });
    chooseMode(0);
    answer();
    await first;
    await vi.waitFor(() => expect(asked.at(-1)?.body?.slots).toEqual({ 1: [128, 255] }), { timeout: 20_000 });
    expect(useShop.getState().slots).toEqual({ 1: [128, 255] });
  });
});
