"""sACN packets: what another library writes is read, what is malformed is counted and dropped."""

import struct

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from sacn.messages.data_packet import DataPacket as TheirPacket
from sacn.messages.sync_packet import SyncPacket as TheirSync
from sacn.messages.universe_discovery import UniverseDiscoveryPacket as TheirDiscovery

from zarfwright.core.dmx.merge import SILENT
from zarfwright.links.sacn import PACKET, SacnSources, multicast_group, parse
from zarfwright.links.sources import OF_UNIVERSE_MOST, SOURCES_MOST, in_order


def packet(universe=1, levels=(1, 2, 3), name="Desk", priority=100, sequence=0, cid=b"c" * 16, **options):
    made = TheirPacket(
        cid=tuple(cid), sourceName=name, universe=universe, dmxData=tuple(levels), priority=priority, sequence=sequence
    )
    made.option_StreamTerminated = options.get("terminated", False)
    made.option_PreviewData = options.get("preview", False)
    made.option_ForceSync = options.get("force", False)
    made.syncAddr = options.get("sync", 0)
    made.dmxStartCode = options.get("start_code", 0)
    return bytearray(made.getBytes())


def short(levels, **more):
    """A packet with just these slots, its lengths all right."""
    data = packet(levels=levels, **more)
    count = len(levels) + 1
    for at, length in ((16, 109), (38, 87), (115, 10)):
        struct.pack_into(">H", data, at, 0x7000 | length + count)
    struct.pack_into(">H", data, 123, count)
    return data[: PACKET.size + len(levels)]


def sync(universe, sequence=0, cid=b"c" * 16):
    return bytes(TheirSync(cid=tuple(cid), syncAddr=universe, sequence=sequence).getBytes())


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


def put(at, kind, value):
    return broken(lambda data: struct.pack_into(kind, data, at, value))


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (packet()[:20], "truncated"),
        (packet()[:60], "truncated"),
        (packet()[:300], "truncated"),
        (b"", "truncated"),
        (broken(lambda d: d.__setitem__(slice(4, 16), b"NOT-A-PACKET")), "not sACN"),
        (put(2, ">H", 1), "not sACN"),
        (put(113, ">H", 0), "universe out of range"),
        (put(113, ">H", 64000), "universe out of range"),
        (put(108, ">B", 201), "priority out of range"),
        (put(123, ">H", 600), "truncated"),
        (put(123, ">H", 0), "truncated"),
        (put(18, ">I", 7), "not a data packet"),
        (put(119, ">H", 1), "not a data packet"),
        (put(16, ">H", 0x126E), "wrong flags"),
        (put(16, ">H", 0x726D), "wrong length"),
        (put(38, ">H", 0x0258), "wrong length"),
        (put(115, ">H", 0x720C), "wrong length"),
        (sync(7)[:16] + b"\x70\x22" + sync(7)[18:], "truncated"),
        (sync(7)[:38] + b"\x70\x0c" + sync(7)[40:], "wrong length"),
        (sync(7)[:45], "truncated"),
        (sync(7)[:45] + bytes(4), "universe out of range"),
    ],
)
def test_malformed_packets_are_dropped_and_counted_by_their_fault(data, why):
    assert parse(bytes(data)) == why
    sources = SacnSources()
    assert sources.take(bytes(data), "127.0.0.1", 0.0) == ()
    assert sources.dropped[why] == 1
    assert not sources.by_key


def test_a_name_that_is_no_utf8_does_not_silence_its_source():
    data = packet()
    data[44:48] = b"\xff\xfe\xfdX"
    assert parse(bytes(data)).name.endswith("X")


@given(st.binary(max_size=700))
def test_no_bytes_at_all_raise(data):
    sources = SacnSources()
    for head in (b"", bytes(packet()[: PACKET.size]), bytes(packet()[:18]) + b"\0\0\0\x08", sync(1)[:40]):
        sources.take(head + data, "127.0.0.1", 0.0)


@pytest.mark.parametrize(
    ("last", "new", "fine"),
    [(0, 1, True), (255, 0, True), (5, 5, False), (10, 1, False), (0, 255, False), (30, 5, True)],
)
def test_late_packets_are_told_by_the_sequence_rule(last, new, fine):
    assert in_order(last, new) is fine


