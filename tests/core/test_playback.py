"""Running orders: the times of steps, the state at any time, real heads, and the transport. Time is turned by hand."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import Workbench
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.errors import JobError
from zarfwright.core.motion import STEP_S, Travel
from zarfwright.core.patch import patch_rows
from zarfwright.core.playback.moves import move_findings, step_times
from zarfwright.core.playback.of_show import carriers_at, score_of
from zarfwright.core.playback.order import Order, Step, starts_of, step_at
from zarfwright.core.playback.transport import BEFORE_S, Transport, told
from zarfwright.core.playback.travel import least_time, share_of_way

PAN, DIMMER, CYAN, GOBO = (INDEX[name] for name in ("pan", "dimmer", "cyan", "gobo slot"))


@pytest.fixture(scope="module")
def stage():
    """Three heads, and looks by name over them."""
    bench = Workbench()
    truss = bench.made("add truss", length="8m", start_trim="6m")
    bench.ids = bench.do("place along rail", structure=truss, type="heron", count="3", first_number="1").select
    return bench


def look(bench, **rows):
    """A look of the heads `a`, `b`, `c`."""
    values = {bench.ids["abc".index(name)]: said for name, said in rows.items()}
    return bench.made("keep look", values=values)


def order_of(bench, *steps, **more):
    """An order of steps, each (look, arguments of a step)."""
    made = tuple(Step(f"s{i}", one, **args) for i, (one, args) in enumerate(steps))
    return score_of(bench.show, Order("A", made, **more))


def head(score, name, t, column):
    return float(score.at(t)[0]["abc".index(name), column])


# Times


def test_a_step_is_as_long_as_the_last_of_it_takes_and_its_hold():
    step = Step("a", "x", fade_in_s=3, fade_out_s=5, delay_s=1, hold_s=4, times={"colour": (2.0, 7.0)})
    assert step.comes_s == 9.0
    assert step.length_s == 13.0
    assert step.time_of("intensity") == (1, 3)
    assert step.time_of("intensity", falling=True) == (1, 5)
    assert step.time_of("beam") == (1, 3)
    starts = starts_of([step, Step("b", "y", hold_s=-1.0)])
    assert starts.tolist() == [0.0, 13.0, 15.0]
    assert [step_at(starts, t) for t in (0, 12.9, 13.0, 99)] == [0, 0, 1, 1]


# The state at a time


def test_levels_rise_by_the_time_in_and_fall_by_the_time_out(stage):
    up = look(stage, a={"dimmer": 1.0}, b={"dimmer": 0.0})
    down = look(stage, a={"dimmer": 0.0}, b={"dimmer": 1.0})
    score = order_of(
        stage, (up, {"fade_in_s": 0, "hold_s": 10}), (down, {"fade_in_s": 2, "fade_out_s": 4, "delay_s": 1})
    )
    assert [round(head(score, "a", 10 + t, DIMMER), 4) for t in (0, 1, 3, 5, 6)] == [1.0, 1.0, 0.5, 0.0, 0.0]
    assert [round(head(score, "b", 10 + t, DIMMER), 4) for t in (0, 1, 2, 3, 6)] == [0.0, 0.0, 0.5, 1.0, 1.0]


def test_what_a_look_leaves_alone_stays_as_the_looks_before_have_put_it(stage):
    first = look(stage, a={"dimmer": 0.5, "cyan": 0.8}, b={"dimmer": 0.3})
    second = look(stage, a={"dimmer": 1.0})
    score = order_of(stage, (first, {}), (second, {}))
    assert head(score, "a", score.total_s, CYAN) == pytest.approx(0.8)
    assert head(score, "b", score.total_s, DIMMER) == pytest.approx(0.3)
    # What nobody says is not said.
    assert math.isnan(head(score, "c", score.total_s, DIMMER))


def test_wheels_step_when_the_beam_of_a_step_begins(stage):
    a, b = look(stage, a={"gobo slot": 1.0}), look(stage, a={"gobo slot": 4.0})
    score = order_of(stage, (a, {"hold_s": 10}), (b, {"times": {"beam": (2.0, 6.0)}}))
    begins = float(score.starts[1])
    assert [head(score, "a", begins + t, GOBO) for t in (0, 1.9, 2.0, 5)] == [1.0, 1.0, 4.0, 4.0]


def test_sorts_have_times_of_their_own(stage):
    a, b = look(stage, a={"dimmer": 0.0, "cyan": 0.0}), look(stage, a={"dimmer": 1.0, "cyan": 1.0})
    score = order_of(stage, (a, {"hold_s": 10}), (b, {"fade_in_s": 2, "times": {"colour": (1.0, 8.0)}}))
    begins = float(score.starts[1])
    assert head(score, "a", begins + 1, DIMMER) == pytest.approx(0.5)
    assert head(score, "a", begins + 5, CYAN) == pytest.approx(0.5)


def test_a_step_that_begins_before_the_last_has_come_goes_on_from_where_that_is(stage):
    dark, full = look(stage, a={"dimmer": 0.0}), look(stage, a={"dimmer": 1.0})
    score = order_of(stage, (dark, {"fade_in_s": 0, "hold_s": 4}), (full, {"fade_in_s": 4, "hold_s": -2}),
                     (dark, {"fade_in_s": 2}))  # fmt: skip
    begins = float(score.starts[2])
    assert head(score, "a", begins, DIMMER) == pytest.approx(0.5)
    assert head(score, "a", begins + 1, DIMMER) == pytest.approx(0.25)


SECONDS = st.floats(0, 6).map(lambda s: round(s, 2))
STEPS = st.lists(
    st.fixed_dictionaries(
        {"fade_in_s": SECONDS, "fade_out_s": st.none() | SECONDS, "delay_s": SECONDS, "hold_s": st.floats(-5, 6),
         "times": st.dictionaries(st.sampled_from(["colour", "position", "beam", "intensity"]),
                                  st.tuples(SECONDS, SECONDS), max_size=2)}
    ),
    min_size=2, max_size=5,
)  # fmt: skip
ROW = st.fixed_dictionaries(
    {},
    optional={"dimmer": st.floats(0, 1).map(lambda x: round(x, 3)), "pan": st.floats(-4, 4).map(lambda x: round(x, 3)),
              "tilt": st.floats(-2, 2).map(lambda x: round(x, 3)), "cyan": st.floats(0, 1).map(lambda x: round(x, 3)),
              "gobo slot": st.integers(1, 5).map(float), "zoom": st.floats(8, 40).map(lambda x: round(x, 2))},
)  # fmt: skip


@settings(max_examples=60)
@given(st.data())
def test_scrubbing_to_a_time_equals_playing_to_it(stage, data):
    steps = data.draw(STEPS)
    made = []
    for args in steps:
        hold = max(args["hold_s"], -Step("x", "y", **{**args, "hold_s": 0.0}).comes_s)
        rows = {name: data.draw(ROW) for name in "abc"}
        rows = {name: said for name, said in rows.items() if said}
        made.append((look(stage, **(rows or {"a": {"dimmer": 0.5}})), {**args, "hold_s": hold}))
    ahead = tuple(data.draw(st.sets(st.sampled_from(stage.ids))))
    made[-1] = (made[-1][0], {**made[-1][1], "ahead": ahead})
    played, scrubbed = order_of(stage, *made), order_of(stage, *made)
    total = played.total_s
    at = data.draw(st.floats(0, max(total, 0.1)))
    # One plays all of it frame by frame; the other jumps there, and there from the end, and from the middle.
    for t in np.arange(0.0, at, 0.173):
        played.at(float(t))
    there = played.at(at)[0]
    for come_from in (None, total, total / 2):
        if come_from is not None:
            scrubbed.at(come_from)
        np.testing.assert_array_equal(scrubbed.at(at)[0], there)
    # And by the transport: whatever pauses and speeds, the same order's time is the same picture.
    transport = told(Transport(), "play", played.steps, 100.0)
    transport = told(transport, "speed", played.steps, 100.0 + at / 3, 0.5)
    transport = told(transport, "to", played.steps, 500.0, at)
    np.testing.assert_array_equal(played.at(transport.where(played.steps, played.starts, 500.0))[0], there)


def test_jumping_far_into_a_long_order_of_parts_shows_what_playing_there_does(stage):
    """Parts are gathered back to the beginning, further than what is kept in memory."""
    parts = [look(stage, a={"dimmer": i / 40}) for i in range(30)]
    base = look(stage, a={"dimmer": 0.0, "cyan": 0.7}, b={"dimmer": 0.2})
    steps = [(base, {}), *((part, {"fade_in_s": 1, "hold_s": 0.5}) for part in parts)]
    jumped, played = order_of(stage, *steps), order_of(stage, *steps)
    for t in np.arange(0, played.total_s, 0.9):
        shown = played.at(float(t))[0]
        if int(t * 10) % 7 == 0:
            np.testing.assert_array_equal(jumped.at(float(t))[0], shown)
    np.testing.assert_array_equal(order_of(stage, *steps).at(played.total_s)[0], played.at(played.total_s)[0])
    assert head(jumped, "b", played.total_s, DIMMER) == pytest.approx(0.2)


# Real heads


def test_the_shortest_time_of_a_way_is_that_of_a_trapezoid():
    """By hand: 10 m at 2 m/s and 4 m/s2: ramps of 0.5 s; 10 / 2 + 0.5 = 5.5 s. 0.25 m: 2 sqrt(0.25 / 4) = 0.5 s."""
    time = least_time(
        np.array([10.0, -0.25, 0.0, 3.0]), np.array([2.0, 2.0, 2.0, np.inf]), np.array([4.0, 4.0, 4.0, np.inf])
    )
    np.testing.assert_allclose(time, [5.5, 0.5, 0.0, 0.0])


@given(st.floats(0.01, 20), st.floats(0.2, 8), st.floats(0.2, 40), st.floats(1.0, 4.0))
def test_a_way_begins_and_ends_at_rest_never_faster_than_it_may(way, speed, acceleration, longer):
    ways, speeds, rates = (np.array([one]) for one in (way, speed, acceleration))
    time = least_time(ways, speeds, rates) * longer
    t = np.linspace(0, float(time[0]), 400)
    made = np.array([float(share_of_way(np.array([one]), time, ways, rates)[0]) for one in t]) * way
    assert (made[0], made[-1]) == (0.0, pytest.approx(way))
    v = np.gradient(made, t)
    assert np.all(np.diff(made) >= -1e-9)
    assert v.max() <= speed * 1.01 + 1e-9
    assert np.abs(np.gradient(v, t))[3:-3].max() <= acceleration * 1.6 + 1e-6


def test_a_head_that_is_given_less_time_than_it_needs_takes_what_it_needs_as_the_picture_shows_it(stage):
    a, b = look(stage, a={"pan": -2.0}), look(stage, a={"pan": 2.0})
    score = order_of(stage, (a, {"hold_s": 20}), (b, {"fade_in_s": 0.5}))
    leg = score.leg(1)
    needs = float(leg.takes[0, 0])
    assert needs > 0.6
    # The travel of the live picture, step by step, comes there as late.
    travel = Travel(patch_rows(stage.show))
    rows = np.zeros((3, len(stage.show.types["heron"].modes) and score.at(0)[0].shape[1]))
    rows[:, INDEX["head speed"]] = 1.0
    rows[0, PAN] = -2.0
    travel.make(rows, 1)
    rows[0, PAN] = 2.0
    steps = 0
    while abs(float(travel.at[0, 0]) - 2.0) > 1e-3:
        travel.make(rows, 1)
        steps += 1
    assert steps * STEP_S == pytest.approx(needs, abs=0.08)


def test_a_dark_head_that_goes_ahead_is_there_before_its_look_begins(stage):
    a = look(stage, a={"pan": -2.0, "dimmer": 1.0}, b={"pan": -2.0, "dimmer": 1.0})
    dark = look(stage, a={"pan": -2.0, "dimmer": 0.0}, b={"pan": -2.0, "dimmer": 1.0})
    there = look(stage, a={"pan": 2.0, "dimmer": 1.0}, b={"pan": 2.0, "dimmer": 1.0})
    steps = [(a, {}), (dark, {"fade_in_s": 1, "hold_s": 8}), (there, {"fade_in_s": 0.2, "ahead": tuple(stage.ids)})]
    score = order_of(stage, *steps)
    begins = float(score.starts[1])
    # It stays until it is dark, then goes; the other one is lit, and does not.
    assert head(score, "a", begins + 0.9, PAN) == pytest.approx(-2.0)
    assert head(score, "a", float(score.starts[2]) - 0.01, PAN) == pytest.approx(2.0)
    assert head(score, "b", float(score.starts[2]) - 0.01, PAN) == pytest.approx(-2.0)


def run_of(bench, *steps):
    """An order in the show, of (look, arguments of `set step`)."""
    order = bench.made("add order", looks=[one for one, _ in steps])
    for step, (_, args) in zip(bench.body(order).steps, steps, strict=True):
        bench.do("set step", id=order, steps=[step.key], **args)
    return order


def troubles(bench, order, i):
    return [(one.trouble, one.seconds) for one in step_times(bench.show, order)[i].seen]


def test_will_it_be_there_names_the_seconds_that_are_missing_and_what_is_offered_mends_it():
    bench = Workbench()
    truss = bench.made("add truss", length="8m", start_trim="6m")
    bench.ids = bench.do("place along rail", structure=truss, type="heron", count="3", first_number="1").select
    dark = look(bench, a={"pan": -2.0, "dimmer": 0.0, "tilt": 0.0})
    lit = look(bench, a={"pan": 2.0, "dimmer": 1.0, "tilt": 0.0})
    order = run_of(bench, (dark, {"fade_in": "0", "hold": "10"}), (lit, {"fade_in": "0.1", "hold": "5"}))
    score = score_of(bench.show, bench.body(order))
    needs = float(score.leg(1).takes[0, 0])
    ((trouble, seconds),) = troubles(bench, order, 1)
    # Lit as good as at once, there when the way is made.
    assert (trouble, seconds) == ("lit on the way", pytest.approx(needs, abs=0.02))
    (found,) = [one for one in move_findings(bench.show) if one.where[0] == order]
    assert found.text.endswith(f"Fixture 1 is lit while still on the way: {seconds:.1f} s are missing.")
    assert found.repair.label == "Move 1 head in the dark before"
    bench.do(found.repair.kind, **found.repair.args)
    assert move_findings(bench.show) == []
    # Where it was not dark before, it is lit later instead.
    bench.do("go ahead", id=order, steps=[bench.body(order).steps[1].key], fixtures=bench.ids[:1], off=True)
    bench.do(
        "set step",
        id=order,
        steps=[bench.body(order).steps[1].key],
        sort="intensity",
        delay=f"{needs:.2f}",
        fade_in="1",
    )
    assert troubles(bench, order, 1) == []


def test_a_lit_head_that_has_too_little_time_is_late_and_one_that_has_it_is_said_unless_it_is_meant():
    bench = Workbench()
    truss = bench.made("add truss", length="8m", start_trim="6m")
    bench.ids = bench.do("place along rail", structure=truss, type="heron", count="3", first_number="1").select
    one, other = look(bench, a={"pan": -2.0, "dimmer": 1.0}), look(bench, a={"pan": 2.0, "dimmer": 1.0})
    order = run_of(bench, (one, {"fade_in": "0", "hold": "10"}), (other, {"fade_in": "0.5", "hold": "9"}))
    needs = float(score_of(bench.show, bench.body(order)).leg(1).takes[0, 0])
    assert troubles(bench, order, 1) == [("late", pytest.approx(needs - 0.5, abs=0.02))]
    mend = next(found.repair for found in move_findings(bench.show))
    assert mend.label == f"Give them {needs:.1f} s"
    bench.do(mend.kind, **mend.args)
    assert troubles(bench, order, 1) == [("moves while lit", pytest.approx(needs, abs=0.02))]
    mend = next(found.repair for found in move_findings(bench.show))
    bench.do(mend.kind, **mend.args)
    assert move_findings(bench.show) == []
    # One that goes out as it turns is told, and turns once it is dark.
    gone = look(bench, a={"pan": -2.0, "dimmer": 0.0})
    bench.do("add steps", id=order, looks=[gone])
    assert [trouble for trouble, _ in troubles(bench, order, 2)] == ["moves while going out"]
    mend = next(found.repair for found in move_findings(bench.show))
    bench.do(mend.kind, **mend.args)
    assert move_findings(bench.show) == []


def test_carriers_are_on_their_even_way_between_looks():
    bench = Workbench()
    truss = bench.made("add truss", length="8m", start_trim="6m")
    bench.ids = bench.do("place along rail", structure=truss, type="heron", count="1", first_number="1").select
    box = bench.made("add piece", piece="steps", z="1")
    carrier = bench.made("make carrier", ids=[box], name="Stair")
    low = look(bench, a={"dimmer": 1.0})
    bench.do("set field", ids=[carrier], field="z", text="5m")
    start = bench.body(low).carriers[carrier][2]
    high = look(bench, a={"dimmer": 1.0})
    steps = (Step("a", low, fade_in_s=0, hold_s=10), Step("b", high, fade_in_s=4))
    assert carriers_at(bench.show, steps, 12.0)[carrier][2] == pytest.approx((start + 5) / 2)
    assert carriers_at(bench.show, steps, 99.0)[carrier][2] == 5.0


# The transport


STEPS_THREE = (
    Step("a", "x", fade_in_s=2, hold_s=3, follows=True),
    Step("b", "y", fade_in_s=1, hold_s=2),
    Step("c", "z", fade_in_s=1),
)  # fmt: skip
STARTS = starts_of(STEPS_THREE)


def where(transport, now):
    return transport.where(STEPS_THREE, STARTS, now)


def test_it_plays_on_where_the_next_follows_and_waits_where_it_does_not():
    playing = told(Transport(), "play", STEPS_THREE, 10.0)
    assert where(playing, 13.0) == 3.0
    assert where(playing, 16.0) == 6.0
    assert where(playing, 60.0) == pytest.approx(8.0 - BEFORE_S)
    assert playing.waits(STEPS_THREE, STARTS, 60.0)
    on = told(playing, "play", STEPS_THREE, 60.0)
    assert where(on, 60.5) == pytest.approx(8.5)


def test_pause_half_speed_steps_and_scrubbing():
    playing = told(Transport(), "play", STEPS_THREE, 0.0)
    half = told(playing, "speed", STEPS_THREE, 2.0, 0.5)
    assert where(half, 4.0) == 3.0
    paused = told(half, "pause", STEPS_THREE, 4.0)
    assert where(paused, 400.0) == 3.0
    assert where(told(paused, "to", STEPS_THREE, 400.0, 99.0), 401.0) == STARTS[-1]
    following = told(paused, "next", STEPS_THREE, 5.0)
    assert where(following, 5.0) == 5.0
    assert following.playing
    back = told(following, "back", STEPS_THREE, 5.1)
    # All of the step before is there.
    assert (where(back, 9.0), back.playing) == (2.0, False)
    assert where(told(back, "step", STEPS_THREE, 9.0, 2), 9.0) == 9.0
    at_end = told(Transport(at_s=float(STARTS[-1])), "play", STEPS_THREE, 0.0)
    assert where(at_end, 0.0) == 0.0
    assert told(Transport(), "play", (), 0.0).playing is False


@given(
    st.lists(
        st.tuples(st.sampled_from(["play", "pause", "next", "back", "to", "step", "speed"]), st.floats(0, 20)),
        max_size=12,
    )
)
def test_whatever_is_pressed_it_stays_within_the_order(pressed):
    transport, now = Transport(), 0.0
    for command, value in pressed:
        now += value
        transport = told(transport, command, STEPS_THREE, now, value)
        assert 0.0 <= where(transport, now) <= STARTS[-1]
        assert where(transport, now) <= where(transport, now + 1.0) or not transport.playing


# Edits of orders


def test_orders_are_made_put_in_order_stretched_and_played(stage):
    looks = [look(stage, a={"dimmer": i / 10}) for i in range(3)]
    order = stage.made("add order", name="Evening", looks=looks)
    first, second, third = (step.key for step in stage.body(order).steps)
    stage.do("set step", id=order, steps=[first, second], fade_in="1:30", hold="+5")
    assert [(step.fade_in_s, step.hold_s) for step in stage.body(order).steps] == [(90, 10), (90, 10), (3, 5)]
    stage.do("move steps", id=order, steps=[third], before=first)
    assert [step.key for step in stage.body(order).steps] == [third, first, second]
    stage.do("stretch order", id=order, total="2:00")
    assert starts_of(stage.body(order).steps)[-1] == pytest.approx(120.0, abs=0.01)
    copy = stage.made("add order", name="Rehearsal", like=order)
    assert stage.body(copy).steps == stage.body(order).steps
    stage.do("play order", id=order)
    assert (stage.show.settings.running, stage.show.settings.look_first) == (order, True)
    # A look that goes is gone from all orders; an order that goes no longer plays.
    stage.do("remove", ids=[looks[0]])
    assert [len(stage.body(one).steps) for one in (order, copy)] == [2, 2]
    stage.do("remove", ids=[order])
    assert stage.show.settings.running is None


@pytest.mark.parametrize(
    ("args", "said"),
    [({"fade_in": "soon"}, "is not a time"), ({"fade_in": "-4"}, "cannot be"), ({"hold": "-9"}, "cannot be -9"),
     ({"sort": "colour", "fade_in": "5000"}, "at most 3600"), ({"look": "gone"}, "no longer in the show")],
)  # fmt: skip
def test_a_time_that_cannot_be_is_refused_and_nothing_changes(stage, args, said):
    order = stage.made("add order", looks=[look(stage, a={"dimmer": 1.0})])
    before = stage.body(order)
    with pytest.raises(JobError, match=said):
        stage.do("set step", id=order, steps=[before.steps[0].key], **args)
    with pytest.raises(JobError, match="no longer in"):
        stage.do("set step", id=order, steps=["gone"], fade_in="1")
    assert stage.body(order) == before


def test_a_sorts_own_time_is_taken_away_by_emptying_it(stage):
    order = stage.made("add order", looks=[look(stage, a={"dimmer": 1.0})])
    key = stage.body(order).steps[0].key
    stage.do("set step", id=order, steps=[key], sort="colour", fade_in="8")
    assert stage.body(order).steps[0].times == {"colour": (0.0, 8.0)}
    stage.do("set step", id=order, steps=[key], sort="colour", fade_in="")
    assert stage.body(order).steps[0].times == {}
