"""A scene goes to a drawing office and comes back: exported, changed by another library, compared, taken in, undone."""

from __future__ import annotations

import base64
import copy
import uuid
import zipfile
from typing import Any

import pymvr
import pytest
from selenium.webdriver.common.by import By

from tests.processes import wait_for
from tests.scenes import fixture, layer, mvr

LIFT_M = 0.45


def things(program: Any, kind: str) -> dict[str, Any]:
    return {row["id"]: row["body"] for row in program.document()["objects"] if row["kind"] == kind}


def by_number(program: Any) -> dict[int, Any]:
    return {body["number"]: body for body in things(program, "fixture").values()}


def in_the_office(source, out, folder) -> None:
    """What a drawing office does by its own means: a truss lifted with its heads, one head gone, another in its other
    mode, two new ones just below the truss, one of them of a type that nobody has."""
    with zipfile.ZipFile(source) as archive:
        archive.extractall(folder)
        names = [name for name in archive.namelist() if not name.endswith(".xml")]
    with pymvr.GeneralSceneDescription(str(source)) as scene:
        positions = {one.uuid: one.name for one in scene.scene.aux_data.positions}
        lists = [one.child_list for one in scene.scene.layers if one.child_list]
        for one in lists:
            one.fixtures = [lamp for lamp in one.fixtures if lamp.fixture_id_numeric != 72]
            hung = [lamp for lamp in one.fixtures if positions.get(lamp.position) == "Truss 2"]
            for thing in (*hung, *(truss for truss in one.trusses if truss.name == "Truss 2")):
                thing.matrix.matrix[3][2] += LIFT_M * 1000
            for lamp in one.fixtures:
                if lamp.fixture_id_numeric == 61:
                    lamp.gdtf_mode = "Extended"
            for n in (1, 2) if hung else ():
                new = copy.deepcopy(next(lamp for lamp in hung if lamp.fixture_id_numeric == 71))
                new.uuid, new.name = str(uuid.uuid4()), f"Guest {n}"
                new.fixture_id, new.fixture_id_numeric = str(200 + n), 200 + n
                new.addresses.addresses[0].universe, new.addresses.addresses[0].address = 9, 40 * n
                new.matrix.matrix[3][0] += 900.0 * n
                new.matrix.matrix[3][2] -= 80.0
                if n == 2:
                    new.gdtf_spec, new.gdtf_mode = "Far Shore@Fulmar@1.gdtf", "Wide"
                one.fixtures.append(new)
        writer = pymvr.GeneralSceneDescriptionWriter()
        writer.serialize_scene(scene.scene)
        writer.files_list = [(str(folder / name), name) for name in names]
        writer.write_mvr(str(out))


@pytest.mark.timeout(420)
def test_a_scene_goes_to_the_office_comes_back_changed_and_is_taken_in_and_undone(program, person):
    person.open(program.url)
    before = program.document()["objects"]
    lamps = by_number(program)
    truss = next(key for key, body in things(program, "truss").items() if body["name"] == "Truss 2")
    was = things(program, "truss")[truss]["position"]
    # Out, by a button.
    person.go("Papers")
    person.press("Scenes in and out")
    person.says(f"{len(things(program, 'fixture'))} fixtures of 5 types")
    person.press("Save as MVR")
    saved = program.tmp_path / "downloads"
    file = wait_for(lambda: next(iter(person.downloads.glob("*.mvr")), None), "the file")
    wait_for(lambda: zipfile.is_zipfile(file), "the whole of it")
    changed = program.tmp_path / "office.mvr"
    in_the_office(file, changed, saved)
    # In again: first beside the show.
    person.find('//input[@aria-label="An MVR file"]', "the file field").send_keys(str(changed))
    person.says("moved 0.45 m")
    assert program.document()["objects"] == before, "nothing has changed yet"
    rows = [row.text for row in person.driver.find_elements(By.CSS_SELECTOR, "table[aria-label=Differences] tbody tr")]
    for words in ("Fixture 201", "Fixture 202", "Truss 2", "mode Standard → Extended"):
        assert any(words in row for row in rows), rows
    person.says("2 heads beside Truss 2")
    person.click('//*[@role="tab"][starts-with(normalize-space(.), "Types")]', "the types")
    person.says("Nothing here is like Fulmar")
    # Another type is chosen for it, of those that are alike in nothing but hope; and the plain body after all.
    heron = '//select[@aria-label="Heron becomes"]/option'
    person.find(heron, "what a Heron may become")
    person.press("Take in: 2 new, 2 different")
    person.says("Take in office.mvr: 2 added, 2 changed")
    now = by_number(program)
    assert now[61]["mode"] == "Extended"
    assert things(program, "truss")[truss]["position"][2] == pytest.approx(was[2] + LIFT_M)
    assert now[71]["hang"] == lamps[71]["hang"], "it went with its truss"
    assert 72 in now, "what the file does not have stays"
    assert now[201]["hang"] is None
    stand_in = next(body for body in things(program, "type").values() if body["maker"] == "Stand-in")
    assert stand_in["name"] == "Stand-in for Fulmar"
    # The new ones stand beside the truss, and go onto it when it is said.
    person.press("Put 2 back on Truss 2")
    wait_for(lambda: by_number(program)[201]["hang"], "the new ones on their rail")
    assert by_number(program)[202]["hang"]["structure"] == truss
    person.press("See the show")
    person.settle()
    # All of it back, in two steps.
    person.press("Undo")
    person.says("Undo: Put 2 fixtures back")
    person.press("Undo")
    person.says("Undo: Take in office.mvr")
    wait_for(lambda: program.document()["objects"] == before, "everything as it was")
    assert person.errors() == []


@pytest.mark.timeout(240)
def test_a_scene_that_is_dropped_is_told_apart_left_in_part_and_put_away(program, person):
    person.open(program.url)
    data = mvr(layer(*(fixture(f"F{i}", 300 + i, f"9.{1 + 20 * i}") for i in range(3)), name="Guests"))
    person.driver.execute_script(
        """const data = new DataTransfer();
        data.items.add(new File([Uint8Array.from(atob(arguments[0]), (c) => c.charCodeAt(0))], "guests.zip"));
        for (const kind of ["dragover", "drop"]) {
            window.dispatchEvent(new DragEvent(kind, { dataTransfer: data, bubbles: true, cancelable: true })); }""",
        base64.b64encode(data).decode(),
    )
    person.says("This is a scene (MVR).")
    person.press("Put it beside the show")
    person.press("Leave Fixture 301 as it is")
    person.press("Take in: 3 new")
    person.says("Take in guests.zip: 3 added")
    assert {300, 302} <= by_number(program).keys()
    assert 301 not in by_number(program)
    person.press("Put the file away")
    person.says("Scenes, fixtures and geometry from other programs")
    person.press("Back to the show")
    person.settle()
    assert person.errors() == []
