"""The live engine without its sockets: who drives, what is held, how sources meet. Time is turned by hand."""

from dataclasses import replace

import numpy as np
import pytest

from tests.links.test_artnet import POLL, dmx
from tests.links.test_sacn import packet, sync
from zarfwright.core.connections import Connection, Interface
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.picture import FIELDS
from zarfwright.library import dunlin, teal
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.inputs import heard_now
from zarfwright.links.live.playing import live_rig

LO = Interface("lo", "127.0.0.1", 8)
SACN, ARTNET = ("sACN", "127.0.0.1"), ("Art-Net", "127.0.0.1")
OPEN_RED = [128, 0, 128, 0, 255, 32, 255, 0, 0, 0, 128]
RED, GREEN = FIELDS.index("red"), FIELDS.index("green")


def connect(engine, *connections, only=None):
    """Listen to these connections, called by their names."""
    engine.set_connections(heard_now([(one.name, one) for one in connections], only, [LO]))


@pytest.fixture
def engine():
    made = Engine()
    connect(made, Connection("desk", "sACN"))
    fixture_type = dunlin()
    rows = [PatchRow("a", fixture_type, "Standard", 1, 1), PatchRow("b", fixture_type, "Standard", 2, 1)]
    made.set_rig(live_rig(1, [*rows, PatchRow("c", fixture_type, "Standard", None, None)]))
    return made


def hear(engine, universe, levels, now=0.0, **more):
    engine.packet(SACN, bytes(packet(universe=universe, levels=levels, **more)), "127.0.0.1", now)


def picture(engine):
    _, beams, _ = engine.beams()
    return dict(zip(("a", "b", "c"), beams, strict=True))


def test_levels_drive_the_fixtures_of_their_universe_only(engine):
    hear(engine, 1, OPEN_RED)
    seen = picture(engine)
    assert seen["a"][RED] > 0.02
    assert np.all(seen["b"][4:7] == 0)
    assert engine.drivers() == {"a": "console", "b": "home", "c": "home"}


def test_the_look_shows_where_no_console_drives_and_hands_win_over_all(engine):
    look = {name: {"dimmer": 1.0, "green": 1.0, "white": 0.0, "red": 0.0} for name in ("a", "b", "c")}
    engine.set_drive(look, {"b": {"dimmer": 0.0}}, True)
    hear(engine, 1, OPEN_RED)
    seen = picture(engine)
    assert seen["a"][GREEN] < 0.01 < seen["a"][RED]
    assert seen["c"][GREEN] > 0.02
    assert np.all(seen["b"][4:7] == 0)
    assert engine.drivers() == {"a": "console", "b": "hands", "c": "look"}


def test_not_following_the_console_leaves_the_look(engine):
    engine.set_drive({"a": {"dimmer": 1.0, "green": 1.0, "white": 0.0}}, None, False)
    hear(engine, 1, OPEN_RED)
    assert picture(engine)["a"][GREEN] > 0.02
    engine.set_drive(None, None, True)
    assert picture(engine)["a"][RED] > 0.02


def test_the_last_levels_are_held_when_the_source_falls_silent(engine):
    hear(engine, 1, OPEN_RED, 10.0, name="Quay")
    before = picture(engine)["a"].copy()
    engine.check_lost(13.0)
    assert picture(engine)["a"] == pytest.approx(before)
    status = engine.status(13.0)["universes"]
    assert [(u["universe"], u["state"], u["last_source"]) for u in status] == [(1, "held", "Quay")]


def test_two_sources_merge_by_priority_then_highest(engine):
    low = [0] * 4 + [50, 32, 255]
    hear(engine, 1, low, cid=b"1" * 16, priority=100)
    hear(engine, 1, OPEN_RED, cid=b"2" * 16, priority=90)
    picture(engine)
    assert engine.levels[1][4] == 50
    hear(engine, 1, OPEN_RED, cid=b"2" * 16, priority=100, sequence=1)
    picture(engine)
    assert engine.levels[1][4] == 255
    assert len(engine.status(0.1)["universes"][0]["sources"]) == 2


def test_the_quick_way_and_the_whole_way_read_the_same(engine):
    hear(engine, 1, OPEN_RED)
    louder = [*OPEN_RED[:4], 77, *OPEN_RED[5:]]
    hear(engine, 1, louder, 0.1, sequence=1)
    picture(engine)
    assert [*engine.levels[1][:11]] == louder
    hear(engine, 1, OPEN_RED, 0.2, sequence=1)
    assert engine.status(0.2)["dropped"] == {"out of order": 1}
    hear(engine, 1, OPEN_RED, 0.3, sequence=2, name="Renamed")
    assert engine.status(0.3)["universes"][0]["sources"][0]["name"] == "Renamed"
    hear(engine, 1, OPEN_RED, 0.4, sequence=3, name="Renamed", terminated=True)
    assert engine.status(0.4)["universes"][0]["state"] == "held"


