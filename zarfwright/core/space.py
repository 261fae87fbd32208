"""Places and turns: unit quaternions (x, y, z, w), arrays of shape (..., 4) and (..., 3), metres, right-handed."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]
Vec = tuple[float, float, float]
Quat = tuple[float, float, float, float]
NO_TURN: Quat = (0.0, 0.0, 0.0, 1.0)
ORIGIN: Vec = (0.0, 0.0, 0.0)


def vec(values: ArrayLike) -> Vec:
    """Three plain floats, as the show file keeps them."""
    x, y, z = np.asarray(values, dtype=float).tolist()
    return (x, y, z)


def quat(values: ArrayLike) -> Quat:
    """Four plain floats, as the show file keeps them."""
    x, y, z, w = np.asarray(values, dtype=float).tolist()
    return (x, y, z, w)


def about(axis: ArrayLike, angle: ArrayLike) -> Floats:
    """The turn by `angle` radians (shape (...)) about the unit `axis` (shape (3,) or (..., 3))."""
    if isinstance(angle, float) and isinstance(axis, tuple):
        s = math.sin(angle / 2)
        return np.array([axis[0] * s, axis[1] * s, axis[2] * s, math.cos(angle / 2)])
    half = np.asarray(angle, dtype=float)[..., None] / 2
    turn: Floats = np.concatenate([np.asarray(axis, dtype=float) * np.sin(half), np.cos(half)], axis=-1)
    return turn


def cross(a: Floats, b: Floats) -> Floats:
    """The vector product of vectors of shape (..., 3)."""
    if a.ndim == 1 and b.ndim == 1:
        # One at a time is what most of the job asks for: plain floats are ten times as fast as arrays of three.
        (ax, ay, az), (bx, by, bz) = a.tolist(), b.tolist()
        return np.array([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx])
    ax, ay, az = a[..., 0], a[..., 1], a[..., 2]
    bx, by, bz = b[..., 0], b[..., 1], b[..., 2]
    return np.stack([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx], axis=-1)


def multiply(a: ArrayLike, b: ArrayLike) -> Floats:
    """The turn that does `b` first, then `a`: shapes (..., 4)."""
    p, q = np.asarray(a, dtype=float), np.asarray(b, dtype=float)
    if p.ndim == 1 and q.ndim == 1:
        (px, py, pz, pr), (qx, qy, qz, qr) = p.tolist(), q.tolist()
        return np.array(
            [
                pr * qx + qr * px + py * qz - pz * qy,
                pr * qy + qr * py + pz * qx - px * qz,
                pr * qz + qr * pz + px * qy - py * qx,
                pr * qr - px * qx - py * qy - pz * qz,
            ]
        )
    pv, pw, qv, qw = p[..., :3], p[..., 3:], q[..., :3], q[..., 3:]
    product: Floats = np.concatenate(
        [pw * qv + qw * pv + cross(pv, qv), pw * qw - np.sum(pv * qv, axis=-1, keepdims=True)], axis=-1
    )
    return product


def inverse(q: ArrayLike) -> Floats:
    """The turn back, for unit quaternions of shape (..., 4)."""
    return np.asarray(np.asarray(q, dtype=float) * np.array([-1.0, -1.0, -1.0, 1.0]))


def rotate(q: ArrayLike, v: ArrayLike) -> Floats:
    """Turn vectors of shape (..., 3) by unit quaternions of shape (..., 4)."""
    turn, what = np.asarray(q, dtype=float), np.asarray(v, dtype=float)
    qv, qw = turn[..., :3], turn[..., 3:]
    across = 2.0 * cross(qv, what)
    return np.asarray(what + qw * across + cross(qv, across))


def from_matrix(m: ArrayLike) -> Floats:
    """The quaternion of one proper rotation matrix of shape (3, 3), w >= 0. Shepperd's method."""
    r = np.asarray(m, dtype=float)
    squares = np.array([r[0, 0], r[1, 1], r[2, 2], np.trace(r)])
    i = int(np.argmax(squares))
    if i == 3:
        q = np.array([r[2, 1] - r[1, 2], r[0, 2] - r[2, 0], r[1, 0] - r[0, 1], 1.0 + squares[3]])
    else:
        j, k = (i + 1) % 3, (i + 2) % 3
        q = np.empty(4)
        q[i] = 1.0 + r[i, i] - r[j, j] - r[k, k]
        q[j] = r[j, i] + r[i, j]
        q[k] = r[k, i] + r[i, k]
        q[3] = r[k, j] - r[j, k]
    q /= np.linalg.norm(q)
    return np.asarray(q if q[3] >= 0 else -q)


def to_matrix(q: ArrayLike) -> Floats:
    """The rotation matrix, shape (3, 3), of one unit quaternion: its columns are the turned axes."""
    return np.asarray(rotate(np.asarray(q, dtype=float), np.eye(3)).T)


def single(values: Floats) -> Floats:
    """The same in single precision: for pictures, never for what is kept."""
    made: Any = values.astype(np.float32)
    return made  # type: ignore[no-any-return]


def unit(v: ArrayLike) -> Floats:
    """The vector(s), shape (..., 3), at length 1; a zero vector stays zero."""
    values = np.asarray(v, dtype=float)
    length = np.linalg.norm(values, axis=-1, keepdims=True)
    return np.asarray(np.divide(values, length, out=np.zeros_like(values), where=length > 0))


@dataclass(frozen=True)
class Placement:
    """Where a thing is and how it is turned, in its parent's frame (the show's, for things without a parent)."""

    position: Vec = ORIGIN
    rotation: Quat = NO_TURN

    def apply(self, points: ArrayLike) -> Floats:
        """Points of shape (..., 3) in the thing's own frame, brought into the parent's."""
        return np.asarray(rotate(self.rotation, points) + np.asarray(self.position))

    def then_inside(self, inner: Placement) -> Placement:
        """The placement of something that sits at `inner` in this frame: world = parent . local."""
        return Placement(vec(self.apply(inner.position)), quat(multiply(self.rotation, inner.rotation)))


@dataclass(frozen=True)
class Pose:
    """Where something that moves has been brought, against where it was drawn: x -> position + size . R x, all in the
    show's frame."""

    position: Vec = ORIGIN
    rotation: Quat = NO_TURN
    size: float = 1.0

    def apply(self, points: ArrayLike) -> Floats:
        """Points of shape (..., 3), brought along."""
        return np.asarray(self.size * rotate(self.rotation, points) + np.asarray(self.position))

    def placed(self, placement: Placement) -> Placement:
        """A placement, brought along; how much larger what is there has become is not in it."""
        return Placement(vec(self.apply(placement.position)), quat(multiply(self.rotation, placement.rotation)))

    @property
    def moves(self) -> bool:
        """Whether anything is elsewhere by it."""
        still = max(abs(one) for one in (*self.position, *self.rotation[:3], self.size - 1.0))
        return still > 1e-9

    @property
    def heading_deg(self) -> float:
        """How far it turns what faces along X in plan, about the upright axis."""
        x, y, _ = rotate(self.rotation, np.array([1.0, 0.0, 0.0])).tolist()
        return math.degrees(math.atan2(y, x))
