"""GDTF: references, breaks, masters, relations, curves, spectra, by descriptions written by hand."""

import struct
import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pygdtf
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.formats.test_gdtf import gdtf
from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.types.model import ModeMaster, Relation
from zarfwright.formats.archive import open_archive, write_archive
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf import read_gdtf, repack, write_gdtf
from zarfwright.formats.three_ds import read_3ds
from zarfwright.library import heron


def described(geometries, channels, before="", relations="", geometry="Body"):
    return f"""<GDTF DataVersion="1.2"><FixtureType Name="T" Manufacturer="Made up" FixtureTypeID="A">{before}
      <Geometries>{geometries}</Geometries>
      <DMXModes><DMXMode Name="M" Geometry="{geometry}"><DMXChannels>{channels}</DMXChannels>{relations}</DMXMode>
      </DMXModes></FixtureType></GDTF>""".encode()


def channel(geometry, attribute, offset, dmx_break=1, inside="", more=""):
    inside = inside or f'<ChannelFunction Name="F" Attribute="{attribute}" DMXFrom="0/1" Default="0/1" {more}/>'
    return (
        f'<DMXChannel Geometry="{geometry}" Offset="{offset}" DMXBreak="{dmx_break}">'
        f'<LogicalChannel Attribute="{attribute}">{inside}</LogicalChannel></DMXChannel>'
    )


def read(xml, **entries):
    return read_gdtf(gdtf(xml, **entries), "t.gdtf")


def reference(name, target, *breaks, x=0.0):
    inside = "".join(f'<Break DMXBreak="{number}" DMXOffset="{offset}"/>' for number, offset in breaks)
    place = "{1,0,0," + str(x) + "}{0,1,0,0}{0,0,1,0}{0,0,0,1}"
    return f'<GeometryReference Name="{name}" Geometry="{target}" Position="{place}">{inside}</GeometryReference>'


CELL = '<Geometry Name="Cell"><Beam Name="Lens" LuminousFlux="100"/></Geometry>'


def batten(*references):
    return f'<Geometry Name="Body">{"".join(references)}</Geometry>{CELL}'


def test_references_become_cells_with_their_channels_moved_and_placed():
    tree = batten(*(reference(f"Pixel {i}", "Cell", (1, 1 + 2 * i), x=0.1 * i) for i in range(3)))
    made, findings = read(
        described(tree, channel("Cell", "Dimmer", 1) + channel("Lens", "ColorAdd_R", 2) + channel("Body", "Iris", 7))
    )
    assert findings == []
    mode = made.modes[0]
    assert [(c.geometry, c.attribute, c.slots) for c in mode.channels] == [
        ("Pixel 0", "Dimmer", (1,)), ("Pixel 1", "Dimmer", (3,)), ("Pixel 2", "Dimmer", (5,)),
        ("Pixel 0 Lens", "ColorAdd_R", (2,)), ("Pixel 1 Lens", "ColorAdd_R", (4,)),
        ("Pixel 2 Lens", "ColorAdd_R", (6,)), ("Body", "Iris", (7,)),
    ]  # fmt: skip
    assert mode.footprints == {1: 7}
    assert [node.matrix[0][3] for node in made.geometries[0].children] == pytest.approx([0.0, 0.1, 0.2])
    rig = compile_rig([PatchRow("a", made, "M", 1, 1)])
    levels = np.zeros((1, 512), dtype=np.uint8)
    levels[0, 2], levels[0, 5] = 255, 51
    got = Decoder(rig).decode(levels)
    assert got[:, INDEX["dimmer"]].tolist() == [0, 1, 0]
    assert got[:, INDEX["red"]] == pytest.approx([0, 0, 0.2])