def test_levels_held_before_a_restart_are_taken_up_but_never_over_newer_ones(engine):
    held = bytes(OPEN_RED) + bytes(512 - len(OPEN_RED))
    hear(engine, 2, [1, 2, 3])
    picture(engine)
    engine.restore({1: held, 2: held, 3: b"short"})
    assert picture(engine)["a"][RED] > 0.02
    assert engine.levels[2][0] == 1
    assert 3 not in engine.levels


def test_what_is_seen_comes_with_a_name_for_each_feature(engine):
    hear(engine, 1, OPEN_RED)
    values = engine.values()
    assert set(values) == {"a", "b", "c"}
    assert values["a"]["red"] == 1.0
    assert values["a"]["dimmer"] == 1.0


def test_a_blackout_right_before_the_end_of_a_source_is_what_is_held(engine):
    hear(engine, 1, OPEN_RED)
    picture(engine)
    hear(engine, 1, [0] * 11, 0.1, sequence=1)
    for sequence in (2, 3, 4):
        hear(engine, 1, OPEN_RED, 0.1, sequence=sequence, terminated=True)
    assert np.all(picture(engine)["a"][4:7] == 0)
    assert engine.levels[1][4] == 0


def test_a_console_that_stands_by_sets_no_pace_until_it_has_the_say(engine):
    hear(engine, 1, OPEN_RED, cid=b"1" * 16, priority=100)
    picture(engine)
    hear(engine, 1, [9] * 11, 0.1, cid=b"2" * 16, priority=50)
    assert not engine.dirty
    assert engine.levels[1][4] == OPEN_RED[4]
    # The first steps down: what it says now is outvoted, and that is news.
    hear(engine, 1, OPEN_RED, 0.2, cid=b"1" * 16, priority=40, sequence=1)
    assert engine.dirty == {1}
    picture(engine)
    assert engine.levels[1][4] == 9
    hear(engine, 1, OPEN_RED, 0.3, cid=b"1" * 16, priority=40, sequence=2)
    assert not engine.dirty


def test_a_range_that_starts_high_lands_where_it_is_wanted(engine):
    connect(engine, Connection("desk", "sACN", first=231, last=240, lands=1))
    hear(engine, 231, OPEN_RED)
    hear(engine, 1, [0] * 11, cid=b"2" * 16)
    assert picture(engine)["a"][RED] > 0.02
    status = engine.status(0.1)
    assert [(one["universe"], one["sources"][0]["heard_as"]) for one in status["universes"]] == [(1, 231)]
    assert [(one["heard_as"], one["on"]) for one in status["nowhere"]] == [(1, "127.0.0.1")]


def test_a_source_is_told_by_the_connection_that_lands_it_there(engine):
    connect(engine, Connection("as it is", "sACN", last=9), Connection("higher", "sACN", last=9, lands=101))
    hear(engine, 1, OPEN_RED)
    told = {one["universe"]: one["sources"][0]["connections"] for one in engine.status(0.1)["universes"]}
    assert told == {1: ["as it is"], 101: ["higher"]}
    connect(engine, Connection("one", "sACN"), Connection("other", "sACN", first=1, last=1))
    assert engine.status(0.2)["universes"][0]["sources"][0]["connections"] == ["one", "other"]


def test_art_nets_first_port_address_is_universe_one_and_counts_as_priority_100(engine):
    connect(engine, Connection("desk", "sACN"), Connection("node", "Art-Net", first=0, last=99, lands=1))
    engine.packet(ARTNET, dmx(0, [0, 0, 0, 0, 90, 9]), "127.0.0.2", 0.0)
    hear(engine, 1, OPEN_RED, priority=99)
    picture(engine)
    assert [*engine.levels[1][4:7]] == [90, 9, 0]
    hear(engine, 1, OPEN_RED, priority=101, sequence=1)
    picture(engine)
    assert [*engine.levels[1][4:7]] == [255, 32, 255]


def test_priorities_for_each_slot_decide_slot_by_slot(engine):
    hear(engine, 1, [10, 10, 10], cid=b"1" * 16, priority=100)
    hear(engine, 1, [200, 200, 200], cid=b"2" * 16, priority=100)
    hear(engine, 1, [50, 150, 0], cid=b"2" * 16, priority=100, sequence=1, start_code=0xDD)
    picture(engine)
    assert [*engine.levels[1][:3]] == [10, 200, 10]


def test_what_is_silenced_is_held_and_only_this_silences_the_others(engine):
    desk, other = Connection("desk", "sACN", last=1), Connection("other", "sACN", first=2, last=2, lands=2)
    connect(engine, desk, other)
    hear(engine, 1, OPEN_RED)
    hear(engine, 2, OPEN_RED)
    picture(engine)
    connect(engine, desk, other, only="other")
    hear(engine, 1, [0] * 11, 0.1, sequence=1)
    seen = picture(engine)
    assert seen["a"][RED] > 0.02
    assert [one["state"] for one in engine.status(0.2)["universes"]] == ["held", "live"]
    connect(engine, desk, other)
    assert picture(engine)["a"][RED] == 0
    connect(engine, replace(desk, listen=False), other)
    assert [one["state"] for one in engine.status(0.2)["universes"]] == ["held", "live"]


