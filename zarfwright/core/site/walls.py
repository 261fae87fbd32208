"""Walls along an outline, with their doors and windows."""

from __future__ import annotations

import itertools
import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon
from shapely.ops import substring

from zarfwright.core.mesh import INWARD, OUTWARD, Mesh, join, reveal
from zarfwright.core.site.outline import SAME_M, Corner, sampled, slab
from zarfwright.core.site.things import Wall

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
    edges = sorted(
        {min(max(along + d * width / 2, 0.0), line.length) for along, width, *_ in openings for d in (-1, 1)}
    )
    for low, high in itertools.pairwise(edges):
        # A window may be over a door.
        free = sorted((o[2], min(o[3], height_m)) for o in openings if abs((low + high) / 2 - o[0]) < o[1] / 2)
        if not free:
            continue
        here = (low + high) / 2, high - low, 0.0, 0.0
        cut = gap(line, here, thickness_m + 2 * SAME_M).intersection(solid)
        solid = solid.difference(cut)
        plans = [one for one in shapely.get_parts(cut) if one.area > SAME_M]
        for foot, top in itertools.pairwise([0.0, *itertools.chain(*free), height_m]):
            # From head to sill, not from sill to head.
            if top - foot > SAME_M and not any(sill <= (foot + top) / 2 <= head for sill, head in free):
                parts += [slab(one, foot, top) for one in plans]
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


BEND = math.radians(15)
"""An opening may lie over a bend of less than this, as a window in a bay does."""
DOOR_SILL_M = 0.3
"""An opening that begins lower than this is a door."""


@dataclass(frozen=True)
class Side:
    """A part of a wall between two of its corners, and from which of its ends lengths along it are measured."""

    name: str
    begins_m: float
    """How far along the wall it begins, and how long it is."""
    length_m: float
    end: Literal["SR", "DS"]
    """The end that is measured from: that nearer to stage right, or downstage where it runs up and down."""
    back: bool
    """That is the end it ends with."""

    def along(self, measured_m: float) -> float:
        """How far along the wall a place is that is measured from this side's end."""
        return self.begins_m + (self.length_m - measured_m if self.back else measured_m)

    def measured(self, along_m: float) -> float:
        """How far from this side's end a place is that is so far along the wall."""
        return self.length_m - (along_m - self.begins_m) if self.back else along_m - self.begins_m


def sides_of(wall: Wall) -> list[Side]:
    """The sides of a wall between the corners at which it bends, named by where a room has them."""
    line = wall_line(wall.corners, wall.closed)
    room = Polygon(line.coords) if wall.closed else None
    places = np.array(line.coords)
    ways = np.diff(places, axis=0)
    far = np.concatenate([[0.0], np.cumsum(np.hypot(ways[:, 0], ways[:, 1]))])
    headings = np.arctan2(ways[:, 1], ways[:, 0])
    turns = [abs(math.remainder(b - a, 2 * math.pi)) for a, b in itertools.pairwise(headings)]
    stops = [0, *(i + 1 for i, turn in enumerate(turns) if turn > BEND), len(places) - 1]
    found = []
    for first, last in itertools.pairwise(stops):
        dx, dy = places[last] - places[first]
        level = abs(dx) >= abs(dy)
        faces = _outward(line, float(far[first] + far[last]) / 2, room)
        found.append(
            Side(
                name=_facing(faces) if wall.closed else "",
                begins_m=float(far[first]),
                length_m=float(far[last] - far[first]),
                end="SR" if level else "DS",
                back=bool((dx if level else dy) < 0),
            )
        )
    return _numbered(found)


def _facing(heading: float) -> str:
    """Where in its room a side is that faces out of it so."""
    x, y = round(math.cos(heading), 3), round(math.sin(heading), 3)
    up = "" if abs(y) < 0.383 else "US" if y > 0 else "DS"
    across = "" if abs(x) < 0.383 else "SL" if x > 0 else "SR"
    return f"{up} {across}".strip() + " side"


def _numbered(sides: list[Side]) -> list[Side]:
    """The sides with names of their own."""
    names = [side.name or "line" for side in sides]
    count: Counter[str] = Counter()
    named = []
    for side, name in zip(sides, names, strict=True):
        count[name] += 1
        several = names.count(name) > 1
        named.append(replace(side, name=f"{name} {count[name]}" if several or not side.name else name))
    return named


def side_at(wall: Wall, along_m: float) -> Side:
    """The side of a wall that a place so far along it is on."""
    sides = sides_of(wall)
    return next((side for side in sides if along_m <= side.begins_m + side.length_m + SAME_M), sides[-1])


def is_door(opening: Opening) -> bool:
    """Whether one walks through it."""
    return opening[2] < DOOR_SILL_M


def has_room(wall: Wall, opening: Opening) -> bool:
    """Whether an opening lies on one side of its wall, and no higher than that."""
    along, width, _, head = opening
    return head <= wall.height_m + SAME_M and any(
        side.begins_m - SAME_M <= along - width / 2 and along + width / 2 <= side.begins_m + side.length_m + SAME_M
        for side in sides_of(wall)
    )


def redrawn_openings(before: Wall, after: Wall) -> tuple[Opening, ...]:
    """The openings of a wall that was drawn anew: each on the side that it was on, as far from where that begins, or at
    its end where it has become shorter. Where there are more sides or fewer, as far along the whole as they were."""
    old, new = sides_of(before), sides_of(after)
    if len(old) != len(new):
        return after.openings
    moved = []
    for along, width, sill, head in before.openings:
        was = side_at(before, along)
        side = new[old.index(was)]
        room = max(side.length_m - width / 2, width / 2)
        moved.append((side.begins_m + min(along - was.begins_m, room), width, sill, head))
    return tuple(moved)


@dataclass(frozen=True)
class Gap:
    """An opening as it is drawn in plan: its outline in the show's frame, and whether it is a door."""

    ring: tuple[tuple[float, float], ...]
    door: bool


def gaps_of(wall: Wall) -> tuple[Gap, ...]:
    """The openings of a wall in plan."""
    line = wall_line(wall.corners, wall.closed)
    x, y, _ = wall.position
    plans = [(gap(line, opening, wall.thickness_m), opening) for opening in wall.openings]
    return tuple(
        Gap(tuple((x + px, y + py) for px, py in plan.exterior.coords), is_door(opening))
        for plan, opening in plans
        if not plan.is_empty
    )
