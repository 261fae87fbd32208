import { describe, expect, it } from "vitest";
import { address, angle, coordinate, length, many } from "./format";

describe("format", () => {
  it("writes feet and inches to a sixteenth", () => {
    expect(length(6.2484, "imperial")).toBe(`20' 6"`);
    expect(length(0.3, "imperial")).toBe(`0' 11 13/16"`);
    expect(length(-0.3048, "imperial")).toBe(`-1' 0"`);
  });

  it("names the side of the stage instead of a sign", () => {
    expect(coordinate(-1.25, "x", "metric")).toBe("SR 1.25 m");
    expect(coordinate(3.4, "y", "metric")).toBe("US 3.40 m");
    expect(coordinate(0, "z", "metric")).toBe("up 0.00 m");
  });

  it("writes addresses, angles and counts", () => {
    expect(address(2, 1)).toBe("2.001");
    expect(address(null, 1)).toBe("none");
    expect(angle(22.499999)).toBe("22.5°");
    expect(many(1, "fixture") + many(3, "fixture")).toBe("1 fixture3 fixtures");
    expect(many(4, "truss") + many(2, "box")).toBe("4 trusses2 boxes");
  });
});
