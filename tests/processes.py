"""The real processes, started for a test on addresses of their own, and ended by their own ids."""

from __future__ import annotations

import itertools
import json
import os
import re
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import sacn
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    NoSuchElementException,
    StaleElementReferenceException,
)

from zarfwright.core.types.model import FixtureType
from zarfwright.formats.gdtf import write_gdtf

T = TypeVar("T")
_addresses = itertools.count(2)
# What is said of a thing that is not there yet (`next`), or of an element that is being drawn anew: to be asked for
# again. Nothing else is: a KeyError or TypeError is a fault, and forty seconds later it is still one.
NOT_YET = (
    StopIteration,
    ElementClickInterceptedException,
    ElementNotInteractableException,
    NoSuchElementException,
    StaleElementReferenceException,
)


PATIENCE_S = 90.0
"""So long a test waits for what is worth waiting for. It tells what will never come, not how fast a machine is."""
LONGEST_LOOK_S = 1.0


def wait_for(condition: Callable[[], T], what: str, seconds: float = PATIENCE_S) -> T:
    """Ask again and again until the answer is truthy; fails saying what was waited for. A machine that stands still for
    a while brings the end no nearer."""
    answer: object = None
    waited = 0.0
    while True:
        began = time.monotonic()
        try:
            found = condition()
            if found:
                return found
            answer = found
        except NOT_YET as missing:
            answer = getattr(missing, "msg", None) or repr(missing)
        if waited > seconds:
            raise AssertionError(f"waited {seconds} s for {what}; the last answer was {answer!r}")
        time.sleep(0.05)
        waited += min(time.monotonic() - began, LONGEST_LOOK_S)


def own_address() -> str:
    """A loopback address that no other test of this run listens on: sACN's port is always the same."""
    return f"127.{os.getpid() % 200 + 20}.{os.getpid() // 200 % 250}.{next(_addresses)}"


class Program:
    """The desk with its live process, over a show file."""

    def __init__(
        self,
        file: Path,
        *,
        demo: bool = True,
        whole: bool = False,
        sacn_address: str | None = None,
        port: int = 0,
        more: tuple[str, ...] = (),
    ) -> None:
        self.file = file
        self.sacn_address = sacn_address or own_address()
        part = [] if whole else ["--first-part"]
        command = ["demo", "--file", str(file), *part] if demo else ["serve", str(file)]
        self.log = file.with_suffix(f".{time.monotonic_ns()}.log")
        with self.log.open("wb") as out:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "zarfwright", *command, "--port", str(port), "--sacn", self.sacn_address, *more],
                stdout=out,
                stderr=subprocess.STDOUT,
                # What belongs to a machine, such as the shows that were open, is the test's own.
                env={**os.environ, "XDG_STATE_HOME": str(file.parent / "state")},
            )
        said = r"http://127\.0\.0\.1:(\d+)/"
        try:
            found = wait_for(lambda: re.search(said, self.output()) or self._dead(), "the address")
        except AssertionError:
            self.end()
            raise
        assert not isinstance(found, bool), self.output()
        self.port = int(found[1])
        self.show = self.get("/api/shows")[0]["id"]

    def _dead(self) -> bool:
        return self.process.poll() is not None

    def output(self) -> str:
        return self.log.read_text(errors="replace")

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def get(self, path: str) -> Any:
        url = self.url + path.replace("SHOW", getattr(self, "show", ""))
        with urllib.request.urlopen(url, timeout=PATIENCE_S) as answer:
            return json.loads(answer.read())

    def raw(self, path: str, body: Any = None) -> bytes:
        """The bytes that are answered; with a body, to a POST."""
        data = None if body is None else json.dumps(body).encode()
        url = self.url + path.replace("SHOW", self.show)
        request = urllib.request.Request(url, data, {"Content-Type": "application/json"})
        with urllib.request.urlopen(request, timeout=PATIENCE_S) as answer:
            data: bytes = answer.read()
            return data

    def post(self, path: str, body: Any, headers: dict[str, str] | None = None) -> tuple[int, Any]:
        data = body if isinstance(body, bytes) else json.dumps(body).encode()
        given = {"Content-Type": "application/json", **(headers or {})}
        request = urllib.request.Request(self.url + path.replace("SHOW", self.show), data, given)
        try:
            with urllib.request.urlopen(request, timeout=PATIENCE_S) as answer:
                return answer.status, json.loads(answer.read())
        except urllib.error.HTTPError as refused:
            return refused.code, json.loads(refused.read())

    def edit(self, kind: str, /, who: str = "tester", **args: Any) -> Any:
        status, answer = self.post("/api/shows/SHOW/edits", {"kind": kind, "args": args, "who": who})
        assert status == 200, answer
        return answer

    def look_values(self, look: str) -> Any:
        """What a look says, by fixture and feature."""
        return self.get(f"/api/shows/SHOW/looks/{look}/values")

    def add_type(self, fixture_type: FixtureType) -> str:
        """Add a fixture type as a GDTF file, as a drop on the window does; returns its id."""
        data = write_gdtf(fixture_type)
        head = f'--edge\r\nContent-Disposition: form-data; name="file"; filename="{fixture_type.name}.gdtf"\r\n\r\n'
        body = head.encode() + data + b"\r\n--edge--\r\n"
        kind = {"Content-Type": "multipart/form-data; boundary=edge"}
        before = self.document()["types"].keys()
        status, answer = self.post("/api/shows/SHOW/types", body, kind)
        assert status == 200, answer
        return str(next(key for key in self.document()["types"] if key not in before))

    def document(self) -> Any:
        return self.get("/api/shows/SHOW?who=tester")

    def signal(self) -> Any:
        return self.get("/api/shows/SHOW/signal")

    def live_pid(self) -> int:
        """The id of the live process, found as a child of ours."""
        for stat in Path("/proc").glob("[0-9]*/stat"):
            try:
                parent = stat.read_text().rsplit(")", 1)[1].split()[1]
                if parent == str(self.process.pid) and b"links.live.process" in (stat.parent / "cmdline").read_bytes():
                    return int(stat.parent.name)
            except OSError:
                continue
        return 0

    def kill(self) -> None:
        """kill -9, as a crash."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait(PATIENCE_S)

    def end(self) -> int:
        if self.process.poll() is None:
            self.process.terminate()
        return self.process.wait(PATIENCE_S)


def sender(program: Program, universe: int = 1, name: str = "Another desk", **more: Any) -> sacn.sACNsender:
    """Any other sACN sender: the `sacn` package, unicast over the loopback. The caller stops it."""
    made = sacn.sACNsender(
        source_name=name, fps=40, universeDiscovery=False, bind_address=program.sacn_address, bind_port=0, **more
    )
    made.start()
    made.activate_output(universe)
    made[universe].destination = program.sacn_address
    return made


def stop(made: sacn.sACNsender) -> None:
    """End a sender, telling its listeners so."""
    for universe in made.get_active_outputs():
        made.deactivate_output(universe)
    made.stop()
