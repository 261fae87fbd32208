import { describe, expect, test } from "vitest";
import { matches } from "./filter";

describe("the filter of a bench", () => {
  test("takes all words, wherever they stand", () => {
    expect(matches("truss raked", ["Raked truss SL", "truss"])).toBe(true);
    expect(matches("truss ring", ["Raked truss SL", "truss"])).toBe(false);
    expect(matches("", ["anything"])).toBe(true);
  });
  test("takes ranges of numbers", () => {
    expect(matches("61-68", ["Heron"], 64)).toBe(true);
    expect(matches("61 to 68 heron", ["Heron"], 69)).toBe(false);
    expect(matches("61-68", ["Heron"], null)).toBe(false);
  });
  test("leaves out what has a minus", () => {
    expect(matches("-heron", ["Dunlin"], 4)).toBe(true);
    expect(matches("-heron", ["Heron"], 4)).toBe(false);
  });
});
