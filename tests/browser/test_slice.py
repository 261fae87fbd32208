"""The thinnest slice, end to end, in the real browser against the real processes."""

from __future__ import annotations

import csv
import io
import math
from typing import Any

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.processes import sender, stop, wait_for


def things(program: Any, kind: str) -> dict[str, Any]:
    return {row["id"]: row["body"] for row in program.document()["objects"] if row["kind"] == kind}


def named(program: Any, kind: str, name: str) -> tuple[str, Any]:
    return next((key, body) for key, body in things(program, kind).items() if body["name"] == name)


def by_number(program: Any, number: int) -> str:
    return next(key for key, body in things(program, "fixture").items() if body["number"] == number)


def candela(beam: Any) -> float:
    return float(np.dot(beam["candela"], [0.2127, 0.7152, 0.0722]))


def off_the_line(beam: Any, place: list[float]) -> float:
    """How far a beam passes by a place, metres."""
    to = np.subtract(place, beam["lens"])
    return float(np.linalg.norm(to - np.dot(to, beam["along"]) * np.array(beam["along"])))


def card_of(person):
    """What the card is about."""
    return person.driver.find_element(By.CSS_SELECTOR, "aside h2").text


def it_opens_lit(program, person):
    """The demo opens, lit, with the frame around it."""
    person.open(program.url)
    person.says("The Lamplighter's Tide")
    document = program.document()
    assert person.settle()["solids"] == len(document["scene"])
    lamps = things(program, "fixture").keys()
    person.beams_until(
        lambda beams: beams.keys() == lamps and all(candela(b) > 1 for b in beams.values()), "all fixtures lit"
    )
    person.find("//nav//button//*[contains(text(), 'to do')]", "what there is to do")


def things_are_added(program, person):
    """Site: typed sizes with units; a wrong one is told and loses nothing. Gives the truss."""
    person.go("Site")
    person.type("Width", "6 cubits")
    person.type("Depth", "20'6\"")
    person.type("Height", "450mm")
    person.type("SL / SR", "SR 6")
    person.type("US / DS", "DS 3")
    person.press("Add 1 deck")
    person.says("the unit “cubits” is not known")
    assert person.field("Depth").get_attribute("value") == "20'6\""
    person.type("Width", "6")
    person.press("Add 1 deck")
    _, body = wait_for(
        lambda: next(iter([p for p in things(program, "deck").items() if p[1]["name"] == "Deck 1"]), None), "the deck"
    )
    assert (body["width_m"], body["depth_m"], body["height_m"]) == pytest.approx((6, 6.2484, 0.45))

    person.press("Truss")
    person.type("Name", "Truss 9", last=True)
    person.type("Length", "10m", last=True)
    person.type("Trim", "7m", last=True)
    person.type("Far end, raked", "6m", last=True)
    person.type("US / DS", "US 5", last=True)
    person.press("Add 1 raked truss")
    truss, body = wait_for(
        lambda: next(iter([p for p in things(program, "truss").items() if p[1]["name"] == "Truss 9"]), None),
        "the truss",
    )
    assert body["rake_deg"] == pytest.approx(-math.degrees(math.asin(0.1)))

    there = len(things(program, "figure"))
    person.press("People")
    person.type("SL / SR", "SL 1", last=True)
    person.type("US / DS", "US 2", last=True)
    person.type("Stands at", "1.1", last=True)
    person.press("Add 1 person")
    wait_for(lambda: len(things(program, "figure")) == there + 1, "the figure")
    return truss


def they_are_selected_and_moved(program, person):
    """Selected in the bench and on the stage; moved by a handle and by typing; undone and made again."""
    # Select in the bench, then on the stage.
    person.row("Deck 1")
    wait_for(lambda: card_of(person) == "Deck 1", "the deck's card")
    person.settle()
    person.click_place([-4.5, 2.0, 1.1])
    wait_for(lambda: card_of(person) == "Main deck", "the main deck to be selected")

    # Move by handle, by typing; undo and redo.
    person.row("Deck 1")
    person.settle()
    person.drag("SL", 40, 0, pane=1)
    moved = wait_for(
        lambda: named(program, "deck", "Deck 1")[1]["position"][0] > -5.9 and named(program, "deck", "Deck 1")[1],
        "the drag",
    )
    assert moved["position"][0] * 10 == pytest.approx(round(moved["position"][0] * 10), abs=1e-6)
    assert moved["position"][1] == pytest.approx(-3)
    person.type("SL / SR", "SR 6.5", enter=True)
    wait_for(lambda: named(program, "deck", "Deck 1")[1]["position"][0] == -6.5, "the typed place")
    person.press("Undo")
    wait_for(lambda: named(program, "deck", "Deck 1")[1]["position"] == moved["position"], "undo")
    person.press("Redo")
    wait_for(lambda: named(program, "deck", "Deck 1")[1]["position"][0] == -6.5, "redo")


