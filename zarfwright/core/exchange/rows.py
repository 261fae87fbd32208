"""Places of a scene: four rows u, v, w, o, as MVR has them. A point (x, y, z) is at x u + y v + z w + o, in metres."""

from __future__ import annotations

import math

import numpy as np

from zarfwright.core.space import Floats, Placement, Vec, from_matrix, quat, vec

Rows = tuple[Vec, Vec, Vec, Vec]
STRAIGHT: Rows = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0), (0.0, 0.0, 0.0))
RIGID = 1e-5
"""Rows that are off a turn by more than this are stretched, sheared or mirrored."""
LEVEL = 1e-6


def as_rows(matrix: Floats) -> Rows:
    """Rows out of an array of shape (4, 3)."""
    u, v, w, o = (vec(row) for row in matrix)
    return (u, v, w, o)


def rows_of(placement: Placement, scale: float = 1.0) -> Rows:
    """The rows of a placement, and of a size besides."""
    # In plain floats: a scene has thousands, and arrays of three take ten times as long.
    x, y, z, w = placement.rotation
    s = scale
    return (
        (s * (1 - 2 * (y * y + z * z)), s * 2 * (x * y + w * z), s * 2 * (x * z - w * y)),
        (s * 2 * (x * y - w * z), s * (1 - 2 * (x * x + z * z)), s * 2 * (y * z + w * x)),
        (s * 2 * (x * z + w * y), s * 2 * (y * z - w * x), s * (1 - 2 * (x * x + y * y))),
        placement.position,
    )


def inside(outer: Rows, inner: Rows) -> Rows:
    """The rows in the outer one's parent of what lies at `inner` in the outer one's frame."""
    if outer == STRAIGHT:
        return inner
    a, b = np.array(outer), np.array(inner)
    made = b @ a[:3]
    made[3] += a[3]
    return as_rows(made)


def relative(outer: Rows, there: Rows) -> Rows:
    """The rows in the outer one's frame of what lies at `there` beside it: inside(outer, relative(outer, there)) is
    there. Raises ValueError where the outer one is flat."""
    if outer == STRAIGHT:
        return there
    a, b = np.array(outer), np.array(there)
    try:
        back = np.linalg.inv(a[:3])
    except np.linalg.LinAlgError as wrong:
        raise ValueError("the place it lies in is flat") from wrong
    made = b.copy()
    made[3] -= a[3]
    return as_rows(made @ back)


def flat(rows: Rows) -> bool:
    """Whether nothing has a volume there."""
    return abs(float(np.linalg.det(np.array(rows[:3])))) < 1e-12


def turn_and_rest(rows: Rows) -> tuple[Placement, Floats]:
    """The nearest proper turn and the place, and what is left: `rest` (3, 3) with u, v, w = rest @ turned axes. Of what
    is only turned the rest is the unit matrix. By the polar decomposition."""
    linear = np.array(rows[:3])
    left, _, right = np.linalg.svd(linear)
    turned = left @ right
    if np.linalg.det(turned) < 0:
        turned = left @ np.diag([1.0, 1.0, -1.0]) @ right
    return Placement(rows[3], quat(from_matrix(turned.T))), linear @ turned.T


def rigid(rest: Floats) -> bool:
    """Whether what is left of rows without their turn is nothing."""
    return bool(np.abs(rest - np.eye(3)).max() < RIGID)


def level_turn_deg(rotation: Floats | tuple[float, ...]) -> float | None:
    """The turn about the upright axis, in degrees, of what is turned about nothing else; None of the rest."""
    x, y, z, w = (float(part) for part in rotation)
    if math.hypot(x, y) > LEVEL:
        return None
    return math.degrees(2 * math.atan2(z, w))


def apart(a: Rows, b: Rows) -> tuple[float, float]:
    """How far two places are from each other: metres, and the greatest angle between their axes in degrees."""
    angle = 0.0
    for (ux, uy, uz), (vx, vy, vz) in zip(a[:3], b[:3], strict=True):
        across = math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx)
        along = ux * vx + uy * vy + uz * vz
        angle = max(angle, math.atan2(across, along))
    return math.dist(a[3], b[3]), math.degrees(angle)
