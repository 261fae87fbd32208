"""Pointing heads at places: all solutions in range, the nearest one wins, and who cannot reach (numbers.md, Aim).

A head shines along -Z in its zero pose and head = Rz(pan) Rx(tilt), so its direction in the mount frame is
(-sin pan sin tilt, cos pan sin tilt, -cos tilt). Where the axes do not meet in the lens line, Newton's method on the
target's place in the lens frame refines the closed form to 1e-6 rad. Of a scanner pan and tilt are the mirror's: by the
law of reflection its light turns twice as far in tilt (core/types/chain.py).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zarfwright.core.space import NO_TURN, Floats, Placement, about, inverse, multiply, rotate, unit
from zarfwright.core.types.chain import Chain

TURN = 2 * np.pi
PRECISION_RAD = 1e-6
X, Z = np.array([1.0, 0.0, 0.0]), np.array([0.0, 0.0, 1.0])
DOWN = np.array([0.0, 0.0, -1.0])


@dataclass(frozen=True, eq=False)
class Aimed:
    """For n fixtures: pan and tilt in radians (n,), whether they reach (n,), and by how much they miss in radians."""

    pan: Floats
    tilt: Floats
    reaches: NDArray[np.bool_]
    missing: Floats


def head_turn(chain: Chain, pan: ArrayLike, tilt: ArrayLike) -> Floats:
    """mount_turn Rz(pan) Rx(tilt) lens_turn as quaternions (..., 4): how a lens is turned in the mount frame; of a
    mirror, how the lens is that one sees in it."""
    p, t = np.asarray(pan, dtype=float) + chain.pan_zero, np.asarray(tilt, dtype=float) + chain.tilt_zero
    if chain.mirror:
        # What stands in the gate stays where it is while the mirror pans, and is put in so that it is seen right.
        turn = multiply(multiply(about(Z, p), about(X, 2 * t - np.pi)), about(Z, p))
    else:
        turn = multiply(about(Z, p), about(X, t))
    return multiply(multiply(chain.mount_turn, turn), chain.lens_turn)


def _tilts(chain: Chain, light: Floats) -> Floats:
    """The tilts whose light leaves at these angles, radians: of a mirror, half as far."""
    return (light + np.pi) / 2 - chain.tilt_zero if chain.mirror else light - chain.tilt_zero


def _whole_turn(chain: Chain) -> float:
    """By how much tilt the light comes round to where it was."""
    return float(np.pi) if chain.mirror else TURN


def _wrapped(angle: Floats, turn: float) -> Floats:
    """Angles within half a turn to either side."""
    return (angle + turn / 2) % turn - turn / 2


def lens(chain: Chain, pan: ArrayLike, tilt: ArrayLike) -> tuple[Floats, Floats]:
    """Place (..., 3) of the lens and its direction (..., 3) in the mount frame."""
    p, t = np.asarray(pan, dtype=float) + chain.pan_zero, np.asarray(tilt, dtype=float) + chain.tilt_zero
    head = rotate(about(X, t), np.asarray(chain.lens_offset))
    place = np.asarray(chain.pan_offset) + rotate(about(Z, p), np.asarray(chain.tilt_offset) + head)
    return rotate(chain.mount_turn, place), rotate(head_turn(chain, pan, tilt), DOWN)


def _miss(chain: Chain, pan: Floats, tilt: Floats, target: Floats) -> Floats:
    """The target's direction in the lens frame, (n, 2): zero when the lens looks at it."""
    place, _ = lens(chain, pan, tilt)
    local = unit(rotate(inverse(head_turn(chain, pan, tilt)), target - place))
    return local[..., :2]


def _refine(chain: Chain, pan: Floats, tilt: Floats, target: Floats) -> tuple[Floats, Floats]:
    step = 1e-6
    for _ in range(12):
        off = _miss(chain, pan, tilt, target)
        if np.abs(off).max(initial=0.0) < PRECISION_RAD * 1e-2:
            break
        by_pan = (_miss(chain, pan + step, tilt, target) - _miss(chain, pan - step, tilt, target)) / (2 * step)
        by_tilt = (_miss(chain, pan, tilt + step, target) - _miss(chain, pan, tilt - step, target)) / (2 * step)
        # Least squares through the normal equations, damped where pan does nothing: straight down or up.
        a, b = np.sum(by_pan**2, axis=-1) + 1e-9, np.sum(by_pan * by_tilt, axis=-1)
        c = np.sum(by_tilt**2, axis=-1) + 1e-9
        p, q = np.sum(by_pan * off, axis=-1), np.sum(by_tilt * off, axis=-1)
        det = a * c - b * b
        pan = pan - np.clip((c * p - b * q) / det, -0.5, 0.5)
        tilt = tilt - np.clip((a * q - b * p) / det, -0.5, 0.5)
    return pan, tilt


