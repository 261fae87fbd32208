import { Box, chakra, Flex } from "@chakra-ui/react";
import { type PointerEvent as ReactPointer, useEffect, useMemo, useRef, useState } from "react";
import { thing, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { lookName, useLooks } from "../../show/looks";
import { clock, commandRun, runTime, scrub, useRun } from "../../show/run";
import type { OrderTimes, Thing } from "../../show/types";
import { LookPicture } from "../../show/LookPicture";
import { Sound } from "./Sound";
import { comesAfter, lengthOf, secondsText, startsOf, type Step, timeOf } from "./times";

/** CSS pixels: of the ruler, of a picture, of the ramps under it; and the least that a second takes. */
const [RULER, PICTURE, RAMPS] = [20, 62, 26];
const LEAST_PX_S = 4;
const NEAREST_S = 0.1;
const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);
const onTick = (seconds: number) => Math.round(seconds / NEAREST_S) * NEAREST_S;

type Drag = { key: string; of: "fade" | "hold"; by: number };

/** A step with what is dragged of it just now. */
function dragged(step: Step, drag: Drag | null): Step {
  if (!drag || drag.key !== step.key) return step;
  if (drag.of === "hold") return { ...step, hold_s: Math.max((step.hold_s ?? 0) + drag.by, -comesAfter(step)) };
  const fade = Math.max((step.fade_in_s ?? 0) + drag.by, 0);
  return { ...step, fade_in_s: fade, hold_s: Math.max((step.hold_s ?? 0) - (fade - (step.fade_in_s ?? 0)), 0) };
}

/** The order over time: a picture for each step, how it comes and how long it stands, and where one is. */
export function Strip({ order, times }: { order: Thing<"order">; times: OrderTimes }) {
  const [drag, setDrag] = useState<Drag | null>(null);
  const [wide, setWide] = useState(0);
  const [zoom, setZoom] = useState(1);
  const box = useRef<HTMLDivElement>(null);
  const kept = order.body.steps;
  const steps = useMemo(() => (kept ?? []).map((step) => dragged(step, drag)), [kept, drag]);
  const starts = useMemo(() => startsOf(steps), [steps]);
  const total = starts.at(-1) ?? 0;
  useEffect(() => {
    if (!box.current) return;
    const seen = new ResizeObserver(([entry]) => entry && setWide(entry.contentRect.width));
    seen.observe(box.current);
    return () => seen.disconnect();
  }, []);
  const scale = Math.max(((wide - 24) / Math.max(total, 1)) * zoom, LEAST_PX_S);
  return (
    <Box
      ref={box} flex="1" minHeight="0" overflowX="auto" overflowY="hidden" position="relative" px="12px" aria-label={`${order.body.name}, over time`} role="region" tabIndex={0}
      onWheel={(event) => {
        if (event.ctrlKey) setZoom((now) => Math.min(Math.max(now * (event.deltaY < 0 ? 1.2 : 1 / 1.2), 1), 40));
      }}
    >
      <Box position="relative" width={`${total * scale}px`} height="100%" minHeight={`${RULER + PICTURE + RAMPS + 50}px`}>
        <Ruler total={total} scale={scale} order={order} />
        {steps.map((step, i) => (
          <Block key={step.key} order={order} step={step} i={i} left={(starts[i] ?? 0) * scale} scale={scale} late={times.find((one) => one.key === step.key)} onDrag={setDrag} drag={drag} />
        ))}
        {(order.body.markers ?? []).map(([at, name]) => (
          <Box key={at} position="absolute" top={`${RULER}px`} bottom="0" left={`${at * scale}px`} borderLeft="1px dashed" borderColor="verdigris" pointerEvents="none">
            <chakra.button
              type="button" position="absolute" bottom="0" left="2px" fontSize="10px" color="verdigris" bg="ink1" px="3px" cursor="pointer" pointerEvents="auto" title={`${clock(at, true)}. Go there; with Delete it is taken away`} aria-label={`Marker ${name} at ${clock(at, true)}`}
              onClick={() => scrub(at)}
              onKeyDown={(event) => {
                if (event.key !== "Delete") return;
                event.preventDefault();
                quietly(edit("mark order", { id: order.id, markers: (order.body.markers ?? []).filter(([other]) => other !== at) as [number, string][] }));
              }}
            >
              {name}
            </chakra.button>
          </Box>
        ))}
        <Box position="absolute" left="0" right="0" top={`${RULER + PICTURE + RAMPS + 24}px`}>
          <Sound key={order.body.sound ?? ""} order={order} scale={scale} />
        </Box>
        <Playhead order={order.id} scale={scale} />
      </Box>
    </Box>
  );
}

