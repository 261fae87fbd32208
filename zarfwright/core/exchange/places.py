"""The frame of each kind of thing in a scene: where it lies, and the thing brought to where another has put it."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import singledispatch

import numpy as np

from zarfwright.core.exchange.rows import (
    STRAIGHT,
    Rows,
    apart,
    as_rows,
    inside,
    level_turn_deg,
    relative,
    rigid,
    rows_of,
    turn_and_rest,
)  # fmt: skip
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Carrier, Fixture, FocusPoint
from zarfwright.core.scene import upright
from zarfwright.core.show import Show
from zarfwright.core.site import placed
from zarfwright.core.site.figures import HEIGHT_M
from zarfwright.core.site.placed import Turning
from zarfwright.core.site.structures import truss_placement
from zarfwright.core.site.things import Crowd, Figure, MeshPiece, Truss, Venue, Wall
from zarfwright.core.space import Floats, Placement, about, to_matrix, vec

SAME_M, SAME_DEG = 5e-5, 5e-4
"""Places that differ by less are one."""


def same(a: Rows, b: Rows) -> bool:
    """Whether two places are one, sizes and all."""
    away, angle = apart(a, b)
    sizes = max(abs(math.hypot(*u) - math.hypot(*v)) for u, v in zip(a[:3], b[:3], strict=True))
    return away < SAME_M and angle < SAME_DEG and sizes < 1e-5


def _heading_deg(corners: tuple[tuple[float, float, float], ...]) -> float:
    """Which way the first side of an outline runs: what is drawn by corners has no other turn of its own."""
    (x, y, _), (to_x, to_y, _) = corners[0], corners[1]
    return math.degrees(math.atan2(to_y - y, to_x - x))


@singledispatch
def frame(body: object) -> Rows:
    """The frame of a thing in the show's: that in which its mesh is made. A room's is the show's own."""
    return STRAIGHT


@frame.register
def _(body: Turning) -> Rows:
    return rows_of(upright(body.position, body.turn_deg))


@frame.register
def _(body: Figure) -> Rows:
    return rows_of(upright(body.position, body.turn_deg), body.height_m / HEIGHT_M)


@frame.register
def _(body: MeshPiece) -> Rows:
    whole = rows_of(upright(body.position, body.turn_deg), body.scale)
    return inside(whole, (*body.axes, (0.0, 0.0, 0.0))) if body.axes is not None else whole


@frame.register
def _(body: Truss) -> Rows:
    return rows_of(truss_placement(body))


@frame.register
def _(body: Wall) -> Rows:
    return rows_of(upright(body.position, _heading_deg(body.corners)))


@frame.register
def _(body: Crowd) -> Rows:
    return rows_of(upright(vec(placed.anchor(body)), _heading_deg(body.corners)))


@frame.register
def _(body: Carrier) -> Rows:
    return rows_of(upright(body.position, body.turn_deg))


@frame.register
def _(body: FocusPoint) -> Rows:
    return rows_of(Placement(body.position))


def place_of(show: Show, body: object) -> Rows:
    """The frame of a thing of a show; of what hangs, of its clamp."""
    return rows_of(clamp_placement(show, body)) if isinstance(body, Fixture) else frame(body)


@singledispatch
def brought(body: object, to: Rows) -> object | None:
    """The body with its frame at `to`; None where it cannot lie like that (a deck that is tilted, say)."""
    return None


def _motion(body: object, to: Rows) -> tuple[Floats, float] | None:
    """What brings a body there: its frame's origin afterwards (3,), and a turn in plan about it, in degrees."""
    was, rest = turn_and_rest(inside(to, relative(frame(body), STRAIGHT)))
    turn = level_turn_deg(was.rotation)
    return (np.array(to[3]), turn) if rigid(rest) and turn is not None else None


@brought.register
def _(body: Turning | Wall | Crowd | Carrier, to: Rows) -> object | None:
    if same(frame(body), to):
        return body
    motion = _motion(body, to)
    if motion is None:
        return None
    place, turn = motion
    was = np.array(frame(body)[3])
    if isinstance(body, Carrier):
        return replace(body, position=vec(place), turn_deg=_round(body.turn_deg + turn))
    moved = placed.moved(placed.turned(body, turn, was[:2]) if abs(turn) > SAME_DEG / 10 else body, place - was)
    # What is set anew is not left with the crumbs of a sum.
    if isinstance(moved, Turning):
        return replace(moved, position=vec(place), turn_deg=_round(moved.turn_deg))
    return moved


@brought.register
def _(body: Venue, to: Rows) -> object | None:
    if same(STRAIGHT, to):
        return body
    x, y, _z = to[3]
    # A room stands on the floor and lies along the axes: it can be shifted in plan only.
    if not same((*STRAIGHT[:3], (x, y, 0.0)), to) or min(body.upstage_m + y, body.downstage_m - y) <= 0:
        return None
    return replace(body, centre_m=body.centre_m + x, upstage_m=body.upstage_m + y, downstage_m=body.downstage_m - y)


@brought.register
def _(body: FocusPoint, to: Rows) -> object | None:
    return body if same(frame(body), to) else replace(body, position=to[3])


@brought.register
def _(body: MeshPiece, to: Rows) -> object | None:
    if same(frame(body), to):
        return body
    motion = _motion(body, to)
    if motion is not None:
        return replace(body, position=to[3], turn_deg=_round(body.turn_deg + motion[1]))
    return with_axes(replace(body, turn_deg=0.0, scale=1.0), to)


def with_axes(body: MeshPiece, to: Rows) -> MeshPiece:
    """A mesh that is neither turned nor sized, lying as the rows have it: turned in plan where they are no more."""
    place, rest = turn_and_rest(to)
    turn = level_turn_deg(place.rotation)
    size = float(rest[0, 0])
    if turn is not None and size > 0 and np.abs(rest - size * np.eye(3)).max() < 1e-7:
        size = 1.0 if abs(size - 1.0) < 1e-9 else size
        return replace(body, position=to[3], turn_deg=_round(turn), scale=size, axes=None)
    return replace(body, position=to[3], axes=(to[0], to[1], to[2]))


@brought.register
def _(body: Truss, to: Rows) -> object | None:
    if same(frame(body), to):
        return body
    place, rest = turn_and_rest(to)
    u, v, w = to_matrix(place.rotation).T
    turn = math.degrees(math.atan2(-v[0], v[1]))
    rake = math.degrees(math.atan2(u[2], w[2]))
    after = replace(body, position=to[3], turn_deg=_round(turn), rake_deg=_round(rake))
    if body.form == "upright":
        after = replace(after, rake_deg=body.rake_deg)
    # One that is rolled about its own axis, or stretched, is no such structure any more.
    return after if rigid(rest) and _close(frame(after), to) else None


def _close(a: Rows, b: Rows) -> bool:
    away, angle = apart(a, b)
    return away < 1e-4 and angle < 1e-3


def _round(degrees: float) -> float:
    """Degrees without what double precision leaves behind a turn there and back."""
    return round(degrees, 7) + 0.0


def only_turned(to: Rows) -> bool:
    """Whether a place is turned and no more: neither mirrored nor of another size."""
    return rigid(turn_and_rest(to)[1])


def upside_down() -> Rows:
    """Half a turn about the line across the stage: what makes a scene that stands on its head stand."""
    turned = to_matrix(about((1.0, 0.0, 0.0), math.pi)).T
    return as_rows(np.vstack([turned, np.zeros(3)]))
