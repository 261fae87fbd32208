"""One picture of each main view, from a fresh demo show: `bin/screenshots`."""

from __future__ import annotations

import base64
import io
import tempfile
from collections.abc import Callable
from pathlib import Path

from PIL import Image
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.person import Person
from tests.browser.test_frame import press_keys
from tests.browser.test_shop import EXAMPLES, open_types, put, rows, said_of, shop, trying, typed
from tests.browser.test_slice import by_number
from tests.processes import Program, wait_for
from zarfwright.demo.guests import guest_scene

OUT = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
STILL_FROM = ([1.3, -11.4, 1.6], [0.0, 2.5, 4.2])
OVER_THE_HOUSE = ([6.4, -17.0, 4.4], [-0.5, 2.0, 3.3])
UNDER_THE_LANTERN = ([4.4, -10.0, 8.4], [0.0, -3.4, 5.8])
AT_THE_BRIDGE = ([7.5, -3.5, 4.6], [0.0, 8.0, 3.0])
UNDER_THE_ROOF = ([-4.2, -18.0, 4.9], [1.6, 3.0, 6.5])
STILL = """
const [width, height, samples, done] = arguments;
window.zarfwrightStage.snapshot("main", width, height, { samples }).then(async (blob) => {
  const reader = new FileReader();
  reader.onload = () => done(reader.result.split(",")[1]);
  reader.readAsDataURL(blob);
});
"""


def papers(person: Person, keep: Callable[[str], None]) -> None:
    """A sheet with a view in hand."""
    person.go("Papers")
    person.click('//button[@role="option"][contains(., "Booms")]', "the sheet of the booms")
    view = wait_for(
        lambda: next(iter(person.driver.find_elements(By.CSS_SELECTOR, "[data-drawn] [data-part='view/v1']")), None),
        "a view",
    )
    ActionChains(person.driver).move_to_element(view).click().perform()
    person.says("Boom SR DS alone")
    keep("papers")


def reviewing(person: Person, program: Program, folder: Path, keep: Callable[[str], None]) -> None:
    """Who sees a face, light in false colour, and the look book as it is opened from the disk."""
    person.go("Review")
    person.press("Choose a place")
    teller = next(row for row in program.document()["objects"] if row["body"].get("name") == "Storyteller")
    x, y, z = teller["body"]["position"]
    person.click_place([x, y - 0.08, z + 1.62])
    person.find("//aside//*[@role='status'][contains(., 'see it')]", "who sees it")
    keep("review")
    person.press("Forget the place")
    person.press("Light")
    person.row("Deck before the choir")
    person.driver.execute_script("window.zarfwrightStage.lookFrom('main', [3.5, -6.5, 6.0], [0, 2.2, 1.1])")
    person.settle()
    person.find("//*[@role='img'][starts-with(@aria-label, 'False colours')]", "the scale")
    keep("review-light")
    person.press("Book")
    person.choose("Pictures", "720p")
    person.press("Draw 56 pictures")
    person.says("All pictures of the book are drawn.", 600)
    views = [row["id"] for row in program.document()["objects"] if row["kind"] == "viewpoint"]
    book = folder / "look book.html"
    book.write_bytes(program.raw("/api/shows/SHOW/book", {"viewpoints": views}))
    person.driver.get(f"file://{book}")
    body = person.driver.find_element(By.TAG_NAME, "body")
    body.send_keys(Keys.ARROW_RIGHT * 4, "4")
    person.driver.save_screenshot(str(OUT / "review-book.png"))
    person.open(program.url, 1.0, "Air")


def types_and_shop(person: Person, keep: Callable[[str], None]) -> None:
    """The library of types, and a lamp made from its manual."""
    open_types(person)
    pictures = "return [...document.images].every((one) => one.complete && one.naturalWidth)"
    wait_for(lambda: person.driver.execute_script(pictures), "the pictures of bodies")
    person.press("Begin a moving head")
    typed(person, "Name", "Kittiwake 400")
    manual = (EXAMPLES / "kittiwake-channels.txt").read_text()
    person.press("From the manual")
    put(person, '//textarea[@aria-label="A table out of a manual"]', "the place for a table", manual)
    person.find('//button[normalize-space(.)="Take 19 channels" or contains(., "in place of its 4")]', "what was read")
    keep("manual")
    person.press("in place of its 4 channels")
    person.press("Take 19 channels")
    wait_for(lambda: len(rows(person)) == 19, "the channels")
    for name, value in (("intensity", 65535), ("shutter", 240), ("colour", 15), ("tilt", 41000)):
        trying(person, name, value)
    person.driver.find_elements(By.CSS_SELECTOR, "tr[data-channel]")[4].click()
    wait_for(lambda: said_of(person, "tilt").startswith("tilt 33"), "the tilt")
    wait_for(lambda: shop(person, "s.asked > 3 && s.asked === s.settled"), "the picture", 180)
    keep("type-shop")
    person.press("Throw away")
    person.press("Types and type shop")
    person.press("Back to the show")
    person.settle()


