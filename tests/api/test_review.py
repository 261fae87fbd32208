"""Review over the API: light and sight, the look book and what comes back from it, reviews that were closed."""

import io
import json
import re
import urllib.error
import urllib.request

import pytest
from PIL import Image

from tests.api.test_looks import look, picture, put
from tests.processes import Program, wait_for


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("review") / "demo.zarf")
    yield made
    assert made.end() == 0
    assert "Traceback" not in made.output()


def raw(program, path, data=None, **headers):
    path = path.replace("SHOW", program.document()["id"])
    asked = urllib.request.Request(program.url + path, data, headers=headers)
    with urllib.request.urlopen(asked) as answer:
        return answer.read(), answer.headers


def post(program, path, body):
    status, answer = program.post(f"/api/shows/SHOW{path}", body)
    assert status == 200, answer
    return answer


def form(data, name="notes.json"):
    line = "line-between"
    head = f'--{line}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode()
    return head + data + f"\r\n--{line}--\r\n".encode(), {"Content-Type": f"multipart/form-data; boundary={line}"}


def measured(program):
    deck = next(row["id"] for row in program.document()["objects"] if row["kind"] == "deck")
    flood = look(program, "Flood")["id"]
    area = program.edit("add area", deck=deck, points="8x5", people=True, wanted="1 lx", wanted_in=[flood])["select"][0]
    job = post(program, "/jobs", {"kind": "measure light", "args": {"ids": [area]}, "who": "me"})["id"]
    wait_for(lambda: program.get(f"/api/shows/SHOW/jobs/{job}")["job"]["state"] == "done", "the light to be measured")
    return area, flood


def test_light_is_measured_as_a_job_and_told_as_a_map_with_its_finding(program):
    area, flood = measured(program)
    found = program.get(f"/api/shows/SHOW/areas/{area}/map?look={flood}")
    assert found["points"] == [8, 5]
    assert (len(found["lux"]), len(found["places"])) == (40, 54)
    assert found["fresh"]
    assert found["least"] <= found["mean"] <= found["most"]
    assert found["most"] == pytest.approx(max(found["lux"]), rel=1e-4)
    assert len(found["colours"]) > 10
    kept = next(row for row in program.document()["objects"] if row["id"] == area)["body"]["maps"][flood]
    document = program.document()
    assert kept["made_of"] == f"{document['stand']} {document['looks'][flood]['prints']}"
    assert kept["mean"] == pytest.approx(found["mean"], rel=1e-3)
    wait_for(lambda: any("lx wanted there" in one["text"] for one in program.document()["findings"]), "its finding")
    # Where light falls, the map and who lights it say the same.
    brightest = found["lux"].index(max(found["lux"]))
    x, y = brightest % 8, brightest // 8
    corners = [found["places"][(y + k) * 9 + x + i] for i in (0, 1) for k in (0, 1)]
    middle = [sum(corner[axis] for corner in corners) / 4 for axis in range(3)]
    lit = post(program, "/lit", {"point": middle, "normal": [0, 0, 2], "look": flood})
    assert lit["lux"] == pytest.approx(found["most"], rel=0.02)
    assert sum(part["share"] for part in lit["parts"]) == pytest.approx(1.0)
    assert post(program, "/lit", {"point": middle, "normal": [0, 0, 1]})["lux"] >= 0
    with pytest.raises(urllib.error.HTTPError):
        program.get(f"/api/shows/SHOW/areas/{area}/map?look=never")
    assert program.post("/api/shows/SHOW/lit", {"point": middle, "normal": [0, 0, 0]})[0] == 400
    program.edit("remove", ids=[area])


def test_every_seat_says_what_it_sees(program):
    seats = program.get("/api/shows/SHOW/seats")
    found = post(program, "/sight", {"point": [0, 2, 4]})
    assert [one["id"] for one in found["seats"]] == [seat["id"] for seat in seats]
    assert found["of"] == len(seats) == sum(block["of"] for block in found["blocks"])
    assert found["seeing"] == sum(block["seeing"] for block in found["blocks"])
    empty = post(program, "/sight", {"point": [0, 2, 1.3], "people": "left out"})
    there = post(program, "/sight", {"point": [0, 2, 1.3]})
    assert empty["seeing"] >= there["seeing"]
    behind = post(program, "/sight", {"point": [0, 2, 4], "normal": [0, 1, 0]})
    assert behind["seeing"] < found["seeing"]


def test_a_note_keeps_the_picture_that_it_is_drawn_on(program):
    body, headers = form(picture("teal"), "note.png")
    asset = json.loads(raw(program, "/api/shows/SHOW/note-pictures", body, **headers)[0])["asset"]
    strokes = [{"kind": "circle", "places": [[0.5, 0.5], [0.6, 0.5]]}]
    note = program.edit("write note", text="Here", picture=asset, strokes=strokes)["select"][0]
    data, told = raw(program, f"/api/shows/SHOW/notes/{note}/picture")
    assert told["Content-Type"] == "image/jpeg"
    assert Image.open(io.BytesIO(data)).size == (640, 360)
    body, headers = form(b"no picture", "note.png")
    with pytest.raises(urllib.error.HTTPError):
        raw(program, "/api/shows/SHOW/note-pictures", body, **headers)
    program.edit("remove", ids=[note])


