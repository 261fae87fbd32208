"""Figures of the simulated feed: each a function of the feed, a time in seconds and a number of points, to rows of
x, y (-1..1), red, green, blue (0..1) and whether the point is lit."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

Rows = np.ndarray
Pattern = Callable[[int, float, int], Rows]


def _rows(x: Rows, y: Rows, rgb: Rows, lit: Rows | None = None) -> Rows:
    n = len(x)
    colours = np.broadcast_to(rgb, (n, 3))
    return np.column_stack([x, y, colours, np.ones(n) if lit is None else lit])


def hue(turns: Rows | float) -> Rows:
    """A pure colour (..., 3) by its place on the circle."""
    k = np.asarray(turns, dtype=float)[..., None] * 6 + np.array([0.0, 4.0, 2.0])
    return np.asarray(np.clip(np.abs(np.mod(k, 6) - 3) - 1, 0, 1))


def circle(feed: int, t: float, n: int) -> Rows:
    """A ring that breathes and goes through the colours."""
    turn = np.arange(n) / n * math.tau
    r = 0.75 + 0.2 * math.sin(t * 1.7 + feed)
    return _rows(r * np.cos(turn), r * np.sin(turn), hue((t * 0.08 + feed * 0.13) % 1))


def sheet(feed: int, t: float, n: int) -> Rows:
    """A level sheet that rises and sinks."""
    x = 1 - 2 * np.abs(2 * (np.arange(n) / n) - 1)
    y = np.full(n, 0.6 * math.sin(t * 0.8 + feed * 0.5))
    return _rows(x, y, hue((0.45 + 0.05 * math.sin(t)) % 1))


def waves(feed: int, t: float, n: int) -> Rows:
    """A wave that runs along a sheet, there and back."""
    x = 1 - 2 * np.abs(2 * (np.arange(n) / n) - 1)
    y = 0.35 * np.sin(x * 7 + t * 2.4 + feed) * (0.6 + 0.4 * np.cos(x * 2))
    return _rows(x, y, hue(np.mod(0.5 + 0.12 * x + 0.02 * t, 1)))


def fingers(feed: int, t: float, n: int) -> Rows:
    """Seven beams side by side, each rested on; dark between them."""
    count = 7
    which = np.minimum(np.arange(n) * count // n, count - 1)
    x = (which - (count - 1) / 2) / (count / 2)
    y = 0.25 * np.sin(which * 0.9 + t * 1.5 + feed)
    first = np.concatenate([[True], np.diff(which) != 0])
    settling = np.convolve(first, np.ones(6))[:n] > 0
    return _rows(x, y, hue(np.mod(0.3 + which * 0.05 + t * 0.05, 1)), ~settling)


def star(feed: int, t: float, n: int) -> Rows:
    """A star that turns slowly: sharp corners, for what mirrors do to them."""
    turn = np.arange(11) * math.pi / 5 + t * 0.4
    out = np.where(np.arange(11) % 2 == 0, 0.9, 0.4)
    corners = np.column_stack([out * np.cos(turn), out * np.sin(turn)])
    along = np.linspace(0, 10, n, endpoint=False)
    k, part = along.astype(int), (along % 1)[:, None]
    places = corners[k] * (1 - part) + corners[k + 1] * part
    return _rows(places[:, 0], places[:, 1], hue((0.12 + feed * 0.07) % 1))


PATTERNS: dict[str, Pattern] = {
    "circle": circle, "sheet": sheet, "waves": waves, "fingers": fingers, "star": star,
}  # fmt: skip


def pattern_of(name: str, feed: int) -> Pattern:
    """A figure by its name; `mixed` gives each feed another."""
    names = [*PATTERNS]
    return PATTERNS[names[(feed - 1) % len(names)] if name == "mixed" else name]
