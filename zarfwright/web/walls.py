"""The sides of walls, and the doors and windows in them."""

from __future__ import annotations

from typing import Literal

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel

from zarfwright.core.site.things import Wall
from zarfwright.core.site.walls import is_door, side_at, sides_of
from zarfwright.web.here import desk_of, json_response
from zarfwright.web.models import Problem, ThingPath


class SideOut(BaseModel):
    """A side between two corners, and the end that lengths along it are measured from."""

    name: str
    length_m: float
    end: Literal["SR", "DS"]


class OpeningOut(BaseModel):
    """A door or window: on which side, how far from that side's end its middle is, its width, sill and head, metres."""

    door: bool
    side: int
    along_m: float
    width_m: float
    sill_m: float
    head_m: float


class WallFacts(BaseModel):
    sides: list[SideOut]
    openings: list[OpeningOut]


api = APIBlueprint("walls", __name__, abp_responses={400: Problem, 404: Problem})


@api.get("/api/shows/<show>/walls/<thing>", responses={200: WallFacts})
def wall_facts(path: ThingPath) -> Response:
    """The sides of a wall and its openings, in the order in which they were cut."""
    wall = desk_of(path.show).show.body(path.thing, Wall)
    sides = sides_of(wall)
    openings = []
    for opening in wall.openings:
        side = side_at(wall, opening[0])
        openings.append(
            {
                "door": is_door(opening),
                "side": sides.index(side),
                "along_m": side.measured(opening[0]),
                "width_m": opening[1],
                "sill_m": opening[2],
                "head_m": opening[3],
            }
        )
    named = [{"name": side.name, "length_m": side.length_m, "end": side.end} for side in sides]
    return json_response({"sides": named, "openings": openings})
