import { Box, chakra } from "@chakra-ui/react";
import { pictureOf } from "./looks";
import { useShow } from "./document";

/** What a look looks like, small; where it is of how things were before, that is said. */
export function LookPicture({ look, height }: { look: string; height: string }) {
  const id = useShow((state) => state.id);
  const stand = useShow((state) => state.stand);
  const looks = useShow((state) => state.looks);
  const pictures = useShow((state) => state.pictures);
  const found = pictureOf(look, { id, stand, looks, pictures });
  return (
    <Box position="relative" width="100%" height={height} bg="ink0" overflow="hidden">
      {found ? <chakra.img src={found.url} alt="" draggable={false} width="100%" height="100%" objectFit="cover" opacity={found.stale ? 0.55 : 1} /> : null}
      {(!found || found.stale) && (
        <Box position="absolute" left="0" right="0" bottom="0" px="4px" fontSize="10px" color="dim" bg="ink0/70" truncate data-part={found ? "stale" : "undrawn"}>
          {found ? "of before" : "not drawn yet"}
        </Box>
      )}
    </Box>
  );
}
