"""Arranging a selection along a guide: a line, a ring, a grid or a rail (numbers.md, Arrange)."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from zarfwright.core.edits.base import Arguments, Edit, NewId, changed, length, require_some, within
from zarfwright.core.errors import JobError
from zarfwright.core.kinds import Body, is_placed
from zarfwright.core.rig.arrange import (
    Ends,
    Facing,
    From,
    Guide,
    Line,
    OnRail,
    Ring,
    Spacing,
    distances,
    fan,
    grid_places,
    settled,
    steps_between,
)
from zarfwright.core.rig.bodies import widths
from zarfwright.core.rig.hang import clamp_placement, hang_rail
from zarfwright.core.rig.rails import along_of
from zarfwright.core.rig.things import Fixture, Hang
from zarfwright.core.show import Change, Item, Show, listed
from zarfwright.core.site import placed
from zarfwright.core.site.structures import rail_label, rail_of
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats, Placement, about, multiply, quat, rotate, vec
from zarfwright.core.units import format_length, parse_angle_deg, parse_count

HELD_M = 0.02
"""A fixture whose place is so near to its rail stays on it."""
Place3 = tuple[float, float, float]


class Arrange(Arguments):
    """Bring things onto a guide. Lengths and angles as typed; places in metres of the show's frame."""

    ids: list[str]
    guide: Literal["line", "ring", "grid", "rail"] = "line"
    start: Place3 = (-4.0, 0.0, 6.0)
    end: Place3 = (4.0, 0.0, 6.0)
    """Of a line."""
    centre: Place3 = (0.0, 0.0, 6.0)
    """Of a ring or grid."""
    radius: str = "2m"
    end_radius: str = ""
    """Of a ring at its start and at its end; empty: the same."""
    start_angle: str = "0"
    span: str = "360"
    columns: str = "3"
    across: str = "1m"
    back: str = "1m"
    turn: str = "0"
    """Of a grid: things in a row, from column to column, from row to row, turned in plan."""
    structure: str = ""
    rail: str = "lower right"
    rail_from: str = ""
    rail_to: str = ""
    """Of a rail: which part of it; empty: from its start, to its end."""
    spacing: Spacing = "fill"
    ends: Ends = "on"
    step: str = "1m"
    step_from: From = "start"
    margin: str = "0"
    order: Literal["number", "place", "selection"] = "number"
    reverse: bool = False
    heights: Literal["keep", "guide"] = "keep"
    facing: Facing = "keep"
    fan_from: str = "-25"
    fan_to: str = "25"
    at: tuple[float, float] | None = None
    """What they face, in plan."""


def guide_of(show: Show, args: Arrange) -> Guide:
    """The guide that is asked for. Raises JobError naming the field at fault."""
    if args.guide == "ring":
        radius = length(show, args.radius, "radius", 0.05, 100.0)
        last = length(show, args.end_radius, "end_radius", 0.05, 100.0) if args.end_radius.strip() else radius
        span = within(parse_angle_deg(args.span), "span", -360.0, 360.0)
        if abs(span) < 1:
            raise JobError("A ring needs a span: type at least 1 degree.", "span")
        return Ring(np.array(args.centre), radius, last, parse_angle_deg(args.start_angle), span)
    if args.guide == "rail":
        truss = show.body(args.structure, Truss)
        rail = rail_of(truss, args.rail)
        first = length(show, args.rail_from, "rail_from", 0.0) if args.rail_from.strip() else 0.0
        last = length(show, args.rail_to, "rail_to", 0.0) if args.rail_to.strip() else rail.length_m
        if not first < last <= rail.length_m + 1e-9:
            raise JobError(f"That is no part of this rail, which is {rail.length_m:.2f} m long.", "rail_to")
        return OnRail(rail, first, last)
    start, end = np.array(args.start), np.array(args.end)
    if float(np.linalg.norm(end - start)) < 1e-3:
        raise JobError("A guide line needs two places: draw its end away from its start.", "end")
    return Line(start, end)


def anchor_of(show: Show, item: Item) -> Floats:
    """The place (3,) that is brought onto a guide: of a fixture its clamp, of the others their own place."""
    if isinstance(item.body, Fixture):
        return np.array(clamp_placement(show, item.body).position)
    assert is_placed(item.body)
    return placed.anchor(item.body)


def in_order(show: Show, items: list[Item], args: Arrange, guide: Guide | None) -> list[Item]:
    """The things in the order in which they come: by number, by place along the guide, or as they were selected."""
    places = np.array([anchor_of(show, item) for item in items])
    if args.order == "selection":
        keys = [(float(i), 0.0) for i in range(len(items))]
    elif guide is not None:
        feet = guide.feet(places).tolist()
        keys = [(foot, float(i)) for i, foot in enumerate(feet)]
    else:
        keys = [(-float(y), float(x)) for x, y, _ in places]
    if args.order == "number":
        numbers = [item.body.number if isinstance(item.body, Fixture) else None for item in items]
        keys = [(float(n) if n is not None else math.inf, key[0]) for n, key in zip(numbers, keys, strict=True)]
    return [items[i] for i in settled(keys, args.reverse)]


