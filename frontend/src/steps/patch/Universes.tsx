import { Box, chakra, Flex } from "@chakra-ui/react";
import { colourOf } from "../../kit/theme";
import { Action } from "../../kit/controls";
import { useCarried, useCarriedRuns } from "../../show/carrying";
import { called, things, useShow } from "../../show/document";
import { select, useSelection } from "../../show/selection";
import { groupOf, runsOf } from "../../show/slots";
import { pressToDrag, slotAt } from "./dragging";

interface Run {
  fixture: string;
  number: string;
  universe: number;
  address: number;
  slots: number;
  /** What drives it; others of the same are driven together. */
  group: string;
}

/** What every universe holds. */
function useRuns(): Map<number, Run[]> {
  const objects = useShow((state) => state.objects);
  const types = useShow((state) => state.types);
  const found = new Map<number, Run[]>();
  for (const one of things(objects, "fixture")) {
    const mode = types[one.body.type]?.modes.find((each) => each.name === one.body.mode);
    const group = groupOf(one.body, mode);
    for (const { universe, address, slots } of runsOf(one.body, mode)) {
      const run = { group, fixture: one.id, number: called(objects[one.id]), universe, address, slots };
      found.set(universe, [...(found.get(universe) ?? []), run]);
    }
  }
  return found;
}

/** All universes as strips of how full they are; a fixture is dragged from one to another. */
export function Universes({ universes, onUniverse }: { universes: number[]; onUniverse: (universe: number) => void }) {
  const runs = useRuns();
  const ghosts = useCarriedRuns();
  const selection = new Set(useSelection((state) => state.selection));
  const next = Math.min(Math.max(0, ...universes) + 1, 63999);
  const shown = [...new Set([...universes, next, ...ghosts.map((one) => one.universe)])].sort((a, b) => a - b);
  return (
    <Box overflow="auto" flex="1" minHeight="0" p="6px 14px" role="group" aria-label="Universes">
      {shown.map((universe) => {
        const here = runs.get(universe) ?? [];
        const free = 512 - new Set(here.flatMap((one) => Array.from({ length: one.slots }, (_, i) => one.address + i))).size;
        return (
          <Flex key={universe} align="center" gap="10px" height="26px">
            <Action look="quiet" height="22px" width="58px" fontFamily="mono" justifyContent="flex-end" aria-label={`Show universe ${universe}`} onClick={() => onUniverse(universe)}>
              <Box as="span" aria-hidden width="8px" height="8px" borderRadius="2px" mr="2px" flex="none" bg={colourOf(universe)} />
              {universe}
            </Action>
            <Strip universe={universe} runs={here} ghosts={ghosts.filter((one) => one.universe === universe)} selection={selection} />
            <Box fontFamily="mono" fontSize="11px" color={free < 40 ? "ember" : "dim"} width="64px" textAlign="right">{free === 512 ? "empty" : `${free} free`}</Box>
          </Flex>
        );
      })}
    </Box>
  );
}

function Strip({ universe, runs, ghosts, selection }: { universe: number; runs: Run[]; ghosts: { address: number; slots: number; number: string }[]; selection: Set<string> }) {
  const taken = new Map<number, Set<string>>();
  for (const run of runs) for (let i = 0; i < run.slots; i++) taken.set(run.address + i, (taken.get(run.address + i) ?? new Set()).add(run.group));
  const press = (event: React.PointerEvent) => {
    const at = slotAt(event.clientX, event.clientY);
    const on = runs.filter((run) => at && run.address <= at.slot && at.slot < run.address + run.slots).map((run) => run.fixture);
    if (on.length && !useCarried.getState().ids.length) pressToDrag(event, on);
  };
  const click = (event: React.MouseEvent) => {
    const at = slotAt(event.clientX, event.clientY);
    select(runs.filter((run) => at && run.address <= at.slot && at.slot < run.address + run.slots).map((run) => run.fixture));
  };
  const marks = [...taken].filter(([, groups]) => groups.size > 1).map(([slot]) => slot);
  return (
    <Box position="relative" flex="1" height="20px" bg="ink0" border="1px solid" borderColor="line" borderRadius="2px" overflow="hidden" data-strip={universe} onPointerDown={press} onClick={click} title={`Universe ${universe}: ${runs.length} fixture${runs.length === 1 ? "" : "s"}`}>
      <chakra.svg position="absolute" inset="0" width="100%" height="100%" viewBox="0 0 512 10" preserveAspectRatio="none" pointerEvents="none" aria-hidden>
        {runs.map((run) => (
          <chakra.rect key={`${run.fixture} ${run.address}`} x={run.address - 1} y="1" width={Math.max(run.slots - 0.6, 0.6)} height="8" fill={selection.has(run.fixture) ? "verdigris" : "line"} />
        ))}
        {marks.map((slot) => <chakra.rect key={slot} data-part="conflict" x={slot - 1} y="7.5" width="1" height="2.5" fill="rose" />)}
        {ghosts.map((run) => (
          <chakra.rect key={run.address} x={run.address - 1} y="0" width={Math.max(run.slots - 0.6, 0.6)} height="10" fill="brass" opacity="0.85" />
        ))}
      </chakra.svg>
    </Box>
  );
}
