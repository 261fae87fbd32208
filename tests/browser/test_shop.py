"""The type shop by hand: two lamps from made-up manuals, tried out, checked, finished, hung and driven."""

import base64
from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.processes import sender, stop, wait_for
from zarfwright.formats.gdtf import read_gdtf, write_gdtf
from zarfwright.library import wader

EXAMPLES = Path(__file__).parents[2] / "docs" / "examples"
PUT = """const [field, text] = arguments, proto = Object.getPrototypeOf(field);
Object.getOwnPropertyDescriptor(proto, "value").set.call(field, text);
field.dispatchEvent(new Event("input", { bubbles: true }));"""


def open_types(person):
    person.go("Hang")
    person.press("Types and type shop")
    person.find('//*[@data-type="Heron"]', "the types")


def labelled(person, label):
    name = person.find(f'//main//label[normalize-space(.)="{label}"]', f"the field {label}")
    return person.driver.find_element(By.ID, name.get_attribute("for"))


def typed(person, label, text):
    field = wait_for(lambda: labelled(person, label), label)
    person.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", field)
    person.write(lambda: labelled(person, label), text, label)
    labelled(person, label).send_keys(Keys.ENTER)


def chosen(person, label, words):
    option = f'./option[normalize-space(.)="{words}"]'

    def done():
        found = labelled(person, label).find_element(By.XPATH, option)
        found.click()
        return found.is_selected()

    wait_for(done, f"{words} to be chosen of {label}")


def put(person, xpath, what, text):
    """Set what stands in a field at once, as a paste does."""

    def done():
        person.driver.execute_script(PUT, person.find(xpath, what), text)
        return True

    wait_for(done, what)


def paste(person, text, what, instead=""):
    """Read a manual's text: beside what is there, or in its place."""
    person.press("From the manual")
    put(person, '//textarea[@aria-label="A table out of a manual"]', "the place for text", text)
    if instead:
        person.press(instead)
    person.press(f"Take {what}")


def rows(person):
    return person.driver.execute_script(
        """return [...document.querySelectorAll("tr[data-channel]")].map(
            (row) => [...row.children].map((cell) => cell.innerText.trim()))"""
    )


def trying(person, name, value):
    put(person, f'//input[@aria-label="Try {name}"]', f"the slider of {name}", str(value))


def said_of(person, name):
    return next(row[-1] for row in rows(person) if row[2].startswith(name))


def shop(person, script):
    return person.driver.execute_script(f"const s = window.zarfwrightShop; return s ? {script} : null")


def beam_of(person):
    report = shop(person, "s.report()")
    return report["panes"][0]["beams"][0] if report and report["panes"][0]["beams"] else None


