"""What structures carry, and how high they hang over what is below them."""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from zarfwright.core.raycast import Caster
from zarfwright.core.scene import solids
from zarfwright.core.show import Item, Show
from zarfwright.core.site.structures import axis_length_m, weight_kg
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats

POINT_EVERY_M = 6.0
"""Where no points are told, there is one at least for so much of a structure."""


def height_below(show: Show, places: Floats, without: Collection[str] = ()) -> Floats:
    """The height of the highest thing to stand on under each place (n, 3); the datum where there is none."""
    under = (item for item in show.items.values() if item.is_a.stood_on or item.is_a.around)
    ground = [item for item in under if item.id not in without and not show.hidden(item)]
    if not ground:
        return np.zeros(len(places))
    met = Caster(solids(show, ground)).first(places, np.tile([0.0, 0.0, -1.0], (len(places), 1)))
    return np.where(np.isfinite(met.distance), places[:, 2] - met.distance, 0.0)


@dataclass(frozen=True)
class Load:
    """What a structure carries, spread evenly: an estimate, no structural proof. Weights in kilograms."""

    own_kg: float
    fixtures: int
    fixtures_kg: float
    points: int
    told: bool
    """Whether the points are the structure's own, or as many as are usual for its length."""
    over_m: float
    """How high its lowest rail is over what is below its middle."""

    @property
    def point_kg(self) -> float:
        return (self.own_kg + self.fixtures_kg) / self.points


def weights(show: Show) -> dict[str, tuple[float, float]]:
    """Of every structure: its own weight and that of the fixtures on it, kilograms."""
    found = {item.id: [weight_kg(item.body), 0.0] for item in show.of_kind("truss") if isinstance(item.body, Truss)}
    for _, fixture in show.fixtures():
        if fixture.hang is not None and fixture.hang.structure in found and fixture.type in show.types:
            found[fixture.hang.structure][1] += show.types[fixture.type].weight_kg
    return {key: (own, hung) for key, (own, hung) in found.items()}


def points_of(truss: Truss) -> int:
    """By how many points it is held: its own, else as many as are usual for its length."""
    usual = {"upright": 1, "arc": 3}.get(truss.form) or max(2, math.ceil(axis_length_m(truss) / POINT_EVERY_M) + 1)
    return truss.hoists or usual


def load_of(show: Show, item: Item) -> Load:
    """What a structure carries. Its points share it alike, for each has as much of its length."""
    truss = item.body
    assert isinstance(truss, Truss)
    hung = [fixture for _, fixture in show.fixtures() if fixture.hang and fixture.hang.structure == item.id]
    kilograms = sum(show.types[fixture.type].weight_kg for fixture in hung if fixture.type in show.types)
    middle = np.array([truss.position])
    over = float(truss.position[2] - height_below(show, middle - [0.0, 0.0, 0.01])[0])
    return Load(weight_kg(truss), len(hung), kilograms, points_of(truss), truss.hoists > 0, over)
