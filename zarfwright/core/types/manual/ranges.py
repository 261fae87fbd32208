"""A manual's table of one channel, as text, to ranges with meanings."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from zarfwright.core.types.manual.meaning import Meaning
from zarfwright.core.types.manual.meanings import meaning_of
from zarfwright.core.types.manual.numbers import (
    DECIMAL,
    HEX,
    LINE_MOST,
    PERCENT,
    Found,
    cleaned,
    found_in,
    only_words_of,
    too_much,
    without,
)

_HEADER = frozenset({
    "dmx", "value", "values", "range", "ranges", "function", "functions", "description", "channel",
    "channels", "color", "colour", "gobo", "hex", "dec", "ch", "from", "to", "decimal", "percent", "effect",
    "setting", "feature", "no", "and", "of", "bit", "bits",
})  # fmt: skip
AHEAD = 60
"""Letters after a sign that parts ranges, in which the next range stands if there is one."""
ROWS_MOST = 1000
"""Rows of one channel's table: it has 256 values, and some are told in two lines."""
SAID = 60
"""Letters of a line that was left, as it is told."""
FOOTNOTE = re.compile(r"(?i)^\s*(\*|†|‡|note\b|n\.b\.|\(\d\)\s|\[\d\]\s|remark|see\b|default\b|page\b|\d\)\s+[a-z])")
_SPLIT_RANGES = re.compile(
    r"\s*(?:/|;|,|•|\|\||\u2022)\s*(?=(?:\d{1,3}\s*[:=]\s*[A-Za-z]|(?:0[xX][0-9a-fA-F]+|\$?[0-9a-fA-F]{1,3}[hH]?|\d{1,5}(?:[.,]\d+)?\s?%?)\s*(?:-|\.\.+|to)\s*\$?[0-9a-fA-Fx]{1,6}[hH%]?))"
)


@dataclass(frozen=True)
class ManualRange:
    """A range with its first and last raw value, its words, and what was made of them."""

    start: int
    end: int
    words: str
    meaning: Meaning
    line: int
    doubt: str = ""
    """Why a person has to look at it; nothing where it was understood."""


@dataclass(frozen=True)
class ManualTable:
    """What was read: ranges in order at a resolution, and the lines that nothing was made of (number from 1, words)."""

    size: int
    """Bytes: 1 where the table counts to 255, 2 to 65535."""
    ranges: tuple[ManualRange, ...]
    left: tuple[tuple[int, str, str], ...]
    """Line, its words, and why it was left."""


@dataclass(frozen=True)
class TableRow:
    """A row of a table: its first and last value as they stand there, its words, what stands above it."""

    line: int
    low: float
    high: float
    words: str
    heading: str = ""
    back: bool = False
    """Written from the end to the beginning."""
    single: bool = False
    """Only one value stands there."""
    begins: bool = False
    """The value is said to be where it begins: it goes on to the next."""

    def with_words(self, words: str) -> TableRow:
        return replace(self, words=words)


def _following(piece: str) -> list[str]:
    """A piece in which one range follows the other, parted by words alone: `0-7 open 8-15 closed 16-255 1-25 Hz`."""
    paired = [one for one in found_in(piece) if one.paired and one.base == DECIMAL]
    cuts = [
        b.start
        for a, b in itertools.pairwise(paired)
        if b.low == a.high + 1 and b.high > b.low and re.search("[A-Za-z]{2}", piece[a.end : b.start])
    ]
    # Where words stand before the first range they belong to what is behind them.
    if not cuts or re.search("[A-Za-z]{2}", piece[: paired[0].start]):
        return [piece]
    return [piece[a:b] for a, b in itertools.pairwise([0, *cuts, len(piece)])]


