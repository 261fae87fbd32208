import { useEffect, useMemo } from "react";
import { called, useShow } from "../show/document";
import { onLasers, useLasers } from "../show/lasers";
import { useLink } from "../show/connection";
import { usePanes } from "../show/panes";
import { usePicture } from "../show/picture";
import { useSelection } from "../show/selection";
import type { LaserZone } from "../stage/data";

/** Places of an edge to a corner (core/lasers/zone.py). */
const CORNER = 8;

/** A picture that is to rest takes what lasers draw so long after it was all on screen; the last of it always. */
const REST_MS = 1500;

/** Hears what lasers draw; one that is to rest comes to rest between (`settled`: whether it is). */
function spacedBy(rests: boolean, settled: () => boolean, show: Parameters<typeof onLasers>[0]): () => void {
  let last = -Infinity;
  let later = 0;
  let drawn = 0;
  const leave = onLasers((told, paths) => {
    window.clearTimeout(later);
    const run = () => {
      const now = performance.now();
      if (rests && !settled()) last = now;
      // One head more or less is seen at once.
      if (rests && paths.length === drawn && now - last < REST_MS) {
        later = window.setTimeout(run, REST_MS / 5);
        return;
      }
      last = now;
      drawn = paths.length;
      show(told, paths);
    };
    run();
  });
  return () => {
    window.clearTimeout(later);
    leave();
  };
}

/** Gives the stage what lasers draw, with every message that says so, and their zones while somebody looks at them. */
export function useLaserFeed(): void {
  const stage = usePanes((state) => state.stage);
  const patch = useLink((state) => state.patch);
  const rests = usePicture((state) => state.wish.rests === true);
  useEffect(
    () =>
      spacedBy(rests, () => !stage || stage.report().settled, (told, paths) => {
        if (!stage) return;
        const rowOf = (key: string) => {
          const [id, cell] = key.split("/");
          const row = stage.state.rowOf(id ?? "");
          return row === undefined ? undefined : row + (cell ? Number(cell) - 1 : 0);
        };
        const heads = told.heads.map((head) => ({ key: head.key, lm: head.lm, diameter: head.diameter_m, divergence: head.divergence_mrad * 1e-3 }));
        stage.state.lasers.show(heads, paths, rowOf);
        // Panes that show them draw again.
        stage.invalidate(stage.layout().filter(({ pane }) => pane.picture === "live" && pane.shade === "lit").map(({ pane }) => pane.id));
      }),
    // Rows are another patch's.
    [stage, patch, rests],
  );
  const zones = useLasers((state) => (state.shown ? state.zones : null));
  const objects = useShow((state) => state.objects);
  const selection = useSelection((state) => state.selection);
  const drawn = useMemo<LaserZone[]>(
    () =>
      (zones?.heads ?? []).map((head) => {
        const over = head.crossings.filter((one) => one.over);
        return {
          id: head.id, label: head.feed == null ? called(objects[head.id]) : `feed ${head.feed}`, chosen: selection.includes(head.id),
          place: head.place, edge: head.edge, corner: CORNER, over: over.some((one) => one.what === "people"), crossings: over.filter((one) => one.what !== "open").map((one) => one.where),
        };
      }),
    [zones, objects, selection],
  );
  useEffect(() => stage?.tell({ zones: drawn }), [stage, drawn]);
}