def looks(person: Person, keep: Callable[[str], None]) -> None:
    """The running order with a step chosen, and two looks compared in words."""
    person.go("Looks")
    undrawn = "return document.querySelectorAll('[data-part=undrawn], [data-part=stale]').length"
    wait_for(lambda: person.driver.execute_script(undrawn) == 0, "the pictures of looks", 900)
    person.press("Step 4: look 4 ")
    person.find('//h3[starts-with(., "Step 4")]', "the step")
    keep("looks")


def hanging(person: Person, keep: Callable[[str], None]) -> None:
    """One of the rig, under the lantern."""
    person.go("Hang")
    person.stage("lookFrom", "main", *UNDER_THE_LANTERN)
    person.row("81")
    keep("hang")
    press_keys(person, Keys.ESCAPE)
    # With nothing selected the card begins anew.
    person.go("Site")
    person.go("Hang")


def lifting(person: Person, program: Program, keep: Callable[[str], None]) -> None:
    """The bridge half way up, held by hand, with its driver in the card."""
    person.stage("lookFrom", "main", *AT_THE_BRIDGE)
    person.press("Carriers 3")
    person.click('//*[@role="treeitem"][contains(., "Bridge")]', "the bridge")
    person.click('//aside//*[normalize-space(text())="Carry"]', "Carry")
    driver = by_number(program, 901)
    program.edit("hold values", ids=[driver], values={"shift z": 2.0})
    person.click('//summary[contains(., "Raised:")]', "its range")
    person.says("2.00 m")
    frames_on(person, 2)
    keep("driver")
    program.edit("release", ids=[driver])
    press_keys(person, Keys.ESCAPE)
    person.press("Fixtures")
    person.go("Site")
    person.go("Hang")


def _heads(person: Person, first: int, last: int) -> None:
    """Select heads in the table by their numbers, from the first to the last."""
    cell = '//section[@aria-label="Bench"]//td[normalize-space(.)="{}"]'
    person.click(cell.format(first), str(first), "center")
    person.click(cell.format(last), str(last), "center", held=Keys.SHIFT)


def carrying(person: Person, program: Program) -> None:
    """Eight heads carried over the map, to a universe of their own."""
    heads = [by_number(program, number) for number in range(61, 69)]
    person.driver.execute_script("window.zarfwrightStage.events.onSelect(arguments[0], false)", heads)
    person.press("Carry 8 fixtures to a slot")
    strip = person.find("//*[@data-strip='7']", "the strip of universe 7")
    ActionChains(person.driver).move_to_element_with_offset(strip, -220, 0).perform()
    person.says("from 7.")


def frames_on(person: Person, count: int = 4) -> None:
    """The picture moves on and on: a few frames later it shows what came in."""
    before = person.report()["frames"]
    wait_for(lambda: person.report()["frames"] >= before + count, "frames", 120)


def a_fault(program: Program) -> None:
    """A connection whose interface is no longer there."""
    objects = program.document()["objects"]
    spare = next(row["id"] for row in objects if row["body"].get("name") == "Spare desk")
    program.edit("set connection", id=spare, interface="eth9", address="10.0.0.9", listen=True)


def aiming(person: Person, program: Program, keep: Callable[[str], None]) -> None:
    """Eight heads in hand over the deck, one cut to its edge, and the palettes."""
    _, before = program.post("/api/shows/SHOW/points", {"name": "Before aiming"})
    person.go("Aim")
    person.stage("lookFrom", "main", *OVER_THE_HOUSE)
    person.press("As a table")
    _heads(person, 61, 68)
    person.press("By focus point")
    press_keys(person, "a")
    person.press("Face")
    person.settle()
    person.click_place([0.6, 3.0, 1.1])
    person.says("8 by hand")
    wait_for(lambda: person.driver.find_elements(By.XPATH, '//label[.="Name it"]'), "the place to be taken")
    keep("aim")
    press_keys(person, Keys.ESCAPE)
    program.post("/api/shows/SHOW/back", {"who": "tester", "point": before[0]["id"]})
    person.press("By focus point")
    press_keys(person, Keys.ESCAPE)
    # What comes next is of the whole rig.
    person.press("Back to the start view in the main pane")


