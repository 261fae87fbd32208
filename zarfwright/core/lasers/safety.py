"""Where lasers may reach people, what reflects, or the open: an aid to planning, and no proof of safety.

Looked at is what a head can draw at all: its whole zone (of one that takes no feed, its still beam), at the power that
it is told to give. The irradiance is that of the beam as it passes, as if it rested there (core/lasers/light.py): no
scanning, no pupil and no exposure time is taken off. People may sit or stand in front of each other, so that nobody
hides behind another; walls, decks and scenery do hide.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.lasers.heads import Head, heads_of
from zarfwright.core.lasers.light import irradiance_w_m2
from zarfwright.core.lasers.zone import Zone, field_of, grid, holds, laid
from zarfwright.core.memo import Memo
from zarfwright.core.raycast import Caster
from zarfwright.core.scene import eye_of, solids
from zarfwright.core.seats import seats
from zarfwright.core.show import Item, Show
from zarfwright.core.site.things import Crowd, Figure
from zarfwright.core.space import Floats, Vec, vec

AID = "This is an aid to planning and no proof of safety."
REFLECTS = ("gloss",)
"""Finishes that throw a beam back as a beam."""
ROUND = 16
"""So many places round somebody's eyes are kept clear of."""
CUTS = 6
"""A zone is drawn in so often at most, a side each time."""
ACROSS, UP = 33, 17
"""So many places of a zone are followed to where they land."""
OPEN_M = 500.0
LEAST_SHARE = 1e-4
"""A head that gives less of its power is dark."""
LEFT = 0.02
"""A zone of which a cut would leave less is not cut."""
HAIR = 1e-3
"""How far beyond what is to go a side is drawn in (shares of the field), and from the lens a ray begins (metres)."""


@dataclass(frozen=True)
class Crossing:
    """What a head may reach that it should not: people of a block, something that reflects, or the open."""

    head: Head
    what: str
    """people, reflective or open."""
    where: Vec
    """Where the irradiance is greatest, metres in the show; towards the open, a place on the way."""
    who: str
    ids: tuple[str, ...]
    """The items concerned."""
    count: int
    irradiance_w_m2: float
    limit_w_m2: float

    @property
    def over(self) -> bool:
        """Whether it is to be put right."""
        return self.irradiance_w_m2 > self.limit_w_m2


@dataclass(frozen=True, eq=False)
class Eyes:
    """The eyes of m people: who they are, of which block, and where (m, 3)."""

    names: tuple[str, ...]
    groups: tuple[str, ...]
    items: tuple[str, ...]
    places: Floats


def eyes_of(show: Show) -> Eyes:
    """Everybody's eyes: seats, whoever sits in them, and those who stand or play."""
    found = [(seat.name, seat.group, seat.id.split("/", 1)[0], seat.eye) for seat in seats(show)]
    found += [
        (body.name, body.group, item.id, eye_of(body))
        for item, body in show.bodies(Figure)
        if body.pose != "sitting" and not show.hidden(item)
    ]
    names, groups, items, places = zip(*found, strict=True) if found else ((), (), (), ())
    return Eyes(tuple(names), tuple(groups), tuple(items), np.array(places, dtype=float).reshape(-1, 3))


def _still(items: Sequence[Item]) -> list[Item]:
    return [item for item in items if not isinstance(item.body, Crowd | Figure)]


_caster: Memo[tuple[Caster, tuple[str, ...]]] = Memo(
    lambda meshes, poses, *items: _caster_of(Show({item.id: item for item in items}, {}, meshes, poses=poses)), 6
)


def _caster_of(show: Show) -> tuple[Caster, tuple[str, ...]]:
    found = solids(show, show.items.values())
    met = [solid for solid in found if solid.sheer[0] == 0]
    return Caster(found), tuple(solid.finish for solid in met)


def in_the_way(show: Show) -> tuple[Caster, tuple[str, ...]]:
    """Rays through all that stands still, people left out, and the finish of each solid that they meet."""
    items = [item for item in show.items.values() if item.is_a.solid and not show.hidden(item)]
    return _caster(show.meshes, show.poses, *_still(items))


