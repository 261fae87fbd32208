"""A manual's whole list of channels, as text: numbers, names, fine bytes, cells, and the ranges of each."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace

from zarfwright.core.types.manual.names import Named, attribute_of
from zarfwright.core.types.manual.numbers import LINE_MOST, cleaned, found_in, only_words_of, too_much, without
from zarfwright.core.types.manual.ranges import SAID, ManualTable, read_ranges

SLOT_MAX = 512
_NUMBERED = re.compile(
    r"^\s*[|\t]?\s*(?:ch(?:annel)?s?\.?|slot|dmx)?\s*#?(\d{1,3})(?:\s*(?:[+/,&]|-|and|to)\s*(\d{1,3}))?\s*(?:[|\t.:)=]|\s-|\s)\s*(?P<rest>.*)$",
    re.IGNORECASE,
)
_JOINED = re.compile(r"(?i)\b(16|24|32)[\s-]?bit\b")
_LISTED = re.compile(r"[(:\[]\s*([^()\[\]]+?)\s*[)\]]?$")
_BYTES = re.compile(r"(?i)\b(16|24|32)[\s-]?bit\b|\bfine\b|\bcoarse\b|\bmsb\b|\blsb\b")
_HEADER = frozenset({
    "dmx", "no", "slot", "function", "value", "values", "description", "name", "mode", "parameter", "range",
    "percent", "attribute", "default", "effect", "feature", "bit", "bits",
})  # fmt: skip


@dataclass(frozen=True)
class ManualChannel:
    """A channel of a list: its slots in order (coarse first), what it does, its ranges, and what is in doubt."""

    slots: tuple[int, ...]
    words: str
    named: Named
    table: ManualTable
    line: int
    doubt: str = ""


@dataclass(frozen=True)
class ManualList:
    """A whole list, and the lines that nothing was made of."""

    channels: tuple[ManualChannel, ...]
    left: tuple[tuple[int, str, str], ...]


@dataclass
class _Open:
    """A channel while its lines are read."""

    slots: list[int]
    words: str
    line: int
    lines: list[str] = field(default_factory=list)


def _begins(line: str, expected: int) -> tuple[list[int], str] | None:
    """The slots and words of a line that begins a channel: it has the number that is next, and words."""
    match = _NUMBERED.match(line)
    if match is None:
        return None
    first, last = int(match[1]), int(match[2]) if match[2] else int(match[1])
    rest = match["rest"]
    if not (1 <= first <= last <= SLOT_MAX) or last - first > 3 or first != expected:
        return None
    # `0-15 open` is a range: a channel's second number is its fine byte, and its words are no range's.
    if not re.search(r"[A-Za-z]", rest):
        return None
    return list(range(first, last + 1)), rest


def _parted(rest: str) -> tuple[str, str]:
    """Name and ranges of a line that has both: `Shutter | 0-15 | closed`."""
    found = [one for one in found_in(rest) if one.paired and one.high - one.low >= 1]
    columns = [part.strip() for part in re.split(r"[|\t]|\s{2,}", rest) if part.strip()]
    if found and not re.fullmatch(r"\W*", rest[: found[0].start]):
        return without(rest[: found[0].start], []), rest[found[0].start :]
    if found and len(columns) >= 2:
        return columns[0], " ".join(columns[1:])
    return without(rest, []), ""


def read_channels(text: str, defaults: dict[str, tuple[float, float]] | None = None) -> ManualList:
    """Read a list of channels in the order of their numbers. `defaults`: physical values by attribute."""
    opened: list[_Open] = []
    left: list[tuple[int, str, str]] = []
    for number, raw in enumerate(text.splitlines(), 1):
        line = cleaned(raw)
        if not line.strip():
            continue
        if why := too_much(line):
            # One-line tables are broken up by their signs; what is too much then is left there.
            if len(line) > LINE_MOST or not opened:
                left.append((number, line.strip()[:SAID], why))
            else:
                opened[-1].lines.append(raw)
            continue
        expected = max(opened[-1].slots) + 1 if opened else 1
        begun = _begins(line, expected)
        if begun is not None:
            slots, rest = begun
            name, ranges = _parted(rest)
            opened.append(_Open(slots, name, number, [ranges] if ranges else []))
        elif only_words_of(without(line, []), _HEADER, ("ch", "hex", "dec")) and not found_in(line):
            continue
        elif opened:
            opened[-1].lines.append(raw)
        else:
            left.append((number, line.strip(), "it stands before the first channel"))
    channels: list[ManualChannel] = []
    for one in (part for whole in opened for part in _taken_apart(whole)):
        made = _channel(one, defaults or {})
        joined = _join(channels, made)
        if joined is not None:
            channels[joined[0]] = joined[1]
        else:
            channels.append(made)
    return ManualList(tuple(channels), tuple(left))


def _taken_apart(one: _Open) -> list[_Open]:
    """`3-5 Pixel 1 (red, green, blue)`: as many things as there are slots are a channel each."""
    if len(one.slots) < 2:
        return [one]
    inside = _LISTED.search(one.words)
    said, before = (inside[1], one.words[: inside.start()]) if inside else (one.words, "")
    parts = [part.strip() for part in re.split(r"[,;/+&]|\band\b", said) if part.strip()]
    letters = len(parts) == 1 and re.fullmatch(r"[rgbwa]+", parts[0], re.IGNORECASE) is not None
    if letters:
        parts = list(parts[0])
    named = [attribute_of(part) for part in parts]
    if len(parts) != len(one.slots) or not all(n.known and not n.fine for n in named):
        return [one]
    # `Pan/Tilt speed` is one thing.
    if not inside and not letters and attribute_of(one.words).attribute not in {n.attribute for n in named}:
        return [one]
    return [
        _Open([slot], f"{before} {part}".strip(), one.line, list(one.lines))
        for slot, part in zip(one.slots, parts, strict=True)
    ]


def _channel(one: _Open, defaults: dict[str, tuple[float, float]]) -> ManualChannel:
    named = attribute_of(one.words)
    if len(one.slots) > 1 or _JOINED.search(one.words):
        # One row for all bytes of a channel.
        named = replace(named, fine=0)
    table = read_ranges(
        "\n".join(one.lines), named.attribute, len(one.slots), defaults.get(named.attribute, (0.0, 1.0))
    )
    doubt = "" if named.known else "what this channel does was not understood"
    if len(one.slots) > 2 and not doubt and not _BYTES.search(one.words):
        doubt = f"it takes {len(one.slots)} slots, and was taken as one of {8 * len(one.slots)} bits"
    return ManualChannel(tuple(one.slots), one.words, named, table, one.line, doubt)


def _join(channels: list[ManualChannel], fine: ManualChannel) -> tuple[int, ManualChannel] | None:
    """A fine byte goes to the channel that it makes finer: the last one of its attribute and cell."""
    if not fine.named.fine:
        return None
    for i in range(len(channels) - 1, -1, -1):
        coarse = channels[i]
        same = coarse.named.attribute == fine.named.attribute and coarse.named.cell == fine.named.cell
        plain_fine = (
            re.fullmatch(r"(?i)\W*(ultra[\s-]?)?(fine|lsb|16[\s-]?bit)\W*", fine.words) and i == len(channels) - 1
        )
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
