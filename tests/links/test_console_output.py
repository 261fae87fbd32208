"""What the simulated console sends: heard as any console is, recorded, and sent again by somebody else."""

import socket

import pytest
import sacn

from tests.links.test_engine import ARTNET, SACN, connect
from tests.processes import PATIENCE_S, own_address
from zarfwright.core.connections import Connection
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.library import heron, shipped, shipped_file
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.playing import live_rig
from zarfwright.standins.console.desk import Desk
from zarfwright.standins.console.gdtf import read_gdtf
from zarfwright.standins.console.output import Faults, Output, Sent, Universes
from zarfwright.standins.console.patch import Fixture

MARK = b"no packet of any protocol"
PORTS = {5568: SACN, 6454: ARTNET}


class Line:
    """An address where all that is sent to it is kept."""

    def __init__(self):
        self.host = own_address()
        self.sockets = {}
        for port in PORTS:
            self.sockets[port] = made = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
            made.bind((self.host, port))
            made.settimeout(PATIENCE_S)

    def came(self):
        """(port, datagram) of all that has come since: up to a mark that is sent behind it."""
        found = []
        for port, one in self.sockets.items():
            with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as behind:
                behind.sendto(MARK, (self.host, port))
            while (data := one.recv(2000)) != MARK:
                found.append((port, data))
        return found

    def close(self):
        for one in self.sockets.values():
            one.close()


@pytest.fixture
def line():
    made = Line()
    yield made
    made.close()


@pytest.fixture
def desk(line):
    """A console with a heron on universe 1 and another on 2."""
    kind = read_gdtf(shipped_file(next(key for key, one in shipped().items() if one.name == "Heron")))
    mode = kind.mode("Standard")
    rig = [Fixture(f"h{n}", 60 + n, "", kind.name, mode, {1: (n, 1)}) for n in (1, 2)]
    made = Desk(Sent("Desk", Universes("1"), Universes("2"), 120, line.host))
    made.take_patch(rig)
    for fixture, pan in zip(rig, (30.0, -45.0), strict=True):
        made.set_value(fixture, "Pan", pan)
        made.set_level(fixture, 0.6)
    return made


def heard(packets):
    """What the live engine makes of datagrams: features by fixture."""
    engine = Engine()
    connect(engine, Connection("a", "sACN"), Connection("b", "Art-Net", first=0, last=100, lands=1))
    engine.set_rig(live_rig(1, [PatchRow(f"h{n}", heron(), "Standard", n, 1) for n in (1, 2)]))
    for port, data in packets:
        engine.packet(PORTS[port], data, "127.0.0.9", 10.0)
    engine.take_in()
    values = engine.values()
    levels, _ = engine.heard_levels()
    return levels, {key: (round(v["pan"], 3), round(v["dimmer"], 3)) for key, v in values.items()}


def recorded(desk, line, faults=None):
    output = Output(desk.sent)
    if faults is not None:
        output.set(desk.sent, faults)
    output.send(desk.playback.levels(), 1.0)
    output.close()
    return line.came()


def test_its_packets_are_heard_by_both_protocols_and_come_to_the_same_picture(desk, line):
    packets = recorded(desk, line)
    levels, seen = heard(packets)
    assert levels == desk.playback.levels()
    assert seen["h1"] == (pytest.approx(0.524, abs=0.002), pytest.approx(0.6, abs=0.01))
    assert seen["h2"] == (pytest.approx(-0.785, abs=0.002), pytest.approx(0.6, abs=0.01))


def test_recorded_and_sent_again_by_a_foreign_sender_the_picture_is_the_same(desk, line):
    packets = recorded(desk, line)
    again = Line()
    try:
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as foreign:
            for port, data in packets:
                foreign.sendto(data, (again.host, port))
        assert heard(again.came()) == heard(packets)
    finally:
        again.close()


def test_the_sacn_package_reads_its_packets_too(desk, line):
    data = next(data for port, data in recorded(desk, line) if port == 5568)
    read = sacn.DataPacket.make_data_packet(tuple(data))
    assert (read.sourceName, read.universe, read.priority) == ("Desk", 1, 120)
    assert bytes(read.dmxData) == desk.playback.levels()[1]


def test_when_it_is_shut_down_it_says_so_three_times_and_dead_it_says_nothing(desk, line):
    ends = [data for port, data in recorded(desk, line) if port == 5568 and data[112] & 0x40]
    assert len(ends) == 3
    assert recorded(desk, line, Faults(dead=True)) == []


def test_deliberate_faults_of_the_line(desk, line):
    preview = next(data for port, data in recorded(desk, line, Faults(preview=True)) if port == 5568)
    assert preview[112] & 0x80
    moved = {data[113:115] for port, data in recorded(desk, line, Faults(universe=7)) if port == 5568}
    assert moved == {b"\0\x08"}
    output = Output(desk.sent)
    output.set(desk.sent, Faults(drop=0.5))
    levels = desk.playback.levels()
    for n in range(200):
        output.send(levels, float(n))
    data = [data for port, data in line.came() if port == 5568]
    output.close()
    line.came()
    # Half of two hundred, and their numbers go on over those that were lost.
    assert 60 < len(data) < 140
    assert max(one[111] for one in data) > len(data)


def test_an_output_that_is_taken_away_is_ended(desk, line):
    output = Output(desk.sent)
    output.send(desk.playback.levels(), 0.0)
    line.came()
    output.set(Sent("Desk", Universes(""), Universes("2"), 120, line.host), Faults())
    ends = line.came()
    assert [data[112] & 0x40 for _, data in ends] == [0x40] * 3
    output.send(desk.playback.levels(), 1.0)
    assert {port for port, _ in line.came()} == {6454}
    output.close()
