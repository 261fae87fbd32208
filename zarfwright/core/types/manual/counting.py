"""The many ways in which lists count and label their lines, to the one that is read: slots from 1, `Ch 5`, `Ch 3-5`."""

from __future__ import annotations

import re
from collections.abc import Sequence

Numbered = tuple[int, str]
"""A line's number (from 1) and its text."""

_CHANNEL = r"ch(?:an(?:nel)?)?s?\.?|slots?"
_OFFSET = re.compile(
    r"^((?:(?:n|addr(?:ess)?|base|dmx|ch(?:annel)?)\.? ?)?\+ ?|(?:byte|offset|slot|ch(?:annel)?\.?)\s+)(\d{1,3})(?=[\s|:.])",
    re.IGNORECASE,
)
"""Slots counted from the first one of the fixture: `+0`, `Addr +0`, `Byte 0`."""
_BYTES_SAID = re.compile(
    r"(?<!\d)(\d{1,3}) ?\((?:coarse|msb|hi\w*)\) ?(?:[+/&,]|and) ?(?:ch\w* )?(\d{1,3}) ?\((?:fine|lsb|lo\w*)\)",
    re.IGNORECASE,
)
"""`1 (coarse) + 2 (fine)`: the two bytes of one channel."""
_FINE_SAID = re.compile(r"(?<![\d/])(\d{1,3}) ?[/+,&] ?(\d{1,3}) ?\(?fine\)?(?=\s{2}|\t|\||$)", re.IGNORECASE)
"""`1 / 2 fine`, alone in its cell."""
_MODE_IN_A_LINE = re.compile(
    r"^(?P<mode>.{0,40}?\b(?:ch(?:an(?:nel)?)?s?|mode \w{1,12}|mode)\b\)?(?:\s*\(\d{1,3}(?: ?ch\w*)?\))?)\s*:\s*(?=(?:ch ?)?1\s?[=:]? ?[A-Za-z])(?P<rest>.*)$",
    re.IGNORECASE,
)
_IN_A_LINE = re.compile(r"(?:^|[,;]\s*)(?:ch ?)?(?P<slot>\d{1,3})(?: ?[=:] ?| )(?=[A-Za-z])", re.IGNORECASE)
_START = re.compile(r"^start(?: ?(?:address)?)?(?: ?\+ ?(\d{1,3}))?(?=\s*[\t|])", re.IGNORECASE)
"""Slots counted from the fixture's address: `Start +1`."""
_SLOT_LAST = re.compile(
    rf"^\W*(?P<name>[A-Za-z][\w /.-]{{1,30}}?)\s*(?:[:=-]|\.{{2,}})\s*(?:{_CHANNEL})\s*(?P<slots>(?P<slot>\d{{1,3}})(?:/\d{{1,3}})?)(?P<rest>\b.*)$",
    re.IGNORECASE,
)
"""`Master: Channel 1`."""
_NOTE = re.compile(r"^\s*(?P<mark>[¹²³⁴⁵⁶⁷⁸⁹†‡]|\*{1,3})\)?\s*(?P<said>\d{1,3}\s*[-–—]\s*\d{1,3}\b.*[A-Za-z%].*)$")
"""A footnote that is a table."""
_BY_BLANKS = re.compile(r"^\s*\d{1,3} [A-Za-z][A-Za-z /]*(?:[,;]? \d{1,3} [A-Za-z][A-Za-z /]*){2,}\.?\s*$")
_NUMBER_NEXT = re.compile(r"[,;]? (?=\d{1,3} [A-Za-z])")
_LED = re.compile(rf"^\W*(?:{_CHANNEL})\s*\d", re.IGNORECASE)
_NEXT = re.compile(rf"[,;]\s*(?=(?:{_CHANNEL})\s*\d{{1,3}}(?:\s*-\s*\d{{1,3}})?\s*[:=] ?[A-Za-z])", re.IGNORECASE)
_COUNTED = re.compile(r"^\W*(\d{1,3})(?:st|nd|rd|th) (?:dmx )?(?:channel|slot)\b", re.IGNORECASE)
"""`1st channel`."""
_RUN_OF = re.compile(rf"^(\W*(?:{_CHANNEL})?\s*)(\d{{1,3}}(?:\s*,\s*\d{{1,3}}){{2,}})(?=\s*[=:])", re.IGNORECASE)
"""`3, 4, 5 =`: slots in a row."""
_SPELT = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
_IN_WORDS = re.compile(rf"^\W*(?:{_CHANNEL})\s+({'|'.join(_SPELT)})\b", re.IGNORECASE)
_SAID_TWICE = re.compile(
    rf"^(\W*(?:{_CHANNEL})\s*\d{{1,3}}\s*(?:-|\.\.+|/|to)\s*)(?:{_CHANNEL})\s*(?=\d)", re.IGNORECASE
)
"""`CH3-CH5`: the word again before the last of them."""
_SCATTERED = re.compile(
    rf"^\W*(?:{_CHANNEL})\s*((?:\d{{1,3}}\s*(?:,|&|and)\s*){{2,}}\d{{1,3}})\s*[:=-]?\s+(?P<what>[A-Za-z].*)$",
    re.IGNORECASE,
)
_THROUGH = re.compile(
    r"\b(?:of )?(?:the )?(?P<word>pixel|cell|led|zone|segment|section|ring|head|array|group|unit|eye|tube|lamp)s?"
    r"\s*(?P<a>\d{1,3})\s*(?:-|\.\.+|to)\s*(?P<b>\d{1,3})\b",
    re.IGNORECASE,
)
_LABELLED = re.compile(
    rf"^\W*(?:(?P<slot>(?:dmx )?(?:{_CHANNEL}|address|number))\W*(?=\d{{1,3}}\W*$)|(?P<name>function|name|parameter|feature"
    r"|attribute|control)s?\s*[:=]|(?P<value>(?:dmx )?(?:value|range|level)s?)\s*[:=](?=\s*[\d$]))\s*(?P<said>.*)$",
    re.IGNORECASE,
)
_BEHIND_RANGE = re.compile(r"^([\d.x%]+\s*-\s*[\d.x%]+)\s*[/:=]\s*")


