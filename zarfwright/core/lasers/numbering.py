"""In which order lasers are counted: as one reads them from the house, left to right in rows from the top down."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Item, Show

ROW_M = 0.6
"""Heads no further apart in height than this are in one row."""


def read_from_house(show: Show, items: Sequence[Item]) -> list[Item]:
    """The heads row by row from the top, each row from stage right to stage left: left to right from the house. Heads
    one behind the other go from downstage."""
    placed = []
    for item in items:
        assert isinstance(item.body, Fixture)
        placed.append((item, np.asarray(clamp_placement(show, item.body).position)))
    placed.sort(key=lambda pair: -float(pair[1][2]))
    rows: list[list[tuple[Item, np.ndarray[tuple[int, ...], np.dtype[np.float64]]]]] = []
    for pair in placed:
        if rows and float(rows[-1][0][1][2] - pair[1][2]) <= ROW_M:
            rows[-1].append(pair)
        else:
            rows.append([pair])
    return [
        item
        for row in rows
        for item, _ in sorted(row, key=lambda pair: (round(float(pair[1][0]), 3), float(pair[1][1])))
    ]
