"""What goes between a show and consoles: what fits, what is answered, what is handed over, how fast it all goes."""

import math
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zarfwright.core.exchange.offered import LeftOut
from zarfwright.core.exchange.scene import FixtureSaid, FoundType, Scene, Thing
from zarfwright.core.linking.answers import read_answer
from zarfwright.core.linking.handshake import Met, misfits, stopped
from zarfwright.core.linking.listed import listed_of
from zarfwright.core.linking.values import features_of, unit_of, values_of
from zarfwright.core.pacing import APART_S, QUIET_LOOKS, Gap, Pace, next_pace
from zarfwright.library import dunlin, heron, shipped

ALL = {"answers": 1, "values": 1, "selection": 1, "palettes": 1}


def met(version=(1, 6), **features):
    return Met("Desk", "k", "Maker", version, features)


# Handshake


def test_with_the_same_version_and_all_features_nothing_is_amiss():
    assert misfits(met(**ALL)) == ()


def test_another_version_of_mvr_is_named_before_anything_is_sent_with_what_still_works():
    found = misfits(met((2, 0), **ALL))
    assert found[0].what == "Desk speaks MVR 2.0, this program 1.6: no rig can be given or fetched."
    assert "sACN" in found[0].still
    assert stopped(met((2, 0), **ALL), "offer") is stopped(met((2, 0), **ALL), "compare") or True
    assert {action: stopped(met((2, 0), **ALL), action) is not None for action in ("offer", "compare", "values")} == {
        "offer": True, "compare": True, "values": False,
    }  # fmt: skip


@pytest.mark.parametrize(("version", "word"), [((1, 8), "newer"), ((1, 4), "older")])
def test_a_minor_difference_is_said_and_stops_nothing(version, word):
    (one,) = misfits(met(version, **ALL))
    assert word in one.what
    assert one.stops == ()


def test_each_feature_that_is_missing_or_of_another_version_is_said_where_it_stops_something():
    assert {one.stops for one in misfits(met())} == {("answers",), ("values",), ("selection",), ("palettes",)}
    (one,) = misfits(met(**{**ALL, "values": 2}))
    assert one.what == "Desk has “values” in version 2, this program in 1."


# Answers


def offered(*numbers, others=()):
    lamps = [Thing(f"{n:032x}", "Fixture", f"Lamp {n}", said=FixtureSaid("a.gdtf", "Std", number=n)) for n in numbers]
    rest = [Thing(f"{900 + n:032x}", tag, tag) for n, tag in enumerate(others)]
    return Scene((*lamps, *rest))


def line(n, **said):
    return {"UUID": f"{n:032x}".upper(), "FixtureID": n, **said}


def test_there_is_a_line_for_each_fixture_that_is_offered_whatever_the_console_says():
    told = {
        "Lines": [
            line(1, Answer="taken", Mode="Std"), line(2, Answer="other mode", Reason="Only Wide", Mode="Wide"),
            line(3, Answer="banana", Reason=7), {"UUID": 5}, "rubbish", line(99, Answer="taken"),
        ],
        "Gone": 4, "Replaced": "many",
    }  # fmt: skip
    found = read_answer(told, offered(1, 2, 3, 4))
    assert [(one.number, one.answer, one.reason) for one in found.lines] == [
        (1, "taken", ""), (2, "other mode", "Only Wide"), (3, "refused", "7"),
        (4, "no answer", "The console said nothing of it."),
    ]  # fmt: skip
    assert (found.taken, found.gone, found.replaced) == (2, 4, 0)


@pytest.mark.parametrize("told", [{}, {"Lines": None}, {"Lines": 3}, {"Lines": [None, 1, []]}])
def test_an_answer_that_is_none_leaves_every_line_open(told):
    assert [one.answer for one in read_answer(told, offered(1, 2)).lines] == ["no answer"] * 2


def test_structures_and_scenery_that_did_not_arrive_are_said():
    scene = offered(1, others=("Truss", "Truss", "SceneObject"))
    found = read_answer({}, scene, {"structures": 1, "pieces of scenery": 1})
    assert found.missing == (LeftOut("1 of 2 structures", "the console has not taken them"),)
    assert len(read_answer({}, scene).missing) == 2


def test_a_rig_is_a_patch_list_by_the_numbers_of_its_fixtures():
    def lamp(n, **said):
        return Thing(f"{n:032x}", "Fixture", f"Lamp {n}", said=FixtureSaid("a.gdtf", "Std", **said))

    scene = Scene(
        (lamp(1, number=7, addresses=((2, 1, 100), (1, 3, 5))), lamp(2), lamp(3, number=8)),
        types={"a.gdtf": FoundType("a.gdtf", "Heron", "Q", footprints={"Std": 16})},
    )
    read = listed_of(scene)
    assert [(row.number, row.type, row.mode, str(row.place), row.footprint) for row in read.rows] == [
        (7, "Heron", "Std", "3.005", 16),
        (8, "Heron", "Std", "None", 16),
    ]
    assert read.left_out == ("“Lamp 2” has no number: it cannot be told which of the show's it is.",)


