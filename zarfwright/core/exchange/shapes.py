"""What things look like to other programs: meshes in the things' own frames, material by material."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

import numpy as np

from zarfwright.core.exchange.places import frame
from zarfwright.core.exchange.rows import Rows, relative, rows_of
from zarfwright.core.memo import Memo
from zarfwright.core.mesh import Mesh, MeshFile, MeshPart, join
from zarfwright.core.scene import Solid, people_of, solids_of
from zarfwright.core.show import Item, Show
from zarfwright.core.site.things import Crowd, MeshPiece
from zarfwright.core.space import vec


@dataclass(frozen=True, eq=False)
class Look:
    """The mesh of a thing: ours, or the very file that it is out of (`asset`, a sha256)."""

    key: str
    file: MeshFile | None
    asset: str = ""


def _as_part(solid: Solid, own: Rows, simple: bool) -> MeshPart:
    """A solid as a part of the mesh of a thing whose frame is `own`."""
    mesh = (solid.far or solid.mesh) if simple else solid.mesh
    rows = relative(own, rows_of(solid.placement, solid.scale))
    # In single precision as all meshes are; what is in its own frame already stays bit for bit.
    if not np.allclose(np.array(rows), np.vstack([np.eye(3), np.zeros(3)]), atol=1e-12):
        to = np.array(rows)
        vertices = (mesh.vertices.astype(float) @ to[:3] + to[3]).astype(np.float32)
        normals = mesh.normals @ to[:3]
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
        mesh = Mesh(vertices, normals.astype(np.float32), mesh.triangles, mesh.parts)
    return MeshPart(solid.finish, solid.albedo, mesh)


def file_key(file: MeshFile) -> str:
    """The name of a mesh by what it is: the same shape in the same colours has the same."""
    said = hashlib.sha256()
    for part in file.parts:
        colour = np.round(part.colour, 6).tolist() if part.colour is not None else None
        said.update(f"{part.material} {colour} {part.mesh.key} ".encode())
    return said.hexdigest()[:24]


_key_of = Memo(file_key, 2000)


def _by_material(parts: list[MeshPart]) -> MeshFile:
    """The parts of one material joined."""
    found: dict[tuple[str, object], list[Mesh]] = {}
    for part in parts:
        found.setdefault((part.material, part.colour), []).append(part.mesh)
    return MeshFile(
        tuple(
            MeshPart(material, colour, meshes[0] if len(meshes) == 1 else join(meshes))  # type: ignore[arg-type]
            for (material, colour), meshes in found.items()
        )
    )


_plain_of = Memo(lambda mesh, material, albedo: MeshFile((MeshPart(material, albedo, mesh),)), 2000)


def look_of(show: Show, item: Item) -> Look | None:
    """What a thing looks like in its own frame (`places.frame`); None where nothing is to be seen of it."""
    body = item.body
    if isinstance(body, MeshPiece) and body.triangles is None and body.up == "z" and not body.reflectances:
        return Look(body.asset, show.meshes.get(body.asset), body.asset)
    solids = [solid for solid in solids_of(show, item) if not solid.id.endswith("/rig")]
    if not solids:
        return None
    own, crowd = frame(body), isinstance(body, Crowd)
    first = solids[0]
    if len(solids) == 1 and rows_of(first.placement, first.scale) == own:
        file = _plain_of(first.mesh, first.finish, first.albedo)
    else:
        parts = [_as_part(solid, own, crowd) for solid in solids]
        if crowd:
            # One colour for all: a material for each of hundreds would be of use to nobody.
            mean = vec(np.mean([part.colour for part in parts if part.colour is not None], axis=0))
            parts = [MeshPart(part.material, mean, part.mesh) for part in parts]
        file = _by_material(parts)
    return Look(_key_of(file), file)


def heads(show: Show, item: Item) -> int:
    """How many people a crowd has."""
    assert isinstance(item.body, Crowd)
    return people_of(item.body).count
