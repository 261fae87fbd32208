"""What changed since a review, in words, and what a look book says of each look."""

import pytest

from zarfwright.core.errors import JobError
from zarfwright.core.review.book import book_of, clock, sheets_of
from zarfwright.core.review.changes import changes_since


@pytest.fixture
def rig(bench):
    bench.do("add deck", name="Main deck", width="6m", depth="4m", height="1m")
    bench.truss = bench.made("add truss", name="Truss 1", length="8m", start_trim="6m")
    bench.heads = bench.do("place along rail", structure=bench.truss, type="heron", count="3", first_number="1").select
    bench.look = bench.made("keep look", name="Dawn", values={key: {"dimmer": 1.0} for key in bench.heads})
    bench.dusk = bench.made("keep look", name="Dusk", values={bench.heads[0]: {"dimmer": 0.2}})
    bench.view = bench.made("add viewpoint", name="Desk", eye=[0, -10, 2], target=[0, 0, 1])
    return bench


def told(before, after, sort=None):
    return [one.text for one in changes_since(before, after) if sort in (None, one.sort)]


def test_nothing_changed_where_nothing_did(rig):
    before = rig.show
    assert told(before, rig.show) == []
    # Notes and measured light are no changes of the show.
    rig.do("write note", text="Lovely", about=rig.look)
    rig.do("add area", name="Deck")
    assert told(before, rig.show) == []


def test_what_came_went_moved_and_was_swapped_is_told_together(rig):
    before = rig.show
    rig.do("move", ids=[rig.truss], by=[0, 0.5, 0])
    # What hangs on it goes with it, and is not told again.
    assert told(before, rig.show, "moved") == ["Truss 1 moved 0.50 m."]
    rig.do("swap type", ids=rig.heads[:2], type="dunlin", mode="Standard")
    swapped = ["2 fixtures (1, 2) are a Dunlin, Standard in place of a Heron, Standard."]
    assert told(before, rig.show, "swapped") == swapped
    rig.do("add piece", piece="steps", name="Steps", z="0")
    rig.do("remove", ids=[rig.dusk])
    assert told(before, rig.show, "added") == ["Steps is new."]
    assert told(before, rig.show, "removed") == ["Dusk is gone."]
    rig.do("address", ids=[rig.heads[2]], start="2.001")
    assert "Fixture 3 is at 2.001." in told(before, rig.show, "changed")


def test_looks_are_told_by_what_differs_in_them(rig):
    before = rig.show
    rig.do("set in look", id=rig.look, values={key: {"dimmer": 0.5} for key in rig.heads})
    rig.do("set field", ids=[rig.dusk], field="name", text="Evening")
    lines = told(before, rig.show, "look")
    assert len(lines) == 2
    assert lines[0].startswith("Look 1, Dawn: ")
    assert "50" in lines[0]
    assert lines[1] == "Look 2, Evening: it was called Dusk."
    # A palette that a look hangs on has changed: so has the look.
    assert told(rig.show, before, "look")[1] == "Look 2, Dusk: it was called Evening."


def test_a_book_says_of_each_look_when_it_comes_what_is_lit_and_what_is_said(rig):
    order = rig.made("add order", name="Tide", looks=[rig.dusk, rig.look])
    keys = [step.key for step in rig.body(order).steps]
    rig.do("set step", id=order, steps=keys, fade_in="3", hold="2", follows=True)
    rig.do("write note", text="Warmer", by="Wren", about=rig.look)
    rig.do("write note", verdict="agreed", by="Wren", about=rig.look)
    rig.do("write note", text="Sweep the floor", by="Teal")
    area = rig.made("add area", name="Deck", wanted="100", points="4x3")
    rig.do("measure light", ids=[area], looks=[rig.look])
    book = book_of(rig.show, "s", [], [rig.view], "30 November 2026")
    assert [page.number for page in book.pages] == ["1", "2"]
    dawn, dusk = book.pages
    assert dawn.when == "Tide, at 0:05: in 3 s, holds 2 s"
    assert dusk.when == "Tide, at 0:00: in 3 s, holds 2 s"
    assert dawn.lit == "3 of 3 fixtures are lit"
    assert dawn.groups
    assert (dawn.standing.verdict, dawn.standing.agreed) == ("agreed", ("Wren",))
    assert [note.text for note in dawn.notes] == ["Warmer"]
    assert [note.text for note, _ in book.notes] == ["Sweep the floor"]
    assert [(one.area, one.wanted, one.old) for one in dawn.light] == [("Deck", "100 lx ± 20 %", False)]
    assert dusk.light == ()
    assert book.views[0].name == "Desk"
    assert sheets_of(book) == 4
    rig.do("move", ids=[rig.truss], by=[0, 0.5, 0])
    assert book_of(rig.show, "s", [rig.look], [rig.view], "").pages[0].light[0].old
    with pytest.raises(JobError):
        book_of(rig.show, "s", ["gone"], [], "")
    assert [clock(t) for t in (0, 65, 65.5, 3599.96)] == ["0:00", "1:05", "1:05.5", "60:00"]
