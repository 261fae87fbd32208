import { Box } from "@chakra-ui/react";
import { Action, Section, Sign } from "../../kit/controls";
import { Readiness } from "../../show/CardHead";
import { settings, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { useLink } from "../../show/connection";
import { many } from "../../show/format";
import { useLasers } from "../../show/lasers";
import { Connections } from "./Connections";
import { Consoles } from "./Consoles";
import { Doctor } from "./Doctor";
import { Recording } from "./Recording";
import { SimulatedList } from "./SimulatedList";

export function SignalCard() {
  const signal = useLink((state) => state.signal);
  const show = useShow((state) => settings(state.objects));
  const held = signal?.universes.filter((one) => one.state === "held") ?? [];
  const live = signal?.universes.filter((one) => one.state === "live") ?? [];
  const dropped = Object.entries(signal?.dropped ?? {});
  return (
    <>
      <Section>
        <Box as="h2" fontSize="15px" fontWeight={600}>
          Signal
        </Box>
        <Box color="dim" fontSize="12px">
          Listening on {signal?.listening || "nothing"}
        </Box>
      </Section>
      <Doctor />
      <Connections />
      <Consoles />
      <Section title="What comes in">
        {live.length > 0 && <Sign tone="fine">{live.length === 1 ? "1 universe" : `${live.length} universes`} live.</Sign>}
        {held.length > 0 && <Sign tone="attention">{heldText(held)} The last levels are held.</Sign>}
        {!live.length && !held.length && <Sign tone="attention">Nothing has been heard yet: start a console, or ask the doctor.</Sign>}
        {dropped.length > 0 && <Sign tone="attention">Packets dropped: {dropped.map(([why, count]) => `${count} ${why}`).join(", ")}.</Sign>}
        {(signal?.kernel_drops ?? 0) > 0 && <Sign tone="wrong">{signal?.kernel_drops} packets were lost in this machine before they could be read.</Sign>}
        <Action
          mt="6px"
          width="100%"
          look={show.follow_console ? "on" : "plain"}
          aria-pressed={show.follow_console}
          onClick={() => void edit("set show", { follow_console: !show.follow_console }).catch(() => undefined)}
        >
          {show.follow_console ? "The console drives the picture" : "Let the console drive the picture"}
        </Action>
        <Action
          mt="6px" width="100%" look={show.spare_console ? "on" : "plain"} aria-pressed={show.spare_console}
          title="For a console on this very machine: pictures are made less often and take less of it. Where its packets come late because of them, they slow down in any case"
          onClick={() => void edit("set show", { spare_console: !show.spare_console }).catch(() => undefined)}
        >
          {show.spare_console ? "Room is left for a console here" : "Leave room for a console here"}
        </Action>
        {signal?.pace.said && <Sign tone="attention">{signal.pace.said}</Sign>}
      </Section>
      <LaserFeeds />
      <Readiness step="signal" />
      <Recording />
      <SimulatedList />
    </>
  );
}

/** Which laser feeds come in; nothing where the show has no lasers and none is heard. */
function LaserFeeds() {
  const lasers = useLink((state) => state.signal?.lasers);
  const heads = useLasers((state) => state.told.heads.length);
  const heard = lasers?.feeds.filter((one) => one.heard) ?? [];
  if (!lasers || (!heads && !heard.length)) return null;
  const dropped = Object.entries(lasers.dropped);
  const rate = Math.round(Math.max(0, ...heard.map((one) => one.rate_hz)));
  return (
    <Section title="Laser feeds">
      {lasers.problem ? <Sign tone="wrong">{lasers.problem}</Sign> : <Box fontSize="12px" color="dim">Heard on {lasers.address}, port {lasers.port}.</Box>}
      {heard.length > 0
        ? <Sign tone="fine">{many(heard.length, "feed")}: {spans(heard.map((one) => one.feed))}, {rate} frames a second, up to {Math.max(...heard.map((one) => one.points))} points.</Sign>
        : <Sign tone="attention">No feed is heard: start one, or play the simulated feed on a laser's card in Aim.</Sign>}
      {dropped.length > 0 && <Sign tone="attention">Left out: {dropped.map(([why, count]) => `${count} ${why}`).join(", ")}.</Sign>}
    </Section>
  );
}

/** Numbers in order, those that follow each other as one: 1-6, 9. */
function spans(numbers: readonly number[]): string {
  const found: [number, number][] = [];
  for (const one of [...numbers].sort((a, b) => a - b)) {
    const last = found.at(-1);
    if (last && one <= last[1] + 1) last[1] = one;
    else found.push([one, one]);
  }
  return found.map(([first, last]) => (first === last ? String(first) : `${first}-${last}`)).join(", ");
}

/** Which universes are held, and who stopped; where nobody did, they are silenced, or were held before a restart. */
function heldText(held: { universe: number; last_source: string }[]): string {
  const [first] = held;
  const why = first?.last_source ? `${first.last_source} stopped` : "no source is heard any more";
  return `${held.length === 1 ? `Universe ${first?.universe}` : `${held.length} universes`}: ${why}.`;
}
