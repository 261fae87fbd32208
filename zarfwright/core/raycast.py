"""Rays through the show's solids, by Embree (embreex): what is seen from where, and what is met first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import ArrayLike, NDArray

from zarfwright.core.scene import Solid
from zarfwright.core.space import Floats, rotate, unit

SHORT_M = 4e-3


@dataclass(frozen=True, eq=False)
class Met:
    """What m rays meet first: distance (m,), infinite where nothing; the solid's index (m,), -1; the face's normal
    (m, 3) towards where the ray came from."""

    distance: Floats
    thing: NDArray[np.int64]
    normal: Floats


class Caster:
    """The triangles of some solids in the show's frame, built once. People stand in their simple meshes."""

    def __init__(self, solids: Sequence[Solid]) -> None:
        self.names = tuple(solid.id for solid in solids)
        self.albedo = np.array([solid.albedo for solid in solids]).reshape(-1, 3)
        corners, owners = [], []
        for i, solid in enumerate(solids):
            mesh = solid.far or solid.mesh
            scaled = mesh.vertices.astype(float) * solid.scale
            placed = rotate(solid.placement.rotation, scaled) + np.asarray(solid.placement.position)
            corners.append(placed[mesh.triangles.reshape(-1, 3)])
            owners.append(np.full(len(corners[-1]), i))
        self._corners = np.concatenate(corners).astype(np.float32) if corners else np.zeros((0, 3, 3), np.float32)
        self._owner = np.concatenate(owners) if owners else np.zeros(0, dtype=np.int64)
        self._normal = unit(
            np.cross(self._corners[:, 1] - self._corners[:, 0], self._corners[:, 2] - self._corners[:, 0])
        )
        self._scene = EmbreeScene()
        if len(self._corners):
            self._mesh = TriangleMesh(self._scene, self._corners)

    def first(self, origins: ArrayLike, directions: ArrayLike) -> Met:
        """What rays from `origins` (m, 3) along unit `directions` (m, 3) meet first."""
        start = np.ascontiguousarray(origins, dtype=np.float32)
        ways = np.ascontiguousarray(directions, dtype=np.float32)
        if not len(self._corners) or not len(start):
            m = len(start)
            return Met(np.full(m, np.inf), np.full(m, -1, dtype=np.int64), np.zeros((m, 3)))
        found = self._scene.run(start, ways, output=1)
        triangle = np.asarray(found["primID"], dtype=np.int64)
        hit = triangle >= 0
        distance = np.where(hit, np.asarray(found["tfar"], dtype=float), np.inf)
        normal = np.where(hit[:, None], self._normal[np.maximum(triangle, 0)], 0.0)
        backward = np.sum(normal * ways, axis=1) > 0
        normal[backward] *= -1.0
        return Met(distance, np.where(hit, self._owner[np.maximum(triangle, 0)], -1), normal)

    def sees(self, origins: ArrayLike, points: ArrayLike) -> NDArray[np.bool_]:
        """Whether nothing stands between `origins` (m, 3) and `points` (m, 3)."""
        start, end = np.asarray(origins, dtype=float), np.asarray(points, dtype=float)
        way = end - start
        far = np.linalg.norm(way, axis=1)
        met = self.first(start, way / np.maximum(far, 1e-9)[:, None])
        return np.asarray(met.distance >= far - SHORT_M)
