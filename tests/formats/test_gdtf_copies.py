"""What a copy of a foreign file keeps: all that nobody has changed, and what is not kept is said."""

from __future__ import annotations

import json
import zipfile
from dataclasses import replace
from xml.etree.ElementTree import Element

import pytest
from defusedxml.ElementTree import fromstring

from zarfwright.cli import main
from zarfwright.core.types.shop.build import build, draft_of
from zarfwright.core.types.shop.draft import Draft
from zarfwright.formats.archive import write_archive
from zarfwright.formats.gdtf import read_gdtf, written
from zarfwright.formats.gdtf.names import legal

RICH = """<?xml version="1.0"?>
<GDTF DataVersion="1.2"><FixtureType Name="Dipper" ShortName="Dip" LongName="Dipper" Manufacturer="Made up"
 Description="" FixtureTypeID="11111111-2222-4333-8444-555555555555" RefFT="" Thumbnail="thumb" ThumbnailOffsetX="3">
 <AttributeDefinitions>
  <ActivationGroups><ActivationGroup Name="ColorRGB"/></ActivationGroups>
  <FeatureGroups><FeatureGroup Name="Dimmer" Pretty="Dim"><Feature Name="Dimmer"/></FeatureGroup></FeatureGroups>
  <Attributes><Attribute Name="Dimmer" Pretty="Dim" Feature="Dimmer.Dimmer" 
    PhysicalUnit="LuminousIntensity" Color="0.3,0.3,50">
    <SubPhysicalUnit Type="PlacementOffset" PhysicalUnit="Angle" PhysicalFrom="0" PhysicalTo="9"/>
   </Attribute><Attribute Name="Shutter1" Pretty="Sh" Feature="Dimmer.Dimmer"/>
   <Attribute Name="Shutter1Strobe" Pretty="Str" Feature="Dimmer.Dimmer"/>
   <Attribute Name="StrobeRate" Pretty="Rate" Feature="Dimmer.Dimmer"/></Attributes></AttributeDefinitions>
 <Wheels><Wheel Name="Anim"><Slot Name="Open" Color="0.31,0.33,100"/><Slot Name="Waves" MediaFileName="waves">
   <AnimationSystem P1="0,0" P2="1,0" P3="1,1" Radius="0.4"/></Slot></Wheel></Wheels>
 <PhysicalDescriptions>
  <ColorSpace Mode="sRGB"/><AdditionalColorSpaces><ColorSpace Name="Wide" Mode="Custom"/></AdditionalColorSpaces>
  <Gamuts><Gamut Name="G" Points="0.6,0.3,1;0.2,0.6,1;0.1,0.1,1"/></Gamuts>
  <Emitters><Emitter Name="Red" Color="0.69,0.30,20" DiodePart="D-1"><Measurement Physical="50" Transmission="0.4"
   InterpolationTo="Step"><MeasurementPoint WaveLength="620" Energy="1"/></Measurement></Emitter></Emitters>
  <Connectors><Connector Name="In" Type="XLR5" DMXBreak="1" Gender="1" Length="0.3"/></Connectors>
  <CRIs><CRIGroup ColorTemperature="5600"><CRI CES="CES01" ColorRenderingIndex="90"/></CRIGroup></CRIs>
  <Properties><OperatingTemperature Low="0" High="40"/><Weight Value="12"/><PowerConsumption Value="300"/>
   <LegHeight Value="0.1"/></Properties></PhysicalDescriptions>
 <Models><Model Name="Body" Length="0.3" Width="0.3" Height="0.3" PrimitiveType="Cube" SVGOffsetX="4"/></Models>
 <Geometries>
  <Geometry Name="Body" Model="Body" Position="{1,0,0,0}{0,1,0,0}{0,0,1,0}{0,0,0,1}">
   <WiringObject Name="Mains" ConnectorType="CEE" PinCount="5" ElectricalPayLoad="300" VoltageRangeMin="90">
    <PinPatch ToWiringObject="Through" FromPin="1" ToPin="1"/></WiringObject>
   <Structure Name="Pipe" LinkedGeometry="Body" StructureType="CenterLineBased" CrossSectionType="TrussFramework"/>
   <Support Name="Clamp" SupportType="GroundSupport" RopeOffset="0,0,0" CapacityX="10"/>
   <Laser Name="Ray" ColorType="RGB" Color="640" OutputStrength="2" BeamDiameter="0.005" BeamDivergenceMin="0.5"
    BeamDivergenceMax="1" ScanAnglePan="60" ScanAngleTilt="50" ScanSpeed="30"><Protocol Name="Show net"/></Laser>
   <Beam Name="Lens" BeamType="Wash" BeamAngle="20" FieldAngle="25" BeamRadius="0.05" ThrowRatio="1.1"
    RectangleRatio="1.7777"/>
   <GeometryReference Name="Pixel 1" Geometry="Cell"><Break DMXOffset="4" DMXBreak="1"/></GeometryReference>
   <GeometryReference Name="Pixel 2" Geometry="Cell"><Break DMXOffset="5" DMXBreak="1"/></GeometryReference>
  </Geometry><Beam Name="Cell" BeamType="Wash" BeamAngle="20" FieldAngle="25" BeamRadius="0.02"/></Geometries>
 <DMXModes><DMXMode Name="Basic" Geometry="Body" Description="The only one"><DMXChannels>
   <DMXChannel DMXBreak="1" Offset="1" Highlight="255/1" Geometry="Lens" InitialFunction="Lens_Dimmer.Dimmer.Dim">
    <LogicalChannel Attribute="Dimmer" Snap="On" Master="Grand" MibFade="2.5" DMXChangeTimeLimit="3">
     <ChannelFunction Name="Dim" Attribute="Dimmer" OriginalAttribute="Dim 1" DMXFrom="0/1" Default="0/1"
      PhysicalFrom="0" PhysicalTo="1" Min="0.1" Max="0.9" CustomName="Fader">
      <ChannelSet Name="Dark" DMXFrom="0/1"/><ChannelSet Name="Light" DMXFrom="1/1"/>
      <SubChannelSet Name="Sub" PhysicalFrom="0" PhysicalTo="1" SubPhysicalUnit="PlacementOffset" DMXProfile=""/>
     </ChannelFunction></LogicalChannel></DMXChannel>
   <DMXChannel DMXBreak="1" Offset="2" Geometry="Lens" Highlight="None" InitialFunction="Lens_Shutter1.Shutter1.Open">
    <LogicalChannel Attribute="Shutter1" Snap="No" Master="None">
     <ChannelFunction Name="Open" Attribute="Shutter1" DMXFrom="0/1" PhysicalFrom="1" PhysicalTo="1"/>
     <ChannelFunction Name="Strobe 0.5-12 Hz" Attribute="Shutter1Strobe" DMXFrom="32/1" PhysicalFrom="0.5"
      PhysicalTo="12"/></LogicalChannel></DMXChannel>
   <DMXChannel DMXBreak="1" Offset="3" Geometry="Lens" Highlight="None"
    InitialFunction="Lens_StrobeRate.StrobeRate.Rate"><LogicalChannel Attribute="StrobeRate" Snap="No" Master="None">
     <ChannelFunction Name="Rate" Attribute="StrobeRate" DMXFrom="0/1" PhysicalFrom="0" PhysicalTo="1"
      ModeMaster="Lens_Shutter1.Shutter1.Strobe 0.5-12 Hz" ModeFrom="32/1" ModeTo="255/1"/>
    </LogicalChannel></DMXChannel>
   <DMXChannel DMXBreak="1" Offset="1" Geometry="Cell" Highlight="None" InitialFunction="Cell_Dimmer.Dimmer.Cell dim">
    <LogicalChannel Attribute="Dimmer" Snap="No" Master="None"><ChannelFunction Name="Cell dim" Attribute="Dimmer"
     DMXFrom="0/1" PhysicalFrom="0" PhysicalTo="1"/></LogicalChannel></DMXChannel>
  </DMXChannels><Relations/><FTMacros><FTMacro Name="Lamp on" ChannelFunction="Lens_Dimmer.Dimmer.Dim"><MacroDMX>
   <MacroDMXStep Duration="1"><MacroDMXValue Value="255/1" DMXChannel="Lens_Dimmer"/></MacroDMXStep></MacroDMX>
   </FTMacro>
  </FTMacros></DMXMode></DMXModes>
 <Revisions><Revision Text="First" Date="2026-01-01T00:00:00" UserID="3"/></Revisions>
 <FTPresets><FTPreset Name="A"/></FTPresets><Protocols><FTRDM ManufacturerID="0x1"/></Protocols>
</FixtureType></GDTF>"""
FILE = write_archive({"description.xml": RICH.encode(), "thumb.png": b"picture", "wheels/waves.png": b"no picture"})
IDENTITY = {("FixtureType", key) for key in ("Name", "LongName", "FixtureTypeID")}


