import { Box, chakra, Flex } from "@chakra-ui/react";
import { History, Redo2, Undo2 } from "lucide-react";
import { Mark } from "../kit/Mark";
import { Action, Keys } from "../kit/controls";
import { leaveExchange } from "../exchange/state";
import { leaveShop } from "../shop/state";
import { settings, useShow } from "../show/document";
import { redo, undo } from "../show/edits";
import { useLink } from "../show/connection";
import { goTo, useSelection } from "../show/selection";
import { type Step, STEPS } from "../show/types";
import { STEP_VIEWS } from "./steps";

interface Bead {
  count: string;
  tone: "none" | "ok" | "attention" | "wrong";
  said: string;
}

/** What a step holds, and whether something in it wants doing. */
function useBeads(): Record<Step, Bead> {
  const counts = useShow((state) => state.counts);
  const findings = useShow((state) => state.findings);
  const signal = useLink((state) => state.signal);
  const bead = (step: Step): Bead => {
    if (step === "signal") {
      const live = signal?.universes.filter((one) => one.state === "live").length ?? 0;
      const held = signal?.universes.filter((one) => one.state === "held").length ?? 0;
      if (live) return { count: `${live} live`, tone: "ok", said: "" };
      return held ? { count: `${held} held`, tone: "attention", said: "" } : { count: "", tone: "none", said: "nothing heard" };
    }
    const found = findings.filter((one) => one.step === step);
    const held = counts[step] ?? 0;
    if (found.length) {
      const wrong = found.some((one) => one.wrong);
      return { count: `${found.length} to do`, tone: wrong ? "wrong" : "attention", said: `of ${held}` };
    }
    return { count: held ? String(held) : "", tone: held ? "ok" : "none", said: held ? "in order" : "empty" };
  };
  return Object.fromEntries(STEPS.map((step) => [step, bead(step)])) as Record<Step, Bead>;
}

const TONES = { none: "faint", ok: "verdigris", attention: "ember", wrong: "rose" } as const;

function BeadSign({ tone, on }: { tone: Bead["tone"]; on: boolean }) {
  const colour = on ? "brass" : TONES[tone];
  return (
    <chakra.svg width="18px" height="16px" viewBox="-9 -8 18 16" stroke={colour} fill={on ? "brass" : "ink1"} strokeWidth="1.5" aria-hidden>
      {tone === "attention" ? <path d="M0-7 7 0 0 7-7 0Z" /> : tone === "wrong" ? <path d="M-5.5-5.5h11v11h-11Z" /> : <circle r="6.2" />}
      <chakra.circle r="1.6" fill={on ? "ink0" : colour} stroke="none" />
    </chakra.svg>
  );
}

export function WorkLine({ onFind, onHistory, onShow }: { onFind: () => void; onHistory: () => void; onShow: () => void }) {
  const step = useSelection((state) => state.step);
  const show = useShow((state) => settings(state.objects));
  const undoing = useShow((state) => state.undo);
  const redoing = useShow((state) => state.redo);
  const beads = useBeads();
  return (
    <Flex as="header" gridColumn="1 / 3" bg="ink1" borderBottom="1px solid" borderColor="line" align="stretch">
      <Flex width="52px" align="center" justify="center">
        <Mark />
      </Flex>
      <chakra.button type="button" data-part="show" title="The show: name, units, open another, save a copy" textAlign="left" cursor="pointer" display="flex" flexDirection="column" justifyContent="center" width={{ base: "120px", lg: "168px" }} pr="10px" borderRight="1px solid" borderColor="line" _hover={{ bg: "ink2" }} onClick={onShow}>
        <Box as="h1" fontSize="13.5px" fontWeight={600} truncate>
          {show.name}
        </Box>{" "}
        <Box fontSize="11px" color="dim" truncate>
          {show.venue}
        </Box>
      </chakra.button>
      <Flex as="nav" aria-label="Work line" flex="1" minWidth="0" px="8px" position="relative">
        <Box position="absolute" left="40px" right="40px" top="17px" height="1px" bg="line" />
        {STEPS.map((one, i) => {
          const bead = beads[one];
          const on = one === step;
          return (
            <chakra.button
              key={one}
              type="button"
              aria-current={on ? "step" : undefined}
              aria-label={`${STEP_VIEWS[one].name} ${bead.count}${bead.count && bead.said ? ", " : ""}${bead.said}`.trim()}
              title={`${STEP_VIEWS[one].says} (Alt+${i + 1})`}
              flex="1"
              minWidth="0"
              position="relative"
              display="flex"
              flexDirection="column"
              alignItems="center"
              pt="9px"
              gap="2px"
              cursor="pointer"
              borderBottom="2px solid"
              borderColor={on ? "brass" : "transparent"}
              _hover={{ bg: "ink2" }}
              onClick={() => {
                leaveShop();
                leaveExchange();
                goTo(one);
              }}
            >
              <Box zIndex={1} bg="ink1" px="2px" height="16px">
                <BeadSign tone={bead.tone} on={on} />
              </Box>
              <Flex gap="5px" align="baseline" fontSize="12.5px" fontWeight={550} color={on ? "text" : "dim"} whiteSpace="nowrap">
                {STEP_VIEWS[one].name}{" "}
                <Box as="span" fontFamily="mono" fontSize="11px" fontWeight={400} color={bead.tone === "none" || bead.tone === "ok" ? "faint" : TONES[bead.tone]}>
                  {bead.count}
                </Box>
              </Flex>
            </chakra.button>
          );
        })}
      </Flex>
      <Flex align="center" gap="2px" px="8px" borderLeft="1px solid" borderColor="line">
        <Action look="quiet" aria-label="Undo" title={undoing ? `Undo: ${undoing}` : "Nothing to undo"} disabled={!undoing} onClick={() => void undo()}>
          <Undo2 size={15} />
        </Action>
        <Action look="quiet" aria-label="Redo" title={redoing ? `Redo: ${redoing}` : "Nothing to redo"} disabled={!redoing} onClick={() => void redo()}>
          <Redo2 size={15} />
        </Action>
        <Action look="quiet" aria-label="History" title="History and restore points" onClick={onHistory}>
          <History size={15} />
        </Action>
        <Action look="quiet" onClick={onFind}>
          Find or do <Keys>Ctrl K</Keys>
        </Action>
      </Flex>
    </Flex>
  );
}