/** Seconds along the top: dragged, it scrubs. */
function Ruler({ total, scale, order }: { total: number; scale: number; order: Thing<"order"> }) {
  const every = [1, 2, 5, 10, 30, 60, 300].find((one) => one * scale > 46) ?? 600;
  const mine = useRun((state) => state.run.order === order.id);
  const at = (event: ReactPointer<HTMLDivElement>) => Math.min(Math.max((event.clientX - event.currentTarget.getBoundingClientRect().left) / scale, 0), total);
  const go = async (to: number) => {
    if (!mine) await edit("play order", { id: order.id });
    scrub(to);
  };
  return (
    <Box
      position="relative" height={`${RULER}px`} cursor="ew-resize" role="slider" aria-label="Where in the running order" aria-valuemin={0} aria-valuemax={Math.round(total)} aria-valuenow={Math.round(runTime())} tabIndex={0}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        quietly(go(at(event)));
      }}
      onPointerMove={(event) => event.buttons === 1 && mine && scrub(at(event))}
      onKeyDown={(event) => {
        const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
        if (!by) return;
        event.preventDefault();
        quietly(go(Math.min(Math.max(runTime() + by * (event.shiftKey ? 5 : 0.5), 0), total)));
      }}
    >
      {Array.from({ length: Math.floor(total / every) + 1 }, (_, i) => (
        <Box key={i} position="absolute" left={`${i * every * scale}px`} top="0" bottom="0" borderLeft="1px solid" borderColor="line" pl="4px" fontFamily="mono" fontSize="10.5px" color="faint" pointerEvents="none">
          {clock(i * every)}
        </Box>
      ))}
    </Box>
  );
}

/** One step: its picture, its name, its ramps, and the edges that set its times. */
function Block({ order, step, i, left, scale, late, drag, onDrag }: {
  order: Thing<"order">; step: Step; i: number; left: number; scale: number; late?: OrderTimes[number]; drag: Drag | null; onDrag: (drag: Drag | null) => void;
}) {
  const objects = useShow((state) => state.objects);
  const chosen = useLooks((state) => state.steps.includes(step.key));
  const here = useRun((state) => state.run.order === order.id && state.run.step === step.key);
  const look = thing(objects, step.look, "look");
  const width = Math.max(lengthOf(step) * scale, 2);
  const wrong = late?.seen.length ?? 0;
  const choose = (add: boolean) => {
    const { steps } = useLooks.getState();
    useLooks.setState({ look: step.look, steps: add ? (chosen ? steps.filter((one) => one !== step.key) : [...steps, step.key]) : [step.key] });
  };
  return (
    <Box
      position="absolute" left={`${left}px`} top={`${RULER}px`} width={`${width}px`} pr="1px" data-step={step.key}
      onDragOver={(event) => event.dataTransfer.types.includes(STEPS) && event.preventDefault()}
      onDrop={(event) => {
        const keys = event.dataTransfer.getData(STEPS);
        if (keys) quietly(edit("move steps", { id: order.id, steps: keys.split(","), before: step.key }));
      }}
    >
      <chakra.button
        type="button" display="flex" flexDirection="column-reverse" width="100%" textAlign="left" cursor="pointer" overflow="hidden" borderRadius="4px" border="1px solid" draggable
        borderColor={chosen ? "verdigris" : here ? "brass" : "line"} bg="ink2" aria-pressed={chosen} title={`Step ${i + 1}: look ${lookName(look)}${step.note ? `. ${step.note}` : ""}`}
        onClick={(event) => choose(event.ctrlKey || event.metaKey)}
        onDoubleClick={() => {
          void (async () => {
            if (useRun.getState().run.order !== order.id) await edit("play order", { id: order.id });
            commandRun("step", i);
          })().catch(() => undefined);
        }}
        onDragStart={(event) => event.dataTransfer.setData(STEPS, step.key)}
      >
        <Flex px="4px" py="1px" gap="4px" fontSize="11px" color={look ? "text" : "rose"} align="center" width="100%">
          <Box truncate flex="1">
            <chakra.span srOnly>Step {i + 1}: look </chakra.span>
            <chakra.span fontFamily="mono" color="faint">{look?.body.number ?? "✕"}</chakra.span> {look?.body.name ?? "gone"}
          </Box>
          {wrong > 0 && <Box color="ember" title={late?.seen.map((one) => one.text).join(" ")}>◇</Box>}
        </Flex>
        <LookPicture look={step.look} height={`${PICTURE}px`} />
      </chakra.button>
      <Ramps step={step} scale={scale} width={width} over={(late?.over_s ?? 0) - (late?.starts_s ?? 0)} />
      <Edge label={`Fade in of step ${i + 1}`} at={timeOf(step, "intensity").reduce((a, b) => a + b, 0)} scale={scale} onDrag={(by) => onDrag({ key: step.key, of: "fade", by })} onTake={(by) => takeFade(order, step.key, by, onDrag)} moving={drag?.key === step.key && drag.of === "fade" ? secondsText(step.fade_in_s ?? 0) : ""} />
      <Edge label={`Length of step ${i + 1}`} at={lengthOf(step)} scale={scale} onDrag={(by) => onDrag({ key: step.key, of: "hold", by })} onTake={(by) => takeHold(order, step.key, by, onDrag)} moving={drag?.key === step.key && drag.of === "hold" ? secondsText(step.hold_s ?? 0) : ""} />
    </Box>
  );
}

