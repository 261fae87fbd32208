"""Cues: what fixtures do, and the times in which they come to it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

Key = tuple[str, str]
"""A fixture's key and the name of one of its functions: the attribute, and of which cell."""


@dataclass(frozen=True)
class Cue:
    """Physical values by fixture and function; what is not said stays as it was. `follow_s`: so long after it has come,
    the next one goes by itself; None: it waits. `sway_deg`, `sway_s`: heads that move slowly to and fro."""

    number: float
    name: str
    fade_s: float = 2.0
    delay_s: float = 0.0
    follow_s: float | None = None
    values: Mapping[Key, float] = field(default_factory=dict)
    sway_deg: float = 0.0
    sway_s: float = 8.0

    def told(self) -> dict[str, object]:
        return {
            "number": self.number, "name": self.name, "fade_s": self.fade_s, "delay_s": self.delay_s,
            "follow_s": self.follow_s, "fixtures": len({key for key, _ in self.values}),
        }  # fmt: skip
