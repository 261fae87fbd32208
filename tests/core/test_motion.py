"""Heads travel as trapezoids, wheels turn on without a jump, exposure is as a meter's."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.motion import CLOCK_S, SPIN_STEP, Spinning, Travel
from zarfwright.core.optics.colour import white_rgb
from zarfwright.core.optics.exposure import camera_ev, eye_ev, shown_per_cd, white_balance
from zarfwright.core.picture import COLUMN, FIELDS
from zarfwright.library import bittern, heron

ROWS = [PatchRow("a", heron(), "Standard", None, None)]
PAN = INDEX["pan"]
SPEED = math.radians(540) / 3.2
ACCELERATION = SPEED / 0.25


def at(pan):
    features = compile_rig(ROWS).home.copy()
    features[:, PAN] = pan
    return features


def travelled(travel, pan, seconds, fps=44):
    """The pan after some seconds of frames, and whether it still moves."""
    shown, moving = at(0), True
    for _ in range(round(seconds * fps)):
        shown, moving = travel.step(at(pan), 1 / fps)
    return float(shown[0, PAN]), moving


def test_a_head_takes_the_time_of_its_trapezoid():
    travel = Travel(ROWS)
    travel.step(at(0.0), 0.0)
    way = math.radians(180)
    whole = way / SPEED + SPEED / ACCELERATION
    before, moving = travelled(travel, way, whole - 0.15)
    assert moving
    assert before < way - 0.005
    after, moving = travelled(travel, way, 0.25)
    assert (after, moving) == (way, False)


def test_a_short_way_never_reaches_full_speed():
    travel = Travel(ROWS)
    travel.step(at(0.0), 0.0)
    way = math.radians(8)
    triangle = 2 * math.sqrt(way / ACCELERATION)
    assert triangle < SPEED / ACCELERATION * 2
    assert travelled(travel, way, triangle * 0.5)[0] == pytest.approx(way / 2, abs=way * 0.12)
    assert travelled(travel, way, triangle * 0.5 + 0.08) == (way, False)


def test_half_way_through_it_goes_at_full_speed():
    travel = Travel(ROWS)
    travel.step(at(0.0), 0.0)
    first, _ = travelled(travel, 3.0, 0.6)
    second, _ = travelled(travel, 3.0, 0.1)
    assert (second - first) / (4 / 44) == pytest.approx(SPEED, rel=0.03)


def test_a_head_that_was_nowhere_is_at_once_where_it_should_be_and_others_do_not_travel():
    assert travelled(Travel(ROWS), 2.0, 1 / 44) == (2.0, False)
    fixed = [PatchRow("b", bittern(), "Dimmer", None, None)]
    home = compile_rig(fixed).home
    travel = Travel(fixed)
    travel.step(home, 0.0)
    brighter = home.copy()
    brighter[:, INDEX["dimmer"]] = 1.0
    shown, moving = travel.step(brighter, 0.02)
    assert not moving
    assert shown[0, INDEX["dimmer"]] == 1.0


def test_a_new_patch_takes_over_where_heads_are():
    old = Travel(ROWS)
    old.step(at(0.0), 0.0)
    place, _ = travelled(old, 3.0, 0.5)
    rows = [PatchRow("new", heron(), "Standard", None, None), *ROWS]
    travel = Travel(rows)
    travel.continue_from(old, ("new", "a"), ("a",))
    assert np.isnan(travel.at[0, 0])
    told = compile_rig(rows).home.copy()
    told[:, PAN] = 3.0
    shown, _ = travel.step(told, 0.0)
    assert shown[:, PAN] == pytest.approx([3.0, place])


@settings(max_examples=60, deadline=None)
@given(st.lists(st.floats(-4.5, 4.5), min_size=1, max_size=6), st.integers(1, 60))
def test_whatever_is_asked_speed_and_acceleration_stay_within_limits(targets, frames):
    travel = Travel(ROWS)
    travel.step(at(0.0), 0.0)
    for target in targets:
        for _ in range(frames):
            before, speed = travel.at[0, 0], travel.velocity[0, 0]
            travel.step(at(target), 1 / 44)
            assert abs(travel.at[0, 0] - before) * 44 <= SPEED * 1.001
            assert abs(travel.velocity[0, 0] - speed) <= 2.1 * ACCELERATION / 44
    place, moving = travelled(travel, 1.0, 6.0)
    assert (place, moving) == (1.0, False)


@pytest.mark.parametrize("seed", range(12))
def test_however_unevenly_frames_come_a_head_never_overshoots(seed):
    rng = np.random.default_rng(seed)
    target = float(rng.uniform(0.05, 4.0))
    travel = Travel(ROWS)
    travel.step(at(0.0), 0.0)
    way = [
        float(travel.step(at(target), seconds)[0][0, PAN])
        for seconds in rng.choice([0.0004, 0.003, 0.02, 0.06, 0.2], 200)
    ]
    assert max(way) <= target + 1e-9
    assert np.all(np.diff(way) >= -1e-9)
    assert way[-1] == target


def frame_with(turn, spin):
    frame = np.zeros((1, len(FIELDS)), dtype=np.float32)
    frame[0, COLUMN["gobo_turn"]], frame[0, COLUMN["gobo_spin"]] = turn, spin
    return frame


def angle(frame, clock):
    turn = float(frame[0, COLUMN["gobo_turn"]]) + float(frame[0, COLUMN["gobo_spin"]]) * (clock % CLOCK_S)
    return (turn + math.pi) % (2 * math.pi) - math.pi


def test_a_wheel_that_changes_its_speed_goes_on_from_where_it_is():
    spinning = Spinning(1)
    for clock, before, after in ((1000.0, 0.5, 1.5), (1003.0, 1.5, -0.7), (5000.0, -0.7, 2.0)):
        slow, fast = frame_with(0.2, before), frame_with(0.2, after)
        spinning.apply(slow, clock)
        spinning.apply(fast, clock)
        assert angle(fast, clock) == pytest.approx(angle(slow, clock), abs=2e-3)


def test_every_spin_comes_round_whole_when_the_clock_wraps():
    for spin in (0.5, 1.234, -3.0):
        frame = frame_with(0.0, spin)
        Spinning(1).apply(frame, 10.0)
        assert frame[0, COLUMN["gobo_spin"]] == pytest.approx(spin, abs=SPIN_STEP)
        # A full wrap is a whole number of turns, to what single precision keeps of 4096 seconds.
        turns = float(frame[0, COLUMN["gobo_spin"]]) * CLOCK_S / (2 * math.pi)
        assert turns == pytest.approx(round(turns), abs=1e-3)


def test_a_wheel_that_stands_still_is_at_its_index():
    spinning = Spinning(1)
    spinning.apply(frame_with(0.3, 1.0), 500.0)
    frame = frame_with(0.3, 0.0)
    spinning.apply(frame, 501.0)
    assert frame[0, COLUMN["gobo_turn"]] == pytest.approx(0.3)


def test_exposure_is_as_a_meter_says():
    assert camera_ev(8.0, 1 / 125, 100) == pytest.approx(12.97, abs=0.01)
    assert camera_ev(2.8, 1 / 50, 800) == pytest.approx(math.log2(2.8**2 * 50) - 3)
    # Two stops more is a quarter as bright.
    assert shown_per_cd(9.0) == pytest.approx(shown_per_cd(7.0) / 4)
    assert eye_ev(0.18 * 1.2 * 2**7) == pytest.approx(7.0)


@pytest.mark.parametrize("kelvin", [2900.0, 4500.0, 6500.0, 9000.0])
def test_white_balance_makes_its_white_white(kelvin):
    seen = white_balance(kelvin) @ white_rgb(kelvin)
    assert seen == pytest.approx([1, 1, 1], abs=4e-3)
