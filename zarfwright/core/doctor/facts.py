"""What the doctor looks at: who was heard, on which connections, what came elsewhere, and the levels over a stretch."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.connections import Connection, Interface

Levels = NDArray[np.uint8]


@dataclass(frozen=True, eq=False)
class Track:
    """Levels over time: `levels` (n, 512) hold from `times` (n,) on, seconds from the beginning."""

    times: NDArray[np.float64]
    levels: Levels

    def sampled(self, times: NDArray[np.float64]) -> Levels:
        """The levels at these times, (m, 512); before the first that was heard, the first."""
        return np.asarray(self.levels[np.maximum(np.searchsorted(self.times, times, side="right") - 1, 0)])


@dataclass(frozen=True)
class SourceSeen:
    """A source, its packets counted while we listened; `lands`: where in the show, also of what is only preview; `on`:
    the address of this machine."""

    name: str
    address: str
    protocol: str
    heard_as: int
    on: str
    lands: tuple[int, ...]
    priority: int
    rate_hz: float
    jitter_s: float
    longest_s: float
    packets: int
    missed: int
    preview: bool
    shown: bool
    """Whether it is shown: not where it is preview that nobody wants."""
    by_slot: bool = False
    waits: bool = False
    crossed: int = 0
    """Packets that cannot follow the one before; `packets` counts those as well that were dropped for it."""


@dataclass(frozen=True)
class Gone:
    """How the last source of a universe of the show went; `begins`: how often one began there while we listened."""

    universe: int
    name: str
    why: str
    ago_s: float
    begins: int


@dataclass(frozen=True)
class Came:
    """What was sent to an address of this machine that no connection listens on."""

    protocol: str
    address: str
    packets: int
    sender: str
    universes: tuple[int, ...]


@dataclass(frozen=True)
class ConnectionSeen:
    """A connection as it was: `taken`: what is said where its port cannot be had, `refused`: where multicast is not
    heard whole; `id` is None where it is not kept in the show but heard as the program was started."""

    id: str | None
    connection: Connection
    interface: Interface | None
    audible: bool
    said: str = ""
    nearest: Interface | None = None
    taken: str = ""
    refused: str = ""


@dataclass(frozen=True, eq=False)
class Facts:
    """Everything seen in `seconds` of listening. Times of tracks are from its beginning."""

    seconds: float
    connections: tuple[ConnectionSeen, ...] = ()
    interfaces: tuple[Interface, ...] = ()
    sources: tuple[SourceSeen, ...] = ()
    gone: tuple[Gone, ...] = ()
    elsewhere: tuple[Came, ...] = ()
    dropped: dict[str, int] = field(default_factory=dict)
    kernel_drops: int = 0
    begins: dict[int, int] = field(default_factory=dict)
    """How often a source began on each universe of the show while we listened."""
    tracks: dict[int, Track] = field(default_factory=dict)
    """What each universe of the show came to."""
    by_source: dict[int, tuple[tuple[SourceSeen, Track], ...]] = field(default_factory=dict)
    """Where several sources meet: what each said."""

    def landing(self) -> dict[int, list[SourceSeen]]:
        """The sources that are shown, by universe of the show."""
        found: dict[int, list[SourceSeen]] = {}
        for source in self.sources:
            if source.shown:
                for universe in source.lands:
                    found.setdefault(universe, []).append(source)
        return found


@dataclass(frozen=True)
class Cause:
    """Something that is wrong: what was seen in numbers, what to do, and the edit that does it where one can."""

    cause: str
    evidence: str
    action: str
    universe: int | None = None
    fixtures: tuple[str, ...] = ()
    """Ids."""
    label: str = ""
    """What the button of the edit says."""
    edit: str = ""
    args: dict[str, object] = field(default_factory=dict)


def counted(universes: set[int] | list[int]) -> str:
    """`universe 5`, `universes 1 to 4`."""
    return f"universe{'s' if len(universes) > 1 else ''} {spans(universes)}"


def spans(numbers: set[int] | list[int]) -> str:
    """Numbers in words: `1 to 4, 7`."""
    ordered, parts = sorted(numbers), []
    start = 0
    for i, number in enumerate(ordered):
        if i + 1 == len(ordered) or ordered[i + 1] != number + 1:
            first = ordered[start]
            parts.append(str(first) if first == number else f"{first} to {number}")
            start = i + 1
    return ", ".join(parts)
