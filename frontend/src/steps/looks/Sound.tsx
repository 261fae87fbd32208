import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Action } from "../../kit/controls";
import { PALETTE } from "../../kit/theme";
import { edit } from "../../show/edits";
import { follow, fetchSound, laySound, peaksOf } from "../../show/sound";
import { useRun } from "../../show/run";
import type { Thing } from "../../show/types";
import { secondsText } from "./times";

const HEIGHT = 24;
const quietly = (work: Promise<unknown>): void => void work.catch(() => undefined);

/** The sound under an order: its waveform along the strip, and what is done with it. It plays where the order does. */
export function Sound({ order, scale }: { order: Thing<"order">; scale: number }) {
  const { sound, sound_name: name } = order.body;
  const from = order.body.sound_from_s ?? 0;
  const [buffer, setBuffer] = useState<AudioBuffer | null>(null);
  const [wrong, setWrong] = useState("");
  const mine = useRun((state) => state.run.order === order.id);
  useEffect(() => {
    if (!sound) return;
    let current = true;
    fetchSound(sound).then((found) => current && setBuffer(found), () => current && setWrong("This browser cannot play it: lay a WAV or an MP3 under it."));
    return () => {
      current = false;
    };
  }, [sound]);
  useEffect(() => (buffer && mine ? follow(buffer, from) : undefined), [buffer, mine, from]);
  if (!sound) return <Lay order={order.id} />;
  return (
    <Box position="relative" height={`${HEIGHT}px`}>
      {buffer && <Wave buffer={buffer} left={from * scale} width={buffer.duration * scale} />}
      <Flex position="sticky" left="0" width="fit-content" gap="6px" align="center" fontSize="11px" color="dim" bg="ink1/70" px="4px" height={`${HEIGHT}px`}>
        <Box maxWidth="160px" truncate title={name}>{name}</Box>
        {wrong && <Box color="rose">{wrong}</Box>}
        <Action look="quiet" height="20px" fontSize="11px" aria-label={`The sound begins at ${secondsText(from)}: half a second sooner`} onClick={() => quietly(edit("set sound", { id: order.id, starts: String(from - 0.5) }))}>◂</Action>
        <Box fontFamily="mono">{secondsText(from)}</Box>
        <Action look="quiet" height="20px" fontSize="11px" aria-label={`The sound begins at ${secondsText(from)}: half a second later`} onClick={() => quietly(edit("set sound", { id: order.id, starts: String(from + 0.5) }))}>▸</Action>
        <Action look="quiet" height="20px" fontSize="11px" onClick={() => quietly(edit("set sound", { id: order.id, asset: "" }))}>Take it away</Action>
      </Flex>
    </Box>
  );
}

/** A place for a sound file. */
function Lay({ order }: { order: string }) {
  return (
    <chakra.label display="inline-flex" position="sticky" left="0" alignItems="center" height={`${HEIGHT}px`} fontSize="11.5px" color="faint" cursor="pointer" _hover={{ color: "text" }} _focusWithin={{ color: "text" }}>
      Lay a sound file under it
      <chakra.input type="file" srOnly accept=".wav,.flac,.ogg,.mp3,audio/*" onChange={(event) => { const file = event.target.files?.[0]; if (file) void laySound(order, file); }} />
    </chakra.label>
  );
}

/** How loud it is over time. */
function Wave({ buffer, left, width }: { buffer: AudioBuffer; left: number; width: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const wide = Math.min(Math.max(Math.round(width), 1), 8000);
  useEffect(() => {
    const drawing = canvas.current?.getContext("2d");
    if (!drawing) return;
    drawing.clearRect(0, 0, wide, HEIGHT);
    drawing.fillStyle = PALETTE.verdigris;
    peaksOf(buffer.getChannelData(0), wide).forEach((peak, x) => drawing.fillRect(x, (HEIGHT / 2) * (1 - peak), 1, Math.max(HEIGHT * peak, 1)));
  }, [buffer, wide]);
  return <canvas ref={canvas} width={wide} height={HEIGHT} data-part="wave" style={{ position: "absolute", left, width, height: HEIGHT, opacity: 0.6 }} />;
}
