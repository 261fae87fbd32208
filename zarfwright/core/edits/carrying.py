"""Edits of carriers: made of a selection, filled, emptied, moved and turned with all that is on them."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Literal

import numpy as np

from zarfwright.core.carriers.planned import drivers_of
from zarfwright.core.carriers.posed import posed, poses_told
from zarfwright.core.edits.arranging import Rotate, bounds_of, rotate_things
from zarfwright.core.edits.base import Arguments, Edit, NewId, added, changed, free_name, made, require_some
from zarfwright.core.errors import JobError
from zarfwright.core.kinds import Body, is_placed
from zarfwright.core.looks.look import Look
from zarfwright.core.looks.shown import carriers_of, resolved
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Carrier, Fixture
from zarfwright.core.show import Change, Item, Show, listed
from zarfwright.core.site import placed
from zarfwright.core.space import Floats, Placement, about, multiply, quat, rotate, vec
from zarfwright.core.units import parse_angle_deg, parse_count


def inside_of(show: Show, carrier: str) -> list[Item]:
    """All that is on a carrier, and on the carriers on it."""
    by_parent: dict[str, list[Item]] = {}
    for item in show.items.values():
        if item.parent is not None:
            by_parent.setdefault(item.parent, []).append(item)
    found: list[Item] = []
    waiting, seen = [carrier], {carrier}
    while waiting:
        for item in by_parent.get(waiting.pop(), []):
            if item.id not in seen:
                seen.add(item.id)
                found.append(item)
                waiting.append(item.id)
    return found


def with_inside(show: Show, items: Iterable[Item]) -> list[Item]:
    """The things, and all that is on the carriers among them, each once."""
    every: dict[str, Item] = {}
    for item in items:
        every[item.id] = item
        if item.kind == "carrier":
            every.update({one.id: one for one in inside_of(show, item.id)})
    return list(every.values())


def carried(show: Show, items: Iterable[Item], by: Floats, turn_deg: float, pivot: Floats) -> list[Change]:
    """All of the things turned about a pivot (3,) in plan and then shifted by metres (3,). What hangs on a structure
    among them goes with that."""
    changes = []
    for item in items:
        body = item.body
        after: Body
        if isinstance(body, Fixture):
            if body.hang is not None and body.hang.structure in show.items:
                # It goes with its structure, or stays on it.
                continue
            place = body.placement or Placement()
            turn = about((0.0, 0.0, 1.0), math.radians(turn_deg))
            moved = pivot + rotate(turn, np.asarray(place.position) - pivot) + by
            after = replace(body, placement=Placement(vec(moved), quat(multiply(turn, place.rotation))))
        elif isinstance(body, Carrier):
            turn = about((0.0, 0.0, 1.0), math.radians(turn_deg))
            moved = pivot + rotate(turn, np.asarray(body.position) - pivot) + by
            after = replace(body, position=vec(moved), turn_deg=body.turn_deg + turn_deg)
        elif is_placed(body):
            after = placed.moved(placed.turned(body, turn_deg, pivot) if turn_deg else body, by)
        else:
            continue
        changes.append(changed(item, after))
    return changes


def _with_parent(item: Item, parent: str | None) -> Change:
    return Change(item, replace(item, parent=parent, rev=item.rev + 1))


def _middle(show: Show, items: list[Item]) -> Floats:
    """The middle of what is seen of some things (3,)."""
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    for item in items:
        if isinstance(item.body, Fixture):
            place = np.array(clamp_placement(show, item.body).position)
            low, high = np.minimum(low, place), np.maximum(high, place)
        elif isinstance(item.body, Carrier):
            low, high = np.minimum(low, item.body.position), np.maximum(high, item.body.position)
        elif is_placed(item.body):
            own_low, own_high = bounds_of(show, item)
            low, high = np.minimum(low, own_low), np.maximum(high, own_high)
    return np.asarray((low + high) / 2)


def _taken(show: Show, ids: list[str]) -> list[Item]:
    """What can be on a carrier of the things named, without what is inside of carriers among them."""
    require_some(ids, "what to put on a carrier")
    items = [item for item in map(show.item, ids) if item.is_a.carried]
    if not items:
        raise JobError(f"{listed(show, ids)} cannot be on a carrier: select structures, fixtures, scenery or people.")
    for item in items:
        hang = item.body.hang if isinstance(item.body, Fixture) else None
        if hang is not None and hang.structure in show.items and hang.structure not in {one.id for one in items}:
            structure = show.items[hang.structure]
            if item.parent is None or structure.parent != item.parent:
                raise JobError(
                    f"{item.name.capitalize()} hangs on {structure.name}: select that too, for they go together."
                )
    covered = {one.id for item in items if item.kind == "carrier" for one in inside_of(show, item.id)}
    return [item for item in items if item.id not in covered]


class MakeCarrier(Arguments):
    """A carrier for the things selected; where all of them are on one, the new one is on that too."""

    ids: list[str]
    name: str = ""
    number: str = ""
    pivot: tuple[float, float, float] | None = None
    """In metres; None: the middle of them."""


def make_carrier(show: Show, args: MakeCarrier, new_id: NewId) -> Edit:
    items = _taken(show, args.ids)
    number = parse_count(args.number, 1, 99_999) if args.number.strip() else None
    pivot = args.pivot if args.pivot is not None else vec(np.round(_middle(show, items), 3))
    name = free_name(show, "carrier", args.name, "Carrier")
    carrier = added(show, "carrier", [Carrier(name, number, pivot)], new_id)[0]
    parents = {item.parent for item in items}
    carrier = replace(carrier, parent=parents.pop() if len(parents) == 1 else None)
    moved = [_with_parent(item, carrier.id) for item in items]
    return Edit(
        (made(carrier), *moved), f"Make the carrier {name} of {listed(show, [i.id for i in items])}", (carrier.id,)
    )


class PutOn(Arguments):
    """Put things on a carrier (None: take them off theirs). Nothing moves."""

    ids: list[str]
    carrier: str | None = None


def put_on(show: Show, args: PutOn, _: NewId) -> Edit:
    items = _taken(show, args.ids)
    if args.carrier is not None:
        carrier = show.item(args.carrier, "carrier")
        for item in items:
            if item.id == carrier.id or carrier.id in {one.id for one in inside_of(show, item.id)}:
                raise JobError(f"{item.name} cannot be on itself: choose another carrier.", "carrier")
    changes = []
    for item in items:
        parent = args.carrier
        if parent is None and item.parent is not None and (above := show.items.get(item.parent)) is not None:
            # Out of a carrier, and onto the one that this is on.
            parent = above.parent
        if parent != item.parent:
            changes.append(_with_parent(item, parent))
    if not changes:
        raise JobError(f"{listed(show, args.ids)} are there already.", "carrier")
    what = listed(show, [change.id for change in changes])
    where = f"Put {what} on {show.items[args.carrier].name}" if args.carrier is not None else f"Take {what} off"
    return Edit(tuple(changes), where, tuple(args.ids))


class SetPivot(Arguments):
    """Another pivot for a carrier; what is on it stays where it is."""

    id: str
    position: tuple[float, float, float]


def set_pivot(show: Show, args: SetPivot, _: NewId) -> Edit:
    item, carrier = show.thing(args.id, Carrier)
    if not all(math.isfinite(part) and abs(part) < 2000 for part in args.position):
        raise JobError("That is too far away for a pivot.", "position")
    after = replace(carrier, position=args.position)
    # Looks keep where the pivot is: theirs goes along, so that recalling them still moves nothing else.
    shift = np.subtract(args.position, carrier.position)
    looks = []
    for one, look in show.bodies(Look):
        if item.id not in look.carriers:
            continue
        *place, turn = look.carriers[item.id]
        spun = about((0.0, 0.0, 1.0), math.radians(turn - carrier.turn_deg))
        x, y, z = (np.array(place) + rotate(spun, shift)).tolist()
        looks.append(changed(one, replace(look, carriers={**look.carriers, item.id: (x, y, z, turn)})))
    return Edit((changed(item, after), *looks), f"Set the pivot of {item.name}", (item.id,))


def set_carrier_field(show: Show, item: Item, field: Literal["x", "y", "z", "turn"], value: float) -> list[Change]:
    """A carrier brought to a place or turn, with all that is on it."""
    body = item.body
    assert isinstance(body, Carrier)
    by, turn = np.zeros(3), 0.0
    if field == "turn":
        turn = value - body.turn_deg
    else:
        k = "xyz".index(field)
        by[k] = value - body.position[k]
    return carried(show, with_inside(show, [item]), by, turn, np.array(body.position))


def rotate_with(show: Show, args: Rotate, new_id: NewId) -> Edit:
    """Turn things; carriers among them take along all that is on them."""
    carriers = [item for item in map(show.item, args.ids) if isinstance(item.body, Carrier)]
    if not carriers:
        return rotate_things(show, args, new_id)
    degrees = parse_angle_deg(args.degrees)
    covered = {one.id for item in carriers for one in inside_of(show, item.id)}
    others = [show.items[one] for one in args.ids if one not in covered and show.items[one].is_a.placed]
    outer = [item for item in carriers if item.id not in covered]
    common = _middle(show, with_inside(show, [*outer, *others]))
    changes = []
    for item in (*outer, *others):
        own = np.array(item.body.position) if isinstance(item.body, Carrier) else _middle(show, [item])
        pivot = own if args.about == "own" else common
        changes += carried(show, with_inside(show, [item]), np.zeros(3), degrees, pivot)
    return Edit(tuple(changes), f"Turn {listed(show, args.ids)} by {degrees:g}°", tuple(args.ids))


CarrierPlaces = Mapping[str, tuple[float, float, float, float]]


def carriers_now(show: Show) -> dict[str, tuple[float, float, float, float]]:
    """Where all carriers are that no driver moves: their pivots in metres and their turns in degrees, by id."""
    driven = drivers_of(show)
    return {
        item.id: (*item.body.position, item.body.turn_deg)
        for item in show.of_kind("carrier")
        if isinstance(item.body, Carrier) and item.id not in driven
    }


def carriers_brought(show: Show, to: CarrierPlaces) -> tuple[list[Change], list[str]]:
    """Carriers brought to where a look has them, the outer ones first, with all that is on them; and which move. Those
    of drivers are moved by these: where they rest is not a look's to say."""
    now, names = show, []
    driven = drivers_of(show)
    depth = {item.id: _depth(show, item) for item in show.of_kind("carrier") if item.id not in driven}
    for carrier in sorted((one for one in to if one in depth), key=lambda one: depth[one]):
        item = now.items[carrier]
        assert isinstance(item.body, Carrier)
        *place, turn = to[carrier]
        by, turned = np.subtract(place, item.body.position), turn - item.body.turn_deg
        if np.abs(by).max() < 1e-6 and abs(turned) < 1e-6:
            continue
        names.append(item.name)
        now = now.after(carried(now, with_inside(now, [item]), by, turned, np.array(item.body.position)))
    # What several of them move is one change.
    return [
        Change(show.items[key], replace(after, rev=show.items[key].rev + 1))
        for key, after in now.items.items()
        if after is not show.items[key]
    ], names


def as_in_look(show: Show, look: str, driven: bool = True) -> Show:
    """The show with its carriers where a look has them, and (`driven`) what drivers move where they have brought it."""
    changes, _ = carriers_brought(show, carriers_of(show, look))
    stand = show.after(changes) if changes else show
    return posed(stand, poses_told(stand, resolved(stand, look))) if driven else stand


def _depth(show: Show, item: Item) -> int:
    """How many carriers an item is on."""
    deep, seen = 0, {item.id}
    while item.parent is not None and item.parent in show.items and item.parent not in seen:
        item = show.items[item.parent]
        seen.add(item.id)
        deep += 1
    return deep
