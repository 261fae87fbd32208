"""Edits of how fixtures hang: one by one by the pointer, back on their rails, like another one, of another type."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Literal

import numpy as np

from zarfwright.core.aiming.yokes import aiming_chain, turns_by_hand
from zarfwright.core.dmx.features import FEATURES, drives_of
from zarfwright.core.dmx.rows import beam_keys, fixture_of
from zarfwright.core.edits.aiming import chosen_fixtures
from zarfwright.core.edits.base import Arguments, Edit, NewId, added, changed, made, signed_length
from zarfwright.core.edits.hanging import ARM_MOST_M, type_and_mode
from zarfwright.core.edits.paletting import given_anew
from zarfwright.core.errors import JobError
from zarfwright.core.looks.look import Look
from zarfwright.core.looks.said import said_of
from zarfwright.core.patch import occupied, overlaps
from zarfwright.core.rig.hang import SIDES_DEG, clamp_placement, hang_rail, hanging_axes
from zarfwright.core.rig.rails import Nearest, nearest_rail
from zarfwright.core.rig.things import Fixture, Hang, Side
from zarfwright.core.show import Change, Item, Show, listed
from zarfwright.core.site.loads import height_below
from zarfwright.core.site.structures import rail_label, rail_of, start_side, truss_rails
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats, Placement, from_matrix, quat, to_matrix, unit, vec
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.model import FixtureType
from zarfwright.core.units import format_length, parse_count

Vec3 = tuple[float, float, float]
REACH_M = 2.5
"""A rail that is further away than this is not the one that a fixture left."""


def on_surface(place: Floats, normal: Floats, turn_deg: float = 0.0) -> Placement:
    """A fixture fixed to a face at a place (3,): it shines away from it in its zero pose. `normal` (3,) is the face's;
    on a floor it stands, under a ceiling it hangs, on a wall its X is level."""
    up = -unit(normal)
    side = np.cross([0.0, 0.0, 1.0], up)
    x = unit(side) if np.linalg.norm(side) > 1e-3 else np.array([1.0, 0.0, 0.0])
    angle = math.radians(turn_deg)
    y = np.cross(up, x)
    x = math.cos(angle) * x + math.sin(angle) * y
    return Placement(vec(place), quat(from_matrix(np.stack([x, np.cross(up, x), up], axis=1))))


class PlaceOne(Arguments):
    """One fixture where the pointer is: on a rail, or on a face (`normal`) of the floor, a deck, a wall."""

    type: str
    mode: str = ""
    structure: str = ""
    rail: str = ""
    along_m: float = 0.0
    side: Side = "under"
    on_slopes: Literal["follow", "plumb"] = "follow"
    out: str = "0"
    drop: str = "0"
    """Of the arm and of the drop pipe, as typed."""
    position: Vec3 = (0.0, 0.0, 0.0)
    normal: Vec3 = (0.0, 0.0, 1.0)
    number: str = ""
    purpose: str = ""


def place_one(show: Show, args: PlaceOne, new_id: NewId) -> Edit:
    entry, mode = type_and_mode(show, args.type, args.mode)
    number = parse_count(args.number, 1, 99_999) if args.number.strip() else None
    plain = Fixture(args.type, mode, number=number, purpose=args.purpose.strip())
    system = show.settings.system
    if args.structure:
        truss = show.body(args.structure, Truss)
        rail = rail_of(truss, args.rail)
        along = min(max(args.along_m, 0.0), rail.length_m)
        out = signed_length(show, args.out, "out", ARM_MOST_M)
        drop = signed_length(show, args.drop, "drop", ARM_MOST_M)
        hang = Hang(args.structure, args.rail, along, args.side, on_slopes=args.on_slopes, out_m=out, drop_m=drop)
        fixture = replace(plain, hang=hang, unit=_next_unit(show, args.structure))
        said = [f"{format_length(along, system)} from {start_side(truss)}"]
        said += _gaps(show, args.structure, args.rail, along)
        where = f"on {truss.name}, {rail_label(truss, args.rail)}: {', '.join(said)}"
    else:
        normal = np.asarray(args.normal, dtype=float)
        if not np.linalg.norm(normal) > 1e-6:
            raise JobError("That face has no direction: choose another place.", "normal")
        fixture = replace(plain, placement=on_surface(np.asarray(args.position), normal))
        upright = float(unit(normal)[2])
        where = "standing there" if upright > 0.7 else "hanging there" if upright < -0.7 else "on the wall"
    items = added(show, "fixture", [fixture], new_id)
    name = f"{entry.name} {number}" if number is not None else entry.name
    return Edit((made(items[0]),), f"Place {name} {where}", (items[0].id,))


def _next_unit(show: Show, structure: str) -> int:
    units = [f.unit or 0 for _, f in show.fixtures() if f.hang is not None and f.hang.structure == structure]
    return max(units, default=0) + 1


def _gaps(show: Show, structure: str, rail: str, along: float) -> list[str]:
    """How far the neighbours on a rail are, as words."""
    near = [
        (f.hang.along_m - along, item.name)
        for item, f in show.fixtures()
        if f.hang is not None and f.hang.structure == structure and f.hang.rail == rail
    ]
    before = max((one for one in near if one[0] < 0), default=None)
    after = min((one for one in near if one[0] >= 0), default=None)
    system = show.settings.system
    return [f"{format_length(abs(away), system)} to {name}" for away, name in (one for one in (before, after) if one)]


class PutBack(Arguments):
    """Bring fixtures back to the nearest rail no further than 2.5 m away or, where there is none, onto what is below;
    those past the end of their rail to its end. With a `structure`, to the rails of that one only."""

    ids: list[str]
    structure: str | None = None


def hung_as_it_is(show: Show, near: Nearest, fixture: Fixture) -> Hang:
    """How a fixture that stands free would hang at the nearest place of a rail: turned as it is, as far as clamps let
    it, which turn about the rail and about the fixture's own axis."""
    hang = Hang(near.structure, near.rail, near.along_m)
    rail = rail_of(show.body(near.structure, Truss), near.rail)
    own = to_matrix((fixture.placement or Placement()).rotation)
    r = np.stack(hanging_axes(rail, hang), axis=1).T @ own
    about_rail = math.degrees(math.atan2(-r[1, 2], r[2, 2])) if math.hypot(r[1, 2], r[2, 2]) > 1e-6 else 0.0
    spin = math.degrees(math.atan2(-r[0, 1], r[0, 0])) if math.hypot(r[0, 1], r[0, 0]) > 1e-6 else 0.0
    side = min(SIDES_DEG, key=lambda one: abs((about_rail - SIDES_DEG[one] + 180.0) % 360.0 - 180.0))
    turn = (about_rail - SIDES_DEG[side] + 180.0) % 360.0 - 180.0
    return replace(hang, side=side, turn_deg=round(turn, 3) + 0.0, spin_deg=round(spin, 3) + 0.0)  # type: ignore[arg-type]


