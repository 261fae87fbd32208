"""The simulated console by itself: it knows what the list says, and plays it by a clock that the test turns."""

import pytest

from zarfwright.demo.scenes import SCENES
from zarfwright.standins.console.commands import obey
from zarfwright.standins.console.desk import Desk
from zarfwright.standins.console.hookup import RigError, read_hookup
from zarfwright.standins.console.output import Sent, Universes
from zarfwright.standins.console.playback import HELD_S
from zarfwright.standins.console.story import group_of, scenes

HEAD = "Number,Type,Mode,Attribute,Universe,Slots,Default,From,To,Stage x,Stage y\r\n"
LINES = (
    "1,Lamp,Std,Pan,1,1+2,32768,-270,270,-2.0,1.0",
    "1,Lamp,Std,Dimmer,1,3,0,0,1,-2.0,1.0",
    "1,Lamp,Std,Shutter1,1,4,32,0,1,-2.0,1.0",
    "1,Lamp,Std,ColorSub_C,1,5,0,0,1,-2.0,1.0",
    "2,Lamp,Std,Dimmer,2,511+512,0,0,1,2.0,1.0",
)


class Played:
    """A console and its clock."""

    def __init__(self, lines=LINES):
        self.desk = Desk(Sent("Desk", Universes("all"), Universes("")))
        assert self.do("rig", csv="\ufeff" + HEAD + "\r\n".join(lines)) is None

    def do(self, do, **command):
        return obey(self.desk, {"do": do, **command})

    def at(self, seconds):
        self.desk.playback.tick(seconds)
        return self.desk.playback.levels()

    @property
    def cue(self):
        return self.desk.playback.cue

    def dimmer(self, seconds):
        return self.at(seconds)[1][2]


@pytest.fixture
def console():
    return Played()


def test_the_patch_comes_from_the_list_alone(console):
    rig = console.desk.patch
    assert [(f.number, sorted(f.channels), f.addresses) for f in rig] == [
        (1, ["ColorSub_C", "Dimmer", "Pan", "Shutter1"], {1: (1, 1)}),
        (2, ["Dimmer"], {2: (2, 1)}),
    ]
    pan = rig[0].channels["Pan"].functions[0]
    assert (pan.raw(0.0), pan.raw(1e9)) == (32768, 65535)


@pytest.mark.parametrize(
    "data", [b"", b"a,b\n1,2\n", (HEAD + "x,Lamp,Std,Pan,1,one,0,0,1,0,0").encode(), HEAD.encode()]
)
def test_a_list_that_is_none_is_refused(data):
    with pytest.raises(RigError):
        read_hookup(data)


def test_without_a_cue_the_rig_is_dark_and_rests_at_its_defaults(console):
    levels = console.at(0.0)
    assert levels[1][:4] == bytes([0x80, 0x00, 0, 32])
    assert levels[2][510:] == b"\0\0"


def test_a_cue_fades_in_over_its_time(console):
    console.at(0.0)
    console.do("next")
    half, full = console.dimmer(console.cue.fade_s / 2), console.dimmer(console.cue.fade_s)
    assert full == round(0.2 * 255)
    assert half == pytest.approx(full / 2, abs=1)


def test_a_cue_waits_for_its_delay_and_the_next_follows_on(console):
    console.do("level", number=1, level=1.0)
    console.do("keep cue", number=20, name="Up", fade_s=2, delay_s=3, follow_s=1)
    console.do("clear")
    console.do("level", number=1, level=0.0)
    console.do("keep cue", number=21, name="Out", fade_s=0)
    console.do("clear")
    console.at(10.0)
    console.do("next", number=20)
    # Nothing for three seconds, then two of fade; a second later the next one goes by itself.
    assert [console.dimmer(10.0 + t) for t in (2.9, 4.0, 5.0)] == [0, 128, 255]
    console.at(16.1)
    assert console.cue.number == 21
    assert console.dimmer(16.2) == 0


def test_the_grand_master_scales_and_a_level_by_hand_wins_over_the_cue(console):
    console.at(0.0)
    console.do("next")
    console.at(10.0)
    for number in (1, 2):
        console.do("level", number=number, level=1.0)
    console.do("master", level=0.5)
    levels = console.at(10.0)
    assert int.from_bytes(levels[2][510:], "big") == round(0.5 * 65535)
    assert levels[1][2] == 128
    console.do("level", number=1, level=None)
    assert console.dimmer(10.0) == pytest.approx(0.2 * 0.5 * 255, abs=1)


def test_a_sub_master_brings_its_group_up_as_far_as_it_is_pushed(console):
    console.do("select", numbers=[2])
    console.do("keep group", name="Side")
    console.do("keep master", name="Side")
    console.do("master", name="Side", level=0.25)
    levels = console.at(0.0)
    assert int.from_bytes(levels[2][510:], "big") == round(0.25 * 65535)
    assert levels[1][2] == 0
    assert "no sub-master" in console.do("master", name="Choir", level=1)


def test_a_playing_list_goes_on_by_itself_and_a_stopped_one_stays(console):
    console.at(0.0)
    console.do("play")
    first = console.cue
    console.at(first.fade_s + HELD_S + 0.1)
    assert console.cue.number == first.number + 1
    console.do("stop")
    console.at(1000.0)
    assert console.cue.number == first.number + 1


