import { settings, thing, things, useShow } from "./document";
import { useSelection } from "./selection";
import { length } from "./format";
import type { Thing } from "./types";

/** The fixtures among the selection, in the order they were selected. */
export function useChosenFixtures(): Thing<"fixture">[] {
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  return selection.flatMap((id) => thing(objects, id, "fixture") ?? []);
}

/** All fixtures by number; those without one come last. */
export function useFixtures(): Thing<"fixture">[] {
  const objects = useShow((state) => state.objects);
  return things(objects, "fixture").toSorted((a, b) => (a.body.number ?? 1e9) - (b.body.number ?? 1e9) || a.ord - b.ord);
}

/** Where a fixture hangs: the structure and rail, and how far along. */
export function useHangText(): (fixture: Thing<"fixture">) => [string, string] {
  const objects = useShow((state) => state.objects);
  const { system } = settings(objects);
  return (fixture) => {
    const { hang } = fixture.body;
    if (!hang) return ["free", ""];
    return [thing(objects, hang.structure, "truss")?.body.name ?? "gone", length(hang.along_m, system)];
  };
}
