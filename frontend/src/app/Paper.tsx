import { Box, chakra, Flex } from "@chakra-ui/react";
import { Maximize, Minus, Plus } from "lucide-react";
import { type PointerEvent as Press, type RefObject, useEffect, useLayoutEffect, useRef, useState } from "react";
import { Action } from "../kit/controls";
import { Light } from "../kit/Light";
import { called, useShow } from "../show/document";
import { edit } from "../show/edits";
import { List } from "../steps/papers/List";
import { dropped, type Picked, placeIn, sheetShown, useDrawnSheet, usePapers, viewAt } from "../show/papers";
import type { DrawnSheet } from "../show/types";

const MARGIN_PX = 22;
const CLICK_PX = 4;
const LEAST = 0.3;
const MOST = 12;

interface Sight {
  /** Pixels a millimetre, and where the upper left of the sheet is. */
  k: number;
  x: number;
  y: number;
}

/** The sheet itself, where the stage is in other steps: at true proportions, looked at and arranged. */
export function Paper() {
  const objects = useShow((state) => state.objects);
  const { sheet: chosen, view, busy } = usePapers();
  const sheet = sheetShown(objects, chosen);
  const drawn = useDrawnSheet(view === "sheets" ? sheet?.id : undefined);
  if (view === "lists") {
    return (
      <Light role="region" aria-label="List" position="absolute" inset="0" zIndex={4} bg="ink0" p="16px">
        <Flex direction="column" flex="1" minHeight="0" bg="ink1" boxShadow="0 2px 14px rgb(0 0 0 / 0.28)" pt="10px">
          <List />
        </Flex>
      </Light>
    );
  }
  if (!sheet) return null;
  return (
    <Light role="region" aria-label={`Sheet ${called(sheet)}`} position="absolute" inset="0" zIndex={4} bg="ink0">
      {drawn ? <Desk key={sheet.id} id={sheet.id} drawn={drawn} /> : <Flex height="100%" align="center" justify="center" color="dim" role="status">The sheet is being drawn</Flex>}
      {busy === sheet.id && drawn && (
        <Box position="absolute" left="10px" bottom="8px" fontSize="11.5px" color="dim" bg="ink1" px="6px" borderRadius="3px" role="status">Drawn anew</Box>
      )}
    </Light>
  );
}

/** All of the sheet in sight. */
function whole(box: DOMRect, drawn: DrawnSheet): Sight {
  const k = Math.max(Math.min((box.width - 2 * MARGIN_PX) / drawn.width, (box.height - 2 * MARGIN_PX) / drawn.height), LEAST);
  return { k, x: (box.width - drawn.width * k) / 2, y: (box.height - drawn.height * k) / 2 };
}

function useSight(box: RefObject<HTMLDivElement | null>, drawn: DrawnSheet) {
  const [sight, setSight] = useState<Sight>({ k: 1, x: 0, y: 0 });
  const { width, height } = drawn;
  const fit = () => box.current && setSight(whole(box.current.getBoundingClientRect(), drawn));
  useLayoutEffect(() => {
    const area = box.current;
    if (!area) return undefined;
    const again = () => setSight(whole(area.getBoundingClientRect(), { width, height } as DrawnSheet));
    again();
    const watch = new ResizeObserver(again);
    watch.observe(area);
    return () => watch.disconnect();
  }, [box, width, height]);
  const zoom = (by: number, px: number, py: number) =>
    setSight((now) => {
      const k = Math.min(Math.max(now.k * by, LEAST), MOST);
      return { k, x: px - ((px - now.x) * k) / now.k, y: py - ((py - now.y) * k) / now.k };
    });
  return { sight, setSight, fit, zoom };
}

/** What of a sheet a press is on: the part under it, else the view that it is in. */
function pressed(target: Element, drawn: DrawnSheet, x: number, y: number): Picked | null {
  const [sort, view = "", key = ""] = (target.closest("[data-part]")?.getAttribute("data-part") ?? "").split("/");
  if (sort === "label" || sort === "dimension") return { sort, view, key };
  if (sort === "words") return { sort, view: "", key: view };
  const inside = viewAt(drawn, x, y);
  return inside ? { sort: "view", view: inside.key, key: "" } : null;
}

