"""Hanging frames: right way up, on the slope, moving with the rail. Coordinates worked by hand."""

import math

import numpy as np
import pytest

from zarfwright.core.errors import JobError
from zarfwright.core.memo import Memo
from zarfwright.core.rig.arrange import fill_length
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.site.things import Truss
from zarfwright.core.space import rotate


def place(bench, fixture):
    return clamp_placement(bench.show, bench.body(fixture))


def hang(bench, truss, count="1", **more):
    return bench.do("place along rail", structure=truss, type="heron", count=count, **more).select


def test_a_hung_fixture_shines_down_in_its_zero_pose(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m")
    clamp = place(bench, hang(bench, truss)[0])
    assert clamp.position == pytest.approx((0, -0.2, 6.0))
    assert rotate(clamp.rotation, (0, 0, -1)) == pytest.approx([0, 0, -1])


def test_n_along_a_rail_sit_half_a_step_in(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m", x="SL 1")
    xs = [place(bench, fixture).position[0] for fixture in hang(bench, truss, "4")]
    assert xs == pytest.approx([1 - 3, 1 - 1, 1 + 1, 1 + 3])


def test_ends_on_margin_and_a_single_one():
    assert fill_length(3, 10.0, "on") == pytest.approx([0, 5, 10])
    assert fill_length(3, 10.0, "margin", 1.0) == pytest.approx([1, 5, 9])
    assert fill_length(1, 10.0, "on") == pytest.approx([5])
    with pytest.raises(JobError, match="leave no room"):
        fill_length(2, 10.0, "margin", 6.0)


def test_a_raked_truss_tilts_what_hangs_on_it(bench):
    truss = bench.made("add truss", length="10m", start_trim="8m", end_trim="6m")
    clamp = place(bench, hang(bench, truss)[0])
    rake = math.asin(-0.2)
    assert clamp.position[2] == pytest.approx(7.0)
    assert rotate(clamp.rotation, (1, 0, 0)) == pytest.approx([math.cos(rake), 0, math.sin(rake)])
    # Down is square to the slope, not plumb.
    assert rotate(clamp.rotation, (0, 0, -1)) == pytest.approx([math.sin(rake), 0, -math.cos(rake)])


def test_plumb_is_a_choice_on_a_slope(bench):
    truss = bench.made("add truss", length="10m", start_trim="8m", end_trim="6m", turn="90")
    clamp = place(bench, hang(bench, truss, on_slopes="plumb")[0])
    assert rotate(clamp.rotation, (0, 0, -1)) == pytest.approx([0, 0, -1], abs=1e-12)
    assert rotate(clamp.rotation, (1, 0, 0)) == pytest.approx([0, 1, 0], abs=1e-12)


def test_standing_on_the_upper_rail_shines_up_and_side_hung_shines_out(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m")
    standing = place(bench, hang(bench, truss, rail="upper left", side="upper")[0])
    assert standing.position[2] == pytest.approx(6.4)
    assert rotate(standing.rotation, (0, 0, -1)) == pytest.approx([0, 0, 1], abs=1e-12)
    out = place(bench, hang(bench, truss, rail="lower left", side="left")[0])
    assert rotate(out.rotation, (0, 0, -1)) == pytest.approx([0, 1, 0], abs=1e-12)


def test_what_hangs_goes_with_the_truss_when_it_moves_turns_rakes_and_grows(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m")
    fixture = hang(bench, truss, "2")[1]
    assert place(bench, fixture).position == pytest.approx((2, -0.2, 6))
    bench.do("move", ids=[truss], by=[1, 2, 0.5])
    assert place(bench, fixture).position == pytest.approx((3, 1.8, 6.5))
    bench.do("set field", ids=[truss], field="turn", text="90")
    assert place(bench, fixture).position == pytest.approx((1 + 0.2, 2 + 2, 6.5))
    bench.do("set field", ids=[truss], field="end trim", text="8.5")
    rise = math.asin(2.0 / 8.0)
    assert place(bench, fixture).position == pytest.approx((1.2, 2 + 2 * math.cos(rise), 7.5 + 2 * math.sin(rise)))


def test_dragging_along_the_rail_stops_at_its_end(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m")
    fixture = hang(bench, truss)[0]
    bench.do("move", ids=[fixture], by=[1.5, 0.1, 0.2])
    assert bench.body(fixture).hang.along_m == pytest.approx(5.5)
    bench.do("move", ids=[fixture], by=[50, 0, 0])
    assert bench.body(fixture).hang.along_m == pytest.approx(8.0)


def test_removing_a_truss_leaves_its_fixtures_in_place_and_says_so(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m")
    fixture = hang(bench, truss)[0]
    before = place(bench, fixture)
    edit = bench.do("remove", ids=[truss])
    assert place(bench, fixture) == before
    assert "1 fixtures that hung there stay in mid-air" in edit.report[0]


@pytest.mark.parametrize(
    ("field", "value"), [("count", "0"), ("count", "lots"), ("mode", "Enormous"), ("type", "none")]
)
def test_wrong_placing_is_refused_and_names_the_field(bench, field, value):
    truss = bench.made("add truss", length="8m")
    args = {"structure": truss, "type": "heron", field: value}
    with pytest.raises(JobError):
        bench.do("place along rail", **args)
    assert not list(bench.show.fixtures())


def test_along_past_the_rails_end_is_refused(bench):
    truss = bench.made("add truss", length="8m")
    fixture = hang(bench, truss)[0]
    with pytest.raises(JobError, match=r"8\.00 m long"):
        bench.do("set field", ids=[fixture], field="along", text="9m")
    bench.do("set field", ids=hang(bench, truss, "3"), field="along", text="1 to 7")
    assert np.isclose(bench.body(fixture).hang.along_m, 4.0)


def test_what_is_remembered_of_a_hanging_follows_its_structure_and_its_place():
    calls = []
    doubled = Memo(lambda body, word: calls.append(word) or (body, word), most=2)
    one, other = Truss("A"), Truss("A")
    assert doubled(one, "x") is doubled(one, "".join(["x"]))
    assert doubled(other, "x") is not doubled(one, "x")
    assert len(calls) == 2
    # Full, it begins anew and is right all the same.
    assert doubled(one, "y") == (one, "y")
    assert doubled(one, "x") == (one, "x")
    assert len(calls) == 4
