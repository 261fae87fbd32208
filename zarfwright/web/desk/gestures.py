"""Sees that what somebody drags comes to an end, also when they go away in the middle of it."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

GESTURE_S = 5.0
"""How long the picture shows a gesture that neither goes on nor ends."""


class Gestures:
    """Calls `over` with who it was. One thread, while anybody drags."""

    def __init__(self, over: Callable[[str], None]) -> None:
        self._over = over
        self._until: dict[str, float] = {}
        self._lock = threading.Lock()
        self._watching = False

    def goes_on(self, who: str) -> None:
        """Somebody drags."""
        with self._lock:
            self._until[who] = time.monotonic() + GESTURE_S
            if not self._watching:
                self._watching = True
                threading.Thread(target=self._watch, name="gestures", daemon=True).start()

    def _watch(self) -> None:
        while True:
            with self._lock:
                if not self._until:
                    self._watching = False
                    return
                who, until = min(self._until.items(), key=lambda one: one[1])
                left = until - time.monotonic()
                if left <= 0:
                    del self._until[who]
            if left > 0:
                time.sleep(left)
            else:
                self._over(who)
