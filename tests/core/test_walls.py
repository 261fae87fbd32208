"""Walls: what is cut out of them, and which of their faces look out of the room."""

import math

import numpy as np
import pytest

from tests.core.test_outline import volume
from zarfwright.core.errors import JobError
from zarfwright.core.mesh import INWARD, OUTWARD, REVEAL, reveal
from zarfwright.core.readiness import findings
from zarfwright.core.scene import solid_of
from zarfwright.core.site.outline import rectangle
from zarfwright.core.site.walls import sides_of, wall_mesh


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


ROOM = [[-7, -4.5, 0], [7, -4.5, 0], [7, 4.5, 0], [-7, 4.5, 0]]


def test_a_window_over_a_door_leaves_the_wall_between_them():
    both = wall_mesh(((0, 0, 0), (6, 0, 0)), False, 4.0, 0.2, ((2.0, 1.0, 0.0, 2.0), (2.2, 1.4, 2.5, 3.5)))
    assert volume(both) == pytest.approx((24 - 2 - 1.4) * 0.2, rel=1e-3)


@pytest.fixture
def room(bench):
    return bench.made("add wall", corners=ROOM, closed=True, height="4m", thickness="0.2m")


def test_sides_are_named_by_where_the_room_has_them_and_measured_from_stage_right_or_downstage(bench, room):
    sides = sides_of(bench.body(room))
    assert [(side.name, side.length_m, side.end) for side in sides] == [
        ("DS side", pytest.approx(14), "SR"), ("SL side", pytest.approx(9), "DS"),
        ("US side", pytest.approx(14), "SR"), ("SR side", pytest.approx(9), "DS"),
    ]  # fmt: skip
    # The upstage side runs from stage left to stage right: 3 m from its SR end is 14 + 9 + 11 m along.
    bench.do("cut opening", id=room, side=2, along="3m", width="1.2m")
    assert bench.body(room).openings[0] == pytest.approx((34.0, 1.2, 0.0, 2.1))
    open_wall = bench.made("add wall", corners=[[0, 0, 0], [4, 0, 0], [4, 3, 0]])
    assert [side.name for side in sides_of(bench.body(open_wall))] == ["line 1", "line 2"]
    # A bay of short chords is one side.
    bay = bench.made("add wall", corners=[[0, 0, 0.4], [4, 0, 0]])
    assert len(sides_of(bench.body(bay))) == 1


def test_openings_are_changed_and_filled_and_drawn_in_plan(bench, room):
    bench.do("cut opening", id=room, side=0, along="3m", width="1.2m")
    bench.do("cut opening", id=room, side=1, along="4m", width="2m", sill="1m", head="2.5m")
    door, window = solid_of(bench.show.items[room]).gaps
    assert (door.door, window.door) == (True, False)
    assert np.min(door.ring, axis=0) == pytest.approx([-4.6, -4.6])
    assert np.max(door.ring, axis=0) == pytest.approx([-3.4, -4.4])
    edit = bench.do("set opening", id=room, at=0, side=0, along="5m", width="0.9m", head="2m")
    assert edit.sentence == "Make it a door 0.90 m × 2.00 m, in Wall 1"
    assert bench.body(room).openings[0] == pytest.approx((5.0, 0.9, 0.0, 2.0))
    bench.do("fill opening", id=room, at=0)
    assert [opening[1] for opening in bench.body(room).openings] == [2.0]
    with pytest.raises(JobError, match="no such opening"):
        bench.do("fill opening", id=room, at=1)


@pytest.mark.parametrize(
    ("typed", "field", "said"),
    [
        (
            {"side": 0, "along": "0.3m", "width": "1.2m"},
            "along",
            r"DS side the middle can be 0\.60 m to 13\.40 m from its SR",
        ),
        ({"along": "14m", "width": "1.2m"}, "along", "round a corner"),
        ({"side": 1, "along": "4m", "width": "10m"}, "width", r"9\.00 m long"),
        ({"side": 1, "along": "4m", "head": "4.5m"}, "head", r"4\.00 m high"),
        ({"side": 1, "along": "4m", "sill": "2.2m"}, "head", "above its sill"),
        ({"side": 2, "along": "3.5m"}, "along", r"1\.00 m wide already, its middle 3\.00 m from its SR end"),
        ({"side": 4, "along": "1m"}, "side", "no such side"),
    ],
)
def test_an_opening_without_room_is_refused_and_says_where_there_is(bench, room, typed, field, said):
    bench.do("cut opening", id=room, side=2, along="3m")
    before = bench.body(room)
    with pytest.raises(JobError, match=said) as refused:
        bench.do("cut opening", id=room, **typed)
    assert refused.value.field == field
    assert bench.body(room) == before


def test_an_opening_that_has_no_room_any_more_is_found_and_filled_in_one_step(bench, room):
    bench.do("cut opening", id=room, side=0, along="12m", width="1.2m")
    bench.do("cut opening", id=room, side=1, along="4m", width="1m", head="3.5m")
    assert [one for one in findings(bench.show) if "no room" in one.text] == []
    bench.do("set field", ids=[room], field="height", text="3m")
    bench.do("set outline", id=room, corners=[[-5, -4.5, 0], [5, -4.5, 0], [5, 4.5, 0], [-5, 4.5, 0]], closed=True)
    found = [one for one in findings(bench.show) if "no room" in one.text]
    assert [one.text for one in found] == [
        "A door of Wall 1, 1.00 m wide, has no room where it is: move it, or fill it."
    ]
    assert found[0].repair is not None
    bench.do(found[0].repair.kind, **found[0].repair.args)
    # The other is still on its side, at the end of it now that it is shorter.
    assert bench.body(room).openings == ((pytest.approx(9.4), 1.2, 0.0, 2.1),)
