import { Box, Flex } from "@chakra-ui/react";
import { Action } from "../kit/controls";
import { called, settings, useShow } from "../show/document";
import { askDoctor } from "../show/doctor";
import { edit } from "../show/edits";
import { goTo } from "../show/selection";
import { coordinate, length, type System } from "../show/format";
import { stopJob, useJobs } from "../show/jobs";
import { useLink } from "../show/connection";
import { usePanes } from "../show/panes";
import { togglePicture, usePicture } from "../show/picture";
import { offScale } from "./PicturePanel";

/** What comes in, in one line: who speaks and how fast, or since when levels are held. */
export function levelsLine(universes: { universe: number; state: string; last_source: string; sources: { rate_hz: number }[] }[] | undefined): { text: string; tone: string } {
  const live = universes?.filter((one) => one.state === "live") ?? [];
  const held = universes?.filter((one) => one.state === "held") ?? [];
  if (live.length) {
    const rate = Math.max(...live.flatMap((one) => one.sources.map((source) => source.rate_hz)));
    return { text: `Levels in ${Math.round(rate)}/s`, tone: "verdigris" };
  }
  if (held.length) return { text: `Levels held${held[0]?.last_source ? `: ${held[0].last_source} stopped` : ""}`, tone: "ember" };
  return { text: "No levels in", tone: "faint" };
}

/** Lux and distance under the pointer; the lux of another place is not said. */
export function luxLine(point: readonly number[] | null, lux: { value: number; at: readonly number[] } | null, away: number | null, system: System = "metric"): string {
  if (!point) return "";
  const here = lux && lux.at.every((part, i) => part === point[i]) ? `${lux.value < 10 ? lux.value.toFixed(1) : Math.round(lux.value)} lx` : "";
  return [here, away === null ? "" : `${system === "imperial" ? length(away, system) : `${away.toFixed(1)} m`} away`].filter(Boolean).join(" · ");
}

/** What sets the exposure, behind its number. */
function exposedBy(show: { exposure_kind?: string; eye_adapts?: boolean; exposure_locked?: boolean }): string {
  if (show.exposure_kind === "camera") return " camera";
  return show.eye_adapts ? "" : show.exposure_locked ? " locked" : " by look";
}

/** Work that takes long: how far it is, and a button that stops it. */
function Working() {
  const running = useJobs((state) => state.jobs).filter((job) => job.state === "running");
  const first = running[0];
  if (!first) return null;
  return (
    <Flex align="center" gap="6px" color="brass" data-part="jobs">
      {first.name}
      {first.of > 1 ? `, ${first.done} of ${first.of}` : ""}
      {running.length > 1 ? `, and ${running.length - 1} more` : ""}
      <Action look="quiet" height="22px" aria-label={`Stop: ${first.name}`} onClick={() => void stopJob(first.id)}>
        Stop
      </Action>
    </Flex>
  );
}

export function StatusLine() {
  const pointer = usePanes((state) => state.pointer);
  const stats = usePanes((state) => state.stats);
  const tool = usePanes((state) => state.tool);
  const lux = usePicture((state) => state.lux);
  const measured = usePicture((state) => state.measured);
  const objects = useShow((state) => state.objects);
  const signal = useLink((state) => state.signal);
  const savedAt = useShow((state) => state.savedAt);
  const connected = useLink((state) => state.connected);
  const show = settings(objects);
  const levels = levelsLine(signal?.universes);
  const wrong = signal?.connections.find((one) => one.state === "wrong");
  const on = pointer.id ? objects[pointer.id] : undefined;
  return (
    <Flex as="footer" gridColumn="1 / 3" bg="ink1" borderTop="1px solid" borderColor="line" align="center" gap="14px" px="14px" color="dim" fontSize="11.5px" whiteSpace="nowrap" overflow="hidden">
      <Box minWidth="140px" truncate>
        {on ? (on.kind === "fixture" ? `Fixture ${called(on)}` : called(on)) : "Nothing under the pointer"}
      </Box>
      <Box fontFamily="mono" fontSize="11px" width="250px" flexShrink={8} minWidth="0" truncate>
        {pointer.point ? (["x", "y", "z"] as const).map((axis, i) => coordinate(pointer.point?.[i] ?? 0, axis, show.system)).join(" · ") : ""}
      </Box>
      <Box fontFamily="mono" fontSize="11px" width="146px" flexShrink={1} minWidth="0" truncate data-part="lux" title="Light of the show on the face under the pointer, and how far it is from the eye">
        {luxLine(pointer.point, lux, pointer.away, show.system)}
      </Box>
      {tool === "measure" ? <Box color="brass">{measured === null ? "Measure: click a place" : `Measured ${length(measured, show.system)}`}</Box> : <Box>Snap {show.system === "imperial" ? "3\"" : "0.10 m"}</Box>}
      <Box flex="1" />
      {signal?.pace.said && <Box color="ember" truncate flexShrink={4} data-part="pace" title={signal.pace.said}>◇ {signal.pace.said.split(":")[0]}</Box>}
      <Working />
      {(show.playing ?? show.running) && show.follow_console && (
        <Action
          look="quiet" height="22px" color={show.look_first ? "brass" : undefined} aria-pressed={show.look_first} data-part="first"
          title="Who has the say where a console speaks, too: it, or the look or running order that is played. Hands are over both."
          onClick={() => void edit("set show", { look_first: !show.look_first }).catch(() => undefined)}
        >
          {show.look_first ? `${show.running ? "Run" : "Look"} over the console` : `Console over the ${show.running ? "run" : "look"}`}
        </Action>
      )}
      <Action
        look="quiet"
        height="22px"
        aria-pressed={show.follow_console}
        title="Whether the console drives the picture, or the look being played"
        onClick={() => void edit("set show", { follow_console: !show.follow_console }).catch(() => undefined)}
      >
        {show.follow_console ? "Following the console" : "Console not followed"}
      </Action>
      <Action
        look="quiet" height="22px" color={wrong ? "rose" : levels.tone} data-part="levels" title="Why? Ask the doctor: it listens for a moment and says what is wrong"
        onClick={() => { goTo("signal"); void askDoctor(); }}
      >
        {wrong ? "✕" : "●"} {wrong ? `${called(objects[wrong.id]) || "The way in"}: nothing can be heard` : levels.text}
      </Action>
      <Action look="quiet" height="22px" data-part="picture" title="Quality, exposure, haze (E)" onClick={togglePicture}>
        {stats.step} · EV {stats.ev.toFixed(1)}
        {exposedBy(show)}
        {offScale(show) && <Box as="span" color="ember"> ◇ off scale</Box>}
      </Action>
      <Box fontFamily="mono" fontSize="11px" data-part="rate" title={`${stats.jsMs.toFixed(1)} ms of script a frame; drawing keeps the machine busy ${Math.round(stats.load * 100)} % of the time`}>
        {stats.fps} fps · {Math.round(stats.load * 100)} %
      </Box>
      <Box color={connected ? "dim" : "ember"} data-part="saved">
        {connected ? (savedAt ? `Saved ${savedAt.toLocaleTimeString("en-GB")}` : "Saved") : "Not connected: trying again"}
      </Box>
    </Flex>
  );
}
