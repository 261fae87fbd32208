// @vitest-environment jsdom
import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useLink } from "../../show/connection";
import { hearDoctor, useDoctor } from "../../show/doctor";
import { useShow } from "../../show/document";
import { useSelection } from "../../show/selection";
import type { SignalEvent, SourceOut, Thing } from "../../show/types";
import { changed, desk, done, row } from "../../testing/desk";
import { drawn } from "../../testing/drawn";
import { Connections } from "./Connections";
import { Doctor } from "./Doctor";
import { Mapping } from "./Mapping";
import { mappingOf, range, spans } from "./mapping";

const source = (name: string, heard_as: number, connection: string, more: Partial<SourceOut> = {}): SourceOut =>
  ({ name, address: "10.0.0.9", protocol: "sACN", heard_as, priority: 100, by_slot: false, rate_hz: 40, jitter_ms: 1, longest_ms: 30, late: 0, missed: 0, preview: false, waits: false, connections: connection ? [connection] : [], ...more });
const body = (name: string, more: Record<string, unknown> = {}) => ({ name, protocol: "sACN", interface: "lo", address: "127.0.0.1", first: 1, last: 63999, lands: 1, multicast: true, listen: true, preview: false, ...more });
const state = (id: string, more: Record<string, unknown> = {}) => ({ id, protocol: "sACN", state: "live", interface: "lo", address: "127.0.0.1", said: "", nearest: null, universes: 1, rate_hz: 40, ...more });
const signal = (more: Partial<SignalEvent> = {}) =>
  ({
    event: "signal", untold: 0, dropped: {}, drivers: {}, latency_ms: {}, kernel_drops: 0, problem: "", listening: "", viewers: 1, follow: true, elsewhere: [],
    universes: [{ universe: 1, state: "live", lit_slots: 9, last_source: "", ended: "", sources: [source("Quay", 231, "a")] }],
    nowhere: [source("Stray", 55, ""), source("Spare", 101, "")],
    connections: [state("a"), state("b", { state: "silenced" })],
    interfaces: [{ name: "lo", address: "127.0.0.1", prefix: 8, up: true, loopback: true }, { name: "eth0", address: "10.0.0.5", prefix: 24, up: true, loopback: false }],
    ...more,
  }) as unknown as SignalEvent;
const objects = { a: row("a", "connection", body("Desk", { first: 231, last: 240 })), b: row("b", "connection", body("Spare desk", { first: 101, last: 110, listen: false })) };

beforeEach(() => {
  useShow.setState({ id: "s", rev: 4, objects });
  useSelection.setState({ selection: [] });
  useLink.setState({ signal: signal() });
  useDoctor.setState({ report: null, since: 0 });
});
afterEach(() => vi.unstubAllGlobals());

describe("the mapping", () => {
  it("says what is heard of whom, by which connection, and where it lands", () => {
    const map = mappingOf(signal(), Object.values(objects) as Thing<"connection">[], [1, 2]);
    expect(map.senders.map((one) => [one.name, [...one.heard]])).toEqual([["Quay", [["a", [231]]]], ["Spare", [["b", [101]]]], ["Stray", [["", [55]]]]]);
    expect(map.universes).toEqual([1, 2]);
    expect(map.lands).toEqual([{ way: "a", universe: 1, live: true }, { way: "a", universe: 2, live: false }, { way: "b", universe: 1, live: false }, { way: "b", universe: 2, live: false }]);
  });

  it("says what a source sends beside what is heard of it", () => {
    const offered = [{ name: "Quay", address: "10.0.0.9", on: "10.0.0.5", universes: [[231, 234]] }, { name: "Far", address: "10.0.0.8", on: "10.0.0.5", universes: [[7, 7]] }, { name: "Stray", address: "10.0.0.9", on: "10.0.0.5", universes: [[55, 55]] }];
    const map = mappingOf(signal({ offered } as never), Object.values(objects) as Thing<"connection">[], [1]);
    expect(map.senders.map((one) => [one.name, one.heard.size, one.offers])).toEqual([["Far", 0, [[7, 7]]], ["Quay", 1, [[231, 234]]], ["Spare", 1, []], ["Stray", 1, []]]);
    useLink.setState({ signal: signal({ offered } as never) });
    drawn(<Mapping onUniverse={() => undefined} />);
    expect(screen.getByText("says it sends 7, not heard")).toBeTruthy();
    expect(screen.getByText("of 231 to 234 that it sends")).toBeTruthy();
  });

  it("draws a source that two connections take to each of them", () => {
    const both = signal({ universes: [{ universe: 1, state: "live", lit_slots: 9, last_source: "", ended: "", sources: [source("Quay", 101, "", { connections: ["a", "b"] })] }], nowhere: [] } as never);
    const map = mappingOf(both, Object.values(objects) as Thing<"connection">[], [1]);
    expect([...(map.senders[0]?.heard.keys() ?? [])]).toEqual(["a", "b"]);
    expect(map.lands.map((one) => [one.way, one.live])).toEqual([["a", true], ["b", true]]);
  });

  it("shows what is heard as the program was started where the show keeps no connection", () => {
    const map = mappingOf(signal({ connections: [state("as started sACN")] as never }), [], [1]);
    expect(map.ways.map((one) => [one.id, one.name])).toEqual([["as started sACN", "As started"]]);
  });

  it("writes ranges as people say them", () => {
    expect(spans([4, 1, 2, 3, 9])).toBe("1 to 4, 9");
    expect(range(body("a") as never)).toBe("all universes");
    expect(range(body("a", { first: 231, last: 240, lands: 1 }) as never)).toBe("231 to 240 → 1 to 10");
    expect(range(body("a", { first: 5, last: 5, lands: 9 }) as never)).toBe("5 → 9");
    expect(range(body("a", { first: 5, last: 63999, lands: 9 }) as never)).toBe("from 5 on → 9 on");
  });

  it("is drawn, and a universe leads to its levels", () => {
    const seen: number[] = [];
    drawn(<Mapping onUniverse={(one) => seen.push(one)} />);
    expect(within(screen.getByRole("group", { name: "Sources" })).getByText("Stray").closest("[data-source]")?.textContent).toContain("55 lands nowhere");
    fireEvent.click(screen.getByRole("button", { name: /^Desk/ }));
    expect(useSelection.getState().selection).toEqual(["a"]);
    fireEvent.click(screen.getByRole("button", { name: /^1 ?40\/s$/ }));
    expect(seen).toEqual([1]);
  });
});

