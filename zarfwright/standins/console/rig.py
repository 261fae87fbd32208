"""The console's patch, from the bytes of a channel hookup list."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, field


class RigError(ValueError):
    """A list that no patch can be made of."""


@dataclass(frozen=True)
class Channel:
    """One channel: its slots in the universe (from 1, coarse first), and physical values at 0 and full."""

    attribute: str
    slots: tuple[int, ...]
    default: int
    low: float
    high: float

    @property
    def top(self) -> int:
        return int(256 ** len(self.slots)) - 1

    def raw(self, physical: float) -> int:
        """The raw value for a physical one, within the range."""
        if self.high == self.low:
            return self.default
        share = (physical - self.low) / (self.high - self.low)
        return round(min(max(share, 0.0), 1.0) * self.top)


@dataclass
class Fixture:
    """One fixture, by its channel number."""

    number: int
    type: str
    universe: int
    x: float
    y: float
    channels: dict[str, Channel] = field(default_factory=dict)


def read_rig(data: bytes) -> list[Fixture]:
    """Read the list. Raises RigError when it has not the columns of a channel hookup."""
    rows = list(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))))
    fixtures: dict[tuple[int, int, str], Fixture] = {}
    try:
        for place, row in enumerate(rows):
            number = int(row["Number"]) if row["Number"] else 100_000 + place
            slots = tuple(int(slot) for slot in row["Slots"].split("+"))
            x, y = float(row["Stage x"]), float(row["Stage y"])
            # Two fixtures may carry one number by mistake: their slots keep them apart.
            key = (number, int(row["Universe"]), f"{x} {y}")
            fixture = fixtures.setdefault(key, Fixture(number, row["Type"], int(row["Universe"]), x, y))
            low, high = float(row["From"]), float(row["To"])
            # A batten has the same attribute once for each cell.
            name = row["Attribute"] if row["Attribute"] not in fixture.channels else f"{row['Attribute']}/{slots[0]}"
            fixture.channels[name] = Channel(row["Attribute"], slots, int(row["Default"]), low, high)
    except (KeyError, ValueError, TypeError) as wrong:
        raise RigError(f"This is no channel hookup list: {wrong} is missing or not a number.") from wrong
    if not fixtures:
        raise RigError("The list has no patched fixture: give fixtures an address first.")
    return list(fixtures.values())
