"""Lists as CSV: UTF-8 with BOM for spreadsheets, comma, and no text that a spreadsheet would run as a formula."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


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
