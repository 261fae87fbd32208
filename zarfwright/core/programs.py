"""What lamps do by themselves once told to: heads that turn on and on, wheels that shake and spin, built-in colours.

All of it hangs on the server's clock, so that every browser and every picture is at the same place.
"""

from __future__ import annotations

from copy import copy

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.features import INDEX
from zarfwright.core.picture import BeamTable
from zarfwright.core.space import Floats

SHAKE_RAD = np.radians(9.0)
"""How far a gobo shakes to either side."""
MOVING_RAD = 1e-3
"""A head that is this far from where it is told to be, is moving."""
BUSY = (
    "pan spin", "tilt spin", "gobo shake", "gobo 2 shake", "colour spin", "colour 2 spin", "gobo wheel spin",
    "gobo 2 wheel spin", "macro rate",
)  # fmt: skip
BUSY_COLUMNS = [INDEX[name] for name in BUSY]
DARK = INDEX["dark while moving"]


class Programs:
    """The state of n beams' own movements."""

    def __init__(self, table: BeamTable) -> None:
        n = len(table.peak_cd)
        self.turned = np.zeros((n, 2))
        self.wheels = {
            "colour": table.wheels[0].count,
            "colour 2": table.wheels[1].count,
            "gobo": table.gobo_slots[0],
            "gobo 2": table.gobo_slots[1],
        }
        """How many slots each beam's wheels have, by the start of their features' names."""
        self.macros = table.wheels[2].count

    def part(self, rows: slice) -> Programs:
        """The programs of some beams: the very same ones."""
        made = copy(self)
        made.turned, made.macros = self.turned[rows], self.macros[rows]
        made.wheels = {name: count[rows] for name, count in self.wheels.items()}
        return made

    def step(self, told: Floats, shown: Floats, clock_s: float, elapsed_s: float) -> tuple[Floats, bool]:
        """Features (n, COUNT) as they are at this moment, and whether any of them moves on by itself.

        `told` is where everything is to go, `shown` how far it has got: heads on their way may be dark.
        """
        dark = told[:, DARK] > 0.5
        busy = bool(shown[:, BUSY_COLUMNS].any())
        if not busy and not dark.any() and not self.turned.any():
            return shown, False
        out = shown.copy(order="K")
        self._turn(out, elapsed_s)
        for wheel in ("gobo", "gobo 2"):
            hz = out[:, INDEX[f"{wheel} shake"]]
            out[:, INDEX[f"{wheel} turn"]] += np.where(hz > 0, SHAKE_RAD * np.sin(2 * np.pi * hz * clock_s), 0.0)
        for wheel, count in self.wheels.items():
            self._scroll(out, wheel, count, clock_s)
        rate = out[:, INDEX["macro rate"]]
        steps = np.floor(rate * clock_s).astype(np.int64)
        # Slot 1 of the built-in colours is none: a program goes through the others.
        running = (rate > 0) & (self.macros > 1)
        programme = 2 + np.mod(steps, np.maximum(self.macros - 1, 1))
        out[:, INDEX["macro slot"]] = np.where(running, programme, out[:, INDEX["macro slot"]])
        way = np.abs(told[:, [INDEX["pan"], INDEX["tilt"]]] - shown[:, [INDEX["pan"], INDEX["tilt"]]]).max(axis=1)
        out[dark & (way > MOVING_RAD), INDEX["shutter"]] = 0.0
        return out, busy

    def _turn(self, out: Floats, elapsed_s: float) -> None:
        """Heads without a stop go on from where they are; told to stand, they come back by the shorter way."""
        for k, name in enumerate(("pan", "tilt")):
            speed = out[:, INDEX[f"{name} spin"]]
            self.turned[:, k] = np.where(speed != 0, self.turned[:, k] + speed * elapsed_s, 0.0)
            whole = out[:, INDEX[name]] + self.turned[:, k]
            out[:, INDEX[name]] = np.where(speed != 0, np.mod(whole + np.pi, 2 * np.pi) - np.pi, whole)

    @staticmethod
    def _scroll(out: Floats, wheel: str, count: NDArray[np.int64], clock_s: float) -> None:
        """A wheel that turns by itself: colours pass through the beam one into the next, gobos one after the other."""
        name = f"{wheel} spin" if wheel.startswith("colour") else f"{wheel} wheel spin"
        spin, column = out[:, INDEX[name]], INDEX[f"{wheel} slot"]
        if not spin.any():
            return
        place = np.mod(out[:, column] - 1 + spin * clock_s * count, count)
        if wheel.startswith("gobo"):
            place = np.floor(place)
        out[:, column] = np.where(spin != 0, place + 1, out[:, column])
