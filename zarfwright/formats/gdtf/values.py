"""The small values of GDTF's XML: DMX values with byte suffix, matrices, colours, numbers."""

from __future__ import annotations

import math
import re
from functools import lru_cache

from zarfwright.core.types.model import Chromaticity, Facet, Matrix

BREAKS_MAX = 64
_DMX = re.compile(r"^\s*(\d{1,10})\s*(?:/\s*([1-4])\s*(s?))?\s*$", re.IGNORECASE)


@lru_cache(maxsize=4096)
def read_dmx(text: str, size: int) -> int:
    """A DMX value such as `128/1`, `128/1s`, `32768/2` or plain, at a channel of `size` bytes.

    Without a suffix it is at the channel's own resolution. From fewer bytes it is repeated (`128/1` is 0x8080 on 16
    bits) or, with `s`, shifted (0x8000); from more bytes the fine ones are dropped. Raises ValueError.
    """
    match = _DMX.match(text)
    if match is None:
        raise ValueError(f"“{text}” is not a DMX value")
    value, given = int(match[1]), int(match[2]) if match[2] else size
    if value >= 256**given:
        raise ValueError(f"“{text}” is more than {given} bytes hold")
    if given > size:
        return int(value >> (8 * (given - size)))
    if given == size:
        return value
    if match[3]:
        return int(value << (8 * (size - given)))
    repeated = value.to_bytes(given, "big") * size
    return int.from_bytes(repeated[:size], "big")


def write_dmx(value: int, size: int) -> str:
    """A DMX value at a channel's own resolution."""
    return f"{value}/{size}"


FIRST_BREAK: int | None = 1
"""Where nothing is said."""


def read_break(text: str) -> int | None:
    """The number of a break; None for Overwrite. Raises ValueError."""
    if text.strip().lower() == "overwrite":
        return None
    number = int(text)
    if not 1 <= number <= BREAKS_MAX:
        raise ValueError(f"“{text}” is no break from 1 to {BREAKS_MAX}")
    return number


@lru_cache(maxsize=4096)
def read_number(text: str) -> float:
    """A finite number. Raises ValueError."""
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(f"“{text}” is not a finite number")
    return value


def write_number(value: float) -> str:
    """Six decimals, more where they are needed to read the same number back."""
    short = f"{value:.6f}"
    return short if float(short) == value else repr(float(value))


def read_colour(text: str) -> Chromaticity:
    """`x,y,Y`. Raises ValueError."""
    parts = [read_number(part) for part in re.split(r"[,;\s]+", text.strip())]
    if len(parts) != 3:
        raise ValueError(f"“{text}” is not a CIE xyY colour")
    return Chromaticity(*parts)


def write_colour(colour: Chromaticity) -> str:
    return f"{colour.x:.6f},{colour.y:.6f},{colour.luminance:.6f}"


def read_matrix(text: str) -> Matrix:
    """`{a,b,c,d}{...}{...}{...}`: four rows, translation in the last column, metres. Raises ValueError."""
    rows = [
        tuple(read_number(part) for part in row.split(","))
        for row in re.findall(r"\{([^{}]*)\}", text.replace(";", ","))
    ]
    if len(rows) != 4 or any(len(row) != 4 for row in rows):
        raise ValueError(f"“{text[:60]}” is not a matrix of four rows of four")
    return tuple((row[0], row[1], row[2], row[3]) for row in rows)


def write_matrix(matrix: Matrix) -> str:
    return "".join("{" + ",".join(write_number(value) for value in row) + "}" for row in matrix)


def read_facet(text: str) -> Facet:
    """A prism's facet as `{a,b,x}{c,d,y}{0,0,1}`: turned by its 2x2 part, shifted in gate radii. Raises ValueError."""
    rows = [[read_number(part) for part in row.split(",")] for row in re.findall(r"\{([^{}]*)\}", text)]
    if len(rows) != 3 or any(len(row) != 3 for row in rows):
        raise ValueError(f"“{text[:60]}” is not a matrix of three rows of three")
    turn = math.degrees(math.atan2(rows[1][0], rows[0][0]))
    return Facet(rows[0][2], rows[1][2], round(turn, 6))


def write_facet(facet: Facet) -> str:
    c, s = math.cos(math.radians(facet.turn_deg)), math.sin(math.radians(facet.turn_deg))
    rows = ((c, -s, facet.x), (s, c, facet.y), (0.0, 0.0, 1.0))
    return "".join("{" + ",".join(f"{value:.9f}" for value in row) + "}" for row in rows)
