import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Action } from "../../kit/controls";
import { bladesOf, dragBlades } from "../../show/blades";
import { toggleTool } from "../../show/cutting";
import { useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { usePanes } from "../../show/panes";
import type { Thing } from "../../show/types";
import { chord, draggedTo, featuresOf, type Gate, gateOf, type Grip, gripsOf, OPEN, SIDES, type Spot } from "../../stage/gate";

const PX = 190;
/** The rim in pixels from the middle: there is room for what turns the whole set. */
const RADIUS = 70;
const NEAR_PX = 12;
/** By an arrow key, in gate radii. */
const STEP = 0.02;
const LOOK_MS = 400;

const KEYS: Record<string, Spot> = { ArrowLeft: { x: -1, y: 0 }, ArrowRight: { x: 1, y: 0 }, ArrowUp: { x: 0, y: 1 }, ArrowDown: { x: 0, y: -1 } };

const onScreen = ({ x, y }: Spot): Spot => ({ x: PX / 2 + x * RADIUS, y: PX / 2 - y * RADIUS });
const nameOf = (grip: Grip): string => (grip.part === "set" ? "Turn the whole set" : `${SIDES[grip.blade] ?? ""} blade${grip.part === "edge" ? "" : grip.part === "start" ? ", its one end" : ", its other end"}`);

/** How the blades of a fixture stand in the picture: they may be driven by a console. */
function useDriven(id: string): Gate {
  const stage = usePanes((state) => state.stage);
  const [gate, setGate] = useState<Gate>(OPEN);
  useEffect(() => {
    const look = () => {
      const row = stage?.state.rowOf(id);
      const now = stage && row !== undefined ? stage.state.gate(row, "live") : OPEN;
      setGate((was) => (JSON.stringify(was) === JSON.stringify(now) ? was : now));
    };
    look();
    const timer = window.setInterval(look, LOOK_MS);
    return () => window.clearInterval(timer);
  }, [stage, id]);
  return gate;
}

/** Blades or barn doors, seen along the beam: edges, their ends and the whole set are dragged, for all that have them. */
export function GateFace({ bladed, few }: { bladed: Thing<"fixture">[]; few: string }) {
  const bodies = useShow((state) => state.bodies);
  const tool = usePanes((state) => state.tool);
  const first = bladed[0] as Thing<"fixture">;
  const able = bladesOf(first, bodies);
  const driven = useDriven(first.id);
  const [dragged, setDragged] = useState<{ from: Gate; gate: Gate; grip: Grip } | null>(null);
  const now = useRef<Gate | null>(null);
  const set = gateOf({ ...first.body.hands, ...first.body.fixed }, driven);
  const gate = dragged?.gate ?? set;
  const ids = bladed.map((one) => one.id);
  const doors = bladed.every((one) => !bladesOf(one, bodies)?.askew && !bladesOf(one, bodies)?.ends);
  if (!able) return null;
  const to = (from: Gate, grip: Grip, spot: Spot, phase: "move" | "end") => {
    const after = draggedTo(from, able, grip, spot);
    dragBlades(ids, featuresOf(from, after, able), phase);
    return after;
  };
  const at = (event: React.PointerEvent<SVGSVGElement>): Spot => {
    const box = event.currentTarget.getBoundingClientRect();
    return { x: (event.clientX - box.left - PX / 2) / RADIUS, y: -(event.clientY - box.top - PX / 2) / RADIUS };
  };
  const press = (event: React.PointerEvent<SVGSVGElement>) => {
    const spot = at(event);
    const near = gripsOf(gate, able).map((grip) => ({ grip, far: Math.hypot(grip.x - spot.x, grip.y - spot.y) * RADIUS })).sort((a, b) => a.far - b.far)[0];
    if (!near || near.far > NEAR_PX) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    now.current = gate;
    setDragged({ from: gate, gate, grip: near.grip });
  };
  const move = (event: React.PointerEvent<SVGSVGElement>) => {
    if (!dragged) return;
    now.current = to(dragged.from, dragged.grip, at(event), "move");
    setDragged({ ...dragged, gate: now.current });
  };
  const letGo = () => {
    if (dragged && now.current) dragBlades(ids, featuresOf(dragged.from, now.current, able), "end");
    setDragged(null);
  };
  const byKey = (grip: Grip) => (event: React.KeyboardEvent) => {
    const by = KEYS[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    to(gate, grip, { x: grip.x + by.x * STEP, y: grip.y + by.y * STEP }, "end");
  };
  return (
    <Box>
      <Box fontSize="11px" fontWeight={600} color="faint" mt="8px" mb="4px">{doors ? "Barn doors" : "Blades"}{few}, as seen along the beam</Box>
      <Flex justify="center">
        <chakra.svg
          role="group" aria-label={doors ? "Barn doors" : "Blades"} width={`${PX}px`} height={`${PX}px`} css={{ touchAction: "none" }} cursor={dragged ? "grabbing" : "grab"}
          onPointerDown={press} onPointerMove={move} onPointerUp={letGo} onPointerCancel={() => setDragged(null)}
        >
          <clipPath id="gate-rim"><circle cx={PX / 2} cy={PX / 2} r={RADIUS} /></clipPath>
          <chakra.circle cx={PX / 2} cy={PX / 2} r={RADIUS} fill="text" opacity={0.85} />
          <g clipPath="url(#gate-rim)">{SIDES.map((side, k) => <Leaf key={side} gate={gate} k={k} />)}</g>
          <chakra.circle cx={PX / 2} cy={PX / 2} r={RADIUS} fill="none" stroke="dim" strokeWidth="1" />
          {gripsOf(gate, able).map((grip) => {
            const { x, y } = onScreen(grip);
            const held = dragged?.grip.blade === grip.blade && dragged.grip.part === grip.part;
            return (
              <chakra.circle
                key={`${grip.blade} ${grip.part}`} tabIndex={0} role="slider" aria-label={nameOf(grip)} cx={x} cy={y} r={grip.part === "edge" ? 5 : 4} onKeyDown={byKey(grip)}
                aria-valuenow={grip.part === "edge" ? Math.round((gate.blades[grip.blade]?.depth ?? 0) * 100) : Math.round(((grip.part === "set" ? gate.turn : gate.blades[grip.blade]?.angle ?? 0) * 180) / Math.PI)}
                stroke="brass" strokeWidth="1.8" fill={held || grip.part === "edge" ? "brass" : "ink1"} _focusVisible={{ outline: "2px solid", outlineColor: "text" }}
              />
            );
          })}
        </chakra.svg>
      </Flex>
      <Flex gap="5px" wrap="wrap" mt="2px">
        <Action look={tool === "blades" ? "on" : "plain"} height="22px" aria-pressed={tool === "blades"} title="Key G: drag edges and their ends where they fall" onClick={() => toggleTool("blades")}>
          On the lit surface
        </Action>
        <Action look={tool === "cut" ? "on" : "plain"} height="22px" aria-pressed={tool === "cut"} title="Key K: click an edge of the set, and the nearest blade of each is laid along it" onClick={() => toggleTool("cut")}>
          {tool === "cut" ? "Click an edge of the set" : "Cut to an edge"}
        </Action>
        <Action height="22px" onClick={() => void edit("hold values", { ids, values: opened(able.askew > 0, able.ends, able.whole > 0) }, { quiet: true }).catch(() => undefined)}>
          Open all
        </Action>
      </Flex>
    </Box>
  );
}

/** What opens every blade of what has such. */
function opened(askew: boolean, ends: boolean, whole: boolean): Record<string, number> {
  const each = SIDES.flatMap((_, k): [string, number][] => [[`blade ${k + 1}`, 0], ...(ends ? [[`blade ${k + 1} far`, 0] as [string, number]] : []), ...(askew ? [[`blade ${k + 1} angle`, 0] as [string, number]] : [])]);
  return Object.fromEntries([...each, ...(whole ? [["blades turn", 0] as [string, number]] : [])]);
}

/** What a blade covers: all beyond its edge. */
function Leaf({ gate, k }: { gate: Gate; k: number }) {
  const ends = chord(gate, k);
  if (!ends) return null;
  const [a, b] = ends;
  const around = gate.turn + (Math.PI / 2) * (k + 1) + (gate.blades[k]?.angle ?? 0);
  const beyond = (spot: Spot): Spot => ({ x: spot.x + 3 * Math.cos(around), y: spot.y + 3 * Math.sin(around) });
  const wide = (spot: Spot, side: number): Spot => ({ x: spot.x - side * 3 * Math.sin(around), y: spot.y + side * 3 * Math.cos(around) });
  const corners = [wide(a, -1), wide(b, 1), beyond(wide(b, 1)), beyond(wide(a, -1))].map(onScreen);
  return <chakra.polygon points={corners.map(({ x, y }) => `${x},${y}`).join(" ")} fill="ink3" stroke="brass" strokeWidth="1.5" />;
}
