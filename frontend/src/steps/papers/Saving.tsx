import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Action, Choice, Progress, Section } from "../../kit/controls";
import { things, useShow } from "../../show/document";
import { drawSet, stopSet, usePapers } from "../../show/papers";
import type { Thing } from "../../show/types";

export const LINK = {
  display: "flex", alignItems: "center", justifyContent: "center", height: "28px", borderRadius: "5px", bg: "ink3", border: "1px solid", borderColor: "line", fontSize: "12.5px", fontWeight: 550, flex: "1", _hover: { bg: "line" },
} as const;
export const MAIN = { ...LINK, height: "32px", width: "100%", bg: "brass", color: "onBrass", borderColor: "brass", fontWeight: 650, _hover: { bg: "{colors.brass/88}" } } as const;

const ON = [
  { value: "", label: "its own paper" },
  { value: "on=A3", label: "A3, made smaller" },
  { value: "on=A4", label: "A4, made smaller" },
  { value: "tiles=A3", label: "A3 in tiles, to scale" },
  { value: "tiles=A4", label: "A4 in tiles, to scale" },
] as const;

/** A sheet, or all of them, as files. */
export function Saving({ sheet }: { sheet: Thing<"sheet"> }) {
  const show = useShow((state) => state.id);
  const count = useShow((state) => things(state.objects, "sheet").length);
  const drawing = usePapers((state) => state.drawing);
  const [on, setOn] = useState<(typeof ON)[number]["value"]>("");
  const file = (kind: string) => `/api/shows/${show}/sheets/${sheet.id}/file?kind=${kind}${kind === "pdf" && on ? `&${on}` : ""}`;
  const saveSet = async () => {
    if (await drawSet()) location.assign(`/api/shows/${show}/papers/set.pdf${on ? `?${on}` : ""}`);
  };
  return (
    <Section>
      <chakra.a {...MAIN} data-main="" href={file("pdf")} download>Save as PDF</chakra.a>
      <Flex gap="6px" my="6px">
        <chakra.a {...LINK} href={file("dxf")} download>As DXF</chakra.a>
        <chakra.a {...LINK} href={file("svg")} download>As SVG</chakra.a>
        {count > 1 && <Action flex="1" disabled={drawing !== null} onClick={() => void saveSet()}>All {count} as PDF</Action>}
      </Flex>
      {drawing && (
        <Flex align="center" gap="8px" fontSize="12px" color="dim">
          <Progress share={drawing.done / drawing.of} label="Sheets drawn" />
          <Box>sheet {drawing.done + 1} of {drawing.of}</Box>
          <Action look="quiet" height="22px" onClick={stopSet}>Stop</Action>
        </Flex>
      )}
      <Choice label="PDF on" value={on} options={ON} onChange={setOn} />
    </Section>
  );
}
