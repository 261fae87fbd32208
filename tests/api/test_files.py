"""Show files over HTTP: copies, others that were open, new ones, files that are none."""

import pytest

from tests.api.test_api import form
from tests.processes import Program
from zarfwright.core.mesh import MeshFile
from zarfwright.formats.mesh import read_mesh
from zarfwright.store.recent import Recent
from zarfwright.store.showfile import ShowFile


@pytest.fixture
def program(tmp_path):
    path = tmp_path / "first.zarf"
    ShowFile(path).close()
    made = Program(path, demo=False)
    yield made
    assert made.end() == 0
    assert "Traceback" not in made.output()


def test_a_copy_holds_the_whole_show(program, tmp_path):
    program.edit("add deck", name="Raft")
    program.edit("set show", name="Tide/1: \u201ewater\u201c")
    copy = tmp_path / "copy.zarf"
    copy.write_bytes(program.raw("/api/shows/SHOW/copy"))
    file = ShowFile(copy)
    assert {item.name for item in file.items().values()} == {"Tide/1: \u201ewater\u201c", "Raft"}
    assert file.last_done("tester")["sentence"]
    file.close()


def test_another_show_is_opened_by_its_file_and_the_first_again_by_its_path(program, tmp_path):
    other = tmp_path / "elsewhere" / "other.zarf"
    other.parent.mkdir()
    file = ShowFile(other)
    data_before = file.show_id
    file.close()
    status, answer = program.post("/api/take", *form(other.read_bytes(), "other.zarf"))
    assert (status, answer["id"]) == (200, data_before)
    assert program.post("/api/shows/SHOW/edits", {"kind": "add deck", "args": {}})[0] == 404
    shows = program.get("/api/recent")
    assert [one["open"] for one in shows] == [True, False]
    assert program.post("/api/open", {"path": shows[1]["path"]})[0] == 200
    assert program.get("/api/shows")[0]["id"] == program.show


def test_what_is_no_show_is_refused_and_the_open_one_stays(program, tmp_path):
    for data, says in ((b"rubbish", "not a show file"), (b"", "")):
        status, answer = program.post("/api/take", *form(data, "bad.zarf"))
        if data:
            assert status == 400
            assert says in answer["error"]
            assert not (tmp_path / "bad.zarf").exists()
    status, answer = program.post("/api/open", {"path": "/etc/passwd"})
    assert status == 400
    assert "was not opened here before" in answer["error"]
    status, answer = program.post("/api/new", {"name": "  "})
    assert (status, answer["field"]) == (400, "name")


def test_names_of_new_files_are_plain_and_never_overwrite(program, tmp_path):
    for _ in range(2):
        assert program.post("/api/new", {"name": "../Flood: 3"})[0] == 200
    assert sorted(path.name for path in tmp_path.glob("*.zarf")) == ["Flood 3 2.zarf", "Flood 3.zarf", "first.zarf"]


def test_the_list_forgets_shows_that_are_gone(tmp_path):
    recent = Recent(tmp_path / "state")
    for name in ("a", "b"):
        (tmp_path / f"{name}.zarf").touch()
        recent.note(tmp_path / f"{name}.zarf", name)
    assert [one["name"] for one in recent.shows()] == ["b", "a"]
    (tmp_path / "b.zarf").unlink()
    assert [one["name"] for one in recent.shows()] == ["a"]
    # Where nothing can be written there is no list, and no fault.
    (tmp_path / "file").touch()
    unwritable = Recent(tmp_path / "file" / "state")
    unwritable.note(tmp_path / "a.zarf", "a")
    assert unwritable.shows() == []


def test_what_a_mesh_is_made_of_and_what_a_structure_carries_are_told(program):
    import trimesh

    red = trimesh.creation.box((1, 1, 1))
    red.visual = trimesh.visual.TextureVisuals(
        material=trimesh.visual.material.PBRMaterial(name="Velvet", baseColorFactor=[204, 0, 0, 255])
    )
    plain = trimesh.creation.box((1, 1, 1), transform=trimesh.transformations.translation_matrix([0, 3, 0]))
    data = trimesh.Scene([red, plain]).export(file_type="glb")
    mesh, _ = read_mesh(data, "stall.glb")
    assert isinstance(mesh, MeshFile)
    assert {part.material for part in mesh.parts} >= {"Velvet"}
    status, read = program.post("/api/shows/SHOW/meshes", *form(data, "stall.glb"))
    assert status == 200
    thing = program.edit("add mesh", name="Stall", asset=read["asset"])["select"][0]
    facts = program.get(f"/api/shows/SHOW/meshes/{thing}")
    velvet = next(one for one in facts["materials"] if one["name"] == "Velvet")
    # 0.8 of red alone, by the luminance of Rec. 709.
    assert velvet["reflectance"] == pytest.approx(0.8 * 0.2126, abs=0.01)
    truss = program.edit("add truss", length="8m", kg_per_m="10", hoists="2")["select"][0]
    load = program.get(f"/api/shows/SHOW/structures/{truss}/load")
    weights = program.get("/api/shows/SHOW/structures")[truss]
    assert weights == {"own_kg": load["own_kg"], "fixtures_kg": load["fixtures_kg"]}
    assert (load["own_kg"], load["points"], load["point_kg"], load["told"]) == (80, 2, 40, True)
