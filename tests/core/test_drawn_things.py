"""What an outline becomes: steps, ramps, risers, decks on legs, panels stood upright; and what stands in the way."""

import math

import numpy as np
import pytest

from tests.core.people import nearest_m
from zarfwright.core.edits.arranging import bounds_of
from zarfwright.core.errors import JobError
from zarfwright.core.raycast import Caster
from zarfwright.core.readiness import findings
from zarfwright.core.scene import people_of, solid_of, solids

SQUARE = [[0, 0, 0], [4, 0, 0], [4, 3, 0], [0, 3, 0]]


def height_at(bench, thing, x, y):
    """How high a thing is at a place of the plan, by a ray from above."""
    caster = Caster(solids(bench.show, [bench.show.items[thing]]))
    met = caster.first(np.array([[x, y, 50.0]]), np.array([[0.0, 0.0, -1.0]]))
    return 50.0 - float(met.distance[0])


def volume(mesh):
    """Of a closed mesh, by the divergence theorem."""
    a, b, c = (mesh.vertices[mesh.triangles[:, k]].astype(float) for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def test_steps_rise_upstage_and_the_first_is_as_high_as_the_others(bench):
    steps = bench.made("add outline deck", corners=SQUARE, made="steps", height="0.9m", count="3")
    assert [round(height_at(bench, steps, 2.0, y), 3) for y in (0.5, 1.5, 2.5)] == [0.3, 0.6, 0.9]
    bench.do("set field", ids=[steps], field="rise", text="0")
    assert [round(height_at(bench, steps, x, 1.5), 3) for x in (0.5, 2.0, 3.5)] == [0.3, 0.6, 0.9]


def test_a_ramp_is_half_as_high_in_its_middle_and_has_the_volume_of_a_wedge(bench):
    ramp = bench.made("add outline deck", corners=SQUARE, made="ramp", height="1m")
    assert height_at(bench, ramp, 1.0, 1.5) == pytest.approx(0.5, abs=1e-3)
    assert height_at(bench, ramp, 1.0, 2.97) == pytest.approx(0.99, abs=1e-3)
    # Half of 4 x 3 x 1.
    assert volume(solid_of(bench.show.items[ramp]).mesh) == pytest.approx(6.0, abs=1e-4)


def test_a_riser_is_solid_and_a_deck_on_legs_is_open_below(bench):
    riser = bench.made("add outline deck", corners=SQUARE, made="riser", height="0.5m")
    assert volume(solid_of(bench.show.items[riser]).mesh) == pytest.approx(4 * 3 * 0.5, abs=1e-4)
    deck = bench.made("add outline deck", corners=[[x + 10, y, b] for x, y, b in SQUARE], height="1m", fascia=False)
    through = Caster(solids(bench.show, [bench.show.items[deck]]))
    met = through.first(np.array([[12.0, -5.0, 0.4]]), np.array([[0.0, 1.0, 0.0]]))
    legs_at = through.first(np.array([[10.05, -5.0, 0.4]]), np.array([[0.0, 1.0, 0.0]]))
    # A leg in the middle of the long side, none a quarter along.
    between = through.first(np.array([[11.0, -5.0, 0.4]]), np.array([[0.0, 1.0, 0.0]]))
    assert np.isfinite(met.distance[0])
    assert np.isfinite(legs_at.distance[0])
    assert not np.isfinite(between.distance[0])
    bench.do("set field", ids=[deck], field="legs", text="hidden")
    hidden = Caster(solids(bench.show, [bench.show.items[deck]]))
    assert np.isfinite(hidden.first(np.array([[11.0, -5.0, 0.4]]), np.array([[0.0, 1.0, 0.0]])).distance[0])


def test_an_outline_of_the_front_elevation_stands_upright(bench):
    gable = [[-3, 1.1, 0], [3, 1.1, 0], [0, 4.1, 0]]
    panel = bench.made("add panel", corners=gable, at="US 5", thickness="0.1m")
    low, high = bounds_of(bench.show, bench.show.items[panel])
    assert low == pytest.approx([-3, 4.95, 1.1], abs=1e-5)
    assert high == pytest.approx([3, 5.05, 4.1], abs=1e-5)
    # Its face looks downstage: a ray upstage meets it at 4.95.
    met = Caster(solids(bench.show, [bench.show.items[panel]])).first(
        np.array([[0.0, 0.0, 2.0]]), np.array([[0.0, 1.0, 0.0]])
    )
    assert met.distance[0] == pytest.approx(4.95, abs=1e-4)
    assert met.normal[0] == pytest.approx([0, -1, 0], abs=1e-5)


def test_an_outline_of_the_side_elevation_keeps_its_upstage_edge_upstage(bench):
    # From stage right: higher at its upstage end.
    panel = bench.made("add panel", corners=[[0, 0, 0], [6, 0, 0], [6, 3, 0]], seen_from="side", at="SL 2")
    caster = Caster(solids(bench.show, [bench.show.items[panel]]))
    starts = np.array([[-5.0, 5.5, 2.0], [-5.0, 0.5, 2.0]])
    met = caster.first(starts, np.tile([1.0, 0.0, 0.0], (2, 1)))
    assert met.distance[0] == pytest.approx(7 - 0.02, abs=1e-4)
    assert not np.isfinite(met.distance[1])


def test_a_line_that_is_nearly_straight_is_put_right_by_its_button(bench):
    wall = bench.made("add wall", corners=[[0, 0, 0], [6, 0.1, 0], [6, 4, 0]])
    finding = next(f for f in findings(bench.show) if f.repair and f.repair.label == "Put it straight")
    bench.do(finding.repair.kind, **finding.repair.args)
    assert bench.body(wall).corners[1][:2] == (6, 0)
    assert not [f for f in findings(bench.show) if f.repair and f.repair.label == "Put it straight"]


def test_a_wall_that_is_nearly_closed_is_closed_by_its_button(bench):
    wall = bench.made("add wall", corners=[[0, 0, 0], [6, 0, 0], [6, 4, 0], [0, 4, 0], [0, 0.06, 0]])
    finding = next(f for f in findings(bench.show) if f.repair and f.repair.label == "Close it")
    bench.do(finding.repair.kind, **finding.repair.args)
    assert bench.body(wall).closed
    assert len(bench.body(wall).corners) == 4


def test_nobody_of_a_crowd_stands_in_what_was_there_before(bench):
    bench.made("add deck", width="2m", depth="2m", height="1m", y="DS 8")
    crowd = bench.made("add crowd", seating="standing", count="60", width="8m", depth="6m", y="DS 8")
    who = people_of(bench.body(crowd))
    assert who.count == 60
    off = np.maximum(np.abs(who.places[:, 0]), np.abs(who.places[:, 1] + 8))
    # A body's radius outside of the deck's edges, which is rounder at its corners.
    assert off.min() >= 1.0 + 0.25 * math.sqrt(0.5) - 1e-6
    assert nearest_m(who) >= 0.5 - 1e-9


def test_what_is_put_into_a_crowd_later_is_told_and_the_crowd_keeps_out_of_it_by_a_button(bench):
    crowd = bench.made("add crowd", seating="standing", count="60", width="8m", depth="6m", y="DS 8")
    bench.made("add piece", piece="rostrum", width="2.4m", depth="2.4m", height="5m", y="DS 8", name="Column")
    finding = next(f for f in findings(bench.show) if "inside Column" in f.text)
    assert finding.wrong
    bench.do(finding.repair.kind, **finding.repair.args)
    assert not [f for f in findings(bench.show) if "inside Column" in f.text]
    assert people_of(bench.body(crowd)).count == 60
    with pytest.raises(JobError, match="already"):
        bench.do("keep clear", ids=[crowd])


def test_a_crowd_that_faces_away_is_turned_by_its_button(bench):
    crowd = bench.made("add crowd", width="6m", depth="4m", y="DS 8", target=(0.0, -30.0))
    finding = next(f for f in findings(bench.show) if "faces away" in f.text)
    bench.do(finding.repair.kind, **finding.repair.args)
    assert not [f for f in findings(bench.show) if "faces away" in f.text]
    bench.do("face crowd", ids=[crowd], at=(3.0, 2.0))
    who = people_of(bench.body(crowd))
    wanted = np.degrees(np.arctan2(-(3.0 - who.places[:, 0]), 2.0 - who.places[:, 1]))
    assert np.abs(who.turns_deg - wanted).max() <= 12.0


@pytest.mark.parametrize("pose", ["standing", "sitting", "playing", "arms up"])
def test_every_pose_has_its_height_and_its_far_mesh_lies_inside_of_it(bench, pose):
    figure = bench.made("add figures", pose=pose, height="1.8m")
    solid = solid_of(bench.show.items[figure])
    low, high = solid.mesh.bounds()
    tall = (high[2] - low[2]) * solid.scale
    expected = {"standing": 1.8, "arms up": 2.1}.get(pose, 1.42)
    assert tall == pytest.approx(expected, abs=0.1)
    far_low, far_high = solid.far.bounds()
    assert (far_high <= high + 0.03).all()
    assert (far_low >= low - 0.03).all()


def test_some_of_a_crowd_raise_their_arms(bench):
    crowd = bench.made(
        "add crowd", seating="standing", count="200", raised_share="30", width="14m", depth="12m", y="DS 9"
    )
    who = people_of(bench.body(crowd))
    assert set(who.poses) == {"standing", "arms up"}
    assert 0.2 < sum(pose == "arms up" for pose in who.poses) / who.count < 0.4
