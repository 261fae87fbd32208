"""The desk over HTTP: real processes, real files."""

from __future__ import annotations

import csv
import io
import math
import urllib.error

import pytest

from tests.processes import Program, sender, stop, wait_for
from zarfwright.formats.gdtf import read_gdtf, write_gdtf
from zarfwright.library import heron


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("api") / "demo.zarf")
    yield made
    assert made.end() == 0
    assert "Traceback" not in made.output()


def form(data: bytes, name: str = "lamp.gdtf") -> tuple[bytes, dict[str, str]]:
    body = (
        b'--x\r\nContent-Disposition: form-data; name="file"; filename="'
        + name.encode()
        + b'"\r\n\r\n'
        + data
        + b"\r\n--x--\r\n"
    )
    return body, {"Content-Type": "multipart/form-data; boundary=x"}


def test_the_demo_holds_what_it_promises(program):
    document = program.document()
    kinds = [row["kind"] for row in document["objects"]]
    assert {kind: kinds.count(kind) for kind in ("venue", "deck", "truss", "fixture", "figure", "type", "look")} == {
        "venue": 1, "deck": 3, "truss": 3, "fixture": 29, "figure": 105, "type": 5, "look": 3,
    }  # fmt: skip
    assert {entry["name"] for entry in document["types"].values()} == {"Heron", "Dunlin", "Plover", "Teal", "Bittern"}


def test_the_demos_faults_are_found_and_nothing_else(program):
    assert sorted(finding["text"] for finding in program.document()["findings"]) == [
        "Fixture 85 has no address: no console can drive it. Give it one.",
        "Fixture 86 is in mid-air at 5.20 m: hang it on a rail or put it on the floor.",
        "Number 83 is given to 2 fixtures: renumber all but one.",
    ]


@pytest.mark.parametrize(
    ("kind", "args", "field", "says"),
    [
        ("add deck", {"width": "wide"}, "width", "is not a length"),
        ("add deck", {"width": "6 cubits"}, "width", "unit “cubits” is not known"),
        ("add truss", {"length": ""}, "length", "Nothing was typed"),
        ("add truss", {"length": "2m", "end_trim": "9m"}, "end_trim", "cannot rise"),
        ("fly", {}, None, "no edit called"),
        ("move", {"ids": ["x"], "by": [1, 2]}, "by", "cannot be used"),
    ],
)
def test_wrong_input_is_refused_with_what_where_and_what_to_do(program, kind, args, field, says):
    before = program.document()["rev"]
    status, answer = program.post("/api/shows/SHOW/edits", {"kind": kind, "args": args})
    assert status == 400
    assert says in answer["error"]
    assert field is None or answer["field"].startswith(field)
    assert program.document()["rev"] == before


def test_what_is_no_request_is_refused_in_words(program):
    assert program.post("/api/shows/SHOW/edits", b"{nonsense")[0] in (400, 422)
    status, answer = program.post("/api/shows/other/edits", {"kind": "move", "args": {}})
    assert status == 404
    assert "not open here" in answer["error"]
    status, _ = program.post("/api/shows/SHOW/undo", {}, {"Origin": "http://elsewhere.example"})
    assert status == 403
    assert program.post("/api/shows/SHOW/undo", {}, {"Host": "elsewhere.example"})[0] == 403


def test_a_gdtf_is_described_first_added_when_asked_and_given_back_as_it_came(program):
    from dataclasses import replace

    data = write_gdtf(replace(heron(), name="Sandpiper"))
    before = program.document()["rev"]
    body, headers = form(data)
    status, seen = program.post("/api/shows/SHOW/types?preview=true", body, headers)
    assert (status, seen["name"], seen["added"]) == (200, "Sandpiper", False)
    assert program.document()["rev"] == before
    status, seen = program.post("/api/shows/SHOW/types", body, headers)
    assert (status, seen["added"]) == (200, True)
    types = program.document()["types"]
    key = next(key for key, entry in types.items() if entry["name"] == "Sandpiper")
    assert program.raw(f"/api/shows/SHOW/types/{key}/gdtf") == data
    assert read_gdtf(data, "a")[0].name == "Sandpiper"
    program.post("/api/shows/SHOW/undo", {"who": "somebody"})
    assert key not in program.document()["types"]


