"""The rig by hand: 24 fixtures on three structures, arranged, and taken along where the structures go."""

import math

import numpy as np
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.test_site import kinds
from tests.processes import wait_for
from zarfwright.core.space import rotate
from zarfwright.library import bittern, dunlin, heron, plover

BENCH = '//section[@aria-label="Bench"]'


def fixtures(program):
    """The fixtures by number, and where their clamps are."""
    document = program.document()
    rows = {row["body"]["number"]: row for row in document["objects"] if row["kind"] == "fixture"}
    return rows, {number: document["mounts"][row["id"]] for number, row in rows.items()}


def clamps(program, first):
    """Clamp points (8, 3) of the fixtures from a number on, and which way each body hangs (8, 3)."""
    _, mounts = fixtures(program)
    eight = [mounts[first + i] for i in range(8)]
    down = [rotate(tuple(mount["rotation"]), (0.0, 0.0, -1.0)) for mount in eight]
    return np.array([mount["position"] for mount in eight]), np.array(down)


def hang(person, count, type_name, structure, rail, ends, first, margin=None):
    person.choose("Type", type_name)
    person.choose("On", structure)
    person.choose("Rail", rail)
    person.type("How many", str(count))
    person.choose("Ends", ends)
    if margin:
        person.type("Margin", margin)
    person.type("First number", str(first))
    person.press(f"Place {count} {type_name}s")
    # What is made is selected; the next gesture waits for that.
    person.says(f"{first}, {first + 1}, {first + 2}, {first + 3} and more")


def take_rows(person, first, last):
    """Select rows of the bench from one number to another."""
    cells = [f'{BENCH}//td[1][normalize-space(.)="{n}"]' for n in (first, last)]
    person.click(cells[0], f"the row {first}", "center")
    person.says("1 of ")
    person.click(cells[1], f"the row {last}", held=Keys.SHIFT)
    person.says(f"{last - first + 1} of ")


def set_field(person, thing, label, text, shown, first=""):
    """Select a thing of the bench and set one of its fields; the card shows it before the next gesture."""
    person.row(thing)
    wait_for(lambda: person.value("Name") == thing, f"the card of {thing}")
    if first:
        person.press(first)
    person.type(label, text, enter=True)
    wait_for(lambda: person.value(label) == shown, f"{label} of {thing}")


def radio(person, name):
    person.click(f'//aside//button[@role="radio" and normalize-space(.)="{name}"]', name)


def near(program, first, places, down, why):
    """Wait for clamps within 1 mm of where they should be, hanging within 0.1 degree of how they should."""

    found: dict[str, object] = {}

    def there():
        found["at"], hung = clamps(program, first)
        apart = np.linalg.norm(found["at"] - places, axis=1).max()
        angle = np.degrees(np.arccos(np.clip(hung @ (np.array(down) / np.linalg.norm(down)), -1, 1))).max()
        return bool(apart < 1e-3 and angle < 0.1)

    try:
        wait_for(there, why)
    except AssertionError as wrong:
        raise AssertionError(f"{wrong}; clamps are at {found['at']}, wanted at {places}") from wrong


def level_places(xs, y, z):
    return np.array([(x, y, z) for x in xs])


