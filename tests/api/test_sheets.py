"""Sheets and schedules over the API."""

import csv
import io
import urllib.error

import pypdf
import pytest

from tests.api.test_review import raw
from tests.processes import Program


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("sheets") / "demo.zarf")
    yield made
    assert made.end() == 0
    assert "Traceback" not in made.output()


@pytest.fixture(scope="module")
def sheet(program):
    return program.edit("add sheet", look="plan", number="L1", name="Plan", paper="A2")["select"][0]


def asked(program, path):
    with pytest.raises(urllib.error.HTTPError) as wrong:
        raw(program, path)
    return wrong.value.code, wrong.value.read().decode()


def test_a_sheet_is_drawn_and_not_sent_again_while_nothing_on_it_has_changed(program, sheet):
    path = f"/api/shows/SHOW/sheets/{sheet}"
    first = program.get(path)
    assert (first["width"], first["height"]) == (594, 420)
    assert first["svg"].startswith("<svg ")
    (view,) = first["views"]
    assert view["scale_text"] == f"1:{view['scale']}"
    assert {label["fixture"] for label in view["labels"]}
    again = program.get(f"{path}?have={first['drawn']}")
    assert (again["drawn"], again["svg"]) == (first["drawn"], "")
    program.edit("keep look", name="Not on paper", values={})
    assert program.get(f"{path}?have={first['drawn']}")["svg"] == ""
    program.edit("set sheet", ids=[sheet], name="The plan")
    fresh = program.get(f"{path}?have={first['drawn']}")
    assert fresh["drawn"] > first["drawn"]
    assert "The plan" in fresh["svg"]


def test_a_sheet_is_a_file_of_each_kind_named_after_the_show(program, sheet):
    for kind, start in (("pdf", b"%PDF-"), ("svg", b"<svg "), ("dxf", b"  0\nSECTION")):
        data, headers = raw(program, f"/api/shows/SHOW/sheets/{sheet}/file?kind={kind}")
        assert data.startswith(start)
        assert f".{kind}" in headers["Content-Disposition"]
    tiles, _ = raw(program, f"/api/shows/SHOW/sheets/{sheet}/file?tiles=A4")
    assert len(pypdf.PdfReader(io.BytesIO(tiles)).pages) > 3
    program.edit("add sheet", look="front", number="L2", paper="A3")
    data, _ = raw(program, "/api/shows/SHOW/papers/set.pdf")
    assert len(pypdf.PdfReader(io.BytesIO(data)).pages) == 2
    for wrong in ("kind=png", "on=B9", "kind=dxf&on=A4"):
        code, told = asked(program, f"/api/shows/SHOW/sheets/{sheet}/file?{wrong}")
        assert code in (400, 422)
        assert "error" in told
    assert asked(program, "/api/shows/SHOW/sheets/nothing")[0] in (400, 404)


def test_what_changed_since_the_papers_were_issued_is_told_and_marked_in_lists(program, sheet):
    assert program.get("/api/shows/SHOW/papers/issued") == {"since": "", "changes": [], "sheets": []}
    program.edit("issue papers", date="2026-11-30")
    lamp = next(row for row in program.document()["objects"] if row["kind"] == "fixture")
    program.edit("set field", ids=[lamp["id"]], field="purpose", text="Something else")
    told = program.get("/api/shows/SHOW/papers/issued")
    assert told["since"] == "A"
    assert [one["id"] for one in told["changes"]] == [lamp["id"]]
    table = program.get("/api/shows/SHOW/schedules/hookup")
    assert table["since"] == "A"
    assert [table["things"][i] for i in table["changed"]] == [[lamp["id"]]]
    data, _ = raw(program, "/api/shows/SHOW/schedules/hookup/csv")
    rows = list(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))))
    assert [row["Number"] for row in rows if row["Since A"] == "changed"] == [str(lamp["body"]["number"])]
    program.edit("set sheet", ids=[sheet], paper="A1")
    assert program.get("/api/shows/SHOW/papers/issued")["sheets"] == [sheet]


def test_a_schedule_is_told_as_it_is_arranged_with_all_that_it_could_have(program):
    program.edit("set list", name="instruments", columns=["Number", "Type"], order=["-Number"], group="")
    table = program.get("/api/shows/SHOW/schedules/instruments")
    assert table["columns"] == ["Number", "Type"]
    assert "Circuit" in table["every"]
    numbers = [row[0] for row in table["rows"]]
    assert numbers == sorted(numbers, reverse=True)
    assert {one["name"] for one in table["totals"]} >= {"fixtures", "weight kg", "power W"}
    data, _ = raw(program, "/api/shows/SHOW/schedules/instruments/pdf?paper=A3")
    assert float(pypdf.PdfReader(io.BytesIO(data)).pages[0].mediabox.width) > 1100
    assert asked(program, "/api/shows/SHOW/schedules/gardens")[0] in (400, 404)
