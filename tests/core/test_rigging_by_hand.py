"""24 fixtures on a straight, a raked and a ring structure, which then move: clamp points by hand, to the millimetre."""

import math

import numpy as np
import pytest

from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.site.structures import truss_rails
from zarfwright.core.space import rotate

SECTION = 0.4


def places(bench, ids):
    return np.array([clamp_placement(bench.show, bench.body(one)).position for one in ids])


def along(bench, one):
    return rotate(clamp_placement(bench.show, bench.body(one)).rotation, (1, 0, 0))


@pytest.fixture
def rig(bench):
    straight = bench.made("add truss", length="12m", start_trim="7m", y="US 2", name="Straight")
    raked = bench.made(
        "add truss", length="10m", start_trim="8m", end_trim="6m", x="SL 7", y="DS 1", turn="-90", name="Raked"
    )
    ring = bench.made("add truss", form="arc", diameter="5m", start_trim="6.5m", y="DS 4", name="Ring")
    ids = {}
    for number, (name, structure, rail) in enumerate(
        (("straight", straight, "lower right"), ("raked", raked, "lower left"), ("ring", ring, "lower inner"))
    ):
        first = str(number * 100 + 1)
        ids[name] = bench.do(
            "place along rail", structure=structure, rail=rail, type="heron", count="8", ends="on", first_number=first
        ).select
    return bench, {"straight": straight, "raked": raked, "ring": ring}, ids


def expected_ring(centre, trim, turn_deg=0.0):
    # The inner rail is half a section inside the axis of 2.5 m; it begins upstage and runs by stage right.
    radius = 2.5 - SECTION / 2
    return np.array(
        [
            [centre[0] + radius * math.cos(a), centre[1] + radius * math.sin(a), trim]
            for a in (math.radians(90 + turn_deg + 45 * i) for i in range(8))
        ]
    )


def test_they_hang_where_a_drawing_by_hand_has_them(rig):
    bench, _, ids = rig
    # Straight: from x = -6 to 6, on the downstage rail at y = 2 - 0.2.
    xs = [-6 + 12 / 7 * i for i in range(8)]
    assert places(bench, ids["straight"]) == pytest.approx(np.array([[x, 1.8, 7.0] for x in xs]), abs=1e-3)
    # Raked: its axis runs downstage from y = 4 or less by the rake; its left is stage left.
    rake = math.asin(2 / 10)
    half = 5 * math.cos(rake)
    expected = [[7.2, -1 + half - 2 * half * i / 7, 8 - 2 * i / 7] for i in range(8)]
    assert places(bench, ids["raked"]) == pytest.approx(np.array(expected), abs=1e-3)
    assert math.degrees(math.asin(along(bench, ids["raked"][3])[2])) == pytest.approx(-math.degrees(rake), abs=0.1)
    # Ring: eight on a whole turn have eight steps.
    assert places(bench, ids["ring"]) == pytest.approx(expected_ring((0, -4), 6.5), abs=1e-3)


def test_they_go_along_when_the_structures_move_rake_turn_and_are_lengthened(rig):
    bench, structures, ids = rig
    bench.do("move", ids=list(structures.values()), by=[1.0, 0.5, -0.25])
    xs = [-5 + 12 / 7 * i for i in range(8)]
    assert places(bench, ids["straight"]) == pytest.approx(np.array([[x, 2.3, 6.75] for x in xs]), abs=1e-3)
    # Its end trim raised from 6.75 to 9.75: it turns about its middle, which rises by 1.5.
    bench.do("set field", ids=[structures["straight"]], field="end trim", text="9.75m")
    rake = math.asin(3 / 12)
    expected = [
        [1 + (-6 + 12 / 7 * i) * math.cos(rake), 2.3, 8.25 + (-6 + 12 / 7 * i) * math.sin(rake)] for i in range(8)
    ]
    assert places(bench, ids["straight"]) == pytest.approx(np.array(expected), abs=1e-3)
    assert math.degrees(math.asin(along(bench, ids["straight"][0])[2])) == pytest.approx(math.degrees(rake), abs=0.1)
    # Lengthened by 2 m about its middle: its start, and all that is counted from it, goes 1 m down the slope.
    bench.do("set field", ids=[structures["straight"]], field="length", text="14m")
    down = np.array([math.cos(rake), 0, math.sin(rake)])
    assert places(bench, ids["straight"]) == pytest.approx(np.array(expected) - down, abs=1e-3)
    # The ring turned by a quarter about its centre, and smaller by a metre.
    bench.do("set field", ids=[structures["ring"]], field="turn", text="90")
    assert places(bench, ids["ring"]) == pytest.approx(expected_ring((1, -3.5), 6.25, 90), abs=1e-3)
    # Re-trimmed at one side: raked about its middle line.
    bench.do("set field", ids=[structures["raked"]], field="end trim", text="7.75m")
    heights = places(bench, ids["raked"])[:, 2]
    assert heights == pytest.approx([7.75] * 8, abs=1e-3)


