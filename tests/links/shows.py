"""Consoles that play: cues with fades, heads that move, colours and gobos; made by dice, so that every show is another.

They have a patch of their own, given as (type, mode, universe, address); what is not named stays silent.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass

from zarfwright.core.dmx.encode import encode_raws
from zarfwright.core.types.model import FixtureType

HOMES = {"Shutter1": 32}
LIT_S, FADE_S, STEP_S = 3.2, 1.4, 1.0


@dataclass(frozen=True)
class Head:
    """One fixture of a console."""

    type: FixtureType
    mode: str
    universe: int
    address: int
    silent: bool = False


class Show:
    """What a console sends at a time, by universe."""

    def __init__(self, heads: list[Head], seed: int, identify_s: float = 0.0) -> None:
        self.heads, self.identify_s = heads, identify_s
        self.dice = random.Random(seed)
        self.cues: list[list[dict[str, float]]] = []
        self.speed = [self.dice.uniform(0.1, 0.4) for _ in heads]
        self.phase = [self.dice.uniform(0, 6) for _ in heads]

    def cue(self, n: int, i: int) -> dict[str, float]:
        """What a fixture does in a cue, 0 to 1 by attribute."""
        while len(self.cues) <= n:
            base = {name: self.dice.random() for name in ("Zoom", "Iris", "Focus1")}
            colours = {name: self.dice.choice([0.0, 1.0, self.dice.random()]) for name in "RGBWCMY"}
            lit = self.dice.random()
            self.cues.append([
                {
                    "Dimmer": self.dice.choice([0.0, 1.0, lit, self.dice.random()]), **base,
                    **{f"ColorAdd_{k}": v for k, v in colours.items()},
                    **{f"ColorSub_{k}": v for k, v in colours.items()},
                    "Gobo1": self.dice.choice([0.0, 0.2, 0.5]), "Color1": self.dice.choice([0.0, 0.0, 0.3, 0.7]),
                    "Gobo1Pos": self.dice.random(), "moves": self.dice.choice([0.0, 1.0]),
                }
                for _ in self.heads
            ])  # fmt: skip
        return self.cues[n][i]

    def value(self, i: int, attribute: str, at: float) -> float:
        """0 to 1: fading from the cue before to the one that is on; wheels step."""
        n, passed = int(at / LIT_S), at % LIT_S
        now, before = self.cue(n + 1, i).get(attribute, 0.0), self.cue(n, i).get(attribute, 0.0)
        if attribute in ("Gobo1", "Color1"):
            return now
        done = min(passed / FADE_S, 1.0)
        return before + (now - before) * done

    def levels(self, at: float) -> dict[int, list[int]]:
        """The 512 slots of each universe."""
        out = {head.universe: [0] * 512 for head in self.heads}
        turn = int(at / STEP_S) % len(self.heads) if at < self.identify_s else -1
        for i, head in enumerate(self.heads):
            if head.silent:
                continue
            mode = head.type.mode(head.mode)
            homes = encode_raws(head.type, mode, {})
            for channel, home in zip(mode.channels, homes, strict=True):
                if channel.virtual:
                    continue
                raw = HOMES.get(channel.attribute, home)
                top = 256 ** len(channel.slots) - 1
                if channel.attribute == "Dimmer":
                    level = float(turn == i) if turn >= 0 else self.value(i, "Dimmer", at)
                    raw = round(level * top)
                elif channel.attribute in ("Pan", "Tilt"):
                    still = at < self.identify_s
                    swing = 0.0 if still else math.sin(self.speed[i] * (at - self.identify_s) + self.phase[i])
                    raw = round((0.5 + 0.3 * swing) * top)
                elif at >= self.identify_s and channel.attribute in self.cue(0, i):
                    raw = round(self.value(i, channel.attribute, at) * top)
                for slot, byte in zip(channel.slots, raw.to_bytes(len(channel.slots), "big"), strict=True):
                    place = head.address + slot - 2
                    if place < 512:
                        out[head.universe][place] = byte
        return out
