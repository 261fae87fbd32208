"""Lines whose cells stand under each other: which column each cell is in."""

from __future__ import annotations

import itertools
import re
from collections import Counter
from collections.abc import Sequence

from zarfwright.core.types.manual.cells import Cell, Line, blank
from zarfwright.core.types.manual.heads import RANGE_CELL, is_head, only_modes

COLUMNS_MOST = 24


def _spans(lines: Sequence[Line]) -> list[tuple[int, int]]:
    """Where the columns of lines parted by blanks stand: by those that have most cells."""
    counts = Counter(len(line.cells) for line in lines if len(line.cells) > 1)
    if not counts:
        return []
    most = max(n for n, often in counts.items() if often >= 2 or n == max(counts))
    seeds = [line for line in lines if len(line.cells) == most]
    spans = [
        (min(line.cells[i].start for line in seeds), max(line.cells[i].end for line in seeds)) for i in range(most)
    ]
    starts = [spans[0][0], *(max(a[1], b[0]) if a[1] > b[0] else b[0] for a, b in itertools.pairwise(spans))]
    if any(a[1] > b[0] for a, b in itertools.pairwise(spans)):
        # Wide cells reach under the next: columns are where most of them begin.
        starts = [Counter(line.cells[i].start for line in seeds).most_common(1)[0][0] for i in range(most)]
        if sorted(set(starts)) != starts:
            return []
        return [(a, b) for a, b in zip(starts, [*starts[1:], 10_000], strict=True)]
    return _with_others(lines, spans) if most <= COLUMNS_MOST else spans


