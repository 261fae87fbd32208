"""Smooth skins over limbs: closed, on the surface, facing outward."""

import numpy as np
import pytest

from zarfwright.core.site.figures import HEIGHT_M, POSES, VARIANTS, far_figure_mesh, figure_mesh
from zarfwright.core.smooth import Limb, Skin, skin_mesh


def volume(mesh) -> float:
    a, b, c = (mesh.vertices[mesh.triangles[:, k]].astype(float) for k in range(3))
    return float(np.sum(a * np.cross(b, c)) / 6)


def test_a_skin_over_one_limb_is_a_capsule():
    mesh = skin_mesh(Skin([Limb((0, 0, 0), (0, 0, 1), (0.2, 0.2))], 0.001), 0.04, 10_000)
    assert volume(mesh) == pytest.approx(np.pi * 0.2**2 * (1 + 4 / 3 * 0.2), rel=0.02)
    off = mesh.vertices - np.stack(
        [0 * mesh.vertices[:, 0], 0 * mesh.vertices[:, 0], np.clip(mesh.vertices[:, 2], 0, 1)], 1
    )
    assert np.linalg.norm(off, axis=1) == pytest.approx(0.2, abs=1e-3)
    assert np.sum(off * mesh.normals, axis=1) == pytest.approx(0.2, abs=2e-3)


def test_a_joint_is_rounded_out_and_fewer_triangles_stay_on_the_skin():
    limbs = [Limb((0, 0, 0), (0.5, 0, 0), (0.1, 0.08)), Limb((0, 0, 0), (0, 0, 0.5), (0.1, 0.06), 0.7)]
    skin = Skin(limbs, 0.03)
    fine, coarse = skin_mesh(skin, 0.03, 10_000), skin_mesh(skin, 0.03, 120)
    assert len(coarse.triangles) <= 130 < len(fine.triangles)
    assert volume(coarse) == pytest.approx(volume(fine), rel=0.12)
    assert np.abs(skin.distance(fine.vertices.astype(float))).max() < 2e-3
    inner = np.array([[0.11, 0.0, 0.11]])
    assert skin.distance(inner)[0] < Skin(limbs, 0.001).distance(inner)[0]


@pytest.mark.parametrize("pose", POSES)
@pytest.mark.parametrize("variant", range(VARIANTS))
def test_people_have_whole_bodies_that_cost_no_more_than_before(pose, variant):
    near, far = figure_mesh(pose, variant), far_figure_mesh(pose, variant)
    assert len(near.triangles) < 1150
    assert len(far.triangles) < 330
    for mesh in (near, far):
        assert np.isfinite(mesh.vertices).all()
        assert np.linalg.norm(mesh.normals, axis=1) == pytest.approx(1, abs=1e-3)
        assert mesh.bounds()[0][2] >= -1e-6
    assert near.bounds()[1][2] > 1.2
    assert len(set(near.parts.tolist())) >= 3, "clothes, skin and a darker shade at least"
    if pose == "standing":
        assert near.bounds()[1][2] == pytest.approx(HEIGHT_M, abs=0.015)