def description(data: bytes, tmp_path) -> Element:
    path = tmp_path / "copy.gdtf"
    path.write_bytes(data)
    with zipfile.ZipFile(path) as archive:
        root: Element = fromstring(archive.read("description.xml"))
    return root


def told(node: Element) -> tuple:
    attributes = {key: value for key, value in node.attrib.items() if (node.tag, key) not in IDENTITY}
    return node.tag, attributes, [told(child) for child in node]


def changed(change) -> tuple:
    """The file as it is written when a copy of it has been changed."""
    was, _ = read_gdtf(FILE, "dipper.gdtf")
    draft = change(draft_of(was, {}, {}))
    return written(build(draft, copied=was), FILE)


def with_channel(draft: Draft, c: int, **values) -> Draft:
    mode = draft.modes[0]
    channels = list(mode.channels)
    channels[c] = replace(channels[c], **values)
    return replace(draft, modes=(replace(mode, channels=tuple(channels)),))


def test_an_untouched_copy_has_every_node_and_attribute_of_its_file(tmp_path):
    made = changed(lambda draft: draft)
    new, old = description(made.data, tmp_path), fromstring(RICH)
    # Only the dot in a name is put right, and said.
    text = json.dumps(told(new)).replace("Strobe 0_5-12 Hz", "Strobe 0.5-12 Hz")
    assert json.loads(text) == json.loads(json.dumps(told(old)))
    assert [one.where for one in made.lost] == ["ChannelFunction Strobe 0.5-12 Hz"]
    with zipfile.ZipFile(tmp_path / "copy.gdtf") as archive:
        assert archive.read("thumb.png") == b"picture"
        assert archive.read("wheels/waves.png") == b"no picture"


