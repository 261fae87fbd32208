"""What moves together, and who moves it: values plain enough to be sent to the live process, which knows no show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from zarfwright.core.space import Floats, Placement, Quat, Vec, quat, vec

NOBODY = -1


@dataclass(frozen=True)
class Driver:
    """One driver: its fixture, its pivot and its axes in the show's frame, all things where they were drawn."""

    fixture: str
    pivot: Vec
    axes: Quat


@dataclass(frozen=True)
class Group:
    """What moves together: a carrier with all on it, or one thing with what hangs on it."""

    id: str
    above: int
    """The group that it rides on; -1: none. That comes before it."""
    drivers: tuple[Driver, ...]


@dataclass(frozen=True)
class Keeper:
    """A head that keeps looking at its place: its clamp where it was drawn, and what carries it and its place."""

    fixture: str
    group: int
    mount: Placement
    place: Vec
    place_group: int


@dataclass(frozen=True)
class Plan:
    """All that moves in a show."""

    groups: tuple[Group, ...] = ()
    keepers: tuple[Keeper, ...] = ()


NOTHING = Plan()


def sent(plan: Plan) -> dict[str, Any]:
    """A plan as the live process is told it."""
    return {
        "groups": [[one.id, one.above, [[d.fixture, d.pivot, d.axes] for d in one.drivers]] for one in plan.groups],
        "keepers": [
            [one.fixture, one.group, one.mount.position, one.mount.rotation, one.place, one.place_group]
            for one in plan.keepers
        ],
    }


def received(told: dict[str, Any]) -> Plan:
    """A plan from what the live process was told."""
    groups = [
        Group(key, int(above), tuple(Driver(fixture, vec(pivot), quat(axes)) for fixture, pivot, axes in drivers))
        for key, above, drivers in told["groups"]
    ]
    keepers = [
        Keeper(fixture, int(group), Placement(vec(at), quat(turn)), vec(place), int(of_place))
        for fixture, group, at, turn, place, of_place in told["keepers"]
    ]
    return Plan(tuple(groups), tuple(keepers))


def fixtures_of(plan: Plan) -> list[str]:
    """The drivers of a plan in the order in which `poses` takes their values."""
    return [driver.fixture for group in plan.groups for driver in group.drivers]


def axes_of(plan: Plan) -> tuple[Floats, Floats]:
    """Pivots (m, 3) and axes (m, 4) of its drivers, in that order."""
    drivers: Sequence[Driver] = [driver for group in plan.groups for driver in group.drivers]
    pivots = np.array([one.pivot for one in drivers], dtype=float).reshape(-1, 3)
    return pivots, np.array([one.axes for one in drivers], dtype=float).reshape(-1, 4)