def followed(chain: Chain, target: Floats, now: Floats) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    """Pan and tilt (n,) that look at targets (n, 3) in the mount frame, the way that is nearest to where the heads are
    (n, 2), and which of them are found so: all in range, unless it is a mirror or its lens is turned in its head.

    In closed form. With v the target from the pan axis, turned back by p, its x is that of the lens, T.x + L.x; then
    the rest of it, turned back by t, has the y of the lens, L.y, and lies before it.
    """
    pan, tilt = now[:, 0].copy(), now[:, 1].copy()
    there = np.zeros(len(target), dtype=bool)
    if chain.mirror or chain.lens_turn != NO_TURN:
        return pan, tilt, there
    v = rotate(inverse(chain.mount_turn), target) - np.asarray(chain.pan_offset)
    (tx, ty, tz), (lx, ly, lz) = chain.tilt_offset, chain.lens_offset
    (p0, p1), (t0, t1) = chain.pan_range, chain.tilt_range
    away = np.hypot(v[:, 0], v[:, 1])
    with np.errstate(divide="ignore", invalid="ignore"):
        aside = np.arccos((tx + lx) / away)
    best = np.full(len(target), np.inf)
    for side in (1.0, -1.0):
        p = np.arctan2(v[:, 1], v[:, 0]) + side * aside
        across = -np.sin(p) * v[:, 0] + np.cos(p) * v[:, 1] - ty
        up = v[:, 2] - tz
        far = np.hypot(across, up)
        with np.errstate(divide="ignore", invalid="ignore"):
            t = np.arctan2(up, across) - np.arccos(ly / far)
        # Of the two turns with that y the one that has it ahead, along -Z.
        behind = -across * np.sin(t) + up * np.cos(t) - lz > 0
        with np.errstate(divide="ignore", invalid="ignore"):
            t = np.where(behind, np.arctan2(up, across) + np.arccos(ly / far), t)
        p, t = p - chain.pan_zero, t - chain.tilt_zero
        p += np.rint((now[:, 0] - p) / TURN) * TURN
        t += np.rint((now[:, 1] - t) / TURN) * TURN
        way = np.maximum(np.abs(p - now[:, 0]), np.abs(t - now[:, 1]))
        better = (way < best) & (p >= p0) & (p <= p1) & (t >= t0) & (t <= t1)
        pan, tilt = np.where(better, p, pan), np.where(better, t, tilt)
        best = np.where(better, way, best)
        there |= better
    return pan, tilt, there


def solutions(chain: Chain, target: ArrayLike, pan_now: ArrayLike) -> tuple[Floats, Floats]:
    """Both ways of looking at targets (n, 3) in the mount frame: pan and tilt of shape (n, 2), within half a turn.

    The second has the tilt flipped and the pan half a turn on. Straight down or up keeps the pan that is there.
    """
    goal = np.asarray(target, dtype=float)
    middle = np.asarray(chain.pan_offset) + np.asarray(chain.tilt_offset) * [0.0, 0.0, 1.0]
    v = unit(rotate(inverse(chain.mount_turn), goal) - middle)
    level = np.hypot(v[:, 0], v[:, 1])
    tilt = np.arctan2(level, -v[:, 2])
    pan = np.where(level > 1e-7, np.arctan2(-v[:, 0], v[:, 1]), np.asarray(pan_now, dtype=float))
    pans = np.stack([pan, pan + np.pi], axis=1) - chain.pan_zero
    tilts = _tilts(chain, np.stack([tilt, -tilt], axis=1))
    wide = np.repeat(goal[:, None], 2, axis=1)
    pans, tilts = _refine(chain, pans, tilts, wide)
    return _wrapped(pans, TURN), _wrapped(tilts, _whole_turn(chain))


