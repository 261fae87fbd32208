"""Bodies that are in each other's way, numbers along what things hang on, and how many fit."""

from dataclasses import replace

import numpy as np
import pytest

from zarfwright.core.errors import JobError
from zarfwright.core.readiness import findings
from zarfwright.core.rig.bodies import in_each_other
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.order import by_place
from zarfwright.core.space import Placement, about
from zarfwright.library import bittern


@pytest.fixture
def truss(bench):
    return bench.made("add truss", length="10m", start_trim="6m", name="Truss 2")


def texts(bench):
    return [one.text for one in findings(bench.show) if one.step == "hang"]


def test_two_lamps_ten_centimetres_apart_are_in_each_other(bench, truss):
    a, b = bench.do("place along rail", structure=truss, rail="lower right", type="heron", count="2", step="1m").select
    assert not any("in each other" in text for text in texts(bench))
    hang = bench.body(a).hang
    bench.do("move", ids=[b], by=[-0.9, 0.0, 0.0])
    assert abs(bench.body(b).hang.along_m - hang.along_m) == pytest.approx(0.1, abs=1e-6)
    (text,) = [text for text in texts(bench) if "in each other" in text]
    assert "0.10 m apart" in text
    # They are told once, not as heads that touch as well.
    assert not any("turn inwards" in text for text in texts(bench))
    # What does not move is looked at too.
    bench.do("remove", ids=[a, b])
    bench.show = replace(bench.show, types={**bench.show.types, "dunlin": bittern()})
    bench.do("place along rail", structure=truss, rail="lower right", type="dunlin", count="2", step="0.34m")
    assert not any("in each other" in text for text in texts(bench))
    pars = [item.id for item, _ in bench.show.fixtures()]
    bench.do("move", ids=[pars[1]], by=[-0.2, 0.0, 0.0])
    assert any("in each other" in text for text in texts(bench))


def test_boxes_touch_or_are_in_each_other_by_how_much():
    box = (np.array([-0.5, -0.1, -0.2]), np.array([0.5, 0.1, 0.2]))
    here = Placement()
    assert in_each_other(box, here, box, Placement((1.01, 0, 0))) == 0
    assert in_each_other(box, here, box, Placement((0.9, 0, 0))) == pytest.approx(0.1)
    assert in_each_other(box, here, box, Placement((0, 0.15, 0))) == pytest.approx(0.05)
    # Turned by a quarter, the long side lies across: 0.5 + 0.1 from middle to middle.
    turned = Placement((0.58, 0, 0), tuple(about((0, 0, 1), np.pi / 2)))
    assert in_each_other(box, here, box, turned) == pytest.approx(0.02)
    assert in_each_other(box, here, box, Placement((0.62, 0, 0), turned.rotation)) == 0
    # Corner to corner: only the edges' own axes tell them apart.
    tilted = tuple(about((1, 1, 0), 0.9))
    assert in_each_other(box, here, box, Placement((0.7, 0.5, 0.3), tilted)) == 0


def test_more_than_fit_are_refused_with_how_many_do(bench, truss):
    with pytest.raises(JobError, match=r"300 do not fit on 10.00 m: each is 0.30 m wide, and 34 fit side by side"):
        bench.do("place along rail", structure=truss, rail="lower right", type="heron", count="300")
    lamps = bench.do("place along rail", structure=truss, rail="lower right", type="heron", count="12").select
    with pytest.raises(JobError, match=r"12 do not fit on 1\.00 m of this rail: 4 do"):
        bench.do("arrange", ids=lamps, guide="rail", structure=truss, rail="lower right", rail_to="1m")


def test_carriers_with_one_number_are_found(bench, truss):
    first = bench.made("make carrier", ids=[truss], name="Left", number="3")
    bench.made("make carrier", ids=[bench.made("add deck")], name="Right", number="3")
    (text,) = [text for text in texts(bench) if "one number" in text]
    assert "Left and Right" in text
    assert first


def numbers(bench, ids):
    return [bench.body(one).number for one in ids]


def test_by_place_goes_round_a_ring_and_along_a_structure(bench):
    ring = bench.made("add truss", form="arc", diameter="5m", start_trim="6m", end_trim="6m")
    lamps = bench.do("place along rail", structure=ring, rail="lower outer", type="dunlin", count="8").select
    bench.do("number", ids=lamps[::-1], start="1", order="place")
    assert numbers(bench, lamps) == list(range(1, 9))
    # Lamps that only lie on a circle are counted round it too: upstage first, then by stage right.
    free = []
    for k in (5, 2, 7, 0, 3, 6, 1, 4):
        angle = np.radians(45 * k)
        place = [1.0 - 2.0 * float(np.sin(angle)), 2.0 + 2.0 * float(np.cos(angle)), 5.0]
        free.append((k, bench.do("place free", type="dunlin", mode="Standard", position=place).select[0]))
    bench.do("number", ids=[one for _, one in free], start="11", order="place")
    assert [bench.body(one).number for _, one in sorted(free)] == list(range(11, 19))


def test_a_bow_is_counted_across_the_stage(bench):
    lamps = []
    for x in (4, -4, 0, 2, -2):
        place = [float(x), 0.1 * x * x, 5.0]
        lamps.append(bench.do("place free", type="dunlin", mode="Standard", position=place).select[0])
    bench.do("number", ids=lamps, start="1", order="place")
    assert numbers(bench, lamps) == [5, 1, 3, 4, 2]


def test_rail_by_rail_numbers_one_structure_after_the_other(bench, truss):
    other = bench.made("add truss", length="10m", start_trim="6m", y="US 4")
    first = bench.do("place along rail", structure=truss, rail="lower right", type="dunlin", count="3").select
    second = bench.do("place along rail", structure=other, rail="lower right", type="dunlin", count="3").select
    bench.do("number", ids=[*second, *first], start="1", order="rail")
    assert sorted(numbers(bench, first)) == [1, 2, 3]
    assert sorted(numbers(bench, second)) == [4, 5, 6]
    # From stage right, whichever way the rail runs.
    xs = [clamp_placement(bench.show, bench.body(one)).position[0] for one in first]
    assert [n for _, n in sorted(zip(xs, numbers(bench, first), strict=True))] == [1, 2, 3]
    keys = by_place(bench.show, [(bench.show.items[i], bench.body(i)) for i in (*first, *second)])
    assert len(keys) == 6
