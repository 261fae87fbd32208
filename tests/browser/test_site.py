"""A small venue built from nothing by hand, undone and done again; drawn, arranged, and gone back to."""

import json
import math

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.processes import wait_for
from zarfwright.core.show import body_from_json
from zarfwright.core.site.crowd import people
from zarfwright.core.site.outline import area_m2
from zarfwright.core.site.things import Crowd


class Gestures:
    """Counts what a person does: a press, a field typed in, a click."""

    def __init__(self, person):
        self.person, self.count = person, 0

    def press(self, name):
        self.count += 1
        self.person.press(name)

    def kind(self, name):
        self.count += 1
        self.person.click(f'//button[@role="radio" and normalize-space(.)="{name}"]', name)

    def type(self, label, text):
        self.count += 1
        self.person.type(label, text, last=True)

    def choose(self, label, words):
        self.count += 1
        self.person.choose(label, words)

    def corner(self, text, way=None):
        """A corner as typed: a place for the first, then a length and a direction."""
        self.count += 1
        line = '//input[@aria-label="First corner" or @aria-label="Length of the next line"]'
        if way is not None:
            direction = '//input[@aria-label="Direction of the next line"]'
            self.person.write(lambda: self.person.find(direction, "the direction"), way, "the direction")
        self.person.write(lambda: self.person.find(line, "the line"), text, "the line")
        self.person.find(line, "the line").send_keys(Keys.ENTER)


def kinds(program):
    found = {}
    for row in program.document()["objects"]:
        found.setdefault(row["kind"], []).append(row)
    return found


def history_key(person, *keys):
    chain = ActionChains(person.driver)
    for key in keys[:-1]:
        chain.key_down(key)
    chain.send_keys(keys[-1])
    for key in reversed(keys[:-1]):
        chain.key_up(key)
    chain.perform()


