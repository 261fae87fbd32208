"""The simulated console's screen."""

from __future__ import annotations

from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint

from zarfwright.core.errors import JobError
from zarfwright.web.console_link import ConsoleLink
from zarfwright.web.desk import Desk
from zarfwright.web.models import ConsoleCommand, ConsoleReport, Problem, ShowPath
from zarfwright.web.shows import json_response, require_show


def blueprint(desk: Desk | None, live: Any, link: ConsoleLink | None) -> APIBlueprint:
    api = APIBlueprint("console", __name__, abp_responses={400: Problem, 404: Problem})

    def the_link() -> ConsoleLink:
        if link is None:
            raise JobError("There is no simulated console here.")
        return link

    @api.get("/api/shows/<show>/console", responses={200: ConsoleReport})
    def console_report(path: ShowPath) -> Response:
        """Whether it runs, and what its screen shows."""
        require_show(desk, path.show)
        return json_response(the_link().report())

    @api.post("/api/shows/<show>/console", responses={200: ConsoleReport})
    def console_command(path: ShowPath, body: ConsoleCommand) -> Response:
        """Start it, end it, or press something on it."""
        require_show(desk, path.show)
        console = the_link()
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

    return api
