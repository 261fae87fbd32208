"""Every card at 1280x800, whatever is being done and whatever is selected: its main button is in sight, and no label
stands twice on the screen."""

import pytest

HIDDEN = """const low = window.innerHeight - 26;
return [...document.querySelectorAll("aside [data-main]")]
  .map((one) => [one.textContent.trim(), one.getBoundingClientRect()])
  .filter(([, box]) => box.width && (box.top < 0 || box.bottom > low))
  .map(([name, box]) => name + " at " + Math.round(box.bottom));"""
WIDE = """return [...document.querySelectorAll("footer > *, [data-part]")].map((one) => one.getBoundingClientRect())
  .filter((box) => box.width && box.right > window.innerWidth + 1).map((box) => Math.round(box.right));"""


TWICE = """const seen = new Map();
for (const one of document.querySelectorAll("label, h1, h2, h3, h4, button")) {
  const box = one.getBoundingClientRect();
  // Rows of tables and lists repeat what they can do.
  if (!box.width || !box.height || one.closest("tr, li")) continue;
  const name = (one.getAttribute("aria-label") ?? one.textContent).trim().toLowerCase();
  if (name) seen.set(name, (seen.get(name) ?? 0) + 1);
}
return [...seen].filter(([, count]) => count > 1).map(([name]) => name);"""


def radio(person, name, within="aside"):
    person.click(f'//{within}//button[@role="radio" and normalize-space(.)="{name}"]', name)


def require_readable(person, state):
    assert person.driver.execute_script(HIDDEN) == [], state
    assert person.driver.execute_script(TWICE) == [], f"twice: {state}"


def require_readable_on_each_guide(person):
    person.press("Arrange 1 thing")
    for guide in ("Line", "Ring", "Grid", "Rail"):
        radio(person, guide)
        require_readable(person, f"Hang, arranging on a {guide}")
    person.escape()


@pytest.mark.timeout(300)
def test_cards_are_readable(program, person):
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
            for kind in ("Deck", "Wall", "Panel", "Scenery", "Truss", "Crowd", "People") if doing == "Add" else ("",):
                if kind:
                    radio(person, kind)
                require_readable(person, f"Site, {doing} {kind}, {selected or 'nothing'} selected")
    for selected in ("", "21"):
        person.go("Hang")
        person.escape()
        if selected:
            person.row(selected)
        for doing in ("Place", "Arrange", "Number", "Carry", "Change"):
            radio(person, doing)
            require_readable(person, f"Hang, {doing}, {selected or 'nothing'} selected")
    radio(person, "Arrange")
    require_readable_on_each_guide(person)
    for step in ("Aim", "Patch", "Signal", "Looks", "Review", "Papers"):
        person.go(step)
        person.settle()
        require_readable(person, step)


def test_the_status_line_is_whole_at_1100(program, person):
    person.driver.set_window_size(1100, 800)
    person.open(program.url)
    inner = person.driver.execute_script("return window.innerWidth")
    person.driver.set_window_size(1100 + 1100 - inner, 800)
    assert person.driver.execute_script(WIDE) == []