def lasers(person: Person, program: Program, keep: Callable[[str], None]) -> None:
    """Six lasers over the house in a dark look, each with a still figure, their zones and what they reach."""
    _, before = program.post("/api/shows/SHOW/points", {"name": "Before the lasers"})
    rows = program.document()["objects"]
    ids = [by_number(program, number) for number in range(211, 217)]
    dark = next(row["id"] for row in rows if row["body"].get("name") == "Ebb: one place")
    program.edit("play look", id=dark)
    program.edit("draw file", ids=ids, asset=None)
    program.edit("hold values", ids=ids, values={"dimmer": 1.0, "red": 1.0, "green": 1.0, "blue": 1.0})
    program.post("/api/shows/SHOW/laser-feed", {"pattern": "mixed", "still": True})
    person.go("Aim")
    person.driver.execute_script("window.zarfwrightStage.events.onSelect(arguments[0], false)", ids)
    person.stage("lookFrom", "main", *UNDER_THE_ROOF)
    person.stage("setWish", {"step": "Depth", "fps": 25, "cap": 1, "rests": True})
    person.says("The zone of fixture 216 crosses")
    drawn = "return window.zarfwrightStage.state.lasers.rows.size"
    wait_for(lambda: person.driver.execute_script(drawn) == 6, "six figures")
    heading = '//aside//*[normalize-space(text())="Zone"]'
    person.driver.execute_script("arguments[0].scrollIntoView()", person.find(heading, "the zone"))
    keep("lasers")
    program.post("/api/shows/SHOW/laser-feed", {"run": False})
    person.stage("setWish", {"step": "Pattern", "fps": 25, "cap": 1})
    program.post("/api/shows/SHOW/back", {"who": "tester", "point": before[0]["id"]})
    press_keys(person, Keys.ESCAPE)
    person.press("Back to the start view in the main pane")


def exchange(person: Person, program: Program, folder: Path, keep: Callable[[str], None]) -> None:
    """The guests' file beside the demo."""
    file = folder / "guests.mvr"
    file.write_bytes(guest_scene(program.raw("/api/shows/SHOW/scene.mvr")))
    person.press("Scenes in and out")
    person.find('//input[@aria-label="An MVR file"]', "the file field").send_keys(str(file))
    person.says("with the 22 on it")
    keep("exchange")
    person.press("Put the file away")
    person.press("Back to the show")


def consoles(person: Person, program: Program, keep: Callable[[str], None]) -> None:
    """A console that has a patch of its own is offered the rig; its page; and its line, of which two are silent."""
    heads = {row["body"]["number"]: row["id"] for row in program.document()["objects"] if row["kind"] == "fixture"}
    key = program.post("/api/shows/SHOW/simulated", {"patch": False, "name": "Front desk"})[1]["key"]
    place, simulated = f"/api/shows/SHOW/consoles/{key}", f"/api/shows/SHOW/simulated/{key}"
    person.go("Signal")
    person.says("Linked: Simulated console")
    program.post(f"{place}/offer", {"ids": [heads[n] for n in (81, 82, 86, 91, 92, 93)]})
    program.post(f"{place}/take", {"way": "add"})
    program.post(simulated, {"do": "fault", "unknown": ["Wader"]})
    person.press("Offer rig")
    person.click('//summary[starts-with(normalize-space(.), "Ask again")]', "what to ask again")
    person.press("Ask again with the rig as it is now")
    person.says("6 fixtures in its patch.")
    person.click('//*[@role="radio"][normalize-space(.)="Add"]', "the way")
    frames_on(person, 1)
    keep("offer")
    program.post(f"{place}/take", {"way": "clear"})
    program.post(f"{place}/beside", {"hand_over": True})
    for command in ("make cues", *["next"] * 7):
        program.post(simulated, {"do": command})
    program.edit("aim at", ids=[heads[n] for n in (61, 62)], point=[0.0, 0.0, 1.1])
    program.edit("set colour", ids=[heads[61]], kelvin=3200)
    person.press("See Front desk")
    person.says("Flood: the whole deck")
    person.find('//*[@aria-label="Values in the editor"]/*[8]', "the values that went over")
    person.beams_until(lambda beams: sum(max(beam["candela"]) > 5000 for beam in beams.values()) >= 20, "the cue")
    frames_on(person, 1)
    keep("simulated-console")
    program.post(simulated, {"do": "fault", "silent": [62, 64]})
    person.press("Check the line")
    ids = [heads[n] for n in (61, 62, 63, 64, 65)]
    program.post("/api/shows/SHOW/check", {"do": "start", "ids": ids, "way": "send", "console": key, "who": "tester"})
    wait_for(lambda: not program.get("/api/shows/SHOW/check")["going"], "the check", 180)
    frames_on(person, 1)
    for _ in range(3):
        program.post("/api/shows/SHOW/undo", {"who": "tester"})
    person.press("Shut Front desk down")
    person.press("Mapping")


