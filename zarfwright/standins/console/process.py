"""The console as a program: commands as JSON lines in, what its screen shows as JSON lines out.

It knows of a show only what it is sent: a channel hookup list, or rigs by MVR-xchange. It ends when its input ends,
telling its listeners so, as a console does when it is shut down.
"""

from __future__ import annotations

import argparse
import json
import signal
import sys
import threading
import time
from collections.abc import Mapping
from contextlib import suppress
from typing import Any

from zarfwright.parent import end_with_parent
from zarfwright.standins.console.commands import obey
from zarfwright.standins.console.desk import Desk, Palette
from zarfwright.standins.console.found import Announced, announce
from zarfwright.standins.console.hookup import RigError
from zarfwright.standins.console.osc import Osc
from zarfwright.standins.console.output import Output, Sent, Universes
from zarfwright.standins.console.station import FEATURES, Manners, Station

FPS = 40
TELL_S, TELL_AGAIN_S, LEVELS_S = 0.1, 1.0, 0.4
NAME = "Simulated console"


def tell(message: dict[str, Any]) -> None:
    """One line out."""
    sys.stdout.write(json.dumps(message) + "\n")
    sys.stdout.flush()


class Console:
    """The desk tied to its lines: commands, sACN and Art-Net, MVR-xchange, OSC."""

    def __init__(self, sent: Sent, manners: Manners) -> None:
        self.lock = threading.RLock()
        self.ended = threading.Event()
        self.desk = Desk(sent)
        self.output = Output(sent)
        self.station = Station(self.desk, self.lock, manners, sent.host)
        self.osc = Osc(self.desk, self.lock, sent.host)
        self.osc.greeted = self._tell_all_by_osc
        self.osc.changed = self.station.changed = self.touch
        self.announced: Announced | None = None
        self._told, self._told_at, self._levels, self._levels_at, self._patched = "", 0.0, "", 0.0, -1
        self._selected: list[str] = []
        self._palettes = 0
        self._sent: dict[int, bytes] = {}
        self._touched = True

    # Commands

    def touch(self) -> None:
        """Something has changed by other means than time."""
        self._touched = True

    def do(self, command: Mapping[str, Any]) -> str | None:
        """Do one command; returns what is wrong with it, or None."""
        do = command.get("do")
        try:
            if do == "answer":
                self.station.answer(str(command["key"]), bool(command["yes"]))
            elif do == "show rig":
                self.station.show_rig(str(command.get("name") or "The patch as it is now"))
            elif do == "manners":
                self._manners(command)
            elif do == "announce":
                self._announce(bool(command["yes"]))
            else:
                with self.lock:
                    return obey(self.desk, command)
        except (RigError, KeyError, ValueError, TypeError, OSError) as wrong:
            return str(wrong)
        finally:
            self.touch()
        return None

    def _manners(self, command: Mapping[str, Any]) -> None:
        manners = self.station.manners
        if command.get("version"):
            major, _, minor = str(command["version"]).partition(".")
            manners.version = int(major), int(minor or 0)
        if command.get("features") is not None:
            manners.features = {name: FEATURES[name] for name in command["features"] if name in FEATURES}
        if command.get("asks") is not None:
            manners.asks = bool(command["asks"])
        # Who is linked is to hear of it: they join anew.
        self.station.die(True)
        self.station.die(False)

    def _announce(self, wanted: bool) -> None:
        if self.announced is not None:
            self.announced.close()
            self.announced = None
        if wanted:
            station = self.station
            self.announced = announce(self.desk.sent.name, station.key, self.desk.sent.host, station.port)

    def read(self) -> None:
        """Obey until the input ends."""
        for line in sys.stdin:
            try:
                wrong = self.do(json.loads(line))
            except ValueError as error:
                wrong = f"The console could not read that: {error}."
            if wrong:
                tell({"is": "problem", "text": wrong})
        self.ended.set()

    # Its lines

    def run(self) -> None:
        """Play until the input ends."""
        threading.Thread(target=self.read, name="console-read", daemon=True).start()
        for name in (signal.SIGTERM, signal.SIGINT):
            signal.signal(name, lambda *_: self.ended.set())
        tell({"is": "listening", "station": self.station.port, "osc": self.osc.port, "host": self.desk.sent.host})
        started = time.monotonic()
        while not self.ended.wait(1 / FPS):
            now = time.monotonic() - started
            with self.lock:
                self._frame(now)
                self._tell_by_osc()
                lines = self._lines(now)
            for line in lines:
                tell(line)
        self.station.close()
        self.osc.close()
        self.output.close()
        if self.announced is not None:
            self.announced.close()

    def _frame(self, now: float) -> None:
        desk = self.desk
        if (desk.sent, desk.faults) != (self.output.sent, self.output.faults):
            self.output.set(desk.sent, desk.faults)
        if desk.faults.dead != self.station.dead:
            self.station.die(desk.faults.dead)
        desk.playback.tick(now)
        if self._touched or desk.playback.moving or not self._sent:
            self._touched, self._sent = False, desk.playback.levels()
        self.output.send(self._sent, now)

    def _tell_by_osc(self) -> None:
        desk = self.desk
        if desk.selected != self._selected:
            self._selected = list(desk.selected)
            self._tell_selection()
        if "palettes" in self.station.manners.features:
            for one in desk.palettes[self._palettes :]:
                self._tell_palette(one)
        self._palettes = len(desk.palettes)

    def _tell_palette(self, one: Palette) -> None:
        self.osc.tell("/palette", one.kind, one.number, one.name)
        numbers = {fixture.key: fixture.number for fixture in self.desk.patch}
        for (key, function), value in one.values.items():
            number = numbers.get(key)
            if number is not None:
                self.osc.tell("/palette/value", one.number, number, function, float(value))

    def _tell_selection(self) -> None:
        numbers = [one.number for one in self.desk.patch if one.key in set(self._selected) and one.number is not None]
        if "selection" in self.station.manners.features:
            self.osc.tell("/selection", *numbers)

    def _tell_all_by_osc(self) -> None:
        self._palettes = 0
        self._tell_selection()

    def _lines(self, now: float) -> list[dict[str, Any]]:
        """What its screen shows, where it changed; also when nothing changed, so that who comes late sees it."""
        lines: list[dict[str, Any]] = []
        if self.desk.patched != self._patched:
            self._patched = self.desk.patched
            lines.append({"is": "patch", "rows": self.desk.rows()})
        if now - self._levels_at > LEVELS_S:
            self._levels_at, levels = now, self._intensities()
            if (text := json.dumps(levels)) != self._levels:
                self._levels = text
                lines.append({"is": "levels", "levels": levels})
        if now - self._told_at > TELL_S:
            heard = {"port": self.osc.port, "came": self.osc.came, "problem": self.osc.problem}
            state = {**self.desk.state(), "station": self.station.told(), "osc": heard}
            state["announced"] = self.announced is not None
            text = json.dumps(state)
            if text != self._told or now - self._told_at > TELL_AGAIN_S:
                self._told = text
                lines.append({"is": "state", **state})
                self._told_at = now
        return lines

    def _intensities(self) -> list[float]:
        """How bright each fixture of the patch is sent, in the order of its rows."""
        levels = self.desk.playback.intensities()
        return [levels[one.key] for one in self.desk.patch]


def main() -> int:
    """Run the console."""
    parser = argparse.ArgumentParser(prog="zarfwright-console")
    parser.add_argument("--destination", default="127.0.0.1")
    parser.add_argument("--name", default=NAME)
    parser.add_argument("--sacn", default="all", help="universes, such as 1-3, 7")
    parser.add_argument("--artnet", default="")
    parser.add_argument("--priority", type=int, default=100)
    parser.add_argument("--version", default="1.6", help="of MVR, as it says")
    args = parser.parse_args()
    end_with_parent()
    try:
        sent = Sent(args.name, Universes(args.sacn), Universes(args.artnet), args.priority, args.destination)
    except ValueError as wrong:
        tell({"is": "problem", "text": str(wrong)})
        return 1
    major, _, minor = args.version.partition(".")
    with suppress(KeyboardInterrupt):
        Console(sent, Manners((int(major), int(minor or 0)))).run()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
