"""Edits of papers: what they refuse, what they keep, and what is said of papers that are older than the rig."""

import pytest

from zarfwright.core.errors import JobError
from zarfwright.core.readiness import findings
from zarfwright.core.sheet.compose import draw_sheet
from zarfwright.core.sheet.readiness import drawn_findings
from zarfwright.core.sheet.record import changes_since, compared, last_issue, next_revision


def papers(bench):
    return [one.text for one in findings(bench.show) if one.step == "papers"]


def rig(bench):
    truss = bench.made("add truss", length="8m", start_trim="6m", name="Truss 1")
    heads = bench.do("place along rail", structure=truss, type="heron", count="3", first_number="11").select
    return truss, heads


def test_sheets_are_numbered_on_and_keep_who_drew_them(bench):
    truss, _ = rig(bench)
    first = bench.made("add sheet", look="plan", number="LX 09", drawn_by="Wren")
    second = bench.made("add sheet", of=[truss])
    assert bench.body(second).number == "LX 10"
    assert bench.body(second).drawn_by == "Wren"
    assert bench.body(second).name == "Truss 1"
    assert [item.id for item in bench.show.of_kind("sheet")] == [first, second]
    bench.do("order sheets", ids=[second, first])
    assert [item.id for item in bench.show.of_kind("sheet")] == [second, first]


@pytest.mark.parametrize(
    ("kind", "args", "field"),
    [
        ("add sheet", {"paper": "B9"}, "paper"),
        ("add sheet", {"of": ["heron"]}, "of"),
        ("set sheet", {"name": "  "}, "name"),
        ("set view", {"scale": "large"}, "scale"),
        ("set view", {"region": [0, 0, 0, 5]}, "region"),
        ("set view", {"view": "v9"}, "view"),
        ("put label", {"at": [9000, 0]}, "at"),
        ("add dimension", {"sort": "free"}, "end"),
        ("set dimension", {"dimension": "d9", "off_mm": 1}, "dimension"),
        ("write on sheet", {"text": "Nowhere"}, "text"),
        ("write on sheet", {"words": "w9", "text": "x"}, "words"),
        ("issue papers", {"date": "tomorrow"}, "date"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(bench, kind, args, field):
    _, heads = rig(bench)
    sheet = bench.made("add sheet", look="plan")
    before = bench.show
    of_view = {"id": sheet, "view": "v1"}
    start = {"set sheet": {"ids": [sheet]}, "set view": of_view, "put label": {**of_view, "fixture": heads[0]},
             "add dimension": of_view, "set dimension": of_view, "write on sheet": {"id": sheet}}  # fmt: skip
    with pytest.raises(JobError) as wrong:
        bench.do(kind, **{**start.get(kind, {}), **args})
    assert wrong.value.field == field
    assert bench.show is before


def test_a_view_off_smaller_paper_is_put_back_where_there_is_room(bench):
    rig(bench)
    sheet = bench.made("add sheet", look="plan", paper="A1")
    bench.do("set view", id=sheet, view="v1", at=[700, 500])
    bench.do("set sheet", ids=[sheet], paper="A4")
    assert bench.body(sheet).views[0].at is None


def test_what_is_typed_of_one_plane_is_not_kept_in_another(bench):
    rig(bench)
    sheet = bench.made("add sheet", look="plan")
    bench.do("set view", id=sheet, view="v1", cut="2m", region=[-5, -5, 5, 5])
    bench.do("set view", id=sheet, view="v1", look="front")
    assert bench.body(sheet).views[0].cut_m is None
    assert bench.body(sheet).views[0].region is None
    bench.do("set view", id=sheet, view="v1", cut="US 2")
    assert bench.body(sheet).views[0].cut_m == 2.0


@pytest.mark.parametrize(
    ("numbers", "then"),
    [([], "A"), (["A"], "B"), (["A", "Z"], "AA"), (["AZ"], "BA"), (["3"], "4"), (["final"], "final 2")],
)
def test_revisions_go_on_from_the_last_one(numbers, then):
    assert next_revision(numbers) == then


def test_only_the_newest_revision_is_held_against_the_rig(bench):
    _, heads = rig(bench)
    with pytest.raises(JobError, match="no sheet"):
        bench.do("issue papers")
    bench.do("add sheet", look="plan")
    bench.do("issue papers")
    bench.do("issue papers")
    first, second = (item.body for item in bench.show.of_kind("issue"))
    assert (first.number, second.number) == ("A", "B")
    assert first.rig == {}
    assert set(second.rig) >= set(heads)
    with pytest.raises(JobError, match="already"):
        bench.do("issue papers", number="A")


def test_what_changed_is_said_thing_by_thing_in_words(bench):
    truss, heads = rig(bench)
    bench.do("add sheet", look="plan")
    bench.do("issue papers")
    issue = last_issue(bench.show)
    assert changes_since(bench.show, issue) == []
    bench.do("address", ids=[heads[0]], start="2.1")
    bench.do("remove", ids=[heads[1]])
    bench.do("move", ids=[heads[2]], by=[0.1, 0, 0])
    new = bench.made("place free", type="dunlin", position=[0, 0, 0], number=40)
    said = {one.id: (one.sort, one.text) for one in changes_since(bench.show, issue)}
    assert said[heads[0]] == ("changed", "fixture 11: address none, now 2.001")
    assert said[heads[1]] == ("gone", "fixture 12 is gone")
    assert said[new] == ("new", "fixture 40 is new")
    assert said[heads[2]][1].startswith("fixture 13: along ")
    bench.do("set field", ids=[truss], field="trim", text="5m")
    assert "Truss 1: height 6.000 to 6.000, now 5.000 to 5.000" in [
        one.text for one in changes_since(bench.show, issue)
    ]
    assert compared({}, {}) == []


def test_readiness_says_what_is_older_than_the_rig_and_what_is_on_no_sheet(bench):
    truss, heads = rig(bench)
    assert papers(bench) == []
    sheet = bench.made("add sheet", of=[truss])
    assert papers(bench) == []
    bench.do("place free", type="dunlin", position=[0, 0, 0], number=40)
    assert papers(bench) == ["1 thing is on no sheet: fixture 40. Put a view of them on a sheet."]
    bench.do("add view", id=sheet, look="plan")
    bench.do("issue papers")
    assert papers(bench) == []
    bench.do("address", ids=[heads[0]], start="2.1")
    (said,) = papers(bench)
    assert said.startswith("The papers are older than the rig: since revision A fixture 11: address none, now 2.001.")
    bench.do("issue papers")
    bench.do("set sheet", ids=[sheet], paper="A2")
    assert ["has changed since revision B" in text for text in papers(bench)] == [True]
    bench.do("issue papers")
    bench.do("set field", ids=[heads[0], heads[1]], field="unit", text="7")
    assert any("unit 7 2 times on one rail" in text for text in papers(bench))


def test_what_is_wrong_with_a_drawn_sheet_is_said(bench):
    rig(bench)
    sheet = bench.made("add sheet", look="plan", paper="A4")

    def said():
        return [one.text for one in drawn_findings(sheet, draw_sheet(bench.show, bench.body(sheet)))]

    assert said() == []
    bench.do("set view", id=sheet, view="v1", scale="1:10")
    assert any("reaches over the border at 1:10" in text for text in said())
    bench.do("set view", id=sheet, view="v1", scale="1:2000")
    assert any("nothing can be read" in text for text in said())
    assert any("without room" in text for text in said())