def put_back(show: Show, args: PutBack, _: NewId) -> Edit:
    structures = [item for item in show.of_kind("truss") if not show.hidden(item)]
    if args.structure is not None:
        structures = [show.item(args.structure, "truss")]
    changes, said = [], []
    for item, fixture in chosen_fixtures(show, args.ids):
        place = np.array(clamp_placement(show, fixture).position)
        if fixture.hang is not None and fixture.hang.structure in show.items:
            rail = hang_rail(show, fixture.hang)
            along = min(max(fixture.hang.along_m, 0.0), rail.length_m)
            if along != fixture.hang.along_m:
                changes.append(changed(item, replace(fixture, hang=replace(fixture.hang, along_m=along))))
                said.append(f"{item.name.capitalize()} to the end of its rail.")
            continue
        near = nearest_rail(structures, place)
        below = float(height_below(show, place[None, :])[0])
        if near is not None and near.away_m <= min(REACH_M, max(place[2] - below, 0.0)):
            before = fixture.hang or hung_as_it_is(show, near, fixture)
            hang = replace(before, structure=near.structure, rail=near.rail, along_m=round(near.along_m, 3))
            changes.append(changed(item, replace(fixture, hang=hang, placement=None)))
            truss = show.body(near.structure, Truss)
            said.append(f"{item.name.capitalize()} to {truss.name}, {rail_label(truss, near.rail)}.")
        elif abs(place[2] - below) > 1e-6:
            stood = on_surface(np.array([place[0], place[1], below]), np.array([0.0, 0.0, 1.0]))
            changes.append(changed(item, replace(fixture, hang=None, placement=stood)))
            said.append(f"{item.name.capitalize()} onto what is below it.")
    if not changes:
        raise JobError("All of these are where they belong.", "ids")
    return Edit(tuple(changes), f"Put {listed(show, args.ids)} back", tuple(args.ids), tuple(said[:6]))


