"""Looks and running orders: what they say, what differs, and how the one that is played goes."""

from __future__ import annotations

from dataclasses import asdict

from flask import Response, abort, request
from flask_openapi3.blueprint import APIBlueprint

from zarfwright.core.carriers.planned import groups_by_item, plan_of
from zarfwright.core.edits.carrying import as_in_look
from zarfwright.core.errors import JobError
from zarfwright.core.looks.differences import differences
from zarfwright.core.looks.kept import seen
from zarfwright.core.looks.listing import read_looks
from zarfwright.core.looks.look import Look
from zarfwright.core.looks.saying import links_said, saying
from zarfwright.core.looks.shown import look_frame, resolved
from zarfwright.core.patch import patch_rows
from zarfwright.core.playback.moves import step_times
from zarfwright.core.playback.order import Order
from zarfwright.formats.csv import read_csv
from zarfwright.formats.pictures import small_jpeg
from zarfwright.links.frames import full_frame
from zarfwright.links.live.playing import scaling_of
from zarfwright.web.desk.views import mounts_of, scene
from zarfwright.web.here import desk_of, for_ever, json_response, services, uploaded
from zarfwright.web.look_models import (
    DiffQuery,
    LookDiff,
    LookSays,
    LooksTaken,
    LookValues,
    OrderTimes,
    PictureQuery,
    RunCommand,
    RunEvent,
    SettlingCommand,
    SettlingReport,
    TakeQuery,
)
from zarfwright.web.models import KeyPath, Problem, ShowPath, ThingPath, Who
from zarfwright.web.show_models import EditResult
from zarfwright.web.stand_models import LookStand, StandQuery

api = APIBlueprint("looks", __name__, abp_responses={400: Problem, 404: Problem})


@api.get("/api/shows/<show>/looks/<thing>/frame", responses={200: None})
def look_picture(path: ThingPath) -> Response:
    """The beams of a look alone, as a full frame of the live wire format."""
    desk = desk_of(path.show)
    with desk.session.lock:
        show, number = desk.show, desk.feed.rig_number
    show.body(path.thing, Look)
    raw = scaling_of(patch_rows(show)).pack(look_frame(show, path.thing))
    return Response(full_frame(raw, 1, number, 0.0, 0.0), mimetype="application/octet-stream")


@api.get("/api/shows/<show>/looks/<thing>/stand", responses={200: LookStand})
def look_stand(path: ThingPath, query: StandQuery) -> Response:
    """What stands elsewhere in a look, or may just now: its carriers, and what drivers move, with all on them."""
    show = desk_of(path.show).show
    show.body(path.thing, Look)
    stand = as_in_look(show, path.thing, query.driven)
    touched = {key for key, item in stand.items.items() if item is not show.items[key]}
    touched |= groups_by_item(show, plan_of(show)).keys() if query.driven else set()
    hung = {
        item.id for item, fixture in show.fixtures() if fixture.hang is not None and fixture.hang.structure in touched
    }
    # The shapes are those that browsers have already.
    solids = scene(stand, [stand.items[key] for key in touched if not show.hidden(show.items[key])], {})
    return json_response({"solids": solids, "mounts": mounts_of(stand, touched | hung)})


@api.get("/api/shows/<show>/looks/<thing>/values", responses={200: LookValues})
def look_values(path: ThingPath) -> Response:
    """What a look says, with all that it is made of and linked to."""
    show = desk_of(path.show).show
    show.body(path.thing, Look)
    return json_response({key: dict(said) for key, said in resolved(show, path.thing).items()})


@api.get("/api/shows/<show>/looks/<thing>/says", responses={200: LookSays})
def look_says(path: ThingPath) -> Response:
    """What a look says and what it leaves alone, in words."""
    show = desk_of(path.show).show
    show.body(path.thing, Look)
    groups, links = saying(show, resolved(show, path.thing)), links_said(show, path.thing)
    return json_response({"groups": [asdict(one) for one in groups], "links": [asdict(one) for one in links]})


@api.get("/api/shows/<show>/looks/<thing>/diff", responses={200: LookDiff})
def look_diff(path: ThingPath, query: DiffQuery) -> Response:
    """What of another look, or of what is seen now, is unlike this one."""
    desk = desk_of(path.show)
    show = desk.show
    show.body(path.thing, Look)
    if query.to:
        show.body(query.to, Look)
    other = resolved(show, query.to) if query.to else seen(show, desk.feed.values())
    found = differences(show, resolved(show, path.thing), other)
    return json_response({"groups": [asdict(one) for one in found.groups], "fixtures": found.fixtures})


