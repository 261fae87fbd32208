"""One view, drawn: site, structures, fixtures, labels, dimensions, its title with a scale bar."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely

from zarfwright.core.sheet.clouds import cloud_marks
from zarfwright.core.sheet.dimensions import dimension_marks
from zarfwright.core.sheet.labels import Wanted, place_labels
from zarfwright.core.sheet.lettered import labelled, words_box
from zarfwright.core.sheet.marks import Box, Line, Mark, Point, Seen, Words
from zarfwright.core.sheet.pens import SMALL_MM, width_of
from zarfwright.core.sheet.prepare import Prepared
from zarfwright.core.sheet.record import Changed
from zarfwright.core.sheet.rigged import Symbol, over_each_other, symbol_marks, symbols_of
from zarfwright.core.sheet.sheet import LOOKS
from zarfwright.core.sheet.site import Mask, Onto, people_marks, site_marks
from zarfwright.core.sheet.structures import drawn_structure, silhouette
from zarfwright.core.sheet.titles import picture_box, title_marks, trim_text, view_box
from zarfwright.core.show import Show
from zarfwright.core.space import Floats, vec

NAMED_MM = SMALL_MM * 1.2


def _where(symbols: Sequence[Symbol], labels: dict[str, Box], names: Sequence[Mark]) -> dict[str, list[Box]]:
    """Where on paper each thing of a view is: symbols with their labels, structures by their names."""
    found = {symbol.one.id: [Box(*symbol.area.bounds)] for symbol in symbols}
    for key, box in labels.items():
        found[key].append(box)
    for mark in names:
        if isinstance(mark, Words):
            found[mark.of] = [words_box(mark)]
    return found


def _datums(show: Show, ready: Prepared, onto: Onto, part: str) -> list[Mark]:
    """The centre line and the setting line in plans, the centre line and the datum's height in elevations."""
    left, low, right, high = ready.region
    axes = ready.frame.axes
    across, up = int(np.argmax(np.abs(axes[0]))), int(np.argmax(np.abs(axes[1])))
    if ready.view.look == "square" or ready.view.of:
        return []
    names = {0: "centre line", 1: "setting line", 2: "datum 0"}
    marks: list[Mark] = []
    if left < 0 < right:
        marks += onto.lines("datum", [onto.of(np.array([[0.0, low], [0.0, high]]))], part)
        at = onto.of(np.array([0.0, low]))
        marks.append(Words("datum", names[across], (float(at[0]) - 0.8, float(at[1]) + 1.0), SMALL_MM, "start", 90.0,
                           part=part))  # fmt: skip
    if low < 0 < high:
        marks += onto.lines("datum", [onto.of(np.array([[left, 0.0], [right, 0.0]]))], part)
        at = onto.of(np.array([right, 0.0]))
        marks.append(Words("datum", names[up], (float(at[0]) - 1.0, float(at[1]) + 0.8), SMALL_MM, "end", part=part))
    return marks


def _names(show: Show, ready: Prepared, onto: Onto, taken: Sequence[Box], soft: Floats, room: Box) -> list[Mark]:
    """The name of each structure with its trim, where it is free at one of its ends; that of a structure alone is in
    the title."""
    if len(ready.view.of) == 1 and len(ready.scope.structures) == 1:
        return []
    wanted = []
    texts = {}
    part = f"view/{ready.view.key}"
    for key, body in ready.scope.structures:
        at = onto.of(silhouette(body, ready.frame))
        texts[key] = trim_text(show, body)
        end = at[int(np.argmin(at[:, 0] - at[:, 1] * 0.01))]
        end = np.clip(end, [room.x0, room.y0], [room.x1, room.y1])
        place = (float(end[0]), float(end[1]))
        wanted.append(Wanted(key, width_of(texts[key], NAMED_MM, True), NAMED_MM, place, 0.8, math.pi))
    found = place_labels(wanted, taken, soft, room)
    marks: list[Mark] = []
    for key, place_ in sorted(found.items()):
        if place_ is not None:
            corner = (place_.box.x0, place_.box.y0)
            marks.append(place_.box.grown(0.3).outline("", part, "paper"))
            marks.append(Words("name", texts[key], corner, NAMED_MM, bold=True, part=part, of=key))
    return marks


def _soft(marks: Sequence[Mark]) -> Floats:
    """The lines of a drawing as straight pieces (n, 2, 2)."""
    pieces = [pair for mark in marks if isinstance(mark, Line) for pair in pairwise(mark.points)]
    return np.array(pieces, dtype=float).reshape(-1, 2, 2)


@dataclass(frozen=True)
class Since:
    """What papers say otherwise than when they were issued as revision `number`."""

    number: str
    changes: tuple[Changed, ...]


def draw_view(
    show: Show, ready: Prepared, number: int, scale: int, at: Point, printed: float = 1.0, since: Since | None = None
) -> tuple[list[Mark], Seen]:
    """A view on the sheet with its middle at `at`. `printed`: how much smaller the print is than the sheet."""
    view, part = ready.view, f"view/{ready.view.key}"
    box = view_box(ready, scale, at)
    room = picture_box(ready, scale, at)
    mm = 1000.0 / scale
    clip = shapely.box(room.x0, room.y0, room.x1, room.y1)
    onto = Onto(mm, room.x0 - ready.region[0] * mm, room.y0 - ready.region[1] * mm, clip)
    symbols = symbols_of(show, ready, onto)
    areas = Mask([symbol.area for symbol in symbols])
    site = site_marks(ready.faces, ready.frame, onto, part, areas)
    people = people_marks(show, ready.scope, ready.frame, onto, part)
    rig: list[Mark] = []
    for _, body in ready.scope.structures:
        for line in drawn_structure(body, ready.frame, scale):
            points = onto.of(line.points)
            ring = np.concatenate([points, points[:1]]) if line.closed else points
            rig += onto.lines(line.pen, [ring], part, areas)
    heads = symbol_marks(symbols, part)
    measured = dimension_marks(show, ready.view, ready.frame, onto, [symbol.one for symbol in symbols])
    said = [words_box(mark) for mark in measured if isinstance(mark, Words)]
    names = _names(show, ready, onto, [*(Box(*symbol.area.bounds) for symbol in symbols), *said], _soft(rig), room)
    taken = [words_box(mark) for mark in (*names, *measured) if isinstance(mark, Words)]
    labels = labelled(show, ready, symbols, scale, room, _soft([*heads, *rig, *measured, *site]), taken)
    where = _where(symbols, labels.boxes, names)
    clouds: list[Mark] = []
    if since is not None:
        clouds = cloud_marks(since.changes, where, ready.frame, onto, since.number, part, not view.of)
    marks = [*people, *site, *_datums(show, ready, onto, part), *rig, *heads, *names, *measured, *labels.marks, *clouds,
             *title_marks(show, view, number, scale, box, room, printed)]  # fmt: skip
    left, low, right, high = ready.region
    axes = (vec(ready.frame.axes[0]), vec(ready.frame.axes[1]))
    seen = Seen(view.key, view.name or LOOKS[view.look], scale, box, tuple(symbol.one.id for symbol in symbols),
                labels.not_placed, over_each_other(show, symbols) if ready.frame.flat else (), labels.boxes,
                {symbol.one.id: symbol.middle for symbol in symbols}, at,
                ((left + right) / 2, (low + high) / 2), axes)  # fmt: skip
    return marks, seen
