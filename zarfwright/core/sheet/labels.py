"""Where labels find room on paper: near their fixtures, over nothing else, and always in the same places.

Each label has 84 places about its symbol, nearest first. What lies on symbols, or beyond the room, is out for ever;
then labels are put down one after another, those with the fewest free places first, and where one finds none, up to two
others make room. Labels that cannot come near one another are worked out apart, so that moving one fixture moves
nothing that is far from it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from zarfwright.core.sheet.marks import Box, Point
from zarfwright.core.space import Floats

WAYS = 12
GAPS_MM = (0.5, 1.6, 3.2, 5.2, 7.8, 11.0, 15.0)
AIR_MM = 0.35
"""What is left free about labels."""
LEADER_FROM_MM = 1.2
"""A label that is further from its symbol has a leader."""
TRIED = 16
"""In how many places of a label that found none others are asked to make room."""
EDGE_WEIGHT = 0.6
"""A label over a line of the drawing is as bad as one so many millimetres further away."""


@dataclass(frozen=True)
class Wanted:
    """A label to be put: its size, the middle of its symbol and how far that reaches, and the way that it likes best
    (radians, 0 to the right)."""

    id: str
    width: float
    height: float
    at: Point
    reach: float
    liked: float = -math.pi / 2


@dataclass(frozen=True)
class Found:
    """Where a label lies, and its leader where it has one."""

    box: Box
    leader: tuple[Point, Point] | None


@dataclass(eq=False)
class _Places:
    """The places of one label, best first: boxes (n, 4) and leaders (n, 4), where they are not NaN."""

    boxes: Floats
    leaders: Floats


def _places(one: Wanted) -> tuple[Floats, Floats]:
    """All places of a label (84, 4), x0 y0 x1 y1, and how far each is from where it is liked best."""
    turn = one.liked + np.arange(WAYS) * (2 * math.pi / WAYS)
    gap = np.asarray(GAPS_MM)
    dx, dy = np.cos(turn), np.sin(turn)
    # So far from the symbol that the label's own half does not reach back to it.
    half = np.abs(dx) * one.width / 2 + np.abs(dy) * one.height / 2
    far = one.reach + half[:, None] + gap[None]
    x, y = one.at[0] + dx[:, None] * far, one.at[1] + dy[:, None] * far
    boxes = np.stack([x - one.width / 2, y - one.height / 2, x + one.width / 2, y + one.height / 2], axis=-1)
    away = np.minimum(np.arange(WAYS), WAYS - np.arange(WAYS))
    cost = gap[None] + 0.55 * away[:, None]
    return boxes.reshape(-1, 4), cost.reshape(-1)


def _leaders(one: Wanted, boxes: Floats) -> Floats:
    """From the edge of the symbol to the edge of each box (n, 4); NaN where the label is at the symbol."""
    middle = (boxes[:, :2] + boxes[:, 2:]) / 2
    near = np.clip(np.asarray(one.at), boxes[:, :2], boxes[:, 2:])
    way = near - np.asarray(one.at)
    far = np.linalg.norm(way, axis=1)
    start = np.asarray(one.at) + way * (np.minimum(one.reach * 0.8, far) / np.maximum(far, 1e-9))[:, None]
    lines = np.concatenate([start, near], axis=1)
    lines[(far - one.reach < LEADER_FROM_MM) | ~np.isfinite(middle[:, 0])] = np.nan
    return lines


def _free(wanted: Sequence[Wanted], obstacles: Sequence[Box], soft: Floats, room: Box) -> list[_Places]:
    """The places of each label that lie on no symbol and inside the room, best first; over lines is worse."""
    every = [_places(one) for one in wanted]
    boxes = np.concatenate([boxes for boxes, _ in every]) if every else np.zeros((0, 4))
    cost = np.concatenate([cost for _, cost in every]) if every else np.zeros(0)
    inside = (boxes[:, 0] >= room.x0) & (boxes[:, 1] >= room.y0) & (boxes[:, 2] <= room.x1) & (boxes[:, 3] <= room.y1)
    grown = boxes + [-AIR_MM, -AIR_MM, AIR_MM, AIR_MM]
    if obstacles:
        # Boxes that lie along the sheet meet where their bounds do.
        tree = shapely.STRtree([shapely.box(b.x0, b.y0, b.x1, b.y1) for b in obstacles])
        inner = np.flatnonzero(inside)
        inside[inner[np.unique(tree.query(shapely.box(*grown[inner].T))[0])]] = False
    if len(soft):
        inner = np.flatnonzero(inside)
        crossed = shapely.STRtree(shapely.linestrings(soft)).query(
            shapely.box(*grown[inner].T), predicate="intersects"
        )[0]
        cost[inner] += EDGE_WEIGHT * np.minimum(np.bincount(crossed, minlength=len(inner)), 4)
    made, start = [], 0
    for one, (own, _) in zip(wanted, every, strict=True):
        stop = start + len(own)
        open_ = np.flatnonzero(inside[start:stop])
        best = open_[np.argsort(cost[start:stop][open_], kind="stable")]
        made.append(_Places(own[best], _leaders(one, own[best])))
        start = stop
    return made


def _neighbours(wanted: Sequence[Wanted]) -> tuple[list[NDArray[np.int64]], list[int]]:
    """Who may come near each label, and the group of each: those that may come near one another, through others too."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    if not wanted:
        return [], []
    reach = [one.reach + GAPS_MM[-1] + max(one.width, one.height) + AIR_MM for one in wanted]
    edges = [(one.at[0] - r, one.at[1] - r, one.at[0] + r, one.at[1] + r) for one, r in zip(wanted, reach, strict=True)]
    boxes = shapely.box(*np.array(edges).T)
    a, b = shapely.STRtree(boxes).query(boxes, predicate="intersects")
    graph = coo_array((np.ones(len(a)), (a, b)), shape=(len(wanted), len(wanted)))
    whose = connected_components(graph, directed=False)[1]
    order = np.lexsort((b, a))
    a, b = a[order], b[order]
    starts = np.searchsorted(a, np.arange(len(wanted) + 1))
    near = [b[starts[i] : starts[i + 1]] for i in range(len(wanted))]
    return [others[others != i] for i, others in enumerate(near)], whose.tolist()


