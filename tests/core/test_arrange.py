"""Arranging along guides: places by hand, ends and spacing apart, order settled first, facing, what leaves its rail."""

import math
import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import Workbench
from zarfwright.core.errors import JobError
from zarfwright.core.rig.arrange import Line, Ring, distances, fan, settled, step_length
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.space import rotate


def place(bench, fixture):
    return np.array(clamp_placement(bench.show, bench.body(fixture)).position)


def places(bench, ids):
    return np.array([place(bench, one) for one in ids])


def free(bench, *spots, first=1):
    return [bench.made("place free", type="dunlin", position=spot, number=first + i) for i, spot in enumerate(spots)]


LINE = {"guide": "line", "start": (-6.0, 2.0, 6.0), "end": (6.0, 2.0, 6.0)}


@pytest.mark.parametrize(
    ("ends", "margin", "xs"),
    [
        ("on", "0", [-6, -2, 2, 6]),
        ("half a step in", "0", [-4.5, -1.5, 1.5, 4.5]),
        ("margin", "1.5m", [-4.5, -1.5, 1.5, 4.5]),
    ],
)
def test_four_fill_a_line_by_its_ends(bench, ends, margin, xs):
    ids = free(bench, (1, 0, 6), (2, 0, 6), (3, 0, 6), (4, 0, 6))
    edit = bench.do("arrange", ids=ids, **LINE, ends=ends, margin=margin)
    assert places(bench, ids)[:, 0] == pytest.approx(xs)
    assert places(bench, ids)[:, 1] == pytest.approx([2] * 4)
    assert edit.sentence == f"Arrange 4 fixtures on a line, {xs[1] - xs[0]:.2f} m apart"


@pytest.mark.parametrize(("step_from", "xs"), [("start", [-6, -4, -2]), ("middle", [-2, 0, 2]), ("end", [2, 4, 6])])
def test_a_given_step_is_counted_from_the_start_the_middle_or_the_end(bench, step_from, xs):
    ids = free(bench, (1, 0, 6), (2, 0, 6), (3, 0, 6))
    bench.do("arrange", ids=ids, **LINE, spacing="given", step="2m", step_from=step_from)
    assert places(bench, ids)[:, 0] == pytest.approx(xs)


def test_only_straightening_keeps_the_places_along_the_line(bench):
    ids = free(bench, (-3, 1.6, 6), (0.5, 2.3, 5.5), (4, 2.2, 6))
    bench.do("arrange", ids=ids, **LINE, spacing="as it is")
    assert places(bench, ids) == pytest.approx(np.array([[-3, 2, 6], [0.5, 2, 5.5], [4, 2, 6]]))
    bench.do("arrange", ids=ids, **LINE, spacing="as it is", heights="guide")
    assert places(bench, ids)[:, 2] == pytest.approx([6, 6, 6])


def test_a_step_that_does_not_fit_is_told(bench):
    ids = free(bench, (1, 0, 6), (2, 0, 6), (3, 0, 6))
    with pytest.raises(JobError, match=r"3 things 7.00 m apart need 14.00 m") as wrong:
        bench.do("arrange", ids=ids, **LINE, spacing="given", step="7m")
    assert wrong.value.field == "step"
    assert step_length(1, 5.0, 9.0, "middle") == pytest.approx([2.5])


def test_on_a_whole_ring_n_things_have_n_steps_and_look_out(bench):
    ids = free(bench, *((x, 0, 5) for x in range(8)))
    bench.do(
        "arrange", ids=ids, guide="ring", centre=(1, 2, 5), radius="3m", start_angle="90", span="360", facing="out"
    )
    for i, (fixture, spot) in enumerate(zip(ids, places(bench, ids), strict=True)):
        angle = math.radians(90 + 45 * i)
        assert spot == pytest.approx([1 + 3 * math.cos(angle), 2 + 3 * math.sin(angle), 5])
        front = rotate(clamp_placement(bench.show, bench.body(fixture)).rotation, (0, 1, 0))
        assert front == pytest.approx([math.cos(angle), math.sin(angle), 0], abs=1e-9)
    bench.do("arrange", ids=ids, guide="ring", centre=(1, 2, 5), radius="3m", facing="in")
    front = rotate(clamp_placement(bench.show, bench.body(ids[0])).rotation, (0, 1, 0))
    assert front == pytest.approx([-1, 0, 0], abs=1e-9)


