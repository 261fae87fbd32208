import { Box, chakra, Flex, Grid } from "@chakra-ui/react";
import { Sign } from "../kit/controls";
import { many } from "../show/format";
import { choose, type SceneType, useExchange } from "./state";

const SOURCES: Record<string, string> = { show: "of this show", file: "out of the file", library: "of the library", plain: "a plain body" };

/** How much a person has to look at it: a plain body first, then one whose modes are others, or whose file is not to be read. */
function doubt(type: SceneType): number {
  const chosen = type.options.find((one) => one.choice === type.chosen);
  if (!chosen || type.chosen === "plain") return 3;
  if (Object.entries(chosen.modes).some(([mode, to]) => mode !== to)) return 2;
  return type.why ? 1 : 0;
}

const begun = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** The file's types, what each becomes here and why; another one may be chosen. */
export function Types() {
  const { compared, taken } = useExchange();
  if (!compared) return null;
  return (
    <Box overflowY="auto" flex="1" minHeight="0" px="14px" py="10px" role="list" aria-label="Types" inert={taken !== null}>
      {!compared.types.length && <Sign tone="fine">There are no fixtures in this file.</Sign>}
      {[...compared.types].sort((a, b) => doubt(b) - doubt(a)).map((one) => <TypeRow key={one.spec} type={one} />)}
    </Box>
  );
}

function TypeRow({ type }: { type: SceneType }) {
  const types = useExchange((state) => state.choices.types);
  const chosen = type.options.find((one) => one.choice === type.chosen);
  const plain = doubt(type) > 1;
  return (
    <Grid role="listitem" data-type={type.name} templateColumns="minmax(0, 1fr) 22px minmax(0, 1.25fr)" gap="10px" py="9px" borderBottom="1px solid" borderColor="line" alignItems="start">
      <Box minWidth="0">
        <Flex gap="8px" align="baseline">
          <Box fontWeight={600} fontSize="13px" truncate>{type.name}</Box>
          <Box fontSize="11.5px" color="dim" whiteSpace="nowrap">{many(type.fixtures, "fixture")}</Box>
        </Flex>
        <Box fontSize="11.5px" color="dim" truncate>{[type.maker, ...Object.entries(type.slots).map(([mode, slots]) => `${mode || "no mode"} ${slots || "?"}`)].filter(Boolean).join(" · ")}</Box>
        {type.why && <Box fontSize="11.5px" color="ember">{type.why}</Box>}
      </Box>
      <Box color={plain ? "ember" : "verdigris"} fontSize="14px" aria-hidden>→</Box>
      <Box minWidth="0">
        <chakra.select
          aria-label={`${type.name} becomes`} value={type.chosen} bg="ink1" border="1px solid" borderColor={plain ? "ember" : "line"} borderRadius="4px" height="26px" width="100%" fontSize="12.5px" px="5px"
          onChange={(event) => choose({ types: { ...types, [type.spec]: event.target.value } })}
        >
          {type.options.map((one) => <option key={one.choice} value={one.choice}>{one.name}, {SOURCES[one.source] ?? one.source}</option>)}
        </chakra.select>
        <Box fontSize="11.5px" color="dim" mt="3px">{chosen ? `${begun(chosen.reason)}.` : ""}</Box>
      </Box>
    </Grid>
  );
}
