"""Dimmers: racks, what is plugged to them, where that is driven, and loads against what they carry."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import Workbench
from zarfwright.core.errors import JobError
from zarfwright.core.papers import CIRCUIT_COLUMNS, circuit_schedule, circuit_totals
from zarfwright.core.patch import Place, overlaps
from zarfwright.core.patching.compare import compare
from zarfwright.core.patching.dimmers import dimmers_of, format_power, power_of
from zarfwright.core.patching.listed import Listed, columns_of, read_list
from zarfwright.core.readiness import findings
from zarfwright.core.rig.things import TypeEntry
from zarfwright.core.schedules.table import as_texts
from zarfwright.core.show import Item
from zarfwright.library import bittern, curlew


def rig(count=4):
    """So many Fresnels of 1 kW, numbered from 21, and a profile of its own kind, 31."""
    bench = Workbench()
    for key, kind in (("bittern", bittern()), ("curlew", curlew())):
        item = Item(key, "type", TypeEntry(kind.name, kind.maker, key), order=9)
        bench.show = replace(bench.show, items={**bench.show.items, key: item}, types={**bench.show.types, key: kind})
    lamps = [bench.made("place free", type="bittern", position=[x, 0, 5], number=21 + x) for x in range(count)]
    profile = bench.made("place free", type="curlew", position=[0, 3, 5], number=31)
    return bench, lamps, profile


def place(bench, key):
    body = bench.body(key)
    return body.universe, body.address


def said(bench):
    """The patch's findings, but for fixtures that have no address."""
    return [one for one in findings(bench.show) if one.step == "patch" and "has no address" not in one.text]


def one(bench, number):
    return next(each for each in dimmers_of(bench.show) if each.number == number)


def test_what_is_plugged_is_driven_where_its_dimmer_is():
    bench, lamps, _ = rig()
    bench.do("add rack", first="101", count="24", start="2.301")
    edit = bench.do("plug", ids=lamps, dimmer="103", on_each="1")
    assert [place(bench, key) for key in lamps] == [(2, 303), (2, 304), (2, 305), (2, 306)]
    assert edit.sentence == "Plug 4 fixtures to dimmers 103 to 106"
    # Off the dimmer it is off the dimmer's slot; an address of its own stays its own.
    bench.do("plug", ids=lamps[:1], dimmer="")
    assert place(bench, lamps[0]) == (None, None)
    bench.do("set field", ids=lamps[1:2], field="dimmer", text="110")
    assert place(bench, lamps[1]) == (2, 310)
    edit = bench.do("number", ids=lamps[2:], what="dimmer", start="120", share="2")
    assert edit.report == ("2 fixtures take the addresses of their dimmers.",)
    assert {place(bench, key) for key in lamps[2:]} == {(2, 320)}
    assert not said(bench)


def test_lamps_of_two_kinds_on_one_dimmer_share_its_slot_on_purpose():
    bench, lamps, profile = rig()
    bench.do("add rack", start="1.001", carries="5 kW")
    bench.do("plug", ids=[lamps[0], profile], dimmer="7")
    assert place(bench, profile) == place(bench, lamps[0]) == (1, 7)
    assert [clash.meant for clash in overlaps(bench.show)] == [True]
    # On the one slot without being on the one dimmer they are there by accident.
    bench.do("plug", ids=[profile], dimmer="")
    bench.do("address", ids=[profile], start="1.007")
    assert [clash.meant for clash in overlaps(bench.show)] == [False]


def test_a_dimmer_says_what_is_on_it_and_an_overload_is_told_before_and_after():
    bench, lamps, _ = rig()
    bench.do("add rack", carries="2.3 kW", start="1.001")
    edit = bench.do("plug", ids=lamps[:3], dimmer="5")
    over = "Dimmer 5 carries 2.3 kW and has 3 kW on it (fixtures 21, 22, 23)"
    assert edit.report == (f"{over}.",)
    found = one(bench, 5)
    assert (found.load_w, found.carries_w, found.left_w) == (3000.0, 2300.0, -700.0)
    (finding,) = said(bench)
    assert (finding.text, finding.wrong) == (f"{over}: take 700 W off it.", True)
    bench.do("rate dimmers", dimmers="5-6", carries="5 kW")
    assert not said(bench)
    # A lamp of less power loads it less.
    bench.do("set field", ids=lamps[:3], field="lamp", text="650 W")
    assert one(bench, 5).load_w == 1950.0


