"""Review by hand: two looks beside each other, and a still of what is seen."""

import pytest
from PIL import Image

from tests.browser.test_picture import by_number
from tests.processes import wait_for


def _size(path):
    try:
        with Image.open(path) as image:
            image.load()
            return image.size
    except OSError:
        return None


def a_still_is_made(person):
    """Of many samples; one that is stopped leaves nothing."""
    person.choose("Size", "540p")
    person.press("Make a still")
    person.press("Stop")
    person.says("The still was stopped; nothing was saved.", 60)
    assert not list(person.downloads.glob("*.png"))
    # Fewer samples than a person would take, for the test's time.
    person.driver.set_script_timeout(120)
    size = person.driver.execute_async_script(
        """const done = arguments[0], shares = [];
        window.zarfwrightStage.snapshot("main", 160, 90, { samples: 4, onProgress: (share) => shares.push(share) })
          .then(async (blob) => {
            const image = await createImageBitmap(blob);
            done([image.width, image.height, blob.size, shares]);
          });"""
    )
    assert size[:2] == [160, 90]
    assert size[2] > 4000
    assert size[3] == [0.25, 0.5, 0.75, 1.0]
    person.press("Save as PNG")
    picture = wait_for(lambda: next(iter(person.downloads.glob("*.png")), None), "the PNG")
    assert wait_for(lambda: _size(picture), "the whole PNG") == (960, 540)


@pytest.mark.timeout(300)
def test_two_looks_are_seen_each_with_its_carriers_and_a_still_is_taken(program, person):
    truss = next(row["id"] for row in program.document()["objects"] if row["body"].get("name") == "Truss 1")
    lamp = by_number(program, 61)
    carrier = program.edit("make carrier", ids=[truss], name="Lift")["select"][0]
    values = {lamp: {"dimmer": 1.0}}
    low = program.edit("keep look", name="Low", values=values)["select"][0]
    program.edit("set field", ids=[carrier], field="z", text="-2m")
    high = program.edit("keep look", name="High", values=values)["select"][0]
    now = program.document()["mounts"][lamp]["position"][2]
    person.open(program.url)
    person.go("Review")
    person.choose("On the left", "4, Low")
    person.choose("On the right", "5, High")
    person.press("Show both from here")
    person.says("Lift: in each picture where its look has it.")

    def lens(pane):
        return person.beam(lamp, pane)["lens"][2]

    def pictures():
        return [pane["picture"] for pane in person.report()["panes"]]

    wait_for(lambda: pictures() == [low, high], "both looks")
    wait_for(lambda: lens(0) == pytest.approx(lens(1) + 2.0, abs=1e-3), "the truss to be higher on the left")
    assert program.document()["mounts"][lamp]["position"][2] == now, "nothing has been moved for that"
    # A carrier that is moved meanwhile moves in neither picture; the live one has it.
    program.edit("set field", ids=[carrier], field="z", text="+0.5m")
    wait_for(lambda: program.document()["mounts"][lamp]["position"][2] > now, "the carrier to move")
    wait_for(lambda: lens(0) == pytest.approx(lens(1) + 2.0, abs=1e-3), "both pictures to stay as they are")
    person.pick("Picture in the side pane", "as driven")
    # As driven its head is turned otherwise, and its lens with it.
    wait_for(lambda: lens(0) == pytest.approx(lens(1) + 1.5, abs=0.35), "the live picture to have it where it is")
    a_still_is_made(person)
