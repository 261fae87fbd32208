"""sACN (ANSI E1.31): reading data packets, and the sources heard on each universe.

Parsing is one compiled struct; a malformed packet is counted by its fault and dropped, never raised.
"""

from __future__ import annotations

import struct
from collections import Counter
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

PORT = 5568
IDENTIFIER = b"ASC-E1.17\x00\x00\x00"
# Root: preamble 0x0010, postamble 0, identifier, flags+length, vector 4, CID. Framing: flags+length, vector 2, source
# name, priority, sync address, sequence, options, universe. DMP: flags+length, vector 2, 0xA1, 0, 1, count, start code.
PACKET = struct.Struct(">HH12sHI16sHI64sBHBBHHBBHHHB")
WHOLE = PACKET.size + 512
# Of a packet with 512 slots: DMP length and vector, address type, first address, increment, count, start code 0.
WHOLE_TAIL = struct.pack(">HBBHHHB", 0x7000 | 523, 2, 0xA1, 0, 1, 513, 0)
VECTOR_DATA, VECTOR_FRAME, VECTOR_DMP = 4, 2, 2
PREVIEW, TERMINATED = 0x80, 0x40
LOST_AFTER_S = 2.5
MULTICAST_PREFIX = "239.255"


@dataclass(frozen=True)
class DataPacket:
    """What one packet says. `levels` are the slots that it carries, 1 to 512 of them."""

    cid: bytes
    name: str
    priority: int
    sequence: int
    universe: int
    preview: bool
    terminated: bool
    levels: bytes


def parse(data: bytes | memoryview) -> DataPacket | str:
    """Read one packet; a text says why it was dropped."""
    if len(data) < PACKET.size:
        return "truncated"
    head = PACKET.unpack_from(data)
    (preamble, _, identifier, _, vector, cid, _, framing, name, priority, _, sequence, options, universe) = head[:14]
    (_, dmp, kind, _, increment, count, start_code) = head[14:]
    if preamble != 0x0010 or identifier != IDENTIFIER:
        return "not sACN"
    if vector != VECTOR_DATA or framing != VECTOR_FRAME or dmp != VECTOR_DMP or kind != 0xA1 or increment != 1:
        return "not a data packet"
    if not 1 <= universe <= 63999:
        return "universe out of range"
    if priority > 200:
        return "priority out of range"
    if start_code != 0:
        return "other start code"
    slots = count - 1
    if not 0 <= slots <= 512 or len(data) < PACKET.size + slots:
        return "truncated"
    # A name that is no UTF-8 does not silence a source; it is shown with replacement marks.
    text = name.split(b"\x00", 1)[0].decode("utf-8", "replace")
    return DataPacket(
        bytes(cid),
        text,
        priority,
        sequence,
        universe,
        bool(options & PREVIEW),
        bool(options & TERMINATED),
        bytes(data[PACKET.size : PACKET.size + slots]),
    )


def multicast_group(universe: int) -> str:
    """The IPv4 group of a universe: 239.255.high.low."""
    return f"{MULTICAST_PREFIX}.{universe >> 8}.{universe & 0xFF}"


def in_order(last: int, new: int) -> bool:
    """E1.31 6.7.2: a packet is late when new - last, as a signed byte, is in -19..0."""
    difference = (new - last) & 0xFF
    signed = difference - 256 if difference > 127 else difference
    return not -20 < signed <= 0


@dataclass
class Source:
    """One sender on one universe."""

    cid: bytes
    name: str
    universe: int
    address: str
    priority: int
    sequence: int
    heard_at: float
    held: bytes = bytes(512)
    """Its 512 levels."""
    packets: int = 0
    quick: bytes = b""
    """All of its last full packet but sequence and levels: while that stays, nothing else can have changed."""
    rate: float = 0.0
    since: float = 0.0
    counted: int = 0

    @property
    def levels(self) -> NDArray[np.uint8]:
        """Its levels, (512,)."""
        return np.frombuffer(self.held, dtype=np.uint8)


class Sources:
    """Everybody heard, by universe and sender. Touched by the receiver's thread only, under the live lock."""

    def __init__(self) -> None:
        self.by_key: dict[tuple[int, bytes], Source] = {}
        self.by_universe: dict[int, list[Source]] = {}
        self._quick: dict[bytes, Source] = {}
        self.dropped: Counter[str] = Counter()
        self.ended: dict[tuple[int, bytes], str] = {}

    def _again(self, source: Source, data: bytes | memoryview, now: float) -> int | None:
        """A packet like the source's last one, but for sequence and levels."""
        if not in_order(source.sequence, data[111]):
            self.dropped["out of order"] += 1
            return None
        source.sequence, source.heard_at = data[111], now
        source.packets += 1
        source.held = bytes(data[126:])
        return source.universe

    def take(self, data: bytes | memoryview, address: str, now: float) -> int | None:
        """Take one packet in. Returns the universe whose levels it set, or None."""
        if len(data) == WHOLE:
            # The common case: a full packet like the source's last one, but for sequence and levels.
            source = self._quick.get(bytes(data[:111]) + bytes(data[112:126]))
            if source is not None:
                return self._again(source, data, now)
        packet = parse(data)
        if isinstance(packet, str):
            self.dropped[packet] += 1
            return None
        if packet.preview:
            self.dropped["preview data"] += 1
            return None
        key = (packet.universe, packet.cid)
        source = self.by_key.get(key)
        if packet.terminated:
            if source is not None:
                self._forget(source)
            return packet.universe
        if source is None:
            source = Source(packet.cid, packet.name, packet.universe, address, packet.priority, packet.sequence, now)
            source.since = now
            self.by_key[key] = source
            self.by_universe.setdefault(packet.universe, []).append(source)
            self.ended.pop(key, None)
        elif not in_order(source.sequence, packet.sequence):
            self.dropped["out of order"] += 1
            return None
        source.sequence, source.heard_at, source.name = packet.sequence, now, packet.name
        source.priority, source.address = packet.priority, address
        source.packets += 1
        source.held = packet.levels.ljust(512, b"\0")
        self._quick.pop(source.quick, None)
        if len(data) == WHOLE and data[112] == 0 and data[115:126] == WHOLE_TAIL:
            source.quick = bytes(data[:111]) + bytes(data[112:126])
            self._quick[source.quick] = source
        return packet.universe

    def forget_lost(self, now: float) -> list[Source]:
        """Drop the sources not heard for 2.5 s; returns them."""
        lost = [source for source in self.by_key.values() if now - source.heard_at > LOST_AFTER_S]
        for source in lost:
            self._forget(source)
        return lost

    def _forget(self, source: Source) -> None:
        key = (source.universe, source.cid)
        del self.by_key[key]
        self._quick.pop(source.quick, None)
        self.by_universe[source.universe].remove(source)
        if not self.by_universe[source.universe]:
            del self.by_universe[source.universe]
        self.ended[key] = source.name

    def measure(self, now: float) -> None:
        """Bring the packet rates up to date; called about once a second."""
        for source in self.by_key.values():
            if now - source.since >= 0.9:
                source.rate = (source.packets - source.counted) / (now - source.since)
                source.since, source.counted = now, source.packets
