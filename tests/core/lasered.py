"""Lasers on small shows: what tests of them share."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from tests.conftest import Workbench
from zarfwright.core.rig.things import TypeEntry
from zarfwright.core.show import Item
from zarfwright.library import stilt


def give_stilt(bench: Workbench) -> None:
    bench.show = replace(
        bench.show,
        types={**bench.show.types, "stilt": stilt()},
        items={**bench.show.items, "stilt": Item("stilt", "type", TypeEntry("Stilt", "", "stilt"))},
    )


def laser(
    bench: Workbench, place: tuple[float, float, float], at: tuple[float, float, float], number: str = "1"
) -> str:
    head = bench.made("place one", type="stilt", position=place, number=number)
    bench.do("aim at", ids=[head], point=at)
    return head


def over_the_house(bench: Workbench, feed: str = "1", **zone: str) -> str:
    """A laser 4 m up that looks downstage, level; by `feed` it draws, in a zone with these fields of it."""
    give_stilt(bench)
    head = laser(bench, (0.0, 0.0, 4.0), (0.0, -50.0, 4.0))
    for field, text in {"feed": feed, **{f"zone {name}": text for name, text in zone.items()}}.items():
        bench.do("set field", ids=[head], field=field, text=text)
    return head


def person(bench: Workbench, x: float, y: float, eye_z: float, **args: Any) -> str:
    """Somebody whose eyes are there."""
    return bench.made("add figures", pose="standing", x=f"{x}", y=f"{y}", z=f"{eye_z - 0.936 * 1.72}", **args)
