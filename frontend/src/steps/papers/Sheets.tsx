import { Box, chakra, Flex } from "@chakra-ui/react";
import { useEffect, useMemo, useRef, useState } from "react";
import { Empty } from "../../kit/controls";
import { things, useShow } from "../../show/document";
import { paperStamp, sheetShown, usePapers } from "../../show/papers";
import type { Thing } from "../../show/types";

/** What a sheet and all that is on it is, as a number: its picture is another one when that is. */
function madeOf(sheet: Thing<"sheet">, stamp: number): number {
  let sum = stamp;
  for (const sign of JSON.stringify(sheet.body)) sum = (sum * 31 + sign.charCodeAt(0)) | 0;
  return sum >>> 0;
}

/** The set as small sheets. Their pictures are asked for one after another: the desk has other things to do meanwhile. */
export function Sheets() {
  const objects = useShow((state) => state.objects);
  const chosen = usePapers((state) => state.sheet);
  const sheets = things(objects, "sheet");
  const stamp = useMemo(() => paperStamp(objects), [objects]);
  const shown = sheetShown(objects, chosen);
  const [come, setCome] = useState<Record<string, number>>({});
  const made = useMemo(() => new Map(sheets.map((sheet) => [sheet.id, madeOf(sheet, stamp)])), [sheets, stamp]);
  const next = sheets.find((sheet) => come[sheet.id] !== made.get(sheet.id))?.id;
  if (!sheets.length) {
    return (
      <Empty>
        <Box>Plans, sections and views of single structures go here, at a true scale, as the crew will have them on paper. Make the first one in the card.</Box>
      </Empty>
    );
  }
  return (
    <Flex flex="1" minHeight="0" gap="12px" px="14px" py="10px" overflow="auto" align="flex-start" role="listbox" aria-label="Sheets of the set">
      {sheets.map((sheet) => (
        <Small
          key={sheet.id} sheet={sheet} on={sheet.id === shown?.id} made={sheet.id === next ? made.get(sheet.id) : come[sheet.id]}
          onCome={() => setCome((now) => ({ ...now, [sheet.id]: made.get(sheet.id) ?? 0 }))}
        />
      ))}
    </Flex>
  );
}

function Small({ sheet, on, made, onCome }: { sheet: Thing<"sheet">; on: boolean; made: number | undefined; onCome: () => void }) {
  const show = useShow((state) => state.id);
  const { body } = sheet;
  const findings = usePapers((state) => state.drawn[sheet.id]?.findings.length ?? 0);
  const tile = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    // One that was just made, or found, may be at the end of a long set.
    if (on) tile.current?.scrollIntoView?.({ block: "nearest", inline: "nearest" });
  }, [on]);
  const take = () => usePapers.setState({ sheet: sheet.id, picked: null, writing: null, measuring: false });
  return (
    <chakra.button ref={tile} type="button" role="option" aria-selected={on} onClick={take} flex="none" textAlign="left" cursor="pointer" p="6px" borderRadius="5px" border="2px solid" borderColor={on ? "verdigris" : "transparent"} bg={on ? "verdigrisDeep" : "transparent"} _hover={{ borderColor: on ? "verdigris" : "line" }}>
      <Flex height="88px" width="150px" align="center" justify="center" bg="ink3" borderRadius="3px" overflow="hidden">
        {made !== undefined && <chakra.img src={`/api/shows/${show}/sheets/${sheet.id}/file?kind=svg&made=${made}`} alt="" onLoad={onCome} onError={onCome} maxWidth="100%" maxHeight="100%" bg="white" boxShadow="0 1px 4px rgb(0 0 0 / 0.3)" />}
      </Flex>
      <Flex mt="5px" fontSize="12px" gap="6px" width="150px">
        <Box fontWeight={650} whiteSpace="nowrap">{body.number}</Box>
        <Box flex="1" minWidth="0" truncate>{body.name}</Box>
      </Flex>
      <Flex fontSize="11px" color="dim" width="150px" gap="6px">
        <Box>{body.paper}</Box>
        <Box flex="1" />
        {findings > 0 && <Box color="ember">{findings} to put right</Box>}
      </Flex>
    </chakra.button>
  );
}
