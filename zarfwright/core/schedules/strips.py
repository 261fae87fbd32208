"""Labels to be cut out and stuck on: one for each fixture's body, and strips for structures with what hangs where."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

from zarfwright.core.rig.things import Fixture
from zarfwright.core.schedules.rig import FREE, address_of, in_position_order, position_of, where_on
from zarfwright.core.show import Show
from zarfwright.core.units import format_length


@dataclass(frozen=True)
class BodyLabel:
    """What stands on a fixture: its number large, then where it hangs and what it is."""

    number: str
    address: str
    place: str
    type: str
    purpose: str
    colour: str


@dataclass(frozen=True)
class StripCell:
    """One place of a structure: how far along, and all that hangs there (unit, number, type)."""

    along: str
    hung: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True)
class Strip:
    """The strip of a structure, from its start to its end (of a boom from the top down)."""

    name: str
    cells: tuple[StripCell, ...]


def _word(value: int | None) -> str:
    return "" if value is None else str(value)


def body_labels(show: Show) -> list[BodyLabel]:
    """A label for each fixture, in the order in which they are hung."""
    made = []
    for _, fixture in in_position_order(show):
        place = position_of(show, fixture)
        unit = f"{place}, unit {fixture.unit}" if fixture.unit is not None else place
        colour = fixture.gel.name if fixture.gel else ""
        made.append(BodyLabel(_word(fixture.number) or "no number", address_of(fixture), unit,
                              show.types[fixture.type].name, fixture.purpose, colour))  # fmt: skip
    return made


def strips(show: Show) -> list[Strip]:
    """A strip for each structure that something hangs on; what hangs within a centimetre is in one place."""
    made = []
    pairs = [(position_of(show, fixture), fixture) for _, fixture in in_position_order(show)]
    for name, of in groupby(pairs, key=lambda pair: pair[0]):
        if name != FREE:
            made.append(Strip(name, _cells(show, [fixture for _, fixture in of])))
    return made


def _cells(show: Show, fixtures: Sequence[Fixture]) -> tuple[StripCell, ...]:
    cells = []
    for along, at in groupby(fixtures, key=lambda one: (where_on(show, one)[0][:3] == "arm", _along(one))):
        hung = tuple((_word(one.unit), _word(one.number) or "–", show.types[one.type].name) for one in at)
        arm, far = along
        text = format_length(far / 100, show.settings.system)
        cells.append(StripCell(f"on its arm, {text}" if arm else text, hung))
    return tuple(cells)


def _along(fixture: Fixture) -> int:
    """How far along it hangs, centimetres."""
    return round(fixture.hang.along_m * 100) if fixture.hang is not None else 0