@pytest.mark.timeout(400)
def test_a_small_venue_is_built_from_nothing(empty, person):
    program = empty
    person.driver.get(f"{program.url}/?scale=0.25&quality=Build")
    person.says("Begin with a venue")
    do = Gestures(person)

    # A deck of six corners, typed.
    do.press("Draw an outline instead")
    for corner, way in (("-4, 0", None), ("8m", "0"), ("5m", "90"), ("2m", "180"), ("1.5m", "90"), ("6m", "180")):
        do.corner(corner, way)
    do.press("Close it")
    do.type("Height", "1.1m")
    do.press("Add a deck of 49.0 m²")
    deck = wait_for(lambda: kinds(program).get("deck"), "the deck")[0]["body"]
    # 8 x 5 and 6 x 1.5 by hand.
    assert area_m2([tuple(corner) for corner in deck["corners"]]) == pytest.approx(49.0)
    assert deck["position"] == pytest.approx([0.0, 3.25, 0.0])

    # A wall along two lines.
    do.kind("Wall")
    do.press("Draw an outline instead")
    for corner, way in (("-6, 8", None), ("12m", "0"), ("4m", "-90")):
        do.corner(corner, way)
    do.press("Add 1 wall")
    wait_for(lambda: kinds(program).get("wall"), "the wall")

    # Two level trusses, a raked one, a ring.
    do.kind("Truss")
    do.type("US / DS", "1m")
    do.press("Add 1 truss")
    wait_for(lambda: len(kinds(program).get("truss", [])) == 1, "a truss")
    do.type("US / DS", "5m")
    do.press("Add 1 truss")
    wait_for(lambda: len(kinds(program)["truss"]) == 2, "the second")
    do.type("Far end, raked", "5m")
    do.type("US / DS", "DS 3")
    do.press("Add 1 raked truss")
    wait_for(lambda: len(kinds(program)["truss"]) == 3, "the raked one")
    do.choose("Form", "ring")
    do.type("Far end, raked", "6m")
    do.press("Add 1 ring")
    trusses = wait_for(lambda: (t := kinds(program)["truss"]) and len(t) == 4 and t, "the ring")
    rake = next(t["body"]["rake_deg"] for t in trusses if abs(t["body"]["rake_deg"]) > 0.01)
    assert rake == pytest.approx(-math.degrees(math.asin(1 / 8)))

    # Two areas of people, one with an aisle.
    do.kind("Crowd")
    do.type("Width", "8m")
    do.type("US / DS", "DS 8")
    do.type("Middle aisle", "1.2m")
    # 7.5 m of seats at 0.55 m, less the aisle and a body on either side of it.
    do.press("Add ")
    wait_for(lambda: len(kinds(program).get("crowd", [])) == 1, "the first crowd")
    do.type("Middle aisle", " ")
    do.type("US / DS", "DS 13")
    do.press("Add ")
    crowds = wait_for(lambda: (c := kinds(program)["crowd"]) and len(c) == 2 and c, "the second crowd")
    assert do.count < 40

    counts = []
    for row in sorted(crowds, key=lambda one: one["ord"]):
        crowd = body_from_json("crowd", json.dumps(row["body"]))
        assert isinstance(crowd, Crowd)
        counts.append(people(crowd).count)
        drawn = [key for key in program.document()["scene"] if key["id"].startswith(row["id"])]
        assert len(drawn) == counts[-1]
    # 8 m wide: 7.5 m of middles, at 0.55 m 14 seats a row; 3 m deep: 2.5 m take three rows. The aisle takes all whose
    # middle is within 0.6 + 0.25 m of its own: those at 0.275 and 0.825 m on either side, four in each row.
    assert counts == [3 * 10, 3 * 14]
    person.settle()
    solids = person.report()["solids"]
    assert solids == 1 + 1 + 4 + sum(counts)

    # All of it is undone and done again.
    after = {row["id"]: row["body"] for row in program.document()["objects"]}
    person.click("//h2", "the card")
    for left in range(8, 0, -1):
        history_key(person, Keys.CONTROL, "z")
        wait_for(
            lambda wanted=left: sum(len(v) for k, v in kinds(program).items() if k != "show") == wanted - 1,
            f"{left - 1} things left",
        )
    person.says("Begin with a venue")
    for there in range(1, 9):
        history_key(person, Keys.CONTROL, Keys.SHIFT, "z")
        wait_for(
            lambda wanted=there: sum(len(v) for k, v in kinds(program).items() if k != "show") == wanted,
            f"{there} things there",
        )
    assert {row["id"]: row["body"] for row in program.document()["objects"]} == after


@pytest.mark.timeout(300)
def test_a_starter_is_arranged_and_gone_back_from(empty, person):
    program = empty
    person.driver.get(f"{program.url}/?scale=0.25&quality=Build")
    person.says("Begin with a venue")
    person.choose("Kind", "shed")
    person.press("Begin with a shed")
    wait_for(lambda: len(kinds(program).get("truss", [])) == 4, "the shed")
    person.press("History")
    field = person.find('//input[@aria-label="Name of a restore point"]', "the name")
    field.send_keys("As it came", Keys.ENTER)
    person.find('//button[normalize-space(.)="Go back to it"]', "the point")
    field.send_keys(Keys.ESCAPE)
    person.row("Stage")
    person.type("Each SL by", "14m")
    person.press("Make 1 copy")
    stages = wait_for(lambda: (d := kinds(program)["deck"]) and len(d) == 2 and d, "the copy")
    assert sorted(d["body"]["position"][0] for d in stages) == pytest.approx([0.0, 14.0])
    person.choose("By", "turn, join")
    person.type("Degrees", "90")
    person.press("Each about itself")
    wait_for(lambda: any(d["body"]["turn_deg"] == 90 for d in kinds(program)["deck"]), "the turned copy")
    person.press("History")
    person.press("Go back to it")
    wait_for(lambda: len(kinds(program)["deck"]) == 1, "the show as it came")
    person.says("Go back:")


