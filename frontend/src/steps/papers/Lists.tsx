import { Box, chakra, Flex } from "@chakra-ui/react";
import { LISTS, seeList, usePapers } from "../../show/papers";

const LINES = [0.9, 0.6, 0.8, 0.5, 0.7];

/** The lists of the rig as small papers. */
export function Lists() {
  const shown = usePapers((state) => state.list);
  return (
    <Flex flex="1" minHeight="0" gap="10px" px="14px" py="10px" wrap="wrap" overflow="auto" align="flex-start" alignContent="flex-start" role="listbox" aria-label="Lists of the rig">
      {LISTS.map(({ value, label }, i) => (
        <chakra.button key={value} type="button" role="option" aria-selected={value === shown} onClick={() => seeList(value)} display="flex" gap="9px" alignItems="center" width="172px" textAlign="left" cursor="pointer" p="6px" borderRadius="5px" border="2px solid" borderColor={value === shown ? "verdigris" : "transparent"} bg={value === shown ? "verdigrisDeep" : "transparent"} _hover={{ borderColor: value === shown ? "verdigris" : "line" }}>
          <Box width="30px" height="38px" flex="none" bg="white" boxShadow="0 1px 3px rgb(0 0 0 / 0.35)" p="4px" aria-hidden>
            {LINES.map((share, k) => <Box key={k} height="1.5px" mb="4px" bg={k === 0 ? "brass" : "line"} style={{ width: `${(share + ((i * 3 + k) % 4) * 0.08) * 80}%` }} />)}
          </Box>
          <Box fontSize="12.5px" fontWeight={value === shown ? 650 : 500} lineHeight={1.25}>{label}</Box>
        </chakra.button>
      ))}
    </Flex>
  );
}
