"""The line check: fixture by fixture, what is expected and what comes."""

from __future__ import annotations

from html import escape
from typing import Literal

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, Field

from zarfwright.core.errors import JobError
from zarfwright.web.here import desk_of, json_response, services
from zarfwright.web.models import Problem, ShowPath


class CheckStep(BaseModel):
    id: str
    number: int
    function: Literal["intensity", "colour", "position"]
    state: Literal["waits", "answered", "silent", "skipped"]
    came: str
    cause: str


class CheckReport(BaseModel):
    """`expects` and `came`: of the step that it is at."""

    going: bool
    way: Literal["hand", "identify", "send"]
    steps: list[CheckStep]
    at: int
    expects: str
    came: str
    picture: str
    said: str
    answered: int
    silent: int
    left: int


class CheckEvent(CheckReport):
    event: Literal["check"]


class CheckRequest(BaseModel):
    """start (`ids`: these fixtures, none: all; `way`; `console`: whom values are sent to); answered, silent or skipped:
    how a person saw the step end; end."""

    do: Literal["start", "answered", "silent", "skipped", "end"]
    ids: list[str] = []
    way: Literal["hand", "identify", "send"] = "hand"
    console: str = ""
    who: str = Field("somebody", max_length=80)


api = APIBlueprint("checks", __name__, abp_responses={400: Problem, 404: Problem})


@api.get("/api/shows/<show>/check", responses={200: CheckReport})
def check_report(path: ShowPath) -> Response:
    """How the line check goes, or how the last one went."""
    desk_of(path.show)
    return json_response(services().checks.report())


@api.post("/api/shows/<show>/check", responses={200: CheckReport})
def check_line(path: ShowPath, body: CheckRequest) -> Response:
    """Begin it, say how a step ended, or end it."""
    desk_of(path.show)
    checks = services().checks
    if body.do == "start":
        checks.start(body.ids, body.way, body.console, body.who)
    elif body.do == "end":
        checks.end()
    else:
        checks.end_step(body.do)
    return json_response(checks.report())


PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Line check</title>
<style>body{{font:11pt/1.4 sans-serif;margin:2em;color:#111}}table{{border-collapse:collapse;width:100%}}
td,th{{border-bottom:1px solid #999;padding:3px 8px;text-align:left;vertical-align:top}}h1{{font-size:16pt}}
td:first-child{{text-align:right;font-variant-numeric:tabular-nums}}@page{{margin:15mm}}</style>
<h1>Line check: {name}</h1><p>{said}</p><table><thead><tr><th>No.<th>What<th>How it went<th>What came<th>Likely cause
<th>Seen to</tr></thead><tbody>{rows}</tbody></table></html>
"""
WORDS = {"answered": "answered", "silent": "did not answer", "skipped": "skipped", "waits": "not tried"}


@api.get("/api/shows/<show>/check.html", responses={200: None})
def check_page(path: ShowPath) -> Response:
    """The last check as a page to be printed: who did not answer first."""
    desk = desk_of(path.show)
    report = CheckReport(**services().checks.report())
    if not report.steps:
        raise JobError("The line was not checked yet: begin a check first.")
    order = {"silent": 0, "waits": 1, "skipped": 2, "answered": 3}
    ordered = sorted(report.steps, key=lambda one: (order[one.state], one.number))
    rows = "".join(_row(one) for one in ordered)
    said = f"{report.answered} answered, {report.silent} did not, {report.left} not tried."
    page = PAGE.format(name=escape(desk.show.settings.name), said=said, rows=rows)
    return Response(page, mimetype="text/html")


def _row(one: CheckStep) -> str:
    cells = (str(one.number), one.function, WORDS[one.state], one.came, one.cause)
    return f"<tr>{''.join(f'<td>{escape(cell)}' for cell in cells)}<td>&nbsp;</tr>"
