"""Edits that set things by others: datums moved, ends joined, heights over what is below, repeats on a grid or arc."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Literal

import numpy as np

from zarfwright.core.edits.arranging import (
    ABOVE_M,
    bounds_of,
    placed_among,
)
from zarfwright.core.edits.base import (
    Arguments,
    Edit,
    NewId,
    added,
    changed,
    coordinate,
    length,
    made,
    require_some,
    signed_length,
    within,
)
from zarfwright.core.errors import JobError
from zarfwright.core.kinds import Body, is_placed
from zarfwright.core.looks.look import Look
from zarfwright.core.rig.things import Aim, Carrier, Fixture, FocusPoint, Palette
from zarfwright.core.settings import Viewpoint
from zarfwright.core.show import Item, Show, listed
from zarfwright.core.site import placed
from zarfwright.core.site.loads import height_below
from zarfwright.core.site.placed import Placed
from zarfwright.core.site.structures import rail_names, truss_placement, truss_rails
from zarfwright.core.site.things import Crowd, Drawing, Figure, Truss, Venue
from zarfwright.core.space import Floats, Placement, vec
from zarfwright.core.units import format_length, parse_angle_deg, parse_count


class MoveDatums(Arguments):
    """Let the centre line and the setting line cross at another place of the plan. Nothing moves in the room: all
    places are counted from there from now on."""

    x: str = "0"
    y: str = "0"


def _seen_from(show: Show, item: Item, x: float, y: float) -> Body | None:
    """The body with its places counted from x, y; None where it has none of its own."""
    body, by = item.body, np.array([-x, -y, 0.0])
    if isinstance(body, Crowd) and body.target is not None:
        body = replace(body, target=(body.target[0] - x, body.target[1] - y))
    if isinstance(body, Figure) and body.path:
        body = replace(body, path=tuple(vec(np.add(place, by)) for place in body.path))
    if is_placed(body):
        return placed.moved(body, by)
    if isinstance(body, Venue):
        return replace(body, centre_m=body.centre_m - x, upstage_m=body.upstage_m - y, downstage_m=body.downstage_m + y)
    if isinstance(body, Drawing):
        # Its origin is the place in its own units that lies on the datums' crossing.
        angle = math.radians(body.turn_deg)
        dx, dy = (x * math.cos(angle) + y * math.sin(angle), -x * math.sin(angle) + y * math.cos(angle))
        return replace(body, origin=(body.origin[0] + dx / body.metres, body.origin[1] + dy / body.metres))
    return _rigged_from(body, by)


def _rigged_from(body: Body, by: Floats) -> Body | None:
    """The same of what belongs to the rig, its focus and its looks; `by` is how far all of it goes, metres."""
    if isinstance(body, Carrier | FocusPoint):
        return replace(body, position=vec(np.add(body.position, by)))
    if isinstance(body, Palette) and body.aims:
        return replace(body, aims={key: _aim_from(aim, by) for key, aim in body.aims.items()})
    if isinstance(body, Look) and body.carriers:
        dx, dy, _ = by.tolist()
        return replace(body, carriers={key: (a + dx, b + dy, c, d) for key, (a, b, c, d) in body.carriers.items()})
    if isinstance(body, Viewpoint):
        return replace(body, eye=vec(np.add(body.eye, by)), target=vec(np.add(body.target, by)))
    if isinstance(body, Fixture):
        return _fixture_from(body, by)
    return None


def _aim_from(aim: Aim, by: Floats) -> Aim:
    return replace(aim, place=vec(np.add(aim.place, by)))


def _fixture_from(body: Fixture, by: Floats) -> Fixture | None:
    """A fixture with what it is aimed at, and its own place where it has one; None where there is neither."""
    if body.placement is None and body.aim is None:
        return None
    place = body.placement
    placement = Placement(vec(np.add(place.position, by)), place.rotation) if place is not None else None
    return replace(body, placement=placement, aim=_aim_from(body.aim, by) if body.aim is not None else None)


def move_datums(show: Show, args: MoveDatums, _: NewId) -> Edit:
    x, y = coordinate(show, args.x, "x", "x"), coordinate(show, args.y, "y", "y")
    if abs(x) < 1e-9 and abs(y) < 1e-9:
        raise JobError("The datums cross there already: type another place.", "x")
    for _item, venue in show.bodies(Venue):
        if not -venue.downstage_m + 0.5 <= y <= venue.upstage_m - 0.5:
            raise JobError("The setting line would lie outside of the room: type a place inside.", "y")
    moved = [(item, _seen_from(show, item, x, y)) for item in show.items.values()]
    changes = tuple(changed(item, body) for item, body in moved if body is not None)
    system = show.settings.system
    where = [
        format_length(abs(v), system) + " " + side
        for v, side in ((x, "SL" if x > 0 else "SR"), (y, "US" if y > 0 else "DS"))
        if v
    ]
    return Edit(changes, f"Move the datums by {' and '.join(where)}", ())


class JoinEnds(Arguments):
    """Bring structures end to end: each is shifted until its nearer end meets the nearest end of the one before it."""

    ids: list[str]


def ends_of(truss: Truss) -> Floats:
    """The two ends (2, 3) of a structure's axis in the show's frame: of the middle of its lower rails; of a whole ring
    its places upstage and downstage."""
    rails = truss_rails(truss)
    names = rail_names(truss)
    low = [name for name in names if name.startswith("lower") or name in ("pipe", "left", "right", "inner", "outer")]
    lines = [rails[name] for name in low]
    if lines[0].closed:
        shares = (0.0, 0.5)
        return np.array([np.mean([line.at(line.length_m * share) for line in lines], axis=0) for share in shares])
    if truss.form == "upright":
        return truss_placement(truss).apply([(0.0, 0.0, 0.0), (0.0, 0.0, truss.length_m)])
    return np.array([np.mean([line.at(line.length_m * share) for line in lines], axis=0) for share in (0.0, 1.0)])


def join_ends(show: Show, args: JoinEnds, _: NewId) -> Edit:
    items = [show.item(one) for one in args.ids if show.item(one).kind == "truss"]
    if len(items) < 2:
        raise JobError("Joining takes two structures: select both, first the one that stays.", "ids")
    changes, last = [], items[0].body
    assert isinstance(last, Truss)
    for item in items[1:]:
        body = item.body
        assert isinstance(body, Truss)
        there, here = ends_of(last), ends_of(body)
        gaps = there[:, None, :] - here[None, :, :]
        i, j = np.unravel_index(int(np.argmin(np.linalg.norm(gaps, axis=-1))), (2, 2))
        after = placed.moved(body, gaps[i, j])
        assert isinstance(after, Truss)
        if float(np.linalg.norm(gaps[i, j])) > 1e-9:
            changes.append(changed(item, after))
        last = after
    if not changes:
        raise JobError("Their ends meet already.", "ids")
    return Edit(tuple(changes), f"Join the ends of {listed(show, [item.id for item in items])}", tuple(args.ids))


class SetAbove(Arguments):
    """Hang structures, or set things, so high over what is below their middles: the deck where there is one, else the
    floor."""

    ids: list[str]
    height: str


def set_above(show: Show, args: SetAbove, _: NewId) -> Edit:
    require_some(args.ids, "what to set")
    items = placed_among(show, args.ids)
    height = length(show, args.height, "height", 0.0, 200.0)
    changes = []
    for item in items:
        low, high = bounds_of(show, item)
        foot = item.body.position[2] if isinstance(item.body, Truss) else float(low[2])
        # What stands inside of a deck is meant to stand on it, as with things that are dropped.
        middle = np.array([[*(low + high)[:2] / 2, high[2] + ABOVE_M]])
        if isinstance(item.body, Truss):
            middle = np.array([item.body.position])
        wanted = float(height_below(show, middle, {item.id})[0]) + height
        if abs(wanted - foot) > 1e-9:
            changes.append(changed(item, placed.moved(item.body, np.array([0.0, 0.0, wanted - foot]))))  # type: ignore[arg-type]
    if not changes:
        raise JobError(f"{listed(show, args.ids)} are that high already.", "height")
    system = show.settings.system
    return Edit(
        tuple(changes),
        f"Set {listed(show, args.ids)} {format_length(height, system)} over what is below",
        tuple(args.ids),
    )


class Repeat(Arguments):
    """Repeat things on a grid (rows and columns from where they are) or on an arc about x, y."""

    ids: list[str]
    how: Literal["grid", "arc"] = "grid"
    columns: str = "3"
    rows: str = "1"
    across: str = "1m"
    """From column to column, towards stage left where it is positive."""
    back: str = "1m"
    """From row to row, upstage where it is positive."""
    count: str = "6"
    """On an arc: how many there are then, with what is there."""
    x: str = "0"
    y: str = "0"
    span: str = "360"
    """How much of a turn they are spread over; 360: evenly all round."""
    turn_along: bool = True


def repeat(show: Show, args: Repeat, new_id: NewId) -> Edit:
    items = placed_among(show, args.ids)
    places = _grid(show, args) if args.how == "grid" else _arc(show, args)
    if len(places) * len(items) > 2000:
        raise JobError(f"{len(places) * len(items)} copies at once are too many: make 2000 at most.", "count")
    if not places:
        raise JobError(
            "That is only what is there already: type more of them.", "columns" if args.how == "grid" else "count"
        )
    new: list[Item] = []
    for kind in dict.fromkeys(item.kind for item in items):
        bodies: list[Body] = [place(item.body) for place in places for item in items if item.kind == kind]  # type: ignore[arg-type]
        new += added(show, kind, bodies, new_id)
    what = listed(show, [item.id for item in items])
    where = "on a grid" if args.how == "grid" else "on an arc"
    return Edit(
        tuple(made(item) for item in new), f"Repeat {what} {where}, {len(new)} more", tuple(item.id for item in new)
    )


Place = Callable[[Placed], Placed]


def _grid(show: Show, args: Repeat) -> list[Place]:
    columns, rows = parse_count(args.columns, 1, 500), parse_count(args.rows, 1, 500)
    across, back = signed_length(show, args.across, "across"), signed_length(show, args.back, "back")

    def at(column: int, row: int) -> Place:
        return lambda body: placed.moved(body, np.array([column * across, row * back, 0.0]))

    return [at(column, row) for row in range(rows) for column in range(columns) if column or row]


def _arc(show: Show, args: Repeat) -> list[Place]:
    count = parse_count(args.count, 1, 500)
    span = within(parse_angle_deg(args.span), "span", -360.0, 360.0)
    about = np.array([coordinate(show, args.x, "x", "x"), coordinate(show, args.y, "y", "y")])
    whole = abs(abs(span) - 360.0) < 1e-9
    step = span / count if whole else span / max(count - 1, 1)

    def at(k: int) -> Place:
        def place(body: Placed) -> Placed:
            turned = placed.turned(body, step * k, about)
            return turned if args.turn_along else placed.facing_as(turned, body)

        return place

    return [at(k) for k in range(1, count)]
