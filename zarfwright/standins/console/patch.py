"""What the console knows of its rig: modes with their channels, fixtures with their addresses."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

LIGHT = ("ColorAdd_R", "ColorAdd_G", "ColorAdd_B", "ColorAdd_W", "ColorAdd_RGB")
"""What makes light in a fixture without a dimmer."""


@dataclass(frozen=True)
class Function:
    """What a channel does from one raw value to another; the physical values at both ends."""

    attribute: str
    first: int
    last: int
    low: float
    high: float

    def raw(self, physical: float) -> int:
        """The raw value for a physical one, within the range."""
        if self.high == self.low:
            return self.first
        share = min(max((physical - self.low) / (self.high - self.low), 0.0), 1.0)
        return self.first + round(share * (self.last - self.first))

    def physical(self, raw: float) -> float:
        """The physical value at a raw one."""
        span = self.last - self.first
        return self.low + (raw - self.first) / span * (self.high - self.low) if span else self.low


@dataclass(frozen=True)
class Channel:
    """One channel of a mode. `offsets` count from 1 in its break, coarse first; `cell`: which of several of its
    attribute."""

    brk: int
    offsets: tuple[int, ...]
    functions: tuple[Function, ...]
    default: int = 0
    highlight: int | None = None
    cell: str = ""

    @property
    def top(self) -> int:
        return int(256 ** len(self.offsets)) - 1

    @property
    def attribute(self) -> str:
        return self.functions[0].attribute

    @property
    def name(self) -> str:
        """The attribute, and of which cell."""
        return f"{self.attribute}/{self.cell}" if self.cell else self.attribute


def told_apart(channels: Sequence[Channel]) -> tuple[Channel, ...]:
    """Where several channels have one attribute, as a batten has for each cell, they are counted in the order of their
    slots, from 1."""
    several: dict[str, list[Channel]] = {}
    for one in sorted(channels, key=lambda one: (one.brk, one.offsets)):
        several.setdefault(one.attribute, []).append(one)
    cells = {id(one): str(n) for found in several.values() if len(found) > 1 for n, one in enumerate(found, 1)}
    return tuple(replace(one, cell=cells.get(id(one), "")) for one in channels)


@dataclass(frozen=True)
class Mode:
    """A mode of a type; `footprints`: slots by break."""

    name: str
    channels: tuple[Channel, ...]
    footprints: Mapping[int, int] = field(default_factory=dict)

    @property
    def slots(self) -> int:
        return sum(self.footprints.values())


@dataclass(frozen=True)
class Fixture:
    """One fixture. `addresses`: universe and slot by break; `number`: None where it has none."""

    key: str
    number: int | None
    name: str
    type: str
    mode: Mode
    addresses: Mapping[int, tuple[int, int]]
    x: float = 0.0
    y: float = 0.0
    z: float = 0.0
    file: str = ""
    """The GDTF that it came with."""
    matrix: str = ""
    """Its place as the scene had it."""

    @property
    def channels(self) -> dict[str, Channel]:
        return {channel.name: channel for channel in self.mode.channels}

    def places(self, channel: Channel, shift: int = 0) -> list[tuple[int, int]]:
        """Universe and slot (from 1) of each of a channel's bytes; beyond a universe's end nothing."""
        universe, start = self.addresses.get(channel.brk, (0, 1))
        slots = [start - 1 + offset + shift for offset in channel.offsets]
        return [(universe, slot) for slot in slots] if universe and all(1 <= slot <= 512 for slot in slots) else []

    def taken(self) -> set[tuple[int, int]]:
        """Every universe and slot that it has."""
        return {
            (universe, slot + n)
            for brk, (universe, slot) in self.addresses.items()
            for n in range(self.mode.footprints.get(brk, 0))
        }

    @property
    def intensities(self) -> list[str]:
        """The names of the channels that make it bright: its dimmers, or its colours where it has none."""
        dimmers = [one.name for one in self.mode.channels if one.attribute == "Dimmer"]
        return dimmers or [one.name for one in self.mode.channels if one.attribute in LIGHT]
