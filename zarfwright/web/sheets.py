"""Sheets and schedules: drawn, listed, and as files."""

from __future__ import annotations

from typing import Literal

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, Field

from zarfwright.core.errors import JobError
from zarfwright.core.schedules.lists import TITLES
from zarfwright.core.schedules.strips import body_labels, strips
from zarfwright.core.schedules.table import ListStyle, as_texts
from zarfwright.core.sheet.listed import marked_schedule
from zarfwright.core.sheet.marks import Drawing, Seen
from zarfwright.core.sheet.paper import PAPERS, scale_text
from zarfwright.core.sheet.readiness import drawn_findings
from zarfwright.core.sheet.record import changes_since, fingerprint, last_issue
from zarfwright.core.sheet.sheet import Sheet
from zarfwright.core.show import Show
from zarfwright.formats.csv import write_csv
from zarfwright.formats.sheet.files import KINDS, sheet_file
from zarfwright.formats.sheet.strips import labels_pdf, strips_pdf
from zarfwright.formats.sheet.svg import sheet_svg
from zarfwright.formats.sheet.tables import schedule_pdf, total_name
from zarfwright.web.files import file_stem
from zarfwright.web.here import attachment, desk_of, json_response
from zarfwright.web.models import Problem, ShowPath, ThingPath, Vec3

api = APIBlueprint("sheets", __name__, abp_responses={400: Problem, 404: Problem})


class LabelOut(BaseModel):
    """A label: its first fixture, its box on the sheet, and the middle of the symbol that it is of; millimetres."""

    fixture: str
    box: tuple[float, float, float, float]
    symbol: tuple[float, float]


class ViewOut(BaseModel):
    """A view as it is drawn: where it lies (left, low, right, high), where the middle of its picture is."""

    key: str
    name: str
    scale: int
    scale_text: str
    box: tuple[float, float, float, float]
    at: tuple[float, float]
    middle: tuple[float, float]
    """What place of the view's plane that is, metres; `axes` to the right on paper, and up, in the show's frame."""
    axes: tuple[Vec3, Vec3]
    fixtures: int
    labels: list[LabelOut]


class PaperFinding(BaseModel):
    text: str
    where: list[str]
    wrong: bool


class SheetOut(BaseModel):
    """A drawn sheet: its picture (empty where `have` is its number), its size in millimetres, its views, and what is
    wrong with it."""

    drawn: int
    svg: str
    width: float
    height: float
    views: list[ViewOut]
    findings: list[PaperFinding]


class HaveQuery(BaseModel):
    """The number of the drawing that one has already."""

    have: int = 0


class FileQuery(BaseModel):
    """As what; on other paper, made smaller (`on`) or in tiles (`tiles`)."""

    kind: Literal["pdf", "svg", "dxf"] = "pdf"
    on: str = Field("", max_length=20)
    tiles: str = Field("", max_length=20)


class SchedulePath(BaseModel):
    show: str
    name: str


class ScheduleQuery(BaseModel):
    paper: str = Field("A4", max_length=20)


class TotalOut(BaseModel):
    name: str
    value: float


class ScheduleOut(BaseModel):
    """A schedule as it is arranged: all columns that it could have, those that it shows, its rows with the things that
    each is of, and which of them have changed since revision `since`."""

    name: str
    title: str
    every: list[str]
    columns: list[str]
    rows: list[list[str | float | None]]
    things: list[list[str]]
    totals: list[TotalOut]
    group: str
    note: str
    changed: list[int]
    since: str


class PaperChange(BaseModel):
    id: str
    text: str
    sort: Literal["new", "gone", "changed"]


class IssuedOut(BaseModel):
    """What papers say otherwise than when they were last issued; `sheets`: those set up otherwise since."""

    since: str
    changes: list[PaperChange]
    sheets: list[str]


def _view(view: Seen, system: str) -> dict[str, object]:
    firsts = {(box.x0, box.y0): key for key, box in reversed(view.labels.items())}
    return {
        "key": view.key,
        "name": view.name,
        "scale": view.scale,
        "scale_text": scale_text(view.scale, system),
        "box": (view.box.x0, view.box.y0, view.box.x1, view.box.y1),
        "at": view.at,
        "middle": view.middle,
        "axes": view.axes,
        "fixtures": len(view.fixtures),
        "labels": [
            {"fixture": key, "box": (box.x0, box.y0, box.x1, box.y1), "symbol": view.middles[key]}
            for key, box in view.labels.items()
            if firsts[box.x0, box.y0] == key
        ],
    }


@api.get("/api/shows/<show>/sheets/<thing>", responses={200: SheetOut})
def drawn_sheet(path: ThingPath, query: HaveQuery) -> Response:
    """A sheet as it is drawn now."""
    desk = desk_of(path.show)
    drawing, number = desk.sheets.numbered(path.thing)
    system = desk.show.settings.system
    return json_response({
        "drawn": number,
        "svg": "" if query.have == number else sheet_svg(drawing).decode(),
        "width": drawing.width_mm,
        "height": drawing.height_mm,
        "views": [_view(view, system) for view in drawing.views],
        "findings": [{"text": one.text, "where": one.where, "wrong": one.wrong}
                     for one in drawn_findings(path.thing, drawing)],
    })  # fmt: skip


