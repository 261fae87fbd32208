import { Box, chakra, Flex } from "@chakra-ui/react";
import { useCallback, useEffect, useMemo, useState } from "react";
import { Action, BenchHead } from "../../kit/controls";
import { useLink } from "../../show/connection";
import { called, useShow } from "../../show/document";
import { many } from "../../show/format";
import { watchLevels } from "../../show/link";
import { findMoves, movedOf, stripsOf, useMonitor } from "../../show/monitor";
import { select } from "../../show/selection";
import { type Slot, SlotMap } from "../../show/SlotMap";
import { takenOf, useTaken } from "../../show/slots";
import type { SourceOut } from "../../show/types";
import { Reading } from "./Reading";
import { type Listed, Strips } from "./Strips";

/** What comes in, to the slot: all universes in little, one as 512 live levels, what moves, and who wins. */
export function Levels({ universe, all, onUniverse, onMapping }: { universe: number; all: number[]; onUniverse: (universe: number) => void; onMapping: () => void }) {
  const signal = useLink((state) => state.signal);
  const now = useLink((state) => state.levels);
  const { event, frozen, finding } = useMonitor();
  const [kept, setKept] = useState<Uint8Array | null>(null);
  const [slot, setSlot] = useState<number | null>(null);
  const taken = useTaken(universe);
  useEffect(() => {
    watchLevels(universe, true);
    return () => watchLevels(null);
  }, [universe]);
  useEffect(() => () => useMonitor.setState({ frozen: false, finding: false, before: null, event: null, fixtures: new Map() }), []);
  const levels = frozen ? kept : now;
  const moved = useMemo(() => movedOf(event), [event]);
  useFlashing(finding, moved);
  const strips = useMemo(() => stripsOf(event), [event]);
  const flashing = new Set(moved.filter((one) => one.universe === universe && one.ago < 1.2).map((one) => one.slot));
  const listed: Listed[] = all.map((one) => {
    const status = signal?.universes.find((known) => known.universe === one);
    return { universe: one, state: status?.state ?? "silent", rate: Math.max(0, ...(status?.sources.map((source) => source.rate_hz) ?? [])), lit: status?.lit_slots ?? 0 };
  });
  const slots: Slot[] = Array.from({ length: 512 }, (_, i) => {
    const level = levels?.[i] ?? 0;
    const who = taken.get(i + 1)?.map((one) => `fixture ${one.number}, ${one.attribute}`).join(" and ") ?? "no fixture";
    return { slot: i + 1, label: level ? String(level) : "", title: `Slot ${i + 1} at ${level}: ${who}`, tone: taken.has(i + 1) ? "taken" : "empty", level: level / 255, moved: flashing.has(i + 1) };
  });
  const pick = useCallback((at: number) => select((taken.get(at) ?? []).map((one) => one.fixture)), [taken]);
  const status = signal?.universes.find((one) => one.universe === universe);
  const freeze = () => {
    setKept(now);
    useMonitor.setState({ frozen: !frozen });
  };
  // What is frozen is of this universe.
  const show = (one: number) => {
    useMonitor.setState({ frozen: false });
    onUniverse(one);
  };
  const find = () => {
    if (finding) return useMonitor.setState({ finding: false, fixtures: new Map() });
    findMoves();
    watchLevels(universe, true, true);
  };
  return (
    <>
      <BenchHead title={`Universe ${universe}`} note={<Sources sources={status?.sources ?? []} held={status?.state === "held" ? status.last_source || "no source is heard any more" : ""} />}>
        <Action look={finding ? "on" : "quiet"} aria-pressed={finding} height="22px" title="Touch something on the console: its slots are listed, and its fixtures are ringed in the picture" onClick={find}>
          Find what moves
        </Action>
        <Action look={frozen ? "on" : "quiet"} aria-pressed={frozen} height="22px" title="Hold what is shown here; the picture goes on" onClick={freeze}>
          Freeze
        </Action>
        <Action look="quiet" height="22px" onClick={onMapping}>
          Mapping
        </Action>
      </BenchHead>
      <Flex flex="1" minHeight="0">
        <Flex direction="column" width="238px" flex="none" borderRight="1px solid" borderColor="line">
          {finding ? <Found onShow={show} /> : <Strips all={listed} strips={strips} shown={universe} onShow={show} />}
        </Flex>
        <Flex direction="column" flex="1" minWidth="0">
          <Reading universe={universe} slot={slot} level={slot ? (levels?.[slot - 1] ?? 0) : 0} frozen={frozen} />
          <SlotMap label={`Levels of universe ${universe}`} slots={slots} onClick={pick} onHover={setSlot} />
        </Flex>
      </Flex>
    </>
  );
}

