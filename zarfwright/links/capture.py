"""Traffic that is kept as it comes in."""

from __future__ import annotations

import threading
from collections.abc import Iterable
from dataclasses import dataclass

from zarfwright.links import artnet, sacn

KEPT_MOST = 200_000
"""Datagrams of one recording: about 20 s of 240 universes, minutes of a few."""
Place = tuple[str, int]
PORTS = {sacn.PORT: "sACN", artnet.PORT: "Art-Net"}


@dataclass(frozen=True, slots=True)
class Datagram:
    """One datagram: when it came (seconds since the epoch), from where, to where."""

    at: float
    sender: Place
    target: Place
    data: bytes

    @property
    def protocol(self) -> str:
        """By what it says it is, else by its port; empty for one that is none of ours."""
        if self.data[4:16] == sacn.IDENTIFIER:
            return "sACN"
        if self.data.startswith(artnet.IDENTIFIER):
            return "Art-Net"
        return PORTS.get(self.target[1], "")


class Tap:
    """Keeps what comes in until it is full or ended. The receive thread adds, another one waits."""

    def __init__(self) -> None:
        self.kept: list[Datagram] = []
        self.over = threading.Event()
        self.full = False

    def add(self, found: Iterable[Datagram]) -> None:
        if self.over.is_set():
            return
        self.kept += found
        if len(self.kept) >= KEPT_MOST:
            self.full = True
            self.over.set()
