"""MVR out and in: what goes out comes back the very same, other programs can read it, and theirs goes back whole."""

from __future__ import annotations

import io
import json
import math
import zipfile
from xml.etree import ElementTree

import numpy as np
import pymvr
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.scenes import DUNLIN, HERON, Hall, box_glb, layer, matrix, mesh_of, mvr, node, stripped, tree, zipped
from zarfwright.core.carriers.planned import plan_of
from zarfwright.core.exchange.offered import Wish
from zarfwright.core.exchange.places import place_of
from zarfwright.core.exchange.rows import apart
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.scene import solids_of
from zarfwright.core.show import Change
from zarfwright.core.site.structures import rail_names, truss_rails
from zarfwright.library import dunlin, heron, shipped


def rig(hall: Hall) -> Hall:
    """A small rig of nearly everything that goes out."""
    lamp, wash = hall.with_type(heron()), hall.with_type(dunlin())
    hall.do("add venue", name="Shed", width="20", upstage="10", downstage="30", eave="6", ridge="9")
    stage = hall.do("add layer", name="Stage").changes[0].id
    deck = hall.do("add deck", name="Deck", width="6m", depth="4m", turn="20").select[0]
    hall.do("add piece", piece="screen", name="Screen", y="US 5")
    hall.do("add wall", corners=[[0, 0, 0], [6, 0, 0.3]], name="Wall")
    hall.do("add figures", name="Singer", x="SL 1", height_spread="3cm")
    hall.do("add crowd", name="Stalls", width="3m", depth="2m", y="DS 9")
    hall.do("to layer", ids=[deck], layer=stage)
    truss = hall.do("add truss", name="Bridge", length="9m", start_trim="6m", end_trim="5m").select[0]
    hall.do("set field", ids=[truss], field="hoists", text="2")
    ring = hall.do("add truss", name="Ring", form="arc", diameter="4m", start_trim="5m").select[0]
    spots = hall.do(
        "place along rail", structure=truss, type=lamp, mode="Extended", count="3", first_number="1", purpose="Key"
    ).select
    hall.do(
        "place along rail", structure=ring, rail="lower outer", type=wash, count="4", first_number="11", side="upper"
    )
    free = hall.do("place free", type=wash, position=[2.5, -3, 1.25]).select[0]
    hall.do("number", ids=[free], start="21")
    hall.do("address", ids=list(spots), start="1.001")
    hall.do("address", ids=[free], start="63999.101")
    hall.do("set field", ids=[free], field="gel", text="Quay 0.40 0.41 62")
    hall.do("make carrier", ids=[ring, *[i.id for i, f in hall.show.fixtures() if f.hang and f.hang.structure == ring]],
            name="Lantern", pivot=[0, 0, 6])  # fmt: skip
    point = hall.do("add focus point", name="Lectern", point=[0, 2, 1.6]).select[0]
    hall.do("aim at", ids=[spots[0]], focus=point)
    return hall


def bodies(show, kinds=("truss", "deck", "piece", "wall", "figure", "venue", "carrier", "focus point")):
    return {item.name: item.body for item in show.items.values() if item.kind in kinds}


def test_what_goes_out_comes_into_an_empty_show_as_the_very_same_things(tmp_path):
    ours = rig(Hall(tmp_path))
    theirs = Hall(tmp_path)
    edit = theirs.take(ours.out())
    assert edit.sentence.startswith("Take in scene.mvr: ")
    assert bodies(theirs.show) == bodies(ours.show)
    for (item, one), (_, other) in zip(ours.show.fixtures(), theirs.show.fixtures(), strict=True):
        away, angle = apart(place_of(ours.show, one), place_of(theirs.show, other))
        assert away < 1e-4
        assert angle < 1e-3
        for name in ("number", "unit", "mode", "universe", "address", "breaks", "purpose", "gel", "circuit"):
            assert getattr(one, name) == getattr(other, name), name
        assert (one.hang is None) == (other.hang is None)
        if one.hang is not None:
            assert theirs.show.items[other.hang.structure].name == ours.show.items[one.hang.structure].name
        assert theirs.show.types[other.type].name == ours.show.types[one.type].name
        above = theirs.show.items.get(theirs.show.of_kind("fixture")[0].parent or "")
        assert above is None or above.name == "Lantern"
        assert item.kind == "fixture"
    spot = next(f for _, f in theirs.show.fixtures() if f.number == 1)
    assert theirs.show.items[spot.aim.point].name == "Lectern"
    deck = theirs.named("Deck")
    assert theirs.show.items[deck.layer].name == "Stage"
    # And once more there is nothing new.
    key = ours.look(theirs.out())
    with pytest.raises(Exception, match="Nothing of this file is different"):
        ours.do("take scene", key=key)


