"""A recording, sent again as it came: a program of its own, so that it is heard by the way everything is heard.

`python -m zarfwright.links.replay FILE --sacn ADDRESS --artnet ADDRESS [--speed 1] [--loop]` tells JSON lines on
stdout: `{"is": "at", "seconds", "packets"}` four times a second, `{"is": "end"}`. Ends when its stdin is closed.
"""

from __future__ import annotations

import argparse
import ipaddress
import json
import socket
import sys
import threading
import time
from collections.abc import Callable, Mapping
from pathlib import Path

from zarfwright.core.errors import JobError
from zarfwright.links.capture import Datagram
from zarfwright.links.pcap import Captured, read_capture

STEP_S = 0.25
LONGEST_PAUSE_S = 10.0
"""A longer silence in a recording is cut to this: nobody waits for it."""
SENDERS = "127.88.0"


class Replay:
    """Sends datagrams to where each protocol is heard. On the loopback every sender of the recording gets an address of
    its own, so that they stay apart."""

    def __init__(self, targets: Mapping[str, str], said: Callable[[float, int], None] = lambda at, sent: None) -> None:
        self.targets, self.said = targets, said
        self.ports: Mapping[str, int] = {}
        """By protocol, where they are others than those that the datagrams went to."""
        self.ending = threading.Event()
        self.sent = 0
        self._sockets: dict[tuple[str, str], socket.socket] = {}

    def play(self, captured: Captured, speed: float = 1.0) -> None:
        """Send all of it at its pace, until it is over or `ending` is set."""
        began, first = time.monotonic(), captured.datagrams[0].at
        told, before, cut = 0.0, first, 0.0
        for one in captured.datagrams:
            cut += max(one.at - before - LONGEST_PAUSE_S, 0.0)
            before = one.at
            due = (one.at - first - cut) / speed
            while (left := due - (time.monotonic() - began)) > 0:
                if self.ending.wait(min(left, STEP_S)):
                    return
                told = self._tell(told, min((time.monotonic() - began) * speed, one.at - first))
            if self.ending.is_set():
                return
            self._send(one)
            told = self._tell(told, one.at - first)
        self.said(captured.seconds, self.sent)

    def _tell(self, told: float, at: float) -> float:
        if at - told < STEP_S:
            return told
        self.said(at, self.sent)
        return at

    def _send(self, one: Datagram) -> None:
        target = self.targets.get(one.protocol)
        if target:
            self._socket(one.sender[0], target).sendto(one.data, (target, self.ports.get(one.protocol, one.target[1])))
            self.sent += 1

    def _socket(self, sender: str, target: str) -> socket.socket:
        made = self._sockets.get((sender, target))
        if made is None:
            made = self._sockets[sender, target] = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
            if ipaddress.IPv4Address(target).is_loopback and len(self._sockets) < 255:
                made.bind((f"{SENDERS}.{len(self._sockets)}", 0))
        return made

    def close(self) -> None:
        for one in self._sockets.values():
            one.close()


def main() -> int:
    """Play a file and say how far it is."""
    parser = argparse.ArgumentParser(prog="zarfwright-replay")
    parser.add_argument("file")
    parser.add_argument("--sacn", default="127.0.0.1")
    parser.add_argument("--artnet", default="127.0.0.1")
    parser.add_argument("--speed", type=float, default=1.0)
    parser.add_argument("--loop", action="store_true")
    args = parser.parse_args()

    def tell(**message: object) -> None:
        print(json.dumps(message), flush=True)

    def tell_at(seconds: float, packets: int) -> None:
        tell(**{"is": "at", "seconds": round(seconds, 2), "packets": packets})

    replay = Replay({"sACN": args.sacn, "Art-Net": args.artnet}, tell_at)

    def until_closed() -> None:
        sys.stdin.buffer.read()
        replay.ending.set()

    threading.Thread(target=until_closed, daemon=True).start()
    try:
        captured = read_capture(Path(args.file).read_bytes(), Path(args.file).name)
        while True:
            replay.play(captured, args.speed)
            if replay.ending.is_set() or not args.loop:
                break
    except (JobError, OSError) as wrong:
        tell(**{"is": "problem", "text": str(wrong)})
    replay.close()
    tell(**{"is": "end", "packets": replay.sent})
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
