"""The look book: its pictures, its files, what readers send back; and what changed since the last review."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from flask import Response, abort, request
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, Field

from zarfwright.core.looks.look import Look
from zarfwright.core.review.book import picture_key
from zarfwright.core.settings import Viewpoint
from zarfwright.formats.book.sent import read_sent
from zarfwright.formats.pictures import small_jpeg
from zarfwright.web.desk.reviews import book_now, changes_of, close_review, last_review, said_day
from zarfwright.web.files import file_stem
from zarfwright.web.here import attachment, desk_of, for_ever, json_response, uploaded
from zarfwright.web.models import Problem, ShowPath, ThingPath, Who

api = APIBlueprint("books", __name__, abp_responses={400: Problem, 404: Problem})
PICTURE_PX = (1920, 1080)


class SeenQuery(BaseModel):
    """From which viewpoint, and of which state of the show."""

    viewpoint: str = Field(max_length=80)
    made_of: str = Field("", max_length=200)


class BookWish(BaseModel):
    """Which looks (none: all) from which viewpoints, and whether it says what changed since the last review."""

    kind: Literal["html", "pdf"] = "html"
    looks: list[str] = Field([], max_length=1000)
    viewpoints: list[str] = Field([], max_length=50)
    changes: bool = True


class SentQuery(Who):
    preview: bool = False


class SentTaken(BaseModel):
    """What a file of notes comes to."""

    sentence: str
    notes: int
    report: list[str]


class ChangedOut(BaseModel):
    sort: Literal["added", "removed", "moved", "swapped", "changed", "look"]
    ids: list[str]
    text: str


class ReviewOut(BaseModel):
    """The last review, empty where none was held, and what changed since."""

    name: str
    point: int | None
    changes: list[ChangedOut]


@api.put("/api/shows/<show>/looks/<thing>/seen", responses={200: None})
def keep_seen(path: ThingPath, query: SeenQuery) -> Response:
    """Keep what a look looks like from a viewpoint (the body: PNG or JPEG), for the look book."""
    desk = desk_of(path.show)
    desk.show.body(path.thing, Look)
    desk.show.body(query.viewpoint, Viewpoint)
    key = picture_key(path.thing, query.viewpoint)
    desk.session.keep_picture(key, query.made_of, small_jpeg(request.get_data(), "The picture", PICTURE_PX))
    desk.feed.event("picture", look=key, made_of=query.made_of)
    return json_response({})


@api.get("/api/shows/<show>/looks/<thing>/seen", responses={200: None})
def seen(path: ThingPath, query: SeenQuery) -> Response:
    """What a look looks like from a viewpoint; from `before`: how it looked at the last review. JPEG."""
    found = desk_of(path.show).session.picture(picture_key(path.thing, query.viewpoint))
    if found is None:
        abort(404, "Nobody has drawn that look from there yet.")
    return for_ever(found, "image/jpeg")


@api.post("/api/shows/<show>/book", responses={200: None})
def book(path: ShowPath, body: BookWish) -> Response:
    """The look book as a file, with the pictures that are kept."""
    desk = desk_of(path.show)
    made, pictures = book_now(desk.session, body.looks, body.viewpoints, said_day(datetime.now()), body.changes)
    name = f"{file_stem(desk.show.settings.name)} - look book.{body.kind}"
    if body.kind == "pdf":
        from zarfwright.formats.book.pdf import book_pdf

        return attachment(book_pdf(made, pictures), name, "application/pdf")
    from zarfwright.formats.book.page import book_page

    return attachment(book_page(made, pictures), name, "text/html")


@api.post("/api/shows/<show>/notes/sent", responses={200: SentTaken})
def take_sent(path: ShowPath, query: SentQuery) -> Response:
    """Read what a reader of the book sent back (the `file` of a form); with `preview` only say what it comes to."""
    desk = desk_of(path.show)
    data, name = uploaded("the file that a reader of the look book saved")
    notes = read_sent(data, name, desk.session.show_id)
    here = [note for note in notes if note.get("about", "") in desk.show.items]
    do = desk.preview if query.preview else desk.edit
    done = do(query.who, "take notes", {"notes": here})
    gone = len(notes) - len(here)
    report = [*done["report"], *([f"{gone} are on looks that are gone, and were left out."] if gone else [])]
    return json_response({"sentence": done["sentence"], "notes": len(done["select"]), "report": report})


@api.get("/api/shows/<show>/review", responses={200: ReviewOut})
def review(path: ShowPath) -> Response:
    """What changed since the last review."""
    session = desk_of(path.show).session
    held = last_review(session)
    if held is None:
        return json_response({"name": "", "point": None, "changes": []})
    name, changes = changes_of(session)
    listed = [{"sort": one.sort, "ids": one.ids, "text": one.text} for one in changes]
    return json_response({"name": name, "point": held.point, "changes": listed})


@api.post("/api/shows/<show>/review", responses={200: ReviewOut})
def end_review(path: ShowPath) -> Response:
    """Close a review: what changes from now on is told against the show as it is."""
    name = close_review(desk_of(path.show).session, datetime.now())
    return json_response({"name": name, "point": None, "changes": []})
