import { Box, Flex } from "@chakra-ui/react";
import { Section } from "../../kit/controls";
import { called, settings, useShow } from "../../show/document";
import { length } from "../../show/format";
import { lightText, useLandings } from "../../show/landings";

const MOST = 8;

/** Where the beams of the selection land: on what, how far, how wide, how bright. Asked again while they may move. */
export function LandingSection({ ids }: { ids: string[] }) {
  const objects = useShow((state) => state.objects);
  const { system } = settings(objects);
  const landings = useLandings(ids);
  // A batten has one line: its first cell's.
  const first = [...new Map(landings.map((one) => [one.fixture, one] as const).reverse()).values()].reverse();
  return (
    <Section title="Where it lands">
      {first.length === 0 && (
        <Box color="dim" fontSize="12px">
          Nothing of it is lit, or it meets nothing.
        </Box>
      )}
      {first.slice(0, MOST).map((one) => (
        <Box key={one.key} fontSize="12px" py="2px" data-part="landing">
          <Flex gap="6px">
            <Box fontFamily="mono" color="brass" minWidth="26px">
              {called(objects[one.fixture])}
            </Box>
            <Box flex="1" truncate>
              {called(objects[one.thing])}
            </Box>
            <Box fontFamily="mono">{lightText(one.lux, system)}</Box>
          </Flex>
          <Box color="dim" pl="32px">
            {length(one.throw_m, system)} throw, {length(one.across_m, system)} x {one.along_m == null ? "endless" : length(one.along_m, system)}, mean {lightText(one.mean_lux, system)}
          </Box>
          {one.overlaps.length > 0 && (
            <Box color="faint" fontSize="11px" pl="32px" truncate title={one.overlaps.map((id) => called(objects[id])).join(", ")}>
              with {one.overlaps.slice(0, 8).map((id) => called(objects[id])).join(", ")}{one.overlaps.length > 8 ? ` and ${one.overlaps.length - 8} more` : ""}
            </Box>
          )}
        </Box>
      ))}
      {first.length > MOST && (
        <Box color="faint" fontSize="11.5px">
          and {first.length - MOST} more
        </Box>
      )}
    </Section>
  );
}
