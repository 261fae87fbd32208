"""Clouds round what is said otherwise on a sheet than when the papers were issued."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from zarfwright.core.sheet.frames import Frame
from zarfwright.core.sheet.marks import Box, Line, Mark, Point, Words
from zarfwright.core.sheet.pens import UNIT_MM
from zarfwright.core.sheet.record import Changed
from zarfwright.core.sheet.site import Onto

BUMP_MM = 4.0
AIR_MM = 1.8
NEAR_MM = 4.0
"""Things that are nearer to one another share a cloud."""
SPOT_MM = 5.0


def cloud(box: Box) -> tuple[Point, ...]:
    """A closed line of bumps that go outwards along the edges of a box."""
    corners = [(box.x0, box.y0), (box.x1, box.y0), (box.x1, box.y1), (box.x0, box.y1)]
    points: list[Point] = []
    for (ax, ay), (bx, by) in zip(corners, [*corners[1:], corners[0]], strict=True):
        far = math.dist((ax, ay), (bx, by))
        count = max(1, round(far / BUMP_MM))
        way = np.array([bx - ax, by - ay]) / far
        out = np.array([way[1], -way[0]])
        radius = far / count / 2
        for k in range(count):
            middle = np.array([ax, ay]) + way * radius * (2 * k + 1)
            for step in range(6):
                turn = math.pi * step / 6
                place = middle - way * math.cos(turn) * radius + out * math.sin(turn) * radius * 0.7
                points.append((float(place[0]), float(place[1])))
    return tuple(points)


def together(boxes: Sequence[Box]) -> list[Box]:
    """Boxes with those that are near one another as one."""
    left = sorted(boxes, key=lambda box: (box.x0, box.y0))
    joined = True
    while joined:
        joined = False
        kept: list[Box] = []
        for box in left:
            near = next((k for k, other in enumerate(kept) if box.meets(other, NEAR_MM)), None)
            if near is None:
                kept.append(box)
                continue
            kept[near] = _about([box, kept[near]])
            joined = True
        left = kept
    return left


def _about(boxes: Sequence[Box]) -> Box:
    """The box about some."""
    return Box(min(box.x0 for box in boxes), min(box.y0 for box in boxes), max(box.x1 for box in boxes),
               max(box.y1 for box in boxes))  # fmt: skip


def cloud_marks(changes: Sequence[Changed], shown: dict[str, list[Box]], frame: Frame, onto: Onto, since: str,
                part: str, everything: bool) -> list[Mark]:  # fmt: skip
    """Clouds in a view. `shown`: where the symbols and labels of things are; `everything`: whether the view is of the
    whole show, so that what is gone from it was in it."""
    boxes = []
    for one in changes:
        if one.id in shown:
            boxes.append(_about(shown[one.id]))
        elif one.sort == "gone" and everything:
            x, y = onto.of(frame.of(np.array(one.place))).tolist()
            if shapely.contains_xy(onto.clip, x, y):
                boxes.append(Box(x, y, x, y).grown(SPOT_MM / 2))
    marks: list[Mark] = []
    for box in together([box.grown(AIR_MM) for box in boxes]):
        marks.append(Line("cloud", cloud(box), True, part=part))
        corner = (box.x1, box.y1 + BUMP_MM * 0.7)
        marks.append(Words("cloud", f"since {since}", corner, UNIT_MM, "end", bold=True, part=part))
    return marks
