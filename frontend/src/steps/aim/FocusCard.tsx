import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Action, Choice, Field, Section } from "../../kit/controls";
import { useDragged } from "../../kit/dragged";
import { called, settings, things, useShow } from "../../show/document";
import { drawPath, usePath } from "../../show/paths";
import { edit, gesture } from "../../show/edits";
import { coordinate, many } from "../../show/format";
import { looksWith } from "../../show/looks";
import { select } from "../../show/selection";
import type { Thing } from "../../show/types";

const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);

/** A focus point: where it is, what it rides on, who is aimed at it. */
export function FocusCard({ point }: { point: Thing<"focus point"> }) {
  const objects = useShow((state) => state.objects);
  const { system } = settings(objects);
  const ids = [point.id];
  const place = point.body.position ?? [0, 0, 0];
  const aimed = things(objects, "fixture").filter((one) => one.body.aim?.point === point.id);
  const field = (name: string, label: string, value: string, numeric = true) => <Field label={label} value={value} numeric={numeric} onCommit={(text) => edit("set field", { ids, field: name, text }, { quiet: true })} />;
  const inLooks = looksWith(objects, point.id);
  const rides = [...things(objects, "figure").filter((one) => (one.body.group ?? "") === ""), ...things(objects, "carrier")];
  return (
    <>
      <Section title="Focus point">
        {field("name", "Name", point.body.name, false)}
        {field("number", "Number", point.body.number == null ? "" : String(point.body.number))}
        {field("x", "SL / SR", coordinate(place[0], "x", system))}
        {field("y", "US / DS", coordinate(place[1], "y", system))}
        {field("z", "Height", coordinate(place[2], "z", system))}
        <Choice label="Rides on" value={point.body.rides ?? ""} options={[{ value: "", label: "nothing" }, ...rides.map((one) => ({ value: one.id, label: called(one) }))]} onChange={(on) => quietly(edit("ride on", { id: point.id, on: on || null }))} />
      </Section>
      <Section title="Aimed at it">
        <Box color="dim" fontSize="12px" mb="6px">
          {aimed.length ? `${many(aimed.length, "fixture")}: ${aimed.slice(0, 12).map((one) => called(one)).join(", ")}${aimed.length > 12 ? " and more" : ""}. They follow it.` : "Nothing yet: select fixtures, aim, and click it in the picture."}
        </Box>
        {inLooks && <Box color="dim" fontSize="12px" mb="6px">It moves in looks {inLooks}, too.</Box>}
        {aimed.length > 0 && <Action onClick={() => select(aimed.map((one) => one.id))}>Select {many(aimed.length, "fixture")}</Action>}
        <Action mt="6px" onClick={() => quietly(edit("remove", { ids }))}>
          Remove the focus point
        </Action>
      </Section>
    </>
  );
}

/** How fast somebody walks on a stage, metres a second. */
const WALK_M_S = 1.1;
const STEP_MS = 100;

/** Where along a way somebody is: the share of its nearest place. */
function shareOf(path: readonly [number, number, number][], at: readonly number[]): number {
  let [gone, best, away] = [0, 0, Infinity];
  for (const [i, to] of path.entries()) {
    const from = path[i - 1];
    if (!from) continue;
    const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
    const long = Math.hypot(dx, dy);
    const part = long ? Math.min(Math.max((((at[0] ?? 0) - from[0]) * dx + ((at[1] ?? 0) - from[1]) * dy) / (long * long), 0), 1) : 0;
    const off = Math.hypot(from[0] + part * dx - (at[0] ?? 0), from[1] + part * dy - (at[1] ?? 0));
    if (off < away) [best, away] = [gone + part * long, off];
    gone += long;
  }
  return gone ? best / gone : 0;
}

/** A person who walks: a way drawn on the stage, and where they are on it. */
export function WalkCard({ figure }: { figure: Thing<"figure"> }) {
  const path = (figure.body.path ?? []) as [number, number, number][];
  const drawing = usePath((state) => state.of === figure.id);
  const long = path.slice(1).reduce((sum, place, i) => sum + Math.hypot(place[0] - (path[i]?.[0] ?? 0), place[1] - (path[i]?.[1] ?? 0)), 0);
  const [share, setShare] = useState(() => shareOf(path, figure.body.position ?? [0, 0, 0]));
  const timer = useRef(0);
  const now = useRef(share);
  const [walking, setWalking] = useState(false);
  const to = (value: number) => gesture("walk", { id: figure.id, share: value });
  const arrive = (value: number) => {
    setShare(value);
    quietly(edit("walk", { id: figure.id, share: value }));
  };
  const { id } = figure;
  // Whoever walks as the card goes stands where they have come to.
  useEffect(
    () => () => {
      if (timer.current) quietly(edit("walk", { id, share: now.current }));
      window.clearInterval(timer.current);
    },
    [id],
  );
  const dragged = useDragged(share, to, arrive);
  const stop = () => {
    window.clearInterval(timer.current);
    timer.current = 0;
    setWalking(false);
    arrive(now.current);
  };
  const walk = () => {
    if (walking) return stop();
    const [from, began] = [share >= 1 ? 0 : share, performance.now()];
    setWalking(true);
    timer.current = window.setInterval(() => {
      now.current = Math.min(from + ((performance.now() - began) / 1000) * (WALK_M_S / long), 1);
      setShare(now.current);
      if (now.current < 1) to(now.current);
      else stop();
    }, STEP_MS);
  };
  return (
    <Section title="Walk">
      <Box color="dim" fontSize="12px" mb="6px">
        {drawing ? "Click the places of the way, one after another; Enter takes it." : path.length > 1 ? `A way of ${long.toFixed(1)} m. Whatever is aimed at a focus point that rides on them follows.` : "Draw a way on the stage: focus points that ride on them are taken along."}
      </Box>
      <Action look={drawing ? "on" : path.length > 1 ? "plain" : "main"} width="100%" aria-pressed={drawing} onClick={() => drawPath(drawing ? null : figure.id)}>
        {drawing ? "Click the places of the way" : path.length > 1 ? "Draw another way" : `Draw where ${figure.body.name} walks`}
      </Action>
      {path.length > 1 && !drawing && (
        <Flex align="center" gap="8px" mt="8px">
          <Action height="24px" onClick={walk}>{walking ? "Stop" : "Walk"}</Action>
          <chakra.input type="range" aria-label="Along the way" min={0} max={1000} value={Math.round(dragged.value * 1000)} accentColor="{colors.brass}" flex="1" minWidth="0" {...dragged.on((text) => Number(text) / 1000)} />
          <Box fontFamily="mono" fontSize="12px" width="52px" textAlign="right">{(dragged.value * long).toFixed(1)} m</Box>
        </Flex>
      )}
    </Section>
  );
}
