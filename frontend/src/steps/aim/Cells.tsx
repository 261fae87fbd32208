import { chakra, Flex } from "@chakra-ui/react";
import { useRef } from "react";
import { Action, Section } from "../../kit/controls";
import { many } from "../../show/format";

/** The cells that values go to: all, or those that are picked; Shift takes all between. */
export function CellsSection({ count, few, cells, onCells }: { count: number; few: string; cells: readonly number[]; onCells: (cells: number[]) => void }) {
  const last = useRef(1);
  const all = Array.from({ length: count }, (_, i) => i + 1);
  const take = (cell: number, between: boolean) => {
    const [from, to] = [Math.min(last.current, cell), Math.max(last.current, cell)];
    const meant = between ? all.filter((one) => one >= from && one <= to) : [cell];
    last.current = cell;
    onCells(between ? [...new Set([...cells, ...meant])].sort((a, b) => a - b) : cells.includes(cell) ? cells.filter((one) => one !== cell) : [...cells, cell].sort((a, b) => a - b));
  };
  return (
    <Section title={`Cells${few}`}>
      <Flex gap="3px" wrap="wrap" role="group" aria-label={cells.length ? `${many(cells.length, "cell")} picked` : "All cells"} mb="6px">
        {all.map((cell) => (
          <chakra.button
            key={cell} type="button" aria-label={`Cell ${cell}`} aria-pressed={cells.includes(cell)} minWidth="22px" height="20px" px="3px" fontFamily="mono" fontSize="11px" borderRadius="3px" border="1px solid" cursor="pointer"
            borderColor={cells.includes(cell) ? "brass" : "line"} bg={cells.includes(cell) ? "ink3" : "ink0"} color={cells.includes(cell) ? "brass" : cells.length ? "faint" : "text"}
            onClick={(event) => take(cell, event.shiftKey)}
          >
            {cell}
          </chakra.button>
        ))}
      </Flex>
      <Flex gap="5px">
        <Action height="22px" look={cells.length ? "plain" : "on"} aria-pressed={!cells.length} onClick={() => onCells([])}>All</Action>
        <Action height="22px" onClick={() => onCells(all.filter((cell) => cell % 2 === 1))}>Odd</Action>
        <Action height="22px" onClick={() => onCells(all.filter((cell) => cell % 2 === 0))}>Even</Action>
      </Flex>
    </Section>
  );
}
