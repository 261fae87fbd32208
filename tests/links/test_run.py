"""A running order in the live engine: one clock for all who look, and who has the say. Time is turned by hand."""

import numpy as np
import pytest

from tests.links.test_engine import OPEN_RED, connect, hear
from zarfwright.core.connections import Connection
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.looks.said import said_of
from zarfwright.core.picture import FIELDS
from zarfwright.library import dunlin, heron
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.playing import live_rig
from zarfwright.links.live.run import run_of

GREEN, PAN = FIELDS.index("green"), FIELDS.index("pan")
LIT = {"dimmer": 1.0, "red": 0.0, "green": 1.0, "blue": 0.0, "white": 0.0}


class Clock:
    """Told what time it is."""

    def __init__(self):
        self.now = 100.0

    def __call__(self):
        return self.now


@pytest.fixture
def clock():
    return Clock()


@pytest.fixture
def engine(clock):
    made = Engine(clock)
    connect(made, Connection("desk", "sACN"))
    made.set_rig(live_rig(1, [PatchRow("a", dunlin(), "Standard", 1, 1), PatchRow("h", heron(), "Standard", 2, 1)]))
    return made


def step(key, look, **more):
    return {"key": key, "look": look, "fade_in_s": 2.0, "hold_s": 3.0, "follows": True, **more}


def play(engine, *steps, air=((None, None, None),), **looks):
    said = {name: said_of(values) for name, values in looks.items()}
    command = {"order": "o", "steps": list(steps), "air": list(air) * (len(steps) if len(air) == 1 else 1)}
    engine.set_run(run_of(command, said, engine.playing, engine.run))
    engine.command_run("play", None)


def green(engine):
    return float(engine.beams()[1][0][GREEN])


def test_a_fade_is_the_same_for_all_at_the_same_moment_of_the_clock(engine, clock):
    play(engine, step("1", "dark"), step("2", "lit"), dark={"a": {**LIT, "dimmer": 0.0}}, lit={"a": LIT})
    assert green(engine) == 0.0
    clock.now += 5 + 2
    full = green(engine)
    assert full > 0
    engine.command_run("to", 6.0)
    half = green(engine)
    assert 0.2 * full < half < 0.8 * full
    # However one came there.
    engine.command_run("to", 0.0)
    green(engine)
    engine.command_run("to", 6.0)
    assert green(engine) == half
    clock.now += 0.0
    assert engine.run_told()["at_s"] == 6.0


def test_while_it_stands_nothing_is_worked_out_and_it_goes_on_by_itself(engine, clock):
    play(engine, step("1", "lit", fade_in_s=0.0), step("2", "dark"), lit={"a": LIT}, dark={"a": {"dimmer": 0.0}})
    engine.publish()
    clock.now += 1.0
    assert len(engine.publish().changed) == 0
    # It plays, so that the publisher comes back; paused, there is nothing to come back for.
    assert engine.waiting
    engine.command_run("pause", None)
    engine.publish()
    assert not engine.waiting
    engine.command_run("play", None)
    clock.now += 4.0
    assert engine.publish().changed is None or len(engine.publish().changed) == 0
    assert engine.run_told()["step"] == "2"


def test_hands_are_over_the_console_and_that_over_the_run_unless_the_run_is_first(engine, clock):
    hear(engine, 1, OPEN_RED)
    play(engine, step("1", "lit", fade_in_s=0.0), lit={"a": LIT})
    clock.now += 1.0
    assert engine.beams() is not None
    assert engine.drivers()["a"] == "console"
    engine.set_drive(None, {}, True, first=True)
    assert green(engine) > 0.02
    assert engine.drivers() == {"a": "look", "h": "home"}
    engine.set_drive(None, {"a": {"green": 0.0}}, True, first=True)
    assert green(engine) == 0.0
    assert engine.drivers()["a"] == "hands"


def test_a_scrubbed_head_is_where_it_is_at_that_time_at_once(engine, clock):
    play(engine, step("1", "left", fade_in_s=0.0), step("2", "right", fade_in_s=1.0, hold_s=20.0),
         left={"h": {"pan": -2.0, "tilt": 0.5}}, right={"h": {"pan": 2.0, "tilt": 0.5}})  # fmt: skip
    engine.beams()
    engine.command_run("pause", None)
    engine.command_run("to", 3.0 + 21.0)
    clock.now += 0.02
    assert engine.beams()[1][1][PAN] == pytest.approx(2.0, abs=1e-3)
    # On its way it takes the time that it takes: it is not there after the second that was planned.
    engine.command_run("to", 3.0 + 1.0)
    assert engine.beams()[1][1][PAN] < 1.5


def test_a_run_goes_on_over_another_rig_and_the_same_order_where_it_was(engine, clock):
    said = {"dark": {"a": {"dimmer": 0.0}}, "lit": {"a": LIT}}
    play(engine, step("1", "lit", hold_s=30.0), step("2", "dark"), **said)
    clock.now += 4.0
    engine.set_rig(live_rig(2, [PatchRow("a", dunlin(), "Standard", 1, 1)]))
    assert engine.run_told()["at_s"] == pytest.approx(4.0)
    assert green(engine) > 0.02
    # Its times are dragged meanwhile.
    play(engine, step("1", "lit", hold_s=40.0), step("2", "dark"), **said)
    assert engine.run_told()["at_s"] == pytest.approx(4.0)
    assert engine.run_told()["total_s"] == pytest.approx(42 + 5)
    engine.set_run(None)
    assert engine.run_told() is None
    engine.beams()
    assert engine.drivers() == {"a": "home"}


def test_haze_house_lights_and_exposure_fade_with_the_step_and_stay_where_a_look_says_nothing(engine, clock):
    play(engine, step("1", "lit"), step("2", "lit"), step("3", "lit"), lit={"a": LIT},
         air=[(0.01, 0.0, 8.0), (0.03, None, 6.0), (None, 20.0, None)])  # fmt: skip
    engine.command_run("to", 5.0 + 1.0)
    told = engine.run_told()
    assert (told["haze_per_m"], told["house_light_lx"], told["exposure_ev"]) == (pytest.approx(0.02), 0.0, 7.0)
    engine.command_run("to", 15.0)
    told = engine.run_told()
    assert (told["haze_per_m"], told["house_light_lx"], told["exposure_ev"]) == (0.03, 20.0, 6.0)


def test_a_look_that_nobody_has_told_of_is_left_alone(engine, clock):
    play(engine, step("1", "never heard of"))
    assert np.isfinite(engine.beams()[1]).all()
    assert engine.drivers()["a"] == "home"
