"""Smooth surfaces round limbs: a blend of rounded cones as one skin, meshed on a grid and brought onto the surface.

A limb is a rounded cone from one point to another; `flat` squeezes it front to back (along y). Distances are in metres,
negative inside; a blend's are right near its surface, which is where they are used.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import fast_simplification
import numpy as np

from zarfwright.core.mesh import Mesh
from zarfwright.core.space import Floats, unit


@dataclass(frozen=True)
class Limb:
    """A rounded cone from `start` to `end` with a radius at each, `flat` times as thin along y as across."""

    start: tuple[float, float, float]
    end: tuple[float, float, float]
    radii: tuple[float, float]
    flat: float = 1.0


class Skin:
    """The smooth union of limbs: `blend` metres is how far a joint is rounded out."""

    def __init__(self, limbs: Sequence[Limb], blend: float = 0.03) -> None:
        self._start = np.array([limb.start for limb in limbs])
        self._way = np.array([limb.end for limb in limbs]) - self._start
        self._way2 = np.maximum(np.sum(self._way * self._way, axis=1), 1e-9)
        self._at_start = np.sum(self._start * self._way, axis=1)
        self._radii = np.array([limb.radii for limb in limbs])
        self._widening = self._radii[:, 1] - self._radii[:, 0]
        self._squeeze = np.array([[1.0, 1.0 / limb.flat, 1.0] for limb in limbs])
        self._blend = max(blend, 1e-3)

    def near(self, points: Floats) -> tuple[Floats, Floats]:
        """Distance (n,) of points (n, 3) from the surface, and the way straight out from it (n, 3), of unit length."""
        share, each = self._each(points)
        off = (points[:, None] - self._start - share[..., None] * self._way) * self._squeeze
        least = each.min(axis=1)
        weights = np.exp((least[:, None] - each) / self._blend)
        whole = weights.sum(axis=1)
        ways = off * self._squeeze / np.maximum(np.sqrt(np.einsum("ijk,ijk->ij", off, off)), 1e-9)[..., None]
        return least - self._blend * np.log(whole), unit(np.einsum("ij,ijk->ik", weights, ways))

    def distance(self, points: Floats) -> Floats:
        """Of points (n, 3) from the surface, (n,)."""
        _, each = self._each(points)
        least = each.min(axis=1)
        return np.asarray(least - self._blend * np.log(np.exp((least[:, None] - each) / self._blend).sum(axis=1)))

    def _each(self, points: Floats) -> tuple[Floats, Floats]:
        """How far along each limb's axis points are, 0..1, and their distances from its surface, both (n, limbs)."""
        share = np.clip((points @ self._way.T - self._at_start) / self._way2, 0.0, 1.0)
        # |squeeze (p - start - share way)|^2, multiplied out: nothing of (n, limbs, 3) is made.
        weight = self._squeeze**2
        start, way = weight * self._start, weight * self._way
        off2 = (points * points) @ weight.T - 2.0 * (points @ start.T) + np.sum(start * self._start, axis=1)
        along = points @ way.T - np.sum(way * self._start, axis=1)
        off2 -= share * (2.0 * along - share * np.sum(way * self._way, axis=1))
        return share, np.sqrt(np.maximum(off2, 0.0)) - self._radii[:, 0] - share * self._widening

    def box(self) -> tuple[Floats, Floats]:
        """The least and greatest corner of a box that all of it lies in."""
        ends = np.concatenate([self._start, self._start + self._way])
        reach = self._radii.max() + 2 * self._blend
        return ends.min(axis=0) - reach, ends.max(axis=0) + reach


def skin_mesh(skin: Skin, cell: float, triangles: int) -> Mesh:
    """The skin with smooth normals, from a grid of `cell` metres, in about so many triangles.

    Surface nets (Gibson 1998): a point in each cell that the surface passes, brought onto it by Newton steps.
    """
    low, high = skin.box()
    count = np.ceil((high - low) / cell).astype(int) + 1
    axes = [low[a] + cell * np.arange(count[a]) for a in range(3)]
    grid = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1)
    values = skin.distance(grid.reshape(-1, 3)).reshape(tuple(count))
    points, faces = _net(values)
    places = low + cell * points
    for _ in range(2):
        away, out = skin.near(places)
        places -= out * away[:, None]
    if triangles < len(faces):
        share = 1.0 - triangles / len(faces)
        found = fast_simplification.simplify(places.astype(np.float32), faces.astype(np.int32), share)
        places, faces = np.asarray(found[0], dtype=float), np.asarray(found[1])
    return Mesh(places.astype(np.float32), skin.near(places)[1].astype(np.float32), faces.astype(np.uint32))


def _net(values: Floats) -> tuple[Floats, Floats]:
    """Points (n, 3) in grid steps, one in each cell that the surface passes, and the triangles (m, 3) between them.

    The surface keeps off the grid's border.
    """
    inside = values < 0
    stride = np.array([values.shape[1] * values.shape[2], values.shape[2], 1])
    flat = values.ravel()
    rings, crossings, counts = [], [], []
    for axis in range(3):
        lower = tuple(slice(0, -1 if a == axis else None) for a in range(3))
        upper = tuple(slice(1 if a == axis else 0, None) for a in range(3))
        at = np.argwhere(inside[lower] != inside[upper])
        edge = at @ stride
        first, second = flat[edge], flat[edge + stride[axis]]
        crossing = at.astype(float)
        crossing[:, axis] += first / (first - second)
        u, v = stride[(axis + 1) % 3], stride[(axis + 2) % 3]
        ring = np.stack([edge - u - v, edge - v, edge, edge - u], axis=1)
        # Counter-clockwise from outside: turned round where the inside lies further along the axis.
        turned = first >= 0
        ring[turned] = ring[turned][:, ::-1]
        rings.append(ring)
        crossings.append(crossing)
        counts.append(len(at))
    _, number = np.unique(np.concatenate(rings), return_inverse=True)
    number = number.reshape(-1)
    each = np.repeat(np.concatenate(crossings), 4, axis=0)
    sums = np.stack([np.bincount(number, each[:, part]) for part in range(3)], axis=1)
    quads = np.split(number.reshape(-1, 4), np.cumsum(counts)[:-1])
    faces = [quad[:, corners] for quad in quads for corners in ([0, 1, 2], [0, 2, 3])]
    return sums / np.bincount(number)[:, None], np.concatenate(faces)
