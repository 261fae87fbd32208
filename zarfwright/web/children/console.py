"""The simulated console, started and ended from the screen."""

from __future__ import annotations

import threading
from typing import Any

from zarfwright.core.errors import JobError
from zarfwright.core.papers import HOOKUP_COLUMNS, channel_hookup
from zarfwright.formats.csv import write_csv
from zarfwright.web.children.child import Child
from zarfwright.web.children.live import LiveLink
from zarfwright.web.desk import Desk


class ConsoleLink:
    """At most one console at a time. It gets the channel hookup as CSV bytes, and nothing else of the show."""

    def __init__(self, desk: Desk, live: LiveLink) -> None:
        self.desk, self.live = desk, live
        self.lock = threading.Lock()
        self.child: Child | None = None
        self.state: dict[str, Any] = {}
        self.problem = ""

    def start(self) -> None:
        """Start it with the patch as it is now. Raises JobError when nothing is patched."""
        with self.lock:
            if self.child is not None and self.child.running:
                raise JobError("The simulated console is running already.")
            rows = channel_hookup(self.desk.show)
            if not rows:
                raise JobError("No fixture has an address: give addresses in Patch, then start the console.")
            self.problem, self.state = "", {}
            self.child = Child(
                "zarfwright.standins.console.process",
                ["--destination", self.live.sacn_address],
                self._hear,
                self._gone,
            )
            self.child.say({"do": "rig", "csv": write_csv(HOOKUP_COLUMNS, rows).decode("utf-8-sig")})
        self._tell()

    def command(self, message: dict[str, Any]) -> None:
        """Pass a command on. Raises JobError when no console runs."""
        child = self.child
        if child is None or not child.running or not child.say(message):
            raise JobError("The simulated console is not running: start it first.")

    def end(self) -> None:
        """Shut it down; it tells its listeners so."""
        with self.lock:
            child, self.child = self.child, None
        if child is not None:
            child.end(3.0)
        self.state = {}
        self._tell()

    def _hear(self, message: dict[str, Any]) -> None:
        kind = message.pop("is", "")
        if kind == "state":
            self.state, self.problem = message, ""
        elif kind == "problem":
            self.problem = str(message["text"])
        self._tell()

    def _gone(self) -> None:
        self._tell()

    def report(self) -> dict[str, Any]:
        """Whether it runs, and what its screen shows."""
        child = self.child
        return {"running": child is not None and child.running, "problem": self.problem, "state": self.state or None}

    def _tell(self) -> None:
        self.live.tell_event("console", **self.report())
