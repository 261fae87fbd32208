"""Files of other programs come in, and go out again with all that they had."""

from __future__ import annotations

from xml.etree import ElementTree

import pytest

from tests.scenes import (
    HERON,
    Hall,
    box_glb,
    description,
    fixture,
    layer,
    matrix,
    mesh_of,
    mvr,
    node,
    tree,
    uid,
    zipped,
)
from zarfwright.core.exchange.places import place_of
from zarfwright.core.exchange.rows import apart
from zarfwright.core.rig.gels import Gel
from zarfwright.formats.mesh import read_mesh
from zarfwright.library import heron

FOREIGN_TRUSS = node("Truss", "T1", mesh_of("t.glb") + "<Position>POS</Position>", matrix(0, 3, 6))


def foreign() -> bytes:
    """A file of another program with much that nobody here has a view of."""
    rack = "<Rack name='Dimmers' uuid='AAAA'><Slots>12</Slots></Rack>"
    lamp = fixture(
        "Spot 1", 7, "2.17", matrix(1, 3, 5.96),
        "<Color>0.3000,0.3500,40</Color><CastShadow>true</CastShadow><DMXInvertPan>true</DMXInvertPan>"
        "<Gobo rotation='12'>leaf.png</Gobo>"
        "<Protocols><Protocol name='x' geometry='NetworkInOut_1' type='DMX'/></Protocols>"
        f"<Classing>{uid('Class')}</Classing><Odd a='1'>kept</Odd>"
        f"<Mappings><Mapping linkedDef='{uid('M')}'/></Mappings>",
        multipatch="", extra="yes",
    )  # fmt: skip
    lamp = lamp.replace(' multipatch=""', "").replace(
        "</Addresses>", '<Network geometry="e" ipv4="10.0.0.7"/></Addresses>'
    )
    symbol = node("SceneObject", "Chair", f'<Geometries><Symbol uuid="{uid("s1")}" symdef="{uid("Sym")}">'
                  f'{matrix(0.5)}</Symbol><Geometry3D fileName="b.glb">{matrix(0, 1)}</Geometry3D></Geometries>',
                  matrix(4, 4))  # fmt: skip
    screen = node(
        "VideoScreen", "Wall", mesh_of("b.glb") + '<Sources><Source linkedGeometry="m" type="NDI">a</Source></Sources>'
    )
    projector = node("Projector", "P", mesh_of("b.glb") + "<Projections><Projection/></Projections>", matrix(0, 9, 2))
    group = node("GroupObject", "Block", f"<ChildList>{symbol}{rack}</ChildList>", matrix(0, 0, 1))
    aux = (
        f'<Class name="Class" uuid="{uid("Class")}"/><Position name="LX1" uuid="{uid("LX1")}"/>'
        f'<Symdef name="Sym" uuid="{uid("Sym")}"><ChildList><Geometry3D fileName="b.glb"/></ChildList></Symdef>'
        f'<MappingDefinition name="M" uuid="{uid("M")}"><SizeX>1920</SizeX></MappingDefinition>'
    )
    user = '<UserData><Data provider="Other" ver="3"><Thing a="b">text</Thing></Data></UserData>'
    files = {"t.glb": box_glb(8, 0.4, 0.4), "b.glb": box_glb(), "leaf.png": b"\x89PNG", "notes.txt": b"hello"}
    inner = fixture("Inner", 8, "2.101", matrix(1, 0, -0.1))
    truss = FOREIGN_TRUSS.replace("</Truss>", f"<ChildList>{inner}</ChildList></Truss>")
    body = layer(truss.replace("POS", uid("LX1")), lamp, group, screen, projector, place=matrix(0, 0, 0.5))
    whole = description(body, aux=aux, user=user, root='odd="1"')
    whole = whole.replace("<Layers>", '<Weather uuid="W"/><Layers>').replace("</Layers>", "<Note>n</Note></Layers>")
    return zipped({"GeneralSceneDescription.xml": whole, "Heron.gdtf": HERON, **files})


def leaves(element: ElementTree.Element) -> set[str]:
    """What an element says, without its children and place."""
    return {
        ElementTree.canonicalize(ElementTree.tostring(child), strip_text=True)
        for child in element
        if child.tag not in ("Matrix", "ChildList")
    }


