import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { ChevronLeft, ChevronRight, Pause, Play } from "lucide-react";
import { Action } from "../../kit/controls";
import { edit } from "../../show/edits";
import { clock, commandRun, runTime, useRun } from "../../show/run";
import type { Thing } from "../../show/types";
import { startsOf } from "./times";

/** Play the order: it is taken in hand first where it is not yet. */
export async function playOrder(order: Thing<"order">): Promise<void> {
  if (useRun.getState().run.order !== order.id) await edit("play order", { id: order.id });
  commandRun("play");
}

/** Play the order from the beginning of a step. */
export async function playFrom(order: Thing<"order">, place: number): Promise<void> {
  if (useRun.getState().run.order !== order.id) await edit("play order", { id: order.id });
  commandRun("to", startsOf(order.body.steps ?? [])[place] ?? 0);
  commandRun("play");
}

/** Mark this moment of the order. */
export function tapMarker(order: Thing<"order">): void {
  const markers = (order.body.markers ?? []) as [number, string][];
  quietly(edit("mark order", { id: order.id, markers: [...markers, [Math.round(runTime() * 1000) / 1000, String(markers.length + 1)]] }));
}

const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);

/** Play, pause, step both ways, half speed, and where one is. */
export function Transport({ order }: { order: Thing<"order"> }) {
  const run = useRun((state) => state.run);
  const mine = run.order === order.id;
  const going = mine && run.playing && !run.waiting;
  return (
    <Flex align="center" gap="2px" role="group" aria-label="Transport">
      <Action look="quiet" height="24px" aria-label="Back to the step before" title="Back to the step before, all of it there" disabled={!mine} onClick={() => commandRun("back")}>
        <ChevronLeft size={15} />
      </Action>
      <Action
        look={going ? "on" : "plain"} height="24px" minWidth="86px" aria-label={going ? "Pause" : mine && run.waiting ? "Go on to the next step" : "Play"}
        onClick={() => (going ? commandRun("pause") : quietly(playOrder(order)))}
      >
        {going ? <Pause size={13} /> : <Play size={13} />}
        {going ? "Pause" : mine && run.waiting ? "Go on" : "Play"}
      </Action>
      <Action look="quiet" height="24px" aria-label="On to the next step" title="On to the next step, with its times" disabled={!mine} onClick={() => commandRun("next")}>
        <ChevronRight size={15} />
      </Action>
      <Action look={mine && run.speed === 0.5 ? "on" : "quiet"} height="24px" aria-pressed={mine && run.speed === 0.5} disabled={!mine} onClick={() => commandRun("speed", run.speed === 0.5 ? 1 : 0.5)}>
        Half speed
      </Action>
      <Action look="quiet" height="24px" title="Mark this moment (T)" disabled={!mine} onClick={() => tapMarker(order)}>
        Tap
      </Action>
      <Time mine={mine} />
      {mine && (
        <Action look="quiet" height="24px" title="Let go of the running order: the picture is the console's, or home" onClick={() => quietly(edit("play order", { id: null }))}>
          Stop playing
        </Action>
      )}
    </Flex>
  );
}

/** The order's time, past React. */
function Time({ mine }: { mine: boolean }) {
  const text = useRef<HTMLSpanElement>(null);
  const total = useRun((state) => state.run.total_s);
  useEffect(() => {
    if (!mine) return;
    let frame = 0;
    const show = () => {
      if (text.current) text.current.textContent = clock(runTime(), true);
      frame = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(frame);
  }, [mine]);
  if (!mine) return null;
  return (
    <Box fontFamily="mono" fontSize="12px" px="6px" data-part="run time">
      <chakra.span ref={text} color="text" /> <chakra.span color="faint">of {clock(total)}</chakra.span>
    </Box>
  );
}
