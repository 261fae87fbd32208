"""Art-Net 4: ArtDmx and ArtSync read, ArtPoll answered, and who is heard.

A packet is Art-Net's id, an opcode (low byte first) and, but for replies, the protocol's version (high byte first).
Malformed packets are counted by their fault and dropped, never raised.
"""

from __future__ import annotations

import socket
import struct
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from zarfwright.links.sources import NOTHING, SLOTS, Registry, Source, in_order

PORT = 6454
IDENTIFIER = b"Art-Net\x00"
HEAD = struct.Struct("<8sH")
# After the head: version (high byte first), sequence, physical, low byte of the port-address, net, length.
DMX = struct.Struct(">HBBBBH")
START = HEAD.size + DMX.size
OP_POLL, OP_REPLY, OP_DMX, OP_SYNC = 0x2000, 0x2100, 0x5000, 0x5200
VERSION = 14
PRIORITY = 100
"""What Art-Net counts as among sources with priorities (numbers.md)."""
LOST_AFTER_S = 10.0
SYNC_LOST_S = 4.0
PORTS_OF_REPLY, REPLIES_MOST = 4, 64
NAMES_MOST, POLLED_MOST = 512, 16
NAME_AT, NAME_SIZE = 26, 18


@dataclass(frozen=True)
class DmxPacket:
    """Levels of a port-address, 0 to 32767."""

    universe: int
    sequence: int
    levels: bytes


@dataclass(frozen=True)
class PlainPacket:
    """A packet of which only the kind matters, or the name it gives: a poll, a reply, a synchronization."""

    code: int
    name: str = ""


def parse(data: bytes) -> DmxPacket | PlainPacket | str:
    """Read one packet; a text says why it was dropped."""
    if len(data) < HEAD.size + 2:
        return "truncated"
    identifier, code = HEAD.unpack_from(data)
    if identifier != IDENTIFIER:
        return "not Art-Net"
    if code == OP_REPLY:
        name = data[NAME_AT : NAME_AT + NAME_SIZE].split(b"\0", 1)[0]
        return PlainPacket(code, name.decode("utf-8", "replace"))
    if int.from_bytes(data[HEAD.size : HEAD.size + 2], "big") < VERSION:
        return "older protocol"
    if code == OP_DMX:
        return _dmx(data)
    return PlainPacket(code) if code in (OP_POLL, OP_SYNC) else "other Art-Net"


def _dmx(data: bytes) -> DmxPacket | str:
    if len(data) < START:
        return "truncated"
    _, sequence, _, low, net, length = DMX.unpack_from(data, HEAD.size)
    if net > 127:
        return "universe out of range"
    if not 1 <= length <= SLOTS:
        return "wrong length"
    if len(data) < START + length:
        return "truncated"
    return DmxPacket(net << 8 | low, sequence, data[START : START + length])


