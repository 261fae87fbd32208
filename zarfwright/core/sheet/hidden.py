"""Which lines of solids are seen in a view: edges of their meshes, with what is hidden left out.

Edges are the borders, the silhouettes and the sharp creases of meshes; each is walked along in small steps of paper,
and from every step rays go towards who looks, on the edge and a little to either side (a face that lies flush, or is
seen edge on, hides nothing). Where seen turns to hidden the place is halved down.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from zarfwright.core.space import Floats, unit

WELD_M = 1e-4
CREASE = np.cos(np.radians(30.0))
STEP_MM, ASIDE_MM, LIFT_M = 0.5, 0.02, 1e-3
STEPS_MOST = 2000
HALVED = 6
GRID_MM = 0.01
SHORT_MM = 0.25

Bools = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Faces:
    """Triangles in a view's frame: corners (t, 3, 3), metres, and whose each is (t,)."""

    corners: Floats
    owner: NDArray[np.int64]

    def chosen(self, which: Bools) -> Faces:
        return Faces(self.corners[which], self.owner[which])

    @property
    def normals(self) -> Floats:
        """Unit normals (t, 3)."""
        c = self.corners
        return unit(np.cross(c[:, 1] - c[:, 0], c[:, 2] - c[:, 0]))


@dataclass(frozen=True, eq=False)
class Edges:
    """Edges in a view's frame: their ends (n, 2, 3), and whether each is a border or a silhouette, not a crease."""

    ends: Floats
    bold: Bools


