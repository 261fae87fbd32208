import { Box, chakra, Flex } from "@chakra-ui/react";
import { Action } from "../../kit/controls";
import { settings, useShow } from "../../show/document";
import { edit } from "../../show/edits";
import { looksInOrder, useLooks } from "../../show/looks";
import { select, useSelection } from "../../show/selection";
import { LookPicture } from "../../show/LookPicture";

/** All looks as pictures, by their numbers. */
export function Tiles() {
  const objects = useShow((state) => state.objects);
  const facts = useShow((state) => state.looks);
  const selection = useSelection((state) => state.selection);
  const chosen = useLooks((state) => state.look);
  const show = settings(objects);
  const looks = looksInOrder(objects);
  return (
    <Flex wrap="wrap" gap="8px" px="12px" py="8px" overflow="auto" flex="1" align="flex-start" role="list" aria-label="Looks">
      {looks.map((look) => {
        const fact = facts[look.id];
        const playing = show.playing === look.id;
        const on = selection.includes(look.id) || chosen === look.id;
        return (
          <Box key={look.id} role="listitem" width="158px" borderRadius="5px" border="1px solid" borderColor={on ? "verdigris" : playing ? "brass" : "line"} bg="ink2" overflow="hidden">
            <chakra.button
              type="button" display="flex" flexDirection="column-reverse" width="100%" textAlign="left" cursor="pointer" aria-pressed={on}
              onClick={(event) => {
                useLooks.setState({ look: look.id, steps: [] });
                select([look.id], event.ctrlKey || event.metaKey || event.shiftKey);
              }}
            >
              <Box px="6px" pt="3px" fontSize="12px" truncate width="100%" title={look.body.name}>
                <chakra.span fontFamily="mono" color="faint">{look.body.number}</chakra.span> {look.body.name}
              </Box>
              <LookPicture look={look.id} height="82px" />
            </chakra.button>
            <Flex px="6px" pb="3px" align="center" fontSize="11px" color="dim">
              <Box flex="1" truncate title={look.body.note ?? ""}>{fact ? `${fact.lit} of ${fact.fixtures} lit` : ""}{look.body.whole === false ? ", a part" : ""}</Box>
              <Action
                look={playing ? "on" : "quiet"} height="20px" aria-label={playing ? `Playing: ${look.body.name}` : `Recall ${look.body.name}`}
                onClick={() => void edit("play look", { id: look.id }).catch(() => undefined)}
              >
                {playing ? "playing" : "recall"}
              </Action>
            </Flex>
          </Box>
        );
      })}
    </Flex>
  );
}
