import { Box } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { FACES, PALETTE } from "../kit/theme";
import { getBytes } from "../show/api";
import { NEUTRAL, type Solid } from "../stage/data";
import { Stage } from "../stage/Stage";
import { useShop } from "./state";

const HUNG = { id: "tried", label: "", kind: "profile", body: "draft", position: [0, 0, 2.7] as [number, number, number], rotation: [0, 0, 0, 1] as [number, number, number, number] };
const PANE = { id: "shop", view: "free", picture: "live", share: 1, shade: "lit" } as const;
const scaleAsked = Number(new URLSearchParams(location.search).get("scale") ?? localStorage.getItem("zarfwright.scale") ?? 1);

/** One fixture of the draft in an empty room, on the real stage, at the levels that are tried. */
export function Preview() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const overlay = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const stage = useRef<Stage | null>(null);
  const shown = useRef("");
  const trial = useShop((state) => state.trial);

  useEffect(() => {
    if (!canvas.current || !overlay.current || !box.current) return;
    const theme = {
      ground: PALETTE.ink0, line: PALETTE.dim, fill: PALETTE.ink3, datum: PALETTE.brassDeep, active: PALETTE.brass, selected: PALETTE.verdigris,
      attention: PALETTE.ember, text: PALETTE.text, dim: PALETTE.dim, faint: PALETTE.faint, numbers: FACES.numbers,
    };
    const nothing = () => undefined;
    const events = { onSelect: nothing, onCarry: () => false, onAim: nothing, onRaise: nothing, onPath: nothing, onCut: nothing, onSharp: nothing, onBlades: nothing, onPointer: nothing, onDrag: nothing, onStats: nothing, onLost: nothing, onViewChanged: nothing, onMeasured: nothing, onDraw: nothing, onPut: nothing, onGuide: nothing, onAsk: nothing };
    const sources = { mesh: (key: string) => getBytes(`/api/meshes/${key}`), gobo: (key: string) => getBytes(`/api/gobos/${key}`), web: (key: string) => getBytes(`/api/webs/${key}`) };
    const made = new Stage(canvas.current, overlay.current, theme, sources, events, scaleAsked >= 0.1 && scaleAsked <= 2 ? scaleAsked : 1);
    made.setExposure({ ...NEUTRAL, ev: 7, shownPerCd: 1 / (1.2 * 128), workLightLx: 170, hazeUneven: 0.2 });
    made.setPanes([PANE]);
    made.lookFrom("shop", [-1.9, -4.0, 2.5], [0.15, 0.2, 1.5]);
    const measure = new ResizeObserver(([entry]) => entry && made.resize(entry.contentRect.width, entry.contentRect.height));
    measure.observe(box.current);
    stage.current = made;
    shown.current = "";
    Object.assign(window, { zarfwrightShop: made });
    return () => {
      measure.disconnect();
      made.dispose();
      stage.current = null;
    };
  }, []);

  useEffect(() => {
    const made = stage.current;
    if (!made || !trial) return;
    // The body and the rig are given only when they are others: a level that moves is a frame and no more.
    const key = JSON.stringify([trial.body, trial.fields, trial.peak_cd, trial.gobos, trial.webs, trial.prisms]);
    if (key !== shown.current) {
      shown.current = key;
      const { body } = trial;
      const cells = body.cells.map((cell) => ({
        pan: cell.pan, tilt: cell.tilt, lens: cell.lens, lensRadius: cell.lens_radius, mountTurn: cell.mount_turn, lensTurn: cell.lens_turn, zero: cell.zero, mirror: cell.mirror,
      }));
      made.setSolids(trial.scene as Solid[]);
      made.setRig([HUNG], [{ key: "draft", parts: body.parts, cells }]);
      made.setPatch({ rig: 1, fixtures: trial.frame.map(() => "tried"), fields: trial.fields, peak: trial.peak_cd, gobos: trial.gobos, webs: trial.webs, prisms: trial.prisms });
    }
    made.setFrame("live", Float32Array.from(trial.frame.flat()));
  }, [trial]);

  return (
    <Box ref={box} as="section" aria-label="Try it" position="relative" flex="1" minHeight="0" bg="ink0" overflow="hidden">
      <canvas ref={canvas} style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }} />
      <canvas ref={overlay} tabIndex={0} aria-label="The lamp: drag with the right button to look round it" style={{ position: "absolute", inset: 0, width: "100%", height: "100%", outline: "none", touchAction: "none" }} />
    </Box>
  );
}
