import type { Bodies, ConnectionOut, SignalEvent, SourceOut, Thing } from "../../show/types";

type Connection = Bodies["connection"];

/** Somebody who sends, with all universes of it that are heard. */
export interface Sender {
  key: string;
  name: string;
  protocol: string;
  address: string;
  priority: number;
  rate: number;
  preview: boolean;
  /** By connection, or "" for what lands nowhere: its universes. */
  heard: Map<string, number[]>;
  /** What it says that it sends, where that is more than is heard of it. */
  offers: [number, number][];
}

/** A connection as it is drawn: kept in the show, or heard as the program was started. */
export interface Way {
  id: string;
  name: string;
  body: Connection | null;
  now: ConnectionOut | undefined;
}

export interface Mapping {
  senders: Sender[];
  ways: Way[];
  universes: number[];
  /** From a connection to a universe of the show, and what flows: how bright, and whether it is heard now. */
  lands: { way: string; universe: number; live: boolean }[];
}

/** Numbers as people say them: `1 to 4, 7`. */
export function spans(numbers: number[]): string {
  const ordered = [...new Set(numbers)].sort((a, b) => a - b);
  const parts: string[] = [];
  let first = 0;
  ordered.forEach((number, i) => {
    if (ordered[i + 1] === number + 1) return;
    const from = ordered[first] as number;
    parts.push(from === number ? `${number}` : `${from} to ${number}`);
    first = i + 1;
  });
  return parts.join(", ");
}

/** Where the range of a connection lands. */
export function range(body: Connection): string {
  const least = body.protocol === "sACN" ? 1 : 0;
  const most = body.protocol === "sACN" ? 63999 : 32767;
  const { first = 1, last = most, lands = 1 } = body;
  if (first === least && last >= most - 1 && lands === 1) return "all universes";
  if (last >= most - 1) return `from ${first} on → ${lands} on`;
  return first === last ? `${first} → ${lands}` : `${first} to ${last} → ${lands} to ${lands + last - first}`;
}

function add(senders: Map<string, Sender>, source: SourceOut, way: string): void {
  const key = `${source.protocol} ${source.address} ${source.name}`;
  const known = senders.get(key) ?? { key, name: source.name, protocol: source.protocol, address: source.address, priority: source.priority, rate: 0, preview: source.preview, heard: new Map(), offers: [] };
  known.rate = Math.max(known.rate, source.rate_hz);
  known.heard.set(way, [...(known.heard.get(way) ?? []), source.heard_as]);
  senders.set(key, known);
}

/** What is sent, by which connection it is heard, and where it lands. */
export function mappingOf(signal: SignalEvent | null, connections: readonly Thing<"connection">[], patched: number[]): Mapping {
  const senders = new Map<string, Sender>();
  const lands: Mapping["lands"] = [];
  for (const universe of signal?.universes ?? []) {
    for (const source of universe.sources) for (const way of source.connections ?? []) add(senders, source, way);
    for (const way of new Set(universe.sources.flatMap((one) => one.connections ?? []))) lands.push({ way, universe: universe.universe, live: true });
  }
  // What a silenced connection would take is not lost.
  const taker = (source: SourceOut) => connections.find(({ body }) => body.protocol === source.protocol && source.heard_as >= (body.first ?? 1) && source.heard_as <= (body.last ?? 63999))?.id;
  for (const source of signal?.nowhere ?? []) add(senders, source, (source.preview ? undefined : taker(source)) ?? "");
  for (const one of signal?.offered ?? []) {
    const universes = one.universes as [number, number][];
    const key = `sACN ${one.address} ${one.name}`;
    const known = senders.get(key);
    const heard = new Set([...(known?.heard.values() ?? [])].flat());
    const count = universes.reduce((sum, [first, last]) => sum + last - first + 1, 0);
    if (count <= heard.size) continue;
    senders.set(key, { ...(known ?? { key, name: one.name, protocol: "sACN", address: one.address, priority: 0, rate: 0, preview: false, heard: new Map() }), offers: universes });
  }
  const states = new Map(signal?.connections.map((one) => [one.id, one]) ?? []);
  const ways: Way[] = connections.map((one) => ({ id: one.id, name: one.body.name, body: one.body, now: states.get(one.id) }));
  if (!ways.length) {
    for (const now of states.values()) ways.push({ id: now.id, name: "As started", body: null, now });
  }
  // What would land where fixtures are, though nothing comes yet.
  for (const { id, body } of ways) {
    for (const universe of body ? patched : []) {
      const theirs = universe - (body?.lands ?? 1) + (body?.first ?? 1);
      if (theirs >= (body?.first ?? 1) && theirs <= (body?.last ?? 63999) && !lands.some((one) => one.way === id && one.universe === universe)) lands.push({ way: id, universe, live: false });
    }
  }
  const universes = [...new Set([...patched, ...(signal?.universes ?? []).map((one) => one.universe)])].sort((a, b) => a - b);
  return { senders: [...senders.values()].sort((a, b) => a.name.localeCompare(b.name)), ways, universes, lands };
}
