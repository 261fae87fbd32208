"""A person lets a console move a bridge: it gets a driver, is lifted by hand, and a head stays on its place."""

import numpy as np
import pytest
from selenium.webdriver.common.keys import Keys

from tests.processes import wait_for
from zarfwright.library import heron

LECTERN = [0.0, 0.0, 1.0]


def row(program, key):
    return next(one for one in program.document()["objects"] if one["id"] == key)


@pytest.mark.timeout(300)
def test_a_bridge_gets_a_lift_is_lifted_by_hand_and_its_heads_stay_on_their_place(empty, person):
    program = empty
    head_type = program.add_type(heron())
    truss = program.edit("add truss", name="Bridge truss", length="6m", start_trim="5m", y="US 4")["select"][0]
    heads = program.edit("place along rail", structure=truss, type=head_type, count="2", first_number="1")["select"]
    carrier = program.edit("make carrier", ids=[truss, *heads], name="Bridge", pivot=[0, 4, 5])["select"][0]
    program.edit("aim at", ids=heads, point=LECTERN)
    person.open(program.url)
    person.go("Hang")
    person.press("Carriers 1")
    person.click('//*[@role="treeitem"][contains(., "Bridge")]', "the carrier")
    person.click('//aside//*[normalize-space(text())="Carry"]', "Carry")
    person.choose("Moves as", "a lift")
    person.press("Move Bridge by a lift")
    person.says("Lift z 0 to 3000 mm")
    driver = next(
        one["id"] for one in program.document()["objects"] if one["kind"] == "fixture" and one["body"].get("drives")
    )
    before, below = person.beam(heads[0]), person.beam(heads[1])
    # Told to in Aim, heads stay on their place.
    program.edit("keep aim", ids=heads[:1])
    slider = person.field("Raised")
    slider.send_keys(Keys.END)
    wait_for(lambda: row(program, driver)["body"]["hands"] == {"shift z": pytest.approx(3.0)}, "it to be held up")
    up = person.beams_until(lambda beams: beams[heads[0]]["lens"][2] > before["lens"][2] + 2.9, "the bridge to be up")
    kept, free = up[heads[0]], up[heads[1]]
    assert np.allclose(free["along"], below["along"], atol=1e-3)
    to = np.subtract(LECTERN, kept["lens"])
    off = np.linalg.norm(to - np.dot(to, kept["along"]) * np.array(kept["along"]))
    assert off < 0.02
    away = np.subtract(LECTERN, free["lens"])
    assert np.linalg.norm(away - np.dot(away, free["along"]) * np.array(free["along"])) > 1.0
    # Let go, it comes down.
    person.press("Let go of this driver")
    person.beams_until(lambda beams: beams[heads[0]]["lens"][2] < before["lens"][2] + 0.01, "the bridge to be down")
    # A second one for the same axis is refused, in words.
    person.press("Move Bridge by a lift")
    person.says("one driver for one axis")
    assert row(program, carrier)["body"]["position"] == [0, 4, 5]
    assert person.errors() == []
