"""The show: the document, edits, undo, history, meshes, seats."""

from __future__ import annotations

from flask import Response, abort
from flask_openapi3.blueprint import APIBlueprint

from zarfwright.core.errors import JobError
from zarfwright.core.plain import require_text
from zarfwright.web.desk.views import seats_of
from zarfwright.web.here import desk_of, for_ever, json_response, services
from zarfwright.web.models import Problem, ShowPath, Who
from zarfwright.web.show_models import (
    Document,
    EditRequest,
    EditResult,
    GoBack,
    History,
    MeshPath,
    NewPoint,
    Points,
    Presence,
    Seats,
    ShowList,
)

api = APIBlueprint("shows", __name__, abp_responses={400: Problem, 404: Problem, 409: Problem})


@api.get("/api/shows", responses={200: ShowList})
def list_shows() -> Response:
    """The open shows."""
    desk = services().desk
    return json_response([{"id": desk.session.show_id, "name": desk.show.settings.name}])


@api.get("/api/shows/<show>", responses={200: Document})
def get_show(path: ShowPath, query: Who) -> Response:
    """The whole document."""
    return json_response(desk_of(path.show).document(query.who))


@api.post("/api/shows/<show>/edits", responses={200: EditResult})
def edit_show(path: ShowPath, body: EditRequest) -> Response:
    """Do an edit, or see what it would come to."""
    desk = desk_of(path.show)
    if body.preview:
        return json_response(desk.preview(body.who, body.kind, body.args, body.live))
    return json_response(desk.edit(body.who, body.kind, body.args, body.base_rev))


@api.post("/api/shows/<show>/undo", responses={200: EditResult})
def undo(path: ShowPath, body: Who) -> Response:
    """Take back one's own last edit."""
    return json_response(desk_of(path.show).undo(body.who))


@api.post("/api/shows/<show>/redo", responses={200: EditResult})
def redo(path: ShowPath, body: Who) -> Response:
    """Make again what was undone."""
    return json_response(desk_of(path.show).redo(body.who))


@api.post("/api/shows/<show>/presence", responses={200: None})
def be_present(path: ShowPath, body: Presence) -> Response:
    """Tell the others what one has selected; nothing is stored."""
    desk = desk_of(path.show)
    desk.feed.event("presence", who=body.who, name=body.name, ids=body.ids)
    return json_response({})


@api.get("/api/shows/<show>/history", responses={200: History})
def history(path: ShowPath) -> Response:
    """The latest edits, newest first."""
    desk = desk_of(path.show)
    return json_response(desk.session.history())


@api.get("/api/shows/<show>/points", responses={200: Points})
def points(path: ShowPath) -> Response:
    """The named restore points, newest first."""
    desk = desk_of(path.show)
    return json_response(desk.session.points())


@api.post("/api/shows/<show>/points", responses={200: Points})
def name_point(path: ShowPath, body: NewPoint) -> Response:
    """Name the show as it is now, to come back to."""
    desk = desk_of(path.show)
    name = require_text(body.name.strip(), "name")
    if not name:
        raise JobError("A restore point needs a name: type at least one letter.", "name")
    desk.session.name_point(name)
    return json_response(desk.session.points())


@api.post("/api/shows/<show>/back", responses={200: EditResult})
def go_back(path: ShowPath, body: GoBack) -> Response:
    """Bring the show back to a point of its history, as one edit."""
    return json_response(desk_of(path.show).go_back(body.who, body.seq, body.point))


@api.get("/api/shows/<show>/seats", responses={200: Seats})
def seats(path: ShowPath) -> Response:
    """Every seat, as a place to look from."""
    return json_response(seats_of(desk_of(path.show).show))


@api.get("/api/meshes/<key>", responses={200: None})
def mesh(path: MeshPath) -> Response:
    """The bytes of a mesh (core/mesh.py)."""
    found = services().desk.shelf.get(path.key)
    if found is None:
        abort(404, "That mesh is not in the show: load the page again.")
    return for_ever(found.packed)