def edges_of(faces: Faces) -> Edges:
    """The edges of meshes that are drawn: corners within WELD_M of one another are one."""
    if not len(faces.corners):
        return Edges(np.zeros((0, 2, 3)), np.zeros(0, dtype=bool))
    flat = faces.corners.reshape(-1, 3)
    key = np.concatenate([np.round(flat / WELD_M).astype(np.int64), np.repeat(faces.owner, 3)[:, None]], axis=1)
    _, first, which = np.unique(key, axis=0, return_index=True, return_inverse=True)
    triangles = which.reshape(-1, 3)
    pairs = np.sort(triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    face = np.repeat(np.arange(len(triangles)), 3)
    real = pairs[:, 0] != pairs[:, 1]
    pairs, face = pairs[real], face[real]
    order = np.lexsort((pairs[:, 1], pairs[:, 0]))
    pairs, face = pairs[order], face[order]
    begins = np.flatnonzero(np.r_[True, np.any(pairs[1:] != pairs[:-1], axis=1)])
    count = np.diff(np.r_[begins, len(pairs)])
    normals = faces.normals
    one, other = normals[face[begins]], normals[face[np.minimum(begins + 1, len(face) - 1)]]
    border = count != 2
    turned = (one[:, 2] > 1e-6) != (other[:, 2] > 1e-6)
    crease = np.sum(one * other, axis=1) < CREASE
    behind = ~border & (one[:, 2] < -1e-6) & (other[:, 2] < -1e-6)
    drawn = (border | turned | crease) & ~behind
    ends = flat[first][pairs[begins]]
    long = np.linalg.norm(ends[:, 0, :2] - ends[:, 1, :2], axis=1) > 1e-6
    keep = drawn & long
    return Edges(ends[keep], (border | turned)[keep])


class Hider:
    """What hides lines in a view: triangles in its frame, metres."""

    def __init__(self, faces: Faces) -> None:
        self._scene = EmbreeScene()
        self._any = len(faces.corners) > 0
        if self._any:
            self._mesh = TriangleMesh(self._scene, np.ascontiguousarray(faces.corners, dtype=np.float32))

    def free(self, points: Floats, cut: float | None = None) -> Bools:
        """Whether nothing is between places (m, 3) and who looks, or what is there is before the cut."""
        if not self._any or not len(points):
            return np.ones(len(points), dtype=bool)
        start = np.ascontiguousarray(points + [0.0, 0.0, LIFT_M], dtype=np.float32)
        ways = np.zeros_like(start)
        ways[:, 2] = 1.0
        found = self._scene.run(start, ways, output=1)
        far = np.where(np.asarray(found["primID"]) >= 0, np.asarray(found["tfar"], dtype=float), np.inf)
        return np.asarray(far > cut - points[:, 2] if cut is not None else np.isinf(far))

    def _seen(self, points: Floats, aside: Floats, cut: float | None) -> Bools:
        """Whether an edge is seen at places on it: there, or a little to one of its sides."""
        seen = self.free(points, cut)
        for side in (aside, -aside):
            dark = np.flatnonzero(~seen)
            seen[dark] = self.free(points[dark] + side[dark], cut)
        return seen

    def visible(self, ends: Floats, mm_per_m: float, cut: float | None = None) -> tuple[Floats, NDArray[np.int64]]:
        """The pieces of edges (n, 2, 3) that are seen: their ends (m, 2, 2) in the plane of the view, and of which
        edge each is (m,)."""
        if not len(ends):
            return np.zeros((0, 2, 2)), np.zeros(0, dtype=np.int64)
        way = ends[:, 1] - ends[:, 0]
        far = np.linalg.norm(way[:, :2], axis=1)
        count = np.clip(np.ceil(far * mm_per_m / STEP_MM), 1, STEPS_MOST).astype(np.int64)
        edge = np.repeat(np.arange(len(ends)), count)
        number = np.arange(len(edge)) - np.repeat(np.cumsum(count) - count, count)
        aside = np.zeros_like(way)
        aside[:, :2] = np.stack([-way[:, 1], way[:, 0]], axis=1) / far[:, None] * (ASIDE_MM / mm_per_m)

        def seen_at(which: NDArray[np.int64], share: Floats) -> Bools:
            return self._seen(ends[which, 0] + way[which] * share[:, None], aside[which], cut)

        middle = (number + 0.5) / count[edge]
        seen = seen_at(edge, middle)
        # Where one step is seen and the next one of the same edge is not, or the other way round.
        turn = np.flatnonzero((edge[1:] == edge[:-1]) & (seen[1:] != seen[:-1]))
        low, high = middle[turn].copy(), middle[turn + 1].copy()
        for _ in range(HALVED):
            half = (low + high) / 2
            same = seen_at(edge[turn], half) == seen[turn]
            low, high = np.where(same, half, low), np.where(same, high, half)
        return _pieces(ends, edge, seen, turn, (low + high) / 2)


def _pieces(
    ends: Floats, edge: NDArray[np.int64], seen: Bools, turn: NDArray[np.int64], at: Floats
) -> tuple[Floats, NDArray[np.int64]]:
    """Runs of steps that are seen, from where they begin to where they end along their edges."""
    fresh = np.r_[True, edge[1:] != edge[:-1]]
    begins = fresh.copy()
    begins[turn + 1] = True
    first = np.flatnonzero(begins)
    start = np.zeros(len(edge))
    start[turn + 1] = at
    stop = np.ones(len(edge))
    stop[turn] = at
    last = np.r_[first[1:] - 1, len(edge) - 1]
    shown = seen[first]
    first, last = first[shown], last[shown]
    whose = edge[first]
    a, b = ends[whose, 0, :2], ends[whose, 1, :2]
    pieces = np.stack([a + (b - a) * start[first][:, None], a + (b - a) * stop[last][:, None]], axis=1)
    return pieces, whose


def merged(pieces: Floats, without: BaseGeometry | None = None) -> list[Floats]:
    """Straight pieces (m, 2, 2) in millimetres as few lines: what lies in another is drawn once, what continues another
    is one with it. `without`: an area whose inside is left out."""
    if not len(pieces):
        return []
    lines = shapely.set_precision(shapely.linestrings(pieces), GRID_MM)
    whole = shapely.line_merge(shapely.unary_union(lines[~shapely.is_empty(lines)], grid_size=GRID_MM))
    if without is not None and not without.is_empty:
        whole = shapely.line_merge(shapely.difference(whole, without))
    return [shapely.get_coordinates(line) for line in shapely.get_parts(whole)
            if line.geom_type == "LineString" and shapely.length(line) >= SHORT_MM]  # fmt: skip
