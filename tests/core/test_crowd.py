"""Crowds: counts by hand, nobody in another, in an aisle or over an edge, the same every time."""

import math
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.people import in_aisle, nearest_m
from zarfwright.core.errors import JobError
from zarfwright.core.readiness import findings
from zarfwright.core.scene import people_of, solids
from zarfwright.core.site.crowd import people
from zarfwright.core.site.outline import circle, polygon_of, rectangle
from zarfwright.core.site.things import Crowd
from zarfwright.core.site.visibility import needed, seen

HOUSE = rectangle(6.0, 4.0, 0.0, -8.0)


def test_rows_hold_as_many_as_can_be_counted_by_hand():
    # 6 m wide, a body's 25 cm off each edge: 5.5 m, at 0.55 m ten seats; 4 m deep: 3.5 m, at 0.9 m four rows.
    rows = people(Crowd("C", HOUSE, seating="rows", per_m2=0))
    assert rows.count == 40
    ys = np.unique(np.round(rows.places[:, 1], 6))
    assert np.diff(ys) == pytest.approx([0.9] * 3)
    # The front row is nearest to the stage.
    assert ys.max() == pytest.approx(-6.25)
    aisle = ((0.0, -20.0, 0.0, 0.0, 1.1),)
    assert people(Crowd("C", HOUSE, seating="rows", per_m2=0, aisles=aisle)).count == 32


def test_rows_rise_and_staggered_ones_are_shifted_by_half_a_seat():
    rows = people(Crowd("C", HOUSE, seating="rows", per_m2=0, rise_m=0.3, stagger=True, z_m=0.2))
    heights = np.unique(np.round(rows.places[:, 2], 6))
    assert heights == pytest.approx([0.2, 0.5, 0.8, 1.1])
    front, second = (np.sort(rows.places[np.isclose(rows.places[:, 2], z), 0]) for z in (0.2, 0.5))
    assert abs(front[0] - second[0]) % 0.55 == pytest.approx(0.275)


def test_fewer_than_the_seats_leave_empty_ones_towards_the_back():
    some = people(Crowd("C", HOUSE, seating="rows", count=25))
    assert (some.count, some.asked) == (25, 25)
    assert (some.places[:, 1] > -7).sum() >= 8


def test_a_standing_crowd_has_its_count_and_its_distances():
    standing = people(Crowd("C", HOUSE, count=50))
    assert standing.count == 50
    assert nearest_m(standing) >= 0.5
    dense = people(Crowd("C", HOUSE, per_m2=1.5))
    assert dense.count == dense.asked == 36
    full = people(Crowd("C", HOUSE, count=500))
    assert full.count < full.asked == 500


def test_everybody_looks_at_the_stage_within_twelve_degrees():
    for crowd in (Crowd("C", HOUSE, count=50), Crowd("C", rectangle(3, 8, 9, 2), seating="rows", target=(0.0, 0.0))):
        who = people(crowd)
        x, y = crowd.target or (0.0, 3.0)
        turn = np.radians(who.turns_deg)
        facing = np.stack([-np.sin(turn), np.cos(turn)], axis=1)
        way = np.array([x, y]) - who.places[:, :2]
        way /= np.linalg.norm(way, axis=1, keepdims=True)
        assert (facing * way).sum(axis=1).min() >= math.cos(math.radians(12.001))


def test_the_same_values_give_the_same_people_and_another_seed_others():
    one, again, other = (people(Crowd("C", HOUSE, count=40, seed=seed)) for seed in (7, 7, 8))
    assert np.array_equal(one.places, again.places)
    assert not np.array_equal(one.places, other.places)
    # What is kept in a file years from now: the first of them stands here.
    assert one.places[0] == pytest.approx(again.places[0], abs=0)


def test_a_mix_is_by_its_weights():
    who = people(Crowd("C", rectangle(40, 30), count=1000, mix={"sitting": 1, "standing": 3}))
    assert 0.2 < who.poses.count("sitting") / 1000 < 0.3


@settings(max_examples=40, deadline=None)
@given(
    st.integers(0, 10_000), st.integers(0, 150), st.floats(2, 12), st.floats(2, 9), st.floats(0.3, 1.5),
    st.sampled_from(["standing", "rows"]), st.booleans(),
)  # fmt: skip
def test_nobody_is_in_another_in_an_aisle_or_over_the_edge(seed, count, width, depth, aisle, seating, round_):
    corners = circle(width, 0.0, -9.0) if round_ else rectangle(width, depth, 0.0, -9.0)
    crowd = Crowd("C", corners, seating=seating, count=count, seed=seed, aisles=((0.0, -30.0, 0.0, 5.0, aisle),))
    who = people(crowd)
    assert who.count <= count
    if seating == "standing":
        assert nearest_m(who) >= 0.5 - 1e-9
    area = polygon_of(corners).buffer(1e-6)
    for x, y, _ in who.places:
        assert not in_aisle(crowd, x, y)
        assert area.contains(shapely.Point(x, y).buffer(0.2499))


def test_a_crowd_is_added_moved_counted_and_drawn(bench):
    edit = bench.do("add crowd", width="6m", depth="4m", y="DS 8", seating="rows", centre_aisle="1.1m")
    assert edit.sentence == "Add Crowd 1, 32 people"
    crowd = edit.select[0]
    drawn = solids(bench.show, [bench.show.items[crowd]])
    assert len(drawn) == 32
    assert {solid.id.split("/")[0] for solid in drawn} == {crowd}
    before = people_of(bench.body(crowd)).places
    bench.do("move", ids=[crowd], by=[0.0, -1.0, 0.5])
    assert people_of(bench.body(crowd)).places - before == pytest.approx(np.tile([0, -1.0, 0.5], (32, 1)), abs=1e-6)
    bench.do("set field", ids=[crowd], field="people", text="20")
    assert people_of(bench.body(crowd)).count == 20
    bench.do("set field", ids=[crowd], field="people", text="")
    assert people_of(bench.body(crowd)).count == 32