def _spelt(match: re.Match[str]) -> str:
    return f"Ch {_SPELT.index(match[1].lower()) + 1}"


def _in_a_row(match: re.Match[str]) -> str:
    slots = [int(one) for one in re.findall(r"\d+", match[2])]
    return f"{match[1]}{slots[0]}-{slots[-1]}" if slots == list(range(slots[0], slots[-1] + 1)) else match[0]


def _from_one(match: re.Match[str]) -> str:
    number = int(match[2]) + 1
    return str(number) if "+" in match[1] else f"Ch {number}"


def _scattered(line: Numbered) -> list[Numbered]:
    """`Ch 1, 4, 7: red of pixels 1 to 3` as a line for each of its channels."""
    match = _SCATTERED.match(line[1])
    slots = [int(one) for one in re.findall(r"\d+", match[1])] if match else []
    through = _THROUGH.search(match["what"]) if match else None
    if match is None or through is None or int(through["b"]) - int(through["a"]) + 1 != len(slots):
        return [line]
    rest = f"{match['what'][: through.start()]} {match['what'][through.end() :]}".strip(" ,:")
    first = int(through["a"])
    return [(line[0], f"Ch {slot}: {through['word']} {first + k} {rest}") for k, slot in enumerate(slots)]


def _labelled(lines: Sequence[Numbered]) -> list[Numbered]:
    """`Slot: 2`, `Function: Strobe`, `Range: 0-9 / open`, each in a line of its own, as a list has them."""
    parts = [(n, line, _LABELLED.match(line)) for n, line in lines]
    found = [match for _, _, match in parts if match]
    if sum(match["slot"] is not None for match in found) < 2 or sum(match["name"] is not None for match in found) < 2:
        return list(lines)
    made: list[Numbered] = []
    slot = ""
    for number, line, match in parts:
        if match and match["slot"]:
            slot = match["said"].strip(" .:")
        elif match and match["name"] and slot:
            made.append((number, f"Ch {slot}: {match['said']}"))
            slot = ""
        elif match and match["value"]:
            made.append((number, _BEHIND_RANGE.sub(r"\1 ", match["said"])))
        else:
            made.append((number, line))
    return made


