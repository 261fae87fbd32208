"""Scenes beside a show: who is who, what types become, how a scene lies, what a foreign structure is."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import Workbench
from tests.scenes import Hall, box_glb, fixture, layer, matrix, mesh_of, mvr, node, zipped
from zarfwright.core.errors import JobError
from zarfwright.core.exchange.compare import GROUPS, Choices, compare
from zarfwright.core.exchange.lie import Lay, bounds, laid, suspicions
from zarfwright.core.exchange.matching import Wanted, matches, modes_for
from zarfwright.core.exchange.pairs import pairs_of
from zarfwright.core.exchange.places import brought, frame, place_of, same
from zarfwright.core.exchange.report import report_of
from zarfwright.core.exchange.rows import apart, as_rows, inside, relative, rows_of
from zarfwright.core.exchange.scene import FoundType, Shape, Thing
from zarfwright.core.exchange.taken import as_structure
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.site.structures import truss_rails
from zarfwright.core.site.things import Crowd, Deck, Figure, Panel, Truss, Venue, Wall
from zarfwright.core.space import Placement, about, multiply, quat
from zarfwright.library import dunlin, heron, shipped

numbers = st.floats(-30, 30)
angles = st.floats(-math.pi, math.pi)
places = st.builds(
    lambda x, y, z, a, b: rows_of(Placement((x, y, z), quat(multiply(about((0, 0, 1), a), about((1, 0, 0), b))))),
    numbers, numbers, numbers, angles, angles,
)  # fmt: skip
level = st.builds(
    lambda x, y, z, a: rows_of(Placement((x, y, z), quat(about((0, 0, 1), a)))), numbers, numbers, numbers, angles
)


@given(places, places)
def test_what_is_put_into_a_frame_and_taken_out_again_is_where_it_was(outer, inner):
    there = inside(outer, inner)
    assert np.allclose(np.array(relative(outer, there)), np.array(inner), atol=1e-9)
    # As matrices: first the inner one, then the outer one.
    a, b = np.array(outer), np.array(inner)
    assert np.allclose(np.array(there)[3], b[3] @ a[:3] + a[3])


SITE = [
    Deck("D", (1, 2, 0), 3, 2, turn_deg=20),
    Panel("P", ((0, 0, 0), (2, 0, 0), (2, 3, 0)), (1, 0, 0), turn_deg=-30),
    Wall("W", ((0, 0, 0), (4, 0, 0.2)), (2, 1, 0)),
    Figure("F", (0, 3, 1.1), turn_deg=90, height_m=1.6),
    Crowd("C", ((0, 0, 0), (4, 0, 0), (4, 3, 0), (0, 3, 0)), target=(1.0, 2.0)),
    Truss("T", (0, 1, 6), turn_deg=40, rake_deg=12),
    Truss("B", (3, 1, 0), turn_deg=40, form="upright"),
    Truss("R", (0, 0, 5), form="arc", rake_deg=10),
]


@pytest.mark.parametrize("body", SITE, ids=lambda body: f"{type(body).__name__} {body.name}")
@given(to=level)
def test_what_another_program_moved_and_turned_in_plan_is_the_same_thing_there(body, to):
    there = inside(to, frame(body))
    moved = brought(body, there)
    assert type(moved) is type(body)
    assert apart(frame(moved), there) == pytest.approx((0, 0), abs=1e-3)
    assert brought(body, frame(body)) is body


@given(numbers, numbers)
def test_a_room_is_shifted_in_plan(x, y):
    room = Venue("V", 20, 50, 60, 6, 8, 1.0)
    moved = brought(room, rows_of(Placement((x, y, 0.0))))
    # What is less than a twentieth of a millimetre is nothing.
    assert (moved.centre_m, moved.upstage_m, moved.downstage_m) == pytest.approx((1 + x, 50 + y, 60 - y), abs=1e-4)


def test_a_deck_that_was_tilted_is_no_deck_any_more():
    tilted = rows_of(Placement((0, 0, 0), quat(about((1, 0, 0), 0.1))))
    assert brought(Deck("D"), tilted) is None
    rolled = inside(frame(SITE[5]), rows_of(Placement((0, 0, 0), quat(about((1, 0, 0), 0.3)))))
    assert brought(SITE[5], rolled) is None


# Types


def wanted(name="Heron", maker="Quillback Lamp Co.", type_id="", **slots):
    return Wanted(FoundType(f"{maker}@{name}.gdtf", name, maker, type_id=type_id, footprints=slots), tuple(slots), 3)


def test_a_type_that_is_not_in_the_file_is_matched_by_maker_name_mode_and_slots():
    bench = Workbench()
    best = matches(bench.show, wanted(Standard=16), None, {})[0]
    assert (best.source, best.key) == ("show", "heron")
    assert best.reason == "in the show: the same maker, the same name, its modes, as many slots"
    # Only the library has it.
    best = matches(bench.show, wanted("Plover", Standard=10), None, shipped())[0]
    assert (best.source, best.name) == ("library", "Plover")
    # Another mode than any it has: the one of the nearest size.
    odd = matches(bench.show, wanted(**{"Basic 15": 15}), None, {})[0]
    assert odd.modes == {"Basic 15": "Standard"}
    assert "“Basic 15” (15 slots) becomes “Standard” (16 slots)" in odd.reason
    # The file's own comes before one that is only called so, and after one of the same id.
    own = heron()
    assert matches(bench.show, wanted(Standard=16), own, {})[0].source == "file"
    assert matches(bench.show, wanted("Other", "Else", own.type_id, Standard=16), own, {})[0].source == "show"
    # Nothing is like it.
    plain = matches(bench.show, wanted("Xyzzy", "Nobody", Turbo=9), None, shipped())
    assert [one.source for one in plain] == ["plain"]


def test_modes_go_by_name_then_by_size():
    sizes = {"Small": 8, "Standard": 16}
    assert modes_for(wanted(standard=99), sizes) == {"standard": "Standard"}
    assert modes_for(wanted(Turbo=9), sizes) == {"Turbo": "Small"}


# Who is who


def test_fixtures_are_known_by_number_else_by_place_and_the_rest_by_name(tmp_path):
    hall = Hall(tmp_path)
    lamp = hall.with_type(heron())
    one = hall.do("place free", type=lamp, position=[1, 0, 4]).select[0]
    hall.do("number", ids=[one], start="5")
    two = hall.do("place free", type=lamp, position=[2, 0, 4]).select[0]
    truss = hall.do("add truss", name="LX1", length="6m").select[0]
    data = mvr(layer(
        fixture("A", 5, "1", matrix(9, 9, 9)), fixture("B", 0, "31", matrix(2.03, 0, 4)),
        fixture("C", 0, "61", matrix(2.2, 0, 4)),
        node("Truss", "lx1", mesh_of("t.glb")),
    ), files={"t.glb": box_glb(6, 0.4, 0.4)})  # fmt: skip
    scene = hall.inbox.look(hall.look(data)).scene
    names = {thing.uuid: thing.name for thing in scene.things}
    assert {names[key]: item_id for key, item_id in pairs_of(hall.show, scene).items()} == {
        "A": one,
        "B": two,
        "lx1": truss,
    }


def test_each_kind_and_each_thing_can_be_left_out_and_what_the_file_lacks_stays_unless_it_is_asked(tmp_path):
    hall = Hall(tmp_path)
    lamp = hall.with_type(heron())
    mine = hall.do("place free", type=lamp, position=[8, 0, 4]).select[0]
    hall.do("number", ids=[mine], start="77")
    deck = hall.do("add deck", name="Mine").select[0]
    data = mvr(layer(
        fixture("A", 1, "1"), fixture("B", 2, "41", matrix(3, 0, 0)), node("SceneObject", "S", mesh_of("b.glb")),
        node("FocusPoint", "P"), node("GroupObject", "G"),
    ), files={"b.glb": box_glb()})  # fmt: skip
    arrived = hall.inbox.look(hall.look(data))
    every = compare(hall.show, arrived, Choices())
    assert {(line.name, line.change) for line in every.lines} == {
        ("Rig", "added"), ("Fixture 1", "added"), ("Fixture 2", "added"), ("S", "added"), ("P", "added"),
        ("G", "added"),
        ("Fixture 77", "kept"), ("Mine", "kept"),
    }  # fmt: skip
    for group in GROUPS:
        compared = compare(hall.show, arrived, Choices(kinds=frozenset(GROUPS) - {group}))
        assert compared.count("added", group) == 0
        assert all(compared.count("added", other) == every.count("added", other) for other in GROUPS if other != group)
    key = next(thing.uuid for thing in arrived.scene.things if thing.name == "A")
    compared = compare(hall.show, arrived, Choices(leave=frozenset({key})))
    assert [line.name for line in compared.lines if line.change == "left out"] == ["Fixture 1"]
    gone = compare(hall.show, arrived, Choices(remove=frozenset({"fixtures"})))
    assert [change.id for change in gone.changes if change.after is None] == [mine]
    gone = compare(hall.show, arrived, Choices(remove=frozenset({"fixtures", "scenery"}), leave=frozenset({mine})))
    assert [change.id for change in gone.changes if change.after is None] == [deck]
    text = report_of("tour.mvr", "Ours", gone)
    assert "tour.mvr beside Ours" in text
    assert "Removed\n  Mine: the file does not have it" in text


def test_a_choice_that_cannot_be_is_refused(tmp_path):
    hall = Hall(tmp_path)
    data = mvr(layer(fixture("A")))
    with pytest.raises(JobError, match="nothing that a scene has"):
        hall.take(data, kinds=["balloons"])
    with pytest.raises(JobError, match="times as large"):
        hall.take(data, factor=0.0)
    with pytest.raises(JobError, match="not here any more"):
        hall.do("take scene", key="scene-99")


# How it lies


def rig_scene(hall, scale=1.0, shift=(0.0, 0.0, 0.0), over=False):
    """Six lamps on a bar over a stage, as another program might have put them."""
    lamps = []
    for i in range(6):
        x, y, z = (np.array([i * 2.0 - 5, 3 + (i % 3), 6.0 + i % 2]) * scale + shift).tolist()
        text = None
        if over:
            text = f"{{1,0,0}}{{0,-1,0}}{{0,0,-1}}{{{x * 1000},{-y * 1000},{-z * 1000}}}"
        lamps.append(fixture(f"F{i}", i + 1, str(1 + 20 * i), matrix(x, y, z, text)))
    return hall.inbox.look(hall.look(mvr(layer(*lamps)))).scene


@pytest.mark.parametrize(
    ("factor", "unit"), [(1000.0, "metres"), (304.8, "feet"), (25.4, "inches"), (0.3048, "feet, each taken")]
)
def test_a_scene_in_another_unit_is_seen_beside_what_the_show_has(tmp_path, factor, unit):
    hall = Hall(tmp_path)
    data = rig_scene(hall)
    hall.take(
        mvr(layer(*(fixture(f"F{i}", i + 1, str(1 + 20 * i), matrix(*data.things[i].place[3])) for i in range(6))))
    )
    small = rig_scene(hall, 1 / factor)
    found = suspicions(hall.show, small, pairs_of(hall.show, small))
    assert len(found) == 1
    assert unit in found[0].what
    assert found[0].lay.factor == factor
    right = laid(small, found[0].lay)
    for a, b in zip(right.things, data.things, strict=True):
        assert np.allclose(a.place[3], b.place[3], atol=1e-3)


def test_a_scene_that_is_off_or_on_its_head_is_put_right_in_one_step(tmp_path):
    hall = Hall(tmp_path)
    right = rig_scene(hall)
    hall.take(
        mvr(layer(*(fixture(f"F{i}", i + 1, str(1 + 20 * i), matrix(*right.things[i].place[3])) for i in range(6))))
    )
    assert not suspicions(hall.show, right, pairs_of(hall.show, right))
    off = rig_scene(hall, shift=(12.0, -3.0, 0.5))
    found = suspicions(hall.show, off, pairs_of(hall.show, off))
    assert [one.button for one in found] == ["Bring it where they are"]
    assert found[0].lay.shift == pytest.approx((-12, 3, -0.5))
    over = rig_scene(hall, over=True)
    found = suspicions(hall.show, over, pairs_of(hall.show, over))
    assert [one.button for one in found] == ["Turn it over"]
    back = laid(over, found[0].lay)
    for a, b in zip(back.things, right.things, strict=True):
        assert same(a.place, b.place)


def test_a_scene_that_lies_oddly_is_seen_by_itself_too(tmp_path):
    empty = Hall(tmp_path)
    assert not suspicions(empty.show, rig_scene(empty), {})
    far = suspicions(empty.show, rig_scene(empty, shift=(4000.0, 0.0, 0.0)), {})
    assert [one.button for one in far] == ["Bring its middle to the origin"]
    assert bounds(laid(rig_scene(empty, shift=(4000.0, 0.0, 0.0)), far[0].lay))[1][0] < 10
    feet = suspicions(empty.show, rig_scene(empty, 1 / 304.8), {})
    assert "Take them as feet" in [one.button for one in feet]
    head = suspicions(empty.show, rig_scene(empty, over=True), {})
    assert [one.button for one in head] == ["Turn it over"]
    assert all(thing.place[2][2] > 0 for thing in laid(rig_scene(empty, over=True), head[0].lay).things)


def test_laying_enlarges_turns_and_then_shifts():
    thing = Thing(
        "a" * 32, "SceneObject", "S", as_rows(np.array([[1, 0, 0], [0, 1, 0], [0, 0, 1], [1, 2, 3]], dtype=float))
    )
    from zarfwright.core.exchange.scene import Scene

    made = laid(Scene((thing,)), Lay(2.0, True, (10.0, 0.0, 0.0))).things[0].place
    assert np.allclose(made, [[1, 0, 0], [0, -1, 0], [0, 0, -1], [12, -4, -6]])


# Structures of other programs

SECTIONS = {
    "box": (0.45, 0.45),
    "pipe": (0.05, 0.05),
    "ladder": (0.1, 0.45),
    "flat": (0.45, 0.1),
    "triangle": (0.45, 0.4),
}


@pytest.mark.parametrize("lattice", SECTIONS)
@pytest.mark.parametrize("lying", ["x", "y"])
def test_a_foreign_truss_is_a_structure_whose_rails_lie_in_its_mesh(lattice, lying):
    wide, high = SECTIONS[lattice]
    size = np.array((8.0, wide, high) if lying == "x" else (wide, 8.0, high)) / 2
    centre = np.array([0.3, 0.0, 0.2])
    place = rows_of(Placement((2, 3, 6), quat(about((0, 0, 1), 0.5))))
    thing = Thing("a" * 32, "Truss", "T", place, shape="s")
    truss = as_structure(thing, Shape(tuple(centre - size), tuple(centre + size), "s"))
    assert (truss.lattice, truss.form, truss.length_m) == (lattice, "straight", 8.0)
    for rail in truss_rails(truss).values():
        for end in (rail.start, rail.end):
            own = np.array(relative(place, ((1, 0, 0), (0, 1, 0), (0, 0, 1), end))[3])
            assert np.all(np.abs(own - centre) <= size + 1e-4)


def test_a_tower_is_upright_and_what_is_bent_or_thick_is_no_structure():
    straight = rows_of(Placement((1, 2, 0)))
    tower = as_structure(
        Thing("a" * 32, "Truss", "T", straight, shape="s"), Shape((-0.2, -0.2, 0.0), (0.2, 0.2, 5.0), "s")
    )
    assert (tower.form, tower.lattice, tower.length_m) == ("upright", "box", 5.0)
    assert tower.position[2] == pytest.approx(0.0)
    ring = Shape((-2.5, -2.5, 0.0), (2.5, 2.5, 0.4), "s")
    assert as_structure(Thing("a" * 32, "Truss", "R", straight, shape="s"), ring) is None
    stretched = as_rows(np.array([[2, 0, 0], [0, 1, 0], [0, 0, 1], [0, 0, 0]], dtype=float))
    assert (
        as_structure(Thing("a" * 32, "Truss", "S", stretched, shape="s"), Shape((-4, -0.2, 0), (4, 0.2, 0.4), "s"))
        is None
    )


def test_heads_beside_their_truss_go_back_on_it_turned_as_they_are(tmp_path):
    hall = Hall(tmp_path)
    spun = "{0,1,0}{-1,0,0}{0,0,1}"
    lamps = [
        fixture(f"F{i}", i + 1, str(1 + 20 * i), matrix(text=f"{spun}{{{i * 1000},3000,{5940}}}")) for i in range(4)
    ]
    yoke = fixture("Side", 9, "201", matrix(text="{1,0,0}{0,0,1}{0,-1,0}{-3000,2740,6200}"))
    away = fixture("Far", 10, "221", matrix(0, -4, 3))
    edit = hall.take(mvr(layer(node("Truss", "LX1", mesh_of("t.glb"), matrix(0, 3, 6)), *lamps, yoke, away),
                         files={"t.glb": box_glb(10, 0.4, 0.4, (0, 0, 0.2))}))  # fmt: skip
    from zarfwright.core.exchange.lamps import beside

    ids = [item.id for item, _ in hall.show.fixtures()]
    found = beside(hall.show, ids)
    assert len(found) == 1
    assert len(found[0].ids) == 5
    assert found[0].furthest_m < 0.35
    before = {key: place_of(hall.show, hall.show.items[key].body) for key in found[0].ids}
    hall.do("put back", ids=list(found[0].ids), structure=found[0].structure)
    for key in found[0].ids:
        body = hall.show.items[key].body
        assert body.hang.structure == found[0].structure
        away_m, angle = apart(rows_of(clamp_placement(hall.show, body)), before[key])
        assert away_m < 0.35
        assert angle < 0.01
    far = hall.show.items[next(i.id for i, f in hall.show.fixtures() if f.number == 10)].body
    assert far.hang is None
    assert edit.select


def test_a_list_of_fixtures_comes_back_as_it_went_out():
    from zarfwright.core.exchange.listing import COLUMNS, listing, read_listing

    bench = Workbench()
    truss = bench.made("add truss", length="8m", start_trim="6m", end_trim="4m")
    ids = bench.do(
        "place along rail", structure=truss, type="heron", mode="Extended", count="3", first_number="1"
    ).select
    bench.do("address", ids=list(ids), start="2.100")
    free = bench.made("place one", type="dunlin", position=[2, -3, 1.5], normal=[0, 0, 1], purpose="Floor, back")
    found = read_listing(bench.show, COLUMNS, listing(bench.show), {})
    assert not found.left_out
    assert [name for name, *_ in found.types] == ["Heron", "Dunlin"]
    rows = [vars(row) for row in found.rows]
    before = dict(bench.show.items)
    edit = bench.do("add fixtures", rows=rows)
    assert edit.sentence == "Add 4 fixtures of a list"
    assert edit.report == ("3 of them have numbers that are given already: renumber them.",)
    for old, new in zip([*ids, free], edit.select, strict=True):
        one, other = before[old].body, bench.body(new)
        assert apart(place_of(bench.show, one), place_of(bench.show, other)) == pytest.approx((0, 0), abs=1e-3)
        assert (one.number, one.mode, one.universe, one.address, one.purpose) == (
            other.number, other.mode, other.universe, other.address, other.purpose,
        )  # fmt: skip


def test_what_a_list_says_oddly_is_left_out_in_words():
    from zarfwright.core.exchange.listing import read_listing

    bench = Workbench()
    head = ["Fixture Type", "Chan", "X (m)", "Height", "DMX address", "Focus"]
    rows = [
        ["Heron", "1", "SR 2", "6", "1.001", "Key"], ["", "2", "", "", "", ""], ["Xyzzy", "3", "", "", "", ""],
        ["heron", "four", "", "", "", ""], ["Heron", "5", "6 cubits", "", "", ""], ["Heron", "6", "", "", "1.999", ""],
        ["Plover", "7", "-1.5", "", "", ""],
    ]  # fmt: skip
    found = read_listing(bench.show, head, rows, shipped())
    assert [(row.number, row.position, row.start, row.purpose) for row in found.rows] == [
        (1, (-2.0, 0.0, 6.0), "1.001", "Key"), (7, (-1.5, 0.0, 0.0), "", ""),
    ]  # fmt: skip
    assert found.rows[1].type.startswith("library:")
    assert [line.split(":")[0] for line in found.left_out] == ["Row 2", "Row 3", "Row 4", "Row 5", "Row 6"]
    with pytest.raises(JobError, match="called “Type”"):
        read_listing(bench.show, ["Number", "Address"], [], {})


def test_zips_that_are_no_scenes_are_told_apart():
    from zarfwright.formats.gdtf import write_gdtf
    from zarfwright.formats.known import what_is

    gdtf, scene = write_gdtf(dunlin()), mvr(layer())
    cases = [
        ("a.gdtf", gdtf, "look at type"), ("a.mvr", scene, "compare scene"), ("a.zip", scene, "compare scene"),
        ("a.mvr", zipped({"x": b""}), None), ("a.glb", box_glb(), "set piece"),
        ("a.dxf", b"0\nSECTION\n2\n", "base drawing"),
        ("a.ies", b"IESNA:LM-63-2002\n", "measured light"), ("a.png", b"\x89PNG\r\n", "gobo"), ("a.exe", b"MZ", None),
        ("a.pcap", b"\xd4\xc3\xb2\xa1", "play recording"), ("a.csv", b"Type,Number,x,y,z\n", "add fixtures"),
        ("a.csv", b"Number,Universe,Address\n", "compare patch"), ("a.zarf", b"SQLite format 3\0", None),
        ("a", b"", None),
    ]  # fmt: skip
    for name, data, use in cases:
        known = what_is(name, data[:65536], data[-65536:])
        assert known.says
        assert (known.uses[0] if known.uses else None) == use, name
