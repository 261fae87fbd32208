import { create } from "zustand";
import { Refused } from "./api";
import { useShow } from "./document";
import { edit, leaveGhost, preview, useGhost } from "./edits";
import { refused } from "./messages";
import { select, useSelection } from "./selection";
import { runsOf } from "./slots";
import type { EditArgs, Thing } from "./types";

type How = Required<Pick<EditArgs["address"], "order" | "gap" | "same" | "cut" | "reverse">>;

/** A tool begins fresh: nothing of last time is silently still on. */
const FRESH: How = { order: "number", gap: "0", same: false, cut: false, reverse: false };

/** Fixtures that are carried over the map of universes: which, to where, and how they will lie there. */
export const useCarried = create<{ ids: string[]; dragged: boolean; to: { universe: number; slot: number } | null; how: How; said: string[]; wrong: string }>(() => ({
  ids: [], dragged: false, to: null, how: FRESH, said: [], wrong: "",
}));

const written = ({ universe, slot }: { universe: number; slot: number }): string => `${universe}.${String(slot).padStart(3, "0")}`;

/** Take fixtures up. */
export function carry(ids: string[], dragged = false): void {
  if (!ids.length) return;
  useCarried.setState({ ids, dragged, to: null, how: FRESH, said: [], wrong: "" });
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

/** Over a slot: the ghost shows where each would lie. */
export function carryOver(to: { universe: number; slot: number }): void {
  const now = useCarried.getState().to;
  if (now?.universe === to.universe && now.slot === to.slot) return;
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
  preview("address", { ids, start: written(to), ...how }).then(
    (result) => result && useCarried.setState({ said: result.report ?? [], wrong: "" }),
    (wrong: unknown) => useCarried.setState({ said: [], wrong: wrong instanceof Refused ? wrong.message : String(wrong) }),
  );
}

/** Put them where the ghost shows. */
export async function takeCarried(): Promise<void> {
  const { ids, to, how } = useCarried.getState();
  if (!ids.length || !to) return leaveCarried();
  try {
    await edit("address", { ids, start: written(to), ...how }, { quiet: true, tellsItself: true });
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
