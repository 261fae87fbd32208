"""Drivers: channels of what moves, where they bring it, and how fast; all worked by hand from numbers.md, Drivers."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.driven import Kept, carrying, channel, do, home_rows, poses, small, told, with_feature
from zarfwright.core.aiming.solve import aim, followed, lens
from zarfwright.core.carriers.keeping import Keeping
from zarfwright.core.carriers.planned import plan_of
from zarfwright.core.carriers.posed import by_id, posed, poses_told
from zarfwright.core.carriers.travel import settled
from zarfwright.core.carriers.types import USUAL, Range, driver_type, is_driver, ranges_of
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.patch import patch_rows
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.scene import solids_of
from zarfwright.core.space import Placement, rotate
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.sort import sort_of
from zarfwright.formats.gdtf import read_gdtf, write_gdtf
from zarfwright.library import heron

Z = INDEX["shift z"]


def lift(bench, bits=16, low="-1m", home="0.5m", high="3m", **more):
    carrier, deck = small(bench)
    channels = [channel("z", low, home, high, bits=bits)]
    return carrier, deck, do(bench, "add driver", thing=carrier, channels=channels, start="1.001", **more)


# The channels


@pytest.mark.parametrize(("raw", "height"), [(0, -1.0), (127, 0.5), (128, 0.5), (255, 3.0), (64, -1 + 1.5 * 64 / 127)])
def test_a_place_of_8_bit_goes_from_its_low_end_over_home_to_its_high_end(bench, raw, height):
    lift(bench, bits=8)
    assert told(bench, {1: raw})[0, Z] == pytest.approx(height, abs=1e-12)


@pytest.mark.parametrize(
    ("raw", "height"),
    [(0, -1.0), (32767, 0.5), (32768, 0.5), (65535, 3.0), (49152, 0.5 + 2.5 * (49152 - 32768) / 32767)],
)
def test_the_same_in_16_bit(bench, raw, height):
    lift(bench)
    assert told(bench, {1: raw >> 8, 2: raw & 255})[0, Z] == pytest.approx(height, abs=1e-12)


@pytest.mark.parametrize(("raw", "size"), [(0, 0.25), (127, 1.0), (128, 1.0), (255, 4.0), (191, 4 ** (63 / 127))])
def test_a_size_goes_by_its_limit_to_the_power_of_what_the_channel_says(bench, raw, size):
    carrier, _ = small(bench)
    do(bench, "add driver", thing=carrier, channels=[channel("size", "0", "0", "4", bits=8)], start="1.001")
    assert told(bench, {1: raw})[0, INDEX["size"]] == pytest.approx(size, rel=2e-5)


@pytest.mark.parametrize(("raw", "share"), [(0, -1.0), (124, 2 * 124 / 255 - 1), (125, 0.0), (127, 0.0), (130, 0.0),
                                            (131, 2 * 131 / 255 - 1), (255, 1.0)])  # fmt: skip
def test_what_spins_stands_still_within_2_percent_of_the_middle(bench, raw, share):
    carrier, _ = small(bench)
    do(bench, "add driver", thing=carrier, channels=[channel("spin", "0", "0", "36", bits=8)], start="1.001")
    assert told(bench, {1: raw})[0, INDEX["spin"]] == pytest.approx(math.radians(36) * share, abs=1e-9)


@pytest.mark.parametrize("usual", USUAL)
@pytest.mark.parametrize("returns", [True, False])
def test_its_gdtf_comes_back_as_it_is_and_rests_at_home(usual, returns):
    made = driver_type(USUAL[usual], usual, returns)
    read, findings = read_gdtf(write_gdtf(made), "x.gdtf")
    assert (read, findings) == (made, [])
    assert is_driver(read)
    assert sort_of(read) == "driver"
    assert ranges_of(read, "Standard") == USUAL[usual]
    for one in read.modes[0].channels:
        assert one.highlight == one.home


def test_ends_that_are_no_round_numbers_come_back_as_well():
    ranges = (Range("z", -0.25, 0.125, 2.375, 0.45, 0.3, 8), Range("turn y", -22.5, 0.0, 7.5, 4.5, 2.25),
              Range("size", 1 / 2.5, 1.0, 2.5, 0.5, 0.5))  # fmt: skip
    made = driver_type(ranges)
    read, findings = read_gdtf(write_gdtf(made), "x.gdtf")
    assert (read, findings) == (made, [])
    assert ranges_of(read, "Standard") == ranges


def test_the_same_channels_are_one_type_and_others_another():
    one = Range("z", 0.0, 0.0, 3.0, 0.3, 0.3)
    assert driver_type([one]).type_id == driver_type([one]).type_id
    assert driver_type([one]).type_id != driver_type([Range("z", 0.0, 0.0, 3.0, 0.4, 0.3)]).type_id


# Where it brings things


def test_at_home_nothing_is_elsewhere_whatever_drives(bench):
    carrier, _deck, _ = lift(bench, home="0m")
    for levels in ({1: 127, 2: 255}, {1: 128}):
        assert not poses(bench, levels)[carrier].moves
    assert posed(bench.show, poses(bench, {1: 128})) is bench.show
    assert poses_told(bench.show, {})[carrier].moves is False


def test_what_is_carried_goes_along_and_the_rest_stays(bench):
    carrier, deck, _ = lift(bench)
    truss = bench.made("add truss", length="4m", x="SL 2", y="US 3", start_trim="5m")
    hung = bench.made("place along rail", structure=truss, type="heron", count="1")
    bench.do("put on", ids=[truss, hung], carrier=carrier)
    stays = bench.made("place free", type="heron", position=[0, 0, 4])
    before = clamp_placement(bench.show, bench.body(hung)).position
    now = posed(bench.show, poses(bench, {1: 255, 2: 255}))
    assert np.allclose(np.subtract(clamp_placement(now, now.items[hung].body).position, before), (0, 0, 3))
    assert now.items[stays] is bench.show.items[stays]
    was, then = (solids_of(show, show.items[deck])[0].placement.position for show in (bench.show, now))
    assert np.allclose(np.subtract(then, was), (0, 0, 3))
    assert now.body(carrier, type(bench.body(carrier))).position == pytest.approx((2, 3, 4))


def test_a_turn_is_about_the_pivot_that_was_chosen_along_raked_axes(bench):
    carrier, _deck = small(bench)
    turns = [channel("turn z", "-90", "0", "90")]
    driver = do(bench, "add driver", thing=carrier, channels=turns, pivot=[-2, 0, 0], start="1.1")
    pose = poses(bench, {1: 255, 2: 255})[carrier]
    # About (0, 3): what is at (2, 3, 1) comes to (0, 5, 1).
    assert pose.apply((2.0, 3.0, 1.0)) == pytest.approx((0, 5, 1))
    do(bench, "set driver", id=driver, channels=[channel("x", "0", "0", "2")], turned="90", raked="30")
    pose = poses(bench, {1: 255, 2: 255})[carrier]
    assert pose.position == pytest.approx((0, 2 * math.cos(math.radians(30)), 1.0))


def test_a_slider_on_a_turntable_turns_with_it_and_grows_with_it(bench):
    table, _deck = small(bench)
    box = bench.made("add piece", piece="flat", x="SL 4", y="US 3")
    slider = bench.made("make carrier", ids=[box], name="Slider", pivot=[4, 3, 1])
    bench.do("put on", ids=[slider], carrier=table)
    do(bench, "add driver", thing=slider, channels=[channel("x", "0", "0", "1")], start="1.001")
    do(bench, "add driver", thing=table, channels=[channel("turn z", "-90", "0", "90"), channel("size", "0", "0", "2")],
       start="1.003")  # fmt: skip
    assert [group.id for group in plan_of(bench.show).groups] == [table, slider]
    found = poses(bench, {1: 255, 2: 255, 3: 255, 4: 255, 5: 255, 6: 255})
    # Out by 1 to (5, 3), then about (2, 3) by 90 degrees and twice as far.
    assert found[slider].apply((4.0, 3.0, 1.0)) == pytest.approx((2, 9, 1))
    assert found[slider].size == pytest.approx(2)
    assert found[table].apply((2.0, 3.0, 1.0)) == pytest.approx((2, 3, 1))


def test_a_shift_goes_along_the_axes_as_they_were_drawn_however_far_another_driver_has_turned_it(bench):
    carrier, _ = small(bench)
    do(bench, "add driver", thing=carrier, channels=[channel("turn z", "-90", "0", "90")], start="1.001")
    do(bench, "add driver", thing=carrier, channels=[channel("x", "0", "0", "1")], start="1.003")
    pose = poses(bench, {1: 255, 2: 255, 3: 255, 4: 255})[carrier]
    assert pose.apply((3.0, 3.0, 1.0)) == pytest.approx((3, 4, 1))


@given(st.lists(st.floats(-1, 1), min_size=6, max_size=6))
def test_six_channels_at_once_keep_lengths_and_the_pivot_goes_only_where_it_is_shifted(values):
    from tests.conftest import Workbench

    bench = Workbench()
    carrier, _ = small(bench)
    do(bench, "add driver", thing=carrier, usual="all six", start="1.001")
    names = ("shift x", "shift y", "shift z", "turn x", "turn y", "turn z")
    driver = plan_of(bench.show).groups[0].drivers[0].fixture
    pose = poses_told(bench.show, {driver: dict(zip(names, values, strict=True))})[carrier]
    assert pose.apply((2.0, 3.0, 1.0)) == pytest.approx(np.add((2, 3, 1), values[:3]), abs=1e-5)
    a, b = pose.apply((0.0, 1.0, 2.0)), pose.apply((4.0, -1.0, 0.5))
    assert np.linalg.norm(a - b) == pytest.approx(np.linalg.norm([4, -2, -1.5]))


# Over time


def test_it_goes_no_faster_and_starts_no_harder_than_it_can(bench):
    lift(bench, home="0m", low="0m")
    moved, up = carrying(bench), with_feature(home_rows(bench), "shift z", 2.0)
    moved.step(home_rows(bench), 0.02)
    heights = []
    for _ in range(44 * 4):
        moved.step(up, 1 / 44)
        heights.append(float(moved.poses[0, 2]))
    # 1 m/s and 1 m/s2 over 2 m: half a metre up to speed, a metre at speed, half a metre to stop: 3 s.
    assert heights[43] == pytest.approx(0.5, abs=0.02)
    assert heights[87] == pytest.approx(1.5, abs=0.02)
    assert heights[131] == pytest.approx(2.0, abs=0.02)
    assert heights[-1] == 2.0
    assert max(np.diff(heights)) <= 1 / 44 + 1e-6
    assert not moved.moves


def test_it_is_at_home_until_it_is_told_and_a_plan_made_anew_leaves_it_where_it_was(bench):
    lift(bench, home="0m")
    moved = carrying(bench)
    assert moved.step(home_rows(bench), 1.0) is False
    for _ in range(20):
        moved.step(with_feature(home_rows(bench), "shift z", 2.0), 1 / 44)
    again = carrying(bench)
    again.continue_from(moved)
    again.step(with_feature(home_rows(bench), "shift z", 2.0), 0.0)
    assert again.poses == pytest.approx(moved.poses)
    assert again.moves


def test_a_spin_is_added_up_within_its_acceleration_and_the_return_brings_it_home_and_holds(bench):
    carrier, _ = small(bench)
    channels = [channel("spin", "0", "0", "90", quick="45", bits=8)]
    do(bench, "add driver", thing=carrier, channels=channels, returns=True, start="1.001")
    moved = carrying(bench)
    on = with_feature(home_rows(bench), "spin", math.radians(90))
    for _ in range(440):
        moved.step(on, 0.01)
    # Two seconds up to 90 degrees a second: 90 degrees; 2.4 s more at speed: 216.
    assert math.degrees(float(moved.spun[0])) == pytest.approx(306, abs=0.5)
    back = with_feature(on, "return", 1.0)
    way = []
    for _ in range(1000):
        moved.step(back, 0.01)
        way.append(float(moved.spun[0]))
    assert moved.poses[0] == pytest.approx([0, 0, 0, 0, 0, 0, 1, 1], abs=1e-9)
    assert not moved.moves
    # Never braked harder than it can; the last hundredth of a degree it lands.
    assert max(np.abs(np.diff(np.diff(np.unwrap(way))))) <= math.radians(45) * 0.01**2 + 1e-4
    moved.step(back, 1.0)
    assert not moved.poses[0, :3].any()
    moved.step(on, 0.02)
    assert moved.moves


def test_a_return_brings_home_whatever_else_it_moves(bench):
    lift(bench, home="0m", returns=True)
    moved = carrying(bench)
    for _ in range(200):
        moved.step(with_feature(home_rows(bench), "shift z", 2.0), 1 / 44)
    for _ in range(200):
        moved.step(with_feature(with_feature(home_rows(bench), "shift z", 2.0), "return", 1.0), 1 / 44)
    assert moved.poses[0, 2] == 0.0


# Heads that keep their aim


def carried_heads(bench, count=6):
    """Heads in a row on a carrier that lifts, all aimed at one place, and told to keep looking there."""
    carrier, _, _driver = lift(bench, home="0m", low="0m")
    truss = bench.made("add truss", length="6m", x="SL 2", y="US 3", start_trim="5m")
    heads = bench.do("place along rail", structure=truss, type="heron", count=str(count)).select
    bench.do("put on", ids=[truss], carrier=carrier)
    point = bench.made("add focus point", name="Lectern", point=[0, 0, 1])
    bench.do("aim at", ids=list(heads), focus=point)
    bench.do("keep aim", ids=list(heads))
    return carrier, heads, point


def off_axis_m(bench, show, head, angles, place):
    """How far beside a place the beam of a head passes, metres."""
    fixture = show.items[head].body
    chain = chains_of(bench.show.types["heron"], fixture.mode)[0]
    clamp = clamp_placement(show, fixture)
    at, way = lens(chain, *angles)
    start, along = clamp.apply(at), rotate(clamp.rotation, way)
    away = np.asarray(place) - start
    return float(np.linalg.norm(away - along * (away @ along)))


@pytest.mark.parametrize("height", [0.5, 1.7, 3.0])
def test_carried_up_they_still_look_at_their_point_to_a_millimetre(bench, height):
    _carrier, heads, _ = carried_heads(bench)
    plan = plan_of(bench.show)
    assert [one.fixture for one in plan.keepers] == list(heads)
    up = settled(plan, [with_feature(home_rows(bench), "shift z", height)[0]])
    keeping = Keeping(plan, {row.fixture: row for row in patch_rows(bench.show)})
    now = np.array([[bench.body(head).hands[name] for name in ("pan", "tilt")] for head in heads])
    angles = keeping.angles(up, now)
    assert np.abs(angles - now).max() > 0.05
    stand = posed(bench.show, by_id(plan, up))
    for head, one in zip(heads, angles, strict=True):
        assert off_axis_m(bench, stand, head, one, (0, 0, 1)) < 1e-3
    # At rest they look as they were aimed.
    assert keeping.angles(settled(plan, list(home_rows(bench))), now) == pytest.approx(now, abs=1e-4)


def test_light_as_numbers_has_them_turned_as_the_picture_has(bench):
    _carrier, heads, _ = carried_heads(bench)
    driver = plan_of(bench.show).groups[0].drivers[0].fixture
    stand = posed(bench.show, poses_told(bench.show, {driver: {"shift z": 3.0}}))
    rig = rig_of(stand)
    beams = rig.beams({key: {"dimmer": 1.0} for key in heads}, {})
    for row, key in enumerate(rig.rig.fixtures):
        if key in heads:
            away = np.array([0, 0, 1]) - beams.lens[row]
            assert np.linalg.norm(away - beams.along[row] * (away @ beams.along[row])) < 1e-3


def test_a_head_that_goes_along_with_its_point_has_nothing_to_keep(bench):
    carrier, _heads, point = carried_heads(bench)
    assert len(plan_of(bench.show).keepers) == 6
    bench.do("ride on", id=point, on=carrier)
    assert plan_of(bench.show).keepers == ()


@settings(max_examples=80)
@given(st.tuples(*[st.floats(-0.2, 0.2)] * 6), st.tuples(*[st.floats(-6, 6)] * 2), st.floats(-8, -2), st.floats(-3, 3))
def test_what_follows_a_place_looks_there_by_the_nearest_way_as_newton_finds_it(offsets, level, down, pan_now):
    head = chains_of(heron(), "Standard")[0]
    ahead = replace(head, tilt_offset=offsets[:3], lens_offset=(offsets[3], offsets[4], -0.2), pan_zero=offsets[5])
    target = np.array([[*level, down]])
    now = np.array([[pan_now, 0.5]])
    pan, tilt, there = followed(ahead, target, now)
    if np.hypot(*level) < 1.0:
        # Straight below any pan does as well, and a lens beside its axes may not reach.
        return
    assert there.all()
    at, way = lens(ahead, pan, tilt)
    away = target - at
    assert np.linalg.norm(away - way * np.sum(away * way)) < 1e-6
    assert float(np.sum(away * way)) > 0
    best = aim([ahead], [Placement()], target, now)
    moved = max(abs(pan[0] - pan_now), abs(tilt[0] - 0.5))
    assert moved == pytest.approx(max(abs(best.pan[0] - pan_now), abs(best.tilt[0] - 0.5)), abs=1e-4)


# The edits


def test_two_drivers_for_one_axis_are_refused_by_name_however_the_axis_is_called(bench):
    carrier, _, driver = lift(bench)
    bench.do("number", ids=[driver], start="901")
    with pytest.raises(JobError, match="Bridge is moved along its z by driver 901 already"):
        do(bench, "add driver", thing=carrier, usual="fly bar")
    with pytest.raises(JobError, match="one driver for one axis"):
        do(bench, "add driver", thing=carrier, channels=[channel("x", "0", "0", "1")], raked="90")
    other = do(bench, "add driver", thing=carrier, channels=[channel("x", "0", "0", "1")])
    with pytest.raises(JobError, match="one driver for one axis"):
        do(bench, "set driver", id=other, raked="-90")
    with pytest.raises(JobError, match="Two channels of this driver are for one axis, turn z"):
        do(
            bench,
            "add driver",
            thing=carrier,
            channels=[channel("turn z", "0", "0", "9"), channel("spin", "", "", "9")],
        )


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        ({"channels": [channel("z", "1m", "0m", "2m")]}, "home"),
        ({"channels": [channel("z", "0m", "0m", "0m")]}, "home"),
        ({"channels": [channel("z", "0m", "0m", "2 furlongs")]}, "high"),
        ({"channels": [channel("z", "0m", "0m", "2m", speed="0")]}, "speed"),
        ({"channels": [channel("size", "0", "0", "40")]}, "high"),
        ({"channels": []}, "channels"),
        ({"usual": "lift", "pivot": [900, 0, 0]}, "pivot"),
        ({"usual": "lift", "start": "0.1"}, "start"),
    ],
)
def test_a_wrong_value_is_refused_with_the_field_at_fault(bench, wrong, field):
    carrier, _ = small(bench)
    with pytest.raises(JobError) as said:
        do(bench, "add driver", thing=carrier, **wrong)
    assert said.value.field == field


def test_what_cannot_be_moved_is_refused(bench):
    _carrier, _, driver = lift(bench)
    with pytest.raises(JobError, match="is a driver itself"):
        do(bench, "add driver", thing=driver, usual="lift")
    with pytest.raises(JobError, match="cannot be moved by a driver"):
        do(bench, "add driver", thing="heron", usual="lift")
    with pytest.raises(JobError, match="moves nothing: it is no driver"):
        do(bench, "set driver", id=bench.made("place free", type="heron", position=[0, 0, 4]), raked="1")


def test_the_type_of_a_driver_is_hung_nowhere_and_a_driver_becomes_no_lamp(bench):
    _, _, driver = lift(bench)
    with pytest.raises(JobError, match="is no lamp"):
        bench.do("place free", type=bench.body(driver).type, position=[0, 0, 3])
    with pytest.raises(JobError, match="moves Bridge"):
        bench.do("swap type", ids=[driver], type="heron")


def test_a_driver_goes_with_what_it_moves_and_a_copy_of_that_has_its_own(bench):
    carrier, _, driver = lift(bench)
    copy = bench.do("duplicate", ids=[carrier], x="5m").select[0]
    drivers = {f.drives.thing: item.id for item, f in bench.show.fixtures()}
    assert drivers.keys() == {carrier, copy}
    with pytest.raises(JobError, match="copied with what it moves"):
        bench.do("duplicate", ids=[driver])
    assert bench.do("mirror", ids=[carrier], keep=True).report == (
        "The image has no driver yet: give it one of its own.",
    )
    bench.do("remove", ids=[carrier])
    assert [item.id for item, _ in bench.show.fixtures()] == [drivers[copy]]


def test_changed_in_part_the_rest_of_it_stays_and_the_patch_is_spoken_of(bench):
    _, _, driver = lift(bench, returns=True)
    do(bench, "set driver", id=driver, turned="45")
    assert bench.body(driver).drives.turned_deg == 45
    assert bench.show.types[bench.body(driver).type].modes[0].footprint == 3
    edit_type = bench.body(driver).type
    do(bench, "set driver", id=driver, channels=[channel("z", "0m", "0m", "2m", bits=8)])
    assert bench.body(driver).type != edit_type
    assert bench.show.types[bench.body(driver).type].modes[0].footprint == 2
    assert bench.body(driver).address == 1


def test_a_driver_moves_one_thing_as_well_a_person_a_flat_or_a_lamp(bench):
    head = bench.made("place free", type="heron", position=[1, 2, 4])
    person = bench.made("add figures", pose="standing", x="SL 1", y="US 1")
    flat = bench.made("add piece", piece="flat", x="SR 3")
    for n, thing in enumerate((head, person, flat)):
        do(bench, "add driver", thing=thing, channels=[channel("y", "0m", "0m", "2m")], start=f"1.{1 + 2 * n:03d}")
    now = posed(bench.show, poses(bench, dict.fromkeys(range(1, 7), 255)))
    assert clamp_placement(now, now.items[head].body).position == pytest.approx((1, 4, 4))
    assert np.subtract(now.items[person].body.position, bench.body(person).position) == pytest.approx((0, 2, 0))
    assert now.poses.keys() == {flat}


def test_aimed_while_it_is_carried_a_head_looks_at_the_place_from_where_it_is(bench):
    carrier, _, _ = lift(bench)
    head = bench.made("place free", type="heron", position=[2, 3, 4])
    bench.do("put on", ids=[head], carrier=carrier)
    up = Kept(poses(bench, {1: 255, 2: 255}))
    do(bench, "aim at", up, ids=[head], point=[2, 10, 4])
    lifted = bench.body(head).hands["tilt"]
    do(bench, "aim at", Kept(), ids=[head], point=[2, 10, 4])
    # 3 m higher it looks further down.
    assert lifted < bench.body(head).hands["tilt"] - 0.3


def test_heads_keep_their_aim_only_where_they_have_one(bench):
    head = bench.made("place free", type="heron", position=[2, 3, 4])
    with pytest.raises(JobError, match="aimed at nothing"):
        bench.do("keep aim", ids=[head])
    bench.do("aim at", ids=[head], point=[0, 0, 0])
    bench.do("keep aim", ids=[head])
    assert bench.body(head).aim.kept
    bench.do("aim at", ids=[head], point=[0, 1, 0])
    assert bench.body(head).aim.kept
    bench.do("keep aim", ids=[head], kept=False)
    assert not bench.body(head).aim.kept
