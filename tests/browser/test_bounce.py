"""Light that has bounced, again and again: the picture at named places of the demo and in closed rooms against rays."""

from __future__ import annotations

import numpy as np
import pytest

from tests.browser.person import Person
from tests.processes import Program, wait_for
from zarfwright.core.lighting import caster_of, rig_of
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.photometry import bounced, illuminance
from zarfwright.core.space import unit
from zarfwright.demo.build import Builder
from zarfwright.formats.ies import read_ies
from zarfwright.formats.pictures import gobo_mask
from zarfwright.library import dunlin
from zarfwright.web.desk import Desk

# Places and which way their faces look: walls, roof, sail, deck, floor, near the light and far from it.
PLACES = {
    "wall SR by the house, low": ((-10.5, -4, 2), (1, 0, 0)),
    "wall SR by the house, high": ((-10.5, -4, 5.5), (1, 0, 0)),
    "wall SL by the house": ((10.5, -5, 3), (-1, 0, 0)),
    "wall SL by the deck": ((10.5, 3, 3), (-1, 0, 0)),
    "wall SR by the deck": ((-10.5, 3, 3), (1, 0, 0)),
    "wall SR by the deck, high": ((-10.5, 4, 6), (1, 0, 0)),
    "roof over the deck SR": ((-4, 3, 9.862), (0.3755, 0, -0.9268)),
    "roof over the deck SL": ((4, 3, 9.862), (-0.3755, 0, -0.9268)),
    "roof over the front": ((3, -3, 10.271), (-0.3755, 0, -0.9268)),
    "roof over the house": ((-4, -8, 9.862), (0.3755, 0, -0.9268)),
    "sail, high": ((0, 7.27, 5.2), (0, -1, 0)),
    "sail, middle SL": ((2.5, 7.27, 4.0), (0, -1, 0)),
    "sail, SR edge": ((-4.2, 7.27, 3.6), (0, -1, 0)),
    "deck, middle": ((1.2, 3.6, 1.1), (0, 0, 1)),
    "deck, front": ((-2.0, 1.6, 1.1), (0, 0, 1)),
    "deck, SL": ((4.2, 2.4, 1.1), (0, 0, 1)),
    "front of the deck": ((2, 0.05, 0.5), (0, -1, 0)),
    "floor SR of the deck": ((-8, 3, 0), (0, 0, 1)),
    "floor beside the seats": ((-9.2, -9, 0), (0, 0, 1)),
    "floor before the seats": ((-6.5, -4.5, 0), (0, 0, 1)),
    "aisle": ((0, -4, 0), (0, 0, 1)),
    "wall behind the sail SR": ((-8, 14, 3), (0, -1, 0)),
    "wall behind the sail SL": ((8, 14, 3), (0, -1, 0)),
    "sail, low": ((2, 7.27, 1.9), (0, -1, 0)),
    "deck, downstage corner SR": ((-5.2, 0.4, 1.1), (0, 0, 1)),
    "deck, downstage corner SL": ((5.3, 0.3, 1.1), (0, 0, 1)),
    "floor behind the seats": ((0, -14, 0), (0, 0, 1)),
}
FACTOR = 1.3
BOUNCES = 8


def reference(program, points, normals):
    """Lux at places of the look being played: straight from the beams, and bounced, by rays."""
    desk = Desk(program.file)
    show = desk.show
    look = show.items[show.settings.playing].body
    masks, webs = {}, {}
    for fixture_type in show.types.values():
        masks |= {key: gobo_mask(fixture_type.images[name], name) for name, key in fixture_type.image_keys.items()}
        webs |= {info.key: read_ies(fixture_type.ies[name], name)[0] for name, info in fixture_type.webs.items()}
    beams = rig_of(show).beams(look.values, masks, webs)
    caster = caster_of(
        show, [item for item in show.items.values() if item.kind in ("venue", "deck", "truss", "figure")]
    )
    desk.close()
    lifted = points + 0.004 * normals
    return illuminance(beams, lifted, normals, caster) @ LUMINANCE, bounced(
        beams, points, normals, caster, 700, BOUNCES
    ) @ LUMINANCE


@pytest.mark.timeout(400)
def test_the_luminance_at_named_places_is_that_of_rays_bounced_until_nothing_is_left(tmp_path):
    program = Program(tmp_path / "demo.zarf")
    person = Person(tmp_path)
    assert len(PLACES) >= 20
    try:
        # Wheels that turn would be somewhere else in the reference: here they stand still.
        flood = next(row["body"] for row in program.document()["objects"] if row["body"].get("name") == "Flood")
        values = {key: {**said, "gobo 2 spin": 0.0} for key, said in flood["values"].items()}
        look = program.edit("keep look", name="Flood, still", values=values)["select"][0]
        program.edit("play look", id=look)
        person.driver.get(f"{program.url}/?scale=0.2&quality=Build")
        person.settle()
        person.press("One, two or three panes")
        person.press("One, two or three panes")
        wait_for(lambda: len(person.report()["panes"]) == 1, "one pane")
        seen = []
        for place, normal in PLACES.values():
            face = unit(np.array(normal, dtype=float))
            eye = np.array(place) + 1.6 * face + np.array([0.35, 0.3, 0.2])
            person.stage("lookFrom", "main", eye.tolist(), list(place))
            seen.append(person.stage("probe", "main", list(place), "Depth", True))
        direct, once = reference(
            program, np.array([s["point"] for s in seen]), unit(np.array([s["normal"] for s in seen]))
        )
        got = np.array([s["lux"] for s in seen]) @ LUMINANCE
        ratios = dict(zip(PLACES, got / (direct + once), strict=True))
        report = "\n".join(
            f"{name:30s} {r:5.2f}  direct {d:8.1f}  bounced {o:7.1f}"
            for (name, r), d, o in zip(ratios.items(), direct, once, strict=True)
        )
        print(report)
        assert all(1 / FACTOR < ratio < FACTOR for ratio in ratios.values()), report
        # Most of these are lit by nothing else.
        assert np.count_nonzero(once > direct) >= 11
        assert person.errors() == []
    finally:
        person.close()
        program.end()


