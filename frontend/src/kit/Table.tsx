import { Box, chakra, VisuallyHidden } from "@chakra-ui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ClipboardEvent, type KeyboardEvent, type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { focusedByPointer } from "./focus";
import { pasted, pastedSaid } from "./pasted";
import { sentText, type Signs, SIGNS_SAY } from "./signs";
import { explained } from "./terms";

const ROW_PX = 25;
/** Up to so many rows all are drawn; of longer tables only those in sight. */
const WHOLE = 150;
/** What begins a number, typed on a cell; letters are keys of the program. */
const BEGINS = /^[\d.+-]$/;

export interface Column<T> {
  title: string;
  cell: (row: T) => ReactNode;
  numeric?: boolean;
  width?: string;
  /** What it is sorted by; none: it is not sorted. */
  sort?: (row: T) => number | string;
  /** What it is called where it can be edited, of all rows or of each; and the text to begin with. */
  field?: string | ((row: T) => string | undefined);
  text?: (row: T) => string;
  /** What a sign does that is typed into it. */
  signs?: Signs;
}

export interface CellText {
  id: string;
  field: string;
  text: string;
}

/** All rows and cells by one style: a component for each of a thousand cells would be most of what a click costs. */
const CELLS = {
  borderCollapse: "collapse",
  "& tbody tr": { cursor: "default", color: "{colors.text}" },
  "& tbody tr[data-mark=ember]": { color: "{colors.ember}" },
  "& tbody tr[aria-selected]": { cursor: "pointer" },
  "& tbody tr:hover": { background: "{colors.ink2}" },
  "& tbody tr[aria-selected=true], & tbody tr[aria-selected=true]:hover": { background: "{colors.verdigrisDeep}" },
  "& tbody td": { height: `${ROW_PX}px`, padding: "3px 10px", whiteSpace: "nowrap", borderBottom: "1px solid {colors.ink2}", fontSize: "12.5px" },
  "& tbody td[data-numeric=true]": { textAlign: "right", fontFamily: "{fonts.mono}", fontSize: "12px" },
  "& tbody td[data-open]": { paddingBlock: "0" },
  "& tbody td[data-at]": { boxShadow: "inset 0 0 0 1px {colors.brassDeep}" },
  "& tbody tr[aria-selected=true] td:first-of-type": { boxShadow: "inset 2px 0 {colors.verdigris}" },
} as const;

/** What the first of some rows has in a column, for all others of them. */
export function filledDown<T>(column: Column<T>, rows: readonly T[], rowKey: (row: T) => string): CellText[] {
  const [first, ...others] = rows;
  const text = first === undefined ? undefined : column.text?.(first);
  if (text === undefined) return [];
  return others.flatMap((row) => {
    const field = fieldOf(column, row);
    return field ? [{ id: rowKey(row), field, text }] : [];
  });
}

function fieldOf<T>({ field }: Column<T>, row: T): string | undefined {
  return typeof field === "function" ? field(row) : field;
}

interface TableProps<T> {
  label: string;
  columns: Column<T>[];
  rows: T[];
  rowKey: (row: T) => string;
  selected?: ReadonlySet<string>;
  onSelect?: (ids: string[], add: boolean) => void;
  /** What wants attention. */
  mark?: (row: T) => "ember" | undefined;
  /** Take what was typed or pasted into cells; a rejected promise leaves the field open with what was typed. `said`: into which columns it was pasted. */
  onCells?: (cells: CellText[], said?: string) => Promise<unknown>;
  /** A cell of a column that can be edited was clicked on. */
  onColumn?: (column: Column<T>) => void;
}

/**
 * A bench's table: rows are taken by click, more with Shift (a range) or Ctrl (one); heads sort. A double click or F2
 * edits a cell, for all selected rows where its own is among them; a table is pasted from the cell that was clicked on.
 * The whole of it is one tab stop: up and down go from row to row, and above the first to the heads; right and left to
 * what a row has to be pressed.
 */
