"""A table that lost its columns: each cell stands in a line of its own, as text from a PDF does."""

from __future__ import annotations

import re
from collections.abc import Sequence

from zarfwright.core.types.manual.blocks import Block, Blocks, Reader, is_title
from zarfwright.core.types.manual.cells import Line, blank
from zarfwright.core.types.manual.heads import INT_CELL, MODE_HEAD, PERCENT_CELL, RANGE_CELL, head_role, slots_in
from zarfwright.core.types.manual.numbers import DECIMAL, HEX, PERCENT, found_in
from zarfwright.core.types.manual.ranges import FOOTNOTE, TableRow

_HEX_ALONE = re.compile(
    r"(?i)^(0x[0-9a-f]+|\$[0-9a-f]+|[0-9a-f]{1,4}h)(\s*(-|to)\s*(0x[0-9a-f]+|\$[0-9a-f]+|[0-9a-f]{1,4}h))?$"
)


def _kind(text: str) -> str:
    """What a line alone may be: a range, percent, a number (a slot or a value), or words."""
    plain = text.strip()
    if PERCENT_CELL.match(plain):
        return "percent"
    if _HEX_ALONE.match(plain):
        return "hex"
    if RANGE_CELL.match(plain):
        return "range"
    if INT_CELL.match(plain):
        return "number"
    if slots_in(plain) is not None:
        return "slots"
    return "blank" if blank(plain) else "words"


def one_cell_a_line(lines: Sequence[Line]) -> bool:
    """Whether a text is cells below each other: hardly a line has two, and many are numbers alone."""
    if len(lines) < 6:
        return False
    alone = sum(len(line.cells) == 1 for line in lines)
    numbers = sum(_kind(line.text) not in ("words", "blank") for line in lines)
    return alone >= 0.85 * len(lines) and numbers >= 0.3 * len(lines)


_BARE_HEX = re.compile(r"^([0-9A-Fa-f]{2})\s*(?:-|to)\s*([0-9A-Fa-f]{2})$")


def _shares(text: str) -> set[tuple[str, float, float]]:
    """How a line may be read as a range: shares of a byte, by what it may count in."""
    plain, made = text.strip(), set()
    pair = re.match(r"^(\d{1,5})\s*(?:-|to|\.\.+)\s*(\d{1,5})\s*(%?)$", plain)
    if pair and not pair[3]:
        made.add(("decimal", int(pair[1]) / 255, int(pair[2]) / 255))
    if pair:
        made.add(("percent", int(pair[1]) / 100, int(pair[2]) / 100))
    bare = _BARE_HEX.match(plain)
    if bare:
        made.add(("hex", int(bare[1], 16) / 255, int(bare[2], 16) / 255))
    return made


def _once(lines: Sequence[Line], one_mode: bool) -> list[Line]:
    """Lines without those that say the range beside them again, in hex or percent."""
    if not one_mode:
        # Numbers beside each other are slots of modes there.
        return [line for line in lines if _kind(line.text) not in ("percent", "hex")]
    kept: list[Line] = []
    for line in lines:
        before = _shares(kept[-1].text) if kept else set()
        mine = _shares(line.text)
        again = [
            (a, b)
            for a in before
            for b in mine
            if a[0] != b[0] and abs(a[1] - b[1]) < 0.012 and abs(a[2] - b[2]) < 0.012 and "decimal" in (a[0], b[0])
        ]
        if again and line.text.strip() != kept[-1].text.strip():
            if again[0][0][0] != "decimal" and again[0][1][0] == "decimal":
                kept[-1] = line
            continue
        kept.append(line)
    return kept


def _mode_head(text: str) -> bool:
    return head_role(text) is None and MODE_HEAD.search(text) is not None and len(text) <= 24


def _heads(lines: Sequence[Line]) -> int:
    """How many lines at the beginning are heads of the columns that were there."""
    count = 0
    while count < min(len(lines), 10):
        text = lines[count].text.strip()
        told = len(lines) > 1 and head_role(lines[1].text) is not None and not re.search(r"\d", text)
        modes = _mode_head(text) and (count > 0 or (len(lines) > 1 and _mode_head(lines[1].text.strip())))
        if head_role(text) is None and not (count == 0 and told) and not modes:
            break
        count += 1
    # A mode's name that stands last of all is a title.
    while count and _mode_head(lines[count - 1].text.strip()):
        count -= 1
    return count


