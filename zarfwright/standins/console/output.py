"""What the console sends: sACN and Art-Net, on the universes that are asked for, well or with deliberate faults."""

from __future__ import annotations

import random
import re
import socket
import struct
import uuid
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from sacn.messages.data_packet import DataPacket

SACN_PORT, ARTNET_PORT = 5568, 6454
SLOTS_AT, SEQUENCE_AT, OPTIONS_AT = 126, 111, 112
PREVIEW, TERMINATED = 0x80, 0x40
LAST = 63999
MANY, AGAIN_S = 16, 0.1
"""Of so many universes and more, those in which nothing moves are only sent this often."""


class Universes:
    """Which universes: `all`, nothing, or such as `1-3, 7`."""

    def __init__(self, text: str) -> None:
        """Raises ValueError with what is wrong."""
        self.text = text.strip()
        self.spans: list[tuple[int, int]] = []
        if self.text == "all":
            self.spans = [(1, LAST)]
            return
        for part in filter(None, re.split(r"[\s,;]+", re.sub(r"\s*(?:-|–|to)\s*", "-", self.text))):
            match = re.fullmatch(r"(\d{1,5})(?:-(\d{1,5}))?", part)
            if match is None:
                raise ValueError(f"“{part[:20]}” is no universe: type such as 1-3, 7, or all.")
            self.spans.append((int(match[1]), int(match[2] or match[1])))

    def __contains__(self, universe: int) -> bool:
        return any(first <= universe <= last for first, last in self.spans)


@dataclass(frozen=True)
class Faults:
    """What is wrong on purpose: universes off by so many, a share of packets that get lost, all marked as preview, or
    nothing at all sent any more, without a word."""

    universe: int = 0
    drop: float = 0.0
    preview: bool = False
    dead: bool = False


@dataclass(frozen=True)
class Sent:
    """What is sent where: an Art-Net port-address is a universe less one."""

    name: str
    sacn: Universes
    artnet: Universes
    priority: int = 100
    host: str = "127.0.0.1"


class Output:
    """One socket, for as long as the console is on."""

    def __init__(self, sent: Sent) -> None:
        self.sent, self.faults = sent, Faults()
        self.cid = uuid.uuid4().bytes
        self.socket = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        self.socket.setblocking(False)
        self._heads: dict[int, bytearray] = {}
        self._counts: dict[tuple[str, int], int] = {}
        self._last: dict[tuple[str, int], tuple[bytes, float]] = {}
        self._dice = random.Random(7)
        self.packets = 0

    def set(self, sent: Sent, faults: Faults) -> None:
        """From now on so. What is not sent any more is ended, as the standard asks."""
        if sent != self.sent or faults.universe != self.faults.universe:
            gone = {u for p, u in self._last if p == "sACN" and u - faults.universe not in sent.sacn}
            if not self.faults.dead and not faults.dead:
                self._end(gone)
            self._heads.clear()
            self._last = {key: one for key, one in self._last.items() if key[0] != "sACN" or key[1] not in gone}
        self.sent, self.faults = sent, faults

    def send(self, levels: Mapping[int, bytes], now: float) -> None:
        """The slots of each universe, where they changed or it is time to say so again."""
        if self.faults.dead:
            return
        again = AGAIN_S if len(levels) > MANY else 0.0
        for patched, slots in levels.items():
            universe = patched + self.faults.universe
            if not 1 <= universe <= LAST:
                continue
            if patched in self.sent.sacn:
                self._one("sACN", universe, slots, now, again)
            if patched in self.sent.artnet and universe <= 32768:
                self._one("Art-Net", universe, slots, now, again)

    def _one(self, protocol: str, universe: int, slots: bytes, now: float, again: float) -> None:
        key = protocol, universe
        before = self._last.get(key)
        if before is not None and before[0] == slots and now - before[1] < again:
            return
        self._last[key] = slots, now
        if self.faults.drop and self._dice.random() < self.faults.drop:
            self._count(key)
            return
        data = self._sacn(universe, slots) if protocol == "sACN" else self._artnet(universe, slots)
        self._out(data, SACN_PORT if protocol == "sACN" else ARTNET_PORT)

    def _out(self, data: bytes, port: int) -> None:
        try:
            self.socket.sendto(data, (self.sent.host, port))
            self.packets += 1
        except OSError:
            # As on a real line: what cannot be sent now is sent with the next frame.
            pass

    def _count(self, key: tuple[str, int]) -> int:
        self._counts[key] = (self._counts.get(key, -1) + 1) % 256
        return self._counts[key]

    def _sacn(self, universe: int, slots: bytes, options: int = 0) -> bytes:
        head = self._heads.get(universe)
        if head is None:
            name = self.sent.name.encode()[:63].decode(errors="ignore")
            packet = DataPacket(tuple(self.cid), name, universe, tuple(slots), priority=self.sent.priority)
            head = self._heads[universe] = bytearray(packet.getBytes()[:SLOTS_AT])
        head[SEQUENCE_AT] = self._count(("sACN", universe))
        head[OPTIONS_AT] = options | (PREVIEW if self.faults.preview else 0)
        return bytes(head) + slots

    def _artnet(self, universe: int, slots: bytes) -> bytes:
        """ArtDmx: opcode and port-address little-endian, length big-endian; sequence 0 would say that there is none."""
        sequence = self._count(("Art-Net", universe)) % 255 + 1
        head = b"Art-Net\0" + struct.pack("<H", 0x5000) + struct.pack(">H", 14)
        return head + struct.pack("<BBH", sequence, 0, universe - 1) + struct.pack(">H", len(slots)) + slots

    def _end(self, universes: Iterable[int]) -> None:
        """Three packets that say that a universe is not sent any more (E1.31, 6.2.6)."""
        for universe in universes:
            slots = self._last[("sACN", universe)][0]
            for _ in range(3):
                self._out(self._sacn(universe, slots, TERMINATED), SACN_PORT)

    def close(self) -> None:
        """Say that it is over."""
        if not self.faults.dead:
            self._end([universe for protocol, universe in self._last if protocol == "sACN"])
        self.socket.close()
