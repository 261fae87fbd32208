"""What moves together in a show: drivers with what they move, and all that goes along."""

from __future__ import annotations

import math

import numpy as np

from zarfwright.core.aiming.points import place_of
from zarfwright.core.carriers.plan import NOBODY, NOTHING, Driver, Group, Keeper, Plan
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Carrier, Drives, Fixture, FocusPoint
from zarfwright.core.show import Item, Show
from zarfwright.core.space import ORIGIN, Quat, Vec, about, multiply, quat, rotate, vec

UP, ACROSS = (0.0, 0.0, 1.0), (0.0, 1.0, 0.0)


def drivers_of(show: Show) -> dict[str, list[tuple[Item, Fixture, Drives]]]:
    """The drivers of a show by what they move, where that is still there."""
    found: dict[str, list[tuple[Item, Fixture, Drives]]] = {}
    for item, fixture in show.fixtures():
        if fixture.drives is not None and fixture.drives.thing in show.items and fixture.type in show.types:
            found.setdefault(fixture.drives.thing, []).append((item, fixture, fixture.drives))
    return found


def place_of_thing(show: Show, item: Item) -> tuple[Vec, float]:
    """Where a thing is and how far it is turned in plan (degrees), by its own place."""
    body = item.body
    if isinstance(body, Fixture):
        place = clamp_placement(show, body)
        x, y, _ = rotate(place.rotation, np.array([1.0, 0.0, 0.0])).tolist()
        return place.position, math.degrees(math.atan2(y, x))
    return getattr(body, "position", ORIGIN), float(getattr(body, "turn_deg", 0.0))


def frame_of_driver(show: Show, drives: Drives) -> tuple[Vec, Quat]:
    """The pivot and the axes of a driver in the show's frame."""
    place, turn_deg = place_of_thing(show, show.items[drives.thing])
    heading = about(UP, math.radians(turn_deg))
    axes = multiply(
        about(UP, math.radians(turn_deg + drives.turned_deg)), about(ACROSS, -math.radians(drives.raked_deg))
    )
    return vec(np.asarray(place) + rotate(heading, np.asarray(drives.pivot, dtype=float))), quat(axes)


class _Carried:
    """What each item rides on, looked up once."""

    def __init__(self, show: Show, driven: dict[str, list[tuple[Item, Fixture, Drives]]]) -> None:
        self.show, self.driven = show, driven
        self._known: dict[str, str | None] = {}

    def rides_on(self, item: Item) -> str | None:
        """The nearest driven thing that an item is, hangs on or is on."""
        return item.id if item.id in self.driven else self.above(item)

    def above(self, item: Item) -> str | None:
        """The nearest driven thing that an item hangs on or is on."""
        if item.id not in self._known:
            # Cycles cannot be made, but a file may hold one.
            self._known[item.id] = None
            upper = self.show.items.get(_holds(self.show, item) or "")
            self._known[item.id] = self.rides_on(upper) if upper is not None else None
        return self._known[item.id]


def _holds(show: Show, item: Item) -> str | None:
    hang = item.body.hang if isinstance(item.body, Fixture) else None
    if hang is not None and hang.structure in show.items:
        return hang.structure
    if isinstance(item.body, FocusPoint):
        return item.body.rides
    return item.parent


def plan_of(show: Show) -> Plan:
    """All that moves in a show; what no driver moves is not in it."""
    driven = drivers_of(show)
    if not driven:
        return NOTHING
    carried = _Carried(show, driven)
    places: dict[str, int] = {}
    groups: list[Group] = []

    def add(key: str) -> int:
        if key not in places:
            above = carried.above(show.items[key])
            upper = add(above) if above is not None else NOBODY
            drivers = tuple(
                Driver(item.id, *frame_of_driver(show, drives)) for item, _, drives in driven[key]
            )  # fmt: skip
            places[key] = len(groups)
            groups.append(Group(key, upper, drivers))
        return places[key]

    for key in driven:
        add(key)
    return Plan(tuple(groups), _keepers(show, carried, places))


def _keepers(show: Show, carried: _Carried, places: dict[str, int]) -> tuple[Keeper, ...]:
    found = []
    for item, fixture in show.fixtures():
        if fixture.aim is None or not fixture.aim.kept or fixture.type not in show.types:
            continue
        point = show.items.get(fixture.aim.point or "")
        group = places.get(carried.rides_on(item) or "", NOBODY)
        of_place = places.get(carried.rides_on(point) or "", NOBODY) if point is not None else NOBODY
        if group != of_place:
            mount, place = clamp_placement(show, fixture), place_of(show, fixture.aim)
            found.append(Keeper(item.id, group, mount, place, of_place))
    return tuple(found)


def groups_by_item(show: Show, plan: Plan) -> dict[str, int]:
    """The group that each item goes along with; who goes with none is not in it."""
    places = {group.id: i for i, group in enumerate(plan.groups)}
    carried = _Carried(show, drivers_of(show))
    found: dict[str, int] = {}
    for item in show.items.values():
        key = carried.rides_on(item) if item.is_a.carried or isinstance(item.body, Carrier | FocusPoint) else None
        if key is not None:
            found[item.id] = places[key]
    return found