def _aim_chain(chain: Chain, target: Floats, now: Floats) -> Aimed:
    """Aim n heads of one chain at targets in their mount frames (n, 3) from pan and tilt (n, 2)."""
    n = len(target)
    pans, tilts = solutions(chain, target, now[:, 0])
    turns = np.arange(-2, 3)
    # Every candidate: both solutions where they look there, and each a whole turn on or back: shape (n, 2, 5, 3).
    p = pans[:, :, None, None] + TURN * turns[None, None, :, None]
    t = tilts[:, :, None, None] + _whole_turn(chain) * turns[None, None, None, 1:4]
    (p0, p1), (t0, t1) = chain.pan_range, chain.tilt_range
    within = (p > p0 - 1e-9) & (p < p1 + 1e-9) & (t > t0 - 1e-9) & (t < t1 + 1e-9)
    off = np.linalg.norm(_off(chain, pans, tilts, np.repeat(target[:, None], 2, axis=1)), axis=-1)
    usable = within & (off < REACHED_RAD)[:, :, None, None]
    travel = np.maximum(np.abs(p - now[:, 0, None, None, None]), np.abs(t - now[:, 1, None, None, None]))
    score = np.where(usable, travel, np.inf).reshape(n, -1)
    best = score.argmin(axis=1)
    rows = np.arange(n)
    wide = (n, *travel.shape[1:])
    pan = np.array(np.broadcast_to(p, wide).reshape(n, -1)[rows, best])
    tilt = np.array(np.broadcast_to(t, wide).reshape(n, -1)[rows, best])
    reaches = np.isfinite(score[rows, best])
    missing = np.zeros(n)
    short = np.flatnonzero(~reaches)
    if len(short):
        pan[short], tilt[short], missing[short] = _nearest(chain, target[short], now[short])
    # What falls short by so little looks there.
    reaches = missing < REACHED_RAD
    return Aimed(np.clip(pan, p0, p1), np.clip(tilt, t0, t1), reaches, np.where(reaches, 0.0, missing))


REACHED_RAD = 1e-4
"""A beam that misses by less than this looks there: 2 mm at 20 m."""


def _off(chain: Chain, pan: Floats, tilt: Floats, target: Floats) -> Floats:
    """The target's place off the beam's axis as an angle in two directions of the lens frame, (..., 2) radians."""
    place, _ = lens(chain, pan, tilt)
    local = unit(rotate(inverse(head_turn(chain, pan, tilt)), target - place))
    level = np.linalg.norm(local[..., :2], axis=-1, keepdims=True)
    angle = np.arctan2(level[..., 0], -local[..., 2])[..., None]
    return np.asarray(np.where(level > 1e-12, local[..., :2] / np.maximum(level, 1e-12) * angle, 0.0))


def _nearest(chain: Chain, target: Floats, now: Floats) -> tuple[Floats, Floats, Floats]:
    """The least miss within range of n heads that cannot reach: pan, tilt and the missing angle, (n,) each.

    It lies on the edge of the range: one axis is at its end, the other as near as it can be. Each such place is a
    start for steps along one axis after the other, kept within range.
    """
    v = unit(rotate(inverse(chain.mount_turn), target) - (np.asarray(chain.pan_offset) + [0, 0, chain.tilt_offset[2]]))
    (p0, p1), (t0, t1) = chain.pan_range, chain.tilt_range
    around = np.arctan2(-v[:, 0], v[:, 1]) - chain.pan_zero
    starts: list[tuple[Floats, Floats]] = []
    for end in (t0, t1):
        for half in range(-5, 6):
            starts.append((around + half * np.pi, np.full(len(v), end)))
    for end in (p0, p1):
        side = -np.sin(end + chain.pan_zero) * v[:, 0] + np.cos(end + chain.pan_zero) * v[:, 1]
        across = _tilts(chain, np.arctan2(side, -v[:, 2]))
        starts += [(np.full(len(v), end), across + turn * _whole_turn(chain)) for turn in (-1, 0, 1)]
    pan = np.clip(np.stack([p for p, _ in starts], axis=1), p0, p1)
    tilt = np.clip(np.stack([t for _, t in starts], axis=1), t0, t1)
    wide = np.broadcast_to(target[:, None], (*pan.shape, 3))
    for _ in range(6):
        for axis in (0, 1):
            off = _off(chain, pan, tilt, wide)
            step = 1e-5
            nudged = _off(chain, pan + step * (axis == 0), tilt + step * (axis == 1), wide)
            by = (nudged - off) / step
            move = -np.sum(by * off, axis=-1) / (np.sum(by * by, axis=-1) + 1e-9)
            if axis == 0:
                pan = np.clip(pan + np.clip(move, -0.6, 0.6), p0, p1)
            else:
                tilt = np.clip(tilt + np.clip(move, -0.6, 0.6), t0, t1)
    missing = np.linalg.norm(_off(chain, pan, tilt, wide), axis=-1)
    travel = np.maximum(np.abs(pan - now[:, :1]), np.abs(tilt - now[:, 1:]))
    best = (missing + travel * 1e-4).argmin(axis=1)
    rows = np.arange(len(v))
    return pan[rows, best], tilt[rows, best], missing[rows, best]


