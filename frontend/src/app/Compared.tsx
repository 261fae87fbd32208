import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Action, Segments } from "../kit/controls";
import { leaveCompared, MODES, type Shot, STOPS, stopsBetween, stopsColour, useCompare } from "../show/compare";

const BLINK_MS = 800;

/** Two pictures over the stage, compared. */
export function Compared() {
  const { shown, mode } = useCompare();
  if (!shown) return null;
  const { left, right } = shown;
  return (
    <Flex role="region" aria-label="Two pictures compared" position="absolute" inset="0" zIndex={4} direction="column" bg="ink0">
      <Flex align="center" gap="12px" px="12px" height="40px" flex="none" fontSize="12px" borderBottom="1px solid" borderColor="line">
        <Box flex="1" minWidth="0" truncate>
          <chakra.span color="dim">{mode === "difference" ? "Against " : "Left "}</chakra.span>
          {left.title}
        </Box>
        <Box width="330px" mt="8px">
          <Segments name="How they are compared" value={mode} options={MODES} onChange={(value) => useCompare.setState({ mode: value })} />
        </Box>
        <Box flex="1" minWidth="0" textAlign="right" truncate>
          {right.title}
          <chakra.span color="dim">{mode === "difference" ? " in stops" : " right"}</chakra.span>
        </Box>
        <Action look="quiet" height="24px" onClick={leaveCompared}>Put away</Action>
      </Flex>
      <Box position="relative" flex="1" minHeight="0">
        {mode === "beside" && <Beside left={left} right={right} />}
        {mode === "wipe" && <Wiped left={left} right={right} />}
        {mode === "blink" && <Blinking left={left} right={right} />}
        {mode === "difference" && <Difference left={left} right={right} />}
        <Box position="absolute" left="10px" bottom="8px" fontSize="11.5px" color="dim" bg="ink1" px="6px" borderRadius="3px">
          One exposure for both, as it was when they were drawn
        </Box>
      </Box>
    </Flex>
  );
}

type Both = { left: Shot; right: Shot };
const WHOLE = { position: "absolute", inset: 0, width: "100%", height: "100%", objectFit: "contain" } as const;

function Beside({ left, right }: Both) {
  return (
    <Flex height="100%" gap="2px">
      {[left, right].map((shot, i) => (
        <Box key={i} flex="1" minWidth="0" position="relative">
          <img src={shot.url} alt={shot.title} style={WHOLE} />
        </Box>
      ))}
    </Flex>
  );
}

function Wiped({ left, right }: Both) {
  const at = useCompare((state) => state.at);
  const box = useRef<HTMLDivElement>(null);
  const move = (share: number) => useCompare.setState({ at: Math.min(Math.max(share, 0), 1) });
  const to = (x: number) => {
    const area = box.current?.getBoundingClientRect();
    if (area) move((x - area.left) / area.width);
  };
  return (
    <Box ref={box} position="absolute" inset="0" cursor="ew-resize" onPointerDown={(event) => { event.currentTarget.setPointerCapture(event.pointerId); to(event.clientX); }} onPointerMove={(event) => event.buttons === 1 && to(event.clientX)}>
      <img src={right.url} alt={right.title} draggable={false} style={WHOLE} />
      <img src={left.url} alt={left.title} draggable={false} style={{ ...WHOLE, clipPath: `inset(0 ${(1 - at) * 100}% 0 0)` }} />
      <Box
        role="separator" aria-label="Where one picture ends and the other begins" aria-orientation="vertical" aria-valuenow={Math.round(at * 100)} tabIndex={0}
        position="absolute" top="0" bottom="0" width="11px" ml="-5px" borderInline="5px solid transparent" bg="brass" bgClip="padding-box" style={{ left: `${at * 100}%` }}
        onKeyDown={(event) => {
          if (event.key === "ArrowLeft" || event.key === "ArrowRight") move(at + (event.key === "ArrowLeft" ? -0.02 : 0.02));
        }}
      />
    </Box>
  );
}

function Blinking({ left, right }: Both) {
  const [second, setSecond] = useState(false);
  const still = window.matchMedia?.("(prefers-reduced-motion: reduce)").matches;
  useEffect(() => {
    if (still) return undefined;
    const timer = window.setInterval(() => setSecond((is) => !is), BLINK_MS);
    return () => window.clearInterval(timer);
  }, [still]);
  const shot = second ? right : left;
  return (
    <>
      <img src={shot.url} alt={shot.title} style={WHOLE} />
      <Action position="absolute" right="12px" bottom="8px" onClick={() => setSecond(!second)}>{second ? "Right" : "Left"}: the other one</Action>
    </>
  );
}

function Difference({ left, right }: Both) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const fits = left.width === right.width && left.height === right.height;
  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen || !fits) return;
    const image = pen.createImageData(left.width, left.height);
    stopsBetween(left.luminance, right.luminance).forEach((stops, i) => image.data.set([...stopsColour(stops), 255], i * 4));
    pen.putImageData(image, 0, 0);
  }, [left, right, fits]);
  if (!fits) return <Box p="16px" color="ember" fontSize="12.5px">The kept picture is of another size, for the window has changed since: keep it again.</Box>;
  const marks = Array.from({ length: 2 * STOPS + 1 }, (_, i) => i - STOPS);
  return (
    <>
      <canvas ref={canvas} width={left.width} height={left.height} role="img" aria-label="How much brighter or darker the right picture is" style={WHOLE} />
      <Box position="absolute" right="12px" bottom="8px" width="280px" bg="ink1" px="10px" py="6px" borderRadius="4px" fontSize="10.5px" fontFamily="mono">
        <Box height="10px" borderRadius="2px" style={{ background: `linear-gradient(to right, ${marks.map((mark) => `rgb(${stopsColour(mark).join(" ")})`).join(", ")})` }} />
        <Flex justify="space-between">{marks.filter((mark) => mark % 2 === 0).map((mark) => <Box key={mark}>{mark > 0 ? `+${mark}` : mark}</Box>)}</Flex>
        <Box color="dim" textAlign="center">stops: blue is darker, orange brighter</Box>
      </Box>
    </>
  );
}
