"""Findings come with an edit where that is quick, else behind it, and the last word is of the show as it is."""

import json
import threading

import pytest

from tests.conftest import Workbench
from tests.processes import PATIENCE_S
from zarfwright.web.desk import finder as module
from zarfwright.web.desk.finder import QUICK_S, Finder


@pytest.fixture
def slow(monkeypatch):
    """A finder over a show in which each step takes as long as it is told to, and what it tells."""
    bench, told, state = Workbench(), [], {"rev": 1}
    gate = threading.Event()
    gate.set()
    plain = module.findings

    def held(show):
        gate.wait(PATIENCE_S)
        return plain(show)

    monkeypatch.setattr(module, "findings", held)
    made = Finder(lambda: (bench.show, state["rev"]), lambda text: told.append(json.loads(text)))
    return made, bench, told, state, gate


def test_what_is_quick_comes_with_the_edit(slow):
    made, bench, told, _, _ = slow
    bench.do("place free", type="heron", mode="Standard", position=(0, 0, 3), number=7)
    bench.do("place free", type="heron", mode="Standard", position=(4, 0, 3), number=7)
    made.took_s = QUICK_S / 2
    found = made.if_quick(bench.show)
    assert found is not None
    assert any("7" in one["text"] for one in found)
    assert told == []


def test_what_takes_time_comes_behind_it_and_of_the_latest_show(slow):
    made, bench, told, state, gate = slow
    made.took_s = QUICK_S * 4
    gate.clear()
    assert made.if_quick(bench.show) is None
    # While that is under way an edit is made, and asks again: there is one who looks, not two.
    bench.do("place free", type="heron", mode="Standard", position=(0, 0, 3), number=None)
    state["rev"] = 2
    made.took_s = QUICK_S * 4
    assert made.if_quick(bench.show) is None
    gate.set()
    made.wait()
    assert [one["rev"] for one in told][-1] == 2
    assert len(told) <= 2
    assert told[-1]["event"] == "findings"
    assert told[-1]["findings"] == made.all(bench.show)
    assert any(one["step"] == "hang" for one in told[-1]["findings"])
    # It is there again for the next one.
    made.took_s = QUICK_S * 4
    state["rev"] = 3
    assert made.if_quick(bench.show) is None
    made.wait()
    assert told[-1]["rev"] == 3


def test_a_look_that_fails_is_not_the_last_one(slow, monkeypatch):
    made, bench, told, state, _ = slow
    plain = module.findings

    def broken(_):
        raise ValueError("a show that cannot be looked through")

    monkeypatch.setattr(module, "findings", broken)
    made.took_s = QUICK_S * 4
    assert made.if_quick(bench.show) is None
    made.wait()
    assert told == []
    monkeypatch.setattr(module, "findings", plain)
    state["rev"] = 5
    assert made.if_quick(bench.show) is None
    made.wait()
    assert [one["rev"] for one in told] == [5]
