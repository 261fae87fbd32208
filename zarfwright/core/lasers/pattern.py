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
DWELL = 5
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


def _along(stroke: Sequence[tuple[float, float]], colour: tuple[int, int, int]) -> tuple[Floats, Floats]:
    """Points (n, 2) along a stroke, and their colours (n, 3): dark while the beam comes to its start."""
    corners = np.array(stroke, dtype=float)
    places = [np.repeat(corners[:1], DWELL, axis=0)]
    for start, end in pairwise(corners):
        count = max(int(np.ceil(np.linalg.norm(end - start) / STEP)), 1)
        places.append(start + (end - start) * (np.arange(1, count + 1) / count)[:, None])
        places.append(np.repeat(end[None], DWELL, axis=0))
    points = np.concatenate(places)
    colours = np.tile(np.array(colour, dtype=float), (len(points), 1))
    colours[:DWELL] = 0
    return points, colours


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
    places, colours = zip(*(_along(stroke, colour) for stroke, colour in strokes), strict=True)
    rgb = np.concatenate(colours)
    return figure(np.concatenate(places), rgb, rgb.max(axis=1) > 0)
