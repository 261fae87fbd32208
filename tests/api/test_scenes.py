"""Scenes over HTTP: read as a job, compared, taken in, undone; the show out; files told apart; copies to send."""

from __future__ import annotations

import io
import urllib.error
import zipfile

import pytest

from tests.api.test_api import form
from tests.processes import Program, wait_for
from tests.scenes import box_glb, fixture, layer, matrix, mesh_of, mvr, node
from zarfwright.formats.mesh import read_mesh
from zarfwright.formats.mvr import read_mvr
from zarfwright.store.showfile import ShowFile

LAMPS = [fixture(f"F{i}", i + 1, str(1 + i * 20), matrix(i, 3, 5.95)) for i in range(4)]
CHAIR = node(
    "SceneObject", "Chair",
    f'<Geometries><Geometry3D fileName="b.glb"/><Geometry3D fileName="b.glb">{matrix(0, 2)}</Geometry3D></Geometries>',
)  # fmt: skip
TRUSS = node("Truss", "LX1", mesh_of("t.glb"), matrix(0, 3, 6))
FILES = {"b.glb": box_glb(), "t.glb": box_glb(12, 0.4, 0.4, (0, 0, 0.2))}


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    path = tmp_path_factory.mktemp("scenes") / "show.zarf"
    ShowFile(path).close()
    made = Program(path, demo=False)
    yield made
    assert made.end() == 0
    assert "Traceback" not in made.output()


def sent(program, data: bytes, name: str = "tour.mvr") -> dict:
    """A file sent and read; gives what was answered when it arrived."""
    status, begun = program.post("/api/shows/SHOW/scenes?who=tester", *form(data, name))
    assert status == 200, begun
    begun["end"] = ended(program, begun["job"])
    return begun


def ended(program, job: str) -> dict:
    def over():
        fetched = program.get(f"/api/shows/SHOW/jobs/{job}")
        return fetched if fetched["job"]["state"] != "running" else None

    return wait_for(over, "the end of the job")


def compared(program, key: str, **choices) -> dict:
    status, answer = program.post(f"/api/shows/SHOW/scenes/{key}", choices)
    assert status == 200, answer
    return answer


def test_a_file_is_read_beside_the_work_compared_taken_in_and_undone(program):
    begun = sent(program, mvr(layer(*LAMPS, CHAIR, TRUSS), files=FILES))
    assert begun["end"]["job"]["state"] == "done"
    before = program.document()
    assert not [row for row in before["objects"] if row["kind"] == "fixture"], "nothing is in the show yet"
    found = compared(program, begun["key"])
    assert found["name"] == "tour.mvr"
    groups = {one["name"]: one for one in found["groups"]}
    assert (groups["fixtures"]["in_file"], groups["fixtures"]["added"]) == (4, 4)
    assert [(one["name"], one["chosen"]) for one in found["types"]] == [("Heron", "file")]
    assert {one["source"] for one in found["types"][0]["options"]} == {"file", "library", "plain"}
    assert [(one["name"], len(one["ids"])) for one in found["beside"]] == [("LX1", 4)]
    # Laid otherwise, places are further apart; meshes are as large as they are.
    assert found["high"][2] == pytest.approx(6.4)
    assert compared(program, begun["key"], factor=2.0)["high"][2] == pytest.approx(12.4)
    status, job = program.post(
        "/api/shows/SHOW/jobs",
        {"kind": "take scene", "args": {"key": begun["key"], "types": {"Heron.gdtf": "plain"}}, "who": "tester"},
    )
    assert status == 200
    end = ended(program, job["id"])
    assert end["result"]["sentence"] == "Take in tour.mvr: 7 added"
    after = {row["id"]: row for row in program.document()["objects"]}
    kinds = [row["kind"] for row in after.values()]
    assert (kinds.count("fixture"), kinds.count("truss"), kinds.count("mesh")) == (4, 1, 1)
    assert {row["body"]["name"] for row in after.values() if row["kind"] == "type"} == {"Stand-in for Heron"}
    chair = next(row for row in after.values() if row["kind"] == "mesh")
    facts = program.get(f"/api/shows/SHOW/meshes/{chair['id']}")
    assert facts["triangles"] == 24
    # The four heads go on their structure, and all of it back.
    ids = found["beside"][0]["ids"]
    result = program.edit("put back", ids=ids, structure=found["beside"][0]["structure"])
    assert result["sentence"] == "Put 4 fixtures back"
    for _ in range(2):
        assert program.post("/api/shows/SHOW/undo", {"who": "tester"})[0] == 200
    assert program.document()["objects"] == before["objects"]
    status, _ = program.post(f"/api/shows/SHOW/scenes/{begun['key']}/forget", {})
    assert status == 200
    assert program.post(f"/api/shows/SHOW/scenes/{begun['key']}", {})[0] == 400


