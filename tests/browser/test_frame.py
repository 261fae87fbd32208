"""The frame around the steps: find/do, keys, panes, fields that keep what was typed, files that are none."""

from __future__ import annotations

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.processes import wait_for
from zarfwright.formats.gdtf import write_gdtf
from zarfwright.library import heron


def press_keys(person, *keys, ctrl=False, alt=False, shift=False):
    chain = ActionChains(person.driver)
    held = [key for key, on in ((Keys.CONTROL, ctrl), (Keys.ALT, alt), (Keys.SHIFT, shift)) if on]
    for key in held:
        chain.key_down(key)
    chain.send_keys(*keys)
    for key in held:
        chain.key_up(key)
    chain.perform()


def step(person):
    return person.driver.find_element(By.CSS_SELECTOR, "nav [aria-current=step]").text.split("\n")[0].split()[0]


@pytest.mark.timeout(240)
def test_everything_can_be_found_and_done_from_the_keyboard(program, person):
    person.open(program.url)
    press_keys(person, "6", alt=True)
    wait_for(lambda: step(person) == "Looks", "Alt+6 to go to Looks")
    press_keys(person, "k", ctrl=True)
    box = person.find('//input[@aria-label="What to find or do"]', "find or do")
    box.send_keys("fixture 64", Keys.ENTER)
    wait_for(lambda: step(person) == "Hang", "the step of fixture 64")
    person.find('//aside//*[starts-with(normalize-space(.), "Fixture 64")]', "fixture 64 on the card")
    press_keys(person, "w")
    wait_for(lambda: _settings(program)["work_light_lx"] == 0, "W to put the work light out")
    press_keys(person, "z", ctrl=True)
    wait_for(lambda: _settings(program)["work_light_lx"] == 6, "Ctrl+Z")
    press_keys(person, "z", ctrl=True, shift=True)
    wait_for(lambda: _settings(program)["work_light_lx"] == 0, "Ctrl+Shift+Z")
    press_keys(person, "?")
    person.says("Go to a step")
    press_keys(person, Keys.ESCAPE)
    wait_for(lambda: not person.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"), "Escape to put the keys away")
    press_keys(person, Keys.ESCAPE)
    person.says("Hang fixtures")


@pytest.mark.timeout(240)
def test_panes_views_and_looking_round(program, person):
    person.open(program.url)
    person.press("One, two or three panes")
    panes = wait_for(lambda: person.report()["panes"] if len(person.report()["panes"]) == 3 else None, "three panes")
    assert [pane["view"] for pane in panes] == ["free", "plan", "front"]
    assert sum(pane["width"] for pane in panes) == pytest.approx(972, abs=2)
    person.press("One, two or three panes")
    wait_for(lambda: len(person.report()["panes"]) == 1, "one pane")
    before = person.report()["panes"][0]
    canvas = person.driver.find_elements(By.TAG_NAME, "canvas")[1]
    # Right drag looks round: the eye moves, as far from the place under the pointer as before.
    ActionChains(person.driver).move_to_element(canvas).key_down(Keys.ALT).click_and_hold().move_by_offset(
        60, 0
    ).release().key_up(Keys.ALT).perform()
    after = wait_for(
        lambda: p if (p := person.report()["panes"][0])["eye"] != before["eye"] else None, "the view to turn"
    )
    assert after["eye"][2] == pytest.approx(before["eye"][2], abs=0.3)
    assert np.linalg.norm(np.subtract(after["eye"], before["eye"])) > 0.5
    person.press("Back to the start view")
    wait_for(lambda: person.report()["panes"][0]["eye"] == pytest.approx(before["eye"]), "the start view")
    person.row("Truss 1")
    person.press("Frame the selection")
    wait_for(
        lambda: person.report()["panes"][0]["target"] == pytest.approx([0, 1.5, 7.6], abs=0.1),
        "the truss in the middle",
    )


@pytest.mark.timeout(240)
def test_a_field_keeps_what_was_typed_and_says_what_is_wrong(program, person):
    person.open(program.url)
    person.row("Truss 1")
    person.type("Length", "sixteen", enter=True)
    person.says("“sixteen” is not a length")
    assert person.value("Length") == "sixteen"
    wait_for(lambda: person.field("Length").get_attribute("aria-invalid") == "true", "the field to be marked")
    person.field("Length").send_keys(Keys.ESCAPE)
    wait_for(lambda: person.value("Length") == "16.00 m", "Escape to bring the value back")
    # While a value is typed the ghost is shown, and nothing is stored.
    rev = program.document()["rev"]
    person.type("SL / SR", "SL 2")
    herons = [row["id"] for row in program.document()["objects"] if row["body"].get("number") == 61]
    hung = program.document()["mounts"][herons[0]]["position"][0]

    def seen() -> float:
        return person.beam(herons[0])["lens"][0]

    wait_for(lambda: seen() == pytest.approx(hung + 2.0, abs=0.4), "the ghost")
    assert program.document()["rev"] == rev
    person.field("SL / SR").send_keys(Keys.ESCAPE)
    wait_for(lambda: seen() == pytest.approx(hung, abs=0.4), "the ghost to go")
    # Entered and left at once, a step is taken once, and the field shows what came of it.
    person.type("SL / SR", "+1.5")
    person.field("SL / SR").send_keys(Keys.ENTER, Keys.TAB)
    wait_for(lambda: person.value("SL / SR") == "SL 1.50 m", "the field to show its new value")
    assert program.document()["mounts"][herons[0]]["position"][0] == pytest.approx(hung + 1.5)
    assert program.document()["rev"] == rev + 1


@pytest.mark.timeout(240)
def test_a_gdtf_is_shown_before_it_is_added_and_rubbish_is_refused(program, person, tmp_path):
    person.open(program.url)
    person.go("Hang")
    person.press("Types and type shop")
    chooser = person.find('//input[@aria-label="A GDTF file"]', "the file field")
    rubbish = tmp_path / "rubbish.gdtf"
    rubbish.write_bytes(b"not a zip")
    chooser.send_keys(str(rubbish))
    person.says("rubbish.gdtf is not a zip archive that can be read")
    assert len(program.document()["types"]) == 5
    from dataclasses import replace

    good = tmp_path / "good.gdtf"
    good.write_bytes(write_gdtf(replace(heron(), name="Whimbrel")))
    chooser.send_keys(str(good))
    person.press("Add Whimbrel to the show")
    person.says("Whimbrel is in the show now.")
    assert {entry["name"] for entry in program.document()["types"].values()} >= {"Heron", "Dunlin", "Whimbrel"}
    person.press("Back to the show")
    person.settle()
    # The picture is there again at once, though nothing has changed and no frame comes.
    person.beams_until(lambda beams: sum(max(one["candela"]) > 1 for one in beams.values()) > 5, "the lamps")
    person.choose("Type", "Whimbrel")
    person.choose("Mode", "Extended, 33 slots")


@pytest.mark.timeout(240)
def test_two_browsers_see_each_others_edits_at_once(program, person, tmp_path):
    from tests.browser.person import Person

    folder = tmp_path / "second"
    folder.mkdir()
    second = Person(folder)
    try:
        person.open(program.url)
        second.open(program.url)
        person.row("Main deck")
        person.type("Name", "Slipway deck", enter=True)
        second.says("Slipway deck")
        second.row("Slipway deck")
        second.type("Width", "9", enter=True)
        wait_for(lambda: person.value("Width") == "9.00 m", "the first to see the second's edit")
        # Undo takes back one's own edit, and says when another's hangs on it.
        person.press("Undo")
        person.says("hangs on it")
    finally:
        second.close()


def _settings(program):
    return next(row["body"] for row in program.document()["objects"] if row["kind"] == "show")
