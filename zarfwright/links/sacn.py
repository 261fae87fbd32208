"""sACN (ANSI E1.31): data, per-address priority, synchronization and discovery packets, and who is heard by them.

Parsing is compiled structs; a malformed packet is counted by its fault and dropped, never raised.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass

from zarfwright.links.sources import NOTHING, OFFERED_S, SLOTS, Offered, Registry, Source, in_order

PORT = 5568
IDENTIFIER = b"ASC-E1.17\x00\x00\x00"
# Root: preamble 0x0010, postamble 0, identifier, flags+length, vector, CID.
ROOT = struct.Struct(">HH12sHI16s")
# ... Framing: flags+length, vector 2, source name, priority, sync address, sequence, options, universe. DMP:
# flags+length, vector 2, 0xA1, 0, 1, count, start code.
PACKET = struct.Struct(">HH12sHI16sHI64sBHBBHHBBHHHB")
WHOLE = PACKET.size + SLOTS
# Of a packet with 512 slots: DMP length and vector, address type, first address, increment, count, start code 0.
WHOLE_TAIL = struct.pack(">HBBHHHB", 0x7000 | 523, 2, 0xA1, 0, 1, 513, 0)
# After the root: flags+length, vector 1, sequence, sync address, reserved.
SYNC = struct.Struct(">HIBHH")
# After the root: flags+length, vector 2, source name, reserved; then flags+length, vector 1, page, last page.
DISCOVERY = struct.Struct(">HI64sIHIBB")
VECTOR_DATA, VECTOR_EXTENDED = 4, 8
VECTOR_FRAME, VECTOR_DMP = 2, 2
EXTENDED_SYNC, EXTENDED_DISCOVERY = 1, 2
PREVIEW, TERMINATED, FORCE = 0x80, 0x40, 0x20
LEVELS, PRIORITIES = 0x00, 0xDD
LOST_AFTER_S = 2.5
MULTICAST_PREFIX = "239.255"
DISCOVERY_UNIVERSE = 64214
OFFERED_MOST = 512
"""How many sources may say which universes they send."""


@dataclass(frozen=True)
class DataPacket:
    """What one packet says. `levels` are the slots that it carries, up to 512 of them."""

    cid: bytes
    name: str
    priority: int
    sync: int
    sequence: int
    options: int
    universe: int
    start_code: int
    levels: bytes

    @property
    def preview(self) -> bool:
        return bool(self.options & PREVIEW)

    @property
    def terminated(self) -> bool:
        return bool(self.options & TERMINATED)


@dataclass(frozen=True)
class SyncPacket:
    """What waits for this universe's synchronization is shown now."""

    cid: bytes
    sequence: int
    universe: int


@dataclass(frozen=True)
class DiscoveryPacket:
    """One page of the universes that a source sends."""

    cid: bytes
    name: str
    page: int
    universes: tuple[int, ...]


def _stated(field: int) -> int:
    """The length that a field of flags and length states; -1 where the flags are not the standard's."""
    return field & 0xFFF if field >> 12 == 0x7 else -1


def _text(raw: bytes) -> str:
    # A name that is no UTF-8 does not silence a source; it is shown with replacement marks.
    return raw.split(b"\x00", 1)[0].decode("utf-8", "replace")


def parse(data: bytes) -> DataPacket | SyncPacket | DiscoveryPacket | str:
    """Read one packet; a text says why it was dropped."""
    if len(data) < ROOT.size:
        return "truncated"
    preamble, postamble, identifier, length, vector, cid = ROOT.unpack_from(data)
    if preamble != 0x0010 or postamble != 0 or identifier != IDENTIFIER:
        return "not sACN"
    if _stated(length) < 0:
        return "wrong flags"
    if vector == VECTOR_EXTENDED:
        return _extended(data, cid, _stated(length))
    if vector != VECTOR_DATA:
        return "not a data packet"
    return _data(data, _stated(length))