def test_a_part_of_a_ring_has_things_on_both_ends_and_may_open_out(bench):
    ids = free(bench, *((x, 0, 5) for x in range(3)))
    bench.do(
        "arrange", ids=ids, guide="ring", centre=(0, 0, 5), radius="2m", end_radius="4m", start_angle="0", span="180"
    )
    assert places(bench, ids) == pytest.approx(np.array([[2, 0, 5], [0, 3, 5], [-4, 0, 5]]), abs=1e-9)
    bench.do("arrange", ids=ids, guide="ring", centre=(0, 0, 5), radius="2m", start_angle="0", span="-90")
    assert places(bench, ids)[2] == pytest.approx([0, -2, 5], abs=1e-9)


def test_a_grid_is_read_as_a_page_is_from_its_upstage_stage_right_corner(bench):
    ids = free(bench, *((x, 0, 0) for x in range(6)))
    bench.do("arrange", ids=ids, guide="grid", centre=(0, 5, 0), columns="3", across="2m", back="1m")
    assert places(bench, ids).tolist() == [
        [-2, 5.5, 0], [0, 5.5, 0], [2, 5.5, 0], [-2, 4.5, 0], [0, 4.5, 0], [2, 4.5, 0],
    ]  # fmt: skip


def test_along_a_rail_they_hang_on_it_with_their_attitude(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m", y="US 3")
    ids = free(bench, (1, 0, 2), (2, 0, 2), (3, 0, 2))
    edit = bench.do("arrange", ids=ids, guide="rail", structure=truss, rail="lower left", ends="on")
    assert [bench.body(one).hang.along_m for one in ids] == pytest.approx([0, 4, 8])
    assert places(bench, ids)[1] == pytest.approx([0, 3.2, 6.0])
    assert edit.sentence == "Arrange 3 fixtures along Truss 1, lower rail US, 4.00 m apart"
    bench.do("arrange", ids=ids, guide="rail", structure=truss, rail="lower left", rail_from="2m", rail_to="6m")
    assert [bench.body(one).hang.along_m for one in ids] == pytest.approx([2, 4, 6])
    with pytest.raises(JobError, match="no part of this rail"):
        bench.do("arrange", ids=ids, guide="rail", structure=truss, rail="lower left", rail_to="9m")


def test_what_is_arranged_away_from_its_rail_hangs_free_and_that_is_said(bench):
    truss = bench.made("add truss", length="12m", start_trim="6m")
    ids = bench.do("place along rail", structure=truss, rail="lower right", type="heron", count="3").select
    on_it = {"guide": "line", "start": (-5.0, -0.2, 6.0), "end": (5.0, -0.2, 6.0)}
    assert bench.do("arrange", ids=ids, **on_it).report == ()
    assert [bench.body(one).hang.along_m for one in ids] == pytest.approx([1, 6, 11])
    edit = bench.do("arrange", ids=ids, **{**on_it, "end": (5.0, 2.8, 6.0)})
    assert "2 of them leave their rail" in edit.report[0]
    assert bench.body(ids[0]).hang is not None
    assert bench.body(ids[2]).hang is None
    assert place(bench, ids[2]) == pytest.approx([5.0, 2.8, 6.0])


def test_a_fan_turns_the_hung_ones_about_themselves_from_one_angle_to_the_other(bench):
    truss = bench.made("add truss", length="12m", start_trim="6m")
    ids = bench.do("place along rail", structure=truss, type="heron", count="5", first_number="1").select
    bench.do(
        "arrange", ids=ids, guide="rail", structure=truss, rail="lower right", facing="fan", fan_from="-30", fan_to="30"
    )
    assert [bench.body(one).hang.spin_deg for one in ids] == pytest.approx([-30, -15, 0, 15, 30])
    assert fan(1, -30, 30) == pytest.approx([0])


def test_all_face_a_point_hung_standing_or_people(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m")
    hung = bench.do("place along rail", structure=truss, type="heron", count="2").select
    person = bench.made("add figures", x="SR 3")
    chair = bench.made("add piece", piece="chair", x="SL 3")
    at = (0.0, 9.0)
    line = {"guide": "line", "start": (-5.0, -0.2, 6.0), "end": (5.0, -0.2, 6.0), "spacing": "as it is"}
    bench.do("arrange", ids=[*hung, person, chair], **line, facing="point", at=at, order="selection")
    for fixture in hung:
        clamp = clamp_placement(bench.show, bench.body(fixture))
        front = rotate(clamp.rotation, (0, 1, 0))
        to = np.array(at) - clamp.position[:2]
        assert front[:2] == pytest.approx(to / np.linalg.norm(to), abs=1e-9)
    x, y, _ = bench.body(person).position
    assert bench.body(person).turn_deg == pytest.approx(math.degrees(math.atan2(at[1] - y, at[0] - x)) - 90)
    # A chair's front is its downstage side at no turn.
    x, y, _ = bench.body(chair).position
    assert bench.body(chair).turn_deg == pytest.approx(
        (math.degrees(math.atan2(at[1] - y, at[0] - x)) + 90 + 180) % 360 - 180
    )
    with pytest.raises(JobError, match="Click what"):
        bench.do("arrange", ids=hung, **line, facing="point")


def test_order_by_number_by_place_by_selection_and_reversed(bench):
    ids = free(bench, (3, 0, 6), (-3, 0, 6), (0, 0, 6))
    bench.do("number", ids=[ids[0], ids[1], ids[2]], start="10", step="5")

    def order(**args):
        bench.do("arrange", ids=ids, **LINE, **args)
        return [ids.index(one) for one in sorted(ids, key=lambda one: place(bench, one)[0])]

    assert order(order="place") == [1, 2, 0]
    assert order(order="number") == [0, 1, 2]
    assert order(order="number", reverse=True) == [2, 1, 0]
    assert order(order="selection") == [0, 1, 2]
    bench.do("arrange", ids=ids[::-1], **LINE, order="selection")
    assert place(bench, ids[2])[0] == pytest.approx(-6)


@given(st.permutations(range(7)), st.sampled_from(["number", "place"]), st.booleans())
@settings(max_examples=25, deadline=None)
def test_the_order_of_the_selection_does_not_matter_once_another_is_settled(mixed, order, reverse):
    spots = [(float(x), float(y), 6.0) for x, y in ((0, 1), (4, 0), (-3, 2), (2, 2), (5, 1), (-6, 0), (1, 3))]
    results = []
    for selection in (range(7), mixed):
        bench = Workbench()
        ids = free(bench, *spots)
        bench.do("arrange", ids=[ids[i] for i in selection], **LINE, order=order, reverse=reverse)
        results.append(places(bench, ids))
    assert results[0] == pytest.approx(results[1], abs=1e-12)


@given(st.integers(1, 40), st.floats(0.5, 30), st.sampled_from(["on", "half a step in"]))
def test_what_fills_a_line_is_even_and_lies_on_it(count, length, ends):
    guide = Line(np.array([0.0, 0, 0]), np.array([length, 0, 0]))
    found = distances(guide, np.zeros((count, 3)), "fill", ends)
    assert found.min() >= -1e-9
    assert found.max() <= length + 1e-9
    if count > 2:
        assert np.diff(found) == pytest.approx(np.full(count - 1, np.diff(found)[0]))


@given(
    st.floats(0.5, 20), st.floats(-180, 180), st.floats(-359, 359).filter(lambda span: abs(span) > 5), st.floats(0, 1)
)
def test_the_foot_of_a_place_on_a_ring_is_that_place(radius, start, span, share):
    ring = Ring(np.array([1.0, -2.0, 3.0]), radius, radius, start, span)
    there = np.array([share * ring.length_m])
    assert ring.feet(ring.at(there)) == pytest.approx(there, abs=1e-6 * ring.length_m + 1e-9)


def test_equal_keys_keep_the_second_one():
    assert settled([(1.0, 2.0), (1.0, 1.0), (0.0, 5.0)], False) == [2, 1, 0]
    assert settled([(1.0, 2.0), (1.0, 1.0), (0.0, 5.0)], True) == [0, 1, 2]


def test_five_hundred_are_arranged_whatever_their_order(bench):
    ids = free(bench, *((float(random.Random(i).uniform(-9, 9)), 0.0, 6.0) for i in range(60)))
    bench.do("arrange", ids=ids, guide="ring", centre=(0, 0, 6), radius="9m", facing="along")
    radii = np.linalg.norm(places(bench, ids)[:, :2], axis=1)
    assert radii == pytest.approx(np.full(60, 9.0))
