"""Show files: the one that is open, others that were, new ones, copies."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any, Literal

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, RootModel

from zarfwright.core.edits import perform
from zarfwright.core.errors import JobError
from zarfwright.core.plain import require_text
from zarfwright.core.show import Show
from zarfwright.store.errors import ShowFileError
from zarfwright.store.showfile import ShowFile
from zarfwright.web.desk import new_id
from zarfwright.web.here import desk_of, json_response, services, uploaded
from zarfwright.web.models import Problem, ShowPath


class RecentShow(BaseModel):
    path: str
    name: str
    at: str
    open: bool


class RecentShows(RootModel[list[RecentShow]]):
    pass


class OpenShow(BaseModel):
    """One of the shows that were opened before."""

    path: str


class NewShow(BaseModel):
    name: str
    system: Literal["metric", "imperial"] = "metric"


class Opened(BaseModel):
    id: str
    name: str


def file_stem(name: str) -> str:
    """What the file of a show of that name is called."""
    return re.sub(r"[^\w\- ]+", "", name, flags=re.UNICODE).strip()[:60] or "Show"


def free_path(folder: Path, name: str) -> Path:
    """A file of that name, or with a number where there is one already."""
    stem = file_stem(name)
    tries = (folder / (f"{stem}.zarf" if n == 1 else f"{stem} {n}.zarf") for n in range(1, 1000))
    return next(path for path in tries if not path.exists())


api = APIBlueprint("files", __name__, abp_responses={400: Problem, 404: Problem})


def open_it(path: Path) -> Response:
    """Open a show file; every browser goes with it."""
    here = services()
    try:
        here.desk.open(path)
        # Who was let in to see one show is not shown another.
        here.guests.end()
    except ShowFileError as wrong:
        raise JobError(str(wrong)) from wrong
    here.recent.note(path, here.desk.show.settings.name)
    return json_response({"id": here.desk.session.show_id, "name": here.desk.show.settings.name})


def folder_here() -> Path:
    """The folder of the show that is open."""
    return services().desk.session.path.resolve().parent


@api.get("/api/recent", responses={200: RecentShows})
def recent_shows() -> Response:
    """The shows that were opened on this machine, newest first."""
    desk, recent = services().desk, services().recent
    here = desk.session.path.resolve()
    recent.note(here, desk.show.settings.name)
    shows: list[dict[str, Any]] = [{**one, "open": Path(one["path"]) == here} for one in recent.shows()]
    return json_response(shows)


@api.post("/api/open", responses={200: Opened})
def open_recent(body: OpenShow) -> Response:
    """Open a show that was open before; every browser goes with it."""
    if body.path not in {one["path"] for one in services().recent.shows()}:
        raise JobError("That show was not opened here before: take its file in instead.", "path")
    return open_it(Path(body.path))


@api.post("/api/new", responses={200: Opened})
def new_show(body: NewShow) -> Response:
    """A new show beside the open one, and open it."""
    name = require_text(body.name.strip(), "name")
    if not name:
        raise JobError("A new show needs a name: type at least one letter.", "name")
    path = free_path(folder_here(), name)
    file = ShowFile(path)
    named = perform(Show(file.items()), "set show", {"name": name, "system": body.system}, new_id)
    file.store_edit("new show", "set show", named.sentence, named.changes)
    file.forget_history()
    file.close()
    return open_it(path)


@api.post("/api/take", responses={200: Opened})
def take_show() -> Response:
    """Take a show file in (the `file` of a form): it is kept beside the open one and opened."""
    data, name = uploaded("a .zarf file")
    path = free_path(folder_here(), Path(name).stem)
    try:
        path.write_bytes(data)
        return open_it(path)
    except OSError as wrong:
        path.unlink(missing_ok=True)
        raise JobError(
            f"{path.name} cannot be kept beside the open show ({wrong.strerror}): make room there."
        ) from wrong
    except JobError:
        for file in (path, Path(f"{path}-wal"), Path(f"{path}-shm")):
            file.unlink(missing_ok=True)
        raise


class CopyQuery(BaseModel):
    """With `history`, what was done is in it too, and can be undone there."""

    history: bool = True


class PackedOut(BaseModel):
    """How large a copy is, with its history and without."""

    bytes: int
    without_history: int


@api.get("/api/shows/<show>/packed", responses={200: PackedOut})
def look_at_copy(path: ShowPath) -> Response:
    """How large the show is as one file."""
    session = desk_of(path.show).session
    sizes = {"bytes": len(session.copied()), "without_history": len(session.copied(history=False))}
    return json_response(sizes)


@api.get("/api/shows/<show>/copy", responses={200: None})
def save_copy(path: ShowPath, query: CopyQuery) -> Response:
    """The whole show as one file, to send or to keep."""
    desk = desk_of(path.show)
    data = desk.session.copied(query.history)
    name = f"{file_stem(desk.show.settings.name)}.zarf"
    response = Response(data, mimetype="application/octet-stream")
    plain = name.encode("ascii", "replace").decode().replace("?", "_").replace('"', "")
    response.headers["Content-Disposition"] = f'attachment; filename="{plain}"'
    return response