def with_notes(lines: Sequence[Numbered]) -> list[Numbered]:
    """Lines as they were pasted, with the ranges of a footnote behind the name that has its mark: `Strobe¹` and
    `¹ 0-9 off, 10-255 1-25 Hz`. A mark that stands before several notes means another on each page: they stay notes."""
    found = [match for _, line in lines if (match := _NOTE.match(line))]
    if not found:
        return list(lines)
    said: dict[str, str] = {}
    for match in found:
        said[match["mark"]] = "" if match["mark"] in said else match["said"]
    marked = re.compile("(?<=[A-Za-z)])\\s?(" + "|".join(re.escape(mark) for mark in said) + r")(?=\s*$|\s*[|\t;])")
    used: set[str] = set()
    made: list[Numbered] = []
    for number, line in lines:
        match = None if _NOTE.match(line) else marked.search(line)
        if match:
            used.add(match[1])
        ranges = said[match[1]] if match else ""
        made.append((number, f"{line[: match.start()]}: {ranges}{line[match.end() :]}" if match and ranges else line))
    # A star before values that no name has is a bullet.
    notes = {n: note for n, line in made if (note := _NOTE.match(line)) and note["mark"] in used}
    told = [(n, f"* note: {notes[n]['said']}" if n in notes else line) for n, line in made]
    return [(n, line) for n, line in told if n not in notes or not said[notes[n]["mark"]]]


def _channels_in(line: str) -> list[str]:
    """The channels that a line has beside each other: `Ch 1-3: Cell 1 (RGB), Ch 4-6: Cell 2 (RGB)`."""
    if _BY_BLANKS.match(line):
        parts = _NUMBER_NEXT.split(line.strip())
        numbers = [int(part.split()[0]) for part in parts]
        if numbers == list(range(numbers[0], numbers[0] + len(parts))):
            return parts
    return _NEXT.split(line) if _LED.match(line) else [line]


def _by_slot(lines: Sequence[Numbered]) -> list[Numbered]:
    """`Master: Channel 1` as `Ch 1: Master`, in the order of the slots; what stands between goes with the line before."""
    groups: list[tuple[int, list[Numbered]]] = [(0, [])]
    for n, line in lines:
        match = _SLOT_LAST.match(line)
        if match:
            groups.append((int(match["slot"]), [(n, f"Ch {match['slots']}: {match['name']}{match['rest']}")]))
        else:
            groups[-1][1].append((n, line))
    return [line for _, group in sorted(groups, key=lambda one: one[0]) for line in group]


def _modes_in_lines(line: Numbered) -> list[Numbered]:
    """`3 CH: 1 = R, 2 = G, 3 = B` as a title and a line for each channel."""
    match = _MODE_IN_A_LINE.match(line[1])
    found = list(_IN_A_LINE.finditer(match["rest"])) if match else []
    if match is None or len(found) < 2 or [int(one["slot"]) for one in found] != list(range(1, len(found) + 1)):
        return [line]
    ends = [*(one.start() for one in found[1:]), len(match["rest"])]
    channels = [(line[0], f"Ch {one['slot']}: {match['rest'][one.end() : end].strip(' ,;')}")
                for one, end in zip(found, ends, strict=True)]  # fmt: skip
    return [(line[0], match["mode"]), *channels]


def counted_alike(lines: Sequence[Numbered]) -> list[Numbered]:
    """Lines with their slots counted from 1 and said in one way; a line for each channel where one stands for several."""
    lines = [(n, part) for n, line in lines for part in _channels_in(line)]
    lines = [(n, _IN_WORDS.sub(_spelt, _COUNTED.sub(r"Ch \1", _RUN_OF.sub(_in_a_row, line)))) for n, line in lines]
    kept = [(n, _SAID_TWICE.sub(r"\1", _BYTES_SAID.sub(r"\1/\2", line))) for n, line in lines]
    if sum(_START.match(line) is not None for _, line in kept) > 1:
        kept = [(n, _START.sub(lambda m: str(int(m[1] or 0) + 1), line)) for n, line in kept]
    offsets = [match[2] for _, line in kept if (match := _OFFSET.match(line))]
    if offsets[:2] == ["0", "1"]:
        kept = [(n, _OFFSET.sub(_from_one, line)) for n, line in kept]
    if sum(_SLOT_LAST.match(line) is not None for _, line in kept) >= max(2, 0.3 * len(kept)):
        kept = _by_slot(kept)
    kept = [(n, _FINE_SAID.sub(r"\1/\2", line)) for n, line in kept]
    return _labelled([one for line in kept for part in _scattered(line) for one in _modes_in_lines(part)])
