import { describe, expect, test } from "vitest";
import { pasted, pastedSaid } from "./pasted";

describe("a table from a spreadsheet", () => {
  test("is lines of cells", () => {
    expect(pasted("61\tChoir\r\n62\tSail\r\n")).toEqual([["61", "Choir"], ["62", "Sail"]]);
    expect(pasted("61")).toEqual([["61"]]);
  });
  test("keeps empty cells and quoted ones with tabs, lines and quotes", () => {
    expect(pasted('1\t\t3\n"a\tb"\t"two\nlines"\t"says ""hush"""')).toEqual([["1", "", "3"], ["a\tb", "two\nlines", 'says "hush"']]);
  });
  test("says where it went and what was left out", () => {
    const column = (title: string, taken = true) => ({ title, taken });
    expect(pastedSaid([column("For")], 1, 5, 0)).toBe("Pasted For into 1 row");
    expect(pastedSaid([column("Along"), column("Height", false), column("Mode")], 3, 5, 0)).toBe("Pasted Along and Mode into 3 rows; left out: Height");
    expect(pastedSaid([column("For"), column("Gel"), column("Note")], 7, 5, 2)).toBe("Pasted For, Gel and Note into 5 rows; left out: 2 more to the right and 2 lines");
  });
});