def test_paths_lead_where_they_led_when_a_dot_is_taken_out_of_a_name(tmp_path):
    made = changed(lambda draft: draft)
    new = description(made.data, tmp_path)
    (rate,) = [node for node in new.iter("ChannelFunction") if node.get("Name") == "Rate"]
    assert rate.get("ModeMaster") == "Lens_Shutter1.Shutter1.Strobe 0_5-12 Hz"
    mode = read_gdtf(made.data, "copy.gdtf")[0].modes[0]
    master = mode.channels[2].functions[0].master
    assert (master.function, master.low, master.high) == ("Strobe 0_5-12 Hz", 32, 255)
    # And as it came, the dot notwithstanding.
    master = read_gdtf(FILE, "dipper.gdtf")[0].modes[0].channels[2].functions[0].master
    assert master.function == "Strobe 0.5-12 Hz"


def test_a_channel_that_is_changed_keeps_what_we_have_no_view_of(tmp_path):
    def other_home(draft):
        channel = draft.modes[0].channels[0]
        ranges = tuple(replace(one, high=0.8) if i == len(channel.ranges) - 1 else one
                       for i, one in enumerate(channel.ranges))  # fmt: skip
        return with_channel(draft, 0, home=20, ranges=ranges)

    made = changed(other_home)
    new = description(made.data, tmp_path)
    channel = new.find("FixtureType/DMXModes/DMXMode/DMXChannels/DMXChannel")
    logical, function = channel.find("LogicalChannel"), channel.find("LogicalChannel/ChannelFunction")
    assert (function.get("PhysicalTo"), function.get("Default")) == ("0.800000", "20/1")
    assert (function.get("Min"), function.get("Max"), function.get("CustomName")) == ("0.1", "0.9", "Fader")
    assert function.find("SubChannelSet").get("Name") == "Sub"
    assert (logical.get("MibFade"), logical.get("Snap")) == ("2.5", "On")
    assert new.find("FixtureType/DMXModes/DMXMode/FTMacros/FTMacro") is not None
    # The references of the other channels stay closed.
    assert len(list(new.iter("GeometryReference"))) == 2
    assert len(list(new.iter("DMXChannel"))) == 4
    assert [one.where for one in made.lost] == ["ChannelFunction Strobe 0.5-12 Hz"]


