import { useMemo } from "react";
import { called, things, useShow } from "./document";
import type { Bodies, Row, TypeOut } from "./types";

export interface Taken {
  fixture: string;
  number: string;
  attribute: string;
  first: boolean;
  /** Fixtures of one type and mode on one address, or on one dimmer, are driven together: they have one group. */
  group: string;
}

type Run = { number: number; universe: number; address: number; slots: number };

/** Where each break of a fixture lies: as named, else right after the break before it (core's break_places). */
export function runsOf(body: Bodies["fixture"], mode: TypeOut["modes"][number] | undefined): Run[] {
  if (body.address == null || body.universe == null || !mode) return [];
  let universe = body.universe;
  let address = body.address;
  return mode.breaks.map(({ number, slots }, i) => {
    const named = i ? (body.breaks ?? []).find(([one]) => one === number) : undefined;
    if (named) [, universe, address] = named as [number, number, number];
    else if (i && address + slots - 1 > 512) [universe, address] = [universe + 1, 1];
    const run = { number, universe, address, slots };
    address += slots;
    return run;
  });
}

/** What fixtures are driven together by: of one type and mode on one address, or on one dimmer, they have the same. */
export function groupOf(body: Bodies["fixture"], mode: TypeOut["modes"][number] | undefined): string {
  if (mode?.footprint === 1 && body.dimmer != null) return `dimmer ${body.dimmer}`;
  return `${body.type} ${body.mode} ${body.universe}.${body.address} ${JSON.stringify(body.breaks ?? [])}`;
}

/** Who is on each slot of a universe: a list for each slot, so that a conflict shows as two. */
export function takenOf(objects: Record<string, Row>, types: Record<string, TypeOut>, universe: number): Map<number, Taken[]> {
  const taken = new Map<number, Taken[]>();
  for (const fixture of things(objects, "fixture")) {
    const mode = types[fixture.body.type]?.modes.find((one) => one.name === fixture.body.mode);
    const group = groupOf(fixture.body, mode);
    for (const run of runsOf(fixture.body, mode)) {
      if (run.universe !== universe) continue;
      const attributes = new Map<number, string>();
      for (const channel of mode?.channels ?? []) {
        if (channel.dmx_break === run.number) channel.slots.forEach((slot, i) => attributes.set(slot, i ? `${channel.attribute} fine` : channel.attribute));
      }
      for (let i = 0; i < run.slots; i++) {
        const slot = run.address + i;
        const one = { fixture: fixture.id, number: called(objects[fixture.id]), attribute: attributes.get(i + 1) ?? "", first: i === 0, group };
        taken.set(slot, [...(taken.get(slot) ?? []), one]);
      }
    }
  }
  return taken;
}

/** The same, kept up to date. */
export function useTaken(universe: number): Map<number, Taken[]> {
  const objects = useShow((state) => state.objects);
  const types = useShow((state) => state.types);
  return useMemo(() => takenOf(objects, types, universe), [objects, types, universe]);
}

/** The dimmers that slots of a universe drive, by slot. */
export function useDimmersOn(universe: number): Map<number, number> {
  const objects = useShow((state) => state.objects);
  return useMemo(() => {
    const racks = things(objects, "rack").filter((one) => one.body.universe === universe);
    return new Map(racks.flatMap(({ body: { address, first = 1, count = 0 } }) => (address == null ? [] : Array.from({ length: count }, (_, i) => [address + i, first + i] as const))));
  }, [objects, universe]);
}

/** The universes that fixtures are patched to; 1 when there is none yet. */
export function usePatchedUniverses(): number[] {
  const objects = useShow((state) => state.objects);
  return useMemo(() => {
    const used = new Set(things(objects, "fixture").flatMap((one) => [one.body.universe ?? [], (one.body.breaks ?? []).map((named) => named[1] as number)].flat()));
    return used.size ? [...used].sort((a, b) => a - b) : [1];
  }, [objects]);
}
