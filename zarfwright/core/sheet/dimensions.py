"""Dimensions on a view: along a structure to its clamps, from the centre line, heights, and between any two places."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from zarfwright.core.sheet.frames import Frame
from zarfwright.core.sheet.marks import Line, Mark, Words
from zarfwright.core.sheet.pens import SMALL_MM
from zarfwright.core.sheet.scope import Hung
from zarfwright.core.sheet.sheet import Dimension, View
from zarfwright.core.sheet.site import Onto
from zarfwright.core.show import Show
from zarfwright.core.site.structures import end_trims_m, rail_names, truss_rails
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats
from zarfwright.core.units import format_length

OFF_MM = 9.0
"""How far from what it measures a dimension line lies by itself."""
APART_MM = SMALL_MM * 1.35
TICK_MM = 1.1
OVERSHOOT_MM = 1.2


def _said(show: Show, metres: float) -> str:
    return format_length(metres, show.settings.system).removesuffix(" m")


def _tick(at: Floats, way: Floats, part: str) -> Line:
    """A short slanting stroke at the end of a dimension line that runs along `way`."""
    slant = (way + np.array([-way[1], way[0]])) * (TICK_MM / 2 / math.sqrt(0.5) / 2)
    return Line("dimension", (_pair(at - slant), _pair(at + slant)), part=part)


def _pair(at: Floats) -> tuple[float, float]:
    return (float(at[0]), float(at[1]))


def _upright(turn_rad: float) -> float:
    """A turn in degrees in which words are read from below or from the right."""
    turn = math.degrees(turn_rad) % 180.0
    return turn - 180.0 if turn > 90.0 + 1e-6 else turn


def _between(a: Floats, b: Floats, off: Floats, text: str, part: str) -> list[Mark]:
    """A dimension between two places on paper, its line moved by `off` from them."""
    far = float(np.linalg.norm(b - a))
    if far < 0.2:
        return []
    way = (b - a) / far
    long = float(np.linalg.norm(off)) or 1.0
    aside = off / long
    one, other = a + off, b + off
    turn = math.atan2(way[1], way[0])
    middle = (one + other) / 2 + np.array([-math.sin(math.radians(_upright(turn))),
                                          math.cos(math.radians(_upright(turn)))]) * 0.7  # fmt: skip
    return [
        *(Line("dimension", (_pair(p + aside * 0.8), _pair(q + aside * OVERSHOOT_MM)), part=part)
          for p, q in ((a, one), (b, other))),
        Line("dimension", (_pair(one), _pair(other)), part=part),
        _tick(one, way, part), _tick(other, way, part),
        Words("dimension", text, _pair(middle), SMALL_MM, "middle", _upright(turn), part=part),
    ]  # fmt: skip


def spread(places: Sequence[float], apart: float) -> list[float]:
    """Places in rising order moved as little as is needed that no two are nearer than `apart`: those that are too near
    one another are spread about their middle."""
    groups: list[list[float]] = []
    for place in places:
        groups.append([place])
        while len(groups) > 1 and _first(groups[-1], apart) - _last(groups[-2], apart) < apart - 1e-9:
            last = groups.pop()
            groups[-1] = groups[-1] + last
    return [_first(group, apart) + k * apart for group in groups for k in range(len(group))]


def _first(group: Sequence[float], apart: float) -> float:
    return sum(group) / len(group) - apart * (len(group) - 1) / 2


def _last(group: Sequence[float], apart: float) -> float:
    return _first(group, apart) + apart * (len(group) - 1)


def _along(
    show: Show, one: Dimension, truss: Truss, frame: Frame, onto: Onto, hung: Sequence[Hung], part: str
) -> list[Mark]:
    """Running distances along a structure from its start to each clamp on it: true ones, along its axis."""
    if truss.form == "upright":
        return _heights(show, one, truss, frame, onto, hung, part)
    rail = truss_rails(truss)[rail_names(truss)[0]]
    on = [h.fixture.hang for h in hung if h.fixture.hang is not None and h.fixture.hang.structure == one.structure]
    if rail.bend is not None:
        stops_on = sorted({(hang.rail, round(hang.along_m, 4)) for hang in on if hang.rail in truss_rails(truss)})
        return _round(show, one, truss, frame, onto, stops_on, part)
    along = sorted({round(hang.along_m, 4) for hang in on})
    if not along:
        return []
    a, b = (onto.of(frame.of(rail.at(far))) for far in (0.0, rail.length_m))
    far = float(np.linalg.norm(b - a))
    if far < 1.0:
        return []
    way = (b - a) / far
    aside = np.array([way[1], -way[0]])
    # Below what lies across, to the right of what stands.
    aside = aside if aside[1] < -1e-6 or (abs(aside[1]) <= 1e-6 and aside[0] > 0) else -aside
    off = OFF_MM + one.off_mm
    stops = [0.0, *along]
    at = [stop / rail.length_m * far for stop in stops]
    texts = spread(at, APART_MM)
    marks: list[Mark] = [Line("dimension", (_pair(a + aside * off), _pair(a + way * max(at) + aside * off)), part=part)]
    turn = math.atan2(aside[1], aside[0])
    for stop, place, moved in zip(stops, at, texts, strict=True):
        foot = a + way * place
        knee, end = foot + aside * off, a + way * moved + aside * (off + 2.0)
        marks.append(Line("dimension", (_pair(foot + aside * 1.0), _pair(knee), _pair(end)), part=part))
        marks.append(_tick(knee, way, part))
        marks.append(_words(_said(show, stop), end, turn, part))
    return marks


def _heights(
    show: Show, one: Dimension, truss: Truss, frame: Frame, onto: Onto, hung: Sequence[Hung], part: str
) -> list[Mark]:
    """Of what is upright, the height of each clamp over its foot: on its pipe and on its arms."""
    if frame.flat:
        return []
    foot = np.asarray(truss.position)
    on = [h for h in hung if h.fixture.hang is not None and h.fixture.hang.structure == one.structure]
    stops = sorted({round(h.clamp.position[2] - float(foot[2]), 3) for h in on})
    # Beside the furthest of what hangs on it, to the right.
    right = max([float(onto.of(h.at)[0]) for h in on] or [0.0])
    x = max(float(onto.of(frame.of(foot))[0]), right) + OFF_MM + one.off_mm
    ground = float(onto.of(frame.of(foot))[1])
    at = [ground + stop * onto.mm_per_m for stop in (0.0, *stops)]
    marks: list[Mark] = [Line("dimension", ((x, ground), (x, at[-1])), part=part)]
    for stop, place, moved in zip((0.0, *stops), at, spread(at, APART_MM), strict=True):
        marks.append(_tick(np.array([x, place]), np.array([0.0, 1.0]), part))
        marks.append(Line("dimension", ((x - 2.0, place), (x, place), (x + 2.0, moved)), part=part))
        marks.append(_words(_said(show, stop), np.array([x + 2.0, moved]), 0.0, part))
    return marks


def _words(text: str, end: Floats, turn: float, part: str) -> Words:
    """Words that go on from a place in a direction (radians), to be read from below or from the right."""
    shown = _upright(turn)
    forward = math.cos(turn - math.radians(shown)) > 0
    down = np.array([math.sin(math.radians(shown)), -math.cos(math.radians(shown))]) * (SMALL_MM / 2)
    gap = np.array([math.cos(turn), math.sin(turn)]) * 0.5
    return Words("dimension", text, _pair(end + gap + down), SMALL_MM, "start" if forward else "end", shown, part=part)


def _round(
    show: Show, one: Dimension, truss: Truss, frame: Frame, onto: Onto, stops: Sequence[tuple[str, float]], part: str
) -> list[Mark]:
    """The same on an arc: each distance, along the rail that the clamp is on, outside of its clamp."""
    rails = truss_rails(truss)
    middle = onto.of(frame.of(np.asarray(truss.position)))
    radius = max(rail.bend.radius_m for rail in rails.values() if rail.bend is not None) * onto.mm_per_m
    marks: list[Mark] = []
    for name, stop in stops:
        foot = onto.of(frame.of(rails[name].at(stop)))
        out = foot - middle
        far = float(np.linalg.norm(out))
        if far < 1.0:
            continue
        out = out / far
        end = middle + out * (radius + OFF_MM + one.off_mm)
        marks.append(Line("dimension", (_pair(foot + out), _pair(end)), part=part))
        marks.append(_words(_said(show, stop), end, math.atan2(out[1], out[0]), part))
    return marks


def _ends(truss: Truss) -> tuple[Floats, Floats]:
    rail = truss_rails(truss)[rail_names(truss)[0]]
    if rail.bend is None:
        return rail.at(0.0), rail.at(rail.length_m)
    centre, radius = np.asarray(truss.position), truss.diameter_m / 2
    return centre - [radius, 0.0, 0.0], centre + [radius, 0.0, 0.0]


def _centre(show: Show, one: Dimension, truss: Truss, frame: Frame, onto: Onto, part: str) -> list[Mark]:
    """From the centre line to the ends of a structure; of what is upright, to its middle."""
    if abs(frame.axes[0][0]) < 0.9:
        return []
    places = [np.asarray(truss.position)] if truss.form == "upright" else list(_ends(truss))
    marks: list[Mark] = []
    off = np.array([0.0, OFF_MM + one.off_mm])
    for place in places:
        if abs(float(place[0])) < 0.005:
            continue
        end = onto.of(frame.of(place))
        foot = onto.of(frame.of(place * [0.0, 1.0, 1.0]))
        marks += _between(foot, end, off, _said(show, abs(float(place[0]))), part)
    return marks


def _trim(show: Show, one: Dimension, truss: Truss, frame: Frame, onto: Onto, part: str) -> list[Mark]:
    """The heights of a structure's two ends over the datum, in elevations."""
    if frame.flat:
        return []
    low, high = end_trims_m(truss)
    start, end = _ends(truss)
    pairs = [(start, low), (end, high)] if abs(high - low) > 0.005 else [(start, low)]
    marks: list[Mark] = []
    for place, trim in pairs:
        top = onto.of(frame.of(np.array([place[0], place[1], trim])))
        foot = onto.of(frame.of(np.array([place[0], place[1], 0.0])))
        marks += _between(foot, top, np.array([-(OFF_MM + one.off_mm), 0.0]), _said(show, trim), part)
    return marks


