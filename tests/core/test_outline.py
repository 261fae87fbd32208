"""Outlines by hand: areas, arcs, faults, advice; decks, walls and what is cut into them."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zarfwright.core.edits.arranging import bounds_of
from zarfwright.core.errors import JobError
from zarfwright.core.mesh import Mesh
from zarfwright.core.scene import solid_of
from zarfwright.core.site.outline import (
    advice,
    area_m2,
    checked,
    circle,
    length_m,
    offset,
    outline_deck,
    polygon_of,
    rectangle,
    sampled,
    slab,
)
from zarfwright.core.space import rotate

L_SHAPE = ((0, 0, 0), (4, 0, 0), (4, 2, 0), (2, 2, 0), (2, 5, 0), (0, 5, 0))


def volume(mesh: Mesh) -> float:
    """Of a closed mesh, by its triangles' signed tetrahedra."""
    a, b, c = (mesh.vertices[mesh.triangles[:, k]].astype(float) for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def test_areas_and_lengths_by_hand():
    assert area_m2(rectangle(6.0, 4.0)) == pytest.approx(24)
    assert length_m(rectangle(6.0, 4.0), True) == pytest.approx(20)
    assert area_m2(L_SHAPE) == pytest.approx(4 * 2 + 2 * 3)
    assert area_m2(circle(2.0)) == pytest.approx(math.pi)
    assert length_m(circle(2.0), True) == pytest.approx(2 * math.pi)
    assert length_m(L_SHAPE, False) == pytest.approx(4 + 2 + 2 + 3 + 2)
    # A thrust: a rectangle of 4 x 3 whose downstage edge is half a circle of 2 m radius.
    thrust = ((-2, 0, 1.0), (2, 0, 0), (2, 3, 0), (-2, 3, 0))
    assert area_m2(thrust) == pytest.approx(12 + math.pi * 2)
    assert sampled(thrust, True)[:, 1].min() == pytest.approx(-2, abs=0.01)


def test_arcs_are_followed_by_chords_that_are_near():
    points = sampled(circle(10.0), True)
    assert np.linalg.norm(points, axis=1) == pytest.approx(5.0)
    middles = (points + np.roll(points, 1, axis=0)) / 2
    assert (5.0 - np.linalg.norm(middles, axis=1)).max() < 0.021
    assert polygon_of(circle(10.0)).area == pytest.approx(25 * math.pi, rel=0.006)


@pytest.mark.parametrize(
    ("corners", "closed", "says"),
    [
        (((0, 0, 0), (4, 4, 0), (4, 0, 0), (0, 4, 0)), True, "crosses itself near 2.00, 2.00"),
        (((0, 0, 0), (4, 0, 0)), True, "three corners"),
        (((0, 0, 0), (2, 0, 0), (4, 0, 0)), True, "encloses nothing"),
        (((0, 0, 0),), False, "two corners"),
        (((0, 0, 0), (float("nan"), 0, 0)), False, "too far away"),
        (tuple((i, 0, 0) for i in range(3000)), False, "2000 corners"),
    ],
)
def test_outlines_that_cannot_be_say_so(corners, closed, says):
    with pytest.raises(JobError, match=says):
        checked(corners, closed)


def test_doubles_are_taken_out_and_a_last_corner_on_the_first_closes():
    assert checked([(0, 0, 0), (0, 0, 0), (4, 0, 0), (4, 3, 0), (0, 0, 0)], True) == ((0, 0, 0), (4, 0, 0), (4, 3, 0))


def test_what_is_nearly_meant_is_offered():
    nearly = ((0, 0, 0), (4, 0.05, 0), (4, 3, 0), (0.05, 3, 0), (0.02, 0.06, 0))
    found = advice(nearly, False)
    assert found[0].text == "nearly closed: its ends are 63 mm apart"
    assert (found[0].closed, len(found[0].corners)) == (True, 4)
    line = next(one for one in found if one.text.startswith("line 1"))
    assert line.corners[1] == (4, 0, 0)
    assert advice(rectangle(4, 3), True) == []


def test_an_offset_keeps_sharp_corners():
    assert area_m2(offset(rectangle(4.0, 3.0), 0.5)) == pytest.approx(20)
    assert area_m2(offset(L_SHAPE, -0.5)) == pytest.approx(3 * 1 + 1 * 3)
    with pytest.raises(JobError, match="Nothing in one piece"):
        offset(L_SHAPE, -1.2)


def test_slabs_are_closed_and_as_large_as_they_say():
    assert volume(slab(polygon_of(L_SHAPE), 0.2, 1.2)) == pytest.approx(14)
    holed = polygon_of(rectangle(4, 4)).difference(polygon_of(rectangle(2, 2)))
    assert volume(slab(holed, 0.0, 0.5)) == pytest.approx(6)


def test_a_deck_of_any_outline_is_as_high_as_it_says():
    low, high = outline_deck(L_SHAPE, 1.1, 0.14, 0.05).bounds()
    assert (low.tolist(), high.tolist()) == (pytest.approx([0, 0, 0]), pytest.approx([4, 5, 1.1]))


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.floats(0.5, 5), st.floats(0, 1)), min_size=3, max_size=12))
def test_any_star_shaped_outline_is_filled_by_its_triangles(rays):
    n = len(rays)
    corners = tuple(
        (r * math.cos(2 * math.pi * i / n), r * math.sin(2 * math.pi * i / n), 0.0) for i, (r, _) in enumerate(rays)
    )
    assert volume(slab(polygon_of(corners), 0.0, 1.0)) == pytest.approx(area_m2(corners), rel=1e-4)


