import { Box, chakra, Flex } from "@chakra-ui/react";
import { useState } from "react";
import { Table } from "../kit/Table";
import { Action, Empty } from "../kit/controls";
import { select } from "../show/selection";
import { choose, type Line, toggled, useExchange } from "./state";

const MARKS: Record<string, { sign: string; word: string; colour: string }> = {
  added: { sign: "+", word: "new", colour: "verdigris" },
  changed: { sign: "~", word: "different", colour: "brass" },
  removed: { sign: "−", word: "goes", colour: "rose" },
  "left out": { sign: "○", word: "left out", colour: "faint" },
  kept: { sign: "·", word: "stays", colour: "faint" },
};
const ORDER = ["removed", "added", "changed", "left out", "kept"];
const FILTERS = ["all", ...ORDER] as const;
type Filter = (typeof FILTERS)[number];

function Mark({ change }: { change: string }) {
  const mark = MARKS[change];
  return (
    <Flex gap="6px" color={mark?.colour}>
      <Box as="span" fontFamily="mono" width="10px" aria-hidden>{mark?.sign}</Box>
      {mark?.word ?? change}
    </Flex>
  );
}

/** What becomes of each thing; any of them may be left as it is. */
export function Differences() {
  const { compared, choices, taken } = useExchange();
  const [filter, setFilter] = useState<Filter>("all");
  if (!compared) return null;
  const counts = (change: string) => compared.lines.filter((line) => line.change === change).length;
  const shown = compared.lines.filter((line) => (filter === "all" ? line.change !== "kept" : line.change === filter)).sort((a, b) => ORDER.indexOf(a.change) - ORDER.indexOf(b.change));
  const single = (line: Line) => choices.leave.includes(line.key);
  const may = (line: Line) => line.group !== "layers" && (line.change !== "kept" || single(line)) && (line.change !== "left out" || single(line));
  return (
    <>
      <Flex role="radiogroup" aria-label="Which differences" gap="4px" px="12px" py="6px" flex="none" align="center">
        {FILTERS.filter((one) => one === "all" || counts(one) > 0).map((one) => (
          <chakra.button
            key={one} type="button" role="radio" aria-checked={filter === one} px="8px" height="22px" borderRadius="11px" fontSize="11.5px" cursor="pointer" border="1px solid"
            borderColor={filter === one ? "brassDeep" : "line"} bg={filter === one ? "brassDeep" : "transparent"} color={filter === one ? "onBrassDeep" : "dim"} onClick={() => setFilter(one)}
          >
            {one === "all" ? "all" : `${MARKS[one]?.word} ${counts(one)}`}
          </chakra.button>
        ))}
      </Flex>
      {shown.length ? (
        <Table<Line>
          label="Differences" rows={shown} rowKey={(line) => line.key}
          onSelect={(keys) => select(compared.lines.filter((line) => keys.includes(line.key)).flatMap((line) => line.id ?? []))}
          columns={[
            { title: "", cell: (line) => <Mark change={line.change} />, sort: (line) => ORDER.indexOf(line.change) },
            { title: "Of", cell: (line) => <Box as="span" color="dim">{line.group}</Box>, sort: (line) => line.group },
            { title: "Thing", cell: (line) => line.name, sort: (line) => line.name },
            { title: "What", cell: (line) => <Box as="span" display="block" whiteSpace="normal" minWidth="220px">{line.text}</Box> },
            {
              title: "Take",
              cell: (line) => !taken && may(line) && (
                <Action
                  look="quiet" height="20px" fontSize="11px" aria-pressed={!single(line)} aria-label={single(line) ? `Take ${line.name} after all` : `Leave ${line.name} as it is`}
                  onClick={(event) => { event.stopPropagation(); choose({ leave: toggled(choices.leave, line.key) }); }}
                >
                  {single(line) ? "Take" : "Leave"}
                </Action>
              ),
            },
          ]}
        />
      ) : (
        <Empty><Box>{filter === "all" ? "The file and the show are the same, as far as it is taken." : "There is none of these."}</Box></Empty>
      )}
    </>
  );
}
