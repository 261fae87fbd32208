import { describe, expect, test } from "vitest";
import { addFine, anotherWhile, atFull, type Channel, chooseCurveLive, type Draft, dropFine, dropRange, gridOf, kindOfDoubt, lanesOf, meaningOf, meaningsOf, moveChannel, moveEdge, onlyWhile, orderAlong, type Range, ringOf, splitRange, turning, turningOf, type Wheel, withGel, withScroller } from "./draft";

const range = (start: number, end: number, more: Partial<Range> = {}): Range =>
  ({ start, end, attribute: "Dimmer", low: 0, high: 1, name: "", slot: null, wheel: null, emitter: null, filter: null, profile: null, master: null, logical: 0, fade_s: 0, start_s: 0, doubt: "", function: "", ...more }) as Range;
const channel = (slots: number[], ranges: Range[] = [range(0, 256 ** slots.length - 1)], more: Partial<Channel> = {}): Channel =>
  ({ part: "Body", slots, ranges, home: 0, highlight: null, dmx_break: 1, key: "", ...more }) as Channel;

test("a doubt is open until a person says, but for what is only usual or is checked by itself", () => {
  const speed = "which way it turns is not given; its speed is not given: 4 to 240° a second was assumed";
  expect(kindOfDoubt("")).toBe("none");
  expect(kindOfDoubt(speed)).toBe("assumed");
  expect(kindOfDoubt("nothing is said of 100-255 after it")).toBe("checked");
  expect(kindOfDoubt(`nothing is said of 0-9 before it; ${speed}`)).toBe("checked");
  expect(kindOfDoubt("nothing is said of this range")).toBe("open");
  expect(kindOfDoubt("it overlaps 0-9; its slot is not given")).toBe("open");
});

describe("only while", () => {
  const master = { channel: "Lens_Gobo1", function: null, low: 10, high: 19 };
  const two = channel([1], [range(0, 127), range(128, 255)]);
  test("a meaning that holds only while another channel says so lies beside the others, and edges move by themselves", () => {
    const more = anotherWhile(two, 1, master);
    expect(lanesOf(more)).toEqual([[0, 1], [2]]);
    expect(more.ranges[2]).toMatchObject({ start: 0, end: 255, master });
    const split = splitRange(more, 2);
    expect(lanesOf(split)).toEqual([[0, 1], [2, 3]]);
    const moved = moveEdge(split, 3, 50);
    expect(moved.ranges.map((one) => [one.start, one.end])).toEqual([[0, 127], [128, 255], [0, 49], [50, 255]]);
    expect(dropRange(moved, 3).ranges.map((one) => [one.start, one.end])).toEqual([[0, 127], [128, 255], [0, 255]]);
  });
  test("what holds with a range goes under the condition with it, and comes back", () => {
    const both = onlyWhile(two, 0, master, true);
    expect(both.ranges.map((one) => one.master)).toEqual([master, master]);
    expect(onlyWhile(both, 1, null, true).ranges.map((one) => one.master)).toEqual([null, null]);
    expect(onlyWhile(two, 0, master, false).ranges.map((one) => one.master)).toEqual([master, null]);
  });
});

describe("channels", () => {
  test("at full a lamp is seen: intensity up, the shutter open, its lights on, the rest as it was", () => {
    const shutter = channel([4], [range(0, 9, { attribute: "Shutter1", low: 0, high: 0 }), range(10, 19, { attribute: "Shutter1", low: 1, high: 1 }), range(20, 255, { attribute: "Shutter1Strobe", low: 1, high: 9 })]);
    const back = channel([5], [range(0, 255, { low: 1, high: 0 })]);
    const channels = [channel([1, 2]), channel([3], [range(0, 255, { attribute: "Pan", low: -9, high: 9 })]), shutter, back, channel([1], [range(0, 255, { attribute: "ColorAdd_R" })], { dmx_break: 2 })];
    expect(atFull(channels, { "1": [0, 0, 128, 0, 77], "2": [0] })).toEqual({ "1": [255, 255, 128, 10, 0], "2": [255] });
    expect(atFull([], {})).toEqual({});
  });
  test("a channel that is moved takes its bytes along, and the slots follow the order", () => {
    const moved = moveChannel([channel([1, 2]), channel([3]), channel([4, 5])], 2, 0);
    expect(moved.map((one) => one.slots)).toEqual([[1, 2], [3, 4], [5]]);
  });
  test("each break is numbered by itself", () => {
    const moved = moveChannel([channel([1]), channel([1], undefined, { dmx_break: 2 }), channel([2, 3])], 2, 0);
    expect(moved.map((one) => one.slots)).toEqual([[1, 2], [3], [1]]);
  });
  test("a fine byte spreads ranges and home and moves the rest up; taken away, all is as before", () => {
    const before = [channel([1], [range(0, 99), range(100, 255)], { home: 128 }), channel([2])];
    const fine = addFine(before, 0);
    expect(fine.map((one) => one.slots)).toEqual([[1, 2], [3]]);
    expect(fine[0]?.ranges.map((one) => [one.start, one.end])).toEqual([[0, 25599], [25600, 65535]]);
    expect(fine[0]?.home).toBe(128 * 256 + 128);
    expect(dropFine(fine, 0)).toEqual(before);
  });
});

