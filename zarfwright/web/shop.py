"""The type shop and the library of types: drafts tried out, drawn, finished; shipped types added."""

from __future__ import annotations

from hashlib import sha256
from typing import Any

from flask import Response, abort
from flask_openapi3.blueprint import APIBlueprint

from zarfwright.core.dmx.features import DRIVES, FEATURES, INDEX
from zarfwright.core.edits.shaping import DRAFT_JSON
from zarfwright.core.errors import JobError
from zarfwright.core.picture import FIELDS
from zarfwright.core.show import Item
from zarfwright.core.site.things import Deck
from zarfwright.core.types.bodies import body_at_home, body_parts
from zarfwright.core.types.model import FixtureType, Mode, WebInfo
from zarfwright.core.types.shop.build import build
from zarfwright.core.types.shop.checks import checks
from zarfwright.core.types.shop.draft import Draft
from zarfwright.core.types.shop.pasted import cells_of, paste_channels, paste_ranges, wheel_of
from zarfwright.core.types.shop.usual import usual
from zarfwright.core.types.sort import sort_of, words_of
from zarfwright.core.types.trial import home_slots, trial
from zarfwright.core.types.words import called
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf import Written, written
from zarfwright.formats.gdtf.attributes import all_attributes, attribute
from zarfwright.formats.gobos import PATTERNS, GoboDrawing, draw_gobo
from zarfwright.formats.ies import read_ies
from zarfwright.formats.pictures import gobo_mask
from zarfwright.formats.thumbnail import body_picture
from zarfwright.library import shipped, shipped_file
from zarfwright.web.desk import Desk, views
from zarfwright.web.here import attachment, desk_of, for_ever, json_response, uploaded
from zarfwright.web.models import Problem, ShowPath, ThingPath
from zarfwright.web.shop_models import (
    AssetPath,
    Attributes,
    DrawGobo,
    FinishQuery,
    ImageOut,
    KeptOut,
    Library,
    LibraryAddPath,
    LibraryPath,
    PhotometryOut,
    ReadingOut,
    ReadingQuestion,
    TrialOut,
    TrialQuestion,
)
from zarfwright.web.show_models import EditResult
from zarfwright.web.types import kept_gdtf

DIFFERENT_MAX = 3000
"""Channel functions tried at once: more than any lamp has."""


ROOM = (
    Item("floor", "deck", Deck("Floor", (0.0, 0.0, 0.0), 8.0, 7.0, 0.1, finish="cloth")),
    Item("wall", "deck", Deck("Wall", (0.0, 3.0, 0.0), 8.0, 0.2, 4.4, finish="cloth")),
)
"""What a draft is tried out in: a floor and a wall upstage; it hangs over the middle."""


def built(desk: Desk, draft: Draft) -> FixtureType:
    """The type that a draft comes to, with its assets. What is no picture or photometry is left out."""
    images: dict[str, bytes] = {}
    webs: dict[str, tuple[bytes, WebInfo]] = {}
    for name, asset in draft.images.items():
        found = desk.session.asset(asset)
        if found is not None:
            images[name] = found[1]
    for name, asset in draft.webs.items():
        found = desk.session.asset(asset)
        if found is not None:
            try:
                webs[name] = (found[1], read_ies(found[1], name)[0].info)
            except FormatError:
                continue
    return build(draft, images, webs, desk.session.reading.lately(draft.older) if draft.older else None)


def draft_of(desk: Desk, draft_id: str) -> Draft:
    """The draft of this id. Raises JobError when it is gone."""
    body = desk.show.body(draft_id, Draft)
    return body


def _whole(mode: Mode) -> dict[str, Any]:
    """A mode at a glance, with the slots of all its breaks together: nothing of it is addressed yet."""
    return {**views.mode_out(mode), "footprint": sum(mode.footprints.values())}


def picture_of(fixture_type: FixtureType) -> bytes:
    """The type's body as a small PNG."""
    return body_picture(body_at_home(fixture_type, fixture_type.modes[0].name))


def _slots_given(mode: Mode, given: dict[str, list[int]] | None) -> dict[int, bytearray]:
    """The slots of a trial: as given, cut or filled to the footprint; home where nothing is given."""
    slots = home_slots(mode)
    for key, values in (given or {}).items():
        if not key.isdigit() or int(key) not in slots:
            continue
        if not all(0 <= value <= 255 for value in values):
            raise JobError("A slot's level lies from 0 to 255.", "slots")
        own = slots[int(key)]
        count = min(len(own), len(values))
        own[:count] = bytes(values[:count])
    return slots