def test_a_gdtf_that_is_no_zip_is_refused_and_nothing_is_lost(program):
    before = program.document()
    body, headers = form(b"GIF89a, not a zip", "picture.gdtf")
    status, answer = program.post("/api/shows/SHOW/types", body, headers)
    assert status == 400
    assert answer["error"].startswith("picture.gdtf is not a zip archive")
    assert program.document()["rev"] == before["rev"]


def test_the_patch_list_is_csv(program):
    rows = list(csv.DictReader(io.StringIO(program.raw("/api/shows/SHOW/papers/patch.csv").decode("utf-8-sig"))))
    assert len(rows) == 29
    assert [row["Address"] for row in rows if row["Number"] == "62"] == ["17"]


def test_dimmers_are_told_with_their_loads_and_listed(program):
    dimmers = program.get("/api/shows/SHOW/dimmers")["dimmers"]
    assert [one["number"] for one in dimmers] == list(range(1, 13))
    first = dimmers[0]
    assert (first["place"], first["load_w"], first["carries_w"]) == ("3.401", 1000.0, 2300.0)
    rows = list(csv.DictReader(io.StringIO(program.raw("/api/shows/SHOW/papers/circuits.csv").decode("utf-8-sig"))))
    assert [(row["Channels"], row["Left W"]) for row in rows[:2]] == [("21", "1300"), ("22", "1300")]


def test_a_preview_gives_a_ghost_and_changes_nothing(program):
    truss = next(row["id"] for row in program.document()["objects"] if row["kind"] == "truss")
    request = {"kind": "move", "args": {"ids": [truss], "by": [1, 0, 0]}, "preview": True}
    status, answer = program.post("/api/shows/SHOW/edits", request)
    assert status == 200
    assert len(answer["ghost"]["mounts"]) == 10
    assert answer.get("update") is None


def test_any_sacn_sender_drives_the_picture_and_its_last_levels_are_held(program):
    other = sender(program, name="Quay desk")
    try:
        # Heron 61 at 1.001: dimmer on slot 5, shutter open on slot 6.
        other[1].dmx_data = (0, 0, 0, 0, 255, 32)
        seen = wait_for(lambda: (program.signal().get("universes") or [None])[0], "a source")
        assert (seen["state"], seen["sources"][0]["name"]) == ("live", "Quay desk")
        heron_61 = next(row["id"] for row in program.document()["objects"] if row["body"].get("number") == 61)
        wait_for(lambda: program.signal()["drivers"].get(heron_61) == "console", "the console to drive 61")
        kept = program.edit("keep look", name="From the quay")["select"][0]
        said = program.look_values(kept)[heron_61]
        assert said["dimmer"] == 1.0
        assert said["pan"] == pytest.approx(-4.712389, abs=1e-5)
    finally:
        stop(other)
    held = wait_for(
        lambda: next((u for u in program.signal()["universes"] if u["state"] == "held"), None), "held levels"
    )
    assert (held["last_source"], held["lit_slots"]) == ("Quay desk", 2)
    kept = program.edit("keep look", name="After it")["select"][0]
    assert program.look_values(kept)[heron_61]["dimmer"] == 1.0


def test_the_doctor_is_asked_from_the_screen_and_its_one_action_is_an_edit(program):
    key = program.edit("add connection", name="Desk", interface="eth99", address="10.9.9.9")["select"][0]
    try:
        wait_for(lambda: [one["state"] for one in program.signal()["connections"]] == ["wrong"], "the connection")
        status, report = program.post("/api/shows/SHOW/doctor", {"seconds": 0.5})
        assert (status, report["listening"]) == (200, True)
        assert program.post("/api/shows/SHOW/doctor", {"seconds": 0.5})[0] == 400
        report = wait_for(
            lambda: (r := program.get("/api/shows/SHOW/doctor"))["causes"] is not None and not r["listening"] and r,
            "what the doctor found",
        )
        cause = next(one for one in report["causes"] if one["cause"] == "no_link")
        assert "eth99 (10.9.9.9) is gone" in cause["evidence"]
        program.edit(cause["edit"], **cause["args"])
        wait_for(lambda: [one["state"] for one in program.signal()["connections"]] == ["silent"], "it to be heard")
    finally:
        program.edit("remove", ids=[key])
    wait_for(lambda: program.signal()["connections"][0]["id"] == "as started sACN", "it to hear as started")


