"""Edits of channel numbers and addresses."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from typing import Literal

from pydantic import Field

from zarfwright.core.dmx.rows import SLOTS
from zarfwright.core.edits.aiming import chosen_fixtures
from zarfwright.core.edits.base import Arguments, Edit, NewId, changed
from zarfwright.core.errors import JobError
from zarfwright.core.findings import first_few
from zarfwright.core.patch import LAST_UNIVERSE, Place, footprint_of, in_sequence, occupied, overlaps, parse_place
from zarfwright.core.patching.compare import mode_named
from zarfwright.core.patching.dimmers import addresses_taken, is_dimmed, place_of, racks_of, with_dimmer
from zarfwright.core.patching.racks import DIMMER_MOST, Rack
from zarfwright.core.rig.arrange import settled
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.order import along_rails, by_place
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Item, Show, listed
from zarfwright.core.units import parse_count

Numbered = Literal["number", "unit", "dimmer", "circuit"]
Order = Literal["selection", "number", "place", "rail"]
WORDS = {"number": "channel numbers", "unit": "unit numbers", "dimmer": "dimmers", "circuit": "circuits"}
COUNTED = re.compile(r"(.*?)(\d+)(\D*)")


class Number(Arguments):
    """Numbers from a start by a step: channel or unit numbers, dimmers, circuits (whose start may be A12). In the order
    given, by place (along the structure or round the circle that they are on, else from stage right), or along rails,
    one structure after the other."""

    ids: list[str]
    start: str
    step: str = "1"
    what: Numbered = "number"
    order: Order = "selection"
    reverse: bool = False
    share: str = "1"
    """How many of them have one number together: two lamps on one dimmer."""


def number(show: Show, args: Number, _: NewId) -> Edit:
    pairs = chosen_fixtures(show, args.ids)
    try:
        step, share = parse_count(args.step, 0, 1000), parse_count(args.share, 1, 100)
        match = COUNTED.fullmatch(args.start.strip()[:40]) if args.what == "circuit" else None
        if match is not None:
            before, start, after = match[1], int(match[2]), match[3]
        else:
            before, start, after = "", parse_count(args.start, 1, 99_999), ""
    except JobError as wrong:
        raise JobError(str(wrong), "start") from wrong
    order = in_order(show, pairs, args.order, args.reverse)
    given: dict[str, int] = {pairs[i][0].id: start + k // share * step for k, i in enumerate(order)}
    report: tuple[str, ...] = ()
    if args.what == "number":
        taken = {f.number for item, f in show.fixtures() if item.id not in given and f.number is not None}
        doubles = sorted(set(given.values()) & taken)
        counted = sorted({n for n in given.values() if list(given.values()).count(n) > 1})
        report = tuple(f"Number {n} is now given twice: renumber the other one." for n in (*doubles, *counted))
    value: Callable[[int], int | str] = (lambda n: f"{before}{n}{after}") if args.what == "circuit" else (lambda n: n)
    racks = racks_of(show)

    def numbered(fixture: Fixture, n: int) -> Fixture:
        if args.what == "dimmer":
            return with_dimmer(show, racks, fixture, n)
        return replace(fixture, **{args.what: value(n)})  # type: ignore[arg-type]

    changes = tuple(changed(item, numbered(f, given[item.id])) for item, f in pairs)
    report += addresses_taken(changes)
    first = value(start)
    said = f"Number {listed(show, args.ids)} from {first}"
    if args.what != "number":
        said = f"Give {listed(show, args.ids)} {WORDS[args.what]} from {first}"
    said += ", reversed" if args.reverse else ""
    return Edit(changes, said, tuple(args.ids), report)


class Address(Arguments):
    """Addresses one after another from a start such as 2.001, in the order given, by number, by place or along rails;
    or all on the one (`same`), which is meant then. `cut`: fixtures may run past the end of a universe."""

    ids: list[str]
    start: str
    gap: str = "0"
    order: Order = "selection"
    reverse: bool = False
    same: bool = False
    cut: bool = False


def in_order(show: Show, pairs: list[tuple[Item, Fixture]], order: Order, reverse: bool) -> list[int]:
    """The places of fixtures in a list, in the order in which they are counted."""
    keys: list[tuple[float, ...]]
    if order == "place":
        keys = by_place(show, pairs)
    elif order == "rail":
        keys = along_rails(show, pairs)
    elif order == "number":
        keys = [(fixture.number or 1e9, clamp_placement(show, fixture).position[0]) for _, fixture in pairs]
    else:
        keys = [(float(i), 0.0) for i in range(len(pairs))]
    return settled(keys, reverse)


def address(show: Show, args: Address, _: NewId) -> Edit:
    chosen = chosen_fixtures(show, args.ids)
    pairs = [chosen[i] for i in in_order(show, chosen, args.order, args.reverse)]
    start = parse_place(args.start)
    gap = parse_count(args.gap, 0, 511)
    if args.same:
        places = [start] * len(pairs)
    else:
        places = in_sequence([footprint_of(show, fixture) for _, fixture in pairs], start, gap, args.cut)
    changes = tuple(
        changed(item, replace(fixture, universe=place.universe, address=place.address))
        for (item, fixture), place in zip(pairs, places, strict=True)
    )
    said = f"Address {listed(show, args.ids)} {'on' if args.same else 'from'} {places[0]}"
    after = show.after(tuple(changes))
    return Edit(changes, said, tuple(args.ids), _said_of(after, {item.id for item, _ in pairs}, args.same))


def _said_of(show: Show, ids: set[str], same: bool) -> tuple[str, ...]:
    """What is to be said of fixtures as they lie now: who shares slots with others by accident, who is cut."""
    told = []
    for clash in overlaps(show):
        both = [clash.fixtures[0] in ids, clash.fixtures[1] in ids]
        one, other = (show.body(key, Fixture).dimmer for key in clash.fixtures)
        if not any(both) or (same and all(both)) or (clash.meant and one is not None and one == other):
            continue
        a, b = (show.items[key].name for key in clash.fixtures)
        where = f"universe {clash.universe} from {clash.first} on"
        if not clash.meant:
            told.append(f"{a.capitalize()} and {b} share slots of {where}.")
        elif not all(both):
            told.append(f"{a.capitalize()} and {b} are driven together, from one address.")
    racks = racks_of(show)
    for key in ids:
        fixture = show.body(key, Fixture)
        driven = place_of(racks, fixture.dimmer)
        if driven is not None and driven != (fixture.universe, fixture.address) and is_dimmed(show, fixture):
            at = Place(*driven)
            told.append(f"{show.items[key].name.capitalize()} leaves its dimmer {fixture.dimmer}, driven at {at}.")
        if any(last > SLOTS for _, _, last in occupied(show, show.body(key, Fixture))):
            told.append(f"{show.items[key].name.capitalize()} runs past the end of its universe.")
    return tuple(first_few(told))


class Unpatch(Arguments):
    """Take addresses away."""

    ids: list[str]


def unpatch(show: Show, args: Unpatch, _: NewId) -> Edit:
    changes = tuple(
        changed(item, replace(fixture, universe=None, address=None))
        for item, fixture in chosen_fixtures(show, args.ids)
        if fixture.address is not None
    )
    if not changes:
        raise JobError("None of these has an address.")
    return Edit(changes, f"Take the address of {listed(show, args.ids)} away", tuple(args.ids))


class MoveUniverse(Arguments):
    """All that is on one universe to another; with `swap` what is there comes back."""

    universe: str
    to: str
    swap: bool = False


def _universe(text: str, field: str) -> int:
    try:
        return parse_count(text, 1, LAST_UNIVERSE)
    except JobError as wrong:
        raise JobError(f"Universe “{text.strip()}” does not exist: type 1 to {LAST_UNIVERSE}.", field) from wrong


def move_universe(show: Show, args: MoveUniverse, _: NewId) -> Edit:
    here, there = _universe(args.universe, "universe"), _universe(args.to, "to")
    goes = {here: there, there: here} if args.swap else {here: there}
    changes = []
    for item, fixture in show.fixtures():
        moved = replace(
            fixture,
            universe=goes.get(fixture.universe, fixture.universe) if fixture.universe is not None else None,
            breaks=tuple((number, goes.get(universe, universe), slot) for number, universe, slot in fixture.breaks),
        )
        if moved != fixture:
            changes.append(changed(item, moved))
    for item, rack in show.bodies(Rack):
        if rack.universe in goes:
            changes.append(changed(item, replace(rack, universe=goes[rack.universe])))
    if not changes:
        raise JobError(f"Nothing is patched on universe {here}: choose another.", "universe")
    said = f"Swap universes {here} and {there}" if args.swap else f"Move universe {here} to {there}"
    ids = {change.id for change in changes if isinstance(show.items[change.id].body, Fixture)}
    return Edit(tuple(changes), said, (), _said_of(show.after(tuple(changes)), ids, False))


class PlaceBreak(Arguments):
    """One further break of a mode to an address of its own; none: after the break before it."""

    ids: list[str]
    number: int
    start: str | None


def place_break(show: Show, args: PlaceBreak, _: NewId) -> Edit:
    pairs = chosen_fixtures(show, args.ids)
    changes = []
    place = parse_place(args.start) if args.start is not None else None
    for item, fixture in pairs:
        numbers = list(show.type_of(fixture).mode(fixture.mode).footprints)
        if args.number not in numbers[1:]:
            raise JobError(f"{item.name.capitalize()} has no further break {args.number} in its mode.", "number")
        others = tuple(one for one in fixture.breaks if one[0] != args.number)
        named = ((args.number, place.universe, place.address),) if place is not None else ()
        changes.append(changed(item, replace(fixture, breaks=tuple(sorted(others + named)))))
    where = f"on {place}" if place is not None else "after the one before it"
    said = f"Put break {args.number} of {listed(show, args.ids)} {where}"
    return Edit(tuple(changes), said, tuple(args.ids))


class Taken(Arguments):
    """What is taken of a list for one fixture; none: it stays."""

    id: str
    mode: str | None = None
    circuit: str | None = None
    dimmer: int | None = Field(None, ge=1, le=DIMMER_MOST)
    start: str | None = None
    unpatch: bool = False


class TakePatch(Arguments):
    """Modes, addresses, circuits and dimmers as a list has them."""

    lines: list[Taken]


def take_patch(show: Show, args: TakePatch, _: NewId) -> Edit:
    taken: dict[str, Fixture] = {}
    racks = racks_of(show)
    for line in args.lines:
        item, fixture = show.thing(line.id, Fixture)
        after = taken.get(line.id, fixture)
        if line.mode is not None:
            named = mode_named(show.type_of(fixture), line.mode)
            if named is None:
                raise JobError(f"{item.name.capitalize()} has no mode “{line.mode}”: choose one of its type's.")
            after = replace(after, mode=named)
        if line.circuit is not None:
            after = replace(after, circuit=line.circuit.strip())
        if line.dimmer is not None:
            after = with_dimmer(show, racks, after, line.dimmer)
        if line.start is not None:
            place = parse_place(line.start)
            after = replace(after, universe=place.universe, address=place.address)
        if line.unpatch:
            after = replace(after, universe=None, address=None)
        taken[line.id] = after
    changes = [changed(show.items[key], after) for key, after in taken.items() if after != show.items[key].body]
    if not changes:
        raise JobError("The list says nothing new of these: choose lines that differ.")
    ids = tuple(change.id for change in changes)
    said = f"Take the patch of {listed(show, ids)} from the list"
    return Edit(tuple(changes), said, ids, _said_of(show.after(tuple(changes)), set(ids), False))
