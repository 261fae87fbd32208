"""Edits of channel numbers and addresses."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from typing import Literal

from zarfwright.core.edits.aiming import chosen_fixtures
from zarfwright.core.edits.base import Arguments, Edit, NewId, changed, listed
from zarfwright.core.errors import JobError
from zarfwright.core.patch import footprint_of, in_sequence, parse_place
from zarfwright.core.rig.arrange import settled
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.order import along_rails, by_place
from zarfwright.core.show import Show
from zarfwright.core.units import parse_count

Numbered = Literal["number", "unit", "dimmer", "circuit"]
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
    order: Literal["selection", "number", "place", "rail"] = "selection"
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
    keys: list[tuple[float, ...]]
    if args.order == "place":
        keys = by_place(show, pairs)
    elif args.order == "rail":
        keys = along_rails(show, pairs)
    elif args.order == "number":
        keys = [(fixture.number or 1e9, clamp_placement(show, fixture).position[0]) for _, fixture in pairs]
    else:
        keys = [(float(i), 0.0) for i in range(len(pairs))]
    order = settled(keys, args.reverse)
    given: dict[str, int] = {pairs[i][0].id: start + k // share * step for k, i in enumerate(order)}
    report: tuple[str, ...] = ()
    if args.what == "number":
        taken = {f.number for item, f in show.fixtures() if item.id not in given and f.number is not None}
        doubles = sorted(set(given.values()) & taken)
        counted = sorted({n for n in given.values() if list(given.values()).count(n) > 1})
        report = tuple(f"Number {n} is now given twice: renumber the other one." for n in (*doubles, *counted))
    value: Callable[[int], int | str] = (lambda n: f"{before}{n}{after}") if args.what == "circuit" else (lambda n: n)
    changes = tuple(changed(item, replace(f, **{args.what: value(given[item.id])})) for item, f in pairs)  # type: ignore[arg-type]
    first = value(start)
    said = f"Number {listed(show, args.ids)} from {first}"
    if args.what != "number":
        said = f"Give {listed(show, args.ids)} {WORDS[args.what]} from {first}"
    said += ", reversed" if args.reverse else ""
    return Edit(changes, said, tuple(args.ids), report)


class Address(Arguments):
    """Addresses one after another from a start such as 2.001, in the order given."""

    ids: list[str]
    start: str
    gap: str = "0"


def address(show: Show, args: Address, _: NewId) -> Edit:
    pairs = chosen_fixtures(show, args.ids)
    start = parse_place(args.start)
    gap = parse_count(args.gap, 0, 511)
    places = in_sequence([footprint_of(show, fixture) for _, fixture in pairs], start, gap)
    changes = tuple(
        changed(item, replace(fixture, universe=place.universe, address=place.address))
        for (item, fixture), place in zip(pairs, places, strict=True)
    )
    return Edit(changes, f"Address {listed(show, args.ids)} from {places[0]}", tuple(args.ids))


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