def three_are_hung(program, person, truss):
    """Hang three on the slope; they go with the truss. Gives the three."""
    person.row("Truss 9")
    person.go("Hang")
    person.choose("Type", "Dunlin")
    person.choose("On", "Truss 9")
    person.type("How many", "3")
    person.type("First number", "201")
    person.press("Place 3 Dunlins")
    ids = wait_for(lambda: [by_number(program, n) for n in (201, 202, 203)], "three")
    mounts = program.document()["mounts"]
    along = np.array([mounts[i]["position"] for i in ids])
    assert along[1] == pytest.approx([0.0, 4.8, 6.5], abs=1e-3)
    slope = math.asin(-0.1)
    assert along[2] - along[1] == pytest.approx(np.array([math.cos(slope), 0, math.sin(slope)]) * 10 / 3, abs=1e-6)
    program.edit("move", ids=[truss], by=[0.0, 0.5, 0.3])
    wait_for(lambda: person.beam(ids[1])["lens"][1] > 5.2, "the picture to follow the truss")
    wait_for(lambda: person.beam(ids[1])["lens"][1] == pytest.approx(5.3, abs=0.1), "it to be there")
    return ids


def they_are_aimed(program, person, ids):
    """Aim: click the deck, all three point there; who cannot reach is named."""
    person.go("Aim")
    person.press("Aim 3 fixtures")
    person.settle()
    place = [1.6, 3.0, 1.1]
    # Near enough in plan for a pixel to be less than 45 mm: the place is hit to less than that.
    person.driver.execute_script(
        "const s = window.zarfwrightStage, v = s.viewpoint('side');"
        "s.setViewpoint('side', { ...v, height: 16, target: v.target.clone().set(0, 3, 0) });"
    )
    person.settle()
    person.click_place(place, "side")
    person.beams_until(lambda beams: all(off_the_line(beams[i], place) < 0.06 for i in ids), "three beams on the place")
    assert all(np.dot(person.beam(i)["along"], np.subtract(place, person.beam(i)["lens"])) > 0 for i in ids)
    person.press("Click a place")
    person.press("As a table")
    person.row("86")
    person.press("Aim 1 fixture")
    person.settle()
    person.click_place([-6.5, 4.0, 8.84])
    person.says("Fixture 86 cannot reach")
    person.press("Let go of")
    wait_for(lambda: not things(program, "fixture")[by_number(program, 86)]["hands"], "86 to be released")


def they_are_patched(program, person, ids):
    """Patch: numbers and addresses in sequence, the universe as 512 slots, a conflict."""
    person.go("Patch")
    person.press("List")
    person.row("201")
    person.click('//section[@aria-label="Bench"]//td[normalize-space(.)="203"]', "203", held=Keys.SHIFT)
    person.type("From", "301")
    person.press("Number 3 fixtures")
    wait_for(lambda: {301, 302, 303} <= {b["number"] for b in things(program, "fixture").values()}, "the numbers")
    person.type("Start at", "5.001")
    person.press("Address 3 fixtures")
    wait_for(lambda: things(program, "fixture")[ids[2]]["address"] == 23, "the addresses")
    person.press("Show universe 5")
    wait_for(lambda: len(person.driver.find_elements(By.CSS_SELECTOR, "[data-slot]")) == 512, "512 slots")
    taken = "[data-slot]:not([data-tone=empty])"
    # Three of eleven slots.
    wait_for(lambda: len(person.driver.find_elements(By.CSS_SELECTOR, taken)) == 3 * 11, "33 slots that are taken")
    program.edit("address", ids=[ids[2]], start="5.020")
    wait_for(
        lambda: len(person.driver.find_elements(By.CSS_SELECTOR, "[data-tone=conflict]")) == 3,
        "three slots in conflict",
    )
    person.says("Fixture 302 and fixture 303 share slots 20 to 22 of universe 5")
    program.post("/api/shows/SHOW/undo", {"who": "tester"})
    wait_for(lambda: not person.driver.find_elements(By.CSS_SELECTOR, "[data-tone=conflict]"), "no conflict")


