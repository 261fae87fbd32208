"""People: a mesh for each pose and variant at one height, near and far: a crowd is few draws and not all alike.

Own frame: on the floor at the origin, facing +Y. A figure is the mesh scaled to its height.
"""

from __future__ import annotations

from functools import cache

import numpy as np

from zarfwright.core.mesh import DARKER, HAIR, SKIN, Mesh, box, coloured, ellipsoid, join, moved, round_surface, tapered
from zarfwright.core.space import Floats

HEIGHT_M = 1.72
SEAT_M = 0.45
VARIANTS = 4
"""How many ways of holding arms and head there are for each pose."""

# Where hands are by variant, from the shoulder, in metres: hanging, folded, in the lap or on the chest, one raised.
_STANDING_HANDS = (
    ((0.05, 0.04, -0.56), (0.05, 0.06, -0.56)),
    ((-0.16, 0.2, -0.26), (-0.2, 0.18, -0.24)),
    ((-0.1, 0.16, -0.5), (-0.1, 0.18, -0.5)),
    ((0.06, 0.06, -0.55), (-0.02, 0.26, -0.18)),
)
_SITTING_HANDS = (
    ((-0.06, 0.3, -0.42), (-0.06, 0.32, -0.42)),
    ((-0.16, 0.2, -0.26), (-0.18, 0.2, -0.24)),
    ((-0.02, 0.36, -0.4), (-0.1, 0.26, -0.4)),
    ((0.04, 0.2, -0.42), (-0.08, 0.24, -0.12)),
)
# Playing: seated with an instrument before the chest; arms up: standing, both hands over the head.
_PLAYING_HANDS = (
    ((-0.12, 0.3, -0.16), (-0.02, 0.34, -0.2)),
    ((0.06, 0.34, -0.02), (-0.16, 0.26, -0.24)),
    ((-0.14, 0.36, -0.28), (-0.14, 0.36, -0.26)),
    ((0.16, 0.26, 0.04), (-0.1, 0.28, -0.1)),
)
_RAISED_HANDS = (
    ((0.06, 0.06, 0.56), (0.04, 0.08, 0.54)),
    ((0.16, 0.0, 0.5), (0.18, 0.02, 0.48)),
    ((-0.06, 0.12, 0.5), (-0.06, 0.14, 0.5)),
    ((0.04, 0.1, 0.55), (0.1, 0.22, 0.34)),
)
SEATED = ("sitting", "playing")
POSES = ("standing", "sitting", "playing", "arms up")
_HEAD_TURN = (0.0, 0.25, -0.18, 0.1)
_HEAD_NOD = (0.0, 0.02, -0.02, 0.03)


def _torso(base_m: float, sides: int = 10) -> Mesh:
    """From the hips at `base_m` to the neck."""
    profile = [
        (0.0, 0.0),
        (0.15, 0.01),
        (0.165, 0.12),
        (0.15, 0.25),
        (0.19, 0.46),
        (0.17, 0.54),
        (0.06, 0.6),
        (0.0, 0.61),
    ]
    solid = round_surface(profile, sides)
    flattened = solid.vertices * np.array([1.0, 0.62, 1.0])
    return Mesh((flattened + [0, 0, base_m]).astype(np.float32), solid.normals, solid.triangles)


def _head(at: Floats, variant: int) -> list[Mesh]:
    turn, nod = _HEAD_TURN[variant], _HEAD_NOD[variant]
    forward = np.array([np.sin(turn) * 0.02, 0.015 + nod, 0.0])
    face = coloured(moved(ellipsoid((0.075, 0.092, 0.115), sides=9, rings=6), at + forward), SKIN)
    hair = coloured(moved(ellipsoid((0.083, 0.092, 0.095), sides=9, rings=5), at + [0, -0.022, 0.035]), HAIR)
    neck = coloured(tapered(at - [0, 0.01, 0.16], at - [0, 0.0, 0.07], (0.05, 0.048), 6), SKIN)
    return [face, hair, neck]


def _arms(shoulder_m: float, hands: tuple[tuple[float, ...], ...]) -> list[Mesh]:
    made = []
    for side, hand in zip((1.0, -1.0), hands, strict=True):
        shoulder = np.array([side * 0.185, 0.0, shoulder_m])
        end = shoulder + np.array([side * hand[0], hand[1], hand[2]])
        # The elbow hangs outside the straight line.
        elbow = (shoulder + end) / 2 + np.array([side * 0.07, -0.05, -0.06 if hand[2] < 0.2 else 0.0])
        made += [
            tapered(shoulder, elbow, (0.055, 0.045), 6),
            tapered(elbow, end, (0.045, 0.035), 6),
            coloured(moved(ellipsoid((0.035, 0.045, 0.05), sides=5, rings=3), end), SKIN),
        ]
    return made


