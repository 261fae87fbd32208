"""Where drivers bring what they move: from the values of their channels to a pose of each group.

A driver's axes are a frame F at its pivot p. Its channels shift by d along F, turn by Rz Ry Rx about p in F, and grow
by s about p. What several drivers do to one group comes together as shift . turn . size, so that a shift goes along the
axes as they were drawn however far the group has turned; then all of it goes along with the group that it rides on.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.carriers.plan import Plan, axes_of
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.motion import CARRY_COLUMNS
from zarfwright.core.space import Floats, Pose, about, inverse, multiply, rotate

VALUES = len(CARRY_COLUMNS)
"""Columns of what a driver does: shifts in metres, turns in radians, size; one more is how far it has spun."""
SPIN, RETURN = INDEX["spin"], INDEX["return"]
TURN_AXES = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))


class Poser:
    """The drivers of a plan, put together once."""

    def __init__(self, plan: Plan) -> None:
        self.groups = len(plan.groups)
        self._pivot, self._axes = axes_of(plan)
        self._back = inverse(self._axes)
        counts = [len(group.drivers) for group in plan.groups]
        first = np.concatenate(([0], np.cumsum(counts))).astype(np.int64)
        rounds = range(max(counts, default=0))
        self._rounds = [
            (np.array([g for g, n in enumerate(counts) if n > k]),
             np.array([first[g] + k for g, n in enumerate(counts) if n > k]))
            for k in rounds
        ]  # fmt: skip
        depth: list[int] = []
        for group in plan.groups:
            depth.append(depth[group.above] + 1 if group.above >= 0 else 0)
        above = np.array([group.above for group in plan.groups], dtype=np.int64)
        levels = [np.flatnonzero(np.array(depth) == k) for k in range(1, max(depth, default=0) + 1)]
        self._levels: list[tuple[NDArray[np.int64], NDArray[np.int64]]] = [(own, above[own]) for own in levels]

    def poses(self, values: Floats, spun: Floats) -> Floats:
        """Of each group (g, 8): position, rotation (x, y, z, w) and size against where it was drawn, in the show's
        frame. `values` (m, VALUES) and `spun` (m,) radians are those of the drivers, in the plan's order."""
        shift = rotate(self._axes, values[:, :3])
        turn = about(TURN_AXES[2], values[:, 5] + spun)
        turn = multiply(turn, multiply(about(TURN_AXES[1], values[:, 4]), about(TURN_AXES[0], values[:, 3])))
        turn = multiply(self._axes, multiply(turn, self._back))
        turned = self._pivot - rotate(turn, self._pivot)
        size = values[:, 6]
        grown = self._pivot * (1.0 - size)[:, None]
        n = self.groups
        moved, by_turn, q = np.zeros((n, 3)), np.zeros((n, 3)), np.tile([0.0, 0.0, 0.0, 1.0], (n, 1))
        by_size, s = np.zeros((n, 3)), np.ones(n)
        for groups, drivers in self._rounds:
            moved[groups] += shift[drivers]
            by_turn[groups] += rotate(q[groups], turned[drivers])
            q[groups] = multiply(q[groups], turn[drivers])
            by_size[groups] += s[groups, None] * grown[drivers]
            s[groups] *= size[drivers]
        p = moved + by_turn + rotate(q, by_size)
        for own, above in self._levels:
            p[own] = p[above] + s[above, None] * rotate(q[above], p[own])
            q[own] = multiply(q[above], q[own])
            s[own] *= s[above]
        return np.concatenate([p, q, s[:, None]], axis=1)


def together(a: Floats, b: Floats) -> Floats:
    """The poses (..., 8) that do `b` first, then `a`."""
    p = a[..., :3] + a[..., 7:8] * rotate(a[..., 3:7], b[..., :3])
    q = multiply(a[..., 3:7], np.broadcast_to(b[..., 3:7], (*p.shape[:-1], 4)))
    return np.concatenate([p, q, np.broadcast_to(a[..., 7:8] * b[..., 7:8], (*p.shape[:-1], 1))], axis=-1)


def back(a: Floats) -> Floats:
    """The poses (..., 8) that undo these."""
    q = inverse(a[..., 3:7])
    return np.concatenate([-rotate(q, a[..., :3]) / a[..., 7:8], q, 1 / a[..., 7:8]], axis=-1)


def at_rest(groups: int) -> Floats:
    """The poses (g, 8) of groups that are where they were drawn."""
    return np.tile([0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, 1.0], (groups, 1))


def pose_of(row: Floats) -> Pose:
    """One row of them."""
    x, y, z, qx, qy, qz, qw, size = row.tolist()
    return Pose((x, y, z), (qx, qy, qz, qw), size)
