"""Outlines drawn by hand: over a plan, snapping to what stands there; changed by their corners; in elevation."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from tests.browser.test_site import Gestures, kinds
from tests.formats.test_dxf import written
from tests.processes import wait_for


def corners_of(program, deck):
    body = next(row["body"] for row in program.document()["objects"] if row["id"] == deck)
    x0, y0, _ = body["position"]
    return [[round(x0 + x, 2), round(y0 + y, 2)] for x, y, _ in body["corners"]]


def its_corners_are_changed(program, person, deck):
    """Dragged, cut, taken out; the whole of it further out."""
    person.row("Raft")
    person.press("Change its corners")
    person.says("4 corners, 16.00 m²")
    person.settle()

    def at(point):
        canvas = person.driver.find_elements(By.TAG_NAME, "canvas")[1]
        place, size = person.stage("where", "side", [*point, 0.0]), canvas.rect
        return canvas, round(place["x"] - size["width"] / 2), round(place["y"] - size["height"] / 2)

    canvas, x0, y0 = at((2.0, 2.0))
    _, x1, y1 = at((4.0, 3.0))
    chain = ActionChains(person.driver, duration=60).move_to_element_with_offset(canvas, x0, y0).click_and_hold()
    chain.move_by_offset((x1 - x0) // 2, (y1 - y0) // 2)
    chain.move_by_offset(x1 - x0 - (x1 - x0) // 2, y1 - y0 - (y1 - y0) // 2).release().perform()
    person.click_place([0.02, -2.0, 0.0], "side")
    person.says("5 corners")
    person.press("Take corner 1 out")
    person.says("4 corners")
    person.press("Set the outline")
    got = wait_for(
        lambda: (c := corners_of(program, deck)) and len(c) == 4 and [2.0, 2.0] not in c and c, "the outline to be set"
    )
    assert got[0] == pytest.approx([0.02, -2.0], abs=0.06)
    assert got[1:] == [[2.0, -2.0], [4.0, 3.0], [-2.0, 2.0]]
    out = max(x for x, _ in got)
    person.click('//button[normalize-space(.)="Out"]', "out")
    wait_for(lambda: max(x for x, _ in corners_of(program, deck)) > out + 0.3, "the outline further out")
    program.edit("remove", ids=[deck])


def an_outline_is_clicked(program, person):
    """Near the corner of what stands there; then on the centre line; then anywhere on the grid."""
    program.edit("add deck", width="4m", depth="4m", name="There")
    person.says("There")
    tab(person, "Add")
    person.press("Draw an outline instead")
    person.settle()
    for i, (x, y) in enumerate(((2.04, 2.03), (0.03, 4.98), (-2.99, 1.01))):
        person.click_place([x, y, 0.0], "side")
        person.says(f"{i + 1} corner")
    person.press("Close it")
    person.says("Closed, ")
    person.press("Add a deck")
    decks = wait_for(lambda: (d := kinds(program)["deck"]) and len(d) == 2 and d, "the deck")
    drawn = next(d["id"] for d in decks if d["body"]["name"] != "There")
    assert corners_of(program, drawn) == [[2.0, 2.0], [0.0, 5.0], [-3.0, 1.0]]


def tab(person, name):
    """One of the card's things to do."""
    person.click(f'//aside//button[@role="radio" and normalize-space(.)="{name}"]', name)


