import { Box, chakra, Flex } from "@chakra-ui/react";
import { BrickWall, Crosshair, ExternalLink, House, Maximize, Tag } from "lucide-react";
import { useEffect, useRef } from "react";
import { Action } from "../kit/controls";
import { FACES, PALETTE } from "../kit/theme";
import { getBytes } from "../show/api";
import { dragGuide } from "../show/arranging";
import { settings, things, useShow, valueOf } from "../show/document";
import { length } from "../show/format";
import { drawAt, outlineNow, useDrawing } from "../show/drawing";
import { edit, gesture, leaveGhost, preview } from "../show/edits";
import { fetchLookPicture, onFrame } from "../show/link";
import { notify, useMessages } from "../show/messages";
import { keepPanes, panesChanged } from "../show/keptPanes";
import { lookFrom, moveEdge, openPaneWindow, setPaneCount, setPicture, setShade, nextWalls, setView, toggleLabels, usePanes, WALLS_SAID } from "../show/panes";
import { bladedNow, dragBlades } from "../show/blades";
import { cutAt, sharpAt, useCutting } from "../show/cutting";
import { pathAt, usePath } from "../show/paths";
import { usePicture } from "../show/picture";
import { pointAt, raise, usePointing } from "../show/pointing";
import { putAt, takeInHand } from "../show/put";
import { askedAt } from "../show/review";
import { select, useSelection } from "../show/selection";
import { dragOffStage } from "../steps/patch/dragging";
import { Stage } from "../stage/Stage";
import type { Pane, Shade, Vec3, ViewName } from "../stage/data";
import { putPlace } from "../stage/tools/picking";
import { QUALITIES } from "../stage/light/quality";
import { Compared } from "./Compared";
import { DrawnNote } from "./DrawnNote";
import { Paper } from "./Paper";
import { offScale } from "./PicturePanel";
import { useCarriedFeed } from "./carriedFeed";
import { useLaserFeed } from "./laserFeed";
import { useStageFeed } from "./stageFeed";

const VIEWS: [ViewName, string][] = [["free", "Free"], ["plan", "Plan"], ["front", "Front"], ["back", "Back"], ["left", "From SR"], ["right", "From SL"], ["section", "Section"]];

/** The share of full resolution that the picture is drawn at; kept by the browser, or from the address (`?scale=`). */
function renderScale(): number {
  const asked = Number(new URLSearchParams(location.search).get("scale") ?? localStorage.getItem("zarfwright.scale") ?? 1);
  return asked >= 0.1 && asked <= 2 ? asked : 1;
}

/** Whether a click may take a thing: what lies on a locked layer stays as it is. */
function takeable(id: string): boolean {
  const { objects } = useShow.getState();
  const layer = objects[objects[id]?.layer ?? ""];
  return !valueOf(layer, "locked");
}

/** Move the selection by its handle: a ghost while dragging, one edit at the end. */
function drag(delta: Vec3, phase: "move" | "end" | "cancel", handle: string): void {
  const ids = useSelection.getState().selection;
  if (phase === "cancel") return leaveGhost();
  if (handle === "height") return dragHeight(ids[0] ?? "", delta[2], phase);
  const parts = (["SL", "US", "up"] as const).map((side, i) => ({ side, by: delta[i] as number })).filter(({ by }) => Math.abs(by) > 1e-6);
  const opposite = { SL: "SR", US: "DS", up: "down" };
  const note = parts.map(({ side, by }) => `${by < 0 ? opposite[side] : side} ${length(Math.abs(by), settings(useShow.getState().objects).system)}`).join("  ");
  const { objects } = useShow.getState();
  if (phase === "move" && ids.every((id) => objects[id]?.kind === "focus point")) {
    // Whoever is aimed at it follows in the picture.
    gesture("move", { ids, by: delta });
  } else if (phase === "move") {
    void preview("move", { ids, by: delta }, note).catch(() => undefined);
  } else {
    void edit("move", { ids, by: delta })
      .catch(() => undefined)
      .finally(leaveGhost);
  }
}

/** What a fixture type that is dragged onto the stage is called. */
const TYPE_DRAGGED = "application/x-zarfwright-type";

