"""Where things stand in plan, and who stands inside of them."""

from __future__ import annotations

import math
from functools import singledispatch

import numpy as np
import shapely
from shapely.affinity import rotate, translate
from shapely.geometry import Polygon

from zarfwright.core.kinds import Body
from zarfwright.core.show import Show
from zarfwright.core.site.outline import polygon_of, rectangle
from zarfwright.core.site.things import Deck, Panel, Piece, Wall
from zarfwright.core.site.walls import gap, wall_band, wall_line
from zarfwright.core.space import Floats

OPEN = ("chair", "table", "music stand", "barrier", "screen", "steps", "ramp")
"""Pieces that a person may be in the plan of: they sit on them, reach under them, or walk on them."""
KNEES_M, CHEST_M = 0.3, 1.0
"""Between these heights over the floor a body is in the way of things."""


Footprint = tuple[Polygon, float, float]


@singledispatch
def footprint(body: Body) -> Footprint | None:
    """The plan of a thing in the show's metres, and from which height to which it is solid; None for the others."""
    return None


@footprint.register
def _(body: Wall) -> Footprint | None:
    band = translate(wall_band(body.corners, body.closed, body.thickness_m), *body.position[:2])
    # A door is a gap in it: what is over one's head is not in the way.
    line = wall_line(body.corners, body.closed)
    for opening in body.openings:
        if opening[2] < KNEES_M:
            band = band.difference(translate(gap(line, opening, 2 * body.thickness_m), *body.position[:2]))
    return band, body.position[2], body.position[2] + body.height_m


@footprint.register
def _(body: Deck) -> Footprint | None:
    # Steps and ramps are walked on at every height.
    if body.made in ("steps", "ramp"):
        return None
    return _standing(body, polygon_of(body.corners or rectangle(body.width_m, body.depth_m)), 0.0, body.height_m)


@footprint.register
def _(body: Piece) -> Footprint | None:
    if body.piece in OPEN:
        return None
    return _standing(body, polygon_of(rectangle(body.width_m, body.depth_m)), 0.0, body.height_m)


@footprint.register
def _(body: Panel) -> Footprint | None:
    across, up = [corner[0] for corner in body.corners], [corner[1] for corner in body.corners]
    band = polygon_of(rectangle(max(across) - min(across), body.thickness_m))
    return _standing(body, translate(band, (max(across) + min(across)) / 2), min(up), max(up))


def _standing(body: Deck | Piece | Panel, own: Polygon, low: float, high: float) -> Footprint:
    """A plan in the body's own frame, and heights over its place, brought to where it stands."""
    x, y, z = body.position
    return translate(rotate(own, body.turn_deg, origin=(0, 0)), x, y), z + low, z + high


def inside(show: Show, places: Floats) -> dict[str, list[int]]:
    """Who of the people at some places (n, 3: on the floor) stands in what: their numbers by the ids of things."""
    found: dict[str, list[int]] = {}
    if not len(places):
        return found
    low_x, low_y = places[:, :2].min(axis=0)
    high_x, high_y = places[:, :2].max(axis=0)
    for item in show.items.values():
        print_ = footprint(item.body)
        if print_ is None or show.hidden(item):
            continue
        plan, low, high = print_
        x0, y0, x1, y1 = plan.bounds if not plan.is_empty else (math.inf,) * 4
        if x0 > high_x or x1 < low_x or y0 > high_y or y1 < low_y:
            continue
        in_plan = shapely.contains_xy(plan, places[:, 0], places[:, 1])
        tall = (places[:, 2] + KNEES_M < high - 1e-6) & (places[:, 2] + CHEST_M > low + 1e-6)
        who = np.nonzero(in_plan & tall)[0]
        if len(who):
            found[item.id] = who.tolist()
    return found
