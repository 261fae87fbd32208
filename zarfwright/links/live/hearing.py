"""What is listened to: the show's connections on the interfaces of this machine as they are now."""

from __future__ import annotations

import threading
from collections.abc import Mapping, Sequence
from typing import Any

from zarfwright.core.connections import LOOPBACK, PROTOCOLS, Connection, Interface, Protocol
from zarfwright.links import artnet, sacn
from zarfwright.links.interfaces import interfaces
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.inputs import Heard, heard_now
from zarfwright.links.live.receive import Receiver, Wanted
from zarfwright.links.live.report import connection_told

AS_STARTED = "as started"
"""How the ids of connections begin that are heard where a show has none."""
PORTS = {"sACN": sacn.PORT, "Art-Net": artnet.PORT}
Named = tuple[str, Connection]


def as_seen(own: str, found: Sequence[Interface]) -> list[Interface]:
    """The interfaces, with the loopback at the address of it that this program was started with."""
    if any(one.address == own for one in found) or not own.startswith("127."):
        return list(found)
    return [Interface(LOOPBACK, own, 8), *(one for one in found if not one.loopback)]


def as_started(protocol: Protocol, own: str, found: Sequence[Interface]) -> Named:
    """What is heard where a show has no connections: all that is sent to this machine's own address."""
    name = next((one.name for one in as_seen(own, found) if one.address == own), LOOPBACK)
    first, last = PROTOCOLS[protocol]
    return f"{AS_STARTED} {protocol}", Connection("As started", protocol, name, own, first, last, multicast=False)


def connections_of(told: Sequence[Mapping[str, Any]]) -> list[Named]:
    """Connections as the desk tells them."""
    return [(one["id"], Connection(**one["connection"])) for one in told]


class Hearing:
    """Keeps the sockets at what the show wants and the machine has."""

    def __init__(
        self, engine: Engine, own: Mapping[str, str], ports: Mapping[str, int], started: Sequence[Protocol] = ("sACN",)
    ) -> None:
        """`own`: this machine's own address by protocol; `started`: what is heard where a show has no connections."""
        self.engine, self.own, self.ports, self.started = engine, own, ports, started
        self._around = 0
        """How many want to know what comes to other addresses."""
        self.receiver = Receiver(engine.packets, engine.answers, ports)
        self._asked: list[Named] | None = None
        self._only: str | None = None
        self._seen: tuple[Any, ...] = ()
        self._lock = threading.Lock()
        self._found: list[Interface] = []

    def start(self) -> None:
        """Listen, at first as started."""
        self.look()
        self.receiver.start()

    def set(self, connections: list[Named], only: str | None) -> None:
        """Listen to these."""
        with self._lock:
            self._asked, self._only = connections or None, only
        self.look()

    def listen_around(self, on: bool) -> None:
        """Whether also to note what comes to other addresses by protocols that no connection speaks: until each who
        wanted it has had enough."""
        with self._lock:
            self._around += 1 if on else -1
        self.look()

    def look(self) -> None:
        """Look whether interfaces, patch or connections have changed, and follow."""
        with self._lock:
            found = interfaces()
            asked = self._asked or [as_started(protocol, self.own[protocol], found) for protocol in self.started]
            seen = (found, asked, self._only)
            if seen != self._seen:
                self._seen, self._found = seen, found
                self.engine.set_connections(self._heard(asked, found))
            with self.engine.lock:
                groups = self.engine.inputs.groups(self.engine.playing.rig.universes)
                heard = tuple(self.engine.inputs.heard)
            joined = {key: frozenset(all_of) for key, all_of in groups.items()}
            around = frozenset[str](PROTOCOLS if self._around else ())
            self.receiver.listen_to(Wanted(heard, joined, around))

    def _heard(self, asked: Sequence[Named], found: Sequence[Interface]) -> list[Heard]:
        heard = {
            protocol: {one.id: one for one in heard_now(asked, self._only, as_seen(own, found))}
            for protocol, own in self.own.items()
        }
        return [heard[one.protocol][key] for key, one in asked]

    def interfaces(self) -> list[Interface]:
        """Those that there are to choose from."""
        return as_seen(self.own["sACN"], self._found)

    def report(self) -> dict[str, Any]:
        """How the connections are, and which interfaces there are to choose from."""
        inputs = self.engine.inputs
        problems, refused = dict(self.receiver.problems), dict(self.receiver.refused)
        told = [
            connection_told(inputs, one, *(texts.get(one.key, "") if one.key else "" for texts in (problems, refused)))
            for one in inputs.heard
        ]
        return {
            "connections": told,
            "interfaces": [{**vars(one), "loopback": one.loopback} for one in self.interfaces()],
            "elsewhere": [
                {**vars(one), "universes": sorted(one.universes)} for one in [*self.receiver.elsewhere.values()]
            ],
            "kernel_drops": self.receiver.kernel_drops(),
            "problem": next(iter(problems.values()), ""),
            "listening": ", ".join(sorted({self._way(one) for one in told if one["state"] in ("live", "silent")})),
        }

    def _way(self, told: Mapping[str, Any]) -> str:
        return f"{told['address']}:{self.ports[told['protocol']]}"
