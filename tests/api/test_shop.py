"""The type shop over HTTP: drafts tried out, finished, types added and changed, with a real live process behind."""

import urllib.error

import pytest

from tests.api.test_api import form
from tests.processes import Program, sender, stop, wait_for
from zarfwright.formats.gdtf import read_gdtf
from zarfwright.library import bittern, shipped


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("shop") / "demo.zarf")
    yield made
    assert made.end() == 0
    assert "Traceback" not in made.output()


def draft_body(program, draft):
    return next(row["body"] for row in program.document()["objects"] if row["id"] == draft)


def tried(program, draft, **question):
    status, answer = program.post(f"/api/shows/SHOW/drafts/{draft}/trial", question)
    assert status == 200, answer
    return answer


def finish(program, draft, preview=False):
    return program.post(f"/api/shows/SHOW/drafts/{draft}/finish?who=tester&preview={str(preview).lower()}", {})


def test_the_library_has_every_sort_of_lamp_with_a_picture(program):
    library = program.get("/api/library")
    assert {entry["maker"] for entry in library} == {"Quillback Lamp Co.", "Ember & Thole", "Plain"}
    assert len(library) == len(shipped())
    for entry in library:
        assert program.raw(f"/api/library/{entry['type_id']}/picture").startswith(b"\x89PNG")
    with pytest.raises(urllib.error.HTTPError):
        program.raw("/api/library/none/picture")


def test_a_shipped_type_is_added_once(program):
    wader = next(entry for entry in program.get("/api/library") if entry["name"] == "Wader")
    status, answer = program.post(f"/api/shows/SHOW/library/{wader['type_id']}?who=tester", {})
    assert status == 200
    added = answer["select"][0]
    assert program.document()["types"][added]["name"] == "Wader"
    assert program.raw(f"/api/shows/SHOW/types/{added}/picture").startswith(b"\x89PNG")
    assert program.post(f"/api/shows/SHOW/library/{wader['type_id']}?who=tester", {})[0] == 400
    program.post("/api/shows/SHOW/undo", {"who": "tester"})
    assert added not in program.document()["types"]


def test_a_draft_is_tried_out_pasted_drawn_finished_and_hung(program):
    draft = program.edit("start draft", kind="moving head", name="Kittiwake", maker="Made up")["select"][0]
    at_home = tried(program, draft)
    assert at_home["checks"] == []
    assert [d["words"] for d in at_home["doing"]] == ["pan 0°", "tilt 0°", "intensity 0 %", "open"]
    assert len(at_home["frame"]) == 1
    assert at_home["body"]["parts"]
    pasted = program.edit(
        "paste channels", id=draft, mode=0, replacing=True,
        text="1 Pan\n2 Tilt\n3 Dimmer\n4 Gobo wheel\n0-99 Open\n100-255 Net\n5 Riddle",
    )  # fmt: skip
    assert pasted["report"] == ["3 to look at: each says what was assumed, or not understood."]
    status, image = program.post("/api/shows/SHOW/gobos", {"pattern": "spiral", "count": 3})
    assert status == 200
    body = draft_body(program, draft)
    body["images"]["net"] = image["asset"]
    body["wheels"][0]["slots"][1]["image"] = "net"
    program.edit("change draft", id=draft, draft=body, what="Picture of Net")
    answer = tried(program, draft, slots={"1": [255, 128, 255, 200, 0]})
    assert answer["gobos"] == [image["key"]]
    assert len(program.raw(f"/api/gobos/{image['key']}")) == 256 * 256
    assert answer["doing"][3]["words"] == "gobo: Net"
    assert [(check["kind"], check["asks"]) for check in answer["checks"]] == [("assumed", True), ("doubt", True)]
    fixture_type, findings = read_gdtf(program.raw(f"/api/shows/SHOW/drafts/{draft}/gdtf"), "k.gdtf")
    assert findings == []
    assert (fixture_type.name, fixture_type.modes[0].footprint) == ("Kittiwake", 5)
    assert set(fixture_type.images) == {"net"}
    status, done = finish(program, draft)
    assert status == 200
    new = done["select"][0]
    document = program.document()
    assert document["types"][new]["modes"][0]["footprint"] == 5
    assert not any(row["kind"] == "draft" for row in document["objects"])
    # It hangs and follows DMX like any other.
    lamp = program.edit("place free", type=new, mode="Standard", position=[0, 0, 5])["select"][0]
    program.edit("address", ids=[lamp], start="40.1")
    other = sender(program, 40)
    try:
        other[40].dmx_data = (255, 128, 255, 200, 0)

        def turned():
            frame = program.get("/api/shows/SHOW/signal")
            return frame["drivers"].get(lamp) == "console"

        wait_for(turned, "the new lamp to be driven")
    finally:
        stop(other)
    for _ in range(2):
        program.post("/api/shows/SHOW/undo", {"who": "tester"})


