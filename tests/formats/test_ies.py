"""IES: every symmetry, multipliers, and files that are cut short, of another type, or none."""

import math
from contextlib import suppress

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zarfwright.core.optics.web import Web
from zarfwright.formats.findings import FormatError
from zarfwright.formats.ies import read_ies, write_ies


def ies(gammas, phis, rows, *, factor=1, ballast=1, lumens=-1, tilt="NONE", kind=1, before=""):
    body = "\n".join(" ".join(str(v) for v in row) for row in rows)
    angles = " ".join(map(str, gammas)) + "\n" + " ".join(map(str, phis))
    head = f"1 {lumens} {factor} {len(gammas)} {len(phis)} {kind} 2 0 0 0\n{ballast} 1 100"
    return f"IESNA:LM-63-1995\n[TEST] made up\nTILT={tilt}\n{before}{head}\n{angles}\n{body}\n".encode()


def test_round_photometry_is_the_same_all_round_and_straight_between_angles():
    web, findings = read_ies(ies([0, 30, 90], [0], [[1000, 400, 0]], factor=2, ballast=0.5), "a.ies")
    assert findings == []
    assert web.toward(np.radians([0, 15, 60]), [0.3, 2.0, 5.5]) == pytest.approx([1000, 700, 200])
    assert web.toward(math.radians(100), 0.0) == 0


@pytest.mark.parametrize(
    ("phis", "rows", "wanted"),
    [
        ([0, 90], [[100, 10], [200, 20]], {0: 10, 90: 20, 180: 10, 270: 20, 45: 15, 135: 15}),
        ([0, 90, 180], [[1, 10], [2, 20], [3, 30]], {0: 10, 90: 20, 180: 30, 270: 20, 225: 25}),
        ([0, 90, 180, 270], [[1, 10], [2, 20], [3, 30], [4, 40]], {0: 10, 270: 40, 315: 25}),
        ([0, 180, 360], [[1, 10], [2, 20], [1, 10]], {90: 15, 270: 15}),
        ([90, 180, 270], [[1, 10], [2, 20], [3, 30]], {90: 10, 180: 20, 270: 30, 0: 20, 45: 15}),
    ],
)
def test_symmetry_is_told_by_the_horizontal_angles(phis, rows, wanted):
    web, _ = read_ies(ies([0, 45], phis, rows), "a.ies")
    for degrees, candela in wanted.items():
        assert web.toward(math.radians(45), math.radians(degrees)) == pytest.approx(candela), degrees


def test_flux_and_angles_are_those_of_the_closed_form():
    # An even lamp over a hemisphere: 2 pi I; one that falls as the cosine: pi I.
    even, _ = read_ies(ies([0, 45, 90], [0], [[100, 100, 100]]), "a.ies")
    assert even.flux_lm == pytest.approx(2 * math.pi * 100, rel=5e-3)
    gammas = list(range(0, 91, 2))
    cosine, _ = read_ies(ies(gammas, [0], [[1000 * math.cos(math.radians(g)) for g in gammas]]), "a.ies")
    assert cosine.flux_lm == pytest.approx(math.pi * 1000, rel=5e-3)
    assert cosine.angle_deg(0.5) == pytest.approx(120, abs=0.5)


def test_what_is_odd_is_found_and_the_file_still_used():
    web, findings = read_ies(
        ies([0, 90], [0], [[1000, 1000]], tilt="INCLUDE", before="1\n3\n0 45 90\n1 .95 .9\n", lumens=100), "a.ies"
    )
    assert web.peak_cd == 1000
    assert [finding.where for finding in findings] == ["TILT", "Lumens"]


