"""Outlines: corners joined by straight lines and arcs, open or closed, and what can be said of them.

A corner is (x, y, bulge) in metres of the show's plan; the bulge is of the line that starts there: the tangent of a
quarter of the arc's angle, positive anticlockwise, 0 straight, 1 half a circle (as in DXF).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from zarfwright.core.errors import JobError
from zarfwright.core.mesh import Mesh, box, flat, join, turned
from zarfwright.core.space import Floats, about, unit

Corner = tuple[float, float, float]
CORNERS_MAX = 2000
CHORD_M = 0.02
"""How far a chord may lie inside its arc."""
SAME_M = 1e-6
NEAR_M = 0.12
"""An open outline whose ends are this near is nearly closed."""
NEAR_DEG = 2.0
"""A line that is this near to level, upright or the way of its neighbour was meant to be so."""


def arc_points(a: Corner, b: Corner) -> list[tuple[float, float]]:
    """The points of the line from `a` to `b`, without `b`: one where it is straight, chords of an arc else."""
    bulge = a[2]
    if abs(bulge) < 1e-9:
        return [(a[0], a[1])]
    chord = math.dist(a[:2], b[:2])
    angle = 4 * math.atan(bulge)
    if chord < SAME_M:
        return [(a[0], a[1])]
    radius = chord / (2 * math.sin(abs(angle) / 2))
    steps = max(2, math.ceil(abs(angle) / (2 * math.acos(max(1 - CHORD_M / radius, 0.0)) or abs(angle))))
    middle = np.array([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2])
    across = np.array([-(b[1] - a[1]), b[0] - a[0]]) / chord
    centre = middle + across * (chord / 2) / math.tan(angle / 2)
    start = math.atan2(a[1] - centre[1], a[0] - centre[0])
    angles = start + angle * np.arange(steps) / steps
    points = np.stack([centre[0] + radius * np.cos(angles), centre[1] + radius * np.sin(angles)], axis=1)
    return [(float(x), float(y)) for x, y in points]


def sampled(corners: Sequence[Corner], closed: bool) -> Floats:
    """Its points (n, 2); a closed one does not repeat its first."""
    if len(corners) < 2:
        return np.array([corner[:2] for corner in corners]).reshape(-1, 2)
    pairs = list(itertools.pairwise(corners))
    if closed:
        pairs.append((corners[-1], corners[0]))
    points = [point for a, b in pairs for point in arc_points(a, b)]
    if not closed:
        points.append(corners[-1][:2])
    return np.array(points)


def polygon_of(corners: Sequence[Corner]) -> Polygon:
    """The polygon of a closed outline. Raises JobError when it crosses itself or has no area."""
    points = sampled(corners, True)
    if len(points) < 3:
        raise JobError("A closed outline needs three corners: add one more.", "corners")
    polygon = Polygon(points)
    if polygon.convex_hull.area < 1e-4:
        raise JobError("The outline encloses nothing: its corners lie in one line.", "corners")
    if not polygon.is_valid:
        where = shapely.is_valid_reason(polygon)
        place = where[where.find("[") + 1 : where.find("]")].split()
        at = f" near {float(place[0]):.2f}, {float(place[1]):.2f}" if len(place) == 2 else ""
        raise JobError(f"The outline crosses itself{at}: move a corner until its lines no longer cross.", "corners")
    return polygon


def checked(corners: Sequence[Corner], closed: bool) -> tuple[Corner, ...]:
    """The corners, without doubles. Raises JobError where no outline can be made of them."""
    if len(corners) > CORNERS_MAX:
        raise JobError(f"An outline has {CORNERS_MAX} corners at most: draw it in parts.", "corners")
    kept: list[Corner] = []
    for corner in corners:
        if not all(math.isfinite(value) and abs(value) < 2000 for value in corner):
            raise JobError("A corner lies too far away: at most 2 km.", "corners")
        if kept and math.dist(kept[-1][:2], corner[:2]) < SAME_M:
            kept[-1] = corner
        else:
            kept.append(corner)
    if closed and len(kept) > 1 and math.dist(kept[-1][:2], kept[0][:2]) < SAME_M:
        kept.pop()
    if len(kept) < 2:
        raise JobError("An outline needs two corners at least: click once more.", "corners")
    if closed:
        polygon_of(kept)
    return tuple(kept)


def area_m2(corners: Sequence[Corner]) -> float:
    """The area of a closed outline, its arcs exact."""
    flat_area = 0.0
    for a, b in zip(corners, [*corners[1:], corners[0]], strict=True):
        flat_area += (a[0] * b[1] - b[0] * a[1]) / 2
        if a[2]:
            # The segment between chord and arc: r^2 (angle - sin angle) / 2, with its sense.
            angle = 4 * math.atan(a[2])
            radius = math.dist(a[:2], b[:2]) / (2 * math.sin(abs(angle) / 2))
            flat_area += radius**2 * (angle - math.sin(angle)) / 2
    return abs(flat_area)


def length_m(corners: Sequence[Corner], closed: bool) -> float:
    """The length of its lines, its arcs exact."""
    pairs = list(itertools.pairwise(corners)) + ([(corners[-1], corners[0])] if closed else [])
    whole = 0.0
    for a, b in pairs:
        chord = math.dist(a[:2], b[:2])
        angle = abs(4 * math.atan(a[2]))
        whole += chord if angle < 1e-9 else chord / (2 * math.sin(angle / 2)) * angle
    return whole


@dataclass(frozen=True)
class Advice:
    """Something that was nearly meant: what, and the outline with it put right."""

    text: str
    corners: tuple[Corner, ...]
    closed: bool


def advice(corners: Sequence[Corner], closed: bool) -> list[Advice]:
    """Lines that are nearly level or upright, corners that nearly close it."""
    found = []
    if not closed and len(corners) > 2:
        gap = math.dist(corners[0][:2], corners[-1][:2])
        if SAME_M < gap <= NEAR_M:
            kept = (*corners[:-1],)
            found.append(Advice(f"nearly closed: its ends are {gap * 1000:.0f} mm apart", tuple(kept), True))
    for i in range(len(corners) if closed else len(corners) - 1):
        a, b = corners[i], corners[(i + 1) % len(corners)]
        if a[2]:
            continue
        dx, dy = b[0] - a[0], b[1] - a[1]
        away = math.degrees(math.atan2(min(abs(dx), abs(dy)), max(abs(dx), abs(dy))))
        if 1e-4 < away <= NEAR_DEG:
            straight = (b[0], a[1], b[2]) if abs(dx) > abs(dy) else (a[0], b[1], b[2])
            after = list(corners)
            after[(i + 1) % len(corners)] = straight
            way = "across" if abs(dx) > abs(dy) else "up and down stage"
            found.append(Advice(f"line {i + 1} is {away:.1f}° off straight {way}", tuple(after), closed))
    return found


def offset(corners: Sequence[Corner], by_m: float) -> tuple[Corner, ...]:
    """A closed outline further out (positive) or in, with sharp corners. Raises JobError where nothing is left."""
    made = polygon_of(corners).buffer(by_m, join_style="mitre", mitre_limit=4.0)
    if made.is_empty or made.geom_type != "Polygon":
        raise JobError(f"Nothing in one piece is left {abs(by_m):.2f} m further in: type less.", "by")
    ring = shapely.get_coordinates(made.exterior)[:-1]
    return tuple((float(x), float(y), 0.0) for x, y in ring)


def rectangle(width_m: float, depth_m: float, x: float = 0.0, y: float = 0.0) -> tuple[Corner, ...]:
    w, d = width_m / 2, depth_m / 2
    return ((x - w, y - d, 0.0), (x + w, y - d, 0.0), (x + w, y + d, 0.0), (x - w, y + d, 0.0))


def circle(diameter_m: float, x: float = 0.0, y: float = 0.0) -> tuple[Corner, ...]:
    """A circle as two half ones."""
    r = diameter_m / 2
    return ((x - r, y, 1.0), (x + r, y, 1.0))


def triangles_of(polygon: Polygon) -> tuple[Floats, NDArray[np.int64]]:
    """Points (n, 2) and triangles (m, 3) that fill a polygon, counter-clockwise."""
    parts = shapely.get_parts(shapely.constrained_delaunay_triangles(polygon))
    rings = np.array([shapely.get_coordinates(part.exterior)[:3] for part in parts]).reshape(-1, 3, 2)
    a, b = rings[:, 1] - rings[:, 0], rings[:, 2] - rings[:, 0]
    turned = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0] < 0
    rings[turned] = rings[turned][:, ::-1]
    return rings.reshape(-1, 2), np.arange(rings.shape[0] * 3).reshape(-1, 3)


def slab(polygon: Polygon, low_m: float, high_m: float) -> Mesh:
    """A polygon raised from one height to another: top, underside and edges all round, its holes too."""
    points, triangles = triangles_of(polygon)
    faces = []
    for height, normal, order in ((high_m, 1.0, slice(None)), (low_m, -1.0, slice(None, None, -1))):
        vertices = np.column_stack([points, np.full(len(points), height)]).astype(np.float32)
        normals = np.tile([0.0, 0.0, normal], (len(points), 1)).astype(np.float32)
        faces.append(Mesh(vertices, normals, triangles[:, order].astype(np.uint32)))
    sides = []
    oriented = shapely.geometry.polygon.orient(polygon)
    for ring in (oriented.exterior, *oriented.interiors):
        line = shapely.get_coordinates(ring)
        for (x0, y0), (x1, y1) in itertools.pairwise(line):
            sides.append([(x0, y0, low_m), (x1, y1, low_m), (x1, y1, high_m), (x0, y0, high_m)])
    return join([*faces, flat(np.array(sides))])


def outline_deck(corners: Sequence[Corner], height_m: float, platform_m: float, inset_m: float) -> Mesh:
    """A platform of any outline with a fascia all round, set back under its edge."""
    polygon = polygon_of(corners)
    thick = min(platform_m, height_m)
    parts = [slab(polygon, height_m - thick, height_m)]
    below = polygon.buffer(-inset_m, join_style="mitre")
    if height_m - thick > 0.02 and not below.is_empty:
        parts += [slab(part, 0.0, height_m - thick) for part in shapely.get_parts(below)]
    return join(parts)


def rise_mesh(corners: Sequence[Corner], height_m: float, rise_deg: float, count: int) -> Mesh:
    """What rises over an outline, in steps, or as a slope where `count` is 0. It is at its height where the outline
    reaches furthest that way; the first step is as high as the others."""
    polygon = polygon_of(corners)
    angle = math.radians(rise_deg)
    way = np.array([math.cos(angle), math.sin(angle)])
    far = shapely.get_coordinates(polygon.exterior) @ way
    low, high = float(far.min()), float(far.max())
    if count == 0:
        return _sloped(polygon, way, low, high, height_m)
    across = np.array([-way[1], way[0]])
    reach = float(np.abs(shapely.get_coordinates(polygon.exterior)).max()) * 2 + 1.0
    parts = []
    for i in range(count):
        near, end = (low + (high - low) * share / count for share in (i, i + 1))
        band = Polygon([way * a + across * b for a, b in ((near, -reach), (end, -reach), (end, reach), (near, reach))])
        cut = polygon.intersection(band)
        parts += [
            slab(one, 0.0, height_m * (i + 1) / count)
            for one in shapely.get_parts(cut)
            if one.geom_type == "Polygon" and one.area > SAME_M
        ]
    return join(parts)


def _sloped(polygon: Polygon, way: Floats, low: float, high: float, height_m: float) -> Mesh:
    """A ramp: level below, its top rising with the way across the outline."""
    solid = slab(polygon, 0.0, 1.0)
    plan = solid.vertices[:, :2].astype(float)
    share = (plan @ way - low) / max(high - low, SAME_M)
    vertices = np.column_stack([plan, solid.vertices[:, 2] * share * height_m])
    faces = vertices[solid.triangles.reshape(-1)].reshape(-1, 3, 3)
    normals = unit(np.cross(faces[:, 1] - faces[:, 0], faces[:, 2] - faces[:, 0]))
    whole = np.any(normals != 0, axis=1)
    kept = faces[whole].reshape(-1, 3)
    return Mesh(
        kept.astype(np.float32),
        np.repeat(normals[whole], 3, axis=0).astype(np.float32),
        np.arange(len(kept), dtype=np.uint32).reshape(-1, 3),
    )


LEGS_M = 2.0
LEG_M = 0.05


def legged_deck(corners: Sequence[Corner], height_m: float, platform_m: float) -> Mesh:
    """A platform of any outline on legs that are seen: at its corners and no more than 2 m apart between them."""
    polygon = polygon_of(corners)
    thick = min(platform_m, height_m)
    parts = [slab(polygon, height_m - thick, height_m)]
    inside = polygon.buffer(-LEG_M, join_style="mitre")
    tall = height_m - thick
    if tall < 0.02 or inside.is_empty:
        return join(parts)
    for part in shapely.get_parts(inside):
        ring = part.exterior
        at = {round(ring.project(shapely.Point(c)), 4) for c in shapely.get_coordinates(ring.simplify(0.05))}
        stations = sorted(at)
        for start, end in itertools.pairwise([*stations, ring.length]):
            between = math.ceil((end - start) / LEGS_M)
            for k in range(between):
                place = ring.interpolate(start + (end - start) * k / between)
                parts.append(box((LEG_M, LEG_M, tall), (place.x, place.y, tall / 2)))
    return join(parts)


def panel_mesh(corners: Sequence[Corner], thickness_m: float) -> Mesh:
    """An outline stood upright: across is +X, up +Z, its face downstage (-Y), half its thickness on either side."""
    lying = slab(polygon_of(corners), -thickness_m / 2, thickness_m / 2)
    return turned(lying, about((1.0, 0.0, 0.0), math.pi / 2))


def about_middle(corners: tuple[Corner, ...]) -> tuple[tuple[float, float], tuple[Corner, ...], tuple[float, float]]:
    """The middle of an outline's bounds, its corners about that, and the size of the bounds."""
    low_x, low_y, high_x, high_y = polygon_of(corners).bounds
    x, y = (low_x + high_x) / 2, (low_y + high_y) / 2
    centred = tuple((round(cx - x, 6), round(cy - y, 6), b) for cx, cy, b in corners)
    return (x, y), centred, (high_x - low_x, high_y - low_y)


def turned_corners(corners: Iterable[Corner], degrees: float) -> tuple[Corner, ...]:
    """Corners turned about the origin."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return tuple((c * x - s * y, s * x + c * y, b) for x, y, b in corners)
