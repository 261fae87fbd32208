"""What a fixture of a scene comes to: the standard's word, then what this program wrote, then what the show has."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from zarfwright.core.dmx.rows import break_places
from zarfwright.core.exchange.places import same
from zarfwright.core.exchange.rows import Rows, rows_of, turn_and_rest
from zarfwright.core.exchange.scene import FixtureSaid, Thing
from zarfwright.core.rig.gels import Gel
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.rails import nearest_rail
from zarfwright.core.rig.things import Aim, Fixture, FocusPoint
from zarfwright.core.show import Show
from zarfwright.core.site.structures import truss_rails
from zarfwright.core.site.things import Truss
from zarfwright.core.space import vec
from zarfwright.core.types.model import FixtureType, Mode

BESIDE_M = 0.6
"""A head that is no further than this from a rail was most likely meant to hang on it."""


@dataclass(frozen=True)
class TypeUse:
    """The type that fixtures of a name are to be of, and its modes by those that the file names."""

    id: str
    type: FixtureType
    modes: Mapping[str, str]

    def mode(self, named: str) -> Mode:
        """The mode for one that the file names."""
        return self.type.mode(self.modes.get(named) or self.type.modes[0].name)


def lamp(thing: Thing, said: FixtureSaid, use: TypeUse, base: Fixture | None, after: Show) -> Fixture:
    """A fixture as the scene has it. `base` is what is known of it besides; `after` is the show with the structures and
    focus points of the scene in their places."""
    mode = use.mode(said.mode)
    known = base or Fixture(use.id, mode.name)
    made = replace(
        known,
        type=use.id,
        mode=mode.name,
        number=said.number,
        unit=said.unit if said.unit is not None else known.unit,
        purpose=said.purpose if said.purpose is not None else known.purpose,
        gel=_gel(known.gel, said),
    )
    if known.type != use.id:
        # What was held and set belongs to another lamp.
        made = replace(made, hands={}, cells={}, fixed={}, lamp=None, lens_deg=None)
    universe, address, breaks = _addresses(said, mode)
    made = replace(made, universe=universe, address=address, breaks=breaks)
    return _aimed(_hung(made, thing.place, after), said, after)


def _gel(known: Gel | None, said: FixtureSaid) -> Gel | None:
    if said.colour is None:
        return known
    x, y, luminance = said.colour
    if known is not None and np.allclose((known.x, known.y, known.luminance), said.colour, atol=1e-4):
        return known
    return Gel("Own", x, y, luminance, own=True)


Breaks = tuple[tuple[int, int, int], ...]


def _addresses(said: FixtureSaid, mode: Mode) -> tuple[int | None, int | None, Breaks]:
    """Universe and slot of its first break, and its further ones. Breaks that the mode does not have go by their
    order."""
    numbers = list(mode.footprints)
    if not said.addresses:
        return None, None, ()
    given = sorted(said.addresses)
    if not all(number in numbers for number, _, _ in given):
        given = [(number, place[1], place[2]) for number, place in zip(numbers or [1], given, strict=False)]
    first = numbers[0] if numbers else 1
    start = next((place for place in given if place[0] == first), None)
    if start is None:
        return None, None, ()
    further = tuple((number, universe, slot) for number, universe, slot in given if number != first)
    return start[1], start[2], _not_following(mode, start[1:], further)


def _not_following(mode: Mode, start: tuple[int, int], further: Breaks) -> Breaks:
    """The further breaks; none where they lie where they would without being named."""
    plain = break_places(mode, start, ())
    return () if all(plain.get(n) == (u, s) for n, u, s in further) else further


def _hung(fixture: Fixture, place: Rows, after: Show) -> Fixture:
    """The fixture at its place: on its rail where that brings it there, else standing free."""
    if fixture.hang is not None:
        item = after.items.get(fixture.hang.structure)
        if item is not None and isinstance(item.body, Truss):
            there = fixture.hang.rail in truss_rails(item.body)
            if there and same(rows_of(clamp_placement(after, fixture)), place):
                return replace(fixture, placement=None)
    if fixture.placement is not None and same(rows_of(fixture.placement), place):
        return replace(fixture, hang=None)
    return replace(fixture, hang=None, placement=turn_and_rest(place)[0])


def _aimed(fixture: Fixture, said: FixtureSaid, after: Show) -> Fixture:
    """The fixture aimed at the focus point that the scene names."""
    point = after.items.get(said.focus or "")
    if point is None or not isinstance(point.body, FocusPoint):
        return fixture
    if fixture.aim is not None and fixture.aim.point == point.id:
        return fixture
    # A place off the point has whatever is aimed turned there anew (aiming/follow.py).
    off = vec(np.array(point.body.position) + [0.0, 0.0, 1.0])
    return replace(fixture, aim=Aim(off, point.id))


@dataclass(frozen=True)
class Beside:
    """Heads that came in beside a structure: they can be put back on its rails."""

    structure: str
    ids: tuple[str, ...]
    nearest_m: float
    furthest_m: float


def beside(show: Show, ids: list[str]) -> list[Beside]:
    """The fixtures among some that stand free within reach of a rail, structure by structure."""
    structures = [item for item in show.of_kind("truss") if not show.hidden(item)]
    found: dict[str, list[tuple[float, str]]] = {}
    for key in ids:
        body = show.items[key].body
        if not isinstance(body, Fixture) or body.hang is not None or body.placement is None:
            continue
        near = nearest_rail(structures, np.array(body.placement.position))
        if near is not None and near.away_m <= BESIDE_M:
            found.setdefault(near.structure, []).append((near.away_m, key))
    return [
        Beside(structure, tuple(key for _, key in ones), min(ones)[0], max(ones)[0])
        for structure, ones in found.items()
    ]
