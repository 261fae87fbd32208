import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, FileField, Section, Sign } from "../../kit/controls";
import { sendFile } from "../../show/api";
import { settings, things, useShow } from "../../show/document";
import { pickPlace } from "../../show/drawing";
import { useDroppedFile } from "../../show/dropped";
import { edit } from "../../show/edits";
import { length } from "../../show/format";
import type { DrawingPreview } from "../../show/types";

const UNITS: Record<string, number> = { m: 1, cm: 0.01, mm: 0.001, in: 0.0254, ft: 0.3048 };

/** A plan under the work: its unit and size are looked at before it lands, its layers chosen, its origin clicked. */
export function BaseDrawing() {
  const objects = useShow((state) => state.objects);
  const show = useShow((state) => state.id);
  const { system } = settings(objects);
  const [read, setRead] = useState<DrawingPreview | null>(null);
  const [unit, setUnit] = useState("mm");
  const [layers, setLayers] = useState<ReadonlySet<string>>(new Set());
  const [wrong, setWrong] = useState("");
  const look = async (file: File) => {
    setRead(null);
    setWrong("");
    try {
      const found = await sendFile("/api/shows/{show}/drawings", { show }, file);
      setRead(found);
      setUnit(found.unit && UNITS[found.unit] ? found.unit : "mm");
      setLayers(new Set(found.layers.map((one) => one.name)));
    } catch (error) {
      setWrong(error instanceof Error ? error.message : String(error));
    }
  };
  useDroppedFile("base drawing", (file) => void look(file));
  const metres = UNITS[unit] ?? 1;
  const add = () => {
    if (!read) return;
    const args = { name: read.name, asset: read.asset, layers: [...layers], metres, origin: read.middle };
    void edit("add drawing", args, { quiet: true }).then(() => setRead(null), (error: unknown) => setWrong(error instanceof Error ? error.message : String(error)));
  };
  return (
    <Section title="Base drawing">
      {things(objects, "drawing").map((one) => (
        <Flex key={one.id} data-drawing={one.body.name} align="center" gap="4px" fontSize="12.5px" mb="4px">
          <Box flex="1" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap" color={one.body.shown === false ? "faint" : "text"}>{one.body.name}</Box>
          <Action look="quiet" height="22px" title="Click in the plan where centre line and setting line cross" onClick={() => pickPlace((at) => void edit("set drawing", { id: one.id, at }).catch(() => undefined))}>Click its origin</Action>
          <Action look="quiet" height="22px" onClick={() => void edit("set drawing", { id: one.id, shown: one.body.shown === false }).catch(() => undefined)}>{one.body.shown === false ? "Show" : "Put away"}</Action>
          <Action look="quiet" height="22px" px="4px" aria-label={`Remove the drawing ${one.body.name}`} onClick={() => void edit("remove", { ids: [one.id] }).catch(() => undefined)}>×</Action>
        </Flex>
      ))}
      <FileField label="A DXF file" accept=".dxf" onFile={(file) => void look(file)} />
      {wrong && <Sign tone="wrong">{wrong}</Sign>}
      {read && (
        <Box role="region" aria-label="What the drawing holds" fontSize="12px">
          <Choice label="One unit is" value={unit} options={Object.keys(UNITS)} onChange={setUnit} />
          <Box color={read.unit ? "dim" : "ember"} mb="4px">
            {read.unit ? `The file says ${read.unit}.` : "The file does not say its unit."} So it is {length(read.size[0] * metres, system)} wide and {length(read.size[1] * metres, system)} deep.
          </Box>
          <Box maxHeight="120px" overflowY="auto" mb="6px">
            {read.layers.map((one) => (
              <chakra.label key={one.name} display="flex" gap="6px" alignItems="center" cursor="pointer">
                <chakra.input type="checkbox" accentColor="{colors.brass}" checked={layers.has(one.name)} onChange={() => setLayers(layers.has(one.name) ? new Set([...layers].filter((name) => name !== one.name)) : new Set([...layers, one.name]))} />
                <Box flex="1">{one.name}</Box>
                <Box fontFamily="mono" color="faint">{one.lines}</Box>
              </chakra.label>
            ))}
          </Box>
          {read.findings.map((one, i) => <Sign key={i} tone="attention">{one.what}: {one.done}.</Sign>)}
          <Action look="main" disabled={!layers.size} onClick={add}>Put {read.name} under the work</Action>
        </Box>
      )}
    </Section>
  );
}
