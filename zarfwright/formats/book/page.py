"""The look book as one HTML file that needs neither the program nor a network: pictures, styles, script are in it."""

from __future__ import annotations

import base64
import html
import json
from collections.abc import Mapping
from dataclasses import asdict
from importlib.resources import files

from zarfwright.core.review.book import Book

Pictures = Mapping[tuple[str, str], bytes]
"""JPEGs by look and viewpoint; with the viewpoint `before`: how it looked at the last review; by note and `drawn`."""
POLICY = "default-src 'none'; img-src data:; style-src 'unsafe-inline'; script-src 'unsafe-inline'"


def _part(name: str) -> str:
    return files("zarfwright.formats.book").joinpath(name).read_text(encoding="utf-8")


def book_page(book: Book, pictures: Pictures) -> bytes:
    """The book as an HTML file."""
    told = asdict(book)
    told["pictures"] = {f"{look} {view}": f"data:image/jpeg;base64,{base64.b64encode(jpeg).decode()}"
                        for (look, view), jpeg in pictures.items()}  # fmt: skip
    # Whatever is said in a note, it ends no element of this page.
    data = json.dumps(told, ensure_ascii=True, allow_nan=False).replace("<", "\\u003c").replace("&", "\\u0026")
    title = html.escape(f"{book.title}: look book, {book.date}")
    return (
        f'<!doctype html>\n<html lang="en">\n<head>\n<meta charset="utf-8">\n'
        f'<meta http-equiv="Content-Security-Policy" content="{POLICY}">\n'
        f'<meta name="viewport" content="width=device-width, initial-scale=1">\n<title>{title}</title>\n'
        f'<style>{_part("page.css")}</style>\n</head>\n<body>\n<main id="book"></main>\n'
        f'<script type="application/json" id="told">{data}</script>\n<script>{_part("page.js")}</script>\n'
        "</body>\n</html>\n"
    ).encode()
