import { chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { Field } from "./controls";

export interface Xyy {
  x: number;
  y: number;
  luminance: number;
}
const SIZE = 150;
const [X_MAX, Y_MAX] = [0.75, 0.85];
/** The spectral locus, CIE 1931, from 420 to 700 nm. */
const LOCUS: [number, number][] = [
  [0.1714, 0.0051], [0.1689, 0.0069], [0.1644, 0.0109], [0.1566, 0.0177], [0.144, 0.0297], [0.1241, 0.0578], [0.0913, 0.1327], [0.0454, 0.295],
  [0.0082, 0.5384], [0.0139, 0.7502], [0.0743, 0.8338], [0.1547, 0.8059], [0.2296, 0.7543], [0.3016, 0.6923], [0.3731, 0.6245], [0.4441, 0.5547],
  [0.5125, 0.4866], [0.5752, 0.4242], [0.627, 0.3725], [0.6658, 0.334], [0.6915, 0.3083], [0.714, 0.2859], [0.73, 0.27], [0.7347, 0.2653],
];

/** As the screen can show it, at its brightest. */
export function rgbOf({ x, y }: { x: number; y: number }): [number, number, number] {
  const [X, Z] = [x / Math.max(y, 1e-4), (1 - x - y) / Math.max(y, 1e-4)];
  const linear = [3.2404542 * X - 1.5371385 - 0.4985314 * Z, -0.969266 * X + 1.8760108 + 0.041556 * Z, 0.0556434 * X - 0.2040259 + 1.0572252 * Z].map((one) => Math.max(one, 0));
  const most = Math.max(...linear, 1e-6);
  return linear.map((one) => Math.round(255 * (one / most) ** (1 / 2.2))) as [number, number, number];
}

export const hexOf = (colour: Xyy): string => `rgb(${rgbOf(colour).join(" ")})`;

/** The xy plane: drag to a place, or type x, y and how much light passes. */
export function XyPicker({ colour, onPick, outlines = [], bare = false }: { colour: Xyy; onPick: (colour: Xyy) => void; outlines?: readonly (readonly (readonly [number, number])[])[]; bare?: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context) return;
    context.clearRect(0, 0, SIZE, SIZE);
    context.save();
    context.beginPath();
    LOCUS.forEach(([x, y], i) => {
      const [px, py] = [(x / X_MAX) * SIZE, SIZE - (y / Y_MAX) * SIZE];
      if (i) context.lineTo(px, py);
      else context.moveTo(px, py);
    });
    context.closePath();
    context.clip();
    for (let px = 0; px < SIZE; px += 2) {
      for (let py = 0; py < SIZE; py += 2) {
        context.fillStyle = `rgb(${rgbOf({ x: (px / SIZE) * X_MAX, y: Math.max((1 - py / SIZE) * Y_MAX, 0.004) }).join(" ")})`;
        context.fillRect(px, py, 2, 2);
      }
    }
    context.restore();
  }, []);
  const pick = (event: React.PointerEvent<HTMLDivElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const x = Math.min(Math.max(((event.clientX - box.left) / SIZE) * X_MAX, 0.005), 0.74);
    const y = Math.min(Math.max((1 - (event.clientY - box.top) / SIZE) * Y_MAX, 0.005), 0.84);
    // Beyond the purple line there is no colour.
    onPick({ ...colour, x: Number(x.toFixed(4)), y: Number(Math.min(y, 0.995 - x).toFixed(4)) });
  };
  const typed = (key: keyof Xyy, least: number, most: number) => async (text: string) => {
    const value = Number(text.replace(",", "."));
    if (!(value >= least && value <= most)) throw new Error(`Type a number from ${least} to ${most}.`);
    onPick({ ...colour, [key]: value });
    await Promise.resolve();
  };
  return (
    <Flex gap="10px" align="flex-start">
      <chakra.div position="relative" width={`${SIZE}px`} height={`${SIZE}px`} flex="none" role="img" aria-label="Colours by x and y" cursor="crosshair" onPointerUp={pick}>
        <canvas ref={canvas} width={SIZE} height={SIZE} />
        <chakra.svg position="absolute" inset="0" width={`${SIZE}px`} height={`${SIZE}px`} pointerEvents="none" fill="none" stroke="text" strokeWidth="1.5">
          {outlines.map((outline, i) => (
            <polygon key={i} strokeWidth="1" strokeDasharray={i ? "3 2" : undefined} points={outline.map(([x, y]) => `${(x / X_MAX) * SIZE},${SIZE - (y / Y_MAX) * SIZE}`).join(" ")} />
          ))}
          <circle cx={(colour.x / X_MAX) * SIZE} cy={SIZE - (colour.y / Y_MAX) * SIZE} r="5" />
        </chakra.svg>
      </chakra.div>
      <chakra.div flex="1" minWidth="0" css={{ "& label": { width: "22px" } }}>
        <Field label="x" value={String(colour.x)} onCommit={typed("x", 0.005, 0.74)} />
        <Field label="y" value={String(colour.y)} onCommit={typed("y", 0.005, 0.84)} />
        {!bare && <Field label="Y %" value={String(colour.luminance)} onCommit={typed("luminance", 0.01, 1000)} />}
      </chakra.div>
    </Flex>
  );
}