def aim(chains: Sequence[Chain], mounts: Sequence[Placement], target: ArrayLike, now: ArrayLike) -> Aimed:
    """Aim n fixtures at one place (3,) or at one each (n, 3) in the show's frame, from pan and tilt (n, 2) now."""
    n = len(chains)
    goals = np.broadcast_to(np.asarray(target, dtype=float), (n, 3))
    present = np.asarray(now, dtype=float).reshape(n, 2)
    places = np.array([mount.position for mount in mounts]).reshape(n, 3)
    turns = np.array([mount.rotation for mount in mounts]).reshape(n, 4)
    local = rotate(inverse(turns), goals - places) if n else goals
    pan, tilt, missing = np.zeros(n), np.zeros(n), np.zeros(n)
    reaches = np.zeros(n, dtype=bool)
    groups: dict[Chain, list[int]] = {}
    for i, chain in enumerate(chains):
        groups.setdefault(chain, []).append(i)
    for chain, members in groups.items():
        result = _aim_chain(chain, local[members], present[members])
        pan[members], tilt[members] = result.pan, result.tilt
        reaches[members], missing[members] = result.reaches, result.missing
    return Aimed(pan, tilt, reaches, missing)


@dataclass(frozen=True)
class Way:
    """One way for a head to look at a place: pan and tilt in radians, by how much it misses (0: it looks there)."""

    pan: float
    tilt: float
    missing: float

    @property
    def reaches(self) -> bool:
        return self.missing == 0.0


ALIKE_RAD = 1e-5


def _within(chain: Chain, pan: float, tilt: float) -> bool:
    ranges = (chain.pan_range, chain.tilt_range)
    return all(low - 1e-9 <= angle <= high + 1e-9 for angle, (low, high) in zip((pan, tilt), ranges, strict=True))


def ways(chain: Chain, mount: Placement, target: ArrayLike, now: tuple[float, float] = (0.0, 0.0)) -> list[Way]:
    """All ways within range for one head to look at a place (3,) in the show's frame, the one nearest to where it is
    (`now`, radians) first; where there is none, the nearest that it can do, which misses."""
    local = rotate(inverse(mount.rotation), np.asarray(target, dtype=float) - np.asarray(mount.position))
    pans, tilts = solutions(chain, local[None], np.array([now[0]]))
    found: list[Way] = []
    for pan, tilt in zip(pans[0].tolist(), tilts[0].tolist(), strict=True):
        place, direction = lens(chain, pan, tilt)
        wanted = unit(local - place)
        if float(np.linalg.norm(np.cross(direction, wanted))) > REACHED_RAD or float(direction @ wanted) < 0:
            continue
        for p in pan + TURN * np.arange(-2, 3):
            for t in tilt + _whole_turn(chain) * np.arange(-1, 2):
                way = Way(float(p), float(t), 0.0)
                if _within(chain, way.pan, way.tilt) and not any(_alike(way, other) for other in found):
                    found.append(way)
    if not found:
        nearest = _aim_chain(chain, local[None], np.array([now]))
        return [Way(float(nearest.pan[0]), float(nearest.tilt[0]), float(nearest.missing[0]))]
    return sorted(found, key=lambda way: max(abs(way.pan - now[0]), abs(way.tilt - now[1])))


def _alike(a: Way, b: Way) -> bool:
    return abs(a.pan - b.pan) < ALIKE_RAD and abs(a.tilt - b.tilt) < ALIKE_RAD


def direction_in_show(chain: Chain, mount: Placement, pan: float, tilt: float) -> tuple[Floats, Floats]:
    """Place and direction of a lens in the show's frame, (3,) each."""
    place, direction = lens(chain, pan, tilt)
    return mount.apply(place), rotate(mount.rotation, direction)
