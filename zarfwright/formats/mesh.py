"""Meshes from GLB files, by trimesh; it is imported when first needed, for that takes a second."""

from __future__ import annotations

import io
import json
import struct
from collections.abc import Sequence
from importlib import import_module
from typing import Any

import numpy as np

from zarfwright.core.exchange.rows import STRAIGHT, Rows
from zarfwright.core.mesh import Mesh, MeshFile, MeshPart, join
from zarfwright.core.space import Floats, to_matrix
from zarfwright.formats.findings import FormatError

BYTES_MAX = 50_000_000
TRIANGLES_MAX = 500_000


def _claimed_vertices(data: bytes, file_name: str) -> int:
    """How many vertices a GLB says that it holds, from its JSON chunk, before anything is built. Raises FormatError."""
    try:
        magic, _, _, size, kind = struct.unpack_from("<4sIII4s", data)
        if magic != b"glTF" or kind != b"JSON" or size > len(data) - 20:
            raise FormatError(f"{file_name} is no GLB file: save the mesh as binary glTF.")
        described = json.loads(data[20 : 20 + size])
        return sum(int(accessor.get("count", 0)) for accessor in described.get("accessors", []))
    except (struct.error, ValueError, AttributeError, TypeError) as wrong:
        raise FormatError(f"{file_name} is no GLB file that can be read ({wrong}).") from wrong


def glb_bounds(data: bytes, file_name: str) -> tuple[Floats, Floats]:
    """The least and greatest corner (3,) of a GLB in our frame, by what its accessors say of themselves: no vertex is
    read. Raises FormatError."""
    _claimed_vertices(data, file_name)
    described = json.loads(data[20 : 20 + struct.unpack_from("<I", data, 12)[0]])
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    try:
        nodes, meshes, accessors = (described.get(name, []) for name in ("nodes", "meshes", "accessors"))
        scenes = described.get("scenes") or [{"nodes": list(range(len(nodes)))}]
        waiting = [(int(i), np.eye(4), 0) for i in scenes[int(described.get("scene", 0))].get("nodes", [])]
        while waiting:
            i, above, depth = waiting.pop()
            if depth > 64 or len(waiting) > 100_000:
                raise FormatError(f"{file_name} is nested without end.")
            to = above @ _node_matrix(nodes[i])
            waiting += [(int(child), to, depth + 1) for child in nodes[i].get("children", [])]
            for part in meshes[nodes[i]["mesh"]]["primitives"] if "mesh" in nodes[i] else []:
                said = accessors[part["attributes"]["POSITION"]]
                corners = np.array(np.meshgrid(*zip(said["min"], said["max"], strict=True))).reshape(3, -1).T
                there = corners @ to[:3, :3].T + to[:3, 3]
                low, high = np.minimum(low, there.min(axis=0)), np.maximum(high, there.max(axis=0))
    except (KeyError, IndexError, TypeError, ValueError, AttributeError) as wrong:
        raise FormatError(f"{file_name} is a GLB whose parts do not fit together ({wrong}).") from wrong
    if not np.all(np.isfinite(low)) or not np.all(np.isfinite(high)):
        raise FormatError(f"{file_name} holds no triangles.")
    corners = np.array([low, high]) @ _TO_GLTF
    return corners.min(axis=0), corners.max(axis=0)


def _node_matrix(node: dict[str, Any]) -> Floats:
    """The matrix (4, 4) of a node of a glTF."""
    if "matrix" in node:
        return np.array(node["matrix"], dtype=float).reshape(4, 4).T
    made = np.eye(4)
    turn = to_matrix(np.array(node.get("rotation", (0, 0, 0, 1)), dtype=float))
    made[:3, :3] = turn * np.array(node.get("scale", (1, 1, 1)), dtype=float)
    made[:3, 3] = node.get("translation", (0, 0, 0))
    return made


def read_obj(data: bytes, file_name: str) -> Mesh:
    """One mesh out of an OBJ, in the file's own axes and unit. Raises FormatError."""
    if len(data) > BYTES_MAX:
        raise FormatError(f"{file_name} is larger than {BYTES_MAX // 1_000_000} MB: simplify it.")
    faces = sum(1 for line in data.splitlines() if line.startswith(b"f "))
    if faces > TRIANGLES_MAX:
        raise FormatError(f"{file_name} has more than {TRIANGLES_MAX} faces: simplify it.")
    if not faces:
        raise FormatError(f"{file_name} holds no faces: save the mesh as OBJ or binary glTF.")
    import trimesh

    try:
        found: Any = trimesh.load(io.BytesIO(data), file_type="obj", force="mesh", skip_materials=True)
        vertices, triangles = np.asarray(found.vertices, dtype=float), np.asarray(found.faces)
        normals = np.asarray(found.vertex_normals, dtype=float)
    except Exception as wrong:  # trimesh raises whatever its parsers raise
        raise FormatError(f"{file_name} holds no mesh that can be read: it is damaged, or of another kind.") from wrong
    if not len(triangles) or not np.all(np.isfinite(vertices)):
        raise FormatError(f"{file_name} holds no triangles.")
    return Mesh(vertices.astype(np.float32), normals.astype(np.float32), triangles.astype(np.uint32))


