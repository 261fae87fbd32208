import type { Bodies } from "../show/types";

/** The server always sends every value of a body. */
type Whole<T> = T extends object ? { [K in keyof T]-?: Whole<T[K]> } : T;
export type Draft = Whole<Bodies["draft"]>;
export type Mode = Draft["modes"][number];
export type Channel = Mode["channels"][number];
export type Range = Channel["ranges"][number];
export type Wheel = Draft["wheels"][number];
export type Slot = Wheel["slots"][number];
export type Place = [number, number];

export const KINDS: { value: Draft["kind"]; label: string }[] = [
  { value: "moving head", label: "Moving head" }, { value: "mirror scanner", label: "Mirror scanner" }, { value: "barrel mirror", label: "Barrel mirror" },
  { value: "profile", label: "Profile" }, { value: "Fresnel", label: "Fresnel" }, { value: "PC", label: "PC" }, { value: "par", label: "Par" },
  { value: "flood", label: "Flood" }, { value: "cyc", label: "Cyc" }, { value: "LED batten", label: "LED batten" }, { value: "LED panel", label: "LED panel" },
  { value: "laser", label: "Laser" }, { value: "hazer", label: "Hazer" }, { value: "effect", label: "Effect" },
];

/** How a doubt ends that is only about a usual rate, speed or angle. */
const ASSUMED = "was assumed";
/** How the parts of a doubt begin that are checked by themselves, for as long as they are so (`shop/checks.py`). */
const CHECKED = /^(nothing is said of \d+-\d+ |it overlaps |it goes to )/;

/** What a doubt is about: a usual value was assumed, something is checked by itself, or it is open: a person has to say. */
export function kindOfDoubt(doubt: string): "none" | "assumed" | "checked" | "open" {
  const rest = doubt.split("; ").filter((part) => !CHECKED.test(part)).join("; ");
  if (rest && !rest.endsWith(ASSUMED)) return "open";
  if (rest !== doubt) return "checked";
  return rest ? "assumed" : "none";
}

export const top = (channel: Channel): number => 256 ** Math.max(channel.slots.length, 1) - 1;
export const attributeOf = (channel: Channel): string => channel.ranges[0]?.attribute ?? "NoFeature";

/** Levels at which a lamp is seen: at home, with intensity full, the shutter open and all its lights on. */
export function atFull(channels: readonly Channel[], home: Record<string, readonly number[]>): Record<string, number[]> {
  const levels = Object.fromEntries(Object.entries(home).map(([key, own]) => [key, own.slice()]));
  for (const channel of channels) {
    const raw = fullOf(channel);
    const own = levels[String(channel.dmx_break)];
    if (raw === null || !own) continue;
    channel.slots.forEach((slot, i) => { own[slot - 1] = Math.floor(raw / 256 ** (channel.slots.length - 1 - i)) % 256; });
  }
  return levels;
}

/** The value at which a channel lets its light out; null where it has no say in that. */
function fullOf(channel: Channel): number | null {
  const open = channel.ranges.find((one) => /^Shutter\d$/.test(one.attribute) && one.low === 1 && one.high === 1);
  const lit = channel.ranges.filter((one) => /^(Dimmer$|ColorAdd_)/.test(one.attribute)).sort((a, b) => Math.max(b.low, b.high) - Math.max(a.low, a.high))[0];
  if (lit) return lit.low > lit.high ? lit.start : lit.end;
  return open ? open.start : null;
}

export function withMode(draft: Draft, m: number, change: (mode: Mode) => Mode): Draft {
  return { ...draft, modes: draft.modes.map((mode, i) => (i === m ? change(mode) : mode)) };
}

export function withChannel(draft: Draft, m: number, c: number, change: (channel: Channel) => Channel): Draft {
  return withMode(draft, m, (mode) => ({ ...mode, channels: mode.channels.map((one, i) => (i === c ? change(one) : one)) }));
}

export function withRange(draft: Draft, m: number, c: number, r: number, change: Partial<Range>): Draft {
  return withChannel(draft, m, c, (channel) => ({ ...channel, ranges: channel.ranges.map((one, i) => (i === r ? { ...one, ...change } : one)) }));
}

