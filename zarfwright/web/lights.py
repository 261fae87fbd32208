"""Light as numbers: lux at a place, where beams land, and the gobo images."""

from __future__ import annotations

import numpy as np
from flask import Response, abort
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, RootModel

from zarfwright.core.errors import JobError
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.photometry import illuminance, landing, overlapping
from zarfwright.core.space import unit
from zarfwright.web.here import desk_of, for_ever, json_response, services
from zarfwright.web.models import KeyPath, Problem, ShowPath, Vec3
from zarfwright.web.rays import Lights


def lights_of(show: str) -> Lights:
    """The light of that show, if it is the open one."""
    desk_of(show)
    return services().lights


class LuxQuestion(BaseModel):
    """A place in the show's frame, metres, and which way its face looks."""

    point: Vec3
    normal: Vec3


class LuxAnswer(BaseModel):
    lux: float
    rgb: Vec3


class LandingOut(BaseModel):
    """Where a beam's axis lands: on what, how far from the lens, how wide the field is there, and lux of it alone."""

    key: str
    fixture: str
    point: Vec3
    thing: str
    throw_m: float
    field_m: float
    lux: float
    along_m: float | None
    across_m: float
    """The field on the face that it lands on: the way that it slants, and square to that."""
    mean_lux: float
    overlaps: list[str]
    """Other fixtures that shine there as well."""


class Landings(RootModel[list[LandingOut]]):
    pass


api = APIBlueprint("lights", __name__, abp_responses={400: Problem, 404: Problem})


@api.post("/api/shows/<show>/lux", responses={200: LuxAnswer})
def lux(path: ShowPath, body: LuxQuestion) -> Response:
    """How much light of the show falls on a face, with everything in its way; haze and bounce are not in it."""
    lights = lights_of(path.show)
    point, normal = np.array([body.point]), unit(np.array([body.normal]))
    if not (np.all(np.isfinite(point)) and np.any(normal)):
        raise JobError("That is no place on a face: point at a surface.", "point")
    beams, _ = lights.beams()
    rgb = illuminance(beams, point, normal, lights.caster())[0]
    return json_response({"lux": float(rgb @ LUMINANCE), "rgb": rgb.tolist()})


@api.get("/api/shows/<show>/landings", responses={200: Landings})
def landings(path: ShowPath) -> Response:
    """Where the axis of each lit beam lands, how far, how wide and how bright."""
    lights = lights_of(path.show)
    beams, rig = lights.beams()
    found = []
    lit = beams.lit()
    for i in lit:
        at = landing(beams, int(i), lights.caster())
        if at is not None:
            key, fixture = rig.rig.keys[i], rig.rig.fixtures[i]
            over = overlapping(beams, int(i), np.array(at.point), [int(j) for j in lit])
            names = dict.fromkeys(rig.rig.fixtures[j] for j in over if rig.rig.fixtures[j] != fixture)
            found.append({"key": key, "fixture": fixture, "point": at.point, "thing": at.thing, "throw_m": at.throw_m,
                          "field_m": at.field_m, "lux": at.lux, "along_m": at.along_m, "across_m": at.across_m,
                          "mean_lux": at.mean_lux, "overlaps": [*names]})  # fmt: skip
    return json_response(found)


@api.get("/api/gobos/<key>")
def gobo(path: KeyPath) -> Response:
    """A gobo image as 256 x 256 bytes of transmission, rows from the top. Never changes under its key."""
    mask = services().desk.optics.mask(path.key)
    if mask is None:
        abort(404, "No type of this show has that gobo image: load the page again.")
    return for_ever(mask.tobytes())


@api.get("/api/webs/<key>")
def web(path: KeyPath) -> Response:
    """A photometric web as 128 x 64 shares of its peak (f32): core/optics/web.py says of which directions."""
    found = services().desk.optics.web(path.key)
    if found is None:
        abort(404, "No type of this show has that photometric web: load the page again.")
    return for_ever(found.table.astype("<f4").tobytes())
