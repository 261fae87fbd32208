"""The line checked fixture by fixture, by levels that the test makes."""

import math

import pytest

from tests.scenes import Hall
from zarfwright.core.dmx.encode import encode
from zarfwright.core.doctor.facts import Cause
from zarfwright.core.linking.checking import (
    Check,
    Told,
    asked_values,
    cause_of,
    failures,
    line_of,
    steps_of,
    with_causes,
)  # fmt: skip
from zarfwright.core.readiness import findings
from zarfwright.library import dunlin, heron, shipped

PLACES = {1: (1, 1), 2: (1, 101), 3: (2, 1)}


@pytest.fixture(scope="module")
def hall(tmp_path_factory):
    """A heron, a dunlin and a lamp with a dimmer only, and one that nobody has patched."""
    made = Hall(tmp_path_factory.mktemp("hall"))
    bittern = next(kind for kind in shipped().values() if kind.name == "Bittern")
    for n, kind in enumerate((heron(), dunlin(), bittern, bittern), start=1):
        types = {item.name: item.id for item in made.show.of_kind("type")}
        made.do("place free", type=types.get(kind.name) or made.with_type(kind), position=[n, 0, 5])
    for n, (item, _) in enumerate(made.show.fixtures(), start=1):
        made.do("set field", ids=[item.id], field="number", text=str(n))
        if n in PLACES:
            made.do("address", ids=[item.id], start="{}.{:03d}".format(*PLACES[n]))
    return made


@pytest.fixture
def ids(hall):
    return {fixture.number: item.id for item, fixture in hall.show.fixtures()}


def levels(hall, **said):
    """What a console sends that holds these fixtures (`f1`) at these features."""
    out = {universe: bytearray(512) for universe in (1, 2)}
    for _, fixture in hall.show.fixtures():
        if fixture.number in PLACES:
            universe, start = PLACES[fixture.number]
            kind = hall.show.type_of(fixture)
            home = {"dimmer": 0.0} | said.get(f"f{fixture.number}", {})
            data = encode(kind, kind.mode(fixture.mode), home)
            out[universe][start - 1 : start - 1 + len(data)] = data
    return {universe: bytes(slots) for universe, slots in out.items()}


FULL = {"dimmer": 1.0, "red": 1.0, "green": 1.0, "blue": 1.0, "shutter": 1.0}


def test_each_is_asked_for_what_its_mode_can_do(hall):
    assert [(one.number, one.function) for one in steps_of(hall.show)] == [
        (1, "intensity"), (1, "colour"), (1, "position"),
        (2, "intensity"), (2, "colour"), (2, "position"),
        (3, "intensity"),
    ]  # fmt: skip


def test_a_fixture_answers_once_it_has_been_dark_and_bright(hall, ids):
    line = line_of(hall.show)
    check = Check(tuple(Told(step) for step in steps_of(hall.show, [ids[1]])))
    assert check.step.expects == "Fixture 1: take it dark, then to full."
    check = check.seeing(line.look(levels(hall, f1=FULL)))
    assert not check.answered()
    assert check.watches[ids[1]].came("intensity") == "at 100 %; it has not been dark yet"
    check = check.seeing(line.look(levels(hall)))
    assert check.answered()
    check = check.ended("answered")
    assert (check.step.function, check.watches) == ("colour", {})


def test_colour_and_position_answer_once_they_have_moved(hall, ids):
    line = line_of(hall.show)
    check = Check(tuple(Told(step) for step in steps_of(hall.show, [ids[1]])), at=1)
    for cyan, answered in ((0.0, False), (0.02, False), (0.9, True)):
        check = check.seeing(line.look(levels(hall, f1={**FULL, "cyan": cyan})))
        assert check.answered() is answered
    check = check.ended("answered")
    for degrees, answered in ((0.0, False), (4.0, False), (12.0, True)):
        check = check.seeing(line.look(levels(hall, f1={"tilt": math.radians(degrees)})))
        assert check.answered() is answered
    assert "moved by 12." in check.watches[ids[1]].came("position")


