"""Review: light as numbers, who lights a place, what each seat sees of it."""

from __future__ import annotations

from dataclasses import asdict

import numpy as np
from flask import Response, abort
from flask_openapi3.blueprint import APIBlueprint

from zarfwright.core.errors import JobError
from zarfwright.core.looks.look import Look
from zarfwright.core.review.area import Area, unpacked
from zarfwright.core.review.grid import turned
from zarfwright.core.review.lit import who_lights
from zarfwright.core.review.maps import coloured, contours, figures_of, kelvin_of, lux_of, steps_to
from zarfwright.core.review.notes import Note
from zarfwright.core.review.readiness import fresh
from zarfwright.core.review.sight import by_block, seeing, sight
from zarfwright.core.space import Floats, unit
from zarfwright.formats.pictures import small_jpeg
from zarfwright.web.here import desk_of, for_ever, json_response, uploaded
from zarfwright.web.lights import lights_of
from zarfwright.web.models import Problem, ShowPath, ThingPath, Vec3
from zarfwright.web.review_models import (
    LitAnswer,
    LitQuestion,
    MapOut,
    MapQuery,
    PictureKept,
    SightAnswer,
    SightQuestion,
)

api = APIBlueprint("review", __name__, abp_responses={400: Problem, 404: Problem})
COLOURS = 33
NOTE_PX = (1280, 960)
"""How large a picture that is drawn on is at most."""


def face_of(point: Vec3, normal: Vec3) -> tuple[Floats, Floats]:
    """A place and a unit normal. Raises JobError where that is no face."""
    at, way = np.array(point), np.array(normal)
    if not (np.all(np.isfinite(at)) and np.all(np.isfinite(way)) and np.any(way)):
        raise JobError("That is no place on a face: point at a surface.", "point")
    return at, unit(way)


@api.get("/api/shows/<show>/areas/<thing>/map", responses={200: MapOut})
def light_map(path: ThingPath, query: MapQuery) -> Response:
    """What was measured on an area in a look, with its contour lines and false colours."""
    show = desk_of(path.show).show
    area = show.body(path.thing, Area)
    measured = area.maps.get(query.look)
    if measured is None:
        abort(404, f"Nothing was measured on {area.name} in that look yet: measure it.")
    rgb = unpacked(measured)
    lux, kelvin = lux_of(rgb), kelvin_of(rgb)
    figures = figures_of(lux)
    nx, ny = measured.points
    edges = np.stack(np.meshgrid(np.linspace(0, 1, nx + 1), np.linspace(0, 1, ny + 1)), axis=-1).reshape(-1, 2)

    def placed(shares: Floats) -> list[list[float]]:
        places: list[list[float]] = turned(area, (shares - 0.5) * [area.width_m, area.depth_m]).round(4).tolist()
        return places

    lines = [
        {"lux": line.lux, "lines": [placed(one) for one in line.lines]}
        for line in contours(lux, measured.points, steps_to(figures.most))
    ]
    colours = ["#" + "".join(f"{round(part):02x}" for part in rgb) for rgb in coloured(np.linspace(0, 1, COLOURS))]
    return json_response({
        "points": measured.points, "places": placed(edges), "lux": lux.round(4).tolist(),
        "cct_k": [None if np.isnan(one) else float(one) for one in kelvin], **asdict(figures), "contours": lines,
        "colours": colours, "fresh": fresh(show, query.look, measured),
    })  # fmt: skip


@api.post("/api/shows/<show>/note-pictures", responses={200: PictureKept})
def keep_picture(path: ShowPath) -> Response:
    """Keep the picture that a note is drawn on (the `file` of a form: PNG or JPEG)."""
    desk = desk_of(path.show)
    data, _ = uploaded("a picture")
    return json_response({"asset": desk.around.keep("note.jpg", small_jpeg(data, "The picture", NOTE_PX))})


@api.get("/api/shows/<show>/notes/<thing>/picture", responses={200: None})
def note_picture(path: ThingPath) -> Response:
    """The picture that a note is drawn on, as JPEG."""
    desk = desk_of(path.show)
    note = desk.show.body(path.thing, Note)
    found = desk.session.asset(note.picture) if note.picture else None
    if found is None:
        abort(404, "That note has no picture.")
    return for_ever(found[1], "image/jpeg")


@api.post("/api/shows/<show>/lit", responses={200: LitAnswer})
def lit(path: ShowPath, body: LitQuestion) -> Response:
    """Who lights a place, how much, from where, and what keeps others away from it."""
    lights = lights_of(path.show)
    at, normal = face_of(body.point, body.normal)
    if body.look:
        lights.desk.show.body(body.look, Look)
    show, beams, rig, caster = lights.in_look(body.look)
    found = who_lights(show, beams, rig.rig, caster, at, normal)
    return json_response({**asdict(found), "parts": [asdict(one) for one in found.parts]})


@api.post("/api/shows/<show>/sight", responses={200: SightAnswer})
def seen(path: ShowPath, body: SightQuestion) -> Response:
    """What each seat sees of a place, and what hides it, in the order of the seats."""
    lights = lights_of(path.show)
    if body.normal is not None:
        face_of(body.point, body.normal)
    show = lights.now()
    found = sight(show, body.point, body.normal, body.size_m, body.people, lights.sight_caster(body.people))
    return json_response({
        "seats": [{"id": one.seat.id, "seen": round(one.seen, 4), "hidden_by": one.hidden_by, "hiding": one.hiding}
                  for one in found],
        "blocks": [{"name": name, "seeing": sees, "of": of} for name, (sees, of) in by_block(found).items()],
        "seeing": seeing(found), "of": len(found),
    })  # fmt: skip
