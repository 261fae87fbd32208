import { Box, chakra } from "@chakra-ui/react";
import { openExchange } from "../../exchange/state";
import { Action, Section } from "../../kit/controls";
import { Readiness } from "../../show/CardHead";
import { useShow } from "../../show/document";

const LINK = {
  display: "flex", alignItems: "center", justifyContent: "center", height: "32px", borderRadius: "5px", bg: "ink3", border: "1px solid",
  borderColor: "line", fontSize: "12.5px", fontWeight: 550, mb: "8px", _hover: { bg: "line" },
} as const;

export function PapersCard() {
  const id = useShow((state) => state.id);
  return (
    <>
      <Section>
        <Box as="h2" fontSize="15px" fontWeight={600}>
          Papers
        </Box>
        <Box color="dim" fontSize="12px">
          Lists for the crew and the console
        </Box>
      </Section>
      <Section title="As CSV">
        <chakra.a {...LINK} bg="brass" color="onBrass" borderColor="brass" _hover={{ bg: "{colors.brass/88}" }} href={`/api/shows/${id}/papers/patch.csv`} download>
          Save the patch list
        </chakra.a>
        <chakra.a {...LINK} href={`/api/shows/${id}/papers/hookup.csv`} download>
          Save the channel hookup
        </chakra.a>
        <chakra.a {...LINK} href={`/api/shows/${id}/papers/circuits.csv`} download>
          Save circuits and dimmers
        </chakra.a>
        <chakra.a {...LINK} href={`/api/shows/${id}/papers/orders.csv`} download>
          Save the running orders
        </chakra.a>
        <chakra.a {...LINK} href={`/api/shows/${id}/papers/looks.csv`} download>
          Save the looks, function by function
        </chakra.a>
        <chakra.a {...LINK} href={`/api/shows/${id}/papers/notes.csv`} download>
          Save the notes of the review
        </chakra.a>
        <Box color="dim" fontSize="12px">
          The channel hookup names every slot: a console can be patched from it.
        </Box>
      </Section>
      <Section title="To other programs">
        <Action width="100%" onClick={openExchange}>Scenes in and out</Action>
        <Box color="dim" fontSize="12px" mt="6px">
          MVR for consoles and drawing offices, the geometry as GLB, fixtures from a list.
        </Box>
      </Section>
      <Readiness step="papers" />
    </>
  );
}
