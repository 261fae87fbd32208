import { Box, chakra, Flex } from "@chakra-ui/react";
import { type PointerEvent, useRef, useState } from "react";
import { Action, Segments } from "../kit/controls";
import { leaveDrawn, pathOf, type Stroke, useDrawn, writeDrawn } from "../show/notes";

const KINDS = [{ value: "free", label: "Freehand" }, { value: "arrow", label: "Arrow" }, { value: "circle", label: "Circle" }] as const;
/** Nearer together two places of a freehand line are one. */
const STEP = 0.004;

/** The picture of now over the stage, to be drawn on and kept as a note. */
export function DrawnNote() {
  const { url, kind, strokes } = useDrawn();
  const [text, setText] = useState("");
  const [now, setNow] = useState<Stroke | null>(null);
  const [size, setSize] = useState<[number, number]>([1, 1]);
  const picture = useRef<HTMLImageElement>(null);
  if (!url) return null;
  const place = (event: PointerEvent): [number, number] => {
    const box = picture.current?.getBoundingClientRect();
    return box ? [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height] : [0, 0];
  };
  const [width, height] = size;
  const keep = () => void writeDrawn(text, []).then(() => setText(""), () => undefined);
  return (
    <Flex role="region" aria-label="A picture to draw on" position="absolute" inset="0" zIndex={4} direction="column" bg="ink0">
      <Flex align="center" gap="10px" px="12px" height="40px" flex="none" fontSize="12px" borderBottom="1px solid" borderColor="line">
        <Box width="220px" mt="8px">
          <Segments name="What is drawn" value={kind} options={KINDS} onChange={(value) => useDrawn.setState({ kind: value })} />
        </Box>
        <chakra.input aria-label="What the drawing says" placeholder="What is to be said of it" value={text} onChange={(event) => setText(event.target.value)} flex="1" minWidth="0" height="26px" px="8px" bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" />
        <Action look="quiet" height="24px" disabled={!strokes.length} onClick={() => useDrawn.setState({ strokes: strokes.slice(0, -1) })}>Take the last line back</Action>
        <Action look="main" width="auto" height="26px" disabled={!strokes.length && !text.trim()} onClick={keep}>Keep this note</Action>
        <Action look="quiet" height="24px" onClick={leaveDrawn}>Leave it</Action>
      </Flex>
      <Flex flex="1" minHeight="0" align="center" justify="center" p="10px">
        <Box
          position="relative" width={`min(100%, calc(52vh * ${width / height}))`} cursor="crosshair" touchAction="none"
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            const start = place(event);
            setNow({ kind, places: [start, start] });
          }}
          onPointerMove={(event) => {
            if (!now) return;
            const to = place(event);
            const last = now.places.at(-1) ?? to;
            if (now.kind !== "free") setNow({ ...now, places: [now.places[0] ?? to, to] });
            else if (Math.hypot(to[0] - last[0], to[1] - last[1]) > STEP) setNow({ ...now, places: [...now.places, to] });
          }}
          onPointerUp={() => {
            if (now) useDrawn.setState({ strokes: [...strokes, now] });
            setNow(null);
          }}
          onPointerCancel={() => setNow(null)}
        >
          <img ref={picture} src={url} alt="What is drawn on" draggable={false} style={{ display: "block", width: "100%" }} onLoad={(event) => setSize([event.currentTarget.naturalWidth, event.currentTarget.naturalHeight])} />
          <Strokes strokes={now ? [...strokes, now] : strokes} width={width} height={height} />
        </Box>
      </Flex>
    </Flex>
  );
}

/** What was drawn, over a picture. */
function Strokes({ strokes, width, height }: { strokes: readonly Stroke[]; width: number; height: number }) {
  return (
    <chakra.svg position="absolute" inset="0" width="100%" height="100%" viewBox={`0 0 ${width} ${height}`} pointerEvents="none" stroke="brass" fill="none" aria-hidden>
      {strokes.map((stroke, i) => (
        <path key={i} d={pathOf(stroke, width, height)} strokeWidth={Math.max(width / 320, 1.5)} strokeLinecap="round" strokeLinejoin="round" />
      ))}
    </chakra.svg>
  );
}
