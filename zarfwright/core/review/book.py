"""The look book: what is said of each look beside its pictures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zarfwright.core.looks.look import Look, number_text
from zarfwright.core.looks.saying import links_said, saying
from zarfwright.core.looks.shown import facts_of, in_order, resolved
from zarfwright.core.playback.order import Order, starts_of
from zarfwright.core.review.area import DRIVEN, Area
from zarfwright.core.review.changes import Changed
from zarfwright.core.review.notes import Note, Standing, standing_of
from zarfwright.core.review.readiness import fresh
from zarfwright.core.settings import Viewpoint
from zarfwright.core.show import Show

GROUPS = 8


@dataclass(frozen=True)
class Light:
    """What was measured on an area in a look."""

    area: str
    mean: float
    least: float
    most: float
    wanted: str
    """In words; empty: nothing."""
    old: bool


@dataclass(frozen=True)
class Page:
    """One look."""

    id: str
    number: str
    name: str
    note: str
    when: str
    """When it comes, and in what time, in words; empty where it is in no running order."""
    lit: str
    groups: tuple[str, ...]
    links: tuple[str, ...]
    light: tuple[Light, ...]
    standing: Standing
    notes: tuple[Note, ...]
    drawn: tuple[str, ...] = ()
    """The ids of those notes that are drawn on a picture."""


@dataclass(frozen=True)
class Seen:
    """A viewpoint."""

    id: str
    name: str


@dataclass(frozen=True)
class Book:
    """A look book without its pictures: those are known by look and viewpoint."""

    show: str
    title: str
    venue: str
    date: str
    pages: tuple[Page, ...]
    views: tuple[Seen, ...]
    changes: tuple[Changed, ...]
    """Since the last review; empty where there was none."""
    since: str
    notes: tuple[tuple[Note, str], ...]
    """Notes that are on no look, and what they are on."""


DRAWN = "drawn"
"""In place of a viewpoint, where a note stands for the look: its picture with what was drawn on it."""
BEFORE = "before"
"""In place of a viewpoint: how a look looked when the last review was closed."""


def picture_key(look: str, view: str) -> str:
    """Under what a picture of a look from a viewpoint is kept."""
    return f"{look} {view}"


def sheets_of(book: Book) -> int:
    """How many pages it has: a cover, one for each look, and one for the rest where there is any."""
    return 1 + len(book.pages) + bool(book.since or book.notes)


def book_of(
    show: Show,
    show_id: str,
    looks: Sequence[str],
    views: Sequence[str],
    date: str,
    changes: Sequence[Changed] = (),
    since: str = "",
) -> Book:
    """The book of some looks (none: all, by their numbers) from some viewpoints. Raises JobError for what is gone."""
    chosen = [*looks] or [key for key, _ in in_order(show)]
    settings = show.settings
    notes = [note for _, note in show.bodies(Note)]
    seen = tuple(Seen(key, show.body(key, Viewpoint).name) for key in views)
    rest = tuple((note, _about(show, note)) for note in notes if not note.verdict and not _of_look(show, note, chosen))
    pages = tuple(_page(show, key, notes) for key in chosen)
    return Book(show_id, settings.name, settings.venue, date, pages, seen, tuple(changes), since, rest)


def _of_look(show: Show, note: Note, looks: Sequence[str]) -> bool:
    return note.about in looks or (note.look in looks and note.about is None)


def _about(show: Show, note: Note) -> str:
    if note.about is None:
        return "a place" if note.place is not None else ""
    return show.items[note.about].name if note.about in show.items else "what is gone"


def _page(show: Show, key: str, notes: Sequence[Note]) -> Page:
    look = show.body(key, Look)
    said = resolved(show, key)
    facts = facts_of(said)
    groups = [f"{group.name}: {group.text}" for group in saying(show, said) if group.lit]
    return Page(
        id=key,
        number=number_text(look.number),
        name=look.name,
        note=look.note,
        when=_when(show, key),
        lit=f"{facts.lit} of {facts.fixtures} fixtures are lit",
        groups=tuple(groups[:GROUPS]),
        links=tuple(link.name for link in links_said(show, key)),
        light=tuple(_light(show, key)),
        standing=standing_of([*notes], key),
        notes=tuple(note for note in notes if not note.verdict and _of_look(show, note, [key])),
        drawn=tuple(
            item.id for item, note in show.bodies(Note) if note.strokes and note.picture and _of_look(show, note, [key])
        ),
    )


def _light(show: Show, look: str) -> list[Light]:
    found = []
    for _, area in show.bodies(Area):
        measured = area.maps.get(look) if look != DRIVEN else None
        if measured is None:
            continue
        wanted = ""
        if area.wanted_lx is not None and (not area.wanted_in or look in area.wanted_in):
            wanted = f"{area.wanted_lx:g} lx ± {area.tolerance:g} %"
        old = not fresh(show, look, measured)
        found.append(Light(area.name, measured.mean, measured.least, measured.most, wanted, old))
    return found


def clock(seconds: float) -> str:
    """A time in a running order: 1:05, 1:05.5."""
    tenths = round(seconds * 10)
    rest = f".{tenths % 10}" if tenths % 10 else ""
    return f"{tenths // 600}:{tenths // 10 % 60:02d}{rest}"


def _when(show: Show, look: str) -> str:
    running = show.settings.running
    orders = sorted(show.bodies(Order), key=lambda one: one[0].id != running)
    for _, order in orders:
        for step, start in zip(order.steps, starts_of(order.steps).tolist(), strict=False):
            if step.look == look:
                hold = f", holds {step.hold_s:g} s" if step.hold_s else ""
                return f"{order.name}, at {clock(start)}: in {step.fade_in_s:g} s{hold}"
    return ""
