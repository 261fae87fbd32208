"""The look book as PDF, A4 across: a page a look, its pictures on the left and what is said of it on the right."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from zarfwright.core.review.book import DRAWN, Book, Page
from zarfwright.core.review.notes import Note
from zarfwright.formats.sheet.faces import BOLD, REGULAR, register, shown

MARGIN, GUTTER, ASIDE = 34.0, 16.0, 222.0
INK, DIM, BRASS = (0.09, 0.12, 0.13), (0.42, 0.47, 0.48), (0.62, 0.44, 0.12)
FACE = REGULAR
THUMBS_ACROSS = 5


@dataclass
class _Sheet:
    """A page that is written from the top down, and on to the next."""

    pen: Any
    width: float
    height: float
    left: float = MARGIN
    right: float = 0.0
    y: float = 0.0

    def begin(self, left: float, right: float) -> None:
        self.left, self.right, self.y = left, right, self.height - MARGIN

    def text(
        self, words: str, size: float = 8.6, face: str = FACE, colour: tuple[float, ...] = INK, gap: float = 0.0
    ) -> None:
        """Lines of words, broken where they are too long."""
        from reportlab.lib.utils import simpleSplit

        self.y -= gap
        for line in simpleSplit(shown(words), face, size, self.right - self.left):
            if self.y < MARGIN + size:
                self.pen.showPage()
                self.y = self.height - MARGIN
            self.y -= size * 1.32
            self.pen.setFont(face, size)
            self.pen.setFillColorRGB(*colour)
            self.pen.drawString(self.left, self.y, line)


def book_pdf(book: Book, pictures: Mapping[tuple[str, str], bytes]) -> bytes:
    """The book as a PDF file; the same book and pictures give the same bytes."""
    from reportlab.lib.pagesizes import A4, landscape
    from reportlab.pdfgen.canvas import Canvas

    register()
    out = io.BytesIO()
    width, height = landscape(A4)
    pen = Canvas(out, pagesize=(width, height), invariant=1)
    pen.setTitle(f"{book.title}: look book, {book.date}")
    sheet = _Sheet(pen, width, height)
    _cover(sheet, book, pictures)
    for page in book.pages:
        pen.bookmarkPage(page.id)
        pen.addOutlineEntry(f"{page.number} {page.name}", page.id)
        _page(sheet, book, page, pictures)
        pen.showPage()
    if book.since or book.notes:
        _ending(sheet, book)
        pen.showPage()
    pen.save()
    return out.getvalue()


def _image(pen: Any, jpeg: bytes, left: float, top: float, width: float, height: float) -> float:
    """A picture no larger than that, from its top left; gives how high it is."""
    from reportlab.lib.utils import ImageReader

    picture = ImageReader(io.BytesIO(jpeg))
    wide, high = picture.getSize()
    share = min(width / wide, height / high)
    pen.drawImage(picture, left, top - high * share, wide * share, high * share)
    return float(high * share)


def _first(book: Book, page: Page, pictures: Mapping[tuple[str, str], bytes]) -> bytes | None:
    return next((pictures[page.id, view.id] for view in book.views if (page.id, view.id) in pictures), None)


def _cover(sheet: _Sheet, book: Book, pictures: Mapping[tuple[str, str], bytes]) -> None:
    sheet.begin(MARGIN, sheet.width - MARGIN)
    sheet.text(book.title, 22, BOLD)
    said = " · ".join(word for word in (book.venue, f"look book of {book.date}", f"{len(book.pages)} looks") if word)
    sheet.text(said, 10, colour=DIM)
    wide = (sheet.width - 2 * MARGIN - (THUMBS_ACROSS - 1) * GUTTER) / THUMBS_ACROSS
    high = wide * 9 / 16
    top = sheet.y - 18
    for i, page in enumerate(book.pages):
        column = i % THUMBS_ACROSS
        if column == 0 and i:
            top -= high + 26
        if top - high - 16 < MARGIN:
            sheet.pen.showPage()
            top = sheet.height - MARGIN
        left = MARGIN + column * (wide + GUTTER)
        jpeg = _first(book, page, pictures)
        if jpeg is not None:
            _image(sheet.pen, jpeg, left, top, wide, high)
        else:
            sheet.pen.setStrokeColorRGB(*DIM)
            sheet.pen.rect(left, top - high, wide, high)
        sheet.left, sheet.right, sheet.y = left, left + wide, top - high
        sheet.text(f"{page.number} {page.name}"[:48], 7.6)
        sheet.pen.linkRect("", page.id, (left, top - high - 12, left + wide, top))
    sheet.pen.showPage()


def _page(sheet: _Sheet, book: Book, page: Page, pictures: Mapping[tuple[str, str], bytes]) -> None:
    wide = sheet.width - 2 * MARGIN - GUTTER - ASIDE
    seen = [(view.name, pictures[page.id, view.id]) for view in book.views if (page.id, view.id) in pictures]
    if (page.id, "before") in pictures:
        seen.append((f"as it was: {book.since}", pictures[page.id, "before"]))
    _pictures(sheet, seen, wide)
    sheet.begin(sheet.width - MARGIN - ASIDE, sheet.width - MARGIN)
    sheet.text(f"{page.number} {page.name}", 15, BOLD)
    if page.when:
        sheet.text(page.when, 8, colour=DIM)
    if page.note:
        sheet.text(page.note, gap=4)
    said = page.standing
    words = [f"agreed: {', '.join(who or 'somebody' for who in said.agreed)}"] if said.agreed else []
    words += [f"not yet: {', '.join(who or 'somebody' for who in said.not_yet)}"] if said.not_yet else []
    sheet.text("; ".join(words) or "nothing said of it yet", 9, BOLD if words else FACE, BRASS if words else DIM, 5)
    _titled(sheet, "Lit", [f"{page.lit}.", *page.groups])
    if page.links:
        _titled(sheet, "Hangs on", [", ".join(page.links)])
    _titled(sheet, "Light", [
        f"{one.area}{' (of before)' if one.old else ''}: mean {one.mean:.0f} lx, {one.least:.0f} to {one.most:.0f}"
        f"{f', wanted {one.wanted}' if one.wanted else ''}" for one in page.light
    ])  # fmt: skip
    _titled(sheet, "Notes", [_said(note) for note in page.notes])
    for key in page.drawn:
        if (key, DRAWN) in pictures and sheet.y > MARGIN + ASIDE * 0.6:
            sheet.y -= 8 + _image(sheet.pen, pictures[key, DRAWN], sheet.left, sheet.y - 8, ASIDE, ASIDE)


def _pictures(sheet: _Sheet, seen: list[tuple[str, bytes]], wide: float) -> None:
    """The first large, the others below it beside each other."""
    room = sheet.height - 2 * MARGIN
    others = len(seen) - 1
    across = max(others, 2) if others else 1
    small = (wide - (across - 1) * 8) / across
    top = sheet.height - MARGIN
    for i, (name, jpeg) in enumerate(seen):
        left = MARGIN if i == 0 else MARGIN + (i - 1) * (small + 8)
        most = (wide, room - (small * 9 / 16 + 30 if others else 14)) if i == 0 else (small, small)
        high = _image(sheet.pen, jpeg, left, top, *most)
        sheet.left, sheet.right, sheet.y = left, left + most[0], top - high
        sheet.text(name, 7.4, colour=DIM)
        if i == 0:
            top -= high + 18


def _titled(sheet: _Sheet, title: str, lines: list[str]) -> None:
    if lines:
        sheet.text(title, 7.6, BOLD, DIM, 8)
    for line in lines:
        sheet.text(line, gap=1)


def _said(note: Note) -> str:
    state = "done" if note.done else "open"
    answers = "".join(f" — {one.text} ({one.who})" for one in note.answers)
    who = ", ".join(word for word in (note.who, state) if word)
    return f"{note.text or 'Drawn on a picture'} ({who}){answers}"


def _ending(sheet: _Sheet, book: Book) -> None:
    sheet.begin(MARGIN, sheet.width - MARGIN)
    if book.since:
        sheet.text("What changed", 15, BOLD)
        sheet.text(f"since: {book.since}", 9, colour=DIM)
        for one in book.changes:
            sheet.text(f"– {one.text}", gap=2)
        if not book.changes:
            sheet.text("Nothing.", gap=2)
    if book.notes:
        sheet.text("Other notes", 15, BOLD, gap=14)
        for note, about in book.notes:
            sheet.text(f"– {f'{about}: ' if about else ''}{_said(note)}", gap=2)