def test_a_driver_comes_back_with_what_it_moves(tmp_path):
    ours = rig(Hall(tmp_path))
    lantern = next(item for item in ours.show.of_kind("carrier") if item.name == "Lantern")
    ours.do("add driver", thing=lantern.id, usual="turntable", number="901", start="9.001", turned="30")
    theirs = Hall(tmp_path)
    theirs.take(ours.out())
    driver = next(f for _, f in theirs.show.fixtures() if f.number == 901)
    assert theirs.show.items[driver.drives.thing].name == "Lantern"
    assert driver.drives.turned_deg == 30
    assert [group.id for group in plan_of(theirs.show).groups] == [driver.drives.thing]
    assert (driver.universe, driver.address) == (9, 1)


def test_an_untouched_type_goes_out_byte_for_byte(tmp_path):
    ours = rig(Hall(tmp_path))
    with zipfile.ZipFile(io.BytesIO(ours.out())) as archive:
        names = archive.namelist()
        assert archive.read("Quillback Lamp Co.@Heron.gdtf") == HERON
        assert archive.read("Quillback Lamp Co.@Dunlin.gdtf") == DUNLIN
    assert names[0] == "GeneralSceneDescription.xml"
    assert ours.out() == ours.out()


def test_another_reader_finds_everything_where_it_is(tmp_path):
    ours = rig(Hall(tmp_path))
    path = tmp_path / "ours.mvr"
    path.write_bytes(ours.out())
    with pymvr.GeneralSceneDescription(str(path)) as other:
        lists = [one.child_list for one in other.scene.layers if one.child_list]
        groups = [group for one in lists for group in one.group_objects]
        lamps = [lamp for one in lists for lamp in one.fixtures] + [
            lamp for group in groups for lamp in group.child_list.fixtures
        ]
        trusses = [truss for one in lists for truss in one.trusses]
        assert {one.name for one in other.scene.layers} >= {"Stage"}
        assert [one.name for one in groups] == ["Lantern"]
        assert sorted(one.name for one in trusses) == ["Bridge"]
        assert [one.name for one in groups[0].child_list.trusses] == ["Ring"]
        assert len([one for each in lists for one in each.supports]) == 2
        assert [one.name for each in lists for one in each.video_screens] == ["Screen"]
        assert [one.name for each in lists for one in each.focus_points] == ["Lectern"]
        by_number = {lamp.fixture_id_numeric: lamp for lamp in lamps}
        assert sorted(by_number) == [1, 2, 3, 11, 12, 13, 14, 21]
        for _, fixture_ in ours.show.fixtures():
            lamp = by_number[fixture_.number]
            assert lamp.gdtf_mode == fixture_.mode
            if fixture_.universe is not None:
                first = lamp.addresses.addresses[0]
                assert (first.universe, first.address) == (fixture_.universe, fixture_.address)
        free = by_number[21]
        assert np.allclose(free.matrix.matrix[3][:3], [2500, -3000, 1250])
        assert (free.color.x, free.color.y, free.color.Y) == (0.40, 0.41, 62.0)
        assert by_number[1].focus is not None
        assert by_number[1].function_ == "Key"
        hung = next(f for _, f in ours.show.fixtures() if f.number == 2)
        place = clamp_placement(ours.show, hung)
        assert np.allclose(np.array(by_number[2].matrix.matrix)[3, :3], np.array(place.position) * 1000)
        assert np.allclose(np.array(by_number[2].matrix.matrix)[2, :3], place.apply([[0, 0, 1]])[0] - place.position)