/** Who sends, and how steadily. */
function Sources({ sources, held }: { sources: SourceOut[]; held: string }) {
  return (
    <Flex gap="14px" role="status" aria-label="Sources of this universe" minWidth="0" overflow="hidden">
      {sources.map((source) => {
        const faults = [source.missed && `${source.missed} lost`, source.late && `${source.late} out of order`, source.by_slot && "a priority for each slot", source.waits && "waits to be synchronized"].filter(Boolean).join(", ");
        return (
          <Box key={source.name + source.address} whiteSpace="nowrap" title={`Heard as ${source.heard_as}; ${source.longest_ms} ms between packets at most`}>
            <Box as="span" color="verdigris">
              {source.name}
            </Box>{" "}
            {source.protocol} from {source.address}, priority {source.priority}, {source.rate_hz.toFixed(0)}/s ± {source.jitter_ms.toFixed(1)} ms
            {faults && <Box as="span" color="ember"> · {faults}</Box>}
          </Box>
        );
      })}
      {held && <Box color="ember">Held: {held.startsWith("no source") ? held : `${held} stopped`}</Box>}
      {!sources.length && !held && <Box>Nothing heard</Box>}
    </Flex>
  );
}

/** The fixtures of what moves are ringed in the picture while it is looked for. */
function useFlashing(finding: boolean, moved: ReturnType<typeof movedOf>): void {
  const objects = useShow((state) => state.objects);
  const types = useShow((state) => state.types);
  useEffect(() => {
    if (!finding) return;
    const fixtures = new Map<string, number>();
    const byUniverse = new Map<number, ReturnType<typeof takenOf>>();
    for (const one of moved) {
      const taken = byUniverse.get(one.universe) ?? takenOf(objects, types, one.universe);
      byUniverse.set(one.universe, taken);
      for (const { fixture } of taken.get(one.slot) ?? []) if (!fixtures.has(fixture)) fixtures.set(fixture, one.ago);
    }
    useMonitor.setState({ fixtures });
  }, [finding, moved, objects, types]);
}

/** What moved in the last seconds, the last first: whose it is, and between which levels. */
function Found({ onShow }: { onShow: (universe: number) => void }) {
  const event = useMonitor((state) => state.event);
  const objects = useShow((state) => state.objects);
  const types = useShow((state) => state.types);
  const moved = movedOf(event).slice(0, 40);
  const takens = new Map([...new Set(moved.map((one) => one.universe))].map((one) => [one, takenOf(objects, types, one)]));
  return (
    <Box role="list" aria-label="What moves" overflowY="auto" flex="1" minHeight="0" py="4px" fontSize="11.5px">
      {moved.map((one) => {
        const who = takens.get(one.universe)?.get(one.slot) ?? [];
        return (
          <Box key={`${one.universe}.${one.slot}`} role="listitem">
            <chakra.button
              type="button" display="flex" gap="8px" width="100%" px="10px" py="2px" cursor="pointer" textAlign="left" color={one.ago < 1.2 ? "text" : "dim"}
              onClick={() => {
                select(who.map((taken) => taken.fixture));
                onShow(one.universe);
              }}
            >
              <Box fontFamily="mono" color={one.ago < 1.2 ? "brass" : "dim"} flex="none">{one.universe}.{String(one.slot).padStart(3, "0")}</Box>
              <Box flex="1" minWidth="0" truncate>{who.length ? who.map((taken) => `${called(objects[taken.fixture])} ${taken.attribute}`).join(", ") : "no fixture"}</Box>
              <Box fontFamily="mono" flex="none">{one.low} to {one.high}</Box>
            </chakra.button>
          </Box>
        );
      })}
      {!moved.length && (
        <Box color="dim" px="10px" py="4px">
          {event?.settling ? "Hands off for a moment: what moves by itself is left out." : "Touch something on the console."}
          {!event?.settling && (event?.usual ?? 0) > 0 && ` ${many(event?.usual ?? 0, "slot")} that moved anyway ${event?.usual === 1 ? "is" : "are"} left out.`}
        </Box>
      )}
    </Box>
  );
}