ROOMS = {
    "white": ("cloth", "cloth", "cloth"),
    "black": ("black", "black", "black"),
    "mixed": ("black", "cloth", "timber"),
}
# The room is 6 m by 5 m by 3 m; one lamp under its ceiling shines down beside a wall.
ROOM_PLACES = {
    "struck floor's edge": ((-1.2, 0.6, 0.0), (0, 0, 1)),
    "floor, far": ((2.2, -1.5, 0.0), (0, 0, 1)),
    "floor, in a corner": ((2.8, 2.3, 0.0), (0, 0, 1)),
    "wall, near": ((-3.0, 0.4, 1.4), (1, 0, 0)),
    "wall, far": ((3.0, -0.4, 1.6), (-1, 0, 0)),
    "wall, in a corner": ((2.6, 2.5, 0.4), (0, -1, 0)),
    "ceiling": ((0.6, 0.2, 3.0), (0, 0, -1)),
    "ceiling, far": ((2.4, -1.8, 3.0), (0, 0, -1)),
}


@pytest.mark.timeout(400)
@pytest.mark.parametrize("room", ROOMS)
def test_a_closed_room_is_as_bright_as_rays_bounced_until_nothing_is_left(tmp_path, room):
    floor, walls, ceiling = ROOMS[room]
    build = Builder(tmp_path / "room.zarf")
    do = build.do
    do("set show", name="Room", haze_per_m=0.0, work_light_lx=0.0, exposure_ev=8.0, white_k=6500.0)
    do("add deck", name="Floor", width="6.4m", depth="5.4m", height="0.2m", z="-0.2m", finish=floor)
    do("add deck", name="Ceiling", width="6.4m", depth="5.4m", height="0.2m", z="3m", finish=ceiling)
    for name, x, y, width, depth in (
        ("SR", "-3.1", "0", "0.2m", "5.4m"),
        ("SL", "3.1", "0", "0.2m", "5.4m"),
        ("US", "0", "2.6", "6.4m", "0.2m"),
        ("DS", "0", "-2.6", "6.4m", "0.2m"),
    ):
        do("add deck", name=f"Wall {name}", width=width, depth=depth, height="3m", x=x, y=y, finish=walls)
    lamp = do("place free", type=build.add_type(dunlin()), mode="Standard", position=(-1.4, 0.4, 2.95), number=1).select
    do("hold values", ids=list(lamp), values={"dimmer": 1.0, "zoom": 40.0, "red": 1.0, "green": 0.8, "blue": 0.6})
    show = build.show
    build.file.close()
    program, person = Program(tmp_path / "room.zarf", demo=False), Person(tmp_path)
    try:
        person.driver.get(f"{program.url}/?scale=0.2&quality=Build")
        person.settle()
        person.press("One, two or three panes")
        person.press("One, two or three panes")
        wait_for(lambda: len(person.report()["panes"]) == 1, "one pane")
        seen = []
        for place, normal in ROOM_PLACES.values():
            eye = np.array(place) * 0.4 + np.array([0.0, 0.0, 0.9]) + 0.6 * np.array(normal)
            person.stage("lookFrom", "main", eye.tolist(), list(place))
            person.settle()
            seen.append(person.stage("probe", "main", list(place), "Depth", True))
        points, normals = np.array([s["point"] for s in seen]), unit(np.array([s["normal"] for s in seen]))
        # On the face itself: a hair behind it nothing is seen.
        planes = np.array([place for place, _ in ROOM_PLACES.values()])
        points += np.sum((planes - points) * normals, axis=1)[:, None] * normals
        held = {lamp[0]: show.items[lamp[0]].body.hands}
        beams, caster = rig_of(show).beams(held, {}), caster_of(show)
        direct = illuminance(beams, points + 0.004 * normals, normals, caster) @ LUMINANCE
        more = bounced(beams, points, normals, caster, 6000, 16) @ LUMINANCE
        got = np.array([s["lux"] for s in seen]) @ LUMINANCE
        ratios = dict(zip(ROOM_PLACES, got / (direct + more), strict=True))
        report = "\n".join(
            f"{room} {name:22s} {r:5.2f}  direct {d:8.1f}  bounced {o:7.1f}"
            for (name, r), d, o in zip(ratios.items(), direct, more, strict=True)
        )
        print(report)
        assert all(1 / FACTOR < ratio < FACTOR for ratio in ratios.values()), report
        assert person.errors() == []
    finally:
        person.close()
        program.end()