def test_only_what_is_chosen_goes_out_and_people_when_they_are_asked_for(tmp_path):
    ours = rig(Hall(tmp_path))
    stage = ours.named("Stage")
    plain = ours.look(ours.out())
    assert not [t for t in ours.inbox.look(plain).scene.things if t.name == "Stalls"]
    made = ours.look(ours.out(Wish(people=True)))
    assert [t.own.kind for t in ours.inbox.look(made).scene.things if t.name == "Stalls"] == ["crowd"]
    ours.do("set layer", id=stage.id, shown=False)
    shown = ours.inbox.look(ours.look(ours.out(Wish("shown")))).scene
    assert "Deck" not in {thing.name for thing in shown.things}
    lamps = ours.inbox.look(ours.look(ours.out(Wish("fixtures")))).scene
    assert {thing.tag for thing in lamps.things} == {"Fixture", "FocusPoint", "GroupObject"}
    one = next(item.id for item, f in ours.show.fixtures() if f.number == 12)
    few = ours.inbox.look(ours.look(ours.out(Wish(ids={one})))).scene
    assert [thing.called for thing in few.things] == ["group “Lantern”", "fixture 12"]
    # Who is aimed at a focus point brings that along.
    aimed = next(item.id for item, f in ours.show.fixtures() if f.number == 1)
    few = ours.inbox.look(ours.look(ours.out(Wish(ids={aimed})))).scene
    assert [thing.called for thing in few.things] == ["fixture 1", "focus point “Lectern”"]
    assert few.things[0].said.focus == few.things[1].uuid


def test_a_truss_that_another_program_moved_takes_its_heads_along(tmp_path):
    """The other one keeps nothing of ours: things are known by their UUIDs."""
    ours = rig(Hall(tmp_path))
    changed = edited(ours.out(), tmp_path, move_bridge)
    before = ours.show
    edit = ours.take(changed, leave=[])
    bridge = ours.named("Bridge")
    was = before.items[bridge.id].body
    assert np.allclose(np.subtract(bridge.body.position, was.position), [0, 0.5, 0.25], atol=1e-6)
    assert bridge.body.hoists == 2
    hung = [f for _, f in ours.show.fixtures() if f.hang is not None and f.hang.structure == bridge.id]
    assert len(hung) == 3
    assert ours.named("fixture 2").body.mode == "Standard"
    assert edit.sentence == "Take in scene.mvr: 2 changed"
    assert [i.id for i in ours.show.of_kind("deck")] == [i.id for i in before.of_kind("deck")]
    undone = ours.show.after([change.undone() for change in reversed(edit.changes)])
    assert dict(undone.items) == dict(before.items)


def edited(data: bytes, folder, change) -> bytes:
    """A file read, changed and written by another library, which drops what is no part of the standard."""
    path, out = folder / "before.mvr", folder / "after.mvr"
    path.write_bytes(data)
    with zipfile.ZipFile(path) as archive:
        archive.extractall(folder / "parts")
        names = [name for name in archive.namelist() if not name.endswith(".xml")]
    with pymvr.GeneralSceneDescription(str(path)) as other:
        change(other)
        writer = pymvr.GeneralSceneDescriptionWriter()
        writer.serialize_scene(other.scene)
        writer.files_list = [(str(folder / "parts" / name), name) for name in names]
        writer.write_mvr(str(out))
    return out.read_bytes()


def move_bridge(other) -> None:
    for one in other.scene.layers:
        for thing in (*one.child_list.trusses, *one.child_list.fixtures) if one.child_list else ():
            if thing.name == "Bridge" or getattr(thing, "fixture_id_numeric", 0) in (1, 2, 3):
                thing.matrix.matrix[3][1] += 500.0
                thing.matrix.matrix[3][2] += 250.0
            if getattr(thing, "fixture_id_numeric", 0) == 2:
                thing.gdtf_mode = "Standard"


