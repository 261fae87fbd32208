"""What is wrong with drivers: two at odds, one that moves nothing, and what meets what on the way."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from zarfwright.core.carriers.meeting import Meeting, meetings
from zarfwright.core.carriers.planned import drivers_of, frame_of_driver
from zarfwright.core.carriers.types import Axis, Range, ranges_of
from zarfwright.core.findings import Finding, Repair
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.space import Floats, rotate
from zarfwright.core.units import format_length

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
    return [*found, *(_meets(show, one) for one in meetings(show))]


def _meets(show: Show, one: Meeting) -> Finding:
    """Two things that meet on the way, with the range that would keep them apart."""
    moved, other, driver = (show.items[key].name for key in (one.moved, one.other, one.driver))
    where = _where(show, one)
    text = f"{moved} meets {other} at {where}, which is {100 * one.level:.0f} % of {driver}: end its range before."
    repair = None
    if one.range.axis != "spin":
        body = show.body(one.driver, Fixture)
        every = ranges_of(show.types[body.type], body.mode)
        ranges = [_ended(r, one) if r.axis == one.range.axis else r for r in every]
        if all(r.high - r.low > 1e-3 for r in ranges):
            repair = Repair("End it before", "set driver", {"id": one.driver, "channels": [said_of(r) for r in ranges]})
    things = tuple(dict.fromkeys((one.driver, one.moved, one.other)))
    return Finding("hang", things, text, True, repair, code="driver_meets")


def _ended(one: Range, at: Meeting) -> Range:
    """A range that ends before something is met."""
    end = round(at.clear, 3)
    return replace(one, high=end) if at.value >= one.home else replace(one, low=end)


def _where(show: Show, one: Meeting) -> str:
    axis = one.range.axis
    if axis in ("x", "y", "z"):
        return f"{axis} {format_length(one.value, show.settings.system)}"
    return f"{one.value:.2f} times its size" if axis == "size" else f"{one.value:.0f}°"


def said_of(one: Range) -> dict[str, object]:
    """A channel as an edit takes it: metres and degrees."""
    unit = "m" if one.unit == "m" else ""
    texts = {name: f"{getattr(one, name):.6g}{unit}" for name in ("low", "home", "high", "speed", "acceleration")}
    return {"axis": one.axis, "bits": one.bits, **texts}
