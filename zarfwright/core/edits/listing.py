"""The edit that adds fixtures out of a list."""

from __future__ import annotations

import math
from dataclasses import replace
from hashlib import sha256

from pydantic import BaseModel, ConfigDict, Field, PrivateAttr

from zarfwright.core.dmx.rows import SLOTS
from zarfwright.core.edits.base import Arguments, Around, Edit, NewId, added, last_order, made
from zarfwright.core.edits.hanging import type_and_mode
from zarfwright.core.errors import JobError
from zarfwright.core.exchange.listing import place_of_start
from zarfwright.core.plain import NAME_MOST
from zarfwright.core.rig.things import Fixture, TypeEntry
from zarfwright.core.show import Change, Item, Show
from zarfwright.core.space import Placement, about, multiply, quat

ROWS_MOST = 20_000


class ListedFixture(BaseModel):
    """One new fixture; `type` is `show:ID` or `library:GUID`, metres, and turns about the fixed axes, X first."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False, str_max_length=NAME_MOST)

    type: str
    mode: str = ""
    number: int | None = Field(None, ge=1, le=99_999)
    unit: int | None = Field(None, ge=1, le=99_999)
    position: tuple[float, float, float] = (0.0, 0.0, 0.0)
    turn_deg: tuple[float, float, float] = (0.0, 0.0, 0.0)
    start: str = ""
    purpose: str = ""
    note: str = ""


class AddFixtures(Arguments):
    """Add fixtures out of a list, standing free at their places."""

    rows: list[ListedFixture]
    _entries: dict[str, Item] = PrivateAttr(default_factory=dict)
    """The types of the library that they need, by their choice."""


def needs_types(show: Show, args: AddFixtures, around: Around) -> tuple[Show, AddFixtures]:
    """Types of the library, read and kept."""
    types, entries = dict(show.types), {}
    by_asset = {entry.asset: item for item, entry in show.bodies(TypeEntry)}
    for choice in dict.fromkeys(row.type for row in args.rows if row.type.startswith("library:")):
        fixture_type, name, data = around.shipped(choice.removeprefix("library:"))
        asset = around.keep(name, data)
        item = by_asset.get(asset) or Item(
            f"type-{sha256(data).hexdigest()[:32]}", "type", TypeEntry(fixture_type.name, fixture_type.maker, asset)
        )
        entries[choice] = item
        types |= {item.id: fixture_type, f"asset:{asset}": fixture_type}
    filled = args.model_copy()
    filled._entries = entries
    return replace(show, types=types), filled


def _turned(degrees: tuple[float, float, float]) -> tuple[float, float, float, float]:
    x, y, z = (about(axis, math.radians(turn)) for axis, turn in zip(
        ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)), degrees, strict=True))  # fmt: skip
    return quat(multiply(z, multiply(y, x)))


def add_fixtures(show: Show, args: AddFixtures, new_id: NewId) -> Edit:
    if not args.rows:
        raise JobError("There is no fixture in this list.", "rows")
    if len(args.rows) > ROWS_MOST:
        raise JobError(f"That is more than {ROWS_MOST} fixtures: part the list.", "rows")
    new = [item for item in args._entries.values() if item.id not in show.items]
    order = last_order(show, "type")
    types = [made(replace(item, order=order + i)) for i, item in enumerate(new)]
    with_types = show.after(types)
    bodies = [_fixture(with_types, row, args._entries) for row in args.rows]
    items = added(show, "fixture", bodies, new_id)
    changes: list[Change] = [*types, *(made(item) for item in items)]
    taken = {f.number for _, f in show.fixtures() if f.number is not None}
    twice = sum(1 for row in args.rows if row.number in taken)
    report = (f"{twice} of them have numbers that are given already: renumber them.",) if twice else ()
    return Edit(tuple(changes), f"Add {len(items)} fixtures of a list", tuple(item.id for item in items), report)


def _fixture(show: Show, row: ListedFixture, entries: dict[str, Item]) -> Fixture:
    source, _, key = row.type.partition(":")
    if source == "library":
        if row.type not in entries:
            raise JobError("A type of this list is not in the library any more: read the list again.", "rows")
        key = entries[row.type].id
    _, mode = type_and_mode(show, key, row.mode, hung=False)
    place = place_of_start(row.start)
    size = show.types[key].mode(mode).footprint
    if place is not None and place.address + size - 1 > SLOTS:
        raise JobError(
            f"{size} slots from {place} on do not fit the universe: correct the address in the list.", "rows"
        )
    return Fixture(
        key, mode, placement=Placement(row.position, _turned(row.turn_deg)), number=row.number, unit=row.unit,
        universe=place.universe if place else None, address=place.address if place else None,
        purpose=row.purpose, note=row.note,
    )  # fmt: skip
