"""Crowds: people in an area, seated in rows or standing as they come, the same every time for the same numbers.

All in the plan, metres; turns in degrees as figures have them (0 faces upstage, anticlockwise).
"""

from __future__ import annotations

import math
import zlib
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import LineString, Polygon

from zarfwright.core.site.outline import polygon_of
from zarfwright.core.site.things import Crowd
from zarfwright.core.space import Floats

STAGE = (0.0, 3.0)
"""The middle of a stage, where nothing else is told: upstage of the setting line, on the centre line."""
TRIES = 60
"""How many places are tried for each that is wanted, before an area counts as full."""
TURN_DEG = 12.0
PEOPLE_MAX = 20_000
LEAST_SEAT_M, LEAST_APART_M = 0.45, 0.32
"""Seats are no nearer to each other than that, and nor are people who stand shoulder to shoulder."""


@dataclass(frozen=True)
class People:
    """The people of a crowd: places (n, 3), turns in degrees (n,), heights (n,), which pose each has, whether the
    area took as many as were asked for, and the row of each (n,), the front one 1; 0 for who stands at large."""

    places: Floats
    turns_deg: Floats
    heights_m: Floats
    poses: tuple[str, ...]
    asked: int
    rows: NDArray[np.int64]

    @property
    def count(self) -> int:
        return len(self.places)


def free_area(crowd: Crowd) -> Polygon:
    """Where the middle of a body may be: the area less its aisles, a body's radius inside all edges."""
    area = polygon_of(crowd.corners)
    for aisle in crowd.aisles:
        (x0, y0), (x1, y1), width = aisle[:2], aisle[2:4], aisle[4]
        area = area.difference(LineString([(x0, y0), (x1, y1)]).buffer(width / 2, cap_style="flat"))
    for corners in crowd.clear:
        area = area.difference(polygon_of(corners))
    return area.buffer(-crowd.body_radius_m)


def target_of(crowd: Crowd) -> tuple[float, float]:
    """What they look at: as told, else the middle of the stage."""
    return crowd.target if crowd.target is not None else STAGE


def _towards(crowd: Crowd, places: Floats) -> Floats:
    x, y = target_of(crowd)
    return np.asarray(np.degrees(np.arctan2(-(x - places[:, 0]), y - places[:, 1])))


def wanted(crowd: Crowd) -> int:
    """How many are asked for: the count, else by the density."""
    if crowd.count is not None:
        return min(crowd.count, PEOPLE_MAX)
    free = free_area(crowd).buffer(crowd.body_radius_m).area if crowd.clear else polygon_of(crowd.corners).area
    return min(int(free * crowd.per_m2), PEOPLE_MAX)