def test_shortening_tells_who_would_fall_off_and_puts_them_back(rig):
    bench, structures, ids = rig
    edit = bench.do("set field", ids=[structures["straight"]], field="length", text="9m")
    assert edit.report == ("Past the end of its rail then: fixture 7, fixture 8. Put them back, or make it longer.",)
    back = bench.do("put back", ids=list(ids["straight"]))
    assert back.report == ("Fixture 7 to the end of its rail.", "Fixture 8 to the end of its rail.")
    assert [bench.body(one).hang.along_m for one in ids["straight"][-2:]] == [9.0, 9.0]


def test_a_truss_made_of_something_else_keeps_what_hangs_on_it_on_its_nearest_rail(rig):
    bench, structures, ids = rig
    edit = bench.do("set field", ids=[structures["straight"]], field="lattice", text="pipe")
    assert "8 fixtures go to the nearest rail" in edit.report[0]
    assert {bench.body(one).hang.rail for one in ids["straight"]} == {"pipe"}
    assert places(bench, ids["straight"])[:, 1] == pytest.approx([2.0] * 8)
    bench.do("set field", ids=[structures["straight"]], field="lattice", text="ladder")
    assert {bench.body(one).hang.rail for one in ids["straight"]} == {"lower"}


def test_dragged_along_they_stay_dragged_off_they_hang_free_or_on_the_rail_that_is_there(rig):
    bench, structures, ids = rig
    one = ids["straight"][2]
    before = places(bench, [one])[0]
    assert bench.do("move", ids=[one], by=[0.7, 0.1, 0.1]).report == ()
    assert places(bench, [one])[0] == pytest.approx(before + [0.7, 0, 0])
    off = bench.do("move", ids=[one], by=[0, -0.6, 0])
    assert "left its rail and hangs free" in off.report[0]
    assert bench.body(one).hang is None
    back = bench.do("put back", ids=[one])
    assert "Fixture 3 to Straight, lower rail DS." in back.report
    # Let go near the raked truss's rail, it hangs there.
    there = np.array(truss_rails(bench.body(structures["raked"]))["lower right"].at(4.0))
    moved = bench.do("move", ids=[one], by=list(there + [0.05, 0.0, 0.02] - places(bench, [one])[0]))
    assert "hangs on Raked now" in moved.report[0]
    assert bench.body(one).hang.rail == "lower right"
    assert bench.body(one).hang.along_m == pytest.approx(4.0, abs=0.05)


def test_an_out_rigger_and_a_drop_pipe_hang_off_the_rail(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m")
    one = bench.do("place along rail", structure=truss, type="heron", count="1", out="0.5m", drop="1.2m").select[0]
    # The right rail is at y = -0.2; left of it is upstage.
    assert places(bench, [one])[0] == pytest.approx([0, 0.3, 4.8])
    bench.do("set field", ids=[one], field="out", text="=-0.5m")
    assert places(bench, [one])[0] == pytest.approx([0, -0.7, 4.8])


def test_as_many_as_fit_a_step_are_placed_about_the_middle(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m")
    ids = bench.do("place along rail", structure=truss, type="heron", count="", step="1.5m").select
    # Five steps of 1.5 m are 7.5 m: six things.
    assert places(bench, ids)[:, 0] == pytest.approx([-3.75, -2.25, -0.75, 0.75, 2.25, 3.75])
    back = bench.do(
        "place along rail", structure=truss, rail="lower left", type="heron", count="2", reverse=True, first_number="1"
    ).select
    assert places(bench, back)[:, 0] == pytest.approx([2, -2])
