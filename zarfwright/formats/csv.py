"""Lists as CSV: UTF-8 with BOM for spreadsheets, comma, and no text that a spreadsheet would run as a formula."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from zarfwright.formats.findings import FormatError

FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")
DELIMITERS = (",", ";", "\t")
ROWS_MOST, COLUMNS_MOST, CELL_MOST = 100_000, 200, 2000


def _harmless(text: str) -> str:
    """A leading = + - @ would be run by the reader's spreadsheet: quoted, unless it is a plain number."""
    if not text.startswith(FORMULA_STARTS):
        return text
    try:
        float(text)
    except ValueError:
        return "'" + text
    return text


def write_csv(columns: Sequence[str], rows: Iterable[Sequence[str]]) -> bytes:
    """The bytes of a list."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(columns)
    writer.writerows([_harmless(cell) for cell in row] for row in rows)
    return out.getvalue().encode("utf-8-sig")


@dataclass(frozen=True)
class Sheet:
    """A list that was read: its heading, and the rows below it."""

    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


def _text(data: bytes, name: str) -> str:
    if b"\0" in data[:4000]:
        for start in (b"\xff\xfe", b"\xfe\xff"):
            if data.startswith(start):
                return data.decode("utf-16", "replace")
        raise FormatError(f"{name} is no list of text: save it as CSV, not as a spreadsheet.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        # Spreadsheets on Windows.
        return data.decode("cp1252", "replace")


def read_csv(data: bytes, name: str = "The file") -> Sheet:
    """Read a list: UTF-8 with or without BOM, else UTF-16 or Windows' own; parted by commas, semicolons or tabs. What a
    spreadsheet was kept from running (a leading ') is as it was. Raises FormatError where there is no list."""
    text = _text(data, name)
    head = next((line for line in text.splitlines() if line.strip()), "")
    if not head:
        raise FormatError(f"{name} is empty: export the patch again.")
    delimiter = max(DELIMITERS, key=lambda mark: (_count(head, mark), -DELIMITERS.index(mark)))
    try:
        lines = [tuple(_unquoted(cell) for cell in row) for row in csv.reader(io.StringIO(text), delimiter=delimiter)]
    except csv.Error as wrong:
        raise FormatError(f"{name} cannot be read as a list: {wrong}.") from wrong
    lines = [row for row in lines if any(cell.strip() for cell in row)]
    if not lines:
        raise FormatError(f"{name} is empty: export the patch again.")
    if len(lines) > ROWS_MOST or max(map(len, lines), default=0) > COLUMNS_MOST:
        raise FormatError(f"{name} is too large for a patch: {ROWS_MOST} rows and {COLUMNS_MOST} columns at most.")
    return Sheet(tuple(cell.strip() for cell in lines[0]), tuple(lines[1:]))


def _count(head: str, mark: str) -> int:
    """How many columns a heading has by a mark, outside of quotes."""
    return len(next(csv.reader([head], delimiter=mark), []))


def _unquoted(cell: str) -> str:
    text = cell[:CELL_MOST]
    return text[1:] if text.startswith("'") and text[1:].startswith(FORMULA_STARTS) else text
