"""A manual's whole list of channels, as text: modes, numbers, names, fine bytes, cells, and the ranges of each."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from zarfwright.core.types.manual import heads as g
from zarfwright.core.types.manual.appendix import given_back, taken_apart
from zarfwright.core.types.manual.blocks import Block, Blocks, from_lines
from zarfwright.core.types.manual.cells import lines_of
from zarfwright.core.types.manual.grid import grid_of
from zarfwright.core.types.manual.groups import Part, filled, parts_of
from zarfwright.core.types.manual.meaning import Meaning
from zarfwright.core.types.manual.meanings import meaning_of
from zarfwright.core.types.manual.missed import missed
from zarfwright.core.types.manual.names import Named, attribute_of, guessed
from zarfwright.core.types.manual.numbers import LINE_MOST, too_much
from zarfwright.core.types.manual.ranges import (
    SAID,
    ManualRange,
    ManualTable,
    read_lines,
    read_ranges,
    table_of,
)
from zarfwright.core.types.manual.rows import from_grid, rows_of
from zarfwright.core.types.manual.single import from_single, one_cell_a_line

_JOINED = re.compile(r"(?i)\b(16|24|32)[\s-]?bit\b")
_PLAIN_FINE = re.compile(r"(?i)\W*(ultra[\s-]?)?(fine|lsb|16[\s-]?bit)\W*")
_TURNS = re.compile(r"(?i)\b(turn|rotat|spin|shak)\w*")
_MANY = re.compile(r"NoFeature|Control|Effects|Dummy")
Usual = Mapping[str, tuple[float, float]]


@dataclass(frozen=True)
class ManualChannel:
    """A channel of a list: its slots in order (coarse first), what it does, its ranges, and what is in doubt."""

    slots: tuple[int, ...]
    words: str
    named: Named
    table: ManualTable
    line: int
    doubt: str = ""
    home: int | None = None
    """The value that it rests at, where the manual says it."""


@dataclass(frozen=True)
class ManualMode:
    """A mode of a list: its name (empty: it has none there) and its channels."""

    name: str
    channels: tuple[ManualChannel, ...]
    line: int = 1


@dataclass(frozen=True)
class ManualList:
    """A whole text: its modes, and the lines that nothing was made of (number, words, why)."""

    modes: tuple[ManualMode, ...]
    left: tuple[tuple[int, str, str], ...]

    @property
    def channels(self) -> tuple[ManualChannel, ...]:
        """The channels of the first mode."""
        return self.modes[0].channels if self.modes else ()


def blocks_of(text: str) -> Blocks:
    """The channels of a text, with the tables that stand behind their list."""
    listed, appended = taken_apart(text)
    if appended:
        found = _blocks_of(listed)
        left = given_back(found.blocks, appended)
        if len(left) < sum(len(one.rows) for one in appended):
            found.left += left
            return found
    return _blocks_of(text)


def _blocks_of(text: str) -> Blocks:
    """The channels of a text as it stands there: by its columns, by one cell a line, or by its lines."""
    long = [(n, raw) for n, raw in enumerate(text.splitlines(), 1) if len(raw) > LINE_MOST]
    lines = lines_of(text)
    found = from_single(lines_of(text, dashes=True)) if one_cell_a_line(lines) else None
    grid = grid_of(lines) if found is None else None
    if grid is not None:
        found, plain = from_grid(grid), from_lines(lines)
        # Columns that do not hold: without slots among them, and fewer channels than the lines by themselves give.
        if not found.blocks or (not grid.places(g.SLOT) and len(plain.blocks) > len(found.blocks)):
            found = plain
    found = found or from_lines(lines)
    found.left += [(n, raw.strip()[:SAID], too_much(raw)) for n, raw in long]
    _settle(found.blocks)
    for block in found.blocks:
        _name_from_rows(block)
        _nought_from_name(block)
    return found


def _nought_from_name(block: Block) -> None:
    """`Gobo   0 open` above `1-20 stone`: the first value stands behind the name."""
    match = re.match(r"(.*[A-Za-z)])\s+(0+\s+[A-Za-z].*)$", block.name)
    if match and block.lines and not block.rows and re.match(r"\W*1\s*(?:-|\.\.|to)", block.lines[0][1]):
        block.name = match[1]
        block.lines.insert(0, (block.line, match[2]))


def _name_from_rows(block: Block) -> None:
    """`Colour wheel: open` in each row of a channel without a name: what they all begin with is what it is called."""
    begun = [re.match(r"([A-Za-z][\w /-]{2,30}?)\s*:\s*(?=\S)", row.words) for row in block.rows]
    names = {match[1].casefold() for match in begun if match}
    if block.name or len(block.rows) < 2 or len(names) != 1 or not all(begun):
        return
    block.name = str(begun[0][1]) if begun[0] else ""
    block.rows = [
        row.with_words(row.words[match.end() :]) for row, match in zip(block.rows, begun, strict=True) if match
    ]


def _settle(blocks: Sequence[Block]) -> None:
    """Rows above the line that has a channel's number, where that stands in the middle of its table, come to it."""
    for before, block in itertools.pairwise(blocks):
        if not block.rows or block.rows[0].low == 0 or len(before.rows) < 2 or before.section != block.section:
            continue
        lows = [row.low for row in before.rows]
        again = max((k for k in range(1, len(lows)) if lows[k] == 0), default=None)
        if again is not None and before.rows[-1].high + 1 == block.rows[0].low:
            block.rows[:0] = before.rows[again:]
            del before.rows[again:]


