"""Edits of drivers: channels for what moves, and heads that keep their aim while they are carried."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, PrivateAttr

from zarfwright.core.carriers.planned import frame_of_driver
from zarfwright.core.carriers.readiness import at_odds
from zarfwright.core.carriers.types import (
    AXES,
    USUAL,
    Axis,
    Range,
    Usual,
    driver_type,
    ranges_of,
    returns_home,
    usual_of,
)
from zarfwright.core.edits.base import Arguments, Around, Edit, NewId, added, changed, last_order, made, require_some
from zarfwright.core.errors import JobError
from zarfwright.core.patch import in_sequence, parse_place
from zarfwright.core.plain import NAME_MOST
from zarfwright.core.rig.things import Carrier, Drives, Fixture, TypeEntry
from zarfwright.core.show import Change, Item, Show, listed
from zarfwright.core.space import ORIGIN, Placement, Vec
from zarfwright.core.types.model import FixtureType
from zarfwright.core.units import parse_angle_deg, parse_count, parse_length

FURTHEST_M = 200.0
USUAL_RETURNS: tuple[Usual, ...] = ("spinner",)


class ChannelSaid(BaseModel):
    """One channel as it is typed: the ends of its range and its home, how fast it goes and how quickly it gets there.
    Of size and spin only the high end counts: the limit."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_max_length=NAME_MOST)

    axis: Axis
    low: str = "0"
    home: str = "0"
    high: str
    speed: str
    acceleration: str
    bits: Literal[8, 16] = 16


class DriverSaid(Arguments):
    """What the channels of a driver are: typed, or those of a usual kind."""

    usual: Usual | None = None
    channels: list[ChannelSaid] = []
    returns: bool | None = None
    _entry: Item | None = PrivateAttr(None)
    """Its type's entry, once its GDTF is kept."""


class AddDriver(DriverSaid):
    """Give a carrier, or one thing, channels of its own."""

    thing: str
    number: str = ""
    start: str = ""
    """Universe and slot."""
    pivot: Vec | None = None
    """Metres from the thing's own place; None: there."""
    turned: str = "0"
    raked: str = "0"


class SetDriver(DriverSaid):
    """Change a driver: its channels, its pivot, its axes. What is left out stays."""

    id: str
    pivot: Vec | None = None
    turned: str | None = None
    raked: str | None = None


def _typed(show: Show, said: ChannelSaid, name: str) -> float:
    text = getattr(said, name).strip()
    try:
        if said.axis in ("x", "y", "z"):
            plain = text.lstrip("+-−")
            return parse_length(plain, show.settings.system) * (-1.0 if text[:1] in ("-", "−") else 1.0)
        return parse_angle_deg(text.replace("−", "-"))
    except JobError as wrong:
        raise JobError(f"{said.axis.capitalize()}: {wrong}", name) from wrong


def _range_said(show: Show, said: ChannelSaid) -> Range:
    high, speed, quick = (_typed(show, said, name) for name in ("high", "speed", "acceleration"))
    if said.axis == "size":
        return Range(said.axis, 1 / high if high > 0 else 0.0, 1.0, high, speed, quick, said.bits)
    if said.axis == "spin":
        return Range(said.axis, -high, 0.0, high, high, quick, said.bits)
    return Range(said.axis, _typed(show, said, "low"), _typed(show, said, "home"), high, speed, quick, said.bits)


def ranges_said(show: Show, args: DriverSaid) -> tuple[Range, ...]:
    """The channels that are asked for, in the order of their axes. Raises JobError."""
    if args.channels:
        found = [_range_said(show, one) for one in args.channels]
        return tuple(sorted(found, key=lambda one: AXES.index(one.axis)))
    return USUAL[args.usual] if args.usual is not None else ()


def _type_wanted(show: Show, args: DriverSaid) -> FixtureType:
    """The type that these channels come to; of a driver that is changed in part, the rest as it is."""
    returns, usual = args.returns, args.usual or ""
    ranges = ranges_said(show, args)
    if isinstance(args, SetDriver):
        _, driver = driver_and_body(show, args.id)
        now = show.types[driver.type]
        ranges = ranges or ranges_of(now, driver.mode)
        returns = returns_home(now, driver.mode) if returns is None else returns
        usual = usual or usual_of(now)
    if returns is None:
        returns = args.usual in USUAL_RETURNS
    return driver_type(ranges, usual, returns)


def driver_and_body(show: Show, item_id: str) -> tuple[Item, Fixture]:
    """A driver. Raises JobError where it is none."""
    item, fixture = show.thing(item_id, Fixture)
    if fixture.drives is None or fixture.type not in show.types:
        raise JobError(f"{item.name.capitalize()} moves nothing: it is no driver.")
    return item, fixture


def entry_id(fixture_type: FixtureType) -> str:
    """The id of the entry of a driver's type: the same channels have one entry."""
    return f"driver-{fixture_type.type_id.lower()}"


def needs_driver(show: Show, args: DriverSaid, around: Around) -> tuple[Show, DriverSaid]:
    """The type of the driver, its GDTF kept among the assets."""
    wanted = _type_wanted(show, args)
    key = entry_id(wanted)
    if key in show.items:
        return show, args
    asset = around.keep_type(wanted)
    filled = args.model_copy()
    filled._entry = Item(key, "type", TypeEntry(wanted.name, wanted.maker, asset))
    return replace(show, types={**show.types, key: wanted, f"asset:{asset}": wanted}), filled