def test_after_the_last_cue_comes_the_first(console):
    for _ in range(len(console.desk.playback.cues) + 1):
        console.do("next")
    assert console.desk.state()["cue"] == 1


def test_identify_shows_one_after_the_other_and_a_sweep_moves_every_slot(console):
    console.do("drill", identify_s=2.0)
    shown = [(console.dimmer(t), console.at(t)[2][510]) for t in (0.5, 2.5, 4.5)]
    assert shown == [(255, 0), (0, 255), (255, 0)]
    assert console.desk.state()["identified"] == 1
    console.do("drill", sweep_s=8.0)
    begun = console.desk.playback.now
    assert [console.at(begun + t)[1][0] for t in (0.0, 2.0, 4.0, 6.0)] == [0, 128, 255, 128]
    console.do("drill")
    assert console.dimmer(20.0) == 0


def test_what_is_in_the_editor_is_kept_as_palette_and_as_cue(console):
    assert "nothing in the editor" in console.do("keep cue", number=30)
    console.do("value", number=1, function="Pan", value=90.0)
    console.do("value", number=1, function="ColorSub_C", value=1.0)
    assert console.do("keep palette", kind="colour", name="Sea") is None
    assert [(one.kind, one.values) for one in console.desk.palettes] == [
        ("colour", {(console.desk.patch[0].key, "ColorSub_C"): 1.0})
    ]
    console.do("keep cue", number=4.5, name="Sea", fade_s=0)
    assert [cue.number for cue in console.desk.playback.cues][3:6] == [4, 4.5, 5]
    console.do("clear")
    assert "no beam in the editor" in console.do("keep palette", kind="beam")
    console.do("next", number=4.5)
    assert console.at(0.1)[1][4] == 255
    console.do("remove cue", number=4.5)
    console.do("apply palette", number=1)
    assert console.desk.state()["editor"] == [{"number": 1, "function": "ColorSub_C", "value": 1.0}]


def test_what_is_selected_shows_each_of_its_functions(console):
    console.do("value", number=1, function="Pan", value=45.0)
    console.do("select", numbers=[1])
    functions = {one["function"]: one["value"] for one in console.desk.state()["functions"]}
    assert functions.keys() == {"Pan", "Dimmer", "Shutter1", "ColorSub_C"}
    assert functions["Pan"] == pytest.approx(45.0, abs=0.01)
    assert functions["Dimmer"] == 0.0


def test_deliberate_faults_are_in_what_is_sent(console):
    for number in (1, 2):
        console.do("level", number=number, level=1.0)
    console.do("fault", silent=[2], shift=1)
    levels = console.at(0.0)
    # One slot later; what would lie beyond the end of its universe is not sent.
    assert levels[1][:5] == bytes([0, 0x80, 0x00, 255, 32])
    assert levels[2] == bytes(512)
    console.do("fault", silent=[], shift=0)
    assert console.at(0.0)[2][510:] == b"\xff\xff"


def test_two_on_one_dimmer_the_highest_takes_precedence():
    shared = [f"{n},Lamp,Std,Dimmer,1,7,0,0,1,{n}.0,0.0" for n in (1, 2)]
    console = Played(shared)
    console.do("level", number=1, level=1.0)
    assert console.at(0.0)[1][6] == 255


def test_what_it_does_not_know_is_said(console):
    assert "no fixture 9" in console.do("level", number=9, level=1)
    assert "does not know" in console.do("dance")
    assert "could not do that" in console.do("level", number="nine")
    assert "has no Zoom" in console.do("value", number=1, function="Zoom", value=20)
    assert console.desk.state()["editor"] == []


def test_fixtures_are_grouped_by_what_they_can_do_and_spread_by_their_place():
    channels = {
        "profile": ("Pan", "ColorSub_C"),
        "wash": ("Pan", "ColorAdd_R"),
        "beam": ("Pan",),
        "batten": ("ColorAdd_R",),
    }
    lines = [
        f"{n},Lamp,Std,{attribute},1,{10 * n + k},0,0,1,{-n}.0,0.0"
        for n, attributes in enumerate([*channels.values(), ("Dimmer",), *channels.values()], start=1)
        for k, attribute in enumerate(attributes)
    ]
    rig = Played(lines).desk.patch
    assert [group_of(fixture) for fixture in rig] == [*channels, "dimmer", *channels]
    # Of each pair the one with the higher number hangs further stage right.
    fan = next(scene for scene in scenes() if scene.name == "Flood: the whole deck")
    from zarfwright.standins.console.story import shares_of

    shares = shares_of(rig)
    assert {one.number: shares[one.key] for one in rig} | {5: 0.0} == {
        1: 1.0, 2: 1.0, 3: 1.0, 4: 1.0, 5: 0.0, 6: 0.0, 7: 0.0, 8: 0.0, 9: 0.0,
    }  # fmt: skip
    pans = fan.cue(rig, shares).values
    by_number = {one.number: one.key for one in rig}
    assert pans[by_number[6], "Pan"] == pytest.approx(-pans[by_number[1], "Pan"])
    assert pans[by_number[6], "Pan"] < 0


def test_the_cues_are_named_as_the_looks_of_the_demo_show():
    assert [(one.number, one.name) for one in scenes()] == [(n, scene.name) for n, scene in enumerate(SCENES, start=1)]
