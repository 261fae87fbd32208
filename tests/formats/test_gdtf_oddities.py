"""What does not fit together in a GDTF is a finding, in our words, and the file is used all the same."""

from __future__ import annotations

import pytest

from tests.formats.test_gdtf_modes import channel, described
from zarfwright.core.types.chain import chain_of
from zarfwright.core.types.trial import beam_words, home_slots, trial
from zarfwright.formats.gdtf import read_gdtf, write_gdtf
from zarfwright.formats.gdtf.odd import circle
from zarfwright.library import wader

TREE = '<Geometry Name="Body"><Beam Name="Lens"/></Geometry>'
WHEEL = '<Wheels><Wheel Name="W"><Slot Name="Open"/><Slot Name="Red" Color="0.64,0.33,20"/></Wheel></Wheels>'


def said(xml: bytes) -> list[str]:
    from tests.formats.test_gdtf import gdtf

    return [f"{one.what}; {one.done}" for one in read_gdtf(gdtf(xml), "odd.gdtf")[1]]


def function(name: str, attribute: str, start: int, more: str = "", inside: str = "") -> str:
    return (
        f'<ChannelFunction Name="{name}" Attribute="{attribute}" DMXFrom="{start}/1" {more}>{inside}</ChannelFunction>'
    )


def of(geometry: str, slot: int, attribute: str, *functions: str, more: str = "") -> str:
    return (
        f'<DMXChannel DMXBreak="1" Offset="{slot}" Geometry="{geometry}" {more}>'
        f'<LogicalChannel Attribute="{attribute}">{"".join(functions)}</LogicalChannel></DMXChannel>'
    )


BACKWARDS = 'ModeMaster="Lens_Shutter1" ModeFrom="200/1" ModeTo="9/1"'
SHUTTER = of("Lens", 1, "Shutter1", function("Open", "Shutter1", 0), function("Flash", "Shutter1Strobe", 99))


@pytest.mark.parametrize(
    ("channels", "wanted"),
    [
        (channel("Lens", "Dimmer", 1) + channel("Lens", "Iris", 1),
         "Lens_Dimmer and Lens_Iris both have slot 1; both are read from it"),
        (of("Lens", 1, "Dimmer", function("A", "Dimmer", 0), more='InitialFunction="Lens_Dimmer.Dimmer.Other"'),
         "it begins in “Lens_Dimmer.Dimmer.Other”, which is none of its functions; begins in the first"),
        (SHUTTER + of("Lens", 2, "Iris", function("I", "Iris", 0, BACKWARDS)),
         "it is there from 200 to 9 of Lens_Shutter1, which is backwards; there from 9 to 200"),
        (of("Lens", 1, "Color1", function("C", "Color1", 0, 'Wheel="W"',
                                          '<ChannelSet Name="Odd" DMXFrom="0/1" WheelSlotIndex="99"/>')),
         "“Odd” is slot 99, and W has 2; drawn as open"),
        (of("Lens", 1, "Sparkle", function("S", "Sparkle", 0)),
         "its attribute “Sparkle” is defined nowhere in the file; kept, and it changes nothing"),
        (of("Lens", 1, "Dimmer", function("A", "Dimmer", 0, 'ModeMaster="Lens_Iris" ModeFrom="0/1" ModeTo="9/1"'))
         + of("Lens", 2, "Iris", function("B", "Iris", 0, 'ModeMaster="Lens_Dimmer" ModeFrom="0/1" ModeTo="9/1"')),
         "its masters go round in a circle: Lens_Dimmer, Lens_Iris; what hangs on them is never there"),
        (of("Lens", 1, "Dimmer", function("A", "Dimmer", 0, 'DMXProfile="" RealFade="soon"')),
         "RealFade: “soon” is nothing that can be read here; took 0.0"),
    ],
)  # fmt: skip
def test_what_does_not_fit_is_found(channels, wanted):
    assert wanted in said(described(TREE, channels, before=WHEEL))


def test_a_slot_past_the_wheel_is_drawn_as_open():
    from tests.formats.test_gdtf import gdtf

    candela = {}
    for slot in (1, 2, 99):
        inside = f'<ChannelSet Name="It" DMXFrom="0/1" WheelSlotIndex="{slot}"/>'
        colour = of("Lens", 1, "Color1", function("C", "Color1", 0, 'Wheel="W"', inside))
        made, _ = read_gdtf(gdtf(described(TREE, colour, before=WHEEL)), "odd.gdtf")
        candela[slot] = beam_words(trial(made, "M", home_slots(made.modes[0])), 0)["colour_rgb"]
    assert candela[99] == candela[1] != candela[2]


@pytest.mark.parametrize(
    ("tree", "wanted"),
    [
        ('<Geometry Name="Body"/>', "its geometry has no Beam; it hangs there and gives no light"),
        ('<Geometry Name="Body"><Beam Name="Lens" BeamType="Sparkling"/></Geometry>',
         "GDTF knows no beam type “Sparkling”; taken as Wash"),
    ],
)  # fmt: skip
def test_geometry_that_does_not_fit_is_found(tree, wanted):
    assert wanted in said(described(tree, channel("Body", "Dimmer", 1)))


def test_axes_that_move_no_light_are_found_and_a_mirror_before_the_lens_is_none_of_them():
    beside = '<Geometry Name="Body"><Beam Name="Lens"/><Axis Name="Arm"/></Geometry>'
    assert "no Beam hangs on Arm, and no light meets it as a mirror; its pan and tilt move no light" in said(
        described(beside, channel("Arm", "Pan", 1) + channel("Lens", "Dimmer", 2))
    )
    assert read_gdtf(write_gdtf(wader()), "wader.gdtf")[1] == []
    assert chain_of(read_gdtf(write_gdtf(wader()), "wader.gdtf")[0], "Fine").mirror


def test_what_is_legitimate_is_no_finding():
    laser = '<Geometry Name="Body"><Laser Name="Ray" OutputStrength="2"><Protocol Name="Net"/></Laser></Geometry>'
    assert said(described(laser, channel("Ray", "Dimmer", 1))) == []


def test_two_modes_of_one_name_are_told_apart():
    from tests.formats.test_gdtf import gdtf

    xml = described(TREE, channel("Lens", "Dimmer", 1)).decode()
    one = xml[xml.index("<DMXMode ") : xml.index("</DMXModes>")]
    made, found = read_gdtf(gdtf(xml.replace(one, one * 2).encode()), "odd.gdtf")
    assert [mode.name for mode in made.modes] == ["M", "M 2"]
    assert [o.what for o in found] == ["two modes have this name"]


@pytest.mark.parametrize(
    ("leads", "wanted"),
    [
        ({}, []),
        ({"a": {"b"}, "b": {"c"}}, []),
        ({"a": {"b"}, "b": {"c"}, "c": {"b"}}, ["b", "c"]),
        ({"a": {"a"}}, ["a"]),
    ],
)
def test_circles_are_found(leads, wanted):
    assert circle(leads) == wanted
