"""Aim: both solutions, the nearest wins, and who cannot reach. Checked by casting the beam, not by the solver."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from zarfwright.core.aiming.solve import aim, direction_in_show, head_turn, solutions, ways
from zarfwright.core.aiming.solve import lens as lens_of
from zarfwright.core.aiming.yokes import chain_for
from zarfwright.core.dmx.encode import encode_raws
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.space import Placement, about, quat, rotate, unit
from zarfwright.core.types.chain import chain_of
from zarfwright.library import curlew, heron

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


turns = st.tuples(*[st.floats(-1, 1)] * 4).filter(lambda q: sum(part * part for part in q) > 0.01)
offsets = st.tuples(*[st.floats(-0.3, 0.3)] * 3)


def turn_of(q):
    return quat(np.asarray(q) / np.linalg.norm(q))


@settings(max_examples=150)
@given(turns, turns, offsets, offsets, offsets, st.floats(1.0, 4.7), st.floats(0.6, 2.6), turns, st.floats(1.5, 25.0))
def test_whatever_the_mount_and_the_offsets_the_beam_passes_the_place_or_nothing_better_is_in_range(
    mount_turn, lens_turn, pan, tilt, lens, pan_to, tilt_to, way, away
):
    tilted = quat(about((1.0, 0.0, 0.0), 0.5 * lens_turn[0]))
    chain = replace(
        CHAIN, pan_offset=pan, tilt_offset=tilt, lens_offset=lens, lens_turn=tilted, mount_turn=turn_of(lens_turn),
        pan_range=(-pan_to, pan_to), tilt_range=(-tilt_to, tilt_to),
    )  # fmt: skip
    mount = Placement((1.0, -2.0, 6.0), turn_of(mount_turn))
    target = np.asarray(mount.position) + rotate(turn_of(way), np.array([0.0, 0.0, away]))
    result = aim([chain], [mount], target, [[0.0, 0.0]])
    missed = miss_rad(chain, mount, result.pan[0], result.tilt[0], target)
    if result.reaches[0]:
        # Within 5 mm at 20 m.
        assert missed * 20 < 5e-3
        return
    assert missed == pytest.approx(result.missing[0], abs=1e-4)
    p, t = np.meshgrid(np.linspace(-pan_to, pan_to, 61), np.linspace(-tilt_to, tilt_to, 41), indexing="ij")
    places, directions = lens_of(chain, p, t)
    wanted = unit(
        rotate(quat(np.array(mount.rotation) * [-1, -1, -1, 1]), target - np.asarray(mount.position)) - places
    )
    angles = np.arctan2(np.linalg.norm(np.cross(directions, wanted), axis=-1), np.sum(directions * wanted, axis=-1))
    assert result.missing[0] < angles.min() + 0.05


@given(st.tuples(st.floats(-12, 12), st.floats(-12, 12), st.floats(0, 2.5)))
def test_every_way_looks_there_and_is_within_half_a_step_in_sixteen_bits(target):
    fixture_type = heron()
    mode = fixture_type.mode("Extended")
    for way in ways(CHAIN, MOUNT, target):
        if not way.reaches:
            continue
        assert miss_rad(CHAIN, MOUNT, way.pan, way.tilt, target) < 1e-4
        raws = encode_raws(fixture_type, mode, {"pan": way.pan, "tilt": way.tilt})
        for raw, angle, span in ((raws[0], way.pan, 540.0), (raws[1], way.tilt, 270.0)):
            heard = math.radians(raw / 65535 * span - span / 2)
            assert abs(heard - angle) <= math.radians(span / 65535 / 2) + 1e-9


def test_all_ways_within_range_are_told_the_nearest_first():
    found = ways(CHAIN, MOUNT, (5.0, 4.0, 0.0), (4.0, -0.5))
    # Half a turn apart in pan with the tilt over, and a whole turn on where the range has room for it.
    assert len(found) >= 3
    travel = [max(abs(way.pan - 4.0), abs(way.tilt + 0.5)) for way in found]
    assert travel == sorted(travel)
    assert {round(abs(way.tilt), 6) for way in found} == {round(abs(found[0].tilt), 6)}


def test_a_yoke_is_turned_by_hand_and_its_lamp_swings_about_the_pivot(bench):
    bench.show = replace(bench.show, types={**bench.show.types, "dunlin": curlew()})
    truss = bench.made("add truss", length="8m", start_trim="6m")
    (lamp,) = bench.do("place along rail", structure=truss, type="dunlin", count="1").select
    bench.do("aim at", ids=[lamp], point=[1.5, 4.0, 1.6])
    body = bench.body(lamp)
    assert set(body.fixed) == {"pan", "tilt"}
    assert not body.hands
    chain, mount = chain_for(bench.show, body), clamp_placement(bench.show, body)
    assert miss_rad(chain, mount, body.fixed["pan"], body.fixed["tilt"], (1.5, 4.0, 1.6)) < 2e-6
    lens, _ = direction_in_show(chain, mount, body.fixed["pan"], body.fixed["tilt"])
    # 0.40 m under the clamp is the pivot, 0.32 m further the lens, wherever it looks.
    assert np.linalg.norm(lens - (np.asarray(mount.position) - [0, 0, 0.40])) == pytest.approx(0.32)
    # It stays so under hands, console and looks: the picture takes it from the lamp.
    rig = rig_of(bench.show)
    beams = rig.beams({lamp: {"pan": 0.0, "tilt": 0.0, "dimmer": 1.0}}, {})
    assert unit(np.array([1.5, 4.0, 1.6]) - beams.lens[0]) == pytest.approx(beams.along[0], abs=1e-6)


def test_typed_angles_fan_across_from_the_middle_and_stop_at_their_range(bench):
    truss = bench.made("add truss", length="12m", start_trim="6m")
    ids = list(bench.do("place along rail", structure=truss, type="heron", count="5").select)

    def tilts():
        return [round(math.degrees(bench.body(one).hands["tilt"]), 6) for one in ids]

    bench.do("turn heads", ids=ids[::-1], feature="tilt", text="-20 to 20")
    # In the order in which they hang, however they were selected.
    assert tilts() == [-20, -10, 0, 10, 20]
    bench.do("turn heads", ids=ids, feature="tilt", text="+=5")
    assert tilts() == [-15, -5, 5, 15, 25]
    bench.do("turn heads", ids=ids, feature="tilt", text="10 to 40", fan="middle")
    assert tilts() == [40, 25, 10, 25, 40]
    bench.do("turn heads", ids=ids[:4], feature="tilt", text="10 to 40", fan="middle")
    assert tilts()[:4] == [40, 10, 10, 40]
    edit = bench.do("turn heads", ids=ids, feature="tilt", text="170")
    assert tilts() == [135] * 5
    assert "stops at 135°: its tilt goes -135° to 135°" in edit.report[0]


def test_a_flipped_head_looks_at_the_same_place_the_other_way_round(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m")
    ids = list(bench.do("place along rail", structure=truss, type="heron", count="2").select)
    bench.do("aim at", ids=ids, point=[1.0, 5.0, 1.2])
    was = [dict(bench.body(one).hands) for one in ids]
    bench.do("flip", ids=ids)
    for one, before in zip(ids, was, strict=True):
        body = bench.body(one)
        assert body.hands["tilt"] == pytest.approx(-before["tilt"], abs=1e-6)
        chain, mount = chain_for(bench.show, body), clamp_placement(bench.show, body)
        assert miss_rad(chain, mount, body.hands["pan"], body.hands["tilt"], (1.0, 5.0, 1.2)) < 1e-5
        assert body.aim.place == (1.0, 5.0, 1.2)


def test_partners_are_found_by_place_and_mirrored_across_the_centre_line(bench):
    truss = bench.made("add truss", length="10m", start_trim="6m")
    ids = list(
        bench.do("place along rail", structure=truss, type="heron", count="4", ends="margin", margin="1m").select
    )
    places = {one: clamp_placement(bench.show, bench.body(one)).position[0] for one in ids}
    left = sorted((one for one in ids if places[one] > 0), key=lambda one: places[one])
    right = sorted((one for one in ids if places[one] < 0), key=lambda one: -places[one])
    bench.do("aim at", ids=left, point=[2.0, 4.0, 1.0])
    bench.do("mirror aims", ids=[left[0]])
    assert bench.body(right[0]).aim.place == pytest.approx((-2.0, 4.0, 1.0))
    assert bench.body(right[1]).aim is None
    bench.do("turn heads", ids=left, feature="tilt", text="25")
    bench.do("mirror aims", ids=ids)
    for one, other in zip(left, right, strict=True):
        a, b = (bench.body(key) for key in (one, other))
        ways_of = []
        for body in (a, b):
            chain, mount = chain_for(bench.show, body), clamp_placement(bench.show, body)
            ways_of.append(direction_in_show(chain, mount, body.hands["pan"], body.hands["tilt"])[1])
        assert ways_of[0] * [-1, 1, 1] == pytest.approx(ways_of[1], abs=1e-5)
    with pytest.raises(JobError, match="partner"):
        bench.do("mirror aims", ids=[bench.made("place free", type="heron", position=[1, 1, 3])])
