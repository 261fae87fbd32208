"""What is wrong with where light goes: each thing that can be is found, with its words, and goes with its cause."""

from __future__ import annotations

from dataclasses import replace

import pytest

from zarfwright.core.aiming.readiness import aim_findings
from zarfwright.core.aiming.repairs import repairs
from zarfwright.library import curlew


def texts(bench):
    return [one.text for one in aim_findings(bench.show)]


@pytest.fixture
def rig(bench):
    truss = bench.made("add truss", name="Bar", length="8m", start_trim="6m")
    return list(bench.do("place along rail", structure=truss, type="heron", count="3", first_number="1").select)


def test_who_was_never_aimed_is_told_until_a_hand_or_a_look_turns_it(bench, rig):
    assert texts(bench) == ["3 heads were never aimed. Select and aim."]
    bench.do("aim at", ids=rig[:1], point=[0.0, 3.0, 0.0])
    bench.do("turn heads", ids=rig[1:2], feature="tilt", text="20")
    assert texts(bench) == ["1 head was never aimed, and no look turns it. Select and aim."]
    bench.do("keep look", values={rig[2]: {"pan": 0.3, "tilt": 0.4}})
    assert texts(bench) == []


def test_a_conventional_that_hangs_straight_was_never_aimed(bench):
    bench.show = replace(bench.show, types={**bench.show.types, "dunlin": curlew()})
    truss = bench.made("add truss", length="8m", start_trim="6m")
    (lamp,) = bench.do("place along rail", structure=truss, type="dunlin", count="1").select
    assert texts(bench) == ["1 lamp was never aimed, and no look turns it. Select and aim."]
    bench.do("aim at", ids=[lamp], point=[1.0, 3.0, 0.0])
    assert texts(bench) == []


def test_who_cannot_reach_is_told_with_an_edit_that_lets_it(bench, rig):
    bench.do("aim at", ids=rig, point=[0.0, 0.4, 30.0])
    found = [one for one in aim_findings(bench.show) if "cannot reach" in one.text]
    assert len(found) == 3
    assert all(one.wrong and one.repair is not None for one in found)
    repair = found[0].repair
    bench.do(repair.kind, **repair.args)
    left = [one for one in aim_findings(bench.show) if "cannot reach" in one.text]
    assert [one.where for one in left] == [one.where for one in found[1:]]


def test_another_rail_is_offered_from_where_it_could(bench, rig):
    bench.made("add truss", name="Far bar", length="8m", start_trim="4m", y="US 5")
    item, fixture = bench.show.thing(rig[0], type(bench.body(rig[0])))
    # Through the top of its own yoke: straight up, seen from the bar; from the other one it is within range.
    offered = repairs(bench.show, item, fixture, (-4.0, 0.0, 9.0))
    assert any(one.label.startswith("Turn fixture 1 by") for one in offered)
    for one in offered:
        now = bench.show
        bench.do("aim at", ids=rig[:1], point=[-4.0, 0.0, 9.0])
        bench.do(one.kind, **one.args)
        assert not any("Fixture 1 cannot reach" in text for text in texts(bench))
        bench.show = now


def test_what_shines_into_eyes_is_told_the_brightest_first_with_the_seat(bench, rig):
    bench.do("add figures", name="Stalls", pose="sitting", rows="2", columns="4", y="DS 8", z="0")
    bench.made("add deck", width="8m", depth="4m", height="1m", y="US 2")
    bench.do("aim at", ids=rig, point=[0.0, 2.0, 1.0])
    assert not any("into the eyes" in text for text in texts(bench))
    bench.do("aim at", ids=rig, point=[0.0, -8.0, 1.2])
    found = [text for text in texts(bench) if "into the eyes" in text]
    assert len(found) == 3
    lux = [float(text.split(": ")[-1].split(" lx")[0]) for text in found]
    assert lux == sorted(lux, reverse=True)
    assert "Row A, seat" in found[0]
    # A wall before them keeps it off.
    bench.made("add wall", corners=[[-9, -6, 0], [9, -6, 0]], height="5.5m")
    assert not any("into the eyes" in text for text in texts(bench))


def test_what_is_blocked_shut_or_lost_is_told(bench, rig):
    bench.made("add venue", name="Room", width="20", upstage="10", downstage="30", eave="9", ridge="9")
    bench.do("aim at", ids=rig[:1], point=[0.0, 3.0, 0.0])
    bench.made("add deck", name="Board", width="2m", depth="2m", height="0.05m", x="SR 2.5", y="US 0.4", z="4.8m")
    blocked = [text for text in texts(bench) if "is blocked by" in text]
    assert len(blocked) == 1
    assert "Board" in blocked[0]
    bench.do("hold values", ids=rig[:1], values={"shutter": 0.0})
    bench.do("hold values", ids=rig[1:2], values={"blade 1": 1.0, "blade 3": 1.0, "tilt": 0.2})
    shut = [text for text in texts(bench) if "gives no light" in text]
    assert ["shutter" in shut[0], "blades" in shut[1]] == [True, True]
    # Through the open gable of a room that is not there.
    bench.do("turn heads", ids=rig[2:], feature="tilt", text="100")
    assert not any("outside of the venue" in text for text in texts(bench))
    venue = bench.show.of_kind("venue")[0]
    bench.do("set field", ids=[venue.id], field="width", text="2m")
    assert any("lands outside of the venue" in text for text in texts(bench))


def test_two_aims_at_one_head_are_told(bench, rig):
    choir = bench.made("add focus point", name="Choir", point=[0, 4, 2])
    other = bench.made("add focus point", name="Altar", point=[0, 1, 2])
    bench.do("set field", ids=rig[:1], field="purpose", text="Choir")
    bench.do("aim at", ids=rig[:1], focus=other)
    found = [one for one in aim_findings(bench.show) if "two aims" in one.text]
    assert len(found) == 1
    bench.do(found[0].repair.kind, **found[0].repair.args)
    assert bench.body(rig[0]).aim.point == choir
