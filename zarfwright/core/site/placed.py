"""Things with a place of their own in the site: how each kind is moved, turned, mirrored, and drawn by other corners.

A kind that lies differently registers its own way here; lengths are metres in the show's frame, angles degrees.
"""

from __future__ import annotations

import math
from dataclasses import replace
from functools import singledispatch

import numpy as np

from zarfwright.core.errors import JobError
from zarfwright.core.site.outline import Corner, about_middle, checked, offset, polygon_of, rectangle, turned_corners
from zarfwright.core.site.things import Crowd, Deck, Figure, MeshPiece, Panel, Piece, Truss, Wall
from zarfwright.core.site.walls import redrawn_openings
from zarfwright.core.space import Floats

Turning = Deck | Panel | Piece | MeshPiece | Truss | Figure
"""Those that have a turn of their own."""
Placed = Turning | Wall | Crowd
WHOLE_DEG = 360.0 - 1e-9
LEVEL_DEG = 1e-6


def _unknown(body: object) -> TypeError:
    return TypeError(f"{type(body).__name__} has no place of its own in the site")


@singledispatch
def moved(body: Placed, by: Floats) -> Placed:
    """The body shifted by (3,)."""
    raise _unknown(body)


@moved.register
def _(body: Turning | Wall, by: Floats) -> Placed:
    x, y, z = (float(value) for value in by)
    px, py, pz = body.position
    return replace(body, position=(px + x, py + y, pz + z))


@moved.register
def _(body: Crowd, by: Floats) -> Placed:
    x, y, z = (float(value) for value in by)
    corners = tuple((cx + x, cy + y, b) for cx, cy, b in body.corners)
    aisles = tuple((ax + x, ay + y, bx + x, by_ + y, w) for ax, ay, bx, by_, w in body.aisles)
    clear = tuple(tuple((cx + x, cy + y, b) for cx, cy, b in one) for one in body.clear)
    return replace(body, corners=corners, aisles=aisles, clear=clear, z_m=body.z_m + z)


