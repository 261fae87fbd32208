"""What stands in a gate: sharp at a distance, barn doors before a lens, and who has blades."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.conftest import Workbench
from zarfwright.core.aiming.shutters import blades_of
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.optics.beam import DOOR_RIM, focus_at
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.photometry import half_field, shape_toward
from zarfwright.core.rig.lamps import Lamp, parse_lamp
from zarfwright.core.types.model import FixtureType
from zarfwright.formats.ies import read_ies
from zarfwright.library import bittern, curlew, dunlin, heron, plover


def with_types(**types: FixtureType) -> Workbench:
    """A show that has these types as well."""
    bench = Workbench()
    entry = bench.show.items["dunlin"]
    items = {**bench.show.items, **{key: replace(entry, id=key) for key in types}}
    bench.show = replace(bench.show, items=items, types={**bench.show.types, **types})
    return bench


def stage():
    """A moving profile, a lamp focused by hand and a wash, above a deck that they shine straight down on."""
    bench = with_types(hand=curlew(), soft=dunlin())
    made = [
        bench.made("place free", type=kind, mode=mode, position=[x, 0.0, 8.0])
        for x, (kind, mode) in enumerate([("heron", "Extended"), ("hand", "Dimmer"), ("soft", "")])
    ]
    return bench, *made


def rim_width(bench: Workbench, head: str, at_m: float, **values: float) -> float:
    """How wide the edge of an iris half closed is across a plane so far from its lens, as a share of the radius."""
    body = bench.body(head)
    held = {head: {**body.hands, **body.fixed, "dimmer": 1.0, "pan": 0.0, "tilt": 0.0, "iris": 0.5, **values}}
    beams = rig_of(bench.show).beams(held, {})
    row = rig_of(bench.show).rig.fixtures.index(head)
    middle = beams.lens[row] + beams.along[row] * at_m
    reach = float(np.linalg.norm(middle - beams.apex[row])) * math.tan(half_field(beams.frame[row]))
    u = np.linspace(0.05, 1.0, 4001)
    seen = shape_toward(beams, row, middle + (u * reach)[:, None] * beams.side[row])
    return float(u[np.argmax(seen < 0.05 * seen[0])] - u[np.argmax(seen < 0.7 * seen[0])])


def test_a_gate_is_sharp_at_its_distance_and_blurs_before_and_behind_it_as_a_thin_lens_does():
    bench, head, *_ = stage()
    bench.do("sharp at", ids=[head], distance="8m")
    assert bench.body(head).hands["sharp at"] == 8.0
    widths = [rim_width(bench, head, away) for away in (2.0, 4.0, 8.0, 16.0)]
    assert widths[2] == min(widths)
    assert widths[0] > widths[1] > 2.5 * widths[2]
    # The disc of a point is r |1/s - 1/d| wide to either side, whatever the zoom: at 4 m, 8 times less than at 1 m.
    assert 1 - focus_at(4.0, 8.0, 0.06, 0.2) == pytest.approx(0.06 * 0.125 / math.tan(0.2) / 0.35)
    assert 1 - focus_at([1.0, 4.0], 8.0, 0.06, 0.2) == pytest.approx(
        [0.06 * 0.875 / math.tan(0.2) / 0.35, 0.1057], rel=0.01
    )
    assert focus_at(0.0, 8.0, 0.2, 0.05) == 0.0


def test_it_is_picked_on_the_stage_for_many_each_by_its_own_distance():
    bench, head, lamp, soft = stage()
    point = [0.5, 0.0, 1.0]
    done = bench.do("sharp at", ids=[head, lamp, soft], point=point, values={})
    beams = rig_of(bench.show).beams({head: {"pan": 0.0, "tilt": 0.0}}, {})
    assert bench.body(head).hands["sharp at"] == pytest.approx(float(beams.lens[0, 2]) - 1.0, abs=2e-3)
    # At a lamp that is focused by hand it stays, under console and look.
    assert bench.body(lamp).fixed["sharp at"] > 5.0
    assert done.report == ("An unnumbered fixture has no focus.",)
    assert "sharp at" not in bench.body(soft).hands
    bench.do("sharp at", ids=[head], distance="")
    assert "sharp at" not in bench.body(head).hands


def test_what_cannot_be_sharp_is_refused_with_the_reason():
    bench, head, _, soft = stage()
    with pytest.raises(JobError, match="has no focus"):
        bench.do("sharp at", ids=[soft], distance="5m")
    with pytest.raises(JobError, match="behind its lens"):
        bench.do("sharp at", ids=[head], point=[0.0, 0.0, 12.0])
    with pytest.raises(JobError, match=r"0.5|0\.50"):
        bench.do("sharp at", ids=[head], distance="1cm")


def test_a_barn_door_cuts_a_soft_beam_with_a_soft_edge():
    kind = bittern()
    bench = with_types(door=kind)
    lamp = bench.made("place free", type="door", mode="Dimmer", position=[0.0, 0.0, 6.0])
    web, _ = read_ies(kind.ies["Lens"], "Lens.ies")
    open_ = rig_of(bench.show).beams({lamp: {"dimmer": 1.0}}, {}, {web.key: web})
    # It is swung in by hand, and stays so whoever drives the lamp.
    bench.do("hold values", ids=[lamp], values={"blade 1": 0.6})
    assert bench.body(lamp).fixed == {"blade 1": 0.6}
    cut = rig_of(bench.show).beams({lamp: {"dimmer": 1.0}}, {}, {web.key: web})
    half = half_field(cut.frame[0])
    u = np.array([-0.9, 0.0, 0.4 - DOOR_RIM * 1.1, 0.4, 0.4 + DOOR_RIM * 1.1])
    points = cut.apex[0] + 5.0 * (cut.along[0] + (u * math.tan(half))[:, None] * cut.upward[0])
    shares = shape_toward(cut, 0, points) / shape_toward(open_, 0, points)
    assert shares == pytest.approx([1.0, 1.0, 1.0, 0.5, 0.0], abs=1e-6)


def test_who_has_blades_and_what_they_do():
    assert blades_of(plover(), plover().modes[0].name) is None
    shaper = blades_of(heron(), "Extended")
    assert shaper is not None
    assert shaper.whole > 0
    by_hand, doors = blades_of(curlew(), "Dimmer"), blades_of(bittern(), "Dimmer")
    assert by_hand is not None
    assert math.degrees(by_hand.askew) == pytest.approx(35.0)
    assert doors is not None
    assert (doors.askew, doors.ends) == (0.0, False)


def test_a_lamp_is_chosen_by_power_flux_or_colour_and_lights_so():
    bench = with_types(hand=curlew(), door=bittern())
    lamps = [
        bench.made("place free", type=kind, mode="Dimmer", position=[x, 0.0, 6.0])
        for x, kind in enumerate(("hand", "door"))
    ]

    def light(key: str) -> np.ndarray:
        rig = rig_of(bench.show)
        beams = rig.beams({key: {"dimmer": 1.0}}, {})
        return np.asarray(beams.colour_cd(rig.rig.fixtures.index(key)))

    before = [light(key) for key in lamps]
    # As much more light as it has more power; measured webs go along.
    for key, was in zip(lamps, before, strict=True):
        bench.do("set field", ids=[key], field="lamp", text="1 kW")
        power = 750.0 if key == lamps[0] else 1000.0
        assert light(key) == pytest.approx(was * 1000.0 / power, rel=1e-6)
    bench.do("set field", ids=lamps[:1], field="lamp", text="4100 lm")
    assert light(lamps[0]) == pytest.approx(before[0] / 2, rel=1e-6)
    # As bright, and whiter.
    bench.do("set field", ids=lamps[:1], field="lamp", text="8200 lm 5600 K")
    cold = light(lamps[0])
    assert float(LUMINANCE @ cold) == pytest.approx(float(LUMINANCE @ before[0]), rel=0.01)
    assert cold[2] / cold[0] > 2 * before[0][2] / before[0][0]
    assert bench.body(lamps[0]).lamp == Lamp(None, 8200.0, 5600.0)
    bench.do("set field", ids=lamps, field="lamp", text="")
    assert light(lamps[0]) == pytest.approx(before[0])


@pytest.mark.parametrize("text", ["tungsten", "575", "0 W", "20000 K", "575 W and more", "-3 lm"])
def test_what_is_no_lamp_is_refused(text):
    with pytest.raises(JobError, match="lamp"):
        parse_lamp(text)


def test_a_lamp_reads_as_it_is_written():
    assert parse_lamp("0,575 kW, 14 klm 3050K") == Lamp(575.0, 14_000.0, 3050.0)
    assert parse_lamp("  ") is None
