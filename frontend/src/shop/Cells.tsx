import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Action, Choice, Input, Section } from "../kit/controls";
import { type Draft, gridOf, orderAlong, type Place, ringOf } from "./draft";
import { changeDraft, goHome, setSlots, useShop } from "./state";

const CHASE_MS = 220;

function placed(what: string, cells: Place[]): Promise<boolean> {
  return changeDraft(what, (now) => ({ ...now, body: { ...now.body, cells } }));
}

/** Where the lenses are, with their numbers: dragged about, laid out anew, or numbered by a path drawn over them. */
export function Cells({ draft }: { draft: Draft }) {
  const svg = useRef<SVGSVGElement>(null);
  const [held, setHeld] = useState<{ cell: number; at: Place } | null>(null);
  const [path, setPath] = useState<Place[] | null>(null);
  const [walking, setWalking] = useState(false);
  const [chasing, setChasing] = useState(false);
  const [layout, setLayout] = useState<"grid" | "ring">("grid");
  const [rows, setRows] = useState("1");
  const [columns, setColumns] = useState("8");
  const [pitch, setPitch] = useState("0.12");
  const cells = draft.body.cells.map((one, i): Place => (held?.cell === i ? held.at : one));
  const reachX = Math.max(...cells.map(([x]) => Math.abs(x)), 0.05) * 1.25;
  const reachY = Math.max(...cells.map(([, y]) => Math.abs(y)), 0.05) * 1.25;
  const nearest = Math.min(...cells.flatMap(([x, y], i) => cells.slice(i + 1).map(([u, v]) => Math.hypot(x - u, y - v))), reachX, 0.3);
  const radius = Math.max(nearest * 0.36, reachX * 0.02);
  useChase(chasing, draft);

  const at = (event: React.PointerEvent): Place => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return [0, 0];
    const scale = Math.max((2 * reachX) / box.width, (2 * reachY) / box.height);
    return [(event.clientX - box.left - box.width / 2) * scale, -(event.clientY - box.top - box.height / 2) * scale];
  };
  const lay = () => {
    const [r, c, p] = [Math.max(1, Math.round(Number(rows))), Math.max(1, Math.round(Number(columns))), Number(pitch.replace(",", "."))];
    if (!(p > 0) || r * c > 1024 || !Number.isFinite(r * c)) return;
    void placed(layout === "grid" ? `Lay out ${r} x ${c} lenses` : `Lay out a ring of ${c} lenses`, layout === "grid" ? gridOf(r, c, p) : ringOf(c, p));
  };
  return (
    <Section title={draft.body.cells.length === 1 ? "One lens" : `${draft.body.cells.length} lenses, in the order of their numbers`}>
      {draft.body.cells.length > 1 && (
        <>
          <chakra.svg
            ref={svg} role="img" aria-label="Lenses by number" width="100%" height="112px" viewBox={`${-reachX} ${-reachY} ${2 * reachX} ${2 * reachY}`} bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" cursor={walking ? "crosshair" : "default"} touchAction="none"
            onPointerDown={(event) => {
              if (!walking) return;
              event.currentTarget.setPointerCapture(event.pointerId);
              setPath([at(event)]);
            }}
            onPointerMove={(event) => {
              if (path) setPath([...path, at(event)]);
              else if (held) setHeld({ ...held, at: at(event) });
            }}
            onPointerUp={() => {
              if (path) {
                const order = orderAlong(path, draft.body.cells as Place[], Math.max(radius * 1.2, nearest * 0.45));
                void placed("Number the lenses along a path", order.map((i) => draft.body.cells[i] as Place));
                setPath(null);
                setWalking(false);
              } else if (held) {
                const moved = draft.body.cells.map((one, i): Place => (i === held.cell ? [Number(held.at[0].toFixed(4)), Number(held.at[1].toFixed(4))] : (one as Place)));
                void placed(`Move lens ${held.cell + 1}`, moved);
                setHeld(null);
              }
            }}
          >
            <chakra.polyline points={cells.map(([x, y]) => `${x},${-y}`).join(" ")} fill="none" stroke="brassDeep" strokeWidth={radius * 0.16} />
            {path && <chakra.polyline points={path.map(([x, y]) => `${x},${-y}`).join(" ")} fill="none" stroke="brass" strokeWidth={radius * 0.2} />}
            {cells.map(([x, y], i) => (
              <chakra.g key={i} cursor={walking ? "crosshair" : "grab"} onPointerDown={(event) => { if (!walking) { svg.current?.setPointerCapture(event.pointerId); setHeld({ cell: i, at: [x, y] }); } }}>
                <chakra.circle cx={x} cy={-y} r={radius} fill="ink3" stroke="verdigris" strokeWidth={radius * 0.1} />
                <chakra.text x={x} y={-y} fill="text" fontSize={`${radius * 0.95}px`} textAnchor="middle" dominantBaseline="central" fontFamily="mono">
                  {i + 1}
                </chakra.text>
              </chakra.g>
            ))}
          </chakra.svg>
          <Flex gap="6px" my="6px">
            <Action look={walking ? "on" : "plain"} height="24px" aria-pressed={walking} onClick={() => setWalking(!walking)}>
              Number along a path
            </Action>
            <Action look={chasing ? "on" : "plain"} height="24px" aria-pressed={chasing} onClick={() => setChasing(!chasing)}>
              {chasing ? "Stop the chase" : "Chase"}
            </Action>
          </Flex>
        </>
      )}
      <Choice label="Lay out" value={layout} options={[{ value: "grid", label: "rows and columns" }, { value: "ring", label: "a ring" }]} onChange={setLayout} />
      {layout === "grid" && <Input label="Rows" value={rows} onChange={setRows} />}
      <Input label={layout === "grid" ? "Columns" : "How many"} value={columns} onChange={setColumns} />
      <Input label={layout === "grid" ? "Pitch, m" : "Radius, m"} value={pitch} onChange={setPitch} />
      <Action height="24px" onClick={lay}>
        Lay out {layout === "grid" ? Math.max(1, Math.round(Number(rows) || 1)) * Math.max(1, Math.round(Number(columns) || 1)) : Math.max(1, Math.round(Number(columns) || 1))} lenses
      </Action>
      <Box height="2px" />
    </Section>
  );
}

/** One lens after the other at full, in the order of their numbers: a wrong order is seen at once. */
function useChase(on: boolean, draft: Draft): void {
  const mode = useShop((state) => state.mode);
  useEffect(() => {
    if (!on) return;
    let k = 0;
    const timer = setInterval(() => {
      const { trial } = useShop.getState();
      const channels = draft.modes[mode]?.channels ?? [];
      const lens = trial?.lenses[k++ % Math.max(trial.lenses.length, 1)];
      if (!trial || !lens) return;
      const slots = Object.fromEntries(Object.entries(trial.footprints).map(([number, size]) => [number, Array.from({ length: size }, () => 0)]));
      for (const channel of channels) {
        const attribute = channel.ranges[0]?.attribute ?? "";
        const light = attribute === "Dimmer" || attribute.startsWith("ColorAdd_");
        const own = trial.lenses.includes(channel.part);
        const level = !light && attribute.startsWith("Shutter") ? channel.home : light && (!own || channel.part === lens) ? 255 : 0;
        channel.slots.forEach((slot) => {
          const list = slots[String(channel.dmx_break)];
          if (list) list[slot - 1] = Math.min(level, 255);
        });
      }
      setSlots(slots);
    }, CHASE_MS);
    return () => {
      clearInterval(timer);
      goHome();
    };
  }, [on, draft, mode]);
}