@pytest.mark.timeout(400)
def test_twenty_four_fixtures_hang_and_go_where_their_structures_go(empty, person):
    program = empty
    for make in (heron, dunlin, plover):
        program.add_type(make())
    program.edit("add truss", name="Straight", length="10m", start_trim="6m", y="US 2")
    program.edit("add truss", name="Raked", length="8m", start_trim="8m", end_trim="5m", x="SL 6", y="DS 4", turn="-90")
    program.edit("add truss", name="Ring", form="arc", diameter="4m", section="0.3m", start_trim="5.5m", y="DS 6")
    person.open(program.url)
    person.go("Hang")

    # The straight one is 0.4 m across: its downstage lower rail lies 0.2 m downstage of its middle.
    hang(person, 8, "Heron", "Straight", "lower right", "margin", 1, "1m")
    near(program, 1, level_places([-4 + i * 8 / 7 for i in range(8)], 1.8, 6.0), (0, 0, -1), "eight on the straight")
    # Over 8 m it falls 3 m: sine 0.375. Its start is upstage; its left is stage left.
    hang(person, 8, "Dunlin", "Raked", "lower left", "half a step in", 11)
    cosine = math.sqrt(1 - 0.375**2)
    along = [(i + 0.5) - 4 for i in range(8)]
    raked = np.array([(6.2, -4 - cosine * s, 6.5 - 0.375 * s) for s in along])
    near(program, 11, raked, (0, 0.375, -cosine), "eight on the raked one")
    # The outer rail of the ring has a radius of 2.15 m; it begins upstage and goes round by way of stage right.
    hang(person, 8, "Plover", "Ring", "lower outer", "on", 21)
    angles = [math.radians(90 + 45 * i) for i in range(8)]
    ring = np.array([(2.15 * math.cos(a), -6 + 2.15 * math.sin(a), 5.5) for a in angles])
    near(program, 21, ring, (0, 0, -1), "eight on the ring")

    # Arranged: what it comes to is seen first, and nothing moves before it is taken.
    take_rows(person, 1, 8)
    person.says("8 fixtures")
    radio(person, "Arrange")
    person.press("Arrange 8 things")
    radio(person, "Half in")
    person.press("The other way round")
    person.says("1.25 m apart")
    wait_for(lambda: person.report()["ghosts"] == 8, "eight ghosts")
    near(program, 1, level_places([-4 + i * 8 / 7 for i in range(8)], 1.8, 6.0), (0, 0, -1), "nothing to move yet")
    person.press("Arrange 8 things")
    across = [5 - (i + 0.5) * 1.25 for i in range(8)]
    near(program, 1, level_places(across, 1.8, 6.0), (0, 0, -1), "them in steps of 1.25 m")
    # It stays at hand: another value, taken again.
    radio(person, "Given")
    person.type("Step", "1.1m")
    person.says("1.10 m apart")
    person.press("Arrange 8 things")
    tight = [-5 + 1.1 * (7 - i) for i in range(8)]
    near(program, 1, level_places(tight, 1.8, 6.0), (0, 0, -1), "them in steps of 1.1 m")
    person.press("Done")

    take_rows(person, 21, 28)
    person.press("Arrange 8 things")
    radio(person, "Fill")
    radio(person, "On")
    # It begins anew: what was turned round before is not still so.
    assert person.button("The other way round").get_attribute("aria-pressed") == "false"
    person.type("To", "6.45m")
    person.says("0.91 m apart")
    person.press("Arrange 8 things")
    # 6.45 m of a rail of 2.15 m radius is 3 radians.
    arc = [math.pi / 2 + 3 * i / 7 for i in range(8)]
    ring = np.array([(2.15 * math.cos(a), -6 + 2.15 * math.sin(a), 5.5) for a in arc])
    near(program, 21, ring, (0, 0, -1), "them on a part of the ring")
    person.press("Done")

    # Structures move, rake, level and tilt, and all that hangs goes along.
    person.go("Site")
    set_field(person, "Straight", "SL / SR", "SL 1.5", "SL 1.50 m")
    set_field(person, "Straight", "Trim, end", "7.5m", "7.50 m", first="Rake it: two ends")
    rise, run = 0.15, math.sqrt(1 - 0.15**2)
    places = np.array([(1.5 + run * s, 1.8, 6.75 + rise * s) for s in tight])
    near(program, 1, places, (rise, 0, -run), "the straight one raked by 1.5 m in 10")
    set_field(person, "Raked", "Trim, end", "8m", "8.00 m")
    near(program, 11, np.array([(6.2, -4 - s, 8.0) for s in along]), (0, 0, -1), "the raked one level")
    set_field(person, "Ring", "Trim, end", "6.5m", "6.50 m", first="Rake it: two ends")
    lean, level = 0.25, math.sqrt(1 - 0.25**2)
    ring = [(2.15 * math.cos(a) * level, -6 + 2.15 * math.sin(a), 6 + 2.15 * math.cos(a) * lean) for a in arc]
    near(program, 21, np.array(ring), (lean, 0, -level), "the ring tilted by 1 m in 4")
    # Shortened, it says who would fall off.
    person.row("Straight")
    person.type("Length", "7m", enter=True)
    person.says("Past the end of its rail then: fixture 1.")


