import { Box, chakra } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { PALETTE } from "../../kit/theme";

const WIDTH = 128;
const HEIGHT = 14;

/** A universe in little: 64 bins of eight slots, as high as the highest of them; what just moved is bright. */
function Strip({ bins, held }: { bins: Uint8Array | undefined; held: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen) return;
    pen.clearRect(0, 0, WIDTH, HEIGHT);
    bins?.forEach((bin, i) => {
      const level = (bin & 0xfe) / 254;
      const height = level ? Math.max(level * HEIGHT, 1.5) : 0;
      const moved = Boolean(bin & 1);
      pen.fillStyle = moved ? PALETTE.brass : held ? PALETTE.ember : PALETTE.brassDeep;
      pen.fillRect(i * 2, HEIGHT - height, 1.6, height);
      // What went to nothing has moved as well.
      if (moved && !height) pen.fillRect(i * 2, HEIGHT - 1, 1.6, 1);
    });
  }, [bins, held]);
  return <canvas ref={canvas} width={WIDTH} height={HEIGHT} aria-hidden style={{ flex: "none", background: PALETTE.ink0 }} />;
}

export interface Listed {
  universe: number;
  state: "live" | "held" | "silent";
  rate: number;
  lit: number;
}

/** All universes, one below the other: what they are at, and how often they come. */
export function Strips({ all, strips, shown, onShow }: { all: Listed[]; strips: Map<number, Uint8Array>; shown: number; onShow: (universe: number) => void }) {
  return (
    <Box role="group" aria-label="All universes" overflowY="auto" flex="1" minHeight="0" py="4px">
      {all.map(({ universe, state, rate, lit }) => {
        const said = state === "live" ? `${rate.toFixed(0)}/s` : state;
        return (
          <chakra.button
            key={universe} type="button" aria-label={`Show universe ${universe}, ${said}`} aria-pressed={universe === shown} title={`Universe ${universe}: ${lit} slots lit`}
            display="flex" alignItems="center" gap="8px" width="100%" height="19px" px="10px" cursor="pointer" fontFamily="mono" fontSize="11px"
            bg={universe === shown ? "ink3" : "transparent"} color={universe === shown ? "text" : "dim"} _hover={{ color: "text" }} onClick={() => onShow(universe)}
          >
            <Box width="34px" textAlign="right" flex="none">{universe}</Box>
            <Strip bins={strips.get(universe)} held={state === "held"} />
            <Box flex="1" textAlign="right" color={state === "live" ? "verdigris" : state === "held" ? "ember" : "dim"}>{said}</Box>
          </chakra.button>
        );
      })}
    </Box>
  );
}
