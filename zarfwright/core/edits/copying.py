"""Copies: of scenery and people, of structures with what hangs on them, of carriers with all on them, of fixtures."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from zarfwright.core.edits.base import Arguments, Edit, NewId, added, made, require_some, signed_length
from zarfwright.core.edits.carrying import with_inside
from zarfwright.core.edits.siting import slid
from zarfwright.core.errors import JobError
from zarfwright.core.kinds import Body, is_placed
from zarfwright.core.rig.things import Carrier, Fixture
from zarfwright.core.show import Item, Show, listed
from zarfwright.core.site import placed
from zarfwright.core.space import Floats, Placement, vec
from zarfwright.core.units import parse_count

COPIES_MAX = 2000


class Duplicate(Arguments):
    """Copies of things, each further on by the same shift. What hangs on a structure and what is on a carrier is copied
    with it. Copied fixtures get the next free numbers, and no addresses."""

    ids: list[str]
    count: str = "1"
    x: str = "0"
    y: str = "0"
    z: str = "0"


def duplicate(show: Show, args: Duplicate, new_id: NewId) -> Edit:
    items = all_of(show, args.ids)
    count = parse_count(args.count, 1, 500)
    if count * len(items) > COPIES_MAX:
        raise JobError(f"{count * len(items)} copies at once are too many: make {COPIES_MAX} at most.", "count")
    by = np.array([signed_length(show, getattr(args, axis), axis) for axis in "xyz"])
    copies = blank(show, items, count, new_id)
    numbers = next_numbers(show)
    report: list[str] = []
    new: list[Item] = []
    for k in range(count):
        for item in items:
            body, said = item.body, ""
            on = copies.get((k, body.hang.structure)) if isinstance(body, Fixture) and body.hang is not None else None
            if isinstance(body, Fixture) and body.hang is not None and on is not None:
                body = replace(body, hang=replace(body.hang, structure=on.id))
            else:
                body, said = _shifted(show, item, by * (k + 1))
            if isinstance(body, Fixture) and body.drives is not None:
                moved = copies.get((k, body.drives.thing))
                if moved is None:
                    continue
                body = replace(body, drives=replace(body.drives, thing=moved.id))
            if isinstance(body, Fixture):
                number = None if body.number is None else next(numbers)
                body = replace(body, number=number, universe=None, address=None, breaks=(), circuit="", dimmer=None)
            report += [said] if said else []
            copy = copies[k, item.id]
            parent = item.parent
            if parent is not None and (k, parent) in copies:
                parent = copies[k, parent].id
            new.append(replace(copy, body=body, parent=parent, layer=item.layer))
    given = [item.body.number for item in new if isinstance(item.body, Fixture) and item.body.number is not None]
    if given:
        one = len(given) == 1
        what = (
            f"A fixture of them is numbered {given[0]}"
            if one
            else f"{len(given)} fixtures are numbered from {given[0]}"
        )
        report.append(f"{what}, and {'has no address' if one else 'have no addresses'}.")
    chosen = [copies[k, one].id for k in range(count) for one in dict.fromkeys(args.ids) if (k, one) in copies]
    said = f"Make {len(chosen)} {'copy' if len(chosen) == 1 else 'copies'} of {listed(show, args.ids)}"
    return Edit(tuple(made(item) for item in new), said, tuple(chosen), tuple(report[-5:]))


def all_of(show: Show, ids: list[str]) -> list[Item]:
    """The things, what is on carriers among them, and what hangs on structures among all these. Raises JobError."""
    require_some(ids, "what to copy")
    items = with_inside(show, [show.item(one) for one in dict.fromkeys(ids)])
    items = [item for item in items if item.is_a.carried]
    if not items:
        raise JobError(f"{listed(show, ids)} cannot be copied: select fixtures, structures, scenery or people.")
    there = {item.id for item in items}
    hung = [
        item
        for item, fixture in show.fixtures()
        if item.id not in there and fixture.hang is not None and fixture.hang.structure in there
    ]
    every = {item.id: item for item in (*items, *hung)}
    drivers = [(item, fixture.drives) for item, fixture in show.fixtures() if fixture.drives is not None]
    for item, drives in drivers:
        # A driver goes with what it moves, and never without it.
        every.pop(item.id, None)
        if drives.thing in every:
            every[item.id] = item
    if not every:
        raise JobError("A driver is copied with what it moves: select that.")
    return [*every.values()]


def blank(show: Show, items: list[Item], count: int, new_id: NewId) -> dict[tuple[int, str], Item]:
    """New items by number of the copy and original, with the original's body yet."""
    copies: dict[tuple[int, str], Item] = {}
    for kind in dict.fromkeys(item.kind for item in items):
        keys = [(k, item) for k in range(count) for item in items if item.kind == kind]
        for (k, item), copy in zip(keys, added(show, kind, [item.body for _, item in keys], new_id), strict=True):
            copies[k, item.id] = copy
    return copies


def next_numbers(show: Show) -> Iterator[int]:
    """Numbers that no fixture has, from the highest on."""
    number = max((fixture.number or 0 for _, fixture in show.fixtures()), default=0)
    while True:
        number += 1
        yield number


def _shifted(show: Show, item: Item, by: Floats) -> tuple[Body, str]:
    """A body further on, and what to say of it. What hangs slides along its rail, or leaves it."""
    body = item.body
    if isinstance(body, Fixture):
        if body.hang is not None and body.hang.structure in show.items:
            return slid(show, item, body, by)
        place = body.placement or Placement()
        return replace(body, placement=Placement(vec(np.asarray(place.position) + by), place.rotation)), ""
    if isinstance(body, Carrier):
        return replace(body, position=vec(np.asarray(body.position) + by), number=None), ""
    assert is_placed(body)
    return placed.moved(body, by), ""
