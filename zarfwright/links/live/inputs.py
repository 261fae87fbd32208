"""What is heard by all connections, and where it lands: from a protocol's universe on an address to the show's.

State is touched under the live lock only.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.connections import Connection, Interface, audible, resolve
from zarfwright.core.dmx.merge import merge
from zarfwright.links.artnet import ArtNetSources
from zarfwright.links.sacn import DISCOVERY_UNIVERSE, SacnSources
from zarfwright.links.sources import SLOTS, Ended, Source

Key = tuple[str, str]
"""Protocol and address of this machine."""
Sources = SacnSources | ArtNetSources


@dataclass(frozen=True)
class Heard:
    """A connection as it is heard now."""

    id: str
    connection: Connection
    interface: Interface | None
    """None: it is gone."""
    audible: bool
    said: str = ""
    """What is to be said of its interface."""
    nearest: Interface | None = None

    @property
    def key(self) -> Key | None:
        return (self.connection.protocol, self.interface.address) if self.interface else None

    def takes(self, source: Source) -> bool:
        """Whether what a source says is shown."""
        return self.audible and (self.connection.preview or not source.preview)


def heard_now(
    connections: Sequence[tuple[str, Connection]], only: str | None, interfaces: Sequence[Interface]
) -> list[Heard]:
    """Connections, on the interfaces there are."""
    listened = audible(connections, only)
    found = [(key, one, resolve(one, interfaces)) for key, one in connections]
    return [Heard(key, one, at.interface, key in listened, at.said, at.nearest) for key, one, at in found]


@dataclass
class Inputs:
    """Everybody heard, by where it lands."""

    leaving: Callable[[int], None]
    """Called with a universe of the show before a source goes that lands on it."""
    heard: list[Heard] = field(default_factory=list)
    registries: dict[Key, Sources] = field(default_factory=dict)
    by_universe: dict[int, list[Source]] = field(default_factory=dict)
    """The sources that land on each universe of the show."""

    def hear(self, heard: list[Heard]) -> None:
        """Hear other connections. What has been heard of those that stay is kept."""
        self.heard = heard
        wanted = {one.key for one in heard if one.key is not None}
        for key in self.registries.keys() - wanted:
            del self.registries[key]
        for key in wanted - self.registries.keys():
            made: Sources = SacnSources() if key[0] == "sACN" else ArtNetSources()
            made.came, made.leaving = partial(self._came, key), partial(self._left, key)
            made.changed = self._land_all
            self.registries[key] = made
        self._land_all()

    def landings(self, key: Key, universe: int, preview: bool = False) -> tuple[int, ...]:
        """The universes of the show that one of a protocol lands on."""
        known = self.registries[key].lands
        lands = None if preview else known.get(universe)
        if lands is None:
            ours = [one.connection for one in self.heard if one.key == key and one.audible]
            found = (one.lands_on(universe) for one in ours if one.preview or not preview)
            lands = tuple(sorted({landed for landed in found if landed is not None}))
            if not preview:
                known[universe] = lands
        return lands

    def _land_all(self) -> None:
        self.by_universe = {}
        for key, registry in self.registries.items():
            registry.lands.clear()
            for source in registry.by_key.values():
                self._came(key, source)

    def _came(self, key: Key, source: Source) -> None:
        for landed in self.landings(key, source.universe, source.preview):
            self.by_universe.setdefault(landed, []).append(source)

    def _left(self, key: Key, source: Source) -> None:
        for landed in self.landings(key, source.universe, source.preview):
            self.leaving(landed)
            here = self.by_universe.get(landed, [])
            if source in here:
                here.remove(source)
                if not here:
                    del self.by_universe[landed]

    def sources(self, universe: int) -> list[Source]:
        """Those that have levels for a universe of the show."""
        return [source for source in self.by_universe.get(universe, ()) if source.held]

    def last_ended(self, universe: int) -> Ended | None:
        """The one that went last of those that landed on a universe of the show."""
        went = []
        for one in self.heard:
            theirs = one.connection.heard_as(universe)
            if one.key is not None and theirs is not None:
                gone = self.registries[one.key].ended.get(theirs)
                went += [gone] if gone is not None else []
        return max(went, key=lambda one: one.at, default=None)

    def groups(self, patched: Sequence[int]) -> dict[Key, set[int]]:
        """The universes whose multicast groups are to be joined, by listener: all of a short range, of a long one what
        is patched, those that synchronize, and where sources say what they send."""
        found: dict[Key, set[int]] = {}
        for one in self.heard:
            if one.key is None or not one.audible or not one.connection.multicast or one.key[0] != "sACN":
                continue
            here = one.connection
            wanted = {theirs for universe in patched if (theirs := here.heard_as(universe)) is not None}
            if here.last - here.first < SHORT_RANGE:
                wanted |= set(range(max(here.first, 1), here.last + 1))
            registry = self.registries[one.key]
            synced = registry.sync_universes() if isinstance(registry, SacnSources) else set()
            ours = {*sorted(wanted)[:GROUPS_MOST], *synced, DISCOVERY_UNIVERSE}
            found.setdefault(one.key, set()).update(ours)
        return found


SHORT_RANGE, GROUPS_MOST = 256, 512


def merged(heard: Sequence[Source], held: bytes | None) -> tuple[NDArray[np.uint8], NDArray[np.int16]]:
    """What sources of one universe come to, (512,), and the place of the one that wins each slot, (512,)."""
    levels = np.stack([source.levels for source in heard])
    priorities = np.stack([source.slot_priorities() for source in heard])
    return merge(levels, priorities, np.frombuffer(held or bytes(SLOTS), dtype=np.uint8))


def merged_levels(heard: Sequence[Source], held: bytes | None) -> bytes:
    """The levels alone, 512 of them; none where nobody speaks. Quick where no source has priorities of its own for
    slots: as a rule a console and the one that stands by for it speak for every universe."""
    if any(source.priorities for source in heard):
        return merged(heard, held)[0].tobytes()
    first = max((source.priority for source in heard), default=0)
    best = [source for source in heard if source.priority == first]
    if len(best) < 2:
        return best[0].held if best else b""
    levels = best[0].levels
    for source in best[1:]:
        levels = np.maximum(levels, source.levels)
    return levels.tobytes()
