"""sACN packets: what another library writes is read, what is malformed is counted and dropped."""

import struct

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from sacn.messages.data_packet import DataPacket as TheirPacket

from zarfwright.links.sacn import PACKET, Sources, in_order, multicast_group, parse


def packet(universe=1, levels=(1, 2, 3), name="Desk", priority=100, sequence=0, cid=b"c" * 16, **options):
    made = TheirPacket(
        cid=tuple(cid), sourceName=name, universe=universe, dmxData=tuple(levels), priority=priority, sequence=sequence
    )
    made.option_StreamTerminated = options.get("terminated", False)
    made.option_PreviewData = options.get("preview", False)
    return bytearray(made.getBytes())


def test_a_packet_of_another_library_is_read():
    read = parse(packet(universe=513, levels=range(100), name="Långben", priority=150, sequence=9))
    assert (read.universe, read.name, read.priority, read.sequence) == (513, "Långben", 150, 9)
    assert read.levels[:4] == bytes([0, 1, 2, 3])
    assert len(read.levels) == 512
    assert not read.terminated


def broken(change):
    data = packet()
    change(data)
    return data


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (packet()[:60], "truncated"),
        (packet()[:300], "truncated"),
        (b"", "truncated"),
        (broken(lambda d: d.__setitem__(slice(4, 16), b"NOT-A-PACKET")), "not sACN"),
        (broken(lambda d: struct.pack_into(">H", d, 113, 0)), "universe out of range"),
        (broken(lambda d: struct.pack_into(">H", d, 113, 64000)), "universe out of range"),
        (broken(lambda d: d.__setitem__(108, 201)), "priority out of range"),
        (broken(lambda d: d.__setitem__(125, 0xDD)), "other start code"),
        (broken(lambda d: struct.pack_into(">H", d, 123, 600)), "truncated"),
        (broken(lambda d: struct.pack_into(">H", d, 123, 0)), "truncated"),
        (broken(lambda d: struct.pack_into(">I", d, 18, 8)), "not a data packet"),
    ],
)
def test_malformed_packets_are_dropped_and_counted_by_their_fault(data, why):
    assert parse(bytes(data)) == why
    sources = Sources()
    assert sources.take(bytes(data), "127.0.0.1", 0.0) is None
    assert sources.dropped[why] == 1
    assert not sources.by_key


def test_a_name_that_is_no_utf8_does_not_silence_its_source():
    data = packet()
    data[44:48] = b"\xff\xfe\xfdX"
    assert parse(bytes(data)).name.endswith("X")


@given(st.binary(max_size=700))
def test_no_bytes_at_all_raise(data):
    sources = Sources()
    sources.take(data, "127.0.0.1", 0.0)
    sources.take(bytes(packet()[: PACKET.size]) + data, "127.0.0.1", 0.0)


@pytest.mark.parametrize(
    ("last", "new", "fine"),
    [(0, 1, True), (255, 0, True), (5, 5, False), (10, 1, False), (0, 255, False), (30, 5, True)],
)
def test_late_packets_are_told_by_the_sequence_rule(last, new, fine):
    assert in_order(last, new) is fine


def test_a_source_is_lost_after_two_and_a_half_seconds_and_when_it_says_so():
    sources = Sources()
    sources.take(bytes(packet(name="A")), "127.0.0.1", 10.0)
    assert sources.forget_lost(12.4) == []
    assert [source.name for source in sources.forget_lost(12.6)] == ["A"]
    sources.take(bytes(packet(sequence=1, name="B")), "127.0.0.1", 20.0)
    assert sources.take(bytes(packet(sequence=2, terminated=True)), "127.0.0.1", 20.1) == 1
    assert not sources.by_key
    assert list(sources.ended.values()) == ["B"]


def test_preview_data_is_not_shown():
    sources = Sources()
    assert sources.take(bytes(packet(preview=True)), "127.0.0.1", 0.0) is None
    assert sources.dropped["preview data"] == 1


def test_rates_come_from_what_was_counted():
    sources = Sources()
    for i in range(40):
        sources.take(bytes(packet(sequence=i % 256)), "127.0.0.1", i / 40)
    sources.measure(1.0)
    assert next(iter(sources.by_key.values())).rate == pytest.approx(40, abs=1.5)


def test_a_short_packet_leaves_the_other_slots_at_zero():
    sources = Sources()
    sources.take(bytes(packet(levels=[9] * 512)), "127.0.0.1", 0.0)
    short = packet(levels=[5] * 512, sequence=1)
    struct.pack_into(">H", short, 123, 3)
    sources.take(bytes(short[: PACKET.size + 2]), "127.0.0.1", 0.1)
    levels = next(iter(sources.by_key.values())).levels
    assert np.count_nonzero(levels) == 2


def test_groups_are_made_of_the_universe():
    assert multicast_group(1) == "239.255.0.1"
    assert multicast_group(63999) == "239.255.249.255"
