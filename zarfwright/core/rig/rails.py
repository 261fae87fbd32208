"""All rails of a show as points, and which of them is nearest to a place."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from zarfwright.core.show import Item, Show
from zarfwright.core.site.structures import Rail, rail_label, truss_rails
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats, vec

CHORD_DEG = 5.0


@dataclass(frozen=True)
class Nearest:
    """The place of a rail that is nearest to a point: how far along it is, and how far away."""

    structure: str
    rail: str
    along_m: float
    away_m: float


def along_of(rail: Rail, point: Floats) -> float:
    """How far along a rail the place nearest to a point (3,) is."""
    if rail.bend is not None:
        bend = rail.bend
        off = np.asarray(point) - np.asarray(bend.centre)
        angle = math.atan2(float(off @ np.asarray(bend.y)), float(off @ np.asarray(bend.x))) - bend.start_rad
        turn = angle % (2 * math.pi)
        if turn > bend.span_rad:
            # Past its end: the nearer of its two ends.
            turn = bend.span_rad if turn - bend.span_rad < 2 * math.pi - turn else 0.0
        return turn * bend.radius_m
    length = rail.length_m
    if length == 0:
        return 0.0
    far = sum((float(p) - a) * (b - a) for p, a, b in zip(point, rail.start, rail.end, strict=True)) / length
    return min(max(far, 0.0), length)


def nearest_rail(structures: Iterable[Item], point: Floats) -> Nearest | None:
    """The nearest rail to a place; None where there is none."""
    best: Nearest | None = None
    for item in structures:
        if not isinstance(item.body, Truss):
            continue
        for name, rail in truss_rails(item.body).items():
            along = along_of(rail, point)
            away = float(np.linalg.norm(rail.at(along) - np.asarray(point)))
            # Of rails in one place, the first one named: the lower ones come first.
            if best is None or away < best.away_m - 1e-9:
                best = Nearest(item.id, name, along, away)
    return best


@dataclass(frozen=True)
class RailLine:
    """A rail for the stage: its name, what a crew calls it, its length, whether it closes, and its points (metres)."""

    name: str
    label: str
    length_m: float
    closed: bool
    points: tuple[tuple[float, float, float], ...]


def rail_lines(item: Item) -> list[RailLine]:
    """The rails of a structure as points: two of a straight one, one every few degrees of an arc."""
    body = item.body
    assert isinstance(body, Truss)
    made = []
    for name, rail in truss_rails(body).items():
        count = 1 if rail.bend is None else max(8, math.ceil(math.degrees(rail.bend.span_rad) / CHORD_DEG))
        places = tuple(vec(rail.at(rail.length_m * k / count)) for k in range(count + 1))
        made.append(RailLine(name, rail_label(body, name), rail.length_m, rail.closed, places))
    return made


def all_rails(show: Show) -> dict[str, list[RailLine]]:
    """The rails of every structure that is shown, by its id."""
    return {item.id: rail_lines(item) for item in show.of_kind("truss") if not show.hidden(item)}