def test_a_rack_takes_what_it_drives_along():
    bench, lamps, profile = rig()
    rack = bench.made("add rack", start="1.001")
    bench.do("plug", ids=lamps, dimmer="1", on_each="1")
    bench.do("address", ids=[profile], start="1.030")
    edit = bench.do("set rack", id=rack, start="4.100")
    assert [place(bench, key) for key in lamps] == [(4, 100), (4, 101), (4, 102), (4, 103)]
    assert place(bench, profile) == (1, 30)
    assert edit.report == ("4 fixtures go along to where the dimmers are now driven.",)
    bench.do("move universe", universe="4", to="9")
    assert (bench.body(rack).universe, place(bench, lamps[0])) == (9, (9, 100))
    assert not said(bench)
    # Numbered otherwise, what single ones carry goes along with them.
    bench.do("rate dimmers", dimmers="2", carries="5 kW", switched=True)
    bench.do("set rack", id=rack, first="41")
    assert (bench.body(rack).others, bench.body(rack).switched) == (((42, 5000.0),), (42,))
    assert "of no rack" in said(bench)[0].text


def test_a_rack_that_is_added_later_is_found_by_what_names_its_dimmers():
    bench, lamps, profile = rig()
    bench.do("number", ids=lamps, what="dimmer", start="13")
    bench.do("address", ids=lamps, start="3.057")
    rack = bench.made("add rack", first="11", count="6")
    assert (bench.body(rack).universe, bench.body(rack).address) == (3, 55)
    assert not said(bench)
    # Where they do not agree, nothing is guessed; what had no address gets the one of its dimmer.
    bench.do("number", ids=[profile], what="dimmer", start="40")
    other = bench.made("add rack", first="40", start="3.200")
    assert place(bench, profile) == (3, 200)
    assert bench.body(other).name == "Rack 2"


def test_what_is_at_odds_is_said_with_what_puts_it_right():
    bench, lamps, _ = rig()
    bench.do("add rack", start="1.001")
    bench.do("plug", ids=lamps[:2], dimmer="3", on_each="1")
    edit = bench.do("address", ids=lamps[:1], start="1.200")
    assert edit.report == ("Fixture 21 leaves its dimmer 3, driven at 1.003.",)
    (finding,) = said(bench)
    assert "Fixture 21 is on dimmer 3, which is driven at 1.003, and patched elsewhere" in finding.text
    bench.do(finding.repair.kind, **finding.repair.args)
    assert place(bench, lamps[0]) == (1, 3)
    assert not said(bench)
    # A head takes its data itself: it keeps its address, and wants power that does not dim.
    head = bench.made("place free", type="heron", position=[4, 4, 4], number=61)
    bench.do("address", ids=[head], start="5.001")
    edit = bench.do("plug", ids=[head], dimmer="9")
    assert place(bench, head) == (5, 1)
    assert edit.report == ("Fixture 61 needs steady power, and would be on a dimmer that dims.",)
    (finding,) = said(bench)
    bench.do(finding.repair.kind, **finding.repair.args)
    assert not said(bench)


def test_what_lies_on_slots_of_a_rack_is_plugged_to_it_or_moved():
    bench, _, profile = rig(1)
    bench.do("add rack", name="SR", first="41", start="1.101")
    bench.do("address", ids=[profile], start="1.104")
    (finding,) = said(bench)
    assert finding.text == "Fixture 31 is driven as dimmer 44: plug it there, or give it another address."
    bench.do(finding.repair.kind, **finding.repair.args)
    assert bench.body(profile).dimmer == 44
    assert not said(bench)
    head = bench.made("place free", type="heron", position=[4, 4, 4], number=61)
    bench.do("address", ids=[head], start="1.085")
    assert not said(bench)
    bench.do("address", ids=[head], start="1.086")
    assert [one.text for one in said(bench)] == ["Fixture 61 lies on slots of SR: give it another address."]


