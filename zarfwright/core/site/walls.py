"""Walls along an outline, with their doors and windows."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon
from shapely.ops import substring

from zarfwright.core.mesh import INWARD, OUTWARD, Mesh, join, reveal
from zarfwright.core.site.outline import SAME_M, Corner, sampled, slab
from zarfwright.core.space import Floats

Opening = tuple[float, float, float, float]
"""How far along its middle is, how wide, and from which height to which, metres."""


def wall_line(corners: Sequence[Corner], closed: bool) -> LineString:
    """The middle of a wall in its plan; a closed one ends where it begins."""
    points = sampled(corners, closed)
    return LineString([*points, points[0]] if closed else points)


def wall_band(corners: Sequence[Corner], closed: bool, thickness_m: float) -> Polygon:
    """The plan of a wall along an outline, half its thickness on either side."""
    line = wall_line(corners, closed)
    return line.buffer(thickness_m / 2, cap_style="flat", join_style="mitre", mitre_limit=4.0)


def gap(line: LineString, opening: Opening, across_m: float) -> Polygon:
    """The plan of an opening: a part of the wall's line, half of `across_m` on either side; empty where none is."""
    along, width, *_ = opening
    piece = substring(line, max(along - width / 2, 0.0), min(along + width / 2, line.length))
    if piece.length < SAME_M:
        return Polygon()
    return piece.buffer(across_m / 2, cap_style="flat", join_style="mitre")


def wall_mesh(
    corners: Sequence[Corner],
    closed: bool,
    height_m: float,
    thickness_m: float,
    openings: Sequence[Opening],
) -> Mesh:
    """A wall with its openings cut out: what is beside them, under their sills and over their heads."""
    line = wall_line(corners, closed)
    solid, parts = wall_band(corners, closed, thickness_m), []
    for opening in openings:
        _, _, sill, head = opening
        cut = gap(line, opening, thickness_m + 2 * SAME_M).intersection(solid)
        solid = solid.difference(cut)
        for low, high in ((0.0, min(sill, height_m)), (min(head, height_m), height_m)):
            if high - low > SAME_M:
                parts += [slab(one, low, high) for one in shapely.get_parts(cut) if one.area > SAME_M]
    parts += [slab(one, 0.0, height_m) for one in shapely.get_parts(solid) if one.area > SAME_M]
    return _told(join(parts), line, thickness_m, Polygon(line.coords) if closed else None)


def _told(mesh: Mesh, line: LineString, thickness_m: float, room: Polygon | None) -> Mesh:
    """The mesh with its upright faces told apart (`Mesh.parts`), so that a wall in the way can be left out of a
    picture: which look out of the room, which into it, and which are the sides of an opening or an end."""
    faces = mesh.vertices[mesh.triangles].astype(float)
    middles = faces.mean(axis=1)[:, :2]
    # The middle of a triangle of a face lies anywhere along it, but always as far from the wall's line as the face.
    points = shapely.points(middles)
    outside = np.zeros(len(points), bool) if room is None else ~shapely.contains(room, points)
    side = shapely.distance(points, line) < thickness_m * 0.4
    upright = np.abs(mesh.normals[mesh.triangles[:, 0], 2]) < 0.5
    told = np.where(outside, OUTWARD, INWARD).astype(np.float32)
    for i in np.flatnonzero(side & upright):
        told[i] = reveal(_outward(line, line.project(shapely.Point(middles[i])), room))
    parts = np.full(len(mesh.vertices), INWARD, np.float32)
    parts[mesh.triangles.reshape(-1)] = np.repeat(np.where(upright, told, INWARD), 3)
    return replace(mesh, parts=parts)


def _outward(line: LineString, along: float, room: Polygon | None) -> float:
    """Which way a wall faces there, out of its room if it has one: radians in plan, 0 along +X."""
    a, b = (np.array(line.interpolate(min(max(along + d, 0.0), line.length)).coords[0]) for d in (-0.01, 0.01))
    heading = math.atan2(a[0] - b[0], b[1] - a[1])
    ahead = (a + b) / 2 + 0.02 * np.array([math.cos(heading), math.sin(heading)])
    return heading + (math.pi if room is not None and room.contains(shapely.Point(ahead)) else 0.0)


def corners_along(corners: Sequence[Corner], closed: bool) -> Floats:
    """How far along each corner is at which a wall bends, metres; for a closed one also its first, at both ends."""
    points = sampled(corners, closed)
    ways = np.diff(np.vstack([points, points[:1]]) if closed else points, axis=0)
    far = np.concatenate([[0.0], np.cumsum(np.hypot(ways[:, 0], ways[:, 1]))])
    headings = np.arctan2(ways[:, 1], ways[:, 0])
    bends = [
        float(far[i + 1])
        for i, (a, b) in enumerate(itertools.pairwise(headings))
        if abs(math.remainder(b - a, 2 * math.pi)) > BEND
    ]
    if closed:
        bends += [0.0, float(far[-1])]
    return np.array(sorted(bends))


BEND = math.radians(15)
"""An opening may lie over a bend of less than this, as a window in a bay does."""