/** Channels in their order on slots that follow each other, break by break; each keeps its bytes together. */
export function renumbered(channels: Channel[]): Channel[] {
  const free = new Map<number, number>();
  return channels.map((channel) => {
    const first = free.get(channel.dmx_break) ?? 1;
    free.set(channel.dmx_break, first + channel.slots.length);
    return { ...channel, slots: channel.slots.map((_, i) => first + i) };
  });
}

/** The channel at `from` put where `to` is; the slots follow the new order. */
export function moveChannel(channels: Channel[], from: number, to: number): Channel[] {
  const moved = channels.slice();
  const [one] = moved.splice(from, 1);
  if (one) moved.splice(to, 0, one);
  return renumbered(moved);
}

/** One byte more, right behind the channel's own: ranges and home are spread, what lies after moves up. */
export function addFine(channels: Channel[], c: number): Channel[] {
  const channel = channels[c];
  if (!channel || channel.slots.length >= 4 || !channel.slots.length) return channels;
  const last = channel.slots[channel.slots.length - 1] as number;
  const full = top(channel);
  return channels.map((one, i) => {
    if (i === c) {
      const ranges = one.ranges.map((range) => ({ ...range, start: range.start * 256, end: range.end * 256 + 255 }));
      return { ...one, slots: [...one.slots, last + 1], ranges, home: one.home * 256 + (one.home === full ? 255 : one.home === (full + 1) / 2 ? 128 : 0) };
    }
    return one.dmx_break === channel.dmx_break ? { ...one, slots: one.slots.map((slot) => (slot > last ? slot + 1 : slot)) } : one;
  });
}

/** The finest byte taken away: ranges are brought to what is left, what lies after moves down. */
export function dropFine(channels: Channel[], c: number): Channel[] {
  const channel = channels[c];
  if (!channel || channel.slots.length < 2) return channels;
  const gone = channel.slots[channel.slots.length - 1] as number;
  return channels.map((one, i) => {
    const slots = (i === c ? one.slots.slice(0, -1) : one.slots).map((slot) => (one.dmx_break === channel.dmx_break && slot > gone ? slot - 1 : slot));
    if (i !== c) return { ...one, slots };
    const ranges = one.ranges.map((range) => ({ ...range, start: Math.floor(range.start / 256), end: Math.floor(range.end / 256) }));
    return { ...one, slots, ranges, home: Math.floor(one.home / 256) };
  });
}

/** What ranges hold at the same time by: those of one logical channel under one condition. */
export const laneOf = (range: Range): string => `${range.logical} ${range.master ? JSON.stringify(range.master) : ""}`;

/** The ranges of a channel by what holds at the same time, in the order of their first; each by place and in order. */
export function lanesOf(channel: Channel): number[][] {
  const lanes = new Map<string, number[]>();
  channel.ranges.forEach((range, i) => lanes.set(laneOf(range), [...(lanes.get(laneOf(range)) ?? []), i]));
  const start = (i: number): number => channel.ranges[i]?.start ?? 0;
  return [...lanes.values()].map((lane) => lane.sort((a, b) => start(a) - start(b)));
}

/** What masters call a channel. */
export const calledOf = (channel: Channel): string => channel.key || `${channel.part}_${attributeOf(channel)}`;

/** A range (or all that hold with it) that is there only while another channel lies between two values; null: always. */
export function onlyWhile(channel: Channel, r: number, master: Range["master"], all: boolean): Channel {
  const lane = channel.ranges[r] && laneOf(channel.ranges[r]);
  return { ...channel, ranges: channel.ranges.map((one, i) => (i === r || (all && laneOf(one) === lane) ? { ...one, master } : one)) };
}

/** One more meaning of the whole channel, for while another channel lies between two values. */
export function anotherWhile(channel: Channel, r: number, master: NonNullable<Range["master"]>): Channel {
  const from = channel.ranges[r];
  if (!from) return channel;
  return { ...channel, ranges: [...channel.ranges, { ...from, start: 0, end: top(channel), master, name: "", function: "", doubt: "" }] };
}

