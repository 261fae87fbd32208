"""Jobs over HTTP: edits of which a part takes long."""

from __future__ import annotations

from typing import Any, Literal

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, RootModel

from zarfwright.core.edits import prepare
from zarfwright.core.errors import JobError
from zarfwright.web.here import desk_of, json_response, services
from zarfwright.web.models import Problem, ShowPath
from zarfwright.web.show_models import EditRequest, EditResult


class JobPath(BaseModel):
    show: str
    job: str


class JobOut(BaseModel):
    """A job: `done` of `of` calls are answered. One that has ended is there until somebody fetches it."""

    id: str
    who: str
    name: str
    of: int
    done: int
    state: Literal["running", "done", "failed", "stopped"]
    problem: str


class JobList(RootModel[list[JobOut]]):
    pass


class JobStarted(BaseModel):
    id: str


class JobFetched(BaseModel):
    """A job, and what the edit came to where it is done."""

    job: JobOut
    result: EditResult | None


class JobsEvent(BaseModel):
    """How far the jobs are."""

    event: Literal["jobs"]
    jobs: list[JobOut]


api = APIBlueprint("work", __name__, abp_responses={400: Problem, 404: Problem})


@api.post("/api/shows/<show>/jobs", responses={200: JobStarted})
def start_job(path: ShowPath, body: EditRequest) -> Response:
    """Do an edit whose work takes long: that is done in other processes, then the edit is made, or with `preview` what
    it would come to is the result."""
    desk, jobs = desk_of(path.show), services().jobs
    show, rev = desk.session.now()
    prepared = prepare(show, body.kind, body.args, desk.around)

    def finish(answers: list[Any]) -> dict[str, Any]:
        if desk.session.show_id != path.show:
            raise JobError("Another show was opened meanwhile: open the first again and repeat this.")
        if body.preview:
            return desk.preview_prepared(body.who, prepared.answered(answers), rev)
        return desk.edit_prepared(body.who, body.kind, prepared.answered(answers), body.base_rev)

    name = f"{'Look at: ' if body.preview else ''}{body.kind.capitalize()}"
    return json_response({"id": jobs.start(body.who, name, prepared.calls(), finish)})


@api.get("/api/shows/<show>/jobs", responses={200: JobList})
def list_jobs(path: ShowPath) -> Response:
    """The jobs that run, and those that nobody fetched."""
    desk_of(path.show)
    return json_response(services().jobs.report())


@api.get("/api/shows/<show>/jobs/<job>", responses={200: JobFetched})
def fetch_job(path: JobPath) -> Response:
    """How far a job is; with its result, and then it is forgotten, where it has ended."""
    desk_of(path.show)
    job, result = services().jobs.fetch(path.job)
    return json_response({"job": job, "result": result})


@api.post("/api/shows/<show>/jobs/<job>/stop", responses={200: None})
def stop_job(path: JobPath) -> Response:
    """Stop a job; nothing of it is kept."""
    desk_of(path.show)
    services().jobs.stop(path.job)
    return json_response({})
