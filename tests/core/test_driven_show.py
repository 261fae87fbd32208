"""What a show says of its drivers: what they meet, two at odds, lists, looks and their words, the doctor."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.driven import channel, do, small
from zarfwright.core.carriers.meeting import boxes_meet, meetings
from zarfwright.core.carriers.readiness import at_odds, findings
from zarfwright.core.carriers.types import ranges_of
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.doctor.driven import drivers_at_odds
from zarfwright.core.edits.carrying import as_in_look, carriers_now
from zarfwright.core.looks.differences import differences
from zarfwright.core.looks.saying import saying
from zarfwright.core.looks.shown import resolved
from zarfwright.core.playback.moves import move_findings
from zarfwright.core.playback.of_show import score_of
from zarfwright.core.rig.things import Fixture
from zarfwright.core.schedules.lists import schedule
from zarfwright.core.schedules.moves import seconds_for
from zarfwright.core.show import Change, replace
from zarfwright.core.space import about, to_matrix

UP = (0.0, 0.0, 1.0)


def lifted(bench, high="5m", **more):
    """A deck of 2 m on a lift: the carrier, the deck and the driver. The deck's top is at 1 m."""
    carrier, deck = small(bench)
    driver = do(bench, "add driver", thing=carrier, channels=[channel("z", "0m", "0m", high)], start="1.001", **more)
    bench.do("number", ids=[driver], start="901")
    return carrier, deck, driver


def found(bench):
    return [(bench.show.items[one.moved].name, bench.show.items[one.other].name) for one in meetings(bench.show)]


# What meets on the way


def test_a_deck_that_is_lifted_into_a_truss_is_said_with_the_level_and_a_range_that_ends_before(bench):
    _, _, driver = lifted(bench)
    bench.made("add truss", name="Truss 2", length="6m", start_trim="4m", x="SL 2", y="US 3", section="0.4m")
    (one,) = meetings(bench.show)
    # The top of the deck comes from 1 m to the lower rails at 4 m, their tubes a little below.
    assert one.value == pytest.approx(3.0, abs=0.12)
    assert one.level == pytest.approx(0.5 + 0.5 * one.value / 5, abs=1e-9)
    (said,) = findings(bench.show)
    assert said.code == "driver_meets"
    assert "meets Truss 2 at z" in said.text
    assert "driver 901" in said.text
    do(bench, said.repair.kind, **said.repair.args)
    assert findings(bench.show) == []
    assert ranges_of(bench.show.types[bench.body(driver).type], "Standard")[0].high == pytest.approx(2.9, abs=0.15)


def test_what_stands_aside_or_only_touches_is_not_met_and_what_is_left_on_a_lift_is(bench):
    carrier, _, _ = lifted(bench)
    bench.made("add truss", name="Aside", length="1m", start_trim="4m", x="SL 8", y="US 3")
    # Side by side with it, from the floor up.
    bench.made("add deck", name="Beside", width="2m", depth="2m", height="4m", x="SL 4", y="US 3")
    assert found(bench) == []
    flat = bench.made("add piece", piece="flat", x="SL 2", y="US 3", z="1m", width="1m")
    assert [name for _, name in found(bench)] == [bench.show.items[flat].name]
    bench.do("put on", ids=[flat], carrier=carrier)
    assert found(bench) == []


def test_people_and_other_carriers_are_met_as_well(bench):
    _, deck, _ = lifted(bench)
    person = bench.made("add figures", pose="standing", x="SL 2.2", y="US 3", z="3m")
    box = bench.made("add deck", width="1m", depth="1m", height="0.3m", x="SL 2.5", y="US 3.4", z="5.2m")
    other = bench.made("make carrier", ids=[box], name="Cloud")
    assert {one.other for one in meetings(bench.show)} == {person, box}
    # Each of two that move is run against the other at home.
    do(bench, "add driver", thing=other, channels=[channel("z", "-4.5m", "0m", "0m")])
    assert {(one.moved, one.other) for one in meetings(bench.show)} == {
        (deck, person), (deck, box), (box, deck), (box, person),
    }  # fmt: skip


