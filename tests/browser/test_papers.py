"""Papers by hand: a sheet made from nothing, a label moved, issued, the rig changed, the cloud seen, saved; a list."""

import io

import pypdf
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from tests.browser.test_picture import by_number
from tests.processes import wait_for


def kept(program, kind):
    return {row["id"]: row["body"] for row in program.document()["objects"] if row["kind"] == kind}


def parts(person, css):
    return person.driver.find_elements(By.CSS_SELECTOR, f"[data-drawn] svg {css}")


def drawn(person):
    return int(person.find("//*[@data-drawn]", "the sheet").get_attribute("data-drawn"))


def drag(person, element, dx, dy):
    """From the middle of an element by so many pixels."""
    x, y = person.driver.execute_script(
        "const box = arguments[0].getBoundingClientRect(); return [box.x + box.width / 2, box.y + box.height / 2]",
        element,
    )
    chain = ActionChains(person.driver, duration=20)
    pointer = chain.w3c_actions.pointer_action
    pointer.move_to_location(int(x), int(y))
    pointer.pointer_down()
    pointer.move_to_location(int(x + dx / 2), int(y + dy / 2))
    pointer.move_to_location(int(x + dx), int(y + dy))
    pointer.pointer_up()
    chain.perform()


def downloaded(person, ending):
    return wait_for(lambda: next(iter(person.downloads.glob(f"*.{ending}")), None), f"the {ending}")


@pytest.mark.timeout(420)
def test_a_sheet_is_made_arranged_issued_and_clouded_where_the_rig_changes(program, person):
    person.open(program.url)
    person.go("Papers")
    person.choose("With", "Plan")
    person.choose("On", "A2")
    person.press("Make the sheet")
    wait_for(lambda: parts(person, "[data-part='view/v1']"), "the sheet to be drawn")
    (sheet,) = kept(program, "sheet")
    lamp = by_number(program, 61)
    label = wait_for(lambda: next(iter(parts(person, f"[data-part='label/v1/{lamp}']")), None), "the label of 61")
    # A label is dragged, and stays where it was put.
    drag(person, label, 30, -24)
    wait_for(lambda: lamp in kept(program, "sheet")[sheet]["views"][0].get("labels", {}), "the label to be kept")
    person.says("put by hand")
    person.says("Fixture 61")
    person.press("Back to the sheet")
    # The view is dragged by its paper.
    before = drawn(person)
    drag(person, parts(person, "[data-part='view/v1']")[0], 18, 10)
    wait_for(lambda: kept(program, "sheet")[sheet]["views"][0].get("at"), "the view to be kept")
    wait_for(lambda: drawn(person) > before, "the sheet to be drawn anew")
    person.press("Back to the sheet")
    assert not parts(person, "[data-layer='Revisions']")
    # Issued; then the rig changes, and the sheet has a cloud there.
    person.type("For", "Load-in")
    person.press("Issue the papers")
    person.says("Nothing changed since")
    person.go("Hang")
    person.row("61")
    person.type("For", "Moved to the choir", enter=True)
    person.go("Papers")
    wait_for(lambda: parts(person, "[data-layer='Revisions'] path"), "the cloud")
    person.says("1 thing changed since")
    person.says("since A")
    # What is saved is what is seen.
    person.click('//a[normalize-space(.)="Save as PDF"]', "the PDF")
    data = downloaded(person, "pdf").read_bytes()
    text = pypdf.PdfReader(io.BytesIO(data)).pages[0].extract_text()
    assert "since A" in text
    assert "61" in text.split()
    # The list says so too, and is kept as it is arranged.
    person.press("Lists")
    person.click('//button[@role="option"][contains(., "Instruments")]', "the list")
    person.says("1 changed since revision A")
    row = person.find('//table[@aria-label="Instruments by position"]//td[.="Moved to the choir"]/..', "its row")
    row.click()
    wait_for(lambda: row.get_attribute("aria-selected") == "true", "the fixture to be selected")
    person.choose("Sorted by", "Number")
    wait_for(lambda: kept(program, "list"), "the order to be kept")
    person.press("Sheets")
    wait_for(lambda: parts(person, "[data-part='view/v1']"), "the sheet again")