/** A type dropped on the stage: one is put where it was let go, and the type stays in hand. */
function dropType(event: React.DragEvent<HTMLCanvasElement>): void {
  const type = event.dataTransfer.getData(TYPE_DRAGGED);
  const { stage } = usePanes.getState();
  const box = event.currentTarget.getBoundingClientRect();
  const [x, y] = [event.clientX - box.left, event.clientY - box.top];
  const pane = stage?.paneAt(x);
  if (!type || !stage || !pane) return;
  event.preventDefault();
  takeInHand({ type, mode: "" });
  putAt(putPlace(stage, pane, x, y, false), "click");
}

/** Set the height of the one thing selected by the handle on its top. */
function dragHeight(id: string, by: number, phase: "move" | "end"): void {
  const row = useShow.getState().objects[id];
  const height = Math.max(Number(valueOf(row, "height_m") ?? 0) + by, 0.05);
  const args = { ids: [id], field: "height", text: `${height.toFixed(3)}m` };
  if (phase === "move") void preview("set field", args, `high ${length(height, settings(useShow.getState().objects).system)}`).catch(() => undefined);
  else {
    void edit("set field", args)
      .catch(() => undefined)
      .finally(leaveGhost);
  }
}

export function StageView() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const overlay = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const panes = usePanes((state) => state.panes);
  const lost = usePanes((state) => state.lost);
  const step = useSelection((state) => state.step);

  useEffect(() => {
    if (!canvas.current || !overlay.current || !box.current) return;
    const theme = {
      ground: PALETTE.ink0, line: PALETTE.dim, fill: PALETTE.ink3, datum: PALETTE.brassDeep, active: PALETTE.brass, selected: PALETTE.verdigris,
      attention: PALETTE.ember, text: PALETTE.text, dim: PALETTE.dim, faint: PALETTE.faint, numbers: FACES.numbers,
    };
    const stage = new Stage(canvas.current, overlay.current, theme, { mesh: (key) => getBytes(`/api/meshes/${key}`), gobo: (key) => getBytes(`/api/gobos/${key}`), web: (key) => getBytes(`/api/webs/${key}`) }, {
      onSelect: (ids, add) => select(ids.filter(takeable), add),
      onCarry: dragOffStage,
      onAim: pointAt,
      onRaise: raise,
      onPath: pathAt,
      onCut: cutAt,
      onSharp: sharpAt,
      onBlades: (id, values, phase) => dragBlades([id], values, phase),
      onPointer: (place) => usePanes.setState({ pointer: place, active: place.pane }),
      onDrag: drag,
      onStats: (stats) => usePanes.setState({ stats }),
      onMeasured: (measured) => usePicture.setState({ measured }),
      onDraw: drawAt,
      onPut: putAt,
      onGuide: dragGuide,
      onAsk: askedAt,
      onLost: (isLost) => usePanes.setState({ lost: isLost }),
      onViewChanged: (pane) => {
        const names = usePanes.getState().viewNames;
        if (names[pane] && !stage.gliding) usePanes.setState({ viewNames: { ...names, [pane]: "" } });
        panesChanged();
      },
    }, renderScale());
    usePanes.setState({ stage });
    stage.setPanes(usePanes.getState().panes);
    const stopKeeping = keepPanes();
    // Panes and frames go to the stage at once, past React.
    stage.setPanes(usePanes.getState().panes);
    const stopPanes = usePanes.subscribe((now, before) => {
      if (now.panes !== before.panes) stage.setPanes(now.panes);
      if (now.tool !== before.tool) stage.setTool(now.tool);
    });
    const stopDrawing = useDrawing.subscribe((drawing) => {
      const { on, plane, corners, closed, next, why } = drawing;
      stage.tools.draw.show(on ? { plane, corners: outlineNow(drawing), points: corners, closed, next, why } : null);
    });
    const bladed = () => stage.tools.blades.show(bladedNow());
    const stopBlades = [useSelection.subscribe(bladed), usePanes.subscribe((now, before) => now.tool !== before.tool && bladed()), useShow.subscribe((now, before) => now.bodies !== before.bodies && bladed())];
    const stopCutting = useCutting.subscribe(({ edge }) => stage.tools.cut.show(edge));
    const stopPath = usePath.subscribe(({ places, next }) => stage.tools.path.show(places, next));
    const stopPointing = usePointing.subscribe(({ shown }) => stage.tools.aim.show(shown));
    const stopFrames = onFrame((picture, values, left) => stage.setFrame(picture, values, left));
    const measure = new ResizeObserver(([entry]) => entry && stage.resize(entry.contentRect.width, entry.contentRect.height));
    measure.observe(box.current);
    // For tests and benchmarks.
    Object.assign(window, { zarfwrightStage: stage, zarfwrightBench: { QUALITIES }, zarfwrightSaid: () => useMessages.getState().said.map((one) => one.text) });
    return () => {
      measure.disconnect();
      stopPanes();
      stopKeeping();
      stopDrawing();
      stopPointing();
      stopPath();
      stopCutting();
      for (const stop of stopBlades) stop();
      stopFrames();
      stage.dispose();
      usePanes.setState({ stage: null });
    };
  }, []);
  useStageFeed();
  useCarriedFeed();
  useLaserFeed();

  return (
    <Box ref={box} as="main" aria-label="Stage" position="relative" flex="1" minHeight="0" bg="ink0" overflow="hidden">
      <canvas ref={canvas} style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }} />
      <canvas
        ref={overlay}
        tabIndex={0}
        aria-label="The picture: click to select, drag with the right button to look round"
        style={{ position: "absolute", inset: 0, width: "100%", height: "100%", outline: "none", touchAction: "none" }}
        onDragOver={(event) => {
          if (event.dataTransfer.types.includes(TYPE_DRAGGED)) event.preventDefault();
        }}
        onDrop={dropType}
      />
      <Compared />
      {step === "papers" && <Paper />}
      <DrawnNote />
      {lost && (
        <Flex position="absolute" left="0" right="0" bottom="46px" px="14px" justify="center" pointerEvents="none" color="ember" fontSize="12.5px" role="alert">
          <Box bg="ink2" border="1px solid" borderColor="line" borderRadius="5px" px="12px" py="6px">
            This browser gives no WebGL2 now, so the lit picture cannot be drawn. Plans show outlines; it comes back by itself when it can.
          </Box>
        </Flex>
      )}
      <Flex position="absolute" inset="0" pointerEvents="none">
        {panes.map((pane, i) => (
          <Box key={pane.id} flex={`${pane.share} 1 0`} minWidth="0" borderLeft={i ? "1px solid" : undefined} borderColor="line" position="relative">
            <PaneChip pane={pane} last={i === panes.length - 1} count={panes.length} />
            {i < panes.length - 1 && <PaneEdge pane={pane} next={panes[i + 1] as Pane} />}
          </Box>
        ))}
      </Flex>
    </Box>
  );
}