def read_channels(text: str, defaults: Usual | None = None) -> ManualList:
    """Read a list of channels with all of its modes. `defaults`: usual physical values by attribute."""
    found = blocks_of(text)
    modes: list[ManualMode] = []
    left = list(found.left)
    for number, section in enumerate(found.sections):
        own = filled([block for block in found.blocks if block.section == number])
        for column, name in enumerate(section.names):
            channels = _mode(own, column, defaults or {})
            if channels:
                modes.append(ManualMode(name.strip(), tuple(channels), section.line))
                left += [entry for one in channels for entry in one.table.left]
                left += _miscounted(modes[-1])
    if modes:
        taken = {ends for mode in modes for channel in mode.channels for ends in _ends(channel.table)}
        slots = [range(1, 1 + max(s for channel in mode.channels for s in channel.slots)) for mode in modes]
        left += missed(text, taken, slots, {number for number, _, _ in left})
    return ManualList(tuple(modes), tuple(sorted(set(left))))


def _ends(table: ManualTable) -> Iterator[tuple[float, float]]:
    """The first and last values of a table's ranges as a manual may write them: in bytes, in words of two, in percent."""
    top = 256**table.size - 1
    for one in table.ranges:
        for byte in range(table.size):
            yield float(one.start >> 8 * byte), float(one.end >> 8 * byte)
        yield from itertools.product(_percents(one.start, top), _percents(one.end, top))


