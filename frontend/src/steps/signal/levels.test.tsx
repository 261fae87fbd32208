// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { hearCapture, useCapture } from "../../show/capture";
import { useLink } from "../../show/connection";
import { useShow } from "../../show/document";
import { hearMonitor, movedOf, stripsOf, useMonitor, winnerOf } from "../../show/monitor";
import { useSelection } from "../../show/selection";
import type { CaptureReport, MonitorEvent, TypeOut } from "../../show/types";
import { desk, row } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import { Levels } from "./Levels";
import { Recording } from "./Recording";

const source = (name: string, priority: number) => ({ name, address: "10.0.0.9", protocol: "sACN", priority, by_slot: false });
const event = (more: Partial<MonitorEvent> = {}): MonitorEvent => ({
  event: "monitor", universes: [1, 2], strips: btoa(String.fromCharCode(...Array.from({ length: 128 }, (_, i) => (i === 65 ? 201 : 0)))), moved: [], usual: 0, settling: false, began: 1,
  universe: 1, sources: [source("Quay", 100), source("Spare", 90)], winners: [[10, 1], [512, 0]], ...more,
});
const type = { modes: [{ name: "M", breaks: [{ number: 1, slots: 2 }], channels: [{ attribute: "Pan", slots: [1, 2], dmx_break: 1 }] }] } as unknown as TypeOut;
const show = () => drawn(<Levels universe={1} all={[1, 2]} onUniverse={vi.fn()} onMapping={vi.fn()} />);

beforeEach(() => {
  useShow.setState({ id: "s", rev: 1, types: { t: type }, objects: { f: row("f", "fixture", { number: 61, type: "t", mode: "M", universe: 2, address: 7, breaks: [] }) } });
  useLink.setState({ signal: null, levels: null });
  useMonitor.setState({ event: null, frozen: false, finding: false, before: null, fixtures: new Map() });
  useSelection.setState({ selection: [] });
  useCapture.setState({ report: null, since: 0 });
});
afterEach(() => vi.unstubAllGlobals());

describe("what is told of levels", () => {
  it("is read by universe, slot and source", () => {
    expect([...stripsOf(event())].map(([universe, bins]) => [universe, bins.length, bins[1]])).toEqual([[1, 64, 0], [2, 64, 201]]);
    expect(movedOf(event({ moved: [[2, 7, 0.5, 3, 9]] }))).toEqual([{ universe: 2, slot: 7, ago: 0.5, low: 3, high: 9 }]);
    expect([10, 11].map((slot) => winnerOf(event(), 1, slot).wins?.name)).toEqual(["Spare", "Quay"]);
    expect(winnerOf(event(), 1, 11).others.map((one) => one.name)).toEqual(["Spare"]);
    expect(winnerOf(event(), 2, 1)).toEqual({ wins: undefined, others: [] });
    expect(winnerOf(event({ winners: [[512, -1]] }), 1, 3).wins).toBeUndefined();
  });

  it("stays as it was while it is frozen", () => {
    hearMonitor(event({ usual: 1 }));
    useMonitor.setState({ frozen: true });
    hearMonitor(event({ usual: 2 }));
    expect(useMonitor.getState().event?.usual).toBe(1);
  });
});

