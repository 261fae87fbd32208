"""What is wrong with drivers: two at odds, one that moves nothing, and what meets what on the way."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from zarfwright.core.carriers.planned import drivers_of, frame_of_driver
from zarfwright.core.carriers.types import Axis, ranges_of
from zarfwright.core.findings import Finding, Repair
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.space import Floats, rotate

SAME = 0.999
"""The cosine of two axes that are one."""
WAYS = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}


@dataclass(frozen=True)
class Odds:
    """Two drivers for one axis of one thing."""

    thing: str
    axis: str
    drivers: tuple[str, str]


def _sort_and_way(axis: Axis) -> tuple[str, str]:
    """Whether a channel shifts, turns or sizes, and along which axis of its driver."""
    if axis == "size":
        return "size", "z"
    if axis == "spin":
        return "turn", "z"
    return ("turn", axis[-1]) if axis.startswith("turn") else ("place", axis)


def _moves_of(show: Show, fixture: Fixture) -> Iterator[tuple[str, str, Floats]]:
    assert fixture.drives is not None
    _, axes = frame_of_driver(show, fixture.drives)
    for one in ranges_of(show.types[fixture.type], fixture.mode):
        sort, way = _sort_and_way(one.axis)
        yield one.axis, sort, rotate(axes, np.array(WAYS[way]))


def at_odds(show: Show) -> list[Odds]:
    """All pairs of drivers that would move one thing along one axis, however that is called in each."""
    found = []
    for thing, drivers in drivers_of(show).items():
        for (a, body_a, _), (b, body_b, _) in combinations(drivers, 2):
            for axis, sort, way in _moves_of(show, body_a):
                others = [w for _, s, w in _moves_of(show, body_b) if s == sort]
                if (sort == "size" and others) or any(abs(float(way @ other)) > SAME for other in others):
                    found.append(Odds(thing, axis, (a.id, b.id)))
    return found


def findings(show: Show) -> list[Finding]:
    """What is wrong with drivers by themselves."""
    found = []
    for odds in at_odds(show):
        names = " and ".join(show.items[one].name for one in odds.drivers)
        text = f"{names} both move {show.items[odds.thing].name} along its {odds.axis}: keep one of them for that axis."
        found.append(Finding("hang", (odds.thing, *odds.drivers), text, True, code="drivers_at_odds"))
    for item, fixture in show.fixtures():
        if fixture.drives is not None and fixture.drives.thing not in show.items:
            gone = Repair("Remove it", "remove", {"ids": [item.id]})
            text = f"{item.name.capitalize()} moves nothing any more: what it moved was removed."
            found.append(Finding("hang", (item.id,), text, True, gone, code="driver_of_nothing"))
    return found
