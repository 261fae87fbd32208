import { create } from "zustand";
import { get } from "./api";
import { at } from "./document";
import type { MeaningOut, MonitorEvent } from "./types";

export interface Moved {
  universe: number;
  slot: number;
  ago: number;
  low: number;
  high: number;
}

/** What is told while the levels are watched; `shown`: they are what Signal's bench shows; `frozen`: what is shown stays as it was, whatever comes in. */
export const useMonitor = create<{ shown: boolean; event: MonitorEvent | null; frozen: boolean; finding: boolean; /** When what is told of what moves was begun, before it was asked for anew: that is of no concern any more. */ before: number | null; /** The fixtures that what moved belongs to, and how long ago. */ fixtures: ReadonlyMap<string, number> }>(() => ({
  shown: false, event: null, frozen: false, finding: false, before: null, fixtures: new Map(),
}));

/** As long as nothing is known of what was begun anew. */
const waiting = (event: MonitorEvent): MonitorEvent => ({ ...event, moved: [], settling: true });

export function hearMonitor(event: MonitorEvent): void {
  const { frozen, before } = useMonitor.getState();
  if (!frozen) useMonitor.setState({ event: event.began === before ? waiting(event) : event });
}

/** Find what moves from now on; what is still told of before is not shown. */
export function findMoves(): void {
  const { event } = useMonitor.getState();
  useMonitor.setState({ finding: true, fixtures: new Map(), before: event?.began ?? null, event: event && waiting(event) });
}

/** The slots that moved, the last ones first. */
export function movedOf(event: MonitorEvent | null): Moved[] {
  return (event?.moved ?? []).map(([universe, slot, ago, low, high]) => ({ universe, slot, ago, low, high }));
}

/** Of each universe its 64 bins: levels 0..254, and whether any of their slots just moved. */
export function stripsOf(event: MonitorEvent | null): Map<number, Uint8Array> {
  const bytes = event ? Uint8Array.from(atob(event.strips), (one) => one.charCodeAt(0)) : new Uint8Array();
  return new Map((event?.universes ?? []).map((universe, i) => [universe, bytes.subarray(i * 64, i * 64 + 64)]));
}

/** Who wins a slot of the universe that is watched, and who else speaks for it. */
export function winnerOf(event: MonitorEvent | null, universe: number, slot: number): { wins: MonitorEvent["sources"][number] | undefined; others: MonitorEvent["sources"] } {
  if (!event || event.universe !== universe) return { wins: undefined, others: [] };
  const place = event.winners.find(([last]) => slot <= (last as number))?.[1] as number | undefined;
  const wins = place === undefined || place < 0 ? undefined : event.sources[place];
  return { wins, others: event.sources.filter((one) => one !== wins) };
}

/** What a slot means, at the levels that the desk knows. */
export function askMeaning(universe: number, slot: number): Promise<MeaningOut[]> {
  return get("/api/shows/{show}/slots/{universe}/{slot}", { params: { path: { ...at().params.path, universe, slot } } });
}
