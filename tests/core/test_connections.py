"""Connections: where universes land, who is listened to, and interfaces that have changed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zarfwright.core.connections import Connection, Interface, audible, resolve

LO = Interface("lo", "127.0.0.1", 8)
DESK = Interface("eth0", "10.0.0.5", 24)
HOUSE = Interface("eth1", "192.168.1.20", 24)


def on(interface="eth0", address="10.0.0.5"):
    return Connection("desk", "sACN", interface, address)


def test_a_range_lands_as_a_whole():
    desk = Connection("desk", "sACN", first=231, last=240, lands=1)
    assert [desk.lands_on(universe) for universe in (230, 231, 240, 241)] == [None, 1, 10, None]
    assert [desk.heard_as(universe) for universe in (0, 1, 10, 11)] == [None, 231, 240, None]


@given(st.integers(0, 32767), st.integers(0, 400), st.integers(1, 63999), st.integers(0, 40000))
def test_what_lands_is_heard_as_itself(first, count, lands, universe):
    node = Connection("node", "Art-Net", first=first, last=first + count, lands=lands)
    landed = node.lands_on(universe)
    if landed is not None:
        assert node.heard_as(landed) == universe


def test_only_this_silences_the_others_as_long_as_it_is_there():
    pairs = [("a", on()), ("b", Connection("quiet", "sACN", listen=False))]
    assert audible(pairs, None) == {"a"}
    assert audible(pairs, "b") == {"b"}
    assert audible(pairs, "gone") == {"a"}


@pytest.mark.parametrize(
    ("connection", "interfaces", "where", "said"),
    [
        (on(), [LO, DESK], DESK, ""),
        (on(), [LO, Interface("eth0", "10.0.0.5", 24, up=False)], Interface("eth0", "10.0.0.5", 24, False), "no link"),
        (on(), [LO, Interface("eth0", "10.0.0.9", 24)], Interface("eth0", "10.0.0.9", 24), "another address now"),
        (on(), [LO, Interface("usb0", "10.0.0.5", 24)], Interface("usb0", "10.0.0.5", 24), "on usb0 now"),
        (on("lo", "127.0.0.1"), [Interface("lo", "127.4.4.4", 8)], Interface("lo", "127.4.4.4", 8), ""),
        (on(), [LO, HOUSE], None, "Nearest to it is eth1"),
    ],
)
def test_a_connection_is_found_again_on_the_interfaces_there_are(connection, interfaces, where, said):
    found = resolve(connection, interfaces)
    assert found.interface == where
    assert said in found.said


def test_the_nearest_has_a_link_and_most_of_the_address_in_common():
    near = Interface("eth2", "10.0.3.1", 24)
    assert resolve(on(), [LO, HOUSE, near, Interface("eth3", "10.0.0.6", 24, up=False)]).nearest == near
    assert resolve(on(), [LO]).nearest == LO
