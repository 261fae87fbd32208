import { useEffect, useMemo, useRef } from "react";
import { PALETTE } from "../../kit/theme";
import { called, thing, useShow } from "../../show/document";
import { leaveCompared } from "../../show/compare";
import { usePanes } from "../../show/panes";
import { askAgain, leaveAsk, notesInOrder, paintOf, seenColour, showMap, useReview } from "../../show/review";
import { useSelection } from "../../show/selection";
import type { Asked, Vec3 } from "../../stage/data";
import { useSeats } from "./useSeats";

export const SEEN = { none: PALETTE.rose, some: PALETTE.ember, all: PALETTE.verdigris, unknown: PALETTE.dim };
const RAYS = 12;
/** So long nothing has changed any more. */
const SETTLES_MS = 400;
const NOTHING: Asked = { light: null, seats: [], place: null, rays: [], pins: [] };

/** Gives the stage what Review draws over the picture, as long as Review is there. */
export function usePainted(): void {
  const stage = usePanes((state) => state.stage);
  const objects = useShow((state) => state.objects);
  const mounts = useShow((state) => state.mounts);
  const { view, area, look, map, paints, numbers, sight, lit, place, seat, note } = useReview();
  const seats = useSeats();
  const measured = thing(objects, area, "area")?.body.maps?.[look];
  const rgb = measured?.rgb;
  // What is painted is what was measured last.
  useEffect(() => void (area && showMap(area, look).catch(() => undefined)), [area, look, rgb]);
  const light = useMemo(() => (map && view === "light" ? paintOf(map, paints, numbers) : null), [map, view, paints, numbers]);
  // What was asked of a place is asked again where something that is drawn has changed.
  const stand = useShow((state) => state.stand);
  const askedOf = useRef(stand);
  useEffect(() => {
    if (askedOf.current === stand) return undefined;
    askedOf.current = stand;
    const timer = window.setTimeout(() => (useReview.getState().sight ?? useReview.getState().lit) && askAgain(), SETTLES_MS);
    return () => window.clearTimeout(timer);
  }, [stand]);
  // A pin that is clicked is its note.
  const clicked = useSelection((state) => state.selection[0] ?? "");
  const onNote = thing(objects, clicked, "note") !== undefined;
  useEffect(() => {
    if (onNote) useReview.setState({ note: clicked, view: "notes" });
  }, [onNote, clicked]);
  const asked = useMemo<Asked>(() => {
    const seen = new Map(sight?.seats.map((one) => [one.id, one.seen]));
    const notes = notesInOrder(objects).flatMap((one, i) => (one.body.place ? [{ id: one.id, at: one.body.place as Vec3, text: String(i + 1), done: one.body.done === true, chosen: one.id === note }] : []));
    return {
      light,
      seats: view === "house" && sight ? seats.map((one) => ({ at: one.eye, colour: seenColour(seen.get(one.id), SEEN), chosen: one.id === seat })) : [],
      place: place && (sight ?? lit ?? view === "notes") ? place.point : null,
      rays: lit && place && view === "light"
        ? lit.parts.slice(0, RAYS).flatMap((part) => {
            const from = mounts[part.fixture]?.position;
            return from ? [{ from: from as Vec3, to: place.point, share: part.share, blocked: part.blocked_by !== null && part.lux < part.clear / 2, text: called(objects[part.fixture]) }] : [];
          })
        : [],
      pins: view === "notes" || view === "house" ? notes : [],
    };
  }, [light, view, sight, lit, place, seat, seats, objects, mounts, note]);
  useEffect(() => stage?.tools.ask.show(asked), [stage, asked]);
  useEffect(
    () => () => {
      leaveAsk();
      leaveCompared();
      stage?.tools.ask.show(NOTHING);
    },
    [stage],
  );
}