# Random scenes

numbers = st.floats(-20, 20).map(lambda value: round(value, 3))
angles = st.floats(-180, 180).map(lambda value: round(value, 3))


@st.composite
def axes(draw):
    """A turn, and perhaps a stretch, a shear or a mirror image besides."""
    a, b, c = (math.radians(draw(angles)) for _ in range(3))
    x = np.array([[1, 0, 0], [0, math.cos(a), -math.sin(a)], [0, math.sin(a), math.cos(a)]])
    y = np.array([[math.cos(b), 0, math.sin(b)], [0, 1, 0], [-math.sin(b), 0, math.cos(b)]])
    z = np.array([[math.cos(c), -math.sin(c), 0], [math.sin(c), math.cos(c), 0], [0, 0, 1]])
    size = np.diag([draw(st.sampled_from([1.0, 0.5, 3.0, -1.0])) for _ in range(3)])
    return x @ y @ z, size


@st.composite
def scenes(draw):
    """What edits make of random numbers: structures, heads on them and free, decks, carriers."""
    trusses = draw(st.lists(st.tuples(numbers, numbers, st.floats(3, 9), angles, st.sampled_from(
        ["straight", "upright", "arc"]), st.integers(0, 3)), min_size=1, max_size=4))  # fmt: skip
    heads = draw(st.lists(st.tuples(st.integers(0, 3), st.floats(0, 1),
                                    st.sampled_from(["under", "upper", "left"]), st.integers(1, 63999),
                                    st.integers(1, 400), st.booleans()), max_size=6))  # fmt: skip
    decks = draw(st.lists(st.tuples(numbers, numbers, angles), max_size=3))
    return trusses, heads, decks


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(scenes())
def test_random_scenes_come_back(tmp_path, scene):
    trusses, heads, decks = scene
    ours = Hall(tmp_path)
    lamp = ours.with_type(heron())
    made = []
    for i, (x, y, trim, turn, form, hoists) in enumerate(trusses):
        where = {"x": f"SL {x}" if x >= 0 else f"SR {-x}", "y": f"US {y}" if y >= 0 else f"DS {-y}"}
        size = {"length": "6m", "diameter": "5m", "start_trim": f"{trim:.3f}m"}
        key = ours.do("add truss", name=f"T{i}", form=form, **size, **where).select[0]
        ours.do("set field", ids=[key], field="turn", text=f"={turn}")
        ours.do("set field", ids=[key], field="hoists", text=str(hoists))
        made.append(key)
    for n, (on, along, side, universe, slot, gelled) in enumerate(heads):
        key = made[on % len(made)]
        truss = ours.show.items[key].body
        rail = rail_names(truss)[0]
        along_m = along * truss_rails(truss)[rail].length_m
        one = ours.do(
            "place one", type=lamp, mode="Standard", structure=key, rail=rail, along_m=along_m, side=side,
            number=str(n + 1),
        ).select[0]  # fmt: skip
        ours.do("address", ids=[one], start=f"{universe}.{slot}")
        if gelled:
            ours.do("set field", ids=[one], field="gel", text="pale amber")
    for i, (x, y, turn) in enumerate(decks):
        ours.do("add deck", name=f"D{i}", x=f"SL {x}" if x >= 0 else f"SR {-x}", turn=f"{turn}",
                y=f"US {y}" if y >= 0 else f"DS {-y}")  # fmt: skip
    theirs = Hall(tmp_path)
    theirs.take(ours.out())
    assert bodies(theirs.show) == bodies(ours.show)
    pairs = zip(ours.show.fixtures(), theirs.show.fixtures(), strict=True)
    for (_, one), (_, other) in pairs:
        assert apart(place_of(ours.show, one), place_of(theirs.show, other)) == pytest.approx((0, 0), abs=1e-4)
        assert (one.number, one.mode, one.universe, one.address, one.gel, one.unit) == (
            other.number, other.mode, other.universe, other.address, other.gel, other.unit,
        )  # fmt: skip
    # Without what this program wrote for itself the places are the same as well.
    bare = Hall(tmp_path)
    bare.take(stripped(ours.out()))
    for (_, one), (_, other) in zip(ours.show.fixtures(), bare.show.fixtures(), strict=True):
        away, angle = apart(place_of(ours.show, one), place_of(bare.show, other))
        assert away < 1e-4
        assert angle < 1e-3


