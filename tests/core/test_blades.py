"""Blades laid along an edge: where the light ends is where the edge is, along its whole length."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import Workbench
from zarfwright.core.aiming.blades import Blades, Edge, Line, cut, edge_near
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.optics.photometry import half_field, shape_toward
from zarfwright.core.scene import solids
from zarfwright.library import bittern, curlew


def stage(kind="heron", mode="Extended", x=0.0, y=-6.0, z=8.0):
    """A head 12 m from the edge of a deck that it shines on."""
    bench = Workbench()
    bench.show = replace(bench.show, types={**bench.show.types, "dunlin": curlew()})
    head = bench.made("place free", type=kind, mode=mode, position=[x, y, z])
    deck = bench.made("add deck", name="Quay", width="8m", depth="4m", height="1m", y="US 4")
    bench.do("aim at", ids=[head], point=[0.0, 2.6, 1.0])
    return bench, head, deck


def values_of(bench, head):
    return {head: {**bench.body(head).hands, "dimmer": 1.0}}


def ends_where(bench, head, a, b):
    """How far from the edge (a to b) the light falls to half of what is well inside, metres, at places along it."""
    beams = rig_of(bench.show).beams(values_of(bench, head), {})
    off = []
    a, b = np.array(a), np.array(b)
    # Level, square to the edge, towards the middle of the deck.
    inward = np.cross([0, 0, 1.0], (b - a) / np.linalg.norm(b - a))
    for share in np.linspace(0.0, 1.0, 41):
        at = a + share * (b - a)
        across = at + np.linspace(-0.6, 0.6, 1201)[:, None] * inward
        away = at - beams.apex[0]
        z = float(away @ beams.along[0])
        u = np.array([away @ beams.side[0], away @ beams.upward[0]]) / z / math.tan(half_field(beams.frame[0]))
        if np.linalg.norm(u) > 0.85:
            # The round rim of the gate is near.
            continue
        lit = shape_toward(beams, 0, across)
        if lit.max() < 0.3 or lit.min() > 0.02:
            continue
        half = lit > lit.max() * 0.45
        turns = np.flatnonzero(half[1:] != half[:-1])
        if len(turns) == 1:
            off.append(abs(-0.6 + (turns[0] + 0.5) * 0.001))
    return off


@pytest.mark.parametrize("place", [(0.0, -6.0, 8.0), (3.0, -5.0, 8.5), (-4.0, -6.0, 7.5)])
def test_the_light_ends_at_the_edge_along_its_whole_length(place):
    bench, head, deck = stage(x=place[0], y=place[1], z=place[2])
    bench.do("hold values", ids=[head], values={"zoom": 24.0})
    edit = bench.do("cut to edge", ids=[head], point=[0.2, 2.05, 1.0], thing=deck)
    assert "Cut" in edit.sentence
    off = ends_where(bench, head, (-4.0, 2.0, 1.0), (4.0, 2.0, 1.0))
    assert len(off) > 5
    assert max(off) < 0.010


def test_a_profile_set_by_hand_is_cut_at_the_lamp_and_stays_cut():
    bench, head, deck = stage("dunlin", "Dimmer")
    bench.do("cut to edge", ids=[head], point=[0.2, 2.05, 1.0], thing=deck)
    body = bench.body(head)
    assert any(name.startswith("blade") for name in body.fixed)
    assert not any(name.startswith("blade") for name in body.hands)
    assert max(ends_where(bench, head, (-4.0, 2.0, 1.0), (4.0, 2.0, 1.0))) < 0.010


@settings(max_examples=200)
@given(st.floats(-math.pi, math.pi), st.floats(0.0, 0.69))
def test_a_blade_lies_along_any_line_that_it_can_turn_to(angle, distance):
    able = Blades(math.radians(46.0), 0.0, False)
    found = cut(Line(angle, distance), able, 0.0, set())
    around = math.pi / 2 * (found.blade + 0) + found.turn
    # As optics/gate.py has it: the blade's own middle and the way across it.
    middle = np.array([math.cos(around), math.sin(around)]) * (1 - found.depth)
    across = np.array([math.cos(around + found.angle), math.sin(around + found.angle)])
    assert across == pytest.approx([math.cos(angle), math.sin(angle)], abs=1e-9)
    assert float(middle @ across) == pytest.approx(distance, abs=1e-9)


def test_the_whole_set_turns_where_one_blade_does_not_go_so_far_and_others_hold_it():
    able = Blades(math.radians(30.0), math.radians(60.0), False)
    line = Line(math.radians(40.0 + 90.0), 0.5)
    alone = cut(line, able, 0.0, set())
    assert alone.off == pytest.approx(0.0, abs=1e-9)
    assert math.degrees(alone.turn) == pytest.approx(10.0)
    held = cut(line, able, 0.0, {3})
    assert held.turn == 0.0
    assert math.degrees(held.off) == pytest.approx(10.0)


def test_the_edge_is_the_one_nearest_to_the_click():
    bench, _, deck = stage()
    own = solids(bench.show, [bench.show.items[deck]])
    front = edge_near(own, np.array([1.0, 2.1, 1.0]))
    assert isinstance(front, Edge)
    assert {round(front.a[1], 6), round(front.b[1], 6)} == {2.0}
    assert abs(front.a[0] - front.b[0]) == pytest.approx(8.0)
    side = edge_near(own, np.array([3.9, 4.0, 1.0]))
    assert {round(side.a[0], 6), round(side.b[0], 6)} == {4.0}
    assert edge_near(own, np.array([0.0, 30.0, 0.0])) is None


def test_who_has_no_blades_or_does_not_shine_there_is_told():
    bench, head, deck = stage()
    bench.show = replace(bench.show, types={**bench.show.types, "wash": bittern()})
    plain = bench.made("place free", type="heron", mode="Standard", position=[1, -6, 8])
    bench.do("aim at", ids=[plain], point=[0.0, 2.6, 1.0])
    edit = bench.do("cut to edge", ids=[head, plain], point=[0.2, 2.05, 1.0], thing=deck)
    assert edit.report == ("An unnumbered fixture has no blades.",)
    bench.do("aim at", ids=[head], point=[0.0, -20.0, 0.0])
    with pytest.raises(JobError, match="does not shine on that edge"):
        bench.do("cut to edge", ids=[head], point=[0.2, 2.05, 1.0], thing=deck)
    with pytest.raises(JobError, match="no edge of Quay near"):
        bench.do("cut to edge", ids=[head], point=[0.0, 30.0, 0.0], thing=deck)