@pytest.mark.timeout(300)
def test_fixtures_are_put_by_pointing_dropped_and_dragged_off_their_rail(empty, person):
    program = empty
    for make in (heron, bittern):
        program.add_type(make())
    program.edit("add truss", name="Pipe", lattice="pipe", length="8m", start_trim="5m", y="US 1")
    person.open(program.url)
    person.go("Hang")
    person.choose("Type", "Heron")
    person.press("Put Herons by pointing")

    def ghost_at(point):
        at = person.stage("where", "side", point)
        person._at(at).perform()

    # In plan, over the pipe: the ghost is on it, in steps of 5 cm, and says how far it is from the ends.
    ghost_at([-1.51, 1.02, 5.0])
    wait_for(lambda: person.report()["ghosts"] == 1, "a ghost")
    assert kinds(program).get("fixture") is None
    person.click_place([-1.51, 1.02, 5.0], "side")
    first = wait_for(lambda: kinds(program).get("fixture"), "the first")[0]["body"]
    assert first["hang"]["along_m"] == pytest.approx(2.5)
    assert first["number"] == 1
    # The next has the next number; away from the pipe it stands on the floor.
    person.click_place([1.0, 1.0, 5.0], "side")
    person.click_place([2.0, -3.0, 0.0], "side")
    rows = wait_for(lambda: (r := kinds(program)["fixture"]) and len(r) == 3 and r, "three")
    by_number = {row["body"]["number"]: row["body"] for row in rows}
    assert by_number[2]["hang"]["along_m"] == pytest.approx(5.0)
    assert by_number[3]["hang"] is None
    assert by_number[3]["placement"]["position"] == pytest.approx([2.0, -3.0, 0.0], abs=0.03)
    person.press("Pointing: Heron 4")

    # A type dropped on the stage from the list takes the next number too.
    at = person.stage("where", "side", [3.0, 1.0, 5.0])
    person.driver.execute_script(
        """
        const [name, x, y] = arguments;
        const data = new DataTransfer();
        const source = document.querySelector(`[data-type="${name}"]`);
        source.dispatchEvent(new DragEvent("dragstart", { dataTransfer: data, bubbles: true }));
        const canvas = document.querySelectorAll("canvas")[1], box = canvas.getBoundingClientRect();
        const where = { clientX: box.left + x, clientY: box.top + y, dataTransfer: data, bubbles: true };
        canvas.dispatchEvent(new DragEvent("dragover", { ...where, cancelable: true }));
        canvas.dispatchEvent(new DragEvent("drop", { ...where, cancelable: true }));
        """,
        "Bittern",
        at["x"],
        at["y"],
    )
    rows = wait_for(lambda: (r := kinds(program)["fixture"]) and len(r) == 4 and r, "the dropped one")
    dropped = next(row["body"] for row in rows if row["body"]["number"] == 4)
    assert dropped["hang"]["along_m"] == pytest.approx(7.0, abs=0.051)

    # Dragged along the pipe it stays on it; dragged off, it is free, and that is said.
    person.escape()
    wait_for(lambda: person.report()["ghosts"] == 0, "nothing in hand")
    person.click(f'{BENCH}//td[1][normalize-space(.)="2"]', "2")
    wait_for(lambda: person.field("Along the rail"), "fixture 2 on the card")
    person.settle()
    scale = person.stage("where", "side", [1.0, 1.0, 5.0])["x"] - person.stage("where", "side", [0.0, 1.0, 5.0])["x"]
    person.drag("SL", round(scale), 0, pane=1)
    moved = wait_for(lambda: (b := body_of(program, 2))["hang"]["along_m"] > 5.5 and b, "it to slide along")
    assert moved["hang"]["along_m"] == pytest.approx(6.0, abs=0.11)
    along = f"{moved['hang']['along_m']:.2f} m"
    wait_for(lambda: person.value("Along the rail") == along, "the card to show it")
    person.drag("US", 0, round(scale), pane=1)
    wait_for(lambda: body_of(program, 2)["hang"] is None, "it to come off")
    person.says("free")
    # What is found about it is put right by its button.
    person.press("Put it back")
    wait_for(lambda: body_of(program, 2)["hang"] is not None, "it to be put back")


