"""A figure as heads take it from a feed: one row of eight bytes for each point.

x and y are signed 16-bit from the left and the bottom of the field to the right and the top; colours 8 bits each;
`lit` 1 where the point is reached with light, 0 in the dark. That is also how feeds carry them (links/lasers.py).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zarfwright.core.lasers.frames import Reel

POINT = np.dtype([("x", "<i2"), ("y", "<i2"), ("r", "u1"), ("g", "u1"), ("b", "u1"), ("lit", "u1")])
HALF = 32767.0
Figure = NDArray[Any]
"""(n,) of POINT."""
DARK: Figure = np.zeros(0, dtype=POINT)
POINTS_MOST = 16_384
"""No figure is longer: at 30,000 points a second it would be drawn twice a second."""


def figure(uv: ArrayLike, rgb: ArrayLike, lit: ArrayLike = True) -> Figure:
    """A figure of places (n, 2) in -1..1 with colours 0..255, one (3,) for all or (n, 3), and which are lit."""
    places = np.asarray(uv, dtype=float).reshape(-1, 2)
    made = np.zeros(len(places), dtype=POINT)
    made["x"], made["y"] = np.rint(np.clip(places, -1, 1) * HALF).T
    made["r"], made["g"], made["b"] = np.broadcast_to(np.asarray(rgb, dtype=np.uint8), (len(places), 3)).T
    made["lit"] = np.broadcast_to(np.asarray(lit, dtype=bool), (len(places),))
    return made


def figures_of(reel: Reel) -> tuple[Figure, ...]:
    """The frames of an ILDA file as figures; their depth is left out."""
    made = []
    for frame, rgb in reel.coloured:
        one = np.zeros(len(frame), dtype=POINT)
        one["x"], one["y"] = frame.points[:, 0], frame.points[:, 1]
        one["r"], one["g"], one["b"] = rgb.T
        one["lit"] = ~frame.blanked
        made.append(one)
    return tuple(made)
