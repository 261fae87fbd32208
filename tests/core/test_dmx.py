"""Decoding: golden values worked by hand, a slow literal decoder written from the rules, and the way back."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.literal import literal
from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.encode import encode
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.dmx.merge import SILENT, merge
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.drive import CONSOLE, HANDS, HOME, LOOK, settle
from zarfwright.library import dunlin, heron

HERON, DUNLIN = heron(), dunlin()


def decode_one(fixture_type, mode, slots, address=1):
    rig = compile_rig([PatchRow("a", fixture_type, mode, 1, address)])
    levels = np.zeros((1, 512), dtype=np.uint8)
    levels[0, address - 1 : address - 1 + len(slots)] = list(slots)
    return dict(zip(INDEX, Decoder(rig).decode(levels)[0], strict=True))


def test_golden_values_of_the_wash_worked_by_hand():
    # Pan 16 bit from -270 to 270 degrees: 0x8000 of 0xFFFF is a hair above the middle.
    got = decode_one(DUNLIN, "Standard", [0x80, 0x00, 0xFF, 0xFF, 51, 40, 255, 0, 102, 0, 0])
    assert got["pan"] == pytest.approx(math.radians(-270 + 540 * 32768 / 65535))
    assert got["tilt"] == pytest.approx(math.radians(120))
    assert got["dimmer"] == pytest.approx(0.2)
    assert (got["red"], got["green"], got["blue"], got["white"]) == pytest.approx((1.0, 0.0, 0.4, 0.0))
    assert got["zoom"] == pytest.approx(12.0)
    assert (got["shutter"], got["strobe"]) == (1.0, 0.0)


@pytest.mark.parametrize(
    ("raw", "shutter", "strobe"),
    [
        (0, 0, 0),
        (19, 0, 0),
        (20, 1, 0),
        (63, 1, 0),
        (64, 1, 0.5),
        (223, 1, 20.0),
        (144, 1, 0.5 + 19.5 * 80 / 159),
        (224, 1, 0),
        (255, 1, 0),
    ],
)
def test_the_shutter_is_closed_open_or_strobing_by_range(raw, shutter, strobe):
    got = decode_one(DUNLIN, "Standard", [0] * 5 + [raw])
    assert got["shutter"] == shutter
    assert got["strobe"] == pytest.approx(strobe)


@pytest.mark.parametrize(("raw", "slot"), [(0, 1), (31, 1), (32, 2), (100, 4), (255, 8)])
def test_a_colour_wheel_steps_from_slot_to_slot(raw, slot):
    assert decode_one(HERON, "Standard", [0] * 9 + [raw])["colour slot"] == slot


@settings(max_examples=150)
@given(
    st.sampled_from([(HERON, "Standard"), (HERON, "Extended"), (DUNLIN, "Standard"), (DUNLIN, "Small")]),
    st.binary(min_size=40, max_size=40),
)
def test_the_fast_decoder_does_what_the_rules_say(kind, slots):
    fixture_type, mode = kind
    got = decode_one(fixture_type, mode, slots, address=200)
    for name, value in literal(fixture_type, mode, slots).items():
        assert got[name] == pytest.approx(value, abs=1e-9), name


@given(st.floats(-4.7, 4.7), st.floats(-2.0, 2.0), st.floats(0, 1), st.floats(7, 42))
def test_decode_undoes_encode_to_half_a_step(pan, tilt, dimmer, zoom):
    got = decode_one(
        HERON,
        "Standard",
        encode(HERON, HERON.mode("Standard"), {"pan": pan, "tilt": tilt, "dimmer": dimmer, "zoom": zoom}),
    )
    assert abs(got["pan"] - pan) <= math.radians(540) / 65535 / 2 + 1e-9
    assert abs(got["tilt"] - tilt) <= math.radians(270) / 65535 / 2 + 1e-9
    assert abs(got["dimmer"] - dimmer) <= 1 / 255 / 2 + 1e-9
    assert abs(got["zoom"] - zoom) <= 35 / 65535 / 2 + 1e-9


def test_home_is_dark_open_straight_down():
    rig = compile_rig([PatchRow("a", HERON, "Standard", None, None)])
    home = dict(zip(INDEX, rig.home[0], strict=True))
    assert (home["dimmer"], home["shutter"], home["iris"]) == (0, 1, 1)
    assert abs(home["pan"]) < 1e-3
    assert home["zoom"] == pytest.approx(17.0, abs=0.001)


def test_many_fixtures_over_universes_decode_each_from_its_own_slots():
    rows = [PatchRow(f"h{i}", HERON, "Standard", 1 + i % 3, 1 + 16 * (i // 3)) for i in range(30)]
    rows += [PatchRow(f"d{i}", DUNLIN, "Small", 7, 1 + 7 * i) for i in range(10)] + [
        PatchRow("free", DUNLIN, "Small", None, None)
    ]
    rig = compile_rig(rows)
    assert rig.universes == (1, 2, 3, 7)
    levels = np.random.default_rng(5).integers(0, 256, (4, 512), dtype=np.uint8)
    got = Decoder(rig).decode(levels)
    for r, row in enumerate(rows[:-1]):
        slots = levels[rig.universes.index(row.universe), row.address - 1 :]
        for name, value in literal(row.type, row.mode, slots).items():
            assert got[r, INDEX[name]] == pytest.approx(value, abs=1e-9)
    assert got[-1] == pytest.approx(rig.home[-1], nan_ok=True)


def test_merge_takes_the_highest_priority_then_the_highest_level_and_holds_without_any():
    levels = np.zeros((3, 512), dtype=np.uint8)
    levels[:, 0], levels[:, 1] = (10, 200, 50), (90, 5, 60)
    priorities = np.repeat(np.array([[100], [90], [100]], dtype=np.int16), 512, axis=1)
    priorities[:, 2] = SILENT
    out, winner = merge(levels, priorities, np.full(512, 77, dtype=np.uint8))
    assert out[:4].tolist() == [50, 90, 77, 0]
    assert winner[:4].tolist() == [2, 0, SILENT, 0]


@given(st.lists(st.tuples(st.integers(-1, 200), st.integers(0, 255)), min_size=1, max_size=6), st.integers(0, 255))
def test_each_slot_merges_as_the_rule_says_in_words(sources, held):
    """Against the rule for one slot, said plainly: of the highest priority, the highest level; else what was held."""
    levels = np.array([[level] * 512 for _, level in sources], dtype=np.uint8)
    priorities = np.array([[priority] * 512 for priority, _ in sources], dtype=np.int16)
    out, winner = merge(levels, priorities, np.full(512, held, dtype=np.uint8))
    top = max(priority for priority, _ in sources)
    best = max(level for priority, level in sources if priority == top)
    assert out[0] == (held if top < 0 else best)
    assert winner[0] == (SILENT if top < 0 else sources.index((top, best)))


def test_hands_win_over_console_over_look_over_home():
    home, nothing = np.zeros((4, 3)), np.full((4, 3), np.nan)
    look, hands = nothing.copy(), nothing.copy()
    look[1:] = 1.0
    hands[3, 0] = 9.0
    shown, driver = settle(home, look, np.full((4, 3), 2.0), np.array([False, False, True, True]), hands)
    assert shown.tolist() == [[0, 0, 0], [1, 1, 1], [2, 2, 2], [9, 2, 2]]
    assert driver.tolist() == [HOME, LOOK, CONSOLE, HANDS]