def split_lines(lines: Sequence[tuple[int, str]]) -> tuple[list[tuple[int, str]], list[tuple[int, str, str]]]:
    """The pieces that may hold one range each, with the number of their line; and the footnotes, left."""
    pieces: list[tuple[int, str]] = []
    left: list[tuple[int, str, str]] = []
    for number, line in lines:
        if FOOTNOTE.match(line):
            left.append((number, cleaned(line).strip(), "a footnote"))
            continue
        rest, start = cleaned(line), 0
        if len(rest) > LINE_MOST:
            left.append((number, rest.strip()[:SAID], too_much(rest)))
            continue
        for match in _SPLIT_RANGES.finditer(rest):
            # `pulse, 1-10 Hz` is one piece: what follows is no range of values.
            ahead = [one for one in found_in(rest[match.end() : match.end() + AHEAD]) if one.start == 0]
            if ahead:
                pieces.append((number, rest[start : match.start()]))
                start = match.end()
        pieces.append((number, rest[start:]))
    pieces = [(number, one) for number, piece in pieces for one in _following(piece)]
    rows: list[tuple[int, str]] = []
    for number, piece in pieces:
        why = too_much(piece) if len(rows) < ROWS_MOST else f"a channel has no more than {ROWS_MOST} rows"
        if why:
            left.append((number, piece.strip()[:SAID], why))
        elif piece.strip():
            rows.append((number, piece))
    return rows, left


def _candidates(pieces: Sequence[tuple[int, str]], base: str, bare: bool, last: bool) -> list[Found | None]:
    chosen: list[Found | None] = []
    for _, piece in pieces:
        found = [one for one in found_in(piece, bare) if one.base == base]
        edge = found[::-1] if last else found
        # At the edge of the words: a number in the middle of a sentence is part of it.
        near = [one for one in edge if _at_edge(piece, one, last)]
        paired = [one for one in near if one.paired]
        chosen.append(next(iter(paired or near), None))
    return chosen


def _at_edge(piece: str, found: Found, last: bool) -> bool:
    outside = piece[found.end :] if last else piece[: found.start]
    # Cutting ranges out makes no words: where there are none, none are left.
    return not _WORD.search(outside) or not _WORD.search(without(outside, found_in(outside)))


def _score(chosen: Sequence[Found | None], top: float, step: float) -> tuple[int, int]:
    """How well ranges follow each other; how many there are."""
    found = [one for one in chosen if one is not None]
    if not found:
        return -1, 0
    joined = sum(1 for a, b in itertools.pairwise(found) if abs(b.low - a.high - step) <= step * 1.01)
    wrong = sum(1 for a, b in itertools.pairwise(found) if b.low < a.low)
    ends = (found[0].low == 0) + (found[-1].high == top)
    return 2 * joined + 2 * ends - 4 * wrong, len(found)


def _top(chosen: Sequence[Found | None], base: str) -> float:
    highest = max((one.high for one in chosen if one is not None), default=0.0)
    if base == PERCENT:
        return 100.0
    return 65535.0 if highest > 255 else 255.0


def _best(pieces: Sequence[tuple[int, str]]) -> tuple[str, list[Found | None], bool]:
    best: tuple[tuple[int, int, int], str, list[Found | None], bool] | None = None
    for order, (base, bare) in enumerate(((DECIMAL, False), (HEX, False), (HEX, True), (PERCENT, False))):
        for last in (False, True):
            chosen = _candidates(pieces, base, bare, last)
            top = _top(chosen, base)
            score, count = _score(chosen, top, 0.0 if base == PERCENT else 1.0)
            if base == PERCENT:
                score = max(score, _score(chosen, top, 1.0)[0])
            rank = (score, count, -order)
            if count and (best is None or rank > best[0]):
                best = (rank, base, chosen, bare)
    return (best[1], best[2], best[3]) if best else (DECIMAL, [None] * len(pieces), False)


