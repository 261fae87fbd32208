"""What the console plays: cues with times, hands over cues, masters over both. Time is given from outside."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from zarfwright.standins.console.cues import Cue, Key
from zarfwright.standins.console.lanes import Floats, Lanes
from zarfwright.standins.console.patch import Fixture
from zarfwright.standins.console.story import shares_of

HELD_S = 6.0
SURE_S = 0.2
"""Longer than a frame: the last one of a fade is sent as well."""


@dataclass
class Master:
    """A sub-master: brings a group up, as far as it is pushed."""

    name: str
    fixtures: tuple[str, ...]
    level: float = 0.0


@dataclass
class Drill:
    """What is played for checking the line: every slot from nothing to full and back in `sweep_s`, or one fixture after
    the other to full, `identify_s` each."""

    sweep_s: float | None = None
    identify_s: float | None = None
    since: float = 0.0


@dataclass
class Run:
    """A cue that is coming, or has come: from which raw values, since when."""

    cue: Cue
    start: Floats
    goal: Floats
    since: float
    sway: Floats
    phase: Floats

    def done(self, now: float) -> float:
        """How far it has come, 0 to 1."""
        passed = now - self.since - self.cue.delay_s
        return min(max(passed / self.cue.fade_s, 0.0), 1.0) if self.cue.fade_s > 0 else float(passed >= 0)


@dataclass
class Playback:
    """The state of a playing console."""

    rig: Sequence[Fixture]
    cues: list[Cue] = field(default_factory=list)
    playing: bool = False
    grand: float = 1.0
    masters: list[Master] = field(default_factory=list)
    hands: dict[Key, float] = field(default_factory=dict)
    drill: Drill = field(default_factory=Drill)
    silent: frozenset[str] = frozenset()
    """Fixtures that get nothing, whatever is played: a fault."""
    now: float = 0.0

    def __post_init__(self) -> None:
        self.lanes = Lanes(self.rig)
        self.base = self.lanes.default.copy()
        self.run: Run | None = None

    def patch(self, rig: Sequence[Fixture], shift: int = 0) -> None:
        """Another rig, or the same otherwise; what both have goes on as it is."""
        before, state = self.lanes, self._state()
        self.rig, self.lanes = rig, Lanes(rig, shift)
        self.base = self.lanes.moved_from(before, state)
        if self.run is not None:
            self.run = self._prepared(self.run.cue, self.run.since)

    @property
    def cue(self) -> Cue | None:
        return self.run.cue if self.run is not None else None

    def go(self, number: float | None = None) -> bool:
        """To a cue, or the one after that which is on: after the last one, the first. Whether there is one."""
        if not self.cues:
            return False
        numbers = [one.number for one in self.cues]
        if number is None:
            at = numbers.index(self.cue.number) if self.cue is not None and self.cue.number in numbers else -1
            goal = self.cues[(at + 1) % len(self.cues)]
        elif number in numbers:
            goal = self.cues[numbers.index(number)]
        else:
            return False
        self.base = self._state()
        self.run = self._prepared(goal, self.now)
        return True

    def _prepared(self, cue: Cue, since: float) -> Run:
        lanes, goal = self.lanes, self.base.copy()
        lanes.put(goal, cue.values)
        sway, phase = np.zeros_like(goal), np.zeros_like(goal)
        if cue.sway_deg:
            shares = shares_of(self.rig)
            for (key, name), where in lanes.at.items():
                function = where.function
                if name in ("Pan", "Tilt") and function.high != function.low:
                    by = cue.sway_deg * (1.0 if name == "Pan" else 0.5)
                    sway[where.lane] = by / (function.high - function.low) * (function.last - function.first)
                    phase[where.lane] = shares[key] + (0.0 if name == "Pan" else 0.25)
        return Run(cue, self.base, goal, since, sway, phase)

    @property
    def moving(self) -> bool:
        """Whether time alone changes what is sent."""
        if self.drill.sweep_s or self.drill.identify_s:
            return True
        if self.run is None:
            return False
        cue = self.run.cue
        return cue.sway_deg != 0.0 or self.now <= self.run.since + cue.delay_s + cue.fade_s + SURE_S

    def tick(self, now: float) -> None:
        """Let time pass: what follows by itself goes, and so does a playing list."""
        self.now = now
        if self.run is None:
            return
        cue = self.run.cue
        come = now - self.run.since - cue.delay_s - cue.fade_s
        wait = HELD_S if self.playing and cue.follow_s is None else cue.follow_s
        if wait is not None and come > wait:
            self.go()

    def _state(self) -> Floats:
        """What cues come to now, raw."""
        if self.run is None:
            return self.base.copy()
        run = self.run
        goal = run.goal
        if run.cue.sway_deg:
            goal = goal + run.sway * np.sin(2 * math.pi * (self.now / run.cue.sway_s + run.phase))
        return run.start + run.done(self.now) * (goal - run.start)

    def raws(self) -> Floats:
        """What is sent for each lane: cues, then hands, masters, drills, faults."""
        lanes, raws = self.lanes, self._state()
        lanes.put(raws, self.hands)
        for master in self.masters:
            raised = lanes.bright & lanes.of(master.fixtures)
            raws[raised] = np.maximum(raws[raised], master.level * lanes.top[raised])
        shown = self.identified
        if shown is not None:
            here = lanes.owner == shown
            raws = np.where(here, lanes.highlight, np.where(lanes.bright, 0.0, raws))
        raws[lanes.bright] *= self.grand
        if self.drill.sweep_s:
            turn = (self.now - self.drill.since) / self.drill.sweep_s % 1.0
            raws = lanes.top * (1.0 - abs(2.0 * turn - 1.0))
        if self.silent:
            raws[lanes.of(self.silent)] = 0.0
        return raws

    @property
    def identified(self) -> int | None:
        """Which fixture of the rig is shown by itself now."""
        if not self.drill.identify_s or not self.rig:
            return None
        return int((self.now - self.drill.since) / self.drill.identify_s) % len(self.rig)

    def levels(self) -> dict[int, bytes]:
        """The 512 slots of each universe."""
        return self.lanes.slots(self.raws())

    def intensities(self) -> dict[str, float]:
        """How bright each fixture is sent, 0 to 1, by key."""
        lanes, out = self.lanes, np.zeros(len(self.rig))
        share = self.raws() / np.maximum(lanes.top, 1.0)
        np.maximum.at(out, lanes.owner[lanes.bright], share[lanes.bright])
        return dict(zip(lanes.keys, (round(float(one), 3) for one in out), strict=True))

    def values_of(self, fixtures: Iterable[str]) -> dict[Key, float]:
        """Physical values of some fixtures as they are sent, without masters."""
        state, wanted = self._state(), set(fixtures)
        self.lanes.put(state, self.hands)
        values = {}
        for key, where in self.lanes.at.items():
            raw = float(state[where.lane])
            here = [one for one in where.functions if one.first <= raw <= one.last]
            if key[0] in wanted and here:
                values[key] = here[0].physical(raw)
        return values
