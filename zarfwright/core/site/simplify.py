"""Fewer triangles for a heavy mesh, and how far that is from what it was."""

from __future__ import annotations

from dataclasses import replace

import fast_simplification
import numpy as np
from numpy.typing import NDArray

from zarfwright.core.mesh import Mesh, MeshFile
from zarfwright.core.space import Floats, unit

SAMPLES = 4000
NEAR = 16
"""How many triangles, nearest by their middles, are tried for each point: what is found is never too near."""


def simplified(mesh: Mesh, triangles: int) -> Mesh:
    """The mesh with about so many triangles, by quadric edge collapse; unchanged where it has no more."""
    if triangles >= len(mesh.triangles):
        return mesh
    # Flat normals part the corners of neighbours: what lies in one place is one point again.
    places, which = np.unique(np.round(mesh.vertices.astype(float), 5), axis=0, return_inverse=True)
    faces = which.reshape(-1)[mesh.triangles.astype(np.int64)].astype(np.int32)
    faces = faces[(faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 0] != faces[:, 2])]
    share = min(max(1.0 - triangles / max(len(faces), 1), 0.0), 0.999)
    points, kept = fast_simplification.simplify(places.astype(np.float32), faces, share)[:2]
    corners = np.asarray(points, dtype=float)[np.asarray(kept)]
    normals = unit(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]))
    whole = np.any(normals != 0, axis=1)
    return Mesh(
        corners[whole].reshape(-1, 3).astype(np.float32),
        np.repeat(normals[whole], 3, axis=0).astype(np.float32),
        np.arange(int(whole.sum()) * 3, dtype=np.uint32).reshape(-1, 3),
    )


def with_triangles(file: MeshFile, triangles: int) -> MeshFile:
    """A mesh file with about so many triangles, each material with its share of them."""
    share = min(triangles / max(sum(len(part.mesh.triangles) for part in file.parts), 1), 1.0)
    return MeshFile(
        tuple(
            replace(part, mesh=simplified(part.mesh, max(round(len(part.mesh.triangles) * share), 4)))
            for part in file.parts
        )
    )


def deviation(was: Mesh, now: Mesh, seed: int = 0) -> tuple[float, float]:
    """How far the corners of the first lie from the surface of the second: mean and greatest, in their own unit."""
    from scipy.spatial import KDTree

    points = np.unique(was.vertices.astype(float), axis=0)
    if len(points) > SAMPLES:
        points = points[np.random.default_rng(seed).choice(len(points), SAMPLES, replace=False)]
    corners = now.vertices.astype(float)[now.triangles]
    near = min(NEAR, len(corners))
    _, which = KDTree(corners.mean(axis=1)).query(points, k=near)
    which = np.asarray(which).reshape(len(points), near)
    nearest = _to_triangles(points[:, None, :], corners[which]).min(axis=1)
    return float(nearest.mean()), float(nearest.max())


def _to_triangles(p: Floats, corners: Floats) -> NDArray[np.float64]:
    """Distances of points (n, 1, 3) to triangles (n, k, 3, 3): to the plane where the foot lies inside, else to the
    nearest edge."""
    a, b, c = corners[..., 0, :], corners[..., 1, :], corners[..., 2, :]
    normal = unit(np.cross(b - a, c - a))
    height = np.sum((p - a) * normal, axis=-1)
    foot = p - height[..., None] * normal
    inside = np.ones(height.shape, dtype=bool)
    edges = np.full(height.shape, np.inf)
    for start, end in ((a, b), (b, c), (c, a)):
        way = end - start
        inside &= np.sum(np.cross(way, foot - start) * normal, axis=-1) >= 0
        share = np.clip(np.sum((p - start) * way, axis=-1) / np.maximum(np.sum(way * way, axis=-1), 1e-30), 0.0, 1.0)
        edges = np.minimum(edges, np.linalg.norm(p - start - share[..., None] * way, axis=-1))
    return np.where(inside, np.abs(height), edges)
