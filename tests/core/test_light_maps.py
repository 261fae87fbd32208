"""Lux maps against closed forms: one source, two that overlap, one half hidden, planes that lean; figures and lines."""

import math

import numpy as np
import pytest

from tests.core.test_photometry import HUNG, rig, slab
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.optics.colour import LUMINANCE, rgb_from_xyy, white_xy
from zarfwright.core.optics.photometry import illuminance
from zarfwright.core.raycast import Caster
from zarfwright.core.review.area import Area, Measured, packed, unpacked
from zarfwright.core.review.grid import grid_of
from zarfwright.core.review.lit import who_lights
from zarfwright.core.review.maps import (
    contours,
    figures_of,
    in_the_way,
    kelvin_of,
    lux_of,
    piece,
    pieces,
    steps_to,
)
from zarfwright.core.space import Placement
from zarfwright.library import dunlin

FLOOR = Area("Floor", (0.0, 0.0, 0.0), 4.0, 3.0, points=(20, 15))


def wash(mount=HUNG, **values):
    return rig(dunlin(), dunlin().modes[0].name, mount, **values)


def soft(t, beam, field):
    """I(t) / I0 of a soft edge as numbers.md has it, inside of half the field angle (radians)."""
    p = math.log(math.log2(10)) / math.log(field / beam)
    return 2 ** -((2 * t / beam) ** p)


def by_hand(beams, points, normals):
    """E = I(t) cos / d^2 of soft beams, from where they begin and look alone."""
    whole = np.zeros(len(points))
    for i in range(len(beams.apex)):
        v = beams.values(i)
        for k, (place, normal) in enumerate(zip(points, normals, strict=True)):
            way, d = place - beams.apex[i], math.dist(place, beams.apex[i])
            t = math.acos(min(float(way @ beams.along[i]) / d, 1.0))
            assert t < v["field"] / 2
            candela = float(beams.colour_cd(i) @ LUMINANCE) * soft(t, v["beam"], v["field"])
            whole[k] += candela * max(-float(way @ normal) / d, 0.0) / d**2
    return whole


def test_points_go_from_downstage_right_to_upstage_left_and_turn_with_their_area():
    grid = grid_of(Area("", (1.0, 2.0, 0.5), 4.0, 2.0, points=(4, 2)))
    rows = [[[x, y] for x in (-0.5, 0.5, 1.5, 2.5)] for y in (1.5, 2.5)]
    assert grid.points[:, :2].reshape(2, 4, 2).tolist() == rows
    assert set(grid.points[:, 2]) == {0.5}
    turned = grid_of(Area("", (1.0, 2.0, 0.5), 4.0, 2.0, turn_deg=90, points=(4, 2)))
    assert turned.points[0] == pytest.approx([1.5, 0.5, 0.5])
    faces = grid_of(Area("", (0.0, 0.0, 1.6), 2.0, 2.0, faces="towards", towards=(0.0, -10.0, 9.0), points=(1, 1)))
    assert faces.normals[0] == pytest.approx([0, -1, 0])
    above = grid_of(Area("", (0.0, 0.0, 1.6), 2.0, 2.0, faces="towards", towards=(0.0, 0.0, 9.0), points=(1, 1)))
    assert above.normals[0] == pytest.approx([0, 0, 1])


def test_one_source_and_two_that_overlap_are_as_worked_out_by_hand():
    grid = grid_of(FLOOR)
    one, aside = wash(), wash(Placement((0.6, 0.0, 9.5)))
    alone = by_hand(one, grid.points, grid.normals)
    assert lux_of(illuminance(one, grid.points, grid.normals)) == pytest.approx(alone, rel=0.01)
    both = lux_of(sum(illuminance(beams, grid.points, grid.normals) for beams in (one, aside)))
    sums = alone + by_hand(aside, grid.points, grid.normals)
    assert both == pytest.approx(sums, rel=0.01)
    assert sums.max() > 1.5 * alone.max()


@pytest.mark.parametrize("lean_deg", [0, 25, 60, 80])
def test_planes_that_lean_get_the_cosine(lean_deg):
    grid = grid_of(FLOOR)
    lean = np.tile([math.sin(math.radians(lean_deg)), 0.0, math.cos(math.radians(lean_deg))], (len(grid.points), 1))
    beams = wash()
    found = lux_of(illuminance(beams, grid.points, lean))
    assert found == pytest.approx(by_hand(beams, grid.points, lean), rel=0.01, abs=1e-6)


def test_half_of_an_area_is_hidden_where_the_rays_say_so():
    # A board from the middle to stage right, half way down: what lies beyond twice its edge is in its shadow.
    beams = wash()
    board = Caster([slab("board", (4.0, 8.0, 0.02), (-2.0, 0.0, 5.0))])
    grid = grid_of(FLOOR)
    found = lux_of(illuminance(beams, grid.points, grid.normals, board))
    clear = grid.points[:, 0] > 0
    # The source is as large as its lens; its light leaves it on the way from the apex.
    assert found[~clear] == pytest.approx(np.zeros(int((~clear).sum())))
    assert found[clear] == pytest.approx(by_hand(beams, grid.points[clear], grid.normals[clear]), rel=0.01)
    assert figures_of(found).evenness == 0


