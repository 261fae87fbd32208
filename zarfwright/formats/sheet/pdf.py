"""Sheets as PDF: true to scale, faces inside, a layer for each meaning, bookmarks; whole, on other paper, or in tiles.

reportlab has no call for layers (optional content, ISO 32000-1, 8.11): their groups go into the catalogue, their names
into the resources of each page, and what is drawn on one stands between BDC and EMC.
"""

from __future__ import annotations

import io
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Any

from zarfwright.core.sheet.marks import Box, Circle, Drawing, Line, Mark, Words
from zarfwright.core.sheet.paper import size_of
from zarfwright.core.sheet.pens import FACE, LAYERS, PAINTS, PENS
from zarfwright.formats.sheet.faces import BOLD, REGULAR, register, shown

MM = 72.0 / 25.4
OVERLAP_MM, EDGE_MM = 10.0, 7.0
"""Tiles lie over each other by so much, and leave so much of their paper's edge free."""


@dataclass(frozen=True)
class Page:
    """A page: its size in millimetres, what of it is drawn how, and its bookmark."""

    width: float
    height: float
    name: str
    draw: Callable[[Any], None]


def _line(pen: Any, mark: Line) -> None:
    path = pen.beginPath()
    path.moveTo(*mark.points[0])
    for point in mark.points[1:]:
        path.lineTo(*point)
    if mark.closed:
        path.close()
    pen.drawPath(path, stroke=1 if mark.pen else 0, fill=1 if mark.paint else 0)


def _words(pen: Any, mark: Words) -> None:
    text = shown(mark.text)
    pen.setFont(BOLD if mark.bold else REGULAR, mark.size_mm / FACE)
    pen.setFillGray(PENS[mark.pen].grey)
    draw = {"start": pen.drawString, "middle": pen.drawCentredString, "end": pen.drawRightString}[mark.anchor]
    if not mark.turn_deg:
        draw(*mark.at, text)
        return
    pen.saveState()
    pen.translate(*mark.at)
    pen.rotate(mark.turn_deg)
    draw(0, 0, text)
    pen.restoreState()


def _mark(pen: Any, mark: Mark) -> None:
    if isinstance(mark, Words):
        _words(pen, mark)
        return
    if mark.pen:
        one = PENS[mark.pen]
        pen.setStrokeGray(one.grey)
        pen.setLineWidth(one.width_mm)
        pen.setDash(list(one.dash))
    if mark.paint:
        pen.setFillGray(PAINTS[mark.paint])
    if isinstance(mark, Circle):
        pen.circle(*mark.at, mark.radius_mm, stroke=1 if mark.pen else 0, fill=1 if mark.paint else 0)
    else:
        _line(pen, mark)


def draw_marks(pen: Any, marks: Sequence[Mark]) -> None:
    """Marks on a canvas whose unit is a millimetre, each run of them on its layer."""
    pen.setLineCap(1)
    pen.setLineJoin(1)
    for layer, same in groupby(marks, key=lambda mark: PENS[mark.pen].layer if mark.pen else "Labels"):
        pen._code.append(f"/OC /L{LAYERS.index(layer)} BDC")
        for mark in same:
            _mark(pen, mark)
        pen._code.append("EMC")


def _layered(pen: Any) -> None:
    """Put the layers into the catalogue and the resources of all pages."""
    from reportlab.pdfbase import pdfdoc

    doc = pen._doc
    groups = {}
    for k, layer in enumerate(LAYERS):
        group = pdfdoc.PDFDictionary({"Type": pdfdoc.PDFName("OCG"), "Name": pdfdoc.PDFString(layer)})
        groups[f"L{k}"] = doc.Reference(group, f"layer{k}")
    order = pdfdoc.PDFArray(list(groups.values()))
    catalog = doc.Catalog
    catalog.__NoDefault__ = [*catalog.__NoDefault__, "OCProperties"]
    shown_by = pdfdoc.PDFDictionary({"Order": order, "ON": order, "BaseState": pdfdoc.PDFName("ON")})
    catalog.OCProperties = pdfdoc.PDFDictionary({"OCGs": order, "D": shown_by})
    for page in doc.Pages.pages:
        resources = pdfdoc.PDFResourceDictionary()
        resources.basicFonts()
        resources.Properties = dict(groups)
        page.Resources = resources


