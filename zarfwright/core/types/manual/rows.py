"""Rows of a table that stands in columns to blocks."""

from __future__ import annotations

import re
from collections.abc import Sequence

from zarfwright.core.types.manual import heads as g
from zarfwright.core.types.manual.blocks import (
    ELLIPSIS,
    UNDER,
    Block,
    Blocks,
    Reader,
    begins,
    is_title,
    parted,
    unconditional,
)
from zarfwright.core.types.manual.cells import Line, blank
from zarfwright.core.types.manual.grid import Grid, side_by_side
from zarfwright.core.types.manual.heads import slots_in
from zarfwright.core.types.manual.names import attribute_of
from zarfwright.core.types.manual.numbers import DECIMAL, HEX, PERCENT, Found, found_in, without
from zarfwright.core.types.manual.ranges import FOOTNOTE, TableRow


def _value_of(cell: str, role: str) -> tuple[str, Found] | None:
    """The range that a cell holds and how it counts."""
    if role == g.HEX:
        plain = re.sub(r"(?i)0x|\$|#|h\b", "", cell)
        found = re.fullmatch(r"\s*([0-9a-fA-F]{1,4})(?:\s*(?:-|\.\.+|to|>)\s*([0-9a-fA-F]{1,4}))?\s*", plain)
        if found is None:
            return None
        low, high = int(found[1], 16), int(found[2] or found[1], 16)
        return HEX, Found(HEX, min(low, high), max(low, high), 0, len(cell), found[2] is not None, low > high)
    if role == g.PERCENT and "%" not in cell:
        cell = f"{cell} %"
    found_all = found_in(cell.strip("()[] "))
    wanted = [one for one in found_all if role != g.PERCENT or one.base == PERCENT]
    order = (DECIMAL, HEX, PERCENT)
    best = sorted(wanted, key=lambda one: (not one.paired, order.index(one.base)))
    return (best[0].base, best[0]) if best else None


def _row_range(grid: Grid, cells: Sequence[str]) -> tuple[str, Found, str] | None:
    """The range of a row, by the best of its columns; and words that stood with it in its cell."""
    for i in grid.places(g.LOW):
        low, high = cells[i], cells[i + 1] if i + 1 < len(cells) else ""
        if g.INT_CELL.match(low):
            end = int(high) if g.INT_CELL.match(high) else int(low)
            return DECIMAL, Found(DECIMAL, min(int(low), end), max(int(low), end), 0, 0, True, int(low) > end), ""
    for role in (g.VALUE, g.HEX, g.PERCENT):
        for i in grid.places(role):
            found = None if blank(cells[i]) or _own_table(cells[i]) else _value_of(cells[i], role)
            if found is not None:
                rest = without(cells[i], [*found_in(cells[i].strip("()[] "))]) if role == g.VALUE else ""
                return found[0], found[1], rest if re.search("[A-Za-z]{3}", rest) else ""
    return None


def _own_table(cell: str) -> bool:
    """Whether a cell of values has a table of its own: `0 - 5 off / 6 - 255 slow to fast`."""
    paired = [one for one in found_in(cell) if one.paired and one.base == DECIMAL]
    between = cell[paired[0].end : paired[1].start] if len(paired) > 1 else ""
    return re.search("[A-Za-z]{2}", between) is not None


def _text(cells: Sequence[str], places: Sequence[int]) -> str:
    return " ".join(cells[i] for i in places if not blank(cells[i])).strip()


