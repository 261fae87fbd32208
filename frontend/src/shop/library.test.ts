// @vitest-environment jsdom
import { describe, expect, it } from "vitest";
import { type Card, searched } from "./Library";

const card = (name: string, sort: string, words: string): Card => ({ key: name, typeId: name, name, maker: "Quillback Lamp Co.", about: "", sort, words, modes: [{ name: "Standard", slots: 9 }], picture: "", inShow: null, used: 0, shipped: null });
const cards = [card("Heron", "LED moving head, profile", "mover spot gobo"), card("Dunlin", "LED moving head, wash", "mover soft edge"), card("Teal", "LED batten", "bar strip row"), card("Grebe", "hazer", "haze fog smoke")];
const names = (text: string): string[] => searched(cards, text).map((one) => one.name);

describe("types are found", () => {
  it("by their kind and by the words of the trade", () => {
    expect(names("moving head")).toEqual(["Heron", "Dunlin"]);
    expect(names("led batten")).toEqual(["Teal"]);
    expect(names("wash")).toEqual(["Dunlin"]);
    expect(names("smoke")).toEqual(["Grebe"]);
    expect(names("")).toHaveLength(4);
  });
  it("though they were mistyped", () => {
    expect(names("herron")[0]).toBe("Heron");
    expect(names("movng heads")[0]).toMatch(/Heron|Dunlin/);
    expect(names("baten")[0]).toBe("Teal");
    expect(names("xylophone")).toEqual([]);
  });
});