/** An edge between two ranges put at a raw value: the one below ends before it. Neither is made empty. */
export function moveEdge(channel: Channel, r: number, start: number): Channel {
  const order = lanesOf(channel).find((lane) => lane.includes(r)) ?? [];
  const at = order.indexOf(r);
  const here = channel.ranges[r];
  const below = at > 0 ? channel.ranges[order[at - 1] as number] : undefined;
  if (!here) return channel;
  const put = Math.max(below ? below.start + 1 : 0, Math.min(Math.round(start), here.end));
  return {
    ...channel,
    ranges: channel.ranges.map((one, i) => (i === r ? { ...one, start: put } : below && i === order[at - 1] ? { ...one, end: put - 1 } : one)),
  };
}

/** A range cut in two at its middle; both mean the same until one is changed. */
export function splitRange(channel: Channel, r: number): Channel {
  const one = channel.ranges[r];
  if (!one || one.end <= one.start) return channel;
  const middle = Math.floor((one.start + one.end) / 2);
  const ranges = channel.ranges.slice();
  ranges.splice(r, 1, { ...one, end: middle }, { ...one, start: middle + 1 });
  return { ...channel, ranges };
}

/** A range taken out; the one below it (or above, for the first) goes on over it. */
export function dropRange(channel: Channel, r: number): Channel {
  const one = channel.ranges[r];
  if (!one || channel.ranges.length < 2) return channel;
  const below = channel.ranges.findIndex((other) => other.end === one.start - 1 && laneOf(other) === laneOf(one));
  const above = channel.ranges.findIndex((other) => other.start === one.end + 1 && laneOf(other) === laneOf(one));
  const ranges = channel.ranges.map((other, i) => (i === below ? { ...other, end: one.end } : below < 0 && i === above ? { ...other, start: one.start } : other));
  return { ...channel, ranges: ranges.filter((_, i) => i !== r) };
}

/** What a range may mean on a channel: by what its attribute can do. */
export interface Meaning {
  key: string;
  label: string;
  range: Partial<Range>;
}

const plain = (attribute: string, low: number, high: number, label: string): Meaning => ({ key: `${attribute} ${low} ${high}`, label, range: { attribute, low, high, slot: null, wheel: null } });

export function meaningsOf(attribute: string, wheels: readonly Wheel[], usual: { low: number; high: number }): Meaning[] {
  const number = attribute.includes("2") ? "2" : "1";
  const nothing = plain("NoFeature", 0, 0, "nothing");
  const slots = (base: string, wheelName: string, spin: string | null, shake: string | null): Meaning[] => {
    const wheel = wheels.find((one) => one.name === wheelName);
    const each = (wheel?.slots ?? []).flatMap((slot, i): Meaning[] => [
      { key: `${base} slot ${i + 1}`, label: slot.name, range: { attribute: base, low: 0, high: 1, slot: i + 1, wheel: wheelName, name: slot.name } },
      ...(shake && i ? [{ key: `${shake} slot ${i + 1}`, label: `${slot.name}, shaking`, range: { attribute: shake, low: 0.5, high: 6, slot: i + 1, wheel: wheelName, name: `${slot.name} shaking` } }] : []),
    ]);
    const turning = spin ? [plain(spin, 4, 240, "wheel turns on"), plain(spin, -4, -240, "wheel turns back"), plain(spin, 0, 0, "wheel stands")] : [];
    return [...each, ...turning, nothing];
  };
  const turns = (base: string): Meaning[] => [
    plain(base, 0, 360, "index"), plain(`${base}Rotate`, 4, 240, "turns on"), plain(`${base}Rotate`, -4, -240, "turns back"), plain(`${base}Rotate`, 0, 0, "stands"), nothing,
  ];
  if (/^(Shutter|Strobe)/.test(attribute)) {
    return [
      plain("Shutter1", 0, 0, "closed"), plain("Shutter1", 1, 1, "open"), plain("Shutter1Strobe", 0.5, 20, "strobe"), plain("Shutter1StrobePulse", 0.5, 20, "pulse"),
      plain("Shutter1StrobePulseOpen", 0.5, 8, "ramp up"), plain("Shutter1StrobePulseClose", 0.5, 8, "ramp down"), plain("Shutter1StrobeRandom", 0.5, 20, "random strobe"),
      plain("Shutter1StrobeEffect", 0.5, 20, "lightning"), nothing,
    ];
  }
  if (/^Gobo\d(Select|Wheel|$)/.test(attribute)) return slots(`Gobo${number}`, number === "2" ? "Gobo wheel 2" : "Gobo wheel", `Gobo${number}WheelSpin`, `Gobo${number}SelectShake`);
  if (/^Gobo\dPos/.test(attribute)) return turns(`Gobo${number}Pos`);
  if (/^Color\d/.test(attribute)) return slots(`Color${number}`, number === "2" ? "Colour wheel 2" : "Colour wheel", `Color${number}WheelSpin`, null);
  if (/^Prism1Pos/.test(attribute)) return turns("Prism1Pos");
  if (/^Prism1/.test(attribute)) return [...slots("Prism1", "Prism wheel", null, null).slice(0, -1), ...turns("Prism1Pos")];
  if (/^(ColorMacro|ColorEffects)/.test(attribute)) return [...slots("ColorMacro1", "Built-in colours", null, null).slice(0, -1), plain("ColorEffects1", 0.5, 4, "colour program"), nothing];
  const [low, high] = [usual.low, usual.high];
  return [plain(attribute, low, high, "over its range"), plain(attribute, high, low, "the other way round"), plain(attribute, high, high, "at full"), plain(attribute, low, low, "at nought"), nothing];
}

