"""Base drawings: DXF files looked at, put under the work, and their lines for the stage."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from flask import Response, abort
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, RootModel

from zarfwright.core.edits.underlay import to_plan
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.site.loads import load_of, weights
from zarfwright.core.site.sizes import likely_unit
from zarfwright.core.site.things import Drawing, MeshPiece
from zarfwright.formats.dxf import DxfPlan, read_dxf
from zarfwright.formats.findings import Oddity
from zarfwright.formats.mesh import read_mesh
from zarfwright.web.here import desk_of, file_of, json_response, uploaded
from zarfwright.web.models import FileFinding, Problem, ShowPath, ThingPath


class DrawingLayer(BaseModel):
    name: str
    lines: int


class DrawingPreview(BaseModel):
    """What a DXF file holds: its layers, its unit (none where it does not say) and its size in that unit."""

    asset: str
    name: str
    unit: str | None
    metres: float | None
    size: tuple[float, float]
    middle: tuple[float, float]
    layers: list[DrawingLayer]
    findings: list[FileFinding]


class MeshPreview(BaseModel):
    """What a mesh file holds: its triangles, which axis is likely up, its size in its own units with that axis up."""

    asset: str
    name: str
    up: str
    said_up: str
    """What the format itself calls that axis: y of a glTF, which comes in our frame."""
    triangles: int
    size: tuple[float, float, float]
    likely: str | None
    """The unit that it is more likely in, where it cannot be as large as it is in metres."""


class MaterialOut(BaseModel):
    """A material of a mesh: its name, its triangles, how much light it gives back by its file, where that says so."""

    name: str
    triangles: int
    reflectance: float | None


class MeshFacts(BaseModel):
    triangles: int
    materials: list[MaterialOut]


class Weight(BaseModel):
    """Of a structure and of the fixtures on it, kilograms."""

    own_kg: float
    fixtures_kg: float


class Weights(RootModel[dict[str, Weight]]):
    pass


class LoadOut(BaseModel):
    """What a structure carries, spread evenly: an estimate. Kilograms, and metres over what is below it."""

    own_kg: float
    fixtures: int
    fixtures_kg: float
    points: int
    told: bool
    point_kg: float
    over_m: float


class DrawingLines(RootModel[list[list[float]]]):
    """Lines in plan metres: each x, y, x, y ..."""


@lru_cache(maxsize=8)
def _read(data: bytes, name: str) -> tuple[DxfPlan, tuple[Oddity, ...]]:
    plan, found = read_dxf(data, name)
    return plan, tuple(found)


api = APIBlueprint("drawings", __name__, abp_responses={400: Problem, 404: Problem})


@api.post("/api/shows/<show>/drawings", responses={200: DrawingPreview})
def look_at_drawing(path: ShowPath) -> Response:
    """Read a DXF file (the `file` of a form) and say what it holds; nothing is added to the show yet."""
    desk = desk_of(path.show)
    data, name = uploaded("a DXF file")
    plan, found = _read(data, name)
    asset = desk.session.keep(name, data)
    size = (plan.high[0] - plan.low[0], plan.high[1] - plan.low[1])
    answer: dict[str, Any] = {
        "asset": asset,
        "name": name.rsplit(".", 1)[0],
        "unit": plan.unit,
        "metres": plan.metres,
        "size": size,
        "middle": ((plan.low[0] + plan.high[0]) / 2, (plan.low[1] + plan.high[1]) / 2),
        "layers": [{"name": key, "lines": len(lines)} for key, lines in sorted(plan.lines.items())],
        "findings": [vars(finding) for finding in found],
    }
    return json_response(answer)


@api.post("/api/shows/<show>/meshes", responses={200: MeshPreview})
def look_at_mesh(path: ShowPath) -> Response:
    """Read a GLB or OBJ file (the `file` of a form) and say what it holds; nothing is added to the show yet."""
    desk = desk_of(path.show)
    data, name = uploaded("a GLB or OBJ file")
    mesh, up = read_mesh(data, name)
    asset = desk.session.keep(name, data)
    low, high = mesh.whole.bounds()
    x, y, z = (float(value) for value in high - low)
    size = (x, z, y) if up == "y" else (x, y, z)
    answer = {
        "asset": asset,
        "name": name.rsplit(".", 1)[0],
        "up": up,
        "said_up": "y" if name.lower().endswith((".glb", ".gltf")) else up,
        "triangles": len(mesh.whole.triangles),
        "size": size,
        "likely": likely_unit(max(size)),
    }
    return json_response(answer)


@api.get("/api/shows/<show>/meshes/<thing>", responses={200: MeshFacts})
def mesh_facts(path: ThingPath) -> Response:
    """What the mesh of a set piece is made of."""
    show = desk_of(path.show).show
    file = show.meshes.get(show.body(path.thing, MeshPiece).asset)
    if file is None:
        abort(404, "The file of this mesh is missing from the show: import it again.")
    materials = [
        {
            "name": part.material,
            "triangles": len(part.mesh.triangles),
            "reflectance": float(np.dot(part.colour, LUMINANCE)) if part.colour else None,
        }
        for part in file.parts
    ]
    return json_response({"triangles": len(file.whole.triangles), "materials": materials})


@api.get("/api/shows/<show>/structures/<thing>/load", responses={200: LoadOut})
def structure_load(path: ThingPath) -> Response:
    """What a structure carries and how high it hangs over what is below it."""
    desk = desk_of(path.show)
    load = load_of(desk.show, desk.show.item(path.thing, "truss"))
    return json_response({**vars(load), "point_kg": load.point_kg})


@api.get("/api/shows/<show>/structures", responses={200: Weights})
def structure_weights(path: ShowPath) -> Response:
    """What every structure weighs, and what hangs on it."""
    found = weights(desk_of(path.show).show)
    return json_response({key: {"own_kg": own, "fixtures_kg": hung} for key, (own, hung) in found.items()})


@api.get("/api/shows/<show>/drawings/<thing>/lines", responses={200: DrawingLines})
def drawing_lines(path: ThingPath) -> Response:
    """The lines of a drawing's chosen layers, where they lie in plan."""
    desk = desk_of(path.show)
    drawing = desk.show.body(path.thing, Drawing)
    name, data = file_of(desk, drawing.asset, "drawing")
    plan, _ = _read(data, name)
    made = []
    for layer in drawing.layers:
        for line in plan.lines.get(layer, []):
            made.append(np.round(to_plan(drawing, np.array(line)), 4).reshape(-1).tolist())
    return json_response(made)