/** The parts of the picture that move with what is picked. */
function partsOf({ sort, view, key }: Picked): string {
  if (sort === "view") return `[data-part="view/${view}"], [data-part^="label/${view}/"], [data-part^="dimension/${view}/"]`;
  return sort === "words" ? `[data-part="words/${key}"]` : `[data-part="${sort}/${view}/${key.replaceAll('"', '')}"]`;
}

/** A copy of what is dragged in a layer of its own: moving it draws nothing anew. */
function lift(paper: HTMLElement, picked: Picked): HTMLElement | null {
  const picture = paper.querySelector("svg");
  if (!picture) return null;
  const copy = picture.cloneNode(false) as SVGElement;
  for (const part of picture.querySelectorAll<SVGElement>(partsOf(picked))) {
    copy.append(part.cloneNode(true));
    part.style.opacity = "0.25";
  }
  const layer = document.createElement("div");
  layer.style.cssText = "position:absolute;inset:0;pointer-events:none;will-change:transform";
  layer.append(copy);
  paper.append(layer);
  return layer;
}

function putDown(paper: HTMLElement, layer: HTMLElement | null): void {
  layer?.remove();
  for (const part of paper.querySelectorAll<SVGElement>("[data-part]")) part.style.opacity = "";
}

interface Drag {
  picked: Picked | null;
  pan: boolean;
  from: [number, number];
  start: Sight;
  layer: HTMLElement | null;
}

function Desk({ id, drawn }: { id: string; drawn: DrawnSheet }) {
  const box = useRef<HTMLDivElement>(null);
  const paper = useRef<HTMLDivElement>(null);
  const drag = useRef<Drag | null>(null);
  const { sight, setSight, fit, zoom } = useSight(box, drawn);
  const { picked, writing, measuring } = usePapers();
  const placed = (event: { clientX: number; clientY: number }): [number, number] => {
    const area = box.current?.getBoundingClientRect();
    return [(event.clientX - (area?.left ?? 0) - sight.x) / sight.k, drawn.height - (event.clientY - (area?.top ?? 0) - sight.y) / sight.k];
  };
  useEffect(() => {
    const area = box.current;
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      const at = area?.getBoundingClientRect();
      zoom(Math.exp(-event.deltaY * 0.0015), event.clientX - (at?.left ?? 0), event.clientY - (at?.top ?? 0));
    };
    area?.addEventListener("wheel", turn, { passive: false });
    return () => area?.removeEventListener("wheel", turn);
  });
  const down = (event: Press<HTMLDivElement>) => {
    const [x, y] = placed(event);
    if (event.button === 0 && writing !== null) return write(id, writing, x, y);
    if (event.button === 0 && measuring) return measure(id, drawn, x, y);
    if (event.button > 1) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const on = event.button === 0 && !event.altKey ? pressed(event.target as Element, drawn, x, y) : null;
    drag.current = { picked: on, pan: event.button === 1, from: [event.clientX, event.clientY], start: sight, layer: null };
  };
  const move = (event: Press<HTMLDivElement>) => {
    const held = drag.current;
    if (!held) return;
    const [dx, dy] = [event.clientX - held.from[0], event.clientY - held.from[1]];
    if (!held.layer && !held.pan && Math.hypot(dx, dy) < CLICK_PX) return;
    if (!held.picked || held.picked.sort === "dimension") {
      held.pan = true;
      return setSight({ ...held.start, x: held.start.x + dx, y: held.start.y + dy });
    }
    held.layer ??= paper.current && lift(paper.current, held.picked);
    if (held.layer) held.layer.style.transform = `translate(${dx}px, ${dy}px)`;
  };
  const up = (event: Press<HTMLDivElement>) => {
    const held = drag.current;
    drag.current = null;
    if (!held) return;
    if (held.layer && held.picked && paper.current) {
      const [dx, dy] = [(event.clientX - held.from[0]) / sight.k, -(event.clientY - held.from[1]) / sight.k];
      usePapers.setState({ picked: held.picked });
      const { layer } = held;
      const area = paper.current;
      // The copy stays where it was let go until the sheet is drawn anew.
      void dropped(id, held.picked, drawn, dx, dy).catch(() => putDown(area, layer));
      return;
    }
    if (!held.pan) usePapers.setState({ picked: held.picked });
  };
  return (
    <>
      <Box ref={box} position="absolute" inset="0" overflow="hidden" cursor={writing !== null || measuring ? "crosshair" : "default"} onPointerDown={down} onPointerMove={move} onPointerUp={up} onPointerCancel={up} data-drawn={drawn.drawn}>
        <Box ref={paper} position="absolute" boxShadow="0 2px 14px rgb(0 0 0 / 0.28)" bg="white" style={{ left: sight.x, top: sight.y, width: drawn.width * sight.k, height: drawn.height * sight.k }} css={{ "& svg": { width: "100%", height: "100%", display: "block" }, "& text": { userSelect: "none" } }}>
          <Picture drawn={drawn} paper={paper} />
          <Mark drawn={drawn} picked={picked} k={sight.k} />
        </Box>
      </Box>
      <Flex position="absolute" right="12px" top="10px" gap="4px" bg="ink1" borderRadius="5px" boxShadow="0 1px 4px rgb(0 0 0 / 0.2)">
        <Action look="quiet" aria-label="Smaller" onClick={() => zoom(1 / 1.4, (box.current?.clientWidth ?? 0) / 2, (box.current?.clientHeight ?? 0) / 2)}><Minus size={15} /></Action>
        <Action look="quiet" aria-label="All of the sheet" onClick={fit}><Maximize size={15} /></Action>
        <Action look="quiet" aria-label="Larger" onClick={() => zoom(1.4, (box.current?.clientWidth ?? 0) / 2, (box.current?.clientHeight ?? 0) / 2)}><Plus size={15} /></Action>
      </Flex>
      <Doing />
    </>
  );
}

