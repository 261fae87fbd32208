"""What is held by hand of a fixture: of all its cells, and of single ones over that."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace

from zarfwright.core.rig.things import Fixture


def rows_held(key: str, fixture: Fixture) -> dict[str, dict[str, float]]:
    """What is held, by the fixture and by its cells (`id/3`), as looks and frames name them; nothing held: no row."""
    rows = {key: fixture.hands} if fixture.hands else {}
    return rows | {f"{key}/{cell}": values for cell, values in fixture.cells.items() if values}


def holding(fixture: Fixture, values: Mapping[str, float]) -> Fixture:
    """The fixture with features held on all of its cells, whatever single ones were held at."""
    return replace(without_cells(fixture, values), hands={**fixture.hands, **values})


def holding_cells(fixture: Fixture, cells: Iterable[int], values: Mapping[str, float]) -> Fixture:
    """The fixture with features held on some of its cells (from 1)."""
    more = {str(cell): {**fixture.cells.get(str(cell), {}), **values} for cell in cells}
    return replace(fixture, cells={**fixture.cells, **more})


def without_cells(fixture: Fixture, features: Collection[str]) -> Fixture:
    """The fixture with these features let go of on single cells."""
    if not fixture.cells:
        return fixture
    kept = {cell: {k: v for k, v in held.items() if k not in features} for cell, held in fixture.cells.items()}
    return replace(fixture, cells={cell: held for cell, held in kept.items() if held})