def test_a_ring_is_lowered_over_somebody_without_touching_them_and_a_bar_is_not(bench):
    for n, form in enumerate(("arc", "straight")):
        truss = bench.made("add truss", form=form, length="5m", diameter="5m", start_trim="6m", x=f"SL {20 * n}", y="0")
        do(bench, "add driver", thing=truss, channels=[channel("z", "-5.5m", "0m", "0m")])
        bench.made("add figures", pose="standing", x=f"SL {20 * n}", y="0")
    assert [one.moved for one in meetings(bench.show)] == [truss]


def test_a_wall_of_a_room_is_met_from_inside_and_the_room_itself_is_not(bench):
    carrier, _ = small(bench)
    bench.do("add venue", width="12", upstage="8", downstage="8", eave="5", ridge="6")
    do(bench, "add driver", thing=carrier, channels=[channel("x", "-2m", "0m", "6m")])
    (one,) = meetings(bench.show)
    # The side of the deck is at 3 m, the wall at 6.
    assert one.value == pytest.approx(3.0, abs=0.15)


def test_what_is_held_by_hand_is_not_worked_out_again(bench):
    _, _, driver = lifted(bench)
    before = meetings(bench.show)
    bench.do("hold values", ids=[driver], values={"shift z": 2.0})
    assert meetings(bench.show) is before


@settings(max_examples=60)
@given(st.lists(st.floats(-2, 2), min_size=3, max_size=3), st.floats(0, 3), st.floats(0, 3))
def test_boxes_meet_where_a_point_of_a_fine_grid_is_in_both(at, turn_a, turn_b):
    axes = [to_matrix(about(UP, turn_a)), to_matrix(about((1.0, 0.0, 0.0), turn_b))]
    half = np.array([0.7, 0.4, 0.9]), np.array([0.5, 1.1, 0.3])
    grid = np.array(list(itertools.product(np.linspace(-1, 1, 17), repeat=3))) * half[0]
    points = grid @ axes[0].T + at
    inside = bool(np.all(np.abs(points @ axes[1]) < half[1], axis=1).any())
    others = (np.zeros((1, 3)), half[1][None], axes[1][None])
    meets = bool(boxes_meet(np.array([at]), half[0][None], axes[0][None], others)[0, 0])
    assert meets or not inside


# Two at odds


def test_two_drivers_that_came_to_be_at_odds_are_named_by_readiness_and_by_the_doctor(bench):
    carrier, _, driver = lifted(bench)
    item = bench.show.items[driver]
    # As a file that somebody else wrote may have it.
    twin = replace(item, id="twin", body=replace(item.body, number=902))
    bench.show = bench.show.after([Change(None, twin)])
    assert [(one.thing, one.drivers) for one in at_odds(bench.show)] == [(carrier, (driver, "twin"))]
    assert "drivers_at_odds" in {one.code for one in findings(bench.show)}
    (cause,) = drivers_at_odds(bench.show)
    assert cause.cause == "drivers_at_odds"
    assert "901" in cause.evidence
    assert "902" in cause.evidence
    bench.do(cause.edit, **cause.args)
    assert drivers_at_odds(bench.show) == []


def test_a_driver_whose_thing_is_gone_is_said_and_can_be_removed(bench):
    carrier, _, driver = lifted(bench)
    bench.show = bench.show.after([Change(bench.show.items[carrier], None)])
    (said,) = findings(bench.show)
    assert said.code == "driver_of_nothing"
    bench.do(said.repair.kind, **said.repair.args)
    assert driver not in bench.show.items


# Looks and running orders


def test_a_look_has_what_drivers_move_where_it_says_and_no_carrier_of_theirs(bench):
    carrier, _, driver = lifted(bench)
    assert carriers_now(bench.show) == {}
    look = bench.made("keep look", name="Up", values={driver: {"shift z": 3.0}})
    assert bench.body(look).carriers == {}
    assert as_in_look(bench.show, look).items[carrier].body.position == pytest.approx((2, 3, 4))
    assert as_in_look(bench.show, look, driven=False) is bench.show
    other = bench.made("keep look", name="Down", values={driver: {"shift z": 0.0}})
    said = [one.text for one in saying(bench.show, resolved(bench.show, look)) if one.name == "Bridge"]
    assert said == ["up 3.00 m"]
    (group,) = differences(bench.show, resolved(bench.show, look), resolved(bench.show, other)).groups
    assert group.text == "Bridge: at home (was up 3.00 m)"


