"""Edits of measured areas: where light is measured, what is wanted there, and the measuring itself."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any, Literal

import numpy as np
from pydantic import Field, PrivateAttr

from zarfwright.core.edits.base import (
    Arguments,
    Around,
    Call,
    Edit,
    NewId,
    added,
    changed,
    coordinate,
    free_name,
    length,
    made,
    require_some,
    within,
)
from zarfwright.core.edits.carrying import as_in_look
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.looks.look import Look, called
from zarfwright.core.looks.said import NOTHING, Said
from zarfwright.core.looks.shown import resolved
from zarfwright.core.optics.gate import Mask
from zarfwright.core.optics.photometry import Beams
from zarfwright.core.optics.web import Web
from zarfwright.core.raycast import Caster, PackedSolids
from zarfwright.core.review.area import DRIVEN, POINTS_MOST, Area, Measured, packed
from zarfwright.core.review.grid import grid_of
from zarfwright.core.review.maps import figures_of, in_the_way, lux_of, made_of, piece, pieces
from zarfwright.core.settings import Viewpoint
from zarfwright.core.show import Item, Show
from zarfwright.core.site.things import Deck
from zarfwright.core.space import Vec
from zarfwright.core.units import parse_angle_deg

LUX_PER_FC = 10.764
FACE_M = 1.6
SIZE_LEAST, SIZE_MOST = 0.05, 200.0


class AreaFields(Arguments):
    """What is typed of an area. `points`: along its width and its depth, such as 24x16; `wanted`: lux, or foot-candles
    (`50 fc`), empty: nothing; `towards`: the viewpoint that its faces look at."""

    name: str | None = None
    x: str | None = None
    y: str | None = None
    z: str | None = None
    width: str | None = None
    depth: str | None = None
    turn: str | None = None
    faces: Literal["up", "towards"] | None = None
    towards: str | Vec | None = None
    points: str | None = None
    people: bool | None = None
    wanted: str | None = None
    tolerance: str | None = None
    wanted_in: list[str] | None = Field(None, max_length=1000)


class AddArea(AreaFields):
    """Measure light on a deck, or on a rectangle about x, y: level, or on upright faces."""

    deck: str | None = None


class SetArea(AreaFields):
    """Change where and how light is measured, or what is wanted there."""

    id: str


def lux_typed(text: str, field: str = "wanted") -> float | None:
    """Light as it is typed: `500`, `500 lx`, `50 fc`; nothing: none. Raises JobError naming the field."""
    plain = text.strip().lower().replace(",", ".")
    if not plain:
        return None
    found = re.fullmatch(r"([\d.]+)\s*(lx|lux|fc)?", plain)
    try:
        value = float(found[1]) if found else 0.0
    except ValueError:
        value = 0.0
    if found is None or not 0 < value < 1e7:
        raise JobError(
            f"“{text}” is no amount of light: type lux, such as 500 lx, or foot-candles, such as 50 fc.", field
        )
    return round(value * LUX_PER_FC, 3) if found[2] == "fc" else value


def points_typed(text: str) -> tuple[int, int]:
    """Points along width and depth as they are typed. Raises JobError."""
    found = re.fullmatch(r"\s*(\d{1,3})\s*[x×]\s*(\d{1,3})\s*", text.lower())
    nx, ny = (int(found[1]), int(found[2])) if found else (0, 0)
    if not (1 <= nx <= POINTS_MOST and 1 <= ny <= POINTS_MOST):
        raise JobError(f"“{text}” is no number of points: type two up to {POINTS_MOST}, such as 24x16.", "points")
    return nx, ny


def _percent(text: str) -> float:
    try:
        share = float(text.strip().rstrip("%").replace(",", "."))
    except ValueError:
        raise JobError(f"“{text}” is no share: type a number of hundredths, such as 20.", "tolerance") from None
    return within(share, "tolerance", 0.1, 100.0)


def _with(show: Show, area: Area, args: AreaFields) -> Area:
    """An area with what is typed of it."""
    x, y, z = area.position
    area = replace(
        area,
        name=(args.name or "").strip() or area.name,
        position=(
            x if args.x is None else coordinate(show, args.x, "x", "x"),
            y if args.y is None else coordinate(show, args.y, "y", "y"),
            z if args.z is None else coordinate(show, args.z, "z", "z"),
        ),
        width_m=area.width_m if args.width is None else length(show, args.width, "width", SIZE_LEAST, SIZE_MOST),
        depth_m=area.depth_m if args.depth is None else length(show, args.depth, "depth", SIZE_LEAST, SIZE_MOST),
        turn_deg=area.turn_deg if args.turn is None else parse_angle_deg(args.turn),
        faces=args.faces or area.faces,
        points=area.points if args.points is None else points_typed(args.points),
        people=area.people if args.people is None else args.people,
        wanted_lx=area.wanted_lx if args.wanted is None else lux_typed(args.wanted),
        tolerance=area.tolerance if args.tolerance is None else _percent(args.tolerance),
    )
    if args.towards is not None:
        place = show.body(args.towards, Viewpoint).eye if isinstance(args.towards, str) else args.towards
        area = replace(area, towards=place)
    if args.wanted_in is not None:
        for look in args.wanted_in:
            show.body(look, Look)
        area = replace(area, wanted_in=tuple(args.wanted_in))
    return area


def add_area(show: Show, args: AddArea, new_id: NewId) -> Edit:
    faces = args.faces or "up"
    area = Area(free_name(show, "area", args.name or "", "Area"), (0.0, 0.0, 0.0), 6.0, 4.0, faces=faces)
    if args.deck is not None:
        deck = show.body(args.deck, Deck)
        dx, dy, z = deck.position
        above = FACE_M if faces == "towards" else 0.0
        area = replace(
            area,
            name=free_name(show, "area", args.name or (deck.name if _free(show, deck.name) else ""), deck.name),
            position=(dx, dy, round(z + deck.height_m + above, 4)),
            width_m=deck.width_m,
            depth_m=deck.depth_m,
            turn_deg=deck.turn_deg,
        )
    elif args.z is None and faces == "towards":
        area = replace(area, position=(0.0, 0.0, FACE_M))
    area = _with(show, area, args)
    item = added(show, "area", [area], new_id)[0]
    return Edit((made(item),), f"Measure light on {area.name}", (item.id,))


def _free(show: Show, name: str) -> bool:
    return all(item.name != name for item in show.of_kind("area"))


def set_area(show: Show, args: SetArea, _: NewId) -> Edit:
    item, area = show.thing(args.id, Area)
    after = _with(show, area, args)
    if grid_key(after) != grid_key(area):
        # What was measured was measured elsewhere.
        after = replace(after, maps={})
    changes = (changed(item, after),) if after != area else ()
    return Edit(changes, f"Change the area {after.name}", (item.id,))


def grid_key(area: Area) -> tuple[Any, ...]:
    """What a map of an area is of, besides the show."""
    return (
        area.position,
        area.width_m,
        area.depth_m,
        area.turn_deg,
        area.faces,
        area.towards,
        area.points,
        area.people,
    )


class MeasureLight(Arguments):
    """Measure the light on areas in looks, or (the look `driven`) as it is driven now. With no look named: in those in
    which something is wanted there, else in all that were measured before."""

    ids: list[str] = Field(max_length=200)
    looks: list[str] = Field([], max_length=1000)
    _optics: tuple[dict[str, Mask], dict[str, Web]] = PrivateAttr(({}, {}))
    _driven: Said = PrivateAttr(NOTHING)


def needs_optics(show: Show, args: MeasureLight, around: Around) -> tuple[Show, MeasureLight]:
    """Gobo images and webs of the rig, and what is driven now where that is measured."""
    args = args.model_copy()
    args._optics = around.optics(rig_of(show).table)
    if DRIVEN in args.looks:
        args._driven = around.values()
    return show, args


def _pairs(show: Show, args: MeasureLight) -> list[tuple[Item, Area, str]]:
    """Which areas are measured in which looks. Raises JobError."""
    require_some(args.ids, "an area")
    found = []
    for key in args.ids:
        item, area = show.thing(key, Area)
        looks = args.looks or [*(area.wanted_in or area.maps)]
        for look in looks:
            if look != DRIVEN and look in args.looks:
                show.body(look, Look)
        found += [(item, area, look) for look in looks if look == DRIVEN or look in show.items]
    if not found:
        raise JobError("There is no look to measure in: choose one.", "looks")
    return found


def measuring_calls(show: Show, args: MeasureLight) -> list[Call]:
    """The work of every map, cut into pieces."""
    calls: list[Call] = []
    rays: dict[tuple[str, bool], PackedSolids] = {}
    beams: dict[str, Beams] = {}
    for _, area, look in _pairs(show, args):
        stand = show if look == DRIVEN else as_in_look(show, look)
        # Where a look moves no carrier, what is in the way is the same as in all others.
        moved = look if stand is not show else ""
        if (moved, area.people) not in rays:
            rays[moved, area.people] = Caster(in_the_way(stand, area.people)).packed()
        if look not in beams:
            said = args._driven if look == DRIVEN else resolved(stand, look)
            beams[look] = rig_of(stand).beams(said, *args._optics)
        grid = grid_of(area)
        ready = (rays[moved, area.people], beams[look])
        calls += [Call(piece, (*ready, *some)) for some in pieces(grid.points, grid.normals)]
    return calls


def with_measured(show: Show, args: MeasureLight, answers: list[Any]) -> Show:
    """The show as it was measured, its areas with their maps; the edit takes them from there."""
    waiting = [*answers]
    answers.clear()
    for item, area, look in _pairs(show, args):
        count = len(pieces(*_points(area)))
        rgb, waiting = np.concatenate(waiting[:count]), waiting[count:]
        found = figures_of(lux_of(rgb))
        mean, least, most = (round(lux, 4) for lux in (found.mean, found.least, found.most))
        answers.append(
            (item.id, look, grid_key(area), Measured(made_of(show, look), area.points, mean, least, most, packed(rgb)))
        )
    return show


def _points(area: Area) -> tuple[Any, Any]:
    grid = grid_of(area)
    return grid.points, grid.normals


def measure_light(show: Show, args: MeasureLight, _: NewId, answers: list[Any]) -> Edit:
    bodies: dict[str, Area] = {}
    left: list[str] = []
    for key, look, of, measured in answers:
        item = show.items.get(key)
        if item is None or not isinstance(item.body, Area) or grid_key(item.body) != of:
            left.append(item.name if item is not None else "an area that is gone")
            continue
        area = bodies.get(key, item.body)
        maps = {one: kept for one, kept in area.maps.items() if one == DRIVEN or one in show.items}
        bodies[key] = replace(area, maps={**maps, look: measured})
    changes = tuple(changed(show.items[key], area) for key, area in bodies.items())
    names = ", ".join(show.items[key].name for key in bodies)
    looks = {look for _, look, _, _ in answers}
    where = next(iter(looks)) if len(looks) == 1 else ""
    of_look = "as driven" if where == DRIVEN else f"in {called(show.body(where, Look))}" if where in show.items else ""
    text = f"Measure the light on {names}{' ' if of_look else ''}{of_look or (f' in {len(looks)} looks')}"
    report = tuple(f"{name} was changed meanwhile: measure it again." for name in left)
    return Edit(changes, text, tuple(bodies), report)
