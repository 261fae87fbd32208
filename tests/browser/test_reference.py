"""The reference venue by hand, from an empty show to a changed rig: what it takes is counted."""

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.test_hang import BENCH, fixtures, on_it
from tests.browser.test_site import Gestures, kinds
from tests.processes import wait_for

MOST = 110


class Hands(Gestures):
    """A person's hands: every press, click, choice and field typed in is one gesture."""

    def step(self, name):
        self.count += 1
        self.person.go(name)

    def row(self, words):
        self.count += 1
        self.person.row(words)

    def rows(self, first, last):
        """From one fixture's row of the bench to another's."""
        self.count += 2
        cells = [f'{BENCH}//td[1][normalize-space(.)="{n}"]' for n in (first, last)]
        self.person.click(cells[0], f"the row {first}", "center")
        self.person.says("1 of ")
        self.person.click(cells[1], f"the row {last}", held=Keys.SHIFT)
        self.person.says(f"{last - first + 1} of ")

    def aside(self, name):
        self.count += 1
        self.person.click(f'//aside//button[@role="radio" and normalize-space(.)="{name}"]', name)


def there(program, kind, count):
    return wait_for(
        lambda: (found := kinds(program).get(kind, [])) and len(found) == count and found, f"{count} {kind}"
    )


def the_room_is_built(do, program):
    do.kind("Wall")
    do.type("Width", "14")
    do.type("Depth", "9")
    do.type("Height", "5")
    do.press("Add 1 wall")
    there(program, "wall", 1)
    do.aside("Change")
    do.press("Cut a door or window")
    do.choose("On the", "DS side, 14.00 m")
    do.type("Middle at", "3")
    do.type("Width", "1.4")
    do.press("Cut a door 1.40 m × 2.10 m")
    wait_for(lambda: kinds(program)["wall"][0]["body"]["openings"], "the door")

    do.aside("Add")
    do.kind("Deck")
    do.type("Width", "8")
    do.type("US / DS", "US 2.5")
    do.type("Height", "0.6")
    do.press("Add 1 deck")
    there(program, "deck", 1)

    do.kind("Truss")
    do.type("Trim", "4")
    do.type("US / DS", "US 3.5")
    do.press("Add 1 truss")
    there(program, "truss", 1)
    do.type("US / DS", "US 1")
    do.press("Add 1 truss")
    there(program, "truss", 2)
    do.type("Far end, raked", "3.2")
    do.type("US / DS", "DS 1.5")
    do.press("Add 1 raked truss")
    there(program, "truss", 3)
    do.choose("Form", "ring")
    do.type("Diameter", "3")
    do.type("Far end, raked", " ")
    do.type("US / DS", "US 2")
    do.press("Add 1 ring")
    there(program, "truss", 4)

    do.kind("Crowd")
    do.type("Width", "8")
    do.type("US / DS", "DS 2.2")
    do.type("How many", "36")
    do.press("Add 36 people")
    there(program, "crowd", 1)
    do.choose("They are", "standing")
    do.type("Depth", "1")
    do.type("US / DS", "DS 3.8")
    do.type("How many", "10")
    do.press("Add 10 people")
    there(program, "crowd", 2)

    do.kind("Scenery")
    do.type("SL / SR", "SR 3")
    do.type("US / DS", "US 3.8")
    do.press("Add 1 flat")
    there(program, "piece", 1)
    do.choose("Piece", "table")
    do.type("Stands at", "0.6")
    do.type("US / DS", "US 3")
    do.press("Add 1 table")
    there(program, "piece", 2)
    do.kind("People")
    do.type("US / DS", "US 1.5")
    do.type("Stands at", "0.6")
    do.press("Add 1 person")
    there(program, "figure", 1)


def the_rig_is_hung(do, program):
    do.step("Hang")
    do.press("Types and type shop")
    for name in ("Heron", "Dunlin", "Plover"):
        do.count += 1
        do.person.click(f'//*[@data-type="{name}"]//button[normalize-space(.)="Add to the show"]', name)
        wait_for(lambda wanted=name: any(t["name"] == wanted for t in program.document()["types"].values()), name)
    do.press("Back to the show")
    do.type("How many", "8")
    for name, structure, first in (("Heron", "Truss 1", 1), ("Dunlin", "Truss 2", 11), ("Plover", "Truss 3", 21)):
        do.choose("Type", name)
        if structure != "Truss 1":
            # Those of the second stand on top of it.
            do.choose("On", structure)
            do.choose("Rail", "upper right" if structure == "Truss 2" else "lower right")
            do.choose("Side of rail", "upper" if structure == "Truss 2" else "under")
        do.type("First number", str(first))
        do.press(f"Place 8 {name}s")
        there(program, "fixture", 8 * (1 + first // 10))


def the_rig_is_changed(do, program):
    person = do.person
    # Arranged half a step in, on the line that they are on.
    do.rows(1, 8)
    do.aside("Arrange")
    do.press("Arrange 8 things")
    do.aside("Half in")
    do.press("Arrange 8 things")
    do.press("Done")
    # A truss on a carrier, which moves with all that hangs there.
    do.step("Site")
    do.row("Truss 3")
    do.step("Hang")
    do.aside("Carry")
    do.press("Make a carrier of 1 thing")
    there(program, "carrier", 1)
    _, was = fixtures(program)
    do.type("SL / SR", "+0.5")
    person.field("SL / SR").send_keys(Keys.ENTER)
    wait_for(
        lambda: fixtures(program)[1][21]["position"][0] == pytest.approx(was[21]["position"][0] + 0.5), "it to move"
    )
    assert len(on_it(program)) == 1
    # Four get another type.
    do.rows(1, 4)
    do.aside("Change")
    do.press("Another type for 4 fixtures")
    do.choose("To", "Plover")
    do.press("Swap 4 fixtures to Plover")


@pytest.mark.timeout(500)
def test_the_reference_venue_takes_few_gestures(empty, person):
    program = empty
    person.driver.get(f"{program.url}/?scale=0.25&quality=Build&rests")
    person.says("Begin with a venue")
    do = Hands(person)
    the_room_is_built(do, program)
    room = do.count
    the_rig_is_hung(do, program)
    hung = do.count
    the_rig_is_changed(do, program)
    types = {key: value["name"] for key, value in program.document()["types"].items()}
    wait_for(
        lambda: [types[fixtures(program)[0][n]["body"]["type"]] for n in (1, 4, 5)] == ["Plover", "Plover", "Heron"],
        "the swap",
    )
    print(f"{room} for the room, {hung - room} for the rig, {do.count - hung} for its changes: {do.count} gestures")
    assert do.count < MOST
    document = program.document()
    crowds = [key["id"].split("/")[0] for key in document["scene"] if "/" in key["id"] and key["kind"] == "crowd"]
    assert sorted(crowds.count(one) for one in set(crowds)) == [10, 36]
    # Built so, nothing is wrong with it; no fixture has an address yet, and nothing is aimed.
    told = {step: [f["text"] for f in document["findings"] if f["step"] == step] for step in ("aim", "patch")}
    assert sum(map(len, told.values())) == len(document["findings"])
    assert all("has no address" in text for text in told["patch"])
    assert all("never aimed" in text for text in told["aim"])
