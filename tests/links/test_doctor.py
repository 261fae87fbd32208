"""The doctor: every cause is provoked by packets of another library, alone and in pairs; clean shows raise nothing."""

import math
from dataclasses import replace
from types import SimpleNamespace

import pytest

from tests.links.scene import ETH, FRAME, LO, Console, Scene, wash
from zarfwright.core.connections import Connection, Interface
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.inputs import heard_now
from zarfwright.links.live.record import Recorder

ALL = ("sACN", 1, 63999, 1)


@pytest.fixture
def scene(monkeypatch):
    made = Scene(monkeypatch)
    made.patch(6)
    return made


def moving(at):
    """A console as it plays: fades, movement, and a blackout of six seconds in each minute."""
    swing, pan = round(128 + 100 * math.sin(at)), round(32768 + 20000 * math.sin(at / 2))
    level = 0 if at % 60 > 54 else round(128 + 127 * math.sin(at / 3))
    one = [pan >> 8, pan & 255, swing, 0, level, 32, 255, swing, 60, 0, 128]
    return one * 6


def plain(scene, **more):
    """A console that plays what the rig expects."""
    scene.consoles.append(Console(**{"universe": 1, "levels": moving, **more}))
    return scene.consoles[-1]


def no_packets(scene):
    pass


def unwanted_universe(scene):
    plain(scene)
    plain(scene, universe=9, name="Stray")


def off_by_one(scene):
    plain(scene, universe=2)


def other_interface(scene):
    scene.elsewhere["sACN", "10.0.0.5"] = (1, 2)


def no_link(scene):
    scene.connect(Connection("desk", *ALL[:1], interface="eth9", address="10.0.0.9"))


def port_taken(scene):
    scene.receiver.problems["sACN", "127.0.0.1"] = "Nothing can be heard on 127.0.0.1 port 5568: held by another."


def preview_only(scene):
    scene.connect(Connection("desk", *ALL[:1]))
    plain(scene, options={"preview": True})


def priority_fight(scene):
    plain(scene, levels=lambda at: wash(6, 40), priority=150)
    plain(scene, levels=lambda at: wash(6, 220), name="House", priority=90)


def sources_at_odds(scene):
    plain(scene, levels=lambda at: wash(6, 40, r=90))
    plain(scene, levels=lambda at: wash(6, 220, g=30), name="House")


def source_ended(scene):
    plain(scene, sends=lambda at: at < 4)


def source_flapping(scene):
    plain(scene, sends=lambda at: at % 4 < 1)


def slow(scene):
    plain(scene, rate=5)


def all_zero(scene):
    plain(scene, levels=lambda at: [0] * 512)


def scaled(scene):
    def identify(at):
        """Each of six in turn, to what a grand master at 60 % leaves of full."""
        return [level for i in range(6) for level in wash(1, 153 if int(at / 1.5) % 6 == i else 0)]

    plain(scene, levels=identify)


def dark_shutter(scene):
    plain(scene, levels=lambda at: wash(6, shutter=0))


def dark_colour(scene):
    plain(scene, levels=lambda at: wash(6, r=0, g=0, b=0))


def dark_iris(scene):
    scene.patch(2, "3.001", "heron")
    closed = [100, 7, 120, 9, 200, 32, 0, 0, 0, 0, 0, 0, 0, 255, 128, 0]
    plain(scene)
    plain(scene, universe=3, levels=lambda at: closed * 2)


def dark_truss(scene):
    plain(scene)
    truss = scene.bench.made("add truss", length="8m", start_trim="6m")
    heads = scene.bench.do("place along rail", structure=truss, rail="lower right", type="dunlin", count="4").select
    scene.bench.do("address", ids=list(heads), start="3.001")
    # Across the truss, and up by thirty degrees.
    into = wash(4, pan=170, tilt=255)
    for first in range(0, len(into), 11):
        into[first + 1], into[first + 3] = 170, 255
    plain(scene, universe=3, levels=lambda at: into)


def shared_slots(scene):
    plain(scene)
    scene.patch(1, "1.030", "heron")


def fine_swapped(scene):
    def swapped(at):
        value = round(32768 + 20000 * math.sin(at / 2))
        return [*(value & 255, value >> 8), 120, 9, 200, 32, 255, 120, 60, 0, 128] * 6

    plain(scene, levels=swapped)


def kernel_drops(scene):
    plain(scene)
    counts = iter([0, 40])
    scene.receiver.kernel_drops = lambda: next(counts, 40)


FAULTS = {
    made.__name__: made
    for made in (
        no_packets, unwanted_universe, off_by_one, other_interface, no_link, port_taken, preview_only, priority_fight,
        sources_at_odds, source_ended, source_flapping, slow, all_zero, scaled, dark_shutter, dark_colour, dark_iris,
        dark_truss, shared_slots, fine_swapped, kernel_drops,
    )
}  # fmt: skip