class _Single:
    def __init__(self, lines: Sequence[Line]) -> None:
        heads = _heads(lines)
        said = [line.text.strip() for line in lines[:heads]] if heads >= 2 else []
        modes = [one for one in said if _mode_head(one)]
        self.modes = len(modes) if len(modes) > 1 else 1
        self.reader = Reader(modes if len(modes) > 1 else ("",))
        self.lines = _once(lines[heads:] if heads >= 2 else lines, self.modes == 1)
        self.kinds = [_kind(line.text) for line in self.lines]
        self.values_first = self._values_first()
        self.named, self.waiting = False, ""
        self.led = False
        """The first values of the channel stood before its first words."""

    def _values_first(self) -> bool:
        """Whether the words of a range come behind its values."""
        ranges = [i for i, kind in enumerate(self.kinds) if kind == "range"]
        # What all values do is often not said in words.
        places = [i for i in ranges if not re.match(r"0+\D+(255|65535)$", self.lines[i].text.strip())] or ranges
        behind = sum(self._kind_at(i, 1) == "words" for i in places)
        last = sum(self._kind_at(i, 1) in ("number", "slots", "") for i in places)
        return behind >= last

    def _kind_at(self, i: int, step: int) -> str:
        k = i + step
        while 0 <= k < len(self.kinds) and self.kinds[k] in ("percent", "hex", "blank"):
            k += step
        return self.kinds[k] if 0 <= k < len(self.kinds) else ""

    def _is_slot(self, i: int) -> list[int] | None:
        """The slots of a line that begins a channel: the next number, with words to follow."""
        if self.kinds[i] not in ("number", "slots", "range"):
            return None
        slots = slots_in(self.lines[i].text)
        if not slots or (self._kind_at(i, 1) not in ("words",) and self.kinds[i] != "number"):
            return None
        last = self.reader.last
        top = max((s for one in last.slots if one for s in one), default=0) if last else 0
        if self.kinds[i] == "range":
            tabled = last.rows[-1].high if last is not None and last.rows else None
            return slots if slots[0] == top + 1 and len(slots) <= 4 and tabled in (None, 255.0, 65535.0) else None
        if slots[0] == top + 1 or (last is None and self.kinds[i] == "number" and slots[0] > 0):
            return slots
        ended = last is not None and (not last.rows or last.rows[-1].high in (255.0, 65535.0, 100.0))
        if slots[0] == 1 and ended and self._kind_at(i, 1) == "words":
            return slots
        return slots if ended and top + 1 < slots[0] <= top + 12 and self._kind_at(i, 1) == "words" else None

    def _slots_of_modes(self, i: int) -> list[list[int] | None] | None:
        """The slots of a channel in each mode, a line each, a dash where a mode has not got it."""
        kinds = self.kinds[i : i + self.modes]
        if len(kinds) < self.modes or not all(kind in ("number", "blank") for kind in kinds):
            return None
        slots = [slots_in(self.lines[i + k].text) if kind == "number" else None for k, kind in enumerate(kinds)]
        tops = [
            max((s for block in self.reader.found.blocks for s in block.slots[k] or []), default=0)
            for k in range(self.modes)
        ]
        behind = self.kinds[i + self.modes] if i + self.modes < len(self.kinds) else ""
        going_on = all(one is None or one[0] == top + 1 for one, top in zip(slots, tops, strict=True))
        return slots if any(slots) and going_on and behind in ("words", "range") else None

    def run(self) -> Blocks | None:
        i = 0
        while i < len(self.lines):
            several = self._slots_of_modes(i) if self.modes > 1 else None
            if several is not None:
                self._wait_over(self.lines[i].number)
                self.reader.begin(self.lines[i].number, several, "")
                self.named = False
                i += self.modes
                continue
            if self.kinds[i] != "blank":
                self._line(i, self.lines[i], self.kinds[i])
            i += 1
        self._wait_over(self.lines[-1].number)
        return self.reader.found if len(self.reader.found.blocks) >= 2 else None

    def _wait_over(self, number: int) -> None:
        """Words that no values came to are said of the channel; a table whose first values stood before any words has no
        name but theirs."""
        last = self.reader.last
        if last is not None and len(last.rows) > 1 and not last.rows[0].words and self.led:
            last.rows[0], last.name = last.rows[0].with_words(last.name), ""
        self.led = False
        if self.reader.last is not None and self.waiting:
            self.reader.last.about.append((number, self.waiting))
        self.waiting = ""

    def _line(self, i: int, line: Line, kind: str) -> None:
        reader, text, block = self.reader, line.text.strip(), self.reader.last
        titled = kind == "words" and is_title(text)
        if titled and (block is None or self._kind_at(i, 1) in ("number", "slots")):
            reader.titled(line.number, text)
            return
        slots = self._is_slot(i) if self.modes == 1 else None
        if slots is not None:
            self._wait_over(line.number)
            reader.begin(line.number, [slots], "")
            self.named = False
        elif block is None:
            reader.leave(line.number, text, "it stands before the first channel")
        elif kind != "words":
            if self._value(block, line, kind, "" if self.values_first else self.waiting):
                self.waiting = ""
        elif FOOTNOTE.match(text):
            reader.leave(line.number, text, "a footnote")
        else:
            self._words(block, line)

    def _words(self, block: Block, line: Line) -> None:
        text = line.text.strip()
        if not self.named:
            block.name, self.named = text, True
        elif self.values_first:
            self._said(block, line)
        else:
            self.waiting = f"{self.waiting} {text}".strip()

    def _said(self, block: Block, line: Line) -> None:
        text = line.text.strip()
        if not block.rows:
            if re.match(r"[a-z(]|(?i:fine|16[ -]?bit)\b", text) and not block.about:
                block.name = f"{block.name} {text}"
            else:
                block.about.append((line.number, text))
            return
        last = block.rows[-1]
        block.rows[-1] = last.with_words(f"{last.words} {text}".strip())

    def _value(self, block: Block, line: Line, kind: str, words: str) -> bool:
        """A row of the block's table; another way of writing the row before says nothing new."""
        bases = {"percent": PERCENT, "hex": HEX}
        base = bases.get(kind, DECIMAL)
        found = [one for one in found_in(line.text.strip()) if one.base == base]
        if not found:
            self.reader.leave(line.number, line.text, "no range of values was found in it")
            return False
        if block.rows and base != block.base:
            if block.base != DECIMAL and base == DECIMAL:
                # The decimal column is the exact one.
                before = block.rows[-1]
                block.rows[-1] = TableRow(line.number, found[0].low, found[0].high, before.words, before.heading)
                if len(block.rows) == 1:
                    block.base = DECIMAL
            return False
        block.base = base if not block.rows else block.base
        self.led = self.led or (not block.rows and not self.named)
        block.rows.append(TableRow(line.number, found[0].low, found[0].high, words, "", found[0].back))
        return True


def from_single(lines: Sequence[Line]) -> Blocks | None:
    """Blocks of a text with one cell a line. None: no channels were found so."""
    return _Single(lines).run()
