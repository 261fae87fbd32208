"""Patch lists from consoles, compared by cause; fixtures addressed in order, moved and swapped by universes."""

from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import Workbench
from zarfwright.core.errors import JobError
from zarfwright.core.patch import Place, in_sequence, occupied, overlaps
from zarfwright.core.patching.compare import compare
from zarfwright.core.patching.listed import Listed, columns_of, read_list
from zarfwright.core.rig.things import Fixture


def rig(count, kind="heron", mode="Standard", start="1.001", bench=None):
    bench = bench or Workbench()
    first = sum(1 for _ in bench.show.fixtures()) + 1
    made = [bench.made("place free", type=kind, mode=mode, position=[x, 0, 5], number=first + x) for x in range(count)]
    bench.do("address", ids=made, start=start)
    return bench


def rows_of(bench, modes=None):
    """What a console has that was patched with the modes of its own, one after another as the show is."""
    modes = modes or {}
    sizes = {"Standard": 16, "Extended": 33}
    out, shift, universe = [], 0, 0
    for n, (_, fixture) in enumerate(bench.show.fixtures(), 1):
        if fixture.universe != universe:
            universe, shift = fixture.universe, 0
        mode = modes.get(fixture.number, fixture.mode)
        place = Place(fixture.universe, fixture.address + shift)
        if place.address + sizes[mode] > 513:
            # It no longer fits: the console put it on a universe of its own.
            place = Place(900 + fixture.universe, 1)
        out.append(Listed(n, fixture.number, "Heron", mode, place))
        shift += sizes[mode] - sizes[fixture.mode]
    return out


def told(compared):
    return [(one.cause, str(one.from_) if one.from_ else None, one.numbers) for one in compared.causes]


def test_the_same_list_has_nothing_to_say():
    bench = rig(40)
    compared = compare(bench.show, rows_of(bench))
    assert (compared.lines, compared.causes, compared.same) == ((), (), 40)


def test_one_fixture_in_another_mode_explains_all_that_it_shifts_in_a_list_of_two_hundred():
    bench = rig(200)
    # Fixture 66 is the second of universe 3 (32 to a universe): those after it there are 17 slots later, and for the
    # last two there is no room left.
    compared = compare(bench.show, rows_of(bench, {66: "Extended"}))
    cause, *rest = compared.causes
    assert (cause.cause, str(cause.from_)) == ("other_mode", "3.017")
    assert cause.numbers == tuple(range(66, 95))
    assert [(one.cause, one.numbers) for one in rest] == [("other_address", (95,)), ("other_address", (96,))]
    assert "From 3.017 on all is shifted by 17 slots, later: fixture 66: Extended (33 slots) in the list" in cause.text
    assert [line.kind for line in compared.lines if line.number == 66] == ["mode"]
    assert sum(line.kind == "address" for line in compared.lines) == 30


def test_a_whole_type_in_another_mode_is_one_cause():
    bench = rig(10)
    compared = compare(bench.show, rows_of(bench, dict.fromkeys(range(1, 11), "Extended")))
    assert told(compared) == [("other_mode", "1.001", tuple(range(1, 11)))]


def test_a_mode_that_nobody_here_knows_is_measured_by_what_follows():
    bench = rig(6)
    starts = [1, 17, 37, 53, 69, 85]
    rows = [
        Listed(n, n, "Heron", "Wide" if n == 2 else "Standard", Place(1, start)) for n, start in enumerate(starts, 1)
    ]
    compared = compare(bench.show, rows)
    assert told(compared) == [("other_mode", "1.017", (2, 3, 4, 5, 6))]
    assert "by 4 slots" in compared.causes[0].text


def test_runs_universes_and_single_ones_are_told_apart():
    bench = rig(12)
    rig(4, start="2.001", bench=bench)
    rows = []
    for n, (_, fixture) in enumerate(bench.show.fixtures(), 1):
        universe, address = fixture.universe, fixture.address
        if universe == 2:
            universe = 7
        elif 5 <= fixture.number <= 8:
            address += 100
        elif fixture.number == 11:
            address += 300
        rows.append(Listed(n, fixture.number, "Heron", "Standard", Place(universe, address)))
    rows += [Listed(99, 900, "Heron", "Standard", Place(9, 1))]
    del rows[0]
    assert told(compare(bench.show, rows)) == [
        ("other_universe", "2.001", (13, 14, 15, 16)),
        ("offset", "1.065", (5, 6, 7, 8)),
        ("other_address", "1.161", (11,)),
        ("missing", None, (1,)),
        ("extra", None, (900,)),
    ]


def test_another_type_is_said_and_a_longer_name_of_the_same_is_not():
    bench = rig(2)
    rows = [
        Listed(1, 1, "Quill Heron", "standard", Place(1, 1)),
        Listed(2, 2, "Bittern", "", Place(1, 17)),
    ]
    compared = compare(bench.show, rows)
    assert [(line.number, line.kind) for line in compared.lines] == [(2, "type")]
    assert told(compared) == [("other_type", "1.017", (2,))]


@pytest.mark.parametrize(
    ("headings", "found"),
    [
        (["Fixture ID", "Name", "Fixture Type", "Mode", "Patch"], {"number": 0, "type": 2, "mode": 3, "place": 4}),
        (["Universe", "Address", "Channel"], {"number": 2, "universe": 0, "address": 1}),
        (["CH", "UNIV", "DMX Address"], {"number": 0, "universe": 1, "address": 2}),
        (["Chan", "Dimmer", "Ckt"], {"number": 0, "dimmer": 1, "circuit": 2}),
        (["what", "ever"], {}),
    ],
)
def test_columns_are_known_by_what_consoles_call_them(headings, found):
    assert columns_of(headings) == found


