"""Quaternions and placements against matrices and hand values."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zarfwright.core.space import Placement, about, from_matrix, inverse, multiply, quat, rotate, to_matrix

angles = st.floats(-7, 7)
axes = st.tuples(st.floats(-1, 1), st.floats(-1, 1), st.floats(-1, 1)).filter(lambda v: np.linalg.norm(v) > 0.1)


def test_a_quarter_turn_about_up_takes_stage_left_to_upstage():
    assert rotate(about((0, 0, 1), np.pi / 2), (1, 0, 0)) == pytest.approx([0, 1, 0])


@given(axes, angles, axes, angles)
def test_turns_compose_like_their_matrices(a, by_a, b, by_b):
    p, q = about(np.array(a) / np.linalg.norm(a), by_a), about(np.array(b) / np.linalg.norm(b), by_b)
    assert to_matrix(multiply(p, q)) == pytest.approx(to_matrix(p) @ to_matrix(q), abs=1e-9)


@given(axes, angles)
def test_a_matrix_gives_its_turn_back(axis, by):
    q = about(np.array(axis) / np.linalg.norm(axis), by)
    back = from_matrix(to_matrix(q))
    assert to_matrix(back) == pytest.approx(to_matrix(q), abs=1e-9)
    assert rotate(inverse(q), rotate(q, (1.0, 2.0, 3.0))) == pytest.approx([1, 2, 3], abs=1e-9)


def test_a_placement_inside_another_is_parent_times_local():
    parent = Placement((1.0, 2.0, 3.0), quat(about((0, 0, 1), np.pi / 2)))
    world = parent.then_inside(Placement((1.0, 0.0, 0.0), quat(about((1, 0, 0), 0.3))))
    assert world.position == pytest.approx((1, 3, 3))
    assert world.apply((0.0, 0.0, 0.0)) == pytest.approx(world.position)
