import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMemo } from "react";
import { Empty } from "../../kit/controls";
import { things, useShow } from "../../show/document";
import { paperStamp, sheetShown, usePapers } from "../../show/papers";
import type { Thing } from "../../show/types";

/** The set as small sheets. */
export function Sheets() {
  const objects = useShow((state) => state.objects);
  const chosen = usePapers((state) => state.sheet);
  const sheets = things(objects, "sheet");
  const stamp = useMemo(() => paperStamp(objects), [objects]);
  const shown = sheetShown(objects, chosen);
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
        <Small key={sheet.id} sheet={sheet} stamp={stamp} on={sheet.id === shown?.id} />
      ))}
    </Flex>
  );
}

function Small({ sheet, stamp, on }: { sheet: Thing<"sheet">; stamp: number; on: boolean }) {
  const show = useShow((state) => state.id);
  const { body } = sheet;
  // Each sheet's own arrangement counts as well.
  const made = useMemo(() => JSON.stringify(body).split("").reduce((sum, sign) => (sum * 31 + sign.charCodeAt(0)) | 0, stamp) >>> 0, [body, stamp]);
  const findings = usePapers((state) => state.drawn[sheet.id]?.findings.length ?? 0);
  const take = () => usePapers.setState({ sheet: sheet.id, picked: null, writing: null, measuring: false });
  return (
    <chakra.button type="button" role="option" aria-selected={on} onClick={take} flex="none" textAlign="left" cursor="pointer" p="6px" borderRadius="5px" border="2px solid" borderColor={on ? "verdigris" : "transparent"} bg={on ? "verdigrisDeep" : "transparent"} _hover={{ borderColor: on ? "verdigris" : "line" }}>
      <Flex height="88px" width="150px" align="center" justify="center" bg="ink3" borderRadius="3px" overflow="hidden">
        <chakra.img src={`/api/shows/${show}/sheets/${sheet.id}/file?kind=svg&made=${made}`} alt="" loading="lazy" maxWidth="100%" maxHeight="100%" bg="white" boxShadow="0 1px 4px rgb(0 0 0 / 0.3)" />
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
