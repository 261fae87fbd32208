"""Aim: both solutions, the nearest wins, and who cannot reach. Checked by casting the beam, not by the solver."""

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from zarfwright.core.aim import aim, direction_in_show, head_turn, solutions
from zarfwright.core.space import Placement, about, quat, rotate, unit
from zarfwright.core.types.chain import chain_of
from zarfwright.library import heron

CHAIN = chain_of(heron(), "Standard")
MOUNT = Placement((2.0, 1.0, 7.0))


def miss_rad(chain, mount, pan, tilt, target):
    lens, direction = direction_in_show(chain, mount, pan, tilt)
    return math.acos(min(1.0, float(direction @ unit(np.asarray(target) - lens))))


def test_the_zero_pose_shines_down_and_tilt_and_pan_turn_as_agreed():
    assert rotate(head_turn(CHAIN, 0.0, 0.0), (0, 0, -1)) == pytest.approx([0, 0, -1])
    assert rotate(head_turn(CHAIN, 0.0, math.pi / 2), (0, 0, -1)) == pytest.approx([0, 1, 0], abs=1e-12)
    assert rotate(head_turn(CHAIN, math.pi / 2, math.pi / 2), (0, 0, -1)) == pytest.approx([-1, 0, 0], abs=1e-12)


@given(st.tuples(st.floats(-12, 12), st.floats(-12, 12), st.floats(0, 2.5)), st.floats(-3, 3), st.floats(-1, 1))
def test_an_aimed_beam_passes_through_its_place(target, turn, rake):
    mount = Placement(MOUNT.position, quat(about((0, 0, 1), turn) if rake == 0 else about(unit((1, 0.4, 0)), rake)))
    assume(math.dist(target[:2], MOUNT.position[:2]) > 0.01)
    result = aim([CHAIN], [mount], target, [[0.0, 0.0]])
    assume(result.reaches[0])
    assert miss_rad(CHAIN, mount, result.pan[0], result.tilt[0], target) < 2e-6
    assert CHAIN.pan_range[0] <= result.pan[0] <= CHAIN.pan_range[1]


def test_there_are_two_solutions_and_the_one_nearer_to_the_head_wins():
    target = (5.0, 4.0, 0.0)
    local = np.subtract([target], MOUNT.position)
    pans, tilts = solutions(CHAIN, local, [0.0])
    assert tilts[0, 0] == pytest.approx(-tilts[0, 1])
    for pan, tilt in zip(pans[0], tilts[0], strict=True):
        assert miss_rad(CHAIN, MOUNT, pan, tilt, target) < 2e-6
        near = aim([CHAIN], [MOUNT], target, [[pan + 0.1, tilt]])
        assert (near.pan[0], near.tilt[0]) == pytest.approx((pan, tilt), abs=1e-6)


def test_a_whole_turn_is_taken_where_the_head_already_is():
    target = (2.0, 9.0, 0.0)
    here = aim([CHAIN], [MOUNT], target, [[0.0, 0.0]])
    # 270 degrees each way: a head at 4.2 rad gets there by going on, not by unwinding.
    goal = (2.0 - 4 * math.sin(4.3), 1.0 + 4 * math.cos(4.3), 0.0)
    there = aim([CHAIN], [MOUNT], goal, [[4.2, 0.9]])
    assert here.pan[0] == pytest.approx(0.0, abs=1e-9)
    assert there.pan[0] == pytest.approx(4.3)


def test_straight_down_keeps_the_pan_that_is_there():
    result = aim([CHAIN], [MOUNT], (2.0, 1.0, 0.0), [[1.234, 0.4]])
    assert result.reaches[0]
    assert result.pan[0] == pytest.approx(1.234)
    assert result.tilt[0] == pytest.approx(0.0, abs=1e-6)


def test_what_is_out_of_reach_is_said_with_the_missing_angle():
    # Straight up above the head needs a tilt of 180 degrees; the Heron goes to 135.
    result = aim([CHAIN], [MOUNT], (2.0, 1.0, 400.0), [[0.0, 0.0]])
    assert not result.reaches[0]
    assert math.degrees(result.missing[0]) == pytest.approx(45.0, abs=0.2)
    assert abs(result.tilt[0]) == pytest.approx(math.radians(135))


def test_offset_axes_are_refined_to_a_microradian():
    from dataclasses import replace

    crooked = replace(CHAIN, tilt_offset=(0.05, 0.03, -0.3), lens_offset=(0.02, -0.04, -0.26))
    target = (4.0, 3.5, 1.0)
    result = aim([crooked], [MOUNT], target, [[0.0, 0.0]])
    assert result.reaches[0]
    lens, direction = direction_in_show(crooked, MOUNT, result.pan[0], result.tilt[0])
    assert math.acos(min(1.0, float(direction @ unit(np.asarray(target) - lens)))) < 2e-6


def test_aiming_by_edit_holds_pan_and_tilt_and_names_who_cannot_reach(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m")
    ids = list(bench.do("place along rail", structure=truss, type="heron", count="2", first_number="7").select)
    edit = bench.do("aim at", ids=ids, point=[0.0, 2.0, 1.1])
    assert not edit.report
    assert set(bench.body(ids[0]).hands) == {"pan", "tilt"}
    edit = bench.do("aim at", ids=ids, point=[-2.0, -0.2, 90.0])
    assert any("Fixture 7 cannot reach" in line for line in edit.report)
    bench.do("release", ids=ids)
    assert bench.body(ids[0]).hands == {}
