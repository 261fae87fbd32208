"""Zones: where a head may draw, and what becomes of a figure in one.

A figure's field is -1..1 to the right (u) and up (v). In this order it is mirrored, kept within the zone's limits, made
to converge (keystone), given its size, turned, and put in its place. What comes out are angles from the head's axis,
degrees: `a` to the right and `b` up as the head looks out, with the figure upright in the show whichever way the head
is mounted (core/lasers/heads.py).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal, get_args

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zarfwright.core.space import Floats, single

Mirror = Literal["none", "across", "up", "both"]
MIRRORS: tuple[Mirror, ...] = get_args(Mirror)
"""In the order of the feature `zone mirror`: bit 0 across, bit 1 up."""
KEYSTONE_MOST = 0.9
RATE_KPPS = 30.0
HAIR = 1e-6


@dataclass(frozen=True)
class Zone:
    """Where a head may draw."""

    name: str = "Zone"
    width_deg: float = 40.0
    height_deg: float = 20.0
    across_deg: float = 0.0
    """Its middle, to the right of the head's axis as the head looks out."""
    up_deg: float = 0.0
    turn_deg: float = 0.0
    """Turned about its middle, anticlockwise as the head sees it."""
    mirror: Mirror = "none"
    keystone_across: float = 0.0
    """-0.9..0.9: 0.5 is half as much again as tall at the right as in the middle, half as tall at the left."""
    keystone_up: float = 0.0
    """The same of its width: positive is wider at the top."""
    left: float = -1.0
    """Limits, as shares of its field: nothing is drawn beyond."""
    right: float = 1.0
    bottom: float = -1.0
    top: float = 1.0


@dataclass(frozen=True)
class LaserHead:
    """What a laser draws, and where."""

    feed: int | None = None
    """The number of the feed that it takes."""
    file: str | None = None
    """The asset of an ILDA file that it draws by itself, over any feed."""
    file_name: str = ""
    rate_kpps: float = RATE_KPPS
    """Thousands of points a second."""
    zone: Zone = field(default_factory=Zone)

    @property
    def draws(self) -> bool:
        """Whether it is told what to draw; else its beam stands still."""
        return self.feed is not None or self.file is not None


def mirrored(zone: Zone, feature: float) -> Zone:
    """A zone as the feature `zone mirror` turns it over, on top of its own mirror."""
    both = MIRRORS.index(zone.mirror) ^ (round(feature) & 3)
    return replace(zone, mirror=MIRRORS[both])


def reflected(zone: Zone) -> Zone:
    """A zone as it is in a mirror image of the show: right and left change sides, of what is drawn as well."""
    return replace(
        zone,
        across_deg=-zone.across_deg,
        turn_deg=-zone.turn_deg,
        keystone_across=-zone.keystone_across,
        left=-zone.right,
        right=-zone.left,
        mirror=MIRRORS[MIRRORS.index(zone.mirror) ^ 1],
    )


@dataclass(frozen=True, eq=False)
class Shapes:
    """The zones of k heads as columns (k, 1): what a figure becomes in each."""

    right_way: Floats
    """-1 where it is mirrored across, else 1."""
    up_way: Floats
    left: Floats
    right: Floats
    bottom: Floats
    top: Floats
    keystone_across: Floats
    keystone_up: Floats
    width: Floats
    height: Floats
    cos: Floats
    sin: Floats
    across: Floats
    up: Floats

    @classmethod
    def of(cls, zones: Sequence[Zone]) -> Shapes:
        """Single precision: a hundredth of the step that feeds have."""
        bits = np.array([MIRRORS.index(zone.mirror) for zone in zones])
        turns = np.radians([zone.turn_deg for zone in zones])

        def column(values: ArrayLike) -> Floats:
            return single(np.asarray(values, dtype=float)).reshape(-1, 1)

        def plain(name: str) -> Floats:
            return column([getattr(zone, name) for zone in zones])

        return cls(
            right_way=column(np.where(bits & 1, -1.0, 1.0)),
            up_way=column(np.where(bits & 2, -1.0, 1.0)),
            left=plain("left"),
            right=plain("right"),
            bottom=plain("bottom"),
            top=plain("top"),
            keystone_across=plain("keystone_across"),
            keystone_up=plain("keystone_up"),
            width=plain("width_deg"),
            height=plain("height_deg"),
            cos=column(np.cos(turns)),
            sin=column(np.sin(turns)),
            across=plain("across_deg"),
            up=plain("up_deg"),
        )

    def mirrored(self, u: Floats, v: Floats) -> tuple[Floats, Floats]:
        """Places of the field (k, n) as they are turned over."""
        return u * self.right_way, v * self.up_way

    def kept(self, u: Floats, v: Floats) -> tuple[Floats, Floats, NDArray[np.bool_]]:
        """Places at the nearest ones within the limits, and which were within."""
        kept_u = np.clip(u, self.left, self.right)
        kept_v = np.clip(v, self.bottom, self.top)
        return kept_u, kept_v, (np.abs(kept_u - u) <= HAIR) & (np.abs(kept_v - v) <= HAIR)

    def laid(self, u: Floats, v: Floats) -> tuple[Floats, Floats]:
        """Their angles in degrees, to the right and up."""
        ku, ka = self.keystone_up, self.keystone_across
        if ku.any() or ka.any():
            u = u * (1 + ku * v) / (1 + np.abs(ku))
            v = v * (1 + ka * u) / (1 + np.abs(ka))
        u, v = u * (self.width / 2), v * (self.height / 2)
        return u * self.cos - v * self.sin + self.across, u * self.sin + v * self.cos + self.up


