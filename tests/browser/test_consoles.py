"""A console is given the rig, drives the picture by two protocols, is given aim and colour, and its line is checked."""

from __future__ import annotations

from typing import Any

import pytest

from tests.processes import wait_for


def fixtures(program: Any) -> dict[int, dict[str, Any]]:
    return {row["body"]["number"]: row for row in program.document()["objects"] if row["kind"] == "fixture"}


def candela(beam: Any) -> float:
    return max(beam["candela"])


def simulated(program: Any, name: str) -> dict[str, Any]:
    report = program.get("/api/shows/SHOW/simulated")
    return next(one for one in report["consoles"] if one["name"] == name)


def begin(person: Any, name: str, version: str = "1.6", art_net: str = "") -> None:
    """Start an empty simulated console."""
    person.press("Another way")
    person.type("Its name", name)
    person.type("sACN universes", "1-3")
    person.type("Art-Net universes", art_net)
    person.choose("Speaks MVR", version)
    person.press("Start this console")
    person.says("It knows no fixture yet", 60)


def rows(person: Any, table: str) -> list[str]:
    """The rows of a table, as they read, once there are any."""

    def found() -> list[str]:
        all_of = person.driver.find_elements("xpath", f'//*[@aria-label="{table}"]//tbody/tr')
        return [" ".join(row.text.split()) for row in all_of]

    return wait_for(found, f"the table “{table}”")


@pytest.mark.timeout(420)
def test_a_console_is_given_the_rig_and_values_and_its_line_is_checked(program, person):
    heads = fixtures(program)
    program.edit("address", ids=[heads[73]["id"]], start="4.001")
    for way, lands in (("sACN", "1"), ("Art-Net", "1")):
        program.edit("add connection", protocol=way, address=program.sacn_address, lands=lands)
    person.open(program.url)
    person.go("Signal")
    begin(person, "Front desk", art_net="4")
    the_rig_is_offered(program, person)
    it_drives_by_both_protocols(program, person, heads)
    aim_and_colour_go_over(program, person, heads)
    silent_ones_are_found(program, person, heads)
    it_has_another_mode(program, person)
    another_version_is_named(program, person)
    assert person.errors() == []


def the_rig_is_offered(program: Any, person: Any) -> None:
    person.says("Linked: Simulated console, MVR 1.6.")
    person.press("Offer rig")
    person.press("Ask Front desk what it would take")
    person.says("Its patch is empty.")
    would = rows(person, "What would become of each fixture")
    assert would[0].endswith("refused It has no address.")
    assert any("number in use" in one and "is a Dunlin here." in one for one in would)
    assert simulated(program, "Front desk")["state"]["fixtures"] == 0
    person.press("Give 27 fixtures")
    person.says("Front desk has taken 27 fixtures.")
    person.says("2 fixtures not taken: the reasons are beside.")
    person.says("Structures, scenery and focus points went along.")


def it_drives_by_both_protocols(program: Any, person: Any, heads: dict[int, Any]) -> None:
    person.press("See Front desk")
    person.press("Make a cue list for this rig")
    for _ in range(7):
        person.press("Next cue")
    person.says("Flood: the whole deck")

    def heard() -> set[tuple[str, int]]:
        return {(one["protocol"], u["universe"]) for u in program.signal()["universes"] for one in u["sources"]}

    wait_for(lambda: heard() == {("sACN", 1), ("sACN", 2), ("sACN", 3), ("Art-Net", 4)}, "four universes")
    person.beams_until(
        lambda beams: all(candela(beams[heads[n]["id"]]) > 10 for n in (61, 73)), "heads by sACN and by Art-Net"
    )


