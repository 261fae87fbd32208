"""Scenes of other programs: MVR out and in, and the geometry as GLB."""

from __future__ import annotations

from typing import Any, Literal

from flask import Response, request
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel

from zarfwright.core.edits.exchanging import SceneChoices
from zarfwright.core.errors import JobError
from zarfwright.core.exchange.compare import GROUPS, Comparison, compare
from zarfwright.core.exchange.lie import bounds, suspicions
from zarfwright.core.exchange.offered import Wish
from zarfwright.core.exchange.report import report_of
from zarfwright.web.desk import Desk
from zarfwright.web.desk.inbox import Arrived
from zarfwright.web.desk.outbox import geometry_file, scene_file
from zarfwright.web.files import file_stem
from zarfwright.web.here import attachment, desk_of, json_response, services
from zarfwright.web.models import FileFinding, Problem, ShowPath, Vec3, Who

SCENE_MOST = 600 * 2**20


class SceneQuery(BaseModel):
    """What goes out: `only` these things by id, parted by commas."""

    only: Literal["all", "shown", "fixtures"] = "all"
    ids: str = ""
    people: bool = False

    def wish(self) -> Wish:
        chosen = frozenset(one for one in self.ids.split(",") if one) if self.ids else None
        return Wish(self.only, chosen, self.people)


class LeftOutOut(BaseModel):
    what: str
    why: str


class OfferOut(BaseModel):
    """What a file would hold, and how large it is."""

    fixtures: int
    types: int
    structures: int
    others: int
    bytes: int
    left_out: list[LeftOutOut]


class ScenePath(BaseModel):
    show: str
    key: str


class SceneArrived(BaseModel):
    """A file that has arrived, and the job that reads it."""

    key: str
    name: str
    bytes: int
    job: str


class SceneLine(BaseModel):
    key: str
    id: str | None
    group: str
    change: str
    name: str
    text: str


class SceneGroup(BaseModel):
    """How many things of a group the file has, and what becomes of them."""

    name: str
    in_file: int
    added: int
    changed: int
    removed: int
    kept: int


class TypeOption(BaseModel):
    choice: str
    name: str
    source: str
    reason: str
    modes: dict[str, str]


class SceneType(BaseModel):
    spec: str
    name: str
    maker: str
    why: str
    """What is the matter with its file; empty: nothing."""
    fixtures: int
    slots: dict[str, int]
    chosen: str
    options: list[TypeOption]


class SuspicionOut(BaseModel):
    what: str
    button: str
    factor: float
    over: bool
    shift: Vec3


class BesideOut(BaseModel):
    """Heads that would come in beside a structure."""

    structure: str
    name: str
    ids: list[str]
    nearest_m: float
    furthest_m: float


class SceneCompared(BaseModel):
    """A file beside the show."""

    name: str
    provider: str
    same: int
    groups: list[SceneGroup]
    lines: list[SceneLine]
    types: list[SceneType]
    findings: list[FileFinding]
    suspicions: list[SuspicionOut]
    beside: list[BesideOut]
    low: Vec3 | None
    high: Vec3 | None


api = APIBlueprint("scenes", __name__, abp_responses={400: Problem, 404: Problem})


@api.get("/api/shows/<show>/scene", responses={200: OfferOut})
def look_at_scene(path: ShowPath, query: SceneQuery) -> Response:
    """What an MVR file of the show would hold."""
    desk = desk_of(path.show)
    made = scene_file(desk.show, desk.session.asset, query.wish())
    return json_response(
        {
            "fixtures": made.fixtures, "types": made.types, "structures": made.structures, "others": made.others,
            "bytes": len(made.data), "left_out": [vars(one) for one in made.left_out],
        }
    )  # fmt: skip


@api.get("/api/shows/<show>/scene.mvr", responses={200: None})
def scene_mvr(path: ShowPath, query: SceneQuery) -> Response:
    """The scene as MVR."""
    desk = desk_of(path.show)
    made = scene_file(desk.show, desk.session.asset, query.wish())
    return attachment(made.data, f"{file_stem(desk.show.settings.name)}.mvr")


@api.get("/api/shows/<show>/scene.glb", responses={200: None})
def scene_glb(path: ShowPath, query: SceneQuery) -> Response:
    """The geometry of the scene, without lights, as GLB."""
    desk = desk_of(path.show)
    data = geometry_file(desk.show, query.wish())
    return attachment(data, f"{file_stem(desk.show.settings.name)}.glb", "model/gltf-binary")