@pytest.mark.parametrize("fault", FAULTS)
def test_each_fault_by_itself_is_named_and_nothing_else(scene, fault):
    FAULTS[fault](scene)
    found = scene.causes(12.0)
    # A fixture patched over others by accident is also dark by what it reads there: that is no second fault.
    names = {one.cause for one in found} - ({"dark_colour", "dark_iris"} if fault == "shared_slots" else set())
    assert names == {fault}
    assert all(one.evidence and one.action for one in found)


PAIRS = [
    ("priority_fight", "unwanted_universe"), ("sources_at_odds", "shared_slots"), ("dark_shutter", "kernel_drops"),
    ("fine_swapped", "kernel_drops"), ("scaled", "kernel_drops"), ("slow", "kernel_drops"),
    ("source_ended", "kernel_drops"),
    ("preview_only", "kernel_drops"), ("all_zero", "dark_iris"), ("dark_colour", "dark_iris"),
    ("dark_shutter", "dark_truss"),
    ("off_by_one", "shared_slots"), ("no_packets", "shared_slots"), ("other_interface", "shared_slots"),
]  # fmt: skip


@pytest.mark.parametrize(("one", "other"), PAIRS)
def test_two_faults_at_once_are_both_named(scene, one, other):
    FAULTS[one](scene)
    before = len(scene.consoles)
    FAULTS[other](scene)
    # The second one's own console for what the first already sends would be a third fault.
    scene.consoles = [
        c for i, c in enumerate(scene.consoles)
        if i < before or (c.universe, c.name) not in {(k.universe, k.name) for k in scene.consoles[:before]}
    ]  # fmt: skip
    if one == "off_by_one":
        scene.consoles = scene.consoles[:before]
    if one in ("no_packets", "other_interface"):
        scene.consoles = []
    assert {one, other} <= set(scene.names(12.0))


def test_ten_minutes_of_a_show_with_fades_and_blackouts_raise_nothing(scene):
    plain(scene)
    for _ in range(60):
        assert scene.causes(10.0) == []


def test_heads_that_nobody_has_placed_are_not_said_to_look_into_their_truss(scene):
    dark_truss(scene)
    nowhere = [0 if i % 11 in (0, 1, 2, 3) else level for i, level in enumerate(wash(4))]
    scene.consoles[-1].levels = lambda at: nowhere
    assert scene.names(12.0) == []


def test_a_head_that_only_passes_through_its_truss_is_not_in_the_dark(scene):
    dark_truss(scene)
    into = scene.consoles[-1].levels(0.0)
    scene.consoles[-1].levels = lambda at: into if at % 4 < 3 else wash(4, pan=128, tilt=128)
    assert scene.names(12.0) == []


@pytest.mark.parametrize(("protocol", "ahead"), [("sACN", 77), ("sACN", 5), ("sACN", 0), ("Art-Net", 77)])
def test_a_recording_that_is_sent_beside_its_own_console_is_named(scene, protocol, ahead):
    """Two programs of one component id, or at one address, whose packets come by turns."""
    scene.connect(Connection("desk", protocol, first=0 if protocol == "Art-Net" else 1, lands=1))
    universe = 0 if protocol == "Art-Net" else 1
    plain(scene, protocol=protocol, universe=universe)
    plain(scene, protocol=protocol, universe=universe, levels=lambda at: moving(at + 9), sequence=ahead)
    [cause] = scene.causes()
    assert cause.cause == "sources_at_odds"
    assert "Two programs seem to send universe 1" in cause.evidence
    assert cause.universe == 1


def test_two_that_do_not_number_their_packets_are_known_by_levels_that_go_to_and_fro(scene):
    scene.connect(Connection("desk", "Art-Net", first=0, lands=1))
    for level in (40, 220):
        plain(scene, protocol="Art-Net", universe=0, levels=lambda at, level=level: wash(6, level), numbered=False)
    assert scene.names() == ["sources_at_odds"]
    # One that fades, and one that flashes, as slowly as lamps can follow.
    for play in (moving, lambda at: wash(6, 255 if at * 8 % 1 < 0.5 else 0)):
        scene.consoles = []
        plain(scene, protocol="Art-Net", universe=0, levels=play, numbered=False)
        assert scene.names() == []


@pytest.mark.parametrize("protocol", ["sACN", "Art-Net"])
def test_packets_that_come_by_two_ways_are_of_one_program(scene, protocol):
    """A network with a spare path: each packet twice, the second one late and the same."""
    universe = 0 if protocol == "Art-Net" else 1
    scene.connect(Connection("desk", protocol, first=universe, lands=1))
    for _ in range(2):
        plain(scene, protocol=protocol, universe=universe)
    assert scene.names() == []