/** Which meaning a range has, of those there are. */
export function meaningOf(range: Range, meanings: readonly Meaning[]): Meaning | undefined {
  const fits = meanings.filter((one) => one.range.attribute === range.attribute && (one.range.slot ?? null) === (range.slot ?? null));
  const sense = (low: number, high: number) => (low === high ? (low === 0 ? "nought" : "flat") : Math.sign(low + high) < 0 ? "back" : high < low && low + high > 0 ? "falling" : "rising");
  return fits.find((one) => one.range.low === range.low && one.range.high === range.high) ?? fits.find((one) => sense(one.range.low ?? 0, one.range.high ?? 0) === sense(range.low, range.high)) ?? fits[0];
}

/** Lenses in the order in which a path over them meets them: a lens counts when the path first comes near it. */
export function orderAlong(path: readonly Place[], cells: readonly Place[], reach: number): number[] {
  const met: number[] = [];
  const near = (x: number, y: number) => {
    cells.forEach(([cx, cy], i) => {
      if (!met.includes(i) && Math.hypot(cx - x, cy - y) <= reach) met.push(i);
    });
  };
  path.forEach(([x, y], i) => {
    const [px, py] = path[i - 1] ?? [x, y];
    const steps = Math.max(1, Math.ceil(Math.hypot(x - px, y - py) / (reach / 2)));
    for (let k = 1; k <= steps; k++) near(px + ((x - px) * k) / steps, py + ((y - py) * k) / steps);
  });
  return [...met, ...cells.map((_, i) => i).filter((i) => !met.includes(i))];
}

export function gridOf(rows: number, columns: number, pitch: number): Place[] {
  return Array.from({ length: rows * columns }, (_, i): Place => {
    const [r, c] = [Math.floor(i / columns), i % columns];
    return [Number(((c - (columns - 1) / 2) * pitch).toFixed(4)), Number((((rows - 1) / 2 - r) * pitch).toFixed(4))];
  });
}

export function ringOf(count: number, radius: number): Place[] {
  return Array.from({ length: count }, (_, i): Place => {
    const angle = Math.PI / 2 - (2 * Math.PI * i) / count;
    return [Number((radius * Math.cos(angle)).toFixed(4)), Number((radius * Math.sin(angle)).toFixed(4))];
  });
}

/** Pan or tilt by its whole range, the raw value that is the middle, and its sense. */
export function turning(channel: Channel, rangeDeg: number, middle: number, inverted: boolean): Channel {
  const share = middle / top(channel);
  const [low, high] = [-rangeDeg * share, rangeDeg * (1 - share)];
  const ranges = channel.ranges.map((range, i) => (i ? range : { ...range, low: inverted ? -low : low, high: inverted ? -high : high }));
  return { ...channel, ranges, home: middle };
}

