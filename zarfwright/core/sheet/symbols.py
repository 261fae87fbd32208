"""The signs of fixtures in plan: our own, one a sort of lamp, at the true size of their bodies.

A sign is drawn in its own square from -1 to 1: x across the rail, y to the front. The beam tick goes to the front.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from zarfwright.core.memo import Memo
from zarfwright.core.rig.bodies import body_box
from zarfwright.core.space import Floats
from zarfwright.core.types.chain import chain_of
from zarfwright.core.types.model import FixtureType
from zarfwright.core.types.sort import sort_of

TICK_MM = 2.2
Stroke = tuple[str, tuple[tuple[float, float], ...], bool]
"""Pen, points, closed."""


def _rectangle(x0: float, y0: float, x1: float, y1: float, pen: str = "head") -> Stroke:
    return (pen, ((x0, y0), (x1, y0), (x1, y1), (x0, y1)), True)


def _round(x: float, y: float, r: float, pen: str = "head", count: int = 24) -> Stroke:
    turn = [2 * math.pi * k / count for k in range(count)]
    return (pen, tuple((x + r * math.cos(a), y + r * math.sin(a)) for a in turn), True)


def _line(*points: tuple[float, float], pen: str = "detail") -> Stroke:
    return (pen, points, False)


def _cross(r: float) -> tuple[Stroke, ...]:
    return (_line((-r, 0), (r, 0)), _line((0, -r), (0, r)))


BASE = ("head", ((-1, -0.62), (-0.62, -1), (0.62, -1), (1, -0.62), (1, 0.62), (0.62, 1), (-0.62, 1), (-1, 0.62)), True)
"""What a head turns on: a square without its corners."""
MOVING: dict[str, tuple[Stroke, ...]] = {
    "profile": (BASE, _round(0, 0, 0.66), _rectangle(-0.3, -0.3, 0.3, 0.3, "detail")),
    "wash": (BASE, _round(0, 0, 0.66), _round(0, 0, 0.4, "detail"), _round(0, 0, 0.14, "detail", 10)),
    "beam": (BASE, _round(0, 0, 0.66), *_cross(0.66)),
}
SCANNER: tuple[Stroke, ...] = (_rectangle(-1, -1, 1, 0.5), ("head", ((-0.7, 0.5), (0.7, 0.5), (0, 1)), True),
                               _line((-1, -1), (1, 0.5)))  # fmt: skip
STANDING: dict[str, tuple[Stroke, ...]] = {
    "profile": (("head", ((-0.62, -1), (0.62, -1), (1, -0.5), (1, -0.05), (0.55, 0.1), (0.7, 1), (-0.7, 1),
                          (-0.55, 0.1), (-1, -0.05), (-1, -0.5)), True), _line((-0.55, 0.1), (0.55, 0.1))),
    "Fresnel": (("head", ((-0.7, -1), (0.7, -1), (0.9, 0.3), (1, 1), (-1, 1), (-0.9, 0.3)), True),
                _line((-0.9, 0.3), (-0.45, 0.1), (0, 0.3), (0.45, 0.1), (0.9, 0.3))),
    "PC": (("head", ((-0.8, -1), (0.8, -1), (0.8, 0.5), (0.6, 1), (-0.6, 1), (-0.8, 0.5)), True),
           _line((-0.8, 0.5), (0, 0.2), (0.8, 0.5))),
    "par": (("head", ((-0.4, -1), (0.4, -1), (0.9, -0.3), (1, 1), (-1, 1), (-0.9, -0.3)), True),),
    "flood": (_rectangle(-1, -1, 1, 1), _line((-1, -1), (0, 1), (1, -1))),
    "cyc": (_rectangle(-1, -1, 1, 1), _line((-1, 0.3), (0, -0.7), (1, 0.3))),
    "panel": (_rectangle(-1, -1, 1, 1), _line((-1, -0.33), (1, -0.33)), _line((-1, 0.33), (1, 0.33)),
              _line((-0.33, -1), (-0.33, 1)), _line((0.33, -1), (0.33, 1))),
    "batten": (_rectangle(-1, -1, 1, 1), *(_line((x, -1), (x, 1)) for x in (-0.75, -0.5, -0.25, 0, 0.25, 0.5, 0.75))),
    "laser": (_rectangle(-1, -1, 1, 1), *(_line((0, -0.5), (x, 1)) for x in (-0.8, 0, 0.8))),
    "hazer": (_rectangle(-1, -1, 1, 0.7), _line((-0.6, 0), (-0.3, 0.3), (0, 0), (0.3, 0.3), (0.6, 0)),
              _rectangle(-0.25, 0.7, 0.25, 1)),
    "effect": (_rectangle(-1, -1, 1, 1), _line((-1, -1), (1, 1)), _line((-1, 1), (1, -1))),
}  # fmt: skip


@dataclass(frozen=True, eq=False)
class Sign:
    """The sign of a type in a mode: half its width and depth in metres, where its middle is from the clamp across and
    to the front, its strokes in metres about the clamp, and whether it turns to where it shines."""

    half: tuple[float, float]
    middle: tuple[float, float]
    strokes: tuple[tuple[str, Floats, bool], ...]
    turns: bool

    @property
    def reach(self) -> float:
        """How far it goes from its clamp, metres."""
        return math.hypot(abs(self.middle[0]) + self.half[0], abs(self.middle[1]) + self.half[1])


def _kind(fixture_type: FixtureType) -> tuple[str, tuple[Stroke, ...]]:
    words = sort_of(fixture_type).removeprefix("LED ").replace(",", "")
    if words.startswith("scanner"):
        return "scanner", SCANNER
    if words.startswith("moving head"):
        return "moving", MOVING.get(words.removeprefix("moving head").strip(), MOVING["wash"])
    first = words.removesuffix(" colour changer")
    return "standing", STANDING.get(first, STANDING["effect"])


def _sign(fixture_type: FixtureType, mode: str) -> Sign:
    low, high = body_box(fixture_type, mode)
    kind, strokes = _kind(fixture_type)
    half = np.maximum((high - low) / 2, 0.04)
    middle = (low + high) / 2
    turns = kind == "standing" and not chain_of(fixture_type, mode).moves and sort_of(fixture_type) in STANDING
    if turns and half[2] > half[1]:
        # What is aimed by hand is drawn lying down: it is as long as its housing.
        size, centre = (float(half[0]), float(half[2])), (float(middle[0]), 0.0)
    elif kind == "moving":
        # Square, whatever its yoke's way: heads are told apart by it.
        side = float(min(half[0], half[1]))
        size, centre = (side, side), (float(middle[0]), float(middle[1]))
    else:
        size, centre = (float(half[0]), float(half[1])), (float(middle[0]), float(middle[1]))
    made = tuple((pen, np.asarray(points, dtype=float) * size + centre, closed) for pen, points, closed in strokes)
    return Sign(size, centre, made, turns)


sign_of: Memo[Sign] = Memo(_sign, 500)
"""The sign of a type: `(fixture_type, mode)`."""
