"""How fast pictures are made, so that a console on the same machine is never starved: when its packets come late while
the machine is busy, this program slows down first, and says so."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

APART_S = (0.018, 0.034, 0.067, 0.125)
"""The least time between two pictures, from as fast as it goes to eight a second."""
SPARE = 1
"""Where room is to be left for a console, it goes no faster than this one of them."""
SHARES = (1.0, 0.4, 0.3, 0.2)
"""The most of the graphics processor's time that browsers take, at each of them."""
STEADY_HZ, LATE_TIMES, LATE_MS = 20.0, 3.0, 90.0
"""Of a source that sends steadily at this rate or faster: a gap of so many times its usual one, and of so long, is
late."""
BUSY = 0.8
QUIET_LOOKS = 16
"""After so many looks at which nothing came late it goes a step faster again: eight seconds."""


@dataclass(frozen=True)
class Gap:
    """The longest pause of a source in the last second, and its usual rate."""

    name: str
    longest_ms: float
    rate_hz: float

    @property
    def late(self) -> bool:
        return self.rate_hz >= STEADY_HZ and self.longest_ms > max(LATE_MS, LATE_TIMES * 1000.0 / self.rate_hz)


@dataclass(frozen=True)
class Pace:
    """Which of the paces it goes at, for how long nothing has come late, and what is to be said."""

    spare: bool = False
    at: int = 0
    quiet: int = 0
    said: str = ""

    @property
    def apart_s(self) -> float:
        return APART_S[max(self.at, SPARE if self.spare else 0)]

    @property
    def share(self) -> float:
        """The most of the graphics processor's time that browsers should take."""
        return SHARES[max(self.at, SPARE if self.spare else 0)]


def next_pace(pace: Pace, gaps: Sequence[Gap], drops: int, busy: float) -> Pace:
    """The pace after one more look: `drops` packets were lost in this machine since the last, which is busy to a share
    of all it has."""
    late = max((gap for gap in gaps if gap.late), key=lambda gap: gap.longest_ms, default=None)
    if busy < BUSY or (late is None and not drops):
        quiet = pace.quiet + 1
        if pace.at == 0:
            return replace(pace, quiet=0, said="")
        faster = quiet >= QUIET_LOOKS
        after = replace(pace, at=pace.at - faster, quiet=0 if faster else quiet)
        return replace(after, said="") if after.at == 0 else after
    why = f"“{late.name}” came {late.longest_ms:.0f} ms late" if late is not None else f"{drops} packets were lost"
    slower = replace(pace, at=min(pace.at + 1, len(APART_S) - 1), quiet=0)
    rate = 1.0 / slower.apart_s
    said = f"Slowed to {rate:.0f} pictures a second: {why} while this machine was {busy * 100:.0f} % busy."
    return replace(slower, said=said)
