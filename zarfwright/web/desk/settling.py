"""Keeps a look each time the picture settles, while an operator steps through the console's cue list."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from datetime import datetime
from typing import Any, Protocol

from zarfwright.core.errors import JobError
from zarfwright.core.looks.look import Look
from zarfwright.core.looks.settling import Settling, near_doubles
from zarfwright.web.desk.desk import Desk
from zarfwright.web.desk.session import Conflict

LOOK_S = 0.2
log = logging.getLogger(__name__)


class Heard(Protocol):
    """What is heard, and by whom it is sent."""

    status: dict[str, Any]

    def heard(self) -> tuple[dict[int, bytes], list[int]]: ...


class SettledLooks:
    """Listens while it is on. What it keeps are looks like any others: edits of whoever turned it on."""

    def __init__(self, desk: Desk, live: Heard, now: Callable[[], datetime] = datetime.now) -> None:
        self.desk, self.live, self._now = desk, live, now
        self._over = threading.Event()
        self._over.set()
        self._kept: list[str] = []
        self._problem = ""

    @property
    def on(self) -> bool:
        return not self._over.is_set()

    def report(self) -> dict[str, Any]:
        """Whether it listens, what it has kept since it was turned on, and what of that is as good as the same."""
        show = self.desk.show
        kept = [(key, item.body.values) for key in self._kept
                if (item := show.items.get(key)) is not None and isinstance(item.body, Look)]  # fmt: skip
        return {
            "on": self.on,
            "kept": [key for key, _ in kept],
            "doubles": near_doubles(kept),
            "problem": self._problem,
        }

    def turn(self, on: bool, who: str) -> None:
        """Begin to listen, or end."""
        self._over.set()
        if on:
            self._over = over = threading.Event()
            self._kept, self._problem = [], ""
            threading.Thread(target=self._listen, args=(over, who), name="settling", daemon=True).start()
        self._tell()

    def _listen(self, over: threading.Event, who: str) -> None:
        watched, at = Settling(), 0.0
        while not over.wait(LOOK_S):
            at += LOOK_S
            try:
                levels, live = self.live.heard()
                if watched.take({universe: levels[universe] for universe in live if universe in levels}, at):
                    self._keep(who)
            except (JobError, Conflict) as wrong:
                # The picture is being restarted, or there is nothing to keep: the next one is.
                self._problem = str(wrong)
                self._tell()

    def _keep(self, who: str) -> None:
        names = sorted({source["name"] for one in self.live.status.get("universes", ()) for source in one["sources"]})
        source, when = " and ".join(names[:2]) or "The console", self._now().strftime("%H:%M:%S")
        made = self.desk.edit(who, "keep look", {"name": f"{source}, {when}", "source": f"{source}, {when}"})
        self._kept += made["select"]
        self._problem = ""
        self._tell()

    def _tell(self) -> None:
        self.desk.feed.event("settling", **self.report())

    def close(self) -> None:
        self._over.set()