describe("ranges", () => {
  test("an edge moves both of its ranges and empties neither", () => {
    const one = channel([1], [range(0, 99), range(100, 255)]);
    expect(moveEdge(one, 1, 40).ranges.map((r) => [r.start, r.end])).toEqual([[0, 39], [40, 255]]);
    expect(moveEdge(one, 1, -5).ranges.map((r) => [r.start, r.end])).toEqual([[0, 0], [1, 255]]);
    expect(moveEdge(one, 1, 900).ranges.map((r) => [r.start, r.end])).toEqual([[0, 254], [255, 255]]);
  });
  test("what is split covers the same, and what is taken out is covered by its neighbour", () => {
    const split = splitRange(channel([1]), 0);
    expect(split.ranges.map((r) => [r.start, r.end])).toEqual([[0, 127], [128, 255]]);
    expect(dropRange(split, 1).ranges.map((r) => [r.start, r.end])).toEqual([[0, 255]]);
    expect(dropRange(split, 0).ranges.map((r) => [r.start, r.end])).toEqual([[0, 255]]);
  });
  test("meanings are told by attribute, slot and sense", () => {
    const shutter = meaningsOf("Shutter1", [], { low: 0, high: 1 });
    expect(meaningOf(range(0, 9, { attribute: "Shutter1", low: 1, high: 1 }), shutter)?.label).toBe("open");
    expect(meaningOf(range(0, 9, { attribute: "Shutter1Strobe", low: 2, high: 9 }), shutter)?.label).toBe("strobe");
    const index = meaningsOf("Gobo1Pos", [], { low: 0, high: 360 });
    expect(meaningOf(range(0, 9, { attribute: "Gobo1PosRotate", low: -9, high: -100 }), index)?.label).toBe("turns back");
    expect(meaningOf(range(0, 9, { attribute: "Gobo1PosRotate", low: 0, high: 0 }), index)?.label).toBe("stands");
  });
});

describe("lenses", () => {
  test("a path numbers them as it meets them, the rest after", () => {
    const cells = gridOf(2, 2, 0.1);
    expect(cells).toEqual([[-0.05, 0.05], [0.05, 0.05], [-0.05, -0.05], [0.05, -0.05]]);
    expect(orderAlong([[-0.05, -0.05], [-0.05, 0.05], [0.05, 0.05]], cells, 0.02)).toEqual([2, 0, 1, 3]);
  });
  test("a ring begins at its top and runs clockwise", () => {
    expect(ringOf(4, 0.2)).toEqual([[0, 0.2], [0.2, 0], [0, -0.2], [-0.2, -0]]);
  });
});

test("pan by its range, its middle and its sense", () => {
  const pan = channel([1], [range(0, 255, { attribute: "Pan", low: -270, high: 270 })]);
  const turned = turning(pan, 510, 127, true);
  expect(turningOf(turned)).toEqual({ rangeDeg: 510, middle: 127, inverted: true });
  expect(turned.ranges[0]?.low).toBeCloseTo(254, 1);
});

const draft = (channels: Channel[]): Draft => ({ name: "T", maker: "M", kind: "par", body: { length_m: 1, width_m: 1, height_m: 1, cells: [[0, 0]], scroller: false }, wheels: [], profiles: [], modes: [{ name: "A", channels, relations: [], description: "" }] }) as unknown as Draft;
const wheel: Wheel = { name: "Colour wheel", slots: [{ name: "Open", colour: null, image: null, facets: [], filter: null }, { name: "Red", colour: null, image: null, facets: [], filter: null }] };

test("a channel chooses the dimmer's curve: one of them is there at each of its values", () => {
  const made = chooseCurveLive(draft([channel([1])]), 0, [null, "Square"]);
  const [dimmer, chooser] = made.modes[0]?.channels ?? [];
  expect(dimmer?.ranges.map((one) => [one.profile, one.master?.low, one.master?.high])).toEqual([[null, 0, 127], ["Square", 128, 255]]);
  expect(chooser?.slots).toEqual([2]);
  expect(chooser?.ranges.map((one) => [one.attribute, one.start, one.end])).toEqual([["DimmerCurve", 0, 127], ["DimmerCurve", 128, 255]]);
});

test("a scroller has slots at an address of its own, and goes again", () => {
  const on = withScroller(draft([channel([1])]), true, wheel);
  expect(on.modes[0]?.channels[1]?.dmx_break).toBe(2);
  expect(on.modes[0]?.channels[1]?.ranges.map((one) => [one.slot, one.start, one.end])).toEqual([[1, 0, 127], [2, 128, 255]]);
  expect(on.wheels).toEqual([wheel]);
  expect(withScroller(on, false, wheel).modes[0]?.channels.length).toBe(1);
});

test("a gel is a colour that no slot changes", () => {
  const colour = { x: 0.5, y: 0.4, luminance: 50 };
  const on = withGel(withGel(draft([channel([1])]), colour), { ...colour, x: 0.45 });
  expect(on.wheels.map((one) => [one.name, one.slots[0]?.colour?.x])).toEqual([["Gel", 0.45]]);
  expect(on.modes[0]?.channels.map((one) => one.slots)).toEqual([[1], []]);
  expect(withGel(on, null).wheels).toEqual([]);
});
