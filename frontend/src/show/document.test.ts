import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Row, Update } from "./types";

vi.stubGlobal("localStorage", { getItem: () => "me", setItem: () => undefined });
const { applyUpdate, called, hearFindings, keptCarriers, settings, things, useShow } = await import("./document");
const { edit, preview, useGhost } = await import("./edits");
const { dismiss, notify, useMessages } = await import("./messages");
const { select, useSelection } = await import("./selection");
const { Refused } = await import("./api");

function row(id: string, kind: string, body: Record<string, unknown> = {}, ord = 0): Row {
  return { id, kind, parent: null, layer: null, ord, rev: 0, body } as unknown as Row;
}

function update(rev: number, changes: Update["changes"], who = "you"): Update {
  return {
    event: "update", rev, who, sentence: "Do", changes, camera: { ev100: 8, shown_per_cd: 0.003, white: [1, 0, 0, 0, 1, 0, 0, 0, 1] }, scene: [], mounts: {}, types: null, bodies: null, rails: null, looks: {}, stand: "", counts: {}, findings: [],
    undo: "Do", redo: null,
  };
}

function answering(status: number, body: unknown) {
  const answer = vi.fn().mockImplementation(() => Promise.resolve(new Response(JSON.stringify(body), { status })));
  vi.stubGlobal("fetch", answer);
  return answer;
}

/** Which path was asked for first. */
const called_at = (asked: ReturnType<typeof answering>): string => new URL((asked.mock.calls[0]?.[0] as Request).url).pathname;

beforeEach(() => {
  useShow.setState({ rev: 4, id: "s", objects: { a: row("a", "deck", { name: "Deck 1" }) }, scene: {}, mounts: {}, undo: null });
  useSelection.setState({ selection: ["a"] });
  useMessages.setState({ notices: [], said: [] });
  useGhost.setState({ ghost: null });
});
afterEach(() => vi.unstubAllGlobals());

describe("updates", () => {
  it("are applied in order and once", () => {
    const made = update(5, [{ before: null, after: row("b", "deck", { name: "Deck 2" }) }]);
    applyUpdate(made);
    applyUpdate(made);
    expect(useShow.getState().rev).toBe(5);
    expect(Object.keys(useShow.getState().objects)).toEqual(["a", "b"]);
  });

  it("take removed things out of the selection", () => {
    applyUpdate(update(5, [{ before: row("a", "deck"), after: null }]));
    expect(useShow.getState().objects).toEqual({});
    expect(useSelection.getState().selection).toEqual([]);
  });

  it("of others leave one's own undo alone", () => {
    applyUpdate(update(5, [], "you"));
    expect(useShow.getState().undo).toBeNull();
    applyUpdate(update(6, [], "me"));
    expect(useShow.getState().undo).toBe("Do");
  });

  it("keep what was found wrong until the findings come behind them", () => {
    const one = (text: string) => ({ step: "site" as const, where: [], text, wrong: true, repair: null });
    applyUpdate({ ...update(5, []), findings: [one("old")] });
    applyUpdate({ ...update(6, []), findings: null });
    expect(useShow.getState().findings.map((found) => found.text)).toEqual(["old"]);
    hearFindings({ event: "findings", rev: 6, findings: [one("new")] });
    hearFindings({ event: "findings", rev: 5, findings: [one("late")] });
    expect(useShow.getState().findings.map((found) => found.text)).toEqual(["new"]);
  });

  it("load the show anew when one was missed", () => {
    const asked = answering(200, []);
    applyUpdate(update(9, []));
    expect(called_at(asked)).toBe("/api/shows");
    expect(useShow.getState().rev).toBe(4);
  });
});

