import { Box, chakra, Flex } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { type Channel, type Draft, lanesOf, meaningOf, meaningsOf, moveEdge, type Range, top, withChannel } from "./draft";
import { whileWords } from "./OnlyWhile";
import { changeDraft, choose, setRaw, useShop } from "./state";

const TONES = ["ink3", "line"] as const;

/** A channel from 0 to its full value: its ranges as they lie, their edges to drag or to push with the arrow keys. */
export function Ruler({ draft }: { draft: Draft }) {
  const { mode: m, channel: c, range: r, trial, attributes } = useShop();
  const strip = useRef<HTMLDivElement>(null);
  const [held, setHeld] = useState<{ range: number; start: number } | null>(null);
  const channel = draft.modes[m]?.channels[c];
  if (!channel) return null;
  const shown: Channel = held ? moveEdge(channel, held.range, held.start) : channel;
  const full = top(shown) + 1;
  const doing = trial?.mode === m ? trial.doing.find((one) => one.channel === c) : undefined;
  const lanes = lanesOf(shown);
  const tall = lanes.length > 1 ? 24 : 34;
  const at = (x: number) => {
    const box = strip.current?.getBoundingClientRect();
    return box ? Math.round(((x - box.left) / box.width) * full) : 0;
  };
  const take = (start: number, which: number) => {
    setHeld(null);
    void changeDraft("Move an edge", (now) => withChannel(now, m, c, (one) => moveEdge(one, which, start)));
  };
  const said = (range: Range): string => whileWords(draft.modes[m]?.channels ?? [], range, attributes);
  const usual = attributes.find((one) => one.name === channel.ranges[0]?.attribute) ?? { low: 0, high: 1 };
  return (
    <Box px="12px" py="8px" borderTop="1px solid" borderColor="line" flex="none" bg="ink2">
      <Box ref={strip} position="relative" height={`${tall * lanes.length}px`} role="group" aria-label="Ranges from 0 to full" cursor="crosshair" onDoubleClick={(event) => setRaw(channel.dmx_break, channel.slots, Math.min(at(event.clientX), full - 1))}>
        {lanes.flatMap((lane, l) => lane.map((i, k) => {
          const range = shown.ranges[i];
          if (!range) return null;
          const meaning = meaningOf(range, meaningsOf(range.attribute, draft.wheels, usual));
          const name = range.name || meaning?.label || range.attribute;
          const left = (range.start / full) * 100;
          const width = ((Math.min(range.end, full - 1) + 1 - range.start) / full) * 100;
          return (
            <Box key={i}>
              <Flex
                position="absolute" top={`${l * tall}px`} height={`${tall - (lanes.length > 1 ? 2 : 0)}px`} left={`${left}%`} width={`${Math.max(width, 0)}%`} bg={i === r ? "verdigrisDeep" : TONES[k % 2]} borderTop="2px solid" align="center" px="5px" overflow="hidden"
                borderColor={range.doubt ? "ember" : i === r ? "verdigris" : range.attribute === "NoFeature" ? "line" : "brassDeep"} title={`${range.start}-${range.end} ${name}`} onClick={() => choose(c, i)} fontSize="11px" whiteSpace="nowrap" cursor="pointer"
              >
                {name}
                {range.master && k === 0 && <Box as="span" color="faint" ml="6px">only while {said(range)}</Box>}
              </Flex>
              {k > 0 && (
                <chakra.div
                  role="slider" tabIndex={0} aria-label={`Edge before ${name}`} aria-valuemin={0} aria-valuemax={full - 1} aria-valuenow={range.start} position="absolute" top={`${l * tall - 2}px`} height={`${tall + 2}px`} width="9px" ml="-4px" left={`${left}%`} cursor="ew-resize" zIndex={2}
                  _hover={{ bg: "brass/50" }}
                  onPointerDown={(event) => { event.currentTarget.setPointerCapture(event.pointerId); setHeld({ range: i, start: range.start }); }}
                  onPointerMove={(event) => { if (held?.range === i) setHeld({ range: i, start: at(event.clientX) }); }}
                  onPointerUp={(event) => { if (held?.range === i) take(at(event.clientX), i); }}
                  onKeyDown={(event) => {
                    const by = (event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0) * (event.shiftKey ? 10 : 1);
                    if (!by) return;
                    event.preventDefault();
                    take(range.start + by, i);
                  }}
                />
              )}
            </Box>
          );
        }))}
        {doing && <Box position="absolute" top="-5px" bottom="-5px" width="2px" bg="brass" left={`${(doing.raw / full) * 100}%`} pointerEvents="none" zIndex={3} />}
      </Box>
      <Flex justify="space-between" fontFamily="mono" fontSize="10.5px" color="faint" mt="3px">
        <Box>0</Box>
        {held && <Box color="brass">{shown.ranges[held.range]?.start}</Box>}
        <Box>{full - 1}</Box>
      </Flex>
    </Box>
  );
}
