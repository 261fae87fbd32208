"""The set and the venue in a view: lines that are seen, cut faces, what is overhead; and people."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from zarfwright.core.scene import people_of
from zarfwright.core.sheet.cuts import cut_faces, hatching, thin
from zarfwright.core.sheet.frames import Frame
from zarfwright.core.sheet.hidden import Edges, Faces, Hider, edges_of, merged
from zarfwright.core.sheet.marks import Circle, Line, Mark
from zarfwright.core.sheet.scope import Scope
from zarfwright.core.show import Show
from zarfwright.core.site.crowd import kept_places
from zarfwright.core.site.figures import eye_height_m
from zarfwright.core.site.things import Crowd
from zarfwright.core.space import Floats

OVERHEAD_MOST = 4000
"""Triangles of which the outline of what is overhead is made; of finer meshes it is their convex hull."""
SHOULDERS_M = 0.23


class Mask:
    """Areas on paper under which lines are left out: symbols."""

    def __init__(self, areas: Sequence[BaseGeometry]) -> None:
        # Those that lie over one another as one: then what is left lies apart, and is put together without any work.
        self._parts = shapely.get_parts(shapely.union_all(list(areas))) if len(areas) else np.array([], dtype=object)
        self._tree = shapely.STRtree(self._parts) if len(self._parts) else None

    def off(self, lines: NDArray[np.object_]) -> NDArray[np.object_]:
        """Lines with what is under an area taken out of each."""
        if self._tree is None or not len(lines):
            return lines
        which, area = self._tree.query(lines, predicate="intersects")
        kept = lines.copy()
        for i in np.unique(which).tolist():
            kept[i] = shapely.difference(lines[i], shapely.multipolygons(self._parts[area[which == i]]))
        return kept


NOTHING = Mask(())


@dataclass(frozen=True)
class Onto:
    """From the plane of a view to paper: millimetres a metre, and where its origin comes to lie."""

    mm_per_m: float
    x: float
    y: float
    clip: BaseGeometry
    """What of the paper the view may be drawn on, millimetres."""

    def of(self, points: Floats) -> Floats:
        """Places (..., 2 or 3) of the view on paper (..., 2), millimetres."""
        return np.asarray(points[..., :2] * self.mm_per_m + [self.x, self.y])

    def lines(self, pen: str, lines: list[Floats], part: str, without: Mask = NOTHING) -> list[Mark]:
        """Lines (n, 2) on paper as marks, what is outside of the view or in `without` left out."""
        made = [shapely.linestrings(line) for line in lines if len(line) > 1]
        if not made:
            return []
        kept = without.off(np.asarray(shapely.intersection(np.array(made), self.clip)))
        return [Line(pen, tuple(map(tuple, shapely.get_coordinates(one).tolist())), part=part)
                for one in shapely.get_parts(kept) if one.geom_type == "LineString" and not one.is_empty]  # fmt: skip


def _trimmed(edges: Edges, cut: float | None) -> Edges:
    """Edges with what is before the cut taken off."""
    if cut is None or not len(edges.ends):
        return edges
    ends = edges.ends.copy()
    before = ends[:, :, 2] > cut + 1e-9
    for one, other in ((0, 1), (1, 0)):
        rows = np.flatnonzero(before[:, one] & ~before[:, other])
        a, b = edges.ends[rows, one], edges.ends[rows, other]
        ends[rows, one] = b + (a - b) * ((cut - b[:, 2]) / (a[:, 2] - b[:, 2]))[:, None]
    keep = ~before.all(axis=1) & (np.linalg.norm(ends[:, 0, :2] - ends[:, 1, :2], axis=1) > 1e-6)
    return Edges(ends[keep], edges.bold[keep])


def _overhead(faces: Faces, onto: Onto, part: str, without: Mask) -> list[Mark]:
    """The outlines of what is above a plan's cut, dashed."""
    marks: list[Mark] = []
    for one in np.unique(faces.owner):
        own = onto.of(faces.corners[faces.owner == one])
        if len(own) > OVERHEAD_MOST:
            area = shapely.convex_hull(shapely.multipoints(own.reshape(-1, 2)))
        else:
            triangles = shapely.polygons(own)
            area = shapely.union_all(shapely.set_precision(triangles[shapely.area(triangles) > 1e-6], 0.01))
        rings = [shapely.get_coordinates(ring) for ring in shapely.get_parts(shapely.boundary(area))]
        marks += onto.lines("overhead", rings, part, without)
    return marks