def main() -> int:
    """Do what the tour describes, and keep what is seen."""
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        program = Program(Path(folder) / "demo.zarf", whole=True, sacn_address="127.0.0.1")
        person = Person(Path(folder))
        person.driver.set_script_timeout(1200)
        person.driver.command_executor.client_config.timeout = 1200

        def settle() -> None:
            # Software rendering takes seconds a frame at full quality.
            wait_for(lambda: (report := person.report()) and report["settled"] and report["frames"], "the picture", 180)

        def keep(name: str) -> None:
            settle()
            person.driver.save_screenshot(str(OUT / f"{name}.png"))

        def keep_plain(name: str) -> None:
            person.driver.save_screenshot(str(OUT / f"{name}.png"))

        def panes(count: int) -> None:
            while len(person.report()["panes"]) != count:
                before = len(person.report()["panes"])
                person.click('//button[@title="One, two or three panes"]', "the panes")
                wait_for(lambda before=before: len(person.report()["panes"]) != before, "the panes")

        def open_at(quality: str) -> None:
            person.driver.get(f"{program.url}/?scale=1.0&quality={quality}")
            settle()
            person.beams_until(lambda beams: len(beams) == 96, "the beams")

        try:
            open_at("Depth")
            person.go("Site")
            person.row("Main deck")
            keep("site")
            press_keys(person, Keys.ESCAPE)
            panes(1)
            program.edit("set show", work_light_lx=0.0)
            person.go("Review")
            person.stage("lookFrom", "main", *STILL_FROM)
            settle()
            picture = Image.open(io.BytesIO(base64.b64decode(person.driver.execute_async_script(STILL, 1280, 720, 10))))
            picture.convert("RGB").save(OUT / "still.png", optimize=True)
            program.post("/api/shows/SHOW/undo", {"who": "tester"})
            # The rest is drawn faster, without shadows.
            open_at("Pattern")
            panes(2)
            press_keys(person, "l")
            press_keys(person, "l")
            press_keys(person, "e")
            person.says("How it is drawn here")
            keep("picture-and-numbers")
            press_keys(person, "e")
            press_keys(person, "l")
            hanging(person, keep)
            lifting(person, program, keep)
            types_and_shop(person, keep_plain)
            aiming(person, program, keep)
            lasers(person, program, keep)
            person.go("Patch")
            carrying(person, program)
            keep("patch")
            press_keys(person, Keys.ESCAPE)
            press_keys(person, Keys.ESCAPE)
            looks(person, keep)
            papers(person, keep)
            exchange(person, program, Path(folder), keep_plain)
            reviewing(person, program, Path(folder), keep)
            open_at("Air")
            consoles(person, program, keep_plain)
            person.press("Start with this patch")
            for _ in range(7):
                person.press("Next cue")
            person.press("Mapping")
            person.says("Cue 7, Flood: the whole deck")
            person.beams_until(
                lambda beams: sum(max(beam["candela"]) > 5000 for beam in beams.values()) >= 20, "the cue to be in"
            )
            frames_on(person)
            a_fault(program)
            person.press("Ask the doctor: listen for 6 s")
            person.says("eth9 (10.0.0.9) is gone")
            frames_on(person, 1)
            person.driver.save_screenshot(str(OUT / "signal.png"))
        finally:
            person.close()
            program.end()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