def _about(degrees: float, about: Floats, x: float, y: float) -> tuple[float, float]:
    """A place of the plan turned about another (2,)."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    dx, dy = x - about[0], y - about[1]
    return float(about[0] + c * dx - s * dy), float(about[1] + s * dx + c * dy)


@singledispatch
def turned(body: Placed, degrees: float, about: Floats) -> Placed:
    """The body turned in plan about a place (2,)."""
    raise _unknown(body)


@turned.register
def _(body: Turning, degrees: float, about: Floats) -> Placed:
    x, y, z = body.position
    return replace(body, position=(*_about(degrees, about, x, y), z), turn_deg=body.turn_deg + degrees)


@turned.register
def _(body: Wall, degrees: float, about: Floats) -> Placed:
    x, y, z = body.position
    corners = turned_corners(body.corners, degrees)
    return replace(body, position=(*_about(degrees, about, x, y), z), corners=corners)


@turned.register
def _(body: Crowd, degrees: float, about: Floats) -> Placed:
    def place(x: float, y: float) -> tuple[float, float]:
        return _about(degrees, about, x, y)

    corners = tuple((*place(x, y), b) for x, y, b in body.corners)
    aisles = tuple((*place(ax, ay), *place(bx, by), w) for ax, ay, bx, by, w in body.aisles)
    clear = tuple(tuple((*place(x, y), b) for x, y, b in one) for one in body.clear)
    return replace(body, corners=corners, aisles=aisles, clear=clear)


def set_turn(body: Placed, turn_deg: float) -> Placed:
    """The body at another turn of its own; those that are drawn by corners alone have none and stay."""
    return replace(body, turn_deg=turn_deg) if isinstance(body, Turning) else body


def facing_as(body: Placed, before: Placed) -> Placed:
    """The body turned back about its own middle as it was before."""
    return set_turn(body, before.turn_deg) if isinstance(before, Turning) else body


@singledispatch
def facing(body: Placed) -> float | None:
    """What is added to the direction that something faces (degrees, 0 stage left) to give its turn; None of what has
    no front."""
    return None


@facing.register
def _(body: Deck | MeshPiece | Figure) -> float | None:
    """People face upstage at 0."""
    return -90.0


@facing.register
def _(body: Piece | Panel) -> float | None:
    """Scenery faces downstage at 0."""
    return 90.0


@facing.register
def _(body: Truss) -> float | None:
    """Structures lie along stage left."""
    return 0.0


@singledispatch
def mirrored(body: Placed) -> Placed:
    """The body's mirror image across the centre line: a new placement, never a negative scale.

    Raises JobError for a tilted arc.
    """
    raise _unknown(body)


@mirrored.register
def _(body: Piece | MeshPiece | Figure) -> Placed:
    x, y, z = body.position
    return replace(body, position=(-x, y, z), turn_deg=-body.turn_deg)


def _across(corners: tuple[Corner, ...]) -> tuple[Corner, ...]:
    return tuple((-x, y, -bulge) for x, y, bulge in corners)


@mirrored.register
def _(body: Deck) -> Placed:
    x, y, z = body.position
    corners, rise = _across(body.corners), 180.0 - body.rise_deg
    return replace(body, position=(-x, y, z), turn_deg=-body.turn_deg, corners=corners, rise_deg=rise)


@mirrored.register
def _(body: Panel) -> Placed:
    x, y, z = body.position
    return replace(body, position=(-x, y, z), turn_deg=-body.turn_deg, corners=_across(body.corners))


@mirrored.register
def _(body: Wall) -> Placed:
    x, y, z = body.position
    return replace(body, position=(-x, y, z), corners=_across(body.corners))


@mirrored.register
def _(body: Crowd) -> Placed:
    aisles = tuple((-ax, ay, -bx, by, w) for ax, ay, bx, by, w in body.aisles)
    target = (-body.target[0], body.target[1]) if body.target is not None else None
    clear = tuple(_across(one) for one in body.clear)
    return replace(body, corners=_across(body.corners), aisles=aisles, clear=clear, target=target)


@mirrored.register
def _(body: Truss) -> Placed:
    x, y, z = body.position
    if body.form == "straight":
        # From the other side, so that a raked one keeps its high end upstage or downstage.
        return replace(body, position=(-x, y, z), turn_deg=180.0 - body.turn_deg)
    if body.form != "arc":
        return replace(body, position=(-x, y, z), turn_deg=-body.turn_deg)
    # A ring is tilted to the other side; an arc that is level begins where it ended.
    if body.span_deg >= WHOLE_DEG:
        return replace(body, position=(-x, y, z), turn_deg=-body.turn_deg, rake_deg=-body.rake_deg)
    if abs(body.rake_deg) > LEVEL_DEG:
        raise JobError(f"{body.name} is a tilted arc, which has no mirror image that is one: level it first.")
    return replace(body, position=(-x, y, z), turn_deg=-body.turn_deg - body.span_deg)


@singledispatch
def anchor(body: Placed) -> Floats:
    """The place (3,) that is brought onto a guide."""
    raise _unknown(body)


@anchor.register
def _(body: Turning) -> Floats:
    return np.array(body.position)


@anchor.register
def _(body: Wall) -> Floats:
    corners = np.array([corner[:2] for corner in body.corners])
    return np.array([*(corners.mean(axis=0) + body.position[:2]), body.position[2]])


@anchor.register
def _(body: Crowd) -> Floats:
    middle = polygon_of(body.corners).centroid
    return np.array([middle.x, middle.y, body.z_m])


def outline_of(body: object) -> tuple[tuple[Corner, ...], bool]:
    """The corners that a body is drawn by, in its own frame, and whether they are closed; none of others."""
    if isinstance(body, Wall):
        return body.corners, body.closed
    return (body.corners if isinstance(body, Deck | Panel | Crowd) else ()), True


@singledispatch
def redrawn(body: object, corners: list[Corner], closed: bool) -> Placed | None:
    """The body with other corners as they lie in the plan (of a panel: across and up its face from its position); None
    where it has no outline. Raises JobError for an outline that crosses itself."""
    return None


@redrawn.register
def _(body: Wall, corners: list[Corner], closed: bool) -> Placed:
    px, py, _z = body.position
    own = tuple((x - px, y - py, bulge) for x, y, bulge in checked(corners, closed))
    after = replace(body, corners=own, closed=closed)
    return replace(after, openings=redrawn_openings(body, after)) if body.openings else after


@redrawn.register
def _(body: Deck, corners: list[Corner], closed: bool) -> Placed:
    px, py, _z = body.position
    own = ((x - px, y - py, bulge) for x, y, bulge in checked(corners, True))
    return with_outline(body, turned_corners(own, -body.turn_deg))


@redrawn.register
def _(body: Panel | Crowd, corners: list[Corner], closed: bool) -> Placed:
    return replace(body, corners=checked(corners, True))


def with_outline(deck: Deck, own: tuple[Corner, ...]) -> Deck:
    """A deck of another outline, given in its own frame: its position becomes the middle of that, its turn stays."""
    (x, y), about, (width, depth) = about_middle(own)
    ((dx, dy, _),) = turned_corners(((x, y, 0.0),), deck.turn_deg)
    px, py, pz = deck.position
    return replace(deck, corners=about, width_m=width, depth_m=depth, position=(px + dx, py + dy, pz))


@singledispatch
def offset_by(body: object, by: float) -> Placed | None:
    """The body with its outline further out, or with a minus further in; None where it has no closed one. Raises
    JobError where nothing is left."""
    return None


@offset_by.register
def _(body: Deck, by: float) -> Placed:
    return with_outline(body, checked(offset(body.corners or rectangle(body.width_m, body.depth_m), by), True))


@offset_by.register
def _(body: Crowd, by: float) -> Placed:
    return replace(body, corners=checked(offset(body.corners, by), True))
