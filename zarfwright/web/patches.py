"""A console's patch list beside the show's: read, compared, and what taking its lines would say."""

from __future__ import annotations

import json
from typing import Any

from flask import Response, request
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel

from zarfwright.core.errors import JobError
from zarfwright.core.linking.listed import listed_of
from zarfwright.core.patching.compare import Compared, Line, Side, Why, compare
from zarfwright.core.patching.listed import FIELDS, ListRead, columns_of, read_list
from zarfwright.core.show import Show
from zarfwright.formats.csv import read_csv
from zarfwright.formats.mvr import read_mvr
from zarfwright.web.here import desk_of, json_response, uploaded
from zarfwright.web.models import Problem, ShowPath
from zarfwright.web.scenes import ScenePath

ZIP = b"PK\x03\x04"


class PatchSide(BaseModel):
    """What one side says of a fixture; `address` as 2.058."""

    type: str
    mode: str
    address: str | None
    circuit: str
    dimmer: int | None


class TakenOut(BaseModel):
    """What the edit `take patch` is told to make the show's fixture as the list has it."""

    id: str
    mode: str | None = None
    circuit: str | None = None
    dimmer: int | None = None
    start: str | None = None
    unpatch: bool = False


class LineOut(BaseModel):
    """One difference; `take`: how the list's side is taken, none where it cannot be."""

    number: int
    kind: str
    fixture: str | None
    ours: PatchSide | None
    theirs: PatchSide | None
    take: TakenOut | None


class WhyOut(BaseModel):
    """What explains the lines of some numbers; `start`: where it begins in the show."""

    cause: str
    text: str
    numbers: list[int]
    start: str | None


class PatchCompared(BaseModel):
    """The list's headings, which column says what (by its place), the first rows, and the differences; `missing`: what
    has to be said before it can be compared."""

    name: str
    columns: list[str]
    mapping: dict[str, int]
    fields: list[str]
    sample: list[list[str]]
    missing: str
    scene: str
    """The key of the rig that it is made of; empty: a list."""
    left_out: list[str]
    same: int
    lines: list[LineOut]
    causes: list[WhyOut]


api = APIBlueprint("patches", __name__, abp_responses={400: Problem, 404: Problem})


def side_out(side: Side | None) -> dict[str, Any] | None:
    """What one side says, as plain values."""
    if side is None:
        return None
    place = str(side.place) if side.place else None
    return {"type": side.type, "mode": side.mode, "address": place, "circuit": side.circuit, "dimmer": side.dimmer}


def _take(line: Line, placed: bool) -> dict[str, Any] | None:
    """`placed`: whether the list says where fixtures are; one that does not says nothing of those that it has not."""
    if line.fixture is None or line.kind == "type":
        return None
    if line.theirs is None:
        return {"id": line.fixture, "unpatch": True} if placed else None
    if line.kind == "mode":
        return {"id": line.fixture, "mode": line.theirs.mode}
    if line.kind == "circuit":
        return {"id": line.fixture, "circuit": line.theirs.circuit}
    if line.kind == "dimmer":
        return {"id": line.fixture, "dimmer": line.theirs.dimmer}
    place = line.theirs.place
    return {"id": line.fixture, "start": str(place)} if place else {"id": line.fixture, "unpatch": True}


def _line_out(line: Line, placed: bool) -> dict[str, Any]:
    return {
        "number": line.number,
        "kind": line.kind,
        "fixture": line.fixture,
        "ours": side_out(line.ours),
        "theirs": side_out(line.theirs),
        "take": _take(line, placed),
    }


def _why_out(one: Why) -> dict[str, Any]:
    start = str(one.from_) if one.from_ else None
    return {"cause": one.cause, "text": one.text, "numbers": one.numbers, "start": start}


@api.post("/api/shows/<show>/patch/compare", responses={200: PatchCompared})
def compare_list(path: ShowPath) -> Response:
    """Compare a list (CSV, as a form's file; `mapping` in the query: which column says what, where that was chosen), or
    the rig of an MVR file."""
    show = desk_of(path.show).show
    data, name = uploaded("a patch list as CSV, or a rig as MVR")
    if data.startswith(ZIP):
        return json_response(compared_out(show, name, listed_of(read_mvr(data, name).scene)))
    sheet = read_csv(data, name)
    mapping = _mapping(request.args.get("mapping"), len(sheet.columns)) or columns_of(sheet.columns)
    read, missing = ListRead((), ()), ""
    try:
        read = read_list(sheet.rows, mapping)
    except JobError as wrong:
        # The page asks for what is missing.
        missing = str(wrong)
    found = compared_out(show, name, read, missing)
    return json_response(
        found | {"columns": sheet.columns, "mapping": mapping, "fields": FIELDS, "sample": sheet.rows[:5]}
    )


@api.post("/api/shows/<show>/patch/compare/<key>", responses={200: PatchCompared})
def compare_arrived(path: ScenePath) -> Response:
    """Compare a rig that has arrived, from a console or as a file, with the show as it is now."""
    desk = desk_of(path.show)
    arrived = desk.inbox.look(path.key)
    return json_response(compared_out(desk.show, arrived.name, listed_of(arrived.scene), scene=path.key))


def compared_out(show: Show, name: str, read: ListRead, missing: str = "", scene: str = "") -> dict[str, Any]:
    """A list beside the show, as the page takes it; `scene`: the rig that it is made of, where that has arrived."""
    compared = compare(show, read.rows) if not missing else Compared((), (), 0)
    placed = any(row.placed for row in read.rows)
    return {
        "name": name,
        "columns": [],
        "mapping": {},
        "fields": [],
        "sample": [],
        "missing": missing,
        "scene": scene,
        "left_out": read.left_out[:100],
        "same": compared.same,
        "lines": [_line_out(line, placed) for line in compared.lines],
        "causes": [_why_out(one) for one in compared.causes],
    }


def _mapping(text: str | None, columns: int) -> dict[str, int]:
    """Which column says what, as a page tells it. Raises JobError."""
    try:
        told = json.loads(text) if text else {}
    except ValueError as wrong:
        raise JobError("Which column says what could not be read: choose again.") from wrong
    if not isinstance(told, dict):
        raise JobError("Which column says what could not be read: choose again.")
    return {key: at for key, at in told.items() if key in FIELDS and isinstance(at, int) and 0 <= at < columns}