def test_preview_is_shown_only_where_the_connection_says_so(engine):
    hear(engine, 1, OPEN_RED, preview=True)
    assert np.all(picture(engine)["a"][4:7] == 0)
    assert engine.status(0.1)["nowhere"][0]["preview"]
    connect(engine, Connection("desk", "sACN", preview=True))
    assert picture(engine)["a"][RED] > 0.02
    hear(engine, 1, [0] * 11, 0.2, preview=True, sequence=1)
    assert np.all(picture(engine)["a"][4:7] == 0)


def test_levels_that_wait_for_a_synchronization_are_not_shown(engine):
    hear(engine, 1, OPEN_RED, sync=7)
    assert np.all(picture(engine)["a"][4:7] == 0)
    engine.packet(SACN, sync(7), "127.0.0.1", 0.1)
    assert picture(engine)["a"][RED] > 0.02


def test_a_poll_is_answered_with_the_port_addresses_of_the_patch(engine):
    connect(engine, Connection("node", "Art-Net", first=0, last=99, lands=1))
    assert engine.answers(ARTNET) == []
    engine.packet(ARTNET, POLL, "127.0.0.9", 0.0)
    [(whom, reply)] = engine.answers(ARTNET)
    assert whom == "127.0.0.9"
    assert (reply[173], *reply[190:192]) == (2, 0, 1)
    assert engine.answers(ARTNET) == []


def test_a_flood_of_universes_that_nobody_wants_is_let_go_of(engine):
    hear(engine, 1, OPEN_RED)
    for universe in range(100, 1400):
        hear(engine, universe, [1])
    picture(engine)
    engine.check_lost(5.0)
    picture(engine)
    engine.check_lost(5.1)
    assert len(engine.levels) <= 1024 + 2
    assert engine.levels[1][4] == 255
    assert len(engine.status(5.2)["universes"]) <= 1024


def travelling():
    """An engine whose clock is turned by hand, and the hand."""
    now = [100.0]
    made = Engine(clock=lambda: now[0])
    made.set_rig(live_rig(1, [PatchRow("a", dunlin(), "Standard", 1, 1)]))
    made.beams()
    return made, now


def test_a_head_travels_on_the_clock_and_what_is_kept_is_where_it_is_going():
    engine, now = travelling()
    engine.set_drive(None, {"a": {"pan": 2.0}}, True)
    assert engine.values()["a"]["pan"] == 2.0
    places = []
    for _ in range(120):
        now[0] += 1 / 44
        _, beams, _ = engine.beams()
        places.append(float(beams[0, FIELDS.index("pan")]))
    assert 0 < places[5] < places[20] < 2.0
    assert places[-1] == pytest.approx(2.0)
    assert not engine.moving


def test_while_a_head_travels_the_publisher_is_told_to_go_on():
    engine, now = travelling()
    engine.set_drive(None, {"a": {"tilt": 1.0}}, True)
    now[0] += 0.02
    engine.beams()
    assert engine.moving
    now[0] += 0.4
    engine.beams()
    now[0] += 5.0
    engine.beams()
    now[0] += 5.0
    engine.beams()
    assert not engine.moving


def test_a_new_patch_leaves_heads_where_they_are_on_their_way():
    engine, now = travelling()
    engine.set_drive(None, {"a": {"pan": 3.0}}, True)
    now[0] += 0.4
    _, beams, _ = engine.beams()
    on_the_way = float(beams[0, FIELDS.index("pan")])
    assert 0.1 < on_the_way < 2.9
    rows = [PatchRow("new", dunlin(), "Standard", 1, 100), PatchRow("a", dunlin(), "Standard", 1, 1)]
    engine.set_rig(live_rig(2, rows))
    _, beams, _ = engine.beams()
    assert float(beams[1, FIELDS.index("pan")]) == pytest.approx(on_the_way, abs=0.05)


def test_drivers_are_told_by_fixture_also_where_it_has_cells():
    engine = Engine()
    engine.set_rig(live_rig(1, [PatchRow("bar", teal(), "Cells", 1, 1)]))
    engine.set_drive({"bar/2": {"dimmer": 0.5}}, None, True)
    engine.beams()
    assert engine.drivers() == {"bar": "look"}
    assert set(engine.values()) == {f"bar/{n}" for n in range(1, 13)}


def test_levels_that_are_repeated_are_not_worked_out_again(engine, monkeypatch):
    hear(engine, 1, OPEN_RED, sequence=1)
    first = picture(engine)
    worked: list[int] = []
    decoder = engine.playing.whole.decoder
    plain = decoder.decode
    monkeypatch.setattr(decoder, "decode", lambda levels: worked.append(1) or plain(levels))
    hear(engine, 1, OPEN_RED, sequence=2)
    again = picture(engine)
    assert worked == []
    assert all(np.array_equal(first[key], again[key]) for key in first)
    hear(engine, 1, [0] * len(OPEN_RED), sequence=3)
    assert picture(engine)["a"][RED] < first["a"][RED]
    assert worked == [1]
