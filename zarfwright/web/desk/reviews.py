"""Reviews that were held: each is a restore point, made when it was closed."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from zarfwright.core.looks.look import Look
from zarfwright.core.review.book import BEFORE, DRAWN, Book, book_of, picture_key
from zarfwright.core.review.changes import REVIEW, Changed, changes_since
from zarfwright.core.review.notes import Note
from zarfwright.core.show import Show
from zarfwright.formats.drawn import drawn_over
from zarfwright.web.desk.session import Session


@dataclass(frozen=True)
class Review:
    """A review that was held, and the show as it was then."""

    point: int
    name: str
    at: str
    show: Show


def said_day(moment: datetime) -> str:
    """A day as people write it: 30 November 2026."""
    return f"{moment.day} {moment:%B %Y}"


def close_review(session: Session, moment: datetime) -> str:
    """End a review: the show as it is now is a restore point, and the pictures of its looks are kept as they are.
    Gives its name."""
    name = f"{REVIEW}{said_day(moment)}, {moment:%H:%M}"
    session.name_point(name)
    kept = session.pictures()
    for item, _ in session.show.bodies(Look):
        jpeg = session.picture(item.id) if item.id in kept else None
        if jpeg is not None:
            session.keep_picture(picture_key(item.id, BEFORE), kept[item.id], jpeg)
    return name


def last_review(session: Session) -> Review | None:
    """The review that was closed last; None where none was."""
    for point in session.points():
        if str(point["name"]).startswith(REVIEW):
            then = session.show_at(int(point["id"]))
            return Review(int(point["id"]), str(point["name"]), str(point["at"]), then) if then is not None else None
    return None


def changes_of(session: Session) -> tuple[str, list[Changed]]:
    """What changed since the last review, and its name; empty where none was held."""
    review = last_review(session)
    return ("", []) if review is None else (review.name, changes_since(review.show, session.show))


def book_now(
    session: Session, looks: list[str], views: list[str], day: str, changes: bool = True
) -> tuple[Book, dict[tuple[str, str], bytes]]:
    """The book of the show as it is, and its pictures as far as they are kept. Raises JobError for what is gone."""
    since, changed = changes_of(session) if changes else ("", [])
    book = book_of(session.show, session.show_id, looks, views, day, changed, since)
    touched = {key for one in changed if one.sort == "look" for key in one.ids}
    kept = session.pictures()
    wanted = [(page.id, view.id) for page in book.pages for view in book.views]
    wanted += [(page.id, BEFORE) for page in book.pages if page.id in touched]
    found = {}
    for pair in wanted:
        jpeg = session.picture(picture_key(*pair)) if picture_key(*pair) in kept else None
        if jpeg is not None:
            found[pair] = jpeg
    for key in (key for page in book.pages for key in page.drawn):
        note = session.show.body(key, Note)
        asset = session.asset(note.picture)
        if asset is not None:
            found[key, DRAWN] = drawn_over(asset[1], note.strokes)
    return book, found
