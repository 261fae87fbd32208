"""A whole sheet: border with zones, title strip, views where they were put or where there is room, legend, key plan."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from zarfwright.core.patching.dimmers import format_power, power_of
from zarfwright.core.rig.things import Fixture
from zarfwright.core.sheet.frames import frame_of
from zarfwright.core.sheet.issue import Issue
from zarfwright.core.sheet.marks import Box, Drawing, Line, Mark, Seen, Words
from zarfwright.core.sheet.paper import scale_text, scales, size_of
from zarfwright.core.sheet.pens import NAME_MM, SMALL_MM, width_of
from zarfwright.core.sheet.prepare import Prepared, prepared
from zarfwright.core.sheet.record import changes_since, last_issue
from zarfwright.core.sheet.scope import with_all_on_it
from zarfwright.core.sheet.sheet import Sheet, View
from zarfwright.core.sheet.structures import silhouette
from zarfwright.core.sheet.symbols import sign_of
from zarfwright.core.sheet.titles import TITLE_MM, title_and_view, view_box
from zarfwright.core.sheet.views import Since, draw_view
from zarfwright.core.show import Show
from zarfwright.core.site.things import Truss
from zarfwright.core.types.sort import sort_of

GAP_MM = 6.0
LEGEND_MM = 74.0
ZONES_FROM_MM = 420.0
"""Sheets as wide as that have zones along their border."""
ZONE_MM = 105.0
LEGEND_HEAD_MM = 13.0
LEGEND_SCALE = 25
SYMBOL_MM = 16.0
REVISIONS_MOST = 4


@dataclass(frozen=True)
class Paper:
    """The parts of a sheet: its border, the strip of its title, and what is left for views."""

    width: float
    height: float
    border: Box
    strip: Box
    room: Box


def paper_of(sheet: Sheet) -> Paper:
    """How a sheet is divided."""
    wide, high = size_of(sheet.paper, sheet.upright)
    large = max(wide, high) > ZONES_FROM_MM
    margin = 10.0 if large else 7.0
    border = Box(margin, margin, wide - margin, high - margin)
    strip = replace(border, y1=border.y0 + (22.0 if large else 16.0))
    room = Box(border.x0 + GAP_MM, strip.y1 + GAP_MM / 2, border.x1 - GAP_MM, border.y1 - GAP_MM)
    return Paper(wide, high, border, strip, room)


def _zones(paper: Paper) -> list[Mark]:
    """Figures along the border's length and letters along its height, as ISO 5457 has them."""
    if max(paper.width, paper.height) <= ZONES_FROM_MM:
        return []
    b, marks = paper.border, list[Mark]()
    across = max(2, 2 * round(b.width / ZONE_MM / 2))
    down = max(2, 2 * round(b.height / ZONE_MM / 2))
    for k in range(across):
        x0, x1 = (b.x0 + b.width * i / across for i in (k, k + 1))
        for y, end in ((b.y1 + 2.2, b.y1 + 5.0), (b.y0 - 4.2, b.y0 - 5.0)):
            marks.append(Words("words", str(k + 1), ((x0 + x1) / 2, y), 2.0, "middle", part="border"))
            if k:
                edge = b.y1 if end > b.y1 else b.y0
                marks.append(Line("title", ((x0, edge), (x0, end)), part="border"))
    letters = "ABCDEFGHJKLMNPQRSTUVWXYZ"
    for k in range(down):
        y0, y1 = (b.y1 - b.height * i / down for i in (k + 1, k))
        for x, end in ((b.x0 - 3.6, b.x0 - 5.0), (b.x1 + 3.6, b.x1 + 5.0)):
            marks.append(Words("words", letters[k], (x, (y0 + y1) / 2 - 1.0), 2.0, "middle", part="border"))
            if k:
                edge = b.x0 if end < b.x0 else b.x1
                marks.append(Line("title", ((edge, y1), (end, y1)), part="border"))
    return marks


def _cell(box: Box, name: str, text: str, size: float, bold: bool = False) -> list[Mark]:
    """A cell of the strip: what it is, small, and what it says, as large as it fits."""
    fits = min(size, (box.width - 3.0) / max(width_of(text, 1.0, bold), 0.1))
    return [Line("title", ((box.x1, box.y0), (box.x1, box.y1)), part="title"),
            Words("words", name, (box.x0 + 1.5, box.y1 - 2.8), 1.3, part="title"),
            Words("words", text, (box.x0 + 1.5, box.y0 + (box.height - 4.0) / 2 - fits * 0.35), fits, bold=bold,
                  part="title")]  # fmt: skip


