"""The stream of laser feeds: frames of points over UDP (docs/laser-stream.md).

A datagram is a head of 16 bytes, little-endian (`ZLF1`, feed u16, part u8, parts u8, frame u32, points u16, 0 u16) and
its points, 8 bytes each: x i16, y i16, red u8, green u8, blue u8, lit u8. A frame of more points comes in parts.
"""

from __future__ import annotations

import struct
from collections import Counter
from dataclasses import dataclass, field

import numpy as np

from zarfwright.core.lasers.figure import DARK, POINT, POINTS_MOST, Figure

MAGIC = b"ZLF1"
HEAD = struct.Struct("<4sHBBIHH")
PORT = 7254
PART_MOST = 4096
"""Points of one datagram: 32 kB."""
PARTS_MOST = 16
LOST_S = 2.5
"""A feed that was silent for so long is dark."""


def packed(feed: int, frame: int, points: Figure) -> list[bytes]:
    """A frame as its datagrams; one without points is dark."""
    count = max(-(-len(points) // PART_MOST), 1)
    return [
        HEAD.pack(MAGIC, feed, part, count, frame & 0xFFFFFFFF, len(some), 0) + some.tobytes()
        for part in range(count)
        for some in [points[part * PART_MOST : (part + 1) * PART_MOST]]
    ]


@dataclass(frozen=True, eq=False)
class Part:
    """What one datagram says."""

    feed: int
    frame: int
    part: int
    parts: int
    points: Figure


def parsed(data: bytes) -> Part | str:
    """A datagram; or in a few words why it is none."""
    if len(data) < HEAD.size:
        return "shorter than its head"
    magic, feed, part, parts, frame, count, _ = HEAD.unpack_from(data)
    if magic != MAGIC:
        return "no laser frame"
    if feed == 0:
        return "feed 0"
    if not 0 < parts <= PARTS_MOST or part >= parts:
        return "a part that is none"
    if len(data) != HEAD.size + count * POINT.itemsize:
        return "another length than it says"
    points = np.frombuffer(data, dtype=POINT, offset=HEAD.size)
    return Part(feed, frame, part, parts, points)


@dataclass
class Feed:
    """One feed as it came in last."""

    frame: int = -1
    figure: Figure = field(default_factory=lambda: DARK)
    heard_at: float = 0.0
    sender: str = ""
    points: int = 0
    frames: int = 0
    rate_hz: float = 0.0
    parts: dict[int, Figure] = field(default_factory=dict)
    coming: int = -1
    _since: float = 0.0
    _counted: int = 0

    def measure(self, now: float) -> None:
        """Frames a second since this was asked last."""
        if now - self._since >= 1.0:
            self.rate_hz = (self.frames - self._counted) / (now - self._since)
            self._since, self._counted = now, self.frames


class Feeds:
    """All feeds by their numbers. The last one who speaks has the say."""

    def __init__(self) -> None:
        self.by_number: dict[int, Feed] = {}
        self.wanted: frozenset[int] | None = None
        """The feeds that anybody takes; of others no more is kept than that they are there. None: all."""
        self.dropped: Counter[str] = Counter()

    def take(self, data: bytes, sender: str, now: float) -> int | None:
        """Take a datagram: the feed that has a new frame by it, if one has."""
        part = parsed(data)
        if isinstance(part, str):
            self.dropped[part] += 1
            return None
        feed = self.by_number.setdefault(part.feed, Feed())
        if self.wanted is not None and part.feed not in self.wanted:
            feed.heard_at, feed.sender, feed.figure, feed.parts = now, sender, DARK, {}
            feed.frames, feed.points = feed.frames + (part.part == 0), len(part.points) * part.parts
            return None
        late = 0 < ((feed.frame - part.frame) & 0xFFFFFFFF) < 2**31
        if feed.frame >= 0 and late and sender == feed.sender and now - feed.heard_at < 1.0:
            self.dropped["a frame that is late"] += 1
            return None
        if part.frame != feed.coming:
            feed.coming, feed.parts = part.frame, {}
        feed.parts[part.part] = part.points
        if len(feed.parts) < part.parts:
            return None
        whole = np.concatenate([feed.parts[i] for i in sorted(feed.parts)])[:POINTS_MOST]
        feed.frame, feed.figure, feed.heard_at, feed.sender = part.frame, whole, now, sender
        feed.frames, feed.points = feed.frames + 1, len(whole)
        feed.parts = {}
        return part.feed

    def figure(self, number: int, now: float) -> Figure:
        """What a feed shows; dark where it was silent for too long."""
        feed = self.by_number.get(number)
        return feed.figure if feed is not None and now - feed.heard_at < LOST_S else DARK

    def told(self, now: float) -> list[dict[str, object]]:
        """The feeds that are heard, for people."""
        found: list[dict[str, object]] = []
        # Taken at once: others come in meanwhile.
        for number, feed in sorted([*self.by_number.items()], key=lambda one: one[0]):
            feed.measure(now)
            heard = now - feed.heard_at < LOST_S
            found.append({"feed": number, "points": feed.points, "rate_hz": round(feed.rate_hz, 1),
                          "sender": feed.sender, "heard": heard})  # fmt: skip
        return found
