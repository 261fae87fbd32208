"""The simulated console by itself: it knows what the list says, and plays it by a clock that the test turns."""

import pytest

from zarfwright.demo.scenes import SCENES
from zarfwright.standins.console.cues import cue_list, group_of
from zarfwright.standins.console.playback import HELD_S, Playback
from zarfwright.standins.console.rig import RigError, read_rig

HEAD = "Number,Type,Mode,Attribute,Universe,Slots,Default,From,To,Stage x,Stage y\r\n"
LINES = (
    "1,Lamp,Std,Pan,1,1+2,32768,-270,270,-2.0,1.0",
    "1,Lamp,Std,Dimmer,1,3,0,0,1,-2.0,1.0",
    "1,Lamp,Std,Shutter1,1,4,32,0,1,-2.0,1.0",
    "1,Lamp,Std,ColorSub_C,1,5,0,0,1,-2.0,1.0",
    "2,Lamp,Std,Dimmer,2,511+512,0,0,1,2.0,1.0",
)


@pytest.fixture
def console():
    return Playback(read_rig(("\ufeff" + HEAD + "\r\n".join(LINES)).encode()))


def test_the_patch_comes_from_the_list_alone(console):
    assert [(f.number, f.universe, sorted(f.channels)) for f in console.rig] == [
        (1, 1, ["ColorSub_C", "Dimmer", "Pan", "Shutter1"]),
        (2, 2, ["Dimmer"]),
    ]
    assert console.rig[0].channels["Pan"].raw(0.0) == 32768
    assert console.rig[0].channels["Pan"].raw(1e9) == 65535


@pytest.mark.parametrize(
    "data", [b"", b"a,b\n1,2\n", (HEAD + "x,Lamp,Std,Pan,1,one,0,0,1,0,0").encode(), HEAD.encode()]
)
def test_a_list_that_is_none_is_refused(data):
    with pytest.raises(RigError):
        read_rig(data)


def test_without_a_cue_the_rig_is_dark_and_rests_at_its_defaults(console):
    levels = console.levels()
    assert levels[1][:4] == bytes([0x80, 0x00, 0, 32])
    assert levels[2][510:] == b"\0\0"


def test_a_cue_fades_in_over_its_time(console):
    console.tick(0.0)
    console.obey({"do": "next"})
    cue = console.cue
    console.tick(cue.fade_s / 2)
    half = console.levels()[1][2]
    console.tick(cue.fade_s)
    full = console.levels()[1][2]
    assert full == round(0.2 * 255)
    assert half == pytest.approx(full / 2, abs=1)


def test_the_grand_master_scales_and_a_level_by_hand_wins_over_the_cue(console):
    console.tick(0.0)
    console.obey({"do": "next"})
    console.tick(10.0)
    for number in (1, 2):
        console.obey({"do": "level", "number": number, "level": 1.0})
    console.obey({"do": "master", "level": 0.5})
    assert int.from_bytes(console.levels()[2][510:], "big") == round(0.5 * 65535)
    assert console.levels()[1][2] == 128
    console.obey({"do": "level", "number": 1, "level": None})
    assert console.levels()[1][2] == pytest.approx(0.2 * 0.5 * 255, abs=1)


def test_a_playing_list_goes_on_by_itself_and_a_stopped_one_stays(console):
    console.tick(0.0)
    console.obey({"do": "play"})
    first = console.cue
    console.tick(first.fade_s + HELD_S + 0.1)
    assert console.cue.number == first.number + 1
    console.obey({"do": "stop"})
    console.tick(1000.0)
    assert console.cue.number == first.number + 1


def test_after_the_last_cue_comes_the_first(console):
    for _ in range(len(console.cues) + 1):
        console.obey({"do": "next"})
    assert console.state()["cue"] == 1


def test_what_it_does_not_know_is_said(console):
    assert "no fixture 9" in console.obey({"do": "level", "number": 9, "level": 1})
    assert "does not know" in console.obey({"do": "dance"})
    assert console.state()["levels"] == {}


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
    rig = read_rig((HEAD + "\r\n".join(lines)).encode())
    assert [group_of(fixture) for fixture in rig] == [*channels, "dimmer", *channels]
    console = Playback(rig)
    # Of each pair the one with the higher number hangs further stage right.
    fan = next(cue for cue in console.cues if cue.name == "Flood: the whole deck")
    pans = {rig[i].number: fan.values(rig[i], share)["Pan"] for i, share in console._share.items()}
    assert pans[6] == pytest.approx(-pans[1])
    assert pans[6] < 0


def test_the_cues_are_named_as_the_looks_of_the_demo_show():
    assert [(cue.number, cue.name) for cue in cue_list()] == [
        (n, scene.name) for n, scene in enumerate(SCENES, start=1)
    ]
