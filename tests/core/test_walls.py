"""Walls: what is cut out of them, and which of their faces look out of the room."""

import math

import numpy as np
import pytest

from tests.core.test_outline import volume
from zarfwright.core.mesh import INWARD, OUTWARD, REVEAL, reveal
from zarfwright.core.site.outline import rectangle
from zarfwright.core.site.walls import wall_mesh


def test_openings_are_cut_out_of_walls():
    solid = wall_mesh(((0, 0, 0), (6, 0, 0)), False, 3.0, 0.2, ())
    assert volume(solid) == pytest.approx(6 * 3 * 0.2)
    doored = wall_mesh(((0, 0, 0), (6, 0, 0)), False, 3.0, 0.2, ((2.0, 1.0, 0.0, 2.0), (4.5, 1.0, 1.0, 2.0)))
    assert volume(doored) == pytest.approx((18 - 2 - 1) * 0.2, rel=1e-3)
    room = wall_mesh(rectangle(4, 3), True, 2.5, 0.1, ())
    assert volume(room) == pytest.approx(((4.1 * 3.1) - (3.9 * 2.9)) * 2.5)


def faces(mesh):
    """The middle, the normal and the part of each triangle."""
    first = mesh.triangles[:, 0]
    return mesh.vertices[mesh.triangles].mean(axis=1), mesh.normals[first], mesh.parts[first]


def test_faces_of_a_room_say_whether_they_look_out_of_it():
    # A room of 14 x 9 m about the origin with a door in its first wall, on the downstage side.
    middles, normals, parts = faces(wall_mesh(rectangle(14, 9), True, 5.0, 0.2, ((3.0, 1.2, 0.0, 2.1),)))
    upright = np.abs(normals[:, 2]) < 0.5
    away = np.einsum("ij,ij->i", middles[:, :2], normals[:, :2])
    flat = np.isclose(np.abs(middles[:, 0]), 7.1, atol=1e-3) | np.isclose(np.abs(middles[:, 1]), 4.6, atol=1e-3)
    assert (parts[upright & flat] == OUTWARD).all()
    assert (away[upright & flat] > 0).all()
    lining = np.isclose(np.abs(middles[:, 0]), 6.9, atol=1e-3) | np.isclose(np.abs(middles[:, 1]), 4.4, atol=1e-3)
    assert (parts[upright & lining] == INWARD).all()
    assert (away[upright & lining] < 0).all()
    # The sides of the door look along the wall and know that it faces downstage.
    sides = parts >= REVEAL
    assert sides.sum() > 2
    assert np.allclose(np.abs(normals[sides, 0]), 1)
    assert parts[sides] == pytest.approx(reveal(-math.pi / 2), abs=1e-3)
    # Tops, and what is over the door, are drawn from wherever one looks.
    assert (parts[~upright] == INWARD).all()


def test_an_open_wall_has_no_outside_and_its_ends_know_how_it_faces():
    _, normals, parts = faces(wall_mesh(((0, 0, 0), (6, 0, 0)), False, 3.0, 0.2, ()))
    ends = np.abs(normals[:, 0]) > 0.5
    assert (parts[~ends] == INWARD).all()
    assert parts[ends] % 0.5 == pytest.approx(0.25, abs=1e-3)