def aim_and_colour_go_over(program: Any, person: Any, heads: dict[int, Any]) -> None:
    """What is aimed and coloured here is in the console's editor, kept as a cue, and then played by the console."""
    heron = heads[61]["id"]
    person.press("Hand over values")
    program.edit("aim at", ids=[heron], point=[0.0, 1.0, 0.0])
    program.edit("set colour", ids=[heron], x=0.2, y=0.15)
    values = '//*[@aria-label="Values in the editor"]/*'
    wait_for(lambda: len(person.driver.find_elements("xpath", values)) >= 5, "the values in its editor")
    editor = {one["function"]: one["value"] for one in simulated(program, "Front desk")["state"]["editor"]}
    assert {"Pan", "Tilt", "ColorSub_C", "ColorSub_M", "ColorSub_Y"} <= editor.keys()
    aimed = person.beam(heron)["along"]
    label = '//label[normalize-space(.)="Called"]'

    def called() -> Any:
        return person.driver.find_element("id", person.driver.find_element("xpath", label).get_attribute("for"))

    person.write(called, "The teller", "the name")
    person.press("Keep as a cue")
    person.says("The teller")
    person.press("Clear")
    # Let go of here, the head goes where the console has it; by the new cue it is where it was aimed.
    program.edit("release", ids=[heron])
    person.press("Next cue")
    person.beams_until(lambda beams: abs(beams[heron]["along"][1] - aimed[1]) > 0.05, "the head to be the console's")
    person.click('//*[@aria-label="Cue list"]//button[contains(., "The teller")]', "the cue that was kept")
    person.beams_until(
        lambda beams: all(abs(a - b) < 0.01 for a, b in zip(beams[heron]["along"], aimed, strict=True)),
        "the head where it was aimed, by the console's cue",
    )


def silent_ones_are_found(program: Any, person: Any, heads: dict[int, Any]) -> None:
    key = simulated(program, "Front desk")["key"]
    program.post(f"/api/shows/SHOW/simulated/{key}", {"do": "fault", "silent": [62, 72]})
    program.post(f"/api/shows/SHOW/simulated/{key}", {"do": "drill", "identify_s": 0.5})
    person.press("Check the line")
    person.click('//*[@role="radio"][normalize-space(.)="By identify"]', "the way of the check")
    person.press("Check all")
    person.says("stand in Readiness until they are checked again")
    found = [one for one in rows(person, "Steps of the check") if "did not answer" in one]
    numbers = sorted({int(one.split()[0]) for one in found})
    # Of two fixtures of one number the console took one; those were never on it.
    refused = {number for number in numbers if number not in (62, 72)}
    assert {62, 72} <= set(numbers)
    assert refused <= {83, 85}
    assert all("have not moved" in one for one in found)
    findings = [one["where"] for one in program.document()["findings"] if "line check" in one["text"]]
    assert [heads[62]["id"]] in findings
    assert [heads[72]["id"]] in findings
    program.post(f"/api/shows/SHOW/simulated/{key}", {"do": "drill"})


def it_has_another_mode(program: Any, person: Any) -> None:
    """A console that has a patch already, in another mode: every line is explained, and the patch compared by cause."""
    key = simulated(program, "Front desk")["key"]
    program.post(f"/api/shows/SHOW/simulated/{key}", {"do": "fault", "name": "Heron", "mode": "Extended"})
    person.press("Offer rig")
    person.press("Mapping")
    person.press("Offer rig")
    person.click('//summary[starts-with(normalize-space(.), "Ask again")]', "asking again")
    person.press("Ask again with the rig as it is now")
    person.says("It has 27 fixtures in its patch.")
    person.click('//*[@role="radio"][normalize-space(.)="Clear first"]', "the way")
    would = rows(person, "What would become of each fixture")
    assert any("This console has Heron in Extended (33 slots), not in Standard." in one for one in would)
    assert all(one.split()[1] in ("✓", "◇") or one.endswith(".") for one in would)
    person.press("Give ")
    person.says("in another mode: Compare rig shows what that shifts.")
    person.press("Compare rig")
    person.says("Extended (33 slots) in the list, Standard (16) here", 60)
    person.press("Put the rig away")
    person.go("Signal")


def another_version_is_named(program: Any, person: Any) -> None:
    key = simulated(program, "Front desk")["key"]
    program.post(f"/api/shows/SHOW/simulated/{key}", {"do": "manners", "version": "2.0"})
    person.says("Front desk speaks MVR 2.0, this program 1.6: no rig can be given or fetched.")
    person.says("Levels by sACN and Art-Net still come")
    offer = person.find('//button[normalize-space(.)="Offer rig"]', "the offer")
    assert not offer.is_enabled()
    person.press("Shut Front desk down")
    person.says("Link a console to give it the rig")
