"""Papers: lists as CSV."""

from __future__ import annotations

import re

from flask import Response
from flask_openapi3.blueprint import APIBlueprint

from zarfwright.core.exchange.listing import COLUMNS, listing
from zarfwright.core.looks.listing import LOOK_COLUMNS, ORDER_COLUMNS, look_rows, order_rows
from zarfwright.core.looks.look import Look, called
from zarfwright.core.papers import (
    CIRCUIT_COLUMNS,
    HOOKUP_COLUMNS,
    PATCH_COLUMNS,
    channel_hookup,
    circuit_schedule,
    patch_list,
)
from zarfwright.core.playback.order import Order
from zarfwright.core.review.notes import NOTE_COLUMNS, Note, note_rows
from zarfwright.core.schedules.table import as_texts
from zarfwright.formats.csv import write_csv
from zarfwright.web.desk import Desk
from zarfwright.web.here import attachment, desk_of
from zarfwright.web.models import Problem, ShowPath

api = APIBlueprint("papers", __name__, abp_responses={404: Problem})


def download(desk: Desk, what: str, data: bytes) -> Response:
    """A list as a file named after the show."""
    name = re.sub(r"[^\w\- ']", "", desk.show.settings.name) or "show"
    return attachment(data, f"{name} - {what}.csv", "text/csv")


@api.get("/api/shows/<show>/papers/patch.csv", responses={200: None})
def patch_csv(path: ShowPath) -> Response:
    """The patch list."""
    desk = desk_of(path.show)
    return download(desk, "patch", write_csv(PATCH_COLUMNS, patch_list(desk.show)))


@api.get("/api/shows/<show>/papers/fixtures.csv", responses={200: None})
def fixtures_csv(path: ShowPath) -> Response:
    """All fixtures with their places and turns: such a list can be taken in again."""
    desk = desk_of(path.show)
    return download(desk, "fixtures", write_csv(COLUMNS, listing(desk.show)))


@api.get("/api/shows/<show>/papers/hookup.csv", responses={200: None})
def hookup_csv(path: ShowPath) -> Response:
    """The channel hookup: every channel of every patched fixture."""
    desk = desk_of(path.show)
    return download(desk, "channel hookup", write_csv(HOOKUP_COLUMNS, channel_hookup(desk.show)))


@api.get("/api/shows/<show>/papers/looks.csv", responses={200: None})
def looks_csv(path: ShowPath) -> Response:
    """What all looks say, by fixture and function: such a list can be taken in again."""
    desk = desk_of(path.show)
    return download(desk, "looks", write_csv(LOOK_COLUMNS, look_rows(desk.show)))


@api.get("/api/shows/<show>/papers/orders.csv", responses={200: None})
def orders_csv(path: ShowPath) -> Response:
    """The running orders, step by step."""
    desk = desk_of(path.show)
    rows = [as_texts(row) for _, order in desk.show.bodies(Order) for row in order_rows(desk.show, order)]
    return download(desk, "running order", write_csv(ORDER_COLUMNS, rows))


@api.get("/api/shows/<show>/papers/notes.csv", responses={200: None})
def notes_csv(path: ShowPath) -> Response:
    """The notes of the review, open ones first, with what was answered."""
    desk = desk_of(path.show)
    items = desk.show.items
    names = {key: called(item.body) if isinstance(item.body, Look) else item.name for key, item in items.items()}
    rows = note_rows([note for _, note in desk.show.bodies(Note)], names)
    return download(desk, "notes", write_csv(NOTE_COLUMNS, rows))


@api.get("/api/shows/<show>/papers/circuits.csv", responses={200: None})
def circuits_csv(path: ShowPath) -> Response:
    """Circuits and dimmers: what is on each, and its load against what it carries."""
    desk = desk_of(path.show)
    rows = [as_texts(row) for row in circuit_schedule(desk.show)]
    return download(desk, "circuits and dimmers", write_csv(CIRCUIT_COLUMNS, rows))