def zone_holds(head: Head, angles: Floats) -> NDArray[np.bool_]:
    """Whether a head may send light at angles (..., 2)."""
    half = np.array([head.source.scan_across_deg, head.source.scan_up_deg]) / 2
    if not head.said.draws:
        return np.zeros(angles.shape[:-1], dtype=bool)
    swept: NDArray[np.bool_] = np.all(np.abs(angles) <= half + 1e-9, axis=-1)
    return np.asarray(holds(head.said.zone, angles) & swept)


def _wide(angles: Floats, far: Floats, clear_m: float) -> Floats:
    """How far to the right and up (m, 2), degrees, `clear_m` reaches at places: degrees to the right are narrower away
    from the head's own level."""
    up = np.degrees(np.arctan2(clear_m, np.maximum(far, 1e-6)))
    return np.stack([up / np.maximum(np.cos(np.radians(angles[:, 1])), 0.05), up], axis=-1)


def _nearest(head: Head, angles: Floats) -> Floats:
    """The angles (m, 2) in a head's zone that are nearest to angles, by its own field."""
    zone = head.said.zone
    half = np.array([head.source.scan_across_deg, head.source.scan_up_deg]) / 2
    uv = np.clip(field_of(zone, angles), [zone.left, zone.bottom], [zone.right, zone.top])
    return np.clip(laid(zone, uv), -half, half)


def reached(head: Head, eyes: Eyes, clear_m: float) -> NDArray[np.bool_]:
    """(m,) whose eyes are in a head's zone, or nearer to it than `clear_m`; what is in the way is left out."""
    if not len(eyes.places):
        return np.zeros(0, dtype=bool)
    angles, far = head.angles_to(eyes.places)
    ahead = np.abs(angles[:, 0]) < 90
    near = _nearest(head, angles) if head.said.draws else np.zeros_like(angles)
    off = np.linalg.norm((angles - near) / np.maximum(_wide(angles, far, clear_m), 1e-3), axis=1)
    return np.asarray(ahead & (off <= 1.0))


def _lit(head: Head) -> bool:
    return head.share > LEAST_SHARE and (head.zone_on or not head.said.draws)


def _people(show: Show, head: Head, eyes: Eyes, caster: Caster) -> list[Crossing]:
    settings = show.settings
    hit = np.flatnonzero(reached(head, eyes, settings.laser_clear_m))
    if len(hit):
        start = np.tile(np.asarray(head.place), (len(hit), 1))
        hit = hit[caster.sees(start, eyes.places[hit])]
    if not len(hit):
        return []
    far = np.linalg.norm(eyes.places[hit] - np.asarray(head.place), axis=1)
    strength = irradiance_w_m2(head.beam, far, head.share)
    found = []
    for group in dict.fromkeys(eyes.groups[i] for i in hit):
        of_group = [k for k, i in enumerate(hit) if eyes.groups[i] == group]
        worst = max(of_group, key=lambda k: float(strength[k]))
        i = int(hit[worst])
        more = f" and {len(of_group) - 1} more" if len(of_group) > 1 else ""
        who = f"{group}, {eyes.names[i]}{more}" if group else f"{eyes.names[i]}{more}"
        ids = tuple(dict.fromkeys(eyes.items[hit[k]] for k in of_group))
        found.append(Crossing(head, "people", vec(eyes.places[i]), who, ids, len(of_group),
                              float(strength[worst]), settings.laser_limit_w_m2))  # fmt: skip
    return found