def test_a_cell_in_a_cell_adds_its_offsets():
    row = (
        '<Geometry Name="Row">' + reference("Left", "Cell", (1, 1)) + reference("Right", "Cell", (1, 4)) + "</Geometry>"
    )
    tree = f'<Geometry Name="Body">{reference("Low", "Row", (1, 1))}{reference("High", "Row", (1, 11))}</Geometry>'
    made, findings = read(described(tree + row + CELL, channel("Cell", "Dimmer", "1,2")))
    assert findings == []
    assert {c.geometry: c.slots for c in made.modes[0].channels} == {
        "Low Left": (1, 2), "Low Right": (4, 5), "High Left": (11, 12), "High Right": (14, 15),
    }  # fmt: skip


def test_breaks_of_a_reference_and_overwrite_takes_the_last():
    tree = batten(reference("A", "Cell", (1, 5), (2, 1), (3, 9)), reference("B", "Cell", (1, 6), (2, 4), (3, 20)))
    made, findings = read(
        described(
            tree,
            channel("Cell", "Dimmer", 1) + channel("Cell", "Iris", 2, 2) + channel("Cell", "Zoom", 1, "Overwrite"),
        )
    )
    assert findings == []
    assert [(c.attribute, c.dmx_break, c.slots) for c in made.modes[0].channels] == [
        ("Dimmer", 1, (5,)), ("Dimmer", 1, (6,)), ("Iris", 2, (2,)), ("Iris", 2, (5,)),
        ("Zoom", 3, (9,)), ("Zoom", 3, (20,)),
    ]  # fmt: skip
    assert made.modes[0].footprints == {1: 6, 2: 5, 3: 20}


def test_references_that_lead_nowhere_or_in_a_circle_are_findings():
    tree = batten(reference("A", "Nowhere", (1, 1)), reference("B", "Body", (1, 1)), reference("C", "Cell", (2, 1)))
    made, findings = read(described(tree, channel("Cell", "Dimmer", 1)))
    said = " ".join(finding.what for finding in findings)
    assert "“Nowhere”, which is no geometry" in said
    assert "comes round to itself" in said
    assert "has no break 1" in said
    assert [c.slots for c in made.modes[0].channels] == [(1,)]


def test_references_that_come_to_too_many_parts_are_refused_at_once():
    levels = "".join(
        f'<Geometry Name="L{n}">'
        + "".join(reference(f"R{n}{i}", f"L{n + 1}", (1, 1)) for i in range(12))
        + "</Geometry>"
        for n in range(7)
    )
    with pytest.raises(FormatError, match="more than 8192 parts"):
        read(described(levels + '<Geometry Name="L7"/>', channel("L7", "Dimmer", 1), geometry="L0"))


def test_offsets_past_the_universe_are_findings():
    tree = batten(reference("A", "Cell", (1, 1)), reference("B", "Cell", (1, 512)))
    made, findings = read(described(tree, channel("Cell", "Dimmer", "1,2")))
    assert [c.slots for c in made.modes[0].channels] == [(1, 2)]
    assert "slot 513, past 512" in findings[0].what


def test_masters_and_relations_are_of_the_same_copy():
    tree = batten(reference("A", "Cell", (1, 2)), reference("B", "Cell", (1, 4)))
    shutter = (
        '<ChannelFunction Name="Straight" Attribute="Dimmer" ModeMaster="Cell_Gobo1" ModeFrom="0/1" ModeTo="9/1"/>'
        '<ChannelFunction Name="Odd" Attribute="Iris" ModeMaster="Body_Frost1.Frost1.F" ModeFrom="1/1" ModeTo="8/1"/>'
    )
    channels = channel("Body", "Frost1", 1) + channel("Cell", "Gobo1", 1) + channel("Cell", "Dimmer", 2, inside=shutter)
    relations = (
        '<Relations><Relation Name="R" Master="Body_Frost1" Follower="Cell_Dimmer.Dimmer.Straight" Type="Multiply"/>'
        '<Relation Name="S" Master="Cell_Gobo1" Follower="Cell_Dimmer.Dimmer.Odd" Type="Override"/></Relations>'
    )
    made, findings = read(described(tree, channels, relations=relations))
    assert findings == []
    mode = made.modes[0]
    assert [f.master for f in mode.by_name["B_Dimmer"].functions] == [
        ModeMaster("B_Gobo1", None, 0, 9), ModeMaster("Body_Frost1", "F", 1, 8),
    ]  # fmt: skip
    assert mode.relations == (
        Relation("Multiply", "Body_Frost1", "A_Dimmer", "Straight"),
        Relation("Multiply", "Body_Frost1", "B_Dimmer", "Straight"),
        Relation("Override", "A_Gobo1", "A_Dimmer", "Odd"),
        Relation("Override", "B_Gobo1", "B_Dimmer", "Odd"),
    )