def _turned_fixture(place: Placement, wanted_deg: float) -> Placement:
    """The placement turned about the upright axis until its own +Y points that way in plan (0: stage left)."""
    front = rotate(place.rotation, (0.0, 1.0, 0.0))
    if np.hypot(front[0], front[1]) < 1e-6:
        front = rotate(place.rotation, (1.0, 0.0, 0.0))
    now = math.degrees(math.atan2(front[1], front[0]))
    turn = about((0.0, 0.0, 1.0), math.radians(wanted_deg - now))
    return Placement(place.position, quat(multiply(turn, place.rotation)))


def _moved(show: Show, item: Item, to: Floats, rail: tuple[str, str, float] | None) -> tuple[Body, bool]:
    """The body at its new place, and whether it left its rail."""
    body = item.body
    if isinstance(body, Fixture):
        if rail is not None:
            structure, name, along = rail
            hang = body.hang or Hang(structure, name, along)
            return replace(
                body, hang=replace(hang, structure=structure, rail=name, along_m=along), placement=None
            ), False
        now = clamp_placement(show, body)
        if body.hang is not None and body.hang.structure in show.items:
            own = hang_rail(show, body.hang)
            # An arm's end is brought there by its foot.
            foot = to - (np.array(now.position) - own.at(body.hang.along_m))
            along = along_of(own, foot)
            if float(np.linalg.norm(own.at(along) - foot)) < HELD_M:
                return replace(body, hang=replace(body.hang, along_m=along)), False
            return replace(body, hang=None, placement=Placement(vec(to), now.rotation)), True
        return replace(body, placement=Placement(vec(to), now.rotation)), False
    assert is_placed(body)
    return placed.moved(body, to - anchor_of(show, item)), False


def _faced(show: Show, item: Item, body: Body, wanted: float | None, spin: float | None) -> Body:
    """The body with its facing: `wanted` as a direction in plan (degrees, 0 stage left), `spin` as its own turn."""
    if wanted is None and spin is None:
        return body
    if isinstance(body, Fixture):
        if body.hang is not None:
            if spin is None:
                bare = replace(body, hang=replace(body.hang, spin_deg=0.0))
                front = rotate(clamp_placement(show, bare).rotation, (0.0, 1.0, 0.0))
                # Hung ones turn about their own axis, which points up; standing ones the other way round.
                up = float(rotate(clamp_placement(show, bare).rotation, (0.0, 0.0, 1.0))[2])
                assert wanted is not None
                spin = (wanted - math.degrees(math.atan2(front[1], front[0]))) * (1.0 if up >= 0 else -1.0)
            return replace(body, hang=replace(body.hang, spin_deg=(spin + 180.0) % 360.0 - 180.0))
        placement = body.placement or Placement()
        return replace(body, placement=_turned_fixture(placement, spin + 90.0 if spin is not None else wanted or 0.0))
    assert is_placed(body)
    facing = placed.facing(body)
    if facing is None:
        return body
    turn = spin if spin is not None else (wanted or 0.0) + facing
    return placed.set_turn(body, (turn + 180.0) % 360.0 - 180.0)


@dataclass(frozen=True)
class _Goals:
    """Where things go: places (n, 3), which way the guide runs there and which way is out of it (n, 3), and the
    distances (n,) along it."""

    guide: Guide | None
    places: Floats
    ways: Floats
    outs: Floats
    along: Floats


def _arranged(show: Show, args: Arrange) -> list[Item]:
    """What is arranged: things and fixtures; what hangs on a structure that is arranged too goes with it. Raises
    JobError where there is nothing."""
    items = [item for item in map(show.item, args.ids) if item.is_a.placed or item.kind == "fixture"]
    going = {item.id for item in items if item.kind == "truss"}
    items = [i for i in items if not (isinstance(i.body, Fixture) and i.body.hang and i.body.hang.structure in going)]
    if not items:
        raise JobError(f"{listed(show, args.ids)} cannot be arranged: select fixtures, structures, scenery or people.")
    if args.guide == "rail" and any(not isinstance(item.body, Fixture) for item in items):
        raise JobError("Only fixtures go onto a rail: select none of the others.", "guide")
    return items


