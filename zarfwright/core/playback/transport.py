"""Play, pause, step, scrub: where in a running order one is at a time of the clock."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from zarfwright.core.playback.order import Step, starts_of, step_at
from zarfwright.core.space import Floats

BEFORE_S = 1e-3
"""A step that waits for somebody stands so much before its end: there the next one begins."""
Command = Literal["play", "pause", "next", "back", "to", "step", "speed"]
SPEEDS = (0.25, 0.5, 1.0, 2.0)


@dataclass(frozen=True)
class Transport:
    """Where one is: at `at_s` in the order when the clock said `since`; from there on by `speed`, where it plays."""

    at_s: float = 0.0
    since: float = 0.0
    playing: bool = False
    speed: float = 1.0

    def where(self, steps: tuple[Step, ...], starts: Floats, now: float) -> float:
        """The order's time, when the clock says `now`."""
        if not self.playing:
            return self.at_s
        t = self.at_s + max(now - self.since, 0.0) * self.speed
        return min(t, _stop_after(steps, starts, self.at_s))

    def waits(self, steps: tuple[Step, ...], starts: Floats, now: float) -> bool:
        """Whether it plays, and stands before a step that waits for somebody, or at the very end."""
        return self.playing and self.where(steps, starts, now) >= _stop_after(steps, starts, self.at_s)


def _stop_after(steps: tuple[Step, ...], starts: Floats, t: float) -> float:
    """Where playing on from a time comes to a stop."""
    for i in range(step_at(starts, t), len(steps)):
        if not steps[i].follows or i == len(steps) - 1:
            return max(float(starts[i + 1]) - BEFORE_S, float(starts[i]), t)
    return 0.0


def told(
    transport: Transport, command: Command, steps: tuple[Step, ...], now: float, value: float | None = None
) -> Transport:
    """The transport after a command. `to` goes to a time, `step` to where the step of that place has all come."""
    starts = starts_of(steps)
    at = transport.where(steps, starts, now)
    here = replace(transport, at_s=at, since=now)
    if not steps:
        return replace(here, at_s=0.0, playing=False)
    if command == "play":
        waits = transport.waits(steps, starts, now) or at >= float(starts[-1]) - BEFORE_S
        return _next(replace(here, playing=True), steps, starts) if waits else replace(here, playing=True)
    if command == "pause":
        return replace(here, playing=False)
    if command == "speed":
        return replace(here, speed=float(np.clip(value or 1.0, SPEEDS[0], SPEEDS[-1])))
    if command == "to":
        return replace(here, at_s=float(np.clip(value or 0.0, 0.0, starts[-1])))
    if command == "next":
        return _next(replace(here, playing=True), steps, starts)
    i = step_at(starts, at) - 1 if command == "back" else int(value or 0)
    return replace(here, playing=False, at_s=come(steps, starts, int(np.clip(i, 0, len(steps) - 1))))


def come(steps: tuple[Step, ...], starts: Floats, i: int) -> float:
    """When all of a step has come, at the latest just before its next begins."""
    return min(float(starts[i]) + steps[i].comes_s, max(float(starts[i + 1]) - BEFORE_S, float(starts[i])))


def _next(transport: Transport, steps: tuple[Step, ...], starts: Floats) -> Transport:
    """At the beginning of the next step; after the last, at that of the first."""
    i = step_at(starts, transport.at_s) + 1
    return replace(transport, at_s=float(starts[i if i < len(steps) else 0]))