def test_notes_go_to_papers_open_ones_first(program):
    flood = look(program, "Flood")["id"]
    done = program.edit("write note", text="=1+1", by="Wren", about=flood, tags=["focus"])["select"][0]
    program.edit("set note", ids=[done], done=True)
    program.edit("answer note", id=done, text="So it is", by="Teal")
    left = program.edit("write note", text="Colder", by="Teal", look=flood)["select"][0]
    rows = raw(program, "/api/shows/SHOW/papers/notes.csv")[0].decode("utf-8-sig").splitlines()
    assert rows[0] == "Note,On,In look,Who,When,Tags,State,Answers"
    assert rows[1].startswith("Colder,,")
    assert ",done,Teal: So it is" in rows[2]
    # A spreadsheet takes no note for a formula.
    assert not rows[2].startswith("=")
    program.edit("remove", ids=[done, left])


def told_in(page):
    return json.loads(re.search(rb'id="told">(.*?)</script>', page, re.DOTALL)[1])


def test_a_book_is_made_of_the_pictures_that_are_there_and_its_notes_come_back_once(program):
    view = program.edit("add viewpoint", name="Desk", eye=[0, -20, 2], target=[0, 0, 2])["select"][0]
    flood, ebb = look(program, "Flood")["id"], look(program, "Ebb")["id"]
    where = f"/api/shows/SHOW/looks/{flood}/seen?viewpoint={view}&made_of=now"
    assert put(program, where, picture("navy")) == 200
    assert program.document()["pictures"][f"{flood} {view}"] == "now"
    assert put(program, f"/api/shows/SHOW/looks/{flood}/seen?viewpoint=gone", picture("navy")) == 400
    wish = json.dumps({"looks": [flood, ebb], "viewpoints": [view]}).encode()
    page, headers = raw(program, "/api/shows/SHOW/book", wish, **{"Content-Type": "application/json"})
    assert "look book.html" in headers["Content-Disposition"]
    book = told_in(page)
    assert [one["name"] for one in book["pages"]] == ["Flood", "Ebb"]
    assert [*book["pictures"]] == [f"{flood} {view}"]
    wish = json.dumps({"kind": "pdf", "viewpoints": [view]}).encode()
    pdf, _ = raw(program, "/api/shows/SHOW/book", wish, **{"Content-Type": "application/json"})
    assert pdf.startswith(b"%PDF")
    notes = [{"text": "Lovely", "by": "Wren", "about": flood, "look": flood}, {"text": "?", "about": "gone"}]
    sent = {"format": "look book notes", "version": 1, "show": program.document()["id"], "notes": notes}
    body, headers = form(json.dumps(sent).encode())
    seen = json.loads(raw(program, "/api/shows/SHOW/notes/sent?preview=true", body, **headers)[0])
    assert (seen["sentence"], seen["notes"]) == ("Take in 1 note", 1)
    assert seen["report"] == ["1 are on looks that are gone, and were left out."]
    assert not any(row["kind"] == "note" for row in program.document()["objects"])
    raw(program, "/api/shows/SHOW/notes/sent", body, **headers)
    assert program.document()["counts"]["review"] == 1
    with pytest.raises(urllib.error.HTTPError) as refused:
        raw(program, "/api/shows/SHOW/notes/sent", body, **headers)
    assert "nothing new" in refused.value.read().decode()


def test_what_changed_is_told_against_the_review_that_was_closed_last(program):
    assert program.get("/api/shows/SHOW/review") == {"name": "", "point": None, "changes": []}
    flood = look(program, "Flood")["id"]
    assert put(program, f"/api/shows/SHOW/looks/{flood}/picture?made_of=then", picture("olive")) == 200
    name = post(program, "/review", {})["name"]
    assert name.startswith("Review of ")
    assert any(point["name"] == name for point in program.get("/api/shows/SHOW/points"))
    assert program.get("/api/shows/SHOW/review")["changes"] == []
    fixture = next(row["id"] for row in program.document()["objects"] if row["kind"] == "fixture")
    program.edit("set in look", id=flood, values={fixture: {"dimmer": 0.123}})
    program.edit("add piece", piece="steps", name="New steps", z="0")
    changes = program.get("/api/shows/SHOW/review")["changes"]
    assert [one["sort"] for one in changes] == ["added", "look"]
    assert changes[0]["text"] == "New steps is new."
    data, _ = raw(program, f"/api/shows/SHOW/looks/{flood}/seen?viewpoint=before")
    assert Image.open(io.BytesIO(data)).getpixel((5, 5))[2] < 40
    book = told_in(raw(program, "/api/shows/SHOW/book", b"{}", **{"Content-Type": "application/json"})[0])
    assert book["since"] == name
    assert len(book["changes"]) == 2
    assert f"{flood} before" in book["pictures"]
