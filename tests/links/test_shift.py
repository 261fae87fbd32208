"""A patch that is shifted against the console's, found from traffic alone: shows by dice, a fifth of them silent."""

import random

import numpy as np
import pytest

from tests.conftest import Workbench
from tests.links.shows import Head, Show
from zarfwright.core.doctor.facts import Facts, Track
from zarfwright.core.doctor.rig import patched
from zarfwright.core.doctor.shift import mode_shift
from zarfwright.library import dunlin, heron

TYPES = {"heron": heron(), "dunlin": dunlin()}
SIZES = {("heron", "Standard"): 16, ("heron", "Extended"): 33, ("dunlin", "Standard"): 11, ("dunlin", "Small"): 7}
OTHER = {"heron": "Extended", "dunlin": "Small"}


def rig(count, seed):
    """Herons and Dunlins in rows, and (type, mode, universe, address) of each."""
    dice, bench, rows = random.Random(seed), Workbench(), []
    universe, address = 1, 1
    while len(rows) < count:
        kind = dice.choice(sorted(TYPES))
        for _ in range(min(dice.choice([2, 4, 6]), count - len(rows))):
            if address + SIZES[kind, "Standard"] > 400:
                universe, address = universe + 1, 1
            key = bench.made("place free", type=kind, mode="Standard", position=[0, 0, 5], number=len(rows) + 1)
            bench.do("address", ids=[key], start=f"{universe}.{address:03d}")
            rows.append((kind, "Standard", universe, address))
            address += SIZES[kind, "Standard"]
    return bench, rows


def as_patched_there(rows, whom):
    """As a console patches them that has some in their other mode: what follows makes room."""
    out, universe, by = [], 0, 0
    for i, (kind, mode, at, address) in enumerate(rows):
        if at != universe:
            universe, by = at, 0
        theirs = OTHER[kind] if i in whom else mode
        out.append((kind, theirs, at, address + by))
        by += SIZES[kind, theirs] - SIZES[kind, mode]
    return out


def heard(rows, seed, seconds=20, silent=0.2, **more):
    dice = random.Random(seed + 99)
    heads = [Head(TYPES[kind], mode, universe, at, dice.random() < silent) for kind, mode, universe, at in rows]
    show, times = Show(heads, seed, **more), np.arange(0, seconds, 1 / 40)
    frames: dict[int, list[list[int]]] = {}
    for at in times:
        for universe, levels in show.levels(at).items():
            frames.setdefault(universe, []).append(levels)
    tracks = {universe: Track(times, np.array(levels, dtype=np.uint8)) for universe, levels in frames.items()}
    return Facts(float(seconds), tracks=tracks), [i for i, head in enumerate(heads) if not head.silent]


def named(bench, cause):
    numbers = {item.id: fixture.number for item, fixture in bench.show.fixtures()}
    return {numbers[key] - 1 for key in cause.fixtures}


@pytest.mark.parametrize("seed", range(5))
def test_a_show_that_plays_as_it_is_patched_raises_nothing(seed):
    bench, rows = rig(10, seed)
    facts, _ = heard(rows, seed)
    assert mode_shift(facts, bench.show, patched(bench.show)) == []


@pytest.mark.parametrize("seed", range(5))
def test_a_type_in_another_mode_is_named_with_its_mode_and_the_edit_puts_it_right(seed):
    bench, rows = rig(10, seed)
    kind = rows[seed][0]
    whom = {i for i, row in enumerate(rows) if row[0] == kind}
    facts, _ = heard(as_patched_there(rows, whom), seed)
    cause = mode_shift(facts, bench.show, patched(bench.show))[0]
    assert named(bench, cause) == whom
    assert f"like mode {OTHER[kind]}" in cause.evidence
    bench.do(cause.edit, **cause.args)
    assert mode_shift(facts, bench.show, patched(bench.show)) == []


@pytest.mark.parametrize("seed", range(5))
def test_one_fixture_in_another_mode_is_named_by_what_follows_it(seed):
    """It may be silent itself: then the one beside it may be named, with what arrives later all the same."""
    bench, rows = rig(10, seed)
    facts, active = heard(as_patched_there(rows, {2}), seed)
    causes = mode_shift(facts, bench.show, patched(bench.show))
    assert causes
    if 2 in active:
        assert named(bench, causes[0]) == {2}
        assert f"mode {OTHER[rows[2][0]]}" in causes[0].evidence


@pytest.mark.parametrize("seed", range(3))
def test_a_run_that_lies_elsewhere_is_told_by_how_many_slots(seed):
    bench, rows = rig(10, seed)
    moved = [(k, m, u, a + (6 if i >= 4 else 0)) for i, (k, m, u, a) in enumerate(rows)]
    facts, _ = heard(moved, seed, silent=0.0)
    cause = mode_shift(facts, bench.show, patched(bench.show))[0]
    assert "arrives 6 slots later" in cause.evidence


def test_stepping_through_the_fixtures_one_by_one_twice_is_enough():
    bench, rows = rig(8, 1)
    facts, _ = heard(as_patched_there(rows, {1}), 1, 16, silent=0.0, identify_s=16.0)
    assert named(bench, mode_shift(facts, bench.show, patched(bench.show))[0]) == {1}


def test_a_static_look_proves_nothing():
    bench, rows = rig(8, 1)
    facts, _ = heard(as_patched_there(rows, {1}), 1, 16)
    still = {u: Track(track.times[:1], track.levels[-1:]) for u, track in facts.tracks.items()}
    assert mode_shift(Facts(20.0, tracks=still), bench.show, patched(bench.show)) == []
