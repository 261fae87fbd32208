"""The fixtures of a rig as decoding needs them: which type and mode, and where in the universes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from zarfwright.core.types.model import Chromaticity, FixtureType, Mode

SLOTS = 512
Address = tuple[int, int]
"""Universe and slot."""


@dataclass(frozen=True)
class PatchRow:
    """One fixture as the decoder needs it. Without universe or address it is not driven by DMX."""

    fixture: str
    type: FixtureType
    mode: str
    universe: int | None
    address: int | None
    breaks: tuple[tuple[int, int, int], ...] = ()
    """Where its further breaks are, as (break, universe, slot); one that is not named follows the one before it."""
    gel: Chromaticity | None = None
    """The filter before all of its beams."""
    lens_deg: float | None = None
    """The field angle of the lens tube in it, where that is not its type's."""
    lamp: tuple[float, float | None] | None = None
    """The flux of the lamp in it as a share of its type's, and its colour temperature; None: its type's."""

    draws: bool = False
    """It is a laser that takes a feed: its light is in the figure, and it has no still beam."""

    def places(self) -> dict[int, Address]:
        """The address of each break; none where it is not patched."""
        if self.universe is None or self.address is None:
            return {}
        return break_places(self.type.mode(self.mode), (self.universe, self.address), self.breaks)


def sent(row: PatchRow, type_key: str) -> list[Any]:
    """A row as the live process is told it: its type by a key."""
    gel = (row.gel.x, row.gel.y, row.gel.luminance) if row.gel else None
    return [
        row.fixture, type_key, row.mode, row.universe, row.address, row.breaks, gel, row.lens_deg, row.lamp,
        row.draws,
    ]  # fmt: skip


def received(told: Sequence[Any], types: Mapping[str, FixtureType]) -> PatchRow:
    """A row from what the live process was told."""
    fixture, type_key, mode, universe, address, breaks, gel, lens_deg, lamp, draws = told
    return PatchRow(
        fixture,
        types[type_key],
        mode,
        universe,
        address,
        tuple((b, u, a) for b, u, a in breaks),
        Chromaticity(*gel) if gel else None,
        lens_deg,
        (lamp[0], lamp[1]) if lamp else None,
        bool(draws),
    )


def break_places(mode: Mode, start: Address, named: Sequence[tuple[int, int, int]]) -> dict[int, Address]:
    """The address of each break of a mode: as named, else right after the break before it."""
    given = {number: (universe, address) for number, universe, address in named}
    places: dict[int, Address] = {}
    universe, address = start
    for i, (number, size) in enumerate(mode.footprints.items()):
        if i > 0 and number in given:
            universe, address = given[number]
        elif i > 0 and address + size - 1 > SLOTS:
            universe, address = universe + 1, 1
        places[number] = (universe, address)
        address += size
    return places


def beam_keys(fixture: str, count: int) -> list[str]:
    """What the rows of a fixture's beams are called: its own id, or id/1, id/2 ... where it has several cells."""
    return [fixture] if count == 1 else [f"{fixture}/{cell + 1}" for cell in range(count)]


def fixture_of(key: str) -> str:
    """Whose beam a row of that name is."""
    return key.split("/", 1)[0]