def _rows(
    pieces: Sequence[tuple[int, str]], chosen: Sequence[Found | None], bare: bool
) -> tuple[list[TableRow], list[tuple[int, str, str]]]:
    """Lines with their ranges; a line without one goes on with the line before, or is a heading, or is left."""
    rows: list[TableRow] = []
    left: list[tuple[int, str, str]] = []
    heading = ""
    for (number, piece), found in zip(pieces, chosen, strict=True):
        if found is not None:
            others = [o for b in (True, False) for o in found_in(piece, b) if _same(o, found, piece)]
            rows.append(
                TableRow(
                    number,
                    found.low,
                    found.high,
                    without(piece, [found, *others]),
                    heading,
                    found.back,
                    not found.paired,
                )
            )
            continue
        words = without(piece, [])
        if only_words_of(words, _HEADER) or not re.search(r"[A-Za-z]", words):
            continue
        elif rows and (words[0].islower() or words[0] in "(-" or rows[-1].words.endswith((",", " to", "-", "("))):
            rows[-1] = replace(rows[-1], words=f"{rows[-1].words} {words}".strip())
        elif rows and not rows[-1].words:
            rows[-1] = replace(rows[-1], words=words)
        elif words.endswith(":") or piece.rstrip().endswith(":"):
            heading = words.rstrip(":").strip()
        else:
            left.append((number, words, "no range of values stands with it"))
    return rows, left


def _same(other: Found, chosen: Found, piece: str) -> bool:
    """Another column that gives the same range in another way: hex or percent beside decimal."""
    if other.base == chosen.base and not (other.end <= chosen.start or other.start >= chosen.end):
        return True
    between = piece[min(other.end, chosen.end) : max(other.start, chosen.start)]
    if re.search(r"[A-Za-z]{2,}", without(between, found_in(between))):
        return False
    tops = {DECIMAL: 255.0, HEX: 255.0, PERCENT: 100.0}
    top = 65535.0 if max(chosen.high, 255) > 255 and chosen.base != PERCENT else tops[chosen.base]
    shares = [(one.low / tops[one.base], one.high / tops[one.base]) for one in (other,)]
    return all(abs(a - chosen.low / top) < 0.02 and abs(b - chosen.high / top) < 0.02 for a, b in shares)


def _raws(rows: Sequence[TableRow], base: str, size: int) -> list[tuple[int, int]]:
    """First and last raw value of each row at a resolution."""
    top = 256**size - 1
    if base != PERCENT:
        highest = max(row.high for row in rows)
        if highest <= 255 and size >= 2:
            step = 256 ** (size - 1)
            return [(int(row.low) * step, int(row.high) * step + step - 1) for row in rows]
        return [(int(row.low), int(row.high)) for row in rows]
    made = []
    for i, row in enumerate(rows):
        start = round(row.low / 100 * top)
        # Percent tables either meet (0-10, 10-20) or leave one out (0-10, 11-20): each ends where the next begins.
        follows = rows[i + 1].low if i + 1 < len(rows) and 0 <= rows[i + 1].low - row.high <= 1.0 else None
        end = round(follows / 100 * top) - 1 if follows is not None else round(row.high / 100 * top)
        made.append((start, max(end, start)))
    return made


def _begun(rows: Sequence[TableRow], base: str) -> list[TableRow]:
    """A table that says only where each range begins: each goes on to the next."""
    starts = [row.low for row in rows]
    if starts[:2] == [0, 0] and all(a.high < b.high for a, b in itertools.pairwise(rows)):
        # `< 16`, `< 240`: each from where the one before ends.
        after = [0.0, *(row.high + 1 for row in rows)]
        return [replace(row, low=max(row.low, low)) for row, low in zip(rows, after, strict=False)]
    said = all(row.begins for row in rows)
    # A value that the next range follows at once is a place on a wheel, and no beginning.
    lone = [a.single and b.low > a.high + 1 for a, b in itertools.pairwise(rows)]
    places = any(a.single and not b.single and b.low == a.high + 1 for a, b in itertools.pairwise(rows))
    few = (sum(lone) < 2 or places) and not (
        said or (all(row.single for row in rows) and (len(rows) >= 3 or (len(rows) == 2 and starts[-1] < 250)))
    )
    if few or starts[0] != 0 or starts != sorted(set(starts)):
        return list(rows)
    top = 100.0 if base == PERCENT else 65535.0 if starts[-1] > 255 else 255.0
    ends = [*(start - 1 for start in starts[1:]), max(top, starts[-1])]
    return [replace(row, high=max(end, row.low)) if row.single else row for row, end in zip(rows, ends, strict=True)]


