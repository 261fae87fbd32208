"""The look book's files: one page that asks nothing of anybody, a PDF, and the notes that come back."""

import io
import json
import re
from dataclasses import replace

import pytest
from PIL import Image
from pypdf import PdfReader

from zarfwright.core.review.book import BEFORE, DRAWN, Book, Light, Page, Seen
from zarfwright.core.review.changes import Changed
from zarfwright.core.review.notes import Answer, Note, Standing, Stroke
from zarfwright.formats.book.page import book_page
from zarfwright.formats.book.pdf import book_pdf
from zarfwright.formats.book.sent import read_sent
from zarfwright.formats.drawn import drawn_over
from zarfwright.formats.findings import FormatError


def jpeg(colour=(200, 90, 20)):
    out = io.BytesIO()
    Image.new("RGB", (160, 90), colour).save(out, "JPEG")
    return out.getvalue()


NASTY = "</script><img src=x onerror=alert(1)> & “quoted” – λ"
NOTE = Note(NASTY, "Wren", "2026-11-30T10:00:00+00:00", answers=(Answer("So be it", "Teal", ""),))
STANDING = Standing("not yet", ("Wren",), ("Teal",))
LIGHT = (Light("Choir", 640.0, 310.0, 980.0, "700 lx ± 20 %", False),)
PAGES = tuple(
    Page(key, number, name, "", "Tide, at 0:05: in 3 s", "3 of 9 fixtures are lit", ("Truss: all at 50 %, blue",), (),
         LIGHT, STANDING, (NOTE,))
    for key, number, name in (("a", "1", "Dawn"), ("b", "2.5", NASTY), ("c", "3", "Dusk"))
)  # fmt: skip
VIEWS = (Seen("v", "Desk"), Seen("w", "Gallery"))
MOVED = (Changed("moved", ("f",), "3 fixtures moved 0.50 m."),)
BOOK = Book("s1", "Tide", "Shed", "30 November 2026", PAGES, VIEWS, MOVED, "Review of 27 November",
            ((NOTE, "Storyteller"),))  # fmt: skip
PICTURES = {(look, view): jpeg((40 * i, 90, 50 * k)) for i, look in enumerate("abc") for k, view in enumerate("vw")} | {
    ("b", BEFORE): jpeg((9, 9, 90))
}


def test_the_page_holds_all_that_it_shows_and_asks_for_nothing():
    text = book_page(BOOK, PICTURES).decode()
    told = json.loads(re.search(r'<script type="application/json" id="told">(.*?)</script>', text, re.DOTALL)[1])
    assert [page["name"] for page in told["pages"]] == ["Dawn", NASTY, "Dusk"]
    assert len(told["pictures"]) == 7
    assert told["changes"][0]["text"] == "3 fixtures moved 0.50 m."
    # Nothing that anybody wrote ends the script or begins an element.
    assert text.count("</script>") == 2
    assert "<img src=x" not in text
    assert not re.search(r"""(?:src|href)=["']?(?:https?:)?//""", text)
    assert "default-src 'none'" in text
    assert len(book_page(BOOK, {})) < 60_000


def test_the_pdf_has_a_page_for_each_look_with_its_words_and_pictures():
    data = book_pdf(BOOK, PICTURES)
    assert book_pdf(BOOK, PICTURES) == data
    reader = PdfReader(io.BytesIO(data))
    assert len(reader.pages) == 5
    texts = [page.extract_text() for page in reader.pages]
    assert "Tide" in texts[0]
    assert "1 Dawn" in texts[1]
    assert "Choir: mean 640 lx, 310 to 980, wanted 700 lx ± 20 %" in " ".join(texts[1].split())
    assert "agreed: Wren; not yet: Teal" in " ".join(texts[1].split())
    assert "“quoted” – λ" in " ".join(texts[2].split()).replace("?", "λ")
    assert [len(page.images) for page in reader.pages] == [3, 2, 3, 2, 0]
    assert "3 fixtures moved 0.50 m." in texts[4]
    assert [entry.title for entry in reader.outline] == ["1 Dawn", f"2.5 {NASTY}", "3 Dusk"]
    fonts = {
        font["/BaseFont"]
        for page in reader.pages
        for font in (f.get_object() for f in page["/Resources"]["/Font"].values())
    }
    assert any("DejaVuSansCondensed" in name for name in fonts)
    # Notes without end go on to further pages.
    long = replace(PAGES[0], notes=(Note("word " * 4000, "Wren"),))
    assert len(PdfReader(io.BytesIO(book_pdf(replace(BOOK, pages=(long,)), {}))).pages) > 5


@pytest.mark.parametrize(("stroke", "inked", "left"), [
    (Stroke("free", ((0.1, 0.5), (0.9, 0.5))), (80, 45), (80, 20)),
    (Stroke("circle", ((0.5, 0.5), (0.5, 0.8))), (80, 18), (80, 45)),
    (Stroke("arrow", ((0.5, 0.9), (0.5, 0.1))), (80, 60), (40, 45)),
])  # fmt: skip
def test_what_was_drawn_is_drawn_into_the_picture(stroke, inked, left):
    with Image.open(io.BytesIO(drawn_over(jpeg((0, 0, 60)), [stroke]))) as picture:
        red = [picture.getpixel(place)[0] for place in (inked, left)]
    assert red[0] > 120
    assert red[1] < 60


def test_drawn_notes_are_in_both_books():
    page = replace(PAGES[0], drawn=("n",))
    book, pictures = replace(BOOK, pages=(page,)), {**PICTURES, ("n", DRAWN): jpeg((7, 200, 7))}
    assert b'"n drawn": "data:image/jpeg' in book_page(book, pictures)
    assert len(PdfReader(io.BytesIO(book_pdf(book, pictures))).pages[1].images) == 3


def sent(**more):
    notes = [{"text": "Fine", "by": "Wren", "about": "a", "look": "a", "at": ""}]
    told = {"format": "look book notes", "version": 1, "show": "s1", "title": "Tide", "notes": notes}
    return json.dumps({**told, **more}).encode()


def test_what_readers_send_back_is_read_and_what_is_none_is_refused():
    assert read_sent(sent(), "n.json", "s1") == [{"text": "Fine", "by": "Wren", "about": "a", "look": "a"}]
    for bad, says in (
        (b"{", "no notes"), (b"[]", "no notes"), (sent(format="x"), "no notes"), (sent(notes=3), "no notes"),
        (sent(notes=[3]), "no notes"), (sent(notes=[{"text": 5}]), "no notes"), (sent(version=2), "newer"),
        (sent(show="s2"), "another show"), (b" " * (3 * 2**20), "larger than"), (b"\xff\xfe", "no notes"),
    ):  # fmt: skip
        with pytest.raises(FormatError, match=says):
            read_sent(bad, "n.json", "s1")