@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(axes(), numbers, numbers, numbers)
def test_meshes_lie_as_they_did_however_they_are_turned_and_stretched(tmp_path, turned, x, y, z):
    turn, size = turned
    rows = (size @ turn.T).tolist()
    text = "".join("{" + ",".join(f"{value:.9f}" for value in row) + "}" for row in rows)
    text += f"{{{x * 1000:f},{y * 1000:f},{z * 1000:f}}}"
    hall = Hall(tmp_path)
    hall.take(
        mvr(layer(node("SceneObject", "Thing", mesh_of("b.glb"), matrix(text=text))), files={"b.glb": box_glb(1, 2, 3)})
    )
    thing = hall.named("Thing")
    wanted = np.array([[0.5, 1.0, 1.5]]) @ np.array(rows) + [x, y, z]
    solid = solids_of(hall.show, thing)[0]
    corners = solid.placement.apply(solid.mesh.vertices.astype(float) * solid.scale)
    assert np.linalg.norm(corners - wanted, axis=1).min() < 1e-4
    back = Hall(tmp_path)
    found = back.inbox.look(back.look(hall.out())).scene.things[0]
    assert apart(found.place, place_of(hall.show, thing.body)) == pytest.approx((0, 0), abs=1e-5)
    assert np.allclose(np.array(found.place)[:3], rows, atol=1e-7)


def test_what_this_program_wrote_is_read_only_where_it_is_whole(tmp_path):
    ours = rig(Hall(tmp_path))
    _, root, files = tree(ours.out())
    for own in root.iter("Own"):
        if own.get("kind") == "deck":
            own.text = json.dumps({"width_m": "wide"})
    files["GeneralSceneDescription.xml"] = ElementTree.tostring(root)
    theirs = Hall(tmp_path)
    theirs.take(zipped(files))
    deck = theirs.named("Deck")
    assert deck.kind == "mesh"
    assert Change(None, deck).id in theirs.show.items


def test_a_crowd_comes_back_as_one_and_others_get_its_figures(tmp_path):
    ours = rig(Hall(tmp_path))
    data = ours.out(Wish(people=True))
    theirs = Hall(tmp_path)
    theirs.take(data)
    assert theirs.named("Stalls").body == ours.named("Stalls").body
    bare = Hall(tmp_path)
    bare.take(stripped(data))
    figures = bare.named("Stalls")
    assert figures.kind == "mesh"
    assert len(bare.show.meshes[figures.body.asset].whole.triangles) > 100


def test_every_break_of_a_fixture_has_its_address(tmp_path):
    ours = Hall(tmp_path)
    two = next(one for one in shipped().values() if any(len(mode.footprints) > 1 for mode in one.modes))
    mode = next(mode for mode in two.modes if len(mode.footprints) > 1)
    lamp = ours.with_type(two)
    key = ours.do("place free", type=lamp, mode=mode.name, position=[0, 0, 3]).select[0]
    ours.do("address", ids=[key], start="3.101")
    number = list(mode.footprints)[1]
    ours.do("place break", ids=[key], number=number, start="5.201")
    assert ours.show.items[key].body.breaks == ((number, 5, 201),)
    node_ = tree(ours.out())[0]
    found = next(n for n in node_.values() if n.tag == "Fixture")
    assert [(n.get("break"), n.text) for n in found.iterfind("Addresses/Address")] == [
        ("0", str(2 * 512 + 101)), (str(number - 1), str(4 * 512 + 201)),
    ]  # fmt: skip
    for data in (ours.out(), stripped(ours.out())):
        theirs = Hall(tmp_path)
        theirs.take(data)
        body = next(f for _, f in theirs.show.fixtures())
        assert (body.universe, body.address, body.breaks) == (3, 101, ((number, 5, 201),))
