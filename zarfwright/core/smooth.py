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
        off, each = self._each(points)
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
        """Points from each limb's axis, squeezed, (n, limbs, 3), and distances from each limb's surface (n, limbs)."""
        along = (points @ self._way.T - self._at_start) / self._way2
        share = np.clip(along, 0.0, 1.0)
        off = (points[:, None] - self._start - share[..., None] * self._way) * self._squeeze
        return off, np.sqrt(np.einsum("ijk,ijk->ij", off, off)) - self._radii[:, 0] - share * self._widening

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
    """Points (n, 3) in grid steps, one in each cell that the surface passes, and the triangles (m, 3) between them."""
    inside = values < 0
    size = np.array(values.shape) - 1
    whole = tuple(slice(0, s) for s in size)
    sums, crossings = np.zeros((*size, 3)), np.zeros(tuple(size))
    for axis in range(3):
        others = [a for a in range(3) if a != axis]
        for i in (0, 1):
            for j in (0, 1):
                corner = np.zeros(3, dtype=int)
                corner[others[0]], corner[others[1]] = i, j
                after = corner.copy()
                after[axis] = 1
                a, b = (values[tuple(slice(o, o + s) for o, s in zip(at, size, strict=True))] for at in (corner, after))
                crossed = (a < 0) != (b < 0)
                share = np.where(crossed, a / np.where(crossed, a - b, 1.0), 0.0)
                for part in range(3):
                    sums[..., part] += np.where(crossed, share if part == axis else corner[part], 0.0)
                crossings += crossed
    active = crossings > 0
    number = np.full(active.shape, -1)
    number[active] = np.arange(int(active.sum()))
    points = np.argwhere(active) + sums[active] / crossings[active][:, None]
    faces = []
    for axis in range(3):
        u, v = ((axis + 1) % 3, (axis + 2) % 3)
        inner = list(whole)
        inner[u], inner[v] = slice(1, size[u]), slice(1, size[v])
        further = [
            slice(s.start + (1 if a == axis else 0), s.stop + (1 if a == axis else 0)) for a, s in enumerate(inner)
        ]
        here, there = inside[tuple(inner)], inside[tuple(further)]
        at = np.argwhere(here != there)
        at[:, u] += 1
        at[:, v] += 1
        step_u, step_v = np.eye(3, dtype=int)[u], np.eye(3, dtype=int)[v]
        ring = [number[tuple((at - back).T)] for back in (step_u + step_v, step_v, 0 * step_u, step_u)]
        quads = np.stack(ring, axis=1)
        # Counter-clockwise from outside: turned round where the inside lies further along the axis.
        flipped = ~here[here != there]
        quads[flipped] = quads[flipped][:, ::-1]
        faces += [quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]
    return points, np.concatenate(faces)
