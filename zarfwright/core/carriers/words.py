"""What drivers do, in words: where a look has them, and how two looks differ in that."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from zarfwright.core.dmx.features import INDEX
from zarfwright.core.space import Floats

LEAST_M, LEAST_RAD, LEAST = 0.0005, math.radians(0.05), 0.0005
AT_HOME = "at home"


def _along(axis: str) -> Callable[[float], str]:
    def said(metres: float) -> str:
        if axis == "z":
            return f"{'up' if metres > 0 else 'down'} {abs(metres):.2f} m"
        return f"{metres:+.2f} m along {axis}"

    return said


def _about(axis: str) -> Callable[[float], str]:
    def said(radians: float) -> str:
        return f"turned {math.degrees(radians):+.1f}°" + ("" if axis == "z" else f" about {axis}")

    return said


_MOVES: dict[str, tuple[float, float, Callable[[float], str]]] = {
    **{f"shift {axis}": (0.0, LEAST_M, _along(axis)) for axis in "xyz"},
    **{f"turn {axis}": (0.0, LEAST_RAD, _about(axis)) for axis in "xyz"},
    "size": (1.0, LEAST, lambda size: f"{size:.2f} times as large"),
    "spin": (0.0, LEAST_RAD, lambda speed: f"spinning {math.degrees(speed):+.1f}°/s"),
    "return": (0.0, 0.5, lambda _: "brought home"),
}
"""Of each feature of a driver: where it rests, what is too little to speak of, and how it is said."""
COLUMNS = [INDEX[name] for name in _MOVES]


def moved(row: Floats) -> str:
    """What a driver's row of features (COUNT,) does to what it moves, in the show's axes of it."""
    said = [
        say(float(row[INDEX[name]]))
        for name, (rest, least, say) in _MOVES.items()
        if not np.isnan(row[INDEX[name]]) and abs(float(row[INDEX[name]]) - rest) > least
    ]
    return ", ".join(said) or AT_HOME


def moves(rows: Floats) -> bool:
    """Whether anything in rows of features (n, COUNT) is elsewhere than at rest by a driver."""
    rest = np.array([rest for rest, _, _ in _MOVES.values()])
    return bool((np.abs(np.nan_to_num(rows[:, COLUMNS] - rest)) > LEAST).any())
