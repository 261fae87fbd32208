"""Looks as lists: out and in again, and running orders on paper."""

import pytest

from tests.conftest import Workbench
from zarfwright.core.errors import JobError
from zarfwright.core.looks.listing import LOOK_COLUMNS, look_rows, order_rows, read_looks
from zarfwright.core.looks.shown import in_order, resolved
from zarfwright.core.playback.order import Order


@pytest.fixture
def rig():
    bench = Workbench()
    truss = bench.made("add truss", name="Truss 1", length="8m", start_trim="6m")
    bench.ids = bench.do("place along rail", structure=truss, type="heron", count="3", first_number="11").select
    said = {key: {"dimmer": 0.5, "pan": 1.25, "zoom": 18.0, "gobo slot": 3.0} for key in bench.ids}
    bench.look = bench.made("keep look", name="Ebb", note="Cue 3", values=said)
    return bench


def taken(bench, rows, columns=LOOK_COLUMNS):
    found = read_looks(bench.show, columns, rows)
    looks = [vars(look) for look in found.looks]
    return found, bench.do("take looks", looks=looks)


def test_a_list_says_levels_in_the_units_of_the_trade_and_comes_back_as_the_same_look(rig):
    rows = [*look_rows(rig.show)]
    assert rows[:2] == [
        ("1", "Ebb", "Cue 3", "11", "", "pan", "71.6197", "°"),
        ("1", "Ebb", "Cue 3", "11", "", "dimmer", "0.5", ""),
    ]
    before = resolved(rig.show, rig.look)
    rig.do("take out", ids=rig.ids[:1])
    found, edit = taken(rig, rows)
    assert found.left_out == ()
    assert edit.sentence == "Take looks in from a list: 1 changed"
    after = resolved(rig.show, rig.look)
    for key in rig.ids:
        assert after[key] == pytest.approx(before[key], abs=1e-5)
    # Into a show that does not have it, it is a look of its own, of all there is.
    rig.do("remove", ids=[rig.look])
    taken(rig, rows)
    ((key, look),) = in_order(rig.show)
    assert (look.name, look.note, look.whole) == ("Ebb", "Cue 3", True)
    assert resolved(rig.show, key)[rig.ids[2]]["zoom"] == 18.0
    with pytest.raises(JobError, match="as the list says already"):
        taken(rig, rows)


def test_a_list_without_names_leaves_names_as_they_are(rig):
    columns = ("Look", "Fixture", "Function", "Level")
    rows = [(number, "11", "dimmer", "0.75") for number in ("1", "4.5")]
    _, edit = taken(rig, rows, columns)
    assert edit.sentence == "Take looks in from a list: 1 new, 1 changed"
    assert [(look.number, look.name, look.note) for _, look in in_order(rig.show)] == [
        (1.0, "Ebb", "Cue 3"),
        (4.5, "Unnamed", ""),
    ]


def test_rows_that_cannot_be_are_left_out_in_words_and_the_others_are_taken(rig):
    rows = [
        ("2", "New", "", "12", "", "dimmer", "0,25", ""),
        ("two", "New", "", "12", "", "dimmer", "0.25", ""),
        ("2", "New", "", "99", "", "dimmer", "0.25", ""),
        ("2", "New", "", "12", "", "glitter", "0.25", ""),
        ("2", "New", "", "12", "7", "dimmer", "0.25", ""),
        ("2", "New", "", "12", "", "dimmer", "1e999", ""),
        ("2", "New", "", "12"),
    ]
    found, edit = taken(rig, rows)
    assert [line.split(":")[0] for line in found.left_out] == [f"Row {n}" for n in (3, 4, 5, 6, 7, 8)]
    assert "there is no fixture 99" in found.left_out[1]
    assert edit.sentence == "Take looks in from a list: 1 new"
    assert rig.body(edit.select[0]).values == {rig.ids[1]: {"dimmer": 0.25}}
    with pytest.raises(JobError, match="the column Function is missing"):
        read_looks(rig.show, ("Look", "Fixture", "Level"), [])
    with pytest.raises(JobError, match="No look of this list can be taken"):
        read_looks(rig.show, LOOK_COLUMNS, rows[1:2])


def test_a_running_order_on_paper_has_its_times_and_who_is_lit(rig):
    order = rig.made("add order", name="Evening", looks=[rig.look, rig.look])
    first = rig.body(order).steps[0].key
    rig.do("set step", id=order, steps=[first], fade_in="2", fade_out="4", hold="6", follows=True)
    rig.do("set step", id=order, steps=[first], sort="position", fade_in="3", delay="1")
    rows = order_rows(rig.show, rig.body(order))
    assert rows[0] == ("Evening", 1, "1", "Ebb", 0.0, 2.0, 4.0, 0.0, 6.0, "follows", "position 3 after 1", 3, "")
    assert rows[1][:5] == ("Evening", 2, "1", "Ebb", 10.0)
    assert isinstance(rig.body(order), Order)