export function turningOf(channel: Channel): { rangeDeg: number; middle: number; inverted: boolean } {
  const range = channel.ranges[0];
  if (!range || range.high === range.low) return { rangeDeg: 0, middle: channel.home, inverted: false };
  const middle = Math.round((-range.low / (range.high - range.low)) * top(channel));
  return { rangeDeg: Math.abs(range.high - range.low), middle, inverted: range.high < range.low };
}

const PLAIN: Range = {
  start: 0, end: 255, attribute: "NoFeature", low: 0, high: 0, name: "", slot: null, wheel: null, emitter: null, filter: null, profile: null, master: null, logical: 0, fade_s: 0, start_s: 0, doubt: "", function: "",
};
/** The last slot of an address that channels have. */
export const lastSlot = (channels: readonly Channel[], dmxBreak: number): number => Math.max(0, ...channels.filter((one) => one.dmx_break === dmxBreak).flatMap((one) => one.slots));

/** Curves that a further channel chooses from, live: the dimmers have each of them while that channel says so. */
export function chooseCurveLive(draft: Draft, m: number, curves: readonly (string | null)[]): Draft {
  return withMode(draft, m, (mode) => {
    const width = Math.floor(256 / curves.length);
    const spans = curves.map((profile, i) => ({ profile, low: i * width, high: i === curves.length - 1 ? 255 : (i + 1) * width - 1 }));
    const chooser: Channel = {
      part: "Body", slots: [lastSlot(mode.channels, 1) + 1], home: 0, highlight: null, dmx_break: 1, key: "",
      ranges: spans.map(({ profile, low, high }) => ({ ...PLAIN, start: low, end: high, attribute: "DimmerCurve", name: profile ?? "Linear" })),
    };
    const channels = mode.channels.map((channel) => {
      if (attributeOf(channel) !== "Dimmer") return channel;
      const whole = channel.ranges.filter((one) => one.attribute === "Dimmer" && !one.master);
      const rest = channel.ranges.filter((one) => !whole.includes(one));
      const each = spans.flatMap(({ profile, low, high }) => whole.map((one) => ({ ...one, name: profile ?? "Linear", profile, master: { channel: "Body_DimmerCurve", function: null, low, high } })));
      return { ...channel, ranges: [...each, ...rest] };
    });
    return { ...mode, channels: [...channels, chooser] };
  });
}

/** A colour changer before the lens, with an address of its own in every mode; or none. */
export function withScroller(draft: Draft, on: boolean, wheel: Wheel): Draft {
  const name = wheel.name;
  const channel = (slots: readonly Slot[]): Channel => {
    const width = Math.floor(256 / Math.max(slots.length, 1));
    const ranges = slots.map((slot, i) => ({ ...PLAIN, start: i * width, end: i === slots.length - 1 ? 255 : (i + 1) * width - 1, attribute: "Color1", high: 1, slot: i + 1, wheel: name, name: slot.name }));
    return { part: "Body", slots: [1], ranges, home: 0, highlight: null, dmx_break: 2, key: "" };
  };
  const has = draft.wheels.find((one) => one.name === name);
  const own = has ?? wheel;
  return {
    ...draft, body: { ...draft.body, scroller: on }, wheels: on && !has ? [...draft.wheels, own] : draft.wheels,
    modes: draft.modes.map((mode) => ({ ...mode, channels: [...mode.channels.filter((one) => one.dmx_break !== 2), ...(on ? [channel(own.slots)] : [])] })),
  };
}

/** The gel in front of a conventional: a second colour that no channel changes; or none. */
export function withGel(draft: Draft, colour: { x: number; y: number; luminance: number } | null): Draft {
  const rest = draft.wheels.filter((one) => one.name !== "Gel");
  const gel: Channel = { part: "Lens", slots: [], home: 0, highlight: null, dmx_break: 1, key: "", ranges: [{ ...PLAIN, attribute: "Color2", high: 1, slot: 1, wheel: "Gel", name: "Gel" }] };
  return {
    ...draft, wheels: colour ? [...rest, { name: "Gel", slots: [{ name: "Gel", colour, image: null, facets: [], filter: null }] }] : rest,
    modes: draft.modes.map((mode) => ({ ...mode, channels: [...mode.channels.filter((one) => one.ranges[0]?.wheel !== "Gel"), ...(colour ? [gel] : [])] })),
  };
}