def _percents(value: int, top: int) -> tuple[float, float]:
    """A value in percent, as it is cut and as it is rounded."""
    return float(100 * value // top), float(round(100 * value / top))


_COUNT = re.compile(r"(?i)(?<![\d.])(\d{1,3})[\s-]*(?:ch(?:an(?:nel)?s?)?|slots?)\b(?! ?\d)")


def _miscounted(mode: ManualMode) -> list[tuple[int, str, str]]:
    """What to say of a mode that speaks of another number of channels than were found."""
    said = _COUNT.search(re.sub(r"(?i)\bdmx[ -]?512\b", "", mode.name))
    found = max(slot for channel in mode.channels for slot in channel.slots)
    if said is None or int(said[1]) == found:
        return []
    return [(mode.line, mode.name, f"it speaks of {said[1]} channels, and the last that was found is {found}")]


def read_channel(text: str, attribute: str, size: int, default: tuple[float, float]) -> ManualTable:
    """Read a table of one channel: by its columns where it stands in such, else line by line."""
    grid = grid_of(lines_of(text))
    if grid is not None and not grid.places(g.SLOT):
        rows, base, left = rows_of(grid)
        if rows:
            return table_of(rows, base, attribute, size, default, left)
    return read_ranges(text, attribute, size, default)


def _mode(blocks: Sequence[Block], column: int, defaults: Usual) -> list[ManualChannel]:
    """The channels of one mode."""
    there = [(block, slots) for block in blocks if (slots := block.slots[column]) is not None]
    there.sort(key=lambda one: one[1][0])
    channels: list[ManualChannel] = []
    for i, (block, slots) in enumerate(there):
        after = there[i + 1][1][0] if i + 1 < len(there) else None
        own, parts = _grouped(block, len(slots))
        for part in parts:
            made = _channel(own, tuple(slots[k] for k in part.places), part.words, channels, defaults)
            made = replace(made, doubt=made.doubt or part.doubt or block.doubt)
            made = made if made.named.fine else _second_wheel(channels, made)
            joined = _join(channels, made)
            if joined is not None:
                channels[joined[0]] = joined[1]
                continue
            if made.named.fine and len(made.slots) == 1 and _JOINED.search(block.name) and after == made.slots[0] + 2:
                made = _widened(made)
            channels.append(made)
    return _checked(channels)


def _grouped(block: Block, count: int) -> tuple[Block, list[Part]]:
    """The channels that a block stands for. Where the only words are those of its one range, they may name several:
    then they are what each is called, and say nothing of the range."""
    parts = parts_of(block.name, count)
    if count > 1 and len(parts) == 1 and not block.rows and not block.lines and block.about:
        # `Cell 1`, and `R/G/B` beside it.
        several = parts_of(f"{block.name} ({block.about[0][1]})", count)
        if len(several) > 1:
            return replace(block, about=block.about[1:]), several
    if block.name or len(block.rows) != 1:
        return block, parts
    named = parts_of(block.rows[0].words, count)
    return (block, parts) if len(named) < 2 else (replace(block, rows=[block.rows[0].with_words("")]), named)


def _second_wheel(channels: Sequence[ManualChannel], made: ManualChannel) -> ManualChannel:
    """A second wheel that the manual does not count, and what turns the gobos of one of two wheels."""
    wheel = re.fullmatch(r"(Gobo|Color)1", made.named.attribute)
    counted = re.search(r"\b(1|one|a)\b", made.words, re.IGNORECASE)
    if wheel and not counted and any(c.named.attribute == wheel[0] and c.words != made.words for c in channels):
        return _renumbered(made, wheel[1])
    if made.named.attribute == "Gobo1Pos" and not re.search(r"\d", made.words):
        wheels = [one for one in channels if one.named.attribute in ("Gobo1", "Gobo2")]
        turning = [one for one in wheels if re.search(r"(?i)\brotat", one.words)] or wheels
        if turning and turning[-1].named.attribute == "Gobo2":
            return _renumbered(made, "Gobo")
    return made


def _renumbered(made: ManualChannel, wheel: str) -> ManualChannel:
    """A channel of the first wheel as one of the second."""

    def second(attribute: str) -> str:
        return attribute.replace(f"{wheel}1", f"{wheel}2", 1) if attribute.startswith(f"{wheel}1") else attribute

    ranges = tuple(
        replace(r, meaning=replace(r.meaning, attribute=second(r.meaning.attribute))) for r in made.table.ranges
    )
    named = replace(made.named, attribute=second(made.named.attribute))
    return replace(made, named=named, table=replace(made.table, ranges=ranges))


def _widened(made: ManualChannel) -> ManualChannel:
    """`6 Dimmer 16 bit` before channel 8: it has slot 7 too."""
    return replace(
        made, slots=(made.slots[0], made.slots[0] + 1), named=replace(made.named, fine=0), table=_spread(made.table, 2)
    )


def _checked(channels: Sequence[ManualChannel]) -> list[ManualChannel]:
    """Channels with what only the whole list tells: a cyan beside red is a light, and numbers that are left out."""
    have = {one.named.attribute for one in channels}
    seen: dict[tuple[str, int | None], ManualChannel] = {}
    emits = "ColorAdd_R" in have and not {"ColorSub_M", "ColorSub_Y"} <= have
    made, top = [], 0
    for found in channels:
        one = _renamed(found, "ColorAdd_C") if emits and found.named.attribute == "ColorSub_C" else found
        before = seen.setdefault((one.named.attribute, one.named.cell), one)
        doubt = one.doubt
        if not doubt and one.slots[0] > top + 1:
            gap = f"{top + 1}" if one.slots[0] == top + 2 else f"{top + 1} to {one.slots[0] - 1}"
            doubt = f"nothing is said of slot {gap} before it"
        elif not doubt and before is not one and not _MANY.match(one.named.attribute):
            doubt = f"channel {before.slots[0]} does the same: what each of them drives is not known"
        top = max(top, *one.slots)
        made.append(replace(one, doubt=doubt))
    return made


def _renamed(one: ManualChannel, attribute: str) -> ManualChannel:
    was = one.named.attribute
    ranges = tuple(
        replace(r, meaning=replace(r.meaning, attribute=attribute)) if r.meaning.attribute == was else r
        for r in one.table.ranges
    )
    return replace(one, named=replace(one.named, attribute=attribute), table=replace(one.table, ranges=ranges))


_RATES = {"Effects1": "Effects1Rate", "ColorMacro1": "ColorMacro1Rate", "ColorEffects1": "ColorMacro1Rate",
          "Pan": "PositionMSpeed", "Tilt": "PositionMSpeed"}  # fmt: skip
"""What sets the speed of what the channel before does."""


def _beside(named: Named, words: str, said: Sequence[str], before: Sequence[ManualChannel]) -> tuple[Named, str] | None:
    """What a channel does whose name alone does not say it, by the channels before it; None where they tell nothing."""
    last = before[-1].named.attribute if before else ""
    rate = _RATES.get(last, "")
    if named.attribute == "Effects1Rate" and rate == "ColorMacro1Rate":
        return replace(named, attribute=rate), ""
    if rate and re.fullmatch(r"(?i)\W*(speed|spd\.?|rate|tempo)\W*", words):
        return replace(named, attribute=rate, known=True), f"“{words}” was taken as that of the channel before"
    if rate and not named.known and len(said) == 1 and _SPEED_OF.match(said[0]):
        return replace(named, attribute=rate, known=True), f"“{said[0]}” was taken as that of the channel before"
    mixes = any(one.named.attribute == "ColorAdd_R" for one in before)
    if mixes and named.attribute == "Color1" and re.fullmatch(r"(?i)\W*colou?rs?\W*", words):
        doubt = f"“{words}” was taken as built-in colours: the lamp mixes its own"
        return replace(named, attribute="ColorMacro1"), doubt
    return None


def _named(block: Block, words: str, before: Sequence[ManualChannel]) -> tuple[Named, str]:
    """What a channel does, and what is in doubt about it: by its name, by those before, else by what its ranges say."""
    named = attribute_of(words)
    said = [row.words for row in block.rows] + [text for _, text in block.lines] + [text for _, text in block.about]
    if (found := _beside(named, words, said, before)) is not None:
        return found
    if re.fullmatch(r"(?i)\W*patterns?\W*", words) and any(_TURNS.search(one) for one in said):
        return replace(named, attribute="Gobo1", known=True), f"“{words}” was taken as a wheel of gobos"
    if named.known:
        return named, ""
    guess = guessed(said)
    if guess is None:
        return named, "what this channel does was not understood"
    if len(said) == 1 and not words:
        return guess, ""
    return replace(named, attribute=guess.attribute, known=True), "what this channel does was taken from its ranges"


def _channel(
    block: Block, slots: tuple[int, ...], words: str, before: Sequence[ManualChannel], defaults: Usual
) -> ManualChannel:
    named, doubt = _named(block, words, before)
    fine_before = any(
        one.named.attribute == named.attribute and one.named.cell == named.cell and len(one.slots) == named.fine
        for one in before
    )
    if len(slots) > 1 or (_JOINED.search(words) and not fine_before and not re.search(r"(?i)\bfine\b|lsb", words)):
        # One row for all bytes of a channel.
        wide = _JOINED.search(words) is not None and len(slots) == 1
        named = replace(named, fine=1 if wide else 0)
    default = defaults.get(named.attribute, (0.0, 1.0))
    size = min(len(slots), 4)
    if block.rows:
        table = table_of(block.rows, block.base, named.attribute, size, default)
    else:
        table = read_lines(block.lines, named.attribute, size, default)
    only = table.ranges[0] if len(table.ranges) == 1 else None
    if only is not None and not only.words and only.start > 0:
        # `Reset 200-255`: the name says what these values do.
        meaning = meaning_of(words, named.attribute, default)
        table = replace(table, ranges=(replace(only, words=words, meaning=meaning, doubt=meaning.doubt),))
    if named.attribute == "Shutter1" and not re.search(r"(?i)shutter|dimm", words):
        table = replace(table, ranges=tuple(_unstrobed(one) for one in table.ranges))
    if not table.ranges and not (named.fine and fine_before):
        table = _implied(block, words, named, size, default, table)
    home = int(block.home) if block.home.isdigit() and int(block.home) <= 255 else None
    return ManualChannel(slots, words, named, table, block.line, doubt, home)


def _unstrobed(one: ManualRange) -> ManualRange:
    """On a channel that only strobes, off is open."""
    if one.meaning == Meaning("Shutter1", 0.0, 0.0) and re.fullmatch(r"(?i)\W*(off|none|0)\W*", one.words):
        return replace(one, meaning=Meaning("Shutter1", 1.0, 1.0))
    return one


def _implied(
    block: Block, words: str, named: Named, size: int, default: tuple[float, float], table: ManualTable
) -> ManualTable:
    """The one range of a channel that has no table: what its words say, and what is usual, with a doubt where it is."""
    about = " ".join(text for _, text in block.about)
    line = block.about[0][0] if block.about else block.line
    meaning = _whole(about, words, named.attribute, default)
    row = ManualRange(0, 256**size - 1, about or "", meaning, line, meaning.doubt)
    return replace(table, ranges=(row,))


_SPEED_OF = re.compile(r"(?i)^\W*(speed|rate|tempo) of (ch\w*|slot)\b")
NO_TABLE = {
    "Shutter1": (Meaning("Shutter1", 1.0, 1.0), "its ranges are not given: it stays open"),
    "Shutter1Strobe": (Meaning("Shutter1Strobe", 0.0, 20.0), "its ranges are not given: from none to 20 Hz"),
}


def _whole(about: str, words: str, attribute: str, default: tuple[float, float]) -> Meaning:
    """What a channel does over all of its values, where no values are given."""
    if attribute in NO_TABLE:
        meaning, doubt = NO_TABLE[attribute]
        if re.search(r"(?i)\bstrob|\bflash", words) and not re.search(r"(?i)shutter", words):
            meaning, doubt = NO_TABLE["Shutter1Strobe"]
        said = meaning_of(about, attribute, default) if about else None
        if said is not None and said.known and "Strobe" in said.attribute:
            return replace(said, doubt=said.doubt or "its ranges are not given: taken from what is said of it")
        return replace(meaning, doubt=doubt)
    if re.fullmatch(r"(Color|Gobo|Prism|AnimationWheel)[12]|ColorMacro1|ColorEffects1|Effects1|DimmerCurve", attribute):
        return Meaning(attribute, 0.0, 0.0, doubt="what its values choose is not given")
    if attribute.startswith("Control"):
        return Meaning(attribute, 0.0, 0.0, doubt="" if "reserv" in words.lower() else "its ranges are not given")
    if attribute == "NoFeature":
        return Meaning(attribute, 0.0, 0.0)
    for text in (*filter(None, (about, words)), ""):
        whole = meaning_of(text, attribute, default)
        if whole.known and whole.attribute == attribute:
            return whole
    return Meaning(attribute, *default)


def _join(channels: list[ManualChannel], fine: ManualChannel) -> tuple[int, ManualChannel] | None:
    """A fine byte goes to the channel that it makes finer: the last one of its attribute and cell."""
    if not fine.named.fine:
        return None
    for i in range(len(channels) - 1, -1, -1):
        coarse = channels[i]
        same = coarse.named.attribute == fine.named.attribute and coarse.named.cell == fine.named.cell
        plain_fine = _PLAIN_FINE.fullmatch(fine.words) and i == len(channels) - 1
        if (same or plain_fine) and len(coarse.slots) == fine.named.fine:
            size = len(coarse.slots) + 1
            return i, replace(coarse, slots=(*coarse.slots, *fine.slots), table=_spread(coarse.table, size))
    return None


def _spread(table: ManualTable, size: int) -> ManualTable:
    """A table of coarse values on a channel with one more byte."""
    if table.size >= size or not table.ranges:
        return replace(table, size=max(table.size, size))
    step = 256 ** (size - table.size)
    ranges = tuple(replace(r, start=r.start * step, end=(r.end + 1) * step - 1) for r in table.ranges)
    return replace(table, size=size, ranges=ranges)