def test_the_simulated_console_plays_from_the_csv_alone_and_tells_when_it_ends(program):
    status, refused = program.post("/api/shows/SHOW/simulated/simulated-9", {"do": "play"})
    assert status == 400
    assert "not running" in refused["error"]
    status, started = program.post("/api/shows/SHOW/simulated", {})
    assert status == 200, started
    place = f"/api/shows/SHOW/simulated/{started['key']}"

    def one():
        return next(c for c in program.get("/api/shows/SHOW/simulated")["consoles"] if c["key"] == started["key"])

    def console(**command):
        status, answer = program.post(place, command)
        assert status == 200, answer

    state = wait_for(lambda: (s := one()["state"]) and s["fixtures"] and s, "the console's screen")
    assert (state["fixtures"], state["universes"]) == (28, [1, 2, 3])
    assert [row["number"] for row in program.get(place)["rows"]] == sorted(
        row["body"]["number"]
        for row in program.document()["objects"]
        if row["kind"] == "fixture" and row["body"].get("address")
    )
    console(do="next")
    console(do="level", number=61, level=1.0)
    console(do="master", level=0.5)
    held = [{"number": 61, "function": "Dimmer", "value": 1.0}]
    wait_for(lambda: one()["state"]["editor"] == held, "the level")
    live = wait_for(
        lambda: next((u for u in program.signal()["universes"] if u["state"] == "live"), None), "live levels"
    )
    assert live["sources"][0]["name"] == "Simulated console"
    heron_61 = next(row["id"] for row in program.document()["objects"] if row["body"].get("number") == 61)

    def dimmer():
        kept = program.edit("keep look", name="Seen")["select"][0]
        return program.look_values(kept)[heron_61]["dimmer"]

    wait_for(lambda: abs(dimmer() - 0.5) < 0.01, "61 at half by the grand master")
    console(do="level", number=999, level=1.0)
    wait_for(lambda: "no fixture 999" in one()["problem"], "the console's complaint")
    console(do="end")
    wait_for(lambda: all(u["state"] == "held" for u in program.signal()["universes"]), "held levels", 2.0)
    assert program.get("/api/shows/SHOW/simulated") == {"consoles": [], "problem": ""}


def test_malformed_packets_leave_the_live_process_up(program):
    import socket

    pid = program.live_pid()
    assert pid
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as udp:
        for data in (b"", b"x", b"\x00" * 2000, b"\x00\x10\x00\x00ASC-E1.17\x00\x00\x00" + b"\xff" * 200):
            udp.sendto(data, (program.sacn_address, 5568))
    wait_for(lambda: sum(program.signal()["dropped"].values()) >= 4, "the packets to be counted")
    assert program.live_pid() == pid


def test_the_program_starts_again_and_ends_well_when_told(tmp_path):
    made = Program(tmp_path / "second.zarf")
    assert made.end() == 0
    again = Program(tmp_path / "second.zarf")
    live = again.live_pid()
    assert again.end() == 0
    from pathlib import Path

    wait_for(lambda: not Path(f"/proc/{live}").exists(), "the live process to end with the desk")


def test_lux_under_the_pointer_come_from_core_with_what_stands_in_the_way(program):
    flood = next(row["id"] for row in program.document()["objects"] if row["body"].get("name") == "Flood")
    program.edit("play look", id=flood)
    status, lit = program.post("/api/shows/SHOW/lux", {"point": [1.2, 3.6, 1.1], "normal": [0, 0, 1]})
    assert status == 200
    assert lit["lux"] > 1000
    _, turned = program.post("/api/shows/SHOW/lux", {"point": [1.2, 3.6, 1.1], "normal": [0, 0, -1]})
    assert turned["lux"] < 0.05 * lit["lux"]
    _, under = program.post("/api/shows/SHOW/lux", {"point": [1.2, 3.6, 0.3], "normal": [0, 0, 1]})
    assert under["lux"] == 0
    status, refused = program.post("/api/shows/SHOW/lux", {"point": [0, 0, 0], "normal": [0, 0, 0]})
    assert status == 400
    assert "point at a surface" in refused["error"]
    landings = program.get("/api/shows/SHOW/landings")
    names = {row["id"]: row["body"].get("name") for row in program.document()["objects"]}
    on = {names[one["thing"]] for one in landings}
    assert {"Main deck", "Sail cloth", "Halyard Shed"} <= on
    assert all(one["throw_m"] > 0 and one["field_m"] > 0 for one in landings)


