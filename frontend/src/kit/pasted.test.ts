import { describe, expect, test } from "vitest";
import { pasted } from "./pasted";

describe("a table from a spreadsheet", () => {
  test("is lines of cells", () => {
    expect(pasted("61\tChoir\r\n62\tSail\r\n")).toEqual([["61", "Choir"], ["62", "Sail"]]);
    expect(pasted("61")).toEqual([["61"]]);
  });
  test("keeps empty cells and quoted ones with tabs, lines and quotes", () => {
    expect(pasted('1\t\t3\n"a\tb"\t"two\nlines"\t"says ""hush"""')).toEqual([["1", "", "3"], ["a\tb", "two\nlines", 'says "hush"']]);
  });
});
