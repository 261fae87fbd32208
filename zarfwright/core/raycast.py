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
SHEET_M = 0.12
"""How thick a sheer thing is at most: it takes light away once, however many faces it has."""
LAYERS = 8


@dataclass(frozen=True, eq=False)
class Met:
    """What m rays meet first: distance (m,), infinite where nothing; the solid's index (m,), -1; the face's normal
    (m, 3) towards where the ray came from."""

    distance: Floats
    thing: NDArray[np.int64]
    normal: Floats


_Owned = tuple[NDArray[np.float32], NDArray[np.int64]]
"""The corners of triangles (t, 3, 3), and whose each is (t,)."""


class _Triangles:
    """The triangles of some solids in the show's frame, built once."""

    def __init__(self, corners: NDArray[np.float32], owner: NDArray[np.int64]) -> None:
        self._corners, self._owner = corners, owner
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


def _placed(solid: Solid) -> Floats:
    """The corners of a solid's triangles (t, 3, 3) in the show's frame, of its simple mesh where it has one."""
    mesh = solid.far or solid.mesh
    scaled = mesh.vertices.astype(float) * solid.scale
    placed = rotate(solid.placement.rotation, scaled) + np.asarray(solid.placement.position)
    return np.asarray(placed[mesh.triangles.reshape(-1, 3)])


def _corners_of(solids: Sequence[Solid]) -> _Owned:
    corners = [_placed(solid) for solid in solids]
    owner = np.repeat(np.arange(len(corners)), [len(part) for part in corners])
    return np.concatenate(corners).astype(np.float32) if corners else np.zeros((0, 3, 3), np.float32), owner


@dataclass(frozen=True)
class PackedSolids:
    """What rays meet, as bytes: to be sent to another process."""

    names: tuple[str, ...]
    met: bytes
    met_owner: bytes
    sheer: bytes
    sheer_owner: bytes
    open: tuple[float, ...]
    """How much light goes straight through each sheer thing."""
    albedo: bytes


class Caster:
    """Rays through some solids in the show's frame. People stand in their simple meshes.

    Rays pass through what is sheer, such as a gauze; `share` says how much light is left then.
    """

    def __init__(self, solids: Sequence[Solid]) -> None:
        met = [solid for solid in solids if solid.sheer[0] == 0]
        sheer = [solid for solid in solids if solid.sheer[0] > 0]
        self._build(tuple(solid.id for solid in met), np.array([solid.albedo for solid in met]).reshape(-1, 3),
                    np.array([solid.sheer[0] for solid in sheer]), _corners_of(met), _corners_of(sheer))  # fmt: skip

    def _build(self, names: tuple[str, ...], albedo: Floats, opened: Floats, met: _Owned, sheer: _Owned) -> None:
        self.names, self.albedo, self._open = names, albedo, opened
        self._owned = (met, sheer)
        self._met, self._sheer = _Triangles(*met), _Triangles(*sheer)

    def packed(self) -> PackedSolids:
        """The same as bytes."""
        met, sheer = self._owned
        return PackedSolids(self.names, met[0].tobytes(), met[1].tobytes(), sheer[0].tobytes(), sheer[1].tobytes(),
                            tuple(self._open.tolist()), self.albedo.tobytes())  # fmt: skip

    @classmethod
    def of(cls, packed: PackedSolids) -> Caster:
        """Rays through what another process has packed."""

        def owned(corners: bytes, owner: bytes) -> _Owned:
            return np.frombuffer(corners, np.float32).reshape(-1, 3, 3), np.frombuffer(owner, np.int64)

        made = cls.__new__(cls)
        albedo = np.frombuffer(packed.albedo).reshape(-1, 3)
        made._build(packed.names, albedo, np.array(packed.open), owned(packed.met, packed.met_owner),
                    owned(packed.sheer, packed.sheer_owner))  # fmt: skip
        return made

    def first(self, origins: ArrayLike, directions: ArrayLike) -> Met:
        """What rays from `origins` (m, 3) along unit `directions` (m, 3) meet first."""
        return self._met.first(origins, directions)

    def sees(self, origins: ArrayLike, points: ArrayLike) -> NDArray[np.bool_]:
        """Whether nothing stands between `origins` (m, 3) and `points` (m, 3)."""
        start, end = np.asarray(origins, dtype=float), np.asarray(points, dtype=float)
        way = end - start
        far = np.linalg.norm(way, axis=1)
        met = self.first(start, way / np.maximum(far, 1e-9)[:, None])
        return np.asarray(met.distance >= far - SHORT_M)

    def share(self, origins: ArrayLike, points: ArrayLike) -> Floats:
        """How much of the light from `origins` (m, 3) comes straight to `points` (m, 3), 0..1: none where something
        stands between, less for each sheer thing on the way.

        Slantwise there is more thread and less of a gap: open to the power of 1 / cosine, as of a layer that thins
        light evenly along its way.
        """
        start, end = np.asarray(origins, dtype=float), np.asarray(points, dtype=float)
        left = self.sees(start, end).astype(float)
        far = np.linalg.norm(end - start, axis=1)
        way = (end - start) / np.maximum(far, 1e-9)[:, None]
        at = np.zeros(len(end))
        on = np.flatnonzero(left)
        for _ in range(LAYERS):
            met = self._sheer.first(start[on] + way[on] * at[on, None], way[on])
            hit = at[on] + met.distance < far[on] - SHORT_M
            on, thing, distance, normal = on[hit], met.thing[hit], met.distance[hit], met.normal[hit]
            if not len(on):
                break
            cosine = np.maximum(np.abs(np.sum(normal * way[on], axis=1)), 0.05)
            left[on] *= self._open[thing] ** (1 / cosine)
            at[on] += distance + SHEET_M / cosine
        return left
