"""Sheets as the file that somebody asks for."""

from __future__ import annotations

from collections.abc import Sequence

from zarfwright.core.errors import JobError
from zarfwright.core.sheet.compose import draw_sheet
from zarfwright.core.sheet.marks import Drawing
from zarfwright.core.sheet.sheet import Sheet
from zarfwright.core.show import Show
from zarfwright.formats.sheet.dxf import sheet_dxf
from zarfwright.formats.sheet.pdf import reduced_pdf, reduction, set_pdf, tiled_pdf
from zarfwright.formats.sheet.svg import sheet_svg

KINDS = {"pdf": "application/pdf", "svg": "image/svg+xml", "dxf": "image/vnd.dxf"}


def sheet_file(
    show: Show, sheets: Sequence[Sheet], kind: str, on: str = "", tiles: str = "", drawn: Sequence[Drawing] = ()
) -> tuple[bytes, list[Drawing]]:
    """Sheets as PDF, one as SVG or DXF, and what is on them. `on`: made smaller to fit on other paper, with the scale
    that they have there; `tiles`: on several smaller papers, true to scale; `drawn`: the sheets where they are drawn
    already. Raises JobError."""
    if kind not in KINDS:
        raise JobError(f"A sheet is written as {', '.join(KINDS)}: let its name end so.", "out")
    if kind != "pdf" and (len(sheets) != 1 or on or tiles):
        raise JobError(f"As {kind.upper()} goes one sheet at its true size: ask for PDF.", "out")
    drawings = list(drawn) or [draw_sheet(show, sheet) for sheet in sheets]
    if kind == "svg":
        return sheet_svg(drawings[0]), drawings
    if kind == "dxf":
        return sheet_dxf(drawings[0]), drawings
    name = show.settings.name
    if tiles:
        return tiled_pdf(name, drawings, tiles), drawings
    if on:
        again = [
            draw_sheet(show, sheet, reduction(drawing, on)) for sheet, drawing in zip(sheets, drawings, strict=True)
        ]
        return reduced_pdf(name, [(drawing, on) for drawing in again]), again
    return set_pdf(name, drawings), drawings
