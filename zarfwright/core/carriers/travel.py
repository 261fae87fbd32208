"""How things that are driven get where they are told to be: with limited speed and acceleration, and turning on and on.

What is told is features of the drivers' rows, whoever drives them. A driver that is told to return brings all of it
home, and holds it there.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.carriers.plan import Plan, fixtures_of
from zarfwright.core.carriers.poses import RETURN, SPIN, Poser, at_rest
from zarfwright.core.dmx.features import COUNT
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.motion import CARRIES, CARRY_COLUMNS, LONGEST_S, Travel, limits_of
from zarfwright.core.space import Floats

RETURNS = 0.5
"""From so much of the return on, it is told to come home."""
TURN = 2 * np.pi
HOME_RAD, HOME_RAD_S = 1e-4, 1e-2
"""What is as near to home as this, and as slow, is there."""


class Carrying:
    """What the drivers of a plan have moved so far. `rows` are their fixtures by id, and `home` what each rests at."""

    def __init__(self, plan: Plan, rows: Mapping[str, PatchRow], home: Mapping[str, Floats]) -> None:
        self.plan, self.fixtures = plan, fixtures_of(plan)
        self.poser = Poser(plan)
        own = [rows[key] for key in self.fixtures]
        self._home = np.array([home[key] for key in self.fixtures], dtype=float).reshape(-1, COUNT)
        self._travel = Travel(own, CARRIES)
        limits = [limits_of(row.type, row.mode, {"spin": "Spin"}) for row in own]
        self._fastest = np.array([_spin_limit(row) for row in own])
        # How fast the speed itself may change.
        self._quick = np.array([speed[0] for speed, _ in limits])
        self.spun = np.zeros(len(own))
        self._speed = np.zeros(len(own))
        self.moves = False
        self.poses = at_rest(len(plan.groups))

    def continue_from(self, before: Carrying) -> None:
        """Take over where the drivers of an older plan had got to."""
        places = {key: row for row, key in enumerate(before.fixtures)}
        kept = [(row, places[key]) for row, key in enumerate(self.fixtures) if key in places]
        if kept:
            here, there = (list(rows) for rows in zip(*kept, strict=True))
            self.spun[here], self._speed[here] = before.spun[there], before._speed[there]
        self._travel.continue_from(before._travel, self.fixtures, before.fixtures)

    def step(self, told: Floats, elapsed_s: float, at_once: NDArray[np.bool_] | None = None) -> bool:
        """Go on for `elapsed_s` seconds towards what is told (m, COUNT); what is `at_once` (m,) is there now. Returns
        whether any pose is another than before."""
        returns = told[:, RETURN] > RETURNS
        told = np.where(returns[:, None], self._home, np.asarray(told, dtype=float))
        if at_once is not None and at_once.any():
            self._travel.put(told, at_once)
        shown, travels = self._travel.step(told, elapsed_s)
        turns = self._turn(np.where(returns, 0.0, told[:, SPIN]), returns, min(elapsed_s, LONGEST_S))
        self.moves = travels or turns
        poses = self.poser.poses(shown[:, CARRY_COLUMNS], self.spun)
        if np.array_equal(poses, self.poses):
            return False
        self.poses = poses
        return True

    def _turn(self, told: Floats, returns: NDArray[np.bool_], seconds: float) -> bool:
        """Spin on, or back home where that is told. Whether any of them turns."""
        away = self.spun - np.rint(self.spun / TURN) * TURN
        home = returns & (np.abs(away) < HOME_RAD) & (np.abs(self._speed) < HOME_RAD_S)
        self.spun[home] = self._speed[home] = 0.0
        back = returns & ~home
        if not (np.any(self._speed) or np.any(told) or back.any()):
            return False
        # The fastest from which it still stops at home.
        brakes = np.where(np.isinf(self._quick), np.inf, np.sqrt(2 * np.minimum(self._quick, 1e12) * np.abs(away)))
        fastest = np.minimum(np.minimum(brakes, self._fastest), np.abs(away) / max(seconds, 1e-9))
        wanted = np.where(back, -np.sign(away) * fastest, told)
        gain = self._quick * seconds if seconds > 0 else np.zeros_like(self._quick)
        was = self._speed
        self._speed = np.clip(wanted, was - gain, was + gain)
        self.spun += (was + self._speed) / 2 * seconds if np.isfinite(self._quick).all() else self._speed * seconds
        return bool(np.any(self._speed) or np.any(told != self._speed) or back.any())


def _spin_limit(row: PatchRow) -> float:
    """How fast a driver turns at most, rad/s; none: not at all."""
    channel = row.type.mode(row.mode).channel("Spin")
    ends = [abs(end) for f in channel.functions if f.attribute == "Spin" for end in f.physical] if channel else []
    return float(np.radians(max(ends, default=0.0)))


def settled(plan: Plan, told: Sequence[Floats]) -> Floats:
    """The poses (g, 8) of a plan whose drivers have got where they are told to be, (m, COUNT); none has spun."""
    rows = np.array(told, dtype=float).reshape(-1, COUNT)
    return Poser(plan).poses(rows[:, CARRY_COLUMNS], np.zeros(len(rows))) if len(rows) else at_rest(len(plan.groups))
