"""Edits of doors and windows in walls."""

from __future__ import annotations

from dataclasses import replace

from zarfwright.core.edits.base import Arguments, Edit, NewId, changed, length
from zarfwright.core.errors import JobError
from zarfwright.core.show import Item, Show
from zarfwright.core.site.outline import SAME_M
from zarfwright.core.site.things import Wall
from zarfwright.core.site.walls import Opening, Side, is_door, side_at, sides_of
from zarfwright.core.units import format_length


class CutOpening(Arguments):
    """Cut a door or window into a wall: how far along its middle is, how wide, sill and head. With a side (by its
    number, from 0) it is measured from that side's end (core/site/walls.py), else from where the wall begins."""

    id: str
    side: int | None = None
    along: str
    width: str = "1m"
    sill: str = "0"
    head: str = "2.1m"


class SetOpening(CutOpening):
    """Other values for the opening of a number, from 0, in the order in which they were cut."""

    at: int


class FillOpening(Arguments):
    """Fill the opening of a number, from 0."""

    id: str
    at: int


def cut_opening(show: Show, args: CutOpening, _: NewId) -> Edit:
    item, wall = show.thing(args.id, Wall)
    opening = _opening(show, wall, args)
    return _with(item, wall, (*wall.openings, opening), f"Cut {_said(show, opening)} into {wall.name}")


def set_opening(show: Show, args: SetOpening, _: NewId) -> Edit:
    item, wall = show.thing(args.id, Wall)
    _check(wall, args.at)
    others = (*wall.openings[: args.at], *wall.openings[args.at + 1 :])
    opening = _opening(show, replace(wall, openings=others), args)
    after = (*wall.openings[: args.at], opening, *wall.openings[args.at + 1 :])
    return _with(item, wall, after, f"Make it {_said(show, opening)}, in {wall.name}")


def fill_opening(show: Show, args: FillOpening, _: NewId) -> Edit:
    item, wall = show.thing(args.id, Wall)
    _check(wall, args.at)
    after = (*wall.openings[: args.at], *wall.openings[args.at + 1 :])
    return _with(item, wall, after, f"Fill {_said(show, wall.openings[args.at])} in {wall.name}")


def _with(item: Item, wall: Wall, openings: tuple[Opening, ...], said: str) -> Edit:
    return Edit((changed(item, replace(wall, openings=openings)),), said, (item.id,))


def _check(wall: Wall, at: int) -> None:
    if not 0 <= at < len(wall.openings):
        raise JobError(f"{wall.name} has no such opening any more: choose one from its list.", "at")


def _said(show: Show, opening: Opening) -> str:
    _, width, sill, head = opening
    system = show.settings.system
    what = "a door" if is_door(opening) else "a window"
    return f"{what} {format_length(width, system)} × {format_length(head - sill, system)}"


def _opening(show: Show, wall: Wall, args: CutOpening) -> Opening:
    """What was typed as an opening of a wall. Raises JobError where it has no room there."""
    sides = sides_of(wall)
    if args.side is not None and not 0 <= args.side < len(sides):
        raise JobError(f"{wall.name} has no such side: choose one from its list.", "side")
    typed = length(show, args.along, "along", 0.0)
    along = typed if args.side is None else sides[args.side].along(typed)
    side = side_at(wall, along) if args.side is None else sides[args.side]
    width = length(show, args.width, "width", 0.05, 100.0)
    sill, head = length(show, args.sill, "sill", 0.0, 50.0), length(show, args.head, "head", 0.0, 50.0)
    if head <= sill:
        raise JobError("The head of an opening lies above its sill: type more for the head.", "head")
    if head > wall.height_m + SAME_M:
        high = format_length(wall.height_m, show.settings.system)
        raise JobError(f"{wall.name} is {high} high: type no more for the head.", "head")
    opening = (along, width, sill, min(head, wall.height_m))
    _fits(show, wall, side, opening)
    return opening


def _fits(show: Show, wall: Wall, side: Side, opening: Opening) -> None:
    along, width, sill, head = opening
    system = show.settings.system
    from_end = f"from its {side.end} end"
    if width > side.length_m + SAME_M:
        long = format_length(side.length_m, system)
        raise JobError(f"The {side.name} of {wall.name} is {long} long: type no more for the width.", "width")
    low, high = side.begins_m + width / 2, side.begins_m + side.length_m - width / 2
    if not low - SAME_M <= along <= high + SAME_M:
        first, last = sorted((side.measured(low), side.measured(high)))
        raise JobError(
            f"That would go round a corner of {wall.name}: on its {side.name} the middle can be "
            f"{format_length(first, system)} to {format_length(last, system)} {from_end}.",
            "along",
        )
    for other in wall.openings:
        apart = abs(other[0] - along) - (other[1] + width) / 2
        if apart < -SAME_M and other[2] < head - SAME_M and sill < other[3] - SAME_M:
            where = format_length(side.measured(other[0]), system)
            raise JobError(
                f"There is an opening {format_length(other[1], system)} wide already, its middle {where} {from_end}: "
                "move this one away from it, or change that one.",
                "along",
            )
