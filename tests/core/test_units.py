"""Lengths and angles as people type them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zarfwright.core.errors import JobError
from zarfwright.core.units import format_length, parse_angle_deg, parse_count, parse_length, parse_typed


@pytest.mark.parametrize(
    ("text", "metres"),
    [
        ("6", 6.0),
        ("6m", 6.0),
        ("450mm", 0.45),
        ("45 cm", 0.45),
        ("20ft", 6.096),
        ("20'6\"", 6.2484),
        ("20ft 6in", 6.2484),
        ("18in", 0.4572),
        ("1,5", 1.5),
        ("2*1.2m + 30cm", 2.7),
        ("(2+1)*2", 6.0),
        ("(2+1)m", 3.0),
        ("7.5m/2", 3.75),
        ("-2", -2.0),
    ],
)
def test_a_length_takes_units_and_arithmetic(text, metres):
    assert parse_length(text) == pytest.approx(metres, abs=1e-12)


def test_a_bare_number_is_in_the_shows_own_unit():
    assert parse_length("20", "imperial") == pytest.approx(6.096)
    assert parse_length("6m", "imperial") == 6.0


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "Nothing was typed"),
        ("wide", "stands where a number belongs"),
        ("6 cubits", "the unit “cubits” is not known"),
        ("6m*2m", "multiplies or divides"),
        ("6m + 2", "one part has a unit"),
        ("6 / 0", "divides by nothing"),
        ("(2", "bracket"),
        ("3 4", "does not belong"),
        ("5€", "does not belong"),
        ("99999999", "10 km"),
    ],
)
def test_a_wrong_length_is_told_with_what_to_type(text, says):
    with pytest.raises(JobError) as wrong:
        parse_length(text)
    assert says in str(wrong.value)
    assert "450mm" in str(wrong.value) or "10 km" in str(wrong.value)


@given(st.floats(-9000, 9000))
def test_feet_and_inches_read_back_to_a_thirty_second_of_an_inch(metres):
    assert abs(parse_length(format_length(metres, "imperial"), "imperial") - metres) <= 0.0254 / 32 + 1e-9


def test_relative_spread_and_absolute_are_told_apart():
    assert parse_typed("+1.5").values([1.0, 2.0]) == [2.5, 3.5]
    assert parse_typed("-50cm").values([1.0]) == [0.5]
    assert parse_typed("-4.2 to 7").values([0.0, 0.0, 0.0]) == pytest.approx([-4.2, 1.4, 7.0])
    assert parse_typed("=-4").values([9.0]) == [-4.0]


def test_the_sides_of_the_stage_stand_for_signs():
    assert parse_typed("SR 4.2", axis="x").values([0.0]) == [-4.2]
    assert parse_typed("1.5m US", axis="y").values([0.0]) == [1.5]
    assert parse_typed("ds 1 to us 3", axis="y").values([0.0, 0.0]) == [-1.0, 3.0]
    with pytest.raises(JobError, match="another axis"):
        parse_typed("US 2", axis="x")


def test_angles_and_counts():
    assert parse_angle_deg("22.5°") == 22.5
    assert parse_angle_deg("3.14159265359 rad") == pytest.approx(180)
    assert parse_count(" 12 ") == 12
    for text in ("0", "1.5", "many", "-3", "999999999999"):
        with pytest.raises(JobError, match="whole number"):
            parse_count(text)


@pytest.mark.parametrize(
    ("text", "quantity", "wanted"),
    [
        ("+1.5", "length", 11.5), ("-1.5", "length", 8.5), ("=-4", "length", -4), ("SR 4", "length", -4),
        ("-=1.5", "length", 8.5), ("+= 50cm", "length", 10.5), ("−2", "length", 8), ("4", "length", 4),
        ("-30", "angle", -30), ("+30", "angle", 30), ("+=30", "angle", 40), ("-=30", "angle", -20),
        ("=-5", "angle", -5), ("-=-5", "angle", 15), ("-20 to 20", "angle", 0),
    ],
)  # fmt: skip
def test_a_sign_changes_a_length_and_belongs_to_an_angle(text, quantity, wanted):
    assert parse_typed(text, quantity, "metric", "x").values([10.0]) == [pytest.approx(wanted)]
