"""A manual's list of channels to blocks: one for each channel as it stands there, with its slots in each mode, its name,
and the lines or rows of its table. Nothing of what words mean is settled here but which line begins a channel."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from zarfwright.core.types.manual import heads as g
from zarfwright.core.types.manual.cells import Line
from zarfwright.core.types.manual.heads import is_head
from zarfwright.core.types.manual.names import attribute_of
from zarfwright.core.types.manual.numbers import DECIMAL, LINE_MOST, PERCENT, Found, found_in, too_much, without
from zarfwright.core.types.manual.ranges import FOOTNOTE, SAID, TableRow

SLOT_MAX = 512
SKIPPED_MOST = 64
"""Slots that a list may leave out between two channels and still go on."""
NUMBERED = re.compile(
    r"^[(\[]?(?P<said>(?:dmx\s*)?(?:ch(?:an(?:nel)?)?s?\.?|slots?|dmx|kanal|byte)\s*[-#:]?\s*)?#?(?P<first>\d{1,3})"
    r"(?:\s*(?P<joint>[+/,&]|-|\.\.+|and\b|to\b)\s*(?P<last>\d{1,3}))?[)\]]?(?:\s*[|\t.:)=]+|\s+-+|,\s+(?=[A-Za-z])|\s)\s*(?P<rest>.*)$",
    re.IGNORECASE,
)
_TITLE = re.compile(
    r"(?i)\b(modes?|personality|pers\.)\b|^\W*\d{1,3}[\s-]*(ch|channels?|dmx channels?)\b\W*(\w+\W*){0,3}$|^\W*(?!dmx\b)[A-Za-z][\w+/-]{0,11}\s+\(?\d{1,3}[\s-]*ch(annels?)?\)?\W*$|^\W*(basic|standard|extended|simple|advanced|full|compact)\W*(mode|\(\d+ ?ch\w*\))?\W*$"
)
_NAMES_A_MODE = re.compile(
    r"(?i)^\W*(dmx )?(mode|personality)\b|\bmode\W*(\(.*\))?\W*$|\b\d{1,3}[\s-]*(ch|channels?)\b\W*$"
)
ELLIPSIS = re.compile(
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
    plain = re.sub(r"(?i)^\W*dmx[ -]?512\s*", "", text.strip())
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
        self._tops: dict[int, int] = {}
        """The highest slot of the section so far in each mode; none: it has no channel yet."""

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
        # In each mode by itself: one that has only some of the channels begins at 1 later than the others.
        restarts = any(one and one[0] == 1 and self._tops.get(k, 0) >= 1 for k, one in enumerate(slots))
        if restarts or (self._tops and self.title is not None and first <= max(self._tops.values())):
            section = Section([""] * len(slots), number)
            self.found.sections.append(section)
            self._tops = {}
        if self.title is not None:
            if not self._tops and len(slots) == 1:
                section.names[0] = section.names[0] or self.title[1].strip(" :=-#*|")
            else:
                self.leave(*self.title, "nothing was made of this heading")
            self.title = None
        block = Block(number, name.strip(), slots, len(self.found.sections) - 1, follows_gap=self.gap)
        self.gap = False
        self.found.blocks.append(block)
        self._tops.update({k: max(self._tops.get(k, 0), *one) for k, one in enumerate(slots) if one})
        return block


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
    if match is None or re.match(r"(?i)\W*dmx[ -]?512\b", line):
        return None
    slots, rest, last = _slots_said(match), match["rest"], reader.last
    if slots is None or (not re.search(r"[A-Za-z]", rest) and not match["said"]):
        return None
    if re.match(r"(?i)^(ch|channels?|bits?)\b", rest) and not match["said"]:
        return None
    top = max((s for one in last.slots if one for s in one), default=0) if last else 0
    titled = reader.title is not None and slots[0] == 1 and (len(slots) <= 2 or _grouped(rest, len(slots)))
    if match["said"] or titled:
        return slots, rest
    if slots[0] == top + 1:
        ok = len(slots) <= 2 or _grouped(rest, len(slots)) or not _continues(reader, slots)
        wide = len(slots) > 4 and not _grouped(rest, len(slots))
        return (slots, rest) if ok and not wide else None
    if len(slots) > 2 or not _named(rest) or _continues(reader, slots):
        return None
    if slots[0] == 1 and top > 1 and (last is None or not _low_next(last)):
        return slots, rest
    far = top + 1 < slots[0] <= top + SKIPPED_MOST and len(slots) == 1
    # A number further on is a value more often than a channel: only where no table is open.
    return (slots, rest) if far and last is not None and not last.rows and _ended(last) else None


def _named(rest: str) -> bool:
    """Whether the first words of a line name a channel that is known."""
    return attribute_of(re.split(r"\s{2,}|[|\t:]", without(rest, list(found_in(rest))))[0]).known


ENDS_IN = 64
"""Lines at the end of a table in which its highest value stands."""


def _ended(block: Block) -> bool:
    """Whether a channel's table has come to its highest value, or has not begun."""
    highest = [one.high for _, text in block.lines[-ENDS_IN:] for one in found_in(text) if one.base == DECIMAL]
    return not block.lines or max(highest, default=0.0) in (255.0, 65535.0)


def _low_next(block: Block) -> bool:
    """Whether a channel's table has begun at 0 and not come to an end: a 1 may be its next value."""
    latest = _latest(block)
    return latest is not None and latest.high == 0


