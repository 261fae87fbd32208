"""Stretches of traffic as pcap files, which every network tool opens: what was got, for fault finding and for others.

Written as raw IPv4 (link type 101), each datagram with the addresses it came from and went to. Read with the usual link
layers, classic pcap and pcapng.
"""

from __future__ import annotations

import io
import socket
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any, BinaryIO

import dpkt

from zarfwright.core.errors import JobError
from zarfwright.links import artnet, sacn
from zarfwright.links.capture import Datagram

RAW_IP = 101
BYTES_MOST = 256 * 2**20
PACKETS_MOST = 2_000_000


def write_capture(datagrams: Iterable[Datagram], file: BinaryIO) -> int:
    """Write a pcap file; how many datagrams are in it."""
    writer: Any = dpkt.pcap.Writer(file, linktype=RAW_IP)
    count = 0
    for one in datagrams:
        udp = dpkt.udp.UDP(sport=one.sender[1], dport=one.target[1], data=one.data)
        udp.ulen = len(udp)
        ip = dpkt.ip.IP(
            src=socket.inet_aton(one.sender[0]), dst=socket.inet_aton(one.target[0]), p=dpkt.ip.IP_PROTO_UDP, data=udp
        )
        ip.len = len(ip)
        writer.writepkt(bytes(ip), ts=one.at)
        count += 1
    return count


@dataclass(frozen=True)
class Captured:
    """What a file holds: the datagrams of protocols that are heard here, in their order; what else it has, by kind."""

    datagrams: tuple[Datagram, ...]
    left_out: dict[str, int]

    @property
    def seconds(self) -> float:
        return self.datagrams[-1].at - self.datagrams[0].at if self.datagrams else 0.0


def read_capture(data: bytes, name: str) -> Captured:
    """Read a pcap or pcapng file. Raises JobError where it is none, or has nothing that is heard here."""
    if len(data) > BYTES_MOST:
        raise JobError(f"{name} is larger than {BYTES_MOST // 2**20} MB: cut it to the stretch that matters.")
    found: list[Datagram] = []
    left_out: Counter[str] = Counter()
    try:
        reader: Any = dpkt.pcap.UniversalReader(io.BytesIO(data))
        link = reader.datalink()
        for at, frame in _packets(reader, left_out):
            one = _datagram(float(at), frame, link)
            if isinstance(one, str):
                left_out[one] += 1
            else:
                found.append(one)
            if len(found) + sum(left_out.values()) >= PACKETS_MOST:
                left_out["packets past the first two million"] += 1
                break
    except (ValueError, dpkt.Error, EOFError) as wrong:
        raise JobError(
            f"{name} is no recording of network traffic (pcap or pcapng): {wrong or 'it is cut off'}."
        ) from wrong
    if not found:
        raise JobError(f"{name} holds no sACN and no Art-Net: {_said(left_out)}.")
    return Captured(tuple(sorted(found, key=lambda one: one.at)), dict(left_out))


def _packets(reader: Any, left_out: Counter[str]) -> Iterator[tuple[float, bytes]]:
    """The packets of a file up to where it breaks off."""
    packets = iter(reader)
    while True:
        try:
            at, frame = next(packets)
        except StopIteration:
            return
        except (ValueError, dpkt.Error, EOFError):
            left_out["packets after the place where the file is broken"] += 1
            return
        yield at, bytes(frame)


def _datagram(at: float, frame: bytes, link: int) -> Datagram | str:
    try:
        ip = _network(frame, link)
        if not isinstance(ip, dpkt.ip.IP):
            return "packets that are not IPv4"
        if ip.mf or ip.offset:
            return "fragments of packets"
        udp = ip.data
        if not isinstance(udp, dpkt.udp.UDP):
            return "packets that are not UDP"
        sender, target = socket.inet_ntoa(ip.src), socket.inet_ntoa(ip.dst)
        found = Datagram(at, (sender, udp.sport), (target, udp.dport), bytes(udp.data))
        return found if found.protocol else "packets of other protocols"
    except (dpkt.Error, ValueError, IndexError, AttributeError, TypeError):
        return "packets that are cut short"


def _network(frame: bytes, link: int) -> Any:
    if link in (dpkt.pcap.DLT_RAW, RAW_IP, 228):
        return dpkt.ip.IP(frame)
    if link in (dpkt.pcap.DLT_NULL, dpkt.pcap.DLT_LOOP):
        return dpkt.loopback.Loopback(frame).data
    if link == dpkt.pcap.DLT_LINUX_SLL:
        return dpkt.sll.SLL(frame).data
    if link == 276:
        return dpkt.sll2.SLL2(frame).data
    return dpkt.ethernet.Ethernet(frame).data


def _said(left_out: Counter[str]) -> str:
    return ", ".join(f"{count} {what}" for what, count in left_out.most_common()) or "it is empty"


@dataclass(frozen=True)
class Heard:
    """One source of a recording: which universes it sends, in how many packets."""

    name: str
    protocol: str
    address: str
    universes: tuple[int, ...]
    packets: int


def sources_of(captured: Captured) -> list[Heard]:
    """Who sends in a recording, by name and address."""
    universes: dict[tuple[str, str, str], set[int]] = {}
    packets: Counter[tuple[str, str, str]] = Counter()
    for one in captured.datagrams:
        said = sacn.parse(one.data) if one.protocol == "sACN" else artnet.parse(one.data)
        if isinstance(said, (sacn.DataPacket, artnet.DmxPacket)):
            name = said.name if isinstance(said, sacn.DataPacket) else f"Art-Net {one.sender[0]}"
            key = (name, one.protocol, one.sender[0])
            universes.setdefault(key, set()).add(said.universe)
            packets[key] += 1
    return [Heard(*key, tuple(sorted(found)), packets[key]) for key, found in sorted(universes.items())]