def _chair() -> Mesh:
    legs = [box((0.03, 0.03, SEAT_M - 0.03), (x, y, (SEAT_M - 0.03) / 2)) for x in (-0.19, 0.19) for y in (-0.19, 0.21)]
    seat = box((0.44, 0.44, 0.03), (0, 0.02, SEAT_M - 0.02))
    return coloured(join([seat, box((0.44, 0.03, 0.45), (0, -0.21, SEAT_M + 0.24)), *legs]), DARKER)


@cache
def figure_mesh(pose: str, variant: int) -> Mesh:
    """A person of HEIGHT_M who stands or sits (on a chair of their own), to be seen from near."""
    if pose not in SEATED:
        legs = [
            coloured(join([
                tapered((x, 0, 0.9), (x * 1.15, 0.01, 0.47), (0.085, 0.06)),
                tapered((x * 1.15, 0.01, 0.47), (x * 1.2, -0.01, 0.08), (0.06, 0.045)),
                box((0.09, 0.24, 0.07), (x * 1.2, 0.05, 0.035)),
            ]), DARKER)
            for x in (-0.09, 0.09)
        ]  # fmt: skip
        head = _head(np.array([0.0, 0.0, HEIGHT_M - 0.12]), variant)
        hands = _RAISED_HANDS if pose == "arms up" else _STANDING_HANDS
        return join([_torso(0.86), *head, *_arms(1.38, hands[variant]), *legs])
    legs = [
        coloured(join([
            tapered((x, -0.02, SEAT_M + 0.08), (x * 1.2, 0.4, SEAT_M + 0.07), (0.085, 0.06)),
            tapered((x * 1.2, 0.4, SEAT_M + 0.07), (x * 1.25, 0.36, 0.08), (0.06, 0.045)),
            box((0.09, 0.24, 0.07), (x * 1.25, 0.43, 0.035)),
        ]), DARKER)
        for x in (-0.09, 0.09)
    ]  # fmt: skip
    body = [_torso(SEAT_M + 0.02), *_head(np.array([0.0, 0.02, SEAT_M + 0.77]), variant)]
    upper = join([*body, *_arms(SEAT_M + 0.54, (_PLAYING_HANDS if pose == "playing" else _SITTING_HANDS)[variant])])
    return join([moved(upper, (0, -0.06, 0)), *legs, _chair()])


@cache
def far_figure_mesh(pose: str) -> Mesh:
    """The same person in a few dozen triangles: for far away, and for what only casts a shadow.

    It lies inside the whole one, so that nobody stands in a shadow of their own.
    """
    stands = pose not in SEATED
    base = 0.0 if stands else SEAT_M
    tall = HEIGHT_M if stands else SEAT_M + 0.89
    hips = 0.82 if stands else base
    coat = round_surface([(0.12, hips), (0.13, hips + 0.2), (0.155, tall - 0.36), (0.04, tall - 0.25)], 6)
    body = Mesh((coat.vertices * np.array([1.05, 0.56, 1.0])).astype(np.float32), coat.normals, coat.triangles)
    head = coloured(moved(ellipsoid((0.08, 0.095, 0.125), sides=6, rings=4), (0, 0, tall - 0.12)), HAIR)
    face = coloured(moved(ellipsoid((0.06, 0.06, 0.09), sides=5, rings=3), (0, 0.05, tall - 0.13)), SKIN)
    if stands:
        legs = [coloured(tapered((x, 0, 0.86), (x * 1.2, 0, 0.02), (0.075, 0.045), 5), DARKER) for x in (-0.085, 0.085)]
        hand = (1.2, 0.06, tall + 0.14) if pose == "arms up" else (1.35, 0.02, tall - 0.92)
        arms = [tapered((x, 0, tall - 0.38), (x * hand[0], *hand[1:]), (0.045, 0.035), 4) for x in (-0.185, 0.185)]
        return join([body, head, face, *legs, *arms])
    lap = coloured(box((0.3, 0.48, 0.14), (0, 0.2, SEAT_M + 0.06)), DARKER)
    shins = coloured(box((0.28, 0.14, SEAT_M), (0, 0.38, SEAT_M / 2)), DARKER)
    back = coloured(box((0.44, 0.03, 0.9), (0, -0.23, 0.45)), DARKER)
    return join([body, head, face, lap, shins, back])


def eye_height_m(pose: str, height_m: float) -> float:
    """Above the surface: 0.936 of standing height; seated 1.2 m above the seat's floor (numbers.md, Crowd)."""
    return 1.2 if pose in SEATED else 0.936 * height_m
