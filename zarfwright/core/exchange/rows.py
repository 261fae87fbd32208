"""Places of a scene: four rows u, v, w, o, as MVR has them. A point (x, y, z) is at x u + y v + z w + o, in metres."""

from __future__ import annotations

import math

import numpy as np

from zarfwright.core.space import Floats, Placement, Vec, from_matrix, quat, to_matrix, vec

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
    turned = to_matrix(placement.rotation).T * scale
    return as_rows(np.vstack([turned, np.asarray(placement.position)]))


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
    one, other = np.array(a), np.array(b)
    away = float(np.linalg.norm(one[3] - other[3]))
    lengths = np.linalg.norm(one[:3], axis=1) * np.linalg.norm(other[:3], axis=1)
    across = np.linalg.norm(np.cross(one[:3], other[:3]), axis=1)
    along = np.einsum("ij,ij->i", one[:3], other[:3])
    angle = float(np.degrees(np.arctan2(across, along)[lengths > 0].max(initial=0.0)))
    return away, angle


__all__ = [
    "STRAIGHT", "Rows", "apart", "as_rows", "flat", "inside", "level_turn_deg", "relative", "rigid", "rows_of",
    "turn_and_rest",
]  # fmt: skip
