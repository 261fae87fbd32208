"""Which thing of a show is meant by a thing of a scene: by UUID, else by number, else by name, kind and place."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Mapping
from typing import TypeVar

from zarfwright.core.exchange.offered import KINDS_OUT, part_of, tag_of
from zarfwright.core.exchange.places import place_of
from zarfwright.core.exchange.received import uuids
from zarfwright.core.exchange.scene import Scene, Thing
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Item, Show
from zarfwright.core.site.rigging import points_of
from zarfwright.core.site.things import Truss

NEAR_M = 0.05
"""Of fixtures without a number, those no further apart than this are one."""
One = TypeVar("One")
SHOWN = {"SceneObject", "VideoScreen", "Truss", "Support", "Projector"}
"""What a structure or a piece of scenery may be called by another program."""


def pairs_of(show: Show, scene: Scene) -> dict[str, str]:
    """The ids of the show's things by the UUIDs of those that mean them."""
    uuid = uuids(show)
    ours = [item for item in show.items.values() if item.kind in KINDS_OUT]
    by_uuid = {uuid(item.id): item for item in ours}
    found: dict[str, str] = {}
    for thing in scene.things:
        item = by_uuid.get(thing.uuid)
        # One UUID that comes back as another sort of thing is another thing.
        if item is not None and _alike(thing, item):
            found[thing.uuid] = item.id
    for pair in (_by_number, _by_name, lambda things, items: _by_place(show, things, items)):
        taken = set(found.values())
        rest = [thing for thing in scene.things if thing.uuid not in found]
        if not rest:
            break
        found |= pair(rest, [item for item in ours if item.id not in taken])
    return found


def _alike(thing: Thing, item: Item) -> bool:
    tag = tag_of(item.body)
    return thing.tag == tag or (thing.tag in SHOWN and tag in SHOWN)


def _once(found: Iterable[tuple[Hashable, One]]) -> dict[Hashable, One]:
    """Those whose key nobody else has."""
    by_key: dict[Hashable, list[One]] = defaultdict(list)
    for key, one in found:
        by_key[key].append(one)
    return {key: ones[0] for key, ones in by_key.items() if len(ones) == 1}


def _paired(
    things: Iterable[Thing], items: Iterable[Item],
    thing_key: Callable[[Thing], Hashable | None], item_key: Callable[[Item], Hashable | None],
) -> dict[str, str]:  # fmt: skip
    """Things and items of one key, where only one of each has it."""
    a = _once((key, thing) for thing in things if (key := thing_key(thing)) is not None)
    b = _once((key, item) for item in items if (key := item_key(item)) is not None)
    return {thing.uuid: b[key].id for key, thing in a.items() if key in b and _alike(thing, b[key])}


def _by_number(things: list[Thing], items: list[Item]) -> dict[str, str]:
    return _paired(
        things, items,
        lambda thing: thing.said.number if thing.said is not None else None,
        lambda item: item.body.number if isinstance(item.body, Fixture) else None,
    )  # fmt: skip


def _by_name(things: list[Thing], items: list[Item]) -> dict[str, str]:
    """Structures, carriers, focus points and scenery of one name."""
    return _paired(
        things, items,
        lambda thing: (thing.tag, thing.name.casefold()) if thing.said is None and thing.name else None,
        lambda item: (tag_of(item.body), item.name.casefold()) if not isinstance(item.body, Fixture) else None,
    )  # fmt: skip


def _by_place(show: Show, things: list[Thing], items: list[Item]) -> dict[str, str]:
    """Fixtures of which one has no number, at one place."""
    there: dict[tuple[int, ...], list[tuple[Item, tuple[float, ...]]]] = defaultdict(list)
    for item in items:
        if isinstance(item.body, Fixture):
            place = place_of(show, item.body)[3]
            there[_cell(place)].append((item, place))
    found: dict[str, str] = {}
    for thing in things:
        if thing.said is None:
            continue
        place = thing.place[3]
        near = [
            (math.dist(place, other), item)
            for cell in _round(_cell(place))
            for item, other in there.get(cell, ())
            if item.id not in found.values() and _may_be(thing, item)
        ]
        if near and (best := min(near, key=lambda one: one[0]))[0] <= NEAR_M:
            found[thing.uuid] = best[1].id
    return found


def _may_be(thing: Thing, item: Item) -> bool:
    """Two numbers that differ are two fixtures."""
    assert isinstance(item.body, Fixture)
    assert thing.said is not None
    return None in (thing.said.number, item.body.number) or thing.said.number == item.body.number


def _cell(place: tuple[float, ...]) -> tuple[int, ...]:
    return tuple(math.floor(part / NEAR_M) for part in place)


def _round(cell: tuple[int, ...]) -> Iterable[tuple[int, ...]]:
    x, y, z = cell
    return ((x + i, y + j, z + k) for i in (-1, 0, 1) for j in (-1, 0, 1) for k in (-1, 0, 1))


def parts_of(show: Show) -> Mapping[str, str]:
    """The UUIDs of what only belongs to structures of the show: the points they are lifted at; and those structures."""
    return {
        part_of(item.id, i + 1): item.id
        for item, truss in show.bodies(Truss)
        for i in range(len(points_of(truss)) if truss.hoists else 0)
    }
