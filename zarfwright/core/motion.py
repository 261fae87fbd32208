"""Things that take time: heads that travel with limited speed and acceleration, and wheels that turn (numbers.md, Aim).

Speeds come from GDTF's RealFade (seconds over the whole range) and RealAcceleration (seconds from rest to full speed).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.features import INDEX, from_physical
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.picture import COLUMN, SPINS
from zarfwright.core.space import Floats
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.model import FixtureType

TRAVELS = {"pan": "Pan", "tilt": "Tilt", "zoom": "Zoom"}
"""The features that travel, and the attribute that says how fast."""
COLUMNS = np.array([INDEX[name] for name in TRAVELS])
SPEED = INDEX["head speed"]
SLOWEST = 0.02
"""A head that is told to take its time still gets there."""
STEP_S = 1 / 88
LONGEST_S = 0.5
SPIN_STEP = 2 * np.pi / 4096
"""Spins are multiples of this (rad/s), so that all of them come round whole when the stage's clock wraps."""
CLOCK_S = 4096.0


def limits_of(fixture_type: FixtureType, mode_name: str) -> tuple[list[float], list[float]]:
    """Speed and acceleration of each feature in TRAVELS, in its unit a second; infinite where nothing is said."""
    mode = fixture_type.mode(mode_name)
    speeds, accelerations = [], []
    for name, attribute in TRAVELS.items():
        channel = mode.channel(attribute)
        function = next((f for f in channel.functions if f.attribute == attribute), None) if channel else None
        if function is None or function.real_fade_s <= 0:
            speeds.append(np.inf)
            accelerations.append(np.inf)
            continue
        span = abs(function.physical[1] - function.physical[0]) * from_physical(INDEX[name])
        speeds.append(span / function.real_fade_s)
        quick = function.real_acceleration_s
        accelerations.append(speeds[-1] / quick if quick > 0 else np.inf)
    return speeds, accelerations


class Travel:
    """Where n heads are on their way to where they are told to be: pan, tilt and zoom, each by itself.

    The way is made in steps of STEP_S, whenever frames come: however uneven they are, it is the same one. What is shown
    lies between the last two steps.
    """

    def __init__(self, rows: Sequence[PatchRow]) -> None:
        speeds: list[list[float]] = []
        accelerations: list[list[float]] = []
        known: dict[tuple[int, str], tuple[list[float], list[float]]] = {}
        for row in rows:
            key = (id(row.type), row.mode)
            if key not in known:
                known[key] = limits_of(row.type, row.mode)
            for _ in chains_of(row.type, row.mode):
                speeds.append(known[key][0])
                accelerations.append(known[key][1])
        # All of this is (features, n): what travels lies together.
        self.speed = np.ascontiguousarray(np.array(speeds, dtype=float).reshape(-1, len(TRAVELS)).T)
        self.acceleration = np.ascontiguousarray(np.array(accelerations, dtype=float).reshape(-1, len(TRAVELS)).T)
        self.at = np.full(self.speed.shape, np.nan)
        self.last = self.at.copy()
        self.owed_s = 0.0
        self.velocity = np.zeros(self.speed.shape)
        self.at_once = np.isinf(self.speed)
        self._gain = self.acceleration * STEP_S
        self._free = np.isinf(self._gain)
        # What a whole step can be braked by, and the speed below which one can land; free heads have neither limit.
        self._brakes = np.where(self._free, 0.0, 2 / np.maximum(self._gain * STEP_S, 1e-12))
        self._slow = 2 * self._gain

    def continue_from(self, before: Travel, keys: Sequence[str], keys_before: Sequence[str]) -> None:
        """Take over where the heads of an older patch were, by row key."""
        places = {key: row for row, key in enumerate(keys_before)}
        for row, key in enumerate(keys):
            if key in places:
                was = places[key]
                self.at[:, row], self.last[:, row] = before.at[:, was], before.last[:, was]
                self.velocity[:, row] = before.velocity[:, was]
        self.owed_s = before.owed_s

    def step(self, features: Floats, elapsed_s: float) -> tuple[Floats, bool]:
        """The features (n, COUNT) with heads where they have got to after `elapsed_s`, and whether any still travels.

        A head that was nowhere yet is at once where it should be.
        """
        target = features.T[COLUMNS]
        new = np.isnan(self.at)
        self.at[new] = self.last[new] = target[new]
        if np.array_equal(self.at, target) and np.array_equal(self.last, target):
            self.velocity[:] = 0.0
            self.owed_s = 0.0
            return features, False
        speed = self.speed * np.clip(features[:, SPEED], SLOWEST, 1.0)
        self.owed_s = min(self.owed_s + max(elapsed_s, 0.0), LONGEST_S)
        while self.owed_s >= STEP_S - 1e-9:
            self.last = self.at
            self._advance(target, speed)
            self.owed_s = max(self.owed_s - STEP_S, 0.0)
        shown = features.copy(order="K")
        between = self.last + (self.at - self.last) * (self.owed_s / STEP_S)
        between = np.where(self.at_once, target, between)
        shown.T[COLUMNS] = between
        return shown, not np.array_equal(between, target)

    def _advance(self, target: Floats, speed: Floats) -> None:
        way, gain = target - self.at, self._gain
        far = np.abs(way)
        with np.errstate(invalid="ignore"):
            # The fastest from which whole steps still stop in time: a trapezoid.
            brake = gain * (np.sqrt(0.25 + self._brakes * far) - 0.5)
            brake[self._free] = np.inf
            fastest = np.minimum(speed, brake)
            np.minimum(fastest, far / STEP_S, out=fastest)
            wanted = np.copysign(fastest, way)
            velocity = np.minimum(np.maximum(wanted, self.velocity - gain), self.velocity + gain)
        pace = np.abs(velocity)
        arrived = far <= np.maximum(pace * STEP_S, 1e-6) + 1e-9
        # One that is sent back in passing goes on past its place, and comes back.
        landed = arrived & (pace <= self._slow) & (velocity * way >= 0)
        self.at = np.where(landed, target, self.at + velocity * STEP_S)
        self.velocity = np.where(landed, 0.0, velocity)


class Spinning:
    """Wheels that turn go on turning by themselves: the frame says angle = turn + spin . clock, without a jump."""

    def __init__(self, count: int) -> None:
        self.spin = np.zeros((count, len(SPINS)))
        self.offset = np.zeros((count, len(SPINS)))

    def apply(self, frame: NDArray[np.float32], clock_s: float) -> None:
        """Turn a frame's spins into steps of SPIN_STEP and its turns into what the stage's clock needs, in place."""
        spins = [COLUMN[spin] for _, spin in SPINS]
        if not (frame[:, spins].any() or self.spin.any()):
            return
        for k, (turn, spin) in enumerate(SPINS):
            now = np.rint(frame[:, COLUMN[spin]].astype(float) / SPIN_STEP) * SPIN_STEP
            was = self.spin[:, k]
            self.offset[:, k] = np.where(now == 0, 0.0, self.offset[:, k] + (was - now) * (clock_s % CLOCK_S))
            self.spin[:, k] = now
            frame[:, COLUMN[spin]] = now
            whole = frame[:, COLUMN[turn]].astype(float) + self.offset[:, k]
            frame[:, COLUMN[turn]] = np.where(now == 0, whole, (whole + np.pi) % (2 * np.pi) - np.pi)