def _rose(box: Box, turn: str) -> list[Mark]:
    """Which way upstage is on the sheet: the trade's north."""
    x, y = box.middle
    r = min(box.width, box.height) / 2 - 3.2
    ring = tuple((x + r * math.cos(2 * math.pi * k / 32), y + r * math.sin(2 * math.pi * k / 32)) for k in range(32))
    arrow = ((x, y + r), (x - r * 0.35, y - r * 0.6), (x, y - r * 0.3), (x + r * 0.35, y - r * 0.6))
    return [Line("title", ring, True, part="title"), Line("title", arrow, True, "black", "title"),
            Words("words", turn, (x, y + r + 0.8), 1.6, "middle", bold=True, part="title")]  # fmt: skip


def _strip(show: Show, sheet: Sheet, paper: Paper, seen: Sequence[Seen], printed: float) -> list[Mark]:  # fmt: skip
    s, system = paper.strip, show.settings.system
    marks: list[Mark] = [Line("title", ((s.x0, s.y1), (s.x1, s.y1)), part="title")]
    rose = any(view.look == "plan" for view in sheet.views)
    said = list(dict.fromkeys(scale_text(one.scale * printed, system) for one in seen)) or ["no view"]
    scale = said[0] if len(said) == 1 else "as under each view"
    if printed != 1.0 and len(said) == 1:
        scale += f" (this print; {scale_text(seen[0].scale, system)} on {sheet.paper})"
    issue = last_issue(show)
    rev = " · ".join(word for word in (issue.number, issue.date) if word) if issue is not None else "not issued"
    cells = [("Show", show.settings.name, 0.24, 3.4, True), ("Venue", show.settings.venue, 0.15, 2.5, False),
             ("Drawing", sheet.name, 0.2, 3.0, True), ("Scale", scale, 0.11, 2.5, False),
             ("Drawn by", sheet.drawn_by, 0.1, 2.2, False), ("Revision", rev, 0.12, 2.2, False),
             ("Sheet", sheet.number, 0.08, 4.2, True)]  # fmt: skip
    x, wide = s.x0, s.width - (s.height if rose else 0.0)
    for name, text, share, size, bold in cells:
        marks += _cell(replace(s, x0=x, x1=x + wide * share), name, text, size, bold)
        x += wide * share
    if rose:
        marks += _rose(replace(s, x0=s.x1 - s.height), "US")
    if sheet.note:
        marks.append(Words("words", sheet.note, (s.x0 + 1.5, s.y1 + 1.2), 1.8, part="title"))
    return marks


@dataclass(frozen=True)
class _Laid:
    """Where views lie: the scale and the middle of each."""

    scales: list[int]
    middles: list[tuple[float, float]]


def _rows(sizes: Sequence[tuple[float, float]], room: Box) -> list[list[int]] | None:
    """Boxes in rows, one after another; None where they do not fit."""
    rows: list[list[int]] = []
    left = 0.0
    for k, (wide, _) in enumerate(sizes):
        if wide > room.width:
            return None
        if not rows or wide > left:
            rows.append([])
            left = room.width
        rows[-1].append(k)
        left -= wide + GAP_MM
    high = math.fsum(max(sizes[k][1] for k in row) for row in rows) + GAP_MM * (len(rows) - 1)
    return rows if high <= room.height else None


def _spread(sizes: Sequence[tuple[float, float]], rows: list[list[int]], room: Box) -> list[tuple[float, float]]:
    """The middles of boxes in rows, what is left of the room spread between them; those of a row stand level."""
    middles = [room.middle] * len(sizes)
    highs = [max(sizes[k][1] for k in row) for row in rows]
    gap_y = max(0.0, (room.height - math.fsum(highs)) / (len(rows) + 1)) if rows else 0.0
    y = room.y1
    for row, high in zip(rows, highs, strict=True):
        y -= gap_y + high
        gap_x = max(0.0, (room.width - math.fsum(sizes[k][0] for k in row)) / (len(row) + 1))
        x = room.x0
        for k in row:
            middles[k] = (x + gap_x + sizes[k][0] / 2, y + sizes[k][1] / 2)
            x += gap_x + sizes[k][0]
    return middles