def a_plan_is_put_under_the_work(program, person):
    """A drawing, by the layers that are wanted; its origin is clicked. Gives a corner of it."""
    path = program.file.parent / "hall.dxf"
    path.write_bytes(written())
    file = '//input[@aria-label="A DXF file"]'
    tab(person, "Set up")
    person.find(file, "the file field").send_keys(str(path))
    person.says("The file says mm. So it is 6.00 m wide and 4.00 m deep.")
    person.click('//label[contains(., "SEATS")]', "the layer")
    person.press("Put hall under the work")
    drawing = wait_for(lambda: kinds(program).get("drawing"), "the drawing")[0]
    assert drawing["body"]["layers"] == ["COLUMNS", "WALLS"]
    # Its middle lay on the origin; now its lower edge's middle does.
    assert drawing["body"]["origin"] == pytest.approx([3000, 2000])
    person.press("Click its origin")
    person.settle()
    person.click_place([0.0, -2.0, 0.0], "side")
    moved = wait_for(
        lambda: (b := kinds(program)["drawing"][0]["body"]) and b["origin"][1] < 1000 and b, "the origin to be set"
    )
    assert moved["origin"] == pytest.approx([3000, 0], abs=60)
    rubbish = program.file.parent / "rubbish.dxf"
    rubbish.write_bytes(b"rubbish")
    person.find(file, "the file field").send_keys(str(rubbish))
    person.says("rubbish.dxf is no DXF file")
    lines = program.get(f"/api/shows/SHOW/drawings/{drawing['id']}/lines")
    return next([line[0], line[1]] for line in lines if len(line) == 10)


def one_that_crosses_itself_is_told(program, person, corner):
    """It begins at the plan's corner, to which a click near it snaps; nothing that was drawn is lost."""
    tab(person, "Add")
    person.press("Draw an outline instead")
    person.settle()
    person.click_place([corner[0] + 0.05, corner[1] + 0.05, 0.0], "side")
    person.says(f"{corner[0]:.2f}, {corner[1]:.2f}")
    do = Gestures(person)
    for length, way in (("4m", "45"), ("4m", "-90"), ("6m", "135")):
        do.corner(length, way)
    there = len(kinds(program)["deck"])
    person.press("Close it")
    person.press("Add a deck")
    person.says("The outline crosses itself")
    assert len(kinds(program)["deck"]) == there
    person.says("Closed, ")


@pytest.mark.timeout(300)
def test_outlines_are_drawn_over_a_plan_and_changed(empty, person):
    raft = empty.edit("add outline deck", width="4m", depth="4m", name="Raft")["select"][0]
    person.open(empty.url)
    its_corners_are_changed(empty, person, raft)
    an_outline_is_clicked(empty, person)
    corner = a_plan_is_put_under_the_work(empty, person)
    one_that_crosses_itself_is_told(empty, person, corner)


@pytest.mark.timeout(300)
def test_a_panel_is_drawn_in_the_front_elevation_and_a_deck_made_higher_by_its_handle(empty, person):
    program = empty
    deck = program.edit("add deck", width="6m", depth="4m", height="1m", y="US 2", name="Stage")["select"][0]
    person.open(program.url)
    do = Gestures(person)
    do.kind("Panel")
    do.press("Draw it in an elevation")
    do.kind("Box")
    person.settle()
    # The deck's upper edges are snapped to.
    person.click_place([-2.98, 0.0, 1.03], "side")
    person.click_place([1.02, 0.0, 3.98], "side")
    person.says("Closed, 12.00 m²")
    do.type("Stands at", "US 3.5")
    do.press("Add a panel of 12.0 m²")
    panel = wait_for(lambda: kinds(program).get("panel"), "the panel")[0]["body"]
    assert panel["position"] == pytest.approx([-1.0, 3.5, 1.0], abs=1e-6)
    assert max(c[1] for c in panel["corners"]) == pytest.approx(3.0, abs=1e-6)

    person.row("Stage")
    person.settle()
    before = person.handle("height", 1)
    scale = person.stage("where", "side", [0, 0, 1.0])["y"] - person.stage("where", "side", [0, 0, 2.0])["y"]
    assert before
    person.drag("height", 0, -round(scale * 0.8), pane=1)
    body = wait_for(
        lambda: (b := next(r["body"] for r in kinds(program)["deck"] if r["id"] == deck)) and b["height_m"] > 1.2 and b,
        "the deck to be higher",
    )
    assert body["height_m"] == pytest.approx(1.8, abs=0.11)
    assert body["position"][2] == 0