class ArtNetSources(Registry):
    """Everybody heard by Art-Net on one address. A source is an address: Art-Net has nothing else to tell it by."""

    def __init__(self) -> None:
        super().__init__(LOST_AFTER_S)
        self.names: dict[str, str] = {}
        self.synced_at: dict[str, float] = {}
        """When each address that synchronizes did so last."""
        self.polled: set[str] = set()
        """Who polled and has no answer yet."""

    def take(self, data: bytes, address: str, now: float) -> tuple[int, ...]:
        """Take one packet in. Returns the port-addresses whose levels it set."""
        said = parse(data)
        if isinstance(said, DmxPacket):
            return self._heard(said, address, now)
        if isinstance(said, str):
            self.dropped[said] += 1
        elif said.code == OP_POLL:
            if len(self.polled) < POLLED_MOST:
                self.polled.add(address)
        elif said.code == OP_SYNC:
            return self._synchronize(address, now)
        elif address in self.names or len(self.names) < NAMES_MOST:
            self.names[address] = said.name
        return NOTHING

    def _heard(self, said: DmxPacket, address: str, now: float) -> tuple[int, ...]:
        key = socket.inet_aton(address)
        source = self.by_key.get((said.universe, key))
        name = self.names.get(address, "") or f"Art-Net from {address}"
        if source is None:
            source = Source(key, name, "Art-Net", said.universe, address, PRIORITY, said.sequence, now)
            if not self.add(source):
                return NOTHING
        elif said.sequence and source.sequence and not in_order(source.sequence, said.sequence):
            source.came_late(said.sequence, said.levels.ljust(SLOTS, b"\0"))
            self.dropped["out of order"] += 1
            return NOTHING
        source.name = name
        # 0 says that its sequence is not counted.
        source.heard(now, said.sequence, counts=said.sequence > 0)
        levels = said.levels + (source.held or bytes(SLOTS))[len(said.levels) :]
        # Synchronized sources wait, until nothing has synchronized them for four seconds.
        synced = self.synced_at.get(address)
        if synced is not None and now - synced < SYNC_LOST_S:
            source.sync, source.waiting = 1, levels
            return NOTHING
        if not said.sequence:
            _look_for_turns(source, levels)
        source.sync, source.held = 0, levels
        return source.one

    def _synchronize(self, address: str, now: float) -> tuple[int, ...]:
        """Show what waits; not heeded where that address sends no levels, nor where sources are merged."""
        key = socket.inet_aton(address)
        ours = [source for source in self.by_key.values() if source.key == key]
        if not ours or any(len(self.by_universe[source.universe]) > 1 for source in ours):
            self.dropped["synchronization of nothing"] += 1
            return NOTHING
        self.synced_at[address] = now
        shown = [source for source in ours if source.waiting]
        for source in shown:
            source.held, source.waiting, source.synced_at = source.waiting, b"", now
        return tuple(source.universe for source in shown)

    def forget_lost(self, now: float) -> list[Source]:
        """Also of who has synchronized."""
        self.synced_at = {key: at for key, at in self.synced_at.items() if now - at < SYNC_LOST_S}
        return super().forget_lost(now)


def _look_for_turns(source: Source, levels: bytes) -> None:
    """Where packets are not numbered, two programs at one address are known by levels that go to and fro."""
    source.back += levels == source.before != source.held
    source.before = source.held


def replies(address: str, name: str, universes: Iterable[int], note: str) -> list[bytes]:
    """What answers a poll: one ArtPollReply for each four port-addresses of one sub-net that levels are heard of, so
    that a console finds us; one without any where there are none."""
    by_net: dict[int, list[int]] = {}
    for universe in sorted(set(universes)):
        by_net.setdefault(universe >> 4, []).append(universe & 0xF)
    pages = [
        (net, ports[start : start + PORTS_OF_REPLY])
        for net, ports in by_net.items()
        for start in range(0, len(ports), PORTS_OF_REPLY)
    ]
    numbered = enumerate(pages[:REPLIES_MOST] or [(0, [])], 1)
    return [_reply(address, name, note, index, net, ports) for index, (net, ports) in numbered]


def _reply(address: str, name: str, note: str, index: int, net: int, ports: Sequence[int]) -> bytes:
    """One ArtPollReply: outputs that turn Art-Net into something to see."""
    ip, blank, four = socket.inet_aton(address), bytes(4), PORTS_OF_REPLY
    report = f"#0001 [0000] {note}".encode()[:63]
    kinds = bytes([0x80] * len(ports)).ljust(four, b"\0")
    good = bytes([0x80] * len(ports)).ljust(four, b"\0")
    return b"".join((
        HEAD.pack(IDENTIFIER, OP_REPLY), ip, struct.pack("<H", PORT),
        bytes([0, 1]),  # version of this program
        bytes([net >> 4, net & 0xF]),
        bytes([0x00, 0xFF]),  # OEM: unknown
        bytes([0]),  # no UBEA
        bytes([0xE0]),  # indicators normal, address set by the front panel
        bytes(2),  # no maker's code
        name.encode()[:NAME_SIZE - 1].ljust(NAME_SIZE, b"\0"), name.encode()[:63].ljust(64, b"\0"),
        report.ljust(64, b"\0"), struct.pack(">H", len(ports)), kinds,
        blank, good,
        blank, bytes(ports).ljust(four, b"\0"),
        bytes([PRIORITY, 0, 0]), bytes(3), bytes([0x06]),  # style: shows what is heard
        bytes(6), ip, bytes([index]),
        bytes([0x08]),  # 15-bit port-addresses
        bytes(26),
    ))  # fmt: skip
