"""A measured area: where light is measured, what is wanted there, and what was measured, look by look."""

from __future__ import annotations

import base64
import binascii
import zlib
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.errors import JobError
from zarfwright.core.space import Vec

POINTS_MOST = 100
"""Along one side of an area."""
DRIVEN = "driven"
"""In place of a look: as it was driven when it was measured."""


@dataclass(frozen=True)
class Measured:
    """The light on an area in one look."""

    made_of: str
    """Of which state of the show (core/looks/stand.py): of another one it is old."""
    points: tuple[int, int]
    mean: float
    least: float
    most: float
    """Lux."""
    rgb: str
    """Lux by colour at each point (core/review/grid.py), packed."""


@dataclass(frozen=True)
class Area:
    """A rectangle of points at which light is measured."""

    name: str
    position: Vec
    """Its middle; metres, show."""
    width_m: float
    depth_m: float
    turn_deg: float = 0.0
    faces: Literal["up", "towards"] = "up"
    """Whether its faces lie level, or stand upright towards a place."""
    towards: Vec = (0.0, -12.0, 1.6)
    points: tuple[int, int] = (24, 16)
    people: bool = False
    """Whether people are in the way of its light; else it is measured as if nobody stood there."""
    wanted_lx: float | None = None
    tolerance: float = 20.0
    """How many in a hundred the mean may be away from what is wanted."""
    wanted_in: tuple[str, ...] = ()
    """The looks in which that is wanted; none: in each that it was measured in."""
    maps: dict[str, Measured] = field(default_factory=dict)
    """What was measured, by look."""


def packed(rgb: NDArray[np.float64]) -> str:
    """Lux by colour (m, 3) as text."""
    return base64.b64encode(zlib.compress(rgb.astype("<f4").tobytes(), 6)).decode()


def unpacked(measured: Measured) -> NDArray[np.float64]:
    """Lux by colour (m, 3). Raises JobError where it is damaged."""
    count = measured.points[0] * measured.points[1]
    try:
        data = zlib.decompressobj().decompress(base64.b64decode(measured.rgb, validate=True), count * 12 + 1)
        rgb = np.frombuffer(data, dtype="<f4").reshape(count, 3)
    except (binascii.Error, zlib.error, ValueError):
        raise JobError("What was measured there is damaged: measure it again.") from None
    if not np.all(np.isfinite(rgb)):
        raise JobError("What was measured there is damaged: measure it again.")
    return rgb.astype(float)