export function Table<T>({ label, columns, rows, rowKey, selected, onSelect, mark, onCells, onColumn }: TableProps<T>) {
  const [sorted, setSorted] = useState<{ title: string; down: boolean } | null>(null);
  const [at, setAt] = useState<{ key: string; column: number } | null>(null);
  const [editing, setEditing] = useState<{ key: string; column: number; text: string; emptied: boolean } | null>(null);
  const box = useRef<HTMLDivElement>(null);
  /** The row that the tab key comes to. */
  const [cursor, setCursor] = useState<string | null>(null);
  const wanted = useRef<string | null>(null);
  const ordered = useMemo(() => {
    const by = columns.find((column) => column.title === sorted?.title)?.sort;
    if (!by || !sorted) return rows;
    const keyed = rows.map((row) => ({ row, key: by(row) }));
    keyed.sort((a, b) => (a.key < b.key ? -1 : a.key > b.key ? 1 : 0) * (sorted.down ? -1 : 1));
    return keyed.map(({ row }) => row);
  }, [rows, columns, sorted]);
  const keys = useMemo(() => ordered.map(rowKey), [ordered, rowKey]);
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing of it is memoized here
  const virtual = useVirtualizer({ count: ordered.length, getScrollElement: () => box.current, estimateSize: () => ROW_PX, overscan: 12, enabled: ordered.length > WHOLE });
  const items = ordered.length > WHOLE ? virtual.getVirtualItems() : [];
  const [first, last] = ordered.length > WHOLE ? [items[0]?.index ?? 0, (items.at(-1)?.index ?? 0) + 1] : [0, ordered.length];
  const take = (key: string, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    if (!onSelect) return;
    const from = keys.findLastIndex((one) => selected?.has(one));
    if (event.shiftKey && from >= 0) {
      const to = keys.indexOf(key);
      onSelect(keys.slice(Math.min(from, to), Math.max(from, to) + 1), false);
    } else onSelect([key], event.ctrlKey || event.metaKey);
  };
  const open = (key: string, column: number, row: T, begun?: string) => {
    const one = columns[column];
    if (onCells && one && fieldOf(one, row)) setEditing({ key, column, text: begun ?? one.text?.(row) ?? "", emptied: begun !== undefined });
  };
  const commit = () => {
    const column = editing && columns[editing.column];
    if (!editing || !column || !onCells) return;
    const text = column.signs ? sentText(editing.text, column.signs, editing.emptied) : editing.text;
    const targets = selected?.has(editing.key) ? keys.filter((key) => selected.has(key)) : [editing.key];
    const cells = targets.flatMap((id) => cellOf(column, id, text));
    if (cells.length) void onCells(cells).then(() => setEditing(null), () => undefined);
  };
  const cellOf = (column: Column<T> | undefined, id: string, text: string): CellText[] => {
    const row = ordered[keys.indexOf(id)];
    const field = column && row && fieldOf(column, row);
    return field ? [{ id, field, text }] : [];
  };
  const paste = (event: ClipboardEvent) => {
    if (!at || !onCells || editing) return;
    const start = keys.indexOf(at.key);
    const lines = pasted(event.clipboardData.getData("text/plain"));
    const into = columns.slice(at.column);
    const cells = lines.flatMap((line, i) => {
      const id = keys[start + i];
      return id === undefined ? [] : line.flatMap((text, j) => cellOf(into[j], id, text));
    });
    if (!cells.length) return;
    event.preventDefault();
    const wide = Math.max(...lines.map((line) => line.length));
    const said = pastedSaid(into.slice(0, wide).map(({ title, field }) => ({ title, taken: field !== undefined })), lines.length, keys.length - start, wide - into.length);
    void onCells(cells, said).catch(() => undefined);
  };
  const stop = cursor !== null && keys.includes(cursor) ? cursor : (keys.find((key) => selected?.has(key)) ?? keys[0]);
  const lineOf = (key: string) => [...(box.current?.querySelectorAll<HTMLElement>("tr[data-id]") ?? [])].find((one) => one.dataset.id === key);
  const goTo = (index: number, extend: boolean) => {
    const key = keys[Math.max(0, Math.min(index, keys.length - 1))];
    if (key === undefined) return;
    setCursor(key);
    if (ordered.length > WHOLE) virtual.scrollToIndex(keys.indexOf(key));
    // A row that is not drawn yet has the focus as soon as it is.
    const row = lineOf(key);
    if (row) row.focus();
    else wanted.current = key;
    if (extend) take(key, { shiftKey: true, ctrlKey: false, metaKey: false });
  };
  useEffect(() => {
    const table = box.current;
    if (!table) return;
    // What rows hold is reached from the row.
    for (const control of table.querySelectorAll<HTMLElement>("tbody td button, tbody td a[href], tbody td select, tbody td input[type=checkbox]")) control.tabIndex = -1;
    const row = wanted.current === null ? undefined : lineOf(wanted.current);
    if (!row) return;
    wanted.current = null;
    row.focus();
  });
  const press = (event: KeyboardEvent<HTMLElement>, key: string, row: T) => {
    if (editing) return;
    const line = event.currentTarget;
    const index = keys.indexOf(key);
    const controls = [...line.querySelectorAll<HTMLElement>("button, a[href], select, input")];
    const inside = controls.indexOf(event.target as HTMLElement);
    const page = Math.max(1, Math.floor((box.current?.clientHeight ?? 10 * ROW_PX) / ROW_PX) - 2);
    const rows: Record<string, number> = { ArrowDown: index + 1, ArrowUp: index - 1, PageDown: index + page, PageUp: index - page, Home: 0, End: keys.length - 1 };
    const to = rows[event.key];
    if (to === -1 && event.key === "ArrowUp") box.current?.querySelector<HTMLElement>("thead th[tabindex]")?.focus();
    else if (to !== undefined) goTo(to, event.shiftKey);
    else if (event.key === "ArrowRight" && inside < controls.length - 1) controls[inside + 1]?.focus();
    else if (event.key === "ArrowLeft" && inside >= 0) (controls[inside - 1] ?? line).focus();
    else if (inside >= 0) return;
    else if ((event.key === "Enter" && !focusedByPointer()) || event.key === " ") {
      if (onSelect) take(key, event);
      else controls[0]?.click();
    } else if (event.key === "F2") open(key, at?.key === key ? at.column : columns.findIndex((column) => fieldOf(column, row)), row);
    // A number that is typed goes into the cell that was clicked on.
    else if (BEGINS.test(event.key) && !event.ctrlKey && !event.altKey && !event.metaKey && at?.key === key) open(key, at.column, row, event.key);
    else return;
    event.preventDefault();
  };
  const pressHead = (event: KeyboardEvent<HTMLElement>, column: Column<T>) => {
    const heads = [...(box.current?.querySelectorAll<HTMLElement>("thead th[tabindex]") ?? [])];
    const n = heads.indexOf(event.currentTarget);
    if (event.key === "ArrowDown") goTo(0, false);
    else if (event.key === "ArrowRight") heads[n + 1]?.focus();
    else if (event.key === "ArrowLeft") heads[n - 1]?.focus();
    else if (event.key === "Enter" || event.key === " ") sortBy(column);
    else return;
    event.preventDefault();
  };
  const sortBy = (column: Column<T>) => {
    if (!column.sort) return;
    const on = sorted?.title === column.title ? sorted : null;
    setSorted(!on ? { title: column.title, down: false } : on.down ? null : { title: column.title, down: true });
  };
  return (
    <Box ref={box} overflow="auto" flex="1" minHeight="0" onPaste={paste}>
      <chakra.table aria-label={label} aria-rowcount={ordered.length + 1} width="100%" fontSize="12.5px" css={CELLS} userSelect={onSelect ? "none" : undefined}>
        <thead>
          <tr>
            {columns.map((column) => {
              const on = sorted?.title === column.title ? sorted : null;
              return (
                <chakra.th
                  key={column.title}
                  scope="col"
                  title={explained(column.title)}
                  aria-sort={on ? (on.down ? "descending" : "ascending") : undefined}
                  position="sticky"
                  top="0"
                  bg="ink1"
                  zIndex={1}
                  fontSize="11px"
                  fontWeight={500}
                  color={on ? "brass" : "faint"}
                  px="10px"
                  py="4px"
                  width={column.width}
                  textAlign={column.numeric ? "right" : "left"}
                  boxShadow="inset 0 -1px {colors.line}"
                  whiteSpace="nowrap"
                  cursor={column.sort ? "pointer" : undefined}
                  tabIndex={column.sort ? -1 : undefined}
                  onClick={() => sortBy(column)}
                  onKeyDown={(event) => pressHead(event, column)}
                >
                  {column.title || <VisuallyHidden>action</VisuallyHidden>}
                  {on ? (on.down ? " ↓" : " ↑") : ""}
                </chakra.th>
              );
            })}
          </tr>
        </thead>
        <tbody>
          {first > 0 && <tr aria-hidden style={{ height: first * ROW_PX }} />}
          {ordered.slice(first, last).map((row) => {
            const key = rowKey(row);
            const on = selected?.has(key) ?? false;
            return (
              <tr
                key={key}
                data-id={key}
                data-mark={mark?.(row)}
                aria-selected={onSelect ? on : undefined}
                tabIndex={key === stop ? 0 : -1}
                onFocus={() => setCursor(key)}
                onClick={(event) => take(key, event)}
                onKeyDown={(event) => press(event, key, row)}
              >
                {columns.map((column, i) => {
                  const open_ = editing?.key === key && editing.column === i ? editing : null;
                  return (
                    <td
                      key={column.title}
                      data-numeric={column.numeric}
                      data-open={open_ ? true : undefined}
                      data-at={onCells && at?.key === key && at.column === i && fieldOf(column, row) ? true : undefined}
                      onMouseDown={() => {
                        setAt({ key, column: i });
                        if (fieldOf(column, row)) onColumn?.(column);
                      }}
                      onDoubleClick={() => open(key, i, row)}
                    >
                      {open_ ? (
                        <chakra.input
                          autoFocus
                          aria-label={`${column.title} of the row`}
                          value={open_.text}
                          title={column.signs && SIGNS_SAY[column.signs].says}
                          onChange={(event) => setEditing({ ...open_, text: event.target.value, emptied: open_.emptied || event.target.value === "" })}
                          onClick={(event) => event.stopPropagation()}
                          onFocus={(event) => {
                            // What was begun by typing goes on after it.
                            if (!open_.emptied) event.target.select();
                          }}
                          onBlur={() => setEditing(null)}
                          onKeyDown={(event) => {
                            event.stopPropagation();
                            if (event.key === "Enter") commit();
                            if (event.key === "Escape") setEditing(null);
                          }}
                          width="100%"
                          minWidth="48px"
                          height="22px"
                          px="4px"
                          mx="-5px"
                          bg="ink0"
                          border="1px solid"
                          borderColor="brass"
                          borderRadius="3px"
                          textAlign={column.numeric ? "right" : "left"}
                          fontFamily="inherit"
                        />
                      ) : (
                        column.cell(row)
                      )}
                    </td>
                  );
                })}
              </tr>
            );
          })}
          {last < ordered.length && <tr aria-hidden style={{ height: (ordered.length - last) * ROW_PX }} />}
        </tbody>
      </chakra.table>
    </Box>
  );
}