def test_a_type_in_use_is_changed_with_its_fixtures_and_undone(program):
    document = program.document()
    dunlin = next(key for key, entry in document["types"].items() if entry["name"] == "Dunlin")
    used = [row for row in document["objects"] if row["kind"] == "fixture" and row["body"]["type"] == dunlin]
    draft = program.edit("start draft", of_type=dunlin, change=True)["select"][0]
    body = draft_body(program, draft)
    assert body["kind"] == "as it came"
    first = body["modes"][0]
    body["modes"] = [{**first, "name": "Renamed"}]
    program.edit("change draft", id=draft, draft=body)
    status, preview = finish(program, draft, preview=True)
    assert status == 200
    assert any(f"{len(used)} fixtures go to Renamed" in line for line in preview["report"])
    assert draft in {row["id"] for row in program.document()["objects"]}
    assert finish(program, draft)[0] == 200
    after = program.document()
    assert [mode["name"] for mode in after["types"][dunlin]["modes"]] == ["Renamed"]
    assert {row["body"]["mode"] for row in after["objects"] if row["id"] in {u["id"] for u in used}} == {"Renamed"}
    program.post("/api/shows/SHOW/undo", {"who": "tester"})
    assert program.document()["types"][dunlin] == document["types"][dunlin]


def test_measured_photometry_lights_a_draft(program):
    draft = program.edit("start draft", kind="Fresnel")["select"][0]
    data, headers = form(bittern().ies["Lens"], "fresnel.ies")
    status, taken = program.post("/api/shows/SHOW/photometry", data, headers)
    assert status == 200
    body = draft_body(program, draft)
    body["webs"] = {"Lens": taken["asset"]}
    program.edit("change draft", id=draft, draft=body)
    answer = tried(program, draft, slots={"1": [255]})
    assert len(answer["webs"]) == 1
    assert answer["peak_cd"][0] >= taken["peak_cd"]
    assert program.raw(f"/api/webs/{answer['webs'][0]}")
    data, headers = form(b"no photometry", "x.ies")
    assert program.post("/api/shows/SHOW/photometry", data, headers)[0] == 400


@pytest.mark.parametrize(
    ("path", "body", "says"),
    [
        ("/api/shows/SHOW/gobos", {"pattern": "portrait"}, "is no pattern"),
        ("/api/shows/SHOW/gobos", {"pattern": "dots", "count": 100000}, "count"),
    ],
)
def test_drawings_that_cannot_be_are_refused(program, path, body, says):
    status, answer = program.post(path, body)
    assert status in (400, 422)
    assert says in str(answer)


def test_a_picture_that_is_none_and_a_draft_that_is_not_in_order_are_refused(program):
    data, headers = form(b"no picture", "x.png")
    assert program.post("/api/shows/SHOW/images", data, headers)[0] == 400
    draft = program.edit("start draft", kind="par")["select"][0]
    body = draft_body(program, draft)
    body["modes"][0]["channels"] = []
    program.edit("change draft", id=draft, draft=body)
    status, answer = finish(program, draft)
    assert status == 400
    assert "has no channel yet" in answer["error"]
    status, answer = program.post(f"/api/shows/SHOW/drafts/{draft}/trial", {"slots": {"1": [999]}})
    assert status in (200, 400)
    assert program.get("/api/attributes")[0]["name"] == "Dimmer"
