"""Traffic as pcap: what is written is what came, other link layers are read, and sent again it is heard the same."""

import io
import json
import socket
import struct
import subprocess
import sys
import time
from contextlib import suppress

import dpkt
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.links.test_artnet import dmx
from tests.links.test_receive import free_port
from tests.links.test_sacn import packet
from tests.processes import PATIENCE_S, own_address
from zarfwright.core.errors import JobError
from zarfwright.links import capture
from zarfwright.links.capture import Datagram, Tap
from zarfwright.links.pcap import Captured, read_capture, sources_of, write_capture
from zarfwright.links.replay import Replay

QUAY = ("10.1.2.3", 40001)


def some(count=6):
    made = [
        Datagram(
            100.0 + i / 40, QUAY, ("239.255.0.3", 5568), bytes(packet(universe=3, levels=[i & 0xFF], sequence=i & 0xFF))
        )
        for i in range(count)
    ]
    return [*made, Datagram(100.5, ("10.1.2.4", 6454), ("10.1.2.255", 6454), bytes(dmx(universe=2, levels=[9])))]


def written(datagrams):
    file = io.BytesIO()
    assert write_capture(datagrams, file) == len(datagrams)
    return file.getvalue()


def test_what_is_written_is_read_again_and_by_another_library_too():
    datagrams = some()
    read = read_capture(written(datagrams), "a.pcap")
    assert [(one.sender, one.target, one.data) for one in read.datagrams] == [
        (one.sender, one.target, one.data) for one in datagrams
    ]
    assert [one.at for one in read.datagrams] == pytest.approx([one.at for one in datagrams], abs=1e-5)
    assert (read.left_out, read.seconds) == ({}, pytest.approx(0.5))
    assert [(one.name, one.protocol, one.universes, one.packets) for one in sources_of(read)] == [
        ("Art-Net 10.1.2.4", "Art-Net", (2,), 1), ("Desk", "sACN", (3,), 6),
    ]  # fmt: skip
    # Checksums and lengths by the book: one's complement sum of the header with its checksum is all ones.
    _, frame = next(iter(dpkt.pcap.Reader(io.BytesIO(written(datagrams)))))
    header = sum(struct.unpack(">10H", frame[:20]))
    assert (header & 0xFFFF) + (header >> 16) == 0xFFFF
    assert struct.unpack_from(">H", frame, 2)[0] == len(frame)


def framed(one, link):
    """A datagram as it lies in a file of another link layer."""
    udp = dpkt.udp.UDP(sport=one.sender[1], dport=one.target[1], data=one.data, ulen=8 + len(one.data))
    ip = dpkt.ip.IP(src=socket.inet_aton(one.sender[0]), dst=socket.inet_aton(one.target[0]), p=17, data=udp)
    ip.len = len(ip)
    heads = {1: bytes(12) + b"\x08\x00", 113: bytes(14) + b"\x08\x00", 0: struct.pack("<I", 2), 101: b""}
    return heads[link] + bytes(ip)


@pytest.mark.parametrize("link", [0, 1, 101, 113])
def test_files_of_other_tools_are_read_whatever_their_link_layer(link):
    file = io.BytesIO()
    writer = dpkt.pcap.Writer(file, linktype=link)
    for one in some():
        writer.writepkt(framed(one, link), ts=one.at)
    read = read_capture(file.getvalue(), "b.pcap")
    assert [one.data for one in read.datagrams] == [one.data for one in some()]


def test_pcapng_is_read_and_what_is_not_heard_here_is_counted():
    file = io.BytesIO()
    writer = dpkt.pcapng.Writer(file)
    wanted = some(1)[0]
    web = Datagram(100.0, QUAY, ("10.0.0.1", 8080), b"GET")
    arp = bytes(12) + b"\x08\x06" + bytes(28)
    for frame in (framed(wanted, 1), framed(web, 1), arp, framed(wanted, 1)[:30]):
        writer.writepkt(frame, ts=100.0)
    read = read_capture(file.getvalue(), "c.pcapng")
    assert len(read.datagrams) == 1
    assert sum(read.left_out.values()) == 3
    assert read.left_out["packets of other protocols"] == 1


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04 no pcap at all", b"\xd4\xc3\xb2\xa1", bytes(5000)])
def test_what_is_no_recording_is_refused_by_name(data):
    with pytest.raises(JobError, match=r"d\.pcap"):
        read_capture(data, "d.pcap")


def test_a_file_that_breaks_off_gives_what_is_whole():
    whole = written(some())
    read = read_capture(whole[:-300], "e.pcap")
    assert len(read.datagrams) == 6
    assert sum(read.left_out.values()) <= 1


def in_other_forms():
    """The same datagrams as files of several kinds."""
    files = [written(some())]
    for link in (0, 1, 113):
        file = io.BytesIO()
        writer = dpkt.pcap.Writer(file, linktype=link)
        for one in some():
            writer.writepkt(framed(one, link), ts=one.at)
        files.append(file.getvalue())
    file = io.BytesIO()
    newer = dpkt.pcapng.Writer(file)
    for one in some():
        newer.writepkt(framed(one, 1), ts=one.at)
    return [*files, file.getvalue()]


FILES = in_other_forms()


@settings(max_examples=300, deadline=None)
@given(st.sampled_from(FILES), st.integers(0, 4000), st.binary(min_size=1, max_size=8), st.integers(0, 4000))
def test_broken_anywhere_it_is_read_or_refused_and_nothing_else(file, at, noise, end):
    data = bytearray(file)
    at %= len(data)
    data[at : at + len(noise)] = noise
    with suppress(JobError):
        assert read_capture(bytes(data[: len(data) - end % 400]), "f.pcap").datagrams


def test_a_tap_is_bounded(monkeypatch):
    monkeypatch.setattr(capture, "KEPT_MOST", 10)
    tap = Tap()
    for _ in range(9):
        tap.add(some(3))
    assert tap.full
    assert tap.over.is_set()
    assert len(tap.kept) < 16


def listening():
    heard = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    heard.settimeout(PATIENCE_S)
    heard.bind((own_address(), free_port()))
    return heard, heard.getsockname()


def test_sent_again_each_sender_keeps_an_address_of_its_own_and_the_pace_is_kept():
    heard, (address, port) = listening()
    datagrams = [Datagram(i / 10, (f"10.0.0.{1 + i % 2}", 9), (address, port), bytes([i])) for i in range(4)]
    replay = Replay({"": address})
    began = time.monotonic()
    replay.play(Captured(tuple(datagrams), {}), speed=2.0)
    took = time.monotonic() - began
    got = [heard.recvfrom(100) for _ in range(4)]
    replay.close()
    heard.close()
    assert [data for data, _ in got] == [bytes([i]) for i in range(4)]
    assert [one[1][0] for one in got] == ["127.88.0.1", "127.88.0.2"] * 2
    assert took >= 0.15
    assert replay.sent == 4


def test_the_program_tells_how_far_it_is_and_ends_when_its_stdin_does(tmp_path):
    path = tmp_path / "long.pcap"
    with path.open("wb") as file:
        write_capture([*some(), Datagram(109.0, QUAY, ("10.0.0.1", 5568), b"late")], file)
    program = subprocess.Popen(
        [sys.executable, "-m", "zarfwright.links.replay", str(path), "--sacn", own_address()],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
    )
    assert json.loads(program.stdout.readline())["is"] == "at"
    program.stdin.close()
    lines = [json.loads(line) for line in program.stdout]
    assert program.wait(PATIENCE_S) == 0
    assert lines[-1]["is"] == "end"
    assert 6 <= lines[-1]["packets"] <= 7
