"""Simulated consoles, started and ended from the screen: programs that know of the show only what they are sent."""

from __future__ import annotations

import itertools
import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from zarfwright.core.errors import JobError
from zarfwright.core.linking.consoles import Console
from zarfwright.core.papers import HOOKUP_COLUMNS, channel_hookup
from zarfwright.formats.csv import write_csv
from zarfwright.web.children.child import Child
from zarfwright.web.children.live import LiveLink
from zarfwright.web.desk import Desk

NAME = "Simulated console"
MOST = 6


@dataclass(frozen=True)
class Start:
    """How a console is started: empty, or with the show's patch as a channel hookup list."""

    name: str = ""
    patch: bool = True
    sacn: str = "all"
    artnet: str = ""
    priority: int = 100
    version: str = "1.6"


@dataclass
class Running:
    """One console, and what its screen showed last."""

    key: str
    name: str
    child: Child | None = None
    listening: dict[str, Any] = field(default_factory=dict)
    state: dict[str, Any] = field(default_factory=dict)
    patch: list[dict[str, Any]] = field(default_factory=list)
    levels: list[float] = field(default_factory=list)
    problem: str = ""


class SimulatedConsoles:
    """They get the channel hookup as CSV bytes if that is wanted, what is pressed on them, and nothing else of the
    show: rigs come to them by MVR-xchange, values by OSC."""

    def __init__(self, desk: Desk, live: LiveLink) -> None:
        self.desk, self.live = desk, live
        self.on_change: Callable[[Mapping[str, Console]], None] = lambda consoles: None
        self._lock = threading.Lock()
        self._running: dict[str, Running] = {}
        self._numbers = itertools.count(1)
        self._problem = ""

    def start(self, how: Start) -> str:
        """Start one; gives its key. Raises JobError when it is to have the patch and nothing is patched."""
        rows = channel_hookup(self.desk.show) if how.patch else []
        if how.patch and not rows:
            raise JobError("No fixture has an address: give addresses in Patch, or start an empty console.")
        with self._lock:
            if len(self._running) >= MOST:
                raise JobError(f"{MOST} simulated consoles run already: shut one down first.")
            key = f"simulated-{next(self._numbers)}"
            name = self._free(how.name.strip()[:60] or NAME)
            made = self._running[key] = Running(key, name)
            self._problem = ""
        made.child = Child(
            "zarfwright.standins.console.process",
            [
                "--destination", self.live.sacn_address, "--name", name, "--sacn", how.sacn, "--artnet", how.artnet,
                "--priority", str(how.priority), "--version", how.version,
            ],
            lambda message: self._hear(made, message),
            lambda: self._gone(made),
        )  # fmt: skip
        if rows:
            made.child.say({"do": "rig", "csv": write_csv(HOOKUP_COLUMNS, rows).decode("utf-8-sig")})
        self._tell()
        return key

    def _free(self, name: str) -> str:
        """A name that no other of them has: sources and stations are told apart by it."""
        taken, free, n = {one.name for one in self._running.values()}, name, 2
        while free in taken:
            free, n = f"{name} {n}", n + 1
        return free

    def running(self, key: str) -> Running:
        """One that runs. Raises JobError."""
        with self._lock:
            found = self._running.get(key)
        if found is None:
            raise JobError("That simulated console is not running: start one first.")
        return found

    def command(self, key: str, message: Mapping[str, Any]) -> None:
        """Press something on one. Raises JobError."""
        found = self.running(key)
        found.problem = ""
        if found.child is None or not found.child.say(dict(message)):
            raise JobError("The simulated console is not running: start it first.")

    def end(self, key: str) -> None:
        """Shut one down; it tells its listeners so."""
        with self._lock:
            found = self._running.pop(key, None)
        if found is not None and found.child is not None:
            found.child.end(3.0)
        self._tell()

    def close(self) -> None:
        """Shut all of them down."""
        for key in [*self._running]:
            self.end(key)

    def _hear(self, one: Running, message: dict[str, Any]) -> None:
        kind = message.pop("is", "")
        if kind == "state":
            one.state = message
        elif kind == "patch":
            one.patch = message["rows"]
        elif kind == "levels":
            one.levels = message["levels"]
        elif kind == "listening":
            one.listening = message
        elif kind == "problem":
            one.problem = str(message["text"])
        if kind == "levels":
            self.desk.feed.event("simulated levels", key=one.key, levels=one.levels)
        elif kind != "patch":
            self._tell()

    def _gone(self, one: Running) -> None:
        """It has ended, by itself or because it was asked to."""
        with self._lock:
            fell = self._running.pop(one.key, None) is not None
            if fell:
                self._problem = one.problem or f"{one.name} has ended by itself: start it again."
        self._tell()

    def consoles(self) -> dict[str, Console]:
        """Where those that run are linked."""
        with self._lock:
            running = [*self._running.values()]
        return {
            one.key: Console(
                one.name, one.listening["host"], one.listening["station"], values_port=one.listening["osc"]
            )
            for one in running
            if one.listening
        }  # fmt: skip

    def report(self) -> dict[str, Any]:
        """Which run, and what their screens show."""
        with self._lock:
            running = [*self._running.values()]
        return {
            "consoles": [
                {"key": one.key, "name": one.name, "problem": one.problem, "state": one.state or None}
                for one in running
            ],
            "problem": self._problem,
        }  # fmt: skip

    def _tell(self) -> None:
        self.on_change(self.consoles())
        self.live.tell_event("simulated", **self.report())