def _entry_for(show: Show, args: DriverSaid) -> tuple[str, FixtureType, list[Change]]:
    """The entry of the type that is wanted, the type, and what makes the entry. Raises JobError."""
    wanted = _type_wanted(show, args)
    key = entry_id(wanted)
    if key in show.items:
        return key, wanted, []
    if args._entry is None or args._entry.id != key:
        raise JobError("The type of this driver could not be kept: try again.")
    return key, wanted, [made(replace(args._entry, order=last_order(show, "type")))]


def require_driven(show: Show, item: Item) -> None:
    """Raises JobError where a thing is none that a driver could move."""
    fixture = item.body if isinstance(item.body, Fixture) else None
    if fixture is not None and fixture.drives is not None:
        raise JobError(f"{item.name.capitalize()} is a driver itself: select what it is to move.", "thing")
    if not item.is_a.carried:
        raise JobError(
            f"{item.name} cannot be moved by a driver: select a carrier, a structure, scenery, a person or a fixture.",
            "thing",
        )


def _axes_typed(turned: str, raked: str) -> tuple[float, float]:
    return parse_angle_deg(turned or "0"), parse_angle_deg(raked or "0")


def _require_near(pivot: Sequence[float]) -> None:
    if not all(np.isfinite(part) and abs(part) <= FURTHEST_M for part in pivot):
        raise JobError("That is too far away for a pivot: type less than 200 m.", "pivot")


def _require_at_peace(show: Show, changes: Sequence[Change], item_id: str) -> None:
    """Raises JobError where two drivers would move one thing along one axis."""
    for odds in at_odds(show.after(changes)):
        if item_id in odds.drivers:
            other = next(one for one in odds.drivers if one != item_id)
            raise JobError(
                f"{show.items[odds.thing].name} is moved along its {odds.axis} by {show.items[other].name} already: "
                "one driver for one axis. Take that channel off one of them.", "channels",
            )  # fmt: skip


def add_driver(show: Show, args: AddDriver, new_id: NewId) -> Edit:
    thing = show.item(args.thing)
    require_driven(show, thing)
    key, wanted, changes = _entry_for(show, args)
    turned, raked = _axes_typed(args.turned, args.raked)
    pivot = args.pivot or ORIGIN
    _require_near(pivot)
    number = parse_count(args.number, 1, 99_999) if args.number.strip() else None
    drives = Drives(thing.id, pivot, turned, raked)
    place, _ = frame_of_driver(show, drives)
    body = Fixture(key, wanted.modes[0].name, placement=Placement(place), number=number, drives=drives,
                   purpose=f"Moves {thing.name}"[:NAME_MOST])  # fmt: skip
    with_type = replace(show.after(changes), types={**show.types, key: wanted})
    if args.start.strip():
        try:
            slot = parse_place(args.start)
        except JobError as wrong:
            raise JobError(str(wrong), "start") from wrong
        start = in_sequence([wanted.modes[0].footprint], slot)[0]
        body = replace(body, universe=start.universe, address=start.address)
    item = added(with_type, "fixture", [body], new_id)[0]
    item = replace(item, parent=thing.id if isinstance(thing.body, Carrier) else thing.parent, layer=thing.layer)
    changes.append(made(item))
    _require_at_peace(with_type, changes, item.id)
    return Edit(tuple(changes), f"Let {wanted.name} move {thing.name}", (item.id,))


def set_driver(show: Show, args: SetDriver, _: NewId) -> Edit:
    item, body = driver_and_body(show, args.id)
    assert body.drives is not None
    key, wanted, changes = _entry_for(show, args)
    drives = body.drives
    if args.pivot is not None:
        _require_near(args.pivot)
        drives = replace(drives, pivot=args.pivot)
    turned, raked = _axes_typed(args.turned or f"{drives.turned_deg:g}", args.raked or f"{drives.raked_deg:g}")
    drives = replace(drives, turned_deg=turned, raked_deg=raked)
    place, _axes = frame_of_driver(show, drives)
    mode = wanted.modes[0].name
    after = replace(body, type=key, mode=mode, drives=drives, placement=Placement(place))
    report: tuple[str, ...] = ()
    before = show.types[body.type].mode(body.mode).footprint
    if before != wanted.modes[0].footprint and body.address is not None:
        report = (f"It takes {wanted.modes[0].footprint} slots now, and took {before}: look at the patch.",)
    if after == body:
        raise JobError(f"{item.name.capitalize()} is so already.")
    with_type = replace(show.after(changes), types={**show.types, key: wanted})
    changes.append(changed(item, after))
    _require_at_peace(with_type, changes[-1:], item.id)
    return Edit(tuple(changes), f"Change {item.name}, which moves {show.items[drives.thing].name}", (item.id,), report)


class KeepAim(Arguments):
    """Let heads keep looking at their places while drivers carry them, or no longer."""

    ids: list[str]
    kept: bool = True


def keep_aim(show: Show, args: KeepAim, _: NewId) -> Edit:
    require_some(args.ids, "heads that are aimed")
    changes = []
    for item, fixture in (show.thing(key, Fixture) for key in args.ids):
        if fixture.aim is None:
            raise JobError(f"{item.name.capitalize()} is aimed at nothing: aim it at a place or a focus point first.")
        if fixture.aim.kept != args.kept:
            changes.append(changed(item, replace(fixture, aim=replace(fixture.aim, kept=args.kept))))
    if not changes:
        raise JobError(f"{listed(show, args.ids)} {'keep' if args.kept else 'do not keep'} their aim already.")
    verb = "Keep the aim of" if args.kept else "No longer keep the aim of"
    return Edit(tuple(changes), f"{verb} {listed(show, args.ids)} while carried", tuple(args.ids))
