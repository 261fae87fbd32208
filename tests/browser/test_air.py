"""Shafts in the air against a numeric integral of single scattering: from the side, into the beam, from inside it and
from behind the lamp."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from tests.browser.test_light import Bench
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.haze import scattered
from zarfwright.library import dunlin, heron

HAZE = 0.03
SKIP = 7
VIEWS = {
    "from the side": ([6.0, -5.0, 4.0], [0.0, 0.0, 4.0]),
    "into the beam": ([2.3, -1.4, 0.6], [0.1, 0.0, 7.0]),
    "from inside it": ([0.25, -0.2, 1.4], [0.05, 0.1, 7.0]),
    "from behind": ([1.6, -1.2, 10.5], [0.0, 0.0, 3.0]),
}
HARD = {"plain": {"zoom": 20.0}, "iris": {"zoom": 26.0, "iris": 0.45}}
BLADES = {"zoom": 24.0, "blade 1": 0.7, "blade 3": 0.5, "blade 3 angle": 0.2, "blades turn": 0.3}


def seen(bench: Bench, view: str, step: str, kind: str) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Luminance, ways and reach of a pane's texels, and the eye."""
    bench.look_from(*VIEWS[view])
    read: dict[str, Any] = bench.person.stage("air", "main", step, kind)
    light = np.array(read["luminance"]).reshape(-1, 3) @ LUMINANCE
    away = np.array(read["away"])
    eye = np.array(bench.person.report()["panes"][0]["eye"])
    return light, np.array(read["ways"]).reshape(-1, 3), np.where(away > 0, away, 400.0), eye


def held_against(bench: Bench, said: dict[str, float], view: str, kind: str = "plain", step: str = "Pattern"):
    """The median of picture over integral where there is light, and the ratio of the sums."""
    got, ways, away, eye = seen(bench, view, step, kind)
    # The integral takes far longer than the picture: every seventh texel tells as much.
    got, ways, away = got[::SKIP], ways[::SKIP], away[::SKIP]
    beams = bench.beams(said)
    wanted = scattered(beams, 0, eye, ways, away, HAZE) * float(beams.colour_cd(0) @ LUMINANCE)
    bright = wanted > 0.03 * wanted.max()
    assert np.count_nonzero(bright) > 20
    return float(np.median(got[bright] / wanted[bright])), float(got.sum() / wanted.sum())


def check(bench: Bench, cases: dict[str, dict[str, float]], kind: str) -> None:
    found = {}
    for name, values in cases.items():
        said = bench.hold(**values)
        for view in VIEWS:
            found[f"{name}, {view}"] = held_against(bench, said, view, kind)
    report = "\n".join(f"{name:28s} median {m:.3f}  sum {s:.3f}" for name, (m, s) in found.items())
    print(report)
    assert all(abs(m - 1) < 0.05 and abs(s - 1) < 0.10 for m, s in found.values()), report


@pytest.fixture
def bench(measured, request):
    made = measured(Bench).hang(*request.param)
    made.do("set show", haze_per_m=HAZE, haze_uneven=0.0)
    return made


@pytest.mark.timeout(300)
@pytest.mark.parametrize("bench", [(heron, "Extended")], indirect=True)
def test_the_shaft_of_a_hard_edge_is_as_bright_as_single_scattering_from_every_side(bench):
    check(bench, HARD, "plain")
    check(bench, {"blades": BLADES}, "gate")
    # Without patterns in the air a shaft has no more light than its gate lets through.
    said = bench.hold(**BLADES)
    _, whole = held_against(bench, said, "from the side", "plain", "Air")
    assert whole == pytest.approx(1.0, abs=0.1)


@pytest.mark.timeout(300)
@pytest.mark.parametrize("bench", [(dunlin, "Standard")], indirect=True)
def test_the_shaft_of_a_soft_edge_is_as_bright_as_single_scattering_from_every_side(bench):
    check(bench, {"soft": {"zoom": 20.0, "red": 1.0, "green": 0.6, "blue": 0.4, "white": 0.2}}, "plain")
