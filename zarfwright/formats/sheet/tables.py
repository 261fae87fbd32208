"""Schedules as PDF: columns as wide as they need, heads on every page, groups under their names, totals at the end."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from typing import Any

from zarfwright.core.schedules.table import Row, Table, as_text
from zarfwright.core.sheet.paper import size_of
from zarfwright.formats.sheet.faces import BOLD, REGULAR, register, shown
from zarfwright.formats.sheet.pdf import MM

EDGE_MM, SIZE_PT, HEAD_PT = 12.0, 7.2, 6.4
WIDEST_MM, NARROWEST_MM = 62.0, 7.0
GREY, DARK, MARK = 0.86, 0.35, 0.5


def total_name(key: str) -> str:
    """What a total is of, in words: `power_w` -> `power W`."""
    stem, _, unit = key.rpartition("_")
    units = {"w": "W", "kg": "kg", "a": "A", "m": "m", "m2": "m²", "percent": "%"}
    return f"{stem.replace('_', ' ')} {units[unit]}" if stem and unit in units else key.replace("_", " ")


def grouped(table: Table) -> list[tuple[str, list[int]]]:
    """The rows of each group, in order; one without a name where it is not grouped."""
    if table.group not in table.columns:
        return [("", list(range(len(table.rows))))]
    at = table.columns.index(table.group)
    groups: dict[str, list[int]] = {}
    for i, row in enumerate(table.rows):
        groups.setdefault(as_text(row[at]) or "none", []).append(i)
    return list(groups.items())


def _widths(columns: Sequence[str], rows: Sequence[Row], room: float) -> list[float]:
    """How wide each column is, in points: what it needs, and no more than there is."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    def needs(i: int) -> float:
        cells = [stringWidth(shown(as_text(row[i])), REGULAR, SIZE_PT) for row in rows]
        head = max(stringWidth(shown(word), BOLD, HEAD_PT) for word in columns[i].split())
        return float(max(NARROWEST_MM * MM, min(max([*cells, head]) + 6, WIDEST_MM * MM)))

    wanted = [needs(i) for i in range(len(columns))]
    total = sum(wanted)
    # Wider where there is room, so that the table goes over the page; narrower where there is not.
    return [one * room / total for one in wanted]


def _cell(cell: object, style: Any) -> Any:
    from xml.sax.saxutils import escape

    from reportlab.platypus import Paragraph

    return Paragraph(escape(shown(as_text(cell))), style)  # type: ignore[arg-type]


def _rows(
    table: Table, columns: Sequence[int], styles: Mapping[str, Any]
) -> tuple[list[list[Any]], list[tuple[Any, ...]]]:
    """The cells of the table, and how they are drawn."""
    numeric = [all(isinstance(row[i], int | float | None) for row in table.rows) for i in columns]
    cells: list[list[Any]] = [[_cell(table.columns[i], styles["head"]) for i in columns]]
    drawn: list[tuple[Any, ...]] = []
    changed = set(table.changed)
    for name, rows in grouped(table):
        if name:
            count = f"{len(rows)}"
            cells.append([_cell(f"{name} ({count})", styles["group"]), *[""] * (len(columns) - 1)])
            at = len(cells) - 1
            drawn += [
                ("SPAN", (0, at), (-1, at)),
                ("BACKGROUND", (0, at), (-1, at), GREY),
                ("NOSPLIT", (0, at), (-1, at + 1)),
            ]
        for i in rows:
            row = table.rows[i]
            cells.append([_cell(row[c], styles["number" if right else "cell"])
                          for c, right in zip(columns, numeric, strict=True)])  # fmt: skip
            if i in changed:
                drawn.append(("LINEBEFORE", (0, len(cells) - 1), (0, len(cells) - 1), 2.2, MARK))
    return cells, drawn


def schedule_pdf(table: Table, show: str, paper: str = "A4", upright: bool = False, since: str = "") -> bytes:
    """A schedule as PDF; the same table gives the same bytes. `since`: the revision against which rows are marked."""
    from reportlab.lib.colors import Color
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.platypus import LongTable, Paragraph, SimpleDocTemplate, Spacer, TableStyle

    register()
    wide, high = (part * MM for part in size_of(paper, upright))

    def grey(share: float) -> Any:
        return Color(share, share, share)

    plain = ParagraphStyle("cell", fontName=REGULAR, fontSize=SIZE_PT, leading=SIZE_PT * 1.2)
    styles = {
        "cell": plain, "number": ParagraphStyle("number", plain, alignment=2),
        "head": ParagraphStyle("head", plain, fontName=BOLD, fontSize=HEAD_PT, leading=HEAD_PT * 1.2),
        "group": ParagraphStyle("group", plain, fontName=BOLD, fontSize=SIZE_PT + 0.6),
    }  # fmt: skip
    columns = [i for i, title in enumerate(table.columns) if title != table.group or len(table.columns) == 1]
    cells, drawn = _rows(table, columns, styles)
    room = wide - 2 * EDGE_MM * MM
    shown_rows = [tuple(row[i] for i in columns) for row in table.rows]
    body = LongTable(cells, _widths([table.columns[i] for i in columns], shown_rows, room), repeatRows=1)
    style: list[tuple[Any, ...]] = [
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEBELOW", (0, 0), (-1, -1), 0.25, grey(0.7)),
        ("LINEBELOW", (0, 0), (-1, 0), 0.9, grey(0)), ("LEFTPADDING", (0, 0), (-1, -1), 2.5),
        ("RIGHTPADDING", (0, 0), (-1, -1), 2.5), ("TOPPADDING", (0, 0), (-1, -1), 1.4),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 1.6),
    ]  # fmt: skip
    body.setStyle(TableStyle([*style, *(tuple(grey(x) if isinstance(x, float) and x in (GREY, MARK) else x for x in one)
                                        for one in drawn)]))  # fmt: skip
    totals = ", ".join(f"{total_name(key)}: {value:.12g}" for key, value in table.totals.items())
    end = [Spacer(1, 6), Paragraph(shown(totals), styles["group"])]
    marks = f"A bar at the left marks what has changed since revision {since}." if since and table.changed else ""
    end += [Paragraph(shown(words), plain) for words in (table.note, marks) if words]
    out = io.BytesIO()
    title = f"{show}: {table.title}"

    def about(pen: Any, doc: Any) -> None:
        pen.setFont(BOLD, 10)
        pen.drawString(EDGE_MM * MM, high - EDGE_MM * MM, shown(table.title))
        pen.setFont(REGULAR, SIZE_PT)
        pen.setFillGray(DARK)
        pen.drawRightString(wide - EDGE_MM * MM, high - EDGE_MM * MM, shown(show))
        pen.drawRightString(wide - EDGE_MM * MM, EDGE_MM * MM * 0.6, f"page {doc.page}")
        pen.drawString(EDGE_MM * MM, EDGE_MM * MM * 0.6, shown(f"revision {since}" if since else ""))

    doc = SimpleDocTemplate(out, pagesize=(wide, high), leftMargin=EDGE_MM * MM, rightMargin=EDGE_MM * MM, invariant=1,
                            topMargin=(EDGE_MM + 4) * MM, bottomMargin=EDGE_MM * MM, title=shown(title),
                            pageCompression=1, author="Zarfwright")  # fmt: skip
    doc.build([body, *end] if table.rows else end, onFirstPage=about, onLaterPages=about)
    return out.getvalue()
