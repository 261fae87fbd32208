"""Looks by hand: three are built from palettes and points, put in order, played, mended, changed blind and compared."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.person import Person
from tests.browser.test_slice import by_number, candela, named, off_the_line, things
from tests.processes import Program, wait_for

HEADS = [61, 62, 63]
LEFT, RIGHT = [-3.0, 3.0, 1.1], [3.0, 3.0, 1.1]


def test_looks_are_built_ordered_played_mended_changed_blind_and_compared(program, person):
    ids = [by_number(program, number) for number in HEADS]
    points = [
        program.edit("add focus point", name=name, point=place)["select"][0]
        for name, place in (("Left", LEFT), ("Right", RIGHT))
    ]
    # Only what is made here is in the order.
    program.edit("remove", ids=[*things(program, "look")])
    person.open(program.url, 0.3)
    person.go("Looks")
    three_are_kept_from_what_is_held(program, person, ids, points)
    they_are_put_in_order_and_timed(program, person)
    the_head_that_is_seen_to_move_is_mended(program, person, ids)
    they_are_played_and_scrubbed(program, person, ids)
    one_is_changed_blind_and_compared(program, person, ids)
    assert person.errors() == []


def three_are_kept_from_what_is_held(program: Program, person: Person, ids: list[str], points: list[str]) -> None:
    """Dark at the left, lit at the right, lit at the left: by hand and from points, with no console."""
    program.edit("set colour", ids=ids[:1], x=0.55, y=0.4)
    amber = next(
        change["after"]["id"]
        for change in program.edit("keep palette", ids=ids[:1], sort="colour", name="Amber")["update"]["changes"]
    )
    for n, (name, point, level) in enumerate((("Left, dark", 0, 0.0), ("Right", 1, 0.8), ("Left", 0, 0.8))):
        program.edit("aim at", ids=ids, focus=points[point])
        program.edit("hold values", ids=ids, values={"dimmer": level})
        program.edit("apply palette", id=amber, ids=ids)
        if n:
            person.press("Keep another look")
        else:
            person.press("A part, or a number of its own")
            person.choose("Of", "only what is held by hand")
        person.type("Name", name, last=True)
        person.press("Keep what is held by hand as a look")
        wait_for(lambda name=name: named(program, "look", name), f"the look {name}")
    program.edit("release", ids=ids)
    body = named(program, "look", "Right")[1]
    # They hang on what they come of.
    assert set(body["links"]) == {amber, points[1]}
    person.says("Follows Amber (colour, 3), Left (position, 3)")


def they_are_put_in_order_and_timed(program: Program, person: Person) -> None:
    looks = [named(program, "look", name)[0] for name in ("Left, dark", "Right", "Left")]
    # Parts of a show are no looks of all of it: who orders them says which.
    order = program.edit("add order", name="Rehearsal", looks=looks)["select"][0]
    person.press("Step 2: look 2 Right")
    person.type("Fade in", "0.5", enter=True)
    person.type("Hold", "2:00", enter=True)
    wait_for(lambda: times(program, order)[1] == (0.5, 120.0), "the times that were typed")
    # An edge moves by the arrows, half a second a press.
    edge = person.find('//*[@role="slider" and @aria-label="Length of step 3"]', "the edge")
    edge.send_keys(Keys.ARROW_RIGHT)
    wait_for(lambda: times(program, order)[2][1] == 5.5, "the length that was dragged")
    person.choose("Then", "the next follows by itself")
    wait_for(lambda: things(program, "order")[order]["steps"][1]["follows"], "the next to follow")


def times(program: Program, order: str) -> list[tuple[float, float]]:
    return [(step["fade_in_s"], step["hold_s"]) for step in things(program, "order")[order]["steps"]]


def the_head_that_is_seen_to_move_is_mended(program: Program, person: Person, ids: list[str]) -> None:
    """Dark before it, lit in half a second: heads do not get there so soon. In the dark before there is time."""
    person.says("3 heads are lit while still on the way")
    person.press("Move 3 heads in the dark before")
    person.says("3 heads already in place before it")
    wait_for(lambda: "still on the way" not in person.driver.find_element(By.TAG_NAME, "aside").text, "it to be mended")
    order = named(program, "order", "Rehearsal")[1]
    assert sorted(order["steps"][1]["ahead"]) == sorted(ids)


def they_are_played_and_scrubbed(program: Program, person: Person, ids: list[str]) -> None:
    person.press("Play from step 2")
    run = lambda: program.get("/api/shows/SHOW/run")  # noqa: E731
    wait_for(lambda: run()["playing"] and run()["at_s"] > 8.2, "it to play")
    person.says("Run over the console")
    person.beams_until(
        lambda beams: off_the_line(beams[ids[0]], RIGHT) < 0.1 and candela(beams[ids[0]]) > 1, "the right"
    )
    person.press("On to the next step")
    wait_for(lambda: run()["step"] == named(program, "order", "Rehearsal")[1]["steps"][2]["key"], "the third step")
    person.beams_until(lambda beams: off_the_line(beams[ids[0]], LEFT) < 0.1, "the left again")
    person.press("Pause")
    # Back to the first, by the ruler: it is dark there at once.
    ruler = person.find('//*[@role="slider" and @aria-label="Where in the running order"]', "the ruler")
    for _ in range(30):
        ruler.send_keys(Keys.SHIFT, Keys.ARROW_LEFT)
    wait_for(lambda: run()["at_s"] == 0.0, "the beginning")
    person.beams_until(lambda beams: candela(beams[ids[0]]) < 1, "the dark")
    person.press("On to the next step")
    wait_for(lambda: run()["playing"] and run()["step"] == named(program, "order", "Rehearsal")[1]["steps"][1]["key"],
             "the next step")  # fmt: skip
    person.press("Stop playing")
    wait_for(lambda: run()["order"] is None, "the order to be let go of")


def one_is_changed_blind_and_compared(program: Program, person: Person, ids: list[str]) -> None:
    """The picture goes on as it is; the look beside it is as it has become."""
    person.press("All looks")
    person.press("Recall Left, dark")
    person.press("2 Right")
    # Its group is taken where it is told what it says.
    person.click('//aside//h3[.="What it says"]/following-sibling::button[1]', "the heads")
    person.press("Edit it blind")
    person.says("The picture plays on; the look is in the pane beside it.")
    before = {key: row["dimmer"] for key, row in program.look_values(named(program, "look", "Right")[0]).items()}
    assert before == {key: pytest.approx(0.8) for key in ids}
    level = person.field("Intensity")
    level.send_keys(Keys.HOME)
    level.send_keys(Keys.PAGE_UP, Keys.PAGE_UP, Keys.TAB)
    wait_for(
        lambda: (
            program.look_values(named(program, "look", "Right")[0])[ids[0]]["dimmer"] == pytest.approx(0.2, abs=0.02)
        ),
        "the look to say so",
    )
    person.beams_until(lambda beams: candela(beams[ids[0]]) > 1, "it in its own pane", pane=1)
    person.beams_until(lambda beams: candela(beams[ids[0]]) < 1, "the picture as it was")
    person.press("Done with Right")
    person.choose("Compare with", "3, Left")
    person.says("more")
    text = person.find('//*[@aria-label="Differences in words"]', "the differences").text
    assert "300 % more" in text
    assert "turned by" in text