def they_are_plugged(program, person):
    """Patch: a lamp dragged from one dimmer to another is driven with the one that is on that."""
    person.press("Dimmers")
    one, other = (
        wait_for(lambda n=n: person.driver.find_element(By.CSS_SELECTOR, f"[data-dimmer='{n}']"), "a dimmer")
        for n in (1, 2)
    )
    drag = ActionChains(person.driver, duration=50).click_and_hold(one).move_by_offset(9, 5)
    drag.move_to_element(other).perform()
    person.says("to dimmer 2")
    ActionChains(person.driver).release().perform()
    lamp = next(key for key, body in things(program, "fixture").items() if body["number"] == 21)
    wait_for(lambda: things(program, "fixture")[lamp]["address"] == 402, "fixture 21 at the address of dimmer 2")
    wait_for(lambda: "21, 22" in person.driver.find_element(By.CSS_SELECTOR, "[data-dimmer='2']").text, "both on it")
    program.post("/api/shows/SHOW/undo", {"who": "tester"})


def the_console_drives(program, person, heron):
    """Signal: the simulated console drives the picture; when it stops the last levels are held, and it is said."""
    person.go("Signal")
    person.press("Start with this patch")
    person.says("Editor: nothing", 30)
    person.press("Next cue")
    person.says("Cue 1, Slack Water: dark")
    # It fades in from white: blue is what it comes to.
    person.beams_until(
        lambda beams: candela(beams[heron]) > 0.1 and beams[heron]["candela"][2] > beams[heron]["candela"][0],
        "cue 1, slack water, in blue",
    )
    person.press("Next cue")
    person.says("Cue 2, Slack Water: the water moves")
    person.beams_until(lambda beams: abs(beams[heron]["along"][1]) > 0.3, "61 to swing out")
    # Playing goes on by itself; stopped, it stays.
    person.press("Play")
    person.says("Cue 3, Slack Water: first lamp", 30)
    person.press("Stop")
    person.press("Mapping")
    person.type("Fixture", "61")
    person.type("Level, %", "0")
    person.press("Set the level")
    person.beams_until(lambda beams: candela(beams[heron]) < 1, "61 out by hand")
    person.press("Levels")
    person.says("sACN from")
    slot = '[data-slot="6"]'
    # The shutter of 61 stands open at 32.
    wait_for(lambda: person.driver.find_element(By.CSS_SELECTOR, slot).text == "32", "the level of slot 6")
    ActionChains(person.driver).move_to_element(person.driver.find_element(By.CSS_SELECTOR, slot)).perform()
    person.says("from Simulated console, priority 100")
    # Whatever is touched on the console is found.
    person.press("Find what moves")
    person.says("Touch something on the console.")
    person.type("Level, %", "40")
    person.press("Set the level")
    found = person.find('//*[@aria-label="What moves"]//button[contains(., "1.005")]', "the slot that moved")
    assert found.text.split("\n")[1:] == ["61 Dimmer", "0 to 102"]
    person.type("Level, %", "0")
    person.press("Set the level")
    person.press("Shut Simulated console down")
    person.says("Levels held")
    person.says("Simulated console stopped. The last levels are held.")
    assert candela(person.beam(by_number(program, 62))) > 1


def another_desk_drives_and_is_kept(program, person, heron):
    """Any other sender works just as well; what is seen is kept as a look."""
    other = sender(program, name="Quay desk")
    try:
        # Whatever cue the console was stopped in: the other universes are dark.
        for universe in (2, 3, 4, 5):
            other.activate_output(universe)
            other[universe].destination = program.sacn_address
        # 61 and 62 straight down, open, without green and blue.
        red_down = (128, 0, 128, 0, 255, 32, 0, 255, 255)
        other[1].dmx_data = (*red_down, *[0] * 7, *red_down)
        person.says("Quay desk")
        red = person.beams_until(lambda beams: beams[heron]["candela"][0] > 1000, "61 in red from the other desk")[
            heron
        ]
        assert red["candela"][1] == pytest.approx(0, abs=red["candela"][0] * 0.02)
        assert red["along"] == pytest.approx([0, 0, -1], abs=0.01)
        # 7. Keep what is seen as a look.
        person.go("Looks")
        person.type("Name", "Red watch")
        person.press("Keep this picture as a look")
        wait_for(lambda: any(b["name"] == "Red watch" for b in things(program, "look").values()), "the look")
    finally:
        stop(other)


