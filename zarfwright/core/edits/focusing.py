"""Edits of focus points and of people who walk; who is aimed at them follows (aiming/follow.py)."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from zarfwright.core.aiming.points import frame_of, offset_in
from zarfwright.core.edits.base import Arguments, Edit, NewId, added, changed, free_name, made, within
from zarfwright.core.errors import JobError
from zarfwright.core.rig.things import FocusPoint
from zarfwright.core.show import Show
from zarfwright.core.site.things import Figure
from zarfwright.core.space import Floats, Vec, vec
from zarfwright.core.units import parse_count

FAR_M = 2000.0


def _on_stage(place: Vec, field: str = "point") -> Vec:
    if not all(math.isfinite(part) and abs(part) < FAR_M for part in place):
        raise JobError("That place is not on the stage: click a surface.", field)
    return vec(np.round(place, 6))


class AddFocusPoint(Arguments):
    """A named place to aim at. `rides` names a figure or carrier that takes it along."""

    name: str = ""
    number: str = ""
    point: Vec
    rides: str | None = None


def _free_number(show: Show) -> int:
    taken = {point.number for _, point in show.bodies(FocusPoint)}
    return next(n for n in range(1, len(taken) + 2) if n not in taken)


def add_focus_point(show: Show, args: AddFocusPoint, new_id: NewId) -> Edit:
    name = free_name(show, "focus point", args.name, "Focus point")
    if any(item.name.casefold() == name.casefold() for item, _ in show.bodies(FocusPoint)):
        raise JobError(f"There is a focus point called {name}: give this one another name.", "name")
    number = parse_count(args.number, 1, 9999) if args.number.strip() else _free_number(show)
    point = FocusPoint(name, _on_stage(args.point), number)
    if args.rides is not None:
        point = _riding(show, point, args.rides)
    item = added(show, "focus point", [point], new_id)[0]
    return Edit((made(item),), f"Name the focus point {name}", (item.id,))


def _riding(show: Show, point: FocusPoint, on: str) -> FocusPoint:
    frame = frame_of(show.item(on))
    if frame is None:
        raise JobError(f"{show.items[on].name} moves nothing along: choose a person or a carrier.", "on")
    return replace(point, rides=on, offset=offset_in(frame, point.position))


class RideOn(Arguments):
    """Let a focus point ride on a figure or carrier (None: on nothing). It stays where it is."""

    id: str
    on: str | None = None


def ride_on(show: Show, args: RideOn, _: NewId) -> Edit:
    item, point = show.thing(args.id, FocusPoint)
    if args.on is None:
        return Edit((changed(item, replace(point, rides=None)),), f"Let {item.name} ride on nothing", (item.id,))
    after = _riding(show, point, args.on)
    return Edit((changed(item, after),), f"Let {item.name} ride on {show.items[args.on].name}", (item.id,))


class SetPath(Arguments):
    """Where a figure walks: places in metres, from the first to the last; fewer than two: nowhere."""

    id: str
    path: list[Vec]


PLACES_MOST = 500


def set_path(show: Show, args: SetPath, _: NewId) -> Edit:
    item, figure = show.thing(args.id, Figure)
    if len(args.path) > PLACES_MOST:
        raise JobError(f"A way of {len(args.path)} places is too long: {PLACES_MOST} at most.", "path")
    path = tuple(_on_stage(place, "path") for place in args.path) if len(args.path) > 1 else ()
    if not path:
        return Edit((changed(item, replace(figure, path=())),), f"{item.name} walks nowhere", (item.id,))
    after = replace(figure, path=path)
    return Edit((changed(item, walked(after, 0.0)),), f"Draw where {item.name} walks", (item.id,))


class Walk(Arguments):
    """Bring a figure to a place of its path, as a share of its length, facing along it."""

    id: str
    share: float


def path_length_m(path: tuple[Vec, ...]) -> float:
    """The length of a path in plan, metres."""
    flat = np.array(path)[:, :2]
    return float(np.linalg.norm(np.diff(flat, axis=0), axis=1).sum())


def walked(figure: Figure, share: float) -> Figure:
    """The figure at a share (0..1) of its path's length in plan, facing the way it walks."""
    path: Floats = np.array(figure.path, dtype=float)
    steps = np.linalg.norm(np.diff(path[:, :2], axis=0), axis=1)
    far = np.concatenate([[0.0], np.cumsum(steps)])
    if far[-1] <= 0:
        return replace(figure, position=vec(path[0]))
    at = min(max(share, 0.0), 1.0) * far[-1]
    leg = int(np.clip(np.searchsorted(far, at, side="right") - 1, 0, len(steps) - 1))
    while steps[leg] == 0 and leg > 0:
        leg -= 1
    part = (at - far[leg]) / steps[leg] if steps[leg] > 0 else 0.0
    place = path[leg] + part * (path[leg + 1] - path[leg])
    way = path[leg + 1] - path[leg]
    turn = math.degrees(math.atan2(-way[0], way[1]))
    return replace(figure, position=vec(np.round(place, 6)), turn_deg=round(turn, 3))


def walk(show: Show, args: Walk, _: NewId) -> Edit:
    item, figure = show.thing(args.id, Figure)
    if len(figure.path) < 2:
        raise JobError(f"{item.name} has nowhere to walk: draw a way first.", "id")
    share = within(args.share, "share", 0.0, 1.0)
    metres = path_length_m(figure.path) * share
    return Edit((changed(item, walked(figure, share)),), f"Walk {item.name} to {metres:.1f} m", (item.id,))
