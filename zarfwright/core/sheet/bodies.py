"""Fixtures in elevations and sections: the outlines of their parts at true size, as they hang; which way they shine."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from zarfwright.core.aiming.solve import direction_in_show
from zarfwright.core.aiming.yokes import angles_now, chain_for, turns_by_hand
from zarfwright.core.memo import Memo
from zarfwright.core.rig.things import Fixture
from zarfwright.core.sheet.frames import Frame
from zarfwright.core.show import Show
from zarfwright.core.space import Floats, Placement, Quat, about, rotate
from zarfwright.core.types.bodies import BodyPart, body_parts
from zarfwright.core.types.chain import Chain
from zarfwright.core.types.model import FixtureType

OUTLINES_MOST = 4000


def _corners(fixture_type: FixtureType, mode: str) -> tuple[tuple[int, Floats], ...]:
    """What turns each part of a body, and the corners (n, 3) of its convex hull."""
    from scipy.spatial import ConvexHull, QhullError

    def hull(part: BodyPart) -> Floats:
        points = np.asarray(part.mesh.vertices, dtype=float)
        try:
            return np.asarray(points[ConvexHull(points).vertices])
        except QhullError:
            return points

    return tuple((part.turns, hull(part)) for part in body_parts(fixture_type, mode))


_corners_of: Memo[tuple[tuple[int, Floats], ...]] = Memo(_corners, 500)


@dataclass(frozen=True, eq=False)
class Outline:
    """A body on paper, in the plane of a view (metres): the whole of it, and its parts, nearest to who looks last."""

    whole: BaseGeometry
    parts: tuple[BaseGeometry, ...]
    depth: float
    """How far towards who looks it reaches."""


def _posed(chain: Chain, turns: int, points: Floats, pan: float, tilt: float) -> Floats:
    """Corners of a part in the frame of the clamp, turned by pan and tilt in radians."""
    if turns == 2:
        points = rotate(about((1.0, 0.0, 0.0), tilt + chain.tilt_zero), points) + np.asarray(chain.tilt_offset)
    if turns >= 1:
        points = rotate(about((0.0, 0.0, 1.0), pan + chain.pan_zero), points) + np.asarray(chain.pan_offset)
    return rotate(chain.mount_turn, points)


class _Outlines:
    """The outlines of a type in a mode about its clamp, by how it is turned: many of a rig hang alike."""

    def __init__(self, fixture_type: FixtureType, mode: str) -> None:
        self._corners = _corners_of(fixture_type, mode)
        self._kept: dict[tuple[object, ...], Outline] = {}

    def of(self, chain: Chain, turn: Quat, angles: tuple[float, float], frame: Frame) -> Outline:
        """About a clamp at the origin that is turned so, its parts by pan and tilt."""
        key = (*np.round(turn, 6).tolist(), *np.round(angles, 6).tolist(), *np.round(frame.axes, 9).ravel().tolist())
        if key not in self._kept:
            if len(self._kept) >= OUTLINES_MOST:
                self._kept.clear()
            self._kept[key] = self._made(chain, turn, angles, frame)
        return self._kept[key]

    def _made(self, chain: Chain, turn: Quat, angles: tuple[float, float], frame: Frame) -> Outline:
        parts, depths = [], []
        for turns, corners in self._corners:
            seen = frame.of(rotate(turn, _posed(chain, turns, corners, *angles)))
            parts.append(shapely.convex_hull(shapely.multipoints(seen[:, :2])))
            depths.append(float(seen[:, 2].max()))
        if not parts:
            return Outline(shapely.box(-0.1, -0.3, 0.1, 0.0), (), 0.0)
        order = np.argsort(depths)
        return Outline(shapely.union_all(parts), tuple(parts[k] for k in order), max(depths))


_outlines: Memo[_Outlines] = Memo(_Outlines, 500)


def outline_of(show: Show, fixture: Fixture, clamp: Placement, frame: Frame) -> Outline:
    """A fixture as it is seen in a view: what is aimed by hand as it is turned, what moves by itself at home."""
    chain = chain_for(show, fixture)
    angles = angles_now(fixture, chain) if turns_by_hand(chain) else (0.0, 0.0)
    own = _outlines(show.type_of(fixture), fixture.mode).of(chain, clamp.rotation, angles, frame)
    u, v, d = frame.of(np.asarray(clamp.position)).tolist()
    whole, *parts = shapely.transform(np.array([own.whole, *own.parts]), lambda at: at + [u, v])
    return Outline(whole, tuple(parts), own.depth + d)


def shines(show: Show, fixture: Fixture, clamp: Placement) -> Floats | None:
    """Which way it shines in the show's frame, a unit vector (3,): to what it is aimed at, else as its yoke is turned;
    None for what turns by itself, and nobody has aimed."""
    if fixture.aim is not None:
        way = np.asarray(fixture.aim.place) - np.asarray(clamp.position)
        far = float(np.linalg.norm(way))
        return way / far if far > 1e-6 else None
    chain = chain_for(show, fixture)
    if not turns_by_hand(chain):
        return None
    pan, tilt = angles_now(fixture, chain)
    return direction_in_show(chain, clamp, pan, tilt)[1]
