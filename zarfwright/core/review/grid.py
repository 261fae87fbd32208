"""The points of a measured area, and which way the face at each of them looks."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zarfwright.core.review.area import Area
from zarfwright.core.space import Floats, unit


@dataclass(frozen=True, eq=False)
class Grid:
    """nx x ny points at the centres of equal cells, row after row from downstage up, each from stage right to stage
    left (before the area is turned)."""

    points: Floats
    """(ny * nx, 3), metres, show."""
    normals: Floats
    """(ny * nx, 3)."""
    shape: tuple[int, int]
    """nx, ny."""


def grid_of(area: Area) -> Grid:
    """The points of an area."""
    nx, ny = area.points
    x = (np.arange(nx) + 0.5) / nx * area.width_m - area.width_m / 2
    y = (np.arange(ny) + 0.5) / ny * area.depth_m - area.depth_m / 2
    points = turned(area, np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2))
    if area.faces == "up":
        return Grid(points, np.tile([0.0, 0.0, 1.0], (len(points), 1)), area.points)
    return Grid(points, upright_towards(points, np.asarray(area.towards)), area.points)


def turned(area: Area, flat: Floats) -> Floats:
    """Places (m, 2) from the middle of an area, in the show's frame (m, 3)."""
    turn = np.radians(area.turn_deg)
    c, s = float(np.cos(turn)), float(np.sin(turn))
    x, y, z = area.position
    across, along = flat[:, 0], flat[:, 1]
    return np.stack([x + c * across - s * along, y + s * across + c * along, np.full(len(flat), z)], axis=-1)


def upright_towards(points: Floats, place: Floats) -> Floats:
    """Unit normals (m, 3) of upright faces at points (m, 3) that look towards a place, as people do; where that is
    straight above or below: up."""
    way = np.asarray(place, dtype=float) - points
    way[:, 2] = 0.0
    level = np.linalg.norm(way, axis=1)
    way[level < 1e-9] = [0.0, 0.0, 1.0]
    return unit(way)
