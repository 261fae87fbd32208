"""The cells of a fixture, each with a beam of its own."""

from __future__ import annotations

from collections.abc import Sequence

from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.types.chain import chains_of


def cells_of(show: Show, fixture: Fixture) -> int:
    """How many cells a fixture has: one where its type is lost."""
    return len(chains_of(show.types[fixture.type], fixture.mode)) if fixture.type in show.types else 1


def cells_among(show: Show, fixture: Fixture, cells: Sequence[int]) -> list[int]:
    """Those of some cells that a fixture has; none of what has only one: it is held as a whole."""
    count = cells_of(show, fixture)
    return [cell for cell in cells if cell <= count] if count > 1 else []
