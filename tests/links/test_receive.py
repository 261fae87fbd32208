"""The receive thread on real sockets: one address, many groups, broadcasts, polls, and ports that are taken."""

import socket
import subprocess
import sys
from dataclasses import replace

import pytest

from tests.links.test_artnet import POLL, dmx
from tests.links.test_sacn import packet, sync
from tests.processes import PATIENCE_S, own_address, wait_for
from zarfwright.core.connections import Connection
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.doctor.arriving import no_link
from zarfwright.library import dunlin
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.hearing import Hearing
from zarfwright.links.live.playing import live_rig
from zarfwright.links.live.record import Recorder


def free_port():
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as udp:
        udp.bind(("", 0))
        return udp.getsockname()[1]


class Ears:
    """A hearing of its own, on ports of its own, and somebody who sends to it."""

    def __init__(self):
        self.address = own_address()
        self.ports = {"sACN": free_port(), "Art-Net": free_port()}
        self.engine = Engine()
        rows = [PatchRow("a", dunlin(), "Standard", 1, 1), PatchRow("b", dunlin(), "Standard", 300, 1)]
        self.engine.set_rig(live_rig(1, rows))
        self.hearing = Hearing(self.engine, dict.fromkeys(self.ports, self.address), self.ports)
        self.udp = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        self.udp.setsockopt(socket.SOL_SOCKET, socket.SO_BROADCAST, 1)
        self.udp.setsockopt(socket.IPPROTO_IP, socket.IP_MULTICAST_IF, socket.inet_aton(self.address))

    def listen(self, *connections, only=None):
        self.hearing.set([(one.name, one) for one in connections], only)

    def hears(self, send, check, what):
        """Send again and again until something is so: what is sent before a socket is open is lost."""
        sequence = iter(range(1, 10_000))

        def tried():
            send(next(sequence) % 256)
            return check()

        return wait_for(tried, what)

    def send(self, data, to, protocol="sACN"):
        self.udp.sendto(bytes(data), (to, self.ports[protocol]))

    def level(self, universe):
        self.engine.beams()
        levels = self.engine.levels.get(universe)
        return None if levels is None else int(levels[0])

    def states(self):
        return {one["id"]: one["state"] for one in self.hearing.report()["connections"]}


def told(ears, name):
    return next(one for one in ears.hearing.report()["connections"] if one["id"] == name)


@pytest.fixture
def ears():
    made = Ears()
    made.hearing.start()
    yield made
    made.hearing.receiver.stop()
    made.udp.close()


def test_without_connections_it_hears_as_it_was_started(ears):
    ears.hears(
        lambda n: ears.send(packet(levels=[7], sequence=n), ears.address), lambda: ears.level(1) == 7, "its level"
    )
    assert ears.states() == {"as started sACN": "live"}
    assert ears.hearing.report()["listening"] == f"{ears.address}:{ears.ports['sACN']}"


def test_connections_land_where_they_say_and_can_be_silenced(ears):
    desk = Connection("desk", "sACN", first=231, last=240, lands=1)
    node = Connection("node", "Art-Net", first=0, last=9, lands=11)
    ears.listen(desk, node)
    ears.hears(
        lambda n: ears.send(packet(231, [8], sequence=n), ears.address), lambda: ears.level(1) == 8, "universe 231 on 1"
    )
    ears.hears(
        lambda n: ears.send(dmx(2, [9, 9]), ears.address, "Art-Net"), lambda: ears.level(13) == 9, "Art-Net 2 on 13"
    )
    assert ears.states() == {"desk": "live", "node": "live"}
    ears.listen(desk, node, only="node")
    assert ears.states() == {"desk": "silenced", "node": "live"}
    ears.listen(replace(desk, listen=False))
    assert ears.states() == {"desk": "silenced"}


def test_groups_are_joined_for_what_is_wanted_and_left_when_it_no_longer_is(ears):
    """More than one socket may join; and universe 300 is heard though the range is too long to join it all."""
    ears.listen(Connection("desk", "sACN", first=100, last=160, lands=100))
    for universe in (100, 160):
        group = f"239.255.0.{universe}"
        ears.hears(
            lambda n, to=group, u=universe: ears.send(packet(u, [5], sequence=n), to),
            lambda u=universe: ears.level(u) == 5,
            group,
        )
    assert len(ears.hearing.receiver._wide["sACN"]) == 4
    ears.listen(Connection("desk", "sACN"))
    ears.hears(
        lambda n: ears.send(packet(300, [6], sequence=n), "239.255.1.44"),
        lambda: ears.level(300) == 6,
        "what is patched",
    )
    assert sum(len(wide.joined) for wide in ears.hearing.receiver._wide["sACN"]) == 3
    ears.listen(Connection("desk", "sACN", multicast=False))
    wait_for(lambda: not ears.hearing.receiver._wide.get("sACN"), "the groups to be left")


def test_the_group_of_a_synchronization_is_joined_too(ears):
    ears.listen(Connection("desk", "sACN", last=9))

    def waiting():
        ears.hearing.look()
        return ears.engine.inputs.registries["sACN", ears.address].sync_universes()

    ears.hears(lambda n: ears.send(packet(1, [4], sync=77, sequence=n), ears.address), waiting, "levels that wait")
    assert ears.level(1) is None
    ears.hearing.look()
    ears.hears(lambda n: ears.send(sync(77, n), "239.255.0.77"), lambda: ears.level(1) == 4, "the synchronization")


