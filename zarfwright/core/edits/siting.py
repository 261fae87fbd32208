"""Edits of the venue, decks, trusses, figures and viewpoints, and moving and removing anything."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal

import numpy as np

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
    require_some,
    within,
)
from zarfwright.core.edits.carrying import with_inside
from zarfwright.core.edits.looking import parts_without
from zarfwright.core.edits.ordering import without_looks
from zarfwright.core.errors import JobError
from zarfwright.core.kinds import is_placed
from zarfwright.core.rig.hang import clamp_placement, hang_rail
from zarfwright.core.rig.left import drivers_without, left_behind
from zarfwright.core.rig.rails import nearest_rail
from zarfwright.core.rig.things import Carrier, Fixture, FocusPoint
from zarfwright.core.settings import Viewpoint
from zarfwright.core.show import Change, Item, Show, listed
from zarfwright.core.site import placed
from zarfwright.core.site.structures import ARM_TOP_M, rake_for_trims
from zarfwright.core.site.things import Deck, Figure, Finish, Truss, Venue
from zarfwright.core.space import Floats, Placement, vec
from zarfwright.core.units import format_length, parse_angle_deg, parse_count


class AddVenue(Arguments):
    """A room about centre line x setting line; lengths as typed."""

    name: str = ""
    width: str
    upstage: str
    downstage: str
    eave: str
    ridge: str


def add_venue(show: Show, args: AddVenue, new_id: NewId) -> Edit:
    venue = Venue(
        free_name(show, "venue", args.name, "Room"),
        length(show, args.width, "width", 1.0),
        length(show, args.upstage, "upstage", 0.5),
        length(show, args.downstage, "downstage", 0.5),
        length(show, args.eave, "eave", 2.0),
        length(show, args.ridge, "ridge", 2.0),
    )
    if venue.ridge_m < venue.eave_m:
        raise JobError("The ridge is lower than the eave: type a greater height for the ridge.", "ridge")
    items = added(show, "venue", [venue], new_id)
    return Edit((made(items[0]),), f"Add {venue.name}", (items[0].id,))


class AddDeck(Arguments):
    """A platform; x, y are its middle, z the height of what it stands on."""

    name: str = ""
    width: str = "2m"
    depth: str = "1m"
    height: str = "0.4m"
    x: str = "0"
    y: str = "0"
    z: str = "0"
    turn: str = "0"
    finish: Finish = "black"


def add_deck(show: Show, args: AddDeck, new_id: NewId) -> Edit:
    deck = Deck(
        name=free_name(show, "deck", args.name, "Deck"),
        position=(
            coordinate(show, args.x, "x", "x"),
            coordinate(show, args.y, "y", "y"),
            coordinate(show, args.z, "z", "z"),
        ),
        width_m=length(show, args.width, "width", 0.05),
        depth_m=length(show, args.depth, "depth", 0.05),
        height_m=length(show, args.height, "height", 0.02, 50.0),
        turn_deg=parse_angle_deg(args.turn),
        finish=args.finish,
    )
    items = added(show, "deck", [deck], new_id)
    system = show.settings.system
    size = f"{format_length(deck.width_m, system)} x {format_length(deck.depth_m, system)}"
    return Edit((made(items[0]),), f"Add {deck.name}, {size}", (items[0].id,))


class AddTruss(Arguments):
    """A structure: straight (raked when the end trim differs), upright on its foot, or an arc about x, y."""

    name: str = ""
    length: str = "8m"
    start_trim: str = "6m"
    end_trim: str = ""
    x: str = "0"
    y: str = "0"
    turn: str = "0"
    section: str = "0.4m"
    form: Literal["straight", "upright", "arc"] = "straight"
    lattice: Literal["box", "triangle", "flat", "ladder", "pipe"] = "box"
    diameter: str = "5m"
    span: str = "360"
    arms: str = "0"
    arm: str = "1m"
    arm_pitch: str = "0.6m"
    kg_per_m: str = ""
    hoists: str = "0"
    bridle: str = "0"
    steel: str = "0"


def _is_number(text: str) -> bool:
    try:
        return math.isfinite(float(text.replace(",", ".")))
    except ValueError:
        return False


STRUCTURES = {"straight": "truss", "upright": "boom", "arc": "arc"}
USUAL_KG_PER_M = {"box": 9.5, "triangle": 6.0, "flat": 4.5, "ladder": 4.5, "pipe": 3.0}


def add_truss(show: Show, args: AddTruss, new_id: NewId) -> Edit:
    true_length = length(show, args.length, "length", 0.2, 200.0)
    start = length(show, args.start_trim, "start_trim", 0.0, 200.0)
    end = length(show, args.end_trim, "end_trim", 0.0, 200.0) if args.end_trim.strip() else start
    diameter = length(show, args.diameter, "diameter", 0.5, 100.0)
    try:
        trim, rake = rake_for_trims(diameter if args.form == "arc" else true_length, start, end)
    except JobError as wrong:
        raise JobError(str(wrong), "end_trim") from wrong
    if args.form == "upright":
        trim, rake = start, 0.0
    span = within(parse_angle_deg(args.span), "span", 5.0, 360.0)
    what = STRUCTURES[args.form] if args.form != "arc" or span < 360 else "ring"
    weight = USUAL_KG_PER_M[args.lattice]
    if args.kg_per_m.strip():
        if not _is_number(args.kg_per_m):
            raise JobError(f"“{args.kg_per_m}” is not a weight in kilogram per metre: type a number.", "kg_per_m")
        weight = float(args.kg_per_m.replace(",", "."))
    truss = Truss(
        name=free_name(show, "truss", args.name, what.capitalize()),
        position=(coordinate(show, args.x, "x", "x"), coordinate(show, args.y, "y", "y"), trim),
        length_m=true_length,
        turn_deg=parse_angle_deg(args.turn),
        rake_deg=rake,
        section_m=length(show, args.section, "section", 0.1, 3.0),
        kg_per_m=within(weight, "kg_per_m", 0.0, 500.0),
        form=args.form,
        lattice=args.lattice,
        diameter_m=diameter,
        span_deg=span,
        arms=parse_count(args.arms, 0, 20) if args.form == "upright" else 0,
        arm_m=length(show, args.arm, "arm", 0.2, 6.0),
        arm_pitch_m=length(show, args.arm_pitch, "arm_pitch", 0.2, 5.0),
        hoists=parse_count(args.hoists, 0, 60) if args.form != "upright" else 0,
        bridle_m=length(show, args.bridle, "bridle", 0.0, 12.0),
        steel_m=length(show, args.steel, "steel", 0.0, 100.0),
    )
    if truss.arms and (truss.arms - 1) * truss.arm_pitch_m + ARM_TOP_M > truss.length_m:
        raise JobError(f"{truss.arms} arms do not fit on {truss.length_m:.2f} m: set them closer, or fewer.", "arms")
    items = added(show, "truss", [truss], new_id)
    kind = f"raked {what}" if abs(rake) > 1e-9 else what
    size = format_length(diameter if args.form == "arc" else true_length, show.settings.system)
    return Edit((made(items[0]),), f"Add {kind} {truss.name}, {size}", (items[0].id,))


class AddFigures(Arguments):
    """People in rows. x, y is the middle of the first row; further rows stand behind it."""

    name: str = ""
    pose: Literal["standing", "sitting", "playing", "arms up"] = "standing"
    rows: str = "1"
    columns: str = "1"
    pitch: str = "0.55m"
    depth: str = "0.9m"
    height: str = "1.72m"
    height_spread: str = "0"
    """By how much heights differ (one standard deviation); the same places always get the same heights."""
    x: str = "0"
    y: str = "0"
    z: str = "0"
    turn: str = "0"


def add_figures(show: Show, args: AddFigures, new_id: NewId) -> Edit:
    rows, columns = parse_count(args.rows, 1, 200), parse_count(args.columns, 1, 200)
    if rows * columns > 5000:
        raise JobError(f"{rows * columns} people at once are too many: place 5000 at most.", "columns")
    pitch, depth = length(show, args.pitch, "pitch", 0.3), length(show, args.depth, "depth", 0.3)
    height = length(show, args.height, "height", 0.4, 2.6)
    spread = length(show, args.height_spread, "height_spread", 0.0, 0.3)
    heights = np.clip(np.random.default_rng(rows * 1000 + columns).normal(height, spread, (rows, columns)), 0.4, 2.6)
    turn = parse_angle_deg(args.turn)
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    middle = np.array([coordinate(show, args.x, "x", "x"), coordinate(show, args.y, "y", "y")])
    z = coordinate(show, args.z, "z", "z")
    single = rows * columns == 1
    group = args.name.strip()
    bodies = []
    for row in range(rows):
        letter = chr(ord("A") + row % 26)
        for column in range(columns):
            across, back = (column - (columns - 1) / 2) * pitch, -row * depth
            x, y = middle + [c * across - s * back, s * across + c * back]
            name = free_name(show, "figure", group, "Person") if single else f"Row {letter}, seat {column + 1}"
            bodies.append(
                Figure(
                    name, (float(x), float(y), z), args.pose, float(heights[row, column]), turn, "" if single else group
                )
            )
    items = added(show, "figure", bodies, new_id)
    what = items[0].name if single else f"{len(items)} {args.pose} people"
    return Edit(tuple(made(item) for item in items), f"Add {what}", tuple(item.id for item in items))


class AddViewpoint(Arguments):
    """A named place to look from."""

    name: str = ""
    eye: tuple[float, float, float]
    target: tuple[float, float, float]


def add_viewpoint(show: Show, args: AddViewpoint, new_id: NewId) -> Edit:
    name = free_name(show, "viewpoint", args.name, "Viewpoint")
    items = added(show, "viewpoint", [Viewpoint(name, args.eye, args.target)], new_id)
    return Edit((made(items[0]),), f"Name the viewpoint {name}", (items[0].id,))


class Move(Arguments):
    """Shift things by metres. What hangs slides along its rail; pulled off it by more than 25 cm it leaves it, for the
    rail that is there then or to hang free. Carriers take along what is on them."""

    ids: list[str]
    by: tuple[float, float, float]


OFF_M = 0.25
"""Pulled off its rail by more than this, a fixture leaves it."""
CATCH_M = 0.15
"""A rail that is so near to where a fixture is let go takes it."""


def slid(show: Show, item: Item, body: Fixture, by: Floats) -> tuple[Fixture, str]:
    """A hung fixture shifted: along its rail, onto another, or free; and what to say of that."""
    assert body.hang is not None
    rail = hang_rail(show, body.hang)
    way = rail.direction_at(body.hang.along_m)
    off = by - way * float(way @ by)
    if float(np.linalg.norm(off)) <= OFF_M:
        along = body.hang.along_m + float(way @ by)
        along = along % rail.length_m if rail.closed else float(np.clip(along, 0.0, rail.length_m))
        return replace(body, hang=replace(body.hang, along_m=along)), ""
    now = clamp_placement(show, body)
    to = np.asarray(now.position) + by
    near = nearest_rail((one for one in show.of_kind("truss") if not show.hidden(one)), to)
    if near is not None and near.away_m <= CATCH_M:
        hang = replace(body.hang, structure=near.structure, rail=near.rail, along_m=near.along_m)
        return replace(body, hang=hang), f"{item.name.capitalize()} hangs on {show.items[near.structure].name} now."
    return replace(body, hang=None, placement=Placement(vec(to), now.rotation)), (
        f"{item.name.capitalize()} left its rail and hangs free: put it back, or on another rail."
    )


def move(show: Show, args: Move, _: NewId) -> Edit:
    require_some(args.ids, "what to move")
    if not all(math.isfinite(part) and abs(part) < 2000 for part in args.by):
        raise JobError("That is too far to move anything: at most 2 km.", "by")
    by = np.asarray(args.by, dtype=float)
    every = with_inside(show, [show.item(item_id) for item_id in args.ids])
    going = {item.id for item in every}
    changes: list[Change] = []
    report: list[str] = []
    for item in every:
        body = item.body
        if is_placed(body):
            changes.append(changed(item, placed.moved(body, by)))
        elif isinstance(body, Carrier | FocusPoint):
            changes.append(changed(item, replace(body, position=vec(np.asarray(body.position) + by))))
        elif isinstance(body, Fixture) and body.hang is not None and body.hang.structure in show.items:
            # What hangs on something that moves too goes with that.
            if body.hang.structure not in going:
                after, said = slid(show, item, body, by)
                changes.append(changed(item, after))
                report += [said] if said else []
        elif isinstance(body, Fixture):
            place = body.placement or Placement()
            moved = Placement(vec(np.asarray(place.position) + by), place.rotation)
            changes.append(changed(item, replace(body, hang=None, placement=moved)))
    if not changes:
        raise JobError(f"{listed(show, args.ids)} cannot be moved: type its size instead.")
    far = format_length(float(np.linalg.norm(args.by)), show.settings.system)
    return Edit(tuple(changes), f"Move {listed(show, args.ids)} by {far}", tuple(args.ids), tuple(report[:5]))


class Remove(Arguments):
    """Take things out of the show. What hung on a removed structure stays where it is, unhung."""

    ids: list[str]


def remove(show: Show, args: Remove, _: NewId) -> Edit:
    require_some(args.ids, "what to remove")
    going = set(args.ids)
    for item_id in args.ids:
        if show.item(item_id).kind in ("show", "type"):
            raise JobError("The show itself and its types cannot be removed here.")
    idle = drivers_without(show, going)
    going |= {item.id for item in idle}
    changes = [Change(show.items[item_id], None) for item_id in (*args.ids, *(item.id for item in idle))]
    stay = left_behind(show, going)
    changes += [Change(show.items[key], replace(after, rev=after.rev + 1)) for key, after in stay.items()]
    left = [key for key, after in stay.items() if after.body is not show.items[key].body]
    settings = show.settings
    playing, running = (None if one in going else one for one in (settings.playing, settings.running))
    if (playing, running) != (settings.playing, settings.running):
        changes.append(changed(show.items["show"], replace(settings, playing=playing, running=running)))
    changes += [changed(item, look) for item, look in parts_without(show, going)]
    changes += [changed(item, order) for item, order in without_looks(show, going)]
    report = (f"{len(left)} fixtures that hung there stay in mid-air: hang them again.",) if left else ()
    if idle:
        report = (*report, f"{listed(show, [item.id for item in idle]).capitalize()} moved that, and goes with it.")
    return Edit(tuple(changes), f"Remove {listed(show, args.ids)}", (), report)
