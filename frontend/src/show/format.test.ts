import { describe, expect, it } from "vitest";
import { address, angle, coordinate, length, many, placeOfText, placeText } from "./format";

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

  it("reads a place with signs or sides, and nothing that is not three lengths", () => {
    expect(placeOfText("-4, 0,6", "metric")).toEqual([-4, 0, 6]);
    expect(placeOfText("SR 4; DS 1.5; up 20ft", "metric")).toEqual([-4, -1.5, expect.closeTo(6.096, 9)]);
    expect(placeOfText("-10, 0, 20'6\"", "imperial")).toEqual([expect.closeTo(-3.048, 9), 0, expect.closeTo(6.2484, 9)]);
    for (const none of ["", "4, 0", "4, 0, high", "US 4, SL 0, 6", "1, 2, 3, 4"]) expect(placeOfText(none, "metric")).toBeNull();
    expect(placeText([-4, -0.0001, 6.25], "metric")).toBe("-4, 0, 6.25");
    expect(placeText([-4, 0, 6.096], "imperial")).toBe("-13.12', 0', 20'");
  });

  it("writes addresses, angles and counts", () => {
    expect(address(2, 1)).toBe("2.001");
    expect(address(null, 1)).toBe("none");
    expect(angle(22.499999)).toBe("22.5°");
    expect(many(1, "fixture") + many(3, "fixture")).toBe("1 fixture3 fixtures");
    expect(many(4, "truss") + many(2, "box")).toBe("4 trusses2 boxes");
  });
});