def _standing(crowd: Crowd, dice: np.random.Generator) -> Floats:
    """Poisson disc by darts: nobody nearer to another than two body radii."""
    area, count = free_area(crowd), wanted(crowd)
    if area.is_empty or count == 0:
        return np.zeros((0, 2))
    apart = 2 * crowd.body_radius_m
    low_x, low_y, high_x, high_y = area.bounds
    shapely.prepare(area)
    cells: dict[tuple[int, int], list[tuple[float, float]]] = {}
    found: list[tuple[float, float]] = []
    left = TRIES * count
    while len(found) < count and left > 0:
        batch = min(left, 4 * count + 64)
        left -= batch
        darts = dice.random((batch, 2)) * [high_x - low_x, high_y - low_y] + [low_x, low_y]
        inside = shapely.contains_xy(area, darts[:, 0], darts[:, 1])
        for x, y in darts[inside].tolist():
            cx, cy = int(x // apart), int(y // apart)
            near = (other for dx in (-1, 0, 1) for dy in (-1, 0, 1) for other in cells.get((cx + dx, cy + dy), ()))
            if any((x - ox) ** 2 + (y - oy) ** 2 < apart * apart for ox, oy in near):
                continue
            cells.setdefault((cx, cy), []).append((x, y))
            found.append((x, y))
            if len(found) == count:
                break
    return np.array(found).reshape(-1, 2)


def _rows(crowd: Crowd) -> tuple[Floats, Floats]:
    """Seats in straight rows that face the target: places (n, 2) and the number of the row of each, the front one 0."""
    area = free_area(crowd)
    if area.is_empty:
        return np.zeros((0, 2)), np.zeros(0)
    middle = np.array(polygon_of(crowd.corners).centroid.coords[0])
    ahead = np.array(target_of(crowd)) - middle
    ahead = ahead / (np.linalg.norm(ahead) or 1.0)
    across = np.array([ahead[1], -ahead[0]])
    corners = shapely.get_coordinates(area) - middle
    far, wide = corners @ ahead, corners @ across
    count = int((far.max() - far.min()) / crowd.row_m + 1e-6) + 1
    places, rows = [], []
    for row in range(count):
        back = far.max() - row * crowd.row_m
        seats = int((wide.max() - wide.min()) / crowd.pitch_m + 1e-6) + 1
        shift = crowd.pitch_m / 2 if crowd.stagger and row % 2 else 0.0
        # The rows are about the middle, so that an aisle there leaves both sides alike.
        spread = (np.arange(-seats, seats + 1) + 0.5) * crowd.pitch_m + shift
        places.append(middle + back * ahead + spread[:, None] * across)
        rows.append(np.full(len(spread), row, dtype=float))
    every, numbers = np.concatenate(places), np.concatenate(rows)
    near = area.buffer(1e-6)
    inside = shapely.contains_xy(near, every[:, 0], every[:, 1])
    return every[inside], numbers[inside]


def people(crowd: Crowd) -> People:
    """Who is there. The same crowd gives the same people, everywhere. Raises JobError where its outline is none."""
    dice = np.random.default_rng(crowd.seed)
    asked = wanted(crowd)
    if crowd.seating == "rows":
        plan, rows = _rows(crowd)
        if crowd.count is not None or crowd.per_m2 > 0:
            limit = crowd.count if crowd.count is not None else len(plan)
            if limit < len(plan):
                # The front fills first, but not to the last seat: empty ones are where dice put them.
                order = np.argsort(rows + dice.random(len(rows)) * 1.8, kind="stable")[:limit]
                order.sort()
                plan, rows = plan[order], rows[order]
        asked = crowd.count if crowd.count is not None else len(plan)
        rise = rows * crowd.rise_m
        # Counted from the first row that has a seat: where an area narrows, the foremost have none.
        row_of = np.unique(rows, return_inverse=True)[1].astype(np.int64) + 1
    else:
        plan = _standing(crowd, dice)
        ahead = np.array(target_of(crowd)) - np.array(polygon_of(crowd.corners).centroid.coords[0])
        ahead = ahead / (np.linalg.norm(ahead) or 1.0)
        rise = np.zeros(len(plan))
        row_of = np.zeros(len(plan), dtype=np.int64)
    n = len(plan)
    turns = _towards(crowd, plan) + dice.uniform(-TURN_DEG, TURN_DEG, n)
    heights = np.clip(dice.normal(crowd.height_m, crowd.height_spread_m, n), 1.0, 2.2)
    names = sorted(crowd.mix) or ["sitting" if crowd.seating == "rows" else "standing"]
    weights = np.array([max(crowd.mix.get(name, 1.0), 0.0) for name in names])
    weights = weights / weights.sum() if weights.sum() > 0 else np.full(len(names), 1 / len(names))
    poses = dice.choice(len(names), n, p=weights)
    places = np.column_stack([plan, crowd.z_m + rise]) if n else np.zeros((0, 3))
    return People(places, turns, heights, tuple(names[k] for k in poses), asked, row_of)


def closer(crowd: Crowd) -> Crowd | None:
    """The same crowd as far apart as lets in all that are asked for, in steps of a centimetre; None where there is no
    room for them even shoulder to shoulder."""
    least = LEAST_SEAT_M if crowd.seating == "rows" else LEAST_APART_M
    low, high = math.floor(least * 100 + 0.5), math.floor(apart_m(crowd) * 100 - 1e-6)
    found = None
    # Fewer fit the further they are apart: halved until the widest is found.
    while low <= high:
        apart = (low + high) // 2
        tried = _apart(crowd, apart / 100)
        if people(tried).count >= people(tried).asked:
            found, low = tried, apart + 1
        else:
            high = apart - 1
    return found


def apart_m(crowd: Crowd) -> float:
    """How far two who stand or sit beside each other are apart at least."""
    return crowd.pitch_m if crowd.seating == "rows" else 2 * crowd.body_radius_m


def _apart(crowd: Crowd, apart: float) -> Crowd:
    if crowd.seating == "rows":
        return replace(crowd, pitch_m=apart)
    # Whoever stands closer takes up less room at the edges, too.
    return replace(crowd, body_radius_m=apart / 2)


def fingerprint(crowd: Crowd) -> str:
    """Stands for all that decides who is there."""
    plain = replace(crowd, name="", left_out=(), left_for="")
    return f"{zlib.crc32(repr(plain).encode()):08x}"


def kept_places(crowd: Crowd, count: int) -> NDArray[np.int64]:
    """The numbers of those who are shown: all, but for those left out while nothing else has changed."""
    every = np.arange(count)
    if not crowd.left_out or crowd.left_for != fingerprint(crowd):
        return every
    return np.setdiff1d(every, np.array(crowd.left_out, dtype=np.int64))
