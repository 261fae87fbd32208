"""What a schedule is: columns, rows, totals; and how somebody wants it: columns, order, groups, what is left out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from zarfwright.core.errors import JobError

Cell = str | int | float | None
Row = tuple[Cell, ...]


@dataclass(frozen=True)
class Table:
    """A schedule. Numbers are numbers, and in the unit that their column names."""

    name: str
    title: str
    columns: tuple[str, ...]
    rows: tuple[Row, ...]
    totals: Mapping[str, float]
    things: tuple[tuple[str, ...], ...] = ()
    """The ids of the things that each row is of."""
    group: str = ""
    """The column that it is grouped by, where it is."""
    note: str = ""
    """What is to be known of its figures."""
    changed: tuple[int, ...] = ()
    """Rows of things that have changed since the papers were issued."""

    def column(self, title: str) -> int:
        """Which column has a title. Raises JobError."""
        if title not in self.columns:
            known = ", ".join(self.columns)
            raise JobError(f"“{title}” is no column of {self.title.lower()}: choose of {known}.", "columns")
        return self.columns.index(title)


@dataclass(frozen=True)
class ListStyle:
    """How a schedule is wanted: kept in the show, one for each."""

    name: str
    """Which schedule it is of."""
    columns: tuple[str, ...] = ()
    """Those that are shown, in this order; empty: all."""
    order: tuple[str, ...] = ()
    """The columns that rows go by; a minus before one turns it round. Empty: as the schedule has them."""
    group: str | None = None
    """The column that rows are grouped by; empty: by none; None: as the schedule has it."""
    only: dict[str, str] = field(default_factory=dict)
    """Words that must be in columns for a row to be shown."""


def sort_key(cell: Cell) -> tuple[int, float, str]:
    """Cells in order: numbers, words (numbers in them by their value), nothing last."""
    if cell is None or cell == "":
        return (2, 0.0, "")
    if isinstance(cell, int | float):
        return (0, float(cell), "")
    parts, digits = [], ""
    for sign in f"{cell} ":
        if sign.isdecimal():
            digits += sign
            continue
        if digits:
            parts.append(f"{int(digits):012d}")
            digits = ""
        parts.append(sign.lower())
    return (1, 0.0, "".join(parts))


def _picked(table: Table, keep: Sequence[int]) -> Table:
    """The table with some of its rows, in a given order."""
    changed = set(table.changed)
    return replace(
        table,
        rows=tuple(table.rows[i] for i in keep),
        things=tuple(table.things[i] for i in keep) if table.things else (),
        changed=tuple(k for k, i in enumerate(keep) if i in changed),
    )


def arranged(table: Table, style: ListStyle) -> Table:
    """A schedule as somebody wants it. Its totals stay those of the whole. Raises JobError for columns it has not."""
    keep = list(range(len(table.rows)))
    for title, words in style.only.items():
        at = table.column(title)
        keep = [i for i in keep if words.lower() in as_text(table.rows[i][at]).lower()]
    group = table.group if style.group is None else style.group
    for title in reversed((*((group,) if group and style.order else ()), *style.order)):
        at, back = table.column(title.removeprefix("-")), title.startswith("-")
        # Nothing stays last, whichever way round.
        keep.sort(key=lambda i: sort_key(table.rows[i][at])[1:], reverse=back)
        keep.sort(key=lambda i: _class(table.rows[i][at], back))
    if group and not style.order and group != table.group:
        at = table.column(group)
        keep.sort(key=lambda i: sort_key(table.rows[i][at]))
    table = replace(_picked(table, keep), group=group)
    if not style.columns:
        return table
    at_ = [table.column(title) for title in style.columns]
    grouped = group if group in style.columns else ""
    rows = tuple(tuple(row[i] for i in at_) for row in table.rows)
    return replace(table, columns=style.columns, rows=rows, group=grouped)


def _class(cell: Cell, back: bool) -> int:
    kind = sort_key(cell)[0]
    return kind if kind == 2 or not back else 1 - kind


def as_text(cell: Cell) -> str:
    """A cell as it is printed: numbers as short as they are right."""
    if cell is None:
        return ""
    return f"{cell:.12g}" if isinstance(cell, float) else str(cell)


def as_texts(row: Sequence[Cell]) -> tuple[str, ...]:
    """The cells of a row as they are printed."""
    return tuple(as_text(cell) for cell in row)
