"""Colour and beams against closed forms and published values."""

import math

import numpy as np
import pytest

from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.errors import JobError
from zarfwright.core.optics.beam import hard_shape, peak_candela, settled_angles, soft_shape
from zarfwright.core.optics.colour import LUMINANCE, rgb_from_xyy, white_rgb, white_xy
from zarfwright.core.picture import FIELDS, beam_table
from zarfwright.core.rig.gels import parse_gel
from zarfwright.core.types.model import Chromaticity
from zarfwright.library import bittern, dunlin, heron


def test_rec_709_white_and_red_come_out_as_themselves():
    assert rgb_from_xyy(0.3127, 0.3290) == pytest.approx([1, 1, 1], abs=2e-3)
    assert rgb_from_xyy(0.64, 0.33, 0.2126) == pytest.approx([1, 0, 0], abs=2e-3)


def test_white_follows_planck_when_warm_and_daylight_when_cold():
    # Published chromaticities: illuminant A at 2856 K, D65 at 6504 K.
    assert white_xy(2856) == pytest.approx((0.4476, 0.4074), abs=1e-3)
    assert white_xy(6504) == pytest.approx((0.3127, 0.3291), abs=3e-4)
    steps = [white_xy(k)[0] for k in range(2000, 9000, 50)]
    assert np.all(np.diff(steps) < 0)
    assert white_rgb(3200) @ LUMINANCE == pytest.approx(1, abs=1e-3)


def test_a_soft_edge_is_half_at_the_beam_angle_and_a_tenth_at_the_field_angle():
    half, tenth = soft_shape([math.radians(7), math.radians(12)], 14, 24)
    assert (half, tenth) == pytest.approx((0.5, 0.1), rel=1e-6)
    assert soft_shape(math.radians(18.01), 14, 24) == pytest.approx(0)


def test_the_beam_angle_wins_when_a_file_gives_both_alike():
    b, f, p = settled_angles(20, 20)
    assert (b, f) == pytest.approx((20, 22))
    assert 1 <= p <= 12.6


def test_a_hard_edge_ends_at_the_gate():
    inside, outside = hard_shape([math.radians(8.4), math.radians(8.6)], 17, 17)
    assert inside > 0.85
    assert outside == 0


@pytest.mark.parametrize(("beam", "field", "hard"), [(14, 17, True), (22, 38, False), (6, 60, False)])
def test_candela_gives_the_flux_back(beam, field, hard):
    peak = peak_candela(10_000, beam, field, hard)
    t = np.linspace(0, math.pi / 2, 200_001)
    shape = hard_shape(t, beam, field) if hard else soft_shape(t, beam, field)
    assert peak * 2 * math.pi * np.trapezoid(shape * np.sin(t), t) == pytest.approx(10_000, rel=2e-3)


def frame_of(fixture_type, mode, **values):
    rows = [PatchRow("a", fixture_type, mode, None, None)]
    features = compile_rig(rows).home.copy()
    for name, value in values.items():
        features[0, INDEX[name.replace("_", " ")]] = value
    table = beam_table(rows)
    return dict(zip(FIELDS, table.frame(features)[0], strict=True)), float(table.peak_cd[0])


def candela(fixture_type, mode, **values):
    frame, peak = frame_of(fixture_type, mode, **values)
    return float(np.array([frame["red"], frame["green"], frame["blue"]]) @ LUMINANCE * peak)


def test_a_head_at_full_puts_out_the_candela_of_its_flux():
    assert candela(heron(), "Standard", dimmer=1) == pytest.approx(
        peak_candela(21_000, 17 * 14 / 17, 17, True), rel=5e-3
    )
    every = {"red": 1, "green": 1, "blue": 1, "white": 1}
    assert candela(dunlin(), "Standard", dimmer=1, **every) == pytest.approx(
        peak_candela(9_000, 22, 38, False), rel=5e-3
    )


