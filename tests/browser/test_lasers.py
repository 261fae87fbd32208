"""A person numbers twelve lasers by place, gives them zones with a spread, plays a feed, verifies them one by one, and
cuts their zones clear of people."""

import pytest

from tests.processes import wait_for
from zarfwright.library import stilt

ROWS = "return [...window.zarfwrightStage.state.lasers.rows.keys()].length"


def laser_of(program, key):
    return next(one for one in program.document()["objects"] if one["id"] == key)["body"]["laser"]


def drawn(person) -> int:
    """How many lasers draw something in the picture."""
    return int(person.driver.execute_script(ROWS))


def select_all_lasers(person, count):
    person.go("Hang")
    person.write(lambda: person.find('//input[@aria-label="Filter"]', "the filter"), "stilt", "the filter")
    person.press(f"Select {count} things")
    person.go("Aim")


@pytest.mark.timeout(600)
def test_twelve_lasers_are_numbered_zoned_played_verified_and_cut_clear_of_people(empty, person):
    program = empty
    kind = program.add_type(stilt())
    heads = {}
    for name, trim, first in (("Lower truss", "4m", 1), ("Upper truss", "7m", 7)):
        truss = program.edit("add truss", name=name, length="10m", start_trim=trim, y="US 6")["select"][0]
        heads[name] = program.edit(
            "place along rail", structure=truss, type=kind, count="6", first_number=str(first), ends="margin",
            margin="1m",
        )["select"]  # fmt: skip
    for name, high in (("Lower truss", 3.8), ("Upper truss", 6.8)):
        for one in heads[name]:
            program.edit("aim at", ids=[one], point=[0, -24, high])
    program.edit("add figures", pose="standing", rows="2", columns="6", y="DS 12", pitch="1m")
    everyone = [*heads["Upper truss"], *heads["Lower truss"]]
    program.edit("hold values", ids=everyone, values={"dimmer": 1.0, "red": 1.0, "green": 1.0, "blue": 1.0})
    program.edit("set field", ids=everyone, field="zone height", text="40")
    person.open(program.url)
    select_all_lasers(person, 12)
    person.press("Number 12 feeds by place")
    # Read from the house: the upper row from stage right, then the lower one.
    wait_for(lambda: [(laser_of(program, one) or {}).get("feed") for one in everyone] == [*range(1, 13)], "the feeds")
    person.type("To the right", "-11 to 11", enter=True)
    across = [2.0 * i - 11.0 for i in range(12)]

    def spread() -> bool:
        found = sorted(laser_of(program, one)["zone"]["across_deg"] for one in everyone)
        return found == pytest.approx(across)

    wait_for(spread, "the zones to be spread")
    person.choose("Simulated feed", "circles")
    person.press("Play the simulated feed")
    wait_for(lambda: drawn(person) == 12, "twelve figures")
    # One after the other, with all others dark.
    person.press("Verify one by one")
    person.says("alone, 1 of 12: all others are dark")
    wait_for(lambda: drawn(person) == 1, "one alone")
    person.press("Next")
    person.says("alone, 2 of 12: all others are dark")
    person.press("Done")
    wait_for(lambda: drawn(person) == 12, "all of them again")
    # Who stands in their light is told, and cut out of it.
    person.says("crosses")
    person.says("no proof of safety")
    assert people_reached(program)
    cut = person.find('//aside//button[starts-with(normalize-space(.), "Cut ")]', "the cut")
    person.press(cut.text.strip())
    # What is left to be told is only of the open: this show has no walls.
    wait_for(lambda: not people_reached(program), "nobody in the light")
    assert all(laser_of(program, one)["zone"]["bottom"] > -1 for one in heads["Lower truss"])
    person.press("Stop the simulated feed")
    wait_for(lambda: drawn(person) == 0, "darkness")
    assert person.errors() == []


def people_reached(program):
    told = program.get("/api/shows/SHOW/lasers")["heads"]
    return [one for head in told for one in head["crossings"] if one["what"] == "people" and one["over"]]