def test_a_running_order_moves_it_at_its_real_speed_however_short_the_step(bench):
    _, _, driver = lifted(bench)
    looks = [bench.made("keep look", name=n, values={driver: {"shift z": z}}) for n, z in (("Down", 0.0), ("Up", 4.0))]
    order = bench.made("add order", looks=looks)
    steps = [step.key for step in bench.body(order).steps]
    bench.do("set step", id=order, steps=steps, fade_in="1", hold="10")
    score = score_of(bench.show, bench.body(order))
    start = float(score.starts[1])
    rows = [score.at(start + t)[0] for t in (0.0, 1.0, 2.5, 5.0, 6.0)]
    # 4 m at 1 m/s and 1 m/s2: 5 s; half a metre in the first, 2 m half way.
    heights = [float(row[score.rig.keys.index(driver), INDEX["shift z"]]) for row in rows]
    assert heights == pytest.approx([0.0, 0.5, 2.0, 4.0, 4.0], abs=1e-5)


def test_what_is_still_on_its_way_when_the_next_step_begins_by_itself_is_said_and_held_for(bench):
    _, _, driver = lifted(bench)
    looks = [bench.made("keep look", name=n, values={driver: {"shift z": z}}) for n, z in (("Down", 0.0), ("Up", 4.0))]
    order = bench.made("add order", looks=[*looks, looks[0]])
    steps = [step.key for step in bench.body(order).steps]
    bench.do("set step", id=order, steps=steps, fade_in="1", hold="2")
    assert move_findings(bench.show) == []
    bench.do("set step", id=order, steps=steps[1:2], follows=True)
    (said,) = move_findings(bench.show)
    assert said.code == "move_too_slow"
    # 5 s are needed, 3 s are there.
    assert "Bridge is still on the way when the next step begins: 2.0 s are missing." in said.text
    bench.do(said.repair.kind, **said.repair.args)
    assert move_findings(bench.show) == []


# Lists


def test_the_list_of_what_moves_has_travel_speed_time_and_load(bench):
    carrier, _, driver = lifted(bench)
    truss = bench.made("add truss", length="4m", start_trim="5m", x="SL 2", y="US 3", kg_per_m="10", hoists="2")
    heads = bench.do("place along rail", structure=truss, type="heron", count="3").select
    bench.do("put on", ids=[truss, *heads], carrier=carrier)
    table = schedule(bench.show, "moves")
    row = dict(zip(table.columns, table.rows[0], strict=True))
    assert (row["Moves"], row["Number"], row["Address"], row["Axis"]) == ("Bridge", 901, "1.001", "z")
    assert (row["From"], row["Home"], row["To"], row["Unit"]) == (0, 0, 5, "m")
    assert row["Seconds end to end"] == pytest.approx(6.0)
    weight = bench.show.types["heron"].weight_kg
    assert row["Load kg"] == pytest.approx(40 + 3 * weight)
    assert row["Point load kg"] == pytest.approx(20 + 1.5 * weight)
    assert table.things == ((driver, carrier),)
    places = {r[table.columns.index("Moves")] for r in table.rows}
    assert places == {"Bridge"}
    assert "Bridge" in {row[0] for row in schedule(bench.show, "instruments").rows}


@pytest.mark.parametrize(
    ("way", "seconds"), [(0.0, 0.0), (0.25, 1.0), (1.0, 2.0), (4.0, 5.0), (5.0, 6.0)]
)  # fmt: skip
def test_the_time_of_a_way_from_rest_to_rest(way, seconds):
    assert seconds_for(way, 1.0, 1.0) == pytest.approx(seconds)


def test_no_lamp_is_counted_where_a_driver_stands(bench):
    lifted(bench)
    assert [item for item, _ in bench.show.lamps()] == []
    codes = {one.code for one in findings(bench.show)}
    assert "mid_air" not in codes
    assert all(isinstance(item.body, Fixture) for item, _ in bench.show.fixtures())
