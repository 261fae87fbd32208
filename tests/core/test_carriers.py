"""Carriers: what is put on and taken off stays where it is; moved and turned, all on it goes as one."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import Workbench
from zarfwright.core.edits.arranging import bounds_of
from zarfwright.core.edits.carrying import inside_of
from zarfwright.core.errors import JobError
from zarfwright.core.readiness import findings
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.scene import solids_of


def world(bench, ids):
    """Where everything of some things is: meshes' placements, clamps."""
    found = {}
    for one in ids:
        item = bench.show.items[one]
        if item.kind == "fixture":
            place = clamp_placement(bench.show, item.body)
            found[one] = (*place.position, *place.rotation)
        else:
            for solid in solids_of(bench.show, item):
                found[solid.id] = (*solid.placement.position, *solid.placement.rotation)
    return found


def same(before, after, tolerance=1e-9):
    assert before.keys() == after.keys()
    for key, value in before.items():
        assert after[key] == pytest.approx(value, abs=tolerance), key


@pytest.fixture
def lantern(bench):
    ring = bench.made("add truss", form="arc", diameter="5m", start_trim="6m", y="DS 4", name="Ring")
    lamps = bench.do("place along rail", structure=ring, rail="lower inner", type="heron", count="4").select
    cloth = bench.made("add piece", piece="drape", width="2m", y="DS 4", z="4m")
    free = bench.made("place free", type="dunlin", position=[1, -4, 5])
    ids = [ring, *lamps, cloth, free]
    carrier = bench.made("make carrier", ids=ids, name="Lantern", number="301", pivot=[0, -4, 6])
    return bench, carrier, ids


def test_making_filling_and_emptying_a_carrier_moves_nothing(lantern):
    bench, carrier, ids = lantern
    before = world(bench, ids)
    assert {item.id for item in inside_of(bench.show, carrier)} == set(ids)
    bench.do("set pivot", id=carrier, position=[3, 3, 3])
    bench.do("put on", ids=ids)
    same(before, world(bench, ids))
    assert not inside_of(bench.show, carrier)
    finding = next(f for f in findings(bench.show) if "Lantern is empty" in f.text)
    assert finding.repair.kind == "remove"
    bench.do("put on", ids=ids, carrier=carrier)
    same(before, world(bench, ids))
    with pytest.raises(JobError, match="there already"):
        bench.do("put on", ids=ids, carrier=carrier)


def test_typed_to_another_place_all_on_it_moves_by_as_much(lantern):
    bench, carrier, ids = lantern
    before = world(bench, ids)
    bench.do("set field", ids=[carrier], field="z", text="-1.5")
    bench.do("set field", ids=[carrier], field="x", text="SL 2")
    for key, value in world(bench, ids).items():
        assert np.array(value[:3]) - before[key][:3] == pytest.approx([2, 0, -1.5])
        assert value[3:] == pytest.approx(before[key][3:])
    assert bench.body(carrier).position == pytest.approx((2, -4, 4.5))


def test_turned_about_its_pivot_all_on_it_turns(lantern):
    bench, carrier, ids = lantern
    free = ids[-1]
    bench.do("set field", ids=[carrier], field="turn", text="90")
    # From 1 m stage left of the pivot to 1 m upstage of it.
    assert clamp_placement(bench.show, bench.body(free)).position == pytest.approx((0, -3, 5))
    before = world(bench, ids)
    bench.do("set field", ids=[carrier], field="turn", text="+270")
    bench.do("set field", ids=[carrier], field="turn", text="90")
    same(before, world(bench, ids), 1e-9)


def test_moved_by_hand_it_takes_all_along_and_what_is_selected_too_only_once(lantern):
    bench, carrier, ids = lantern
    before = world(bench, ids)
    bench.do("move", ids=[carrier, ids[0], ids[1], ids[-1]], by=[0.0, 1.0, 0.0])
    for key, value in world(bench, ids).items():
        assert np.array(value[:3]) - before[key][:3] == pytest.approx([0, 1, 0])


def test_carriers_are_nested_and_never_on_themselves(lantern):
    bench, carrier, ids = lantern
    deck = bench.made("add deck")
    outer = bench.made("make carrier", ids=[carrier, deck], name="Bridge")
    assert bench.show.items[carrier].parent == outer
    before = world(bench, [*ids, deck])
    bench.do("set field", ids=[outer], field="z", text="+2")
    for key, value in world(bench, [*ids, deck]).items():
        assert value[2] - before[key][2] == pytest.approx(2)
    assert bench.body(carrier).position[2] == pytest.approx(8)
    with pytest.raises(JobError, match="cannot be on itself"):
        bench.do("put on", ids=[outer], carrier=carrier)
    # Out of the inner one is onto the outer one; removing the outer leaves the inner alone.
    bench.do("put on", ids=[ids[-1]])
    assert bench.show.items[ids[-1]].parent == outer
    bench.do("remove", ids=[outer])
    assert bench.show.items[carrier].parent is None
    assert bench.show.items[ids[0]].parent == carrier


