"""Light scattered by haze, light that bounces on, the exposure that suits a look, and what things are faced with."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import quad

from zarfwright.core.lighting import caster_of, fitting_ev, rig_of
from zarfwright.core.optics.haze import henyey_greenstein, scattered
from zarfwright.core.optics.photometry import bounced, illuminance, shape_toward
from zarfwright.core.scene import FINISHES, solid_of


def test_the_phase_function_sends_out_what_came_in_and_mostly_straight_on():
    whole, _ = quad(lambda c: 2 * np.pi * float(henyey_greenstein(c)), -1, 1)
    assert whole == pytest.approx(1.0, abs=1e-6)
    # At g = 0.6 a shaft looked into is 64 times as bright as from behind its lamp (numbers.md, Beam).
    assert henyey_greenstein(1.0) / henyey_greenstein(-1.0) == pytest.approx(64.0)
    assert henyey_greenstein(0.3, 0.0) == pytest.approx(1 / (4 * np.pi))


@pytest.fixture
def lamp(bench):
    """One wash 6 m over a light floor, straight down."""
    bench.made("add deck", name="Floor", width="12m", depth="12m", height="0.1m", z="-0.1m", finish="cloth")
    bench.lamp = bench.do("place free", type="dunlin", mode="Standard", position=(0.0, 0.0, 6.0), number=1).select[0]
    bench.said = {bench.lamp: {"dimmer": 1.0, "zoom": 25.0, "red": 1.0, "green": 1.0, "blue": 1.0, "white": 1.0}}
    return bench


def test_a_shaft_is_the_integral_of_what_is_scattered_along_a_ray(lamp):
    beams, haze = rig_of(lamp.show).beams(lamp.said, {}), 0.04
    eye, way = np.array([5.0, -1.0, 2.0]), np.array([-0.97, 0.2, 0.138])
    way /= np.linalg.norm(way)

    def per_metre(t: float) -> float:
        p = (eye + way * t)[None]
        away = p - beams.apex[0]
        d2 = float(np.sum(away * away))
        cosine = -float(away[0] @ way) / np.sqrt(d2)
        loss = np.exp(-haze * (t + float(np.linalg.norm(p - beams.lens[0]))))
        return float(haze * shape_toward(beams, 0, p)[0] / d2 * henyey_greenstein(cosine) * loss)

    wanted, _ = quad(per_metre, 0.0, 12.0, limit=400)
    got = scattered(beams, 0, eye, way[None], [12.0], haze)[0]
    assert got == pytest.approx(wanted, rel=0.01)
    assert wanted > 0


def test_light_bounces_on_as_a_ball_gives_it_back(lamp):
    # Two great sheets, one over the other: under the upper one light comes back again and again.
    lamp.made("add deck", name="Lid", width="12m", depth="12m", height="0.1m", z="6.3m", finish="cloth")
    beams, caster = rig_of(lamp.show).beams(lamp.said, {}), caster_of(lamp.show)
    point, up = np.array([[0.5, 0.3, 0.0]]), np.array([[0.0, 0.0, 1.0]])
    one, two, many = (bounced(beams, point, up, caster, 2000, n)[0, 1] for n in (1, 2, 10))
    assert one == pytest.approx(0, abs=1e-9), "the floor does not light itself"
    assert 0 < two < many < 3 * two
    assert many < illuminance(beams, point, up, caster)[0, 1]


def test_the_exposure_that_suits_a_look_goes_with_its_light(lamp):
    show, said = lamp.show, lamp.said
    full = fitting_ev(show, said)
    quarter = fitting_ev(
        show, {lamp.lamp: {**said[lamp.lamp], "red": 0.25, "green": 0.25, "blue": 0.25, "white": 0.25}}
    )
    assert full is not None
    assert quarter is not None
    assert full - quarter == pytest.approx(2.0, abs=0.15)
    assert fitting_ev(show, {lamp.lamp: {"dimmer": 0.0}}) is None


def test_a_look_brings_its_exposure_unless_that_is_locked(lamp):
    look = lamp.do("keep look", name="Bright", values=lamp.said).select[0]
    wanted = lamp.body(look).exposure_ev
    lamp.do("set show", exposure_ev=wanted - 4)
    lamp.do("play look", id=look)
    assert lamp.show.settings.exposure_ev == wanted
    lamp.do("set show", exposure_ev=wanted - 4, exposure_locked=True)
    edit = lamp.do("play look", id=look)
    assert lamp.show.settings.exposure_ev == wanted - 4
    assert edit.report[-1].startswith(f"The exposure is locked at EV {wanted - 4:.1f}, and Bright would be seen at EV")


@pytest.mark.parametrize("finish", FINISHES)
def test_a_deck_keeps_the_finish_that_it_is_added_with(bench, finish):
    deck = bench.made("add deck", name="D", finish=finish)
    assert bench.body(deck).finish == finish
    solid = solid_of(bench.show.items[deck])
    assert (solid.albedo, solid.finish) == (FINISHES[finish], finish)


def test_what_stands_in_a_narrow_beam_is_judged_from_where_its_light_leaves_the_lens(lamp):
    # A beam of parallel light: a lid beside the axis takes away what goes through that side of the lens, and no more.
    said = {lamp.lamp: {**lamp.said[lamp.lamp], "zoom": 8.0}}
    lamp.made("add deck", name="Lid", width="0.5m", depth="1m", height="0.02m", x="0.27", z="3m", finish="black")
    beams, caster = rig_of(lamp.show).beams(said, {}), caster_of(lamp.show)
    apex = beams.apex[0]
    edge = apex + (np.array([0.02, 0.0, 3.02]) - apex) * (apex[2] / (apex[2] - 3.02))
    places = np.array([[edge[0] - 0.01, 0.0, 0.0], [edge[0] + 0.01, 0.0, 0.0]])
    lit = illuminance(beams, places, np.tile([0.0, 0.0, 1.0], (2, 1)), caster)[:, 1]
    assert lit[0] > 100
    assert lit[1] == 0


def test_a_finish_is_what_it_says_in_another_show_too(bench):
    deck = bench.made("add deck", name="D", finish="gloss")
    item = bench.show.items[deck]
    assert solid_of(replace(item, body=replace(item.body, finish="brick"))).finish == "brick"
