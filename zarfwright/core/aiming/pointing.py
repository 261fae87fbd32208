"""A selection pointed: who looks where, who cannot, and where each beam's axis ends up."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from zarfwright.core.aiming.patterns import Pattern, targets
from zarfwright.core.aiming.solve import Aimed, aim, lens
from zarfwright.core.aiming.yokes import angles_now, chain_for, turns_by_hand
from zarfwright.core.errors import JobError
from zarfwright.core.findings import first_few
from zarfwright.core.raycast import Caster
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Aim, Fixture, FocusPoint
from zarfwright.core.show import Item, Show
from zarfwright.core.space import Floats, Placement, Vec, rotate, vec
from zarfwright.core.types.chain import Chain

Pair = tuple[Item, Fixture]
SHORT_OF_M = 0.05
"""What is met so little before the place aimed at is that place."""


@dataclass(frozen=True)
class Wish:
    """What a selection is to be pointed at: a place (metres, show) or a focus point and how far beside it."""

    point: Vec | None = None
    focus: str | None = None
    offset: Vec = (0.0, 0.0, 0.0)
    pattern: Pattern = "point"
    to: Vec | None = None
    radius_m: float = 1.0


@dataclass(frozen=True, eq=False)
class Pointed:
    """A selection pointed: its fixtures, what they look at (n, 3), and how they turn for it."""

    pairs: tuple[Pair, ...]
    chains: tuple[Chain, ...]
    mounts: tuple[Placement, ...]
    targets: Floats
    aimed: Aimed
    focus: str | None = None
    base: Vec = (0.0, 0.0, 0.0)
    """The focus point that it is about, and where that is: what offsets are counted from."""

    def aim_of(self, i: int, pattern: Pattern) -> Aim:
        """What the fixture remembers of it."""
        place = vec(self.targets[i])
        if self.focus is None or pattern == "parallel":
            return Aim(place)
        return Aim(place, self.focus, vec(np.round(self.targets[i] - self.base, 9)))

    def rays(self) -> tuple[Floats, Floats]:
        """Where the lenses are (n, 3) and which way they look (n, 3), in the show's frame."""
        return rays(self.chains, self.mounts, self.aimed.pan, self.aimed.tilt)


def rays(chains: Sequence[Chain], mounts: Sequence[Placement], pan: Floats, tilt: Floats) -> tuple[Floats, Floats]:
    """Where n lenses are (n, 3) and which way they look (n, 3) in the show's frame; pan and tilt (n,) in radians."""
    places, ways = np.zeros((len(chains), 3)), np.zeros((len(chains), 3))
    groups: dict[Chain, list[int]] = {}
    for i, chain in enumerate(chains):
        groups.setdefault(chain, []).append(i)
    for chain, rows in groups.items():
        at, way = lens(chain, pan[rows], tilt[rows])
        turns = np.array([mounts[i].rotation for i in rows])
        places[rows] = rotate(turns, at) + np.array([mounts[i].position for i in rows])
        ways[rows] = rotate(turns, way)
    return places, ways


def aimable(show: Show, pairs: Sequence[Pair]) -> tuple[list[Pair], list[str]]:
    """The fixtures that can be aimed, by their heads or by hand, and the names of those that cannot."""
    able: list[Pair] = []
    still: list[str] = []
    for item, fixture in pairs:
        chain = chain_for(show, fixture)
        if chain.moves or turns_by_hand(chain):
            able.append((item, fixture))
        else:
            still.append(item.name)
    return able, still


def base_of(show: Show, wish: Wish) -> Vec:
    """The place that a wish is about. Raises JobError where it names none."""
    if wish.focus is not None:
        x, y, z = np.add(show.body(wish.focus, FocusPoint).position, wish.offset).tolist()
        return (x, y, z)
    if wish.point is None:
        raise JobError("There is no place to aim at: click one, or choose a focus point.", "point")
    return wish.point


Heads = Mapping[str, tuple[float, float]]
"""Where heads are, pan and tilt in radians, by fixture."""


def point_at(show: Show, pairs: Sequence[Pair], wish: Wish, now: Heads) -> Pointed:
    """Point fixtures that can be aimed. `now` is where their heads are, pan and tilt in radians, by id; what it does
    not say is as it was set last. Raises JobError where the wish has no place."""
    base = base_of(show, wish)
    places = np.array([clamp_placement(show, fixture).position for _, fixture in pairs]).reshape(-1, 3)
    to = np.array(wish.to, dtype=float) if wish.to is not None else None
    goals = targets(wish.pattern, places, np.array(base, dtype=float), to, wish.radius_m)
    own = show.body(wish.focus, FocusPoint).position if wish.focus is not None else base
    return replace(point_each(show, pairs, goals, now), focus=wish.focus, base=own)


def point_each(show: Show, pairs: Sequence[Pair], goals: Floats, now: Heads) -> Pointed:
    """Point fixtures that can be aimed at a place each (n, 3), metres in the show's frame; `now` as in `point_at`."""
    chains = tuple(chain_for(show, fixture) for _, fixture in pairs)
    mounts = tuple(clamp_placement(show, fixture) for _, fixture in pairs)
    angles = [
        now[item.id] if chain.moves and item.id in now else angles_now(fixture, chain)
        for (item, fixture), chain in zip(pairs, chains, strict=True)
    ]
    return Pointed(tuple(pairs), chains, mounts, goals, aim(chains, mounts, goals, angles))


@dataclass(frozen=True)
class Landing:
    """Where a pointed beam's axis ends: in the show's frame, on what, and what stands in its way before its place."""

    lens: Vec
    at: Vec
    thing: str | None
    blocked_by: str | None
    target: Vec
    missing: float
    """Radians; 0 where it gets there."""
    half_field: float
    """Half of the field angle, radians."""


FURTHEST_M = 60.0


def landings(pointed: Pointed, caster: Caster) -> list[Landing]:
    """Where each beam's axis ends up; one that meets nothing goes on to its place, 60 m at most."""
    places, ways = pointed.rays()
    met = caster.first(places, ways)
    found = []
    for i, chain in enumerate(pointed.chains):
        wanted = float(np.linalg.norm(pointed.targets[i] - places[i]))
        far = float(met.distance[i])
        hit = np.isfinite(far)
        at = places[i] + ways[i] * (far if hit else min(wanted, FURTHEST_M))
        thing = caster.names[int(met.thing[i])] if hit else None
        before = hit and pointed.aimed.reaches[i] and far < wanted - SHORT_OF_M and wanted < FURTHEST_M * 10
        field = pointed.pairs[i][1].lens_deg or chain.beam.field_angle_deg
        found.append(
            Landing(
                vec(places[i]),
                vec(at),
                thing,
                thing if before else None,
                vec(pointed.targets[i]),
                float(pointed.aimed.missing[i]),
                float(np.radians(field)) / 2,
            )
        )
    return found


def short_of(pointed: Pointed) -> list[str]:
    """Who cannot reach, and by how much."""
    report = []
    for i, (item, _) in enumerate(pointed.pairs):
        if not pointed.aimed.reaches[i]:
            miss = math.degrees(pointed.aimed.missing[i])
            report.append(f"{item.name.capitalize()} cannot reach: it stops {miss:.1f}° short. Turn its body.")
    return first_few(report)