def on_it(program):
    """The structures that are on a carrier."""
    return {row["id"] for row in kinds(program)["truss"] if row["parent"]}


def body_of(program, number):
    return next(row["body"] for row in kinds(program)["fixture"] if row["body"]["number"] == number)


def a_guide_is_dragged_and_a_carrier_moves_all_that_is_on_it(program, person):
    """By its handles; lamps go with the truss that they hang on."""
    take_rows(person, 61, 64)
    radio(person, "Arrange")
    person.press("Arrange 4 things")
    radio(person, "Line")
    before = wait_for(lambda: person.handle("guide end", 1), "the guide's end")
    start = person.handle("guide start", 1)
    person._at(before).click_and_hold().move_by_offset(30, 0).move_by_offset(0, 40).release().perform()
    wait_for(lambda: abs(person.handle("guide end", 1)["x"] - before["x"] - 30) < 6, "the end to be dragged")
    assert person.handle("guide start", 1)["x"] == pytest.approx(start["x"], abs=1)
    person.says("leave their rail")
    person.escape()
    wait_for(lambda: person.report()["ghosts"] == 0, "the guide to be left")

    # A lamp does not leave its truss for a carrier; the truss takes its lamps along.
    _, was = fixtures(program)
    radio(person, "Carry")
    person.type("Name", "Float")
    person.type("Its number", "901")
    person.press("Make a carrier of 4 things")
    person.says("Fixture 61 hangs on Truss 1: select that too")
    person.go("Site")
    person.row("Truss 1")
    person.go("Hang")
    radio(person, "Carry")
    person.type("Name", "Float")
    person.type("Its number", "901")
    person.press("Make a carrier of 1 thing")
    carrier = wait_for(lambda: kinds(program).get("carrier"), "the carrier")[0]
    assert (carrier["body"]["name"], carrier["body"]["number"]) == ("Float", 901)
    assert fixtures(program)[1] == was
    person.type("SL / SR", "+1", enter=True)
    wait_for(
        lambda: fixtures(program)[1][61]["position"][0] == pytest.approx(was[61]["position"][0] + 1.0), "all to move"
    )
    rows, moved = fixtures(program)
    on = {number for number, row in rows.items() if (row["body"]["hang"] or {}).get("structure") in on_it(program)}
    assert {61, 62, 63, 64} < on
    for number in rows:
        shift = np.subtract(moved[number]["position"], was[number]["position"])
        assert shift == pytest.approx([1.0 if number in on else 0.0, 0.0, 0.0], abs=1e-6)
    person.press("Take all off")
    person.says("0 things on it")
    assert fixtures(program)[1] == moved


