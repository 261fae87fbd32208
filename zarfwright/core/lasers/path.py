"""From figures to what heads draw: paths of a few hundred places with the light between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zarfwright.core.lasers.figure import HALF, POINT, Figure
from zarfwright.core.lasers.scanner import answered
from zarfwright.core.lasers.zone import HAIR, Shapes, Zone
from zarfwright.core.space import Floats

PLACES_MOST = 512
"""So many places of a path are drawn: mirrors do not turn sharper than that."""


@dataclass(frozen=True)
class Scanning:
    """How a head draws: its zone, points a second, what its mirrors are rated at, how far they sweep (full angles)."""

    zone: Zone
    rate_pps: float
    rated_pps: float
    across_deg: float = 60.0
    up_deg: float = 60.0


@dataclass(frozen=True, eq=False)
class Path:
    """Where a beam goes, round and round: angles (n, 2) from the head's axis in degrees, and the light from each place
    to the next one (n, 3), 0..1, as a mean over its time. Each takes 1/n of it."""

    angles: Floats
    light: Floats

    def __len__(self) -> int:
        return len(self.angles)


EMPTY = Path(np.zeros((0, 2)), np.zeros((0, 3)))


def _told(figures: Sequence[Figure], ways: Sequence[Scanning]) -> tuple[Floats, Floats]:
    """What the mirrors of k heads are told (k, 2, n), degrees, and the light at each point (k, n, 3), single precision:
    dark beyond the zone's limits and the mirrors' sweep."""
    shapes = Shapes.of([how.zone for how in ways])
    # Eight bytes a point: as one number each they are put together four times as fast.
    stacked = np.stack([np.ascontiguousarray(one).view("<i8") for one in figures]).view(POINT)
    u, v, inside = shapes.kept(*shapes.mirrored(*(np.maximum(stacked[c] / np.float32(HALF), -1) for c in "xy")))
    angles = np.stack(shapes.laid(u, v), axis=1)
    half = np.array([(how.across_deg / 2, how.up_deg / 2) for how in ways], dtype=np.float32)[:, :, None]
    kept = np.clip(angles, -half, half)
    inside &= (np.abs(kept - angles) <= HAIR).all(axis=1) & (stacked["lit"] > 0)
    light = np.stack([stacked[c] * (inside / np.float32(255)) for c in "rgb"], axis=-1)
    return kept, light


def _thinned(angles: Floats, light: Floats) -> tuple[Floats, Floats]:
    """Fewer places (k, 2, m), and the light from each to the next: that of a point is that of the way to it."""
    way = np.roll(light, -1, axis=1)
    n = light.shape[1]
    step = -(-n // PLACES_MOST)
    if step == 1:
        return angles, way
    starts = np.arange(0, n, step)
    counts = np.diff([*starts, n]).astype(np.float32)
    return angles[:, :, starts], np.add.reduceat(way, starts, axis=1) / counts[:, None]


def paths(figures: Sequence[Figure], ways: Sequence[Scanning]) -> list[Path]:
    """The path of each head, by the figure it takes. Heads alike in length and speed are worked out together."""
    made = [EMPTY] * len(figures)
    alike: dict[tuple[int, float, float], list[int]] = {}
    for i, (one, how) in enumerate(zip(figures, ways, strict=True)):
        if len(one):
            alike.setdefault((len(one), how.rate_pps, how.rated_pps), []).append(i)
    for (_, rate, rated), which in alike.items():
        told, light = _told([figures[i] for i in which], [ways[i] for i in which])
        angles, light = _thinned(answered(told, rate, rated), light)
        for i, one, shines in zip(which, angles, light, strict=True):
            made[i] = Path(one.T, shines)
    return made
