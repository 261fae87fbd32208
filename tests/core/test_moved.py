"""What somebody touches is found among what moves anyway; what a slot means is said in words."""

import numpy as np
import pytest

from tests.conftest import Workbench
from zarfwright.core.dmx.moved import LATELY_S, USUAL_S, Moves
from zarfwright.core.meaning import meanings


def universes(*numbers):
    return {number: np.zeros(512, dtype=np.uint8) for number in numbers}


def put(levels, universe, slot, level):
    levels[universe] = levels[universe].copy()
    levels[universe][slot - 1] = level


def test_a_touched_slot_is_found_among_effects_and_forgotten_after_a_while():
    levels, moves = universes(1, 3), Moves(0.0)
    for tick in range(60):
        put(levels, 1, 7, tick)
        moves.take(levels, tick / 20)
    assert moves.lately(3.0) == []
    assert moves.usual() == 1
    for level in (40, 200, 10):
        put(levels, 3, 512, level)
        moves.take(levels, 3.1)
    (found,) = moves.lately(3.3)
    assert (found.universe, found.slot, found.low, found.high) == (3, 512, 0, 200)
    assert found.ago_s == pytest.approx(0.2)
    assert moves.lately(3.2 + LATELY_S) == []
    put(levels, 3, 512, 90)
    moves.take(levels, 20.0)
    assert [(one.low, one.high) for one in moves.lately(20.0)] == [(10, 90)], "what was long ago is not lately"


def test_the_last_that_moved_comes_first_and_no_more_than_asked():
    levels, moves = universes(1), Moves(0.0)
    moves.take(levels, 0.0)
    for at, slot in ((USUAL_S + 1, 20), (USUAL_S + 2, 10), (USUAL_S + 2, 11)):
        put(levels, 1, slot, 255)
        moves.take(levels, at)
    assert [one.slot for one in moves.lately(USUAL_S + 2)] == [10, 11, 20]
    assert [one.slot for one in moves.lately(USUAL_S + 2, most=1)] == [10]


def test_a_universe_that_comes_has_not_moved_and_one_that_stays_is_not_forgotten():
    levels, moves = universes(2), Moves(0.0)
    moves.take(levels, 0.0)
    put(levels, 2, 1, 9)
    moves.take(levels, 5.0)
    levels[1] = np.full(512, 255, dtype=np.uint8)
    moves.take(levels, 5.1)
    assert [(one.universe, one.slot) for one in moves.lately(5.2)] == [(2, 1)]
    del levels[1]
    moves.take(levels, 5.2)
    assert [(one.universe, one.slot) for one in moves.lately(5.3)] == [(2, 1)]
    moves.take({}, 5.3)
    assert moves.lately(5.4) == []


def test_strips_show_the_highest_of_eight_slots_and_whether_one_moved():
    levels, moves = universes(4), Moves(0.0)
    moves.take(levels, 0.0)
    put(levels, 4, 9, 200)
    put(levels, 4, 16, 31)
    moves.take(levels, 2.0)
    numbers, strips = moves.strips(2.5)
    assert numbers == (4,)
    assert strips[0, :3].tolist() == [0, 201, 0]
    assert moves.strips(9.0)[1][0, 1] == 200


def patched(count=1):
    bench = Workbench()
    made = [
        bench.made("place free", type="heron", mode="Standard", position=[x, 0, 5], number=41 + x) for x in range(count)
    ]
    for one in made:
        bench.do("address", ids=[one], start="3.017")
    return bench.show, made


def test_a_slot_is_said_in_words_with_its_byte_at_its_levels():
    show, made = patched()
    levels = bytearray(512)
    levels[16:18] = b"\x80\x00"
    (coarse,) = meanings(show, 3, 17, {3: bytes(levels)})
    (fine,) = meanings(show, 3, 18, {3: bytes(levels)})
    assert (coarse.fixture, coarse.number, coarse.channel) == (made[0], "41", "pan")
    assert (coarse.byte, fine.byte) == ("coarse", "fine")
    assert coarse.raw == fine.raw == 0x8000
    assert coarse.words == ("pan 0°",)
    assert meanings(show, 3, 16, {}) == meanings(show, 3, 33, {}) == meanings(show, 600, 1, {}) == []


def test_two_on_one_slot_are_both_told_and_unknown_levels_are_the_defaults():
    show, _ = patched(2)
    found = meanings(show, 3, 21, {})
    assert [one.number for one in found] == ["41", "42"]
    assert {one.words for one in found} == {("intensity 0 %",)}
    assert {(one.byte, one.raw, one.top) for one in found} == {("", 0, 255)}
