"""Aim in the real browser: twelve heads at a face, at a focus point that is moved, cut to the deck, in one colour."""

from __future__ import annotations

import math

import numpy as np
import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.person import Person
from tests.browser.test_slice import by_number, off_the_line, things
from tests.processes import Program, wait_for
from zarfwright.core.optics.colour import LUMINANCE

HERONS = [*range(61, 67), *range(71, 77)]


def near_in_plan(person: Person) -> None:
    """So near that a pixel is less than 45 mm."""
    person.driver.execute_script(
        "const s = window.zarfwrightStage, v = s.viewpoint('side');"
        "s.setViewpoint('side', { ...v, height: 16, target: v.target.clone().set(0, 3, 0) });"
    )
    person.settle()


def row(person: Person, number: int, held: str) -> None:
    person.click(f'//section[@aria-label="Bench"]//td[normalize-space(.)="{number}"]', str(number), held=held)


def test_a_rig_is_focused_on_a_face_and_a_point_cut_and_coloured(program, person):
    person.open(program.url)
    person.go("Aim")
    near_in_plan(person)
    ids = twelve_are_pointed_at_a_face(program, person)
    they_follow_a_focus_point(program, person, ids)
    one_is_cut_to_the_edge_of_the_deck(program, person)
    two_types_show_one_colour(program, person)


def twelve_are_pointed_at_a_face(program: Program, person: Person) -> list[str]:
    person.press("As a table")
    person.row("61")
    for number in HERONS[1:]:
        row(person, number, Keys.CONTROL)
    person.press("Aim 12 fixtures")
    person.press("Face")
    person.settle()
    person.click_place([0.4, 2.0, 1.1], "side")
    ids = [by_number(program, number) for number in HERONS]
    face = [0.4, 2.0, 2.7]
    person.beams_until(lambda beams: all(off_the_line(beams[i], face) < 0.06 for i in ids), "twelve beams on the face")
    aims = [things(program, "fixture")[i]["aim"]["place"] for i in ids]
    assert all(place[2] == pytest.approx(2.7, abs=1e-3) for place in aims)
    return ids


def they_follow_a_focus_point(program: Program, person: Person, ids: list[str]) -> None:
    person.type("Name it", "Lectern")
    person.press("Make it the focus point Lectern")
    wait_for(lambda: things(program, "focus point"), "the focus point")
    (point,) = things(program, "focus point")
    wait_for(lambda: all(things(program, "fixture")[i]["aim"]["point"] == point for i in ids), "all aimed at it")
    person.press("Click a place")
    person.press("By focus point")
    person.press("1 Lectern")
    person.type("SL / SR", "SL 2", enter=True)
    there = [2.0, *things(program, "focus point")[point]["position"][1:]]
    person.beams_until(lambda beams: all(off_the_line(beams[i], there) < 0.06 for i in ids), "all to follow it")
    # One edit: undone, all of them look where they did.
    person.press("Undo")
    place = wait_for(lambda: things(program, "focus point")[point]["position"], "it back")
    person.beams_until(lambda beams: all(off_the_line(beams[i], place) < 0.06 for i in ids), "all to look back")


def one_is_cut_to_the_edge_of_the_deck(program: Program, person: Person) -> None:
    person.press("As a table")
    person.row("72")
    head = by_number(program, 72)
    program.edit("aim at", ids=[head], point=[-1.5, 0.6, 1.1])
    program.edit("hold values", ids=[head], values={"dimmer": 1.0, "zoom": 24.0, "gobo slot": 1.0, "gobo 2 slot": 1.0})
    person.beams_until(lambda beams: off_the_line(beams[head], [-1.5, 0.6, 1.1]) < 0.06, "it at the edge")
    person.press("Cut to an edge")
    person.settle()
    person.click_place([-1.5, 0.06, 1.1], "side")
    cut = wait_for(
        lambda: [k for k in things(program, "fixture")[head]["hands"] if k.startswith("blade ")], "the blade"
    )
    assert cut
    person.press("Click an edge of the set")
    light_agrees_with_core(program, person, [[-1.5, 0.5, 1.1], [-1.0, 0.9, 1.1]])
    another_is_dragged_where_its_edge_falls(program, person, head)


GRIPS = """const s = window.zarfwrightStage, pane = s.layout().find((one) => one.pane.id === "side");
return s.tools.blades.heads(pane).flatMap((head) => head.grips.filter(({ grip }) => grip.part === "edge" &&
    head.gate.blades[grip.blade].depth < 0.01).map(({ grip, at }) => [grip.blade + 1, at.toArray()]));"""
"""The blades that stand open, each with where the middle of its edge falls."""


def another_is_dragged_where_its_edge_falls(program: Program, person: Person, head: str) -> None:
    person.press("On the lit surface")
    person.settle()
    aimed = np.array([-1.5, 0.6, 1.1])
    on_deck = [(number, np.array(at)) for number, at in person.driver.execute_script(GRIPS) if abs(at[2] - 1.1) < 0.02]
    number, at = min(on_deck, key=lambda grip: float(np.linalg.norm(grip[1] - aimed)))
    to = (at + aimed) / 2
    person.drag_place(at.tolist(), to.tolist(), "side")
    held = wait_for(lambda: things(program, "fixture")[head]["hands"].get(f"blade {number}"), "the blade to be dragged")
    assert 0.25 < held < 0.75
    light_agrees_with_core(program, person, [[-1.5, 0.5, 1.1], ((at + to) / 2).tolist()])
    person.press("On the lit surface")


def light_agrees_with_core(program: Program, person: Person, places: list[list[float]]) -> None:
    """What the stage has at places of the deck is what core's photometry says of them."""

    def there() -> bool:
        seen = person.stage("probe", "main", places, "Build", False)
        if not seen:
            return False
        for one in seen:
            _, answer = program.post("/api/shows/SHOW/lux", {"point": one["point"], "normal": one["normal"]})
            got = float(np.array(one["lux"]) @ LUMINANCE)
            if not math.isclose(got, answer["lux"], rel_tol=0.06):
                return False
        return True

    wait_for(there, "the picture's light to be core's")


def two_types_show_one_colour(program: Program, person: Person) -> None:
    person.row("63")
    row(person, 81, Keys.CONTROL)
    person.press("3200")

    def shown(number: int) -> list[float]:
        _, answer = program.post("/api/shows/SHOW/colours", {"ids": [by_number(program, number)]})
        now: list[float] = answer["now"]
        return now

    wait_for(lambda: math.dist(shown(63), shown(81)) < 0.004, "one colour on both")
    assert math.dist(shown(63), (0.4234, 0.3990)) < 0.01
