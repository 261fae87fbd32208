"""Meshes and gobo images out of GDTF files: read, fitted, refused when they are not what they say."""

import io
import json
import struct
from dataclasses import replace

import numpy as np
import pytest
import trimesh
from PIL import Image

from zarfwright.core.types.bodies import body_parts, fitted
from zarfwright.core.types.model import Model
from zarfwright.formats.archive import open_archive, write_archive
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf import read_gdtf, write_gdtf
from zarfwright.formats.mesh import read_glb
from zarfwright.formats.pictures import MASK_PX, gobo_mask
from zarfwright.library import bittern, heron, teal


def glb(extents=(1.0, 2.0, 3.0)):
    return trimesh.creation.box(extents=extents).export(file_type="glb")


def test_a_glb_comes_in_our_axes():
    # glTF's up (y) is our up (z), its depth (z) our downstage.
    low, high = read_glb(glb(), "a.glb").bounds()
    assert high - low == pytest.approx([1.0, 3.0, 2.0], abs=1e-5)


def test_a_mesh_is_fitted_to_the_size_that_the_file_says():
    mesh = fitted(read_glb(glb(), "a.glb"), Model("Head", 0.4, 0.3, 0.5))
    low, high = mesh.bounds()
    assert high - low == pytest.approx([0.4, 0.3, 0.5], abs=1e-5)
    assert np.linalg.norm(mesh.normals, axis=1) == pytest.approx(1.0, abs=1e-5)


def with_mesh(data):
    """A Heron whose head is a mesh of its own."""
    lamp = heron()
    models = tuple(replace(m, file="skull") if m.name == "Head" else m for m in lamp.models)
    entries = dict(open_archive(write_gdtf(replace(lamp, models=models)), "a").entries)
    return write_archive({**entries, **({"models/gltf/skull.glb": data} if data else {})})


def test_a_model_of_the_makers_own_is_the_body_of_the_type():
    read, findings = read_gdtf(with_mesh(glb()), "a.gdtf")
    assert findings == []
    head = next(part for part in body_parts(read, "Standard") if part.turns == 2)
    assert len(head.mesh.triangles) == 12
    plain = next(part for part in body_parts(heron(), "Standard") if part.turns == 2)
    assert len(plain.mesh.triangles) > 100


@pytest.mark.parametrize("data", [None, b"not a mesh"])
def test_a_mesh_that_is_missing_or_broken_is_drawn_from_its_primitive(data):
    read, findings = read_gdtf(with_mesh(data), "a.gdtf")
    assert [finding.where for finding in findings] == ["Model skull"]
    assert any(part.turns == 2 for part in body_parts(read, "Standard"))


def claiming(count):
    """A GLB that says it holds many vertices, without holding them."""
    text = json.dumps({"asset": {"version": "2.0"}, "accessors": [{"count": count}]}).encode()
    text += b" " * (-len(text) % 4)
    return struct.pack("<4sIII4s", b"glTF", 2, 20 + len(text), len(text), b"JSON") + text


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "no GLB file"),
        (b"glTF" + b"\0" * 40, "no GLB file"),
        (claiming(2_000_000_000), "claims more than"),
        (claiming(3), "no mesh|no triangles"),
    ],
)
def test_a_glb_that_is_none_or_claims_too_much_is_refused(data, says):
    with pytest.raises(FormatError, match=says):
        read_glb(data, "a.glb")


def picture(colour, mode="RGBA", size=(64, 32)):
    out = io.BytesIO()
    Image.new(mode, size, colour).save(out, "PNG")
    return out.getvalue()


def test_a_gobo_lets_light_through_where_it_is_bright_and_not_transparent():
    assert gobo_mask(picture((255, 255, 255, 255)), "a").shape == (MASK_PX, MASK_PX)
    assert gobo_mask(picture((255, 255, 255, 255)), "a").min() == 255
    assert gobo_mask(picture((255, 255, 255, 0)), "a").max() == 0
    assert gobo_mask(picture((255, 0, 0, 255)), "a")[0, 0] == round(255 * 0.2126)
    with pytest.raises(FormatError, match="no picture"):
        gobo_mask(b"GIF89a", "a")


def test_every_kind_of_lamp_has_a_body_of_its_own():
    trough = body_parts(teal(), "Cells")
    assert [part.turns for part in trough] == [2]
    # A fin for each cell behind the trough.
    assert len(trough[0].mesh.triangles) == 12 * (1 + 2 + 12)
    shapes = set()
    for kind in ("Spot", "Fresnel", "Wash"):
        lamp = bittern()
        lens = lamp.geometries[0].children[0]
        tree = replace(lamp.geometries[0], children=(replace(lens, beam=replace(lens.beam, kind=kind)),))
        shapes.add(body_parts(replace(lamp, geometries=(tree,)), "Dimmer")[-1].mesh.key)
    for primitive in ("Scanner", "Sphere", "Cylinder", "Cube"):
        lamp = bittern()
        shapes.add(
            body_parts(replace(lamp, models=(replace(lamp.models[0], primitive=primitive),)), "Dimmer")[-1].mesh.key
        )
    assert len(shapes) == 7
