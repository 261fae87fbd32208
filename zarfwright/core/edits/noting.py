"""Edits of notes: written, answered, done; and what is said of a look."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from zarfwright.core.edits.base import Arguments, Edit, LongText, NewId, added, changed, made, require_some
from zarfwright.core.errors import JobError
from zarfwright.core.looks.look import Look, called
from zarfwright.core.review.notes import Answer, Note, Stroke, Verdict
from zarfwright.core.show import Change, Item, Show
from zarfwright.core.space import Vec

STROKES_MOST, PLACES_MOST = 200, 2000
TAGS_MOST = 20


class StrokeIn(BaseModel):
    """A line drawn on a picture, in shares of its width and height."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
    kind: Literal["free", "arrow", "circle"] = "free"
    places: list[tuple[float, float]] = Field(min_length=2, max_length=PLACES_MOST)


class WriteNote(Arguments):
    """Write a note: on a thing (`about`), of a crowd on a `seat`, on a place, or on the show. `at`: when, ISO 8601."""

    text: LongText = ""
    by: str = ""
    at: str = ""
    about: str | None = None
    seat: str = ""
    place: Vec | None = None
    look: str | None = None
    seen_from: tuple[Vec, Vec] | None = None
    tags: list[str] = Field([], max_length=TAGS_MOST)
    verdict: Verdict = ""
    picture: str = ""
    strokes: list[StrokeIn] = Field([], max_length=STROKES_MOST)


def write_note(show: Show, args: WriteNote, new_id: NewId) -> Edit:
    note = _note(show, args)
    if note.verdict:
        return _judged(show, note, new_id)
    item = added(show, "note", [note], new_id)[0]
    return Edit((made(item),), f"Note: {note.name}", (item.id,))


def _note(show: Show, args: WriteNote) -> Note:
    """The note that is written. Raises JobError naming the field."""
    if not args.text.strip() and not args.strokes and not args.verdict:
        raise JobError("A note says something, or is drawn: type its text.", "text")
    for key in (args.about, args.look):
        if key is not None:
            show.item(key)
    if args.verdict:
        show.body(args.about or "", Look)
    if args.seat and not args.seat.startswith(f"{args.about}/") and args.seat != args.about:
        raise JobError("That seat is not one of what the note is on: click the seat again.", "seat")
    strokes = tuple(Stroke(one.kind, tuple(one.places)) for one in args.strokes)
    return Note(args.text.strip(), args.by.strip(), _moment(args.at), args.about, args.seat, args.place, args.look,
                args.seen_from, tags_of(args.tags), False, args.verdict, (), args.picture, strokes)  # fmt: skip


def _moment(text: str) -> str:
    """When something was said, as it is kept. Raises JobError."""
    if not text:
        return ""
    try:
        datetime.fromisoformat(text)
    except ValueError:
        raise JobError(f"“{text}” is no time: write it as 2026-11-30T14:05:00Z.", "at") from None
    return text


def tags_of(words: list[str]) -> tuple[str, ...]:
    """Tags as they are kept: small letters, each once."""
    return tuple(dict.fromkeys(word for one in words if (word := " ".join(one.lower().split()).lstrip("#"))))


def _judged(show: Show, note: Note, new_id: NewId) -> Edit:
    """What somebody says of a look takes the place of what they said before."""
    before = [
        item
        for item, other in show.bodies(Note)
        if other.verdict and other.about == note.about and other.who == note.who and not other.answers
    ]
    item = added(show, "note", [note], new_id)[0]
    look = called(show.body(note.about or "", Look))
    said = f"{note.who or 'Somebody'}: {look}, {note.verdict}"
    return Edit((*(Change(old, None) for old in before), made(item)), said, (item.id,))


class SetNote(Arguments):
    """Change notes: their text, their tags, whether they are done."""

    ids: list[str]
    text: LongText | None = None
    tags: list[str] | None = Field(None, max_length=TAGS_MOST)
    done: bool | None = None


def set_note(show: Show, args: SetNote, _: NewId) -> Edit:
    require_some(args.ids, "notes")
    changes = []
    for key in args.ids:
        item, note = show.thing(key, Note)
        after = note
        if args.text is not None:
            after = replace(after, text=args.text.strip())
            if not after.text and not after.strokes and not after.verdict:
                raise JobError("A note says something: type its text, or remove the note.", "text")
        if args.tags is not None:
            after = replace(after, tags=tags_of(args.tags))
        if args.done is not None:
            after = replace(after, done=args.done)
        if after != note:
            changes.append(changed(item, after))
    whom = f"the note “{show.items[args.ids[0]].name}”" if len(args.ids) == 1 else f"{len(args.ids)} notes"
    said = "Change" if args.done is None else "Done:" if args.done else "Open again:"
    return Edit(tuple(changes), f"{said} {whom}", tuple(args.ids))


class AnswerNote(Arguments):
    """Say something to a note."""

    id: str
    text: LongText
    by: str = ""
    at: str = ""


def answer_note(show: Show, args: AnswerNote, _: NewId) -> Edit:
    item, note = show.thing(args.id, Note)
    if not args.text.strip():
        raise JobError("An answer says something: type its text.", "text")
    answer = Answer(args.text.strip(), args.by.strip(), _moment(args.at))
    after = replace(note, answers=(*note.answers, answer))
    return Edit((changed(item, after),), f"Answer the note “{note.name}”", (item.id,))


class TakeNotes(Arguments):
    """Take in what readers of a look book have written (core/review/sent_back.py)."""

    notes: list[WriteNote] = Field(max_length=2000)


def take_notes(show: Show, args: TakeNotes, new_id: NewId) -> Edit:
    known = {(note.who, note.at, note.text, note.about, note.verdict) for _, note in show.bodies(Note)}
    now, fresh, twice = show, [], 0
    for one in args.notes:
        note = _note(show, one)
        if (note.who, note.at, note.text, note.about, note.verdict) in known:
            twice += 1
            continue
        if note.verdict:
            edit = _judged(now, note, new_id)
            fresh += [change for change in edit.changes if change.after is not None]
            now = now.after(edit.changes)
        else:
            item: Item = added(now, "note", [note], new_id)[0]
            fresh.append(made(item))
            now = now.after(fresh[-1:])
    if not fresh:
        raise JobError("There is nothing new in it: all of its notes are here already.")
    gone = [Change(item, None) for key, item in show.items.items() if key not in now.items]
    report = (f"{twice} were here already.",) if twice else ()
    count = "1 note" if len(fresh) == 1 else f"{len(fresh)} notes"
    return Edit((*gone, *fresh), f"Take in {count}", tuple(change.id for change in fresh), report)
