"""Gauze and translucent cloth: lit from the front they hide, lit from behind they reveal; against core's numbers."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from tests.browser.person import Person
from tests.processes import Program, wait_for
from zarfwright.core.lighting import caster_of, rig_of
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.photometry import illuminance
from zarfwright.core.picture import COLUMN
from zarfwright.core.scene import FINISHES, SHEER
from zarfwright.demo.build import Builder
from zarfwright.library import dunlin

EYE, TARGET = [1.2, -7.0, 2.2], [0.0, 2.0, 2.0]
ON_WALL = [0.2, 4.0, 1.9]
SHARP = {"zoom": 30.0, "red": 1.0, "green": 0.8, "blue": 0.6}


class Booth:
    """A white wall 4 m upstage, a cloth of its own finish 2 m upstage; lamps before, between and behind the two."""

    def __init__(self, folder: Any, finish: str) -> None:
        build = Builder(folder / "booth.zarf")
        do = build.do
        do("set show", name="Booth", haze_per_m=0.0, work_light_lx=0.0, exposure_ev=9.0, white_k=6500.0)
        do("add deck", name="Wall", width="8m", depth="0.1m", height="5m", y="US 4.05", finish="cloth")
        corners = [[-3, 0, 0], [3, 0, 0], [3, 3.6, 0], [-3, 3.6, 0]]
        self.cloth = do("add panel", name="Cloth", corners=corners, at="US 2", thickness="4cm", finish=finish).select[0]
        kind = build.add_type(dunlin())
        # The first lights the cloth from the front, the second the wall alone, the third the cloth from behind.
        self.front = do("place free", type=kind, mode="Standard", position=(0.0, -2.0, 4.6), number=1).select[0]
        self.back = do("place free", type=kind, mode="Standard", position=(0.4, 2.6, 5.0), number=2).select[0]
        self.behind = do("place free", type=kind, mode="Standard", position=(0.0, 5.6, 6.6), number=3).select[0]
        self.show = build.show
        build.file.close()
        self.program, self.person = Program(folder / "booth.zarf", demo=False), Person(folder)
        self.person.driver.get(f"{self.program.url}/?scale=0.4&quality=Build")
        self.person.settle()
        for panes in (3, 1):
            self.person.press("One, two or three panes")
            wait_for(lambda panes=panes: len(self.person.report()["panes"]) == panes, f"{panes} panes")
        self.person.stage("lookFrom", "main", EYE, TARGET)

    def light(self, **lamps: float) -> Any:
        """Let only these lamps burn, each at its tilt in radians; core's beams as they are then."""
        held = {}
        for name in ("front", "back", "behind"):
            fixture = getattr(self, name)
            said = {**SHARP, "dimmer": 1.0 if name in lamps else 0.0, "pan": 0.0, "tilt": lamps.get(name, 0.0)}
            self.program.edit("hold values", ids=[fixture], values=said)
            held[fixture] = said
        beams = rig_of(self.show).beams(held, {})

        def there() -> bool:
            read = "const s = window.zarfwrightStage.state; return [0, 1, 2].map((row) => "
            read += "['tilt', 'field', 'blade1', 'blade2'].map((f) => s.field(row, 'live', f)))"
            now = np.array(self.person.driver.execute_script(read))
            return bool(
                np.abs(now - beams.frame[:3, [COLUMN[name] for name in ("tilt", "field", "blade1", "blade2")]]).max()
                < 2e-3
            )

        wait_for(there, f"lamps at {lamps}", 60)
        self.person.settle()
        return beams

    def probe(self, place: list[float]) -> tuple[dict[str, Any], float, float]:
        """What is read there, lux and luminance."""
        read = wait_for(lambda: self.person.stage("probe", "main", place, "Depth"), "the light")
        return read, float(np.array(read["lux"]) @ LUMINANCE), float(np.array(read["seen"]) @ LUMINANCE)

    def end(self) -> None:
        self.person.close()
        self.program.end()


@pytest.fixture
def booth(tmp_path, request):
    made = Booth(tmp_path, request.param)
    yield made
    made.end()


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
        read, on_wall, seen_there = booth.probe(ON_WALL)
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
    _, dimmed, _ = booth.probe(ON_WALL)
    assert dimmed < 0.65 * bare
    # Faced with something else by hand, it hides the wall and keeps the light from it; and back.
    booth.person.row("Cloth")
    booth.person.choose("Faced with", "timber")
    wait_for(lambda: booth.probe(ON_WALL)[0]["point"][1] < 2.0, "the cloth to hide the wall")
    booth.person.choose("Faced with", "gauze")
    wait_for(lambda: booth.probe(ON_WALL)[1] == pytest.approx(dimmed, rel=0.02), "the light through the gauze")
    booth.program.edit("remove", ids=[booth.cloth])
    wait_for(lambda: booth.probe(ON_WALL)[1] == pytest.approx(bare, rel=0.05), "all of the light")
    assert booth.person.errors() == []


@pytest.mark.parametrize("booth", ["translucent"], indirect=True)
@pytest.mark.timeout(300)
def test_a_translucent_cloth_shows_what_it_is_lit_with_from_behind(booth):
    rows = booth.program.document()["objects"]
    booth.program.edit("remove", ids=[row["id"] for row in rows if row["body"].get("name") == "Wall"])
    wait_for(lambda: booth.probe([0.0, 2.0, 2.0])[0]["point"][1] < 2.1, "the cloth")
    left = [item for item in booth.show.items.values() if getattr(item.body, "name", "") != "Wall"]
    caster = caster_of(booth.show, left)
    beams = booth.light(behind=-0.7)
    read, _, seen = booth.probe([0.0, 2.0, 2.0])
    x, _, z = read["point"]
    expected = lux(beams, [x, 2.02, z], [0.0, 1.0, 0.0], caster) * SHEER["translucent"][1] / math.pi
    assert expected > 1.0
    assert seen == pytest.approx(expected, rel=0.06)


@pytest.mark.parametrize("booth", ["black gauze"], indirect=True)
@pytest.mark.timeout(300)
def test_shafts_behind_a_gauze_are_seen_through_it(booth):
    booth.program.edit("set show", haze_per_m=0.02)
    booth.light(back=0.35)

    def air() -> tuple[np.ndarray, np.ndarray]:
        booth.person.settle()
        read = booth.person.stage("air", "main", "Pattern", "plain")
        return np.array(read["luminance"]).reshape(-1, 3) @ LUMINANCE, np.array(read["ways"]).reshape(-1, 3)

    veiled, ways = air()
    booth.program.edit("remove", ids=[booth.cloth])
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