describe("the levels", () => {
  it("hold what is shown when they are frozen, and go on after", () => {
    const levels = (level: number) => act(() => useLink.setState({ levels: new Uint8Array(512).fill(level) }));
    levels(40);
    show();
    expect(screen.getByLabelText(/^Slot 3 at 40/)).toBeTruthy();
    fireEvent.click(screen.getByText("Freeze"));
    levels(90);
    expect(screen.getByLabelText(/^Slot 3 at 40/)).toBeTruthy();
    fireEvent.click(screen.getByText("Freeze"));
    expect(screen.getByLabelText(/^Slot 3 at 90/)).toBeTruthy();
    // Another universe is not shown with the frozen levels of this one.
    fireEvent.click(screen.getByText("Freeze"));
    fireEvent.click(screen.getByLabelText(/^Show universe 2/));
    expect(useMonitor.getState().frozen).toBe(false);
  });

  it("say what the slot under the pointer is, does, and who decides it", async () => {
    desk({ "/slots/1/4": () => [{ fixture: "f", number: "61", type: "t", mode: "M", channel: "pan", byte: "fine", raw: 515, top: 65535, words: ["pan 12°"] }] });
    show();
    act(() => hearMonitor(event()));
    fireEvent.pointerOver(screen.getByLabelText(/^Slot 4 /));
    const reading = screen.getByLabelText("The slot under the pointer");
    await waitFor(() => expect(reading.textContent).toContain("fixture 61: pan 12° (fine, 515 of 65535 in all)"));
    expect(reading.textContent).toContain("from Spare, priority 90; not Quay (100)");
  });

  it("take no notice of what is still told of before, once they are asked to look anew", () => {
    show();
    act(() => hearMonitor(event({ moved: [[2, 8, 0.2, 0, 77]] })));
    fireEvent.click(screen.getByText("Find what moves"));
    expect(screen.getByText(/Hands off for a moment/)).toBeTruthy();
    act(() => hearMonitor(event({ moved: [[2, 8, 0.4, 0, 77]] })));
    expect(screen.getByText(/Hands off for a moment/)).toBeTruthy();
    expect(screen.queryByRole("listitem")).toBeNull();
    act(() => hearMonitor(event({ began: 9 })));
    expect(screen.getByText(/Touch something on the console/)).toBeTruthy();
  });

  it("list what moves with whose it is, ring its fixtures, and select them", () => {
    show();
    fireEvent.click(screen.getByText("Find what moves"));
    act(() => hearMonitor(event({ settling: true })));
    expect(screen.getByText(/Hands off for a moment/)).toBeTruthy();
    act(() => hearMonitor(event({ moved: [[2, 8, 0.2, 0, 77], [9, 1, 0.4, 1, 2]], usual: 3 })));
    const list = within(screen.getByLabelText("What moves")).getAllByRole("listitem");
    expect(list.map((one) => one.textContent)).toEqual(["2.00861 Pan fine0 to 77", "9.001no fixture1 to 2"]);
    expect([...useMonitor.getState().fixtures]).toEqual([["f", 0.2]]);
    fireEvent.click(within(list[0] as HTMLElement).getByRole("button"));
    expect(useSelection.getState().selection).toEqual(["f"]);
    fireEvent.click(screen.getByText("Find what moves"));
    expect(useMonitor.getState().fixtures.size).toBe(0);
  });
});

describe("the recording", () => {
  const report = (more: Partial<CaptureReport>): CaptureReport => ({ state: "idle", seconds: 0, at_s: 0, packets: 0, recording: null, problem: "", ...more });
  const recording = { name: "got.pcap", seconds: 4.2, packets: 90, full: true, left_out: { "fragments of packets": 2 }, sources: [{ name: "Quay", protocol: "sACN", address: "10.0.0.9", universes: [1, 2, 3], packets: 90 }] };

  it("is asked for, says what it holds and what was left out, and is sent again", async () => {
    const asked: unknown[] = [];
    desk({ "/capture": (body: unknown) => (asked.push(body), report({ state: "recording", seconds: 10 })) });
    drawn(<Recording />);
    fireEvent.click(screen.getByText("Record 10 s"));
    await screen.findByText("Keep what has come so far");
    act(() => hearCapture(report({ state: "recording", seconds: 10, packets: 12 })));
    expect(screen.getByText(/Recording, 12 packets: 0 of 10 s/)).toBeTruthy();
    act(() => hearCapture(report({ recording })));
    expect(screen.getByLabelText("The recording").textContent).toContain("got.pcap: 4.2 s, 90 packetsQuay, sACN 1 to 3 from 10.0.0.9");
    expect(screen.getByText("Left out: 2 fragments of packets.")).toBeTruthy();
    fireEvent.click(screen.getByText("Send it again"));
    await waitFor(() => expect(asked).toEqual([{ do: "record", seconds: 10 }, { do: "replay", seconds: 10 }]));
  });

  it("says where a sender of it is heard just now: the two would mix", () => {
    const heard = (name: string) => act(() => useLink.setState({ signal: { universes: [{ universe: 1, state: "live", sources: [source(name, 100)] }] } as never }));
    drawn(<Recording />);
    act(() => hearCapture(report({ recording })));
    heard("House");
    expect(screen.queryByText(/the two will mix/)).toBeNull();
    heard("Quay");
    expect(screen.getByText("Quay sends just now: stop that first, or the two will mix.")).toBeTruthy();
  });

  it("says how far it is while it is sent, and what went wrong", () => {
    drawn(<Recording />);
    act(() => hearCapture(report({ state: "replaying", seconds: 8, at_s: 2, packets: 33, recording })));
    expect(screen.getByText(/Sending again, 33 packets: 2 of 8 s/)).toBeTruthy();
    expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("25");
    act(() => hearCapture(report({ problem: "Nothing came in 10 s." })));
    expect(screen.getByText("Nothing came in 10 s.")).toBeTruthy();
  });
});
