"""Review by hand: seats, light as numbers, looks compared, notes, the book; and a still of what is seen."""

import json

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.person import Person
from tests.browser.test_picture import by_number
from tests.processes import wait_for
from zarfwright.core.optics.colour import LUMINANCE


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
    person.press("Compare")
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


def seats_are_asked_what_they_see(person):
    """A place is clicked, seats are coloured and counted, and one is looked from."""
    person.press("Choose a place")
    person.click_place([0.0, 0.0, 1.1])
    person.find("//aside//*[@role='status'][contains(., 'see it')]", "how many seats see it")
    row = person.find("//section[@aria-label='Bench']//tbody/tr[1]", "the worst seat")
    assert "%" in row.text
    row.find_element(By.TAG_NAME, "button").click()
    wait_for(lambda: person.report()["settled"], "to look from that seat")
    assert person.report()["panes"][0]["eye"][2] < 2.5


def light_is_read(person, program, flood):
    """Measured on the deck, painted with its scale, and the same as the picture's own light within 3 %."""
    person.press("Light")
    person.choose("On", "Main deck")
    person.press("Add this area")
    person.choose("Look", "2, Flood")
    person.press("Measure the light")
    person.find("//aside//dt[.='Evenness (least / mean)']", "the evenness")
    person.find("//*[@role='img'][starts-with(@aria-label, 'False colours from 0 to')]", "the scale")
    area = next(row for row in program.document()["objects"] if row["kind"] == "area")
    said = person.find("//aside//dt[.='Mean']/following-sibling::dd", "the mean").text
    assert float(said.split()[0]) == pytest.approx(area["body"]["maps"][flood]["mean"], rel=0.02)
    found = program.get(f"/api/shows/SHOW/areas/{area['id']}/map?look={flood}")
    person.stage("home", "main")
    person.pick("Picture in the main pane", "look 2, Flood")
    person.settle()
    nx, ny = found["points"]
    close = 0
    for cell in np.argsort(found["lux"])[-40::8].tolist():
        a, b = (found["places"][(cell // nx + i) * (nx + 1) + cell % nx + i] for i in (0, 1))
        middle = [(p + q) / 2 for p, q in zip(a, b, strict=True)]
        seen = person.stage("probe", "main", [middle], "Depth")
        if not seen or abs(seen[0]["point"][2] - middle[2]) > 0.02 or seen[0]["normal"][2] < 0.99:
            continue
        ask = {"point": seen[0]["point"], "normal": [0, 0, 1], "look": flood}
        lux = program.post("/api/shows/SHOW/lit", ask)[1]["lux"]
        close += float(np.array(seen[0]["lux"]) @ LUMINANCE) == pytest.approx(lux, rel=0.03)
    assert close >= 3
    assert ny > 1


def looks_are_wiped(person):
    """With a line that is moved by its keys; then what differs, in stops."""
    person.press("Compare")
    person.choose("On the left", "1, Slack Water")
    person.choose("On the right", "2, Flood")
    person.press("Compare them")
    edge = person.find("//*[@role='separator'][starts-with(@aria-label, 'Where one picture')]", "the line of the wipe")
    before = int(edge.get_attribute("aria-valuenow"))
    edge.send_keys(Keys.ARROW_LEFT * 5)
    wait_for(lambda: int(edge.get_attribute("aria-valuenow")) < before - 5, "the line to move")
    person.click("//*[@role='radio'][.='Difference']", "the difference")
    person.find("//canvas[starts-with(@aria-label, 'How much brighter')]", "the difference")
    person.press("Put away")


def notes_are_written(person, program):
    """On the look that is seen, and answered."""
    person.press("Notes")
    person.find("//textarea[@aria-label='What is to be noted']", "the note").send_keys("The left is dark")
    person.press("Write the note")
    note = wait_for(lambda: next(row for row in program.document()["objects"] if row["kind"] == "note"), "the note")
    assert note["body"]["text"] == "The left is dark"
    assert note["body"]["seen_from"]
    person.press("Agreed")
    person.says("1 of 3 looks agreed")


def a_book_is_drawn(person):
    """Of three looks from two viewpoints, and saved as one page."""
    person.press("Book")
    person.choose("Pictures", "540p")
    person.press("Draw 6 pictures")
    person.says("All pictures of the book are drawn.", 240)
    person.press("Save as one page")
    return wait_for(lambda: next(person.downloads.glob("*look book.html")), "the book")


def it_is_read_without_the_program(person, book):
    """From the disk, with nobody to ask: looked through, wiped, and written in. Gives what the reader saved."""
    driver = person.driver
    driver.get(f"file://{book}")
    body = driver.find_element(By.TAG_NAME, "body")
    loaded = "return [...document.images].filter((one) => one.naturalWidth > 100).length"
    wait_for(lambda: driver.execute_script(loaded) >= 6, "its pictures")
    body.send_keys(Keys.ARROW_RIGHT)
    assert "Slack Water" in driver.find_element(By.CSS_SELECTOR, ".look.shown h2").text
    driver.find_element(By.CSS_SELECTOR, ".look.shown textarea").send_keys("Lovely <b>indeed</b>")
    driver.find_element(By.XPATH, "//section[contains(@class, 'shown')]//button[.='not yet']").click()
    driver.find_element(By.CSS_SELECTOR, "nav input").send_keys("Reader")
    driver.find_element(By.XPATH, "//button[.='Save what I say']").click()
    body.send_keys("w")
    assert len(driver.find_elements(By.CSS_SELECTOR, ".wipe img")) == 2
    saved = wait_for(lambda: next(person.downloads.glob("notes on*.json")), "what the reader saved")
    assert {note.get("text") or note["verdict"] for note in json.loads(saved.read_text())["notes"]} == {
        "Lovely <b>indeed</b>", "not yet",
    }  # fmt: skip
    return saved


@pytest.mark.timeout(420)
def test_a_review_is_held(program, person):
    for name, eye in (("Desk", [0, -24, 2]), ("Balcony", [4, -16, 5])):
        program.edit("add viewpoint", name=name, eye=eye, target=[0, 1, 2])
    for row in program.document()["objects"]:
        if row["kind"] == "viewpoint" and row["body"]["name"] not in ("Desk", "Balcony"):
            program.edit("remove", ids=[row["id"]])
    flood = next(row["id"] for row in program.document()["objects"] if row["body"].get("name") == "Flood")
    person.open(program.url)
    person.go("Review")
    seats_are_asked_what_they_see(person)
    light_is_read(person, program, flood)
    looks_are_wiped(person)
    notes_are_written(person, program)
    book = a_book_is_drawn(person)
    saved = it_is_read_without_the_program(person, book)
    person.open(program.url)
    person.go("Review")
    person.press("Book")
    person.find("//input[@aria-label='A file of notes on the book']", "the file").send_keys(str(saved))
    person.press("Take these notes in")
    wait_for(lambda: sum(row["kind"] == "note" for row in program.document()["objects"]) == 4, "the reader's notes")
    person.press("Close this review")
    person.says("Nothing has changed since.")


TRIES = """const [desk, show, done] = arguments;
const body = JSON.stringify({ kind: "set show", args: { haze_per_m: 0.5 }, who: "guest" });
const status = (url, type) =>
  fetch(url, { method: "POST", body, headers: { "Content-Type": type } }).then((answer) => answer.status, () => 0);
const edits = `/api/shows/${show}/edits`;
const tries = [[edits, "application/json"], [desk + edits, "application/json"], [desk + edits, "text/plain"]];
Promise.all(tries.map(([url, type]) => status(url, type))).then(done);"""


@pytest.mark.timeout(300)
def test_a_guest_follows_and_fails_to_edit(program, person, tmp_path):
    folder = tmp_path / "guest"
    folder.mkdir()
    guest = Person(folder)
    try:
        person.open(program.url)
        person.go("Review")
        person.press("Guests")
        person.says("Not shared: nothing is open to other devices")
        person.press("Share with guests")
        person.find("//img[starts-with(@alt, 'The guests')]", "the QR code")
        link = program.get("/api/shows/SHOW/sharing")["links"][-1]
        guest.driver.get(link)
        shown = "const one = document.getElementById('picture'); return one.hidden ? 0 : one.naturalWidth"
        wait_for(lambda: guest.driver.execute_script(shown) > 100, "the guest to see the picture")
        before = guest.driver.execute_script("return document.getElementById('picture').src")
        ebb = next(row["id"] for row in program.document()["objects"] if row["body"].get("name") == "Ebb")
        program.edit("play look", id=ebb)
        said = "return document.getElementById('said').textContent"
        wait_for(lambda: "Ebb" in guest.driver.execute_script(said), "the guest to follow")
        assert guest.driver.execute_script("return document.getElementById('picture').src") != before
        person.says("1 guest there")
        haze = program.document()["objects"]
        tried = guest.driver.execute_async_script(TRIES, program.url, program.show)
        assert tried == [404, 0, 0]
        assert program.document()["objects"] == haze
        person.press("End sharing")
        wait_for(lambda: "Ebb" not in guest.driver.execute_script(said), "the guest to be out")
    finally:
        guest.close()