def _without_whole(rows: Sequence[TableRow], base: str) -> list[TableRow]:
    """Rows without those that only say that the channel has all values, where others say what these mean."""
    tops = (100.0,) if base == PERCENT else (255.0, 65535.0)
    whole = [row for row in rows if row.low == 0 and row.high in tops and not row.words]
    others = [row for row in rows if row not in whole]
    parted = sum(row.high - row.low for row in others) >= 0.5 * max((row.high for row in whole), default=0.0)
    return others if whole and others and parted else list(rows)


def _one_of_ends(rows: Sequence[TableRow]) -> list[TableRow]:
    """Two rows, one for 0 and one for 255: the ends of one range."""
    if [(row.low, row.high) for row in rows] != [(0, 0), (255, 255)] or not all(row.words for row in rows):
        return list(rows)
    return [replace(rows[0], high=255.0, words=f"{rows[0].words} to {rows[1].words}", single=False)]


BEGUN = "only where it begins is said: it was taken to go on to the next"


def _balanced(slot: str) -> str:
    """A name with as many brackets as it opens: the cutting of words leaves one over."""
    missing = slot.count("(") - slot.count(")")
    return slot + ")" * missing if missing > 0 else slot.rstrip(")") if missing < 0 else slot


WHOLE = frozenset({"Fan1", "Haze1", "Effects1Rate", "Frost1", "Focus1"})
"""What has one way of being set over all of its values."""
TAKEN_WHOLE = "these words were not understood: it was taken as from none to full"
ONE_RATE = "only one rate is given for all of it"
BACKWARDS = "its values are written backwards"


def _also(first: str, then: str) -> str:
    """Two doubts of one range."""
    return f"{first}; {then}" if then else first


def _doubts(found: ManualRange, before: ManualRange | None, top: int) -> str:
    if not found.words:
        return "nothing is said of this range"
    if found.end > top:
        return f"it goes to {found.end}, past {top}"
    if before is not None and found.start <= before.end:
        return _also(f"it overlaps {before.start}-{before.end}", found.meaning.doubt)
    if found.start > (gap := before.end + 1 if before is not None else 0) and found.meaning.known:
        return _also(f"nothing is said of {gap}-{found.start - 1} before it", found.meaning.doubt)
    return found.meaning.doubt if found.meaning.known else "these words were not understood"


def read_ranges(text: str, attribute: str, size: int = 1, default: tuple[float, float] = (0.0, 1.0)) -> ManualTable:
    """Read a table of one channel.

    `attribute` is what the channel does, `size` its bytes, `default` its usual physical values. A table that counts to
    65535 is read at 16 bits whatever `size`; one that counts to 255 is spread on a 16-bit channel.
    """
    return read_lines(list(enumerate(text.splitlines(), 1)), attribute, size, default)


_WORD = re.compile("[A-Za-z]{2}")
_END = re.compile(r"^\W*(0+|255)\s*(?:-|=|:|\s)\s*((?:[A-Za-z(]|[-+]?\d[\d.]*\s*(?:%|°|k\b|deg|hz)).*)$", re.IGNORECASE)


def _two_ends(lines: Sequence[tuple[int, str]]) -> Sequence[tuple[int, str]]:
    """`0 - wide` and `255 - narrow` below each other: the two ends of one range."""
    said = [(number, text) for number, text in lines if text.strip()]
    ends = [_END.match(cleaned(text)) for _, text in said]
    if len(said) != 2 or not all(ends) or [int(end[1]) for end in ends if end] != [0, 255]:
        return lines
    first, last = (end[2] for end in ends if end)
    return [(said[0][0], f"0-255 {first} to {last}")]


def read_lines(
    lines: Sequence[tuple[int, str]], attribute: str, size: int = 1, default: tuple[float, float] = (0.0, 1.0)
) -> ManualTable:
    """Read a table of one channel from lines with their numbers."""
    pieces, footnotes = split_lines(_two_ends(lines))
    base, chosen, bare = _best(pieces)
    rows, left = _rows(pieces, chosen, bare)
    return table_of(rows, base, attribute, size, default, [*footnotes, *left])


