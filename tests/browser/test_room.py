"""A closed room is looked into from outside, and a section shows what it cuts."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.action_chains import ActionChains

from tests.browser.measured import Measured
from tests.processes import wait_for
from zarfwright.demo.build import Builder

OUTSIDE, INSIDE = [0.0, -20.0, 3.0], [0.0, -0.5, 3.0]
AT_ITS_MIDDLE = [0.0, 0.0, 1.0]
MET = """const [place] = arguments, s = window.zarfwrightStage, pane = s.layout()[0], at = s.where('main', place);
const hit = s.surfaceAt(pane, at.x, at.y);
return hit && hit.id;"""
BRIGHTNESS = """const [place] = arguments, s = window.zarfwrightStage, at = s.where('main', place);
return s.pixels('main', at.x, at.y, 15).reduce((sum, one) => sum + one, 0) / 3;"""


class Room(Measured):
    """A room of 14 x 9 m with a door, a stage in its middle, and a box to stage right of that."""

    def build(self, builder: Builder) -> None:
        do = builder.do
        do("set show", name="Room")
        corners = [[-7, -4.5, 0], [7, -4.5, 0], [7, 4.5, 0], [-7, 4.5, 0]]
        self.wall = do("add wall", corners=corners, closed=True, height="5m", thickness="0.2m").select[0]
        do("cut opening", id=self.wall, side=0, along="3m", width="1.2m")
        self.stage = do("add deck", width="6m", depth="3m", height="1m", y="1.5", name="Stage").select[0]
        self.box = do("add deck", width="1m", depth="1m", height="3m", x="SR 5", name="Box").select[0]

    def seen(self, place: list[float]) -> list[float]:
        """The place that the picture has there."""
        point: list[float] = self.probe(place)["point"]
        return point

    def met(self, place: list[float]) -> str | None:
        """What the pointer is on there."""
        found: str | None = self.person.driver.execute_script(MET, place)
        return found

    def brightness(self, place: list[float]) -> float:
        return float(self.person.driver.execute_script(BRIGHTNESS, place))

    def choose(self, words: str) -> None:
        """A view of the pane."""
        view = f'//select[@aria-label="View of the main pane"]/option[normalize-space(.)="{words}"]'
        self.person.click(view, words)
        self.person.settle()


@pytest.fixture
def room(measured):
    return measured(Room)


@pytest.mark.timeout(300)
def test_a_room_is_looked_into_from_outside_and_its_walls_come_back_by_a_key(room):
    front, kerb = [0.5, 0.0, 0.5], [2.0, -4.6, 0.07]
    room.look_from(OUTSIDE, AT_ITS_MIDDLE)
    # The near wall is left out, for the eye as for the pointer; its kerb, and the far wall, are there.
    assert room.seen(front)[1] == pytest.approx(0.0, abs=0.1)
    assert room.met(front) == room.stage
    assert room.seen(kerb)[1] == pytest.approx(-4.6, abs=0.1)
    assert room.met([3.0, 4.4, 3.5]) == room.wall
    # Whoever stands in it sees all four walls.
    room.look_from(INSIDE, [0.0, -20.0, 1.0])
    assert room.seen([2.0, -4.4, 1.5])[1] == pytest.approx(-4.4, abs=0.1)
    room.look_from(OUTSIDE, AT_ITS_MIDDLE)
    for said in ("Walls, flats and cloths between you and the work are left out", "All walls are there"):
        ActionChains(room.person.driver).send_keys("i").perform()
        room.person.says(said)
    room.person.settle()
    wait_for(lambda: room.seen(front)[1] == pytest.approx(-4.6, abs=0.1), "the wall")
    assert room.met(front) == room.wall
    ActionChains(room.person.driver).send_keys("i").perform()
    room.person.says("Rooms are looked into from outside")


@pytest.mark.timeout(300)
def test_a_section_shows_what_it_cuts_and_nothing_before_it_is_met(room):
    room.choose("Section")
    cut, beyond = [0.0, 1.5, 0.5], [0.0, -3.0, 2.5]
    # A cut face is hatched, where the wall behind is plain.
    assert room.brightness(cut) > room.brightness(beyond) + 8
    assert room.met(cut) == room.stage
    # The box stands on the near side of the cut: neither drawn nor met.
    assert room.met([0.0, 0.0, 2.5]) == room.wall
    room.choose("From SR")
    assert room.met([0.0, 0.0, 2.5]) == room.box
    room.choose("Free")