def _with_others(lines: Sequence[Line], spans: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Columns with those that the longest lines have nothing in: where cells of many others stand between two."""
    between = Counter(
        cell.start
        for line in lines
        for cell in line.cells
        if len(line.cells) > 1 and not any(min(cell.end, b) > max(cell.start, a) for a, b in spans)
    )
    made = list(spans)
    for start, often in between.items():
        left, right = [b for _, b in spans if b <= start], [a for a, _ in spans if a > start]
        if often < max(3, 0.25 * len(lines)) or not left or not right:
            continue
        made.append((start, min(min(right) - 1, start + 1)))
    return sorted(made)


def _placed(line: Line, spans: Sequence[tuple[int, int]]) -> tuple[str, ...] | None:
    """A line's cells in the columns that they stand under; None where two come to one."""
    crossing = any(sum(min(cell.end, b) > max(cell.start, a) for a, b in spans) > 1 for cell in line.cells)
    if crossing and not re.search(r"\d{2,}\s*-", line.text):
        words = [Cell(m[0], m.start(), m.end()) for m in re.finditer(r"\S+", line.text.expandtabs(8))]
        heads: list[list[str]] = [[] for _ in spans]
        for cell in words:
            reach = [min(cell.end, b) - max(cell.start, a) for a, b in spans]
            heads[max(range(len(spans)), key=lambda i: reach[i])].append(cell.text)
        joined = tuple(" ".join(one) for one in heads)
        # `Mode 1 (5CH)` across columns is a title.
        if (is_head(joined) or only_modes(joined)) and (
            len(line.cells) > 1 or not re.match(r"(?i)\W*(dmx )?(mode|personality)\b", line.text)
        ):
            return joined
    made = [""] * len(spans)
    after = -1
    for cell in line.cells:
        reach = [min(cell.end, b) - max(cell.start, a) for a, b in spans]
        near = [abs(cell.start - a) for a, _ in spans]
        best = max(range(len(spans)), key=lambda i: (reach[i] > 0, -near[i] if reach[i] > 0 else 0, reach[i]))
        if max(reach) <= 0:
            best = min(range(len(spans)), key=lambda i: near[i])
        if best <= after:
            return None
        made[best], after = cell.text, best
    return tuple(made)


_LED_BY = re.compile(
    r"^((?:ch(?:annel)?\.?\s*)?\d{1,5}(?:\s*(?:[+/,&]|-|\.\.+|to)\s*\d{1,5}){0,3}[.):]?)\s+([A-Za-z(].*)$",
    re.IGNORECASE,
)


_COUNTS = re.compile(r"(?i)(ch|channels?|bits?|modes?|hz|k|deg\w*|fps|rpm|sec\w*|flash\w*)\b")
"""What a number before it counts, so that it is no slot."""


def _no_slot(match: re.Match[str]) -> bool:
    """Whether a number before words is a value: it begins at 0, or more ranges follow."""
    first = re.search(r"\d+", match[1])
    return (first is not None and int(first[0]) == 0) or re.search(r"\d{1,3} ?- ?\d{2,3}", match[2]) is not None


def _numbered(cell: str) -> re.Match[str] | None:
    """The number that a cell begins with, and its words: a slot's, and not `16 bit` or `0-19 closed`."""
    match = _LED_BY.match(cell)
    return None if match is None or _COUNTS.match(match[2]) or re.match(r"\D*0+\b", match[1]) else match


def _first_parted(line: Line) -> Line:
    """A line whose first cell begins with a number and one blank: the number is a cell of its own."""
    first = line.cells[0] if line.cells else None
    match = _LED_BY.match(first.text) if first is not None and first.end else None
    if first is None or match is None or _no_slot(match) or _COUNTS.match(match[2]):
        return line
    behind = first.start + match.start(2)
    parted = (Cell(match[1], first.start, first.start + match.end(1)), Cell(match[2], behind, first.end))
    return Line(line.number, line.text, (*parted, *line.cells[1:]))


def _all_parted(line: Line) -> Line:
    """A line whose cells all begin with a number of their own: each number is a cell."""
    cells: list[Cell] = []
    for cell in line.cells:
        match = _numbered(cell.text)
        if match is None:
            cells.append(cell)
            continue
        behind = cell.start + match.start(2)
        cells += [Cell(match[1], cell.start, cell.start + match.end(1)), Cell(match[2], behind, cell.end)]
    return Line(line.number, line.text, tuple(cells))


def _led_parted(line: Line, spans: Sequence[tuple[int, int]]) -> Line:
    """A line that is short of cells: one that begins with a number where a column begins, and words where the next one
    does, is two."""
    cells: list[Cell] = []
    for cell in line.cells:
        match = _LED_BY.match(cell.text) if len(line.cells) < len(spans) else None
        match = None if match and (_COUNTS.match(match[2]) or _no_slot(match)) else match
        at = [k for k, (start, _) in enumerate(spans[:-1]) if abs(start - cell.start) <= 1]
        if match is None or not at or abs(cell.start + match.start(2) - spans[at[0] + 1][0]) > 2:
            cells.append(cell)
            continue
        behind = cell.start + match.start(2)
        cells += [Cell(match[1], cell.start, cell.start + match.end(1)), Cell(match[2], behind, cell.end)]
    return Line(line.number, line.text, tuple(cells))


_ENDED_BY = re.compile(r"^(.*[A-Za-z)]) (\d{1,3}(?:[+/]\d{1,3})?|-)$")


def _ended_parted(line: Line, spans: Sequence[tuple[int, int]]) -> Line:
    """A line that is short of cells: one that ends with a number where a column begins (`Dimmer fine 3`) is two."""
    cells: list[Cell] = []
    for cell in line.cells:
        match = _ENDED_BY.match(cell.text) if len(line.cells) < len(spans) else None
        start = cell.start + match.start(2) if match else 0
        if match is None or not any(abs(at - start) <= 1 for at, _ in spans):
            cells.append(cell)
            continue
        cells += [Cell(match[1], cell.start, cell.start + match.end(1)), Cell(match[2], start, cell.end)]
    return Line(line.number, line.text, tuple(cells))


_RANGE_INSIDE = re.compile(
    r"^(?P<name>[A-Za-z].*?[A-Za-z)°/]) (?P<range>\d{1,3} ?- ?\d{2,3})(?: (?P<words>[A-Za-z].*))?$"
)


def _range_parted(line: Line, most: int) -> Line:
    """A line that is short of cells, whose last has name, range and words parted by single blanks: cells of their own."""
    last = line.cells[-1] if line.cells else None
    ranged = any(RANGE_CELL.match(cell.text) for cell in line.cells)
    match = _RANGE_INSIDE.match(last.text) if last is not None and len(line.cells) < most and not ranged else None
    if last is None or match is None:
        return line
    parts = [
        Cell(match[name], last.start + match.start(name), last.start + match.end(name))
        for name in ("name", "range", "words")
        if match[name]
    ]
    return Line(line.number, line.text, (*line.cells[:-1], *parts))


def in_columns(lines: Sequence[Line]) -> list[tuple[Line, tuple[str, ...]]] | None:
    """Each line's cells in as many columns as there are. None: the text does not stand in columns."""
    many = [line for line in lines if len(line.cells) > 1]
    if len(many) < max(2, 0.45 * len(lines)):
        return None
    if any(cell.end for line in lines for cell in line.cells):
        # Where no column of numbers leads, a number that begins a line is not of one.
        led = sum(re.match(r"(?i)\(?\d|ch", line.cells[0].text) is not None for line in many)
        own = [_numbered(cell.text) for line in many for cell in line.cells]
        if sum(match is not None for match in own) >= 0.75 * len(own):
            lines = [_all_parted(line) for line in lines]
        elif led >= 0.3 * len(many):
            lines = [_first_parted(line) for line in lines]
        spans = _spans(lines)
        if not 0 < len(spans) <= COLUMNS_MOST:
            return None
        lines = [_range_parted(_ended_parted(_led_parted(line, spans), spans), len(spans)) for line in lines]
        placed = [(line, _placed(line, spans)) for line in lines]
        lost = sum(cells is None for _, cells in placed)
        if lost > 0.15 * len(placed):
            return None
        empty = ("",) * len(spans)
        rows = [(line, cells if cells is not None else (line.text.strip(), *empty[1:])) for line, cells in placed]
        return _numbers_parted(rows)
    width = min(max(len(line.cells) for line in many), COLUMNS_MOST)
    rows = [
        (line, tuple(cell.text for cell in line.cells[:width]) + ("",) * (width - len(line.cells))) for line in lines
    ]
    return _numbers_parted(rows)


def _numbers_parted(rows: list[tuple[Line, tuple[str, ...]]]) -> list[tuple[Line, tuple[str, ...]]]:
    """Rows whose cells all begin with a number of their own (`1 Red | 1 Pan`): each number is a cell of its own."""
    led = [(cells, [_numbered(cell) is not None for cell in cells]) for _, cells in rows]
    body = [(cells, own) for cells, own in led if any(own)]
    width = len(rows[0][1])
    shares = [
        sum(own[k] for _, own in body) / max(sum(not blank(cells[k]) for cells, _ in body), 1) for k in range(width)
    ]
    if not 2 <= width <= COLUMNS_MOST // 2 or len(body) < 2 or min(shares) < 0.75:
        return rows
    made = []
    for line, cells in rows:
        both = [(match[1], match[2]) if (match := _numbered(cell)) else (cell, "") for cell in cells]
        made.append((line, tuple(part for pair in both for part in pair)))
    return made
