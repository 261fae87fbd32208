"""The laser heads of a show: where each is, which way it looks, and what it has to draw with.

A head's axis is the way its still beam goes. Figures stand upright in the show: up is as near to the show's up as the
axis allows; of a head that looks straight up or down it is its own Y.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from zarfwright.core.dmx.features import INDEX
from zarfwright.core.dmx.rows import beam_keys
from zarfwright.core.drive import value_rows, with_fixed
from zarfwright.core.lasers.light import LaserBeam, beam_of, told_share
from zarfwright.core.lasers.zone import LaserHead
from zarfwright.core.lighting import Rig, rig_of
from zarfwright.core.memo import Memo
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Item, Show
from zarfwright.core.space import Floats, Vec, unit, vec
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.model import FixtureType, LaserSource

UPRIGHT = 0.985
"""A head whose axis is nearer to straight up or down than this cosine has its own way up."""


@dataclass(frozen=True, eq=False)
class Head:
    """One laser's beam as it stands in the show."""

    id: str
    """The fixture."""
    key: str
    """The row of the frame that it is: the fixture, or `id/2` of one with several."""
    name: str
    number: int | None
    said: LaserHead
    source: LaserSource
    beam: LaserBeam
    place: Vec
    """Where the light leaves it, metres in the show."""
    axes: Floats
    """(3, 3) right, up and along, unit vectors in the show as the head looks out."""
    share: float = 1.0
    """The share of its power that it is told to give."""
    zone_on: bool = True

    def toward(self, angles: Floats) -> Floats:
        """Unit ways (..., 3) in the show at angles (..., 2) in degrees."""
        a, b = np.radians(angles[..., 0]), np.radians(angles[..., 1])
        own = np.stack([np.sin(a) * np.cos(b), np.sin(b), np.cos(a) * np.cos(b)], axis=-1)
        return np.asarray(own @ self.axes)

    def angles_to(self, places: Floats) -> tuple[Floats, Floats]:
        """Angles (m, 2) in degrees and distances (m,) of places (m, 3) in the show."""
        way = places - np.asarray(self.place)
        far = np.linalg.norm(way, axis=-1)
        right, up, along = (way / np.maximum(far, 1e-9)[:, None] @ self.axes.T).T
        angles = np.stack([np.arctan2(right, along), np.arcsin(np.clip(up, -1, 1))], axis=-1)
        return np.degrees(angles), far


def upright_axes(along: Floats, own_up: Floats) -> Floats:
    """Right, up and along (3, 3) of a head whose axis is `along` and whose own way up is `own_up`."""
    up = own_up if abs(float(along[2])) > UPRIGHT else np.array([0.0, 0.0, 1.0])
    right = unit(np.cross(along, up))
    return np.stack([right, np.cross(right, along), along])


_laser_rows: Memo[tuple[LaserBeam | None, ...]] = Memo(
    lambda fixture_type, mode: tuple(beam_of(fixture_type, mode, chain) for chain in chains_of(fixture_type, mode)), 200
)


def lasers_in(fixture_type: FixtureType, mode: str) -> tuple[LaserBeam | None, ...]:
    """The light of each beam of a type in a mode; None of what is no laser."""
    return _laser_rows(fixture_type, mode)


def laser_beams(show: Show, item: Item, fixture: Fixture) -> Iterator[tuple[str, LaserSource, LaserBeam]]:
    """The beams of a fixture that are lasers': the row of the frame that each is, and what it has."""
    fixture_type = show.types[fixture.type]
    chains, lines = chains_of(fixture_type, fixture.mode), lasers_in(fixture_type, fixture.mode)
    for chain, beam, key in zip(chains, lines, beam_keys(item.id, len(lines)), strict=True):
        if beam is not None and chain.beam.laser is not None:
            yield key, chain.beam.laser, beam


def is_laser(show: Show, fixture: Fixture) -> bool:
    """Whether any beam of a fixture is a laser's."""
    return fixture.type in show.types and any(lasers_in(show.types[fixture.type], fixture.mode))


def lasers_of(show: Show) -> list[Item]:
    """The fixtures that are lasers, in their order."""
    return [item for item, fixture in show.lamps() if is_laser(show, fixture)]


def heads_of(show: Show, values: Mapping[str, Mapping[str, float]] | None = None) -> list[Head]:
    """Every laser of a show, turned as values of features have it (none: as it hangs) and at what they give of its
    power; without values all of it."""
    only = lasers_of(show)
    if not only:
        return []
    # Of the rig only what is asked of.
    kept = {item.id for item in only}
    rig = rig_of(replace(show, items={k: i for k, i in show.items.items() if i.kind != "fixture" or k in kept}))
    beams = rig.beams(values or {}, {})
    told = _told(rig, values)
    rows = {key: row for row, key in enumerate(rig.rig.keys)}
    found = []
    for item in only:
        fixture = item.body
        assert isinstance(fixture, Fixture)
        for key, source, beam in laser_beams(show, item, fixture):
            row = rows[key]
            axes = upright_axes(beams.along[row], beams.upward[row])
            said = told[row] if told is not None else None
            share = told_share(beam, said) if said is not None else 1.0
            on = said is None or bool(said[INDEX["zone"]] >= 0.5)
            found.append(Head(item.id, key, item.name, fixture.number, fixture.laser or LaserHead(),
                              source, beam, vec(beams.lens[row]), axes, share, on))  # fmt: skip
    return found


def _told(rig: Rig, values: Mapping[str, Mapping[str, float]] | None) -> Floats | None:
    """What each row of a rig is told by values of features (n, COUNT); None without values."""
    if values is None:
        return None
    said = value_rows(rig.rig, values)
    return with_fixed(np.where(np.isnan(said), rig.rig.home, said), rig.fixed)
