"""kill -9, of the desk in the middle of an edit and of the live process: nothing is lost, and the page comes back."""

from __future__ import annotations

import os
import signal

import pytest

from tests.processes import Program, sender, stop, wait_for


def deck(program):
    return next(row["body"] for row in program.document()["objects"] if row["kind"] == "deck")


def white(beam):
    """Lit, and red as strong as blue: the demo's look is amber there."""
    red, _, blue = beam["candela"]
    return red > 1000 and abs(red - blue) < 0.2 * red


@pytest.mark.timeout(240)
def test_the_desk_is_killed_in_the_middle_of_a_drag(program, person):
    person.open(program.url)
    person.go("Site")
    person.row("Main deck")
    person.type("SL / SR", "SL 1", enter=True)
    wait_for(lambda: deck(program)["position"][0] == 1.0, "the typed place")
    person.settle()
    person.drag("SL", 40, 0, pane=1, let_go=False)
    program.kill()
    person.says("Not connected: trying again")
    again = Program(program.file, port=program.port, sacn_address=program.sacn_address)
    try:
        assert deck(again)["position"][0] == 1.0
        wait_for(
            lambda: "Not connected" not in person.foot(),
            "the page to come back",
            30,
        )
        # The drag that was under way is left: it was never taken.
        person.escape()
        person.driver.refresh()
        person.settle()
        person.press("Undo")
        wait_for(lambda: deck(again)["position"][0] == 0.0, "undo after the restart")
        person.press("Redo")
        wait_for(lambda: deck(again)["position"][0] == 1.0, "redo after the restart")
    finally:
        again.end()


@pytest.mark.timeout(240)
def test_the_live_process_is_killed_and_the_picture_comes_back_with_its_levels_held(program, person):
    person.open(program.url)
    heron = next(row["id"] for row in program.document()["objects"] if row["body"].get("number") == 61)
    other = sender(program)
    other[1].dmx_data = (128, 0, 128, 0, 200, 32)
    bright = person.beams_until(lambda beams: white(beams[heron]), "61 lit white")[heron]["candela"]
    wait_for(
        lambda: (program.signal().get("universes") or [{}])[0].get("lit_slots") == 4, "the desk to know the levels"
    )
    stop(other)
    person.says("Levels held")
    before = program.live_pid()
    os.kill(before, signal.SIGKILL)
    wait_for(lambda: program.live_pid() not in (0, before), "a new live process")
    wait_for(lambda: (program.signal().get("universes") or [{}])[0].get("state") == "held", "the held levels again")
    wait_for(
        lambda: "Not connected" not in person.foot(),
        "the page to come back",
        30,
    )
    back = person.beams_until(lambda beams: white(beams[heron]), "61 lit white again")[heron]["candela"]
    assert back == pytest.approx(bright, rel=1e-3)
    # It listens, too.
    third = sender(program, name="Third desk")
    third[1].dmx_data = (128, 0, 128, 0, 0, 32)
    try:
        person.beams_until(lambda beams: beams[heron]["candela"][0] < 1, "61 out by the new levels")
    finally:
        stop(third)
