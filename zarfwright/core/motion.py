"""Things that take time: heads that travel with limited speed and acceleration, and wheels that turn (numbers.md, Aim).

Speeds come from GDTF's RealFade (seconds over the whole range) and RealAcceleration (seconds from rest to full speed).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from copy import copy

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.features import INDEX, from_physical
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.picture import COLUMN, SPINS
from zarfwright.core.space import Floats
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.model import ChannelFunction, FixtureType

TRAVELS = {"pan": "Pan", "tilt": "Tilt", "zoom": "Zoom"}
"""The features that travel, and the attribute that says how fast."""
COLUMNS = np.array([INDEX[name] for name in TRAVELS])
CARRIES = {
    "shift x": "XYZ_X", "shift y": "XYZ_Y", "shift z": "XYZ_Z", "turn x": "Rot_X", "turn y": "Rot_Y", "turn z": "Rot_Z",
    "size": "Scale_XYZ",
}  # fmt: skip
"""The same of drivers, which move other things (core/carriers)."""
CARRY_COLUMNS = np.array([INDEX[name] for name in CARRIES])
SPEED = INDEX["head speed"]
SLOWEST = 0.02
"""A head that is told to take its time still gets there."""
STEP_S = 1 / 88
LONGEST_S = 0.5
SPIN_STEP = 2 * np.pi / 4096
"""Spins are multiples of this (rad/s), so that all of them come round whole when the stage's clock wraps."""
CLOCK_S = 4096.0


def _span(function: ChannelFunction) -> float:
    return abs(function.physical[1] - function.physical[0])


def limits_of(
    fixture_type: FixtureType, mode_name: str, travels: Mapping[str, str] = TRAVELS
) -> tuple[list[float], list[float]]:
    """Speed and acceleration of each feature in `travels`, in its unit a second; infinite where nothing is said."""
    mode = fixture_type.mode(mode_name)
    speeds, accelerations = [], []
    for name, attribute in travels.items():
        channel = mode.channel(attribute)
        moving = [f for f in channel.functions if f.attribute == attribute and f.real_fade_s > 0] if channel else []
        # Of a driver whose home is at one end, one of its two functions goes nowhere.
        function = max(moving, key=_span) if travels is CARRIES and moving else next(iter(moving), None)
        if function is None:
            speeds.append(np.inf)
            accelerations.append(np.inf)
            continue
        speeds.append(_span(function) * from_physical(INDEX[name]) / function.real_fade_s)
        quick = function.real_acceleration_s
        accelerations.append(speeds[-1] / quick if quick > 0 else np.inf)
    return speeds, accelerations


def limits_of_rows(rows: Sequence[PatchRow], travels: Mapping[str, str] = TRAVELS) -> tuple[Floats, Floats]:
    """Speed and acceleration (features, n) of what travels, for the beams of fixtures."""
    speeds: list[list[float]] = []
    accelerations: list[list[float]] = []
    known: dict[tuple[int, str], tuple[list[float], list[float]]] = {}
    for row in rows:
        key = (id(row.type), row.mode)
        if key not in known:
            known[key] = limits_of(row.type, row.mode, travels)
        for _ in chains_of(row.type, row.mode):
            speeds.append(known[key][0])
            accelerations.append(known[key][1])
    # Feature by feature: what travels lies together.
    shape = (-1, len(travels))
    speed, acceleration = (np.array(one, dtype=float).reshape(shape).T for one in (speeds, accelerations))
    return np.ascontiguousarray(speed), np.ascontiguousarray(acceleration)


