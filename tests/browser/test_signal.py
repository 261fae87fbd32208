"""Patch and Signal in the real browser: a new show patched by dragging, three connections, and the doctor."""

from __future__ import annotations

from typing import Any

from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By

from tests.browser.person import Person
from tests.browser.test_slice import things
from tests.links.test_artnet import dmx
from tests.links.test_sacn import packet
from tests.processes import Program, wait_for
from tests.store.test_cli_signal import Sender
from zarfwright.library import heron

LIT = [128, 0, 128, 0, 255, 32, 0, 0, 0, 0, 0, 0, 0, 0, 128, 0]


def test_a_new_show_is_patched_by_dragging_and_the_doctor_puts_its_connections_right(empty, person):
    program = empty
    kind = program.add_type(heron())
    truss = program.edit("add truss", length="12m", start_trim="5m")["select"][0]
    program.edit("place along rail", structure=truss, type=kind, mode="Standard", count="12", first_number="101")
    person.open(program.url)
    fixtures_are_dragged_on_slots(program, person)
    ways = connections_are_opened(program, person)
    three_faults_are_found_and_put_right(program, person, ways)


def fixtures_are_dragged_on_slots(program: Program, person: Person) -> None:
    """From the shelf to a strip: the ghost says where each would lie, and there they lie when they are let go."""
    person.go("Patch")
    person.press("Select all of them")
    chip = person.button("Fixture 101, not patched")
    strip = wait_for(lambda: person.driver.find_element(By.CSS_SELECTOR, "[data-strip='1']"), "the strip of universe 1")
    left = -strip.size["width"] // 2
    drag = ActionChains(person.driver, duration=50).click_and_hold(chip).move_by_offset(10, 6)
    drag.move_to_element_with_offset(strip, left + 60, 0).move_to_element_with_offset(strip, left + 1, 0).perform()
    person.says("12 fixtures")
    person.says("from 1.001 to 1.192")
    ActionChains(person.driver).release().perform()
    wanted = {1 + 16 * n for n in range(12)}
    wait_for(lambda: {one.get("address") for one in things(program, "fixture").values()} == wanted, "addresses")
    # From slot to slot: four of them on the second universe, on universes of their own.
    person.press("Show universe 1")
    slot = wait_for(lambda: person.driver.find_element(By.CSS_SELECTOR, "[data-slot='177']"), "slot 177")
    person.click("//button[@data-slot='177']", "fixture 112")
    ActionChains(person.driver, duration=50).click_and_hold(slot).move_by_offset(0, 24).move_by_offset(30, 24).perform()
    person.says("Put 1 fixture there")
    person.driver.find_element(By.CSS_SELECTOR, "[data-tone='ghost']")
    person.escape()
    ActionChains(person.driver).release().perform()
    last = next(b for b in things(program, "fixture").values() if b["number"] == 112)
    assert (last["universe"], last["address"]) == (1, 177), "what is left stays"
    # From the stage to a strip: the lamp itself is taken hold of.
    person.press("All universes")
    strip = wait_for(lambda: person.driver.find_element(By.CSS_SELECTOR, "[data-strip='2']"), "the strip of universe 2")
    lamp = next(key for key, body in things(program, "fixture").items() if body["number"] == 112)
    person.drag_off(person.beam(lamp)["lens"], strip, 1 - strip.size["width"] // 2)
    wait_for(lambda: things(program, "fixture")[lamp]["universe"] == 2, "fixture 112 on universe 2")
    person.press("Undo")
    wait_for(lambda: things(program, "fixture")[lamp]["universe"] == 1, "it to be back")


def connections_are_opened(program: Program, person: Person) -> dict[str, str]:
    """Two by sACN and one by Art-Net that lands elsewhere; one is silenced, and holds what it last said."""
    person.go("Signal")
    for name, protocol, universes, lands in (
        ("Main desk", "sACN", "1 to 9", "1"),
        ("Blind desk", "sACN", "201 to 209", "21"),
        ("Bar server", "Art-Net", "0 to 3", "11"),
    ):
        person.press("Add a connection")
        wait_for(lambda: person.value("Name").startswith("sACN"), "the new connection")
        person.type("Name", name, enter=True)
        if protocol == "Art-Net":
            person.click('//button[@role="radio"][normalize-space(.)="Art-Net"]', "Art-Net")
            wait_for(lambda: person.value("Universes").startswith("0 "), "port-addresses from 0")
        person.type("Universes", universes, enter=True)
        person.type("Land on", lands, enter=True)
    ways = {body["name"]: key for key, body in things(program, "connection").items()}
    wait_for(lambda: {one["state"] for one in program.signal()["connections"]} == {"silent"}, "three connections")
    to = (program.sacn_address, 6454)
    with Sender((lambda n: dmx(1, LIT, n), to)):
        wait_for(lambda: heard(program) == {12: "live"}, "Art-Net 1 on universe 12")
        person.says("Art-Net from 127.0.0.1")
        person.press("Listen to Bar server")
        wait_for(lambda: heard(program) == {12: "held"}, "what is silenced to be held")
        person.press("Listen to Bar server")
        wait_for(lambda: heard(program) == {12: "live"}, "it to be heard again")
    return ways


def heard(program: Program) -> dict[int, str]:
    return {one["universe"]: one["state"] for one in program.signal()["universes"]}


def three_faults_are_found_and_put_right(program: Program, person: Person, ways: dict[str, str]) -> None:
    """Universes beside where they are patched, an interface that is gone, a console that only previews."""
    program.edit("set connection", id=ways["Main desk"], lands="2")
    program.edit("set connection", id=ways["Bar server"], interface="eth99", address="10.9.9.9")
    ids = [key for key, body in things(program, "fixture").items() if body["number"] > 110]
    program.edit("address", ids=ids, start="21.001")
    to: Any = (program.sacn_address, 5568)
    with Sender(
        (lambda n: packet(1, LIT * 10, "Quay", sequence=n), to),
        (lambda n: packet(201, LIT * 2, "Loft", sequence=n, cid=b"b" * 16, preview=True), to),
    ):
        wait_for(lambda: heard(program).get(2) == "live", "universe 1 on 2")
        person.press("Ask the doctor: listen for 6 s")
        for button, cause in (
            ("Land 1 on 1", "off_by_one"),
            ("Show preview data of Blind desk", "preview_only"),
            ("Hear Bar server on", "no_link"),
        ):
            found = f'//div[@data-cause="{cause}"]'
            person.find(found, cause)
            person.click(f'{found}//button[starts-with(normalize-space(.), "{button}")]', button)
            person.find(f'{found}[contains(., "Done: ask again")]', f"{cause} put right")
        wait_for(lambda: heard(program).get(1) == heard(program).get(21) == "live", "what was wrong to be right")
        person.press("Ask the doctor again")
        person.says("Nothing wrong was seen in 6")