def _trial(desk: Desk, asked_by: str, draft: Draft, asked: TrialQuestion) -> dict[str, Any]:
    fixture_type = built(desk, draft)
    number = min(max(asked.mode, 0), len(fixture_type.modes) - 1)
    mode = fixture_type.modes[number]
    if sum(len(channel.functions) for channel in mode.channels) > DIFFERENT_MAX:
        raise JobError("This mode has more functions than can be tried: take some out.")
    slots = _slots_given(mode, asked.slots)
    tried = trial(fixture_type, mode.name, slots)
    for name, key in fixture_type.image_keys.items():
        desk.tried.keep(key, fixture_type.images[name])
    for name, info in fixture_type.webs.items():
        desk.tried.keep(info.key, fixture_type.ies[name])
    meshes: views.Meshes = {}
    scene = views.scene(desk.show, ROOM, meshes)
    body = views.body("draft", mode.name, fixture_type, body_parts(fixture_type, mode.name), meshes)
    desk.shelf.keep(f"trial of {asked_by}", meshes)
    return {
        "mode": number,
        "slots": {str(key): list(value) for key, value in slots.items()},
        "doing": [
            {
                "channel": d.channel, "raw": d.raw, "attribute": d.function.attribute, "physical": d.physical,
                "words": d.words,
            }
            for d in tried.doing
        ],
        "frame": tried.frame.tolist(),
        "fields": FIELDS,
        "peak_cd": tried.table.peak_cd.tolist(),
        "gobos": tried.table.gobos,
        "webs": tried.table.webs,
        "prisms": [[(f.x, f.y, f.turn_deg) for f in facets] for facets in tried.table.prisms],
        "body": body,
        "scene": scene,
        "checks": [{**vars(check), "asks": check.asks} for check in checks(draft)],
        "lenses": draft.lenses,
        "parts": draft.parts,
        "footprints": {str(key): value for key, value in mode.footprints.items()},
    }  # fmt: skip


def _attribute_out(name: str) -> dict[str, Any]:
    drives = DRIVES.get(name, ())
    unit = FEATURES[INDEX[drives[0].feature]].unit if drives else ""
    low, high = usual(name)
    return {
        "name": name, "words": called(name), "low": low, "high": high,
        "unit": {"rad": "deg", "rad/s": "deg/s"}.get(unit, unit),
        "feature": attribute(name).feature, "wheel": wheel_of(name), "shows": bool(drives),
    }  # fmt: skip


api = APIBlueprint("shop", __name__, abp_responses={400: Problem, 404: Problem, 409: Problem})


@api.get("/api/attributes", responses={200: Attributes})
def list_attributes() -> Response:
    """All attributes of the standard, with our words for them."""
    return json_response([_attribute_out(name) for name in all_attributes()])


@api.post("/api/shows/<show>/drafts/<thing>/trial", responses={200: TrialOut})
def try_draft(path: ThingPath, body: TrialQuestion) -> Response:
    """Try a draft out at given slots."""
    desk = desk_of(path.show)
    return json_response(_trial(desk, path.thing, draft_of(desk, path.thing), body))


@api.post("/api/shows/<show>/drafts/<thing>/reading", responses={200: ReadingOut})
def read_text(path: ThingPath, body: ReadingQuestion) -> Response:
    """What a manual's text would come to in a draft; nothing is stored."""
    draft = draft_of(desk_of(path.show), path.thing)
    if not 0 <= body.mode < len(draft.modes):
        raise JobError("That mode is no longer there: choose another.", "mode")
    if body.channel is None:
        pasted = paste_channels(draft, body.mode, body.text, body.replacing)
    elif 0 <= body.channel < len(draft.modes[body.mode].channels):
        pasted = paste_ranges(draft, body.mode, body.channel, body.text)
    else:
        raise JobError("That channel is no longer there: choose another.", "channel")
    return json_response(
        {
            "draft": DRAFT_JSON.dump_python(pasted.draft, mode="json"),
            "modes": [{"mode": one.mode, "lines": one.lines, "replaced": one.replaced} for one in pasted.modes],
            "left": [{"line": line, "text": words, "why": why} for line, words, why in pasted.left],
            "cells": cells_of(body.text) if body.channel is None else 1,
        }
    )


@api.get("/api/shows/<show>/drafts/<thing>/kept", responses={200: KeptOut})
def what_is_kept(path: ThingPath) -> Response:
    """What a draft, written now, would not keep of the file that it was copied from."""
    desk = desk_of(path.show)
    made = _written(desk, draft_of(desk, path.thing))
    return json_response({"lost": [f"{one.where}: {one.what}" for one in made.lost]})


@api.get("/api/shows/<show>/drafts/<thing>/gdtf", responses={200: None})
def draft_file(path: ThingPath) -> Response:
    """A draft written as GDTF."""
    desk = desk_of(path.show)
    draft = draft_of(desk, path.thing)
    return attachment(_written(desk, draft).data, f"{draft.maker}@{draft.name}.gdtf")