def _latest(block: Block) -> Found | None:
    """The first range of the last line that has one."""
    return next((found[0] for _, text in reversed(block.lines) if (found := found_in(text))), None)


def _continues(reader: Reader, slots: Sequence[int]) -> bool:
    """Whether two numbers are the next range of the table that is open."""
    last = reader.last
    if last is None or not last.lines:
        return False
    latest = _latest(last)
    return latest is not None and latest.high + 1 == slots[0]


def _grouped(rest: str, count: int) -> bool:
    """Whether words speak of as many channels, or of bytes."""
    if re.search(r"(?i)\b(bits?|fine|pixels?|cells?|segments?|zones?|leds?|rings?|sections?|heads?)\b|rgb|\.\.", rest):
        return True
    return len([part for part in re.split(r"[,;/+&\s]|\band\b", rest) if part.strip()]) >= count


_COUNTED_CELLS = re.compile(
    r"(?i)\b(pixels?|cells?|leds?|zones?|segments?|sections?|rings?|heads?|red|green|blue|white|amber|dimmers?|frames?|blades?)\s*#?\d{1,3}\s*(?:-|\.\.+|to)\s*([a-z]+\s*)?\d"
)


_NONE_FIRST = re.compile(r"[\s(:\[-](0+ ?[=:]? ?[A-Za-z][\w ]{0,20}[,;/] ?)$")
_BEFORE = re.compile(r"([^(),;:]*[A-Za-z][^(),;:]*?) ?\((\d{1,3} ?- ?\d{1,3})\)")


def _named_before(rest: str) -> tuple[str, str] | None:
    """`Colour: white (0-20), red (21-40)`: the name, and its ranges with their words behind them."""
    head, colon, table = rest.partition(":")
    found = _BEFORE.findall(table)
    if not colon or len(found) < 2 or re.search(r"\d", head) or re.sub(r"[\s,;.]+", "", _BEFORE.sub("", table)):
        return None
    return head.strip(), "; ".join(f"{values} {words.strip()}" for words, values in found)


def parted(rest: str, count: int = 1) -> tuple[str, str]:
    """Name and ranges of a line that has both: `Shutter | 0-15 | closed`. `count`: slots of the line."""
    if count > 2 and _COUNTED_CELLS.search(rest):
        return without(rest, []), ""
    found = [
        one
        for one in found_in(rest)
        if one.base != PERCENT
        and (
            (one.paired and one.high - one.low >= 1)
            # `Colour 1: 0-10 open`: the number is the name's.
            or (one.base == DECIMAL and re.match(r"\s*[:=](?!\s*\d+\s*(?:-|\.\.|to)\s*\d)", rest[one.end :]))
        )
    ]
    found.sort(key=lambda one: one.start)
    if (named := _named_before(rest)) is not None:
        return named
    columns = [part.strip() for part in re.split(r"[|\t]|\s{2,}", rest) if part.strip()]
    if found and not re.fullmatch(r"\W*", rest[: found[0].start]):
        # `Strobe (0 off, 1-255 slow to fast)`: the table begins with a value alone.
        alone = _NONE_FIRST.search(rest[: found[0].start]) if found[0].low == 1 else None
        start = alone.start(1) if alone else found[0].start
        return without(rest[:start], []), rest[start:]
    if found and len(columns) >= 2:
        return columns[0], " ".join(columns[1:])
    return (rest if found else without(rest, [])), ""


def from_lines(lines: Sequence[Line]) -> Blocks:
    """Blocks of a text that stands in no columns."""
    reader = Reader()
    for line in lines:
        plain = line.text.strip()
        why = too_much(line.text)
        if why and (len(line.text) > LINE_MOST or not NUMBERED.match(plain)):
            if len(line.text) > LINE_MOST or reader.last is None:
                reader.leave(line.number, plain, why)
            else:
                reader.last.lines.append((line.number, line.text))
        elif ELLIPSIS.match(plain):
            reader.gap = True
        elif is_title(plain):
            reader.titled(line.number, plain)
        elif not is_head([c.text for c in line.cells]) and not _only_heads(plain):
            _line(reader, line.number, line.text)
    return reader.found


_CONDITION = re.compile(
    r"\s*[(\[,;]?\s*\b(?:only )?(?:when|if|while|where)\b[^()\[\]]*?\b(?:ch(?:annel)?\.?|slot)\s*\d+\b[^()\[\]]*[)\]]?",
    re.IGNORECASE,
)


def unconditional(words: str) -> tuple[str, str]:
    """Words without the condition that they hold under, and that: `Speed (when channel 7 is 81-200)`."""
    match = _CONDITION.search(words)
    if match is None:
        return words, ""
    return (words[: match.start()] + words[match.end() :]).strip(), match[0].strip(" ()[],;")


UNDER = "it holds {}: say so under “only while” in the shop"


def _line(reader: Reader, number: int, text: str) -> None:
    """A line that begins a channel, or goes on with one."""
    plain, last = text.strip(), reader.last
    begun = begins(plain, reader)
    if begun is not None:
        slots, rest = begun
        rest, condition = unconditional(rest)
        name, ranges = parted(rest, len(slots))
        if last is not None and last.slots == [slots] and ranges:
            last.lines.append((number, ranges))
            return
        block = reader.begin(number, [slots], name)
        block.doubt = UNDER.format(condition) if condition else ""
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