def test_several_logical_channels_virtual_channels_and_initial_functions():
    two = (
        '<DMXChannel Geometry="Lens" Offset="1" InitialFunction="Lens_Pan.Pan.Upper"><LogicalChannel Attribute="Pan">'
        '<ChannelFunction Name="Lower" Attribute="Pan" DMXFrom="0/1" Default="3/1"/>'
        '<ChannelFunction Name="Upper" Attribute="Pan" DMXFrom="100/1" Default="128/1"/></LogicalChannel>'
        '<LogicalChannel Attribute="Frost1"><ChannelFunction Attribute="Frost1" PhysicalTo="0.5"/></LogicalChannel>'
        "</DMXChannel>"
    )
    virtual = channel("Body", "Dimmer", "None", more='PhysicalTo="1"')
    relation = '<Relations><Relation Master="Body_Dimmer" Follower="Lens_Pan.Pan.Lower" Type="Multiply"/></Relations>'
    tree = '<Geometry Name="Body"><Beam Name="Lens"/></Geometry>'
    made, findings = read(described(tree, virtual + two, relations=relation))
    assert findings == []
    dimmer, pan = made.modes[0].channels
    assert dimmer.virtual
    assert pan.home == 128
    assert [(f.name, f.logical) for f in pan.functions] == [("Lower", 0), ("Upper", 0), ("Frost1 3", 1)]
    rig = compile_rig([PatchRow("a", made, "M", 1, 1)])
    levels = np.full((1, 512), 255, dtype=np.uint8)
    got = dict(zip(INDEX, Decoder(rig).decode(levels)[0], strict=True))
    assert (got["pan"], got["frost"], got["dimmer"]) == (pytest.approx(np.radians(1.0)), 0.5, 1.0)


BEFORE = """<Wheels><Wheel Name="W"><Slot Name="Open"/><Slot Name="Red" Filter="Deep red"/></Wheel></Wheels>
<PhysicalDescriptions>
 <Emitters><Emitter Name="Measured"><Measurement Physical="100" LuminousIntensity="500">
   <MeasurementPoint WaveLength="620" Energy="0"/><MeasurementPoint WaveLength="630" Energy="1"/>
   <MeasurementPoint WaveLength="640" Energy="0"/></Measurement></Emitter>
   <Emitter Name="Stated" DominantWaveLength="530"/></Emitters>
 <Filters><Filter Name="Deep red"><Measurement Physical="100"><MeasurementPoint WaveLength="580" Energy="0"/>
   <MeasurementPoint WaveLength="600" Energy="90"/></Measurement></Filter></Filters>
 <DMXProfiles><DMXProfile Name="Square"><Point DMXPercentage="0" CFC2="1"/></DMXProfile>
   <DMXProfile Name="Percent"><Point DMXPercentage="0" CFC1="0.5"/>
   <Point DMXPercentage="50" CFC0="25" CFC1="1.5"/></DMXProfile></DMXProfiles></PhysicalDescriptions>"""