const STEPS = "application/x-zarfwright-steps";

function takeFade(order: Thing<"order">, key: string, by: number, onDrag: (drag: null) => void): void {
  const step = order.body.steps?.find((one) => one.key === key);
  if (!step) return;
  const after = dragged(step, { key, of: "fade", by });
  quietly(edit("set step", { id: order.id, steps: [key], fade_in: String(after.fade_in_s?.toFixed(2)), hold: String(after.hold_s?.toFixed(2)) }).finally(() => onDrag(null)));
}

function takeHold(order: Thing<"order">, key: string, by: number, onDrag: (drag: null) => void): void {
  const step = order.body.steps?.find((one) => one.key === key);
  if (!step) return;
  quietly(edit("set step", { id: order.id, steps: [key], hold: String(dragged(step, { key, of: "hold", by }).hold_s?.toFixed(2)) }).finally(() => onDrag(null)));
}

/** How a step comes: what becomes brighter rises, what becomes darker falls, heads travel; then it stands. */
function Ramps({ step, scale, width, over }: { step: Step; scale: number; width: number; over: number }) {
  const [inDelay, fadeIn] = timeOf(step, "intensity");
  const [outDelay, fadeOut] = timeOf(step, "intensity", true);
  const [moveDelay, move] = timeOf(step, "position");
  const x = (seconds: number) => Math.min(seconds * scale, width);
  const h = RAMPS - 4;
  return (
    <chakra.svg width={`${width}px`} height={`${RAMPS}px`} display="block" overflow="hidden" aria-hidden>
      <chakra.path d={`M0 ${h}L${x(inDelay)} ${h}L${x(inDelay + fadeIn)} 2H${width}V${h}Z`} fill="brassDeep" opacity={0.85} />
      <chakra.path d={`M0 2L${x(outDelay)} 2L${x(outDelay + fadeOut)} ${h}`} fill="none" stroke="dim" strokeWidth="1" />
      <chakra.path d={`M${x(moveDelay)} ${RAMPS - 1.5}H${x(moveDelay + move)}`} stroke="verdigris" strokeWidth="2" fill="none" />
      {over > moveDelay + move + 0.05 && <chakra.path d={`M${x(moveDelay + move)} ${RAMPS - 1.5}H${x(over)}`} stroke="ember" strokeWidth="2" strokeDasharray="3 2" fill="none" />}
      {!step.follows && <chakra.path d={`M${width - 2} 2V${h}`} stroke="text" strokeWidth="1.5" />}
    </chakra.svg>
  );
}

/** An edge that is dragged, or moved by the arrows: half a second a press, five with Shift. */
function Edge({ label, at, scale, moving, onDrag, onTake }: { label: string; at: number; scale: number; moving: string; onDrag: (by: number) => void; onTake: (by: number) => void }) {
  const from = useRef<number | null>(null);
  const by = (event: ReactPointer) => onTick((event.clientX - (from.current ?? event.clientX)) / scale);
  return (
    <Box
      role="slider" tabIndex={0} aria-label={label} aria-valuenow={Math.round(at * 10) / 10} aria-valuetext={secondsText(at)} position="absolute" left={`${at * scale - 4}px`} bottom="0" width="8px" height={`${RAMPS + 4}px`} cursor="ew-resize" zIndex={1}
      _hover={{ bg: "brass/30" }} title={`${label}: drag, or type it in the card`}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = event.clientX;
      }}
      onPointerMove={(event) => from.current !== null && onDrag(by(event))}
      onPointerUp={(event) => {
        const moved = by(event);
        from.current = null;
        onTake(moved);
      }}
      onKeyDown={(event) => {
        const way = { ArrowLeft: -0.5, ArrowRight: 0.5 }[event.key];
        if (!way) return;
        event.preventDefault();
        onTake(way * (event.shiftKey ? 10 : 1));
      }}
    >
      {moving && <Box position="absolute" bottom="100%" left="10px" bg="ink0" px="5px" fontFamily="mono" fontSize="11px" color="brass" whiteSpace="nowrap">{moving}</Box>}
    </Box>
  );
}

/** Where one is, past React. */
function Playhead({ order, scale }: { order: string; scale: number }) {
  const line = useRef<HTMLDivElement>(null);
  const mine = useRun((state) => state.run.order === order);
  useEffect(() => {
    if (!mine) return;
    let frame = 0;
    const show = () => {
      if (line.current) line.current.style.transform = `translateX(${runTime() * scale}px)`;
      frame = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(frame);
  }, [mine, scale]);
  if (!mine) return null;
  return (
    <Box ref={line} position="absolute" top="0" bottom="0" left="0" width="0" borderLeft="1.5px solid" borderColor="brass" pointerEvents="none" zIndex={2} data-part="playhead">
      <Box width="9px" height="7px" bg="brass" ml="-5px" css={{ clipPath: "polygon(0 0, 100% 0, 50% 100%)" }} />
    </Box>
  );
}

