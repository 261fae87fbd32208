"""What a slot of a universe means: whose it is, which function, and what it does at its level, in words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zarfwright.core.dmx.rows import SLOTS, break_places
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.types.model import Channel, FixtureType
from zarfwright.core.types.trial import doing, home_slots
from zarfwright.core.types.words import called

BYTES = ("coarse", "fine", "ultra", "uber")


@dataclass(frozen=True)
class Meaning:
    """What a slot is to one fixture."""

    fixture: str
    number: str
    """As people call it: its number, else its id."""
    type: str
    mode: str
    channel: str
    """The channel in words, or what is to be said where there is none."""
    byte: str
    """Which part of a value of several bytes it is; empty where it is all of it."""
    raw: int
    """The channel's whole value, 0..top."""
    top: int
    words: tuple[str, ...]
    """What it does at these levels; several where a channel does several things, none where a master stops it."""


def meanings(show: Show, universe: int, slot: int, levels: Mapping[int, bytes]) -> list[Meaning]:
    """What a slot (from 1) means to each fixture that has it, at `levels` (512 bytes by universe of the show).

    A fixture of whose universes nothing is known is taken to be at its defaults.
    """
    found = []
    for item, fixture in show.fixtures():
        kind = show.types.get(fixture.type)
        if kind is None or fixture.universe is None or fixture.address is None:
            continue
        one = _meaning(kind, fixture, (universe, slot), levels)
        if one is not None:
            label = str(fixture.number) if fixture.number is not None else item.id
            found.append(Meaning(item.id, label, kind.name, fixture.mode, *one))
    return found


def _meaning(
    kind: FixtureType, fixture: Fixture, at: tuple[int, int], levels: Mapping[int, bytes]
) -> tuple[str, str, int, int, tuple[str, ...]] | None:
    mode = kind.mode(fixture.mode)
    assert fixture.universe is not None
    assert fixture.address is not None
    places = break_places(mode, (fixture.universe, fixture.address), fixture.breaks)
    sizes = mode.footprints
    universe, slot = at
    here = next((b for b, (u, first) in places.items() if u == universe and first <= slot < first + sizes[b]), None)
    if here is None:
        return None
    within = slot - places[here][1] + 1
    number, channel = next(
        ((i, one) for i, one in enumerate(mode.channels) if one.dmx_break == here and within in one.slots),
        (None, None),
    )
    if channel is None:
        return "nothing: its mode leaves this slot free", "", 0, 0, ()
    slots = home_slots(mode)
    for b, (u, first) in places.items():
        if u in levels:
            slots[b] = bytearray(levels[u][first - 1 : min(first - 1 + sizes[b], SLOTS)].ljust(sizes[b], b"\0"))
    done = [one for one in doing(kind, mode, slots) if one.channel == number]
    raw = done[0].raw if done else 0
    return called(channel.attribute), _byte(channel, within), raw, channel.top, tuple(one.words for one in done)


def _byte(channel: Channel, slot: int) -> str:
    if len(channel.slots) == 1:
        return ""
    place = channel.slots.index(slot)
    return BYTES[place] if place < len(BYTES) else f"byte {place + 1}"