@api.post("/api/shows/<show>/drafts/<thing>/finish", responses={200: EditResult})
def finish_draft(path: ThingPath, query: FinishQuery) -> Response:
    """Write a draft as GDTF and let the show have it: as a new type, or in place of the one it changes."""
    desk = desk_of(path.show)
    draft = draft_of(desk, path.thing)
    open_now = [check.text for check in checks(draft) if check.wrong]
    if open_now:
        raise JobError(f"This type is not in order yet: {open_now[0]}")
    asset = kept_gdtf(desk, f"{draft.maker}@{draft.name}.gdtf", _written(desk, draft).data)[2]
    args = {"name": draft.name, "maker": draft.maker, "asset": asset, "draft": path.thing}
    kind = "add type"
    if draft.of_type is not None and draft.of_type in desk.show.items:
        kind, args = "replace type", {**args, "id": draft.of_type}
    if query.preview:
        return json_response(desk.preview(query.who, kind, args))
    return json_response(desk.edit(query.who, kind, args))


@api.post("/api/shows/<show>/gobos", responses={200: ImageOut})
def draw(path: ShowPath, body: DrawGobo) -> Response:
    """Draw a gobo and keep it among the assets."""
    desk = desk_of(path.show)
    if body.pattern not in PATTERNS:
        raise JobError(f"“{body.pattern}” is no pattern: choose one of {', '.join(PATTERNS)}.", "pattern")
    data = draw_gobo(GoboDrawing(**body.model_dump()))
    return json_response(_image_kept(desk, f"{body.pattern}.png", data))


@api.post("/api/shows/<show>/images", responses={200: ImageOut})
def take_image(path: ShowPath) -> Response:
    """Keep an image (the `file` of a form) for a slot: light passes where it is bright."""
    desk = desk_of(path.show)
    data, name = uploaded("a picture")
    gobo_mask(data, name)
    return json_response(_image_kept(desk, name, data))


@api.post("/api/shows/<show>/photometry", responses={200: PhotometryOut})
def take_photometry(path: ShowPath) -> Response:
    """Keep an IES file (the `file` of a form) for a lens: the light and the lux are as it was measured."""
    desk = desk_of(path.show)
    data, name = uploaded("an IES file")
    web, found = read_ies(data, name)
    asset = desk.session.keep(name, data)
    return json_response(
        {
            "asset": asset,
            "peak_cd": web.info.peak_cd,
            "findings": [vars(finding) for finding in found],
        }
    )


@api.get("/api/shows/<show>/assets/<asset>/picture", responses={200: None})
def asset_picture(path: AssetPath) -> Response:
    """An image among the assets."""
    desk = desk_of(path.show)
    found = desk.session.asset(path.asset)
    if found is None or not found[1].startswith(b"\x89PNG"):
        abort(404, "There is no such picture in this show.")
    return for_ever(found[1], "image/png")


@api.get("/api/library", responses={200: Library})
def library() -> Response:
    """The shipped types, by maker and name."""
    entries = sorted(shipped().values(), key=lambda one: (one.maker, one.name))
    return json_response(
        [
            {
                "type_id": one.type_id, "name": one.name, "maker": one.maker, "description": one.description,
                "weight_kg": one.weight_kg, "power_w": one.power_w, "sort": sort_of(one),
                "words": words_of(one), "modes": [_whole(m) for m in one.modes],
            }
            for one in entries
        ]
    )  # fmt: skip


@api.get("/api/library/<type_id>/picture", responses={200: None})
def library_picture(path: LibraryPath) -> Response:
    """A shipped type's body."""
    found = shipped().get(path.type_id)
    if found is None:
        abort(404, "There is no such type in the library.")
    return for_ever(picture_of(found), "image/png")


@api.get("/api/shows/<show>/types/<thing>/picture", responses={200: None})
def type_picture(path: ThingPath) -> Response:
    """The body of a type of this show."""
    desk = desk_of(path.show)
    found = desk.show.types.get(path.thing)
    if found is None:
        abort(404, "That type is no longer in the show.")
    response = for_ever(picture_of(found), "image/png")
    response.headers["Cache-Control"] = "no-cache"
    return response


@api.post("/api/shows/<show>/library/<type_id>", responses={200: EditResult})
def add_shipped(path: LibraryAddPath, query: FinishQuery) -> Response:
    """Let the show have a shipped type."""
    desk = desk_of(path.show)
    found = shipped().get(path.type_id)
    if found is None:
        abort(404, "There is no such type in the library.")
    _, _, asset = kept_gdtf(desk, f"{found.maker}@{found.name}.gdtf", shipped_file(path.type_id))
    args = {"name": found.name, "maker": found.maker, "asset": asset}
    return json_response(desk.edit(query.who, "add type", args))


def _written(desk: Desk, draft: Draft) -> Written:
    """A draft as GDTF, with what the file that it came from held besides."""
    older = None
    if draft.older is not None:
        found = desk.session.asset(draft.older)
        older = found[1] if found is not None else None
    return written(built(desk, draft), older)


def _image_kept(desk: Desk, name: str, data: bytes) -> dict[str, str]:
    key = sha256(data).hexdigest()[:24]
    desk.tried.keep(key, data)
    return {"asset": desk.session.keep(name, data), "key": key}
