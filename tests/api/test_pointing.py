"""Pointing over HTTP: where each beam would go, who cannot and what would let them, what a selection mixes."""

from __future__ import annotations

import math

import pytest

from tests.processes import Program


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("pointing") / "demo.zarf")
    yield made
    assert made.end() == 0
    assert "Traceback" not in made.output()


def numbered(program, first, last):
    rows = program.document()["objects"]
    return [r["id"] for r in rows if r["kind"] == "fixture" and first <= (r["body"].get("number") or 0) <= last]


def test_a_selection_pointed_says_where_each_beam_goes_and_changes_nothing(program):
    ids, before = numbered(program, 61, 66), program.document()["rev"]
    status, answer = program.post("/api/shows/SHOW/pointing", {"ids": ids, "point": [0.0, 2.0, 1.1]})
    assert status == 200
    assert [head["id"] for head in answer["heads"]] == ids
    for head in answer["heads"]:
        assert head["missing_deg"] == 0
        assert math.dist(head["at"], (0.0, 2.0, 1.1)) < 0.01
        assert head["thing"] == "Main deck"
        assert 0.05 < head["half_field"] < 0.2
    assert program.document()["rev"] == before
    status, answer = program.post("/api/shows/SHOW/pointing", {"ids": ids})
    assert status == 400
    assert "no place to aim at" in answer["error"]


def test_who_cannot_reach_is_offered_what_would_let_them(program):
    ids = numbered(program, 61, 61)
    question = {"ids": ids, "point": [-3.0, 1.2, 40.0]}
    _, found = program.post("/api/shows/SHOW/reach", question)
    assert found[0]["missing_deg"] > 1
    repair = found[0]["repairs"][0]
    program.post("/api/shows/SHOW/edits", {"kind": "aim at", "args": question})
    status, _ = program.post("/api/shows/SHOW/edits", {"kind": repair["kind"], "args": repair["args"]})
    assert status == 200
    _, found = program.post("/api/shows/SHOW/reach", question)
    assert found == []


def test_a_held_place_and_a_yoke_are_in_the_light_of_the_picture(program):
    (lamp, *_) = numbered(program, 21, 24)
    program.post("/api/shows/SHOW/edits", {"kind": "aim at", "args": {"ids": [lamp], "point": [1.0, 3.0, 1.1]}})
    program.post("/api/shows/SHOW/edits", {"kind": "hold values", "args": {"ids": [lamp], "values": {"dimmer": 1.0}}})
    landings = {one["fixture"]: one for one in program.get("/api/shows/SHOW/landings")}
    assert math.dist(landings[lamp]["point"], (1.0, 3.0, 1.1)) < 0.02


def test_what_a_selection_mixes_is_told_kind_by_kind(program):
    ids = [
        *numbered(program, 61, 62),
        *numbered(program, 81, 81),
        *numbered(program, 91, 91),
        *numbered(program, 22, 22),
    ]
    status, answer = program.post("/api/shows/SHOW/colours", {"ids": ids})
    assert status == 200
    kinds = {kind["type"]: kind for kind in answer["kinds"]}
    assert len(kinds["Heron"]["ids"]) == 2
    assert kinds["Heron"]["flags"] == ["cyan", "magenta", "yellow"]
    assert kinds["Dunlin"]["emitters"] == ["red", "green", "blue", "white"]
    assert len(kinds["Dunlin"]["outline"]) >= 4
    assert kinds["Plover"]["outline"] == []
    assert [slot["name"] for slot in kinds["Plover"]["slots"]][:2] == ["Open", "Harbour red"]
    assert kinds["Bittern"]["slots"] == kinds["Bittern"]["outline"] == []
    assert 0 < answer["now"][0] < 0.8
    args = {"ids": ids[2:3], "like": ids[0]}
    status, edit = program.post("/api/shows/SHOW/edits", {"kind": "set colour", "args": args})
    assert status == 200
    assert "the colour of fixture 61" in edit["sentence"]


def test_the_gobos_and_prisms_of_a_selection_are_told_with_their_pictures(program):
    ids = [*numbered(program, 61, 61), *numbered(program, 71, 71), *numbered(program, 81, 81)]
    status, found = program.post("/api/shows/SHOW/wheels", {"ids": ids})
    assert status == 200
    assert sorted((wheel["feature"], len(wheel["slots"])) for wheel in found) == [
        ("gobo 2 slot", 3), ("gobo slot", 4), ("gobo slot", 4), ("prism slot", 3),
    ]  # fmt: skip
    turning = next(wheel for wheel in found if wheel["feature"] == "gobo 2 slot")
    assert (turning["turn"], turning["spin"]) == ("gobo 2 turn", "gobo 2 spin")
    assert [slot["image"] is None for slot in turning["slots"]] == [True, False, False]
    assert len(program.raw(f"/api/gobos/{turning['slots'][1]['image']}")) == 256 * 256