class Travel:
    """Where n heads are on their way to where they are told to be: pan, tilt and zoom, each by itself; or what drivers
    move, where `travels` is CARRIES.

    The way is made in steps of STEP_S, whenever frames come: however uneven they are, it is the same one. What is shown
    lies between the last two steps.
    """

    def __init__(self, rows: Sequence[PatchRow], travels: Mapping[str, str] = TRAVELS) -> None:
        # All of this is (features, n).
        self.columns = COLUMNS if travels is TRAVELS else CARRY_COLUMNS
        self.speed, acceleration = limits_of_rows(rows, travels)
        self.acceleration = acceleration
        self.at = np.full(self.speed.shape, np.nan)
        self.last = self.at.copy()
        self.velocity = np.zeros(self.speed.shape)
        self.owed_s = np.zeros(1)
        """How much of a step is still to be made; one for all parts of a rig."""
        self.at_once = np.isinf(self.speed)
        self._gain = acceleration * STEP_S
        # What a whole step can be braked by, and the speed below which one can land; free heads have neither limit.
        free = np.isinf(self._gain)
        self._brake_gain = np.where(free, 0.0, self._gain)
        self._brakes = np.where(free, 0.0, 2 / np.maximum(self._gain * STEP_S, 1e-12))
        self._brake_least = np.where(free, np.inf, 0.0)
        self._slow = 2 * self._gain

    def part(self, rows: slice) -> Travel:
        """Some of the heads: the very same ones, wherever they are moved."""
        made = copy(self)
        for name in ("speed", "at", "last", "velocity", "at_once", "_gain", "_brake_gain", "_brakes", "_brake_least",
                     "_slow"):  # fmt: skip
            setattr(made, name, getattr(self, name)[:, rows])
        return made

    def continue_from(self, before: Travel, keys: Sequence[str], keys_before: Sequence[str]) -> None:
        """Take over where the heads of an older patch were, by row key."""
        places = {key: row for row, key in enumerate(keys_before)}
        kept = [(row, places[key]) for row, key in enumerate(keys) if key in places]
        if kept:
            here, there = (list(rows) for rows in zip(*kept, strict=True))
            for name in ("at", "last", "velocity"):
                getattr(self, name)[:, here] = getattr(before, name)[:, there]
        self.owed_s[:] = before.owed_s

    def due(self, elapsed_s: float) -> int:
        """How many steps are to be made after `elapsed_s`, for all parts of a rig at once."""
        owed = min(float(self.owed_s[0]) + max(elapsed_s, 0.0), LONGEST_S)
        steps = int((owed + 1e-9) / STEP_S)
        self.owed_s[0] = max(owed - steps * STEP_S, 0.0)
        return steps

    def put(self, features: Floats, rows: NDArray[np.bool_]) -> None:
        """Some heads are where these features (n, COUNT) have them: whoever tells that has travelled for them."""
        target = features.T[self.columns]
        np.copyto(self.at, target, where=rows)
        np.copyto(self.last, target, where=rows)
        np.copyto(self.velocity, 0.0, where=rows)

    def step(self, features: Floats, elapsed_s: float) -> tuple[Floats, bool]:
        """The features (n, COUNT) with heads where they have got to after `elapsed_s`, and whether any still travels.

        A head that was nowhere yet is at once where it should be.
        """
        return self.make(features, self.due(elapsed_s))

    def make(self, features: Floats, steps: int) -> tuple[Floats, bool]:
        """As `step`, with the steps that are due."""
        target = features.T[self.columns]
        if np.isnan(self.at).any():
            new = np.isnan(self.at)
            self.at[new] = self.last[new] = target[new]
        if np.array_equal(self.at, target) and np.array_equal(self.last, target):
            self.velocity[:] = 0.0
            return features, False
        speed = self.speed * np.minimum(np.maximum(features[:, SPEED], SLOWEST), 1.0)
        for _ in range(steps):
            self.last[:] = self.at
            self._advance(target, speed)
        shown = features.copy(order="K")
        between = self.last + (self.at - self.last) * (self.owed_s[0] / STEP_S)
        np.copyto(between, target, where=self.at_once)
        shown.T[self.columns] = between
        return shown, not np.array_equal(between, target)

    def _advance(self, target: Floats, speed: Floats) -> None:
        way, gain, velocity = target - self.at, self._gain, self.velocity
        far = np.abs(way)
        # The fastest from which whole steps still stop in time: a trapezoid.
        fastest = self._brakes * far
        fastest += 0.25
        np.sqrt(fastest, out=fastest)
        fastest -= 0.5
        fastest *= self._brake_gain
        np.maximum(fastest, self._brake_least, out=fastest)
        np.minimum(fastest, speed, out=fastest)
        np.minimum(fastest, far * (1 / STEP_S), out=fastest)
        wanted = np.copysign(fastest, way, out=fastest)
        lowest, highest = velocity - gain, velocity + gain
        np.maximum(wanted, lowest, out=velocity)
        np.minimum(velocity, highest, out=velocity)
        pace = np.abs(velocity)
        landed = pace <= self._slow
        pace *= STEP_S
        landed &= far <= np.maximum(pace, 1e-6) + 1e-9
        # One that is sent back in passing goes on past its place, and comes back.
        landed &= velocity * way >= 0
        self.at += velocity * STEP_S
        np.copyto(self.at, target, where=landed)
        np.copyto(velocity, 0.0, where=landed)


class Spinning:
    """Wheels that turn go on turning by themselves: the frame says angle = turn + spin . clock, without a jump."""

    def __init__(self, count: int) -> None:
        self.spin = np.zeros((len(SPINS), count))
        self.offset = np.zeros((len(SPINS), count))

    def part(self, rows: slice) -> Spinning:
        """The wheels of some beams: the very same ones."""
        made = copy(self)
        made.spin, made.offset = self.spin[:, rows], self.offset[:, rows]
        return made

    def apply(self, frame: NDArray[np.float32], clock_s: float) -> None:
        """Turn a frame's spins into steps of SPIN_STEP and its turns into what the stage's clock needs, in place."""
        column, whole = frame.T, 2 * np.pi
        for k, (turn, spin) in enumerate(SPINS):
            was, offset = self.spin[k], self.offset[k]
            told = column[COLUMN[spin]]
            if not (told.any() or was.any()):
                continue
            now = np.rint(told.astype(float) / SPIN_STEP) * SPIN_STEP
            still = now == 0
            offset += (was - now) * (clock_s % CLOCK_S)
            np.copyto(offset, 0.0, where=still)
            was[:] = now
            column[COLUMN[spin]] = now
            angle = column[COLUMN[turn]].astype(float) + offset
            within = angle - np.floor((angle + np.pi) / whole) * whole
            column[COLUMN[turn]] = np.where(still, angle, within)
