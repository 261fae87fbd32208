"""Random kills of the desk and of its live process in the middle of edits: nothing acknowledged is lost, nothing is
left running, and the picture comes back. `python -m bench.crash [--kills 40] [--seed 7]`."""

from __future__ import annotations

import argparse
import itertools
import os
import signal
import sys
import tempfile
import threading
import time
import urllib.error
from contextlib import suppress
from dataclasses import dataclass, field
from http.client import HTTPException
from pathlib import Path
from random import Random

from tests.processes import Program, wait_for
from zarfwright.demo.build import build_first_part

EDITORS = 3


def processes() -> dict[int, int]:
    """The parent of every process that is there and is more than an entry in a table."""
    found = {}
    for stat in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError, IndexError):
            state, parent = stat.read_text().rsplit(")", 1)[1].split()[:2]
            if state != "Z":
                found[int(stat.parent.name)] = int(parent)
    return found


def below(pid: int) -> set[int]:
    """A process's children, theirs, and so on."""
    parents = processes()
    found, new = set(), {pid}
    while new:
        new = {child for child, parent in parents.items() if parent in new} - found
        found |= new
    return found


@dataclass
class Result:
    """What came of it."""

    kills: dict[str, int] = field(default_factory=lambda: {"desk": 0, "live process": 0})
    acknowledged: int = 0
    lost: list[str] = field(default_factory=list)
    left: list[int] = field(default_factory=list)
    back_s: list[float] = field(default_factory=list)
    """How long it took until edits were taken, or a new live process spoke, again."""


class Editors:
    """People who add and remove decks as fast as they are answered; `kept` has what the desk said it has taken."""

    def __init__(self, program: Program) -> None:
        self.program = program
        self.kept: dict[str, str] = {}
        """Deck ids by their names."""
        self.gone: set[str] = set()
        self.count = 0
        self._numbers = itertools.count()
        self._lock = threading.Lock()
        self._stopping = threading.Event()
        self._threads: list[threading.Thread] = []

    def begin(self) -> None:
        self._stopping.clear()
        self._threads = [threading.Thread(target=self._edit, args=(f"editor {n}",)) for n in range(EDITORS)]
        for thread in self._threads:
            thread.start()

    def end(self) -> None:
        self._stopping.set()
        for thread in self._threads:
            thread.join()

    def _edit(self, who: str) -> None:
        while not self._stopping.is_set():
            name = f"{who}, {next(self._numbers)}"
            try:
                status, made = self._post(who, "add deck", {"name": name})
                if status == 200:
                    with self._lock:
                        self.kept[name] = made["select"][0]
                        self.count += 1
                old = next((one for one in self.kept if one.startswith(who) and len(self.kept) > 60), None)
                if old is not None:
                    # Taken out before it is asked: whether it is there is known only with the answer.
                    with self._lock:
                        thing = self.kept.pop(old)
                    if self._post(who, "remove", {"ids": [thing]})[0] == 200:
                        with self._lock:
                            self.gone.add(old)
                            self.count += 1
            except (OSError, urllib.error.URLError, HTTPException, ValueError):
                # It was killed: whoever edits tries again a moment later.
                self._stopping.wait(0.05)

    def _post(self, who: str, kind: str, args: dict[str, object]) -> tuple[int, dict[str, list[str]]]:
        return self.program.post("/api/shows/SHOW/edits", {"kind": kind, "args": args, "who": who})


def lost(program: Program, editors: Editors) -> list[str]:
    """What was acknowledged and is not so."""
    decks = {row["body"]["name"] for row in program.document()["objects"] if row["kind"] == "deck"}
    return [*(editors.kept.keys() - decks), *(f"{name} came back" for name in editors.gone & decks)]


def left_of(children: set[int], seconds: float) -> list[int]:
    """Those of some processes that are still there after so long."""
    end = time.monotonic() + seconds
    while (left := children & processes().keys()) and time.monotonic() < end:
        time.sleep(0.05)
    return sorted(left)


def kill_desk(editors: Editors, stopped: bool) -> list[int]:
    """kill -9 of the desk, with its live process hanging where `stopped`; then it is started again. What was left."""
    was = editors.program
    children = below(was.process.pid)
    if stopped and (live := was.live_pid()):
        os.kill(live, signal.SIGSTOP)
    was.kill()
    editors.end()
    left = left_of(children, 10)
    editors.program = Program(was.file, port=was.port, demo=False, sacn_address=was.sacn_address)
    return left


def kill_live(editors: Editors, stopped: bool) -> None:
    """The live process ended, or hanging; edits go on meanwhile."""
    program = editors.program
    before = program.live_pid()
    os.kill(before, signal.SIGSTOP if stopped else signal.SIGKILL)
    wait_for(lambda: program.live_pid() not in (0, before), "a new live process", 20)
    editors.end()


def crash(kills: int, seed: int, folder: Path) -> Result:
    """Do so many kills, at moments and of processes by dice."""
    dice, result = Random(seed), Result()
    file = folder / "crash.zarf"
    build_first_part(file)
    editors = Editors(Program(file, demo=False))
    try:
        for _ in range(kills):
            editors.program.post("/api/shows/SHOW/console", {"do": "start"})
            editors.begin()
            time.sleep(dice.uniform(0.1, 0.8))
            of_desk, stopped = dice.random() < 0.5, dice.random() < 0.3
            result.kills["desk" if of_desk else "live process"] += 1
            began = time.monotonic()
            if of_desk:
                result.left += kill_desk(editors, stopped)
            else:
                kill_live(editors, stopped)
            result.back_s.append(time.monotonic() - began)
            result.lost += lost(editors.program, editors)
    finally:
        editors.end()
        children = below(editors.program.process.pid)
        editors.program.end()
    result.left += left_of(children, 10)
    result.acknowledged = editors.count
    return result


def main() -> int:
    parser = argparse.ArgumentParser(prog="bench.crash")
    parser.add_argument("--kills", type=int, default=40)
    parser.add_argument("--seed", type=int, default=7)
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        result = crash(args.kills, args.seed, Path(folder))
    print(f"kills: {result.kills}; edits acknowledged: {result.acknowledged}; lost: {len(result.lost)}")
    middle, most = sorted(result.back_s)[len(result.back_s) // 2], max(result.back_s)
    print(f"processes left: {len(result.left)}; back after {middle:.1f} s in the middle, {most:.1f} s at most")
    for one in result.lost:
        print(f"  lost: {one}")
    return 1 if result.lost or result.left else 0


if __name__ == "__main__":
    sys.exit(main())
