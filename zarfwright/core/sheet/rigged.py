"""Fixtures on paper: their symbols in plans, their outlines otherwise, and which lie over each other."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from zarfwright.core.sheet.bodies import outline_of, shines
from zarfwright.core.sheet.frames import Frame
from zarfwright.core.sheet.marks import Line, Mark, Point
from zarfwright.core.sheet.prepare import Prepared
from zarfwright.core.sheet.scope import Hung
from zarfwright.core.sheet.site import Onto
from zarfwright.core.sheet.symbols import TICK_MM, Sign, sign_of
from zarfwright.core.show import Show
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats, rotate

IN_LINE_MM = 2.0
"""Symbols whose middles are nearer on paper than that share one label."""
OVER = 0.25
"""Symbols that have more of the smaller one in common lie over each other."""


@dataclass(frozen=True, eq=False)
class Symbol:
    """A fixture on paper: its outline as an area, its strokes, its middle and its reach, millimetres."""

    one: Hung
    area: BaseGeometry
    strokes: tuple[tuple[str, Floats, bool], ...]
    middle: Point
    reach: float


def _plan_symbol(show: Show, one: Hung, frame: Frame, onto: Onto) -> Symbol:
    sign: Sign = sign_of(show.type_of(one.fixture), one.fixture.mode)
    way = shines(show, one.fixture, one.clamp)
    front = frame.of(rotate(one.clamp.rotation, (0.0, 1.0, 0.0)))[:2]
    if way is not None and sign.turns:
        seen = frame.of(way)[:2]
        front = seen if np.linalg.norm(seen) > 0.05 else front
    far = float(np.linalg.norm(front))
    y = front / far if far > 0.05 else np.array([0.0, 1.0])
    x = np.array([y[1], -y[0]])
    if not sign.turns:
        # Of what lies on its side, across is the rail's way still.
        across = frame.of(rotate(one.clamp.rotation, (1.0, 0.0, 0.0)))[:2]
        x = x if float(np.dot(across, x)) >= 0 or far > 0.05 else -x
    at = onto.of(one.at)
    turn = np.stack([x, y]) * onto.mm_per_m

    def placed(points: Floats) -> Floats:
        return np.asarray(points @ turn + at)

    strokes = [(pen, placed(points), closed) for pen, points, closed in sign.strokes]
    nose = placed(np.array([[sign.middle[0], sign.middle[1] + sign.half[1]]]))[0]
    aimed = y if way is None else _unit(frame.of(way)[:2], y)
    if not sign.turns:
        nose = placed(np.asarray(sign.middle))
        nose = nose + aimed * (sign.half[1] * onto.mm_per_m)
    strokes.append(("tick", np.array([nose, nose + aimed * TICK_MM]), False))
    area = shapely.union_all([shapely.polygons(points) for pen, points, closed in strokes if closed and pen == "head"])
    middle = placed(np.asarray(sign.middle))
    return Symbol(one, area, tuple(strokes), (float(middle[0]), float(middle[1])),
                  math.hypot(*sign.half) * onto.mm_per_m * 0.85)  # fmt: skip


def _unit(way: Floats, otherwise: Floats) -> Floats:
    far = float(np.linalg.norm(way))
    return way / far if far > 0.05 else otherwise


def _upright_symbol(show: Show, one: Hung, frame: Frame, onto: Onto) -> Symbol:
    outline = outline_of(show, one.fixture, one.clamp, frame)

    def paper(shape: BaseGeometry) -> BaseGeometry:
        return shapely.transform(shape, lambda at: at * onto.mm_per_m + [onto.x, onto.y])

    whole = paper(outline.whole)
    strokes = [("head", shapely.get_coordinates(shapely.boundary(part)), True)
               for part in shapely.get_parts(whole)]  # fmt: skip
    strokes += [("detail", shapely.get_coordinates(shapely.boundary(paper(part))), True) for part in outline.parts
                if len(outline.parts) > 1 and part.geom_type == "Polygon"]  # fmt: skip
    way = shines(show, one.fixture, one.clamp)
    seen = frame.of(way)[:2] if way is not None else np.array([0.0, -1.0])
    x0, y0, x1, y1 = whole.bounds
    middle = np.array([(x0 + x1) / 2, (y0 + y1) / 2])
    if np.linalg.norm(seen) > 0.2:
        way_ = _unit(seen, seen)
        ray = shapely.LineString([middle, middle + way_ * 500.0])
        out = shapely.get_coordinates(shapely.intersection(ray, shapely.boundary(whole)))
        nose = out[np.argmax(np.linalg.norm(out - middle, axis=1))] if len(out) else middle
        strokes.append(("tick", np.array([nose, nose + way_ * TICK_MM]), False))
    return Symbol(one, whole, tuple(strokes), (float(middle[0]), float(middle[1])),
                  math.hypot(x1 - x0, y1 - y0) / 2 * 0.9)  # fmt: skip


def symbols_of(show: Show, ready: Prepared, onto: Onto) -> list[Symbol]:
    """The fixtures that are inside of what is shown, those nearer to who looks later."""
    make = _plan_symbol if ready.frame.flat else _upright_symbol
    return [
        make(show, one, ready.frame, onto) for one in sorted(ready.inside, key=lambda one: (float(one.at[2]), one.id))
    ]


def _closed(points: Floats) -> tuple[Point, ...]:
    return tuple(map(tuple, points.tolist()))


def symbol_marks(symbols: Sequence[Symbol], part: str) -> list[Mark]:
    """Symbols, of those that lie over each other what is hidden by the nearer one left out."""
    marks: list[Mark] = []
    areas = [symbol.area for symbol in symbols]
    tree = shapely.STRtree(areas) if areas else None
    for i, symbol in enumerate(symbols):
        assert tree is not None
        over = [int(k) for k in tree.query(symbol.area) if k > i]
        hidden = shapely.union_all([areas[k] for k in over]) if over else None
        for pen, points, closed in symbol.strokes:
            if hidden is None or not shapely.intersects(hidden, shapely.linestrings(points)):
                marks.append(Line(pen, _closed(points), closed, part=part))
                continue
            ring = np.concatenate([points, points[:1]]) if closed else points
            rest = shapely.difference(shapely.linestrings(ring), hidden)
            marks += [
                Line(pen, _closed(shapely.get_coordinates(one)), part=part)
                for one in shapely.get_parts(rest)
                if one.geom_type == "LineString" and not one.is_empty
            ]
    return marks


def groups_of(symbols: Sequence[Symbol]) -> list[list[Symbol]]:
    """Symbols that lie in line, or in one place, together; each group from the top down, or by number."""
    left = sorted(symbols, key=lambda one: (-float(one.one.at[2]), one.one.fixture.number or 0, one.one.id))
    groups: list[list[Symbol]] = []
    cells: dict[tuple[int, int], list[list[Symbol]]] = {}
    for symbol in left:
        x, y = symbol.middle
        key = (math.floor(x / IN_LINE_MM), math.floor(y / IN_LINE_MM))
        near = [group for dx in (-1, 0, 1) for dy in (-1, 0, 1) for group in cells.get((key[0] + dx, key[1] + dy), [])
                if math.dist(group[0].middle, symbol.middle) < IN_LINE_MM]  # fmt: skip
        if near:
            min(near, key=lambda group: math.dist(group[0].middle, symbol.middle)).append(symbol)
        else:
            groups.append([symbol])
            cells.setdefault(key, []).append(groups[-1])
    return groups


def _on_one_boom(show: Show, a: Hung, b: Hung) -> bool:
    on = {one.fixture.hang.structure if one.fixture.hang else "" for one in (a, b)}
    body = show.items[key].body if len(on) == 1 and (key := next(iter(on))) in show.items else None
    return isinstance(body, Truss) and body.form == "upright"


def over_each_other(show: Show, symbols: Sequence[Symbol]) -> tuple[tuple[str, str], ...]:
    """Pairs of symbols that lie over each other and not in line; what is on one boom does by its nature."""
    if not symbols:
        return ()
    areas = [symbol.area for symbol in symbols]
    first, second = shapely.STRtree(areas).query(areas, predicate="intersects")
    found = []
    for i, k in zip(first.tolist(), second.tolist(), strict=True):
        apart = math.dist(symbols[i].middle, symbols[k].middle) >= IN_LINE_MM
        if i < k and apart and not _on_one_boom(show, symbols[i].one, symbols[k].one):
            shared = shapely.area(shapely.intersection(areas[i], areas[k]))
            if shared > OVER * min(shapely.area(areas[i]), shapely.area(areas[k])):
                found.append((symbols[i].one.id, symbols[k].one.id))
    return tuple(sorted(found))