def _download(show: Show, name: str, data: bytes, kind: str) -> Response:
    stem = f"{file_stem(show.settings.name)} - {file_stem(name)}"
    return attachment(data, f"{stem}.{kind}", {**KINDS, "csv": "text/csv"}[kind])


def _require_paper(*papers: str) -> None:
    for paper in papers:
        if paper and paper not in PAPERS:
            raise JobError(f"“{paper}” is no size of paper: choose one of {', '.join(PAPERS)}.", "paper")


@api.get("/api/shows/<show>/sheets/<thing>/file", responses={200: None})
def sheet_as_file(path: ThingPath, query: FileQuery) -> Response:
    """A sheet as PDF, SVG or DXF."""
    _require_paper(query.on, query.tiles)
    desk = desk_of(path.show)
    _, sheet = desk.show.thing(path.thing, Sheet)
    kept: list[Drawing] = [desk.sheets.drawn(path.thing)]
    data, _ = sheet_file(desk.show, [sheet], query.kind, query.on, query.tiles, kept)
    return _download(desk.show, f"{sheet.number} {sheet.name}", data, query.kind)


@api.get("/api/shows/<show>/papers/set.pdf", responses={200: None})
def set_as_file(path: ShowPath, query: FileQuery) -> Response:
    """All sheets as one PDF."""
    _require_paper(query.on, query.tiles)
    desk = desk_of(path.show)
    sheets = list(desk.show.bodies(Sheet))
    if not sheets:
        raise JobError("The show has no sheets: make one in Papers.")
    drawings = [desk.sheets.drawn(item.id) for item, _ in sheets]
    data, _ = sheet_file(desk.show, [sheet for _, sheet in sheets], "pdf", query.on, query.tiles, drawings)
    return _download(desk.show, "papers", data, "pdf")


@api.get("/api/shows/<show>/schedules/<name>", responses={200: ScheduleOut})
def one_schedule(path: SchedulePath) -> Response:
    """A schedule as it is arranged."""
    show = desk_of(path.show).show
    table, since = marked_schedule(show, path.name, None)
    every = marked_schedule(show, path.name, ListStyle(path.name))[0].columns
    return json_response({
        "name": table.name,
        "title": TITLES[table.name],
        "every": every,
        "columns": table.columns,
        "rows": table.rows,
        "things": table.things,
        "totals": [{"name": total_name(key), "value": value} for key, value in table.totals.items()],
        "group": table.group,
        "note": table.note,
        "changed": table.changed,
        "since": since,
    })  # fmt: skip


@api.get("/api/shows/<show>/schedules/<name>/csv", responses={200: None})
def schedule_csv(path: SchedulePath) -> Response:
    """A schedule as CSV; where papers were issued, with a column for what has changed since."""
    show = desk_of(path.show).show
    table, since = marked_schedule(show, path.name, None)
    columns = (*table.columns, f"Since {since}") if since and table.things else table.columns
    changed = set(table.changed)
    rows = [(*as_texts(row), *(["changed" if i in changed else ""] if len(columns) > len(table.columns) else []))
            for i, row in enumerate(table.rows)]  # fmt: skip
    return _download(show, TITLES[path.name], write_csv(columns, rows), "csv")


@api.get("/api/shows/<show>/schedules/<name>/pdf", responses={200: None})
def schedule_as_pdf(path: SchedulePath, query: ScheduleQuery) -> Response:
    """A schedule as PDF."""
    _require_paper(query.paper)
    show = desk_of(path.show).show
    table, since = marked_schedule(show, path.name, None)
    data = schedule_pdf(table, show.settings.name, query.paper, since=since)
    return _download(show, TITLES[path.name], data, "pdf")


@api.get("/api/shows/<show>/papers/labels.pdf", responses={200: None})
def body_labels_pdf(path: ShowPath) -> Response:
    """A label for each fixture's body, to be cut out."""
    show = desk_of(path.show).show
    return _download(show, "labels", labels_pdf(show.settings.name, body_labels(show)), "pdf")


@api.get("/api/shows/<show>/papers/strips.pdf", responses={200: None})
def structure_strips_pdf(path: ShowPath) -> Response:
    """A strip for each structure with what hangs where, to be cut out."""
    show = desk_of(path.show).show
    return _download(show, "strips", strips_pdf(show.settings.name, strips(show)), "pdf")


@api.get("/api/shows/<show>/papers/issued", responses={200: IssuedOut})
def since_issued(path: ShowPath) -> Response:
    """What papers say otherwise than when they were issued."""
    show = desk_of(path.show).show
    issue = last_issue(show)
    if issue is None:
        return json_response({"since": "", "changes": [], "sheets": []})
    changes = [{"id": one.id, "text": one.text, "sort": one.sort} for one in changes_since(show, issue)]
    sheets = [item.id for item, sheet in show.bodies(Sheet) if issue.sheets.get(item.id) != fingerprint(sheet)]
    return json_response({"since": issue.number, "changes": changes, "sheets": sheets})
