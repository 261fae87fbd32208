import { Box, Flex } from "@chakra-ui/react";
import { useCallback, useEffect, useState } from "react";
import { Action, BenchHead } from "../../kit/controls";
import { type Slot, SlotMap } from "../../show/SlotMap";
import { useLink } from "../../show/connection";
import { watchLevels } from "../../show/link";
import { select } from "../../show/selection";
import { usePatchedUniverses, useTaken } from "../../show/slots";
import { Mapping } from "./Mapping";

export function SignalBench() {
  const signal = useLink((state) => state.signal);
  const levels = useLink((state) => state.levels);
  const patched = usePatchedUniverses();
  const [asked, setAsked] = useState<number | null>(null);
  const [view, setView] = useState<"mapping" | "levels">("mapping");
  const heard = signal?.universes.map((one) => one.universe) ?? [];
  const all = [...new Set([...patched, ...heard])].sort((a, b) => a - b);
  const universe = asked ?? heard[0] ?? (all[0] as number);
  const taken = useTaken(universe);
  const pick = useCallback((slot: number) => select((taken.get(slot) ?? []).map((one) => one.fixture)), [taken]);
  const levelsShown = view === "levels";
  useEffect(() => {
    if (!levelsShown) return;
    watchLevels(universe);
    return () => watchLevels(null);
  }, [universe, levelsShown]);
  const see = (one: number) => {
    setAsked(one);
    setView("levels");
  };
  if (view === "mapping") {
    const live = signal?.universes.filter((one) => one.state === "live").length ?? 0;
    return (
      <>
        <BenchHead title="What is heard, and where it lands" note={`${live} of ${all.length} universes live`}>
          <Action look="quiet" height="22px" onClick={() => see(universe)}>
            Levels
          </Action>
        </BenchHead>
        <Mapping onUniverse={see} />
      </>
    );
  }
  const status = signal?.universes.find((one) => one.universe === universe);
  const slots: Slot[] = Array.from({ length: 512 }, (_, i) => {
    const slot = i + 1;
    const level = levels?.[i] ?? 0;
    const who = taken.get(slot)?.map((one) => `fixture ${one.number}, ${one.attribute}`).join(" and ") ?? "no fixture";
    return { slot, label: level ? String(level) : "", title: `Slot ${slot} at ${level}: ${who}`, tone: taken.has(slot) ? "taken" : "empty", level: level / 255 };
  });
  return (
    <>
      <BenchHead
        title={`Universe ${universe}`}
        note={
          <Flex gap="14px" role="status" aria-label="Sources of this universe">
            {status?.sources.map((source) => (
              <Box key={source.name + source.address} title={`Heard as ${source.heard_as}; between packets ${source.jitter_ms} ms more or less, ${source.longest_ms} ms at most; ${source.missed} never came, ${source.late} out of order${source.by_slot ? "; a priority for each slot" : ""}${source.waits ? "; waits to be synchronized" : ""}`}>
                <Box as="span" color="verdigris">
                  {source.name}
                </Box>{" "}
                {source.protocol} from {source.address}, priority {source.priority}, {source.rate_hz.toFixed(0)}/s
              </Box>
            ))}
            {status?.state === "held" && <Box color="ember">Held: {status.last_source ? `${status.last_source} stopped` : "no source is heard any more"}</Box>}
            {!status && <Box>Nothing heard</Box>}
          </Flex>
        }
      >
        <Action look="quiet" height="22px" onClick={() => setView("mapping")}>
          Mapping
        </Action>
        {all.map((one) => (
          <Action key={one} aria-label={`Show universe ${one}`} look={one === universe ? "on" : "quiet"} height="22px" onClick={() => see(one)}>
            {one}
          </Action>
        ))}
      </BenchHead>
      <SlotMap label={`Levels of universe ${universe}`} slots={slots} onClick={pick} />
    </>
  );
}
