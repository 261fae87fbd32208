"""Trusses, decks, people: sizes, trims and meshes against hand values."""

import math

import numpy as np
import pytest

from zarfwright.core.errors import JobError
from zarfwright.core.mesh import box, cylinder, ellipsoid, tubes
from zarfwright.core.scene import eye_of, solid_of
from zarfwright.core.show import Item
from zarfwright.core.site.figures import HEIGHT_M, VARIANTS, far_figure_mesh, figure_mesh
from zarfwright.core.site.solids import deck_mesh
from zarfwright.core.site.structures import end_trims_m, rail_label, rail_of, start_side, truss_mesh, truss_rails
from zarfwright.core.site.things import Figure, Truss


def volume(mesh):
    """The divergence theorem: right only when every face winds outwards."""
    a, b, c = (mesh.vertices[mesh.triangles[:, i]].astype(float) for i in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def test_solid_meshes_wind_outwards_and_enclose_their_volume():
    assert volume(box((2, 3, 4))) == pytest.approx(24)
    assert volume(cylinder(1.0, 2.0, sides=200)) == pytest.approx(2 * math.pi, rel=1e-3)
    assert volume(ellipsoid((1, 1, 1), sides=80, rings=80)) == pytest.approx(4 / 3 * math.pi, rel=5e-3)


def test_mesh_normals_point_away_from_the_solid():
    for mesh in (box((1, 2, 3)), cylinder(0.5, 1), tubes([(0, 0, 0)], [(0, 0, 2)], 0.1)):
        a, b, c = (mesh.vertices[mesh.triangles[:, i]] for i in range(3))
        faces = np.cross(b - a, c - a)
        real = np.linalg.norm(faces, axis=1) > 1e-9
        assert np.all(np.einsum("ij,ij->i", faces, mesh.normals[mesh.triangles[:, 0]])[real] > 0)


def test_a_deck_stands_on_the_floor_and_is_as_high_as_typed():
    low, high = deck_mesh(11, 7.5, 1.1).bounds()
    assert low == pytest.approx([-5.5, -3.75, 0], abs=1e-6)
    assert high == pytest.approx([5.5, 3.75, 1.1], abs=1e-6)


def test_people_are_as_tall_as_typed_and_sit_on_chairs():
    tall = solid_of(Item("a", "figure", Figure("A", height_m=1.9)))
    assert tall.mesh.bounds()[1][2] * tall.scale == pytest.approx(1.9, abs=0.015)
    for variant in range(VARIANTS):
        standing = figure_mesh("standing", variant).bounds()
        assert standing[0][2] == pytest.approx(0, abs=1e-6)
        assert standing[1][2] == pytest.approx(HEIGHT_M, abs=0.015)
        sitting = figure_mesh("sitting", variant).bounds()
        assert sitting[0][2] >= -1e-6
        assert 1.25 < sitting[1][2] < 1.4


def test_people_are_not_all_alike_and_the_same_person_always_is():
    looks = {(s.mesh.key, s.albedo) for s in (solid_of(Item(f"f{i}", "figure", Figure("A"))) for i in range(24))}
    assert len(looks) > 12
    again = solid_of(Item("f3", "figure", Figure("A")))
    assert (again.mesh.key, again.albedo) in looks


@pytest.mark.parametrize("pose", ["standing", "sitting"])
def test_from_far_a_person_is_less_than_half_of_the_triangles_and_as_large(pose):
    near, far = figure_mesh(pose, 0), far_figure_mesh(pose)
    assert len(far.triangles) < 0.4 * len(near.triangles)
    assert far.bounds()[1][2] == pytest.approx(near.bounds()[1][2], abs=0.03)


def test_eyes_are_where_the_conventions_say():
    assert eye_of(Figure("A", (1.0, 2.0, 0.5), "standing", 1.75)) == pytest.approx((1, 2, 0.5 + 0.936 * 1.75))
    assert eye_of(Figure("B", (1.0, 2.0, 0.0), "sitting")) == pytest.approx((1, 2, 1.2))


def test_a_raked_truss_keeps_its_true_length_between_its_trims(bench):
    truss = bench.body(bench.made("add truss", length="12m", start_trim="8.2m", end_trim="6.1m"))
    assert end_trims_m(truss) == pytest.approx((8.2, 6.1))
    rail = rail_of(truss, "lower left")
    assert rail.length_m == pytest.approx(12)
    assert rail.start[2] == pytest.approx(8.2)
    assert rail.end[2] == pytest.approx(6.1)
    # In plan it is shorter: by Pythagoras.
    assert math.dist(rail.start[:2], rail.end[:2]) == pytest.approx(math.sqrt(144 - 2.1**2))


def test_rails_stand_across_the_axis_by_the_section():
    rails = truss_rails(Truss("T", (0, 0, 7.4), 16.0, section_m=0.4))
    assert rails["lower left"].start == pytest.approx((-8, 0.2, 7.4))
    assert rails["lower right"].end == pytest.approx((8, -0.2, 7.4))
    assert rails["upper left"].start[2] == pytest.approx(7.8)


def test_rails_are_called_by_the_side_of_the_stage_that_they_are_on():
    across = Truss("T", (0, 0, 7.4), 16.0)
    assert rail_label(across, "lower right") == "lower rail DS"
    assert start_side(across) == "SR"
    down_the_side = Truss("T", (7, 0, 7.4), 12.0, turn_deg=-90)
    assert rail_label(down_the_side, "lower right") == "lower rail SR"
    assert start_side(down_the_side) == "US"


def test_the_lattice_fills_the_length_and_section():
    low, high = truss_mesh(8.0, 0.4).bounds()
    assert high - low == pytest.approx([8.0 + 2 * 0.01, 0.45, 0.45], abs=0.03)


def test_a_truss_steeper_than_its_length_is_refused(bench):
    with pytest.raises(JobError, match="cannot rise") as wrong:
        bench.do("add truss", length="2m", start_trim="1m", end_trim="6m")
    assert wrong.value.field == "end_trim"


def test_moving_a_thing_does_not_make_a_new_mesh(bench):
    truss = bench.made("add truss", length="8m")
    before = solid_of(bench.show.items[truss])
    bench.do("move", ids=[truss], by=[1, 0, 0])
    after = solid_of(bench.show.items[truss])
    assert before.mesh.key == after.mesh.key
    assert after.placement.position[0] == pytest.approx(before.placement.position[0] + 1)


def test_rows_of_people_stand_where_typed_and_face_the_stage(bench):
    ids = bench.do("add figures", pose="sitting", rows="2", columns="3", pitch="0.6", depth="1", y="DS 3").select
    places = np.array([bench.body(i).position for i in ids])
    assert places[0] == pytest.approx([-0.6, -3, 0])
    assert places[5] == pytest.approx([0.6, -4, 0])
    assert bench.body(ids[3]).name == "Row B, seat 1"
    # A figure's mesh faces +Y in its own frame, so one that is not turned faces upstage.
    feet = figure_mesh("sitting", 0).vertices
    assert feet[feet[:, 2] < 0.05][:, 1].max() > 0.3
