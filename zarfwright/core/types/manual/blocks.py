"""A manual's list of channels to blocks: one for each channel as it stands there, with its slots in each mode, its name,
and the lines or rows of its table. Nothing of what words mean is settled here but which line begins a channel."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from zarfwright.core.types.manual import heads as g
from zarfwright.core.types.manual.cells import Line, blank
from zarfwright.core.types.manual.grid import Grid, side_by_side
from zarfwright.core.types.manual.heads import is_head, slots_in
from zarfwright.core.types.manual.names import attribute_of
from zarfwright.core.types.manual.numbers import DECIMAL, HEX, LINE_MOST, PERCENT, Found, found_in, too_much, without
from zarfwright.core.types.manual.ranges import FOOTNOTE, SAID, TableRow

SLOT_MAX = 512
SKIPPED_MOST = 64
"""Slots that a list may leave out between two channels and still go on."""
NUMBERED = re.compile(
    r"^[(\[]?(?P<said>(?:dmx\s*)?(?:ch(?:an(?:nel)?)?s?\.?|slots?|dmx)\s*[-#:]?\s*)?#?(?P<first>\d{1,3})"
    r"(?:\s*(?P<joint>[+/,&]|-|\.\.+|and\b|to\b)\s*(?P<last>\d{1,3}))?[)\]]?(?:\s*[|\t.:)=]+|\s+-+|\s)\s*(?P<rest>.*)$",
    re.IGNORECASE,
)
_TITLE = re.compile(
    r"(?i)\b(modes?|personality|pers\.)\b|^\W*\d{1,3}[\s-]*(ch|channels?|dmx channels?)\b\W*(\w+\W*){0,3}$|^\W*(basic|standard|extended|simple|advanced|full|compact)\W*(mode|\(\d+ ?ch\w*\))?\W*$"
)
_NAMES_A_MODE = re.compile(
    r"(?i)^\W*(dmx )?(mode|personality)\b|\bmode\W*(\(.*\))?\W*$|\b\d{1,3}[\s-]*(ch|channels?)\b\W*$"
)
_ELLIPSIS = re.compile(
    r"^\W*(\.{2,}|…|:|etc\.?|and so on|continued?)\W*$|^[\s|:.…⋮-]*(\.\.\.|…|⋮)[\s|:.…⋮-]*$", re.IGNORECASE
)


@dataclass
class Block:
    """A channel of a list: its slots in each mode (None: the mode has not got it), its name, and its table so far."""

    line: int
    name: str
    slots: list[list[int] | None]
    section: int = 0
    rows: list[TableRow] = field(default_factory=list)
    """Rows of a table that stood in columns."""
    lines: list[tuple[int, str]] = field(default_factory=list)
    """Lines of a table, still to be read."""
    about: list[tuple[int, str]] = field(default_factory=list)
    """What is said of the channel besides its name, without values."""
    base: str = DECIMAL
    home: str = ""
    doubt: str = ""
    follows_gap: bool = False
    """Behind dots that stand for channels like the ones around."""


@dataclass
class Section:
    """A list that begins at 1: the modes that it is of."""

    names: list[str]
    line: int = 1


@dataclass
class Blocks:
    """What a text came to: sections with their blocks, and the lines that nothing was made of."""

    sections: list[Section] = field(default_factory=list)
    blocks: list[Block] = field(default_factory=list)
    left: list[tuple[int, str, str]] = field(default_factory=list)


def is_title(text: str) -> bool:
    """Whether a line alone names a mode."""
    plain = text.strip()
    return (
        len(plain) <= 60
        and _TITLE.search(plain) is not None
        and (_NAMES_A_MODE.search(plain) is not None or not any(one.paired for one in found_in(plain)))
        and not (NUMBERED.match(plain) and not re.match(r"(?i)^\W*\d{1,3}[\s-]*(ch|channel)", plain))
    )


class Reader:
    """Puts blocks together from rows and lines, in their order."""

    def __init__(self, modes: Sequence[str] = ("",)) -> None:
        self.found = Blocks([Section(list(modes))])
        self.title: tuple[int, str] | None = None
        self.gap = False

    @property
    def last(self) -> Block | None:
        return self.found.blocks[-1] if self.found.blocks else None

    def leave(self, number: int, text: str, why: str) -> None:
        self.found.left.append((number, text.strip()[:SAID], why))

    def titled(self, number: int, text: str) -> None:
        """A line that names what comes: taken where a list begins behind it."""
        if self.title is not None:
            self.leave(*self.title, "nothing was made of this heading")
        self.title = (number, text)

    def begin(self, number: int, slots: list[list[int] | None], name: str) -> Block:
        section = self.found.sections[-1]
        first = min((one[0] for one in slots if one), default=1)
        before = [b for b in self.found.blocks if b.section == len(self.found.sections) - 1]
        top = max((s for b in before for one in b.slots if one for s in one), default=0)
        if (before and first == 1 and top >= 1) or (before and self.title is not None and first <= top):
            section = Section([""] * len(slots), number)
            self.found.sections.append(section)
        if self.title is not None:
            if not [b for b in before if b.section == len(self.found.sections) - 1] and len(slots) == 1:
                section.names[0] = section.names[0] or self.title[1].strip(" :=-#*|")
            else:
                self.leave(*self.title, "nothing was made of this heading")
            self.title = None
        block = Block(number, name.strip(), slots, len(self.found.sections) - 1, follows_gap=self.gap)
        self.gap = False
        self.found.blocks.append(block)
        return block


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
            found = None if blank(cells[i]) else _value_of(cells[i], role)
            if found is not None:
                rest = without(cells[i], [*found_in(cells[i].strip("()[] "))]) if role == g.VALUE else ""
                return found[0], found[1], rest if re.search("[A-Za-z]{3}", rest) else ""
    return None


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
        self.reader = Reader([n if many or g.head_role(n) is None else "" for n in names] or [""])
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
        if _ELLIPSIS.match(plain) or not said:
            reader.gap = reader.gap or bool(_ELLIPSIS.match(plain))
            return
        if FOOTNOTE.match(line.text) and not any(slots_in(cells[i]) for i in self.slots):
            reader.leave(line.number, plain, "a footnote")
            return
        if len(said) == 1 and is_title(said[0]) and not any(slots_in(cells[i]) for i in self.slots if cells[i]):
            reader.titled(line.number, said[0])
            return
        slots = [None if blank(cells[i]) else slots_in(cells[i]) for i in self.slots]
        if any(slots):
            self.begins(line, cells, slots)
        elif not self.slots and (begun := begins(plain, reader)) is not None:
            found, name = begun
            reader.begin(line.number, [found], name)
            self.heading, self.fresh = "", True
        else:
            self.goes_on(line, cells)

    def begins(self, line: Line, cells: Sequence[str], slots: list[list[int] | None]) -> None:
        reader, last = self.reader, self.reader.last
        name, words = _text(cells, self.names), _text(cells, self.words)
        ranged = _row_range(self.grid, cells)
        again = last is not None and last.slots == slots and ranged is not None and bool(last.rows)
        if not self.names or not self.words:
            # One column of words: a name where no value stands beside it.
            text = name or words
            name, words = (text, "") if ranged is None else ("", text)
        if again and last is not None:
            block = last
            if name and name.casefold() != block.name.casefold():
                words = f"{name}: {words}" if words else name
        else:
            block = reader.begin(line.number, slots, name)
            self.heading = ""
            block.home = _text(cells, self.homes)
            self._take_early(block, ranged)
        self.fresh = True
        self.ranged(block, line, ranged, words)

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
            if words and _holds_ranges(words):
                block.lines.append((line.number, words))
            elif words:
                block.about.append((line.number, words))
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

    def goes_on(self, line: Line, cells: Sequence[str]) -> None:
        """A row without a slot: another range of the channel, or more words of the row before."""
        reader, block = self.reader, self.reader.last
        name, words = _text(cells, self.names), _text(cells, self.words)
        ranged = _row_range(self.grid, cells)
        if block is None:
            if ranged is not None and self.slots:
                self.early.append((line, ranged, words or name))
            else:
                reader.leave(line.number, line.text, "it stands before the first channel")
            return
        if ranged is not None:
            if name and self.fresh and not block.rows and not block.lines and self._goes_on_as_name(block, name):
                block.name, name = f"{block.name} {name}".strip(), ""
            elif name and self.names:
                words = f"{name}: {words}" if words else name
            self.ranged(block, line, ranged, words)
            self.fresh = False
            return
        if name and not words and (self.fresh or not (block.rows or block.lines)):
            block.name = f"{block.name} {name}".strip()
        else:
            self.said(block, line.number, f"{name} {words}".strip())

    def said(self, block: Block, number: int, said: str) -> None:
        """Words of a row that has no values of its own."""
        if said.endswith(":"):
            self.heading = said.rstrip(": ")
        elif _holds_ranges(said) or block.lines:
            block.lines.append((number, said))
        elif block.rows:
            last = block.rows[-1]
            block.rows[-1] = last.with_words(f"{last.words} {said}".strip())
        else:
            block.about.append((number, said))

    @staticmethod
    def _goes_on_as_name(block: Block, name: str) -> bool:
        """Whether words under a name are the rest of it (a cell of two lines)."""
        if name[0].islower() or not block.name:
            return True
        both, first = attribute_of(f"{block.name} {name}"), attribute_of(block.name)
        return both.known and (both.attribute, both.fine) != (first.attribute, first.fine)


def from_grid(grid: Grid) -> Blocks:
    """Blocks of a text that stands in columns, in one table or in several beside each other."""
    whole = Blocks()
    for one in side_by_side(grid):
        found = _GridReader(one).run()
        for block in found.blocks:
            block.section += len(whole.sections)
        whole.sections += found.sections
        whole.blocks += found.blocks
        whole.left += found.left
    return whole


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


def _slots_said(match: re.Match[str]) -> list[int] | None:
    first, last = int(match["first"]), int(match["last"] or match["first"])
    if not 1 <= first <= last <= SLOT_MAX:
        return None
    joint = (match["joint"] or "").strip()
    if joint in ("+", "/", ",", "&") or joint.lower() == "and":
        return [first, last] if last > first else None
    return list(range(first, last + 1))


def begins(line: str, reader: Reader) -> tuple[list[int], str] | None:
    """The slots and words of a line that begins a channel, standing in no columns: the number that is next (or 1 again,
    or further on, or said to be a channel's), and words."""
    match = NUMBERED.match(line.lstrip(" \t|"))
    if match is None:
        return None
    slots, rest, last = _slots_said(match), match["rest"], reader.last
    if slots is None or (not re.search(r"[A-Za-z]", rest) and not match["said"]):
        return None
    if re.match(r"(?i)^(ch|channels?|bits?)\b", rest) and not match["said"]:
        return None
    top = max((s for one in last.slots if one for s in one), default=0) if last else 0
    if match["said"]:
        return slots, rest
    if slots[0] == top + 1:
        ok = len(slots) <= 2 or _grouped(rest, len(slots)) or not _continues(reader, slots)
        wide = len(slots) > 4 and not _grouped(rest, len(slots))
        return (slots, rest) if ok and not wide else None
    named = attribute_of(re.split(r"\s{2,}|[|\t:]", without(rest, list(found_in(rest))))[0])
    if not named.known or len(slots) > 2 or _continues(reader, slots):
        return None
    if slots[0] == 1 and top > 1 and (last is None or not _low_next(last)):
        return slots, rest
    far = top + 1 < slots[0] <= top + SKIPPED_MOST and len(slots) == 1
    # A number further on is a value more often than a channel: only where no table is open.
    return (slots, rest) if far and last is not None and not last.lines and not last.rows else None


def _low_next(block: Block) -> bool:
    """Whether a channel's table has begun at 0 and not come to an end: a 1 may be its next value."""
    numbers = [one for _, text in block.lines for one in found_in(text)[:1]]
    return bool(numbers) and numbers[-1].high == 0


def _continues(reader: Reader, slots: Sequence[int]) -> bool:
    """Whether two numbers are the next range of the table that is open."""
    last = reader.last
    if last is None or not last.lines:
        return False
    numbers = [one for _, text in last.lines for one in found_in(text)[:1]]
    return bool(numbers) and numbers[-1].high + 1 == slots[0]


def _grouped(rest: str, count: int) -> bool:
    """Whether words speak of as many channels, or of bytes."""
    if re.search(r"(?i)\b(bits?|fine|pixels?|cells?|segments?|zones?|leds?|rings?|sections?|heads?)\b|rgb|\.\.", rest):
        return True
    return len([part for part in re.split(r"[,;/+&\s]|\band\b", rest) if part.strip()]) >= count


def parted(rest: str) -> tuple[str, str]:
    """Name and ranges of a line that has both: `Shutter | 0-15 | closed`."""
    found = [
        one
        for one in found_in(rest)
        if one.base != PERCENT
        and (
            (one.paired and one.high - one.low >= 1) or (one.base == DECIMAL and re.match(r"\s*[:=]", rest[one.end :]))
        )
    ]
    found.sort(key=lambda one: one.start)
    columns = [part.strip() for part in re.split(r"[|\t]|\s{2,}", rest) if part.strip()]
    if found and not re.fullmatch(r"\W*", rest[: found[0].start]):
        return without(rest[: found[0].start], []), rest[found[0].start :]
    if found and len(columns) >= 2:
        return columns[0], " ".join(columns[1:])
    return (rest if found else without(rest, [])), ""


def from_lines(lines: Sequence[Line]) -> Blocks:
    """Blocks of a text that stands in no columns."""
    reader = Reader()
    for line in lines:
        plain = line.text.strip()
        if why := too_much(line.text):
            if len(line.text) > LINE_MOST or reader.last is None:
                reader.leave(line.number, plain, why)
            else:
                reader.last.lines.append((line.number, line.text))
        elif _ELLIPSIS.match(plain):
            reader.gap = True
        elif is_title(plain):
            reader.titled(line.number, plain)
        elif not is_head([c.text for c in line.cells]) and not _only_heads(plain):
            _line(reader, line.number, line.text)
    return reader.found


def _line(reader: Reader, number: int, text: str) -> None:
    """A line that begins a channel, or goes on with one."""
    plain, last = text.strip(), reader.last
    begun = begins(plain, reader)
    if begun is not None:
        slots, rest = begun
        name, ranges = parted(rest)
        if last is not None and last.slots == [slots] and ranges:
            last.lines.append((number, ranges))
            return
        block = reader.begin(number, [slots], name)
        if ranges:
            block.lines.append((number, ranges))
    elif last is not None:
        last.lines.append((number, text))
    else:
        reader.leave(number, plain, "a footnote" if FOOTNOTE.match(plain) else "it stands before the first channel")


def _only_heads(text: str) -> bool:
    """Whether a line has nothing but words that heads of columns have."""
    words = re.findall(r"[A-Za-z%#]+", text)
    return (
        bool(words)
        and not re.search(r"\d", text)
        and all(
            g.head_role(word) is not None or word.lower() in ("dmx", "and", "of", "value", "bit", "dec", "ch")
            for word in words
        )
    )
