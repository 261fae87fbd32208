"""When a picture has settled: nothing that is not always moving has changed for a while. And which looks are as good as
the same."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from zarfwright.core.dmx.moved import SLOTS
from zarfwright.core.looks.said import Said
from zarfwright.core.looks.shown import brightness
from zarfwright.core.looks.sorts import LIT, SORT_OF_COLUMN, SORTS
from zarfwright.core.space import Floats

SETTLED_S = 1.2
"""So long nothing has changed: it stands."""
RUNS_S = 6.0
"""What has not stood still for so long is an effect that runs: it is not waited for."""
STEP = 1
"""Levels that differ by no more are the same: consoles dither."""


class Settling:
    """Watches levels, and says when a new state stands. Times never go back."""

    def __init__(self) -> None:
        self._levels: dict[int, Floats] = {}
        self._moved_at: dict[int, Floats] = {}
        self._still_since: dict[int, Floats] = {}
        self._told: dict[int, Floats] | None = None

    def take(self, levels: Mapping[int, bytes], now: float) -> bool:
        """The levels of all universes as they are; whether they stand, and are another state than the last that did."""
        newest = -np.inf
        for universe, content in levels.items():
            new = np.frombuffer(content, dtype=np.uint8).astype(float)
            before = self._levels.get(universe)
            if before is None:
                self._moved_at[universe], self._still_since[universe] = np.full(SLOTS, now), np.full(SLOTS, now)
                self._levels[universe] = new
                newest = now
                continue
            moved = np.abs(new - before) > STEP
            # Slots that have been at rest in between begin a new move.
            rested = now - self._moved_at[universe] > SETTLED_S
            self._still_since[universe][moved & rested] = now
            self._moved_at[universe][moved] = now
            self._levels[universe][moved] = new[moved]
            runs = self._moved_at[universe] - self._still_since[universe] > RUNS_S
            newest = max(newest, float(np.max(self._moved_at[universe], initial=-np.inf, where=~runs)))
        if not self._levels or now - newest < SETTLED_S or not self._is_other():
            return False
        self._told = {universe: held.copy() for universe, held in self._levels.items()}
        return True

    def _is_other(self) -> bool:
        if self._told is None or self._told.keys() != self._levels.keys():
            return True
        for universe, held in self._levels.items():
            runs = self._moved_at[universe] - self._still_since[universe] > RUNS_S
            if np.any((np.abs(held - self._told[universe]) > STEP) & ~runs):
                return True
        return False


NEAR = {"intensity": 0.03, "colour": 0.04, "position": np.radians(1.5), "beam": 0.08}
"""What is seen as the same: of each sort, in the features' own units; zooms and wheels by their share."""
_NEAR_OF_COLUMN = np.array([NEAR[SORTS[i]] for i in SORT_OF_COLUMN])


def near_doubles(looks: Sequence[tuple[str, Said]]) -> list[list[str]]:
    """Looks, by id, that nobody can tell apart: groups of two and more, each with the first kept at its head."""
    groups: list[tuple[Said, list[str]]] = []
    for key, said in looks:
        found = next((members for first, members in groups if _near(first, said)), None)
        if found is None:
            groups.append((said, [key]))
        else:
            found.append(key)
    return [members for _, members in groups if len(members) > 1]


def _near(a: Said, b: Said) -> bool:
    one, other = a.table, b.table
    if one.keys != other.keys:
        return False
    first, second = one.whole(), other.whole()
    dark = (brightness(one) <= LIT) & (brightness(other) <= LIT)
    with np.errstate(invalid="ignore"):
        apart = np.abs(first - second) > _NEAR_OF_COLUMN * np.maximum(1.0, np.abs(first))
    apart |= np.isnan(first) != np.isnan(second)
    # Of what is dark in both nothing is seen.
    return not bool(apart[~dark].any())
