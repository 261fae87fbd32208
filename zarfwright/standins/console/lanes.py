"""The rig as lanes, one for each channel of each fixture: what many channels do at once is arithmetic on arrays."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from zarfwright.standins.console.cues import Key
from zarfwright.standins.console.patch import LIGHT, Fixture, Function

Floats = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]


@dataclass(frozen=True)
class Where:
    """Where an attribute is: its lane, and what it does there; in several ranges where it has some, such as closed and
    open."""

    lane: int
    functions: tuple[Function, ...]

    @property
    def function(self) -> Function:
        return self.functions[0]

    def raw(self, value: float) -> int:
        """The raw value for a physical one: in the range that has it, else in the nearest."""

        def off(one: Function) -> float:
            low, high = sorted((one.low, one.high))
            return max(low - value, value - high, 0.0)

        return min(self.functions, key=off).raw(value)


class Lanes:
    """A rig, compiled. `shift`: how many slots later everything is sent than it is patched."""

    def __init__(self, rig: Sequence[Fixture], shift: int = 0) -> None:
        self.rig = rig
        self.keys = [one.key for one in rig]
        self.at: dict[Key, Where] = {}
        self.names: list[Key] = []
        owners: list[int] = []
        defaults: list[int] = []
        tops: list[int] = []
        highlights: list[int] = []
        bright: list[bool] = []
        self.universes = sorted({u for one in rig for u, _ in one.addresses.values() if u})
        places: list[int] = []
        lanes: list[int] = []
        shifts: list[int] = []
        row = {universe: n for n, universe in enumerate(self.universes)}
        for n, fixture in enumerate(rig):
            intensities = set(fixture.intensities)
            for channel in fixture.mode.channels:
                lane = len(owners)
                self.names.append((fixture.key, channel.name))
                for attribute in dict.fromkeys(function.attribute for function in channel.functions):
                    name = f"{attribute}/{channel.cell}" if channel.cell else attribute
                    several = tuple(one for one in channel.functions if one.attribute == attribute)
                    self.at.setdefault((fixture.key, name), Where(lane, several))
                owners.append(n)
                defaults.append(channel.default)
                tops.append(channel.top)
                bright.append(channel.name in intensities)
                shines = channel.name in intensities or channel.attribute in LIGHT
                full = channel.functions[0].last if shines else channel.default
                highlights.append(full if channel.highlight is None else channel.highlight)
                for byte, (universe, slot) in enumerate(reversed(fixture.places(channel, shift))):
                    places.append(row[universe] * 512 + slot - 1)
                    lanes.append(lane)
                    shifts.append(8 * byte)
        self.owner = np.array(owners, dtype=np.int64)
        self.default: Floats = np.array(defaults, dtype=np.float64)
        self.top: Floats = np.array(tops, dtype=np.float64)
        self.highlight: Floats = np.array(highlights, dtype=np.float64)
        self.bright: Flags = np.array(bright, dtype=bool)
        self._places, self._lanes, self._shifts = (np.array(one, dtype=np.int64) for one in (places, lanes, shifts))
        self._shared = len(set(places)) < len(places)

    def put(self, raws: Floats, values: Mapping[Key, float]) -> None:
        """Set what is said in physical values; what the rig has not is passed over."""
        for key, value in values.items():
            where = self.at.get(key)
            if where is not None:
                raws[where.lane] = where.raw(value)

    def of(self, fixtures: Iterable[str]) -> Flags:
        """The lanes of some fixtures, by key."""
        wanted = set(fixtures)
        return np.isin(self.owner, [n for n, key in enumerate(self.keys) if key in wanted])

    def moved_from(self, before: Lanes, raws: Floats) -> Floats:
        """Raw values of an older rig, where they belong in this one."""
        old = {name: n for n, name in enumerate(before.names)}
        made = self.default.copy()
        for n, name in enumerate(self.names):
            if name in old and before.top[old[name]] == self.top[n]:
                made[n] = raws[old[name]]
        return made

    def slots(self, raws: Floats) -> dict[int, bytes]:
        """The 512 slots of each universe."""
        whole = np.rint(np.clip(raws, 0, self.top)).astype(np.int64)
        out = np.zeros(len(self.universes) * 512, dtype=np.uint8)
        sent = ((whole[self._lanes] >> self._shifts) & 255).astype(np.uint8)
        if self._shared:
            # Several on one dimmer: the highest takes precedence.
            np.maximum.at(out, self._places, sent)
        else:
            out[self._places] = sent
        return {universe: out[512 * n : 512 * (n + 1)].tobytes() for n, universe in enumerate(self.universes)}