describe("edits", () => {
  it("say who does them and on which show, and apply their own update", async () => {
    const asked = answering(200, { rev: 5, sentence: "Do", select: ["b"], report: ["One cannot reach."], update: update(5, [{ before: null, after: row("b", "deck") }], "me") });
    await edit("remove", { ids: ["x"] }, { select: true });
    const sent = (await (asked.mock.calls[0]?.[0] as Request).clone().json()) as Record<string, unknown>;
    expect(called_at(asked)).toBe("/api/shows/s/edits");
    expect(sent).toEqual({ kind: "remove", args: { ids: ["x"] }, who: "me", base_rev: 4 });
    expect(useSelection.getState().selection).toEqual(["b"]);
    expect(useMessages.getState().notices.map((notice) => notice.text)).toEqual(["One cannot reach."]);
  });

  it("that are refused keep the field and the reason", async () => {
    answering(400, { error: "“wide” is not a length.", field: "width" });
    const refused = await edit("add deck", { width: "wide" }, { quiet: true }).catch((wrong: unknown) => wrong);
    expect(refused).toBeInstanceOf(Refused);
    expect(refused).toMatchObject({ message: "“wide” is not a length.", field: "width", status: 400 });
    expect(useMessages.getState().notices).toEqual([]);
  });

  it("say so when the desk is gone", async () => {
    vi.stubGlobal("fetch", vi.fn().mockRejectedValue(new TypeError("gone")));
    await edit("remove", { ids: ["a"] }).catch(() => undefined);
    expect(useMessages.getState().notices[0]?.text).toContain("cannot be reached");
  });

  it("previewed become a ghost, and the latest asked wins", async () => {
    const answers: ((response: Response) => void)[] = [];
    vi.stubGlobal("fetch", vi.fn().mockImplementation(() => new Promise<Response>((resolve) => answers.push(resolve))));
    const ghost = (name: string) => new Response(JSON.stringify({ rev: 4, sentence: name, ghost: { objects: [], scene: [], mounts: {} } }));
    const first = preview("move", { ids: ["a"], by: [1, 0, 0] }, "first");
    const second = preview("move", { ids: ["a"], by: [2, 0, 0] }, "second");
    answers[1]?.(ghost("second"));
    await second;
    answers[0]?.(ghost("first"));
    expect(await first).toBeNull();
    expect(useGhost.getState().ghost?.note).toBe("second");
  });
});

describe("reading the document", () => {
  it("lists things of a kind in their order and calls them by name or number", () => {
    const objects = { b: row("b", "look", { name: "Ebb" }, 2), c: row("c", "look", { name: "Flood" }, 1), f: row("f", "fixture", { number: 61 }) };
    expect(things(objects, "look").map((look) => look.body.name)).toEqual(["Flood", "Ebb"]);
    expect([called(objects.f), called(row("g", "fixture", { number: null })), called(objects.b), called(undefined)]).toEqual(["61", "no number", "Ebb", ""]);
    expect(settings({}).system).toBe("metric");
  });

  it("adds to a selection, and takes away what is in it already", () => {
    select(["x"]);
    select(["y", "z"], true);
    select(["y"], true);
    expect(useSelection.getState().selection).toEqual(["x", "z"]);
  });

  it("puts messages away", () => {
    notify("Hello", "wrong");
    const [notice] = useMessages.getState().notices;
    dismiss(notice?.id ?? 0);
    expect(useMessages.getState().notices).toEqual([]);
    expect(useMessages.getState().said[0]?.text).toBe("Hello");
  });
});

describe("the carriers of a look", () => {
  it("are those that are still there, and whether they stand where the look has them", () => {
    const objects = { c: row("c", "carrier", { name: "Bridge", position: [0, 8, 1.2], turn_deg: 0 }) };
    const look = { name: "Flood", number: 7, values: "", carriers: { c: [0, 8, 4.8, 0] as [number, number, number, number], gone: [0, 0, 0, 0] as [number, number, number, number] } };
    expect(keptCarriers(objects, look)).toEqual([{ id: "c", name: "Bridge", place: [0, 8, 4.8, 0], there: false }]);
    expect(keptCarriers(objects, { ...look, carriers: { c: [0, 8, 1.2, 0] } })[0]?.there).toBe(true);
  });
});