def _meant(row: TableRow, words: str, attribute: str, default: tuple[float, float], later: bool) -> Meaning:
    """What a row's words mean; what stands above says more where they alone say too little. `later`: not the first."""
    meaning = meaning_of(row.words, attribute, default)
    if not meaning.known and words != row.words:
        meaning = meaning_of(words, attribute, default)
    if later and meaning.attribute.startswith("Frost") and _ONLY_FROST.fullmatch(row.words):
        meaning = replace(meaning, low=1.0, high=1.0)
    if row.back:
        meaning = replace(meaning, low=meaning.high, high=meaning.low)
    return replace(meaning, slot=_balanced(meaning.slot)) if meaning.slot else meaning


_ONLY_FROST = re.compile(r"(?i)\W*(heavy |light )?frost\W*")


def _too_little(found: ManualRange, values: int, count: int) -> str:
    """What is in doubt about a range that says less than it would have to."""
    meaning = found.meaning
    whole = meaning.attribute == "Tint" and (meaning.low, meaning.high) == (0.0, 1.0)
    if whole and count > 1 and "%" not in found.words:
        return "how much of it is not given"
    rate = "Strobe" in meaning.attribute and meaning.low == meaning.high
    return ONE_RATE if rate and found.end - found.start > 0.2 * values else ""


def _alone(one: ManualRange, attribute: str, default: tuple[float, float]) -> ManualRange:
    """The one range there is: the channel's own name says what it does, but for a wheel (`see table A`)."""
    if re.fullmatch(r"(Color|Gobo)[1-3]", attribute) and one.meaning.slot:
        return replace(one, meaning=Meaning(attribute, 0.0, 0.0), doubt="what its values choose is not given")
    if one.words:
        whole = one.start == 0 and one.end in (255, 65535)
        linear = re.fullmatch(r"Dimmer|Color(Add|Sub)_\w+|Focus1|Frost1|Effects1Rate", attribute) is not None
        taken = replace(one, meaning=Meaning(attribute, *default), doubt=TAKEN_WHOLE)
        return taken if whole and linear and not one.meaning.known else one
    # Nothing but more and less is to be said of some.
    meaning = Meaning(attribute, *default) if attribute in WHOLE else one.meaning
    return replace(one, meaning=meaning, doubt=meaning.doubt if meaning.known else one.doubt)


def table_of(
    rows: Sequence[TableRow],
    base: str,
    attribute: str,
    size: int,
    default: tuple[float, float],
    left: Sequence[tuple[int, str, str]] = (),
) -> ManualTable:
    """A table of rows whose values count as `base` says."""
    if not rows:
        return ManualTable(size, (), tuple(sorted(left)))
    if base != PERCENT and max(row.high for row in rows) > 255:
        size = max(size, 2)
    rows = _one_of_ends(_without_whole(rows, base))
    begun = _begun(rows, base)
    made: list[ManualRange] = []
    order = sorted(zip(begun, _raws(begun, base, size), strict=True), key=lambda one: one[1][0])
    for row, (start, end) in order:
        words = f"{row.heading}: {row.words}" if row.heading and row.words else row.words
        found = ManualRange(start, end, words, _meant(row, words, attribute, default, start > 0), row.line)
        doubt = _doubts(found, made[-1] if made else None, 256**size - 1)
        doubt = doubt or _too_little(found, 256**size, len(begun))
        doubt = doubt or (
            BACKWARDS if row.back else BEGUN if row.single and not row.begins and row.high > row.low else ""
        )
        made.append(replace(found, doubt=doubt))
    top, last = 256**size - 1, made[-1]
    if last.end < top:
        made[-1] = replace(last, doubt=_also(f"nothing is said of {last.end + 1}-{top} after it", last.doubt))
    if len(made) == 1:
        made = [_alone(made[0], attribute, default)]
    return ManualTable(size, tuple(made), tuple(sorted(left)))