class _GridReader:
    """Rows of a grid to blocks."""

    def __init__(self, grid: Grid) -> None:
        self.grid = grid
        self.slots = grid.places(g.SLOT)
        self.names, self.words, self.homes = grid.places(g.NAME), grid.places(g.WORDS), grid.places(g.HOME)
        names = [grid.heads[i] for i in self.slots] if grid.heads else [""] * max(len(self.slots), 1)
        many = len(self.slots) > 1
        # `Eye 1 | Eye 2 | Eye 3` above columns of slots: cells, and not modes.
        self.cells = [n for n in names if g.CELL_HEAD.match(n)] if many else []
        if len(self.cells) != len(names):
            self.cells = []
        if self.cells:
            names = [""]
        self.mode = ""
        called = [n if g.head_role(n) is None or (many and g.MODE_HEAD.search(n)) else "" for n in names]
        self.reader = Reader(called or [""])
        self.fresh = False
        self.heading = ""
        self.early: list[tuple[Line, tuple[str, Found, str], str]] = []
        told = [g.head_role(head) for head in grid.heads]
        values = [cells[i] for i in grid.places(g.VALUE) for _, cells in grid.rows if not blank(cells[i])]
        single = sum(g.INT_CELL.match(one) is not None for one in values)
        self.starts = g.LOW in told and g.HIGH not in told and single >= 0.9 * max(len(values), 1)

    def run(self) -> Blocks:
        for line, cells in self.grid.rows:
            self.row(line, cells)
        return self.reader.found

    def row(self, line: Line, cells: Sequence[str]) -> None:
        reader, plain = self.reader, line.text.strip(" \t|")
        said = [cell for cell in cells if not blank(cell)]
        if ELLIPSIS.match(plain) or not said:
            reader.gap = reader.gap or bool(ELLIPSIS.match(plain))
            return
        if FOOTNOTE.match(line.text) and not any(slots_in(cells[i]) for i in self.slots):
            reader.leave(line.number, plain, "a footnote")
            return
        if len(said) == 1 and is_title(said[0]) and not any(slots_in(cells[i]) for i in self.slots if cells[i]):
            reader.titled(line.number, said[0])
            return
        slots = [None if blank(cells[i]) else self.wide(slots_in(cells[i]), cells) for i in self.slots]
        if reader.last is not None and len(said) <= 2 and _sub_range(reader.last, plain):
            # A line of ranges under the channel that it belongs to, beside all columns.
            reader.last.lines.append((line.number, plain))
            self.fresh = False
            return
        self.in_mode(line, cells)
        if any(slots):
            self.begins(line, cells, slots)
        elif not self.slots and (begun := begins(plain, reader)) is not None:
            found, name = begun
            reader.begin(line.number, [found], name)
            self.heading, self.fresh = "", True
        else:
            self.goes_on(line, cells)

    def wide(self, slots: list[int] | None, cells: Sequence[str]) -> list[int] | None:
        """The slots of a row, where another column says of how many bits the channel is."""
        bits = [cells[i] for i in self.grid.places(g.OTHER) if _BITS.fullmatch(self.grid.heads[i])]
        said = re.fullmatch(r"(?i)(16|24|32)( ?bits?)?", bits[0]) if bits else None
        if slots is None or len(slots) != 1 or said is None:
            return slots
        return list(range(slots[0], slots[0] + int(said[1]) // 8))

    def said_in(self, cells: Sequence[str]) -> str:
        """The words of a row; two columns of what it is at least and at most are one range."""
        ends = [i for i in self.words if _END_HEAD.search(self.grid.heads[i])]
        if len(ends) == 2 and not any(blank(cells[i]) for i in ends):
            both = " to ".join(cells[i] for i in ends)
            return f"{_text(cells, [i for i in self.words if i not in ends])} {both}".strip()
        return _text(cells, self.words)

    def in_mode(self, line: Line, cells: Sequence[str]) -> None:
        """A column that says which mode a row is of: another one begins where it changes."""
        for i in self.grid.places(g.MODE):
            if not blank(cells[i]) and cells[i] != self.mode:
                self.mode = cells[i]
                self.reader.titled(line.number, cells[i])

    def begins(self, line: Line, cells: Sequence[str], slots: list[list[int] | None]) -> None:
        if self.cells:
            for cell, own in zip(self.cells, slots, strict=True):
                if own:
                    self.reader.begin(line.number, [own], f"{cell} {_text(cells, [*self.names, *self.words])}")
            return
        reader, last = self.reader, self.reader.last
        name, words = _text(cells, self.names), self.said_in(cells)
        if _LOW_BYTE.fullmatch(words):
            name, words = f"{name} fine".strip(), ""
        # `Arm 2` before `Pan`: which of several the channel is of.
        counted = " ".join(f"{self.grid.heads[i]} {cells[i]}" for i in self.grid.places(g.CELL) if cells[i].isdigit())
        name = f"{counted} {name or words}".strip() if counted else name
        name, condition = unconditional(name)
        ranged = _row_range(self.grid, cells)
        tables = [cells[i] for i in self.grid.places(g.VALUE) if _own_table(cells[i])]
        if ranged is None and not tables:
            # `540°` where others have values: said of the channel.
            words = f"{words} {_text(cells, self.grid.places(g.VALUE))}".strip()
        again = last is not None and last.slots == slots and ranged is not None and bool(last.rows)
        if not self.names or not self.words:
            # One column of words: a name where no value stands beside it.
            text = name or words
            name, words = (text, "") if ranged is None else ("", text)
        if again and last is not None:
            block = last
            if name and name.casefold() != block.name.casefold():
                if len(block.rows) == 1 and block.name not in block.rows[0].words:
                    # Each range is named where others have the channel's name.
                    first = block.rows[0]
                    block.rows[0] = first.with_words(f"{block.name}: {first.words}" if first.words else block.name)
                words = f"{name}: {words}" if words else name
        else:
            # `Strobe (0-15 off, 16-255 slow to fast)`: the name has its table behind it.
            tabled = ranged is None and (_own_table(name) or _ENDS_RANGED.search(name) or _OFF_FIRST.search(name))
            both = parted(name) if tabled else (name, "")
            block = reader.begin(line.number, slots, both[0])
            block.doubt = UNDER.format(condition) if condition else ""
            block.lines += [(line.number, both[1])] if both[1] else []
            self.heading = ""
            block.home = _text(cells, self.homes)
            self._take_early(block, ranged)
        self.fresh = True
        self.ranged(block, line, ranged, words)
        block.lines += [(line.number, one) for one in tables]

    def _take_early(self, block: Block, ranged: tuple[str, Found, str] | None) -> None:
        """Rows above the first line with a number, which stands in the middle of its table."""
        if not self.early:
            return
        if ranged is not None and self.early[-1][1][1].high + 1 == ranged[1].low:
            for line, found, words in self.early:
                self.ranged(block, line, found, words)
        else:
            for line, _, _ in self.early:
                self.reader.leave(line.number, line.text, "it stands before the first channel")
        self.early = []

    def ranged(self, block: Block, line: Line, ranged: tuple[str, Found, str] | None, words: str) -> None:
        if ranged is None:
            if words and (_holds_ranges(words) or g.RANGE_CELL.match(words)):
                block.lines.append((line.number, words))
            elif words:
                block.about.append((line.number, words))
            return
        alone = _own_table(words) and not block.rows
        if (alone and ranged[1].low == 0 and ranged[1].high in (255, 65535)) or _begun_below(block):
            # What is said of the whole range has a table of its own, or the lines above began one.
            block.lines.append((line.number, words if alone else line.text.strip(" \t|")))
            return
        several = self.several(line, words) if not block.rows else []
        if several:
            block.rows += several
            return
        base, found, more = ranged
        block.base = base if not block.rows else block.base
        if base != block.base:
            block.lines.append((line.number, f"{line.text.strip()}"))
            return
        said = f"{more} {words}".strip()
        row = TableRow(
            line.number, found.low, found.high, said, self.heading, found.back, not found.paired, self.starts
        )
        block.rows.append(row)

    def several(self, line: Line, words: str) -> list[TableRow]:
        """A row whose cells hold several ranges and as many meanings: `0-127 / 128-255 | out / in`."""
        cells = next((c for own, c in self.grid.rows if own is line), ())
        for i in self.grid.places(g.VALUE):
            found = [one for one in found_in(cells[i]) if one.paired and one.base == DECIMAL] if cells else []
            parts = [part.strip() for part in re.split(r"\s*[/;]\s*", words)]
            if len(found) > 1 and len(parts) == len(found):
                return [TableRow(line.number, a.low, a.high, said) for a, said in zip(found, parts, strict=True)]
        return []

    def goes_on(self, line: Line, cells: Sequence[str]) -> None:
        """A row without a slot: another range of the channel, or more words of the row before."""
        reader, block = self.reader, self.reader.last
        name, words = _text(cells, self.names), self.said_in(cells)
        ranged = _row_range(self.grid, cells)
        if block is None:
            if ranged is not None and self.slots:
                self.early.append((line, ranged, words or name))
            else:
                reader.leave(line.number, line.text, "it stands before the first channel")
            return
        if ranged is not None:
            begun = bool(block.rows or block.lines)
            if name and self.words and self.fresh and not begun and self._goes_on_as_name(block, name):
                block.name, name = f"{block.name} {name}".strip(), ""
            elif name and self.names:
                words = f"{name}: {words}" if words else name
            self.ranged(block, line, ranged, words)
            self.fresh = False
            return
        if (later := self._table_of(name or words)) is not None:
            later[0].lines.append((line.number, later[1]))
        elif _ONE_END.match(name or words):
            block.lines.append((line.number, name or words))
        elif not name and not words:
            reader.leave(line.number, line.text, "nothing stands beside it")
        elif name and not words and (self.fresh or not (block.rows or block.lines)):
            block.name = f"{block.name} {name}".strip()
        else:
            self.said(block, line.number, f"{name} {words}".strip())

    def _table_of(self, text: str) -> tuple[Block, str] | None:
        """`Shutter: 0-9 closed, 10-29 open` under a table that says `see below`: the channel of that name, and its lines."""
        match = re.match(r"([A-Za-z][\w /]{2,24}?)\s*:\s*(?=.*\d\s*-\s*\d)", text)
        named = [
            one
            for one in self.reader.found.blocks
            if match and not one.rows and not one.lines and one.name.casefold().startswith(match[1].casefold())
        ]
        return (named[0], text[match.end() :]) if named and match else None

    def said(self, block: Block, number: int, said: str) -> None:
        """Words of a row that has no values of its own."""
        if said.endswith(":"):
            self.heading = said.rstrip(": ")
        elif _holds_ranges(said) or block.lines:
            block.lines.append((number, said))
        elif block.rows and _HEADING.match(said) and _whole(block.rows[-1].words):
            self.heading = said
        elif block.rows:
            last = block.rows[-1]
            block.rows[-1] = last.with_words(f"{last.words} {said}".strip())
        else:
            block.about.append((number, said))

    def _goes_on_as_name(self, block: Block, name: str) -> bool:
        """Whether words under a name are the rest of it (a cell of two lines)."""
        # Where no other column has words, those beside values are of the values.
        if (name[0].islower() and self.words) or not block.name:
            return True
        both, first = attribute_of(f"{block.name} {name}"), attribute_of(block.name)
        return both.known and (both.attribute, both.fine) != (first.attribute, first.fine)


def _begun_below(block: Block) -> bool:
    """Whether a channel has lines of ranges that stand below it, beside all columns."""
    return not block.rows and bool(block.lines) and all(_BEGINS_RANGE.match(said) for _, said in block.lines)


_END_HEAD = re.compile(r"(?i)^\W*(min\w*|max\w*|from|to|lowest|highest)\b")
_BITS = re.compile(r"(?i)\W*(bits?|resolution|bit depth)\W*")
_HEADING = re.compile(
    r"^(?:Step\w*|Continuous|Index\w*|Rotat\w*|Shak\w*|Static|Fixed|Linear|Position\w*|Spin\w*|Scroll\w*)\b[A-Za-z ]{0,30}$"
)
"""A row of words alone that says what the rows below it are."""


def _whole(words: str) -> bool:
    """Whether a row's words do not go on in the next line."""
    return re.search(r"[,;:(/&-]\s*$|\b(and|or|to|of|with|from|the|in|for)\s*$", words) is None and bool(words)


_LOW_BYTE = re.compile(r"(?i)(16[ -]?bits?)?\W*((low(er)?|lo|least significant) byte|lsb|low)\W*")
"""Beside a name that stands there twice."""
_ENDS_RANGED = re.compile(r"[A-Za-z)] \(?\d{1,5} ?- ?\d{1,5}\)?$")
_OFF_FIRST = re.compile(r"(?<![\d.])0 ?[=:] ?[A-Za-z].*\b1 ?- ?255\b")
_ONE_END = re.compile(r"^(0+|255)\s*[-=:]\s*(?:[A-Za-z(]|[-+]?\d[\d.]*\s*(?:%|°|k\b|deg|hz))", re.IGNORECASE)
_BEGINS_RANGE = re.compile(r"^(\d{1,3})\s*-\s*(\d{1,3})\s*[:=]?\s+\S")


def _sub_range(block: Block, text: str) -> bool:
    """Whether a line alone is the first range of a channel's table, or goes on with the one that stands under it."""
    match = _BEGINS_RANGE.match(text)
    if match is None or block.rows:
        return False
    low, high = int(match[1]), int(match[2])
    before = [one.high for _, said in block.lines for one in found_in(said)[:1]]
    return high > low and high <= 255 and (before[-1] + 1 == low if before else low == 0)


def from_grid(grid: Grid) -> Blocks:
    """Blocks of a text that stands in columns, in one table or in several beside each other."""
    whole = Blocks()
    for one in side_by_side(grid):
        found = _GridReader(one).run()
        goes_on = bool(whole.blocks and found.blocks) and _first(found) == _last(whole) + 1
        for block in found.blocks:
            block.section += len(whole.sections) - goes_on
        whole.sections += found.sections[goes_on:]
        whole.blocks += found.blocks
        whole.left += found.left
    return whole


def _first(found: Blocks) -> int:
    """The first slot of a list."""
    return min((s for block in found.blocks[:1] for one in block.slots if one for s in one), default=0)


def _last(found: Blocks) -> int:
    """The last slot of a list."""
    return max((s for block in found.blocks[-1:] for one in block.slots if one for s in one), default=0)


def rows_of(grid: Grid) -> tuple[list[TableRow], str, list[tuple[int, str, str]]]:
    """The rows of one channel's table that stands in columns, how its values count, and the lines left of it."""
    reader = _GridReader(grid)
    reader.reader.begin(0, [[1]], "")
    found = reader.run()
    block = found.blocks[0]
    return (block.rows, block.base, found.left) if len(found.blocks) == 1 and not block.lines else ([], DECIMAL, [])


def _holds_ranges(text: str) -> bool:
    """Whether words of a cell hold a table of their own."""
    return any(one.paired and one.base != PERCENT for one in found_in(text)) and re.search("[A-Za-z]", text) is not None
