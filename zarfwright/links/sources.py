"""The sources heard on one address by one protocol: what each says last, how steadily, and how it ended.

Touched by the receive thread only, under the live lock. Everything here is bounded, whatever is sent.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.merge import SILENT

SLOTS = 512
SOURCES_MOST, OF_UNIVERSE_MOST = 8192, 32
ENDED_MOST = 1024
OFFERED_S = 25.0
"""So long holds what a source says that it sends; it says so every ten seconds."""
NOTHING: tuple[int, ...] = ()
AHEAD, BACK = 20, 128
"""Sequence numbers passed over: less than so many are lost packets, so many and more a step back."""


@dataclass(eq=False, slots=True)
class Source:
    """One sender on one universe of its protocol."""

    key: bytes
    """What it is known by: sACN's component id, Art-Net's address."""
    name: str
    protocol: str
    universe: int
    address: str
    priority: int
    sequence: int
    heard_at: float
    preview: bool = False
    held: bytes = b""
    """Its 512 levels; none yet."""
    before: bytes = b""
    """The levels before those, where packets are not numbered."""
    priorities: bytes = b""
    """Its priority for each slot, 0: it does not speak for it; empty: its one priority holds for all."""
    priorities_at: float = 0.0
    waiting: bytes = b""
    """Levels that wait for the packet that synchronizes them."""
    sync: int = 0
    """The universe whose synchronization it waits for; in Art-Net any other than 0."""
    waits_since: float | None = None
    synced_at: float | None = None
    packets: int = 0
    late: int = 0
    """Packets out of their sequence."""
    missed: int = 0
    """Numbers of its sequence that were passed over: packets that never came."""
    twice: int = 0
    """Of the late ones those that only repeat the last: a packet that came by two ways."""
    back: int = 0
    """Packets that cannot follow the one before: two programs send under its name, by turns."""
    quick: bytes = b""
    """All of its last full packet but sequence and levels: while that stays, nothing else can have changed."""
    rate: float = 0.0
    jitter: float = 0.0
    """Seconds that the time between two packets varies by (its standard deviation), in the last second."""
    longest: float = 0.0
    """The longest time between two packets in the last second but one."""
    since: float = 0.0
    counted: int = 0
    gaps: float = 0.0
    squares: float = 0.0
    widest: float = 0.0

    one: tuple[int, ...] = field(init=False)
    """Its universe, by itself."""

    def __post_init__(self) -> None:
        self.one = (self.universe,)

    @property
    def levels(self) -> NDArray[np.uint8]:
        """Its levels, (512,)."""
        return np.frombuffer(self.held, dtype=np.uint8)

    def slot_priorities(self) -> NDArray[np.int16]:
        """Its priority for each slot, (512,); SILENT where it does not speak for one."""
        if not self.priorities:
            return np.full(SLOTS, self.priority, dtype=np.int16)
        given = np.frombuffer(self.priorities, dtype=np.uint8).astype(np.int16)
        return np.where(given == 0, SILENT, given).astype(np.int16)

    def heard(self, now: float, sequence: int, counts: bool = True) -> None:
        """One more packet of it; `counts`: whether its packets are numbered."""
        gap = now - self.heard_at
        self.gaps += gap
        self.squares += gap * gap
        self.widest = max(self.widest, gap)
        over = (sequence - self.sequence - 1) & 0xFF
        if over and counts and self.packets:
            # A long way ahead is a sender that began anew, not packets that went astray.
            if over < AHEAD:
                self.missed += over
            elif over >= BACK:
                self.back += 1
        self.heard_at, self.sequence = now, sequence
        self.packets += 1

    def came_late(self, sequence: int, levels: bytes) -> None:
        """A packet out of its sequence."""
        self.late += 1
        self.twice += sequence == self.sequence and levels == self.held

    def measure(self, now: float) -> None:
        """Bring its rate and its jitter up to date, once a second."""
        if now - self.since < 0.9:
            return
        count = self.packets - self.counted
        self.rate = count / (now - self.since)
        self.jitter = max(self.squares / count - (self.gaps / count) ** 2, 0.0) ** 0.5 if count else 0.0
        self.longest = max(self.widest, now - self.heard_at)
        self.since, self.counted = now, self.packets
        self.gaps = self.squares = self.widest = 0.0


@dataclass(frozen=True)
class Ended:
    """How the last source of a universe went."""

    name: str
    address: str
    why: str
    """`ended` where it said so, else `lost`."""
    at: float


@dataclass(frozen=True)
class Offered:
    """What a source says that it sends, whether that is heard or not, and when it said so."""

    name: str
    address: str
    universes: tuple[int, ...]
    at: float


@dataclass
class Registry:
    """Everybody heard, by universe and sender."""

    lost_after_s: float
    lands: dict[int, tuple[int, ...]] = field(default_factory=dict)
    """Where each universe lands in the show, as far as it was asked; whoever connects clears it."""
    by_key: dict[tuple[int, bytes], Source] = field(default_factory=dict)
    by_universe: dict[int, list[Source]] = field(default_factory=dict)
    dropped: Counter[str] = field(default_factory=Counter)
    ended: dict[int, Ended] = field(default_factory=dict)
    """The last one that went, by universe: the newest of them."""
    starts: Counter[int] = field(default_factory=Counter)
    """How often a source began on a universe."""
    came: Callable[[Source], None] = lambda source: None
    """Called when a source comes."""
    leaving: Callable[[Source], None] = lambda source: None
    """Called before a source goes: what it said last is still to be taken."""
    changed: Callable[[], None] = lambda: None
    """Called when a source begins or ceases to be a preview."""

    def add(self, source: Source) -> bool:
        """A new one; False where there are too many already."""
        here = self.by_universe.get(source.universe, ())
        if len(here) >= OF_UNIVERSE_MOST or len(self.by_key) >= SOURCES_MOST:
            self.dropped["too many sources"] += 1
            return False
        source.since = source.heard_at
        self.by_key[source.universe, source.key] = source
        self.by_universe.setdefault(source.universe, []).append(source)
        if source.universe in self.starts or len(self.starts) < ENDED_MOST:
            self.starts[source.universe] += 1
        self.came(source)
        return True

    def end(self, source: Source, why: str, now: float) -> None:
        """One goes; what it said last has its place in what is held."""
        self.leaving(source)
        del self.by_key[source.universe, source.key]
        self.by_universe[source.universe].remove(source)
        if not self.by_universe[source.universe]:
            del self.by_universe[source.universe]
        self.ended.pop(source.universe, None)
        self.ended[source.universe] = Ended(source.name, source.address, why, now)
        if len(self.ended) > ENDED_MOST:
            del self.ended[next(iter(self.ended))]

    def forget_lost(self, now: float) -> list[Source]:
        """Let those go that have not been heard for too long; returns them."""
        lost = [source for source in self.by_key.values() if now - source.heard_at > self.lost_after_s]
        for source in lost:
            self.end(source, "lost", now)
        return lost

    def measure(self, now: float) -> None:
        """Bring rates up to date; called about once a second."""
        for source in self.by_key.values():
            source.measure(now)


def in_order(last: int, new: int) -> bool:
    """E1.31 6.7.2: a packet is late when new - last, as a signed byte, is in -19..0."""
    difference = (new - last) & 0xFF
    signed = difference - 256 if difference > 127 else difference
    return not -20 < signed <= 0
