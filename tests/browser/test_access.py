"""Every screen as a screen reader and a keyboard meet it: rules of WCAG 2 A and AA, tried by axe-core."""

from pathlib import Path

import pytest

from tests.processes import wait_for
from tests.scenes import fixture, layer, mvr

AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
RUN = """const done = arguments[arguments.length - 1];
const rules = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "best-practice"];
axe.run(document, { runOnly: rules, resultTypes: ["violations"] })
  .then((found) => done(found.violations.map((one) => ({
    id: one.id, impact: one.impact, help: one.help, count: one.nodes.length,
    nodes: one.nodes.slice(0, 4).map((node) => `${node.html.slice(0, 160)} | ${node.failureSummary}`) }))))
  .catch((wrong) => done([{ id: String(wrong), impact: "critical", help: "", count: 0, nodes: [] }]));"""


def violations(person):
    if not person.driver.execute_script("return Boolean(window.axe)"):
        person.driver.execute_script(AXE.read_text(encoding="utf-8"))
    return person.driver.execute_async_script(RUN)


def require_access(person, screen):
    found = violations(person)
    assert not found, f"{screen}: {found}"


def reviewed(program, person):
    """Every view of Review, with something in it."""
    deck, flood = (
        next(row["id"] for row in program.document()["objects"] if row["kind"] == kind) for kind in ("deck", "look")
    )
    area = program.edit("add area", deck=deck, points="6x4", wanted="500 lx")["select"][0]
    program.edit("measure light", ids=[area], looks=[flood])
    program.edit("write note", text="Too warm", by="Wren", about=flood, place=[0, 1, 1.1], tags=["colour"])
    person.go("Review")
    for view, row in (("Light", "1, Slack Water"), ("Compare", ""), ("Notes", "Too warm"), ("Book", "")):
        person.press(view)
        if row:
            person.row(row)
        require_access(person, f"Review, {view}")
    person.press("Compare")
    person.press("Compare them")
    person.find("//*[@aria-label='Two pictures compared']", "both pictures")
    require_access(person, "Two pictures compared")
    person.press("Put away")
    person.press("House")


@pytest.mark.timeout(300)
def test_every_screen_can_be_read_and_used_without_eyes_or_pointer(program, person):
    person.open(program.url)
    for step in ("Site", "Hang", "Aim", "Patch", "Signal", "Looks", "Review", "Papers"):
        person.go(step)
        person.settle()
        require_access(person, step)
    reviewed(program, person)
    program.edit("add order", name="Evening")
    person.go("Looks")
    person.press("Step 2: look 2 Flood")
    person.find('//h3[starts-with(., "Step 2")]', "the step")
    require_access(person, "Looks, a running order with a step chosen")
    person.press("All looks")
    person.press("3 Ebb")
    person.find('//h3[.="What it says"]', "what it says")
    require_access(person, "Looks, one chosen")
    person.go("Patch")
    person.press("Dimmers")
    person.press("Dimmers SR")
    person.settle()
    require_access(person, "Dimmers, with a rack selected")
    person.go("Aim")
    person.press("As a table")
    person.row("71")
    person.settle()
    person.find('//h3[normalize-space(.)="Gobos and prisms"]', "the gate")
    require_access(person, "Aim with a fixture selected")
    person.press("Palettes")
    require_access(person, "Palettes")
    person.escape()
    person.go("Hang")
    person.row("1")
    person.settle()
    require_access(person, "Hang with a fixture selected")
    person.escape()
    person.press("Types and type shop")
    person.find('//*[@data-type="Heron"]', "the types")
    require_access(person, "Fixture types")
    person.press("Begin a moving head")
    wait_for(lambda: person.driver.find_elements("css selector", "tr[data-channel]"), "the channels")
    require_access(person, "Type shop")
    person.press("Back to the show")
    person.go("Signal")
    person.press("Start with this patch")
    person.says("Editor: nothing")
    wait_for(lambda: person.driver.find_elements("xpath", '//*[@aria-label="Cue list"]/*'), "the cue list")
    person.driver.execute_script("for (const one of document.querySelectorAll('details')) one.open = true")
    require_access(person, "A simulated console")
    person.press("Offer rig")
    person.press("Ask Simulated console what it would take")
    person.says("fixtures in its patch.")
    require_access(person, "Offer rig")
    person.press("Check the line")
    require_access(person, "Check the line")
    person.press("Shut Simulated console down")
    person.go("Papers")
    person.press("Scenes in and out")
    person.says("other things")
    require_access(person, "Exchange")
    file = program.tmp_path / "guests.mvr"
    file.write_bytes(mvr(layer(fixture("A", 900, "9.1"), fixture("B", 901, "9.101", spec="Gone.gdtf"))))
    person.find('//input[@aria-label="An MVR file"]', "the file field").send_keys(str(file))
    person.says("Fixture 901")
    require_access(person, "Exchange, a file beside the show")
    person.click('//*[@role="tab"][starts-with(normalize-space(.), "Types")]', "the types")
    person.says("Nothing here is like Gone")
    require_access(person, "Exchange, types")
    person.press("Back to the show")
    person.go("Hang")
    person.press("Types and type shop")
    person.press("Go on")
    person.press("From the manual")
    person.find('//textarea[@aria-label="A table out of a manual"]', "the place for text").send_keys("1 Pan\n2 Riddle")
    person.says("what this channel does was not understood")
    require_access(person, "From the manual")