def _crosses(lines: Floats, boxes: Floats) -> NDArray[np.bool_]:
    """Whether straight lines (n, 4) go through boxes (m, 4): (n, m). Liang and Barsky's clipping (1984). Those that are
    NaN go through none."""
    low, high = np.zeros((len(lines), len(boxes))), np.ones((len(lines), len(boxes)))
    with np.errstate(divide="ignore", invalid="ignore"):
        for k in (0, 1):
            start, way = lines[:, k, None], (lines[:, k + 2] - lines[:, k])[:, None]
            one, other = (boxes[None, :, k] - start) / way, (boxes[None, :, k + 2] - start) / way
            beside = (np.abs(way) < 1e-9) & ((start < boxes[None, :, k]) | (start > boxes[None, :, k + 2]))
            along = np.abs(way) < 1e-9
            low = np.maximum(low, np.where(along, np.where(beside, 2.0, 0.0), np.minimum(one, other)))
            high = np.minimum(high, np.where(along, 1.0, np.maximum(one, other)))
        return np.asarray(low < high - 1e-9)


class _Putting:
    """Labels being put down. Each is held against those only that may come near it."""

    def __init__(self, places: list[_Places], near: list[NDArray[np.int64]]) -> None:
        self.places, self.near = places, near
        self.boxes = np.full((len(places), 4), np.nan)
        self.lines = np.full((len(places), 4), np.nan)
        self.taken = [-1] * len(places)

    def in_way(self, i: int) -> tuple[NDArray[np.bool_], NDArray[np.int64]]:
        """For each place of label `i` (rows), which of its neighbours that are down (columns, and their numbers) lie
        there, or on its leader, or have their leaders through it."""
        near = self.near[i]
        near = near[np.isfinite(self.boxes[near, 0])]
        own, others = self.places[i].boxes, self.boxes[near]
        over = (
            (others[None, :, 0] < own[:, 2, None] + AIR_MM)
            & (own[:, 0, None] < others[None, :, 2] + AIR_MM)
            & (others[None, :, 1] < own[:, 3, None] + AIR_MM)
            & (own[:, 1, None] < others[None, :, 3] + AIR_MM)
        )
        over |= _crosses(self.places[i].leaders, others)
        return over | _crosses(self.lines[near], own).T, near

    def put(self, i: int, k: int) -> None:
        self.taken[i] = k
        self.boxes[i], self.lines[i] = self.places[i].boxes[k], self.places[i].leaders[k]

    def lift(self, i: int) -> None:
        self.taken[i] = -1
        self.boxes[i] = self.lines[i] = np.nan

    def try_put(self, i: int) -> bool:
        """Put a label in the first of its places where nothing lies."""
        over, _ = self.in_way(i)
        free = np.flatnonzero(~over.any(axis=1))
        if not len(free):
            return False
        self.put(i, int(free[0]))
        return True

    def make_room(self, i: int) -> bool:
        """Put a label where one or two others lie that find room elsewhere."""
        over, near = self.in_way(i)
        for k in np.flatnonzero(over.sum(axis=1) <= 2)[:TRIED].tolist():
            others = near[over[k]].tolist()
            before = {j: self.taken[j] for j in others}
            for j in others:
                self.lift(j)
            self.put(i, k)
            if all(self.try_put(j) for j in others):
                return True
            for j in (*others, i):
                self.lift(j)
            for j, at in before.items():
                self.put(j, at)
        return False


def place_labels(
    wanted: Sequence[Wanted], obstacles: Sequence[Box], soft: Floats, room: Box
) -> dict[str, Found | None]:
    """Where each label lies, None where there is no room for it. `obstacles`: what no label may lie on (symbols, labels
    that were put by hand); `soft`: lines (n, 2, 2) that it lies on only where it must. Millimetres."""
    wanted = sorted(wanted, key=lambda one: one.id)
    near, groups = _neighbours(wanted)
    putting = _Putting(_free(wanted, obstacles, soft, room), near)
    # Groups one after another, so that what is far cannot matter; in each those with the fewest free places first.
    order = sorted(range(len(wanted)), key=lambda i: (groups[i], len(putting.places[i].boxes), wanted[i].id))
    for i in [i for i in order if not putting.try_put(i)]:
        putting.make_room(i)
    return {one.id: _found(putting, i) for i, one in enumerate(wanted)}


def _found(putting: _Putting, k: int) -> Found | None:
    if putting.taken[k] < 0:
        return None
    x0, y0, x1, y1 = putting.boxes[k].tolist()
    a, b, c, d = putting.lines[k].tolist()
    return Found(Box(x0, y0, x1, y1), ((a, b), (c, d)) if math.isfinite(a) else None)