def _laid(ready: Sequence[Prepared], room: Box, system: str) -> _Laid:
    """All views at the largest standard scale at which they fit together, or each at the one it was given; where they
    were put, else in rows."""
    every = scales(system)

    def sizes(common: int) -> list[tuple[float, float]]:
        return [title_and_view(one, one.view.scale or common) for one in ready]

    counted = list(range(len(ready)))
    if _rows(sizes(every[-1]), room) is None:
        # One of its own scale is too large for the room: it is not to make the others small.
        counted = [k for k, one in enumerate(ready) if not one.view.scale]
    common, rows = every[-1], None
    for common in every:
        rows = _rows([sizes(common)[k] for k in counted], room)
        if rows is not None:
            break
    middles = [room.middle] * len(ready)
    for k, place in zip(counted, _spread([sizes(common)[k] for k in counted], rows or [], room), strict=True):
        middles[k] = place
    chosen = [one.view.scale or common for one in ready]
    # Where a view is, is where the middle of its picture is, its title being below.
    own = [(x, y + TITLE_MM / 2) for x, y in middles]
    return _Laid(chosen, [one.view.at or place for one, place in zip(ready, own, strict=True)])


def _legend(
    show: Show, ids: Sequence[str], corner: tuple[float, float], most_mm: float, part: str = "legend"
) -> tuple[list[Mark], Box]:
    """The types on a sheet with their symbols, how many there are of each, and their power; from its lower left
    corner, no higher than `most_mm`."""
    fixtures = [show.body(key, Fixture) for key in dict.fromkeys(ids)]
    counts = Counter((one.type, one.mode) for one in fixtures)
    order = sorted(counts, key=lambda key: (show.types[key[0]].name, key[1]))
    signs = [sign_of(show.types[kind], mode) for kind, mode in order]
    mm = [min(1000 / LEGEND_SCALE, SYMBOL_MM / 2 / max(sign.half)) for sign in signs]
    heights = [max(6.5, 2 * sign.half[1] * scale + 2.0) for sign, scale in zip(signs, mm, strict=True)]
    # Of very many types rows are as low as they have to be: the legend stays on its paper.
    squeezed = min(1.0, (most_mm - LEGEND_HEAD_MM) / max(sum(heights), 1.0))
    heights, mm = [height * squeezed for height in heights], [one * squeezed for one in mm]
    total = sum(heights) + LEGEND_HEAD_MM
    x0, y0 = corner
    box = Box(x0, y0, x0 + LEGEND_MM, y0 + total)
    marks: list[Mark] = [
        box.outline("legend", part, "paper"),
        Words("words", "Fixtures on this sheet", (x0 + 2, box.y1 - 5.0), NAME_MM, bold=True, part=part),
    ]
    y = box.y1 - 7.0
    for (kind, mode), sign, scale, height in zip(order, signs, mm, heights, strict=True):
        at = np.array([x0 + 2 + SYMBOL_MM / 2, y - height / 2])
        for pen, points, closed in sign.strokes:
            placed = (points - sign.middle) * scale + at
            marks.append(Line(pen, tuple(map(tuple, placed.tolist())), closed, part=part))
        fixture_type = show.types[kind]
        watts = power_of(Fixture(kind, mode), fixture_type)
        said = ", ".join(word for word in (sort_of(fixture_type), mode, format_power(watts) if watts else "") if word)
        left = x0 + SYMBOL_MM + 4
        marks.append(Words("words", fixture_type.name, (left, at[1] + 0.4), 2.0, bold=True, part=part))
        size = min(SMALL_MM, (LEGEND_MM - SYMBOL_MM - 16) / max(width_of(said, 1.0), 0.1))
        marks.append(Words("words", said, (left, at[1] - 2.2), size, part=part))
        marks.append(
            Words("words", f"{counts[kind, mode]} ×", (box.x1 - 2, at[1] - 1.0), 2.0, "end", bold=True, part=part)
        )
        y -= height
    words = f"{len(fixtures)} fixtures; symbols at true size to one another where they fit"
    marks.append(
        Words("words", words, (x0 + 2, y0 + 2), min(SMALL_MM, (LEGEND_MM - 4) / width_of(words, 1.0)), part=part)
    )
    return marks, box


