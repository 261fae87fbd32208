"""Palettes: kept, given to whoever it is, kept anew for all who have them, and alive after a change of type."""

from __future__ import annotations

import pytest

from tests.core.test_focus import beam, looks_at
from zarfwright.core.aiming.colour import off
from zarfwright.core.aiming.coloured import shown_xy
from zarfwright.core.errors import JobError


@pytest.fixture
def rig(bench):
    truss = bench.made("add truss", length="12m", start_trim="7m", y="DS 2")
    herons = list(bench.do("place along rail", structure=truss, type="heron", mode="Extended", count="3").select)
    washes = list(
        bench.do(
            "place along rail", structure=truss, rail="lower left", type="dunlin", mode="Standard", count="3"
        ).select
    )
    return herons, washes


def xy_of(bench, fixture):
    return shown_xy(bench.show, fixture, {fixture: bench.body(fixture).hands})


def test_a_colour_is_mixed_anew_by_each_type_and_kept_anew_for_all_who_have_it(bench, rig):
    herons, washes = rig
    bench.do("set colour", ids=herons, x=0.46, y=0.41)
    warm = next(c.id for c in bench.do("keep palette", ids=herons, sort="colour", name="Warm").changes)
    bench.do("apply palette", id=warm, ids=[*herons, *washes])
    assert all(off(xy_of(bench, one), (0.46, 0.41)) < 0.002 for one in (*herons, *washes))
    bench.do("set colour", ids=herons[:1], x=0.30, y=0.32)
    # Who was given another colour since no longer has it.
    assert "colour" not in bench.body(herons[0]).palettes
    edit = bench.do("update palette", id=warm, ids=herons[:1])
    assert "5 fixtures had" in edit.sentence
    assert all(off(xy_of(bench, one), (0.30, 0.32)) < 0.003 for one in (*herons, *washes))


def test_a_position_of_a_focus_point_is_for_whoever_comes_later(bench, rig):
    herons, washes = rig
    point = bench.made("add focus point", name="Lectern", point=[1.0, 4.0, 1.6])
    bench.do("aim at", ids=herons[:1], focus=point)
    there = next(c.id for c in bench.do("keep palette", ids=herons[:1], sort="position", name="Lectern").changes)
    assert bench.body(there).focus == point
    bench.do("set field", ids=[point], field="x", text="SR 2")
    bench.do("apply palette", id=there, ids=[herons[2], *washes])
    assert all(looks_at(bench, one, (-2.0, 4.0, 1.6)) for one in (herons[2], *washes))
    # They follow the point, as all that are aimed at it do.
    bench.do("set field", ids=[point], field="z", text="2.5m")
    assert all(looks_at(bench, one, (-2.0, 4.0, 2.5)) for one in (herons[2], *washes))


def test_a_position_without_a_point_keeps_each_where_it_looked(bench, rig):
    herons, _ = rig
    bench.do("aim at", ids=herons[:2], point=[3.0, 3.0, 0.0], to=[-3.0, 3.0, 0.0], pattern="line")
    bench.do("turn heads", ids=herons[2:], feature="tilt", text="33")
    ways = [beam(bench, one)[1] for one in herons]
    spread = next(c.id for c in bench.do("keep palette", ids=herons, sort="position").changes)
    bench.do("aim at", ids=herons, point=[0.0, 6.0, 1.0])
    bench.do("apply palette", id=spread, ids=herons)
    for one, way in zip(herons, ways, strict=True):
        assert beam(bench, one)[1] == pytest.approx(way, abs=1e-5)
    with pytest.raises(JobError, match="are not in it"):
        bench.do("apply palette", id=spread, ids=[bench.made("place free", type="heron", position=[0, 0, 5])])


def test_a_beam_is_given_to_who_can_do_it_and_the_rest_is_told(bench, rig):
    herons, washes = rig
    bench.do("hold values", ids=herons, values={"zoom": 20.0, "iris": 0.6, "gobo slot": 2.0})
    tight = next(c.id for c in bench.do("keep palette", ids=herons, sort="beam", name="Tight").changes)
    edit = bench.do("apply palette", id=tight, ids=washes)
    assert bench.body(washes[0]).hands["zoom"] == 20.0
    assert "iris" not in bench.body(washes[0]).hands
    assert "have no" in edit.report[0]
    assert "iris" in edit.report[0]


def test_palettes_survive_a_change_of_type(bench, rig):
    herons, _ = rig
    point = bench.made("add focus point", name="Font", point=[0.5, 4.0, 1.2])
    bench.do("aim at", ids=herons, focus=point)
    bench.do("set colour", ids=herons, x=0.40, y=0.38)
    kept = [
        next(c.id for c in bench.do("keep palette", ids=herons, sort=sort).changes) for sort in ("position", "colour")
    ]
    for one in kept:
        bench.do("apply palette", id=one, ids=herons)
    bench.do("swap type", ids=herons, type="dunlin")
    for one in herons:
        assert bench.body(one).palettes == {"position": kept[0], "colour": kept[1]}
        assert looks_at(bench, one, (0.5, 4.0, 1.2))
        assert off(xy_of(bench, one), (0.40, 0.38)) < 0.002
