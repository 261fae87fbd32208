"""Schedules: counts, loads and weights worked by hand; how a list is arranged and what of it is kept."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import Workbench
from zarfwright.core.errors import JobError
from zarfwright.core.schedules.lists import SCHEDULES, schedule
from zarfwright.core.schedules.power import cable_m, phases_of, shares_on
from zarfwright.core.schedules.rig import spares_of
from zarfwright.core.schedules.table import ListStyle, Table, arranged, sort_key
from zarfwright.core.sheet.listed import marked_schedule


def rig(bench) -> tuple[str, str, tuple[str, ...]]:
    """Two trusses: four heads on one, two washes on the other."""
    front = bench.made("add truss", length="12m", start_trim="6m", name="Truss 1")
    back = bench.made("add truss", length="6m", start_trim="7m", y="US 4", name="Truss 2")
    heads = bench.do("place along rail", structure=front, type="heron", count="4", first_number="11").select
    washes = bench.do("place along rail", structure=back, type="dunlin", count="2", first_number="21").select
    return front, back, (*heads, *washes)


def column(table, title):
    return [row[table.columns.index(title)] for row in table.rows]


def test_every_schedule_is_made_of_an_empty_show_and_of_a_rig(bench):
    for name in SCHEDULES:
        assert schedule(bench.show, name).rows == ()
    rig(bench)
    for name in SCHEDULES:
        table = schedule(bench.show, name)
        assert all(len(row) == len(table.columns) for row in table.rows)
        assert not table.things or len(table.things) == len(table.rows)
        assert all(math.isfinite(value) for value in table.totals.values())


def test_instruments_come_position_by_position_from_the_start_of_each(bench):
    rig(bench)
    table = schedule(bench.show, "instruments")
    assert column(table, "Position") == ["Truss 1"] * 4 + ["Truss 2"] * 2
    assert column(table, "Number") == [11, 12, 13, 14, 21, 22]
    # Heron 31 kg, Dunlin 11.5 kg; 760 W and 460 W.
    assert table.totals == {"fixtures": 6, "weight_kg": 4 * 31 + 2 * 11.5, "power_w": 4 * 760 + 2 * 460, "positions": 2}


def test_a_booms_instruments_come_from_the_top_down(bench):
    boom = bench.made("add truss", form="upright", lattice="pipe", length="4m", start_trim="0", name="Boom")
    hung = bench.do("place along rail", structure=boom, rail="pipe", type="heron", count="3", first_number="1").select
    for key, along in zip(hung, ("1m", "3.5m", "2m"), strict=True):
        bench.do("set field", ids=[key], field="along", text=f"={along}")
    assert column(schedule(bench.show, "instruments"), "Number") == [2, 3, 1]


def test_the_hookup_counts_doubles_and_gaps(bench):
    _, _, fixtures = rig(bench)
    bench.do("number", ids=[fixtures[5]], start="12")
    bench.do("address", ids=list(fixtures[:4]), start="1.1")
    table = schedule(bench.show, "hookup")
    assert column(table, "Number") == [11, 12, 12, 13, 14, 21]
    assert table.totals["doubled"] == 1
    assert table.totals["without_address"] == 2
    slots = column(table, "Address"), column(table, "Last")
    assert slots[0][0] == "1.001"
    assert slots[1][0] == bench.show.types["heron"].mode("Standard").footprint


def test_addresses_count_each_slot_once(bench):
    _, _, fixtures = rig(bench)
    size = bench.show.types["heron"].mode("Standard").footprint
    bench.do("address", ids=list(fixtures[:2]), start="1.1")
    bench.do("address", ids=[fixtures[2]], start=f"1.{size}")
    table = schedule(bench.show, "addresses")
    # The third begins on the last slot of the first, which lies before the second.
    assert table.totals["slots"] == 2 * size
    assert table.totals["free"] == 512 - 2 * size
    assert table.totals["shared"] >= 1


def test_gels_are_cut_for_each_type_with_one_spare_in_ten(bench):
    _, _, fixtures = rig(bench)
    for key in fixtures[:4]:
        bench.do("set field", ids=[key], field="gel", text="pale amber")
    bench.do("set field", ids=[fixtures[4]], field="gel", text="pale amber")
    table = schedule(bench.show, "colours")
    gels = [row for row in table.rows if row[0] == "gel"]
    assert [(row[2], row[4], row[5], row[6]) for row in gels] == [("Dunlin", 1, 1, 2), ("Heron", 4, 1, 5)]
    assert table.totals["to_cut"] == 7
    assert [spares_of(count) for count in (0, 1, 10, 11, 40)] == [0, 1, 1, 2, 4]


def test_power_adds_up_and_lies_evenly_on_three_phases(bench):
    _, _, fixtures = rig(bench)
    for key in fixtures[:2]:
        bench.do("set field", ids=[key], field="circuit", text="7")
    table = schedule(bench.show, "power")
    assert len(table.rows) == 5, "two of them are on one circuit"
    assert table.totals["power_w"] == 4 * 760 + 2 * 460 == sum(column(table, "Power W"))
    assert sum(table.totals[f"{phase}_w"] for phase in ("L1", "L2", "L3")) == table.totals["power_w"]
    # By hand: 1520, 760, 760, then 460 to the second and to the third.
    assert sorted(table.totals[f"{phase}_w"] for phase in ("L1", "L2", "L3")) == [1220, 1220, 1520]
    assert table.totals["unbalance_percent"] == pytest.approx(15.2, abs=0.05)
    assert table.totals["current_a"] == round(3960 / 230, 2)


def test_dimmers_of_a_rack_are_on_the_phases_by_turns(bench):
    bench.do("add rack", start="8.001")
    assert phases_of(bench.show, [(1, 500.0), (2, 900.0), (4, 100.0), (None, 50.0)]) == ["L1", "L2", "L1", "L3"]


def test_weights_come_on_points_by_the_lever_rule(bench):
    front, _, fixtures = rig(bench)
    bench.do("set field", ids=[front], field="hoists", text="2")
    for key, along in zip(fixtures[:4], ("0m", "3m", "6m", "12m"), strict=True):
        bench.do("set field", ids=[key], field="along", text=f"={along}")
    table = schedule(bench.show, "weights")
    rows = [row for row in table.rows if row[0] == "Truss 1"]
    # Points at 3 m and 9 m. At 0 m and 3 m all on the first, at 6 m half on each, at 12 m all on the second.
    assert [row[2] for row in rows] == [3.0, 9.0]
    assert [row[6] for row in rows] == [2.5 * 31, 1.5 * 31]
    assert [row[5] for row in rows] == [6 * 9.5, 6 * 9.5]
    assert table.totals["total_kg"] == pytest.approx(12 * 9.5 + 6 * 9.5 + 4 * 31 + 2 * 11.5)
    assert sum(column(table, "Total kg (estimate)")) == pytest.approx(table.totals["total_kg"])


@given(st.integers(1, 7), st.floats(0, 30), st.booleans())
def test_all_of_a_weight_comes_on_some_points(count, along, closed):
    places = [30.0 * (k if closed else k + 0.5) / count for k in range(count)]
    shares = shares_on(places, along, 30.0, closed)
    assert sum(shares) == pytest.approx(1.0)
    assert all(share >= -1e-9 for share in shares)
    assert sum(share > 1e-9 for share in shares) <= 2


def test_cables_are_as_long_as_the_way_with_slack_and_in_lengths_that_there_are(bench):
    front, _, fixtures = rig(bench)
    assert schedule(bench.show, "cables").rows == ()
    assert "distribution point" in schedule(bench.show, "cables").note
    bench.do("add supply", x="SR 8", y="0", z="0")
    bench.do("set field", ids=[fixtures[0]], field="along", text="=2m")
    table = schedule(bench.show, "cables")
    row = next(row for row in table.rows if row[3] == "11")
    # 2 m to the end at SR 6, 2 m across to SR 8, 6 m down, and half the section up or down stage.
    way = 2 + 2 + 6 + 0.2
    assert row[4] == pytest.approx(way)
    assert row[5] == cable_m(way) == 15.0
    assert [cable_m(far) for far in (0.0, 3.6, 3.7, 200.0)] == [1.0, 5.0, 7.5, None]
    assert front


def test_the_focus_chart_says_where_each_looks_and_how_it_is_shaped(bench):
    _, _, fixtures = rig(bench)
    point = bench.made("add focus point", name="Lectern", point=[0, 2, 1.6])
    bench.do("aim at", ids=[fixtures[0]], focus=point)
    bench.do("hold values", ids=[fixtures[1]], values={"blade 1": 0.5, "zoom": 22.0})
    table = schedule(bench.show, "focus")
    rows = {row[2]: dict(zip(table.columns, row, strict=True)) for row in table.rows}
    assert rows[11]["Focus"] == "Lectern"
    assert rows[11]["At"] == "SL 0.00 m, US 2.00 m, up 1.60 m"
    assert rows[12]["Field °"] == 22.0
    assert rows[12]["Blades"] == "1: 50 %"
    assert rows[13]["Focus"] == ""


# Arranged

TABLE = Table("x", "Things", ("Name", "Count", "Place"), (("b", 2, "up"), ("a10", None, "up"), ("a9", 5, "down")),
              {"things": 3}, (("1",), ("2",), ("3",)), "Place", changed=(2,))  # fmt: skip


def test_words_go_by_the_numbers_in_them_and_nothing_comes_last():
    assert [row[0] for row in arranged(TABLE, ListStyle("x", order=("Name",), group="")).rows] == ["a9", "a10", "b"]
    assert [row[1] for row in arranged(TABLE, ListStyle("x", order=("Count",), group="")).rows] == [2, 5, None]
    assert [row[1] for row in arranged(TABLE, ListStyle("x", order=("-Count",), group="")).rows] == [5, 2, None]
    assert sort_key("Truss 9") < sort_key("Truss 10")


def test_columns_rows_and_groups_are_as_they_are_wanted_and_totals_stay_of_the_whole():
    made = arranged(TABLE, ListStyle("x", ("Place", "Name"), ("Name",), "Place", {"Place": "UP"}))
    assert made.columns == ("Place", "Name")
    assert made.rows == (("up", "a10"), ("up", "b"))
    assert made.things == (("2",), ("1",))
    assert made.group == "Place"
    assert made.totals == {"things": 3}
    assert arranged(TABLE, ListStyle("x", order=("Count",), group="")).changed == (1,)
    with pytest.raises(JobError, match="no column"):
        arranged(TABLE, ListStyle("x", ("Colour",)))


def test_how_a_list_is_arranged_is_kept_with_the_show(bench):
    rig(bench)
    bench.do("set list", name="hookup", columns=["Number", "Type"], order=["-Number"])
    table = schedule(bench.show, "hookup")
    assert table.columns == ("Number", "Type")
    assert column(table, "Number") == [22, 21, 14, 13, 12, 11]
    bench.do("set list", name="hookup")
    assert len(schedule(bench.show, "hookup").columns) == 12
    with pytest.raises(JobError, match="no column"):
        bench.do("set list", name="hookup", columns=["Colour of the door"])
    with pytest.raises(JobError, match="no schedule"):
        bench.do("set list", name="gardens")


def test_rows_of_what_changed_since_the_papers_were_issued_are_marked(bench: Workbench):
    _, _, fixtures = rig(bench)
    bench.do("add sheet", look="plan")
    assert marked_schedule(bench.show, "hookup", None)[1] == ""
    bench.do("issue papers")
    bench.do("address", ids=[fixtures[2]], start="4.1")
    table, since = marked_schedule(bench.show, "hookup", None)
    assert since == "A"
    assert [table.rows[i][0] for i in table.changed] == [13]