def _on_grid(show: Show, args: Arrange, count: int) -> _Goals:
    middle = np.array(args.centre)
    turn = about((0.0, 0.0, 1.0), math.radians(parse_angle_deg(args.turn)))
    across = rotate(turn, [length(show, args.across, "across", 0.0), 0.0, 0.0])
    # The first row is the furthest upstage, as a list is read.
    back = rotate(turn, [0.0, -length(show, args.back, "back", 0.0), 0.0])
    target = grid_places(count, parse_count(args.columns, 1, 500), across, back, middle)
    ways = np.tile(rotate(turn, [1.0, 0.0, 0.0]), (count, 1))
    return _Goals(None, target, ways, target - middle, np.zeros(count))


def _on_guide(show: Show, args: Arrange, guide: Guide, places: Floats) -> _Goals:
    step = length(show, args.step, "step", 0.0) if args.spacing == "given" else 1.0
    margin = length(show, args.margin, "margin", 0.0) if args.ends == "margin" else 0.0
    along = distances(guide, places, args.spacing, args.ends, step, args.step_from, margin)
    return _Goals(guide, guide.at(along), guide.along(along), guide.out(along), along)


def _said(show: Show, args: Arrange, items: list[Item], goals: _Goals) -> str:
    """The sentence: what, on what, and how far apart where all steps are alike."""
    steps = steps_between(goals.places, goals.guide is not None and goals.guide.closed)
    apart = ""
    if len(steps) and float(steps.max() - steps.min()) < 1e-6:
        apart = f", {format_length(float(steps.mean()), show.settings.system)} apart"
    reversed_ = ", reversed" if args.reverse else ""
    return f"Arrange {listed(show, [item.id for item in items])} {_where(show, args)}{apart}{reversed_}"


def _require_room(show: Show, items: list[Item], guide: OnRail) -> None:
    """Raises JobError where more lamps come onto a part of a rail than there is room for."""
    lamps = [item.body for item in items if isinstance(item.body, Fixture)]
    wide = sum(min(widths(show.types[f.type], f.mode)) for f in lamps if f.type in show.types)
    free = guide.end_m - guide.start_m
    # The outer halves of the first and the last may stick out.
    if len(lamps) > 1 and wide * (len(lamps) - 1) / len(lamps) > free + 1e-6:
        fit = int(free / (wide / len(lamps)) + 1e-9) + 1
        text = f"{len(lamps)} do not fit on {format_length(free, show.settings.system)} of this rail: {fit} do."
        raise JobError(f"{text} Select fewer, or a longer part.", "rail_to")


def arrange(show: Show, args: Arrange, _: NewId) -> Edit:
    require_some(args.ids, "what to arrange")
    items = _arranged(show, args)
    guide = None if args.guide == "grid" else guide_of(show, args)
    if isinstance(guide, OnRail):
        _require_room(show, items, guide)
    items = in_order(show, items, args, guide)
    places = np.array([anchor_of(show, item) for item in items])
    goals = _on_grid(show, args, len(items)) if guide is None else _on_guide(show, args, guide, places)
    if args.heights == "keep" and args.guide != "rail":
        goals.places[:, 2] = places[:, 2]
    wanted, spins = _facings(args, goals.places, goals.ways, goals.outs)
    changes, freed = [], 0
    for i, item in enumerate(items):
        rail = (args.structure, args.rail, float(guide.start_m + goals.along[i])) if isinstance(guide, OnRail) else None
        body, left = _moved(show, item, goals.places[i], rail)
        freed += left
        body = _faced(show, item, body, wanted[i], spins[i])
        if body != item.body:
            changes.append(Change(item, replace(item, body=body, rev=item.rev + 1)))
    free = f"{freed} of them leave their rail and hang free: put them on a rail, or choose one as the guide."
    ids = tuple(item.id for item in items)
    return Edit(tuple(changes), _said(show, args, items, goals), ids, (free,) if freed else ())


def _where(show: Show, args: Arrange) -> str:
    if args.guide == "rail":
        truss = show.body(args.structure, Truss)
        return f"along {truss.name}, {rail_label(truss, args.rail)}"
    return {"line": "on a line", "ring": "on a ring", "grid": "on a grid"}[args.guide]


def _facings(
    args: Arrange, target: Floats, ways: Floats, outs: Floats
) -> tuple[list[float | None], list[float | None]]:
    """Directions to face (degrees in plan), or own turns, one of them for each thing."""
    none: list[float | None] = [None] * len(target)
    if args.facing == "keep":
        return none, none
    if args.facing == "fan":
        return none, list(fan(len(target), parse_angle_deg(args.fan_from), parse_angle_deg(args.fan_to)).tolist())
    if args.facing == "point":
        if args.at is None:
            raise JobError("Click what they are to face first.", "at")
        to = np.array(args.at) - target[:, :2]
    else:
        to = {"out": outs, "in": -outs, "along": ways}[args.facing][:, :2]
    return list(np.degrees(np.arctan2(to[:, 1], to[:, 0])).tolist()), none


__all__ = ["Arrange", "anchor_of", "arrange", "changed", "guide_of"]
