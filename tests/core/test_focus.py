"""Patterns over a selection, focus points, and what follows them: in the same edit, and back with the same undo."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zarfwright.core.aiming.patterns import mirrored_pairs, targets
from zarfwright.core.aiming.pointing import Wish, landings, point_at
from zarfwright.core.aiming.solve import direction_in_show
from zarfwright.core.aiming.yokes import chain_for
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import caster_of
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.space import unit
from zarfwright.library import curlew


def beam(bench, fixture):
    """Where a fixture's lens is and which way it looks, held or set by hand."""
    body = bench.body(fixture)
    held = {**body.fixed, **body.hands}
    chain, mount = chain_for(bench.show, body), clamp_placement(bench.show, body)
    return direction_in_show(chain, mount, held["pan"], held["tilt"])


def looks_at(bench, fixture, place, within=1e-4):
    lens, way = beam(bench, fixture)
    return math.acos(min(1.0, float(way @ unit(np.asarray(place) - lens)))) < within


@pytest.fixture
def rig(bench):
    truss = bench.made("add truss", name="Bar", length="10m", start_trim="7m", y="DS 2")
    return list(bench.do("place along rail", structure=truss, type="heron", count="6", first_number="1").select)


def test_parallel_beams_all_look_the_same_way(bench, rig):
    bench.do("aim at", ids=rig, point=[0.0, 6.0, 1.0], pattern="parallel")
    ways = np.array([beam(bench, one)[1] for one in rig])
    assert np.abs(ways - ways[0]).max() < 1e-5
    middle = np.mean([clamp_placement(bench.show, bench.body(one)).position for one in rig], axis=0)
    assert ways[0] == pytest.approx(unit(np.array([0.0, 6.0, 1.0]) - middle), abs=1e-5)


def test_a_spread_goes_along_the_line_and_a_crossed_one_the_other_way(bench, rig):
    bench.do("aim at", ids=rig, point=[4.0, 3.0, 0.0], to=[-4.0, 3.0, 0.0], pattern="line")
    places = [bench.body(one).aim.place[0] for one in rig]
    hang = [clamp_placement(bench.show, bench.body(one)).position[0] for one in rig]
    # Whoever hangs further to stage left looks further to stage left, whichever way the line was drawn.
    assert sorted(places) == pytest.approx(np.linspace(-4, 4, 6))
    assert [x for _, x in sorted(zip(hang, places, strict=True))] == sorted(places)
    bench.do("aim at", ids=rig, point=[4.0, 3.0, 0.0], to=[-4.0, 3.0, 0.0], pattern="crossed")
    crossed = [bench.body(one).aim.place[0] for one in rig]
    assert crossed == pytest.approx([-x for x in places])
    with pytest.raises(JobError, match="no length"):
        bench.do("aim at", ids=rig, point=[4.0, 3.0, 0.0], pattern="line")


def test_a_ring_is_round_and_even_and_each_looks_at_its_side_of_it(bench):
    middle = np.array([1.0, 2.0, 1.5])
    hung = np.array([[math.cos(a) * 5 + 1, math.sin(a) * 5 + 2, 6.0] for a in np.arange(8) * math.pi / 4 + 0.1])
    goals = targets("ring", hung, middle, radius_m=2.0)
    assert np.linalg.norm(goals - middle, axis=1) == pytest.approx([2.0] * 8)
    assert goals[:, 2] == pytest.approx([1.5] * 8)
    assert goals - middle == pytest.approx((hung - [0, 0, 4.5] - middle) * 0.4, abs=1e-9)


@given(st.lists(st.tuples(st.floats(0.5, 9), st.floats(-5, 5), st.floats(0, 8)), min_size=1, max_size=6, unique=True))
def test_each_is_paired_with_its_own_mirror_image(left):
    places = np.array([*left, *[(-x, y, z) for x, y, z in reversed(left)]])
    for a, b in mirrored_pairs(places):
        assert places[a, 0] > 0 > places[b, 0]
        assert np.linalg.norm(places[a] * [-1, 1, 1] - places[b]) <= 0.3
    assert len({b for _, b in mirrored_pairs(places)}) == len(mirrored_pairs(places))


