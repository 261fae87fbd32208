"""What the simulated console makes of rigs: its own readers beside ours, and what it answers to an offer."""

import re

import numpy as np
import pytest

from tests.scenes import Hall, fixture, node, zipped
from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.patch import patch_rows
from zarfwright.formats.gdtf import write_gdtf
from zarfwright.library import dunlin, heron, shipped, shipped_file
from zarfwright.standins.console.desk import Desk
from zarfwright.standins.console.gdtf import raw_of, read_gdtf
from zarfwright.standins.console.hookup import RigError
from zarfwright.standins.console.mvr import read_mvr
from zarfwright.standins.console.offers import Rules, judge
from zarfwright.standins.console.output import Sent, Universes

HERON = write_gdtf(heron())


def scene_of(*fixtures, types=("Heron.gdtf",), rest=""):
    """An MVR by hand."""
    text = (
        '<GeneralSceneDescription verMajor="1" verMinor="6"><Scene><Layers><Layer uuid="L" name="Rig"><ChildList>'
        f"{''.join(fixtures)}{rest}</ChildList></Layer></Layers></Scene></GeneralSceneDescription>"
    )
    return zipped({"GeneralSceneDescription.xml": text, **dict.fromkeys(types, HERON)})


def answers(judged):
    return [(line.said.number, line.answer) for line in judged.lines]


@pytest.mark.parametrize("key", sorted(shipped()), ids=lambda key: shipped()[key].name)
def test_both_readers_of_gdtf_agree_on_every_shipped_type(key):
    ours, theirs = shipped()[key], read_gdtf(shipped_file(key))
    assert theirs.name == ours.name
    assert [mode.name for mode in theirs.modes] == [mode.name for mode in ours.modes]
    for mine, other in zip(ours.modes, theirs.modes, strict=True):
        assert other.footprints == mine.footprints

        def channels(found, slots, brk):
            return sorted((brk(one), slots(one), one.attribute) for one in found if slots(one))

        assert channels(other.channels, lambda one: one.offsets, lambda one: one.brk) == channels(
            mine.channels, lambda one: one.slots, lambda one: one.dmx_break
        )
        rests = {one.offsets: one.default for one in other.channels}
        assert rests == {one.slots: one.home for one in mine.channels if one.slots}


@pytest.mark.parametrize(
    ("text", "size", "raw"),
    [
        ("128/1", 1, 128),
        ("128/1", 2, 0x8080),
        ("128/1s", 2, 0x8000),
        ("32768/2", 2, 32768),
        ("32768/2", 1, 128),
        ("9", 1, 9),
    ],
)
def test_dmx_values_in_every_form(text, size, raw):
    assert raw_of(text, size) == raw


def test_a_scene_is_read_with_places_addresses_and_what_else_there_is():
    inside = fixture("Inner", 2, "2.17")
    group = node(
        "GroupObject", "Ground", f"<ChildList>{inside}</ChildList>", "<Matrix>{1,0,0}{0,1,0}{0,0,1}{2000,0,0}</Matrix>"
    )
    scene = read_mvr(scene_of(fixture("One", 1, "513"), rest=group + node("Truss", "T1") + node("SceneObject", "Box")))
    assert [(one.number, one.addresses, one.place[0]) for one in scene.fixtures] == [
        (1, ((2, 1),), 0.0),
        (2, ((2, 17),), 2.0),
    ]
    assert scene.others == {"structures": 1, "pieces of scenery": 1}


@pytest.mark.parametrize(
    "data", [b"", b"PK\3\4rubbish", zipped({"a.txt": "x"}), zipped({"GeneralSceneDescription.xml": "<a"})]
)
def test_what_is_no_rig_is_refused_in_words(data):
    with pytest.raises(RigError):
        read_mvr(data)


def test_entities_are_refused():
    bomb = '<!DOCTYPE a [<!ENTITY b "c">]><GeneralSceneDescription>&b;</GeneralSceneDescription>'
    with pytest.raises(RigError):
        read_mvr(zipped({"GeneralSceneDescription.xml": bomb}))


def test_each_line_of_an_offer_is_answered_with_its_reason():
    scene = read_mvr(
        scene_of(
            fixture("Good", 1, "1"), fixture("Same number", 1, "101"), fixture("Other mode", 2, "201", mode="Wide"),
            fixture("Nobody knows", 3, "301", spec="Ghost.gdtf"), fixture("Nowhere", 4, "0"),
            fixture("Over the end", 5, "1.510"), fixture("Too high", 6, "300.001"), fixture("On top", 7, "1.009"),
            fixture("The very same slots", 8, "1"),
        )
    )  # fmt: skip
    judged = judge(scene, [], "add", Rules())
    assert [(line.said.number, line.answer, line.reason) for line in judged.lines] == [
        (1, "taken", ""),
        (1, "number in use", "Number 1 is a Heron here."),
        (2, "other mode", "Heron has no mode “Wide”: taken in Standard (16 slots)."),
        (3, "type unknown", "Ghost: its GDTF is not in the file."),
        (4, "refused", "It has no address."),
        (5, "refused", "In Standard it reaches beyond the end of its universe."),
        (6, "refused", "Universe 300 is beyond the last of this console, 256."),
        (7, "refused", "At 1.009 it would share slots with fixture 1."),
        # Two heads that are to do the same are given one address on purpose.
        (8, "taken", ""),
    ]