def test_a_circuit_is_on_one_dimmer_and_a_dimmer_of_one_rack():
    bench, lamps, _ = rig()
    bench.do("add rack", name="SR", start="1.001")
    bench.do("plug", ids=lamps[:2], dimmer="1", on_each="1")
    bench.do("set field", ids=lamps[:2], field="circuit", text="A4")
    assert [one.text for one in said(bench)] == [
        "Circuit A4 is on dimmers 1 and 2 at once (fixtures 21, 22): plug all to one, or give one another circuit."
    ]
    bench.do("add rack", name="SL", first="12", start="1.012")
    texts = [one.text for one in said(bench)]
    assert "SR and SL both have dimmer 12: number one of them otherwise." in texts
    assert "SR and SL share slot 12 of universe 1: move one of them." in texts
    bench.do("plug", ids=lamps[2:3], dimmer="99")
    assert "Dimmer 99 is of no rack: plug fixture 23 to another, or add the rack." in [o.text for o in said(bench)]


@pytest.mark.parametrize(
    ("kind", "args", "field"),
    [
        ("add rack", {"carries": "10 A"}, "carries"),
        ("add rack", {"carries": "9 W"}, "carries"),
        ("add rack", {"count": "0"}, "count"),
        ("add rack", {"count": "513"}, "count"),
        ("add rack", {"first": "-3"}, "first"),
        ("add rack", {"count": "24", "start": "1.490"}, "address"),
        ("add rack", {"start": "front"}, "address"),
        ("add rack", {"name": "sr"}, "name"),
        ("set rack", {"id": "rack", "name": " "}, "name"),
        ("set rack", {"id": "rack", "count": "600"}, "count"),
        ("rate dimmers", {"dimmers": "1-", "carries": "2 kW"}, "dimmers"),
        ("rate dimmers", {"dimmers": "1-99999", "carries": "2 kW"}, "dimmers"),
        ("rate dimmers", {"dimmers": "90", "carries": "2 kW"}, "dimmers"),
        ("plug", {"ids": ["lamp"], "dimmer": "many"}, "dimmer"),
        ("plug", {"ids": ["lamp"], "dimmer": "1", "on_each": "0"}, "on_each"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(kind, args, field):
    bench, lamps, _ = rig(1)
    names = {"rack": bench.made("add rack", name="SR", start="1.001"), "lamp": lamps[0]}
    args = {key: names.get(value, value) if isinstance(value, str) else value for key, value in args.items()}
    args = {key: [names.get(i, i) for i in value] if isinstance(value, list) else value for key, value in args.items()}
    before = bench.show
    with pytest.raises(JobError) as wrong:
        bench.do(kind, **args)
    assert wrong.value.field == field
    assert bench.show is before


@given(st.lists(st.tuples(st.integers(1, 30), st.integers(0, 4)), min_size=1, max_size=12))
def test_however_it_is_plugged_the_loads_add_up_and_everybody_is_driven_where_the_dimmer_is(plugs):
    bench, lamps, profile = rig(4)
    bench.do("add rack", count="24", start="1.001")
    everybody = [*lamps, profile]
    for dimmer, who in plugs:
        bench.do("plug", ids=[everybody[who]], dimmer=str(dimmer))
    on = [bench.body(key) for key in everybody if bench.body(key).dimmer is not None]
    assert sum(each.load_w for each in dimmers_of(bench.show)) == sum(
        power_of(body, bench.show.types[body.type]) for body in on
    )
    assert circuit_totals(bench.show)["load_w"] == sum(row[8] for row in circuit_schedule(bench.show))
    for body in on:
        if body.dimmer <= 24:
            assert (body.universe, body.address) == (1, body.dimmer)
    assert all(clash.meant for clash in overlaps(bench.show))


def test_the_schedule_reads_as_an_electrician_reads_it():
    bench, lamps, profile = rig()
    bench.do("add rack", name="Dimmers SR", count="3", start="1.301", carries="2.5 kW")
    bench.do("set field", ids=lamps, field="purpose", text="Front")
    bench.do("number", ids=lamps[:2], what="circuit", start="A1", share="2")
    bench.do("plug", ids=lamps[:2], dimmer="2")
    bench.do("set field", ids=[profile], field="circuit", text="Floor 3")
    rows = [dict(zip(CIRCUIT_COLUMNS, row, strict=True)) for row in circuit_schedule(bench.show)]
    assert [row["Dimmer"] for row in rows] == [1, 2, 3, None]
    assert rows[1] == {
        "Dimmer": 2, "Rack": "Dimmers SR", "Address": "1.302", "Circuits": "A1", "Channels": "21, 22",
        "Fixtures": "2 Bittern", "On": "free", "For": "Front", "Load W": 2000.0, "Carries W": 2500.0, "Left W": 500.0,
    }  # fmt: skip
    assert (rows[3]["Circuits"], rows[3]["Channels"], rows[3]["Load W"]) == ("Floor 3", "31", 750.0)
    assert as_texts((1, None, "A", 1234567.0, 1300.5)) == ("1", "", "A", "1234567", "1300.5")
    assert circuit_totals(bench.show) == {
        "dimmers": 3, "used": 1, "load_w": 2000.0, "carries_w": 7500.0, "overloaded": 0,
    }  # fmt: skip


def test_power_is_the_lamps_else_the_types_else_that_of_its_light():
    kind = bittern()
    bench, lamps, _ = rig(1)
    body = bench.body(lamps[0])
    assert power_of(body, kind) == 1000.0
    assert power_of(body, replace(kind, power_w=0.0)) == 1000.0
    assert power_of(body, None) is None
    assert [format_power(watts) for watts in (750.0, 2300.0, 1000.0, 1234.0, 12.5)] == [
        "750 W", "2.3 kW", "1 kW", "1234 W", "12.5 W",
    ]  # fmt: skip


def test_a_copy_is_plugged_nowhere():
    bench, lamps, _ = rig(1)
    bench.do("add rack", start="1.001")
    bench.do("plug", ids=lamps, dimmer="1")
    bench.do("set field", ids=lamps, field="circuit", text="A1")
    copy = bench.body(bench.made("duplicate", ids=lamps, x="1m"))
    assert (copy.dimmer, copy.circuit, copy.address) == (None, "", None)


def listed(bench):
    """Lamps 21 to 24 on dimmers 1 to 4 of a rack on universe 7."""
    bench.do("add rack", first="1", count="12", start="7.001")
    lamps = [item.id for item, body in bench.show.fixtures() if body.number != 31]
    bench.do("plug", ids=lamps, dimmer="1", on_each="1")
    return lamps


def test_a_list_without_addresses_says_what_fixtures_are_plugged_to():
    """Sheets of a house: channel, circuit and dimmer. What is not said stays as it is."""
    bench, _, _ = rig()
    lamps = listed(bench)
    columns = columns_of(["Channel", "Circuit", "Dimmer"])
    cells = [["21", "A1", "1"], ["22", "", "4"], ["23", "A3", "5"], ["24", "A4", "-"], ["25", "", "x"]]
    read = read_list(cells, columns)
    assert read.left_out == ("Row 5, fixture 25: “x” is not a number of a dimmer.",)
    compared = compare(bench.show, read.rows[:4])
    assert [(line.number, line.kind) for line in compared.lines] == [
        (21, "circuit"), (22, "dimmer"), (23, "circuit"), (23, "dimmer"), (24, "circuit"),
    ]  # fmt: skip
    assert [one.text for one in compared.causes] == [
        "Fixtures 22 to 23 are 2 dimmers further in the list.",
        "Fixtures 21, 23 to 24: circuit none here, A1 in the list, and so on.",
    ]
    assert [line.number for line in compare(bench.show, read.rows[1:4]).lines if line.kind == "missing"] == [21]
    bench.do("take patch", lines=[{"id": lamps[1], "dimmer": 4}, {"id": lamps[2], "dimmer": 5, "circuit": "A3"}])
    assert [place(bench, key) for key in lamps] == [(7, 1), (7, 4), (7, 5), (7, 4)]
    assert bench.body(lamps[2]).circuit == "A3"
    with pytest.raises(JobError, match="dimmer"):
        bench.do("take patch", lines=[{"id": lamps[1], "dimmer": 10**9}])


def test_addresses_that_come_with_another_dimmer_are_explained_by_it():
    bench, _, _ = rig(2)
    lamps = listed(bench)
    rows = [
        Listed(1, 21, "", "", Place(7, 9), dimmer=9),
        # Driven elsewhere than its dimmer is: that is another thing to be told.
        Listed(2, 22, "", "", Place(5, 5), dimmer=3),
    ]
    compared = compare(bench.show, rows)
    assert [(one.cause, one.numbers) for one in compared.causes] == [
        ("other_dimmer", (21,)), ("other_dimmer", (22,)), ("other_address", (22,)), ("missing", (31,)),
    ]  # fmt: skip
    bench.do("take patch", lines=[{"id": lamps[1], "dimmer": 3}, {"id": lamps[1], "start": "5.005"}])
    assert place(bench, lamps[1]) == (5, 5)