def test_broadcasts_are_heard_by_art_net_and_polls_are_answered(ears):
    ears.listen(Connection("node", "Art-Net", first=0, last=9, lands=1))
    ears.hears(
        lambda n: ears.send(dmx(0, [3, 3]), "127.255.255.255", "Art-Net"), lambda: ears.level(1) == 3, "a broadcast"
    )
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as console:
        console.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        console.bind((own_address(), ears.ports["Art-Net"]))
        console.settimeout(PATIENCE_S)
        console.sendto(POLL, (ears.address, ears.ports["Art-Net"]))
        reply, (address, _) = console.recvfrom(500)
    assert (reply[:10], address, reply[190]) == (b"Art-Net\0\x00\x21", ears.address, 0)


def test_what_is_sent_to_another_address_of_this_machine_is_noted(ears):
    ears.listen(Connection("desk", "sACN", multicast=False))
    ears.hearing.listen_around(True)
    other = own_address()
    ears.hears(
        lambda n: ears.send(packet(5, [1], sequence=n), other),
        lambda: ears.hearing.report()["elsewhere"],
        "what came elsewhere",
    )
    [noted] = ears.hearing.report()["elsewhere"]
    assert (noted["protocol"], noted["address"], noted["universes"]) == ("sACN", other, [5])


def test_a_port_that_another_program_holds_is_named_with_it_and_taken_once_it_is_free(ears):
    ears.listen(Connection("desk", "sACN"))
    wait_for(lambda: ears.states()["desk"] == "silent", "the connection")
    holds = (
        "import socket, sys\nudp = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)\n"
        "udp.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)\n"
        f"udp.bind(('127.99.1.9', {ears.ports['Art-Net']}))\n"
        "print('held', flush=True)\nsys.stdin.read()"
    )
    holder = subprocess.Popen([sys.executable, "-c", holds], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    assert holder.stdout.readline() == b"held\n"
    ears.hearing.own = {**ears.hearing.own, "Art-Net": "127.99.1.9"}
    ears.listen(Connection("node", "Art-Net"))
    wait_for(lambda: ears.states() == {"node": "wrong"}, "what is wrong")
    said = ears.hearing.report()["connections"][0]["said"]
    assert "127.99.1.9" in said
    assert f"(process {holder.pid})" in said
    holder.stdin.close()
    holder.wait(PATIENCE_S)
    wait_for(lambda: ears.states() == {"node": "silent"}, "the port")


def test_an_interface_that_is_gone_is_said_with_the_nearest(ears):
    ears.listen(Connection("desk", "sACN", interface="eth77", address="10.9.8.7"))
    [told] = ears.hearing.report()["connections"]
    assert told["state"] == "wrong"
    assert "eth77 (10.9.8.7) is gone" in told["said"]
    assert told["nearest"]["name"]
    assert ears.hearing.report()["interfaces"][0]["address"] == ears.address


def test_what_the_system_refuses_ends_nothing_and_is_tried_again(ears, monkeypatch):
    receiver, tries = ears.hearing.receiver, []
    plain = receiver._widen

    def once_wrong(protocol, groups):
        tries.append(protocol)
        if len(tries) == 1:
            raise OSError(23, "too many open files")
        plain(protocol, groups)

    monkeypatch.setattr(receiver, "_widen", once_wrong)
    ears.listen(Connection("desk", "sACN"))
    ears.hears(
        lambda n: ears.send(packet(levels=[7], sequence=n), ears.address), lambda: ears.level(1) == 7, "its level"
    )
    wait_for(lambda: len(tries) >= 2, "another try")


def test_groups_that_the_system_refuses_are_told_until_fewer_are_wanted(ears, monkeypatch):
    """Linux lets a socket join twenty groups."""
    monkeypatch.setattr("zarfwright.links.live.receive.JOINS_MOST", 1000)
    wide = Connection("wide", "sACN", "", ears.address, 1, 60)
    ears.listen(wide)
    wait_for(lambda: "The system refuses 41 multicast groups here" in told(ears, "wide")["said"], "what is refused")
    facts = Recorder(ears.engine, ears.hearing).facts()
    [cause] = no_link(facts, [])
    assert "refuses 41 multicast groups" in cause.evidence
    assert (cause.cause, told(ears, "wide")["state"]) == ("no_link", "silent")
    ears.listen(replace(wide, last=9))
    wait_for(lambda: "refuses" not in told(ears, "wide")["said"], "that nothing is refused")


def test_who_looks_around_beside_another_does_not_end_that(ears):
    """A doctor beside a recording: what comes to other addresses is noted until both have ended."""
    ears.hearing.listen_around(True)
    ears.hearing.listen_around(True)
    ears.hearing.listen_around(False)
    ears.hears(
        lambda n: ears.send(dmx(0, [9] * 512, n), "127.250.3.1", "Art-Net"),
        lambda: ("Art-Net", "127.250.3.1") in ears.hearing.receiver.elsewhere,
        "that something came to another address",
    )
    ears.hearing.listen_around(False)
    wait_for(lambda: "Art-Net" not in ears.hearing.receiver._wide, "that nobody looks around any more")