def test_a_web_comes_back_as_it_was_written():
    phi = np.radians(np.arange(0, 361, 30.0))
    gamma = np.radians(np.arange(0, 91, 5.0))
    web = Web(gamma, phi, 500 * (1 + 0.3 * np.cos(phi))[:, None] * np.cos(gamma)[None])
    back, _ = read_ies(write_ies(web, "made up"), "a.ies")
    assert back.candela == pytest.approx(web.candela, abs=0.01)
    assert back.table == pytest.approx(web.table, abs=1e-4)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"PK\x03\x04", "no line TILT="),
        (b"TILT=NONE\n1 2 3", "cut short"),
        (b"TILT=NONE\n" + b"a b c " * 8, "no IES file"),
        (ies([0, 90], [0], [[1, 1]], kind=4), "type 4"),
        (ies([0, 90], [0, 45], [[1, 1], [1, 1]]), "no symmetry"),
        (ies([0, 90], [0], [[-1, 1]]), "below zero"),
        (ies([0, 90], [0], [[0, 0]]), "no light"),
        (ies([0, 90], [0], [[1e200, 0]]), "more than any lamp"),
        (ies([0, 90, 80], [0], [[1, 1, 1]]), "do not rise"),
        (ies([0, 90], [0], [[1, "nan"]]), "not finite"),
        (ies([0, 10], list(range(4000)), [[1, 1]]), "cut short"),
        (ies([0, 90], [0], [[1, 1]], tilt="INCLUDE", before="1\n-3\n0 45 90\n1 .95 .9\n"), "has -3 angles of tilt"),
        (ies([0, 90], [0], [[1, 1]], tilt="INCLUDE", before="1\n2.5\n0 45\n1 .9\n"), "has 2.5 angles of tilt"),
        (ies([0, 90], [0], [[1, 1]], tilt="INCLUDE", before="1\n1e18\n0 45\n1 .9\n"), "angles of tilt: it is damaged"),
        (b"TILT=NONE\n1 -1 1 -2 1 1 2 0 0 0 1 1 0 0 90 0 1 1", "has -2 vertical angles"),
    ],
)
def test_what_cannot_be_used_is_refused_with_a_reason(data, says):
    with pytest.raises(FormatError, match=says):
        read_ies(data, "a.ies")


@settings(max_examples=300)
@given(
    st.sampled_from(("NONE", "INCLUDE", "other.ies")),
    st.lists(st.sampled_from((0, 1, 2, 3, 13, 45, 90, 180, -1, -13, 0.5, 1e9, 1e18, -1e18, 1e300)), max_size=40),
)
def test_no_numbers_do_harm(tilt, numbers):
    data = f"TILT={tilt}\n{' '.join(map(str, numbers))}\n".encode()
    with suppress(FormatError):
        read_ies(data, "a.ies")


@pytest.mark.parametrize("encoding", ["utf-16", "utf-16-le", "utf-16-be", "utf-8-sig"])
def test_a_file_in_any_encoding_is_read(encoding):
    text = ies([0, 30, 90], [0], [[1000, 400, 0]]).decode()
    assert read_ies(text.encode(encoding), "a.ies")[0].info.peak_cd == 1000


def test_words_behind_the_last_number_are_passed_over_and_said():
    web, findings = read_ies(ies([0, 30, 90], [0], [[1000, 400, 0]]) + b"end of file, checked by hand\n", "a.ies")
    assert web.info.peak_cd == 1000
    assert [found.what for found in findings] == ["behind the last number stands “end of file checked by”"]
    cut = ies([0, 30, 90], [0], [[1000, 400, 0]]).replace(b"400", b"none")
    with pytest.raises(FormatError, match=r"cut short .“none 0” stands where a number should"):
        read_ies(cut, "a.ies")


def falling(degrees: float) -> float:
    return 1000 * max(math.cos(math.radians(degrees)), 0.0) ** 4


@pytest.mark.parametrize("kind", [2, 3])
def test_a_round_beam_is_the_same_in_every_type_of_photometry(kind):
    angles = list(range(-90, 91, 3))
    rows = []
    for h in angles:
        # Types A and B alike: the cosine to the axis is that of H times that of V.
        off = [math.degrees(math.acos(math.cos(math.radians(h)) * math.cos(math.radians(v)))) for v in angles]
        rows.append([falling(one) for one in off])
    web, findings = read_ies(ies(angles, angles, rows, kind=kind), "a.ies")
    assert "brought to the angles of type C" in findings[0].done
    for gamma in (0, 10, 25, 50):
        for phi in (0.0, 0.7, 2.0, 4.0):
            assert web.toward(math.radians(gamma), phi) == pytest.approx(falling(gamma), abs=4), (gamma, phi)


def test_types_a_and_b_turn_about_other_axes():
    # Light only near V = 20, whatever H is: a sheet. Type B turns it about the horizontal axis, so it holds the axis.
    angles = list(range(-60, 61, 5))
    rows = [[100.0 if v == 20 else 0.0 for v in angles] for _ in angles]
    b, _ = read_ies(ies(angles, angles, rows, kind=2), "b.ies")
    a, _ = read_ies(ies(angles, angles, rows, kind=3), "a.ies")
    h, v = math.radians(40), math.radians(20)
    of_b = (math.sin(h), math.sin(v) * math.cos(h), math.cos(v) * math.cos(h))
    of_a = (math.sin(h) * math.cos(v), math.sin(v), math.cos(h) * math.cos(v))
    for web, own, other in ((b, of_b, of_a), (a, of_a, of_b)):
        seen = [web.toward(math.acos(z), math.atan2(y, x) % (2 * math.pi)) for x, y, z in (own, other)]
        assert seen[0] > 60
        assert seen[1] < 40
