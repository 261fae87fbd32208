"""What a running order shows at any time: a pure function of the order and the time, however one came there.

A step begins with what is seen then, and goes from there to its look. What a look leaves alone stays as the looks
before it have put it. Levels fade evenly in level, colours by their emitters and flags, wheels step when the step's
beam or colour begins; heads and zooms take the time that real ones take, by `travel.py`.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.dmx.features import COUNT, INDEX
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.drive import value_rows
from zarfwright.core.looks.said import Said
from zarfwright.core.looks.sorts import LIT, SORT_OF_COLUMN, SORTS, STEPPING, Sort
from zarfwright.core.motion import CARRIES, CARRY_COLUMNS, COLUMNS, limits_of_rows
from zarfwright.core.playback.order import Step, starts_of, step_at
from zarfwright.core.playback.travel import least_time, share_of_way
from zarfwright.core.space import Floats, single

KEPT = 10
"""States that are kept unpacked: of a rig of 3,000 fixtures each takes a megabyte."""
TRAVELLING = np.concatenate([COLUMNS, CARRY_COLUMNS])
"""What takes the time that real things take: heads, and what drivers move."""
BRIGHT = np.array([INDEX[name] for name in ("dimmer", "master dimmer", "shutter")])
DIMMER = INDEX["dimmer"]
_SORT = {sort: np.flatnonzero((i == SORT_OF_COLUMN) & ~np.isin(np.arange(COUNT), TRAVELLING))
         for i, sort in enumerate(SORTS)}  # fmt: skip
TRAVELS_AS: tuple[Sort, ...] = tuple(SORTS[SORT_OF_COLUMN[column]] for column in TRAVELLING)
"""The sort of each of the features that travel: pan, tilt, zoom, and those of drivers."""


FURTHEST = np.array([6 * np.pi, 6 * np.pi, 180.0, *[100.0] * 3, *[6 * np.pi] * 3, 16.0])
"""No head turns further, in radians, no zoom opens further, in degrees, and no carrier goes further, in metres."""


@dataclass(frozen=True, eq=False)
class Limits:
    """How fast things are: speed and acceleration (k, n) of TRAVELLING; infinite where nothing is said."""

    speed: Floats
    acceleration: Floats


def limits_of(rows: Sequence[PatchRow]) -> Limits:
    """How fast the heads and the drivers of a rig are."""
    heads, carried = limits_of_rows(rows), limits_of_rows(rows, CARRIES)
    return Limits(np.concatenate([heads[0], carried[0]]), np.concatenate([heads[1], carried[1]]))


Air = tuple[float | None, float | None, float | None]
"""Haze (1/m), house light (lx), and the eye's EV100; None: as the show has it."""


def share_at(elapsed: float, delay: float, time: float) -> float:
    """How much of a fade is made, 0 to 1."""
    if elapsed < delay:
        return 0.0
    return 1.0 if elapsed >= delay + time else (elapsed - delay) / time


def brightness_of(rows: Floats) -> Floats:
    """How bright rows (n, COUNT) are as they are told, (n,)."""
    return np.asarray(np.prod(np.nan_to_num(rows[:, BRIGHT], nan=1.0), axis=1))


@dataclass(frozen=True, eq=False)
class Leg:
    """One step as it goes: from what was seen when it began, to where it goes (n, COUNT)."""

    step: Step
    begins: Floats
    goal: Floats
    starts: Floats
    """(k, n) when TRAVELLING of each sets off, seconds from the step's beginning."""
    takes: Floats
    """(k, n) how long they take."""
    way: Floats
    acceleration: Floats

    @cached_property
    def changing(self) -> NDArray[np.int64]:
        """The columns in which anything changes at all."""
        differs = (self.begins != self.goal) & ~(np.isnan(self.begins) & np.isnan(self.goal))
        return np.flatnonzero(differs.any(axis=0))

    @cached_property
    def over_s(self) -> float:
        """When all of it has come, real heads and all, seconds from its beginning."""
        late = float(np.max(self.starts + self.takes, initial=0.0, where=self.way != 0.0))
        return max(self.step.comes_s, late)

    @cached_property
    def _fading(self) -> dict[Sort, list[int]]:
        """The columns of each sort that fade or step."""
        return {sort: np.intersect1d(columns, self.changing).tolist() for sort, columns in _SORT.items()}

    def at(self, elapsed: float) -> Floats:
        """What is shown, (n, COUNT), so long after it began. Not to be changed where it is all over."""
        if elapsed >= self.over_s:
            return self.goal
        shown = self.begins.copy(order="K")
        for sort in SORTS:
            self._fade(shown, sort, elapsed)
        self._travel(shown, elapsed)
        return shown

    def _fade(self, shown: Floats, sort: Sort, elapsed: float) -> None:
        for column in self._fading[sort]:
            begins, goal = self.begins[:, column], self.goal[:, column]
            up = share_at(elapsed, *self.step.time_of(sort))
            if STEPPING[column]:
                if elapsed >= self.step.time_of(sort)[0]:
                    shown[:, column] = goal
                continue
            share: float | Floats = up
            if sort == "intensity":
                down = share_at(elapsed, *self.step.time_of(sort, falling=True))
                share = up if up == down else single(np.where(goal >= begins, up, down))
            shown[:, column] = begins + (goal - begins) * share

    def _travel(self, shown: Floats, elapsed: float) -> None:
        for k, column in enumerate(TRAVELLING.tolist()):
            if column not in self.changing:
                continue
            share = share_of_way(elapsed - self.starts[k], self.takes[k], self.way[k], self.acceleration[k])
            begins, goal = self.begins[:, column], self.goal[:, column]
            shown[:, column] = np.where(self.way[k] == 0.0, goal, begins + (goal - begins) * share)


