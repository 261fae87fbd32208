import { describe, expect, it } from "vitest";
import { meantNumber, plainNumber, readSigns, sentText, sum } from "./signs";

const two = (value: number): string => value.toFixed(2);

describe("a sign before what is typed", () => {
  it.each([
    ["+1.5", "adds", false, { sign: 1, by: "1.5" }],
    ["-1.5", "adds", false, { sign: -1, by: "1.5" }],
    ["−2m", "adds", false, { sign: -1, by: "2m" }],
    ["-1.5", "adds", true, { sign: 0, text: "-1.5" }],
    ["=-4", "adds", false, { sign: 0, text: "-4" }],
    ["SR 4", "adds", false, { sign: 0, text: "SR 4" }],
    ["-4.2 to 7", "adds", false, { sign: 0, text: "-4.2 to 7" }],
    ["-30", "own", false, { sign: 0, text: "-30" }],
    ["+=5", "own", false, { sign: 1, by: "5" }],
    ["-= 5", "own", true, { sign: -1, by: "5" }],
  ] as const)("%s in a field that %s, emptied %s", (typed, signs, emptied, read) => {
    expect(readSigns(typed, signs, emptied)).toEqual(read);
  });

  it("is sent so that the server reads the same", () => {
    expect(sentText("-1.5", "adds", false)).toBe("-1.5");
    expect(sentText("-1.5", "adds", true)).toBe("=-1.5");
    expect(sentText("-4 to 7", "adds", true)).toBe("-4 to 7");
    expect(sentText("-=2", "adds", true)).toBe("-=2");
    expect(sentText("-30", "own", true)).toBe("-30");
  });

  it("is said with its sum while it is typed, where it can be read", () => {
    expect(sum("-1.5", "adds", false, 10, plainNumber, two)).toBe("10.00 − 1.50 = 8.50");
    expect(sum("+1.5", "adds", false, undefined, plainNumber, two)).toBe("each + 1.50");
    expect(sum("+=5", "own", false, -30, plainNumber, two)).toBe("-30.00 + 5.00 = -25.00");
    for (const typed of ["-1.5 to 4", "4", "+", "+some"]) expect(sum(typed, "adds", false, 10, plainNumber, two)).toBe("");
  });

  it("gives the number that is meant, and refuses what is none", () => {
    expect([meantNumber("+2", 3, "adds", false, plainNumber), meantNumber("-2", 3, "own", false, plainNumber), meantNumber("× 2,5", 1, "adds", false, plainNumber)]).toEqual([5, -2, 2.5]);
    expect(() => meantNumber("much", 3, "adds", false, plainNumber)).toThrow("“much” is not a number.");
  });
});
