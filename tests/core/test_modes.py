"""Modes of every kind: masters, relations, curves, virtual channels, breaks. Golden values, then random ones."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.literal import literal
from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.encode import encode
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.types.model import (
    BeamSource,
    Channel,
    ChannelFunction,
    ChannelSet,
    DmxProfile,
    FixtureType,
    Geometry,
    Mode,
    ModeMaster,
    ProfilePoint,
    Relation,
)

LENS = Geometry("Lens", "Beam", None, beam=BeamSource())
HEAD = Geometry("Head", "Axis", None, children=(LENS,))
BODY = Geometry("Body", "Geometry", None, children=(Geometry("Yoke", "Axis", None, children=(HEAD,)),))
SQUARE = DmxProfile("Square", (ProfilePoint(0.0, 0.0, 0.0, 1.0),))
BENT = DmxProfile("Bent", (ProfilePoint(0.0, 0.0, 0.5), ProfilePoint(0.5, 0.25, 1.5)))


def type_of(*channels, relations=()):
    mode = Mode("M", "Body", tuple(channels), tuple(relations))
    return FixtureType("T", "Made up", "", (BODY,), (mode,), profiles=(SQUARE, BENT))


def one(attribute, slots, low=0.0, high=1.0, geometry="Lens", **more):
    return Channel(geometry, slots, (ChannelFunction(attribute, attribute, 0, (low, high), **more),))


def decode(fixture_type, slots, breaks=None):
    """The features of one fixture at slot 1 of universe 1; further breaks each at slot 1 of universes of their own."""
    numbers = list(fixture_type.modes[0].footprints)
    named = tuple((b, 1 + i, 1) for i, b in enumerate(numbers) if i)
    rig = compile_rig([PatchRow("a", fixture_type, "M", 1, 1, named)])
    levels = np.zeros((max(len(rig.universes), 1), 512), dtype=np.uint8)
    for i, b in enumerate(numbers):
        given_slots = (breaks or {numbers[0]: slots})[b]
        levels[i, : len(given_slots)] = list(given_slots)
    return dict(zip(INDEX, Decoder(rig).decode(levels)[0], strict=True))


def test_fine_bytes_are_big_endian_up_to_32_bits():
    wide = type_of(one("Zoom", (1, 2, 3, 4), 0.0, 2**32 - 1))
    assert decode(wide, [1, 2, 3, 4])["zoom"] == 0x01020304
    apart = type_of(one("Zoom", (3, 1), 0.0, 65535.0))
    assert decode(apart, [0x34, 9, 0x12])["zoom"] == 0x1234


def test_a_dimmer_follows_its_curve():
    square = type_of(one("Dimmer", (1,), profile="Square"))
    assert decode(square, [51])["dimmer"] == pytest.approx(0.04)
    assert decode(square, [255])["dimmer"] == pytest.approx(1.0)
    bent = type_of(one("Dimmer", (1,), profile="Bent"))
    assert decode(bent, [51])["dimmer"] == pytest.approx(0.1)
    assert decode(bent, [204])["dimmer"] == pytest.approx(0.25 + 0.3 * 1.5)


def chosen_curve():
    """A dimmer whose curve another channel chooses: straight below 128, square from there."""
    straight = ChannelFunction("Straight", "Dimmer", 0, (0.0, 1.0), master=ModeMaster("Body_DimmerCurve", None, 0, 127))
    square = ChannelFunction(
        "Square", "Dimmer", 0, (0.0, 1.0), profile="Square", master=ModeMaster("Body_DimmerCurve", None, 128, 255)
    )
    return type_of(Channel("Lens", (1,), (straight, square)), one("DimmerCurve", (2,), geometry="Body"))


@pytest.mark.parametrize(("chooser", "dimmer"), [(0, 0.2), (127, 0.2), (128, 0.04), (255, 0.04)])
def test_a_channel_chooses_the_dimmer_curve_live(chooser, dimmer):
    assert decode(chosen_curve(), [51, chooser])["dimmer"] == pytest.approx(dimmer)


def test_a_function_as_master_has_to_be_there_itself():
    turn = ModeMaster("Lens_Gobo1", "Turning", 0, 255)
    gobo = Channel("Lens", (1,), (
        ChannelFunction("Standing", "Gobo1", 0, (0, 1), sets=(ChannelSet("Open", 0, 1), ChannelSet("Dots", 10, 2))),
        ChannelFunction("Turning", "Gobo1", 128, (0, 1), sets=(ChannelSet("Dots", 128, 2),)),
    ))  # fmt: skip
    second = Channel("Lens", (2,), (
        ChannelFunction("Index", "Gobo1Pos", 0, (0.0, 360.0)),
        ChannelFunction("Turn", "Gobo1PosRotate", 0, (-90.0, 90.0), master=turn),
    ))  # fmt: skip
    both = type_of(gobo, second)
    got = decode(both, [20, 255])
    assert (got["gobo slot"], got["gobo turn"], got["gobo spin"]) == (2, pytest.approx(2 * math.pi), 0)
    got = decode(both, [200, 255])
    assert (got["gobo slot"], got["gobo spin"]) == (2, pytest.approx(math.pi / 2))


def test_masters_in_a_circle_never_hold():
    a = Channel("Body", (1,), (ChannelFunction("A", "Dimmer", 0, (0, 1), master=ModeMaster("Body_Iris", "B", 0, 255)),))
    b = Channel("Body", (2,), (ChannelFunction("B", "Iris", 0, (0, 1), master=ModeMaster("Body_Dimmer", "A", 0, 255)),))
    got = decode(type_of(a, b), [128, 128])
    assert (got["dimmer"], got["iris"]) == (1.0, 1.0)


def test_relations_multiply_and_override():
    follower, master = one("Zoom", (1,), 10.0, 50.0), one("Iris", (2,), geometry="Head")
    multiplied = type_of(follower, master, relations=[Relation("Multiply", "Head_Iris", "Lens_Zoom", "Zoom")])
    assert decode(multiplied, [255, 51])["zoom"] == pytest.approx(50 * 0.2)
    overridden = type_of(follower, master, relations=[Relation("Override", "Head_Iris", "Lens_Zoom", "Zoom")])
    # At its home (0) the master leaves the follower alone.
    assert decode(overridden, [255, 0])["zoom"] == pytest.approx(50)
    assert decode(overridden, [255, 51])["zoom"] == pytest.approx(10 + 40 * 0.2)


def test_a_virtual_dimmer_is_full_and_its_relation_changes_nothing():
    virtual = one("Dimmer", (), geometry="Body")
    red = one("ColorAdd_R", (1,))
    made = type_of(virtual, red, relations=[Relation("Multiply", "Body_Dimmer", "Lens_ColorAdd_R", "ColorAdd_R")])
    got = decode(made, [51])
    assert (got["red"], got["dimmer"]) == (pytest.approx(0.2), 1.0)


def test_a_dimmer_above_others_is_multiplied_and_not_overwritten():
    cells = tuple(Geometry(f"Cell {i}", "Beam", None, beam=BeamSource()) for i in (1, 2))
    tree = Geometry("Body", "Geometry", None, children=cells)
    channels = (one("Dimmer", (1,), geometry="Body"), *(one("Dimmer", (1 + i,), geometry=f"Cell {i}") for i in (1, 2)))
    batten = FixtureType("T", "Made up", "", (tree,), (Mode("M", "Body", channels),))
    rig = compile_rig([PatchRow("a", batten, "M", 1, 1)])
    levels = np.zeros((1, 512), dtype=np.uint8)
    levels[0, :3] = (51, 255, 102)
    got = Decoder(rig).decode(levels)
    assert got[:, INDEX["master dimmer"]] == pytest.approx([0.2, 0.2])
    assert got[:, INDEX["dimmer"]] == pytest.approx([1.0, 0.4])


def test_each_break_is_read_from_an_address_of_its_own():
    lamp = one("Dimmer", (1,))
    scroller = Channel(
        "Lens", (1,),
        (ChannelFunction("C", "Color1", 0, (0, 1), sets=(ChannelSet("a", 0, 1), ChannelSet("b", 128, 2))),),
        dmx_break=2,
    )  # fmt: skip
    both = type_of(lamp, scroller)
    assert both.modes[0].footprints == {1: 1, 2: 1}
    rig = compile_rig([PatchRow("a", both, "M", 3, 10, ((2, 7, 100),))])
    assert rig.universes == (3, 7)
    levels = np.zeros((2, 512), dtype=np.uint8)
    levels[0, 9], levels[1, 99] = 255, 200
    got = dict(zip(INDEX, Decoder(rig).decode(levels)[0], strict=True))
    assert (got["dimmer"], got["colour slot"]) == (1.0, 2.0)
    # Without an address of its own the second follows the first.
    together = compile_rig([PatchRow("a", both, "M", 3, 10)])
    levels = np.zeros((1, 512), dtype=np.uint8)
    levels[0, 10] = 200
    assert Decoder(together).decode(levels)[0, INDEX["colour slot"]] == 2


def test_a_value_below_the_first_function_does_what_that_one_does():
    late = type_of(Channel("Lens", (1,), (ChannelFunction("Zoom", "Zoom", 100, (10.0, 50.0)),)))
    assert decode(late, [0])["zoom"] == decode(late, [100])["zoom"] == 10.0


ATTRIBUTES = ["Dimmer", "Iris", "Frost1", "Zoom", "Pan", "ColorSub_C", "ColorAdd_R", "Shutter1", "Shutter1Strobe",
              "Shutter1StrobePulse", "Gobo1PosRotate", "Focus1", "NoFeature"]  # fmt: skip


@st.composite
def modes(draw):
    """A mode of two to five channels with whatever GDTF allows in it, and slots for it."""
    count, slot = draw(st.integers(2, 5)), {1: 1, 2: 1}
    channels = []
    for i in range(count):
        size = draw(st.sampled_from([1, 1, 1, 2, 3, 0]))
        b = draw(st.sampled_from([1, 1, 2]))
        slots = tuple(range(slot[b], slot[b] + size))
        slot[b] += size
        top = 256 ** max(size, 1) - 1
        starts = sorted({0, *draw(st.lists(st.integers(0, top), max_size=3))})
        functions = []
        for k, start in enumerate(starts):
            master = None
            if i and size and draw(st.integers(0, 3)) == 0:
                target = channels[draw(st.integers(0, i - 1))]
                low, high = sorted((draw(st.integers(0, target.top)), draw(st.integers(0, target.top))))
                named = draw(st.sampled_from([None, *[f.name for f in target.functions]]))
                master = ModeMaster(target.name, named, low, high)
            sets = ()
            if draw(st.integers(0, 4)) == 0:
                sets = (ChannelSet("part", min(start + 3, top), None, (0.1, 0.7)),)
            functions.append(
                ChannelFunction(
                    f"F{k}",
                    draw(st.sampled_from(ATTRIBUTES)),
                    start,
                    (draw(st.sampled_from([0.0, 1.0, -2.0])), draw(st.sampled_from([1.0, 0.0, 5.0]))),
                    default=start if k == 0 else None,
                    sets=tuple(s for s in sets if s.start > start),
                    master=master,
                    profile=draw(st.sampled_from([None, None, "Square", "Bent"])),
                    logical=draw(st.sampled_from([0, 0, 0, 1])),
                )
            )
        # The names are what masters refer to, so each is its own.
        channels.append(Channel("Lens", slots, tuple(functions), dmx_break=b, key=f"C{i}"))
    relations = []
    if draw(st.booleans()):
        follower, master = draw(st.sampled_from(channels)), draw(st.sampled_from(channels))
        if follower is not master:
            kind = draw(st.sampled_from(["Multiply", "Override"]))
            relations.append(Relation(kind, master.name, follower.name, follower.functions[-1].name))
    breaks = {b: draw(st.binary(min_size=size - 1, max_size=size - 1)) for b, size in slot.items() if size > 1}
    return type_of(*channels, relations=relations), breaks


@settings(max_examples=250, deadline=None)
@given(modes())
def test_fast_and_slow_agree_on_any_mode(made):
    fixture_type, breaks = made
    if not breaks:
        return
    got = decode(fixture_type, None, breaks)
    steep = 256 ** max(len(channel.slots) for channel in fixture_type.modes[0].channels)
    for name, value in literal(fixture_type, "M", breaks).items():
        # Curves on two bytes and more are followed in 256 chords.
        assert got[name] == pytest.approx(value, abs=1e-9 if steep <= 256 else 1e-3), name


@settings(max_examples=80, deadline=None)
@given(st.floats(0, 1), st.sampled_from(["Square", "Bent", None]), st.sampled_from([1, 2, 3, 4]))
def test_decode_undoes_encode_along_curves_and_masters_to_half_a_step(dimmer, profile, size):
    made = type_of(one("Dimmer", tuple(range(1, size + 1)), profile=profile))
    got = decode(made, encode(made, made.modes[0], {"dimmer": dimmer}))["dimmer"]
    # The steepest piece of these curves rises two steps a step.
    assert abs(got - dimmer) <= 2.0 / (256**size - 1) / 2 + 1e-7
    got = decode(chosen_curve(), encode(chosen_curve(), chosen_curve().modes[0], {"dimmer": dimmer}))["dimmer"]
    assert abs(got - dimmer) <= 1 / 255 / 2 + 1e-9


def test_a_mode_whose_slots_pass_the_universe_is_read_as_far_as_it_goes():
    wide = type_of(one("Dimmer", (1,)), one("Iris", (2,), 0.0, 0.5))
    rig = compile_rig([PatchRow("a", wide, "M", 1, 512), PatchRow("b", replace(wide, name="U"), "M", 2, 1)])
    levels = np.full((2, 512), 255, dtype=np.uint8)
    got = Decoder(rig).decode(levels)
    assert got[:, INDEX["dimmer"]] == pytest.approx([1, 1])
    assert got[:, INDEX["iris"]] == pytest.approx([1.0, 0.5]), "the one that does not fit rests open"


@pytest.mark.parametrize("wide_first", [True, False])
def test_of_channels_that_say_the_same_feature_the_last_one_of_the_mode_is_right(wide_first):
    # Worked out in different ways (a straight line, by table, by segments), they still write in the mode's order.
    wide = Channel("Lens", (1, 2), (
        ChannelFunction("Zoom a", "Zoom", 0, (0.0, 1.0)), ChannelFunction("Zoom b", "Zoom", 30000, (5.0, 9.0)),
    ))  # fmt: skip
    byte = Channel("Lens", (3,), (
        ChannelFunction("Iris", "Iris", 0, (0.0, 1.0)), ChannelFunction("Zoom c", "Zoom", 100, (20.0, 30.0)),
    ))  # fmt: skip
    line = one("Zoom", (4,), 40.0, 50.0)
    channels = (wide, byte, line) if wide_first else (line, byte, wide)
    seen = decode(type_of(*channels), [0xFF, 0xFF, 255, 255])
    assert seen["zoom"] == (50.0 if wide_first else 9.0)
    # Where the byte says something else, the one before it stands.
    seen = decode(type_of(*channels[:2]), [0xFF, 0xFF, 99, 255])
    assert seen["zoom"] == (9.0 if wide_first else 50.0)