@api.post("/api/shows/<show>/scenes", responses={200: SceneArrived})
def take_file(path: ShowPath, query: Who) -> Response:
    """Take an MVR file (the `file` of a form) to be looked at: a job reads it; nothing of it is in the show yet."""
    desk, jobs = desk_of(path.show), services().jobs
    request.max_content_length = SCENE_MOST
    upload = request.files.get("file")
    if upload is None:
        raise JobError("No file came with this: choose an MVR file.")
    name = (upload.filename or "the file")[-120:]
    key, place = desk.inbox.place(name)
    try:
        upload.save(place)
    except OSError as wrong:
        raise JobError(f"{name} cannot be kept while it is looked at ({wrong.strerror}): make room.") from wrong
    arrived = desk.inbox.arrive(key, name, place)

    def finish(answers: list[Any]) -> None:
        call = arrived.put_together(answers)
        if call is not None:
            arrived.with_composed(jobs.elsewhere(call))

    job = jobs.start(query.who, f"Read {name}", arrived.calls(), finish)
    return json_response({"key": key, "name": name, "bytes": place.stat().st_size, "job": job})


@api.post("/api/shows/<show>/scenes/<key>", responses={200: SceneCompared})
def compare_scene(path: ScenePath, body: SceneChoices) -> Response:
    """The file beside the show, as it was chosen."""
    desk = desk_of(path.show)
    arrived, compared = _compared(desk, path.key, body)
    return json_response(_out(desk, arrived, compared, body))


@api.post("/api/shows/<show>/scenes/<key>/report", responses={200: None})
def scene_report(path: ScenePath, body: SceneChoices) -> Response:
    """The comparison as text, to be kept."""
    desk = desk_of(path.show)
    arrived, compared = _compared(desk, path.key, body)
    text = report_of(arrived.name, desk.show.settings.name, compared)
    return attachment(text.encode(), f"{file_stem(arrived.name)} - report.txt", "text/plain; charset=utf-8")


@api.post("/api/shows/<show>/scenes/<key>/forget", responses={200: None})
def forget_scene(path: ScenePath) -> Response:
    """Let go of a file that was looked at."""
    desk_of(path.show).inbox.forget(path.key)
    return json_response({})


def _compared(desk: Desk, key: str, body: SceneChoices) -> tuple[Arrived, Comparison]:
    arrived = desk.inbox.look(key)
    return arrived, compare(desk.show, arrived, body.choices())


def _out(desk: Desk, arrived: Arrived, compared: Comparison, body: SceneChoices) -> dict[str, Any]:
    show = desk.show
    final = show.after(compared.changes)
    reach = bounds(compared.scene)
    in_file = {name: compared.in_file.get(name, 0) for name in GROUPS}
    return {
        "name": arrived.name,
        "provider": arrived.scene.provider,
        "same": compared.same,
        "groups": [
            {
                "name": name, "in_file": count,
                **{change: compared.count(change, name) for change in ("added", "changed", "removed", "kept")},
            }
            for name, count in in_file.items()
        ],
        "lines": [vars(line) for line in compared.lines],
        "types": [
            {
                "spec": one.wanted.found.spec, "name": one.wanted.found.name, "maker": one.wanted.found.maker,
                "why": one.wanted.found.why, "fixtures": one.wanted.fixtures,
                "slots": {mode: one.wanted.found.footprints.get(mode, 0) for mode in one.wanted.modes},
                "chosen": one.chosen.choice,
                "options": [
                    {
                        "choice": match.choice, "name": match.name, "source": match.source, "reason": match.reason,
                        "modes": dict(match.modes),
                    }
                    for match in one.others
                ],
            }
            for one in compared.types
        ],
        "findings": [{"where": where, "what": what, "done": done} for where, what, done in compared.findings],
        "suspicions": [
            {"what": one.what, "button": one.button, "factor": one.lay.factor, "over": one.lay.over,
             "shift": one.lay.shift}
            for one in (suspicions(show, arrived.scene, compared.pairs) if body.choices().lay.as_it_is else [])
        ],
        "beside": [
            {**vars(one), "name": final.items[one.structure].name} for one in compared.beside
        ],
        "low": reach[0] if reach is not None else None,
        "high": reach[1] if reach is not None else None,
    }  # fmt: skip
