"""Things set by others: datums moved, ends joined, heights over what is below, repeats, points and what they carry."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import Workbench
from zarfwright.core.edits.arranging import bounds_of
from zarfwright.core.edits.placing import ends_of
from zarfwright.core.edits.underlay import to_plan
from zarfwright.core.errors import JobError
from zarfwright.core.mesh import MeshFile, MeshPart, box, round_surface
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.scene import mesh_solids, solids_of
from zarfwright.core.site.loads import height_below, load_of, weights
from zarfwright.core.site.rigging import lifting_points, steel_height_m
from zarfwright.core.site.simplify import deviation, simplified


def test_moving_the_datums_moves_nothing_in_the_room(bench):
    bench.made("add venue", width="20", upstage="10", downstage="30", eave="6", ridge="9")
    deck = bench.made("add deck", width="4m", depth="2m", y="US 3")
    truss = bench.made("add truss", length="8m", start_trim="6m", y="US 2")
    hung = bench.do("place along rail", structure=truss, type="heron", count="1").select[0]
    free = bench.made("place free", type="dunlin", position=[1, 1, 0])
    drawing = bench.made("add drawing", name="Plan", asset="a", layers=["0"], metres=0.001, origin=(500.0, 200.0))
    view = bench.made("add viewpoint", eye=[0, -10, 2], target=[0, 0, 1])
    corner = to_plan(bench.body(drawing), np.array([[2500.0, 1200.0]]))[0]

    def places():
        low, high = bounds_of(bench.show, bench.show.items[deck])
        return {
            "deck": (low + high) / 2,
            "hung": np.array(clamp_placement(bench.show, bench.body(hung)).position),
            "free": np.array(bench.body(free).placement.position),
            "view": np.array(bench.body(view).eye),
        }

    before = places()
    bench.do("move datums", x="SL 1", y="DS 2")
    for name, place in places().items():
        assert place == pytest.approx(before[name] - [1, -2, 0], abs=1e-9), name
    venue = next(item.body for item in bench.show.of_kind("venue"))
    assert (venue.centre_m, venue.upstage_m, venue.downstage_m) == (-1.0, 12.0, 28.0)
    assert to_plan(bench.body(drawing), np.array([[2500.0, 1200.0]]))[0] == pytest.approx(corner - [1, -2])
    with pytest.raises(JobError, match="outside of the room"):
        bench.do("move datums", y="US 40")


def test_trusses_are_joined_end_to_end(bench):
    first = bench.made("add truss", length="8m", start_trim="6m", x="0")
    second = bench.made("add truss", length="6m", start_trim="5.5m", x="SL 9", turn="90", y="US 4")
    bench.do("join ends", ids=[first, second])
    # The first ends at SL 4, 6 m up; the second runs upstage from there.
    ends = ends_of(bench.body(second))
    assert ends == pytest.approx(np.array([[4, 0, 6], [4, 6, 6]]), abs=1e-9)
    with pytest.raises(JobError, match="meet already"):
        bench.do("join ends", ids=[first, second])
    with pytest.raises(JobError, match="two structures"):
        bench.do("join ends", ids=[first])


@given(st.floats(-180, 180), st.floats(2, 20), st.floats(-4, 4))
@settings(max_examples=40, deadline=None)
def test_joined_ends_meet_however_they_were_turned_and_raked(turn, length, rise):
    bench = Workbench()
    first = bench.made("add truss", length="8m", start_trim="6m")
    rise = max(min(rise, length * 0.9), -length * 0.9)
    second = bench.made(
        "add truss",
        length=f"{length:.3f}m",
        start_trim="6m",
        end_trim=f"{6 + rise:.3f}m",
        turn=f"{turn:.2f}",
        x="SL 30",
    )
    bench.do("join ends", ids=[first, second])
    gaps = ends_of(bench.body(first))[:, None] - ends_of(bench.body(second))[None]
    assert np.linalg.norm(gaps, axis=-1).min() < 1e-9


def test_a_height_over_the_deck_is_counted_from_the_deck(bench):
    bench.made("add deck", width="10m", depth="6m", height="1.1m", y="US 3")
    over, beside = (
        bench.made("add truss", y="US 3", start_trim="5m"),
        bench.made("add truss", y="DS 9", start_trim="5m"),
    )
    bench.do("set above", ids=[over, beside], height="6m")
    assert bench.body(over).position[2] == pytest.approx(7.1)
    assert bench.body(beside).position[2] == pytest.approx(6.0)
    assert load_of(bench.show, bench.show.items[over]).over_m == pytest.approx(6.0)
    person = bench.made("add figures", y="US 3")
    bench.do("set above", ids=[person], height="0")
    assert bench.body(person).position[2] == pytest.approx(1.1)
    assert height_below(bench.show, np.array([[0.0, 3.0, 9.0], [0.0, -9.0, 9.0]])) == pytest.approx(
        [1.1, 0.0], abs=1e-5
    )


def test_chairs_are_repeated_on_a_grid_and_columns_on_an_arc(bench):
    chair = bench.made("add piece", piece="chair", x="0", y="0")
    grid = bench.do("repeat", ids=[chair], how="grid", columns="3", rows="2", across="0.6m", back="-1m").select
    places = sorted(tuple(round(v, 3) for v in bench.body(one).position[:2]) for one in (chair, *grid))
    assert places == [(0.0, -1.0), (0.0, 0.0), (0.6, -1.0), (0.6, 0.0), (1.2, -1.0), (1.2, 0.0)]
    column = bench.made("add piece", piece="column", x="SL 4", y="0")
    ring = bench.do("repeat", ids=[column], how="arc", count="8", x="0", y="0").select
    angles = sorted(
        round(math.degrees(math.atan2(*bench.body(one).position[1::-1])), 3) % 360 for one in (column, *ring)
    )
    assert angles == pytest.approx([0, 45, 90, 135, 180, 225, 270, 315], abs=1e-6)
    assert {round(bench.body(one).turn_deg) for one in ring} == {45, 90, 135, 180, 225, 270, 315}
    half = bench.do("repeat", ids=[column], how="arc", count="3", span="90", turn_along=False).select
    assert bench.body(half[-1]).position[:2] == pytest.approx((0.0, 4.0), abs=1e-9)
    assert bench.body(half[-1]).turn_deg == 0
    with pytest.raises(JobError, match="there already"):
        bench.do("repeat", ids=[chair], columns="1", rows="1")


def test_points_share_a_structure_alike_and_their_chains_reach_the_steel(bench):
    truss = bench.made("add truss", length="12m", start_trim="6m", hoists="3", steel="9m", bridle="1.2m", kg_per_m="10")
    points = lifting_points(bench.body(truss), 3)
    # In the middle of each third, over the middle of the section.
    assert points == pytest.approx(np.array([[-4, 0, 6.4], [0, 0, 6.4], [4, 0, 6.4]]), abs=1e-9)
    rig = next(solid for solid in solids_of(bench.show, bench.show.items[truss]) if solid.id.endswith("/rig"))
    low, high = rig.mesh.bounds()
    assert (low[2], high[2]) == pytest.approx((6.4, 9.0), abs=0.03)
    # The outermost legs stand 0.6 m beyond their points.
    assert high[0] == pytest.approx(4.6, abs=0.03)
    bench.do("place along rail", structure=truss, type="heron", count="6")
    load = load_of(bench.show, bench.show.items[truss])
    weight = bench.show.types["heron"].weight_kg
    assert (load.own_kg, load.fixtures, load.points) == (pytest.approx(120.0), 6, 3)
    assert load.point_kg == pytest.approx((120 + 6 * weight) / 3)
    assert weights(bench.show)[truss] == pytest.approx((120, 6 * weight))
    bench.do("set field", ids=[truss], field="hoists", text="0")
    assert len(solids_of(bench.show, bench.show.items[truss])) == 1
    # Of 12 m there would be three for the estimate.
    assert load_of(bench.show, bench.show.items[truss]).points == 3


def test_a_ring_is_lifted_from_its_start_on_and_the_steel_is_two_metres_over_it(bench):
    ring = bench.made("add truss", form="arc", diameter="6m", start_trim="5m", hoists="4")
    points = lifting_points(bench.body(ring), 4)
    radii = np.hypot(points[:, 0], points[:, 1])
    assert radii == pytest.approx(np.full(4, 3.0), abs=1e-9)
    assert points[0][:2] == pytest.approx([0, 3.0], abs=1e-9)
    assert steel_height_m(bench.body(ring)) == pytest.approx(5.4 + 2.0)


def test_a_ball_with_a_tenth_of_its_triangles_is_off_by_what_is_said():
    angles = np.linspace(-np.pi / 2, np.pi / 2, 41)
    ball = round_surface(np.stack([np.cos(angles), np.sin(angles)], axis=1), 80)
    fewer = simplified(ball, 640)
    assert 400 <= len(fewer.triangles) <= 700
    mean, most = deviation(ball, fewer)
    assert 0 < mean < most < 0.06
    # A sphere's own measure of the same: how far the middles of the flat triangles lie inside.
    inside = 1 - np.linalg.norm(fewer.vertices[fewer.triangles].mean(axis=1), axis=1)
    assert most == pytest.approx(float(inside.max()), rel=0.7)
    assert simplified(ball, 10**6) is ball


def test_a_distance_to_triangles_is_the_one_by_hand():
    flat = box((2, 2, 0.0001))
    above = MeshFile((MeshPart("", None, box((0.2, 0.2, 0.6))),)).whole
    # Corners at +-0.3 over and under a plate that lies at 0.
    mean, most = deviation(above, flat)
    assert (mean, most) == (pytest.approx(0.3, abs=1e-3), pytest.approx(0.3, abs=1e-3))


def test_materials_keep_their_hue_when_their_reflectance_is_set(bench):
    red = MeshPart("Velvet", (0.4, 0.05, 0.05), box((1, 1, 1)))
    plain = MeshPart("", None, box((1, 1, 2)))
    bench.give_mesh("stall", MeshFile((red, plain)))
    mesh = bench.made("add mesh", name="Stall", asset="stall", reflectance=0.3)
    seen = mesh_solids(bench.show, bench.show.items[mesh], bench.body(mesh))
    assert [solid.albedo for solid in seen] == [(0.4, 0.05, 0.05), (0.3, 0.3, 0.3)]
    bench.do("set reflectance", id=mesh, material="Velvet", reflectance="0.0622")
    r, g, b = mesh_solids(bench.show, bench.show.items[mesh], bench.body(mesh))[0].albedo
    assert r / g == pytest.approx(8.0)
    assert 0.2126 * r + 0.7152 * g + 0.0722 * b == pytest.approx(0.0622)
    bench.do("set reflectance", id=mesh, material="Velvet", reflectance="")
    assert mesh_solids(bench.show, bench.show.items[mesh], bench.body(mesh))[0].albedo == (0.4, 0.05, 0.05)
    with pytest.raises(JobError, match="no material"):
        bench.do("set reflectance", id=mesh, material="Silk", reflectance="0.5")


def test_a_heavy_mesh_is_told_and_simplified_by_its_button(bench):
    from zarfwright.core.readiness import findings

    angles = np.linspace(-np.pi / 2, np.pi / 2, 241)
    ball = round_surface(np.stack([np.cos(angles), np.sin(angles)], axis=1), 240)
    bench.give_mesh("ball", MeshFile((MeshPart("", None, ball),)))
    mesh = bench.made("add mesh", name="Ball", asset="ball")
    finding = next(f for f in findings(bench.show) if "115200 triangles" in f.text)
    edit = bench.do(finding.repair.kind, **finding.repair.args)
    assert "of 115200 triangles; its surface is off by" in edit.report[0]
    assert not [f for f in findings(bench.show) if "triangles" in f.text]
    count = sum(
        len(solid.mesh.triangles) for solid in mesh_solids(bench.show, bench.show.items[mesh], bench.body(mesh))
    )
    assert 20_000 < count <= 25_000
    with pytest.raises(JobError, match="only"):
        bench.do("simplify mesh", id=mesh, triangles="200000")