def test_gobo_images_and_webs_are_served_by_key_and_others_are_refused(program):
    types = {entry["name"]: key for key, entry in program.document()["types"].items()}
    lamp, _ = read_gdtf(program.raw(f"/api/shows/SHOW/types/{types['Heron']}/gdtf"), "a")
    assert len(program.raw(f"/api/gobos/{next(iter(lamp.image_keys.values()))}")) == 256 * 256
    fresnel, _ = read_gdtf(program.raw(f"/api/shows/SHOW/types/{types['Bittern']}/gdtf"), "a")
    assert len(program.raw(f"/api/webs/{fresnel.webs['Lens'].key}")) == 128 * 64 * 4
    for path in ("/api/gobos/none", "/api/webs/none"):
        with pytest.raises(urllib.error.HTTPError) as refused:
            program.get(path)
        assert refused.value.code == 404


@pytest.mark.parametrize(
    ("args", "field", "says"),
    [
        ({"iso": 3}, "iso", "at least 25"),
        ({"aperture": 100}, "aperture", "at most 64"),
        ({"white_k": 200}, "white_k", "at least 1700"),
        ({"haze_uneven": 2}, "haze_uneven", "at most 1"),
        ({"background_low": "red"}, "background_low", "is not a colour"),
    ],
)
def test_exposure_and_air_stay_within_what_there_is(program, args, field, says):
    status, answer = program.post("/api/shows/SHOW/edits", {"kind": "set show", "args": args})
    assert (status, answer["field"]) == (400, field)
    assert says in answer["error"]


def test_a_start_sets_the_exposure_in_one_step_and_the_camera_follows(program):
    before = program.document()["camera"]["ev100"]
    answer = program.edit("set show", exposure_start="day")
    assert answer["sentence"] == "Change exposure"
    camera = program.document()["camera"]
    assert camera["ev100"] == pytest.approx(math.log2(11**2 * 200), abs=1e-6)
    assert camera["shown_per_cd"] == pytest.approx(1 / (1.2 * 2 ** camera["ev100"]))
    program.post("/api/shows/SHOW/undo", {"who": "tester"})
    assert program.document()["camera"]["ev100"] == before


def test_quick_edits_of_ones_own_do_not_conflict_and_anothers_do(program):
    before = program.document()["rev"]
    request = {"kind": "set show", "args": {"iso": 400}, "who": "quick", "base_rev": before}
    assert program.post("/api/shows/SHOW/edits", request)[0] == 200
    # Typed on before the answer came: the base is one edit old.
    assert program.post("/api/shows/SHOW/edits", {**request, "args": {"aperture": 4.0}})[0] == 200
    status, answer = program.post("/api/shows/SHOW/edits", {**request, "args": {"iso": 100}, "who": "slow"})
    assert status == 409
    assert "Somebody changed this" in answer["error"]


def test_restore_points_and_going_back_in_the_history(program):
    before = program.document()
    status, points = program.post("/api/shows/SHOW/points", {"name": "Before the storm"})
    assert (status, points[0]["name"]) == (200, "Before the storm")
    deck = program.edit("add deck", who="storm", width="3m", name="Raft")["select"][0]
    first = program.get("/api/shows/SHOW/history")[0]["seq"]
    program.edit("set field", who="storm", ids=[deck], field="width", text="5m")
    program.edit("add deck", who="storm", width="1m", name="Buoy")
    # After an entry of the history: the raft is there, 3 m wide, the buoy is not.
    assert program.post("/api/shows/SHOW/back", {"who": "storm", "seq": first})[0] == 200
    names = {row["body"].get("name"): row["body"] for row in program.document()["objects"] if row["kind"] == "deck"}
    assert names["Raft"]["width_m"] == pytest.approx(3.0)
    assert "Buoy" not in names
    # To the named point, and that undone again.
    assert program.post("/api/shows/SHOW/back", {"who": "storm", "point": points[0]["id"]})[0] == 200

    def bodies(document):
        return {row["id"]: row["body"] for row in document["objects"]}

    assert bodies(program.document()) == bodies(before)
    program.post("/api/shows/SHOW/undo", {"who": "storm"})
    assert deck in bodies(program.document())
    program.post("/api/shows/SHOW/back", {"who": "storm", "point": points[0]["id"]})
    status, answer = program.post("/api/shows/SHOW/back", {"who": "storm", "point": points[0]["id"]})
    assert (status, answer["error"]) == (400, "The show is as it was then.")
    assert program.post("/api/shows/SHOW/back", {"who": "storm", "point": 999})[0] == 400
    assert program.post("/api/shows/SHOW/points", {"name": " "})[0] == 400


