import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { Action, Field, Sign } from "../../kit/controls";
import { things, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { LABEL_FIELDS, LABEL_SHAPES, LABEL_VIEWS, labelText } from "../../show/labels";
import type { EditArgs, Thing } from "../../show/types";
import { shapePath } from "../../stage/tools/labels";

const VIEW_NAMES: Record<string, string> = { plan: "Plan", front: "Front", back: "Back", left: "From SR", right: "From SL", section: "Section", free: "Free" };
const WORDS: Record<string, string> = { number: "channel number", unit: "unit number", address: "address", type: "type", purpose: "what it is for", note: "note", circuit: "circuit", dimmer: "dimmer", mode: "mode", position: "structure", colour: "gel" };

const change = (args: EditArgs["set label style"]) => edit("set label style", args, { quiet: true });

/** The label styles of the show: what is written beside fixtures, in which shapes, in which views; each with its legend. */
export function LabelStyles() {
  const objects = useShow((state) => state.objects);
  const styles = things(objects, "label style");
  const [picked, setPicked] = useState("");
  const style = styles.find((one) => one.id === picked) ?? styles[0];
  return (
    <Flex flex="1" minHeight="0">
      <Flex direction="column" width="150px" flex="none" borderRight="1px solid" borderColor="line" p="6px" gap="2px" overflowY="auto">
        {styles.map((one) => (
          <chakra.button key={one.id} type="button" textAlign="left" px="8px" height="26px" fontSize="12.5px" borderRadius="4px" cursor="pointer" bg={one.id === style?.id ? "ink3" : "transparent"} onClick={() => setPicked(one.id)}>
            {one.body.name}
            {!one.body.views?.length && <Box as="span" color="ember" fontSize="11px"> ◇ in no view</Box>}
          </chakra.button>
        ))}
        <Action height="24px" mt="4px" onClick={() => void edit("add label style", {}).catch(() => undefined)}>Add a style</Action>
      </Flex>
      {style ? <Style key={style.id} style={style} /> : <Box p="14px" fontSize="12.5px" color="dim">No label style yet. One says which numbers stand beside fixtures, in which shapes, and in which views.</Box>}
    </Flex>
  );
}

function Style({ style }: { style: Thing<"label style"> }) {
  const types = useShow((state) => state.types);
  const { body } = style;
  const parts = (body.parts ?? []) as [string, string][];
  const [wrong, setWrong] = useState("");
  const set = (args: Omit<EditArgs["set label style"], "id">) => {
    setWrong("");
    void change({ id: style.id, ...args }).catch((error: unknown) => setWrong(error instanceof Error ? error.message : String(error)));
  };
  const toggle = (list: readonly string[], one: string) => (list.includes(one) ? list.filter((other) => other !== one) : [...list, one]);
  return (
    <Flex flex="1" minWidth="0" p="8px 14px" gap="18px" overflow="auto">
      <Box width="275px" flex="none">
        <Field label="Name" numeric={false} value={body.name} onCommit={(name) => change({ id: style.id, name })} />
        {parts.map(([field, shape], i) => (
          <Flex key={i} gap="4px" align="flex-start">
            <chakra.select aria-label={`Part ${i + 1}`} flex="1" minWidth="0" value={field} onChange={(event) => set({ parts: parts.map((one, k) => (k === i ? [event.target.value, one[1]] : one)) })} bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" height="26px" fontSize="12px" px="4px">
              {LABEL_FIELDS.map((one) => <option key={one} value={one}>{WORDS[one] ?? one}</option>)}
            </chakra.select>
            <chakra.select aria-label={`Shape of part ${i + 1}`} value={shape} onChange={(event) => set({ parts: parts.map((one, k) => (k === i ? [one[0], event.target.value] : one)) })} bg="ink1" border="1px solid" borderColor="line" borderRadius="4px" height="26px" fontSize="12px" px="4px">
              {LABEL_SHAPES.map((one) => <option key={one}>{one}</option>)}
            </chakra.select>
            <Action look="quiet" height="26px" px="4px" disabled={i === 0} aria-label={`Part ${i + 1} earlier`} onClick={() => set({ parts: parts.map((one, k) => (k === i - 1 ? parts[i] : k === i ? parts[i - 1] : one) as [string, string]) })}>↑</Action>
            <Action look="quiet" height="26px" px="4px" disabled={parts.length < 2} aria-label={`Take part ${i + 1} out`} onClick={() => set({ parts: parts.filter((_, k) => k !== i) })}>×</Action>
          </Flex>
        ))}
        <Action look="quiet" height="24px" disabled={parts.length > 7} onClick={() => set({ parts: [...parts, ["unit", "box"]] })}>Add a part</Action>
        {wrong && <Sign tone="wrong">{wrong}</Sign>}
      </Box>
      <Box flex="1" minWidth="190px">
        <Box fontSize="11px" color="faint" mb="4px">Shown in</Box>
        <Flex wrap="wrap" gap="4px" mb="8px">
          {LABEL_VIEWS.map((view) => {
            const on = body.views?.includes(view) ?? false;
            return <Action key={view} look={on ? "on" : "plain"} height="24px" fontSize="11.5px" aria-pressed={on} onClick={() => set({ views: toggle(body.views ?? [], view) })}>{VIEW_NAMES[view]}</Action>;
          })}
        </Flex>
        {!body.views?.length && <Sign tone="attention">Shown in no view: nobody sees it.</Sign>}
        <Box fontSize="11px" color="faint" mb="4px">For {body.types?.length ? "these types" : "all types"}</Box>
        <Flex wrap="wrap" gap="4px">
          {Object.entries(types).filter(([, one]) => !one.driver).map(([id, one]) => {
            const on = body.types?.includes(id) ?? false;
            return <Action key={id} look={on ? "on" : "quiet"} height="22px" fontSize="11px" aria-pressed={on} onClick={() => set({ types: toggle(body.types ?? [], id) })}>{one.name}</Action>;
          })}
        </Flex>
      </Box>
      <Box width="200px" flex="none">
        <Legend parts={parts} />
        <Field label="In plans, mm" value={String(body.size_mm ?? 180)} onCommit={(text) => change({ id: style.id, size_mm: Number(text) })} />
        <Field label="In pictures, px" value={String(body.size_px ?? 11)} onCommit={(text) => change({ id: style.id, size_px: Number(text) })} />
        <Action look={body.leader !== false ? "on" : "plain"} height="24px" aria-pressed={body.leader !== false} onClick={() => set({ leader: body.leader === false })}>Leader to the clamp</Action>
        <Action look="quiet" height="24px" ml="6px" onClick={() => void edit("remove", { ids: [style.id] }).catch(() => undefined)}>Remove</Action>
      </Box>
    </Flex>
  );
}

/** What the shapes of a style mean, with a real fixture's values. */
function Legend({ parts }: { parts: [string, string][] }) {
  const objects = useShow((state) => state.objects);
  const types = useShow((state) => state.types);
  const fixture = things(objects, "fixture")[0];
  const canvas = useRef<HTMLCanvasElement>(null);
  const texts = parts.map(([field]) => (fixture ? labelText(fixture, field, objects, types) : "") || "12");
  const key = JSON.stringify([parts, texts]);
  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen || !canvas.current) return;
    const style = getComputedStyle(canvas.current);
    pen.setTransform(2, 0, 0, 2, 0, 0);
    pen.clearRect(0, 0, 200, 200);
    parts.forEach(([field, shape], i) => {
      const y = 4 + i * 24;
      pen.font = `11px ${style.fontFamily}`;
      const width = Math.max(pen.measureText(texts[i] ?? "").width + 10, 22);
      shapePath(pen, shape, 2, y, width, 18);
      pen.strokeStyle = pen.fillStyle = style.color;
      pen.lineWidth = 1;
      if (shape === "bar") {
        pen.beginPath();
        pen.moveTo(3, y + 17);
        pen.lineTo(width, y + 17);
      }
      if (shape !== "plain") pen.stroke();
      pen.textAlign = "center";
      pen.textBaseline = "middle";
      pen.fillText(texts[i] ?? "", 2 + width / 2, y + 9);
      pen.textAlign = "left";
      pen.globalAlpha = 0.7;
      pen.fillText(WORDS[field] ?? field, Math.max(width + 10, 64), y + 9);
      pen.globalAlpha = 1;
    });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the key is what is drawn
  }, [key]);
  return (
    <Box flex="none" mb="8px" color="text" fontFamily="mono" height={`${parts.length * 24 + 22}px`} overflow="hidden">
      <Box fontSize="11px" fontFamily="body" color="faint" mb="2px">Legend</Box>
      <canvas ref={canvas} width={400} height={400} style={{ width: 200, height: 200 }} role="img" aria-label={`What the shapes say: ${parts.map(([field, shape]) => `${shape}: ${WORDS[field] ?? field}`).join(", ")}`} />
    </Box>
  );
}