class CopyAttitude(Arguments):
    """Let fixtures hang as another does: side, turn about the rail, own turn, slopes, arm; free ones turned alike."""

    ids: list[str]
    like: str


def copy_attitude(show: Show, args: CopyAttitude, _: NewId) -> Edit:
    like = show.body(args.like, Fixture)
    changes = []
    for item, fixture in chosen_fixtures(show, [one for one in args.ids if one != args.like]):
        if fixture.hang is not None and like.hang is not None:
            taken = {
                name: getattr(like.hang, name)
                for name in ("side", "turn_deg", "spin_deg", "on_slopes", "out_m", "drop_m", "clamps")
            }
            after = replace(fixture, hang=replace(fixture.hang, **taken))
        elif fixture.hang is None and like.hang is None and fixture.placement and like.placement:
            after = replace(fixture, placement=replace(fixture.placement, rotation=like.placement.rotation))
        else:
            raise JobError("One of them hangs and the other stands free: copy between those that are alike.", "ids")
        if after != fixture:
            changes.append(changed(item, after))
    if not changes:
        raise JobError("They hang like that already.", "ids")
    return Edit(tuple(changes), f"Let {listed(show, args.ids)} hang like {show.items[args.like].name}", tuple(args.ids))


def features_of(fixture_type: FixtureType, mode: str) -> set[str]:
    """The features that a mode's channels drive."""
    return {
        drive.feature
        for channel in fixture_type.mode(mode).channels
        for function in channel.functions
        for drive in drives_of(function)
    }


class SwapType(Arguments):
    """Let fixtures be of another type: places, numbers and purposes stay, of patch and looks what still fits."""

    ids: list[str]
    type: str
    mode: str = ""


def _moves(show: Show, driver: Item) -> str:
    drives = driver.body.drives if isinstance(driver.body, Fixture) else None
    moved = show.items.get(drives.thing) if drives is not None else None
    return f"moves {moved.name}" if moved is not None else "moves things"


def swap_type(show: Show, args: SwapType, _: NewId) -> Edit:
    entry, _mode = type_and_mode(show, args.type, args.mode)
    new_type = show.types[args.type]
    pairs = [(item, f) for item, f in chosen_fixtures(show, args.ids) if f.type != args.type or args.mode]
    if not pairs:
        raise JobError(f"They are {entry.name}s already: choose another type.", "type")
    driver = next((item for item, fixture in pairs if fixture.drives is not None), None)
    if driver is not None:
        raise JobError(f"{driver.name.capitalize()} is no lamp, it {_moves(show, driver)}: leave it out.", "ids")
    changes: dict[str, Change] = {}
    lost: dict[str, int] = {}
    keys: dict[str, tuple[set[str], int]] = {}
    for item, fixture in pairs:
        mode = args.mode or _mode_like(show, fixture, new_type)
        drives = features_of(new_type, mode)
        hands = {name: value for name, value in fixture.hands.items() if name in drives}
        for name in fixture.hands.keys() - hands.keys():
            lost[f"{name} held by hand"] = lost.get(f"{name} held by hand", 0) + 1
        by_hand = turns_by_hand(aiming_chain(new_type, mode))
        count = len(chains_of(new_type, mode))
        there = {str(cell) for cell in range(1, count + 1)} if count > 1 else set()
        cells = {
            cell: kept
            for cell, held in fixture.cells.items()
            if cell in there and (kept := {name: value for name, value in held.items() if name in drives})
        }
        after = replace(fixture, type=args.type, mode=mode, hands=hands, cells=cells, breaks=())
        if not by_hand:
            # What was set at the lamp went with it.
            after = replace(after, fixed={}, lens_deg=None, lamp=None)
        changes[item.id] = changed(item, after)
        keys[item.id] = (drives, len(chains_of(new_type, mode)))
    for key, body in given_anew(show.after(changes.values()), list(changes)).items():
        changes[key] = changed(show.items[key], body)
    report = _unpatched(show, changes)
    looks, dropped = _looks_after(show, keys)
    # A look keeps a value for all there is; only what the old type could do is a loss.
    dropped &= set[str]().union(*(features_of(show.type_of(one), one.mode) for _, one in pairs))
    report += [f"{count} of them lose {name}." for name, count in sorted(lost.items())]
    if dropped:
        report.append(f"Looks lose what a {entry.name} does not have: {', '.join(sorted(dropped)[:8])}.")
    said = f"Swap {listed(show, [item.id for item, _ in pairs])} to {entry.name}"
    return Edit((*changes.values(), *looks), said, tuple(args.ids), tuple(report))