def test_spectra_filters_and_curves():
    tree = '<Geometry Name="Body"><Beam Name="Lens" LuminousFlux="100"/></Geometry>'
    made, findings = read(described(tree, channel("Lens", "Dimmer", 1, more='DMXProfile="Square"'), BEFORE))
    assert findings == []
    measured, stated = made.emitters
    # CIE 1931: 630 nm is at (0.708, 0.292), 530 nm at (0.155, 0.806).
    assert (measured.colour.x, measured.colour.y) == (pytest.approx(0.708, abs=0.01), pytest.approx(0.292, abs=0.01))
    assert (stated.colour.x, stated.colour.y) == (pytest.approx(0.155, abs=0.02), pytest.approx(0.806, abs=0.02))
    assert measured.colour.luminance == 500
    assert made.wheels[0].slots[1].filter == "Deep red"
    assert made.filters[0].spectrum[1] == (600, 0.9)
    assert made.profile("Percent").at(0.75) == pytest.approx(0.625)
    assert made.profile("Square").at(0.5) == pytest.approx(0.25)


def test_names_that_lead_nowhere_are_findings():
    tree = '<Geometry Name="Body"><Beam Name="Lens"/></Geometry>'
    more = 'Wheel="Lost" DMXProfile="Gone" ModeMaster="Body_Nothing" ModeFrom="0/1" ModeTo="1/1"'
    made, findings = read(described(tree, channel("Elsewhere", "Gobo1", 1, more=more)))
    said = " ".join(f.what for f in findings)
    for part in ("the wheel “Lost”", "the curve “Gone”", "its master “Body_Nothing”", "geometry “Elsewhere”"):
        assert part in said
    assert made.modes[0].channels[0].geometry == "Body"


def everything():
    """A type with all that a mode can have, written by us."""
    tree = batten(reference("A", "Cell", (1, 3), (2, 1)), reference("B", "Cell", (1, 5), (2, 2)))
    chosen = (
        '<ChannelFunction Name="Straight" Attribute="Dimmer" ModeMaster="Body_Gobo1" ModeFrom="0/1" ModeTo="9/1"/>'
        '<ChannelFunction Name="Bent" Attribute="Dimmer" DMXProfile="Percent" ModeMaster="Body_Gobo1.Gobo1.F"'
        ' ModeFrom="10/1" ModeTo="255/1"/>'
    )
    channels = (
        channel("Body", "Frost1", "None") + channel("Body", "Gobo1", "1,2", more='Wheel="W"')
        + channel("Cell", "Dimmer", "1,2", inside=chosen) + channel("Lens", "Color1", 1, 2)
    )  # fmt: skip
    relation = (
        '<Relations><Relation Master="Body_Gobo1" Follower="Cell_Dimmer.Dimmer.Bent" Type="Override"/></Relations>'
    )
    return described(tree, channels, BEFORE, relation)


def test_what_is_read_is_written_and_read_again_the_same():
    made, findings = read(everything())
    assert findings == []
    again, findings = read_gdtf(write_gdtf(made), "again.gdtf")
    assert findings == []
    assert again == made
    assert len(made.modes[0].relations) == 2


def test_another_reader_sees_the_same_of_masters_curves_and_virtual_channels():
    made, _ = read(everything())
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "type.gdtf"
        path.write_bytes(write_gdtf(made))
        with pygdtf.FixtureType(str(path)) as other:
            mode = other.dmx_modes[0]
            got = [(c.geometry, str(c.logical_channels[0].attribute), c.offset) for c in mode._dmx_channels]
            assert got == [(c.geometry, c.attribute, list(c.slots) or None) for c in made.modes[0].channels]
            functions = [f for c in mode._dmx_channels for f in c.logical_channels[0].channel_functions]
            assert {str(f.mode_master) for f in functions if str(f.mode_master) != "None"} == {
                "Body_Gobo1",
                "Body_Gobo1.Gobo1.F",
            }
            assert [p.name for p in other.dmx_profiles] == ["Square", "Percent"]