@api.get("/api/shows/<show>/looks/<thing>/picture", responses={200: None})
def picture(path: ThingPath, query: PictureQuery) -> Response:
    """What a look looks like, as JPEG. Never changes for what it is made of."""
    found = desk_of(path.show).session.picture(path.thing)
    if found is None:
        abort(404, "Nobody has drawn that look yet.")
    response = for_ever(found)
    response.mimetype = "image/jpeg"
    return response


@api.put("/api/shows/<show>/looks/<thing>/picture", responses={200: None})
def keep_picture(path: ThingPath, query: PictureQuery) -> Response:
    """Keep what a look looks like (the body: PNG or JPEG), as a browser that had nothing else to do has drawn it."""
    desk = desk_of(path.show)
    desk.show.body(path.thing, Look)
    desk.session.keep_picture(path.thing, query.made_of[:200], small_jpeg(request.get_data(), "The picture"))
    desk.feed.event("picture", look=path.thing, made_of=query.made_of[:200])
    return json_response({})


@api.post("/api/shows/<show>/looks", responses={200: LooksTaken})
def take_list(path: ShowPath, query: TakeQuery) -> Response:
    """Read a list of looks (the `file` of a form), say what it comes to, and take it in where that is asked for."""
    desk = desk_of(path.show)
    data, name = uploaded("a CSV list of looks")
    sheet = read_csv(data, name)
    found = read_looks(desk.show, sheet.columns, sheet.rows)
    args = {"looks": [asdict(look) for look in found.looks]}
    do = desk.preview if query.preview else desk.edit
    done = do(query.who, "take looks", args)
    return json_response(
        {"sentence": done["sentence"], "looks": len(found.looks), "left_out": found.left_out, "select": done["select"]}
    )


@api.get("/api/shows/<show>/orders/<thing>/times", responses={200: OrderTimes})
def order_times(path: ThingPath) -> Response:
    """When each step of a running order comes, and which heads are seen to travel in it."""
    show = desk_of(path.show).show
    return json_response([asdict(one) for one in step_times(show, path.thing)])


SOUNDS = {b"RIFF": "audio/wav", b"fLaC": "audio/flac", b"OggS": "audio/ogg", b"ID3": "audio/mpeg"}


def sound_type(data: bytes) -> str | None:
    """What a sound file is, by how it begins; None of what is none that a browser plays."""
    if data[:2] in (b"\xff\xfb", b"\xff\xf3", b"\xff\xf2"):
        return "audio/mpeg"
    return next((kind for start, kind in SOUNDS.items() if data.startswith(start)), None)


@api.post("/api/shows/<show>/orders/<thing>/sound", responses={200: EditResult})
def lay_sound(path: ThingPath, query: Who) -> Response:
    """Lay a sound file (the `file` of a form) under a running order; it is kept with the show."""
    desk = desk_of(path.show)
    desk.show.body(path.thing, Order)
    data, name = uploaded("a sound file")
    if sound_type(data) is None:
        raise JobError(f"{name} is no sound file that can be played: choose WAV, FLAC, OGG or MP3.")
    args = {"id": path.thing, "asset": desk.around.keep(name, data), "name": name}
    return json_response(desk.edit(query.who, "set sound", args))


@api.get("/api/sounds/<key>", responses={200: None})
def sound(path: KeyPath) -> Response:
    """The sound file under a running order. Never changes under its key."""
    desk = services().desk
    named = any(order.sound == path.key for _, order in desk.show.bodies(Order))
    found = desk.session.asset(path.key) if named else None
    if found is None:
        abort(404, "No running order of this show has that sound: load the page again.")
    response = for_ever(found[1])
    response.mimetype = sound_type(found[1]) or "application/octet-stream"
    return response


@api.get("/api/shows/<show>/run", responses={200: RunEvent})
def run(path: ShowPath) -> Response:
    """Where the running order stands that is played."""
    return json_response(RunEvent(event="run", **desk_of(path.show).feed.run_told).model_dump())


@api.get("/api/shows/<show>/settling", responses={200: SettlingReport})
def settling(path: ShowPath) -> Response:
    """Whether a look is kept each time the picture settles, and what was."""
    desk_of(path.show)
    return json_response(services().settled.report())


@api.post("/api/shows/<show>/settling", responses={200: SettlingReport})
def turn_settling(path: ShowPath, body: SettlingCommand) -> Response:
    """Begin to keep a look each time the picture settles, or end."""
    desk_of(path.show)
    services().settled.turn(body.on, body.who)
    return json_response(services().settled.report())


@api.post("/api/shows/<show>/run", responses={200: None})
def command_run(path: ShowPath, body: RunCommand) -> Response:
    """Play, pause, step or scrub the running order; everybody sees it."""
    desk_of(path.show).feed.command_run(body.command, body.value)
    return json_response({})
