"""Arranging n things (numbers.md, Arrange): guides, spacing, ends, order, facing. Arrays in metres, show frame."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from zarfwright.core.errors import JobError
from zarfwright.core.rig.rails import along_of
from zarfwright.core.site.structures import Rail
from zarfwright.core.space import Floats, unit

Ends = Literal["on", "half a step in", "margin"]
Spacing = Literal["as it is", "given", "fill"]
From = Literal["start", "middle", "end"]
Facing = Literal["keep", "out", "in", "along", "fan", "point"]


def fill_length(count: int, length_m: float, ends: Ends = "half a step in", margin_m: float = 0.0) -> Floats:
    """Distances from the start, shape (count,), of things that fill a length. One thing lands in the middle.

    Raises JobError if there is nothing to spread or the margins leave no room.
    """
    if count < 1:
        raise JobError("There is nothing to arrange: type a count of at least 1.", "count")
    if count == 1:
        return np.array([length_m / 2])
    i = np.arange(count)
    if ends == "half a step in":
        return (i + 0.5) / count * length_m
    margin = margin_m if ends == "margin" else 0.0
    if margin < 0 or 2 * margin > length_m:
        raise JobError(f"Margins of {margin:.2f} m leave no room on {length_m:.2f} m: type less.", "margin")
    return margin + i / (count - 1) * (length_m - 2 * margin)


def step_length(count: int, length_m: float, step_m: float, start: From = "start") -> Floats:
    """Distances from the start, shape (count,), of things a given step apart, counted from an end or the middle.

    Raises JobError if they do not fit.
    """
    if count < 1:
        raise JobError("There is nothing to arrange: type a count of at least 1.", "count")
    i = np.arange(count)
    whole = (count - 1) * step_m
    first = {"start": 0.0, "middle": (length_m - whole) / 2, "end": length_m - whole}[start]
    if whole > length_m + 1e-9:
        raise JobError(
            f"{count} things {step_m:.2f} m apart need {whole:.2f} m of {length_m:.2f} m: type a smaller step.", "step"
        )
    return np.asarray(first + i * step_m)


@dataclass(frozen=True)
class Line:
    """A guide from one place to another."""

    start: Floats
    end: Floats
    closed = False

    @property
    def length_m(self) -> float:
        return float(np.linalg.norm(self.end - self.start))

    def at(self, distances: Floats) -> Floats:
        """Places (n, 3) at distances (n,)."""
        return np.asarray(self.start + distances[:, None] * unit(self.end - self.start))

    def along(self, distances: Floats) -> Floats:
        """Unit vectors (n, 3) along it."""
        return np.tile(unit(self.end - self.start), (len(distances), 1))

    def out(self, distances: Floats) -> Floats:
        """Unit vectors (n, 3) square to it in plan: to its right, from a line towards stage left downstage."""
        way = self.along(distances)
        return unit(np.stack([way[:, 1], -way[:, 0], np.zeros(len(way))], axis=1))

    def feet(self, places: Floats) -> Floats:
        """Distances (n,) of the places (n, 3) nearest to it, in plan."""
        way = unit((self.end - self.start) * [1.0, 1.0, 0.0])
        level = float(np.linalg.norm((self.end - self.start)[:2]))
        if level < 1e-9:
            return np.asarray(np.clip(places[:, 2] - self.start[2], 0.0, self.length_m))
        share = np.clip((places - self.start) @ way / level, 0.0, 1.0)
        return np.asarray(share * self.length_m)


@dataclass(frozen=True)
class Ring:
    """A level guide about a centre: from a start angle on (0 towards stage left, 90 upstage), anticlockwise, its radius
    going from the one to the other over its span."""

    centre: Floats
    radius_m: float
    end_radius_m: float
    start_deg: float
    span_deg: float

    @property
    def closed(self) -> bool:
        return abs(abs(self.span_deg) - 360.0) < 1e-9

    @property
    def length_m(self) -> float:
        """Along its mean radius."""
        return abs(math.radians(self.span_deg)) * (self.radius_m + self.end_radius_m) / 2

    def _angles(self, distances: Floats) -> Floats:
        share = distances / max(self.length_m, 1e-9)
        return np.asarray(np.radians(self.start_deg + share * self.span_deg))

    def at(self, distances: Floats) -> Floats:
        share = distances / max(self.length_m, 1e-9)
        radius = self.radius_m + share * (self.end_radius_m - self.radius_m)
        return np.asarray(self.centre + radius[:, None] * self.out(distances))

    def out(self, distances: Floats) -> Floats:
        angle = self._angles(distances)
        return np.stack([np.cos(angle), np.sin(angle), np.zeros_like(angle)], axis=1)

    def along(self, distances: Floats) -> Floats:
        angle, sense = self._angles(distances), math.copysign(1.0, self.span_deg)
        return np.stack([-np.sin(angle) * sense, np.cos(angle) * sense, np.zeros_like(angle)], axis=1)

    def feet(self, places: Floats) -> Floats:
        off = places - self.centre
        turn = (
            (np.degrees(np.arctan2(off[:, 1], off[:, 0])) - self.start_deg) * math.copysign(1.0, self.span_deg) % 360.0
        )
        span = abs(self.span_deg)
        # What lies outside of the span is nearest to one of its ends.
        turn = np.where(turn <= span, turn, np.where(turn - span < 360.0 - turn, span, 0.0))
        return np.asarray(turn / span * self.length_m)


@dataclass(frozen=True)
class OnRail:
    """A rail of a structure as a guide, or a part of it."""

    rail: Rail
    start_m: float
    end_m: float

    @property
    def closed(self) -> bool:
        return self.rail.closed and abs(self.end_m - self.start_m - self.rail.length_m) < 1e-6

    @property
    def length_m(self) -> float:
        return self.end_m - self.start_m

    def at(self, distances: Floats) -> Floats:
        return np.array([self.rail.at(self.start_m + d) for d in distances.tolist()])

    def along(self, distances: Floats) -> Floats:
        return np.array([self.rail.direction_at(self.start_m + d) for d in distances.tolist()])

    def out(self, distances: Floats) -> Floats:
        way = self.along(distances)
        return unit(np.stack([way[:, 1], -way[:, 0], np.zeros(len(way))], axis=1))

    def feet(self, places: Floats) -> Floats:
        found = np.array([along_of(self.rail, place) for place in places])
        return np.clip(found - self.start_m, 0.0, self.length_m)


Guide = Line | Ring | OnRail


def distances(
    guide: Guide,
    places: Floats,
    spacing: Spacing,
    ends: Ends = "on",
    step_m: float = 1.0,
    start: From = "start",
    margin_m: float = 0.0,
) -> Floats:
    """How far along a guide n things come to be, (n,), in their settled order. `places` (n, 3) are where they are.

    Raises JobError where they do not fit.
    """
    count, length = len(places), guide.length_m
    if spacing == "as it is":
        return guide.feet(places)
    if spacing == "given":
        if guide.closed:
            if count * step_m > length + 1e-9:
                raise JobError(
                    f"{count} things {step_m:.2f} m apart do not fit on {length:.2f} m: type a smaller step.", "step"
                )
            return np.asarray(np.arange(count) * step_m)
        return step_length(count, length, step_m, start)
    if guide.closed:
        # On a whole turn the last would meet the first: n steps, not n - 1.
        return np.asarray((np.arange(count) + (0.5 if ends == "half a step in" else 0.0)) / count * length)
    return fill_length(count, length, ends, margin_m)


def grid_places(count: int, columns: int, across: Floats, back: Floats, middle: Floats) -> Floats:
    """Places (count, 3) row by row about a middle: `across` from column to column, `back` from row to row (3,)."""
    if columns < 1:
        raise JobError("A grid needs one column at least.", "columns")
    rows = -(-count // columns)
    i = np.arange(count)
    column, row = i % columns - (columns - 1) / 2, i // columns - (rows - 1) / 2
    return np.asarray(middle + column[:, None] * across + row[:, None] * back)


def settled(keys: Sequence[tuple[float, ...]], reverse: bool) -> list[int]:
    """The order of things by two keys each (the second decides between equals), the other way round where asked."""
    order = sorted(range(len(keys)), key=lambda i: keys[i])
    return order[::-1] if reverse else order


def steps_between(places: Floats, closed: bool) -> Floats:
    """Distances between neighbours, (n - 1,), of a closed ring (n,)."""
    following = np.roll(places, -1, axis=0) if closed else places[1:]
    before = places if closed else places[:-1]
    return np.asarray(np.linalg.norm(following - before, axis=1))


def fan(count: int, first_deg: float, last_deg: float) -> Floats:
    """Angles (count,) from the first to the last; one thing takes the middle."""
    if count == 1:
        return np.array([(first_deg + last_deg) / 2])
    return np.linspace(first_deg, last_deg, count)
