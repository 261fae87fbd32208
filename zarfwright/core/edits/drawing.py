"""Edits of what is drawn as an outline: decks of any shape, walls, areas for crowds."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from zarfwright.core.edits.base import (
    Arguments,
    Edit,
    NewId,
    added,
    changed,
    coordinate,
    free_name,
    length,
    made,
)
from zarfwright.core.errors import JobError
from zarfwright.core.show import Show
from zarfwright.core.site.outline import Corner, about_middle, area_m2, checked, length_m, rectangle
from zarfwright.core.site.placed import offset_by, redrawn
from zarfwright.core.site.things import Deck, Finish, Panel, Wall
from zarfwright.core.units import format_length, parse_angle_deg, parse_count

Corners = list[tuple[float, float, float]]


def corners_of(show: Show, args: Outlined, closed: bool = True) -> tuple[Corner, ...]:
    """The corners of an edit: as drawn, else a rectangle as typed. Raises JobError."""
    if args.corners:
        return checked(args.corners, closed)
    width, depth = length(show, args.width, "width", 0.05), length(show, args.depth, "depth", 0.05)
    return rectangle(width, depth, coordinate(show, args.x, "x", "x"), coordinate(show, args.y, "y", "y"))


class Outlined(Arguments):
    """Corners as drawn (x, y, bulge), or a rectangle about x, y as typed."""

    name: str = ""
    corners: Corners = []
    width: str = "4m"
    depth: str = "3m"
    x: str = "0"
    y: str = "0"
    z: str = "0"


class AddOutlineDeck(Outlined):
    """A deck, riser, steps or ramp of any outline."""

    height: str = "0.4m"
    finish: Finish = "black"
    made: Literal["deck", "riser", "steps", "ramp"] = "deck"
    fascia: bool = True
    count: str = "4"
    rise: str = "90"


def add_outline_deck(show: Show, args: AddOutlineDeck, new_id: NewId) -> Edit:
    corners = corners_of(show, args)
    (x, y), about, (width, depth) = about_middle(corners)
    deck = Deck(
        name=free_name(show, "deck", args.name, args.made.capitalize()),
        position=(x, y, coordinate(show, args.z, "z", "z")),
        width_m=width,
        depth_m=depth,
        height_m=length(show, args.height, "height", 0.02, 50.0),
        finish=args.finish,
        corners=about,
        made=args.made,
        fascia=args.fascia,
        count=parse_count(args.count, 1, 200),
        rise_deg=parse_angle_deg(args.rise),
    )
    items = added(show, "deck", [deck], new_id)
    return Edit((made(items[0]),), f"Add {deck.name}, {area_m2(corners):.1f} m²", (items[0].id,))


class AddWall(Outlined):
    """A wall along an outline, open or closed."""

    closed: bool = False
    height: str = "3m"
    thickness: str = "0.1m"
    finish: Finish = "cloth"


def add_wall(show: Show, args: AddWall, new_id: NewId) -> Edit:
    corners = corners_of(show, args, args.closed)
    wall = Wall(
        name=free_name(show, "wall", args.name, "Wall"),
        corners=corners,
        position=(0.0, 0.0, coordinate(show, args.z, "z", "z")),
        closed=args.closed or not args.corners,
        height_m=length(show, args.height, "height", 0.05, 50.0),
        thickness_m=length(show, args.thickness, "thickness", 0.005, 3.0),
        finish=args.finish,
    )
    items = added(show, "wall", [wall], new_id)
    long = format_length(length_m(corners, wall.closed), show.settings.system)
    return Edit((made(items[0]),), f"Add {wall.name}, {long}", (items[0].id,))


class AddPanel(Arguments):
    """An upright thing of the outline drawn in an elevation: across and up. Seen from the front it stands at `at`
    upstage and faces downstage, seen from stage right it stands at `at` stage left and faces there."""

    name: str = ""
    corners: Corners
    seen_from: Literal["front", "side"] = "front"
    at: str = "0"
    thickness: str = "0.04m"
    finish: Finish = "cloth"


def add_panel(show: Show, args: AddPanel, new_id: NewId) -> Edit:
    corners = checked(args.corners, True)
    (across, up), about, _ = about_middle(corners)
    at = coordinate(show, args.at, "at", "y" if args.seen_from == "front" else "x")
    # Its foot is what it stands on.
    low = min(corner[1] for corner in about)
    panel = Panel(
        name=free_name(show, "panel", args.name, "Panel"),
        corners=tuple((x, round(z - low, 6), b) for x, z, b in about),
        position=(across, at, up + low) if args.seen_from == "front" else (at, across, up + low),
        # Looking to stage left, upstage is on the left hand: from there it faces stage right.
        turn_deg=0.0 if args.seen_from == "front" else -90.0,
        thickness_m=length(show, args.thickness, "thickness", 0.002, 5.0),
        finish=args.finish,
    )
    if args.seen_from == "side":
        panel = replace(panel, corners=tuple((-x, z, -b) for x, z, b in panel.corners))
    items = added(show, "panel", [panel], new_id)
    return Edit((made(items[0]),), f"Add {panel.name}, {area_m2(corners):.1f} m²", (items[0].id,))


class SetOutline(Arguments):
    """Other corners of a deck, a wall, a panel or a crowd: as they lie in the plan, of a panel across and up its
    face from its position."""

    id: str
    corners: Corners
    closed: bool = True


def set_outline(show: Show, args: SetOutline, _: NewId) -> Edit:
    item = show.item(args.id)
    after = redrawn(item.body, args.corners, args.closed)
    if after is None:
        raise JobError(f"{item.name} has no outline that could be drawn.", "id")
    return Edit((changed(item, after),), f"Redraw {item.name}", (item.id,))


class OffsetOutline(Arguments):
    """Set a deck's or area's outline further out, or with a minus further in."""

    id: str
    by: str


def offset_outline(show: Show, args: OffsetOutline, _: NewId) -> Edit:
    item = show.item(args.id)
    text = args.by.strip()
    by = length(show, text.lstrip("+-"), "by", 0.001, 50.0) * (-1 if text.startswith("-") else 1)
    after = offset_by(item.body, by)
    if after is None:
        raise JobError(f"{item.name} has no closed outline.", "id")
    return Edit((changed(item, after),), f"Redraw {item.name}", (item.id,))