def _written(title: str, pages: Sequence[Page]) -> bytes:
    from reportlab.pdfgen.canvas import Canvas

    register()
    out = io.BytesIO()
    pen = Canvas(out, invariant=1, pageCompression=1)
    pen.setTitle(shown(title))
    pen.setCreator("Zarfwright")
    for k, page in enumerate(pages):
        pen.setPageSize((page.width * MM, page.height * MM))
        pen.bookmarkPage(f"sheet{k}")
        pen.addOutlineEntry(shown(page.name), f"sheet{k}")
        pen.scale(MM, MM)
        page.draw(pen)
        pen.showPage()
    if len(pages) > 1:
        pen.showOutline()
    _layered(pen)
    pen.save()
    return out.getvalue()


def set_pdf(title: str, drawings: Sequence[Drawing]) -> bytes:
    """Sheets at their true size, one a page."""

    def page(drawing: Drawing) -> Page:
        return Page(drawing.width_mm, drawing.height_mm, drawing.title, lambda pen: draw_marks(pen, drawing.marks))

    return _written(title, [page(drawing) for drawing in drawings])


def reduction(drawing: Drawing, paper: str) -> float:
    """How many times smaller a sheet is on other paper; never larger than it is."""
    wide, high = size_of(paper, drawing.height_mm > drawing.width_mm)
    return max(drawing.width_mm / wide, drawing.height_mm / high, 1.0)


def reduced_pdf(title: str, drawings: Sequence[tuple[Drawing, str]]) -> bytes:
    """Sheets made smaller to fit on other paper, in its middle. Each was drawn for that (`printed` of draw_sheet)."""

    def page(drawing: Drawing, paper: str) -> Page:
        wide, high = size_of(paper, drawing.height_mm > drawing.width_mm)
        share = 1 / reduction(drawing, paper)

        def draw(pen: Any) -> None:
            pen.translate((wide - drawing.width_mm * share) / 2, (high - drawing.height_mm * share) / 2)
            pen.scale(share, share)
            draw_marks(pen, drawing.marks)

        return Page(wide, high, drawing.title, draw)

    return _written(title, [page(drawing, paper) for drawing, paper in drawings])


def tiles_of(drawing: Drawing, paper: str) -> tuple[float, float, list[tuple[str, Box]]]:
    """The paper's size as it is laid, and what of a sheet comes on each tile of it, named by row and column from the
    upper left; neighbours have OVERLAP_MM in common."""

    def laid(upright: bool) -> tuple[int, int, float, float]:
        wide, high = size_of(paper, upright)
        step_x, step_y = wide - 2 * EDGE_MM - OVERLAP_MM, high - 2 * EDGE_MM - OVERLAP_MM
        return (max(1, math.ceil((drawing.width_mm - OVERLAP_MM) / step_x)),
                max(1, math.ceil((drawing.height_mm - OVERLAP_MM) / step_y)), wide, high)  # fmt: skip

    columns, rows, wide, high = min((laid(False), laid(True)), key=lambda one: one[0] * one[1])
    in_x, in_y = wide - 2 * EDGE_MM, high - 2 * EDGE_MM
    tiles = []
    for row in range(rows):
        for column in range(columns):
            x, top = column * (in_x - OVERLAP_MM), drawing.height_mm - row * (in_y - OVERLAP_MM)
            tiles.append((f"{chr(65 + row)}{column + 1}", Box(x, top - in_y, x + in_x, top)))
    return wide, high, tiles


def _tile_marks(box: Box, name: str, title: str) -> list[Mark]:
    """Where a tile meets its neighbours: crosses in the middle of what they have in common, and which it is."""
    half, marks = OVERLAP_MM / 2, list[Mark]()
    for x in (box.x0 + half, box.x1 - half):
        for y in (box.y0 + half, box.y1 - half):
            marks += [Line("frame", ((x - 4, y), (x + 4, y)), part="tile"),
                      Line("frame", ((x, y - 4), (x, y + 4)), part="tile")]  # fmt: skip
    marks.append(Words("words", f"{title}: {name}", (box.x0 + half + 5, box.y0 + half + 1), 1.6, part="tile"))
    return marks


def tiled_pdf(title: str, drawings: Sequence[Drawing], paper: str) -> bytes:
    """Sheets at their true scale on smaller paper, to be put together by the crosses."""
    pages = []
    for drawing in drawings:
        wide, high, tiles = tiles_of(drawing, paper)
        for name, box in tiles:

            def draw(pen: Any, box: Box = box, name: str = name, drawing: Drawing = drawing) -> None:
                pen.translate(EDGE_MM - box.x0, EDGE_MM - box.y0)
                path = pen.beginPath()
                path.rect(box.x0, box.y0, box.width, box.height)
                pen.clipPath(path, stroke=0, fill=0)
                draw_marks(pen, drawing.marks)
                draw_marks(pen, _tile_marks(box, name, drawing.title))

            pages.append(Page(wide, high, f"{drawing.title}, {name}", draw))
    return _written(title, pages)
