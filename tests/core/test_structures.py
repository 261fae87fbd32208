"""Structures of every form: where their rails are, how fixtures hang on them, what they weigh; worked by hand."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zarfwright.core.errors import JobError
from zarfwright.core.rig.hang import clamp_placement, hanging_frame
from zarfwright.core.rig.things import Hang
from zarfwright.core.site.structures import (
    LATTICES,
    axis_length_m,
    end_trims_m,
    rail_label,
    rail_names,
    rail_of,
    start_side,
    structure_mesh,
    truss_rails,
    weight_kg,
)
from zarfwright.core.site.things import Truss
from zarfwright.core.space import rotate

RING = Truss("R", (0.0, -4.0, 6.0), form="arc", diameter_m=5.0, section_m=0.3, lattice="box")


def test_a_ring_begins_upstage_and_runs_by_stage_right():
    outer = rail_of(RING, "lower outer")
    r = 2.5 + 0.15
    assert outer.length_m == pytest.approx(2 * math.pi * r)
    assert outer.at(0.0) == pytest.approx([0, -4 + r, 6])
    assert outer.at(math.pi / 2 * r) == pytest.approx([-r, -4, 6])
    assert outer.at(math.pi * r) == pytest.approx([0, -4 - r, 6])
    assert rail_of(RING, "upper inner").at(0.0) == pytest.approx([0, -4 + 2.35, 6.3])
    assert outer.closed
    assert start_side(RING) == "US"
    assert rail_label(RING, "lower outer") == "lower outer rail"


def test_what_hangs_on_a_ring_has_its_x_along_the_rail_and_hangs_down():
    r = 2.65
    for share, along in ((0.0, [-1, 0, 0]), (0.25, [0, -1, 0]), (0.5, [1, 0, 0]), (0.75, [0, 1, 0])):
        frame = hanging_frame(rail_of(RING, "lower outer"), Hang("R", "lower outer", share * 2 * math.pi * r))
        assert rotate(frame.rotation, np.array([1.0, 0, 0])) == pytest.approx(along, abs=1e-9)
        assert rotate(frame.rotation, np.array([0, 0, -1.0])) == pytest.approx([0, 0, -1], abs=1e-9)


def test_a_raked_ring_is_higher_at_its_end_side():
    raked = Truss("R", (0.0, 0.0, 6.0), form="arc", diameter_m=4.0, lattice="pipe", rake_deg=30.0)
    pipe = rail_of(raked, "pipe")
    # The stage left side is raised: 2 m out, sin 30 = 1/2 up.
    assert pipe.at(0.75 * pipe.length_m) == pytest.approx([2 * math.cos(math.radians(30)), 0, 7.0])
    assert end_trims_m(raked) == pytest.approx((5.0, 7.0))


def test_half_a_ring_ends_where_it_should():
    half = Truss("A", (1.0, 0.0, 5.0), form="arc", diameter_m=8.0, span_deg=180.0, lattice="ladder", section_m=0.5)
    lower = rail_of(half, "lower")
    assert lower.at(0.0) == pytest.approx([1, 4, 5])
    assert lower.at(lower.length_m) == pytest.approx([1, -4, 5])
    assert not lower.closed
    assert axis_length_m(half) == pytest.approx(4 * math.pi)
    assert rail_of(half, "upper").at(0.0)[2] == pytest.approx(5.5)


def test_a_boom_stands_on_its_foot_with_arms_from_the_top():
    boom = Truss(
        "B", (7.0, 2.0, 0.0), 4.0, form="upright", lattice="pipe", arms=2, arm_m=1.2, arm_pitch_m=0.8, kg_per_m=3.0
    )
    assert rail_names(boom) == ["pipe", "arm 1", "arm 2"]
    pipe = rail_of(boom, "pipe")
    assert (pipe.at(0.0).tolist(), pipe.at(4.0).tolist()) == ([7, 2, 0], [7, 2, 4])
    arm = rail_of(boom, "arm 2")
    assert arm.at(0.0) == pytest.approx([6.4, 2, 3.05])
    assert arm.at(1.2) == pytest.approx([7.6, 2, 3.05])
    assert rail_label(boom, "arm 2") == "arm 2"
    assert start_side(boom) == "the foot"
    assert weight_kg(boom) == pytest.approx((4.0 + 2.4) * 3.0)
    # On an arm it hangs down; on the pipe it sticks out upstage, away from the face.
    frame = hanging_frame(arm, Hang("B", "arm 2", 0.0))
    assert rotate(frame.rotation, np.array([0, 0, -1.0])) == pytest.approx([0, 0, -1], abs=1e-9)
    frame = hanging_frame(pipe, Hang("B", "pipe", 2.0))
    assert rotate(frame.rotation, np.array([0, 0, -1.0])) == pytest.approx([0, 1, 0], abs=1e-9)


def test_a_turned_boom_turns_its_arms():
    boom = Truss("B", (0.0, 0.0, 0.0), 3.0, form="upright", lattice="pipe", arms=1, turn_deg=90.0)
    assert rail_of(boom, "arm 1").at(1.0) == pytest.approx([0, 0.5, 2.85])


@pytest.mark.parametrize(
    ("lattice", "rails"),
    [
        ("triangle", {"lower left": (0, 0.2, 6), "lower right": (0, -0.2, 6), "upper": (0, 0, 6.3464)}),
        ("flat", {"left": (0, 0.2, 6), "right": (0, -0.2, 6)}),
        ("ladder", {"lower": (0, 0, 6), "upper": (0, 0, 6.4)}),
        ("pipe", {"pipe": (0, 0, 6)}),
    ],
)
def test_the_rails_of_each_lattice(lattice, rails):
    found = truss_rails(Truss("T", (0.0, 0.0, 6.0), 8.0, section_m=0.4, lattice=lattice))
    assert {name: tuple(np.round(rail.at(4.0), 6)) for name, rail in found.items()} == rails


@pytest.mark.parametrize("form", ["straight", "upright", "arc"])
@pytest.mark.parametrize("lattice", LATTICES)
def test_every_structure_has_a_mesh_about_its_rails(form, lattice):
    truss = Truss("T", (0.0, 0.0, 0.0), 4.0, form=form, lattice=lattice, section_m=0.3)
    low, high = structure_mesh(truss).bounds()
    ends = np.array(
        [rail.at(share * rail.length_m) for rail in truss_rails(truss).values() for share in (0, 0.3, 0.6, 1)]
    )
    assert (ends.min(axis=0) >= low - 0.06).all()
    assert (ends.max(axis=0) <= high + 0.06).all()
    assert set(rail_names(truss)) == set(truss_rails(truss))


@settings(max_examples=80, deadline=None)
@given(st.floats(0, 1), st.floats(20, 360), st.floats(1, 30), st.floats(-40, 40), st.floats(-180, 180))
def test_along_an_arc_the_way_is_as_long_as_it_says(share, span, diameter, rake, turn):
    arc = Truss(
        "A",
        (1.0, 2.0, 9.0),
        form="arc",
        diameter_m=diameter,
        span_deg=span,
        rake_deg=rake,
        turn_deg=turn,
        lattice="pipe",
    )
    rail = rail_of(arc, "pipe")
    at = share * rail.length_m
    step = 1e-5
    assert (rail.at(at + step) - rail.at(at)) / step == pytest.approx(rail.direction_at(at), abs=1e-4)
    assert np.linalg.norm(rail.at(at) - [1, 2, 9]) == pytest.approx(diameter / 2)


def test_a_ring_is_added_raked_moved_and_keeps_what_hangs_on_it(bench):
    ring = bench.made(
        "add truss", form="arc", diameter="5m", start_trim="6m", end_trim="6.5m", y="DS 4", section="0.3m"
    )
    assert bench.body(ring).name == "Ring 1"
    lamps = bench.do("place along rail", structure=ring, rail="lower outer", type="dunlin", count="8").select
    rail = rail_of(bench.body(ring), "lower outer")
    places = [clamp_placement(bench.show, bench.body(lamp)).position for lamp in lamps]
    # A whole turn: eight of them, each an eighth apart, the first half a step in.
    for i, place in enumerate(places):
        assert place == pytest.approx(rail.at((i + 0.5) / 8 * rail.length_m), abs=1e-6)
    bench.do("move", ids=[ring], by=[1.0, 0.0, 0.0])
    moved = [clamp_placement(bench.show, bench.body(lamp)).position for lamp in lamps]
    assert np.array(moved) - np.array(places) == pytest.approx(np.tile([1.0, 0, 0], (8, 1)))
    bench.do("set field", ids=[ring], field="end trim", text="7m")
    assert end_trims_m(bench.body(ring)) == pytest.approx((6.0, 7.0))


def test_a_boom_is_added_and_its_top_is_typed(bench):
    boom = bench.made("add truss", form="upright", lattice="pipe", length="4m", start_trim="0.2m", arms="3", x="SL 6")
    assert (bench.body(boom).name, bench.body(boom).kg_per_m) == ("Boom 1", 3.0)
    bench.do("set field", ids=[boom], field="end trim", text="5m")
    assert bench.body(boom).length_m == pytest.approx(4.8)
    lamp = bench.do("place along rail", structure=boom, rail="arm 1", type="dunlin", count="1").select[0]
    assert clamp_placement(bench.show, bench.body(lamp)).position == pytest.approx((6.0, 0.0, 4.85))


@pytest.mark.parametrize(
    ("args", "field"),
    [
        ({"form": "upright", "length": "1m", "arms": "9"}, "arms"),
        ({"form": "arc", "span": "2"}, "span"),
        ({"form": "arc", "diameter": "0.1m"}, "diameter"),
        ({"kg_per_m": "heavy"}, "kg_per_m"),
        ({"form": "arc", "diameter": "2m", "start_trim": "1m", "end_trim": "9m"}, "end_trim"),
    ],
)
def test_structures_that_cannot_be_are_refused(bench, args, field):
    with pytest.raises(JobError) as wrong:
        bench.do("add truss", **args)
    assert wrong.value.field == field


def test_one_trim_lifts_a_structure_as_it_is(bench):
    level = bench.made("add truss", length="8m", start_trim="6m")
    bench.do("set field", ids=[level], field="trim", text="7.5m")
    assert (bench.body(level).position[2], bench.body(level).rake_deg) == (7.5, 0.0)
    raked = bench.made("add truss", length="8m", start_trim="6m", end_trim="5m")
    before = bench.body(raked)
    bench.do("set field", ids=[level, raked], field="trim", text="+1m")
    assert bench.body(level).position[2] == 8.5
    assert bench.body(raked).rake_deg == before.rake_deg
    assert bench.body(raked).position[2] == before.position[2] + 1