def test_a_piece_that_is_worked_out_elsewhere_is_the_same(bench):
    bench.do("add deck", width="6m", depth="4m", height="1m")
    square = [[0, 0, 0], [1, 0, 0], [1, 3, 0], [0, 3, 0]]
    bench.do("add panel", name="Cloth", corners=square, at="US 1")
    bench.do("add panel", name="Gauze", corners=square, at="DS 1", finish="gauze")
    fixture = bench.made("place free", type="heron", mode="Extended", position=[1, -3, 7])
    bench.do("aim at", ids=[fixture], point=[0, 0, 1])
    caster = Caster(in_the_way(bench.show, people=True))
    beams = rig_of(bench.show).beams({fixture: {**bench.body(fixture).hands, "dimmer": 1.0}}, {})
    grid = grid_of(Area("", (0.0, 0.0, 1.0), 6.0, 4.0, points=(13, 7)))
    whole = illuminance(beams, grid.points, grid.normals, caster)
    parts = [piece(caster.packed(), beams, *some) for some in pieces(grid.points, grid.normals)]
    assert np.concatenate(parts) == pytest.approx(whole)
    assert lux_of(whole).max() > 10


def test_who_lights_a_place_adds_up_and_says_what_is_in_the_way(bench):
    bench.do("add deck", width="6m", depth="4m", height="1m")
    places = [[2, -2, 7], [-2, -2, 7], [0, 3, 7]]
    ids = [bench.made("place free", type="heron", mode="Extended", position=place) for place in places]
    bench.do("aim at", ids=ids, point=[0, 0, 1])
    # Upright, half way from the first to the place: it hides it whole.
    square = [[-1.5, 3, 0], [-0.5, 3, 0], [-0.5, 5, 0], [-1.5, 5, 0]]
    bench.do("add panel", name="Flag", corners=square, seen_from="side", at="SL 1")
    bench.do("hold values", ids=ids, values={"dimmer": 1.0})
    made = rig_of(bench.show)
    beams = made.beams({key: dict(bench.body(key).hands) for key in ids}, {})
    at, up = np.array([0.0, 0.0, 1.0]), np.array([0.0, 0.0, 1.0])
    found = who_lights(bench.show, beams, made.rig, Caster(in_the_way(bench.show, people=True)), at, up)
    assert {one.fixture: one.blocked_by for one in found.parts} == {ids[0]: "Flag", ids[1]: None, ids[2]: None}
    assert found.parts[-1].fixture == ids[0]
    assert found.parts[-1].lux == 0
    assert found.parts[-1].clear == pytest.approx(next(one.lux for one in found.parts if one.fixture == ids[1]), 0.05)
    assert sum(one.share for one in found.parts) == pytest.approx(1.0)
    assert found.lux == pytest.approx(lux_of(illuminance(beams, at, up, Caster(in_the_way(bench.show, True))))[0])
    for one in found.parts:
        place = np.array(at) - np.array(one.direction) * 5
        assert place[2] > 4
        assert np.sign(place[0]) == np.sign(beams.lens[made.rig.fixtures.index(one.fixture), 0].round(1))


def test_figures_lines_and_colour_of_a_map():
    lux = np.array([100.0, 200.0, 300.0, 400.0])
    figures = figures_of(lux)
    assert (figures.mean, figures.least, figures.most, figures.evenness) == (250.0, 100.0, 400.0, 0.4)
    assert figures_of(np.zeros(4)).evenness == 0
    assert steps_to(0) == []
    assert steps_to(8704) == [2000, 4000, 6000, 8000]
    assert all(2 <= len(steps_to(most)) <= 7 for most in np.geomspace(0.03, 2e5, 200))
    # Light that grows evenly across: each line is straight, where its lux is.
    nx, ny = 20, 10
    across = np.tile((np.arange(nx) + 0.5) / nx * 1000, (ny, 1)).ravel()
    for line in contours(across, (nx, ny), [250.0, 500.0]):
        assert np.concatenate(line.lines)[:, 0] == pytest.approx(np.full(ny, line.lux / 1000))
    assert contours(across[:nx], (nx, 1), [250.0]) == []
    warm = np.array([100 * np.asarray(rgb_from_xyy(*white_xy(k))) for k in (2700.0, 5600.0)] + [[0, 0, 0]])
    assert kelvin_of(warm)[:2] == pytest.approx([2700, 5600], rel=0.01)
    assert math.isnan(kelvin_of(warm)[2])


def test_what_was_measured_comes_back_and_damage_is_said():
    rgb = np.random.default_rng(3).random((12, 3)) * 1e4
    kept = Measured("x", (4, 3), 0, 0, 0, packed(rgb))
    assert unpacked(kept) == pytest.approx(rgb, rel=1e-6)
    for bad in (kept.rgb[:-9], "no base64!", packed(rgb * np.nan), packed(rgb[:5])):
        with pytest.raises(JobError, match="measure it again"):
            unpacked(Measured("x", (4, 3), 0, 0, 0, bad))
