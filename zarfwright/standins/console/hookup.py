"""The console's patch, from the bytes of a channel hookup list."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from zarfwright.standins.console.patch import Channel, Fixture, Function, Mode, told_apart


class RigError(ValueError):
    """Something that no patch can be made of."""


class _Listed:
    """The rows of one fixture. Its breaks are the universes that it has slots in."""

    def __init__(self, number: int | None, row: dict[str, str]) -> None:
        self.number, self.row = number, row
        self.channels: list[Channel] = []

    def add(self, row: dict[str, str]) -> None:
        slots = tuple(int(slot) for slot in row["Slots"].split("+"))
        name, top = row["Attribute"], 256 ** len(slots) - 1
        function = Function(name, 0, top, float(row["From"]), float(row["To"]))
        self.channels.append(Channel(int(row["Universe"]), slots, (function,), int(row["Default"])))

    def fixture(self, key: str) -> Fixture:
        footprints: dict[int, int] = {}
        for channel in self.channels:
            footprints[channel.brk] = max(footprints.get(channel.brk, 0), *channel.offsets)
        mode = Mode(self.row["Mode"], told_apart(self.channels), footprints)
        addresses = {universe: (universe, 1) for universe in footprints}
        x, y = float(self.row["Stage x"]), float(self.row["Stage y"])
        kind = self.row["Type"]
        return Fixture(key, self.number, kind, kind, mode, addresses, x, y)


def read_hookup(data: bytes) -> list[Fixture]:
    """Read the list. Raises RigError when it has not the columns of a channel hookup."""
    try:
        found = _grouped(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))))
        fixtures = [one.fixture(f"row {n}") for n, one in enumerate(found, 1)]
    except (KeyError, ValueError, TypeError) as wrong:
        raise RigError(f"This is no channel hookup list: {wrong} is missing or not a number.") from wrong
    if not fixtures:
        raise RigError("The list has no patched fixture: give fixtures an address first.")
    return fixtures


def _grouped(rows: Iterable[dict[str, str]]) -> list[_Listed]:
    fixtures: dict[tuple[str, int, str], _Listed] = {}
    for row in rows:
        number = int(row["Number"]) if row["Number"] else None
        # Two fixtures may carry one number by mistake: where they are keeps them apart.
        key = (row["Number"], int(row["Universe"]), f"{row['Stage x']} {row['Stage y']}")
        fixtures.setdefault(key, _Listed(number, row)).add(row)
    return list(fixtures.values())