def test_a_foreign_file_comes_in_and_goes_out_with_all_that_it_had(tmp_path):
    hall = Hall(tmp_path)
    data = foreign()
    hall.take(data)
    truss = hall.named("T1").body
    assert (truss.lattice, truss.length_m) == ("box", 8.0)
    assert truss.section_m == pytest.approx(0.35)
    # The lower rails are a chord's half above the mesh's lowest edge.
    assert truss.position == pytest.approx((0, 3, 6.5 - 0.175))
    lamp = hall.named("fixture 7").body
    assert (lamp.universe, lamp.address) == (2, 17)
    assert lamp.gel == Gel("Own", 0.3, 0.35, 40.0, own=True)
    chair = hall.named("Chair")
    assert hall.show.items[chair.parent].name == "Block"
    assert len(hall.show.meshes[chair.body.asset].whole.triangles) == 24
    before, _root, files = tree(data)
    after, root2, files2 = tree(hall.out())
    assert set(before) <= set(after)
    for key in ("Spot 1", "Chair", "Wall", "P"):
        one, other = before[uid(key)], after[uid(key)]
        assert one.tag == other.tag
        missing = {text for text in leaves(one) - leaves(other) if not text.startswith(("<Addresses", "<Color"))}
        assert not missing
        assert other.attrib.items() >= {k: v for k, v in one.attrib.items() if k != "uuid"}.items()
    assert after[uid("Spot 1")].find("Addresses/Network").get("ipv4") == "10.0.0.7"
    assert after[uid("Spot 1")].find("Addresses/Address").text == str(512 + 17)
    assert [n.tag for n in root2.iter("Rack")] == ["Rack"]
    assert root2.get("odd") == "1"
    assert root2.find("Scene/Weather").get("uuid") == "W"
    assert root2.findtext("Scene/Layers/Note") == "n"
    # What lay in the truss lies in it again.
    assert [n.get("name") for n in after[uid("T1")].iterfind("ChildList/Fixture")] == ["Inner"]
    assert root2.find("UserData/Data[@provider='Other']/Thing").text == "text"
    assert {n.tag for n in root2.find("Scene/AUXData")} == {"Class", "Position", "Symdef", "MappingDefinition"}
    assert {name: files2[name] for name in ("t.glb", "b.glb", "leaf.png", "notes.txt", "Heron.gdtf")} == {
        name: files[name] for name in ("t.glb", "b.glb", "leaf.png", "notes.txt", "Heron.gdtf")
    }
    # Places in the show's frame are the same, whatever lies in what.
    one, other = (Hall(tmp_path) for _ in range(2))
    a = {t.uuid: t for t in one.inbox.look(one.look(data)).scene.things}
    b = {t.uuid: t for t in other.inbox.look(other.look(hall.out())).scene.things}
    for key, thing in a.items():
        assert apart(thing.place, b[key].place) == pytest.approx((0, 0), abs=1e-6), thing.name
        assert thing.said == b[key].said


def test_what_a_fixture_is_called_besides_its_number_is_kept_as_long_as_it_has_that(tmp_path):
    hall = Hall(tmp_path)
    hall.take(mvr(layer(fixture("A", 7).replace("<FixtureID>7<", "<FixtureID>LX1-A12<"))))
    assert tree(hall.out())[0][uid("A")].findtext("FixtureID") == "LX1-A12"
    hall.do("number", ids=[hall.named("fixture 7").id], start="8")
    assert tree(hall.out())[0][uid("A")].findtext("FixtureID") == "8"


def test_a_foreign_truss_that_was_changed_here_goes_out_as_it_is_now(tmp_path):
    hall = Hall(tmp_path)
    hall.take(foreign())
    truss = hall.named("T1")
    hall.do("set field", ids=[truss.id], field="y", text="US 4")
    moved, _, _ = tree(hall.out())
    node_ = moved[uid("T1")]
    assert node_.find("Geometries/Geometry3D").get("fileName") == "t.glb"
    assert node_.find("Matrix").text.split("{")[-1] == "0,4000,6500}"
    hall.do("set field", ids=[truss.id], field="length", text="10m")
    longer, _, files = tree(hall.out())
    name = longer[uid("T1")].find("Geometries/Geometry3D").get("fileName")
    assert name != "t.glb"
    assert name in files


def test_what_was_removed_here_does_not_come_back(tmp_path):
    hall = Hall(tmp_path)
    hall.take(foreign())
    hall.do("remove", ids=[hall.named("Chair").id, hall.named("fixture 7").id])
    after, root, _ = tree(hall.out())
    assert uid("Chair") not in after
    assert uid("Spot 1") not in after
    # What nobody here could remove is still there.
    assert list(root.iter("Rack"))


def test_a_thing_that_is_known_by_its_number_goes_out_under_the_files_uuid(tmp_path):
    hall = Hall(tmp_path)
    lamp = hall.with_type(heron())
    mine = hall.do("place free", type=lamp, mode="Standard", position=[0, 0, 3]).select[0]
    hall.do("number", ids=[mine], start="7")
    hall.take(mvr(layer(fixture("Any", 7, "1.33", matrix(0, 0.2, 3)))))
    assert [item.id for item, _ in hall.show.fixtures()] == [mine]
    assert hall.show.items[mine].body.address == 33
    assert uid("Any") in tree(hall.out())[0]


def test_a_second_file_of_the_same_things_takes_the_place_of_the_first(tmp_path):
    hall = Hall(tmp_path)
    hall.take(foreign())
    hall.take(foreign().replace(b"hello", b"hello"), shift=[0, 0, 1])
    assert len(hall.show.of_kind("received")) == 1