def the_bench_is_edited_in_place(program, person):
    """F2 for all rows that are selected; a block of a spreadsheet pasted; new numbers."""
    # F2 edits the column that was clicked on, for all rows that are selected.
    rows, _ = fixtures(program)
    first, last = (f'{BENCH}//tr[@data-id="{rows[n]["id"]}"]/td[10]' for n in (71, 73))
    person.click(first, "what 71 is for", "center")
    person.click(last, "what 73 is for", held=Keys.SHIFT)
    person.says("3 fixtures")
    ActionChains(person.driver).send_keys(Keys.F2).perform()
    field = person.find(f"{BENCH}//td//input", "the cell")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("Ice", Keys.ENTER)
    for number in (71, 72, 73):
        wait_for(lambda n=number: body_of(program, n)["purpose"] == "Ice", "the cells to be taken")
    assert body_of(program, 74)["purpose"] != "Ice"
    # A block of a spreadsheet is pasted from a cell on: a line for each row.
    person.click(first, "71")
    person.driver.execute_script(
        """
        const data = new DataTransfer();
        data.setData("text/plain", "Shingle\\nWater\\n");
        const at = document.querySelector('section[aria-label="Bench"] table').parentElement;
        at.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
        """
    )
    wait_for(lambda: body_of(program, 71)["purpose"] == "Shingle", "the first line")
    assert (body_of(program, 72)["purpose"], body_of(program, 73)["purpose"]) == ("Water", "Ice")

    # Numbers: old and new are seen, then taken.
    take_rows(person, 71, 73)
    radio(person, "Number")
    person.type("From", "171")
    person.says("71 → 171")
    assert 171 not in fixtures(program)[0]
    person.press("Number 3 fixtures")
    wait_for(lambda: {171, 172, 173} <= fixtures(program)[0].keys(), "the new numbers")


def types_are_swapped_and_fixtures_copied(program, person):
    """What goes is said before; copies have the next numbers; a gel is seen at once."""
    # A swap says what goes before it does anything.
    radio(person, "Change")
    person.press("Another type for 3 fixtures")
    person.choose("To", "Bittern")
    person.says("Looks lose what a Bittern does not have")
    before = fixtures(program)[0][171]["body"]
    person.press("Swap 3 fixtures to Bittern")
    after = wait_for(
        lambda: (b := fixtures(program)[0][171]["body"])["type"] != before["type"] and b, "the type to be swapped"
    )
    assert after["hang"] == before["hang"]

    # Copies of a fixture with an offset: along its rail, with the next number.
    rows, _ = fixtures(program)
    person.click(f'{BENCH}//tr[@data-id="{rows[74]["id"]}"]/td[1]', "74")
    person.says("Fixture 74")
    # A gel in its frame, with its numbers: the light of this one changes at once, and what is no colour is told.
    lamp = rows[74]["id"]
    red, _, blue = person.beam(lamp)["candela"]
    person.type("Gel", "tartan", enter=True)
    person.says("“tartan” names no colour")
    person.type("Gel", "Harbour 0.20 0.22 30", enter=True)
    person.beams_until(
        lambda beams: blue * beams[lamp]["candela"][0] < 0.5 * red * beams[lamp]["candela"][2], "a bluer 74"
    )
    assert body_of(program, 74)["gel"] == {"name": "Harbour", "x": 0.2, "y": 0.22, "luminance": 30.0, "own": True}
    person.type("Copies", "2")
    person.type("Each SL by", "0.3m")
    person.press("Make 2 copies")
    highest = max(number for number in rows if number)
    wait_for(lambda: {highest + 1, highest + 2} <= fixtures(program)[0].keys(), "the copies")
    along = [body_of(program, number)["hang"]["along_m"] for number in (74, highest + 1, highest + 2)]
    assert np.diff(along) == pytest.approx([0.3, 0.3])


def labels_are_drawn_where_they_are_meant_to_be(person):
    """A style of labels, in the plan alone."""
    # A label style is shown in the plan, and not where it is not meant to be.
    assert person.report()["styled"] == 0
    person.press("Labels")
    person.press("Add a style")
    wait_for(lambda: person.report()["styled"] > 20, "labels in the plan")
    person.click(f'{BENCH}//button[@aria-pressed="true" and normalize-space(.)="Plan"]', "the view")
    person.says("Shown in no view: nobody sees it.")
    wait_for(lambda: person.report()["styled"] == 0, "no labels")


@pytest.mark.timeout(400)
def test_a_rig_is_changed_by_hand(program, person):
    person.open(program.url)
    person.go("Hang")
    a_guide_is_dragged_and_a_carrier_moves_all_that_is_on_it(program, person)
    the_bench_is_edited_in_place(program, person)
    types_are_swapped_and_fixtures_copied(program, person)
    labels_are_drawn_where_they_are_meant_to_be(person)