def test_an_led_lamp_without_its_colours_is_dark_wherever_its_dimmer_is(hall, ids):
    line = line_of(hall.show)
    out = dict.fromkeys(("red", "green", "blue", "white"), 0.0)
    assert line.look(levels(hall, f2={"dimmer": 1.0, **out}))[ids[2]].level == 0.0
    assert line.look(levels(hall, f2=FULL))[ids[2]].level == 1.0


def test_why_a_fixture_has_not_answered(hall, ids):
    show, line = hall.show, line_of(hall.show)
    check = Check(tuple(Told(step) for step in steps_of(show, [ids[1]])))
    assert cause_of(show, check, [2], moved=False).startswith("Nothing is heard on universe 1")
    assert "from 1.001 on have not moved" in cause_of(show, check, [1, 2], moved=False)
    assert "the same mode" in cause_of(show, check, [1, 2], moved=True)
    for said in (FULL, {}):
        check = check.seeing(line.look(levels(hall, f3=said)))
    assert cause_of(show, check, [1, 2], moved=False).startswith("Fixture 3 did it instead")


def test_in_a_check_of_all_at_once_whoever_lights_up_is_ticked_off(hall, ids):
    show, line = hall.show, line_of(hall.show)
    steps = [step for step in steps_of(show) if step.function == "intensity"]
    check = Check(tuple(Told(step) for step in steps))
    for said in ({}, {"f1": FULL}, {"f3": FULL}):
        check = check.seeing(line.look(levels(hall, **said))).all_that_came()
    assert [one.state for one in check.told] == ["answered", "waits", "answered"]
    check = check.rest_silent(lambda at: f"why {at.step.number}")
    assert [(one.state, one.cause) for one in check.told] == [("answered", ""), ("silent", "why 2"), ("answered", "")]
    assert failures(check) == {ids[2]: "intensity. why 2"}
    assert check.step is None


def test_what_the_doctor_found_of_a_fixture_or_its_universe_stands_with_it(hall, ids):
    check = Check(tuple(Told(step, "silent", cause="Quiet.") for step in steps_of(hall.show)[::3]))
    causes = [
        Cause("dark_shutter", "Its shutter is shut.", "Open it.", 1, (ids[1],)),
        Cause("off_by_one", "It comes one off.", "Land it so.", 2),
    ]
    assert [one.cause for one in with_causes(hall.show, check, causes).told] == [
        "Quiet. The doctor: Its shutter is shut. Open it.",
        "Quiet.",
        "Quiet. The doctor: It comes one off. Land it so.",
    ]


def test_who_failed_stands_in_readiness_until_it_is_checked_again(hall, ids):
    def line():
        return [(one.where, one.wrong) for one in findings(hall.show) if "line check" in one.text]

    before = hall.show
    edit = hall.do("keep check", checked=[ids[1], ids[2]], failed={ids[1]: "intensity. Parked.", ids[2]: "colour."})
    assert edit.sentence == "Check the line: 0 of 2 answered"
    assert line() == [((ids[1],), True), ((ids[2],), True)]
    # Another is looked at: those two still stand. Then one of them answers.
    hall.do("keep check", checked=[ids[3]])
    assert len(line()) == 2
    hall.do("keep check", checked=[ids[1]])
    assert line() == [((ids[2],), True)]
    hall.do("remove", ids=[ids[2]])
    assert line() == []
    hall.show = before


@pytest.mark.parametrize(
    ("can", "function", "first", "then"),
    [
        ({"dimmer", "shutter"}, "intensity", {"dimmer": 0.0}, {"dimmer": 1.0, "shutter": 1.0}),
        ({"red", "green"}, "intensity", {"red": 0.0, "green": 0.0}, {"red": 1.0, "green": 1.0}),
        ({"cyan", "yellow"}, "colour", {"cyan": 0.0, "yellow": 0.0}, {"cyan": 0.0, "yellow": 1.0}),
        ({"red", "blue"}, "colour", {"red": 1.0, "blue": 0.0}, {"red": 0.0, "blue": 1.0}),
        ({"colour slot"}, "colour", {"colour slot": 1.0}, {"colour slot": 2.0}),
    ],
)  # fmt: skip
def test_what_is_sent_for_a_step(can, function, first, then):
    assert asked_values(can, function) == (first, then)