def _key_plan(show: Show, sheet: Sheet, box: Box) -> list[Mark]:
    """All structures in plan as lines, those of this sheet bold."""
    frame = frame_of(show, View("key"))
    bold = with_all_on_it(show, tuple(key for view in sheet.views for key in view.of))
    lines = {item.id: frame.of(silhouette(item.body, frame))[:, :2] for item in show.of_kind("truss")
             if isinstance(item.body, Truss) and not show.hidden(item)}  # fmt: skip
    if not lines:
        return []
    every = np.concatenate(list(lines.values()))
    low, high = every.min(axis=0), every.max(axis=0)
    mm = min((box.width - 6) / max(high[0] - low[0], 1.0), (box.height - 10) / max(high[1] - low[1], 1.0))
    at = np.array([box.middle[0], box.middle[1] - 2.0]) - (low + high) / 2 * mm
    marks: list[Mark] = [
        box.outline("legend", "key plan", "paper"),
        Words("words", "Where on the rig", (box.x0 + 2, box.y1 - 4.2), 2.0, bold=True, part="key plan"),
    ]
    for key, points in lines.items():
        body = show.body(key, Truss)
        here = "border" if key in bold else "lattice"
        placed = points * mm + at
        marks.append(Line(here, tuple(map(tuple, placed.tolist())), body.form == "arc" and body.span_deg >= 360,
                          part="key plan"))  # fmt: skip
    return marks


def _revisions(show: Show, box: Box) -> list[Mark]:
    """The last revisions with their dates and notes, the newest first."""
    marks: list[Mark] = [
        box.outline("legend", "revisions", "paper"),
        Words("words", "Revisions", (box.x0 + 2, box.y1 - 4.2), 2.0, bold=True, part="revisions"),
    ]
    y = box.y1 - 8.2
    for issue in reversed([issue for _, issue in show.bodies(Issue)][-REVISIONS_MOST:]):
        marks.append(Words("words", issue.number, (box.x0 + 2, y), SMALL_MM, bold=True, part="revisions"))
        marks.append(Words("words", issue.date, (box.x0 + 10, y), SMALL_MM, part="revisions"))
        size = min(SMALL_MM, (LEGEND_MM - 30) / max(width_of(issue.note, 1.0), 0.1))
        marks.append(Words("words", issue.note, (box.x0 + 28, y), size, part="revisions"))
        y -= 3.2
    return marks


def _aside(show: Show, sheet: Sheet, paper: Paper, ids: Sequence[str]) -> tuple[list[Mark], Box]:
    """Revisions, legend and key plan in the lower right of the room, and what room they leave for views."""
    marks: list[Mark] = []
    room = paper.room
    x0, y = room.x1 - LEGEND_MM, room.y0
    count = min(len(show.of_kind("issue")), REVISIONS_MOST)
    if count:
        box = Box(x0, y, room.x1, y + 7.0 + 3.2 * count)
        marks += _revisions(show, box)
        y = box.y1 + GAP_MM / 2
    if sheet.legend and ids:
        made, box = _legend(show, ids, (x0, y), room.y1 - y)
        marks += made
        y = box.y1 + GAP_MM / 2
    if sheet.key_plan:
        box = Box(x0, y, room.x1, y + 62.0)
        marks += _key_plan(show, sheet, box)
    return marks, (replace(room, x1=x0 - GAP_MM / 2) if marks else room)


def draw_sheet(show: Show, sheet: Sheet, printed: float = 1.0) -> Drawing:
    """A sheet as it is printed. `printed`: how many times smaller the print is, so that the scale it says is true."""
    paper = paper_of(sheet)
    ready = [prepared(show, view) for view in sheet.views]
    system = show.settings.system
    ids = [one.id for part in ready for one in part.inside]
    aside, room = _aside(show, sheet, paper, ids)
    issue = last_issue(show)
    since = Since(issue.number, tuple(changes_since(show, issue))) if issue is not None else None
    laid = _laid(ready, room, system)
    marks: list[Mark] = []
    seen = []
    for k, (one, scale, at) in enumerate(zip(ready, laid.scales, laid.middles, strict=True)):
        made, what = draw_view(show, one, k + 1, scale, at, printed, since)
        marks += made
        seen.append(replace(what, outside=not paper.border.holds(view_box(one, scale, at))))
    frame: list[Mark] = [paper.border.outline("border", "border"), *_zones(paper)]
    frame += _strip(show, sheet, paper, seen, printed)
    words = [Words("note", line, (one.at[0], one.at[1] - k * one.size_mm * 1.7), one.size_mm, part=f"words/{one.key}")
             for one in sheet.words for k, line in enumerate(one.text.split("\n"))]  # fmt: skip
    every = (*marks, *aside, *words, *frame)
    return Drawing(sheet.number, sheet.name, sheet.paper, paper.width, paper.height, every, tuple(seen))
