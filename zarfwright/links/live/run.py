"""The running order as it is played here: its score over the rig, and where in it one is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from zarfwright.core.looks.said import NOTHING, Said
from zarfwright.core.playback.order import Step, step_at
from zarfwright.core.playback.score import Air, Score, share_at
from zarfwright.core.playback.transport import Command, Transport, told
from zarfwright.core.space import Floats
from zarfwright.links.live.playing import LiveRig

STEP_JSON: TypeAdapter[tuple[Step, ...]] = TypeAdapter(tuple[Step, ...])


@dataclass(eq=False)
class Run:
    """One order over one rig. `looks` is what looks say, by their keys; whoever hears of more adds to it."""

    order: str
    steps: tuple[Step, ...]
    air: Sequence[Air]
    looks: Mapping[str, Said]
    rig: LiveRig
    transport: Transport = field(default_factory=Transport)

    def __post_init__(self) -> None:
        whole = self.rig.whole
        self.score = Score(self.steps, self._says, self.rig.rig, whole.home, self.rig.limits)
        self._shown_at: float | None = None
        self._over = False

    def _says(self, look: str) -> Said:
        return self.looks.get(look, NOTHING)

    def where(self, now: float) -> float:
        """The order's time, when the clock says `now`."""
        return self.transport.where(self.steps, self.score.starts, now)

    @property
    def goes(self) -> bool:
        """Whether it plays. It may stand nonetheless, before a step that waits."""
        return self.transport.playing

    def waits(self, now: float) -> bool:
        return self.transport.waits(self.steps, self.score.starts, now)

    def rows(self, now: float) -> Floats | None:
        """What is shown then, (n, COUNT); None: what was shown before."""
        t = self.where(now)
        if self._shown_at is not None and (t == self._shown_at or (self._over and self._same_step(t))):
            return None
        shown, goes_on = self.score.at(t)
        self._shown_at, self._over = t, not goes_on
        return shown

    def _same_step(self, t: float) -> bool:
        starts = self.score.starts
        return t >= (self._shown_at or 0.0) and step_at(starts, t) == step_at(starts, self._shown_at or 0.0)

    def anew(self) -> None:
        """What was shown is forgotten: something else has the say, or had it."""
        self._shown_at = None

    def command(self, command: Command, now: float, value: float | None) -> None:
        self.transport = told(self.transport, command, self.steps, now, value)

    def over(self, rig: LiveRig) -> Run:
        """The same over another rig."""
        return replace(self, rig=rig)

    def air_at(self, t: float) -> Air:
        """Haze, house light and exposure at a time: on their even way, in the time in which the step fades in."""
        if not self.steps:
            return None, None, None
        starts = self.score.starts
        i = step_at(starts, t)
        share = share_at(t - float(starts[i]), *self.steps[i].time_of("intensity"))
        now = [self._air(i, k) for k in range(3)]
        before = [self._air(i - 1, k) for k in range(3)]
        made = [b if a is None or b is None else a + share * (b - a) for a, b in zip(before, now, strict=True)]
        return made[0], made[1], made[2]

    def _air(self, i: int, k: int) -> float | None:
        return next((self.air[j][k] for j in range(i, -1, -1) if self.air[j][k] is not None), None)

    def told(self, now: float) -> dict[str, Any]:
        """Where it stands, as viewers and the desk are told."""
        t = self.where(now)
        i = step_at(self.score.starts, t) if self.steps else -1
        haze, house, exposure = self.air_at(t)
        return {
            "order": self.order,
            "at_s": round(t, 4),
            "step": self.steps[i].key if i >= 0 else None,
            "playing": self.transport.playing,
            "waiting": self.waits(now),
            "speed": self.transport.speed,
            "total_s": float(self.score.total_s),
            "haze_per_m": haze,
            "house_light_lx": house,
            "exposure_ev": exposure,
        }


def run_of(command: Mapping[str, Any], looks: Mapping[str, Said], rig: LiveRig, before: Run | None) -> Run:
    """A run as the desk tells it. The same order goes on where it was."""
    steps = STEP_JSON.validate_python(command["steps"])
    air = [(haze, house, exposure) for haze, house, exposure in command["air"]]
    same = before is not None and before.order == command["order"]
    transport = before.transport if same and before is not None else Transport(at_s=float(command.get("at_s") or 0.0))
    made = Run(command["order"], steps, air, looks, rig, transport)
    if not transport.playing:
        made.transport = replace(transport, at_s=float(np.clip(transport.at_s, 0.0, max(made.score.total_s, 0.0))))
    return made
