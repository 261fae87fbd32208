"""Gauze and translucent cloth: lit from the front they hide, lit from behind they reveal; against core's numbers."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from tests.browser.measured import Measured
from tests.processes import wait_for
from zarfwright.core.lighting import caster_of, rig_of
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.photometry import illuminance
from zarfwright.core.scene import FINISHES, SHEER
from zarfwright.demo.build import Builder
from zarfwright.library import dunlin

EYE, TARGET = [1.2, -7.0, 2.2], [0.0, 2.0, 2.0]
ON_WALL = [0.2, 4.0, 1.9]
SHARP = {"zoom": 30.0, "red": 1.0, "green": 0.8, "blue": 0.6}


class Booth(Measured):
    """A white wall 4 m upstage, a cloth of its own finish 2 m upstage; lamps before, between and behind the two."""

    def build(self, builder: Builder) -> None:
        do = builder.do
        do("set show", name="Booth", haze_per_m=0.0, work_light_lx=0.0, exposure_ev=9.0, white_k=6500.0)
        wall = do("add deck", name="Wall", width="8m", depth="0.1m", height="5m", y="US 4.05", finish="cloth").select
        corners = [[-3, 0, 0], [3, 0, 0], [3, 3.6, 0], [-3, 3.6, 0]]
        cloth = do("add panel", name="Cloth", corners=corners, at="US 2", thickness="4cm", finish="timber").select
        self.wall, self.cloth = wall[0], cloth[0]
        kind = builder.add_type(dunlin())
        # The first lights the cloth from the front, the second the wall alone, the third the cloth from behind.
        places = {"front": (0.0, -2.0, 4.6), "back": (0.4, 2.6, 5.0), "behind": (0.0, 5.6, 6.6)}
        self.lamps = {
            name: do("place free", type=kind, mode="Standard", position=place, number=n + 1).select[0]
            for n, (name, place) in enumerate(places.items())
        }

    def faced(self, finish: str) -> Booth:
        self.do("set field", ids=[self.cloth], field="finish", text=finish)
        self.look_from(EYE, TARGET)
        return self

    def light(self, **lamps: float) -> Any:
        """Let only these lamps burn, each at its tilt in radians; core's beams as they are then."""
        held = {}
        for name, lamp in self.lamps.items():
            said = {**SHARP, "dimmer": 1.0 if name in lamps else 0.0, "pan": 0.0, "tilt": lamps.get(name, 0.0)}
            self.program.edit("hold values", ids=[lamp], values=said)
            held[lamp] = said
        beams = rig_of(self.show).beams(held, {})
        self.until_it_shows(beams, ["tilt", "field", "blade1", "blade2"])
        return beams

    def read(self, place: list[float]) -> tuple[dict[str, Any], float, float]:
        """What is read there, lux and luminance."""
        read = self.probe(place, "Depth")
        return read, float(np.array(read["lux"]) @ LUMINANCE), float(np.array(read["seen"]) @ LUMINANCE)


@pytest.fixture
def booth(measured, request):
    return measured(Booth).faced(request.param)


def lux(beams: Any, point: Any, normal: Any, caster: Any) -> float:
    return float(illuminance(beams, [point], [normal], caster)[0] @ LUMINANCE)


def met(point: Any, y: float) -> np.ndarray:
    """Where the line from the eye to a point passes a plane across the stage."""
    eye, end = np.array(EYE), np.array(point)
    return np.asarray(eye + (end - eye) * (y - eye[1]) / (end[1] - eye[1]))


def through(point: Any, open_: float) -> float:
    """How much of what is at a point is seen from the eye through the cloth."""
    way = np.array(point) - np.array(EYE)
    return float(open_ ** (np.linalg.norm(way) / abs(way[1])))


