"""The test pattern of a zone: its edge, its middle, which way is up, and the number of its head."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from zarfwright.core.lasers.figure import Figure, figure
from zarfwright.core.space import Floats

Stroke = tuple[tuple[float, float], ...]
STEP = 0.04
"""So far apart are points on a line, in fields of -1..1."""
DARK_STEP = 0.12
"""The same where it goes in the dark from stroke to stroke."""
DWELL = 6
"""Points that the beam rests on a corner."""
EDGE, MARK, NUMBER = (0, 255, 80), (255, 190, 60), (255, 255, 255)

# Digits in a box of one by two, strokes without lifting.
DIGITS: dict[str, Stroke] = {
    "0": ((0, 0), (1, 0), (1, 2), (0, 2), (0, 0)),
    "1": ((0.2, 1.6), (0.5, 2), (0.5, 0)),
    "2": ((0, 2), (1, 2), (1, 1), (0, 1), (0, 0), (1, 0)),
    "3": ((0, 2), (1, 2), (1, 1), (0.3, 1), (1, 1), (1, 0), (0, 0)),
    "4": ((0, 2), (0, 1), (1, 1), (1, 2), (1, 0)),
    "5": ((1, 2), (0, 2), (0, 1), (1, 1), (1, 0), (0, 0)),
    "6": ((1, 2), (0, 2), (0, 0), (1, 0), (1, 1), (0, 1)),
    "7": ((0, 2), (1, 2), (0.4, 0)),
    "8": ((0, 1), (0, 0), (1, 0), (1, 2), (0, 2), (0, 1), (1, 1)),
    "9": ((0, 0), (1, 0), (1, 2), (0, 2), (0, 1), (1, 1)),
}
TALL = 0.5
"""How much of the field's height a number takes."""


def _line(start: Floats, end: Floats, step: float) -> Floats:
    """Points (n, 2) from after a place to another."""
    count = max(int(np.ceil(np.linalg.norm(end - start) / step)), 1)
    return np.asarray(start + (end - start) * (np.arange(1, count + 1) / count)[:, None])


def _along(stroke: Sequence[tuple[float, float]]) -> Floats:
    """Points (n, 2) along a stroke, resting on its corners."""
    corners = np.array(stroke, dtype=float)
    places = [np.repeat(corners[:1], DWELL, axis=0)]
    for start, end in pairwise(corners):
        places += [_line(start, end, STEP), np.repeat(end[None], DWELL, axis=0)]
    return np.concatenate(places)


def _digits(text: str) -> list[Stroke]:
    """The strokes of a number in the middle of the field."""
    tall = TALL / 2
    pitch = tall * 1.5
    left = -(pitch * (len(text) - 1) + tall) / 2
    return [
        tuple((left + i * pitch + x * tall, (y - 1) * tall) for x, y in DIGITS[digit]) for i, digit in enumerate(text)
    ]


def pattern(number: int | None) -> Figure:
    """The pattern of a head of this number: the zone's edge, a mark at its top, ticks at its middle."""
    strokes: list[tuple[Sequence[tuple[float, float]], tuple[int, int, int]]] = [
        (((-1, -1), (1, -1), (1, 1), (-1, 1), (-1, -1)), EDGE),
        (((-0.12, 0.8), (0, 1), (0.12, 0.8)), MARK),
        (((-1, 0), (-0.8, 0)), MARK),
        (((0.8, 0), (1, 0)), MARK),
    ]
    strokes += [(stroke, NUMBER) for stroke in _digits(str(number) if number is not None else "0")]
    # Round and round: in the dark from the end of each stroke to the start of the next.
    places: list[Floats] = []
    rgb: list[Floats] = []
    before = np.array(strokes[-1][0][-1], dtype=float)
    for stroke, colour in strokes:
        way = _line(before, np.array(stroke[0], dtype=float), DARK_STEP)
        drawn = _along(stroke)
        dark = np.concatenate([way, np.repeat(way[-1:], DWELL, axis=0)])
        places += [dark, drawn]
        rgb += [np.zeros((len(dark), 3)), np.tile(np.array(colour, dtype=float), (len(drawn), 1))]
        before = drawn[-1]
    colours = np.concatenate(rgb)
    return figure(np.concatenate(places), colours, colours.max(axis=1) > 0)
