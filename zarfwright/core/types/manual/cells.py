"""Text in lines and cells. Cells are parted by tabs, by `|`, by `;` or `,` (where every line has as many), or by two blanks
and more."""

from __future__ import annotations

import csv
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from zarfwright.core.types.manual.counting import counted_alike, with_notes
from zarfwright.core.types.manual.numbers import LINE_MOST, cleaned

_DASH = re.compile(r"^[\s\-–—−/.xX*]*$|^n/?a$", re.IGNORECASE)
_RULE = re.compile(r"^[\s|:+=\-–—_]*$")


@dataclass(frozen=True)
class Cell:
    """What stands in a column of a line, and from where to where in it."""

    text: str
    start: int = 0
    end: int = 0


@dataclass(frozen=True)
class Line:
    """A line with its number (from 1), whole, and in cells."""

    number: int
    text: str
    cells: tuple[Cell, ...]


def blank(cell: str) -> bool:
    """Whether a cell says nothing: empty, or a dash."""
    return _DASH.match(cell) is not None


def _separator(lines: Sequence[str]) -> str:
    """What parts the cells of most lines."""
    count = max(len(lines), 1)
    if sum("\t" in line for line in lines) >= 0.4 * count:
        return "\t"
    if sum(line.count("|") >= 1 for line in lines) >= 0.5 * count:
        return "|"
    for mark in ";," if lines else "":
        counts = Counter(len(next(csv.reader([line], delimiter=mark), [])) - 1 for line in lines)
        most, often = counts.most_common(1)[0]
        begins = sum(bool(re.match(rf"\s*\"?(\d[\d\s/+&-]*)?\"?\s*{mark}", line)) for line in lines)
        alike = often == count and most >= 3
        if most >= 2 and often >= 0.8 * count and count >= 3 and (begins >= 0.7 * count or alike):
            return mark
    return "  "


def _cells(line: str, mark: str, framed: bool) -> tuple[Cell, ...]:
    if mark in ";,":
        return tuple(Cell(part.strip()) for part in next(csv.reader([line], delimiter=mark), []))
    if mark == "  ":
        return tuple(
            Cell(m[0], m.start(), m.end()) for m in re.finditer(r"\S+(?: \S+)*", line.replace("|", " ").expandtabs(8))
        )
    if mark == "|" and framed:
        line = re.sub(r"^\s*\|", "", line)
        line = re.sub(r"\|\s*$", "", line)
    return tuple(Cell(part.strip()) for part in line.split(mark))


_MARKED = re.compile(r"^\s*([¹²³⁴⁵⁶⁷⁸⁹*†‡]+)\s*(?=[A-Za-z])")


def _marked(raw: str) -> str:
    """A line cleaned, a footnote with one kind of mark before it."""
    note = _MARKED.match(raw)
    return f"* {cleaned(raw[note.end() :], wide=False)}" if note else cleaned(raw, wide=False)


_LOOSE = re.compile(r"(?<!\d)\d{1,5} {0,9}(?:-|to) {1,9}\d{1,5}(?!\d)")


def _closed(match: re.Match[str]) -> str:
    """`0 -   31` as one cell, that ends where it ended."""
    return re.sub(r" {2,}", " ", match[0]).rjust(len(match[0]))


def lines_of(text: str, dashes: bool = False) -> list[Line]:
    """The lines that hold something, in cells; rules drawn with dashes left out, and what is too long. `dashes`: a dash
    alone is kept: where each cell has a line, it is one of them."""
    kept = [(n, _marked(raw)) for n, raw in with_notes(list(enumerate(text.splitlines(), 1)))]
    kept = [
        (n, line)
        for n, line in kept
        if line.strip() and (not _RULE.match(line) or (dashes and line.strip() == "-")) and len(line) <= LINE_MOST
    ]
    kept = counted_alike(kept)
    mark = _separator([line for _, line in kept])
    if mark == "  ":
        kept = [(n, _LOOSE.sub(_closed, line)) for n, line in kept]
    # One that does not begin with a bar says that the first column is empty in those that do.
    framed = all(line.lstrip().startswith("|") for _, line in kept if line.count("|") > 1)
    return _upright([Line(n, line, _cells(line, mark, framed)) for n, line in kept], mark)


def _upright(lines: list[Line], mark: str) -> list[Line]:
    """A table that lies on its side (`Channel | 1 | 2 | 3` above names) set up: a line for each channel."""
    first = [cell.text for cell in lines[0].cells] if lines else []
    beside = first[1:] if first and not first[0][:1].isdigit() else []
    if mark == "  " or len(beside) < 3 or beside != [str(k) for k in range(1, len(beside) + 1)] or len(lines) > 6:
        return lines
    if any(len(line.cells) != len(first) for line in lines) or len(lines) < 2:
        return lines
    columns = list(zip(*(line.cells for line in lines), strict=True))
    return [Line(lines[1].number, " ".join(cell.text for cell in column), column) for column in columns]
