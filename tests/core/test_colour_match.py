"""The same colour on other types, checked by the picture's own arithmetic and by a linear program."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import linprog

from tests.conftest import Workbench
from zarfwright.core.aiming.colour import by_emitters, by_flags, gamut, match, off, xy_of_rgb, xy_of_white
from zarfwright.core.aiming.coloured import driven, kinds_of, mixes, shown_xy
from zarfwright.core.dmx.features import EMITTERS
from zarfwright.core.errors import JobError
from zarfwright.core.optics.colour import LUMINANCE, RGB_TO_XYZ, XYZ_TO_RGB, cct_k, rgb_from_xyy, white_xy
from zarfwright.core.optics.spectrum import MATCHING, WAVELENGTHS, planck
from zarfwright.core.picture.constants import ADDITIVE, Constants, constants_of
from zarfwright.library import bittern, dunlin, heron, plover

CLEAR = np.ones(3)
RGBW = constants_of(dunlin(), "Standard")[0]
CMY = constants_of(heron(), "Standard")[0]


def of_emitters(*names: str) -> Constants:
    """A head with these sources of light."""
    rgb = np.zeros((len(EMITTERS), 3))
    whole = sum(ADDITIVE[name][2] for name in names)
    for name in names:
        x, y, flux = ADDITIVE[name]
        rgb[EMITTERS.index(name)] = rgb_from_xyy(x, y, flux / whole)
    return replace(RGBW, emitters=rgb)


SEVEN = of_emitters("red", "green", "blue", "amber", "lime", "warm white", "cold white")
SETS = {"RGB": of_emitters("red", "green", "blue"), "RGBW": RGBW, "seven": SEVEN}


def inside(one: Constants, shares: list[float]) -> tuple[float, float]:
    """A chromaticity that its emitters surely give."""
    rows = [i for i in range(len(EMITTERS)) if one.emitters[i].any()]
    levels = np.array(shares[: len(rows)]) + 0.02
    return xy_of_rgb(levels @ one.emitters[rows])


shares = st.lists(st.floats(0, 1), min_size=12, max_size=12)


@settings(max_examples=60)
@pytest.mark.parametrize("name", SETS)
@given(shares)
def test_whatever_its_emitters_can_give_is_met(name, some):
    one = SETS[name]
    xy = inside(one, some)
    for prefer in ("brightest", "even"):
        found = by_emitters(one, CLEAR, xy, prefer)
        assert found.off_uv < 0.002
        assert all(-1e-9 <= level <= 1 + 1e-9 for level in found.values.values())
        # By the picture's arithmetic: levels times emitters.
        rgb = sum(found.values[n] * one.emitters[i] for i, n in enumerate(EMITTERS) if n in found.values)
        assert off(xy_of_rgb(rgb), xy) < 0.002


@settings(max_examples=40)
@given(shares)
def test_no_mixture_of_the_same_colour_is_brighter(some):
    xy = inside(SEVEN, some)
    found = by_emitters(SEVEN, CLEAR, xy, "brightest")
    rows = [i for i in range(len(EMITTERS)) if SEVEN.emitters[i].any()]
    xyz = SEVEN.emitters[rows] @ RGB_TO_XYZ.T
    x, y = xy
    # The most luminance with X - x/y Y = 0 and Z - (1-x-y)/y Y = 0, by another method.
    equal = np.stack([xyz[:, 0] - x / y * xyz[:, 1], xyz[:, 2] - (1 - x - y) / y * xyz[:, 1]])
    best = linprog(-xyz[:, 1], A_eq=equal, b_eq=[0, 0], bounds=(0, 1))
    got = sum(found.values[n] * SEVEN.emitters[i] for i, n in enumerate(EMITTERS) if n in found.values)
    assert float((RGB_TO_XYZ @ got)[1]) == pytest.approx(-best.fun, rel=2e-3)
    assert by_emitters(SEVEN, CLEAR, xy, "even").share <= found.share + 1e-6


def test_what_is_out_of_reach_is_the_nearest_with_its_difference():
    far = (0.08, 0.83)
    found = by_emitters(RGBW, CLEAR, far, "brightest")
    assert not found.reaches
    outline = np.array(gamut(RGBW, CLEAR, set(driven(dunlin(), "Standard"))))
    # No place on the edge of what it mixes is nearer.
    edge = [a + t * (b - a) for a, b in pairwise(outline) for t in np.linspace(0, 1, 200)]
    assert found.off_uv == pytest.approx(min(off(tuple(p), far) for p in edge), abs=2e-3)


@settings(max_examples=25)
@given(st.tuples(*[st.floats(0, 0.97)] * 2), st.sampled_from([(0, 1, 2), (1, 2, 0), (2, 0, 1)]))
def test_flags_meet_what_flags_can_give_with_one_of_them_out(pair, order):
    flags = np.zeros(3)
    flags[list(order[:2])] = pair
    rgb = CMY.white * np.prod(1 - flags[:, None] * (1 - CMY.filters), axis=0)
    found = by_flags(CMY, CLEAR, xy_of_rgb(rgb))
    assert found.off_uv < 0.002
    assert min(found.values.values()) == 0.0
    # Nothing of that colour is brighter: these flags are one way to it.
    bright = float((RGB_TO_XYZ @ rgb)[1] / (RGB_TO_XYZ @ CMY.white)[1])
    assert found.share >= bright * 0.98


def test_a_wheel_gives_its_nearest_slot_and_says_how_far_off_it_is():
    drives = set(driven(plover(), "Standard"))
    one = constants_of(plover(), "Standard")[0]
    blue = xy_of_rgb(one.white * one.colours[0][4])
    found = match(one, CLEAR, drives, (blue[0] + 0.004, blue[1]))
    assert found.values["colour slot"] == 5.0
    assert 0 < found.off_uv < 0.02


def test_a_white_is_met_by_its_temperature_and_tinted_across_the_white_line():
    for kelvin in (2700, 3200, 5600):
        assert xy_of_white(kelvin) == pytest.approx(white_xy(kelvin), abs=1e-9)
        assert xy_of_white(kelvin, 0.01)[1] > white_xy(kelvin)[1]
        assert cct_k(*xy_of_white(kelvin, 0.01)) == pytest.approx(kelvin, rel=0.01)


@pytest.fixture
def rig() -> tuple[Workbench, dict[str, str]]:
    bench = Workbench()
    bench.show = replace(bench.show, types={**bench.show.types, "par": bittern()})
    truss = bench.made("add truss", length="12m", start_trim="6m")
    made = {}
    for kind in ("heron", "dunlin"):
        made[kind] = bench.made("place along rail", structure=truss, type=kind, count="1", mode="Standard")
    return bench, made


def test_one_colour_on_two_types_is_the_same_in_the_picture(rig):
    bench, made = rig
    edit = bench.do("set colour", ids=list(made.values()), x=0.45, y=0.40)
    assert not edit.report
    values = {one: bench.body(one).hands for one in made.values()}
    for one in made.values():
        assert off(shown_xy(bench.show, one, values), (0.45, 0.40)) < 0.002
    # The same as the other, whatever it was told before.
    bench.do("hold values", ids=[made["heron"]], values={"cyan": 0.8, "magenta": 0.1, "yellow": 0.3})
    xy = shown_xy(bench.show, made["heron"], {made["heron"]: bench.body(made["heron"]).hands})
    bench.do("set colour", ids=[made["dunlin"]], x=xy[0], y=xy[1], like=made["heron"])
    assert off(shown_xy(bench.show, made["dunlin"], {made["dunlin"]: bench.body(made["dunlin"]).hands}), xy) < 0.002


def test_a_selection_is_told_who_cannot_show_it(rig):
    bench, made = rig
    edit = bench.do("set colour", ids=list(made.values()), x=0.16, y=0.02)
    assert any("out of reach" in line and "u′v′" in line for line in edit.report)
    with pytest.raises(JobError, match="more than 1"):
        bench.do("set colour", ids=list(made.values()), x=0.7, y=0.6)
    with pytest.raises(JobError, match="pick one"):
        bench.do("set colour", ids=list(made.values()))
    outline, slots = mixes(
        bench.show, kinds_of(bench.show, [bench.show.thing(made["heron"], type(bench.body(made["heron"])))])[0]
    )
    assert len(outline) > 4
    assert len(slots) == 8


def bells(*peaks: float) -> Constants:
    """A head whose sources are bells of 15 nm, their colours those of their spectra."""
    spectra = np.zeros((len(EMITTERS), len(WAVELENGTHS)))
    rgb = np.zeros((len(EMITTERS), 3))
    for i, peak in enumerate(peaks):
        spectra[i] = np.exp(-0.5 * ((WAVELENGTHS - peak) / 15.0) ** 2)
        rgb[i] = XYZ_TO_RGB @ (MATCHING @ spectra[i])
    bright = float((rgb @ LUMINANCE).sum())
    return replace(RGBW, emitters=rgb / bright, spectra=spectra / bright)


def test_where_spectra_are_known_the_fullest_mixture_is_nearest_to_a_black_body_and_of_the_same_colour():
    seven = bells(620.0, 530.0, 455.0, 590.0, 560.0, 495.0, 650.0)
    for kelvin in (3200.0, 5600.0):
        xy = white_xy(kelvin)
        wanted = planck(kelvin) / float(MATCHING[1] @ planck(kelvin))
        off_by = {}
        for prefer in ("brightest", "even", "fullest"):
            found = by_emitters(seven, CLEAR, xy, prefer)
            assert found is not None
            assert found.off_uv < 0.002
            mixed = sum(found.values[EMITTERS[i]] * seven.spectra[i] for i in range(7))
            off_by[prefer] = float(np.linalg.norm(mixed / float(MATCHING[1] @ mixed) - wanted) / np.linalg.norm(wanted))
        assert off_by["fullest"] < 0.97 * off_by["brightest"]
        assert off_by["fullest"] < off_by["even"]
    # Of what is no white, or where nobody knows the spectra, it is the brightest.
    for head, xy in ((seven, (0.2, 0.6)), (replace(seven, spectra=np.zeros_like(seven.spectra)), (0.4, 0.4))):
        assert by_emitters(head, CLEAR, xy, "fullest") == by_emitters(head, CLEAR, xy, "brightest")


def test_the_spectra_of_a_type_are_as_bright_and_of_the_colour_as_it_says():
    rows = [EMITTERS.index(name) for name in ("red", "green", "blue", "white")]
    assert MATCHING[1] @ RGBW.spectra[rows].T == pytest.approx(RGBW.emitters[rows] @ LUMINANCE)
    for row in rows:
        assert off(xy_of_rgb(XYZ_TO_RGB @ (MATCHING @ RGBW.spectra[row])), xy_of_rgb(RGBW.emitters[row])) < 0.004


def test_a_spectrum_of_another_colour_than_is_said_tells_nothing():
    kind = dunlin()
    other = replace(kind.emitters[0], colour=replace(kind.emitters[0].colour, x=0.6, y=0.35))
    one = constants_of(replace(kind, emitters=(other, *kind.emitters[1:])), "Standard")[0]
    assert not one.spectra[EMITTERS.index("red")].any()
    assert one.spectra[EMITTERS.index("green")].any()
