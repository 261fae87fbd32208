"""Values to consoles by OSC, with python-osc at the other end."""

import random
import threading

import pytest
from pythonosc.dispatcher import Dispatcher
from pythonosc.osc_server import ThreadingOSCUDPServer
from pythonosc.udp_client import SimpleUDPClient

from tests.processes import wait_for
from zarfwright.core.linking.values import Value
from zarfwright.links.osc import DATAGRAM_MOST, Osc, PaletteTold, PaletteValue, Selection, address_towards, bundles


@pytest.fixture
def foreign():
    """What another program's OSC server hears: (address, arguments)."""
    heard = []
    dispatcher = Dispatcher()
    dispatcher.set_default_handler(lambda address, *args: heard.append((address, args)))
    server = ThreadingOSCUDPServer(("127.0.0.1", 0), dispatcher)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server.server_address[1], heard
    server.shutdown()
    server.server_close()


@pytest.fixture
def ours():
    heard = []
    made = Osc("127.0.0.1", heard.append)
    yield made, heard
    made.close()


def test_values_arrive_at_any_osc_server_typed_and_by_fixture_and_function(foreign, ours):
    port, heard = foreign
    osc, _ = ours
    values = [Value(61, "Pan", 0, 12.5, "deg"), Value(31, "ColorAdd_R", 3, 0.25, "share")]
    for data in bundles(values):
        assert osc.send(data, "127.0.0.1", port)
    wait_for(lambda: len(heard) == 2, "both values")
    assert heard == [("/fixture/61/Pan", (12.5, "deg")), ("/fixture/31/ColorAdd_R/3", (0.25, "share"))]
    osc.hello("Zarfwright", "127.0.0.1", port)
    wait_for(lambda: len(heard) == 3, "the greeting")
    assert heard[2] == ("/hello", ("Zarfwright", osc.port))


def test_many_values_go_in_bundles_that_fit_a_datagram():
    values = [Value(n, "ColorAdd_R", c, 0.5, "share") for n in range(1, 40) for c in range(1, 13)]
    made = list(bundles(values))
    assert all(len(data) <= DATAGRAM_MOST for data in made)
    assert all(data.startswith(b"#bundle\0") for data in made)
    assert len(made) < len(values) / 20
    assert list(bundles([])) == []


def test_what_a_console_says_is_heard(ours):
    osc, heard = ours
    client = SimpleUDPClient("127.0.0.1", osc.port)
    client.send_message("/selection", [61, 62, -3, "x", 2.5])
    client.send_message("/selection", [])
    client.send_message("/palette", ["colour", 4, "Dusk\n"])
    client.send_message("/palette/value", [4, 61, "ColorSub_C", 0.5])
    client.send_message("/palette/value", [4, 31, "ColorAdd_R/2", 1.0])
    wait_for(lambda: len(heard) == 5, "all that was said")
    assert [type(one) for one in heard] == [Selection, Selection, PaletteTold, PaletteValue, PaletteValue]
    assert [one.numbers for one in heard[:2]] == [(61, 62), ()]
    assert (heard[2].kind, heard[2].number, heard[2].name) == ("colour", 4, "Dusk")
    assert [(one.palette, one.fixture, one.attribute, one.part, one.value) for one in heard[3:]] == [
        (4, 61, "ColorSub_C", 0, 0.5),
        (4, 31, "ColorAdd_R", 2, 1.0),
    ]


def test_a_console_on_this_machine_is_reached_by_the_loopback_alone():
    assert address_towards("127.0.0.1") == "127.0.0.1"
    assert address_towards("127.0.0.9").startswith("127.")


def test_malformed_datagrams_are_counted_and_dropped(ours):
    osc, heard = ours
    client = SimpleUDPClient("127.0.0.1", osc.port)
    dice = random.Random(5)
    bad = [b"", b"#bundle\0", b"/selection", b"#bundle\0" + bytes(8) + b"\xff\xff\xff\xff" + b"x" * 20]
    bad += [dice.randbytes(dice.randint(1, 200)) for _ in range(200)]
    for data in bad:
        client._sock.sendto(data, ("127.0.0.1", osc.port))
    client.send_message("/palette", ["colour"])
    client.send_message("/selection", [7])
    wait_for(lambda: heard, "what was right")
    assert [one.numbers for one in heard] == [(7,)]
    assert osc.malformed > 0
