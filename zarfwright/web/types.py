"""Fixture types: GDTF files in and out."""

from __future__ import annotations

from typing import Any

from flask import Response, abort
from flask_openapi3 import APIBlueprint

from zarfwright.core.show import TypeEntry
from zarfwright.formats.gdtf import read_gdtf
from zarfwright.web.desk import Desk
from zarfwright.web.models import Problem, ShowPath, ThingPath, TypePreview, TypeQuery
from zarfwright.web.shows import json_response, require_show, uploaded


def blueprint(desk: Desk | None, live: Any, link: Any) -> APIBlueprint:
    api = APIBlueprint("types", __name__, abp_responses={400: Problem, 404: Problem})

    @api.post("/api/shows/<show>/types", responses={200: TypePreview})
    def add_type(path: ShowPath, query: TypeQuery) -> Response:
        """Take in a GDTF file (the `file` of a form): described first, added when asked."""
        open_desk = require_show(desk, path.show)
        data, name = uploaded("a GDTF file")
        if query.preview:
            fixture_type, found = read_gdtf(data, name)
        else:
            fixture_type, found, sha = open_desk.keep_gdtf(name, data)
            open_desk.edit(
                query.who, "add type", {"name": fixture_type.name, "maker": fixture_type.maker, "asset": sha}
            )
        return json_response(
            {
                "name": fixture_type.name,
                "maker": fixture_type.maker,
                "modes": [
                    {"name": m.name, "footprint": m.footprint, "breaks": [], "channels": []} for m in fixture_type.modes
                ],
                "findings": [{"where": f.where, "what": f.what, "done": f.done} for f in found],
                "added": not query.preview,
            }
        )

    @api.get("/api/shows/<show>/types/<thing>/gdtf", responses={200: None})
    def get_gdtf(path: ThingPath) -> Response:
        """The GDTF file of a type, byte for byte as it came."""
        open_desk = require_show(desk, path.show)
        entry = open_desk.show.item(path.thing, "type").body
        assert isinstance(entry, TypeEntry)
        with open_desk.lock:
            asset = open_desk.file.asset(entry.asset)
        if asset is None:
            abort(404, "The file of this type is missing from the show.")
        response = Response(asset[1], mimetype="application/octet-stream")
        response.headers.set("Content-Disposition", "attachment", filename=f"{entry.maker}@{entry.name}.gdtf")
        return response

    return api
