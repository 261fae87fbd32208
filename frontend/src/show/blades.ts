import type { Able } from "../stage/gate";
import { thing, useShow } from "./document";
import { edit, gesture } from "./edits";
import { usePanes } from "./panes";
import { useSelection } from "./selection";
import type { BodyOut, Thing } from "./types";

/** What the blades or barn doors of a fixture can do; none: it has none. */
export function bladesOf(fixture: Thing<"fixture">, bodies: readonly BodyOut[]): Able | null {
  return bodies.find((body) => body.type === fixture.body.type && body.mode === fixture.body.mode)?.blades ?? null;
}

/** Who of the selection has blades that are dragged on the picture, and what they can do. */
export function bladedNow(): { id: string; able: Able }[] {
  const { objects, bodies } = useShow.getState();
  if (usePanes.getState().tool !== "blades") return [];
  return useSelection.getState().selection.flatMap((id) => {
    const fixture = thing(objects, id, "fixture");
    const able = fixture && bladesOf(fixture, bodies);
    return able ? [{ id, able }] : [];
  });
}

/** A blade is dragged: the picture follows, and letting go is one edit. */
export function dragBlades(ids: readonly string[], values: Record<string, number>, phase: "move" | "end"): void {
  if (!Object.keys(values).length) return;
  const args = { ids: [...ids], values };
  if (phase === "move") gesture("hold values", args);
  else void edit("hold values", args).catch(() => undefined);
}
