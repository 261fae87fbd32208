import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMemo, useRef } from "react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { Empty } from "../../kit/controls";
import { useShow } from "../../show/document";
import { usePapers } from "../../show/papers";
import { select, useSelection } from "../../show/selection";
import type { ScheduleOut } from "../../show/types";
import { useList } from "./useList";

const ROW_PX = 22;
const HEAD_PX = 24;
/** Up to so many lines all are drawn; of longer lists only those in sight. */
const WHOLE = 200;

type Cell = string | number | null;
interface Line {
  /** The group that begins here, with how many are in it; none: a row. */
  group?: string;
  cells: Cell[];
  ids: string[];
  changed: boolean;
}

/** Rows under the names of their groups. */
export function linesOf(list: ScheduleOut): Line[] {
  const at = list.columns.indexOf(list.group);
  const changed = new Set(list.changed);
  const lines = list.rows.map((cells, i): Line => ({ cells, ids: list.things[i] ?? [], changed: changed.has(i) }));
  if (at < 0) return lines;
  const groups = new Map<string, Line[]>();
  for (const line of lines) {
    const name = String(line.cells[at] ?? "") || "none";
    groups.set(name, [...(groups.get(name) ?? []), line]);
  }
  return [...groups].flatMap(([name, rows]) => [{ group: `${name}: ${rows.length}`, cells: [], ids: [], changed: false }, ...rows]);
}

/** A list as it will be printed: grouped, with what has changed since the papers were issued marked, its totals at the end. */
export function List() {
  const name = usePapers((state) => state.list);
  const list = useList(name);
  const selection = useSelection((state) => state.selection);
  const objects = useShow((state) => state.objects);
  const box = useRef<HTMLDivElement>(null);
  const lines = useMemo(() => (list ? linesOf(list) : []), [list]);
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing of it is memoized here
  const virtual = useVirtualizer({ count: lines.length, getScrollElement: () => box.current, estimateSize: () => ROW_PX, overscan: 14, enabled: lines.length > WHOLE });
  if (!list) return <Box p="14px" color="dim" fontSize="12.5px" role="status">The list is being made</Box>;
  if (!list.rows.length) return <Empty><Box>{list.note || "Nothing is on this list yet."}</Box></Empty>;
  const grouped = list.columns.indexOf(list.group);
  const shown = list.columns.map((title, i) => ({ title, i })).filter(({ i }) => i !== grouped);
  const numeric = new Set(shown.filter(({ i }) => list.rows.every((row) => row[i] === null || typeof row[i] === "number")).map(({ i }) => i));
  const long = lines.length > WHOLE;
  const items = long ? virtual.getVirtualItems() : [];
  const indices = long ? items.map((item) => item.index) : lines.map((_, i) => i);
  const before = items[0]?.start ?? 0;
  const after = long ? Math.max(0, virtual.getTotalSize() - (items.at(-1)?.end ?? 0)) : 0;
  const chosen = new Set(selection);
  return (
    <>
      <Box ref={box} flex="1" minHeight="0" overflow="auto" tabIndex={0} role="region" aria-label={`${list.title}, the list`} px="14px">
        <chakra.table aria-label={list.title} fontSize="12px" width="100%" css={{ borderCollapse: "collapse", "& td, & th": { padding: "2px 8px", whiteSpace: "nowrap", borderBottom: "1px solid {colors.ink3}", textAlign: "left" }, "& [data-numeric]": { textAlign: "right", fontFamily: "{fonts.mono}", fontSize: "11.5px" } }}>
          <thead>
            <tr>
              {shown.map(({ title, i }) => (
                <chakra.th key={title} scope="col" data-numeric={numeric.has(i) || undefined} position="sticky" top="0" bg="ink1" height={`${HEAD_PX}px`} fontWeight={600} color="dim" fontSize="11.5px">{title}</chakra.th>
              ))}
            </tr>
          </thead>
          <tbody>
            {before > 0 && <tr aria-hidden style={{ height: before }} />}
            {indices.map((index) => {
              const line = lines[index] as Line;
              if (line.group !== undefined) {
                return (
                  <tr key={index}>
                    <chakra.th colSpan={shown.length} scope="rowgroup" bg="ink2" fontWeight={650} height={`${ROW_PX}px`}>{line.group}</chakra.th>
                  </tr>
                );
              }
              const on = line.ids.some((id) => chosen.has(id));
              return (
                <chakra.tr key={index} bg={on ? "verdigrisDeep" : undefined} aria-selected={on} cursor={line.ids.length ? "pointer" : "default"} onClick={() => line.ids.length && select(line.ids.filter((id) => objects[id]))} css={line.changed ? { "& td:first-of-type": { boxShadow: "inset 3px 0 {colors.ember}" } } : undefined} title={line.changed ? `Changed since revision ${list.since}` : undefined}>
                  {shown.map(({ title, i }) => <td key={title} data-numeric={numeric.has(i) || undefined}>{line.cells[i] ?? ""}</td>)}
                </chakra.tr>
              );
            })}
            {after > 0 && <tr aria-hidden style={{ height: after }} />}
          </tbody>
        </chakra.table>
      </Box>
      <Flex px="14px" py="5px" gap="14px" wrap="wrap" fontSize="11.5px" color="dim" borderTop="1px solid" borderColor="line" aria-label="Totals" role="group">
        {list.totals.map((one) => <Box key={one.name}>{one.name} <chakra.span color="text" fontFamily="mono">{Number(one.value.toPrecision(12))}</chakra.span></Box>)}
        {list.changed.length > 0 && <Box color="ember">{list.changed.length} changed since revision {list.since}</Box>}
      </Flex>
    </>
  );
}