def _mode_like(show: Show, fixture: Fixture, new_type: FixtureType) -> str:
    """The mode of the same name, else the one of the nearest size."""
    names = [mode.name for mode in new_type.modes]
    if fixture.mode in names:
        return fixture.mode
    size = show.type_of(fixture).mode(fixture.mode).footprint
    return min(new_type.modes, key=lambda mode: abs(mode.footprint - size)).name


def _unpatched(show: Show, changes: dict[str, Change]) -> list[str]:
    """Take the addresses away that no longer fit; says whose."""
    after = show.after(changes.values())
    clash = {one for conflict in overlaps(after) for one in conflict.fixtures}
    before = {one for conflict in overlaps(show) for one in conflict.fixtures}
    gone: list[str] = []
    for item_id in list(changes):
        item, fixture = after.thing(item_id, Fixture)
        if fixture.address is None:
            continue
        too_long = any(last > 512 for _, _, last in occupied(after, fixture))
        if too_long or (item_id in clash and item_id not in before):
            bare = replace(item, body=replace(fixture, universe=None, address=None))
            changes[item_id] = Change(changes[item_id].before, bare)
            gone.append(item.name)
    if not gone:
        return []
    names = f"{', '.join(gone[:6])}{' ...' if len(gone) > 6 else ''}"
    if len(gone) == 1:
        return [f"{names} no longer fits at its address: address it again."]
    return [f"{names} no longer fit at their addresses: address them again."]


def _looks_after(show: Show, keys: dict[str, tuple[set[str], int]]) -> tuple[list[Change], set[str]]:
    """The looks with the values that the new types have; and what was dropped."""
    changes: list[Change] = []
    dropped: set[str] = set()
    for item, look in show.bodies(Look):
        if not keys.keys() & {fixture_of(key) for key in look.values}:
            continue
        values: dict[str, Mapping[str, float]] = {}
        for key, said in look.values.items():
            fixture = fixture_of(key)
            if fixture not in keys:
                values[key] = said
                continue
            drives, beams = keys[fixture]
            if key.endswith(("/1", fixture)):
                kept = {name: value for name, value in said.items() if name in drives}
                dropped |= {name for name in said if name not in drives and abs(said[name]) > 1e-9}
                values |= dict.fromkeys(beam_keys(fixture, beams), kept)
        if values != look.values:
            changes.append(changed(item, replace(look, values=said_of(values))))
    # What a look says of every fixture at its neutral value is no loss.
    neutral = {feature.name for feature in FEATURES if feature.neutral == 1.0}
    return changes, dropped - neutral


def rails_kept(show: Show, item: Item, after: Truss) -> tuple[list[Change], list[str]]:
    """What becomes of the fixtures on a structure that is made of something else: those whose rail is no more go to the
    nearest one; says how many, and who would be past the end."""
    rails = truss_rails(after)
    changes, past = [], []
    moved = 0
    for one, fixture in show.fixtures():
        if fixture.hang is None or fixture.hang.structure != item.id:
            continue
        hang = fixture.hang
        if hang.rail not in rails:
            place = np.array(clamp_placement(show, fixture).position)
            near = nearest_rail([replace(item, body=after)], place)
            assert near is not None
            hang = replace(hang, rail=near.rail, along_m=near.along_m)
            changes.append(changed(one, replace(fixture, hang=hang)))
            moved += 1
        if not rails[hang.rail].closed and hang.along_m > rails[hang.rail].length_m + 1e-6:
            past.append(one.name)
    report = [f"{moved} fixtures go to the nearest rail, for theirs is no more."] if moved else []
    if past:
        names = ", ".join(past[:6]) + (" and more" if len(past) > 6 else "")
        report.append(f"Past the end of its rail then: {names}. Put them back, or make it longer.")
    return changes, report


__all__ = [
    "CopyAttitude", "PlaceOne", "PutBack", "SwapType", "copy_attitude", "features_of", "on_surface", "place_one",
    "put_back", "rails_kept", "swap_type",
]  # fmt: skip
