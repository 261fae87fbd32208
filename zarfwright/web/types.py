"""Fixture types: GDTF files in and out."""

from __future__ import annotations

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel

from zarfwright.core.rig.things import TypeEntry
from zarfwright.core.types.model import FixtureType
from zarfwright.formats.findings import Oddity
from zarfwright.formats.gdtf import read_gdtf
from zarfwright.web.desk import Desk
from zarfwright.web.here import attachment, desk_of, file_of, json_response, uploaded
from zarfwright.web.models import FileFinding, ModeOut, Problem, ShowPath, ThingPath, Who


class TypePreview(BaseModel):
    name: str
    maker: str
    modes: list[ModeOut]
    findings: list[FileFinding]
    added: bool


class TypeQuery(Who):
    """With `preview`, the file is read and described, and nothing is added."""

    preview: bool = False


def kept_gdtf(desk: Desk, name: str, data: bytes) -> tuple[FixtureType, list[Oddity], str]:
    """Read a GDTF file and keep its bytes among the assets. Raises FormatError, and then keeps nothing."""
    fixture_type, found = read_gdtf(data, name)
    return fixture_type, found, desk.session.keep(name, data)


api = APIBlueprint("types", __name__, abp_responses={400: Problem, 404: Problem})


@api.post("/api/shows/<show>/types", responses={200: TypePreview})
def add_type(path: ShowPath, query: TypeQuery) -> Response:
    """Take in a GDTF file (the `file` of a form): described first, added when asked."""
    desk = desk_of(path.show)
    data, name = uploaded("a GDTF file")
    if query.preview:
        fixture_type, found = read_gdtf(data, name)
    else:
        fixture_type, found, sha = kept_gdtf(desk, name, data)
        desk.edit(query.who, "add type", {"name": fixture_type.name, "maker": fixture_type.maker, "asset": sha})
    return json_response(
        {
            "name": fixture_type.name,
            "maker": fixture_type.maker,
            "modes": [
                {"name": m.name, "footprint": m.footprint, "breaks": [], "channels": []} for m in fixture_type.modes
            ],
            "findings": [vars(finding) for finding in found],
            "added": not query.preview,
        }
    )


@api.get("/api/shows/<show>/types/<thing>/gdtf", responses={200: None})
def get_gdtf(path: ThingPath) -> Response:
    """The GDTF file of a type, byte for byte as it came."""
    desk = desk_of(path.show)
    entry = desk.show.body(path.thing, TypeEntry)
    _, data = file_of(desk, entry.asset, "type")
    return attachment(data, f"{entry.maker}@{entry.name}.gdtf")