def test_moving_a_focus_point_re_aims_all_that_are_aimed_at_it_in_the_same_edit(bench, rig):
    point = bench.made("add focus point", name="Lectern", point=[1.0, 3.0, 1.6])
    bench.do("aim at", ids=rig[:3], focus=point)
    bench.do("aim at", ids=rig[3:5], focus=point, pattern="ring", radius="1m")
    bench.do("aim at", ids=rig[5:], point=[1.0, 3.0, 1.6])
    before = bench.show
    edit = bench.do("set field", ids=[point], field="x", text="SR 2")
    assert {change.id for change in edit.changes} == {point, *rig[:5]}
    assert all(looks_at(bench, one, (-2.0, 3.0, 1.6)) for one in rig[:3])
    for one in rig[3:5]:
        offset = np.array(bench.body(one).aim.offset)
        assert np.linalg.norm(offset) == pytest.approx(1.0)
        assert looks_at(bench, one, np.array([-2.0, 3.0, 1.6]) + offset)
    assert looks_at(bench, rig[5], (1.0, 3.0, 1.6))
    back = bench.show.after([change.undone() for change in reversed(edit.changes)])
    assert dict(back.items) == dict(before.items)


def test_whoever_is_aimed_stays_aimed_when_what_it_hangs_on_is_moved(bench, rig):
    bench.do("aim at", ids=rig[:2], point=[0.0, 4.0, 1.0])
    bench.do("turn heads", ids=rig[2:3], feature="tilt", text="30")
    held = dict(bench.body(rig[2]).hands)
    truss = bench.body(rig[0]).hang.structure
    bench.do("set field", ids=[truss], field="trim", text="5.5m")
    bench.do("rotate", ids=[truss], degrees="20")
    assert all(looks_at(bench, one, (0.0, 4.0, 1.0)) for one in rig[:2])
    # What was turned by angles keeps its angles.
    assert bench.body(rig[2]).hands == held
    edit = bench.do("set field", ids=[truss], field="trim", text="0.1m")
    assert not edit.report
    bench.do("set field", ids=[truss], field="rake", text="=80")


def test_a_point_rides_on_a_person_who_walks(bench, rig):
    person = bench.made("add figures", x="0", y="US 2")
    point = bench.made("add focus point", name="Storyteller", point=[0.0, 2.1, 1.65], rides=person)
    bench.do("aim at", ids=rig[:2], focus=point)
    bench.do("set path", id=person, path=[[0.0, 2.0, 0.0], [3.0, 2.0, 0.0], [3.0, 6.0, 1.0]])
    bench.do("walk", id=person, share=3.0 / 7.0)
    assert bench.body(person).position == pytest.approx((3.0, 2.0, 0.0))
    bench.do("walk", id=person, share=5.0 / 7.0)
    body = bench.body(person)
    assert body.position == pytest.approx((3.0, 4.0, 0.5))
    # They face upstage then, as they walk: 0 degrees.
    assert body.turn_deg == pytest.approx(0.0)
    place = bench.body(point).position
    assert place[2] == pytest.approx(0.5 + 1.65)
    assert all(looks_at(bench, one, place) for one in rig[:2])
    with pytest.raises(JobError, match="at most 1"):
        bench.do("walk", id=person, share=1.5)
    # Put elsewhere by itself it rides on from there; off it, it stays.
    bench.do("set field", ids=[point], field="z", text="1.2m")
    bench.do("move", ids=[person], by=[-1.0, 0.0, 0.0])
    assert bench.body(point).position[2] == pytest.approx(1.2)
    bench.do("ride on", id=point, on=None)
    stays = bench.body(point).position
    bench.do("move", ids=[person], by=[2.0, 0.0, 0.0])
    assert bench.body(point).position == stays


def test_a_point_rides_on_a_carrier_and_turns_with_it(bench, rig):
    deck = bench.made("add deck", x="SL 1", y="US 4")
    carrier = bench.made("make carrier", ids=[deck], pivot=[0, 4, 0])
    point = bench.made("add focus point", point=[1.0, 4.0, 1.4], rides=carrier)
    bench.do("aim at", ids=rig[:1], focus=point)
    look = bench.made("keep look", values={rig[0]: {"dimmer": 1.0}})
    bench.do("set field", ids=[carrier], field="turn", text="=90")
    assert bench.body(point).position == pytest.approx((0.0, 5.0, 1.4))
    assert looks_at(bench, rig[0], (0.0, 5.0, 1.4))
    # A look brings the carrier back, and the point and the head with it.
    bench.do("play look", id=look)
    assert bench.body(point).position == pytest.approx((1.0, 4.0, 1.4))
    assert looks_at(bench, rig[0], (1.0, 4.0, 1.4))
    with pytest.raises(JobError, match="choose a person or a carrier"):
        bench.do("ride on", id=point, on=deck)