def _landing(show: Show, head: Head, caster: Caster, finishes: Sequence[str]) -> list[Crossing]:
    angles = grid(head.said.zone, ACROSS, UP) if head.said.draws else np.zeros((1, 2))
    if head.said.draws:
        angles = angles[zone_holds(head, angles)]
    if not len(angles):
        return []
    ways = head.toward(angles)
    start = np.asarray(head.place) + ways * HAIR
    met = caster.first(start, ways)
    found = []
    limit = show.settings.laser_limit_w_m2
    out = np.flatnonzero(~np.isfinite(met.distance))
    if len(out):
        place = np.asarray(head.place) + ways[out].mean(axis=0) * 20.0
        strength = float(irradiance_w_m2(head.beam, OPEN_M, head.share))
        who = f"leaves the venue, {round(100 * len(out) / len(angles))} % of its zone" if head.said.draws else (
            "leaves the venue")  # fmt: skip
        found.append(Crossing(head, "open", vec(place), who, (), len(out), strength, 0.0))
    shines = {i for i, finish in enumerate(finishes) if finish in REFLECTS}
    for thing in sorted({int(t) for t in met.thing if int(t) in shines}):
        rows = np.flatnonzero(met.thing == thing)
        near = rows[int(np.argmin(met.distance[rows]))]
        item = caster.names[thing].split("/", 1)[0]
        strength = float(irradiance_w_m2(head.beam, met.distance[near], head.share))
        where = start[near] + ways[near] * met.distance[near]
        found.append(Crossing(head, "reflective", vec(where), show.items[item].name if item in show.items else "",
                              (item,), len(rows), strength, limit))  # fmt: skip
    return found


def crossings(show: Show, values: Mapping[str, Mapping[str, float]] | None = None) -> list[Crossing]:
    """What every lit head of a show may reach; by values of features, or without them at full power. Of all that is
    reached, also what stays below the limit (`over`)."""
    heads = [head for head in heads_of(show, values) if _lit(head)]
    if not heads:
        return []
    eyes = eyes_of(show)
    caster, finishes = in_the_way(show)
    found = []
    for head in heads:
        found += _people(show, head, eyes, caster) + _landing(show, head, caster, finishes)
    return found


def _area(zone: Zone) -> float:
    return max(zone.right - zone.left, 0.0) * max(zone.top - zone.bottom, 0.0)


def _cuts(zone: Zone, uv: Floats) -> list[Zone]:
    """A zone with each of its sides drawn in until none of some places of its field (m, 2) is within."""
    low, high = uv.min(axis=0) - HAIR, uv.max(axis=0) + HAIR
    return [
        replace(zone, bottom=float(high[1])),
        replace(zone, top=float(low[1])),
        replace(zone, left=float(high[0])),
        replace(zone, right=float(low[0])),
    ]


def cut_zone(head: Head, eyes: Eyes, clear_m: float) -> Zone | None:
    """A head's zone with the side drawn in that costs the least, so that no eyes are in it or nearer than `clear_m`.
    None: nothing worth drawing in would be left."""
    zone = head.said.zone
    if not len(eyes.places):
        return zone
    whole = _area(zone)
    for _ in range(CUTS):
        now = replace(head, said=replace(head.said, zone=zone))
        hit = reached(now, eyes, clear_m)
        if not hit.any():
            return zone
        zone = max(_cuts(zone, field_of(zone, _in_zone(now, eyes.places[hit], clear_m))), key=_area)
        if zone.right - zone.left < LEFT or zone.top - zone.bottom < LEFT or _area(zone) < LEFT * whole:
            return None
    return None


def _in_zone(head: Head, places: Floats, clear_m: float) -> Floats:
    """Angles (n, 2) within a head's zone that places, and what is so far round them, are at: they are to go."""
    angles, far = head.angles_to(places)
    turn = np.arange(ROUND) / ROUND * 2 * np.pi
    # A polygon about the circle, so that none of that is left between its corners.
    ring = np.stack([np.cos(turn), np.sin(turn)], axis=-1) / np.cos(np.pi / ROUND)
    around = (angles[:, None] + ring * _wide(angles, far, clear_m)[:, None]).reshape(-1, 2)
    return np.concatenate([around[zone_holds(head, around)], _nearest(head, angles)])


def seen_eyes(show: Show, head: Head) -> Eyes:
    """The eyes that a head could reach if its zone did: nothing stands in the way."""
    eyes = eyes_of(show)
    caster, _ = in_the_way(show)
    if not len(eyes.places):
        return eyes
    rows = np.flatnonzero(caster.sees(np.tile(np.asarray(head.place), (len(eyes.places), 1)), eyes.places))
    names, groups, items = (tuple(of[i] for i in rows) for of in (eyes.names, eyes.groups, eyes.items))
    return Eyes(names, groups, items, eyes.places[rows])
