"""Dimmers: what is on each, and its load against what it carries."""

from __future__ import annotations

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel

from zarfwright.core.patch import Place
from zarfwright.core.patching.dimmers import dimmers_of
from zarfwright.web.here import desk_of, json_response
from zarfwright.web.models import Problem, ShowPath


class DimmerOut(BaseModel):
    """One dimmer. `rack`: the id of its rack, none where no rack has it; `place`: as 1.301; `fixtures` by number;
    `unknown`: those of which nobody says how much power they take. Watts."""

    number: int
    rack: str | None
    place: str | None
    carries_w: float | None
    switched: bool
    fixtures: list[str]
    circuits: list[str]
    load_w: float
    unknown: list[str]


class DimmersOut(BaseModel):
    dimmers: list[DimmerOut]


api = APIBlueprint("dimmers", __name__, abp_responses={404: Problem})


@api.get("/api/shows/<show>/dimmers", responses={200: DimmersOut})
def dimmers(path: ShowPath) -> Response:
    """Every dimmer of every rack, and those that fixtures name and no rack has, by number."""
    found = [
        {
            "number": one.number,
            "rack": one.rack,
            "place": str(Place(*one.place)) if one.place else None,
            "carries_w": one.carries_w,
            "switched": one.switched,
            "fixtures": one.fixtures,
            "circuits": one.circuits,
            "load_w": one.load_w,
            "unknown": one.unknown,
        }
        for one in dimmers_of(desk_of(path.show).show)
    ]
    return json_response({"dimmers": found})
