"""Labels for bodies and strips for structures as PDF, to be printed on A4 and cut along the lines."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

from zarfwright.core.schedules.strips import BodyLabel, Strip, StripCell
from zarfwright.core.sheet.paper import size_of
from zarfwright.formats.sheet.faces import BOLD, REGULAR, register, shown
from zarfwright.formats.sheet.pdf import MM

EDGE_MM = 10.0
LABEL_MM = (63.0, 34.0)
CELL_MM, STRIP_MM, GAP_MM = 34.0, 22.0, 5.0


class _Pen:
    """A canvas in millimetres, on which words are made as small as they need to be."""

    def __init__(self, out: io.BytesIO, title: str, upright: bool) -> None:
        from reportlab.pdfgen.canvas import Canvas

        register()
        self.wide, self.high = size_of("A4", upright)
        self.canvas: Any = Canvas(out, pagesize=(self.wide * MM, self.high * MM), invariant=1, pageCompression=1)
        self.canvas.setTitle(shown(title))
        self.begun = False

    def page(self) -> None:
        if self.begun:
            self.canvas.showPage()
        self.begun = True
        self.canvas.setLineWidth(0.3)

    def words(self, text: str, x: float, y: float, size: float, room: float, bold: bool = False) -> None:
        """Words from a place on; `size` in points at the most, `room` millimetres wide."""
        from reportlab.pdfbase.pdfmetrics import stringWidth

        face, text = BOLD if bold else REGULAR, shown(text)
        wide = stringWidth(text, face, size)
        fits = size * min(1.0, room * MM / wide) if wide else size
        self.canvas.setFont(face, fits)
        self.canvas.drawString(x * MM, y * MM, text)

    def box(self, x: float, y: float, wide: float, high: float) -> None:
        self.canvas.setDash([1.5, 1.5])
        self.canvas.rect(x * MM, y * MM, wide * MM, high * MM)
        self.canvas.setDash([])


def labels_pdf(show: str, labels: Sequence[BodyLabel]) -> bytes:
    """A label for each body, three across."""
    out = io.BytesIO()
    pen = _Pen(out, f"{show}: labels", upright=True)
    across, down = int((pen.wide - 2 * EDGE_MM) / LABEL_MM[0]), int((pen.high - 2 * EDGE_MM) / LABEL_MM[1])
    pen.page()
    for i, one in enumerate(labels):
        if i and i % (across * down) == 0:
            pen.page()
        column, row = i % across, i // across % down
        x, y = EDGE_MM + column * LABEL_MM[0], pen.high - EDGE_MM - (row + 1) * LABEL_MM[1]
        pen.box(x, y, *LABEL_MM)
        pen.words(one.number, x + 3, y + 20, 30, 34, bold=True)
        pen.words(one.address, x + 39, y + 23, 13, 21)
        pen.words(one.place, x + 3, y + 13, 9, LABEL_MM[0] - 6, bold=True)
        pen.words(", ".join(filter(None, (one.type, one.colour))), x + 3, y + 8, 8, LABEL_MM[0] - 6)
        pen.words(one.purpose, x + 3, y + 3.5, 8, LABEL_MM[0] - 6)
    pen.canvas.save()
    return out.getvalue()


def strips_pdf(show: str, strips: Sequence[Strip]) -> bytes:
    """A strip for each structure, in as many rows as it takes; the rows of one are stuck together at their ends."""
    out = io.BytesIO()
    pen = _Pen(out, f"{show}: strips", upright=False)
    across = int((pen.wide - 2 * EDGE_MM) / CELL_MM)
    pen.page()
    y = pen.high - EDGE_MM
    for strip in strips:
        rows = [strip.cells[i : i + across] for i in range(0, len(strip.cells), across)]
        for k, cells in enumerate(rows):
            if y - STRIP_MM - 6 < EDGE_MM:
                pen.page()
                y = pen.high - EDGE_MM
            name = strip.name if len(rows) == 1 else f"{strip.name}, {k + 1} of {len(rows)}"
            pen.words(name, EDGE_MM, y - 4, 9, 120, bold=True)
            y -= STRIP_MM + 5.5
            for c, cell in enumerate(cells):
                _cell(pen, cell, EDGE_MM + c * CELL_MM, y)
            y -= GAP_MM
    pen.canvas.save()
    return out.getvalue()


def _cell(pen: _Pen, cell: StripCell, x: float, y: float) -> None:
    pen.box(x, y, CELL_MM, STRIP_MM)
    pen.words(cell.along, x + 1.5, y + STRIP_MM - 4, 7.5, CELL_MM - 3)
    room = (STRIP_MM - 6) / max(len(cell.hung), 1)
    for i, (unit, number, kind) in enumerate(cell.hung):
        at = y + STRIP_MM - 6 - room * (i + 0.75)
        size = min(17.0, room * MM * 0.85)
        pen.words(number, x + 1.5, at, size, 14, bold=True)
        pen.words(f"unit {unit}" if unit else "", x + 17, at + min(3.2, room * 0.35), min(7.0, size), CELL_MM - 18.5)
        pen.words(kind, x + 17, at, min(7.0, size), CELL_MM - 18.5)
