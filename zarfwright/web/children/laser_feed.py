"""The simulated laser feed, started and ended from the screen: a program that knows nothing of the show."""

from __future__ import annotations

import threading
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from zarfwright.core.errors import JobError
from zarfwright.links.lasers import PORT
from zarfwright.web.children.child import Child
from zarfwright.web.children.live import LiveLink

SAYS_MOST = 2000


@dataclass(frozen=True)
class FeedStart:
    """Which feeds it sends, and what."""

    feeds: str
    pattern: str = "mixed"
    points: int = 600
    still: bool = False


class LaserFeedLink:
    """One simulated feed at a time."""

    def __init__(self, live: LiveLink, port: int = PORT) -> None:
        self.live, self.port = live, port
        self._child: Child | None = None
        self._how: FeedStart | None = None
        self._rate = 0.0
        self._problem = ""
        self._lock = threading.Lock()

    def start(self, how: FeedStart) -> None:
        """Start it, in place of one that runs."""
        self.end()
        with self._lock:
            self._problem, self._rate = "", 0.0
            self._how = how
            args = ["--to", f"{self.live.laser_address}:{self.port}", "--feeds", how.feeds, "--pattern", how.pattern,
                    "--points", str(how.points), *(["--still"] if how.still else [])]  # fmt: skip
            made: list[Child] = []
            child = Child("zarfwright.standins.lasers.process", args, self._hear, lambda: self._gone(made))
            made.append(child)
            self._child = child
        self._tell()

    def end(self) -> None:
        """Shut it down."""
        with self._lock:
            child, self._child, self._how = self._child, None, None
        if child is not None:
            child.end(3.0)
            self._tell()

    close = end

    def _hear(self, message: dict[str, Any]) -> None:
        if message.get("is") == "state":
            self._rate = float(message["rate_hz"])
        elif message.get("is") == "problem":
            self._problem = str(message["text"])[:SAYS_MOST]
        self._tell()

    def _gone(self, made: list[Child]) -> None:
        with self._lock:
            if made and self._child is made[0]:
                self._child, self._how = None, None
                self._problem = self._problem or "The simulated laser feed has ended by itself: start it again."
        self._tell()

    def report(self) -> dict[str, Any]:
        """Whether it runs, and what it sends."""
        how = self._how
        return {
            "running": self._child is not None,
            "feeds": how.feeds if how else "",
            "pattern": how.pattern if how else "",
            "rate_hz": self._rate,
            "problem": self._problem,
        }

    def _tell(self) -> None:
        self.live.tell_event("laser feed", **self.report())


def require_feeds(text: str) -> str:
    """What was typed as numbers of feeds. Raises JobError."""
    try:
        parts = [part.strip().partition("-") for part in text.split(",")]
        spans = [(int(first), int(last or first)) for first, _, last in parts]
    except ValueError:
        spans = []
    if not spans or any(not 1 <= first <= last <= 65_535 for first, last in spans):
        raise JobError(f"“{text[:40]}” names no feeds: type numbers such as 1-12, or 1,4,7-9.", "feeds")
    return written_short(spans)


def written_short(spans: Sequence[tuple[int, int]]) -> str:
    """Spans of numbers as people write them: those that follow each other as one."""
    joined: list[tuple[int, int]] = []
    for first, last in sorted(spans):
        if joined and first <= joined[-1][1] + 1:
            joined[-1] = (joined[-1][0], max(last, joined[-1][1]))
        else:
            joined.append((first, last))
    return ", ".join(str(first) if first == last else f"{first}-{last}" for first, last in joined)