def _free(show: Show, one: Dimension, frame: Frame, onto: Onto, part: str) -> list[Mark]:
    """Between two places, as far as they are apart in the view."""
    if one.start is None or one.end is None:
        return []
    a, b = frame.of(np.asarray(one.start)), frame.of(np.asarray(one.end))
    far = float(np.linalg.norm((b - a)[:2]))
    if far < 1e-6:
        return []
    way = (b - a)[:2] / far
    aside = np.array([way[1], -way[0]]) * (OFF_MM + one.off_mm)
    return _between(onto.of(a), onto.of(b), aside, _said(show, far), part)


def dimension_marks(show: Show, view: View, frame: Frame, onto: Onto, hung: Sequence[Hung]) -> list[Mark]:
    """All dimensions of a view; those of structures that are gone are left out."""
    marks: list[Mark] = []
    for one in view.dimensions:
        part = f"dimension/{view.key}/{one.key}"
        body = show.items[one.structure].body if one.structure in show.items else None
        if one.kind == "free":
            marks += _free(show, one, frame, onto, part)
        elif isinstance(body, Truss):
            if one.kind == "rail":
                marks += _along(show, one, body, frame, onto, hung, part)
            else:
                marks += (_centre if one.kind == "centre" else _trim)(show, one, body, frame, onto, part)
    return marks