function write(id: string, text: string, x: number, y: number): void {
  usePapers.setState({ writing: null });
  void edit("write on sheet", { id, text, at: [x, y] }).catch(() => undefined);
}

function measure(id: string, drawn: DrawnSheet, x: number, y: number): void {
  const { measuring } = usePapers.getState();
  const view = viewAt(drawn, x, y);
  if (!view) return;
  if (measuring === true || measuring === false || measuring.view !== view.key) {
    usePapers.setState({ measuring: { view: view.key, place: placeIn(view, x, y) } });
    return;
  }
  usePapers.setState({ measuring: false });
  void edit("add dimension", { id, view: view.key, sort: "free", start: measuring.place, end: placeIn(view, x, y) }).catch(() => undefined);
}

/** The drawn sheet. It is put in anew only when it was drawn anew. */
function Picture({ drawn, paper }: { drawn: DrawnSheet; paper: RefObject<HTMLDivElement | null> }) {
  const { svg } = drawn;
  useLayoutEffect(() => {
    // What was let go of is where it belongs now.
    for (const layer of paper.current?.querySelectorAll(":scope > div[style*='will-change']") ?? []) layer.remove();
  }, [svg, paper]);
  return <chakra.div height="100%" aria-hidden dangerouslySetInnerHTML={{ __html: svg }} />;
}

/** A line about what is picked. */
function Mark({ drawn, picked, k }: { drawn: DrawnSheet; picked: Picked | null; k: number }) {
  const view = drawn.views.find((one) => one.key === picked?.view);
  const label = picked?.sort === "label" ? view?.labels.find((one) => one.fixture === picked.key) : undefined;
  const box = picked?.sort === "view" ? view?.box : label?.box;
  if (!box) return null;
  const [left, low, right, high] = box;
  return <Box position="absolute" pointerEvents="none" outline="1.5px solid" outlineColor="verdigris" outlineOffset="2px" data-picked={picked?.sort} style={{ left: left * k, top: (drawn.height - high) * k, width: (right - left) * k, height: (high - low) * k }} />;
}

/** What a click will do, while something is in hand. */
function Doing() {
  const { writing, measuring } = usePapers();
  const says = writing !== null ? "Click where the words go" : measuring === true ? "Click the first place" : measuring ? "Click the place that it is measured to" : "";
  if (!says) return null;
  return <Box position="absolute" left="12px" top="10px" bg="brass" color="onBrass" fontSize="12px" px="8px" py="3px" borderRadius="4px" role="status">{says}</Box>;
}
