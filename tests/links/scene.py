"""A rig, connections and consoles whose packets are real and whose time is turned by hand: minutes pass at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from types import SimpleNamespace

from tests.conftest import Workbench
from tests.links.test_artnet import dmx
from tests.links.test_sacn import packet
from zarfwright.core.connections import Connection, Interface
from zarfwright.core.doctor.diagnosis import diagnose
from zarfwright.core.doctor.facts import Cause, Facts
from zarfwright.core.patch import patch_rows
from zarfwright.links.live import clock
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.inputs import heard_now
from zarfwright.links.live.playing import live_rig
from zarfwright.links.live.receive import Elsewhere
from zarfwright.links.live.record import Recorder, facts_read, facts_told

LO = Interface("lo", "127.0.0.1", 8)
ETH = Interface("eth0", "10.0.0.5", 24)
FRAME = 1 / 40
BEGAN = 1000.0
Levels = Callable[[float], list[int]]


@dataclass
class Console:
    """Sends one universe by sACN or Art-Net; `levels` of a time in seconds, `sends` says when."""

    universe: int
    levels: Levels
    name: str = "Quay"
    protocol: str = "sACN"
    priority: int = 100
    rate: float = 40.0
    on: str = "127.0.0.1"
    sends: Callable[[float], bool] = lambda at: True
    options: dict[str, object] = field(default_factory=dict)
    sequence: int = 0
    due: float = 0.0
    steps: int = 1
    """By how many each sequence number goes on: 2: every other packet goes astray."""
    numbered: bool = True
    """By Art-Net: whether packets have a sequence number."""

    def packets(self, at: float) -> list[tuple[tuple[str, str], bytes]]:
        if not self.sends(at) or at < self.due - 1e-6:
            return []
        self.due = at + 1 / self.rate
        self.sequence += self.steps
        key = (self.protocol, self.on)
        if self.protocol == "Art-Net":
            sequence = self.sequence % 255 + 1 if self.numbered else 0
            return [(key, dmx(self.universe, (self.levels(at) + [0, 0])[:512], sequence))]
        made = packet(
            self.universe, self.levels(at), self.name, self.priority, self.sequence % 256,
            self.name.encode().ljust(16), **self.options,
        )  # fmt: skip
        return [(key, bytes(made))]

    def ends(self) -> tuple[tuple[str, str], bytes]:
        """The packet that says that it ends."""
        self.sequence += 1
        made = packet(
            self.universe, [0], self.name, self.priority, self.sequence % 256, self.name.encode().ljust(16),
            terminated=True,
        )  # fmt: skip
        return ("sACN", self.on), bytes(made)


class Scene:
    """What a doctor would meet; `bench` is the show."""

    def __init__(self, monkeypatch) -> None:
        self.bench = Workbench()
        self.at = BEGAN
        monkeypatch.setattr(clock, "now", lambda: self.at)
        self.consoles: list[Console] = []
        self.connections: list[tuple[str, Connection]] = [("as started sACN", Connection("As started", "sACN"))]
        self.interfaces = [LO, ETH]
        self.receiver = SimpleNamespace(problems={}, refused={}, elsewhere={}, kernel_drops=lambda: self.drops)
        self.drops = 0
        self.elsewhere: dict[tuple[str, str], tuple[int, ...]] = {}
        self.ending: dict[float, Console] = {}

    def patch(self, count: int = 6, start: str = "1.001", kind: str = "dunlin", mode: str = "Standard") -> list[str]:
        """Fixtures in a row of addresses."""
        made = [
            self.bench.made("place free", type=kind, mode=mode, position=[x, 0, 5], number=self.number + x)
            for x in range(1, count + 1)
        ]
        self.bench.do("address", ids=made, start=start)
        return made

    @property
    def number(self) -> int:
        return sum(1 for _ in self.bench.show.fixtures())

    def connect(self, *connections: Connection) -> None:
        self.connections = [(one.name, one) for one in connections]

    def listen(self, seconds: float = 10.0) -> Facts:
        """Let the consoles play, and say what was seen."""
        engine = Engine(clock=lambda: self.at)
        engine.set_rig(live_rig(1, patch_rows(self.bench.show)))
        engine.set_connections(heard_now(self.connections, self.bench.show.settings.only_connection, self.interfaces))
        hearing = SimpleNamespace(receiver=self.receiver, interfaces=lambda: self.interfaces)
        recorder = Recorder(engine, hearing)
        began = self.at
        for (protocol, address), universes in self.elsewhere.items():
            self.receiver.elsewhere[protocol, address] = Elsewhere(protocol, address, 9, "10.0.0.77", {*universes})
        for frame in range(round(seconds / FRAME)):
            self.at = began + frame * FRAME
            for console in self.consoles:
                for key, data in console.packets(self.at - BEGAN):
                    engine.packet(key, data, console.on if console.protocol == "sACN" else "127.0.0.9", self.at)
            for when in [when for when in self.ending if when <= self.at - began]:
                key, data = self.ending.pop(when).ends()
                engine.packet(key, data, "127.0.0.1", self.at)
            engine.check_lost(self.at)
            recorder.sample()
        self.at = began + seconds
        # As it goes to the desk.
        return facts_read(facts_told(recorder.facts()))

    def causes(self, seconds: float = 10.0) -> list[Cause]:
        return diagnose(self.listen(seconds), self.bench.show)

    def names(self, seconds: float = 10.0) -> list[str]:
        return sorted({one.cause for one in self.causes(seconds)})


def wash(count: int, dimmer: int = 200, start: int = 1, **slots: int) -> list[int]:
    """Levels of so many washes in the mode Standard (11 slots) from a slot on: open, warm, pointing somewhere."""
    one = [100, 7, 120, 9, dimmer, 32, 255, 120, 60, 0, 128]
    for name, level in slots.items():
        one[("pan", "pan fine", "tilt", "tilt fine", "dimmer", "shutter", "r", "g", "b", "w").index(name)] = level
    return [0] * (start - 1) + one * count