def _data(data: bytes, length: int) -> DataPacket | str:
    if len(data) < PACKET.size:
        return "truncated"
    head = PACKET.unpack_from(data)
    (cid, framing_length, framing, name, priority, sync, sequence, options, universe) = head[5:14]
    (dmp_length, dmp, kind, first, increment, count, start_code) = head[14:]
    if framing != VECTOR_FRAME or dmp != VECTOR_DMP or kind != 0xA1 or first != 0 or increment != 1:
        return "not a data packet"
    if not 1 <= universe <= 63999:
        return "universe out of range"
    if priority > 200:
        return "priority out of range"
    slots = count - 1
    if not 0 <= slots <= SLOTS or len(data) < PACKET.size + slots:
        return "truncated"
    if (length, _stated(framing_length), _stated(dmp_length)) != (109 + count, 87 + count, 10 + count):
        return "wrong length"
    levels = data[PACKET.size : PACKET.size + slots]
    return DataPacket(cid, _text(name), priority, sync, sequence, options, universe, start_code, levels)


def _extended(data: bytes, cid: bytes, length: int) -> SyncPacket | DiscoveryPacket | str:
    if len(data) < ROOT.size + SYNC.size or len(data) < 16 + length:
        return "truncated"
    framing_length, kind, sequence, universe, _ = SYNC.unpack_from(data, ROOT.size)
    if kind == EXTENDED_SYNC:
        if (length, _stated(framing_length)) != (33, 11):
            return "wrong length"
        return SyncPacket(cid, sequence, universe) if 1 <= universe <= 63999 else "universe out of range"
    start = ROOT.size + DISCOVERY.size
    if kind != EXTENDED_DISCOVERY or len(data) < start:
        return "unknown vector" if kind != EXTENDED_DISCOVERY else "truncated"
    framing_length, _, name, _, list_length, list_kind, page, last = DISCOVERY.unpack_from(data, ROOT.size)
    count = (16 + length - start) // 2
    if list_kind != 1 or page > last or not 0 <= count <= SLOTS:
        return "unknown vector"
    if (_stated(framing_length), _stated(list_length)) != (length - 22, length - 96):
        return "wrong length"
    return DiscoveryPacket(cid, _text(name), page, struct.unpack_from(f">{count}H", data, start))


def multicast_group(universe: int) -> str:
    """The IPv4 group of a universe: 239.255.high.low."""
    return f"{MULTICAST_PREFIX}.{universe >> 8}.{universe & 0xFF}"


