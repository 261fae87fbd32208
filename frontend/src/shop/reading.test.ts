// @vitest-environment jsdom
import { describe, expect, it } from "vitest";
import type { Draft } from "./draft";
import { type Read, readLines, summary, taken } from "./reading";

const range = (start: number, end: number, name: string, doubt = "") => ({ start, end, attribute: "Shutter1", low: 0, high: 0, name, slot: null, wheel: null, emitter: null, filter: null, profile: null, master: null, logical: 0, fade_s: 0, start_s: 0, doubt, function: "" });
const channel = (slots: number[], ranges: ReturnType<typeof range>[]) => ({ part: "Lens", slots, ranges, home: 0, highlight: null, dmx_break: 1, key: "" });

const TEXT = "1 Shutter\n0-9 closed\n10-255 wobbles\nsee page 3\n2-4 Red 1 ... Red 3";
const read = {
  draft: { modes: [{ name: "Old", channels: [] }, { name: "New", channels: [channel([1], [range(0, 9, "closed"), range(10, 255, "wobbles", "these words were not understood")]), ...[2, 3, 4].map((n) => channel([n], [range(0, 255, `Red ${n - 1}`)]))] }] } as unknown as Draft,
  modes: [{ mode: 1, lines: [[2, 3], [5], [5], [5]], replaced: false }],
  left: [{ line: 4, text: "see page 3", why: "a footnote" }],
  cells: 3,
} as Read;

describe("a manual's text beside what was read", () => {
  it("puts each range beside the line that it was read from", () => {
    const lines = readLines(TEXT, read, 0, {});
    expect(lines.map((line) => line.ranges.map((one) => one.range.name))).toEqual([[], ["closed"], ["wobbles"], [], ["Red 1", "Red 2", "Red 3"]]);
    expect(lines[1]?.begins.map((one) => one.slots)).toEqual([[1]]);
    expect(lines[4]?.begins.map((one) => one.slots)).toEqual([[2], [3], [4]]);
    expect(lines[3]?.left).toBe("a footnote");
  });

  it("counts what there is to look at", () => {
    expect(summary(TEXT, read, {})).toEqual({ modes: 1, channels: 4, doubts: 1, left: 1 });
    expect(summary("", null, {})).toEqual({ modes: 0, channels: 0, doubts: 0, left: 0 });
  });

  it("takes what was put right by hand, and keeps it while other lines change", () => {
    const key = readLines(TEXT, read, 0, {})[2]?.ranges[0]?.key ?? "";
    const changes = { [key]: { name: "Strobe", attribute: "Shutter1Strobe", doubt: "" } };
    const draft = taken(TEXT, read, changes);
    expect(draft.modes[1]?.channels[0]?.ranges[1]).toMatchObject({ name: "Strobe", attribute: "Shutter1Strobe", doubt: "", start: 10 });
    expect(summary(TEXT, read, changes).doubts).toBe(0);
    // A line put in before: the change is still that line's.
    const moved = { ...read, modes: [{ ...read.modes[0], lines: [[3, 4], [6], [6], [6]] }], left: [] } as Read;
    expect(readLines(`a title\n${TEXT}`, moved, 0, changes)[3]?.ranges[0]?.range.name).toBe("Strobe");
  });
});
