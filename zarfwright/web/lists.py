"""Files that come in: what any of them is, and lists of new fixtures, looked at and then added by an edit."""

from __future__ import annotations

from dataclasses import asdict

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel

from zarfwright.core.edits.listing import ListedFixture
from zarfwright.core.exchange.listing import read_listing
from zarfwright.formats.csv import read_csv
from zarfwright.formats.known import what_is
from zarfwright.library import shipped
from zarfwright.web.here import desk_of, json_response, uploaded
from zarfwright.web.models import Problem, ShowPath

PEEK = 64 * 2**10


class ListedType(BaseModel):
    """A type of the list, what it comes to and why, and how many rows have it."""

    name: str
    becomes: str
    reason: str
    rows: int


class ListOut(BaseModel):
    """What a list holds: `rows` as the edit `add fixtures` takes them, which heading says what, rows left out."""

    name: str
    columns: dict[str, str]
    rows: list[ListedFixture]
    types: list[ListedType]
    left_out: list[str]


api = APIBlueprint("lists", __name__, abp_responses={400: Problem, 404: Problem})


@api.post("/api/shows/<show>/lists", responses={200: ListOut})
def look_at_list(path: ShowPath) -> Response:
    """Read a list of fixtures (the `file` of a form) and say what it holds; nothing is added yet."""
    desk = desk_of(path.show)
    data, name = uploaded("a CSV list")
    sheet = read_csv(data, name)
    found = read_listing(desk.show, sheet.columns, sheet.rows, shipped())
    return json_response(
        {
            "name": name,
            "columns": {field: sheet.columns[at] for field, at in found.columns.items()},
            "rows": [asdict(row) for row in found.rows],
            "types": [
                {"name": given, "becomes": becomes, "reason": reason, "rows": rows}
                for given, becomes, reason, rows in found.types
            ],
            "left_out": list(found.left_out),
        }
    )


class KnownOut(BaseModel):
    """What a file is, in words, and what can be done with it, the likeliest first."""

    says: str
    uses: list[str]


@api.post("/api/what", responses={200: KnownOut})
def what_it_is() -> Response:
    """What a file is, by its first and its last 64 kB (the `file` of a form, under its own name)."""
    data, name = uploaded("a file")
    found = what_is(name, data[:PEEK], data[-PEEK:])
    return json_response({"says": found.says, "uses": list(found.uses)})