describe("connections", () => {
  it("are listened to, or one alone is heard", async () => {
    const asked = desk({ "/edits": () => changed() });
    drawn(<Connections />);
    fireEvent.click(screen.getByRole("button", { name: "Listen to Desk" }));
    fireEvent.click(screen.getByRole("button", { name: "Only this: Spare desk" }));
    await waitFor(() => expect(done(asked)).toEqual([["set connection", { id: "a", listen: false }], ["hear only", { id: "b" }]]));
  });

  it("are changed where they stand: where they are heard, what lands where", async () => {
    const asked = desk({ "/edits": () => changed() });
    useSelection.setState({ selection: ["a"] });
    drawn(<Connections />);
    const form = within(screen.getByRole("group", { name: "What Desk is" }));
    fireEvent.change(form.getByLabelText("Interface"), { target: { value: "eth0 10.0.0.5" } });
    const lands = form.getByLabelText("Land on");
    fireEvent.focus(lands);
    fireEvent.change(lands, { target: { value: "7" } });
    fireEvent.keyDown(lands, { key: "Enter" });
    await waitFor(() => expect(done(asked)).toEqual([["set connection", { id: "a", interface: "eth0", address: "10.0.0.5" }], ["set connection", { id: "a", lands: "7" }]]));
  });

  it("say that their interface is gone, and offer the nearest", async () => {
    const asked = desk({ "/edits": () => changed() });
    const nearest = { name: "eth0", address: "10.0.0.5", prefix: 24, up: true };
    useShow.setState({ objects: { a: row("a", "connection", body("Desk", { interface: "eth9", address: "10.0.0.8" })) } });
    useLink.setState({ signal: signal({ connections: [state("a", { state: "wrong", said: "eth9 (10.0.0.8) is gone.", nearest })] as never }) });
    useSelection.setState({ selection: ["a"] });
    drawn(<Connections />);
    expect(screen.getByText("eth9 (10.0.0.8) is gone.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Take eth0 (10.0.0.5) instead" }));
    await waitFor(() => expect(done(asked)).toEqual([["set connection", { id: "a", interface: "eth0", address: "10.0.0.5" }]]));
  });
});

describe("the doctor", () => {
  const cause = { cause: "off_by_one", evidence: "sACN universe 2 lands beside.", action: "Land it on 1.", universe: 1, fixtures: ["x"], label: "Land 2 on 1", edit: "set connection", args: { id: "a", lands: "1" } };

  it("listens, says what it found, and puts it right by one button", async () => {
    const asked = desk({ "/doctor": { listening: true, seconds: 6, causes: null, problem: "" }, "/edits": () => changed() });
    drawn(<Doctor />);
    fireEvent.click(screen.getByRole("button", { name: "Ask the doctor: listen for 6 s" }));
    await waitFor(() => expect(screen.getByRole("progressbar", { name: "The doctor listens" })).toBeTruthy());
    act(() => hearDoctor({ listening: false, seconds: 6, causes: [cause], problem: "" }));
    fireEvent.click(screen.getByRole("button", { name: "sACN universe 2 lands beside." }));
    expect(useSelection.getState().selection).toEqual(["x"]);
    fireEvent.click(screen.getByRole("button", { name: "Land 2 on 1" }));
    await waitFor(() => expect(done(asked)).toEqual([["set connection", { id: "a", lands: "1" }]]));
    await waitFor(() => expect(screen.getByText(/^Done: ask again/)).toBeTruthy());
  });

  it("says that nothing wrong was seen, or that it could not listen", () => {
    useDoctor.setState({ report: { listening: false, seconds: 6, causes: [], problem: "" } });
    const { unmount } = drawn(<Doctor />);
    expect(screen.getByText("Nothing wrong was seen in 6 s of listening.")).toBeTruthy();
    unmount();
    useDoctor.setState({ report: { listening: false, seconds: 6, causes: null, problem: "The picture is being restarted." } });
    drawn(<Doctor />);
    expect(screen.getByText("The picture is being restarted.")).toBeTruthy();
  });
});