def box_in_plan(person, start, end, *keys):
    """Draw a box from one place of the plan to another, with keys held."""
    places = [person.stage("where", "side", [*point, 0.0]) for point in (start, end)]
    canvas = person.driver.find_elements(By.TAG_NAME, "canvas")[1]
    size = canvas.rect
    (x0, y0), (x1, y1) = [(round(at["x"]), round(at["y"])) for at in places]
    chain = ActionChains(person.driver, duration=60)
    for key in keys:
        chain.key_down(key)
    chain.move_to_element_with_offset(canvas, x0 - round(size["width"] / 2), y0 - round(size["height"] / 2))
    chain.click_and_hold().move_by_offset((x1 - x0) // 2, (y1 - y0) // 2)
    chain.move_by_offset(x1 - x0 - (x1 - x0) // 2, y1 - y0 - (y1 - y0) // 2).release()
    for key in keys:
        chain.key_up(key)
    chain.perform()


@pytest.mark.timeout(300)
def test_a_box_selects_and_what_is_found_is_put_right(empty, person):
    """What is inside, with Shift what it touches, never what is locked."""
    program = empty
    near = program.edit("add deck", width="2m", depth="2m", x="SR 3", name="Near")["select"][0]
    program.edit("add deck", width="6m", depth="2m", x="SL 3", name="Wide")
    program.edit("add wall", corners=[[0, 6, 0], [6, 6.1, 0]], name="Back wall")
    person.open(program.url)
    person.says("off straight across")
    person.press("Put it straight")
    wait_for(lambda: kinds(program)["wall"][0]["body"]["corners"][1][1] == 6, "the wall to be straight")

    box = ((-5.0, 2.5), (2.0, -2.5))
    box_in_plan(person, *box)
    person.says("1 of 3 selected")
    person.says("Near")
    box_in_plan(person, *box, Keys.SHIFT)
    person.says("2 of 3 selected")
    program.edit("add layer", name="Fixed")
    layer = kinds(program)["layer"][0]["id"]
    program.edit("to layer", ids=[near], layer=layer)
    program.edit("set layer", id=layer, locked=True)
    person.row("Wide")
    box_in_plan(person, *box, Keys.SHIFT)
    person.says("1 of 3 selected")

    field = '//section[@aria-label="Bench"]//input[@aria-label="Filter"]'
    person.write(lambda: person.find(field, "the filter"), "wall", "the filter")
    person.press("Select 1 thing")
    person.says("1 of 1 selected")


@pytest.mark.timeout(300)
def test_a_new_show_is_begun_in_feet_and_the_older_one_opened_again(empty, person):
    program = empty
    program.edit("set show", name="Older show")
    program.edit("add deck", width="4m", depth="4m", name="Raft")
    person.open(program.url)
    person.click('//button[@data-part="show"]', "the show")
    field = person.find('//label[normalize-space(.)="Its name"]/following::input[1]', "the name")
    field.send_keys("Newer show")
    units = person.find('//label[normalize-space(.)="Its units"]/following::select[1]', "the units")
    units.find_element(By.XPATH, './option[contains(., "feet")]').click()
    person.press("Begin Newer show")
    heading = "return document.querySelector('h1')?.textContent"
    wait_for(lambda: person.driver.execute_script(heading) == "Newer show", "the newer show")
    person.says("Begin with a venue")
    now = program.get("/api/shows")[0]
    assert now["name"] == "Newer show"
    document = program.get(f"/api/shows/{now['id']}?who=tester")
    assert next(r["body"]["system"] for r in document["objects"] if r["kind"] == "show") == "imperial"
    assert (program.file.parent / "Newer show.zarf").exists()

    person.click('//button[@data-part="show"]', "the show")
    person.says("Older show")
    person.click('//*[contains(text(), "Older show")]/..//button[normalize-space(.)="Open"]', "open")
    wait_for(lambda: person.driver.execute_script(heading) == "Older show", "the older show")
    person.row("Raft")
    ActionChains(person.driver).send_keys(Keys.ESCAPE).perform()