def laid(zone: Zone, uv: Floats) -> Floats:
    """Angles (n, 2) in degrees of places of the field (n, 2) that are mirrored and within the limits."""
    a, b = Shapes.of([zone]).laid(uv[None, :, 0], uv[None, :, 1])
    return np.stack([a[0], b[0]], axis=-1)


def drawn(zone: Zone, uv: Floats) -> tuple[Floats, NDArray[np.bool_]]:
    """A figure's points (n, 2) as angles (n, 2), and which of them are within the limits (n,)."""
    shapes = Shapes.of([zone])
    u, v, inside = shapes.kept(*shapes.mirrored(uv[None, :, 0], uv[None, :, 1]))
    a, b = shapes.laid(u, v)
    return np.stack([a[0], b[0]], axis=-1), inside[0]


def _straightened(zone: Zone, shaped: Floats) -> Floats:
    """The field that a shaped place comes of."""
    up, across = zone.keystone_up, zone.keystone_across
    v = shaped[..., 1] * (1 + abs(across)) / np.maximum(1 + across * shaped[..., 0], 1e-9)
    u = shaped[..., 0] * (1 + abs(up)) / np.maximum(1 + up * v, 1e-9)
    return np.stack([u, v], axis=-1)


def field_of(zone: Zone, angles: Floats) -> Floats:
    """The places of the field (..., 2), mirrored already, that the head draws at angles (..., 2): the inverse of
    `laid`. Beyond -1..1 is beyond the zone."""
    c, s = math.cos(math.radians(zone.turn_deg)), math.sin(math.radians(zone.turn_deg))
    sized = (angles - (zone.across_deg, zone.up_deg)) @ np.array([[c, -s], [s, c]])
    half = np.maximum(np.array([zone.width_deg, zone.height_deg]) / 2, 1e-6)
    return _straightened(zone, sized / half)


def holds(zone: Zone, angles: Floats) -> NDArray[np.bool_]:
    """Whether the head can draw at angles (..., 2) at all."""
    uv = field_of(zone, angles)
    low, high = np.array([zone.left, zone.bottom]), np.array([zone.right, zone.top])
    return np.asarray(np.all((uv >= low - HAIR) & (uv <= high + HAIR), axis=-1))


EDGE_STEPS = 8


def outline(zone: Zone, steps: int = EDGE_STEPS) -> Floats:
    """Its edge as angles (4 steps, 2), from the left bottom corner anticlockwise."""
    along = np.linspace(0.0, 1.0, steps, endpoint=False)
    corners = [(zone.left, zone.bottom), (zone.right, zone.bottom), (zone.right, zone.top), (zone.left, zone.top)]
    edges = []
    for start, end in zip(corners, [*corners[1:], corners[0]], strict=True):
        edges.append(np.array(start) + along[:, None] * (np.array(end) - np.array(start)))
    return laid(zone, np.concatenate(edges))


def grid(zone: Zone, across: int, up: int) -> Floats:
    """Places all over it as angles (across x up, 2), its edges with them."""
    u, v = np.meshgrid(np.linspace(zone.left, zone.right, across), np.linspace(zone.bottom, zone.top, up))
    return laid(zone, np.stack([u.ravel(), v.ravel()], axis=-1))
