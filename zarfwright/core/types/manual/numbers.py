"""The ranges in a line of a manual: decimal, hexadecimal, percent; and the line's words without them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

DECIMAL, HEX, PERCENT = "decimal", "hex", "percent"
_DASHES = str.maketrans({"–": "-", "—": "-", "−": "-", "‑": "-", "‐": "-", "‒": "-", "→": ">", "\u00a0": " ", "\u2009": " ",
                         "\u202f": " ", "…": "..", "⋯": "..", "～": "-", "~": "-", "÷": "-", "↔": "-", "⇒": ">", "➔": ">", "º": "°", "％": "%"})  # fmt: skip
_BOTH_WAYS = re.compile(r"[⇐⇦←<][-=⇒⇔→⇨]+>?|[⇔↔⟷⟺]")
"""Arrows that point both ways stand between the ends of a range."""
_FOOTNOTE_MARKS = re.compile(r"[¹²³⁴⁵⁶⁷⁸⁹⁰†‡]|\*+(?=\s|$|[|\t)])|(?<=[a-zA-Z])\*+|(?<=[a-zA-Z])\s?\[\d\]")
_BOUND = re.compile(
    r"(?:^|(?<=\t)|(?<=\|)|(?<=\| )|(?<=  ))(?:(>=|≥|<=|≤|<|>)\s*(\d{1,3})(?![\d.,]|\s*(?:-|to\b|°|%|hz|k\b))|(\d{1,3})\s*(?:\+(?=\s|$)|and (?:above|up|over|more)|or (?:above|more)|upwards?)(?!\s*\d))",
    re.IGNORECASE,
)
_WIDE = re.compile(r"[ \f\v]{9,}")
_HEX_NUMBER = r"(?:0[xX][0-9a-fA-F]{1,4}|\$[0-9a-fA-F]{1,4}|[0-9A-F]{2,4}h|\d[0-9a-fA-F]{1,3}[hH])"
_BARE_HEX = r"[0-9a-fA-F]{2}(?:[0-9a-fA-F]{2})?"
_JOIN = r"\s*(?:-+|\.\.+|>|to|bis|thru|through|till|until)\s*"
_UNITS = re.compile(
    r"^\s*(?:hz|hertz|fps|°|deg(?:rees?)?\b|k\b|kelvin|rpm|r/min|bpm|ms\b|sec\b|seconds?)", re.IGNORECASE
)
_EDGE_BEFORE, _EDGE_AFTER = r"(?<![\w.,#°$])", r"(?![\w]|[.,]\d)"
_PATTERNS = {
    HEX: re.compile(rf"{_EDGE_BEFORE}({_HEX_NUMBER})(?:{_JOIN}({_HEX_NUMBER}))?{_EDGE_AFTER}"),
    PERCENT: re.compile(
        rf"{_EDGE_BEFORE}(\d{{1,3}}(?:[.,]\d+)?)\s*(%?)(?:{_JOIN}(\d{{1,3}}(?:[.,]\d+)?)\s*(%))?(?![\w])", re.IGNORECASE
    ),
    DECIMAL: re.compile(rf"{_EDGE_BEFORE}(\d{{1,5}})(?:{_JOIN}(\d{{1,5}}))?{_EDGE_AFTER}", re.IGNORECASE),
}
_BACKWARDS = re.compile(r"^\d{2,3}\s*(?:-|to)\s*\d{1,3}$")
_BARE = re.compile(rf"{_EDGE_BEFORE}({_BARE_HEX})(?:{_JOIN}({_BARE_HEX})){_EDGE_AFTER}")


@dataclass(frozen=True)
class Found:
    """A range in a line: how it counts, its ends (in percent 0..100 for PERCENT), and where it stands."""

    base: str
    low: float
    high: float
    start: int
    end: int
    paired: bool
    back: bool = False
    """It was written from the end to the beginning: `255-128`."""


def cleaned(line: str, wide: bool = True) -> str:
    """A line with one kind of dash and blank, without footnote marks; `wide`: long gaps made short."""
    plain = _FOOTNOTE_MARKS.sub(" ", _BOTH_WAYS.sub("-", line).translate(_DASHES))
    plain = _BOUND.sub(_bounded, re.sub(r"[-=]>", " >", plain))
    plain = _SENTENCE.sub(_sentence, _FROM.sub(r" \1-\2", plain))
    plain = _THOUSANDS.sub(r"\1\2", _APART.sub("..", plain))
    plain = _KELVIN.sub(r"\g<0> K", plain)
    plain = _ENDS.sub(r"0-255 \1 to \2", plain)
    plain = _ENDS_BARE.sub(r"0-255 \1 to \2", plain)
    return (_WIDE.sub(" " * 8, plain) if wide else plain).strip("\r\n")


def _bounded(match: re.Match[str]) -> str:
    """`>= 128` and `128 and above` as a range of a byte."""
    sign, after, more = match.groups()
    number = int(after or more)
    if sign is None:
        return f"{number}-255"
    low = {">": number + 1, ">=": number, "≥": number}.get(sign)
    high = {"<": number - 1, "<=": number, "≤": number}.get(sign)
    return f"{0 if low is None else low}-{255 if high is None else max(high, 0)}"


_CLAUSE = r"(?:(?<=[;.:])\s+|^\s*)"
_COUNTED = r"(?![\d.,]|\s*(?:°|%|hz|k\b|deg|flash|times|beats|per\b|rpm|sec))"
_FROM = re.compile(rf"{_CLAUSE}(?:and )?(?:values )?from (\d{{1,3}}) to (\d{{1,3}}){_COUNTED}", re.IGNORECASE)
"""A range in a sentence: `; from 8 to 247 they flash`."""
_SENTENCE = re.compile(
    rf"{_CLAUSE}(?:and )?(below|under|less than|above|over|more than) (\d{{1,3}}){_COUNTED}", re.IGNORECASE
)


def _sentence(match: re.Match[str]) -> str:
    """`below 8` and `above 247` as ranges of a byte."""
    number = int(match[2])
    low, high = (0, number - 1) if match[1].lower() in ("below", "under", "less than") else (number + 1, 255)
    return f" {low}-{high}" if 0 <= low <= high <= 255 else match[0]


_ENDS = re.compile(
    r"(?<![\d.])0+\s*(?:[=:]|\bis\b|\bmeans\b)\s*([^,;|\t=:()\d][^,;|\t=:()]{0,40}?|-?\d[\w.° ]{0,12}?)\s*(?:,|;|/|\.{2,}|\s-|\bto\b|\band\b|(?=\s255\s*=))\s*255\s*(?:[=:]|\bis\b|\bmeans\b)\s*([^,;|\t=:()]{1,40}?)\s*\)?\s*$",
    re.IGNORECASE,
)


_ENDS_BARE = re.compile(r"(?<![\d.-])0+ ([A-Za-z][A-Za-z %]{0,24}?)\s*[,/;]\s*255 ([A-Za-z][A-Za-z %]{0,24})\s*$")
_KELVIN = re.compile(
    r"\b(?:cct|ct[oc]|colou?r temp\w*\.?)\W{1,3}[1-9]\d{3}\d? ?(?:-|to) ?[1-9]\d{3}\d?(?!\d|\s*(?:k\b|kelvin))",
    re.IGNORECASE,
)
"""`CCT 2700-5600`: no values, whether or not the unit stands there."""
_THOUSANDS = re.compile(r"(?<![\d.,])(\d{1,2})[,'](\d{3})(?=\s*(?:k\b|kelvin))", re.IGNORECASE)
_APART = re.compile(r"(?<=[\d%°])\s*\.{2,}\s*(?=[-+]?\d)")
"""`0 ... 100 %`: dots that part the ends of a range."""


def _hex(text: str) -> int:
    return int(text.lower().removeprefix("0x").removeprefix("$").removesuffix("h"), 16)


def _share(text: str) -> float:
    return float(text.replace(",", "."))


@lru_cache(maxsize=2000)
def found_in(line: str, bare_hex: bool = False) -> tuple[Found, ...]:
    """All that may be a range of DMX values in a cleaned line, those with a unit behind them left out."""
    found: list[Found] = []
    for match in (_BARE if bare_hex else _PATTERNS[HEX]).finditer(line):
        low, high = float(_hex(match[1])), float(_hex(match[2] or match[1]))
        found.append(Found(HEX, low, high, match.start(), match.end(), match[2] is not None))
    for match in _PATTERNS[PERCENT].finditer(line):
        if not (match[2] or match[4]):
            continue
        low, high = _share(match[1]), _share(match[3] or match[1])
        found.append(Found(PERCENT, low, high, match.start(), match.end(), match[3] is not None))
    for match in _PATTERNS[DECIMAL].finditer(line):
        if _UNITS.match(line[match.end() :]) or line[match.end() : match.end() + 2].strip().startswith("%"):
            continue
        low, high = float(match[1]), float(match[2] or match[1])
        back = low > high
        if back and not _BACKWARDS.match(match[0]):
            continue
        low, high = min(low, high), max(low, high)
        found.append(Found(DECIMAL, low, high, match.start(), match.end(), match[2] is not None, back))
    return tuple(one for one in found if one.low <= one.high)


LINE_MOST = 2000
"""Letters of a line that is looked at."""
NUMBERS_MOST = 24
"""Numbers of a row: ten columns of ranges have fewer. What has more is no row, and would be looked at for ever."""


def too_much(line: str) -> str:
    """Why a line is no row of a table, where it is none because of how much it holds."""
    if len(line) > LINE_MOST:
        return f"the line has more than {LINE_MOST} letters: break it into rows"
    if len(re.findall(r"\d+", line)) > NUMBERS_MOST:
        return f"it has more than {NUMBERS_MOST} numbers: break it into rows"
    return ""


def only_words_of(line: str, words: frozenset[str], begins: tuple[str, ...] = ()) -> bool:
    """Whether a line has nothing but some words, as the heads of columns have, or words that begin like some."""
    found = re.findall(r"[a-z0-9]+", line.lower())
    return bool(found) and all(one in words or (begins and one.startswith(begins)) for one in found)


def without(line: str, taken: Sequence[Found]) -> str:
    """The line's words, with the ranges cut out and columns parted by single blanks."""
    kept = list(line)
    for one in taken:
        kept[one.start : one.end] = [" "] * (one.end - one.start)
    text = re.sub(r"[|\t;]+", " ", "".join(kept))
    text = re.sub(r"\(\s*\)|\[\s*\]", " ", text)
    text = re.sub(r"^\s*[\])]+|[\[(]+\s*$", "", re.sub(r"\s+", " ", text).strip()).strip()
    if text.endswith(")") and text.count(")") > text.count("("):
        text = text[:-1]
    # A dash before a number is its sign.
    return re.sub(r"^(?:[:=,>.•·/]|-(?!\d))+\s*|\s*[-:=,>/|.]+$", "", text).strip()
