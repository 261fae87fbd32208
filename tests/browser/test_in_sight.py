"""The main button of every card is in sight at 1280x800, whatever is being done and whatever is selected."""

import pytest

HIDDEN = """const low = window.innerHeight - 26;
return [...document.querySelectorAll("aside [data-main]")]
  .map((one) => [one.textContent.trim(), one.getBoundingClientRect()])
  .filter(([, box]) => box.width && (box.top < 0 || box.bottom > low))
  .map(([name, box]) => name + " at " + Math.round(box.bottom));"""
WIDE = """return [...document.querySelectorAll("footer > *, [data-part]")].map((one) => one.getBoundingClientRect())
  .filter((box) => box.width && box.right > window.innerWidth + 1).map((box) => Math.round(box.right));"""


def radio(person, name, within="aside"):
    person.click(f'//{within}//button[@role="radio" and normalize-space(.)="{name}"]', name)


def require_in_sight(person, state):
    assert person.driver.execute_script(HIDDEN) == [], state


def require_in_sight_on_each_guide(person):
    person.press("Arrange 1 thing")
    for guide in ("Line", "Ring", "Grid", "Rail"):
        radio(person, guide)
        require_in_sight(person, f"Hang, arranging on a {guide}")
    person.escape()


@pytest.mark.timeout(300)
def test_main_buttons_are_in_sight(program, person):
    person.driver.set_window_size(1280, 800)
    person.open(program.url)
    inner = person.driver.execute_script("return [window.innerWidth, window.innerHeight]")
    # The window's own frame counts too where there is one.
    person.driver.set_window_size(1280 + 1280 - inner[0], 800 + 800 - inner[1])
    for selected in ("", "Truss 1"):
        person.go("Site")
        person.escape()
        if selected:
            person.row(selected)
        for doing in ("Add", "Change", "Set up"):
            radio(person, doing)
            for kind in ("Deck", "Wall", "Scenery", "Truss", "Crowd", "People") if doing == "Add" else ("",):
                if kind:
                    radio(person, kind)
                require_in_sight(person, f"Site, {doing} {kind}, {selected or 'nothing'} selected")
    for selected in ("", "21"):
        person.go("Hang")
        person.escape()
        if selected:
            person.row(selected)
        for doing in ("Place", "Arrange", "Number", "Carry", "Change"):
            radio(person, doing)
            require_in_sight(person, f"Hang, {doing}, {selected or 'nothing'} selected")
    radio(person, "Arrange")
    require_in_sight_on_each_guide(person)
    for step in ("Aim", "Patch", "Signal", "Looks", "Review", "Papers"):
        person.go(step)
        person.settle()
        require_in_sight(person, step)


def test_the_status_line_is_whole_at_1100(program, person):
    person.driver.set_window_size(1100, 800)
    person.open(program.url)
    inner = person.driver.execute_script("return window.innerWidth")
    person.driver.set_window_size(1100 + 1100 - inner, 800)
    assert person.driver.execute_script(WIDE) == []