def test_a_point_that_is_gone_leaves_who_was_aimed_at_it_where_they_look(bench, rig):
    point = bench.made("add focus point", name="Font", point=[1.0, 3.0, 1.0])
    bench.do("aim at", ids=rig[:1], focus=point)
    bench.do("remove", ids=[point])
    assert bench.body(rig[0]).aim.place == (1.0, 3.0, 1.0)
    assert bench.body(rig[0]).aim.point is None
    bench.do("add focus point", name="Nave", point=[0, 0, 0])
    with pytest.raises(JobError, match="called nave"):
        bench.do("add focus point", name="nave", point=[1, 0, 0])


def test_a_conventional_hung_with_a_purpose_is_aimed_at_the_point_of_that_name(bench):
    bench.show = replace(bench.show, types={**bench.show.types, "dunlin": curlew()})
    truss = bench.made("add truss", length="8m", start_trim="6m")
    bench.do("add focus point", name="Choir front", point=[0.5, 5.0, 2.2])
    ids = bench.do("place along rail", structure=truss, type="dunlin", count="2", purpose="choir Front").select
    assert all(looks_at(bench, one, (0.5, 5.0, 2.2)) for one in ids)
    assert all(bench.body(one).aim.point for one in ids)
    (mover,) = bench.do("place along rail", structure=truss, type="heron", count="1", purpose="Choir front").select
    assert bench.body(mover).aim is None


def test_letting_go_forgets_the_aim_and_typing_an_angle_too(bench, rig):
    bench.do("aim at", ids=rig[:2], point=[0.0, 4.0, 1.0])
    bench.do("release", ids=rig[:1])
    assert bench.body(rig[0]).aim is None
    bench.do("hold values", ids=rig[1:2], values={"dimmer": 1.0})
    assert bench.body(rig[1]).aim is not None
    bench.do("hold values", ids=rig[1:2], values={"pan": 0.2})
    assert bench.body(rig[1]).aim is None


def test_what_is_in_the_way_of_a_pointed_beam_is_named(bench, rig):
    deck = bench.made("add deck", name="Quay", width="10m", depth="4m", height="1m", y="US 3")
    bench.made("add deck", name="Shelf", width="10m", depth="2m", height="0.1m", y="US 3", z="3")
    pairs = [bench.show.thing(one, type(bench.body(one))) for one in rig]
    pointed = point_at(bench.show, pairs, Wish((0.0, 1.2, 1.0)), {})
    clear = landings(pointed, caster_of(bench.show))
    assert [one.thing for one in clear] == [deck] * 6
    assert all(one.blocked_by is None and math.dist(one.at, (0.0, 1.2, 1.0)) < 1e-3 for one in clear)
    behind = landings(point_at(bench.show, pairs, Wish((0.0, 4.8, 1.0)), {}), caster_of(bench.show))
    assert all(bench.show.items[one.blocked_by].name == "Shelf" for one in behind)


def test_the_mirror_image_of_a_lamp_looks_at_the_mirror_image_of_its_place(bench, rig):
    bench.do("aim at", ids=rig[:1], point=[2.0, 4.0, 1.0])
    bench.do("turn heads", ids=rig[1:2], feature="pan", text="25")
    bench.do("turn heads", ids=rig[1:2], feature="tilt", text="40")
    ways = [beam(bench, one)[1] for one in rig[:2]]
    bench.do("mirror", ids=rig[:2], keep=False)
    assert looks_at(bench, rig[0], (-2.0, 4.0, 1.0))
    for one, way in zip(rig[:2], ways, strict=True):
        assert beam(bench, one)[1] == pytest.approx(way * [-1, 1, 1], abs=1e-5)


def test_what_is_aimed_is_aimed_there_still_when_the_datums_are_moved(bench, rig):
    person = bench.made("add figures", x="0", y="US 2")
    bench.do("set path", id=person, path=[[0, 2, 0], [0, 4, 0]])
    carrier = bench.made("make carrier", ids=[bench.made("add deck", x="SL 3", y="US 3")], pivot=[3, 3, 0])
    point = bench.made("add focus point", point=[3.0, 3.0, 1.0], rides=carrier)
    bench.do("aim at", ids=rig[:1], focus=point)
    bench.do("aim at", ids=rig[1:2], point=[0.0, 4.0, 1.0])
    ways = [beam(bench, one)[1] for one in rig[:2]]
    bench.do("move datums", x="SL 1", y="US 2")
    assert bench.body(point).position == pytest.approx((2.0, 1.0, 1.0))
    assert bench.body(carrier).position == pytest.approx((2.0, 1.0, 0.0))
    assert bench.body(person).path[1] == pytest.approx((-1.0, 2.0, 0.0))
    assert bench.body(rig[1]).aim.place == pytest.approx((-1.0, 2.0, 1.0))
    for one, way in zip(rig[:2], ways, strict=True):
        assert beam(bench, one)[1] == pytest.approx(way, abs=1e-6)
