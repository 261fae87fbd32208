"""What the console plays: cues with fades, a grand master, and levels set by hand."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from zarfwright.standins.console.cues import Cue, cue_list, group_of
from zarfwright.standins.console.rig import Fixture

HELD_S = 6.0


class Playback:
    """The state of a playing console. Time is given from outside, so that a test can turn it."""

    def __init__(self, rig: list[Fixture]) -> None:
        self.rig = rig
        self.cues = cue_list()
        self.at: int | None = None
        self.playing = False
        self.master = 1.0
        self.by_hand: dict[int, float] = {}
        self.now = 0.0
        self._since = 0.0
        self._from: list[dict[str, float]] = [{} for _ in rig]
        self._share: dict[int, float] = {}
        for group in {group_of(fixture) for fixture in rig}:
            inside = [i for i, fixture in enumerate(rig) if group_of(fixture) == group]
            inside.sort(key=lambda i: (rig[i].x, rig[i].y))
            self._share |= {i: place / max(len(inside) - 1, 1) for place, i in enumerate(inside)}

    @property
    def cue(self) -> Cue | None:
        return None if self.at is None else self.cues[self.at]

    def go(self) -> None:
        """To the next cue, from whatever is on stage; after the last one, to the first."""
        self._from = [self._values(i) for i in range(len(self.rig))]
        self.at = 0 if self.at is None else (self.at + 1) % len(self.cues)
        self._since = self.now

    def play(self) -> None:
        """Run the cue list by itself."""
        self.playing = True
        if self.at is None:
            self.go()

    def stop(self) -> None:
        """Stay in the cue that is there."""
        self.playing = False

    def tick(self, now: float) -> None:
        """Let time pass; a playing list goes on by itself after each cue's fade and hold."""
        self.now = now
        if self.playing and self.cue is not None and now - self._since > self.cue.fade_s + HELD_S:
            self.go()

    def _values(self, i: int) -> dict[str, float]:
        cue = self.cue
        if cue is None:
            return {}
        share, passed = self._share[i], self.now - self._since
        goal = cue.values(self.rig[i], share)
        if cue.sway_deg:
            phase = 2 * math.pi * (self.now / cue.sway_s + share)
            goal["Pan"] = goal.get("Pan", 0.0) + cue.sway_deg * math.sin(phase)
            goal["Tilt"] = goal.get("Tilt", 0.0) + cue.sway_deg * 0.5 * math.cos(phase)
        done = min(passed / cue.fade_s, 1.0) if cue.fade_s > 0 else 1.0
        start = self._from[i]
        return {name: start.get(name, 0.0) + done * (value - start.get(name, 0.0)) for name, value in goal.items()}

    def levels(self) -> dict[int, bytearray]:
        """The 512 slots of each universe."""
        out = {fixture.universe: bytearray(512) for fixture in self.rig}
        for i, fixture in enumerate(self.rig):
            values = self._values(i)
            hand = self.by_hand.get(fixture.number)
            for channel in fixture.channels.values():
                name = channel.attribute
                raw = channel.raw(values[name]) if name in values else channel.default
                if name == "Dimmer":
                    level = hand if hand is not None else values.get(name, 0.0)
                    raw = channel.raw(level * self.master)
                for slot, byte in zip(channel.slots, raw.to_bytes(len(channel.slots), "big"), strict=True):
                    out[fixture.universe][slot - 1] = byte
        return out

    def obey(self, command: Mapping[str, Any]) -> str | None:
        """Do one command; returns what is wrong with it, or None."""
        do = command.get("do")
        if do == "play":
            self.play()
        elif do == "stop":
            self.stop()
        elif do == "next":
            self.go()
        elif do == "master":
            self.master = min(max(float(command["level"]), 0.0), 1.0)
        elif do == "level":
            number = int(command["number"])
            if number not in {fixture.number for fixture in self.rig}:
                return f"The console has no fixture {number} in its patch: send it the rig again."
            if command.get("level") is None:
                self.by_hand.pop(number, None)
            else:
                self.by_hand[number] = min(max(float(command["level"]), 0.0), 1.0)
        else:
            return f"The console does not know “{do}”."
        return None

    def state(self) -> dict[str, Any]:
        """What its screen shows."""
        return {
            "playing": self.playing,
            "cue": self.cue.number if self.cue else None,
            "cues": [{"number": cue.number, "name": cue.name, "fade_s": cue.fade_s} for cue in self.cues],
            "master": self.master,
            "levels": {str(number): level for number, level in self.by_hand.items()},
            "fixtures": len(self.rig),
            "universes": sorted({fixture.universe for fixture in self.rig}),
        }
