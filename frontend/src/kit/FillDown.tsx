import { Action } from "./controls";
import { type CellText, type Column, filledDown } from "./Table";

/** What the first of the selected rows has in the column that was clicked on, to all of them. */
export function FillDown<T>({ column, rows, rowKey, onCells }: { column: Column<T> | undefined; rows: readonly T[]; rowKey: (row: T) => string; onCells: (cells: CellText[]) => Promise<unknown> }) {
  const cells = column ? filledDown(column, rows, rowKey) : [];
  if (!column || !cells.length) return null;
  return (
    <Action look="quiet" height="24px" title="What the first of them has there, to all of them; click on a cell to take another column" onClick={() => void onCells(cells).catch(() => undefined)}>
      Fill “{column.title}” down
    </Action>
  );
}