def test_the_report_says_all_of_it_and_a_broken_file_says_why(program):
    begun = sent(program, mvr(layer(*LAMPS, fixture("Odd", spec="Gone.gdtf"))))
    text = program.raw(f"/api/shows/SHOW/scenes/{begun['key']}/report", {}).decode()
    assert "tour.mvr beside" in text
    assert "Fixture 1: Heron, Standard, 1.001, standing free" in text
    assert "“Gone.gdtf” is not in the file" in text
    status, answer = program.post("/api/shows/SHOW/scenes?who=tester", *form(b"rubbish", "bad.mvr"))
    assert (status, answer["error"]) == (400, "bad.mvr is not a zip archive that can be read: get the file again.")
    status, answer = program.post("/api/shows/SHOW/scenes?who=tester", *form(b"", "empty.mvr"))
    assert status == 400
    broken = io.BytesIO()
    with zipfile.ZipFile(broken, "w") as archive:
        archive.writestr("x.txt", "x")
    end = sent(program, broken.getvalue())["end"]
    assert end["job"]["state"] == "failed"
    assert "without GeneralSceneDescription.xml" in end["job"]["problem"]


def test_a_scene_goes_out_as_mvr_and_as_geometry(program):
    program.edit("add deck", name="Raft", width="4m", depth="2m")
    told = program.get("/api/shows/SHOW/scene?only=all")
    data = program.raw("/api/shows/SHOW/scene.mvr")
    assert told["bytes"] == len(data)
    assert "Raft" in {thing.name for thing in read_mvr(data, "out.mvr").scene.things}
    mesh, up = read_mesh(program.raw("/api/shows/SHOW/scene.glb"), "out.glb")
    assert up == "z"
    low, high = mesh.whole.bounds()
    assert (high - low)[:2] == pytest.approx([4.0, 2.0], abs=1e-3)
    with pytest.raises(urllib.error.HTTPError, match="400"):
        program.raw("/api/shows/SHOW/scene.mvr?only=all&ids=nothing")


def test_fixtures_of_a_list_are_looked_at_and_then_added(program):
    text = "Type;Mode;Number;x;y;z;Universe;Address\nPlover;Standard;301;SR 2;US 1;5m;9;101\nXyzzy;;302;;;;;\n"
    status, found = program.post("/api/shows/SHOW/lists", *form(text.encode(), "new.csv"))
    assert status == 200
    assert found["columns"]["x"] == "x"
    assert [one["becomes"] for one in found["types"]] == ["Plover"]
    assert found["left_out"] == ["Row 2: nothing in the show or the library is like “Xyzzy”: add its GDTF first."]
    result = program.edit("add fixtures", rows=found["rows"])
    lamp = next(row for row in program.document()["objects"] if row["id"] == result["select"][0])["body"]
    assert (lamp["number"], lamp["universe"], lamp["address"]) == (301, 9, 101)
    assert lamp["placement"]["position"] == [-2.0, 1.0, 5.0]
    assert "Plover" in {one["name"] for one in program.document()["types"].values()}


def test_any_file_is_told_what_it_is(program):
    status, known = program.post("/api/what", *form(mvr(layer()), "tour.zip"))
    assert (status, known) == (200, {"says": "a scene (MVR)", "uses": ["compare scene"]})
    status, known = program.post("/api/what", *form(b"MZ", "setup.exe"))
    assert known == {"says": "nothing that is read here", "uses": []}


def test_a_copy_to_send_leaves_out_what_was_done(program, tmp_path):
    for n in range(40):
        program.edit("set show", venue=f"Shed {n} " + "with a long name " * 8)
    assert program.post("/api/shows/SHOW/points", {"name": "Before"})[0] == 200
    sizes = program.get("/api/shows/SHOW/packed")
    assert sizes["without_history"] < sizes["bytes"]
    bare = program.raw("/api/shows/SHOW/copy?history=false")
    assert len(bare) == sizes["without_history"]
    path = tmp_path / "bare.zarf"
    path.write_bytes(bare)
    file = ShowFile(path)
    assert file.history() == []
    assert {row["id"] for row in program.document()["objects"]} == set(file.items())
    for item in file.items().values():
        if item.kind == "type":
            assert file.asset(item.body.asset) is not None
    file.close()
