"""How each slot behaves over a stretch, and how well that suits each role that a channel can have.

Measured beforehand (findings.md): no single trait tells a patch; a score for each slot and role, summed over all the
channels of a fixture at a place, does.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.doctor.facts import Levels

TRAITS = ("zero", "constant", "step", "smooth", "coarse", "fine", "erratic")
ROLES = ("dimmer", "shutter", "position", "colour", "wheel", "beam", "control", "coarse", "fine", "dimmer coarse")
"""Of a single byte by what it does; of more bytes `coarse` (a dimmer's by itself) and `fine`, whatever they do."""
# What a slot of a trait says for (above 0) or against a role: natural logarithms of how much likelier it is there than
# on a slot that nothing is patched on. Set by what consoles do, not by any one of them: see tests/links/test_shift.py.
SUITS: dict[str, tuple[float, ...]] = {
    #           dimmer shutter position colour wheel  beam control coarse fine
    "zero":     (0.2,  -2.5,   -1.0,    0.4,   0.8,   0.0,  0.8,  -1.5,   0.2),
    "constant": (1.0,   3.0,    2.0,    2.0,   1.5,   2.5,  2.0,   2.0,   1.0),
    "step":     (2.5,   1.0,    1.5,    2.5,   3.0,   2.0,  0.5,   1.0,   0.5),
    "smooth":   (3.0,  -3.0,    3.0,    2.5,  -2.5,   2.0, -3.0,   2.0,  -3.5),
    "coarse":   (-1.5, -4.0,    0.0,   -2.0,  -4.0,  -1.0, -4.0,   5.0,  -4.0),
    "fine":     (-4.0, -4.0,   -4.0,   -4.0,  -4.0,  -4.0, -4.0,  -4.0,   6.0),
    "erratic":  (-1.0, -2.5,   -1.0,   -1.0,  -2.0,  -1.0, -2.0,  -3.0,   3.0),
}  # fmt: skip
RISES = 6.0
"""A rise from 0 while all else is still marks a dimmer, in whatever order a console steps through fixtures."""
LEAST_CHANGES, QUIET_FRAMES = 6, 2
# A dimmer's coarse byte behaves as any other.
_SCORES = np.array([(*SUITS[trait], SUITS[trait][ROLES.index("coarse")]) for trait in TRAITS])


@dataclass(frozen=True, eq=False)
class Traits:
    """For each slot of a universe: its trait, and whether it rose alone."""

    trait: NDArray[np.int64]
    """(512,) by its place in TRAITS."""
    alone: NDArray[np.bool_]

    def scores(self) -> NDArray[np.float64]:
        """How well each slot suits each role, (512, roles)."""
        found = _SCORES[self.trait]
        dimmer = np.isin(ROLES, ("dimmer", "dimmer coarse"))
        return np.asarray(found + np.where(self.alone[:, None], np.where(dimmer, RISES, -RISES), 0.0))


def traits_of(levels: Levels, still: NDArray[np.bool_]) -> Traits:
    """The traits of the slots of a universe from its levels frame by frame, (m, 512); `still`: (m,) whether nothing
    else of the whole rig moves about a frame, but for what goes out."""
    values = levels.astype(np.int32)
    steps = values[1:] - values[:-1]
    changes = (steps != 0).sum(axis=0)
    moved = np.abs(steps).sum(axis=0) / np.maximum(changes, 1)
    span = np.ptp(values, axis=0)
    trait = np.full(levels.shape[1], TRAITS.index("step"))
    trait[span == 0] = TRAITS.index("constant")
    trait[~levels.any(axis=0)] = TRAITS.index("zero")
    often = changes >= LEAST_CHANGES
    trait[often & (moved <= np.maximum(span / 6, 3))] = TRAITS.index("smooth")
    trait[often & (moved > np.maximum(span / 6, 3)) & (changes >= 2 * LEAST_CHANGES)] = TRAITS.index("erratic")
    pairs = _pairs(values, changes)
    trait[:-1][pairs] = TRAITS.index("coarse")
    trait[1:][pairs] = TRAITS.index("fine")
    rises = (values[:-1] == 0) & (values[1:] > 0) & still[1:, None]
    return Traits(trait, rises.any(axis=0))


def _pairs(values: NDArray[np.int32], changes: NDArray[np.int64]) -> NDArray[np.bool_]:
    """(511,) where a slot and the next are coarse and fine of one value: together they move evenly, alone in jumps."""
    coarse, joined = 256 * values[:, :-1], 256 * values[:, :-1] + values[:, 1:]
    uneven = [np.abs(np.diff(one, n=2, axis=0)).sum(axis=0) for one in (joined, coarse)]
    moves = (changes[1:] >= LEAST_CHANGES) & (changes[:-1] >= 2)
    return np.asarray(moves & (2 * uneven[0] < uneven[1]))


def still_frames(universes: Mapping[int, Levels]) -> NDArray[np.bool_]:
    """(m,) the frames at which just one slot of all comes up from 0, with nothing but what goes out beside it, and all
    was still for some frames before and after."""
    moved, rose = None, None
    for levels in universes.values():
        values = levels.astype(np.int16)
        steps = values[1:] - values[:-1]
        out = (values[1:] == 0) & (steps < 0)
        up = (values[:-1] == 0) & (steps > 0)
        counts = ((steps != 0) & ~out & ~up).sum(axis=1), up.sum(axis=1), (steps != 0).sum(axis=1)
        moved = counts[0] if moved is None else moved + counts[0]
        rose = counts[1:] if rose is None else (rose[0] + counts[1], rose[1] + counts[2])
    if moved is None or rose is None:
        return np.zeros(0, dtype=bool)
    busy = np.concatenate(([0] * QUIET_FRAMES, rose[1], [0] * QUIET_FRAMES))
    around = sum(busy[i : i + len(moved)] for i in range(2 * QUIET_FRAMES + 1)) - rose[1]
    alone = (rose[0] >= 1) & (rose[0] <= 2) & (moved == 0) & (around == 0)
    return np.concatenate(([False], alone))