def test_an_untouched_file_is_written_back_byte_for_byte_whatever_it_holds():
    strange = b"<Unheard_of a='1'><!-- kept --></Unheard_of><Geometries>"
    entries = {
        "description.xml": everything().replace(b"<Geometries>", strange),
        "thumbnail.png": b"\x89PNG", "models/svg/front.svg": b"<svg/>", "notes/read me.txt": "ä".encode(),
    }  # fmt: skip
    back = open_archive(repack(write_archive(entries), "t.gdtf"), "t.gdtf")
    assert dict(back.entries) == entries
    with pytest.raises(FormatError):
        repack(write_archive({"a": b""}), "t.gdtf")


def test_a_changed_type_keeps_what_we_have_no_view_of():
    xml = everything().replace(
        b"</DMXModes>", b"</DMXModes><Revisions><Revision Text='First'/></Revisions><Protocols><Art-Net/></Protocols>"
    )
    older = gdtf(xml, **{"models/svg/front.svg": b"<svg/>"})
    made, _ = read_gdtf(older, "t.gdtf")
    back = open_archive(write_gdtf(replace(made, name="New"), older), "t.gdtf")
    assert back.find("models/svg/front.svg") == b"<svg/>"
    text = back.find("description.xml")
    assert b"First" in text
    assert b"Art-Net" in text
    assert read_gdtf(write_archive(dict(back.entries)), "t.gdtf")[0].name == "New"


def chunk(kind, inside):
    return struct.pack("<HI", kind, 6 + len(inside)) + inside


def three_ds(faces=((0, 1, 2), (0, 2, 3)), count=4):
    corners = struct.pack("<H", count) + struct.pack("<12f", 0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0)
    sides = struct.pack("<H", len(faces)) + b"".join(struct.pack("<4H", *face, 0) for face in faces)
    return chunk(
        0x4D4D, chunk(0x3D3D, chunk(0x4000, b"Part\0" + chunk(0x4100, chunk(0x4110, corners) + chunk(0x4120, sides))))
    )


def test_a_3ds_mesh_is_read_by_its_shape():
    mesh = read_3ds(three_ds(), "a.3ds")
    assert len(mesh.triangles) == 2
    assert mesh.bounds()[1].tolist() == [1, 1, 0]
    assert mesh.normals[:, 2].tolist() == [1.0] * 6


@pytest.mark.parametrize("data", [b"", b"x" * 50, three_ds(((0, 1, 9),)), three_ds(count=60000), three_ds()[:40]])
def test_3ds_files_that_are_broken_say_so(data):
    with pytest.raises(FormatError, match=r"a\.3ds"):
        read_3ds(data, "a.3ds")


@settings(max_examples=120, deadline=None)
@given(st.data())
def test_no_damage_to_a_description_does_more_than_a_finding_or_a_refusal(data):
    xml = bytearray(data.draw(st.sampled_from([everything(), SMALL])))
    for _ in range(data.draw(st.integers(1, 4))):
        at = data.draw(st.integers(0, len(xml) - 2))
        if data.draw(st.booleans()):
            xml[at] = data.draw(st.sampled_from(list(b'<>"0-9nNae, /')))
        else:
            del xml[at : at + data.draw(st.integers(1, 30))]
    try:
        made, _ = read(bytes(xml))
    except FormatError:
        return
    # What was read can be put on a rig.
    compile_rig([PatchRow("a", made, made.modes[0].name, 1, 1)])


SMALL = open_archive(write_gdtf(replace(heron(), modes=heron().modes[:1])), "a").entries["description.xml"]


def test_a_mode_of_too_many_channels_is_cut_with_a_finding():
    channels = "".join(channel("Body", "Dimmer", i % 512 + 1) for i in range(5000))
    made, findings = read(described('<Geometry Name="Body"/>', channels))
    assert len(made.modes[0].channels) == 4096
    assert any("5000 channels" in found.what for found in findings)
