"""What structures are lifted by: points, hoists, chains and bridles."""

from __future__ import annotations

import numpy as np

from zarfwright.core.mesh import Mesh, box, join, moved, tubes
from zarfwright.core.site.structures import truss_rails
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats, unit

OVER_M = 2.0
SLING_M = 0.6
CHAIN_RADIUS_M = 0.012
HOIST_M = (0.26, 0.2, 0.42)


def lifting_points(truss: Truss, count: int) -> Floats:
    """Where a structure is lifted, (count, 3): in the middle between its highest rails, each with an equal share of its
    length; of a ring from its start on."""
    rails = [rail for name, rail in truss_rails(truss).items() if not name.startswith("arm")]
    heights = [float(rail.at(rail.length_m / 2)[2]) for rail in rails]
    top = [rail for rail, height in zip(rails, heights, strict=True) if height > max(heights) - 1e-6]
    shares = np.arange(count) / count if rails[0].closed else (np.arange(count) + 0.5) / count
    return np.array([np.mean([rail.at(share * rail.length_m) for rail in top], axis=0) for share in shares])


def steel_height_m(truss: Truss) -> float:
    """The height that its points go up to."""
    if truss.steel_m > 0:
        return truss.steel_m
    return float(lifting_points(truss, max(truss.hoists, 1))[:, 2].max()) + OVER_M


def rigging_mesh(truss: Truss) -> Mesh | None:
    """Hoists and their chains, and the legs of bridles, in the show's frame; None where there are no points, or no room
    for them under the steel."""
    parts = [mesh for _, mesh in points_of(truss)]
    return join(parts) if parts else None


def points_of(truss: Truss) -> list[tuple[Floats, Mesh]]:
    """Where a structure is lifted (3,), and what lifts it there, both in the show's frame."""
    if truss.hoists < 1 or truss.form == "upright":
        return []
    steel, found = steel_height_m(truss), []
    rail = next(iter(truss_rails(truss).values()))
    for i, point in enumerate(lifting_points(truss, truss.hoists)):
        room = steel - float(point[2])
        if room < 0.2:
            continue
        share = (i if rail.closed else i + 0.5) / truss.hoists
        along = rail.direction_at(share * rail.length_m) * [1.0, 1.0, 0.0]
        along = unit(along) if np.any(along) else np.array([1.0, 0.0, 0.0])
        half = truss.bridle_m / 2
        # Legs at 45 degrees where there is room: flatter ones would pull sideways.
        apex = np.array([point[0], point[1], steel - min(half, room * 0.5)])
        ends = [apex + along * side + [0, 0, steel - apex[2]] for side in ((-half, half) if half > 0.01 else (0.0,))]
        starts = [point, *(apex for _ in ends)]
        parts = [tubes(starts, [apex, *ends], CHAIN_RADIUS_M, 5)]
        if room > SLING_M + HOIST_M[2]:
            parts.append(moved(box(HOIST_M), point + [0, 0, SLING_M]))
        found.append((point, join(parts)))
    return found
