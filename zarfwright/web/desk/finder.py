"""What is wrong in the show, told with an edit where that is quick, else behind it in a message of its own."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from typing import Any

import orjson

from zarfwright.core.readiness import findings
from zarfwright.core.show import Show

log = logging.getLogger(__name__)
QUICK_S = 0.012
"""An edit is not kept waiting for longer than this."""


class Finder:
    """Looks the show through. `now` gives the open show and its revision; `tell` sends a text to every browser."""

    def __init__(self, now: Callable[[], tuple[Show, int]], tell: Callable[[str], None]) -> None:
        self._now, self._tell = now, tell
        # Held for counting only, never while the show is asked for: edits ask with the show's own lock in hand.
        self._lock = threading.Lock()
        self._busy = False
        self._asked = 0
        self._worker: threading.Thread | None = None
        self.took_s = 0.0
        """How long it took the last time."""

    def all(self, show: Show) -> list[dict[str, Any]]:
        """What is wrong or missing, as browsers take it."""
        began = time.perf_counter()
        found = [
            {
                "step": one.step,
                "where": list(one.where),
                "text": one.text,
                "wrong": one.wrong,
                "repair": vars(one.repair) if one.repair else None,
            }
            for one in findings(show)
        ]
        self.took_s = time.perf_counter() - began
        return found

    def if_quick(self, show: Show) -> list[dict[str, Any]] | None:
        """The same where it took no time before; else None, and it is told to every browser later."""
        if self.took_s <= QUICK_S:
            return self.all(show)
        with self._lock:
            self._asked += 1
            if not self._busy:
                self._busy = True
                self._worker = threading.Thread(target=self._work, name="findings", daemon=True)
                self._worker.start()
        return None

    def _work(self) -> None:
        """Until nobody has asked since the show was looked at: edits go on meanwhile."""
        while True:
            with self._lock:
                asked = self._asked
            try:
                show, rev = self._now()
                found = self.all(show)
                self._tell(orjson.dumps({"event": "findings", "rev": rev, "findings": found}).decode())
            except Exception:  # one show that cannot be looked through must not be the last one
                log.exception("what is wrong in the show could not be told")
            with self._lock:
                if self._asked == asked:
                    self._busy = False
                    return

    def wait(self) -> None:
        """Wait until all has been told."""
        worker = self._worker
        if worker is not None:
            worker.join(10)