def test_add_replace_and_clear_into_a_patch_that_is_there():
    there = judge(read_mvr(scene_of(fixture("A", 1, "1"), fixture("B", 2, "33"))), [], "add", Rules()).patch
    offered = read_mvr(scene_of(fixture("New one", 2, "65"), fixture("C", 3, "97")))
    found = {way: judge(offered, there, way, Rules()) for way in ("add", "replace", "clear")}
    assert answers(found["add"]) == [(2, "number in use"), (3, "taken")]
    assert answers(found["replace"]) == answers(found["clear"]) == [(2, "taken"), (3, "taken")]
    assert {way: ([one.number for one in j.patch], j.gone, j.replaced) for way, j in found.items()} == {
        "add": ([1, 2, 3], 0, 0),
        "replace": ([1, 2, 3], 0, 1),
        "clear": ([2, 3], 2, 0),
    }


def test_what_is_replaced_by_something_that_is_refused_stays():
    there = judge(read_mvr(scene_of(fixture("A", 1, "1"), fixture("B", 2, "33"))), [], "add", Rules()).patch
    offered = read_mvr(scene_of(fixture("Onto A", 2, "1.010")))
    judged = judge(offered, there, "replace", Rules())
    assert answers(judged) == [(2, "refused")]
    assert [(one.number, one.addresses) for one in judged.patch] == [(1, {1: (1, 1)}), (2, {1: (1, 33)})]


def test_a_type_is_taken_in_the_mode_that_the_console_has_it_in():
    desk = Desk(Sent("Desk", Universes("all"), Universes("")))
    desk.take(read_mvr(scene_of(fixture("A", 1, "1"))), "add")
    desk.set_mode("Heron", "Extended")
    assert [one.mode.name for one in desk.patch] == ["Extended"]
    judged = desk.take(read_mvr(scene_of(fixture("B", 2, "101"))), "add")
    assert [(line.answer, line.reason) for line in judged.lines] == [
        ("other mode", "This console has Heron in Extended (33 slots), not in Standard.")
    ]
    with pytest.raises(RigError, match="no mode"):
        desk.set_mode("Heron", "Tiny")


def test_its_own_rig_goes_out_with_places_and_comes_back_the_same(tmp_path):
    hall = Hall(tmp_path)
    kind = hall.with_type(dunlin())
    hall.do("place free", type=kind, position=[1.5, -2.0, 6.25])
    hall.do("set field", ids=[item.id for item, _ in hall.show.fixtures()], field="number", text="7")
    hall.do("address", ids=[item.id for item, _ in hall.show.fixtures()], start="3.100")
    desk = Desk(Sent("Desk", Universes("all"), Universes("")))
    desk.take(read_mvr(hall.out()), "add")
    again = read_mvr(desk.rig_file("Simulated console"))
    (one,) = again.fixtures
    assert (one.number, one.mode, one.addresses) == (7, "Standard", ((3, 100),))
    assert one.place == pytest.approx((1.5, -2.0, 6.25), abs=1e-4)
    assert set(again.types) == {one.file}


def test_what_the_console_sends_for_a_value_is_that_value_here(tmp_path):
    """Through its own GDTF reader and ours: 30° of pan on the console are 30° in the picture."""
    hall = Hall(tmp_path)
    kind = hall.with_type(heron())
    hall.do("place free", type=kind, position=[0, 0, 6])
    key = next(item.id for item, _ in hall.show.fixtures())
    hall.do("set field", ids=[key], field="number", text="1")
    hall.do("address", ids=[key], start="2.001")
    desk = Desk(Sent("Desk", Universes("all"), Universes("")))
    desk.take(read_mvr(hall.out()), "add")
    for function, value in {"Pan": 30.0, "Tilt": -41.5, "Dimmer": 0.25, "ColorSub_C": 0.75, "Zoom": 20.0}.items():
        desk.set_value(desk.fixture(1), function, value)
    rig = compile_rig(patch_rows(hall.show))
    slots = np.frombuffer(desk.playback.levels()[2], dtype=np.uint8)[None]
    row = Decoder(rig).decode(slots)[0]
    assert np.degrees(row[[INDEX["pan"], INDEX["tilt"]]]) == pytest.approx([30.0, -41.5], abs=0.01)
    assert row[[INDEX["dimmer"], INDEX["cyan"], INDEX["zoom"]]] == pytest.approx([0.25, 0.75, 20.0], abs=0.15)


def test_universes_as_typed():
    assert [n for n in range(1, 12) if n in Universes("1-3, 7; 9 to 10")] == [1, 2, 3, 7, 9, 10]
    assert 63999 in Universes("all")
    assert 1 not in Universes("")
    with pytest.raises(ValueError, match=re.escape("“x” is no universe")):
        Universes("1, x")
