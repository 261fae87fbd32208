"""Art-Net packets, made by hand from the standard's tables."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zarfwright.links.artnet import ArtNetSources, parse, replies


def dmx(universe=0, levels=(1, 2, 3, 4), sequence=0, version=14, length=None):
    """ArtDmx: id, OpCode 0x5000 low byte first, ProtVer high and low, Sequence, Physical, SubUni, Net, Length high and
    low, data."""
    count = len(levels) if length is None else length
    head = b"Art-Net\0" + bytes([0x00, 0x50, version >> 8, version & 0xFF, sequence, 0, universe & 0xFF, universe >> 8])
    return head + bytes([count >> 8, count & 0xFF]) + bytes(levels)


POLL = b"Art-Net\0" + bytes([0x00, 0x20, 0, 14, 0x02, 0x10])
SYNC = b"Art-Net\0" + bytes([0x00, 0x52, 0, 14, 0, 0])


def test_levels_are_read_with_their_port_address():
    read = parse(dmx(0x123, [7] * 512, 9))
    assert (read.universe, read.sequence, read.levels) == (0x123, 9, bytes([7] * 512))


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (b"", "truncated"),
        (b"Art-Net\0\0", "truncated"),
        (b"Art-Nut\0" + dmx()[8:], "not Art-Net"),
        (dmx(version=13), "older protocol"),
        (dmx()[:15], "truncated"),
        (dmx(length=513), "wrong length"),
        (dmx(length=0), "wrong length"),
        (dmx(length=40), "truncated"),
        (dmx(0x8000), "universe out of range"),
        (b"Art-Net\0" + bytes([0x00, 0x60, 0, 14, 0, 0]), "other Art-Net"),
    ],
)
def test_malformed_packets_are_dropped_and_counted_by_their_fault(data, why):
    assert parse(data) == why
    sources = ArtNetSources()
    assert sources.take(data, "127.0.0.1", 0.0) == ()
    assert sources.dropped[why] == 1


@given(st.binary(max_size=600))
def test_no_bytes_at_all_raise(data):
    sources = ArtNetSources()
    for head in (b"", dmx()[:10], dmx()[:18], POLL[:12], b"Art-Net\0\0\x21"):
        sources.take(head + data, "127.0.0.1", 0.0)


def levels_of(sources, universe=0):
    return [source.held[:2] for source in sources.by_universe[universe]]


def test_two_senders_are_two_sources_and_late_packets_are_left():
    sources = ArtNetSources()
    sources.take(dmx(levels=[10, 20], sequence=5), "127.0.0.1", 0.0)
    sources.take(dmx(levels=[30, 5], sequence=1), "127.0.0.2", 0.0)
    assert levels_of(sources) == [bytes([10, 20]), bytes([30, 5])]
    assert sources.take(dmx(levels=[0, 0], sequence=4), "127.0.0.1", 0.1) == ()
    assert sources.dropped["out of order"] == 1
    # After 255 comes 1, and 0 says that they are not numbered.
    for sequence in (120, 250):
        sources.take(dmx(levels=[1, 1], sequence=sequence), "127.0.0.1", 0.2)
    assert sources.take(dmx(levels=[2, 2], sequence=1), "127.0.0.1", 0.3) == (0,)
    assert sources.take(dmx(levels=[3, 3], sequence=0), "127.0.0.1", 0.4) == (0,)


def test_a_source_is_lost_after_ten_seconds():
    sources = ArtNetSources()
    sources.take(dmx(), "127.0.0.1", 0.0)
    assert sources.forget_lost(9.9) == []
    assert len(sources.forget_lost(10.1)) == 1


def test_a_short_packet_leaves_the_other_slots_as_they_were():
    sources = ArtNetSources()
    sources.take(dmx(levels=[9] * 512), "127.0.0.1", 0.0)
    sources.take(dmx(levels=[1, 1]), "127.0.0.1", 0.1)
    assert sources.by_universe[0][0].held == bytes([1, 1] + [9] * 510)


def test_levels_wait_once_they_are_synchronized_and_no_longer_when_that_ceases():
    sources = ArtNetSources()
    assert sources.take(dmx(levels=[1, 1]), "127.0.0.1", 0.0) == (0,)
    sources.take(SYNC, "127.0.0.1", 0.0)
    assert sources.take(dmx(levels=[2, 2]), "127.0.0.1", 0.1) == ()
    assert sources.take(dmx(1, levels=[2, 2]), "127.0.0.1", 0.1) == ()
    assert levels_of(sources) == [bytes([1, 1])]
    assert sorted(sources.take(SYNC, "127.0.0.1", 0.2)) == [0, 1]
    assert levels_of(sources) == [bytes([2, 2])]
    assert sources.take(dmx(levels=[3, 3]), "127.0.0.1", 4.3) == (0,)


def test_who_sends_no_levels_synchronizes_nothing():
    sources = ArtNetSources()
    sources.take(dmx(), "127.0.0.1", 0.0)
    assert sources.take(SYNC, "127.0.0.9", 0.0) == ()
    assert sources.take(dmx(levels=[2, 2]), "127.0.0.1", 0.1) == (0,)


def test_a_poll_is_answered_by_port_addresses_four_to_a_reply():
    sources = ArtNetSources()
    sources.take(POLL, "127.0.0.5", 0.0)
    assert sources.polled == {"127.0.0.5"}
    made = replies("127.0.0.7", "Zarfwright", [0, 1, 2, 3, 4, 0x1F, 0x200], "hears")
    assert [len(reply) for reply in made] == [239] * 4
    first = made[0]
    assert first[:10] == b"Art-Net\0\x00\x21"
    assert first[10:14] == bytes([127, 0, 0, 7])
    assert int.from_bytes(first[14:16], "little") == 6454
    assert first[26:44].rstrip(b"\0") == b"Zarfwright"
    assert [(reply[18], reply[19], reply[173], *reply[190 : 190 + reply[173]]) for reply in made] == [
        (0, 0, 4, 0, 1, 2, 3), (0, 0, 1, 4), (0, 1, 1, 0xF), (2, 0, 1, 0),
    ]  # fmt: skip
    assert [reply[211] for reply in made] == [1, 2, 3, 4]
    assert len(replies("127.0.0.7", "Zarfwright", [], "hears")) == 1


def test_the_name_in_a_reply_is_the_name_of_its_sender():
    sources = ArtNetSources()
    sources.take(replies("127.0.0.5", "Quay", [], "")[0], "127.0.0.5", 0.0)
    sources.take(dmx(), "127.0.0.5", 0.0)
    assert next(iter(sources.by_key.values())).name == "Quay"
