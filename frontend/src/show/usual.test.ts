import { describe, expect, it } from "vitest";
import { IMPERIAL, METRIC } from "../stage/measures";
import { usual, usuals } from "./usual";

describe("what forms begin with", () => {
  it("is in the unit that the show is in, and round there", () => {
    expect(usuals({ width: "4m", height: "0.4m", thickness: "0.04m", y: "DS 8", turn: "0", count: "3", name: "", finish: "black" }, "imperial")).toEqual({ width: "13'", height: '16"', thickness: '1.5"', y: "DS 26'", turn: "0", count: "3", name: "", finish: "black" });
    expect(usual("4m", "metric")).toBe("4m");
  });
});

describe("lengths on the stage", () => {
  it("are said and stepped in the unit that the show is in", () => {
    expect(METRIC.said(1.234)).toBe("1.23 m");
    expect(IMPERIAL.said(1.524)).toBe("5' 0\"");
    expect(IMPERIAL.said(0.0762)).toBe("0' 3\"");
    expect(IMPERIAL.said(-0.9144)).toBe("-3' 0\"");
    expect(IMPERIAL.said(0.3043)).toBe("1' 0\"");
    expect(IMPERIAL.move / 0.0254).toBeCloseTo(3);
    expect(IMPERIAL.bars.map(([, said]) => said)).toContain("25'");
  });
});
