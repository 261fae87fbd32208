"""Where a plane cuts solids: their cut faces with hatching, and lines where what is cut does not close."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import MultiLineString, MultiPolygon, Point, Polygon
from shapely.geometry.base import BaseGeometry

from zarfwright.core.sheet.hidden import WELD_M, Faces
from zarfwright.core.space import Floats

NUDGE_M = 1.4e-5
GRID_M = 1e-5
GAP_M = 0.25
HATCH_MM = 1.6
THIN_MM = 1.0


def crossings(faces: Faces, cut: float) -> tuple[Floats, Floats]:
    """Where triangles cross the plane d = `cut`: straight pieces (n, 2, 2) in it, and whose they are (n,)."""
    d = faces.corners[:, :, 2] - cut
    # Corners that lie in the plane are taken to be behind it.
    d = np.where(np.abs(d) < NUDGE_M, -NUDGE_M, d)
    over = d > 0
    crossing = np.flatnonzero(over.any(axis=1) & ~over.all(axis=1))
    d, over, corners = d[crossing], over[crossing], faces.corners[crossing]
    lone = np.where(over.sum(axis=1) == 1, np.argmax(over, axis=1), np.argmin(over, axis=1))
    row = np.arange(len(crossing))
    ends = []
    for step in (1, 2):
        other = (lone + step) % 3
        share = d[row, lone] / (d[row, lone] - d[row, other])
        ends.append(corners[row, lone] + (corners[row, other] - corners[row, lone]) * share[:, None])
    return np.stack(ends, axis=1)[:, :, :2], faces.owner[crossing].astype(float)


def components(faces: Faces) -> Faces:
    """The same triangles, owned by the pieces of mesh that hang together: each is cut by itself."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    flat = faces.corners.reshape(-1, 3)
    key = np.concatenate([np.round(flat / WELD_M).astype(np.int64), np.repeat(faces.owner, 3)[:, None]], axis=1)
    _, which = np.unique(key, axis=0, return_inverse=True)
    corner = which.reshape(-1, 3)
    ends = np.concatenate([corner[:, [0, 1]], corner[:, [1, 2]]])
    most = int(which.max()) + 1
    graph = coo_array((np.ones(len(ends)), (ends[:, 0], ends[:, 1])), shape=(most, most))
    return Faces(faces.corners, connected_components(graph, directed=False)[1][corner[:, 0]].astype(np.int64))


def cut_faces(faces: Faces, cut: float) -> tuple[BaseGeometry, list[Floats]]:
    """What is cut, as an area in the view's plane (metres), and the lines of what does not close (each (n, 2))."""
    low, high = faces.corners[:, :, 2].min(axis=1), faces.corners[:, :, 2].max(axis=1)
    touched = np.unique(faces.owner[(low <= cut) & (high >= cut)])
    near = faces.chosen(np.isin(faces.owner, touched))
    if not len(near.corners):
        return MultiPolygon(), []
    pieces, owner = crossings(components(near), cut)
    areas: list[BaseGeometry] = []
    loose: list[Floats] = []
    for one in np.unique(owner):
        area, rest = _one(pieces[owner == one])
        areas.append(area)
        loose += rest
    return shapely.union_all(areas) if areas else MultiPolygon(), loose


def _odd(point: Point, pieces: Floats) -> bool:
    """Whether a ray from a place to the right crosses straight pieces (n, 2, 2) an odd number of times."""
    x, y = point.x, point.y
    above = pieces[:, :, 1] > y
    row = pieces[above[:, 0] != above[:, 1]]
    share = (y - row[:, 0, 1]) / (row[:, 1, 1] - row[:, 0, 1])
    return int(np.sum(row[:, 0, 0] + share * (row[:, 1, 0] - row[:, 0, 0]) > x)) % 2 == 1


def _one(pieces: Floats) -> tuple[BaseGeometry, list[Floats]]:
    """The cut of one piece of mesh: what its lines hold, even and odd; ends that all but meet are joined."""
    lines = shapely.set_precision(shapely.linestrings(pieces), GRID_M)
    joined = shapely.unary_union(lines[~shapely.is_empty(lines)], grid_size=GRID_M)
    found, _, dangles, invalid = shapely.polygonize_full([joined])
    inside: list[BaseGeometry] = [
        face for face in shapely.get_parts(found) if _odd(face.representative_point(), pieces)
    ]
    loose = []
    rests = shapely.line_merge(shapely.union_all([*shapely.get_parts(dangles), *shapely.get_parts(invalid)]))
    for rest in shapely.get_parts(rests):
        coordinates = shapely.get_coordinates(rest)
        if len(coordinates) > 2 and np.linalg.norm(coordinates[0] - coordinates[-1]) < GAP_M:
            inside.append(Polygon(coordinates).buffer(0))
        elif len(coordinates) > 1:
            loose.append(coordinates)
    return shapely.union_all(inside), loose


def thin(area: Polygon) -> bool:
    """Whether a face in millimetres is too thin to be hatched: it is drawn solid."""
    return bool(area.buffer(-THIN_MM / 2).is_empty)


def hatching(area: BaseGeometry) -> list[Floats]:
    """Lines at 45 degrees over an area in millimetres, always in the same places of the paper."""
    if area.is_empty:
        return []
    x0, y0, x1, y1 = area.bounds
    pitch = HATCH_MM * np.sqrt(2)
    first, last = np.floor((x0 - y1) / pitch), np.ceil((x1 - y0) / pitch)
    at = np.arange(first, last + 1) * pitch
    lines = MultiLineString([[(c + y0, y0), (c + y1, y1)] for c in at.tolist()]) if y1 > y0 else MultiLineString()
    found = shapely.intersection(lines, area)
    return [shapely.get_coordinates(line) for line in shapely.get_parts(found) if line.geom_type == "LineString"]
