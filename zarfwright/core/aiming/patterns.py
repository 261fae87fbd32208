"""Where each of a selection is to look: at one place, alike, along a line, on a ring, crossed, or fanned by angles."""

from __future__ import annotations

from typing import Literal

import numpy as np

from zarfwright.core.errors import JobError
from zarfwright.core.space import Floats, unit

Pattern = Literal["point", "parallel", "line", "ring", "crossed"]
FAR_M = 1e6
"""So far away lies what is looked at in parallel: beams from 100 m apart differ by a ten-thousandth of a radian."""


def targets(pattern: Pattern, places: Floats, point: Floats, to: Floats | None = None, radius_m: float = 1.0) -> Floats:
    """What n fixtures at `places` (n, 3) look at, (n, 3), metres in the show's frame.

    point: all at `point`. parallel: the way from the middle of the fixtures to the point, for each. line: spread from
    `point` to `to` (3,), in the order in which they hang along it, so that no two beams cross. crossed: the same the
    other way round. ring: on a level ring of `radius_m` about the point, each where it hangs round it.
    Raises JobError where a line has no end.
    """
    n = len(places)
    if pattern == "point":
        return np.tile(point, (n, 1))
    if pattern == "parallel":
        return np.asarray(places + unit(point - places.mean(axis=0)) * FAR_M)
    if pattern == "ring":
        return _on_ring(places, point, radius_m)
    if to is None or float(np.linalg.norm(to - point)) < 1e-6:
        raise JobError("That line has no length: click where it begins, then where it ends.", "to")
    rank = _ranks(places @ unit(to - point))
    share = rank / (n - 1) if n > 1 else np.full(1, 0.5)
    if pattern == "crossed":
        share = 1.0 - share
    return np.asarray(point + share[:, None] * (to - point))


def _ranks(values: Floats) -> Floats:
    """(n,) the place of each value in the order of all; the first of two equal ones comes first."""
    ranks = np.empty(len(values))
    ranks[np.argsort(values, kind="stable")] = np.arange(len(values))
    return ranks


def _on_ring(places: Floats, middle: Floats, radius_m: float) -> Floats:
    """Places on a level ring, n steps apart, turned so that each is as near as may be to below whoever looks there."""
    n = len(places)
    away = places[:, :2] - middle[:2]
    angles = np.arctan2(away[:, 1], away[:, 0])
    steps = _ranks(angles) * 2 * np.pi / n
    # The mean of what is left over, as a direction.
    start = float(np.angle(np.exp(1j * (angles - steps)).sum()))
    around = start + steps
    ring = np.stack([np.cos(around), np.sin(around), np.zeros(n)], axis=1)
    return np.asarray(middle + radius_m * ring)


def from_the_middle(count: int, middle: float, ends: float) -> list[float]:
    """Values that go from the middle of n things to both of their ends alike."""
    if count == 1:
        return [middle]
    share = np.abs(np.linspace(-1.0, 1.0, count))
    if count % 2 == 0:
        # The two in the middle have the middle's value.
        share = (share - share.min()) / (1.0 - share.min())
    return [float(value) for value in middle + share * (ends - middle)]


def mirrored_pairs(places: Floats, within_m: float = 0.3) -> list[tuple[int, int]]:
    """Pairs (one on stage left, its partner on stage right) among places (n, 3): each the nearest to the mirror image
    of the other, across the centre line and no further off than `within_m`."""
    pairs: list[tuple[int, int]] = []
    image = places * np.array([-1.0, 1.0, 1.0])
    taken: set[int] = set()
    for i in np.argsort(places[:, 0]).tolist()[::-1]:
        if places[i, 0] <= 1e-6:
            break
        away = np.linalg.norm(places - image[i], axis=1)
        away[list(taken)] = np.inf
        away[places[:, 0] >= -1e-6] = np.inf
        j = int(away.argmin())
        if away[j] <= within_m:
            pairs.append((i, j))
            taken.add(j)
    return pairs
