import { chakra, Flex } from "@chakra-ui/react";
import { BenchHead } from "../../kit/controls";
import { Light } from "../../kit/Light";
import { things, useShow } from "../../show/document";
import { many } from "../../show/format";
import { usePapers } from "../../show/papers";
import { Lists } from "./Lists";
import { Sheets } from "./Sheets";

const VIEWS = [
  { value: "sheets", label: "Sheets" },
  { value: "lists", label: "Lists" },
] as const;

/** The set as small sheets, or a list as it will be printed. */
export function PapersBench() {
  const objects = useShow((state) => state.objects);
  const view = usePapers((state) => state.view);
  return (
    <Light flex="1">
      <BenchHead title={view === "sheets" ? "The set" : "Lists"} note={view === "sheets" ? many(things(objects, "sheet").length, "sheet") : "of the whole rig"}>
        <Flex role="group" aria-label="Papers shown" border="1px solid" borderColor="line" borderRadius="5px" overflow="hidden">
          {VIEWS.map((one) => (
            <chakra.button key={one.value} type="button" aria-pressed={one.value === view} px="10px" height="24px" fontSize="12px" cursor="pointer" bg={one.value === view ? "brassDeep" : "transparent"} color={one.value === view ? "onBrassDeep" : "dim"} onClick={() => usePapers.setState({ view: one.value })}>
              {one.label}
            </chakra.button>
          ))}
        </Flex>
      </BenchHead>
      {view === "sheets" ? <Sheets /> : <Lists />}
    </Light>
  );
}
