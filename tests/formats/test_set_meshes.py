"""Set pieces out of mesh files: at their size, the right way up, or refused with a word."""

import pytest
import trimesh

from zarfwright.core.edits.arranging import bounds_of
from zarfwright.core.errors import JobError
from zarfwright.formats.findings import FormatError
from zarfwright.formats.mesh import read_mesh


def obj(width=2.0, depth=1.0, height=3.0):
    """A block with Y up, in an OBJ's own words."""
    corners = [(x, y, z) for x in (0, width) for y in (0, height) for z in (0, depth)]
    faces = ["1 2 4 3", "5 7 8 6", "1 5 6 2", "3 4 8 7", "1 3 7 5", "2 6 8 4"]
    lines = [f"v {x} {y} {z}" for x, y, z in corners] + [f"f {face}" for face in faces]
    return "\n".join(lines).encode()


def test_an_obj_comes_in_at_its_size_with_the_axis_that_is_up(bench):
    mesh, up = read_mesh(obj(), "block.obj")
    assert (up, len(mesh.whole.triangles)) == ("y", 12)
    bench.give_mesh("block", mesh)
    thing = bench.made("add mesh", name="Block", asset="block", up="y", scale=0.5, x="SL 2", turn="90")
    low, high = bounds_of(bench.show, bench.show.items[thing])
    # 2 x 1 x 3 at half its size, a quarter turned: 0.5 across, 1 deep, 1.5 high.
    assert high - low == pytest.approx([0.5, 1.0, 1.5], abs=1e-5)
    assert bench.body(thing).reflectance == 0.4
    bench.do("set field", ids=[thing], field="up", text="z")
    low, high = bounds_of(bench.show, bench.show.items[thing])
    assert high[2] - low[2] == pytest.approx(0.5, abs=1e-5)


def test_a_glb_of_another_library_comes_in_at_its_size(bench):
    scene = trimesh.Scene(trimesh.creation.box((2.0, 3.0, 1.0)))
    mesh, up = read_mesh(scene.export(file_type="glb"), "crate.glb")
    assert up == "z"
    low, high = mesh.whole.bounds()
    # glTF has Y up: what is 3 m there is 3 m high here.
    assert high - low == pytest.approx([2.0, 1.0, 3.0])


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("x.obj", b"v 0 0 0\n", "holds no faces"),
        ("x.obj", b"f 1 2 3\n", "x.obj holds no"),
        ("x.obj", b"f 1 2 3\n" * 500_001, "more than 500000 faces"),
        ("x.glb", b"rubbish", "no GLB file"),
    ],
)
def test_meshes_that_cannot_be_used_say_so(name, data, says):
    with pytest.raises(FormatError, match=says):
        read_mesh(data, name)


def test_a_mesh_that_was_never_read_cannot_be_added(bench):
    with pytest.raises(JobError, match="choose it again"):
        bench.do("add mesh", name="Lost", asset="nowhere")
