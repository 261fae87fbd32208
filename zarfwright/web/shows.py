"""The show: the document, edits, undo, history, meshes, seats, pictures of looks."""

from __future__ import annotations

from typing import Any

import orjson
from flask import Response, abort, request
from flask_openapi3 import APIBlueprint

from zarfwright.core.errors import JobError
from zarfwright.core.looks import look_frame
from zarfwright.core.patch import patch_rows
from zarfwright.core.show import Look
from zarfwright.links.frames import full_frame
from zarfwright.links.live.engine import patch_of
from zarfwright.web.desk import Desk
from zarfwright.web.models import (
    Document,
    EditRequest,
    EditResult,
    GoBack,
    History,
    MeshPath,
    NewPoint,
    Points,
    Presence,
    Problem,
    Seats,
    ShowList,
    ShowPath,
    ThingPath,
    Who,
)


def json_response(value: Any) -> Response:
    """Bytes that are JSON already, or anything orjson writes."""
    body = value if isinstance(value, bytes) else orjson.dumps(value)
    return Response(body, mimetype="application/json")


def uploaded(what: str) -> tuple[bytes, str]:
    """The bytes and the name of the file that came with a form. Raises JobError when none did."""
    upload = request.files.get("file")
    if upload is None:
        raise JobError(f"No file came with this: choose {what}.")
    return upload.read(), (upload.filename or "the file")[-120:]


def require_show(desk: Desk | None, show: str) -> Desk:
    """The desk, if that show is the open one."""
    if desk is None or desk.show_id != show:
        abort(404, "That show is not open here: load the page again.")
    return desk


def blueprint(desk: Desk | None, live: Any, link: Any) -> APIBlueprint:
    api = APIBlueprint("shows", __name__, abp_responses={400: Problem, 404: Problem, 409: Problem})

    @api.get("/api/shows", responses={200: ShowList})
    def list_shows() -> Response:
        """The open shows."""
        entries = [] if desk is None else [{"id": desk.show_id, "name": desk.show.settings.name}]
        return json_response(entries)

    @api.get("/api/shows/<show>", responses={200: Document})
    def get_show(path: ShowPath, query: Who) -> Response:
        """The whole document."""
        return json_response(require_show(desk, path.show).document(query.who))

    @api.post("/api/shows/<show>/edits", responses={200: EditResult})
    def edit_show(path: ShowPath, body: EditRequest) -> Response:
        """Do an edit, or see what it would come to."""
        open_desk = require_show(desk, path.show)
        if body.preview:
            return json_response(open_desk.preview(body.kind, body.args))
        return json_response(open_desk.edit(body.who, body.kind, body.args, body.base_rev))

    @api.post("/api/shows/<show>/undo", responses={200: EditResult})
    def undo(path: ShowPath, body: Who) -> Response:
        """Take back one's own last edit."""
        return json_response(require_show(desk, path.show).undo(body.who))

    @api.post("/api/shows/<show>/redo", responses={200: EditResult})
    def redo(path: ShowPath, body: Who) -> Response:
        """Make again what was undone."""
        return json_response(require_show(desk, path.show).redo(body.who))

    @api.post("/api/shows/<show>/presence", responses={200: None})
    def be_present(path: ShowPath, body: Presence) -> Response:
        """Tell the others what one has selected; nothing is stored."""
        open_desk = require_show(desk, path.show)
        if open_desk.live is not None:
            said = {"event": "presence", "who": body.who, "name": body.name, "ids": body.ids}
            open_desk.live.tell(orjson.dumps(said).decode())
        return json_response({})

    @api.get("/api/shows/<show>/history", responses={200: History})
    def history(path: ShowPath) -> Response:
        """The latest edits, newest first."""
        open_desk = require_show(desk, path.show)
        with open_desk.lock:
            return json_response(open_desk.file.history())

    @api.get("/api/shows/<show>/points", responses={200: Points})
    def points(path: ShowPath) -> Response:
        """The named restore points, newest first."""
        open_desk = require_show(desk, path.show)
        with open_desk.lock:
            return json_response(open_desk.file.points())

    @api.post("/api/shows/<show>/points", responses={200: Points})
    def name_point(path: ShowPath, body: NewPoint) -> Response:
        """Name the show as it is now, to come back to."""
        open_desk = require_show(desk, path.show)
        name = body.name.strip()[:120]
        if not name:
            raise JobError("A restore point needs a name: type at least one letter.", "name")
        with open_desk.lock:
            open_desk.file.name_point(name)
            return json_response(open_desk.file.points())

    @api.post("/api/shows/<show>/back", responses={200: EditResult})
    def go_back(path: ShowPath, body: GoBack) -> Response:
        """Bring the show back to a point of its history, as one edit."""
        return json_response(require_show(desk, path.show).go_back(body.who, body.seq, body.point))

    @api.get("/api/shows/<show>/seats", responses={200: Seats})
    def seats(path: ShowPath) -> Response:
        """Every seat, as a place to look from."""
        return json_response(require_show(desk, path.show).seats())

    @api.get("/api/shows/<show>/looks/<thing>/frame", responses={200: None})
    def look_picture(path: ThingPath) -> Response:
        """The beams of a look alone, as a full frame of the live wire format."""
        open_desk = require_show(desk, path.show)
        with open_desk.lock:
            show, number = open_desk.show, open_desk.rig_number
        look = show.item(path.thing, "look").body
        assert isinstance(look, Look)
        raw = patch_of(number, patch_rows(show)).scaling.pack(look_frame(show, look))
        return Response(full_frame(raw, 1, number, 0.0, 0.0), mimetype="application/octet-stream")

    @api.get("/api/meshes/<key>", responses={200: None})
    def mesh(path: MeshPath) -> Response:
        """The bytes of a mesh (core/mesh.py)."""
        found = desk.meshes.get(path.key) if desk else None
        if found is None:
            abort(404, "That mesh is not in the show: load the page again.")
        response = Response(found.packed, mimetype="application/octet-stream")
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response

    return api