@pytest.mark.parametrize("booth", ["gauze"], indirect=True)
@pytest.mark.timeout(300)
def test_a_gauze_hides_what_is_behind_it_from_the_front_and_reveals_it_from_behind(booth):
    open_, scattered = SHEER["gauze"]
    white, thread = FINISHES["cloth"][1], FINISHES["gauze"][1]
    caster = caster_of(booth.show)
    seen = {}
    for name, tilt in (("front", 0.9), ("back", 0.55)):
        beams = booth.light(**{name: tilt})
        read, on_wall, seen_there = booth.read(ON_WALL)
        # What arrives at the wall, from the front through the gauze.
        expected = lux(beams, read["point"], read["normal"], caster)
        assert read["point"][1] == pytest.approx(4.0, abs=0.02)
        assert on_wall == pytest.approx(expected, rel=0.05), name
        # And what is seen there: the wall through the gauze, and the gauze.
        at = met(read["point"], 1.98)
        front, back = (lux(beams, at, [0.0, way, 0.0], caster) for way in (-1.0, 1.0))
        own = front * thread + back * scattered
        wall = through(read["point"], open_) * on_wall * white
        assert seen_there == pytest.approx((wall + own) / math.pi, rel=0.05), name
        seen[name] = wall / (wall + own)
    assert seen["front"] < 0.6, seen
    assert seen["back"] > 0.95, seen
    # Without the gauze the wall has all of the light.
    bare = lux(booth.light(front=0.9), read["point"], read["normal"], None)
    _, dimmed, _ = booth.read(ON_WALL)
    assert dimmed < 0.65 * bare
    # Faced with something else by hand, it hides the wall and keeps the light from it; and back.
    booth.person.row("Cloth")
    booth.person.choose("Faced with", "timber")
    wait_for(lambda: booth.read(ON_WALL)[0]["point"][1] < 2.0, "the cloth to hide the wall")
    booth.person.choose("Faced with", "gauze")
    wait_for(lambda: booth.read(ON_WALL)[1] == pytest.approx(dimmed, rel=0.02), "the light through the gauze")
    booth.do("remove", ids=[booth.cloth])
    wait_for(lambda: booth.read(ON_WALL)[1] == pytest.approx(bare, rel=0.05), "all of the light")


@pytest.mark.parametrize("booth", ["translucent"], indirect=True)
@pytest.mark.timeout(300)
def test_a_translucent_cloth_shows_what_it_is_lit_with_from_behind(booth):
    booth.do("remove", ids=[booth.wall])
    wait_for(lambda: booth.read([0.0, 2.0, 2.0])[0]["point"][1] < 2.1, "the cloth")
    caster = caster_of(booth.show)
    beams = booth.light(behind=-0.7)
    read, _, seen = booth.read([0.0, 2.0, 2.0])
    x, _, z = read["point"]
    expected = lux(beams, [x, 2.02, z], [0.0, 1.0, 0.0], caster) * SHEER["translucent"][1] / math.pi
    assert expected > 1.0
    assert seen == pytest.approx(expected, rel=0.06)


@pytest.mark.parametrize("booth", ["black gauze"], indirect=True)
@pytest.mark.timeout(300)
def test_shafts_behind_a_gauze_are_seen_through_it(booth):
    booth.do("set show", haze_per_m=0.02)
    booth.light(back=0.35)

    def air() -> tuple[np.ndarray, np.ndarray]:
        booth.person.settle()
        read = booth.person.stage("air", "main", "Pattern", "plain")
        return np.array(read["luminance"]).reshape(-1, 3) @ LUMINANCE, np.array(read["ways"]).reshape(-1, 3)

    veiled, ways = air()
    booth.do("remove", ids=[booth.cloth])
    gone = "return !window.zarfwrightStage.solids.sheer.length"
    wait_for(lambda: booth.person.driver.execute_script(gone), "no gauze")
    bare, _ = air()
    at = np.array(EYE) + ways * ((1.98 - EYE[1]) / ways[:, 1])[:, None]
    inside = (np.abs(at[:, 0]) < 2.8) & (at[:, 2] > 0.2) & (at[:, 2] < 3.4) & (bare > 0.06 * bare.max())
    assert np.count_nonzero(inside) > 30
    expected = SHEER["black gauze"][0] ** (1 / np.abs(ways[inside, 1]))
    assert np.median(veiled[inside] / bare[inside] / expected) == pytest.approx(1.0, abs=0.03)
    # Beside the gauze nothing has changed.
    beside = (at[:, 2] > 3.8) & (bare > 0.02 * bare.max())
    assert np.median(veiled[beside] / bare[beside]) == pytest.approx(1.0, abs=0.02)
