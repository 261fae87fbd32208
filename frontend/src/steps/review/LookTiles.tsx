import { Box, chakra, Flex } from "@chakra-ui/react";
import { Empty } from "../../kit/controls";
import { useCompare } from "../../show/compare";
import { things, useShow } from "../../show/document";
import { LookPicture } from "../../show/LookPicture";
import { looksInOrder } from "../../show/looks";
import { standingOf } from "../../show/notes";
import { usePictures } from "../../show/usePictures";

/** All looks as pictures: one for the left, one for the right. */
export function LookTiles() {
  const objects = useShow((state) => state.objects);
  const { left, right } = useCompare();
  const notes = things(objects, "note");
  const looks = looksInOrder(objects);
  usePictures();
  if (!looks.length) return <Empty>There is no look to compare yet: keep some in Looks. What is driven now can be kept with the card, and compared with what it becomes.</Empty>;
  return (
    <Flex wrap="wrap" gap="8px" px="12px" py="8px" overflow="auto" flex="1" align="flex-start" role="list" aria-label="Looks to compare" tabIndex={0}>
      {looks.map((look) => {
        const side = [left.picture === look.id && "left", right.picture === look.id && "right"].filter(Boolean).join(" and ");
        const { verdict } = standingOf(notes, look.id);
        return (
          <Box key={look.id} role="listitem" width="150px" borderRadius="5px" border="1px solid" borderColor={side ? "brass" : "line"} bg="ink2" overflow="hidden">
            <chakra.button
              type="button" display="flex" flexDirection="column-reverse" width="100%" textAlign="left" cursor="pointer" aria-pressed={side !== ""}
              onClick={(event) => useCompare.setState(event.shiftKey ? { right: { ...right, picture: look.id } } : { left: { ...left, picture: look.id } })}
            >
              <Flex px="6px" py="3px" fontSize="12px" width="100%" gap="5px">
                <chakra.span fontFamily="mono" color="faint">{look.body.number}</chakra.span>
                <Box flex="1" truncate title={look.body.name}>{look.body.name}</Box>
                <Box color={side ? "brass" : verdict === "agreed" ? "verdigris" : "ember"} fontSize="11px">{side || verdict}</Box>
              </Flex>
              <LookPicture look={look.id} height="78px" />
            </chakra.button>
          </Box>
        );
      })}
    </Flex>
  );
}