/** The edge between two panes: dragged, or moved by the arrows. */
function PaneEdge({ pane, next }: { pane: Pane; next: Pane }) {
  const share = pane.share / (pane.share + next.share);
  return (
    <Box
      role="separator" aria-label={`Edge between the ${pane.id} and the ${next.id} pane`} aria-orientation="vertical" aria-valuenow={Math.round(share * 100)} tabIndex={0}
      position="absolute" right="-3px" top="38px" bottom="0" width="6px" zIndex={2} cursor="col-resize" pointerEvents="auto" _hover={{ bg: "brassDeep" }}
      onKeyDown={(event) => {
        if (event.key === "ArrowLeft" || event.key === "ArrowRight") moveEdge(pane.id, share + (event.key === "ArrowLeft" ? -0.04 : 0.04));
      }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        const own = event.currentTarget.parentElement?.getBoundingClientRect();
        const other = event.currentTarget.parentElement?.nextElementSibling?.getBoundingClientRect();
        if (event.buttons === 1 && own && other) moveEdge(pane.id, (event.clientX - own.left) / (other.right - own.left));
      }}
    />
  );
}

function PaneChip({ pane, last, count }: { pane: Pane; last: boolean; count: number }) {
  const named = usePanes((state) => state.viewNames[pane.id]);
  const stage = usePanes((state) => state.stage);
  const objects = useShow((state) => state.objects);
  const show = settings(objects);
  const looks = things(objects, "look");
  const viewpoints = things(objects, "viewpoint");
  const picture = looks.find((look) => look.id === pane.picture);
  return (
    <Flex position="absolute" left="0" right="0" top="0" px="10px" pt="7px" pb="8px" gap="5px" align="center" fontSize="12px" pointerEvents="none" css={{ background: "linear-gradient(color-mix(in srgb, {colors.ink0} 82%, transparent) 62%, transparent)", "& > *": { pointerEvents: "auto" }, "& > button": { flex: "none", paddingInline: "5px" } }}>
      <chakra.select
        aria-label={`View of the ${pane.id} pane`}
        bg="transparent"
        fontWeight={600}
        color="text"
        cursor="pointer"
        minWidth="44px"
        maxWidth="150px"
        value={named ? `named:${named}` : pane.view}
        onChange={(event) => {
          const chosen = event.target.value;
          const viewpoint = viewpoints.find((one) => `named:${one.body.name}` === chosen);
          if (viewpoint) lookFrom(pane.id, viewpoint.body.name, viewpoint.body.eye, viewpoint.body.target);
          else setView(pane.id, chosen as ViewName);
        }}
        css={{ "& option": { background: "{colors.ink2}" } }}
      >
        {named && !viewpoints.some((one) => one.body.name === named) && <option value={`named:${named}`}>{named}</option>}
        {VIEWS.map(([view, name]) => (
          <option key={view} value={view}>
            {name}
          </option>
        ))}
        {viewpoints.map((one) => (
          <option key={one.id} value={`named:${one.body.name}`}>
            {one.body.name}
          </option>
        ))}
      </chakra.select>
      {pane.shade === "lit" && (
        <chakra.select
          aria-label={`Picture in the ${pane.id} pane`}
          bg="transparent"
          color={picture ? "brass" : "dim"}
          cursor="pointer"
          minWidth="44px"
          maxWidth="140px"
          value={pane.picture}
          onChange={(event) => {
            const chosen = event.target.value;
            if (chosen === "live") setPicture(pane.id, chosen);
            else void fetchLookPicture(chosen).then(() => setPicture(pane.id, chosen), (wrong: unknown) => notify(String(wrong), "wrong"));
          }}
          css={{ "& option": { background: "{colors.ink2}" } }}
        >
          <option value="live">as driven</option>
          {looks.map((look) => (
            <option key={look.id} value={look.id}>
              look {look.body.number}, {look.body.name}
            </option>
          ))}
        </chakra.select>
      )}
      <chakra.select
        aria-label={`Shading in the ${pane.id} pane`}
        title="Lit by the show, plainly shaded, or lines"
        bg="transparent"
        color="dim"
        cursor="pointer"
        value={pane.shade}
        onChange={(event) => setShade(pane.id, event.target.value as Shade)}
        css={{ "& option": { background: "{colors.ink2}" } }}
      >
        <option value="lit">lit</option>
        <option value="unlit">unlit</option>
        <option value="lines">lines</option>
      </chakra.select>
      {pane.shade === "lit" && offScale(show) && (
        <Box color="ember" fontSize="11.5px" role="status" title="Shafts, pools or lenses are not at their true strength: see the picture's settings">
          ◇ off scale
        </Box>
      )}
      <Box flex="1" minWidth="0" pointerEvents="none!" />
      <Action look="quiet" height="22px" color={pane.labels === false ? "faint" : undefined} aria-pressed={pane.labels !== false} aria-label={`Labels in the ${pane.id} pane`} title={pane.labels === false ? "Show labels and numbers here" : "Leave labels and numbers out here"} onClick={() => toggleLabels(pane.id)}>
        <Tag size={13} />
      </Action>
      <Action look="quiet" height="22px" color={(pane.walls ?? "rooms") === "rooms" ? undefined : pane.walls === "front" ? "brass" : "faint"} aria-label={`Walls in the way in the ${pane.id} pane`} title={`${WALLS_SAID[pane.walls ?? "rooms"]} (I)`} onClick={() => nextWalls(pane.id)}>
        <BrickWall size={13} />
      </Action>
      <Action look="quiet" height="22px" aria-label={`Frame the selection in the ${pane.id} pane`} title="Frame the selection (Z)" onClick={() => stage?.frameSelection(pane.id)}>
        <Crosshair size={14} />
      </Action>
      <Action look="quiet" height="22px" aria-label={`Back to the start view in the ${pane.id} pane`} title="Back to the start view" onClick={() => stage?.home(pane.id)}>
        <House size={14} />
      </Action>
      <Action look="quiet" height="22px" aria-label={`The ${pane.id} pane in a window of its own`} title="In a window of its own, for a second screen" onClick={() => openPaneWindow(pane)}>
        <ExternalLink size={13} />
      </Action>
      {last && !new URLSearchParams(location.search).has("pane") && (
        <Action look="quiet" height="22px" aria-label={`${count} ${count === 1 ? "pane" : "panes"}: one, two or three`} title="One, two or three panes" onClick={() => setPaneCount((count % 3) + 1)}>
          <Maximize size={14} /> {count}
        </Action>
      )}
    </Flex>
  );
}

