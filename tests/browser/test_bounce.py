"""Light that has bounced: the picture's luminance at named places of the demo against a ray-cast reference."""

from __future__ import annotations

import numpy as np
import pytest

from tests.browser.person import Person
from tests.processes import Program, wait_for
from zarfwright.core.lighting import caster_of, rig_of
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.photometry import bounced, illuminance
from zarfwright.core.space import unit
from zarfwright.formats.ies import read_ies
from zarfwright.formats.pictures import gobo_mask
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
FACTOR = 1.5


def reference(program, points, normals):
    """Lux at places of the look being played: straight from the beams, and bounced once, by rays."""
    desk = Desk(program.file)
    show = desk.show
    look = show.items[show.settings.playing].body
    masks, webs = {}, {}
    for fixture_type in show.types.values():
        masks |= {key: gobo_mask(fixture_type.images[name], name) for name, key in fixture_type.image_keys.items()}
        webs |= {info.key: read_ies(fixture_type.ies[name], name)[0] for name, info in fixture_type.webs.items()}
    beams = rig_of(show).beams(look.values, masks, webs)
    caster = caster_of([item for item in show.items.values() if item.kind in ("venue", "deck", "truss", "figure")])
    desk.close()
    lifted = points + 0.004 * normals
    return illuminance(beams, lifted, normals, caster) @ LUMINANCE, bounced(beams, points, normals, caster) @ LUMINANCE


@pytest.mark.timeout(400)
def test_the_luminance_at_named_places_is_that_of_rays_bounced_once(tmp_path):
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
