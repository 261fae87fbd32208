"""Edits of dimmer racks, and of what is plugged to their dimmers."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import replace

from zarfwright.core.dmx.rows import SLOTS
from zarfwright.core.edits.aiming import chosen_fixtures
from zarfwright.core.edits.base import Arguments, Edit, NewId, added, changed, free_name, made
from zarfwright.core.edits.patching import Order, in_order
from zarfwright.core.errors import JobError
from zarfwright.core.findings import first_few
from zarfwright.core.patch import parse_place
from zarfwright.core.patching.dimmers import Racks, dimmers_of, is_dimmed, place_of, racks_of, with_dimmer
from zarfwright.core.patching.racks import DIMMER_MOST, RACK_MOST, Rack
from zarfwright.core.patching.readiness import overload
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Change, Show, listed
from zarfwright.core.units import parse_count

POWER = re.compile(r"(?P<number>\d+(?:[.,]\d+)?)\s*(?P<unit>kw|w)?", re.IGNORECASE)
CARRIES_W = (100.0, 50_000.0)


def parse_carries(text: str) -> float:
    """Watts of `2.3 kW`, `2300 W` or `2300`. Raises JobError."""
    match = POWER.fullmatch(text.strip()[:30])
    if match is None:
        raise JobError(f"“{text.strip()}” is no power: type for instance 2.3 kW or 2300 W.", "carries")
    watts = float(match["number"].replace(",", ".")) * (1000 if (match["unit"] or "w").lower() == "kw" else 1)
    if not CARRIES_W[0] <= watts <= CARRIES_W[1]:
        raise JobError(f"No dimmer carries {watts:g} W: type from 100 W to 50 kW.", "carries")
    return round(watts, 3)


def parse_dimmers(text: str) -> list[int]:
    """Numbers of dimmers as typed: `21-24, 30`. Raises JobError."""
    found: dict[int, None] = {}
    for part in text.split(","):
        match = re.fullmatch(r"\s*(\d{1,5})\s*(?:(?:-|–|to)\s*(\d{1,5})\s*)?", part)
        first, last = (int(match[1]), int(match[2] or match[1])) if match else (0, 0)
        if not 1 <= first <= last <= first + RACK_MOST:
            raise JobError(f"“{text.strip()}” are no dimmers: type for instance 21-24, 30.", "dimmers")
        found |= dict.fromkeys(range(first, last + 1))
    return list(found)


def _count(text: str, field: str, most: int) -> int:
    try:
        return parse_count(text, 1, most)
    except JobError as wrong:
        raise JobError(str(wrong), field) from wrong


def _placed(rack: Rack, start: str | None) -> Rack:
    """The rack at another address, or at none; whole on its universe. Raises JobError."""
    if start is not None and not start.strip():
        rack = replace(rack, universe=None, address=None)
    elif start is not None:
        place = parse_place(start)
        rack = replace(rack, universe=place.universe, address=place.address)
    if rack.address is not None and rack.address + rack.count - 1 > SLOTS:
        most = SLOTS - rack.count + 1
        raise JobError(
            f"{rack.count} dimmers do not fit there: start at {rack.universe}.{most:03d} at most.", "address"
        )
    return rack


def _free(show: Show, name: str, besides: str = "") -> str:
    if not name:
        raise JobError("A rack needs a name: type at least one letter.", "name")
    if any(item.id != besides and item.name.casefold() == name.casefold() for item in show.of_kind("rack")):
        raise JobError(f"There is a rack {name} already: give it another name.", "name")
    return name


def _followers(show: Show, racks: Racks) -> list[str]:
    """Who is driven where its dimmer is."""
    return [
        item.id
        for item, fixture in show.fixtures()
        if fixture.address is not None
        and place_of(racks, fixture.dimmer) == (fixture.universe, fixture.address)
        and is_dimmed(show, fixture)
    ]


def _brought(show: Show, change: Change, ids: Iterable[str]) -> list[Change]:
    """The change of a rack, and fixtures brought to where their dimmers are after it."""
    after = show.after([change])
    racks = racks_of(after)
    changes = [change]
    for key in ids:
        item, fixture = show.thing(key, Fixture)
        place = place_of(racks, fixture.dimmer)
        if place is not None and place != (fixture.universe, fixture.address):
            changes.append(changed(item, replace(fixture, universe=place[0], address=place[1])))
    return changes


def _loads_said(show: Show, numbers: Iterable[int]) -> list[str]:
    """Which of these dimmers are overloaded."""
    wanted = set(numbers)
    said = (overload(show, one) for one in dimmers_of(show) if one.number in wanted)
    return [f"{text}." for text in said if text is not None]


class AddRack(Arguments):
    """A rack of dimmers; nothing said: after the last number there is. Where fixtures that name its dimmers agree on
    where these are driven, it is addressed so."""

    name: str = ""
    first: str = ""
    count: str = "12"
    carries: str = "2.3 kW"
    start: str | None = None


def add_rack(show: Show, args: AddRack, new_id: NewId) -> Edit:
    after_last = max((rack.last for _, rack in show.bodies(Rack)), default=0) + 1
    first = _count(args.first or str(after_last), "first", DIMMER_MOST)
    rack = Rack(
        _free(show, free_name(show, "rack", args.name, "Rack")),
        first,
        _count(args.count, "count", RACK_MOST),
        parse_carries(args.carries),
    )
    rack = _placed(rack, args.start if args.start is not None else _agreed(show, rack))
    item = added(show, "rack", [rack], new_id)[0]
    on = [i.id for i, f in show.fixtures() if f.dimmer in rack.numbers and is_dimmed(show, f) and f.address is None]
    changes = _brought(show, made(item), on)
    said = f"Add {rack.name}, dimmers {rack.first} to {rack.last}"
    return Edit(tuple(changes), said, (item.id,), tuple(first_few(_loads_said(show.after(changes), rack.numbers))))


def _agreed(show: Show, rack: Rack) -> str:
    """Where the rack would start by the addresses of all that name its dimmers; nothing where they do not agree."""
    starts: set[tuple[int | None, int]] = {
        (fixture.universe, fixture.address - fixture.dimmer + rack.first)
        for _, fixture in show.fixtures()
        if fixture.dimmer is not None
        and fixture.address is not None
        and fixture.dimmer in rack.numbers
        and is_dimmed(show, fixture)
    }
    if len(starts) != 1:
        return ""
    universe, address = starts.pop()
    return f"{universe}.{address}" if 1 <= address <= SLOTS - rack.count + 1 else ""


class SetRack(Arguments):
    """Change a rack; what is left out stays. What is driven where its dimmer is goes along."""

    id: str
    name: str | None = None
    first: str | None = None
    count: str | None = None
    carries: str | None = None
    start: str | None = None
    """Nothing typed: no address."""


def set_rack(show: Show, args: SetRack, _: NewId) -> Edit:
    item, before = show.thing(args.id, Rack)
    rack = before
    if args.name is not None:
        rack = replace(rack, name=_free(show, args.name.strip(), item.id))
    if args.first is not None:
        rack = replace(rack, first=_count(args.first, "first", DIMMER_MOST))
    if args.count is not None:
        rack = replace(rack, count=_count(args.count, "count", RACK_MOST))
    if args.carries is not None:
        rack = replace(rack, carries_w=parse_carries(args.carries))
    rack = _placed(rack, args.start)
    moved = rack.first - before.first
    rack = replace(
        rack,
        others=tuple((n + moved, w) for n, w in rack.others if n + moved in rack.numbers and w != rack.carries_w),
        switched=tuple(n + moved for n in rack.switched if n + moved in rack.numbers),
    )
    if rack == before:
        raise JobError(f"{before.name} is so already.")
    changes = _brought(show, changed(item, rack), _followers(show, racks_of(show)))
    report = _loads_said(show.after(changes), rack.numbers)
    along = len(changes) - 1
    if along:
        report.insert(
            0, f"{along} fixture{'s go' if along > 1 else ' goes'} along to where the dimmers are now driven."
        )
    return Edit(tuple(changes), f"Change {rack.name}", (item.id,), tuple(first_few(report)))


class RateDimmers(Arguments):
    """What single dimmers carry, or whether they give steady power."""

    dimmers: str
    carries: str | None = None
    switched: bool | None = None


def rate_dimmers(show: Show, args: RateDimmers, _: NewId) -> Edit:
    numbers, racks = parse_dimmers(args.dimmers), racks_of(show)
    lost = [number for number in numbers if number not in racks]
    if lost:
        raise JobError(f"No rack has dimmer {lost[0]}: add the rack first.", "dimmers")
    watts = parse_carries(args.carries) if args.carries is not None else None
    changes = []
    for key in dict.fromkeys(racks[number][0] for number in numbers):
        item, rack = show.thing(key, Rack)
        ours = {number for number in numbers if racks[number][0] == key}
        after = rack
        if watts is not None:
            kept = {number: carries for number, carries in rack.others if number not in ours}
            told = dict.fromkeys(ours, watts) if watts != rack.carries_w else {}
            after = replace(after, others=tuple(sorted({**kept, **told}.items())))
        if args.switched is not None:
            switched = set(rack.switched) | ours if args.switched else set(rack.switched) - ours
            after = replace(after, switched=tuple(sorted(switched)))
        if after != rack:
            changes.append(changed(item, after))
    if not changes:
        raise JobError("They are so already.")
    which = f"dimmer{'s' if len(numbers) > 1 else ''} {args.dimmers.strip()}"
    said = [f"carries {args.carries.strip()}"] if args.carries is not None else []
    said += [] if args.switched is None else ["gives steady power" if args.switched else "dims"]
    report = _loads_said(show.after(changes), numbers)
    return Edit(tuple(changes), f"Say that {which} {' and '.join(said)}", (), tuple(first_few(report)))


class Plug(Arguments):
    """Fixtures to a dimmer, all to the one; or with `on_each` so many to one and the next ones to the next; nothing
    typed for the dimmer: off it. What is dimmed is driven where its dimmer is."""

    ids: list[str]
    dimmer: str
    on_each: str = ""
    order: Order = "selection"
    reverse: bool = False


def plug(show: Show, args: Plug, _: NewId) -> Edit:
    chosen = chosen_fixtures(show, args.ids)
    pairs = [chosen[i] for i in in_order(show, chosen, args.order, args.reverse)]
    racks = racks_of(show)
    if not args.dimmer.strip():
        off = [changed(item, with_dimmer(show, racks, f, None)) for item, f in pairs if f.dimmer is not None]
        if not off:
            raise JobError("None of these is on a dimmer.")
        return Edit(tuple(off), f"Unplug {listed(show, args.ids)}", tuple(args.ids))
    first = _count(args.dimmer, "dimmer", DIMMER_MOST)
    share = _count(args.on_each, "on_each", 100) if args.on_each.strip() else len(pairs)
    changes = [
        changed(item, with_dimmer(show, racks, fixture, first + k // share)) for k, (item, fixture) in enumerate(pairs)
    ]
    numbers = range(first, first + (len(pairs) - 1) // share + 1)
    after = show.after(changes)
    lost = [number for number in numbers if number not in racks]
    report = _loads_said(after, numbers)
    if racks and lost:
        report.append(f"No rack has dimmer {lost[0]}: what is on it keeps its address.")
    steady = [item.name for item, fixture in pairs if not is_dimmed(show, fixture) and _dims(racks, after, item.id)]
    report += [f"{name.capitalize()} needs steady power, and would be on a dimmer that dims." for name in steady]
    to = f"dimmer {first}" if len(numbers) == 1 else f"dimmers {first} to {numbers[-1]}"
    return Edit(tuple(changes), f"Plug {listed(show, args.ids)} to {to}", tuple(args.ids), tuple(first_few(report)))


def _dims(racks: Racks, show: Show, key: str) -> bool:
    dimmer = show.body(key, Fixture).dimmer
    return dimmer is not None and dimmer in racks and dimmer not in racks[dimmer][1].switched