def test_decks_and_walls_are_drawn_offset_and_stretched(bench):
    deck = bench.made("add outline deck", corners=[list(c) for c in L_SHAPE], height="1.1m")
    body = bench.body(deck)
    assert body.position == pytest.approx((2, 2.5, 0))
    assert (body.width_m, body.depth_m) == pytest.approx((4, 5))
    bench.do("offset outline", id=deck, by="0.5")
    assert area_m2(bench.body(deck).corners) == pytest.approx(5 * 3 + 3 * 3)
    bench.do("set field", ids=[deck], field="width", text="10m")
    low, high = solid_of(bench.show.items[deck]).mesh.bounds()
    assert high[0] - low[0] == pytest.approx(10)
    wall = bench.made("add wall", corners=[[0, 0, 0], [6, 0, 0]], height="3m")
    bench.do("cut opening", id=wall, along="2m", width="1m")
    assert bench.body(wall).openings == ((2.0, 1.0, 0.0, 2.1),)
    bench.do("move", ids=[wall, deck], by=[1.0, 0.0, 0.0])
    assert bench.body(wall).position == (1.0, 0.0, 0.0)
    with pytest.raises(JobError, match="crosses itself"):
        bench.do("set outline", id=deck, corners=[[0, 0, 0], [4, 4, 0], [4, 0, 0], [0, 4, 0]])


def test_an_outline_redrawn_lies_where_it_was_drawn_and_the_turn_stays(bench):
    deck = bench.made("add deck", width="4m", depth="2m", x="SL 3", y="US 5", turn="30")
    drawn = [[1, 1, 0], [6, 1, 0], [6, 4, 0], [1, 3, 0]]
    bench.do("set outline", id=deck, corners=drawn)
    assert bench.body(deck).turn_deg == 30
    solid = solid_of(bench.show.items[deck])
    places = rotate(solid.placement.rotation, solid.mesh.vertices.astype(float)) + np.array(solid.placement.position)
    for x, y, _ in drawn:
        assert np.hypot(places[:, 0] - x, places[:, 1] - y).min() < 1e-4
    assert (places[:, 0].min(), places[:, 0].max()) == pytest.approx((1, 6), abs=1e-4)
    wall = bench.made("add wall", corners=[[0, 0, 0], [6, 0, 0]], height="3m")
    bench.do("move", ids=[wall], by=[1.0, 2.0, 0.0])
    bench.do("set outline", id=wall, corners=[[1, 2, 0], [9, 2, 0]], closed=False)
    low, high = bounds_of(bench.show, bench.show.items[wall])
    assert (low[0], high[0]) == pytest.approx((1, 9), abs=0.06)
    assert (low[1] + high[1]) / 2 == pytest.approx(2)
    panel = bench.made("add panel", corners=[[-1, 1, 0], [1, 1, 0], [0, 3, 0]], at="US 4")
    bench.do("set outline", id=panel, corners=[[-1, 0, 0], [2, 0, 0], [0, 2, 0]])
    low, high = bounds_of(bench.show, bench.show.items[panel])
    assert (low[0], high[0], low[2], high[2]) == pytest.approx((-1, 2, 1, 3), abs=1e-6)
