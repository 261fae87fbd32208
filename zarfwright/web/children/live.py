"""The desk's end of the live process: starts it, watches it, starts it again, and talks to it."""

from __future__ import annotations

import base64
import itertools
import logging
import os
import secrets
import threading
import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import orjson
from itsdangerous import URLSafeTimedSerializer

from zarfwright.core.errors import JobError
from zarfwright.core.looks.said import Said
from zarfwright.links.live.serve import TICKET_SALT
from zarfwright.parent import ending_with_parent
from zarfwright.web.children.child import Child

ANSWER_S, RECORDED_S, WRITTEN_S = 2.0, 6.0, 60.0
PAUSE_S = 0.1
LOOK_S = 0.25
SILENT_MOST_S = 1.25
"""Longer than five beats: it hangs. Looking for it and starting another come to two seconds with this."""
START_MOST_S = 8.0
"""So long it may take to start; twice as long after each time that this was not enough: the machine may be slow."""
TROUBLE_AGAIN_S = 30.0
log = logging.getLogger(__name__)


class LiveLink:
    """One live process after another, as long as the desk runs. One that ends is started again; so is one that hangs,
    once it is ended."""

    def __init__(self, host: str, origins: list[str], sacn_address: str, more: Sequence[str] = ()) -> None:
        """`more`: further arguments of the live process, such as its ports."""
        self.secret = secrets.token_hex(32)
        self.signer = URLSafeTimedSerializer(self.secret, salt=TICKET_SALT)
        self.args = ["--host", host, "--sacn-address", sacn_address, *more, "--desk", str(os.getpid())]
        for origin in origins:
            self.args += ["--origin", origin]
        self.sacn_address = self.laser_address = sacn_address
        self.port = 0
        self.pid = 0
        self.starts = 0
        self.status: dict[str, Any] = {}
        self.levels: dict[str, str] = {}
        self.on_start: Callable[[], None] = lambda: None
        self.on_capturing: Callable[[int], None] = lambda packets: None
        """Called while a recording is made, with the packets that it holds by then."""
        self.on_run: Callable[[dict[str, Any]], None] = lambda run: None
        """Called with where the running order stands, whenever that is told."""
        self._ready, self._beat = threading.Event(), threading.Event()
        self._asks = itertools.count(1)
        self.poses_lately: dict[str, list[float]] = {}
        """Where drivers had brought what they move, as it was told last: not half a second ago."""
        self._answers: dict[int, dict[str, Any]] = {}
        self._awaited: set[int] = set()
        self._answered = threading.Condition()
        self._lock = threading.Lock()
        self._closing = False
        self._started = threading.Event()
        self._child: Child
        self._trouble, self._told_at = "", 0.0
        # This thread starts them all, for they end with the thread that did (parent.py).
        threading.Thread(target=self._keep, name="keep-live", daemon=True).start()
        self._started.wait()

    def _keep(self) -> None:
        late = 0
        while True:
            gone = threading.Event()
            with self._lock:
                if self._closing:
                    return
                self._ready.clear()
                self.starts += 1
                child = Child("zarfwright.links.live.process", self.args, self._hear, gone.set, ending_with_parent())
                child.say_line(self.secret.encode())
                self._child = child
            self._started.set()
            self._watch(child, gone, START_MOST_S * 2**late)
            late = 0 if self._ready.is_set() else min(late + 1, 5)
            time.sleep(PAUSE_S)

    def _watch(self, child: Child, gone: threading.Event, start_most_s: float) -> None:
        """Until it is gone; one that is silent for too long is ended. Looks are counted, not time: while this process
        itself stood still, nothing was missed."""
        silent = 0.0
        while not gone.wait(LOOK_S):
            silent = 0.0 if self._beat.is_set() else silent + LOOK_S
            self._beat.clear()
            if silent > (SILENT_MOST_S if self._ready.is_set() else start_most_s):
                log.warning("the live process did not answer for %.1f s: it is started again", silent)
                child.kill()

    def _hear(self, message: dict[str, Any]) -> None:
        kind = message.get("is")
        if kind == "ready":
            self.port, self.pid = message["port"], message["pid"]
            # A sign of life like any other: how long it took to start is not held against it.
            self._beat.set()
            self._ready.set()
            if self.starts > 1:
                self._child.say({"do": "restore", "levels": self.levels})
                self.on_start()
        elif kind == "run":
            self.on_run(message["run"])
        elif kind == "beat":
            self._beat.set()
        elif kind == "status":
            self.status = message["status"]
            self.levels.update(message["levels"])
            self.poses_lately = message["poses"]
        elif kind == "answer":
            with self._answered:
                # One that nobody waits for any more is let go.
                if message["ask"] in self._awaited:
                    self._answers[message["ask"]] = message
                    self._answered.notify_all()
        elif kind == "capturing":
            self.on_capturing(message["packets"])
        elif kind == "problem":
            self._tell_trouble(message["text"])

    def _tell_trouble(self, text: str) -> None:
        """To the log and to every browser; what goes wrong with every frame is not told with each."""
        at = time.monotonic()
        if text != self._trouble or at - self._told_at > TROUBLE_AGAIN_S:
            self._trouble, self._told_at = text, at
            log.warning("%s", text)
            self.tell_event("trouble", text=text)

    def wait_ready(self, seconds: float = 10.0) -> bool:
        return self._ready.wait(seconds)

    def ticket(self) -> str:
        """A signed ticket that opens the socket for a minute."""
        return str(self.signer.dumps(secrets.token_hex(8)))

    # LivePicture

    def set_patch(self, number: int, types: dict[str, Any], rows: list[list[Any]]) -> None:
        self._child.say({"do": "patch", "rig": number, "types": types, "rows": rows})

    def drive(
        self,
        look: str | None,
        hands: dict[str, Any] | None,
        follow: bool,
        fixed: dict[str, Any] | None = None,
        first: bool = False,
    ) -> None:
        told = {"look": look, "hands": hands, "follow": follow, "fixed": fixed, "first": first}
        self._child.say({"do": "drive", **told})

    def carry(self, plan: dict[str, Any], number: int) -> None:
        self._child.say({"do": "carry", "plan": plan, "number": number})

    def set_lasers(self, heads: list[dict[str, Any]], number: int) -> None:
        self._child.say({"do": "lasers", "heads": heads, "number": number})

    def set_laser_files(self, files: dict[str, list[str]], wanted: list[str]) -> None:
        self._child.say({"do": "laser files", "files": files, "wanted": wanted})

    def test_lasers(self, heads: list[str], alone: str | None) -> None:
        self._child.say({"do": "test lasers", "heads": heads, "alone": alone})

    def say_look(self, key: str, text: str) -> None:
        self._child.say({"do": "say look", "key": key, "text": text})

    def set_run(self, run: dict[str, Any]) -> None:
        self._child.say({"do": "run", **run})

    def command_run(self, command: str, value: float | None) -> None:
        self._child.say({"do": "transport", "command": command, "value": value})

    def set_connections(self, connections: list[dict[str, Any]], only: str | None) -> None:
        self._child.say({"do": "connections", "list": connections, "only": only})

    def leave_room(self, spare: bool) -> None:
        self._child.say({"do": "leave room", "spare": spare})

    def tell(self, text: str) -> None:
        self._child.say({"do": "event", "text": text})

    def tell_event(self, event: str, **content: Any) -> None:
        self.tell(orjson.dumps({"event": event, **content}).decode())

    def values(self) -> Said:
        """What every fixture shows now. Raises JobError when the live process does not answer."""
        return Said(self._ask("values", ANSWER_S)["values"])

    def poses(self) -> dict[str, list[float]]:
        """Where drivers have brought what they move, by the id of its thing. Raises JobError when it does not
        answer."""
        found: dict[str, list[float]] = self._ask("poses", ANSWER_S)["poses"]
        return found

    def heard(self) -> tuple[dict[int, bytes], list[int]]:
        """The levels of every universe as they are now, and which universes are heard. Raises JobError when the live
        process does not answer."""
        came = self._ask("levels", ANSWER_S)
        return {int(u): base64.b64decode(held) for u, held in came["levels"].items()}, list(came["live"])

    def record(self, seconds: float) -> dict[str, Any]:
        """Let it listen for so long: the facts for the doctor, as they are told (links/live/record.py). Raises JobError
        when it does not answer."""
        facts: dict[str, Any] = self._ask("record", seconds + RECORDED_S, seconds=seconds)["facts"]
        return facts

    def begin_capture(self, seconds: float, path: Path) -> int:
        """Let it keep what comes in for so long, and write it to a file; `captured` waits for that."""
        return self._say_ask("capture", seconds=seconds, path=str(path))

    def captured(self, ask: int, seconds: float) -> dict[str, Any]:
        """What came of it: how many packets, whether it became full, and what went wrong. Raises JobError when it does
        not answer."""
        return self._answer(ask, seconds + WRITTEN_S)

    def end_capture(self) -> None:
        """Let it keep what it has so far."""
        self._child.say({"do": "end capture"})

    def _ask(self, do: str, wait_s: float, **more: Any) -> dict[str, Any]:
        return self._answer(self._say_ask(do, **more), wait_s)

    def _say_ask(self, do: str, **more: Any) -> int:
        ask = next(self._asks)
        self._awaited.add(ask)
        self._ready.wait(ANSWER_S)
        self._child.say({"do": do, "ask": ask, **more})
        return ask

    def _answer(self, ask: int, wait_s: float) -> dict[str, Any]:
        with self._answered:
            came = self._answered.wait_for(lambda: ask in self._answers, wait_s)
            self._awaited.discard(ask)
            if not came:
                raise JobError("The picture is being restarted: try again in a moment.")
            return self._answers.pop(ask)

    def close(self) -> None:
        """End it for good."""
        with self._lock:
            self._closing = True
        self._child.end()
