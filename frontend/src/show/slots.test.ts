import { expect, test, vi } from "vitest";

vi.stubGlobal("localStorage", { getItem: () => "me", setItem: () => undefined });
const { runsOf } = await import("./slots");

const mode = { name: "M", footprint: 4, breaks: [{ number: 1, slots: 4 }, { number: 2, slots: 2 }], channels: [] };
const body = (more: object) => ({ name: "a", universe: 3, address: 509, ...more }) as never;

test("a break that is not named follows the one before it, into the next universe where it must", () => {
  expect(runsOf(body({}), mode).map((run) => [run.universe, run.address])).toEqual([[3, 509], [4, 1]]);
  expect(runsOf(body({ address: 10 }), mode).map((run) => [run.universe, run.address])).toEqual([[3, 10], [3, 14]]);
});

test("a break that is named lies where it says, and nothing lies anywhere without an address", () => {
  expect(runsOf(body({ breaks: [[2, 7, 100]] }), mode)[1]).toEqual({ number: 2, universe: 7, address: 100, slots: 2 });
  expect(runsOf(body({ address: null }), mode)).toEqual([]);
});