def looks_are_recalled(program, person, heron):
    """Another look, and the kept one again, without any console; its pool is where the beam lands."""
    # Recall another, and it again, without any console.
    person.press("Recall Ebb")
    ebb = program.look_values(named(program, "look", "Ebb")[0])[heron]
    person.beams_until(
        lambda beams: beams[heron]["candela"][0] > 100 and beams[heron]["candela"][1] > 10, "the look Ebb"
    )
    assert ebb["dimmer"] == pytest.approx(0.4)
    person.says("Look over the console")
    person.press("Recall Red watch")
    person.beams_until(lambda beams: abs(beams[heron]["along"][2] + 1) < 0.001, "the kept look")

    # The pool is where the beam lands, in its colour; beside it is none.
    person.settle()
    lens = person.beam(by_number(program, 62))["lens"]
    spot = person.stage("where", "main", [lens[0], lens[1], 1.1])
    lit = person.stage("pixels", "main", spot["x"], spot["y"])
    assert lit[0] > 60
    assert lit[0] > 2 * lit[1]


def two_looks_are_reviewed(program, person, heron):
    """Review: from a seat, two looks beside each other, saved as PNG."""
    person.go("Review")
    person.press("Look from here: Row A, seat 2, Stalls SL")
    wait_for(lambda: person.report()["panes"][0]["eye"] == pytest.approx([2.8, -3.2, 1.2]), "the seat")
    person.press("Compare")
    person.choose("On the left", "1, Slack Water")
    person.choose("On the right", "2, Flood")
    person.press("Show both from here")
    panes = wait_for(
        lambda: person.report()["panes"] if person.report()["panes"][1]["view"] == "free" else None, "both looks"
    )
    assert panes[0]["picture"] != panes[1]["picture"]
    assert panes[1]["eye"] == pytest.approx(panes[0]["eye"])
    left = person.beams_until(lambda beams: candela(beams[heron]) > 1, "Slack Water on the left", 0)[heron]
    right = person.beams_until(lambda beams: candela(beams[heron]) > 1, "Flood on the right", 1)[heron]
    assert left["candela"][2] > left["candela"][0]
    assert right["candela"][0] > right["candela"][2]
    person.choose("Size", "540p")
    person.press("Save as PNG")
    picture = wait_for(lambda: next(iter(person.downloads.glob("*.png")), None), "the PNG")
    assert "Slack Water" in picture.name
    image = wait_for(lambda: _opened(picture), "the whole PNG")
    assert image.size == (960, 540)
    assert np.asarray(image.convert("RGB")).max() > 60


def the_patch_is_saved(person):
    """Papers: the patch list as CSV."""
    person.go("Papers")
    person.press("Lists")
    person.press("Save the patch list")
    paper = wait_for(lambda: next(iter(person.downloads.glob("*.csv")), None), "the CSV")
    rows = list(csv.DictReader(io.StringIO(paper.read_text(encoding="utf-8-sig"))))
    assert [(row["Number"], row["Universe"], row["Address"]) for row in rows if row["Number"].startswith("30")] == [
        ("301", "5", "1"), ("302", "5", "12"), ("303", "5", "23"),
    ]  # fmt: skip


@pytest.mark.timeout(420)
def test_a_rig_from_site_to_papers(program, person):
    it_opens_lit(program, person)
    truss = things_are_added(program, person)
    they_are_selected_and_moved(program, person)
    ids = three_are_hung(program, person, truss)
    they_are_aimed(program, person, ids)
    they_are_patched(program, person, ids)
    they_are_plugged(program, person)
    program.edit("release", ids=ids)
    heron = by_number(program, 61)
    the_console_drives(program, person, heron)
    another_desk_drives_and_is_kept(program, person, heron)
    looks_are_recalled(program, person, heron)
    two_looks_are_reviewed(program, person, heron)
    the_patch_is_saved(person)


def _opened(path: Any) -> Image.Image | None:
    try:
        image = Image.open(path)
        image.load()
    except OSError:
        return None
    return image