def test_zoom_keeps_the_flux_and_the_shutter_and_dimmer_dim():
    wide, narrow = (candela(heron(), "Standard", dimmer=1, zoom=z) for z in (34.0, 17.0))
    assert narrow / wide == pytest.approx(
        (1 - math.cos(math.radians(17))) / (1 - math.cos(math.radians(8.5))), rel=0.05
    )
    assert candela(heron(), "Standard", dimmer=0.25, zoom=17.0) == pytest.approx(narrow / 4, rel=1e-3)
    assert candela(heron(), "Standard", dimmer=1, shutter=0) == 0


def test_cmy_takes_light_of_its_own_colour_and_the_wheel_multiplies():
    plain, _ = frame_of(heron(), "Standard", dimmer=1)
    cyan, _ = frame_of(heron(), "Standard", dimmer=1, cyan=1)
    assert cyan["red"] == pytest.approx(0)
    assert cyan["green"] == pytest.approx(plain["green"])
    red, _ = frame_of(heron(), "Standard", dimmer=1, colour_slot=2)
    assert red["red"] / plain["red"] == pytest.approx(rgb_from_xyy(0.64, 0.335, 0.18)[0], rel=1e-3)
    assert red["blue"] < 0.03 * red["red"]


def test_red_and_green_emitters_add_in_light():
    red, peak = frame_of(dunlin(), "Standard", dimmer=1, red=1, white=0)
    green, _ = frame_of(dunlin(), "Standard", dimmer=1, green=1, white=0)
    both, _ = frame_of(dunlin(), "Standard", dimmer=1, red=1, green=1, white=0)
    for colour in ("red", "green", "blue"):
        assert both[colour] == pytest.approx(red[colour] + green[colour], abs=1e-6)
    # Emitters outside Rec. 709 keep their negative part until they are mixed.
    assert green["red"] < 0
    assert peak > 0


@pytest.mark.parametrize(
    ("text", "name", "numbers"),
    [
        ("amber", "amber", (0.54, 0.42, 52.0)),
        ("Quay 0.40 0.38 71.5", "Quay", (0.40, 0.38, 71.5)),
        ("Quay .40, .38, 71.5 %", "Quay", (0.40, 0.38, 71.5)),
        ("0.2 0.2 30", "Own", (0.2, 0.2, 30.0)),
    ],
)
def test_a_gel_is_typed_in_words_or_with_its_numbers(text, name, numbers):
    gel = parse_gel(text)
    assert gel is not None
    assert (gel.name, (gel.x, gel.y, gel.luminance)) == (name, numbers)


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("no such thing", "names no colour"),
        ("Odd 0.7 0.6 50", "No light has"),
        ("Odd 0.4 0.005 50", "No light has"),
        ("Odd 0.4 0.4 0", "lets through"),
        ("Odd 0.4 0.4 101", "lets through"),
    ],
)
def test_a_gel_that_cannot_be_is_refused_and_says_why(text, word):
    with pytest.raises(JobError, match=word):
        parse_gel(text)
    assert parse_gel("   ") is None


def test_a_gel_colours_the_beams_of_its_fixture_only_and_takes_light_away():
    amber = parse_gel("amber")
    rows = [
        PatchRow("a", bittern(), "Dimmer", 1, 1, (), amber.colour),
        PatchRow("b", bittern(), "Dimmer", 1, 2),
        PatchRow("c", bittern(), "Dimmer", 1, 3, (), Chromaticity(0.3127, 0.329, 50.0)),
    ]
    frame = beam_table(rows).frame(Decoder(compile_rig(rows)).decode(np.full((1, 512), 255, dtype=np.uint8)))
    red = FIELDS.index("red")
    through, plain, half = frame[:, red : red + 3].astype(float)
    # A source's white times what the filter lets through, each in linear Rec. 709 (numbers.md, Colour).
    assert through == pytest.approx(plain * np.clip(rgb_from_xyy(0.54, 0.42, 0.52), 0, 1), rel=1e-5)
    assert half == pytest.approx(plain / 2, rel=1e-2)
