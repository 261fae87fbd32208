"""The frame around the steps: find/do, keys, panes and views; two people, and two windows."""

from __future__ import annotations

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.person import Person
from tests.processes import wait_for


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


def settings(program):
    return next(row["body"] for row in program.document()["objects"] if row["kind"] == "show")


def it_is_driven_by_keys(program, person):
    """Steps, find/do, the work light, undo and redo, the list of keys."""
    lit = settings(program)["work_light_lx"]
    press_keys(person, "6", alt=True)
    wait_for(lambda: step(person) == "Looks", "Alt+6 to go to Looks")
    press_keys(person, "k", ctrl=True)
    box = person.find('//input[@aria-label="What to find or do"]', "find or do")
    box.send_keys("fixture 64", Keys.ENTER)
    wait_for(lambda: step(person) == "Hang", "the step of fixture 64")
    person.find('//aside//*[starts-with(normalize-space(.), "Fixture 64")]', "fixture 64 on the card")
    press_keys(person, "w")
    wait_for(lambda: settings(program)["work_light_lx"] == 250, "W to put the work light up")
    press_keys(person, "z", ctrl=True)
    wait_for(lambda: settings(program)["work_light_lx"] == lit, "Ctrl+Z")
    press_keys(person, "z", ctrl=True, shift=True)
    wait_for(lambda: settings(program)["work_light_lx"] == 250, "Ctrl+Shift+Z")
    press_keys(person, "w")
    wait_for(lambda: settings(program)["work_light_lx"] == lit, "W to put it down to what it was")
    press_keys(person, "?")
    person.says("Go to a step")
    press_keys(person, Keys.ESCAPE)
    wait_for(lambda: not person.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"), "Escape to put the keys away")
    press_keys(person, Keys.ESCAPE)
    person.says("Hang fixtures")


def it_is_looked_round_in(program, person):
    """One pane and three; a turn about what is under the pointer; back, and to what is selected."""
    person.click('//button[@title="One, two or three panes"]', "the panes")
    panes = wait_for(lambda: person.report()["panes"] if len(person.report()["panes"]) == 3 else None, "three panes")
    assert [pane["view"] for pane in panes] == ["free", "plan", "front"]
    canvas = person.driver.find_elements(By.TAG_NAME, "canvas")[1]
    assert sum(pane["width"] for pane in panes) == pytest.approx(canvas.rect["width"], abs=2)
    person.click('//button[@title="One, two or three panes"]', "the panes")
    wait_for(lambda: len(person.report()["panes"]) == 1, "one pane")
    before = person.report()["panes"][0]
    # Right drag looks round: the eye moves, as far from the place under the pointer as before.
    chain = ActionChains(person.driver).move_to_element(canvas).key_down(Keys.ALT).click_and_hold()
    chain.move_by_offset(60, 0).release().key_up(Keys.ALT).perform()
    after = wait_for(
        lambda: p if (p := person.report()["panes"][0])["eye"] != before["eye"] else None, "the view to turn"
    )
    assert after["eye"][2] == pytest.approx(before["eye"][2], abs=0.3)
    assert np.linalg.norm(np.subtract(after["eye"], before["eye"])) > 0.5
    person.press("Back to the start view")
    wait_for(lambda: person.report()["panes"][0]["eye"] == pytest.approx(before["eye"]), "the start view")
    person.row("Truss 1")
    person.press("Frame the selection")
    truss = next(row["body"] for row in program.document()["objects"] if row["body"].get("name") == "Truss 1")
    wait_for(
        lambda: person.report()["panes"][0]["target"] == pytest.approx(truss["position"], abs=0.3),
        "the truss in the middle",
    )


def what_is_typed_is_seen_first(program, person):
    """The ghost of a value while it is typed: the lamps go with their truss, and nothing is stored."""
    rev = program.document()["rev"]
    lamp = next(row["id"] for row in program.document()["objects"] if row["body"].get("number") == 61)
    hung = program.document()["mounts"][lamp]["position"][0]
    person.type("SL / SR", "SL 2")
    wait_for(lambda: person.beam(lamp)["lens"][0] == pytest.approx(hung + 2.0, abs=0.4), "the ghost")
    assert program.document()["rev"] == rev
    person.field("SL / SR").send_keys(Keys.ESCAPE)
    wait_for(lambda: person.beam(lamp)["lens"][0] == pytest.approx(hung, abs=0.4), "the ghost to go")
    # Entered and left at once, a step is taken once, and the field shows what came of it.
    person.type("SL / SR", "+1.5")
    person.field("SL / SR").send_keys(Keys.ENTER, Keys.TAB)
    wait_for(lambda: person.value("SL / SR") == "SL 1.50 m", "the field to show its new value")
    assert program.document()["mounts"][lamp]["position"][0] == pytest.approx(hung + 1.5)
    assert program.document()["rev"] == rev + 1


@pytest.mark.timeout(300)
def test_somebody_finds_their_way_round(program, person):
    person.open(program.url)
    it_is_driven_by_keys(program, person)
    person.go("Site")
    it_is_looked_round_in(program, person)
    what_is_typed_is_seen_first(program, person)


@pytest.mark.timeout(300)
def test_two_people_at_one_show_and_a_window_more(program, person, tmp_path):
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
        wait_for(lambda: len(person.report()["others"]) == 1, "what the second has selected to be seen")
        second.type("Width", "9", enter=True)
        wait_for(lambda: person.value("Width") == "9.00 m", "the first to see the second's edit")
        # Undo takes back one's own edit, and says when another's hangs on it.
        person.press("Undo")
        person.says("hangs on it")
    finally:
        second.close()
    # A pane in a window of its own has the same selection.
    first = person.driver.current_window_handle
    person.press("The side pane in a window of its own")
    window = wait_for(lambda: next((h for h in person.driver.window_handles if h != first), None), "the window")
    person.driver.switch_to.window(window)
    wait_for(lambda: (r := person.report()) and [pane["view"] for pane in r["panes"]] == ["plan"], "the plan alone")
    person.driver.switch_to.window(first)
    person.row("Truss 1")
    person.driver.switch_to.window(window)
    wait_for(lambda: person.report()["handles"], "the selection to be seen there too")
    person.driver.close()
    person.driver.switch_to.window(first)
