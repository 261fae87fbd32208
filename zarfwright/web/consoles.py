"""The simulated console's screen."""

from __future__ import annotations

from typing import Literal

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel

from zarfwright.core.errors import JobError
from zarfwright.web.here import desk_of, json_response, services
from zarfwright.web.models import Problem, ShowPath


class CueOut(BaseModel):
    number: int
    name: str
    fade_s: float


class ConsoleState(BaseModel):
    playing: bool
    cue: int | None
    cues: list[CueOut]
    master: float
    levels: dict[str, float]
    fixtures: int
    universes: list[int]


class ConsoleReport(BaseModel):
    running: bool
    problem: str
    state: ConsoleState | None


class ConsoleEvent(ConsoleReport):
    event: Literal["console"]


class ConsoleCommand(BaseModel):
    """start and end the program; play, stop, next, master (level), level (number, level or none to let go)."""

    do: Literal["start", "end", "play", "stop", "next", "master", "level"]
    level: float | None = None
    number: int | None = None


api = APIBlueprint("console", __name__, abp_responses={400: Problem, 404: Problem})


@api.get("/api/shows/<show>/console", responses={200: ConsoleReport})
def console_report(path: ShowPath) -> Response:
    """Whether it runs, and what its screen shows."""
    desk_of(path.show)
    return json_response(services().console.report())


@api.post("/api/shows/<show>/console", responses={200: ConsoleReport})
def console_command(path: ShowPath, body: ConsoleCommand) -> Response:
    """Start it, end it, or press something on it."""
    desk_of(path.show)
    console = services().console
    if body.do == "start":
        console.start()
    elif body.do == "end":
        console.end()
    else:
        if body.do == "master" and body.level is None:
            raise JobError("Say which level the grand master goes to.", "level")
        if body.do == "level" and body.number is None:
            raise JobError("Say the number of the fixture.", "number")
        console.command(body.model_dump())
    return json_response(console.report())