@pytest.mark.parametrize(
    ("text", "place"),
    [
        ("2.058", Place(2, 58)),
        ("2/58", Place(2, 58)),
        ("2:58", Place(2, 58)),
        ("570", Place(2, 58)),
        ("58", Place(1, 58)),
        ("", None),
    ],
)
def test_addresses_are_read_as_people_write_them(text, place):
    [row] = read_list([["7", text]], {"number": 0, "place": 1}).rows
    assert row.place == place


def test_rows_that_say_nothing_of_use_are_told_and_the_rest_is_read():
    read = read_list([["7", "1.001"], ["Total", ""], ["", ""], ["8", "1.900"]], {"number": 0, "place": 1})
    assert [row.number for row in read.rows] == [7]
    assert [text.split(":")[0] for text in read.left_out] == ["Row 2", "Row 4, fixture 8"]
    with pytest.raises(JobError, match="No column holds the numbers"):
        read_list([], {"place": 0})


def addresses(bench):
    return {f.number: (f.universe, f.address) for _, f in bench.show.fixtures()}


def test_addresses_go_by_number_by_place_or_as_selected():
    bench = Workbench()
    spots = [(3, 4), (1, 2), (2, 9)]
    made = [bench.made("place free", type="heron", position=[x, 0, 5], number=n) for n, x in spots]
    for order, wanted in (("selection", [3, 1, 2]), ("number", [1, 2, 3]), ("place", [1, 3, 2])):
        bench.do("address", ids=made, start="1.001", order=order)
        assert sorted(addresses(bench), key=lambda n: addresses(bench)[n]) == wanted
    bench.do("address", ids=made, start="5.001", same=True)
    assert set(addresses(bench).values()) == {(5, 1)}
    assert all(clash.meant for clash in overlaps(bench.show))


def test_what_would_be_shared_or_cut_is_said_before_it_is_taken():
    bench = rig(2)
    late = bench.made("place free", type="heron", position=[9, 0, 5], number=50)
    assert "share slots of universe 1" in bench.do("address", ids=[late], start="1.010").report[0]
    assert bench.do("address", ids=[late], start="1.500").report == ()
    assert bench.show.body(late, Fixture).universe == 2
    assert "past the end" in bench.do("address", ids=[late], start="1.500", cut=True).report[0]
    assert bench.show.body(late, Fixture).address == 500


@given(st.lists(st.integers(1, 512), min_size=1, max_size=20), st.integers(1, 512), st.integers(0, 60))
def test_nothing_is_cut_by_the_end_of_a_universe_and_nothing_overlaps(sizes, start, gap):
    places = in_sequence(sizes, Place(3, start), gap)
    taken = [(p.universe, p.address, p.address + size - 1) for p, size in zip(places, sizes, strict=True)]
    assert all(last <= 512 for _, _, last in taken)
    assert all(a[0] < b[0] or a[2] < b[1] for a, b in pairwise(taken))


def test_a_universe_is_moved_and_two_are_swapped():
    bench = rig(2)
    rig(1, start="2.100", bench=bench)
    assert bench.do("move universe", universe="1", to="2", swap=True).sentence == "Swap universes 1 and 2"
    assert addresses(bench) == {1: (2, 1), 2: (2, 17), 3: (1, 100)}
    bench.do("move universe", universe="2", to="9")
    assert addresses(bench) == {1: (9, 1), 2: (9, 17), 3: (1, 100)}
    with pytest.raises(JobError, match="Nothing is patched on universe 2"):
        bench.do("move universe", universe="2", to="1")


def test_lines_of_a_list_are_taken_as_one_edit():
    bench = rig(2)
    a, b = (item.id for item, _ in bench.show.fixtures())
    lines = [{"id": a, "mode": "extended"}, {"id": a, "start": "4.001"}, {"id": b, "unpatch": True}]
    edit = bench.do("take patch", lines=lines)
    assert len(edit.changes) == 2
    assert (bench.body(a).mode, bench.body(a).universe, bench.body(b).address) == ("Extended", 4, None)
    with pytest.raises(JobError, match="no mode"):
        bench.do("take patch", lines=[{"id": a, "mode": "Wide"}])
    with pytest.raises(JobError, match="nothing new"):
        bench.do("take patch", lines=[{"id": a, "start": "4.001"}])


def test_each_break_of_a_mode_has_its_place_and_keeps_off_others():
    bench = Workbench()
    heron = bench.show.types["heron"]
    mode = heron.modes[0]
    apart = tuple(replace(c, dmx_break=2, slots=(1, 2)) if c.attribute == "Zoom" else c for c in mode.channels)
    split = replace(heron, modes=(replace(mode, channels=apart),))
    bench.show = replace(bench.show, types={**bench.show.types, "heron": split})
    rig(3, bench=bench)
    a, b, c = (item.id for item, _ in bench.show.fixtures())
    assert occupied(bench.show, bench.body(a)) == [(1, 1, 14), (1, 15, 16)]
    bench.do("place break", ids=[a], number=2, start="4.100")
    assert occupied(bench.show, bench.body(a)) == [(1, 1, 14), (4, 100, 101)]
    bench.do("move universe", universe="4", to="6")
    assert occupied(bench.show, bench.body(a))[1] == (6, 100, 101)
    bench.do("place break", ids=[a], number=2, start=None)
    assert occupied(bench.show, bench.body(a)) == [(1, 1, 14), (1, 15, 16)]
    with pytest.raises(JobError, match="no further break 5"):
        bench.do("place break", ids=[b, c], number=5, start="1.001")
