import { useEffect, useMemo } from "react";
import { isA } from "../kinds";
import { shapeOf, useArrange } from "../show/arranging";
import { called, keptCarriers, settings, standsElsewhere, thing, things, useShow, valueOf } from "../show/document";
import { readUnderlay, useUnderlay } from "../show/drawing";
import { type ShownGhost, useGesture, useGhost } from "../show/edits";
import { stageLabels } from "../show/labels";
import { useLink } from "../show/connection";
import { useMonitor } from "../show/monitor";
import { fetchLookPicture, fetchLookStand, latestFrames, standing } from "../show/link";
import { comparing, usePanes } from "../show/panes";
import { askLux, usePicture } from "../show/picture";
import { usePresence } from "../show/presence";
import { useRun } from "../show/run";
import { useSelection } from "../show/selection";
import { usePatchMarks } from "../steps/patch/marks";
import type { BodyOut, Row } from "../show/types";
import { IMPERIAL, METRIC } from "../stage/measures";
import type { Body, CarrierMark, Driver, Ghost, Mounted, RailLine, Solid } from "../stage/data";

type Place = Pick<Mounted, "position" | "rotation">;

/** The places of a ghost in the order of what it is of; where ghosts are numbered, those that stay where they are count too. */
function inOrder(ghost: { mounts: Record<string, Place>; order: readonly string[]; numbered: boolean }, now: Record<string, Place>): [string, Place][] {
  const places = ghost.numbered ? { ...Object.fromEntries(ghost.order.flatMap((id) => (now[id] ? [[id, now[id]]] : []))), ...ghost.mounts } : ghost.mounts;
  const at = new Map(ghost.order.map((id, i) => [id, i]));
  return Object.entries(places).sort(([a], [b]) => (at.get(a) ?? 1e9) - (at.get(b) ?? 1e9));
}

/** Bodies as the stage takes them. */
function stageBodies(bodies: readonly BodyOut[]): Body[] {
  return bodies.map((body) => ({
    key: `${body.type}/${body.mode}`, parts: body.parts,
    cells: body.cells.map((cell) => ({
      pan: cell.pan, tilt: cell.tilt, lens: cell.lens, lensRadius: cell.lens_radius, mountTurn: cell.mount_turn, lensTurn: cell.lens_turn, zero: cell.zero, mirror: cell.mirror,
    })),
  }));
}

export function stageGhost(ghost: ShownGhost, now: Record<string, Place>, objects: Record<string, Row>): Ghost {
  const after: Record<string, Row> = Object.fromEntries((ghost.objects as Row[]).map((row) => [row.id, row]));
  const bodyOf = new Map(ghost.objects.flatMap((row) => (row.kind === "fixture" ? [[row.id, `${row.body.type}/${row.body.mode}`] as const] : [])));
  return {
    solids: ghost.scene as Solid[], note: ghost.note, numbered: ghost.numbered, bodies: stageBodies(ghost.bodies ?? []),
    mounts: inOrder(ghost, now).map(([id, place], i) => ({ id, ...place, label: String(valueOf(after[id] ?? objects[id], "number") ?? i + 1), body: bodyOf.get(id) })),
  };
}

/** The focus points, where a gesture has them just now. */
function focusMarks(objects: Record<string, Row>, ghost: ShownGhost | null): CarrierMark[] {
  const dragged = new Map(ghost?.objects.map((row) => [row.id, row as Row]));
  return things(objects, "focus point").map((one) => {
    const now = thing({ [one.id]: dragged.get(one.id) ?? one } as Record<string, Row>, one.id, "focus point") ?? one;
    return { id: one.id, name: one.body.name, short: one.body.number == null ? "" : String(one.body.number), position: now.body.position ?? [0, 0, 0], focus: true };
  });
}

/** Which glyph a type has in plan: a hard-edged profile or a wash. */
function glyph(channels: { attribute: string }[] | undefined): string {
  return channels?.some((channel) => channel.attribute === "Gobo1") ? "profile" : "wash";
}

/** What the running order that is played makes of haze, house lights and exposure just now. */
function useRunAir(): { runs: boolean; haze: number | null; house: number | null; ev: number | null } {
  const runs = useRun((state) => state.run.order !== null);
  const haze = useRun((state) => state.run.haze_per_m);
  const house = useRun((state) => state.run.house_light_lx);
  const ev = useRun((state) => state.run.exposure_ev);
  return { runs, haze, house, ev };
}