@pytest.mark.timeout(300)
def test_a_moving_spot_with_two_modes_from_its_manual(program, person):
    person.open(program.url)
    open_types(person)
    person.press("Begin a moving head")
    typed(person, "Name", "Kittiwake 400")
    text = (EXAMPLES / "kittiwake-channels.txt").read_text()
    person.press("From the manual")
    put(person, '//textarea[@aria-label="A table out of a manual"]', "the place for text", text)
    # Each line with what was made of it; what was not used says why; nothing is replaced unless it is said.
    person.find('//*[@role="radio" and @aria-checked="true" and normalize-space(.)="beside Standard"]', "beside")
    person.says("not used: a footnote")
    person.says("its rate is not given: 0.5 to 20 Hz was assumed")
    shown = person.find('//*[@role="listitem" and contains(., "190–229")]', "a range beside its line")
    assert "Random strobe, slow to fast" in shown.text
    person.press("in place of its 4 channels")
    person.press("Take 19 channels")
    wait_for(lambda: len(rows(person)) == 19, "nineteen channels")
    assert [row[1] for row in rows(person)][:4] == ["1+2", "3+4", "5", "6+7"]
    assert all("◇" not in row[2] for row in rows(person)), "nothing is in doubt"
    person.says("ranges have usual rates, speeds or angles")
    person.press("They will do")
    person.says("In order")

    # Try it: the slider, the picture and the words go together.
    trying(person, "intensity", 65535)
    trying(person, "shutter", 80)
    wait_for(lambda: said_of(person, "shutter") == "strobe, 6.3 Hz", "the strobe in words")
    trying(person, "shutter", 240)
    trying(person, "colour", 15)
    wait_for(lambda: said_of(person, "colour") == "colour: Deep red", "the slot in words")
    beam = wait_for(lambda: (b := beam_of(person)) and b["candela"][0] > 100 and b, "a red beam in the picture")
    assert beam["candela"][1] < 0.2 * beam["candela"][0]
    trying(person, "pan", 65535)
    trying(person, "tilt", 65535)
    wait_for(lambda: said_of(person, "tilt") == "tilt 135°", "the tilt in words")
    wait_for(lambda: (b := beam_of(person)) and b["along"][2] > 0.6, "the head to have turned up")

    # The other mode.
    person.press("Add a mode")
    wait_for(lambda: not rows(person), "the empty mode")
    paste(person, (EXAMPLES / "kittiwake-14.txt").read_text(), "14 channels")
    wait_for(lambda: len(rows(person)) == 14, "fourteen channels")
    # The draft is stored a moment after it is shown.
    wait_for(lambda: [len(mode["channels"]) for mode in program_draft(program)["modes"]][1:] == [14], "it to be stored")
    # The channel whose wheel it shares has the same slots.
    assert program_draft(program)["wheels"][0]["slots"][1]["name"] == "Deep red"

    # A fault made by hand is found, and put right by its button.
    person.click("(//tr[@data-channel])[4]", "the fourth channel")
    edge = person.find('//*[@role="slider" and @aria-label="Edge before Open"]', "an edge")
    edge.send_keys(Keys.SHIFT, Keys.ARROW_RIGHT)
    wait_for(lambda: program_draft(program)["modes"][1]["channels"][3]["ranges"][1]["start"] == 30, "the edge moved")
    typed(person, "To", "12")
    person.says("nothing is said of 13-29")
    person.press("Let “Closed” go on to 29")
    wait_for(lambda: program_draft(program)["modes"][1]["channels"][3]["ranges"][0]["end"] == 29, "it to be put right")
    person.click('//h1[normalize-space(.)="Kittiwake 400"]', "the name")
    ActionChains(person.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    wait_for(lambda: program_draft(program)["modes"][1]["channels"][3]["ranges"][0]["end"] == 12, "it to be undone")
    chain = ActionChains(person.driver).key_down(Keys.CONTROL).key_down(Keys.SHIFT).send_keys("z")
    chain.key_up(Keys.SHIFT).key_up(Keys.CONTROL).perform()
    wait_for(lambda: program_draft(program)["modes"][1]["channels"][3]["ranges"][0]["end"] == 29, "it to be redone")

    # A gobo is drawn, and seen.
    person.click('//button[@role="tab" and normalize-space(.)="Wheels"]', "the wheels")
    chosen(person, "Wheel", "Gobo wheel, 4 slots")
    person.click('//button[normalize-space(.)="2Gobo 1"]', "the slot")
    chosen(person, "Draw", "spiral")
    person.press("Draw spiral")
    person.find('//img[@alt="The picture of Gobo 1"]', "the drawn gobo")
    wait_for(lambda: program_draft(program)["wheels"][1]["slots"][1]["image"], "the picture to be kept")

    person.press("Add to the show")
    person.says("Add the type Kittiwake 400")
    person.settle()
    types = program.document()["types"]
    new = next(key for key, one in types.items() if one["name"] == "Kittiwake 400")
    assert [(mode["name"], mode["footprint"]) for mode in types[new]["modes"]] == [
        ("Standard", 22),
        ("14-channel mode", 14),
    ]
    made, findings = read_gdtf(program.raw(f"/api/shows/SHOW/types/{new}/gdtf"), "k.gdtf")
    assert findings == []
    assert [channel.attribute for channel in made.modes[1].channels][:4] == ["Pan", "Tilt", "Dimmer", "Shutter1"]


def program_draft(program):
    return next(row["body"] for row in program.document()["objects"] if row["kind"] == "draft")


@pytest.mark.timeout(300)
def test_a_panel_of_sixteen_cells_with_four_modes(program, person):
    person.open(program.url)
    open_types(person)
    chosen(person, "A new", "LED panel")
    person.press("Begin a LED panel")
    typed(person, "Name", "Sanderling 16")
    paste(person, (EXAMPLES / "sanderling-48.txt").read_text(), "48 channels", "in place of its 50 channels")
    wait_for(lambda: len(rows(person)) == 48, "forty-eight channels")
    assert [row[3] for row in rows(person)][45:] == ["Cell 16"] * 3
    # The starter had two modes; the second is written over, two more follow.
    parts = (EXAMPLES / "sanderling-short.txt").read_text().split("== ")[1:]
    for i, part in enumerate(parts):
        if i == 0:
            person.click('//button[@role="tab" and starts-with(normalize-space(.), "Together")]', "the mode")
        else:
            person.press("Add a mode")
        wait_for(lambda there=0 if i else 5: len(rows(person)) == there, "the mode")
        channels = part.split("\n", 1)[1]
        count = (5, 5, 17)[i]
        paste(person, channels, f"{count} channels", "" if i else "in place of its 5 channels")
        wait_for(lambda wanted=count: len(rows(person)) == wanted, f"{count} channels")
    # What is on the page is stored a moment later.
    wait_for(lambda: len(program_draft(program)["modes"]) == 4, "the four modes to be stored")
    draft = program_draft(program)
    assert len(draft["body"]["cells"]) == 16

    # One cell at full is one beam, at its place.
    person.click('//button[@role="tab" and starts-with(normalize-space(.), "Mode A")]', "the cells")
    wait_for(lambda: len(rows(person)) == 48, "the cells' mode")
    # It begins at full, so that it is seen.
    wait_for(lambda: (b := beam_of(person)) and min(b["candela"]) > 1, "it to be lit")
    person.press("Home")
    wait_for(lambda: (b := beam_of(person)) and b["candela"][0] == 0, "it to be dark")
    trying(person, "red", 255)
    # An answer that was asked for before Home may still come: white for a moment, and then red.
    wait_for(lambda: (b := beam_of(person)) and b["candela"][0] > max(1, b["candela"][1] / 0.3), "one red cell")
    person.press("Home")
    wait_for(lambda: (b := beam_of(person)) and b["candela"][0] == 0, "it to be dark again")
    # One after the other, in the order of their numbers.
    person.press("Chase")
    wait_for(lambda: (b := beam_of(person)) and sum(b["candela"]) > 1, "the chase to run")
    person.press("Stop the chase")
    # Numbered anew along a path: the first row backwards.
    person.press("Number along a path")
    plot = person.find('//*[@aria-label="Lenses by number"]', "the lenses")
    circles = person.driver.execute_script(
        """return [...arguments[0].querySelectorAll("circle")].map((circle) => {
            const box = circle.getBoundingClientRect();
            return [box.x + box.width / 2, box.y + box.height / 2]; })""",
        plot,
    )
    box = plot.rect
    at = [(x - box["x"] - box["width"] / 2, y - box["y"] - box["height"] / 2) for x, y in circles]
    first, last = at[3], at[0]
    chain = ActionChains(person.driver, duration=120)
    chain.move_to_element_with_offset(plot, round(first[0]), round(first[1])).click_and_hold()
    chain.move_by_offset(round((last[0] - first[0]) / 2), 0).move_by_offset(round((last[0] - first[0]) / 2), 0)
    chain.release().perform()
    wait_for(lambda: program_draft(program)["body"]["cells"][0][0] > 0.1, "the lenses to be numbered anew")
    cells = program_draft(program)["body"]["cells"]
    assert [round(x, 2) for x, _ in cells[:4]] == [0.18, 0.06, -0.06, -0.18]
    person.press("Add to the show")
    person.says("Add the type Sanderling 16")
    types = program.document()["types"]
    panel = next(one for one in types.values() if one["name"] == "Sanderling 16")
    assert [mode["footprint"] for mode in panel["modes"]] == [48, 5, 9, 17]
    new = next(key for key, one in types.items() if one["name"] == "Sanderling 16")
    lamp = program.edit("place free", type=new, mode="Mode A: 48 channels", position=[0, 0, 4])["select"][0]
    program.edit("address", ids=[lamp], start="41.1")
    other = sender(program, 41)
    try:
        other[41].dmx_data = tuple(255 if slot % 3 == 1 else 0 for slot in range(48))
        person.settle()

        def green():
            shown = next(b for b in person.report()["panes"][0]["beams"] if b["id"] == lamp)["candela"]
            return shown[1] > 10 and shown[1] > 2 * shown[0]

        wait_for(green, "a green panel on the stage")
    finally:
        stop(other)


@pytest.mark.timeout(240)
def test_types_come_as_files_are_shown_first_and_found_again(program, person):
    person.open(program.url)
    path = program.tmp_path / "wader.gdtf"
    path.write_bytes(write_gdtf(wader()))
    person.driver.execute_script(
        """const data = new DataTransfer();
        const bytes = Uint8Array.from(atob(arguments[0]), (c) => c.charCodeAt(0));
        data.items.add(new File([bytes], "wader.gdtf"));
        for (const kind of ["dragover", "drop"]) {
            window.dispatchEvent(new DragEvent(kind, { dataTransfer: data, bubbles: true, cancelable: true })); }""",
        base64.b64encode(path.read_bytes()).decode(),
    )
    person.says("This is a fixture type (GDTF).")
    person.press("Look at the type")
    person.says("Wader, Quillback Lamp Co.")
    person.says("Small: 7 slots")
    assert not any(one["name"] == "Wader" for one in program.document()["types"].values()), "nothing is added yet"
    person.press("Add Wader to the show")
    wait_for(lambda: any(one["name"] == "Wader" for one in program.document()["types"].values()), "the type")
    # Found again by its name, and made a favourite.
    field = person.find('//input[@aria-label="Search types"]', "the search")
    field.send_keys("wad")
    wait_for(lambda: len(person.driver.find_elements(By.CSS_SELECTOR, "[data-type]")) == 1, "one type")
    person.press("Make Wader a favourite")
    field.send_keys(Keys.CONTROL, "a", Keys.DELETE)
    person.press("favourites")
    wait_for(lambda: len(person.driver.find_elements(By.CSS_SELECTOR, "[data-type]")) == 1, "the favourite")
    # A file that is none is refused, and nothing is added.
    rubbish = program.tmp_path / "rubbish.gdtf"
    rubbish.write_bytes(b"not a zip")
    there = len(program.document()["types"])
    person.find('//input[@aria-label="A GDTF file"]', "the file field").send_keys(str(rubbish))
    person.says("rubbish.gdtf is not a zip archive that can be read")
    assert len(program.document()["types"]) == there
    person.press("Back to the show")
    person.settle()
    # The picture is there again at once, though nothing has changed and no frame comes.
    person.beams_until(lambda beams: sum(max(one["candela"]) > 1 for one in beams.values()) > 5, "the lamps")
    person.go("Hang")
    person.choose("Type", "Wader")
