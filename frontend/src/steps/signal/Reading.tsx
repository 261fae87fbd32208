import { Box, Flex } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { askMeaning, useMonitor, winnerOf } from "../../show/monitor";
import type { MeaningOut } from "../../show/types";

const SETTLES_MS = 120;
const AGAIN_MS = 600;

/** What the slot under the pointer is, does, and who decides it. */
export function Reading({ universe, slot, level, frozen }: { universe: number; slot: number | null; level: number; frozen: boolean }) {
  const event = useMonitor((state) => state.event);
  const meant = useMeaning(universe, slot, frozen);
  const { wins, others } = winnerOf(event, universe, slot ?? 0);
  return (
    <Flex role="status" aria-label="The slot under the pointer" align="center" gap="14px" height="24px" flex="none" px="12px" fontSize="12px" color="dim" borderBottom="1px solid" borderColor="line" whiteSpace="nowrap" overflow="hidden">
      {slot === null && <Box>{frozen ? "Frozen: the picture goes on. " : ""}Point at a slot: whose it is, what it does, who decides it.</Box>}
      {slot !== null && (
        <>
          <Box fontFamily="mono" color="text">
            {universe}.{String(slot).padStart(3, "0")} at {level}
          </Box>
          {meant?.map((one) => (
            <Box key={one.fixture} color="text">
              fixture {one.number}: <Box as="span" color="brass">{one.words.join(", ") || `${one.channel}: not now`}</Box>
              {one.byte && ` (${one.byte}, ${one.raw} of ${one.top} in all)`}
            </Box>
          ))}
          {meant?.length === 0 && <Box>no fixture</Box>}
          {wins && (
            <Box>
              from <Box as="span" color="verdigris">{wins.name}</Box>, priority {wins.by_slot ? "by slot" : wins.priority}
              {others.length > 0 && `; not ${others.map((one) => `${one.name} (${one.by_slot ? "by slot" : one.priority})`).join(", ")}`}
            </Box>
          )}
        </>
      )}
    </Flex>
  );
}

/** Asked once the pointer rests, and again while it stays; null: not known yet. */
function useMeaning(universe: number, slot: number | null, frozen: boolean): MeaningOut[] | null {
  const [meant, setMeant] = useState<{ slot: number; universe: number; all: MeaningOut[] } | null>(null);
  useEffect(() => {
    if (slot === null) return;
    let left = false;
    let next: ReturnType<typeof setTimeout>;
    const ask = () =>
      askMeaning(universe, slot)
        .then((all) => {
          if (!left) setMeant({ slot, universe, all });
        })
        .catch(() => undefined)
        .finally(() => {
          if (!left && !frozen) next = setTimeout(() => void ask(), AGAIN_MS);
        });
    next = setTimeout(() => void ask(), SETTLES_MS);
    return () => {
      left = true;
      clearTimeout(next);
    };
  }, [universe, slot, frozen]);
  return meant && meant.slot === slot && meant.universe === universe ? meant.all : null;
}