def _by_columns(rows: Floats) -> Floats:
    """Rows as they are faded: feature by feature, each in one piece of memory."""
    return np.asfortranarray(single(rows))


class Score:
    """A running order over a rig. `says(look)` gives what a look says; it is asked for when that is needed."""

    def __init__(
        self, steps: Sequence[Step], says: Callable[[str], Said], rig: CompiledRig, home: Floats, limits: Limits
    ) -> None:
        self.steps = tuple(steps)
        self.starts = starts_of(self.steps)
        self._says, self.rig, self._home, self._limits = says, rig, home, limits
        self._told: OrderedDict[int, Floats] = OrderedDict()
        self._legs: OrderedDict[int, Leg] = OrderedDict()
        self._ahead = [np.isin(np.array(rig.fixtures), [*step.ahead]) if step.ahead else None for step in self.steps]
        furthest = np.broadcast_to(FURTHEST[:, None], limits.speed.shape)
        self._longest = float(np.max(least_time(furthest, limits.speed, limits.acceleration), initial=0.0))

    @property
    def total_s(self) -> float:
        """How long all of it is."""
        return float(self.starts[-1])

    def at(self, t: float) -> tuple[Floats, bool]:
        """What is shown at a time, (n, COUNT), and whether it goes on changing just then. What no look has said by then
        is NaN."""
        if not self.steps:
            return np.full(self._home.shape, np.nan, dtype=np.float32), False
        i = step_at(self.starts, t)
        leg = self.leg(i)
        elapsed = t - float(self.starts[i])
        return leg.at(elapsed), elapsed < leg.over_s

    def told(self, i: int) -> Floats:
        """What the looks up to a step say together, (n, COUNT); NaN where none of them says anything."""
        found = self._told.get(i)
        if found is None:
            own = single(value_rows(self.rig, self._says(self.steps[i].look)))
            found = own
            if i > 0 and np.isnan(own).any():
                below = self._below(i)
                found = np.where(np.isnan(own), below, own)
            self._told[i] = found
            while len(self._told) > KEPT:
                self._told.popitem(last=False)
        else:
            self._told.move_to_end(i)
        return found

    def _below(self, i: int) -> Floats:
        """What is said before a step, gathered backwards until nothing is missing that could be said."""
        gathered: Floats = single(np.full(self._home.shape, np.nan))
        for j in range(i - 1, -1, -1):
            if j in self._told:
                return np.asarray(np.where(np.isnan(gathered), self._told[j], gathered))
            own = single(value_rows(self.rig, self._says(self.steps[j].look)))
            gathered = np.asarray(np.where(np.isnan(gathered), own, gathered))
        return gathered

    def _goal(self, i: int) -> tuple[Floats, NDArray[np.bool_] | None]:
        """Where a step goes, and which rows go on to where the next one has them as soon as they are dark."""
        goal = self.told(i)
        rows = self._ahead[i + 1] if i + 1 < len(self.steps) else None
        if rows is None:
            return goal, None
        after = self.told(i + 1)
        rows = rows & (brightness_of(np.where(np.isnan(goal), self._home, goal)) <= LIT)
        goal = goal.copy(order="K")
        for column in TRAVELLING.tolist():
            goal[rows, column] = np.where(np.isnan(after[rows, column]), goal[rows, column], after[rows, column])
        return goal, rows

    def leg(self, i: int) -> Leg:
        """A step as it goes."""
        found = self._legs.get(i)
        if found is not None:
            self._legs.move_to_end(i)
            return found
        # From the last step that is surely over before its next begins: what came before that is not seen any more.
        first = i
        while first > 0 and not self._surely_over(first - 1) and first - 1 not in self._legs:
            first -= 1
        for j in range(first, i + 1):
            found = self._legs.get(j) or self._made(j)
            self._legs[j] = found
        while len(self._legs) > KEPT:
            self._legs.popitem(last=False)
        assert found is not None
        return found

    def _surely_over(self, i: int) -> bool:
        step = self.steps[i]
        moves = max(step.time_of(sort)[0] for sort in ("position", "beam"))
        dark = sum(step.time_of("intensity", falling=True)) if self._ahead[i + 1] is not None else 0.0
        return step.length_s >= max(step.comes_s, max(moves, dark) + self._longest)

    def _begins(self, i: int) -> Floats:
        if i == 0:
            return np.full(self._home.shape, np.nan, dtype=np.float32)
        before = self._legs.get(i - 1)
        return before.at(self.steps[i - 1].length_s) if before is not None else self._goal(i - 1)[0]

    def _made(self, i: int) -> Leg:
        step, (goal, ahead) = self.steps[i], self._goal(i)
        begins = self._begins(i)
        # What nobody has said before is at home until somebody does.
        begins = _by_columns(np.where(np.isnan(begins) & ~np.isnan(goal), self._home, begins))
        goal = _by_columns(np.where(np.isnan(goal), begins, goal))
        if i == 0:
            # Heads are set for the first look before it begins.
            begins[:, TRAVELLING] = goal[:, TRAVELLING]
        way = np.nan_to_num((goal - begins)[:, TRAVELLING].T.astype(float))
        shape = way.shape
        starts, planned = np.zeros(shape), np.zeros(shape)
        for k, sort in enumerate(TRAVELS_AS):
            starts[k], planned[k] = step.time_of(sort)
        if ahead is not None and ahead.any():
            dark_at = np.where(brightness_of(begins) > LIT, sum(step.time_of("intensity", falling=True)), 0.0)
            starts = np.where(ahead, dark_at, starts)
            planned = np.where(ahead, 0.0, planned)
        least = least_time(way, self._limits.speed, self._limits.acceleration)
        return Leg(step, begins, goal, starts, np.maximum(planned, least), way, self._limits.acceleration)
