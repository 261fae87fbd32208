"""The patch as the doctor needs it: which slots each channel of each fixture has."""

from __future__ import annotations

from dataclasses import dataclass

from zarfwright.core.dmx.rows import SLOTS, break_places
from zarfwright.core.show import Show
from zarfwright.core.types.model import Channel


@dataclass(frozen=True)
class Patched:
    """A fixture with an address: its channels with the universe and slots (from 1, coarse first) of each."""

    id: str
    called: str
    type: str
    mode: str
    universe: int
    address: int
    channels: tuple[tuple[Channel, int, tuple[int, ...]], ...]


def patched(show: Show) -> list[Patched]:
    """The fixtures of a show that have an address, in the order of it. Channels past the end of a universe are left
    out."""
    found = []
    for item, fixture in show.fixtures():
        if fixture.universe is None or fixture.address is None or fixture.type not in show.types:
            continue
        mode = show.types[fixture.type].mode(fixture.mode)
        places = break_places(mode, (fixture.universe, fixture.address), fixture.breaks)
        channels = []
        for channel in mode.channels:
            if channel.virtual or channel.dmx_break not in places:
                continue
            universe, start = places[channel.dmx_break]
            slots = tuple(start + slot - 1 for slot in channel.slots)
            if slots and max(slots) <= SLOTS:
                channels.append((channel, universe, slots))
        found.append(
            Patched(item.id, item.name, fixture.type, fixture.mode, fixture.universe, fixture.address, tuple(channels))
        )
    return sorted(found, key=lambda one: (one.universe, one.address))


def universes_of(rig: list[Patched]) -> set[int]:
    """The universes that any fixture is on."""
    return {universe for one in rig for _, universe, _ in one.channels}


def few(names: list[str], most: int = 6) -> str:
    """Fixtures in words: the first few, and how many more."""
    told = [name.removeprefix("fixture ") for name in names[:most]]
    more = f" and {len(names) - most} more" if len(names) > most else ""
    return f"fixture{'s' if len(names) > 1 else ''} {', '.join(told)}{more}"
