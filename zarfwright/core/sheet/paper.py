"""Sizes of paper and scales of drawings."""

from __future__ import annotations

from collections.abc import Sequence

from zarfwright.core.errors import JobError

INCH_MM = 25.4
PAPERS: dict[str, tuple[float, float]] = {
    "A4": (297.0, 210.0), "A3": (420.0, 297.0), "A2": (594.0, 420.0), "A1": (841.0, 594.0), "A0": (1189.0, 841.0),
    **{f"ARCH {name}": (long * INCH_MM, short * INCH_MM)
       for name, long, short in (("A", 12, 9), ("B", 18, 12), ("C", 24, 18), ("D", 36, 24), ("E", 48, 36))},
    **{f"ANSI {name}": (long * INCH_MM, short * INCH_MM)
       for name, long, short in (("A", 11, 8.5), ("B", 17, 11), ("C", 22, 17), ("D", 34, 22), ("E", 44, 34))},
}  # fmt: skip
"""Width and height of sheets lying across, millimetres (ISO 216; ASME Y14.1)."""
METRIC = (1, 2, 5, 10, 20, 25, 50, 75, 100, 125, 200, 250, 500, 1000, 2000)
"""ISO 5455, with 25, 75, 125 and 250, which are usual in theatres."""
IMPERIAL = {12: '1" = 1\'', 16: '3/4" = 1\'', 24: '1/2" = 1\'', 32: '3/8" = 1\'', 48: '1/4" = 1\'', 64: '3/16" = 1\'',
            96: '1/8" = 1\'', 128: '3/32" = 1\'', 192: '1/16" = 1\'', 384: '1/32" = 1\''}  # fmt: skip
SCALE_MOST = 5000


def size_of(paper: str, upright: bool = False) -> tuple[float, float]:
    """Width and height in millimetres. Raises JobError for a size that is not known."""
    if paper not in PAPERS:
        raise JobError(f"“{paper}” is no size of paper: choose one of {', '.join(PAPERS)}.", "paper")
    wide, high = PAPERS[paper]
    return (high, wide) if upright else (wide, high)


def scales(system: str) -> Sequence[int]:
    """The standard scales, largest picture first: 1 to so many."""
    return METRIC if system == "metric" else tuple(IMPERIAL)


def scale_text(scale: float, system: str = "metric") -> str:
    """A scale as it is printed: `1:50`, `1/4" = 1'`."""
    if system == "imperial" and scale in IMPERIAL:
        return IMPERIAL[int(scale)]
    return f"1:{scale:.4g}"


def fitting(width_m: float, height_m: float, room_mm: tuple[float, float], system: str = "metric") -> int:
    """The standard scale at which so much of the show is largest and fits into so much paper; the smallest there is
    where none does."""
    for scale in scales(system):
        if width_m * 1000 / scale <= room_mm[0] and height_m * 1000 / scale <= room_mm[1]:
            return scale
    return scales(system)[-1]


def parse_scale(text: str, system: str = "metric") -> int:
    """Read `50`, `1:50` or `1/4"`; nothing, or `fit`, is 0: whatever fits. Raises JobError."""
    plain = "".join(text.lower().split()).replace("″", '"').replace("′", "'")
    if plain in ("", "fit", "0"):
        return 0
    by_text = {"".join(words.split()): scale for scale, words in IMPERIAL.items()}
    for words, scale in by_text.items():
        if plain in (words, words.partition("=")[0]):
            return scale
    number = plain.removeprefix("1:")
    if number.isdecimal() and 1 <= int(number) <= SCALE_MOST:
        return int(number)
    usual = "1/4\" = 1'" if system == "imperial" else "1:50"
    raise JobError(f"“{text.strip()}” is no scale: type for instance {usual}, or fit.", "scale")
