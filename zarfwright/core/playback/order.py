"""A running order: looks one after another, and the times in which each comes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from zarfwright.core.looks.sorts import SORTS, Sort
from zarfwright.core.space import Floats

FADE_S, HOLD_S = 3.0, 5.0
LONGEST_S = 3600.0


@dataclass(frozen=True)
class Step:
    """A look in a running order, and how it comes. Delays and times are seconds from when the step begins."""

    key: str
    look: str
    fade_in_s: float = FADE_S
    fade_out_s: float | None = None
    """Of what becomes darker; None: as what becomes brighter."""
    delay_s: float = 0.0
    hold_s: float = HOLD_S
    """How long it stands once all of it has come, before the next begins; negative: the next begins so much before."""
    follows: bool = False
    """Whether the next begins by itself; else it waits there for somebody."""
    times: dict[Sort, tuple[float, float]] = field(default_factory=dict)
    """The delay and the time of a sort of its own."""
    ahead: tuple[str, ...] = ()
    """The fixtures whose heads go to their places of this look before it begins, as soon as they are dark."""
    moves_meant: bool = False
    """Heads that move in the light are meant to: nobody is told of them."""
    note: str = ""

    def time_of(self, sort: Sort, falling: bool = False) -> tuple[float, float]:
        """Delay and time of a sort; of what becomes darker with `falling`."""
        if sort in self.times:
            return self.times[sort]
        out = self.fade_out_s if falling and sort == "intensity" else None
        return self.delay_s, self.fade_in_s if out is None else out

    @property
    def comes_s(self) -> float:
        """How long it takes until all of it has come, as it is planned."""
        ways = [(sort, falling) for sort in SORTS for falling in (False, True)]
        return max(sum(self.time_of(sort, falling)) for sort, falling in ways)

    @property
    def length_s(self) -> float:
        """From its beginning to that of the next."""
        return max(self.comes_s + self.hold_s, 0.0)


@dataclass(frozen=True)
class Order:
    """A running order of the show: of an evening, of a rehearsal."""

    name: str
    steps: tuple[Step, ...] = ()
    sound: str | None = None
    """The sound file among the assets that lies under it as a ruler."""
    sound_name: str = ""
    sound_from_s: float = 0.0
    """When it begins, in the order's time; negative: so much of it is left out."""
    markers: tuple[tuple[float, str], ...] = ()
    """Times that were marked, and what they are called."""


def starts_of(steps: Sequence[Step]) -> Floats:
    """When each step begins, and at last when all of it is over, (n + 1,), seconds."""
    return np.concatenate(([0.0], np.cumsum([step.length_s for step in steps])))


def step_at(starts: Floats, t: float) -> int:
    """Which step it is at a time: the last that has begun. -1 where there is none."""
    return min(max(int(np.searchsorted(starts, t, side="right")) - 1, 0), len(starts) - 2)
