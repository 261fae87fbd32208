import { create } from "zustand";
import { Refused } from "./api";
import { thing, useShow } from "./document";
import { edit, leaveGhost, preview, useGhost } from "./edits";
import { refused } from "./messages";
import { select, useSelection } from "./selection";
import { runsOf } from "./slots";
import type { EditArgs, Thing } from "./types";

/** Where they are put: a slot of a universe, or a dimmer. */
export type Target = { universe: number; slot: number } | { dimmer: number };
type How = Required<Pick<EditArgs["address"], "order" | "gap" | "same" | "cut" | "reverse">> & { /** So many on one dimmer; none: all on the one. */ onEach: string };

/** A tool begins fresh: nothing of last time is silently still on. */
const FRESH: How = { order: "number", gap: "0", same: false, cut: false, reverse: false, onEach: "1" };

/** Fixtures that are carried over the map of universes or of dimmers: which, to where, and how they will lie there. */
export const useCarried = create<{ ids: string[]; dragged: boolean; to: Target | null; how: How; said: string[]; wrong: string }>(() => ({
  ids: [], dragged: false, to: null, how: FRESH, said: [], wrong: "",
}));

const written = ({ universe, slot }: { universe: number; slot: number }): string => `${universe}.${String(slot).padStart(3, "0")}`;

const addressed = (ids: string[], to: { universe: number; slot: number }, { order, gap, same, cut, reverse }: How): EditArgs["address"] => ({ ids, start: written(to), order, gap, same, cut, reverse });

/** All to the one dimmer, or so many to it and the next ones to the next. */
const plugged = (ids: string[], dimmer: number, { order, reverse, onEach }: How): EditArgs["plug"] => ({ ids, dimmer: String(dimmer), on_each: onEach, order, reverse });

/** Take fixtures up. What is on one dimmer stays together. */
export function carry(ids: string[], dragged = false): void {
  if (!ids.length) return;
  const { objects } = useShow.getState();
  const dimmers = new Set(ids.map((id) => thing(objects, id, "fixture")?.body.dimmer ?? id));
  useCarried.setState({ ids, dragged, to: null, how: { ...FRESH, onEach: ids.length > 1 && dimmers.size === 1 ? "" : FRESH.onEach }, said: [], wrong: "" });
}

/** Take the selected fixtures up. */
export function carrySelected(): void {
  const { objects } = useShow.getState();
  carry(useSelection.getState().selection.filter((id) => objects[id]?.kind === "fixture"));
}

export function leaveCarried(): void {
  useCarried.setState({ ids: [], dragged: false, to: null, said: [], wrong: "" });
  leaveGhost();
}

/** Over a slot or a dimmer: the ghost shows where each would lie. */
export function carryOver(to: Target): void {
  const now = useCarried.getState().to;
  if (JSON.stringify(now) === JSON.stringify(to)) return;
  useCarried.setState({ to });
  look();
}

/** Lay them otherwise: in another order, with a gap, all on one address. */
export function carryAs(how: Partial<How>): void {
  useCarried.setState((now) => ({ how: { ...now.how, ...how } }));
  look();
}

function look(): void {
  const { ids, to, how } = useCarried.getState();
  if (!ids.length || !to) return;
  const asked = "dimmer" in to ? preview("plug", plugged(ids, to.dimmer, how)) : preview("address", addressed(ids, to, how));
  asked.then(
    (result) => result && useCarried.setState({ said: result.report ?? [], wrong: "" }),
    (wrong: unknown) => useCarried.setState({ said: [], wrong: wrong instanceof Refused ? wrong.message : String(wrong) }),
  );
}

/** Put them where the ghost shows. */
export async function takeCarried(): Promise<void> {
  const { ids, to, how } = useCarried.getState();
  if (!ids.length || !to) return leaveCarried();
  try {
    const quietly = { quiet: true, tellsItself: true };
    if ("dimmer" in to) await edit("plug", plugged(ids, to.dimmer, how), quietly);
    else await edit("address", addressed(ids, to, how), quietly);
    leaveCarried();
    select(ids);
  } catch (wrong) {
    refused(wrong);
  }
}

/** Where the ghost lies: for each universe its runs of slots, with the number of the fixture. */
export function useCarriedRuns(): { number: string; universe: number; address: number; slots: number }[] {
  const carried = useCarried((state) => state.ids.length > 0);
  const ghost = useGhost((state) => state.ghost);
  const types = useShow((state) => state.types);
  if (!carried || !ghost) return [];
  const fixtures = ghost.objects.filter((one) => one.kind === "fixture") as unknown as Thing<"fixture">[];
  return fixtures.flatMap(({ body }) => {
    const mode = types[body.type]?.modes.find((one) => one.name === body.mode);
    return runsOf(body, mode).map(({ universe, address, slots }) => ({ number: body.number == null ? "" : String(body.number), universe, address, slots }));
  });
}

/** Which of the carried would come to which dimmer: their numbers. */
export function useCarriedDimmers(): Map<number, string[]> {
  const to = useCarried((state) => state.to);
  const ghost = useGhost((state) => state.ghost);
  const found = new Map<number, string[]>();
  if (!to || !("dimmer" in to) || !ghost) return found;
  for (const { body } of ghost.objects.filter((one) => one.kind === "fixture") as unknown as Thing<"fixture">[]) {
    if (body.dimmer != null) found.set(body.dimmer, [...(found.get(body.dimmer) ?? []), body.number == null ? "·" : String(body.number)]);
  }
  return found;
}
