"""Will it be there: heads that are lit while they travel, or come late, and by how many seconds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.looks.sorts import LIT
from zarfwright.core.motion import TRAVELS
from zarfwright.core.playback.score import Leg, Score, brightness_of
from zarfwright.core.space import Floats

LEAST_RAD = np.radians(1.0)
"""A head that turns by less is not seen to move."""
LEAST_S = 0.1
HEADS = len(TRAVELS)
"""Of what travels, heads come first, then what drivers move."""
Trouble = Literal["lit on the way", "late", "moves while lit", "moves while going out", "still on its way"]


@dataclass(frozen=True)
class Seen:
    """Fixtures whose heads are seen to travel in a step, and for how long."""

    trouble: Trouble
    fixtures: tuple[str, ...]
    seconds: float
    """So long they are seen on their way when they should be there already; of those that move in the light as it is
    planned: for how long they do."""
    needs_s: float
    """When the last of them is there, seconds from the step's beginning."""


@dataclass(frozen=True, eq=False)
class _Ways:
    """Per row (n,): when its head sets off and is there, until when it is lit at first, and from when on at last."""

    off: Floats
    there: Floats
    until: Floats
    since: Floats


def _crossing(begins: Floats, goal: Floats, delay: Floats, time: Floats) -> Floats:
    """When a level that fades passes LIT."""
    span = np.where(goal == begins, 1.0, goal - begins)
    return np.asarray(delay + time * np.clip((LIT - begins) / span, 0.0, 1.0))


def _ways(leg: Leg) -> _Ways:
    begins, goal = brightness_of(leg.begins), brightness_of(leg.goal)
    up, down = leg.step.time_of("intensity"), leg.step.time_of("intensity", falling=True)
    rises = goal >= begins
    passes = _crossing(begins, goal, np.where(rises, up[0], down[0]), np.where(rises, up[1], down[1]))
    first, last = begins > LIT, goal > LIT
    until = np.where(first, np.where(last, np.inf, passes), 0.0)
    since = np.where(last, np.where(first, 0.0, passes), np.inf)
    turns = np.abs(leg.way[:2]) > LEAST_RAD
    off = np.min(np.where(turns, leg.starts[:2], np.inf), axis=0)
    there = np.max(np.where(turns, leg.starts[:2] + leg.takes[:2], -np.inf), axis=0)
    return _Ways(off, there, until, since)


def seen_moving(score: Score, i: int) -> list[Seen]:
    """The heads that are seen to travel in a step, by what is the matter with them. Those that move in the light and
    have the time for it are named only where that is not said to be meant."""
    leg = score.leg(i)
    ways, step = _ways(leg), leg.step
    moves = np.isfinite(ways.off)
    dark_first, dark_last = ways.until == 0.0, np.isinf(ways.since)
    planned = sum(step.time_of("position"))
    late_by = ways.there - np.maximum(planned, ways.since)
    lit_up = moves & dark_first & ~dark_last & (ways.there > ways.since + LEAST_S)
    both = moves & ~dark_first & ~dark_last
    late = both & (ways.there > planned + LEAST_S)
    on_time = both & ~late
    out_on_way = moves & ~dark_first & dark_last & (np.minimum(ways.there, ways.until) > ways.off + LEAST_S)
    found = [
        _seen("lit on the way", score, lit_up, ways.there - ways.since, ways.there),
        _seen("late", score, late, late_by, ways.there),
    ]
    if not step.moves_meant:
        shown = np.minimum(ways.there, ways.until) - ways.off
        found += [
            _seen("moves while lit", score, on_time, ways.there - ways.off, ways.there),
            _seen("moves while going out", score, out_on_way, shown, ways.until),
        ]
    found.append(_carried(score, leg))
    return [one for one in found if one is not None]


def _carried(score: Score, leg: Leg) -> Seen | None:
    """What drivers move that has not come when the next step begins by itself: nobody waits for it then."""
    if not leg.step.follows:
        return None
    goes = leg.way[HEADS:] != 0.0
    there = np.max(np.where(goes, leg.starts[HEADS:] + leg.takes[HEADS:], -np.inf), axis=0, initial=-np.inf)
    missing = there - leg.step.length_s
    return _seen("still on its way", score, missing > LEAST_S, missing, there)


def _seen(trouble: Trouble, score: Score, rows: NDArray[np.bool_], seconds: Floats, needs: Floats) -> Seen | None:
    if not rows.any():
        return None
    names = dict.fromkeys(score.rig.fixtures[row] for row in np.flatnonzero(rows).tolist())
    return Seen(trouble, tuple(names), round(float(seconds[rows].max()), 2), round(float(needs[rows].max()), 2))


def dark_before(score: Score, i: int, fixtures: tuple[str, ...]) -> tuple[str, ...]:
    """Those of some fixtures whose heads can go to their places of a step before it: dark as the one before ends."""
    if i == 0:
        return ()
    before = score.leg(i - 1)
    dark = brightness_of(before.goal) <= LIT
    lit = {fixture for fixture, is_dark in zip(score.rig.fixtures, dark.tolist(), strict=True) if not is_dark}
    return tuple(one for one in fixtures if one not in lit)