# Values


def test_what_is_held_goes_out_in_physical_values_by_function():
    held = {"pan": math.radians(30.0), "tilt": math.radians(-12.5), "dimmer": 0.5, "cyan": 0.25}
    found = {one.attribute: (round(one.value, 2), one.unit) for one in values_of(heron(), "Standard", 61, held, {})}
    assert found == {
        "Pan": (30.0, "deg"), "Tilt": (-12.5, "deg"), "Dimmer": (0.5, "share"), "ColorSub_C": (0.25, "share"),
    }  # fmt: skip


def test_a_cell_goes_out_by_which_of_several_it_is():
    teal = next(kind for kind in shipped().values() if kind.name == "Teal")
    found = values_of(teal, "Cells", 31, {}, {3: {"red": 1.0, "blue": 0.5}})
    assert [(one.attribute, one.part, round(one.value, 2)) for one in found] == [
        ("ColorAdd_R", 3, 1.0),
        ("ColorAdd_B", 3, 0.5),
    ]


@settings(max_examples=40, deadline=None)
@given(st.data())
def test_what_is_handed_over_comes_back_the_same(data):
    """Over and back by physical values is as near as the channel is fine."""
    kind = data.draw(st.sampled_from([heron(), dunlin()]))
    mode = data.draw(st.sampled_from(kind.modes)).name
    able = {"pan": (-3.0, 3.0), "tilt": (-1.5, 1.5), "dimmer": (0.0, 1.0)}
    able |= {"cyan": (0.0, 1.0), "zoom": (12.0, 30.0)} if kind.name == "Heron" else {"red": (0.0, 1.0)}
    held = {name: data.draw(st.floats(*ends)) for name, ends in able.items()}
    values = values_of(kind, mode, 1, held, {})
    back = features_of(kind, mode, {(one.attribute, one.part): one.value for one in values})
    for name, value in held.items():
        if name in back:
            assert back[name] == pytest.approx(value, abs=0.25 if name == "zoom" else 0.03)
    assert {"pan", "tilt", "dimmer"} <= back.keys()


def test_a_shutter_that_is_open_is_the_range_that_is_open():
    (one,) = values_of(heron(), "Standard", 1, {"shutter": 1.0}, {})
    assert (one.attribute, one.value) == ("Shutter1", 1.0)
    assert features_of(heron(), "Standard", {("Shutter1", 0): 1.0})["shutter"] == 1.0
    assert features_of(heron(), "Standard", {("Shutter1", 0): 0.0})["shutter"] == 0.0


@pytest.mark.parametrize(
    ("attribute", "unit"),
    [("Pan", "deg"), ("PanRotate", "deg/s"), ("Zoom", "deg"), ("Shutter1Strobe", "Hz"), ("Blade1Rot", "deg"),
     ("Blade1A", "share"), ("ColorAdd_R", "share")],
)  # fmt: skip
def test_units(attribute, unit):
    assert unit_of(attribute) == unit


# Pace


LATE, STEADY = Gap("Desk", 180.0, 40.0), Gap("Desk", 26.0, 40.0)


def test_when_packets_come_late_on_a_busy_machine_this_program_slows_down_and_says_so():
    pace = next_pace(Pace(), [STEADY, LATE], 0, 0.95)
    assert pace.apart_s == APART_S[1]
    assert pace.said == ("Slowed to 29 pictures a second: “Desk” came 180 ms late while this machine was 95 % busy.")
    for _ in range(10):
        pace = next_pace(pace, [LATE], 0, 0.95)
    assert pace.apart_s == APART_S[-1]


def test_packets_that_are_late_on_an_idle_machine_are_not_its_fault():
    assert next_pace(Pace(), [LATE], 0, 0.3) == Pace()
    # Nor are the pauses of a source that only speaks now and then.
    assert next_pace(Pace(), [Gap("Keep alive", 900.0, 1.2)], 0, 0.95) == Pace()


def test_packets_lost_in_the_machine_slow_it_down_as_well():
    assert "7 packets were lost" in next_pace(Pace(), [STEADY], 7, 0.9).said


def test_it_goes_faster_again_step_by_step_once_all_is_quiet():
    pace = Pace(at=2, said="Slowed")
    looks = 0
    while pace.at:
        pace = next_pace(pace, [STEADY], 0, 0.95)
        looks += 1
    assert looks == 2 * QUIET_LOOKS
    assert pace.said == ""


def test_with_room_left_for_a_console_it_never_goes_at_its_fastest():
    assert Pace(spare=True).apart_s == APART_S[1]
    assert Pace(spare=True).share < Pace().share
    assert Pace(spare=True, at=3).apart_s == replace(Pace(), at=3).apart_s == APART_S[3]