class SacnSources(Registry):
    """Everybody heard by sACN on one address."""

    def __init__(self) -> None:
        super().__init__(LOST_AFTER_S)
        self._quick: dict[bytes, Source] = {}
        self._waiting: dict[tuple[bytes, int], list[Source]] = {}
        self._sync_sequence: dict[tuple[bytes, int], int] = {}
        self.offered: dict[tuple[bytes, int], Offered] = {}
        """What sources say that they send, by component and page."""

    def sync_universes(self) -> set[int]:
        """The universes whose synchronization is waited for: their groups are to be joined."""
        return {universe for _, universe in self._waiting}

    def take(self, data: bytes, address: str, now: float) -> tuple[int, ...]:
        """Take one packet in. Returns the universes whose levels it set."""
        if len(data) == WHOLE:
            # The common case: a full packet like the source's last one, but for sequence and levels.
            source = self._quick.get(data[:111] + data[112:126])
            if source is not None:
                return self._again(source, data, now)
        said = parse(data)
        if isinstance(said, DataPacket):
            return self._heard(said, data, address, now)
        if isinstance(said, SyncPacket):
            return self._synchronize(said, now)
        if isinstance(said, DiscoveryPacket):
            if (said.cid, said.page) in self.offered or len(self.offered) < OFFERED_MOST:
                self.offered[said.cid, said.page] = Offered(said.name, address, said.universes, now)
        else:
            self.dropped[said] += 1
        return NOTHING

    def _again(self, source: Source, data: bytes, now: float) -> tuple[int, ...]:
        """A packet like the source's last one, but for sequence and levels."""
        sequence = data[111]
        if sequence != (source.sequence + 1) & 0xFF and not in_order(source.sequence, sequence):
            return self._late(source, sequence, data[126:])
        source.heard(now, sequence)
        source.held = data[126:]
        return source.one

    def _late(self, source: Source, sequence: int, levels: bytes) -> tuple[int, ...]:
        source.came_late(sequence, levels)
        self.dropped["out of order"] += 1
        return NOTHING

    def _heard(self, said: DataPacket, data: bytes, address: str, now: float) -> tuple[int, ...]:
        source = self.by_key.get((said.universe, said.cid))
        if source is not None and not in_order(source.sequence, said.sequence):
            return self._late(source, said.sequence, said.levels.ljust(SLOTS, b"\0"))
        if said.terminated:
            if source is not None:
                self.end(source, "ended", now)
            return source.one if source is not None else NOTHING
        if said.start_code not in (LEVELS, PRIORITIES):
            self.dropped["other start code"] += 1
            if source is not None:
                source.heard(now, said.sequence)
            return NOTHING
        if source is None:
            source = Source(said.cid, said.name, "sACN", said.universe, address, said.priority, said.sequence, now)
            source.preview = said.preview
            if not self.add(source):
                return NOTHING
        source.heard(now, said.sequence)
        self._tell(source, said, address)
        self._remember(source, data)
        if said.start_code == PRIORITIES:
            source.priorities, source.priorities_at = said.levels.ljust(SLOTS, b"\0"), now
            return source.one
        return self._show(source, said, now)

    def _tell(self, source: Source, said: DataPacket, address: str) -> None:
        """What a packet says beside levels."""
        source.name, source.priority, source.address = said.name, said.priority, address
        if source.preview != said.preview:
            source.preview = said.preview
            self.changed()
        if source.sync != said.sync:
            self._let_go(source)
            source.sync, source.synced_at, source.waits_since = said.sync, None, None

    def _remember(self, source: Source, data: bytes) -> None:
        """Know its next packet by its head, where it is a plain one."""
        self._quick.pop(source.quick, None)
        source.quick = b""
        if len(data) == WHOLE and data[115:126] == WHOLE_TAIL and not data[112] & ~PREVIEW and not source.sync:
            source.quick = data[:111] + data[112:126]
            self._quick[source.quick] = source

    def _show(self, source: Source, said: DataPacket, now: float) -> tuple[int, ...]:
        """Levels are shown at once, or wait for their synchronization. Where it has never come they are shown all the
        same once it is lost; where it no longer comes, if the packet allows it (E1.31 6.2.6)."""
        levels = said.levels.ljust(SLOTS, b"\0")
        if said.sync:
            if source.waits_since is None:
                source.waits_since = now
            never = source.synced_at is None and now - source.waits_since > LOST_AFTER_S
            lost = source.synced_at is not None and now - source.synced_at > LOST_AFTER_S
            if not never and not (lost and said.options & FORCE):
                source.waiting = levels
                ours = self._waiting.setdefault((source.key, source.sync), [])
                if source not in ours:
                    ours.append(source)
                return NOTHING
        source.held = levels
        return source.one

    def _synchronize(self, said: SyncPacket, now: float) -> tuple[int, ...]:
        key = (said.cid, said.universe)
        waiting = self._waiting.get(key, [])
        last = self._sync_sequence.get(key)
        if not waiting or (last is not None and not in_order(last, said.sequence)):
            self.dropped["synchronization of nothing" if not waiting else "out of order"] += 1
            return NOTHING
        self._sync_sequence[key] = said.sequence
        shown = [source for source in waiting if source.waiting]
        for source in waiting:
            source.synced_at, source.waits_since = now, None
        for source in shown:
            source.held, source.waiting = source.waiting, b""
        return tuple(source.universe for source in shown)

    def _let_go(self, source: Source) -> None:
        """It waits no longer."""
        source.waiting = b""
        ours = self._waiting.get((source.key, source.sync), [])
        if source in ours:
            ours.remove(source)
            if not ours:
                del self._waiting[source.key, source.sync]
                self._sync_sequence.pop((source.key, source.sync), None)

    def end(self, source: Source, why: str, now: float) -> None:
        super().end(source, why, now)
        self._quick.pop(source.quick, None)
        self._let_go(source)

    def forget_lost(self, now: float) -> list[Source]:
        """Also of priorities for each slot that are no longer sent: the one for all holds again."""
        for source in self.by_key.values():
            if source.priorities and now - source.priorities_at > LOST_AFTER_S:
                source.priorities = b""
        self.offered = {key: one for key, one in self.offered.items() if now - one.at < OFFERED_S}
        return super().forget_lost(now)