def test_a_fixture_and_the_truss_it_hangs_on_go_together(bench):
    truss = bench.made("add truss")
    lamp = bench.do("place along rail", structure=truss, type="heron", count="1").select[0]
    with pytest.raises(JobError, match="hangs on Truss 1"):
        bench.do("make carrier", ids=[lamp])
    with pytest.raises(JobError, match="cannot be on a carrier"):
        bench.do("make carrier", ids=[bench.made("add viewpoint", eye=[0, 0, 1], target=[0, 5, 1])])


def test_inside_a_carrier_things_can_still_be_arranged(lantern):
    bench, carrier, ids = lantern
    lamps = ids[1:5]
    bench.do("arrange", ids=lamps, guide="rail", structure=ids[0], rail="lower outer", ends="on")
    assert {bench.body(one).hang.rail for one in lamps} == {"lower outer"}
    assert {bench.show.items[one].parent for one in lamps} == {carrier}


@given(
    st.floats(-20, 20), st.floats(-20, 20), st.floats(-3, 10), st.floats(-180, 180), st.floats(-180, 180),
    st.tuples(st.floats(-9, 9), st.floats(-9, 9), st.floats(0, 9)),
)  # fmt: skip
@settings(max_examples=30, deadline=None)
def test_on_and_off_again_wherever_the_carrier_is_moves_nothing(x, y, z, turn, other, pivot):
    bench = Workbench()
    truss = bench.made("add truss", length="6m", start_trim="5m", end_trim="6m", turn=f"{turn:.3f}", x="SL 2")
    lamp = bench.do("place along rail", structure=truss, type="heron", count="1").select[0]
    wall = bench.made("add wall", corners=[[0, 0, 0], [3, 0, 0.5], [3, 2, 0]])
    ids = [truss, lamp, wall]
    carrier = bench.made("make carrier", ids=[wall], pivot=list(pivot))
    for field, value in (("x", x), ("y", y), ("z", z)):
        bench.do("set field", ids=[carrier], field=field, text=f"={value:.4f}m")
    bench.do("set field", ids=[carrier], field="turn", text=f"={other:.4f}")
    before = world(bench, ids)
    bounds = bounds_of(bench.show, bench.show.items[wall])
    bench.do("put on", ids=[truss, lamp], carrier=carrier)
    same(before, world(bench, ids))
    bench.do("put on", ids=ids)
    same(before, world(bench, ids))
    assert bounds_of(bench.show, bench.show.items[wall])[0] == pytest.approx(bounds[0])
    assert math.isfinite(bench.body(carrier).turn_deg)


def test_a_look_keeps_where_carriers_are_and_brings_them_back_with_all_that_is_on_them(lantern):
    bench, carrier, ids = lantern
    outer = bench.made("make carrier", ids=[carrier], name="Grid", pivot=[2, 0, 8])
    values = {item.id: {"dimmer": 1.0} for item, _ in bench.show.fixtures()}
    low = world(bench, ids)
    bench.do("keep look", name="Low", values=values)
    bench.do("set field", ids=[outer], field="z", text="+2")
    bench.do("set field", ids=[carrier], field="turn", text="=40")
    bench.do("set field", ids=[outer], field="turn", text="=-90")
    high = world(bench, ids)
    bench.do("keep look", name="High", values=values)
    looks = {item.name: item.id for item in bench.show.of_kind("look")}
    assert bench.show.items[looks["High"]].body.carriers[outer] == pytest.approx((2, 0, 10, -90))

    done = bench.do("play look", id=looks["Low"])
    same(low, world(bench, ids), 1e-6)
    assert done.report == ("Grid, Lantern: brought to where the look has them.",)
    assert len({change.id for change in done.changes}) == len(done.changes)
    # There already, nothing but the playing changes.
    assert [change.id for change in bench.do("play look", id=looks["Low"]).changes] == ["show"]
    bench.do("play look", id=looks["High"])
    same(high, world(bench, ids), 1e-6)
    # Another pivot: recalled, all of it still stands where it stood.
    bench.do("set pivot", id=carrier, position=[-1, -2, 4])
    bench.do("play look", id=looks["Low"])
    same(low, world(bench, ids), 1e-6)
    # A carrier that is gone is no hindrance.
    bench.do("remove", ids=[outer])
    bench.do("play look", id=looks["High"])
    bench.do("play look", id=looks["Low"])
