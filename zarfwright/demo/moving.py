"""What moves in "The Lamplighter's Tide": a bridge that lifts, a sail that flies, a lantern that turns."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, cast

from zarfwright.core.edits import Around
from zarfwright.core.types.model import FixtureType
from zarfwright.demo.build import Builder
from zarfwright.formats.gdtf import write_gdtf

BRIDGE_HOME_M, SAIL_HOME_M = 1.2, 7.1
"""Where they stand as they are drawn: the bridge down, the sail in."""


class TypesKept:
    """What drivers of a show that is built need of what is around: their types kept as GDTF files."""

    def __init__(self, build: Builder) -> None:
        self._build = build

    def keep_type(self, fixture_type: FixtureType) -> str:
        return self._build.file.keep_asset(f"{fixture_type.maker}@{fixture_type.name}.gdtf", write_gdtf(fixture_type))


def _channel(axis: str, low: str, high: str, speed: str, acceleration: str, bits: int = 16) -> dict[str, Any]:
    return {"axis": axis, "low": low, "home": "0", "high": high, "speed": speed, "acceleration": acceleration,
            "bits": bits}  # fmt: skip


def build_drivers(build: Builder, carriers: Mapping[str, str]) -> dict[str, str]:
    """Channels for the three carriers, on universe 6. Returns the drivers by the carrier's name."""
    around = cast(Around, TypesKept(build))
    drivers: dict[str, str] = {}
    for name, number, start, usual, channel in (
        ("bridge", "901", "6.451", "lift", _channel("z", "0m", "3.6m", "0.6m", "0.4m")),
        ("sail", "902", "6.453", "fly bar", _channel("z", "0m", "2.5m", "0.9m", "0.8m")),
        ("lantern", "903", "6.455", "turntable", _channel("turn z", "-180", "180", "18", "9")),
    ):
        args = {"thing": carriers[name], "number": number, "start": start, "usual": usual, "channels": [channel]}
        drivers[name] = build.do_with(around, "add driver", args).select[0]
    return drivers