def test_a_base_drawing_is_looked_at_put_under_the_work_and_read_as_lines(program):
    from tests.formats.test_dxf import written

    data, headers = form(written(), "hall.dxf")
    status, preview = program.post("/api/shows/SHOW/drawings", data, headers)
    assert (status, preview["unit"], preview["size"]) == (200, "mm", [6000, 4000])
    assert [layer["name"] for layer in preview["layers"]] == ["COLUMNS", "SEATS", "WALLS"]
    drawing = program.edit(
        "add drawing", name="Hall", asset=preview["asset"], layers=["WALLS"], metres=0.001, origin=[3000, 0]
    )["select"][0]  # fmt: skip
    lines = program.get(f"/api/shows/SHOW/drawings/{drawing}/lines")
    assert lines == [[-3.0, 0.0, 3.0, 0.0, 3.0, 4.0, -3.0, 4.0, -3.0, 0.0]]
    data, headers = form(b"rubbish", "x.dxf")
    status, answer = program.post("/api/shows/SHOW/drawings", data, headers)
    assert status == 400
    assert "x.dxf is no DXF file" in answer["error"]
    program.post("/api/shows/SHOW/undo", {"who": "tester"})


def test_a_mesh_is_looked_at_added_and_there_again_after_a_restart(tmp_path):
    from tests.formats.test_set_meshes import obj

    program = Program(tmp_path / "demo.zarf")
    data, headers = form(obj(), "block.obj")
    status, preview = program.post("/api/shows/SHOW/meshes", data, headers)
    assert (status, preview["up"], preview["triangles"], preview["size"]) == (200, "y", 12, [2.0, 1.0, 3.0])
    mesh = program.edit("add mesh", name="Block", asset=preview["asset"], up="y")["select"][0]
    data, headers = form(b"rubbish", "x.glb")
    assert program.post("/api/shows/SHOW/meshes", data, headers)[0] == 400
    program.kill()
    again = Program(tmp_path / "demo.zarf")
    try:
        solid = next(one for one in again.document()["scene"] if one["id"] == f"{mesh}/1")
        assert len(again.raw(f"/api/meshes/{solid['mesh']}")) > 200
    finally:
        again.end()


def test_a_consoles_list_is_compared_and_taken_as_one_edit(program):
    text = "Ch;Type;Mode;Universe;Address\n61;Heron;Standard;1;1\n62;Heron;Standard;1;40\nno;;;;\n"
    body, headers = form(text.encode(), "console.csv")
    status, answer = program.post("/api/shows/SHOW/patch/compare", body, headers)
    assert status == 200
    assert answer["mapping"] == {"number": 0, "type": 1, "mode": 2, "universe": 3, "address": 4}
    assert answer["left_out"] == ["Row 3: “no” is not a number of a fixture."]
    [line] = [one for one in answer["lines"] if one["number"] == 62]
    assert (line["kind"], line["theirs"]["address"]) == ("address", "1.040")
    result = program.edit("take patch", lines=[line["take"]])
    assert result["update"]["sentence"] == "Take the patch of fixture 62 from the list"
    program.post("/api/shows/SHOW/undo", {"who": "tester"})
    # A list of dimmers says nothing of those that it has not.
    body, headers = form(b"Chan,Dimmer\n61,5\n", "dimmers.csv")
    lines = program.post("/api/shows/SHOW/patch/compare", body, headers)[1]["lines"]
    assert [one["take"]["dimmer"] for one in lines if one["kind"] == "dimmer"] == [5]
    assert {one["take"] for one in lines if one["kind"] == "missing"} == {None}
    body, headers = form(b"what,ever\n1,2\n", "console.csv")
    status, answer = program.post("/api/shows/SHOW/patch/compare", body, headers)
    assert (status, answer["lines"]) == (200, [])
    assert "No column holds the numbers" in answer["missing"]