/** Gives the stage what the document says, whenever it changes. */
export function useStageFeed(): void {
  const stage = usePanes((state) => state.stage);
  const panes = usePanes((state) => state.panes);
  const objects = useShow((state) => state.objects);
  const scene = useShow((state) => state.scene);
  const mounts = useShow((state) => state.mounts);
  const bodiesOut = useShow((state) => state.bodies);
  const types = useShow((state) => state.types);
  const patch = useLink((state) => state.patch);
  const selection = useSelection((state) => state.selection);
  const step = useSelection((state) => state.step);
  const ghost = useGhost((state) => state.ghost);
  // What is dragged just now stands for what the document has.
  const dragged = useGesture();
  const stored = useShow((state) => state.camera);
  const set = dragged.camera ?? stored;
  const { wish, labels, pinned } = usePicture();
  const pointer = usePanes((state) => state.pointer);
  const stands = useMemo(() => ({ ...settings(objects), ...dragged.show }), [objects, dragged.show]);
  // A running order fades haze, house lights and exposure with it.
  const { haze, house, ev, runs } = useRunAir();
  const show = useMemo(() => (runs ? { ...stands, haze_per_m: haze ?? stands.haze_per_m, house_light_lx: house ?? stands.house_light_lx } : stands), [stands, runs, haze, house]);
  const byRun = runs && ev !== null && show.exposure_kind === "eye" && !show.eye_adapts && !show.exposure_locked;
  const camera = useMemo(() => (set && byRun ? { ...set, ev100: ev, shown_per_cd: set.shown_per_cd * 2 ** (set.ev100 - ev) } : set), [set, byRun, ev]);

  const mounted = useMemo<Mounted[]>(
    () =>
      things(objects, "fixture").flatMap((fixture) => {
        const place = mounts[fixture.id];
        const modes = types[fixture.body.type]?.modes;
        if (!place) return [];
        const channels = modes?.find((mode) => mode.name === fixture.body.mode)?.channels;
        return [
          {
            id: fixture.id, label: called(objects[fixture.id]), kind: glyph(channels), body: `${fixture.body.type}/${fixture.body.mode}`,
            position: place.position, rotation: place.rotation,
          },
        ];
      }),
    [objects, mounts, types],
  );
  const bodies = useMemo<Body[]>(() => stageBodies(bodiesOut), [bodiesOut]);

  // What is on a layer that is not shown is not drawn.
  const hidden = useMemo(() => new Set(things(objects, "layer").filter((one) => one.body.shown === false).map((one) => one.id)), [objects]);
  const off = useMemo(() => new Set(hidden.size ? Object.values(objects).filter((row) => row.layer && hidden.has(row.layer)).map((row) => row.id) : []), [objects, hidden]);
  useEffect(() => stage?.setSolids((off.size ? Object.values(scene).filter((one) => !off.has(one.id.split("/")[0] ?? "")) : Object.values(scene)) as Solid[]), [stage, scene, off]);
  useEffect(() => {
    if (patch && stage) {
      stage.setPatch({ rig: patch.rig, fixtures: patch.fixtures, fields: patch.fields, peak: patch.peak_cd, gobos: patch.gobos, webs: patch.webs, prisms: patch.prisms });
      // At rest no further frame comes: a stage that is new has the one that is there.
      latestFrames((picture, values) => stage.setFrame(picture, values));
    }
    // A new patch has forgotten the pictures of looks that panes still show.
    for (const pane of usePanes.getState().panes) if (pane.picture !== "live") void fetchLookPicture(pane.picture).catch(() => undefined);
  }, [stage, patch]);
  useEffect(() => stage?.setRig(mounted, bodies), [stage, mounted, bodies]);
  useEffect(
    () =>
      camera
        ? stage?.setExposure({
            ev: camera.ev100, shownPerCd: camera.shown_per_cd, white: camera.white, adapts: show.exposure_kind === "eye" && show.eye_adapts,
            held: comparing(panes), bloom: show.bloom, hazePerM: show.haze_per_m, hazeUneven: show.haze_uneven, workLightLx: show.work_light_lx,
            houseLightLx: show.house_light_lx, skyLow: show.background_low, skyHigh: show.background_high, shaftGain: show.shaft_gain,
            poolGain: show.pool_gain, bodyGain: show.body_gain,
          })
        : undefined,
    [stage, camera, show, panes],
  );
  const show_id = useShow((state) => state.id);
  const underlay = useUnderlay((state) => state.read);
  const drawings = JSON.stringify(things(objects, "drawing").map((one) => ({ id: one.id, rev: one.rev, shown: one.body.shown !== false })));
  useEffect(() => {
    if (show_id) void readUnderlay(JSON.parse(drawings) as { id: string; rev: number; shown: boolean }[], show_id).catch(() => undefined);
  }, [drawings, show_id]);
  useEffect(() => stage?.setUnderlay(Object.values(underlay).flatMap((one) => one.lines)), [stage, underlay]);
  useEffect(() => stage?.setMeasures(show.system === "imperial" ? IMPERIAL : METRIC), [stage, show.system]);
  const pace = useLink((state) => state.signal?.pace);
  const share = pace?.share ?? 1;
  const most = 1000 / Math.max(pace?.apart_ms ?? 1, 1);
  // Room for a console beside it: it takes less of the machine, and wants no more pictures than are sent.
  useEffect(() => stage?.setWish({ ...wish, cap: Math.min(wish.cap, share), fps: Math.min(wish.fps, most) }), [stage, wish, share, most]);
  useEffect(() => stage?.setLabels(labels), [stage, labels]);
  // Told again and again, mostly the same.
  const drivers = JSON.stringify(useLink((state) => (step === "aim" || step === "signal" || step === "looks" ? state.signal?.drivers : null)) ?? {});
  useEffect(() => stage?.tell({ drivers: new Map(Object.entries(JSON.parse(drivers) as Record<string, Driver>)) }), [stage, drivers]);
  const moved = useMonitor((state) => state.fixtures);
  useEffect(() => stage?.tell({ moved }), [stage, moved]);
  const marks = usePatchMarks();
  useEffect(() => stage?.tell({ marks }), [stage, marks]);
  useEffect(() => stage?.pinShadows(new Set(pinned)), [stage, pinned]);
  useEffect(() => askLux(pointer.point, pointer.normal), [pointer]);
  useEffect(() => {
    // In Aim lamps stay where they hang: only what is aimed at is moved. In Patch they are dragged to addresses.
    const moves = (kind: string | undefined) => (step === "aim" ? kind === "focus point" || kind === "figure" : isA(kind, "carried") && !(step === "patch" && kind === "fixture"));
    const movable = selection.length > 0 && selection.every((id) => moves(objects[id]?.kind));
    const tall = selection.length === 1 && isA(objects[selection[0] ?? ""]?.kind, "tall");
    stage?.setSelection(new Set(selection), movable, tall);
  }, [stage, selection, objects, step]);
  const others = usePresence((state) => state.others);
  useEffect(() => stage?.setOthers(Object.values(others)), [stage, others]);
  useEffect(() => stage?.setGhost(ghost && stageGhost(ghost, useShow.getState().mounts, useShow.getState().objects)), [stage, ghost]);
  const rails = useShow((state) => state.rails);
  useEffect(() => stage?.setRails(rails as Record<string, RailLine[]>), [stage, rails]);
  const arranging = useArrange();
  useEffect(() => stage?.tools.guide.show(arranging.on ? shapeOf(arranging.args) : null), [stage, arranging]);
  // Handles are for those who build; who looks at the picture sees the picture.
  const building = step === "site" || step === "hang";
  useEffect(
    () => stage?.setCarriers([...(building ? things(objects, "carrier").map((one) => ({ id: one.id, name: one.body.name, position: one.body.position ?? [0, 0, 0] })) : []), ...(step === "aim" ? focusMarks(objects, ghost) : [])] as CarrierMark[]),
    [stage, objects, building, step, ghost],
  );
  // A running order has carriers where the look of its step has them.
  const order = useRun((state) => state.run.order);
  const at = useRun((state) => state.run.step);
  const runLook = thing(objects, order, "order")?.body.steps?.find((one) => one.key === at)?.look ?? "";
  const looksShown = [...panes.map((pane) => pane.picture).filter((picture) => picture !== "live"), ...(runLook ? [`live=${runLook}`] : [])].join();
  useEffect(() => {
    if (!runLook) stage?.setStand("live", null);
  }, [stage, runLook]);
  useEffect(() => {
    // Each look is shown with its carriers where it has them.
    for (const one of looksShown ? looksShown.split(",") : []) {
      const [picture, id] = one.startsWith("live=") ? ["live", one.slice(5)] : [one, one];
      const look = thing(objects, id, "look");
      // What drivers move goes its own way while a running order plays.
      const away = look ? (picture === "live" ? keptCarriers(objects, look.body).some((one) => !one.there) : standsElsewhere(objects, look.body)) : false;
      if (!away) stage?.setStand(picture, null);
      else
        void fetchLookStand(id, picture !== "live").then(
          (stand) => {
            // An answer that came late is about a show that has changed since.
            if (useShow.getState().objects === objects) stage?.setStand(picture, standing(stand));
          },
          () => undefined,
        );
    }
  }, [stage, objects, looksShown]);
  useEffect(() => stage?.setLabelStyles(stageLabels(objects, types)), [stage, objects, types]);
  useEffect(() => {
    // A look that was removed leaves its pane to the live picture.
    for (const pane of panes) {
      if (pane.picture !== "live" && !objects[pane.picture]) {
        usePanes.setState({ panes: usePanes.getState().panes.map((one) => (one.id === pane.id ? { ...one, picture: "live" } : one)) });
      }
    }
  }, [panes, objects]);
}