def test_readiness_of_crowds_and_doubles(bench):
    full = bench.do("add crowd", width="2m", depth="2m", count="90")
    assert "is full with" in full.report[0]
    bench.do("add crowd", width="6m", depth="4m", y="DS 8", target=[0.0, -40.0], name="Backs")
    bench.do("add deck", width="2m")
    bench.do("add deck", width="2m", name="Twin")
    bench.do("add deck", width="3m", z="-0.5", name="Pit")
    bench.do("add wall", corners=[[0, 0, 0], [4, 0.04, 0], [4, 3, 0], [0.05, 0.05, 0]], name="Booth")
    said = " ".join(finding.text for finding in findings(bench.show) if finding.step == "site")
    assert "Booth: nearly closed: its ends are 71 mm apart. Was it meant to be so?" in said
    assert "Booth: line 1 is 0.6° off straight across." in said
    assert "is full with" in said
    assert "Backs faces away from the stage" in said
    assert "Deck 1 and 1 more are exactly alike" in said
    assert "Pit stands 0.50 m below the datum" in said


def test_a_full_crowd_is_set_closer_in_one_step_where_that_lets_all_of_them_in(bench):
    standing = bench.made("add crowd", width="4m", depth="3m", count="45", seating="standing", name="Pit")
    rows = bench.made("add crowd", width="4m", depth="2m", y="DS 8", count="16", seating="rows", name="Stalls")
    crammed = bench.made("add crowd", width="2m", depth="2m", x="SL 12", count="400", seating="standing", name="Lift")
    repairs = {finding.where[0]: finding.repair for finding in findings(bench.show) if "is full with" in finding.text}
    for crowd, field in ((standing, "apart"), (rows, "pitch")):
        assert people_of(bench.body(crowd)).count < people_of(bench.body(crowd)).asked
        repair = repairs[crowd]
        assert (repair.kind, repair.args["field"]) == ("set field", field)
        bench.do(repair.kind, **repair.args)
        assert people_of(bench.body(crowd)).count == people_of(bench.body(crowd)).asked
    places = people_of(bench.body(standing)).places
    apart = np.linalg.norm(places[:, None] - places[None], axis=2) + np.eye(len(places)) * 9
    assert apart.min() >= 2 * bench.body(standing).body_radius_m >= 0.32
    assert repairs[crammed] is None
    said = next(finding.text for finding in findings(bench.show) if finding.where == (crammed,))
    assert "ask for fewer: shoulder to shoulder they have no room" in said


@settings(max_examples=60, deadline=None)
@given(st.lists(st.lists(st.integers(0, 400), min_size=12, max_size=12), min_size=1, max_size=4))
def test_who_stays_covers_every_view_and_nobody_stays_unseen(rows):
    counts = np.array(rows)
    stay = needed(counts)
    assert not stay[counts.sum(axis=0) == 0].any()
    for view in counts:
        assert view[stay].sum() >= 0.98 * view.sum()


def test_a_crowd_is_thinned_for_the_viewpoints_and_is_whole_again_when_it_changes(bench):
    crowd = bench.made("add crowd", width="20m", depth="14m", y="DS 15", seating="rows")
    bench.made("add wall", corners=[[2, -30, 0], [2, -3, 0]], height="4m")
    # From stage right, behind a wall: nobody beyond it is seen.
    bench.made("add viewpoint", eye=[-14, -16, 3.0], target=[0, -15, 1.0])
    everybody = len(solids(bench.show, [bench.show.items[crowd]]))
    edit = bench.do("thin crowds")
    shown = solids(bench.show, [bench.show.items[crowd]])
    assert len(shown) < 0.75 * everybody
    assert all(solid.placement.position[0] < 2.0 for solid in shown)
    assert edit.report == (f"{len(shown)} of {everybody} people are enough from 1 viewpoints.",)
    # What is left covers the whole crowd's picture by identity: those who stay hide the same as before.
    view = [((-14.0, -16.0, 3.0), (0.0, -15.0, 1.0))]
    rest = [item for item in bench.show.items.values() if item.kind == "wall"]
    whole = replace(bench.body(crowd), left_out=())
    full_item = replace(bench.show.items[crowd], body=whole)
    names = [solid.id for solid in solids(bench.show, [full_item])]
    counts = seen(solids(bench.show, [full_item, *rest]), names, view)[0]
    kept = {solid.id for solid in shown}
    assert sum(n for name, n in zip(names, counts, strict=True) if name in kept) >= 0.98 * counts.sum()
    assert all(n > 0 for name, n in zip(names, counts, strict=True) if name in kept)
    bench.do("set field", ids=[crowd], field="seed", text="2")
    assert len(solids(bench.show, [bench.show.items[crowd]])) == everybody
    bench.do("thin crowds")
    bench.do("thin crowds", all=True)
    assert len(solids(bench.show, [bench.show.items[crowd]])) == everybody


def test_thinning_needs_a_crowd_and_a_viewpoint(bench):
    with pytest.raises(JobError, match="no crowd"):
        bench.do("thin crowds")
    bench.do("add crowd", width="6m", depth="4m", y="DS 8")
    with pytest.raises(JobError, match="needs a viewpoint"):
        bench.do("thin crowds")
