"""More of the site by hand: elevations, heights by a handle, others' selections, findings put right, other shows."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.test_site import Gestures, kinds
from tests.processes import wait_for


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


@pytest.mark.timeout(300)
def test_what_another_has_selected_is_seen_and_what_is_found_is_put_right_by_a_button(empty, person):
    program = empty
    deck = program.edit("add deck", width="4m", depth="4m", name="Raft")["select"][0]
    program.edit("add wall", corners=[[0, 6, 0], [6, 6.1, 0]], name="Back wall")
    person.open(program.url)
    person.says("off straight across")
    person.press("Put it straight")
    wait_for(lambda: kinds(program)["wall"][0]["body"]["corners"][1][1] == 6, "the wall to be straight")

    status = program.post("/api/shows/SHOW/presence", {"who": "another", "name": "Lamplighter", "ids": [deck]})
    assert status[0] == 200
    wait_for(lambda: person.report()["others"] == ["Lamplighter"], "the other's selection")
    program.post("/api/shows/SHOW/presence", {"who": "another", "name": "Lamplighter", "ids": []})
    wait_for(lambda: person.report()["others"] == [], "the other to let go")

    field = '//section[@aria-label="Bench"]//input[@aria-label="Filter"]'
    person.write(lambda: person.find(field, "the filter"), "wall", "the filter")
    person.press("Select 1 thing")
    person.says("1 of 1 selected")


@pytest.mark.timeout(300)
def test_a_new_show_is_begun_in_feet_and_the_older_one_opened_again(empty, person):
    program = empty
    program.edit("set show", name="Older show")
    program.edit("add deck", width="4m", depth="4m", name="Raft")
    person.open(program.url)
    person.press("The show:")
    field = person.find('//label[normalize-space(.)="Its name"]/following::input[1]', "the name")
    field.send_keys("Newer show")
    units = person.find('//label[normalize-space(.)="Its units"]/following::select[1]', "the units")
    units.find_element(By.XPATH, './option[contains(., "feet")]').click()
    person.press("Begin Newer show")
    heading = "return document.querySelector('h1')?.textContent"
    wait_for(lambda: person.driver.execute_script(heading) == "Newer show", "the newer show")
    person.says("Begin with a venue")
    now = program.get("/api/shows")[0]
    assert now["name"] == "Newer show"
    document = program.get(f"/api/shows/{now['id']}?who=tester")
    assert next(r["body"]["system"] for r in document["objects"] if r["kind"] == "show") == "imperial"
    assert (program.file.parent / "Newer show.zarf").exists()

    person.press("The show:")
    person.says("Older show")
    person.click('//*[contains(text(), "Older show")]/..//button[normalize-space(.)="Open"]', "open")
    wait_for(lambda: person.driver.execute_script(heading) == "Older show", "the older show")
    person.row("Raft")
    ActionChains(person.driver).send_keys(Keys.ESCAPE).perform()


@pytest.mark.timeout(300)
def test_a_pane_has_a_window_of_its_own_with_the_same_selection(empty, person):
    program = empty
    program.edit("add deck", width="4m", depth="4m", name="Raft")
    person.open(program.url)
    first = person.driver.current_window_handle
    person.press("The side pane in a window of its own")
    second = wait_for(lambda: next((h for h in person.driver.window_handles if h != first), None), "the window")
    person.driver.switch_to.window(second)
    wait_for(lambda: (r := person.report()) and [pane["view"] for pane in r["panes"]] == ["plan"], "the plan alone")
    person.driver.switch_to.window(first)
    person.row("Raft")
    person.driver.switch_to.window(second)
    wait_for(lambda: person.report() and len(person.report()["handles"]) >= 4, "the selection to be seen there too")
    person.driver.close()
    person.driver.switch_to.window(first)