def read_mesh(data: bytes, file_name: str) -> tuple[MeshFile, str]:
    """A mesh by its file's name, material by material, and which way is up in it: "z" for glTF (brought to our frame),
    "y" for OBJ, whose axes are whatever its maker's were. Raises FormatError."""
    if file_name.lower().endswith(".obj"):
        return MeshFile((MeshPart("", None, read_obj(data, file_name)),)), "y"
    return MeshFile(tuple(_glb_parts(data, file_name))), "z"


def read_glb(data: bytes, file_name: str) -> Mesh:
    """One mesh out of a GLB, in our frame (glTF (x, y, z) is our (x, -z, y)). Raises FormatError."""
    return MeshFile(tuple(_glb_parts(data, file_name))).whole


Points = np.ndarray[tuple[int, ...], np.dtype[np.float64]]


def _ours(rows: Points) -> np.ndarray[tuple[int, ...], np.dtype[np.float32]]:
    return np.stack([rows[:, 0], -rows[:, 2], rows[:, 1]], axis=1).astype(np.float32)


def _material(visual: Any) -> tuple[str, tuple[float, float, float] | None]:
    """The name of a material and its linear colour: its factor, times the mean of its image where it has one."""
    material = getattr(visual, "material", None)
    if material is None:
        return "", None
    factor = getattr(material, "baseColorFactor", None)
    image = getattr(material, "baseColorTexture", None)
    if factor is None and image is None:
        return str(getattr(material, "name", "") or "")[:80], None
    colour = np.ones(3)
    if factor is not None:
        given = np.asarray(factor, dtype=float)[:3]
        colour = given / 255.0 if np.issubdtype(np.asarray(factor).dtype, np.integer) else given
    if image is not None:
        shown = np.asarray(image.convert("RGB").resize((16, 16)), dtype=float) / 255.0
        # Images are sRGB, factors linear (glTF 2.0, 3.9.2).
        linear = np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4)
        colour = colour * linear.reshape(-1, 3).mean(axis=0)
    r, g, b = (float(min(max(part, 0.0), 0.95)) for part in colour)
    return str(getattr(material, "name", "") or "")[:80], (r, g, b)


def _glb_parts(data: bytes, file_name: str) -> list[MeshPart]:
    if len(data) > BYTES_MAX:
        raise FormatError(f"{file_name} is larger than {BYTES_MAX // 1_000_000} MB: simplify it.")
    if _claimed_vertices(data, file_name) > 3 * TRIANGLES_MAX:
        raise FormatError(f"{file_name} claims more than {TRIANGLES_MAX} triangles: simplify it.")
    import trimesh

    found: dict[tuple[str, tuple[float, float, float] | None], list[Mesh]] = {}
    try:
        scene: Any = trimesh.load(io.BytesIO(data), file_type="glb", force="scene")
        for piece in scene.dump():
            vertices, faces = np.asarray(getattr(piece, "vertices", [])), np.asarray(getattr(piece, "faces", []))
            if not len(faces):
                continue
            if not np.all(np.isfinite(vertices)):
                raise FormatError(f"{file_name} holds places that are no numbers.")
            normals = np.asarray(piece.vertex_normals, dtype=float)
            mesh = Mesh(_ours(vertices.astype(float)), _ours(normals), faces.astype(np.uint32))
            found.setdefault(_material(piece.visual), []).append(mesh)
    except FormatError:
        raise
    except Exception as wrong:  # trimesh raises whatever its parsers raise
        raise FormatError(f"{file_name} holds no mesh that can be read: it is damaged, or of another kind.") from wrong
    if not found:
        raise FormatError(f"{file_name} holds no triangles.")
    return [MeshPart(name, colour, join(meshes)) for (name, colour), meshes in found.items()]


def write_glb(file: MeshFile) -> bytes:
    """A mesh as GLB, a node with a material for each part. Our frame becomes that of glTF: (x, y, z) is (x, z, -y)."""
    return write_glb_scene([(part.material or "part", part, STRAIGHT) for part in file.parts])


def write_glb_scene(placed: Sequence[tuple[str, MeshPart, Rows]]) -> bytes:
    """Parts at their places (rows in our frame) as one GLB; parts of one mesh share it."""
    trimesh: Any = import_module("trimesh")
    visual: Any = import_module("trimesh.visual")
    scene = trimesh.Scene()
    named: dict[int, str] = {}
    for i, (name, part, rows) in enumerate(placed):
        transform = np.eye(4)
        matrix = np.array(rows)
        transform[:3, :3], transform[:3, 3] = _TO_GLTF @ matrix[:3].T @ _TO_GLTF.T, _TO_GLTF @ matrix[3]
        geometry = named.get(id(part))
        if geometry is not None:
            scene.graph.update(frame_to=f"{name} {i}", matrix=transform, geometry=geometry)
            continue
        mesh = part.mesh
        colour = part.colour or (0.4, 0.4, 0.4)
        material = visual.material.PBRMaterial(
            name=part.material or "plain", baseColorFactor=[*colour, 1.0], metallicFactor=0.0, roughnessFactor=0.8
        )
        made = trimesh.Trimesh(
            mesh.vertices @ _TO_GLTF.T, mesh.triangles, vertex_normals=mesh.normals @ _TO_GLTF.T, process=False
        )
        made.visual = visual.TextureVisuals(material=material)
        named[id(part)] = f"{name} {i}"
        scene.add_geometry(made, node_name=f"{name} {i}", geom_name=f"{name} {i}", transform=transform)
    data: bytes = scene.export(file_type="glb", include_normals=True)
    return data


_TO_GLTF = np.array([[1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, -1.0, 0.0]])
