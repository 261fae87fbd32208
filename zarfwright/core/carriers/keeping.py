"""Heads that keep looking at their place while they, or it, are carried."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.aiming.solve import TURN, followed, solutions
from zarfwright.core.carriers.plan import Plan
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.space import Floats, inverse, multiply, rotate
from zarfwright.core.types.chain import Chain, chains_of


class Keeping:
    """The keepers of a plan, type by type. `rows` are the fixtures by id; who has no type there is left out."""

    def __init__(self, plan: Plan, rows: Mapping[str, PatchRow]) -> None:
        keepers = [one for one in plan.keepers if one.fixture in rows]
        self.fixtures = [one.fixture for one in keepers]
        self._group = np.array([one.group for one in keepers], dtype=np.int64)
        self._of_place = np.array([one.place_group for one in keepers], dtype=np.int64)
        self._at = np.array([one.mount.position for one in keepers], dtype=float).reshape(-1, 3)
        self._turn = np.array([one.mount.rotation for one in keepers], dtype=float).reshape(-1, 4)
        self._place = np.array([one.place for one in keepers], dtype=float).reshape(-1, 3)
        chains: dict[Chain, list[int]] = {}
        for i, one in enumerate(keepers):
            row = rows[one.fixture]
            chains.setdefault(chains_of(row.type, row.mode)[0], []).append(i)
        self._chains = [(chain, np.array(places)) for chain, places in chains.items()]

    def __len__(self) -> int:
        return len(self.fixtures)

    def angles(self, poses: Floats, now: Floats) -> Floats:
        """Pan and tilt in radians (k, 2) by which each looks at its place, the nearest to where it is (k, 2); as near
        as it gets where that is out of reach."""
        at, turn = _along(poses, self._group, self._at, self._turn)
        place, _ = _along(poses, self._of_place, self._place, self._turn)
        local = rotate(inverse(turn), place - at)
        found = np.array(now, dtype=float)
        for chain, rows in self._chains:
            pan, tilt, there = followed(chain, local[rows], now[rows])
            found[rows, 0], found[rows, 1] = pan, tilt
            if not there.all():
                lost = rows[~there]
                pans, tilts = solutions(chain, local[lost], now[lost, 0])
                found[lost, 0], found[lost, 1] = _nearest(chain, pans, tilts, now[lost])
        return found


def _along(poses: Floats, group: NDArray[np.int64], at: Floats, turn: Floats) -> tuple[Floats, Floats]:
    """Places (k, 3) and turns (k, 4) brought along with their groups; -1: with none."""
    if not len(poses):
        return at, turn
    rows = poses[np.maximum(group, 0)]
    rides = group >= 0
    moved = rows[:, 7:8] * rotate(rows[:, 3:7], at) + rows[:, :3]
    return np.where(rides[:, None], moved, at), np.where(rides[:, None], multiply(rows[:, 3:7], turn), turn)


def _nearest(chain: Chain, pans: Floats, tilts: Floats, now: Floats) -> tuple[Floats, Floats]:
    """Of two ways (k, 2) the one in range that is nearest, whole turns counted."""
    (p0, p1), (t0, t1) = chain.pan_range, chain.tilt_range
    # The turn of the pan that is nearest to where the head is, then within its range.
    pan = pans + np.rint((now[:, :1] - pans) / TURN) * TURN
    pan = np.where(pan > p1 + 1e-9, pan - TURN * np.ceil((pan - p1 - 1e-9) / TURN), pan)
    pan = np.where(pan < p0 - 1e-9, pan + TURN * np.ceil((p0 - 1e-9 - pan) / TURN), pan)
    reaches = (pan <= p1 + 1e-9) & (tilts > t0 - 1e-9) & (tilts < t1 + 1e-9)
    away = np.maximum(np.abs(pan - now[:, :1]), np.abs(tilts - now[:, 1:])) + np.where(reaches, 0.0, 1e3)
    best = away.argmin(axis=1)
    rows = np.arange(len(pan))
    return np.clip(pan[rows, best], p0, p1), np.clip(tilts[rows, best], t0, t1)