def test_a_source_is_lost_after_two_and_a_half_seconds_and_when_it_says_so():
    sources = SacnSources()
    sources.take(bytes(packet(name="A")), "127.0.0.1", 10.0)
    assert sources.forget_lost(12.4) == []
    assert [source.name for source in sources.forget_lost(12.6)] == ["A"]
    assert sources.ended[1].why == "lost"
    sources.take(bytes(packet(sequence=1, name="B")), "127.0.0.1", 20.0)
    assert sources.take(bytes(packet(sequence=2, terminated=True)), "127.0.0.1", 20.1) == (1,)
    assert not sources.by_key
    assert (sources.ended[1].name, sources.ended[1].why) == ("B", "ended")


def test_an_old_packet_ends_nobody_and_a_preview_that_ends_does():
    sources = SacnSources()
    sources.take(bytes(packet(sequence=10)), "127.0.0.1", 0.0)
    sources.take(bytes(packet(sequence=9, terminated=True)), "127.0.0.1", 0.1)
    assert sources.by_key
    sources.take(bytes(packet(sequence=11, terminated=True, preview=True)), "127.0.0.1", 0.2)
    assert not sources.by_key


def test_what_was_said_last_is_taken_before_a_source_goes():
    sources, levels = SacnSources(), []
    sources.leaving = lambda source: levels.append(source.held[:3])
    sources.take(bytes(packet(levels=(9, 9, 9))), "127.0.0.1", 0.0)
    sources.take(bytes(packet(levels=(0, 0, 0), sequence=1)), "127.0.0.1", 0.1)
    for sequence in (2, 3, 4):
        sources.take(bytes(packet(levels=(7, 7, 7), sequence=sequence, terminated=True)), "127.0.0.1", 0.1)
    assert levels == [bytes(3)]


def only(sources):
    return next(iter(sources.by_key.values()))


def test_preview_data_is_marked_also_when_it_comes_to_be_one():
    sources, changes = SacnSources(), []
    sources.changed = lambda: changes.append(1)
    sources.take(bytes(packet(preview=True)), "127.0.0.1", 0.0)
    assert only(sources).preview
    assert changes == []
    sources.take(bytes(packet(sequence=1)), "127.0.0.1", 0.1)
    assert not only(sources).preview
    assert changes == [1]


def test_rates_and_jitter_come_from_what_was_counted():
    sources = SacnSources()
    for i in range(40):
        sources.take(bytes(packet(sequence=i % 256)), "127.0.0.1", i / 40)
    sources.measure(1.0)
    assert only(sources).rate == pytest.approx(40, abs=1.5)
    assert only(sources).jitter == pytest.approx(0.0, abs=5e-3)
    for i in range(20):
        sources.take(bytes(packet(sequence=40 + 2 * i)), "127.0.0.1", 1.0 + i * 0.05 + (0.02 if i % 2 else 0.0))
    sources.measure(2.0)
    assert only(sources).jitter == pytest.approx(0.02, abs=0.003)
    assert only(sources).longest == pytest.approx(0.07, abs=0.001)
    assert only(sources).missed == 19


def test_a_short_packet_leaves_the_other_slots_at_zero():
    sources = SacnSources()
    sources.take(bytes(packet(levels=[9] * 512)), "127.0.0.1", 0.0)
    sources.take(bytes(short([5, 5], sequence=1)), "127.0.0.1", 0.1)
    assert np.count_nonzero(only(sources).levels) == 2
    sources.take(bytes(short([], sequence=2)), "127.0.0.1", 0.2)
    assert np.count_nonzero(only(sources).levels) == 0


def test_priorities_for_each_slot_hold_until_they_are_no_longer_sent():
    sources = SacnSources()
    sources.take(bytes(packet(levels=[9] * 512, priority=120)), "127.0.0.1", 0.0)
    sources.take(bytes(short([150, 0, 90], start_code=0xDD, sequence=1, priority=120)), "127.0.0.1", 0.1)
    assert only(sources).slot_priorities()[:4].tolist() == [150, SILENT, 90, SILENT]
    assert only(sources).levels[0] == 9
    sources.take(bytes(packet(levels=[9] * 512, priority=120, sequence=2)), "127.0.0.1", 2.0)
    sources.forget_lost(2.7)
    assert only(sources).slot_priorities()[:2].tolist() == [120, 120]