def test_packets_are_counted_from_the_question_on(scene):
    """Two that sent by turns before the doctor was asked are no fault of now."""
    engine = Engine(clock=lambda: scene.at)
    engine.set_connections(heard_now(scene.connections, None, scene.interfaces))
    quay, again = Console(1, moving), Console(1, moving, sequence=77)

    def play(*consoles):
        for _ in range(100):
            scene.at += FRAME
            for key, data in [one for console in consoles for one in console.packets(scene.at)]:
                engine.packet(key, data, "127.0.0.1", scene.at)

    play(quay, again)
    hearing = SimpleNamespace(receiver=scene.receiver, interfaces=lambda: scene.interfaces)
    recorder = Recorder(engine, hearing)
    play(quay)
    [seen] = recorder.facts().sources
    # The first of them does not follow the last of the other.
    assert (seen.packets, seen.crossed) == (100, 1)


def test_a_backup_that_follows_behind_is_no_fight(scene):
    plain(scene)
    plain(scene, levels=lambda at: moving(max(at - 0.3, 0.0)), name="Backup", priority=90)
    assert scene.names() == []


def test_two_desks_that_share_a_universe_by_slots_are_not_at_odds(scene):
    plain(scene, levels=lambda at: wash(3))
    plain(scene, levels=lambda at: wash(3, start=34), name="House")
    assert scene.names() == []


def test_a_console_that_repeats_itself_once_a_second_is_not_slow(scene):
    plain(scene, levels=lambda at: wash(6), rate=1.2)
    assert scene.names() == []


def test_what_was_lost_on_the_way_is_told(scene):
    plain(scene, steps=2)
    [cause] = scene.causes()
    assert cause.cause == "slow"
    assert "never came" in cause.evidence


def test_art_nets_off_by_one_is_put_right_by_landing_one_lower(scene):
    scene.bench.do("add connection", name="Node", protocol="Art-Net", universes="0-9", lands="1")
    scene.bench.do("add connection", name="Desk", universes="100-110", lands="1")
    scene.connections = [(item.id, item.body) for item in scene.bench.show.of_kind("connection")]
    plain(scene, universe=1, protocol="Art-Net")
    [cause] = scene.causes()
    assert cause.cause == "off_by_one"
    assert cause.edit == "set connection"
    scene.bench.do(cause.edit, **cause.args)
    scene.connections = [(item.id, item.body) for item in scene.bench.show.of_kind("connection")]
    assert scene.connections[0][1].lands_on(1) == 1
    assert scene.names() == []


@pytest.mark.parametrize("fault", ["off_by_one", "no_link", "other_interface", "preview_only"])
def test_the_one_action_puts_it_right(scene, fault):
    FAULTS[fault](scene)
    if scene.connections[0][0] != "as started sACN":
        scene.bench.do("add connection", name="desk")
        item = scene.bench.show.of_kind("connection")[0]
        body = replace(scene.connections[0][1], name="desk")
        scene.bench.show = replace(
            scene.bench.show, items={**scene.bench.show.items, item.id: replace(item, body=body)}
        )
        scene.connections = [(item.id, body)]
    [cause] = [one for one in scene.causes() if one.cause == fault]
    scene.bench.do(cause.edit, **cause.args)
    scene.connections = [(item.id, item.body) for item in scene.bench.show.of_kind("connection")]
    scene.elsewhere, scene.receiver.elsewhere = {}, {}
    for console in scene.consoles:
        console.sequence = 0
    assert fault not in scene.names()


def test_what_a_silenced_connection_would_take_is_meant(scene):
    scene.connect(Connection("desk", "sACN", last=9), Connection("spare", "sACN", first=101, last=110, listen=False))
    plain(scene)
    plain(scene, universe=104, name="Spare")
    assert scene.names() == []


def test_a_protocol_that_nobody_listens_to_is_offered_a_connection(scene):
    scene.elsewhere["Art-Net", "127.0.0.1"] = (0,)
    causes = {one.cause: one for one in scene.causes()}
    assert causes["unwanted_universe"].args == {"protocol": "Art-Net", "interface": "lo", "address": "127.0.0.1"}
    assert "no_packets" not in causes


def test_an_interface_without_a_link_is_said(scene):
    scene.interfaces = [LO, Interface("eth0", "10.0.0.5", 24, up=False)]
    scene.connect(Connection("desk", "sACN", "eth0", "10.0.0.5"))
    assert scene.names() == ["no_link", "no_packets"]
    assert ETH.address == "10.0.0.5"
