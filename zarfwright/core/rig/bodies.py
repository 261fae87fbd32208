"""How much room the bodies of fixtures take: boxes about them at home, and how deep two are in each other."""

from __future__ import annotations

import numpy as np

from zarfwright.core.memo import Memo
from zarfwright.core.space import Floats, Placement, rotate, vec
from zarfwright.core.types.bodies import body_at_home
from zarfwright.core.types.model import FixtureType

TOUCH_M = 0.01
"""Bodies that are in each other by less only touch."""


def _body_box(fixture_type: FixtureType, mode: str) -> tuple[Floats, Floats]:
    meshes = body_at_home(fixture_type, mode)
    corners = [np.zeros((1, 3)), *(mesh.vertices.astype(float) for mesh in meshes)]
    points = np.concatenate(corners)
    return points.min(axis=0), points.max(axis=0)


body_box: Memo[tuple[Floats, Floats]] = Memo(_body_box, 500)
"""The least and greatest corner (3,) of a body at home in its clamp's frame, metres: `(fixture_type, mode)`."""


def widths(fixture_type: FixtureType, mode: str) -> tuple[float, float]:
    """How wide a body is across and front to back, metres."""
    low, high = body_box(fixture_type, mode)
    return float(high[0] - low[0]), float(high[1] - low[1])


def _room(fixture_type: FixtureType, mode: str, clamp: Placement) -> tuple[tuple[float, float, float], float]:
    low, high = body_box(fixture_type, mode)
    middle = np.asarray(clamp.position) + rotate(clamp.rotation, (low + high) / 2)
    return vec(middle), float(np.linalg.norm(high - low)) / 2


room: Memo[tuple[tuple[float, float, float], float]] = Memo(_room)
"""The ball about a body: its middle in the show's frame and its radius, metres: `(fixture_type, mode, clamp)`."""


def _in_each_other(a: tuple[Floats, Floats], at: Placement, b: tuple[Floats, Floats], bt: Placement) -> float:
    """How far one of two boxes would have to be moved so that they only touch, metres; 0 where they are apart.

    By the separating axes of two boxes (Gottschalk and others, 1996).
    """
    axes = [rotate(place.rotation, np.eye(3)) for place in (at, bt)]
    halves = [(box[1] - box[0]) / 2 for box in (a, b)]
    middles = [
        np.asarray(place.position) + rotate(place.rotation, (box[0] + box[1]) / 2) for place, box in ((at, a), (bt, b))
    ]
    between = middles[1] - middles[0]
    tried = [*axes[0], *axes[1], *(np.cross(u, v) for u in axes[0] for v in axes[1])]
    least = float("inf")
    for axis in tried:
        length = float(np.linalg.norm(axis))
        if length < 1e-6:
            continue
        reach = sum(float(np.abs(own @ axis) @ half) for own, half in zip(axes, halves, strict=True))
        least = min(least, (reach - abs(float(between @ axis))) / length)
        if least <= 0:
            return 0.0
    return least


in_each_other: Memo[float] = Memo(_in_each_other, 100_000)
"""How deep two bodies are in each other, metres: `(box, placement, other box, its placement)`."""