def test_a_mesh_that_another_program_changed_is_the_new_one(tmp_path):
    hall = Hall(tmp_path)

    def office(data: bytes) -> bytes:
        return mvr(layer(node("SceneObject", "Crate", mesh_of("c.glb"), matrix(1, 2, 0))), files={"c.glb": data})

    hall.take(office(box_glb(1, 1, 1)))
    before = hall.named("Crate")
    edit = hall.take(office(box_glb(2, 1, 1)))
    after = hall.named("Crate")
    assert after.id == before.id
    assert after.body.asset != before.body.asset
    low, high = hall.show.meshes[after.body.asset].whole.bounds()
    assert high - low == pytest.approx([2, 1, 1])
    assert edit.sentence == "Take in scene.mvr: 1 changed"
    # A shape that is shown here in another reflectance goes out made anew, and does not come back as another.
    material = hall.show.meshes[after.body.asset].parts[0].material
    hall.do("set reflectance", id=after.id, material=material, reflectance="0.1")
    with pytest.raises(Exception, match="Nothing of this file is different"):
        hall.do("take scene", key=hall.look(hall.out()))
    other = Hall(tmp_path)
    other.take(hall.out())
    piece = other.named("Crate").body
    assert other.show.meshes[piece.asset].parts[0].colour == pytest.approx((0.1, 0.1, 0.1), abs=0.01)


def test_a_foreign_truss_taken_in_shifted_goes_out_with_its_mesh_where_it_now_is(tmp_path):
    hall = Hall(tmp_path)
    far = layer(node("Truss", "T", mesh_of("t.glb"), matrix(100, 3, 6)))
    hall.take(mvr(far, files={"t.glb": box_glb(8, 0.4, 0.4)}), shift=[-100, 0, 0])
    assert hall.named("T").body.position[:2] == pytest.approx((0, 3))
    out = tree(hall.out())[0][uid("T")]
    assert out.find("Geometries/Geometry3D").get("fileName") == "t.glb"
    assert out.findtext("Matrix").split("{")[-1] == "0,3000,6000}"


def test_a_file_without_addresses_and_numbers_says_nothing_of_those(tmp_path):
    hall = Hall(tmp_path)
    hall.take(mvr(layer(fixture("A", 7, "101"), fixture("B", 8, "201", matrix(2, 0, 0)))))
    bare = [fixture(name, 0, "0", matrix(x, 0, 1)) for name, x in (("A", 0), ("B", 2))]
    hall.take(mvr(layer(*bare)))
    lamps = [f for _, f in hall.show.fixtures()]
    assert [(f.number, f.address) for f in lamps] == [(7, 101), (8, 201)]
    assert [f.placement.position[2] for f in lamps] == [1, 1]
    # Where others have one, none is none.
    hall.take(mvr(layer(fixture("A", 7, "101", matrix(0, 0, 1)), fixture("B", 0, "0", matrix(2, 0, 1)))))
    assert [(f.number, f.address) for _, f in hall.show.fixtures()] == [(7, 101), (None, None)]


def test_what_hangs_on_a_structure_that_goes_stays_where_it_is(tmp_path):
    hall = Hall(tmp_path)
    lamp = hall.with_type(heron())
    truss = hall.do("add truss", name="LX9", length="6m", start_trim="5m").select[0]
    carrier = hall.do("make carrier", ids=[truss], name="Lift").changes[0].id
    hung = hall.do("place along rail", structure=truss, type=lamp, count="1", first_number="1").select[0]
    before = place_of(hall.show, hall.show.items[hung].body)
    edit = hall.take(mvr(layer(fixture("N", 40, "1"))), remove=["structures", "carriers"])
    assert not {truss, carrier} & hall.show.items.keys()
    after = hall.show.items[hung].body
    assert after.hang is None
    assert apart(place_of(hall.show, after), before) == pytest.approx((0, 0), abs=1e-6)
    undone = hall.show.after([change.undone() for change in reversed(edit.changes)])
    assert undone.items[hung].body.hang.structure == truss


def test_two_files_that_have_something_else_under_one_name_both_keep_theirs(tmp_path):
    hall = Hall(tmp_path)
    spot = fixture("S", 5, "1", spec="lamp", more="<Gobo rotation='1'>art.png</Gobo>")
    for name, size, more in (("One", 1, ""), ("Two", 3, spot)):
        files = {"Thing.glb": box_glb(size, 1, 1), "art.png": name.encode(), "extra.xml": b"<x/>", "lamp.gdtf": HERON}
        hall.take(mvr(layer(node("SceneObject", name, mesh_of("thing")), more, name=name), files=files))
    nodes, _, files = tree(hall.out())
    widths = {}
    for name in ("One", "Two"):
        entry = nodes[uid(name)].find("Geometries/Geometry3D").get("fileName")
        found = next(
            files[one] for one in files if one.casefold().removesuffix(".glb") == entry.casefold().removesuffix(".glb")
        )
        low, high = read_mesh(found, "x.glb")[0].whole.bounds()
        widths[name] = float((high - low)[0])
    assert widths == {"One": pytest.approx(1), "Two": pytest.approx(3)}
    assert files[nodes[uid("S")].findtext("Gobo")] == b"Two"
    assert files["extra.xml"] == b"<x/>"
    again = Hall(tmp_path)
    again.take(hall.out())
    assert not again.arrived.findings
    assert len(again.show.of_kind("mesh")) == 2
