"""In which order fixtures are counted: along what they hang on, round what they stand about, or across the stage."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Item, Show
from zarfwright.core.site.structures import Rail, truss_rails
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats

Key = tuple[float, ...]
ROUND = 0.06
"""How far from a circle places may lie, as a share of its radius."""
GAP_DEG = 150.0
"""A wider gap than this between two of them, and it is a bow and no turn."""


def _share(rail: Rail, along_m: float) -> float:
    """How far along a rail: from its start where it is bent, else from its end that is further stage right, or further
    downstage where it runs up and down the stage."""
    share = along_m / rail.length_m if rail.length_m else 0.0
    if rail.bend is not None:
        return share
    (x0, y0, _), (x1, y1, _) = rail.start, rail.end
    backwards = x0 > x1 + 1e-6 or (abs(x0 - x1) <= 1e-6 and y0 > y1 + 1e-6)
    return 1.0 - share if backwards else share


def along_rails(show: Show, pairs: Sequence[tuple[Item, Fixture]]) -> list[Key]:
    """Structure by structure in the show's order, along each; what hangs on none comes last, from stage right."""
    structures = {item.id: float(n) for n, item in enumerate(show.of_kind("truss"))}
    keys: list[Key] = []
    for _, fixture in pairs:
        x, y, _z = clamp_placement(show, fixture).position
        hang = fixture.hang
        body = show.items[hang.structure].body if hang is not None and hang.structure in show.items else None
        if hang is None or not isinstance(body, Truss):
            keys.append((float("inf"), round(x, 3), y))
            continue
        rails = truss_rails(body)
        keys.append((structures[hang.structure], round(_share(rails[hang.rail], hang.along_m), 6), y))
    return keys


def _turn(places: Floats) -> list[float] | None:
    """The angles of places about the circle that they lie on, from upstage by stage right; None where they lie on none
    or on a part of one."""
    if len(places) < 5:
        return None
    flat = places[:, :2] - places[:, :2].mean(axis=0)
    design = np.column_stack([2 * flat, np.ones(len(flat))])
    (x, y, c), *_ = np.linalg.lstsq(design, (flat**2).sum(axis=1), rcond=None)
    radius = float(np.sqrt(max(c + x * x + y * y, 0.0)))
    off = flat - [x, y]
    if radius < 0.2 or np.abs(np.linalg.norm(off, axis=1) - radius).max() > ROUND * radius:
        return None
    angles = np.degrees(np.arctan2(-off[:, 0], off[:, 1])) % 360.0
    ordered = np.sort(angles)
    gaps = np.diff([*ordered, ordered[0] + 360.0])
    return None if gaps.max() > GAP_DEG else [float(round(angle, 3) % 360.0) for angle in angles]


def by_place(show: Show, pairs: Sequence[tuple[Item, Fixture]]) -> list[Key]:
    """Along the one structure that all hang on, round the circle that all lie on, else from stage right, downstage
    first where they are one behind the other."""
    structures = {fixture.hang.structure if fixture.hang is not None else "" for _, fixture in pairs}
    if len(structures) == 1 and "" not in structures:
        return along_rails(show, pairs)
    places = np.array([clamp_placement(show, fixture).position for _, fixture in pairs])
    turn = _turn(places)
    if turn is not None:
        return [(angle, 0.0) for angle in turn]
    return [(round(float(x), 3), float(y)) for x, y, _ in places]
