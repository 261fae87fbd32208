"""Sharing, from the desk's side: begin, end, who is there, and what the presenter shows."""

from __future__ import annotations

import time
from typing import Any

import segno
from flask import Response, request
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, Field

from zarfwright.core.errors import JobError
from zarfwright.formats.pictures import small_jpeg
from zarfwright.web.here import desk_of, json_response, services
from zarfwright.web.models import Problem, ShowPath

api = APIBlueprint("shares", __name__, abp_responses={400: Problem, 404: Problem})
SHOWN_PX = (1280, 900)


class SharingWish(BaseModel):
    """Begin to share, with a new key, or end; `who` presents, and whether guests may write notes."""

    on: bool
    who: str = Field("", max_length=80)
    notes: bool = False


class ShowingQuery(BaseModel):
    """Who shows it, and what it is of."""

    who: str = Field("", max_length=80)
    look: str = Field("", max_length=80)
    viewpoint: str = Field("", max_length=200)


class GuestOut(BaseModel):
    name: str
    address: str
    minutes: int
    """How long they have been there."""


class SharingReport(BaseModel):
    """Whether guests are let in; where, with the key, and the same as a QR code (SVG); and who is there."""

    on: bool
    presenter: str
    notes: bool
    links: list[str]
    qr: str
    guests: list[GuestOut]


def _report() -> dict[str, Any]:
    port = services().guests
    now = time.monotonic()
    guests = [{"name": one.name, "address": one.address, "minutes": int((now - one.since) / 60)}
              for one in port.sharing.guests()]  # fmt: skip
    links = port.links
    qr = segno.make(links[0]).svg_inline(scale=5, border=2, dark="#0b1214", light="#ffffff") if links else ""
    return {"on": port.sharing.on, "presenter": port.sharing.presenter, "notes": port.sharing.notes, "links": links,
            "qr": qr, "guests": guests}  # fmt: skip


@api.get("/api/shows/<show>/sharing", responses={200: SharingReport})
def sharing(path: ShowPath) -> Response:
    """Whether it is shared with guests, and who is there."""
    desk_of(path.show)
    return json_response(_report())


@api.post("/api/shows/<show>/sharing", responses={200: SharingReport})
def share(path: ShowPath, body: SharingWish) -> Response:
    """Let guests in, or put them all out. Each beginning has a key of its own."""
    desk_of(path.show)
    if body.on:
        services().guests.begin(body.who, body.notes)
    else:
        services().guests.end()
    return json_response(_report())


@api.put("/api/shows/<show>/sharing/shown", responses={200: None})
def showing(path: ShowPath, query: ShowingQuery) -> Response:
    """Show this picture (the body: JPEG or PNG) to the guests."""
    desk_of(path.show)
    shared = services().guests.sharing
    if not shared.on or shared.presenter not in ("", query.who):
        raise JobError("Somebody else presents, or nobody does: begin to share first.")
    shared.presenter = query.who
    shared.present(small_jpeg(request.get_data(), "The picture", SHOWN_PX), query.look, query.viewpoint)
    return json_response({})