def test_other_start_codes_are_no_levels():
    sources = SacnSources()
    sources.take(bytes(packet(levels=[9])), "127.0.0.1", 0.0)
    assert sources.take(bytes(packet(levels=[1], start_code=0xCC, sequence=1)), "127.0.0.1", 0.1) == ()
    assert only(sources).levels[0] == 9
    assert sources.dropped["other start code"] == 1


def test_synchronized_levels_wait_for_their_packet_also_the_very_first():
    sources = SacnSources()
    for universe in (1, 2):
        assert sources.take(bytes(packet(universe=universe, levels=[50], sync=9)), "127.0.0.1", 0.0) == ()
    assert sources.sync_universes() == {9}
    assert sources.take(sync(8), "127.0.0.1", 0.0) == ()
    assert sources.take(sync(9, cid=b"d" * 16), "127.0.0.1", 0.0) == ()
    assert sources.take(sync(9), "127.0.0.1", 0.01) == (1, 2)
    assert [source.levels[0] for source in sources.by_key.values()] == [50, 50]
    assert sources.take(sync(9, sequence=0), "127.0.0.1", 0.02) == ()
    assert sources.dropped["out of order"] == 1


@pytest.mark.parametrize(("force", "shown"), [(True, (1,)), (False, ())])
def test_when_synchronization_is_lost_the_packet_says_whether_to_go_on(force, shown):
    sources = SacnSources()
    sources.take(bytes(packet(levels=[1], sync=9, force=force)), "127.0.0.1", 0.0)
    sources.take(sync(9), "127.0.0.1", 0.0)
    assert sources.take(bytes(packet(levels=[2], sync=9, force=force, sequence=1)), "127.0.0.1", 2.6) == shown


def test_levels_whose_synchronization_never_comes_are_shown_in_the_end():
    sources = SacnSources()
    assert sources.take(bytes(packet(levels=[1], sync=9)), "127.0.0.1", 0.0) == ()
    assert sources.take(bytes(packet(levels=[2], sync=9, sequence=1)), "127.0.0.1", 1.0) == ()
    assert sources.take(bytes(packet(levels=[3], sync=9, sequence=2)), "127.0.0.1", 2.6) == (1,)


def test_what_a_source_says_it_sends_is_known():
    sources = SacnSources()
    data = TheirDiscovery(cid=tuple(b"c" * 16), sourceName="Quay", universes=(1, 2, 9)).getBytes()
    sources.take(bytes(data), "127.0.0.7", 0.0)
    (offered,) = sources.offered.values()
    assert (offered.name, offered.address, offered.universes) == ("Quay", "127.0.0.7", (1, 2, 9))
    sources.forget_lost(24.0)
    assert sources.offered
    sources.forget_lost(26.0)
    assert not sources.offered


def test_a_flood_of_senders_is_bounded_and_its_end_leaves_nothing():
    sources = SacnSources()
    for i in range(OF_UNIVERSE_MOST + 5):
        sources.take(bytes(packet(cid=i.to_bytes(16, "big"))), "127.0.0.1", 0.0)
    assert len(sources.by_universe[1]) == OF_UNIVERSE_MOST
    assert sources.dropped["too many sources"] == 5
    data = packet(cid=b"z" * 16)
    for universe in range(2, SOURCES_MOST + 10):
        struct.pack_into(">H", data, 113, universe)
        sources.take(bytes(data), "127.0.0.1", 0.0)
    assert len(sources.by_key) == SOURCES_MOST
    sources.forget_lost(3.0)
    assert not sources.by_key
    assert not sources.by_universe
    assert not sources._quick
    assert len(sources.ended) <= 1024


def test_groups_are_made_of_the_universe():
    assert multicast_group(1) == "239.255.0.1"
    assert multicast_group(63999) == "239.255.249.255"