def test_a_channel_put_in_front_moves_the_others_and_their_references(tmp_path):
    def longer(draft):
        mode = draft.modes[0]
        moved = [replace(c, slots=tuple(s + 1 for s in c.slots)) for c in mode.channels]
        wide = tuple(replace(r, start=r.start * 256, end=r.end * 256 + 255) for r in moved[0].ranges)
        first = replace(moved[0], slots=(1, 2), ranges=wide, home=0, key="Lens_Dimmer")
        return replace(draft, modes=(replace(mode, channels=(first, *moved[1:])),))

    made = changed(longer)
    new = description(made.data, tmp_path)
    assert [node.get("Offset") for node in new.iter("DMXChannel")] == ["1,2", "3", "4", "2"]
    mode = read_gdtf(made.data, "copy.gdtf")[0].modes[0]
    assert [c.slots for c in mode.channels] == [(1, 2), (3,), (4,), (5,), (6,)]
    assert len(list(new.iter("GeometryReference"))) == 2


def test_copies_of_a_cell_that_differ_are_opened_in_a_tree_of_their_own_and_that_is_said(tmp_path):
    made = changed(lambda draft: with_channel(draft, 4, home=77))
    new = description(made.data, tmp_path)
    assert [one.what for one in made.lost if one.where == "DMXMode Basic"] == [
        "its references are opened, for its channels were changed"
    ]
    mode = read_gdtf(made.data, "copy.gdtf")[0].modes[0]
    assert [c.home for c in mode.channels if c.attribute == "Dimmer"][1:] == [0, 77]
    # The file's own trees are there as well, and its macros.
    assert len(list(new.iter("GeometryReference"))) == 2
    assert next(new.iter("WiringObject")).find("PinPatch") is not None
    assert next(new.iter("FTMacro")) is not None


def test_another_body_says_what_goes_with_the_old_one(tmp_path):
    made = changed(lambda draft: replace(draft, kind="LED batten"))
    said = {one.where: one.what for one in made.lost}
    assert {"WiringObject", "Structure", "Support", "GeometryReference", "PinPatch"} <= said.keys()


def test_a_copy_by_command_says_what_it_keeps_and_has_an_id_of_its_own(tmp_path, capsys):
    source, out = tmp_path / "dipper.gdtf", tmp_path / "copy.gdtf"
    source.write_bytes(FILE)
    assert main(["gdtf", "copy", str(source), str(out), "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    assert {"FTMacro (1)", "SubPhysicalUnit (1)", "AnimationSystem (1)", "GeometryReference (2)"} <= set(answer["kept"])
    assert [one["where"] for one in answer["lost"]] == ["ChannelFunction Strobe 0.5-12 Hz"]
    made = read_gdtf(out.read_bytes(), "copy.gdtf")[0]
    assert made.name == "Dipper copy"
    assert made.type_id != "11111111-2222-4333-8444-555555555555"
    assert main(["gdtf", "copy", str(tmp_path / "none.gdtf"), str(out)]) == 2


@pytest.mark.parametrize(
    ("name", "wanted"),
    [("Strobe 0.5-12 Hz", "Strobe 0_5-12 Hz"), ("Größe, weiß", "Grosse; weiss"), ("45° – 90°", "45deg - 90deg"),
     ("Red & blue", "Red + blue"), ("Plain 1", "Plain 1"), ("", ""), ("!?", "Unnamed")],
)  # fmt: skip
def test_names_are_made_legal(name, wanted):
    assert legal(name) == wanted


def test_types_of_our_own_are_written_with_names_that_the_standard_allows(tmp_path):
    from zarfwright.core.types.shop.pasted import paste_channels
    from zarfwright.core.types.shop.starters import starter

    text = "1 Shutter\n0-9 Größe 0.5\n10-255 strobe 0.5-12 Hz\n2 Colour wheel\n0-99 Open\n100-255 L.A. blue, pale"
    made = build(paste_channels(starter("moving head"), 0, text, replacing=True).draft)
    new = description(written(made).data, tmp_path)
    names = [node.get("Name") for node in new.iter() if node.get("Name")]
    assert all(legal(name) == name for name in names)
    functions = {node.get("Name") for node in new.iter("ChannelFunction")}
    for node in new.iter("DMXChannel"):
        assert node.get("InitialFunction").split(".")[2] in functions
        assert node.get("InitialFunction").count(".") == 2
