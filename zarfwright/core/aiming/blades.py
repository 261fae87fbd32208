"""Blades laid along an edge of the set: the edge as a straight line in the gate, and the blade that lies nearest to it.

A straight edge seen from the virtual apex is a straight line in the gate's plane. A blade k, in by `depth` from the rim
and askew by `angle`, keeps what is on the near side of n . u = (1 - depth) cos(angle), n at the angle
turn + (k + 1) 90 degrees + angle (optics/gate.py): so both follow from the line's normal and its distance.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from zarfwright.core.mesh import Mesh
from zarfwright.core.optics.gate import BLADE_IN
from zarfwright.core.optics.photometry import Beams, half_field
from zarfwright.core.scene import Solid
from zarfwright.core.space import Floats, rotate

CREASE_DEG = 30.0
NEAR_M = 1.5
"""An edge further than this from where somebody clicked was not meant."""
AHEAD_M = 0.05
WELD_M = 1e-4


@dataclass(frozen=True)
class Edge:
    """A straight edge of the set: both ends in the show's frame, metres."""

    a: tuple[float, float, float]
    b: tuple[float, float, float]


def _creases(mesh: Mesh) -> Floats:
    """The ends (e, 2, 3) of a mesh's edges where its faces meet at more than CREASE_DEG, or end, in its own frame."""
    corners = mesh.vertices.astype(float)[mesh.triangles.reshape(-1, 3)]
    keys = np.round(corners / WELD_M).astype(np.int64)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    found: dict[tuple[tuple[int, ...], tuple[int, ...]], list[int]] = {}
    where: dict[tuple[tuple[int, ...], tuple[int, ...]], Floats] = {}
    for t in range(len(corners)):
        for k in range(3):
            a, b = tuple(keys[t, k].tolist()), tuple(keys[t, (k + 1) % 3].tolist())
            key = (a, b) if a < b else (b, a)
            found.setdefault(key, []).append(t)
            where[key] = corners[t][[k, (k + 1) % 3]]
    flat = math.cos(math.radians(CREASE_DEG))
    sharp = [
        where[key]
        for key, faces in found.items()
        if len(faces) == 1 or float((normals[faces] @ normals[faces].T).min()) < flat
    ]
    return np.array(sharp).reshape(-1, 2, 3)


def edge_near(solids: list[Solid], point: Floats) -> Edge | None:
    """The edge of some solids that is nearest to a place (3,) of the show; None where none is near."""
    best: tuple[float, Floats] | None = None
    for solid in solids:
        ends = _creases(solid.mesh)
        if not len(ends):
            continue
        placed = rotate(solid.placement.rotation, ends * solid.scale) + np.asarray(solid.placement.position)
        along = placed[:, 1] - placed[:, 0]
        length2 = np.maximum(np.sum(along * along, axis=1), 1e-12)
        share = np.clip(np.sum((point - placed[:, 0]) * along, axis=1) / length2, 0.0, 1.0)
        away = np.linalg.norm(placed[:, 0] + share[:, None] * along - point, axis=1)
        # Of edges that meet in a corner the longer one is meant.
        i = int((away - 1e-3 * np.minimum(np.sqrt(length2), 10.0)).argmin())
        if best is None or away[i] < best[0]:
            best = (float(away[i]), placed[i])
    if best is None or best[0] > NEAR_M:
        return None
    (ax, ay, az), (bx, by, bz) = best[1].tolist()
    return Edge((ax, ay, az), (bx, by, bz))


@dataclass(frozen=True)
class Line:
    """A straight line in the gate: n . u = distance, n (2,) at `angle` radians pointing away from the axis."""

    angle: float
    distance: float


def in_gate(beams: Beams, i: int, edge: Edge) -> Line | None:
    """An edge as a line in the gate of a beam, in gate radii; None of what is behind the lens or seen end on."""
    ends = np.array([edge.a, edge.b]) - beams.apex[i]
    z = ends @ beams.along[i]
    if z.max() < AHEAD_M:
        return None
    if z.min() < AHEAD_M:
        # What is behind the lens of it is left out.
        behind, ahead = int(z.argmin()), int(z.argmax())
        part = (z[ahead] - AHEAD_M) / (z[ahead] - z[behind])
        ends[behind] = ends[ahead] + part * (ends[behind] - ends[ahead])
        z = ends @ beams.along[i]
    across = np.stack([ends @ beams.side[i], ends @ beams.upward[i]], axis=1) / z[:, None]
    u = across / math.tan(half_field(beams.frame[i]))
    way = u[1] - u[0]
    if float(np.linalg.norm(way)) < 1e-9:
        return None
    n = np.array([way[1], -way[0]]) / float(np.linalg.norm(way))
    distance = float(n @ u[0])
    if distance < 0:
        n, distance = -n, -distance
    return Line(math.atan2(float(n[1]), float(n[0])), distance)


@dataclass(frozen=True)
class Blades:
    """What the blades of a type can do: how far each turns either way, and how far the whole set does, radians."""

    askew: float
    """0: their two ends are set apart instead, or they do not turn at all."""
    whole: float
    ends: bool
    """Whether the two ends of a blade are set by themselves."""


@dataclass(frozen=True)
class Cut:
    """A blade (1..4) laid along a line: how far in and askew, how the whole set is turned, and by how much (radians) it
    lies off the line."""

    blade: int
    depth: float
    angle: float
    turn: float
    off: float


def _wrapped(angle: float) -> float:
    return (angle + math.pi) % (2 * math.pi) - math.pi


ENDS_MOST = math.atan(0.5)
"""How far askew a blade lies whose ends are set apart: half a gate between them."""


def cut(line: Line, able: Blades, turn: float, used: set[int]) -> Cut:
    """The blade that lies nearest to a line. `turn` is how the set is turned now; with `used` blades in (1..4) it stays
    so, and they stay where they are unless one of them is the nearest."""
    most = ENDS_MOST if able.ends and not able.askew else able.askew
    off = [_wrapped(line.angle - turn - math.pi / 2 * (k + 1)) for k in range(4)]
    k = min(range(4), key=lambda k: abs(off[k]))
    turned = turn
    outside = line.distance >= math.cos(off[k]) - BLADE_IN
    if (abs(off[k]) > most or outside) and able.whole and not used - {k + 1}:
        # Square to the line where the blade would else have to stand outside of the gate.
        rest = off[k] if outside else off[k] - math.copysign(most, off[k])
        turned = min(max(turn + rest, -able.whole), able.whole)
        off[k] = _wrapped(line.angle - turned - math.pi / 2 * (k + 1))
    angle = min(max(off[k], -most), most)
    # Where it cannot lie along it, it meets the line where that is nearest to the axis.
    depth = 1.0 - line.distance / max(math.cos(off[k]), 0.1)
    return Cut(k + 1, min(max(depth, 0.0), 1.0), angle, turned, abs(off[k] - angle))
