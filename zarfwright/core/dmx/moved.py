"""Which slots move, so that whoever touches something on a console sees what it is.

What moved before one began to look (effects that run, fades) is not what is looked for: it is usual.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.space import Floats

SLOTS = 512
BINS = 64
USUAL_S = 1.5
"""So long is looked first at what moves anyway."""
LATELY_S = 4.0


@dataclass(frozen=True)
class Move:
    """A slot that moved: how long ago, and between which levels lately."""

    universe: int
    slot: int
    """From 1."""
    ago_s: float
    low: int
    high: int


class Moves:
    """Watches levels, from when it is made. Levels are taken as often as somebody likes; times never go back."""

    def __init__(self, now: float) -> None:
        self.began = now
        self._universes: tuple[int, ...] = ()
        self._levels: NDArray[np.uint8] = np.zeros((0, SLOTS), dtype=np.uint8)
        self._moved_at: Floats = np.zeros((0, SLOTS))
        self._usual = np.zeros((0, SLOTS), dtype=bool)
        self._low: NDArray[np.uint8] = self._levels.copy()
        self._high: NDArray[np.uint8] = self._levels.copy()

    def take(self, levels: Mapping[int, NDArray[np.uint8]], now: float) -> None:
        """The levels (512,) of all universes as they are now. One that is new has not moved by coming."""
        universes = tuple(sorted(levels))
        new = np.zeros((len(universes), SLOTS), dtype=np.uint8)
        for i, one in enumerate(universes):
            new[i] = levels[one]
        if universes != self._universes:
            self._follow(universes, new)
        changed = new != self._levels
        if not changed.any():
            return
        fresh = changed & (now - self._moved_at > LATELY_S)
        for bound, further in ((self._low, np.minimum), (self._high, np.maximum)):
            bound[fresh] = self._levels[fresh]
            further(bound, new, out=bound, where=changed)
        self._moved_at[changed] = now
        if now - self.began <= USUAL_S:
            self._usual |= changed
        self._levels = new

    def _follow(self, universes: tuple[int, ...], new: NDArray[np.uint8]) -> None:
        """Other universes than before: what is known of those that stay is kept."""
        known = {one: i for i, one in enumerate(self._universes)}
        moved_at: Floats = np.full((len(universes), SLOTS), -np.inf)
        usual = np.zeros((len(universes), SLOTS), dtype=bool)
        before: NDArray[np.uint8] = np.array(new)
        low, high = before.copy(), before.copy()
        for i, universe in enumerate(universes):
            was = known.get(universe)
            if was is not None:
                moved_at[i], usual[i], before[i] = self._moved_at[was], self._usual[was], self._levels[was]
                low[i], high[i] = self._low[was], self._high[was]
        self._universes, self._levels = universes, before
        self._moved_at, self._usual, self._low, self._high = moved_at, usual, low, high

    def lately(self, now: float, most: int = 200) -> list[Move]:
        """The slots that moved lately, but for the usual ones; the last ones first."""
        found = (now - self._moved_at <= LATELY_S) & ~self._usual
        rows, slots = np.nonzero(found)
        ago = now - self._moved_at[rows, slots]
        order = np.lexsort((slots, rows, ago))[:most]
        return [
            Move(
                self._universes[rows[i]], int(slots[i]) + 1, float(ago[i]), int(self._low[rows[i], slots[i]]),
                int(self._high[rows[i], slots[i]]),
            )
            for i in order
        ]  # fmt: skip

    def usual(self) -> int:
        """How many slots moved before anything was looked for."""
        return int(np.count_nonzero(self._usual))

    def strips(self, now: float, within_s: float = 1.0) -> tuple[tuple[int, ...], NDArray[np.uint8]]:
        """The universes, and of each 64 bins of eight slots, (n, 64): the highest level in the upper seven bits, in the
        lowest whether any of them moved within so many seconds."""
        high = self._levels.reshape(-1, BINS, SLOTS // BINS).max(axis=2)
        moved = (now - self._moved_at <= within_s).reshape(-1, BINS, SLOTS // BINS).any(axis=2)
        return self._universes, ((high & 0xFE) | moved).astype(np.uint8)
