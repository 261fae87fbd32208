"""Totals of lists held against each other."""

from dataclasses import replace

from zarfwright.core.schedules import cross
from zarfwright.core.schedules.power import power


def rig(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m")
    bench.do("place along rail", structure=truss, type="heron", count="5", first_number="1")
    return bench.show


def test_lists_of_one_rig_agree(bench):
    assert cross.at_odds(rig(bench)) == []


def test_a_total_that_is_wrong_is_found_by_its_rows_and_by_the_other_list(bench, monkeypatch):
    show = rig(bench)

    table = power(show)
    wrong = replace(table, totals={**table.totals, "power_w": 1.0})
    monkeypatch.setitem(cross.SCHEDULES, "power", lambda _show: wrong)
    found = [one.text for one in cross.at_odds(show)]
    assert len(found) == 2
    assert all("3800" in text for text in found)
