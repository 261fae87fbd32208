"""The console as a program: JSON lines in and out, sACN to one address.

The first line is `{"do": "rig", "csv": "..."}`: the channel hookup list is all it knows. It ends when its input ends,
telling its listeners so, as a console does when it is shut down.
"""

from __future__ import annotations

import argparse
import json
import signal
import sys
import threading
import time
from typing import Any

import sacn

from zarfwright.parent import end_with_parent
from zarfwright.standins.console.playback import Playback
from zarfwright.standins.console.rig import RigError, read_rig

FPS = 40
TELL_EVERY_S = 1.0
NAME = "Simulated console"


def tell(message: dict[str, Any]) -> None:
    """One line out."""
    sys.stdout.write(json.dumps(message) + "\n")
    sys.stdout.flush()


class Console:
    """Playback tied to a sender and to the two pipes."""

    def __init__(self, playback: Playback, destination: str, name: str) -> None:
        self.playback = playback
        self.lock = threading.Lock()
        self.ended = threading.Event()
        self.told = ""
        self.sender = sacn.sACNsender(
            source_name=name, fps=FPS, universeDiscovery=False, bind_address=destination, bind_port=0
        )
        self.sender.start()
        for universe in {fixture.universe for fixture in playback.rig}:
            self.sender.activate_output(universe)
            self.sender[universe].destination = destination

    def read(self) -> None:
        """Obey until the input ends."""
        for line in sys.stdin:
            try:
                with self.lock:
                    wrong = self.playback.obey(json.loads(line))
            except (ValueError, KeyError, TypeError) as error:
                wrong = f"The console could not do that: {error}."
            if wrong:
                tell({"is": "problem", "text": wrong})
        self.ended.set()

    def run(self) -> None:
        """Play until the input ends."""
        threading.Thread(target=self.read, name="console-read", daemon=True).start()
        for name in (signal.SIGTERM, signal.SIGINT):
            signal.signal(name, lambda *_: self.ended.set())
        started, told_at = time.monotonic(), 0.0
        while not self.ended.wait(1 / FPS):
            with self.lock:
                self.playback.tick(time.monotonic() - started)
                for universe, slots in self.playback.levels().items():
                    self.sender[universe].dmx_data = tuple(slots)
                state = json.dumps(self.playback.state())
            # Also when nothing changed, so that who comes late sees its screen.
            if state != self.told or time.monotonic() - told_at > TELL_EVERY_S:
                self.told, told_at = state, time.monotonic()
                tell({"is": "state", **json.loads(state)})
        # Three packets that say so, as the standard asks, for each universe.
        for universe in self.sender.get_active_outputs():
            self.sender.deactivate_output(universe)
        self.sender.stop()


def main() -> int:
    """Run the console."""
    parser = argparse.ArgumentParser(prog="zarfwright-console")
    parser.add_argument("--destination", default="127.0.0.1")
    parser.add_argument("--name", default=NAME)
    args = parser.parse_args()
    end_with_parent()
    try:
        first = json.loads(sys.stdin.readline())
        rig = read_rig(first["csv"].encode())
    except (RigError, ValueError, KeyError) as wrong:
        tell({"is": "problem", "text": str(wrong)})
        return 1
    Console(Playback(rig), args.destination, args.name).run()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