def _cut(faces: Faces, cut: float, onto: Onto, part: str, without: Mask) -> tuple[list[Mark], BaseGeometry]:
    """Cut faces with their hatching, and the area that they take on paper."""
    area, loose = cut_faces(faces, cut)
    paper = shapely.transform(area, lambda at: at * onto.mm_per_m + [onto.x, onto.y])
    paper = shapely.intersection(shapely.make_valid(paper), onto.clip)
    marks: list[Mark] = []
    for face in shapely.get_parts(paper):
        if face.geom_type != "Polygon" or face.is_empty:
            continue
        rings = [shapely.get_coordinates(ring) for ring in (face.exterior, *face.interiors)]
        if thin(face):
            marks.append(Line("cut", tuple(map(tuple, rings[0].tolist())), True, "solid", part))
        else:
            marks += onto.lines("hatch", hatching(face), part, without)
            marks += onto.lines("cut", rings, part, without)
    marks += onto.lines("cut", [onto.of(line) for line in loose], part, without)
    return marks, paper


def site_marks(faces: Faces, frame: Frame, onto: Onto, part: str, without: Mask) -> list[Mark]:
    """What stands on the site. `without`: where symbols are, on paper."""
    if not len(faces.corners):
        return []
    marks: list[Mark] = []
    solid = shapely.MultiPolygon()
    if frame.cut is not None:
        low = np.full(int(faces.owner.max()) + 1, np.inf)
        np.minimum.at(low, faces.owner, faces.corners[:, :, 2].min(axis=1))
        above = (low > frame.cut - 1e-6)[faces.owner]
        if frame.flat:
            marks += _overhead(faces.chosen(above), onto, part, without)
        faces = faces.chosen(~above)
        made, solid = _cut(faces, frame.cut, onto, part, without)
        marks = made + marks
    edges = _trimmed(edges_of(faces), frame.cut)
    pieces, whose = Hider(faces).visible(edges.ends, onto.mm_per_m, frame.cut)
    if not len(pieces):
        return marks
    pieces, bold = onto.of(pieces), edges.bold[whose]
    silhouettes = merged(pieces[bold], solid)
    drawn = shapely.union_all([shapely.linestrings(line) for line in silhouettes]).buffer(0.05)
    creases = merged(pieces[~bold], shapely.union(drawn, solid))
    return [
        *onto.lines("crease", creases, part, without),
        *onto.lines("silhouette", silhouettes, part, without),
        *marks,
    ]


def people_marks(show: Show, scope: Scope, frame: Frame, onto: Onto, part: str) -> list[Mark]:
    """People: in plan a circle each; else those who are no crowd, as outlines."""
    if not frame.flat:
        return _upright(scope, frame, onto, part)
    places = [np.array([figure.position for figure in scope.figures]).reshape(-1, 3)]
    for item in scope.crowds:
        crowd = item.body
        assert isinstance(crowd, Crowd)
        who = people_of(crowd)
        places.append(who.places[kept_places(crowd, who.count)])
    at = onto.of(frame.of(np.concatenate(places)))
    inside = shapely.contains_xy(onto.clip, at[:, 0], at[:, 1])
    return [Circle("crowd", (x, y), SHOULDERS_M * onto.mm_per_m, part=part) for x, y in at[inside].tolist()]


def _upright(scope: Scope, frame: Frame, onto: Onto, part: str) -> list[Mark]:
    shapes = []
    for figure in scope.figures:
        foot = onto.of(frame.of(np.asarray(figure.position)))
        tall, wide = (size * onto.mm_per_m for size in (eye_height_m(figure.pose, figure.height_m), SHOULDERS_M))
        x, y = foot.tolist()
        body = shapely.Polygon([(x - wide * 0.6, y), (x + wide * 0.6, y), (x + wide, y + tall * 0.85),
                                (x - wide, y + tall * 0.85)])  # fmt: skip
        shapes += [body, shapely.Point(x, y + tall).buffer(0.11 * onto.mm_per_m, 6)]
    outline = shapely.boundary(shapely.union_all(shapes))
    rings = [shapely.get_coordinates(line) for line in shapely.get_parts(outline)]
    return onto.lines("crowd", rings, part)
