import { useMemo } from "react";
import { colourOf } from "../../kit/theme";
import { useCarried } from "../../show/carrying";
import { things, useShow } from "../../show/document";
import { useGhost } from "../../show/edits";
import { useSelection } from "../../show/selection";
import type { Row } from "../../show/types";
import type { FixtureMark } from "../../stage/data";
import { usePatchView, type View } from "./view";

const NONE: ReadonlyMap<string, FixtureMark> = new Map();
const UNPATCHED: FixtureMark = { text: "", colour: "transparent" };

/** What is marked on the stage while the map is open: the universe of each fixture, of one universe only its own, or
 * the dimmer of each lamp in the colour of its rack. */
export function marksOf(objects: Record<string, Row>, view: View, universe: number | null): ReadonlyMap<string, FixtureMark> {
  if (view === "list") return NONE;
  const fixtures = things(objects, "fixture");
  if (view === "dimmers") {
    const racks = things(objects, "rack");
    const rackOf = (dimmer: number) => racks.findIndex(({ body: { first = 1, count = 0 } }) => first <= dimmer && dimmer < first + count);
    return new Map(fixtures.flatMap(({ id, body }) => (body.dimmer == null ? [] : [[id, { text: String(body.dimmer), colour: colourOf(rackOf(body.dimmer) + 1) }] as const])));
  }
  const shown = fixtures.filter(({ body }) => view === "universes" || body.universe === universe);
  return new Map(shown.map(({ id, body }) => [id, body.universe == null || body.address == null ? UNPATCHED : { text: String(body.universe), colour: colourOf(body.universe) }]));
}

/** The same, kept up to date; nothing in any other step. */
export function usePatchMarks(): ReadonlyMap<string, FixtureMark> {
  const step = useSelection((state) => state.step);
  const objects = useShow((state) => state.objects);
  const { view, universe } = usePatchView();
  const carried = useCarried((state) => state.ids.length > 0);
  const ghost = useGhost((state) => state.ghost);
  return useMemo(() => {
    // What is carried wears what it would come to.
    const coming = carried && ghost ? { ...objects, ...Object.fromEntries((ghost.objects as Row[]).map((row) => [row.id, row])) } : objects;
    const first = Math.min(...things(objects, "fixture").map((one) => one.body.universe ?? Infinity));
    return step === "patch" ? marksOf(coming, view, universe ?? first) : NONE;
  }, [step, objects, view, universe, carried, ghost]);
}
