import { Box, Flex } from "@chakra-ui/react";
import { Overlaid } from "../kit/Overlaid";
import { KEYS } from "./keys";

export function KeysHelp({ onClose }: { onClose: () => void }) {
  return (
    <Overlaid label="Keys" onClose={onClose}>
      {KEYS.map(([keys, what]) => (
        <Flex key={keys} gap="16px" px="16px" py="5px" borderBottom="1px solid" borderColor="ink3" fontSize="12.5px">
          <Box fontFamily="mono" width="210px" color="brass" fontSize="12px">
            {keys}
          </Box>
          <Box>{what}</Box>
        </Flex>
      ))}
    </Overlaid>
  );
}
