"""Looks: physical values kept by fixture, not DMX, so that they outlive patch and mode."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.compiled import compiled_show
from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.dmx.features import FEATURES
from zarfwright.core.drive import value_rows, with_fixed
from zarfwright.core.patch import fixed_of
from zarfwright.core.settings import Look
from zarfwright.core.show import Show
from zarfwright.core.space import Floats

Values = Mapping[str, Mapping[str, float]]


def kept_values(keys: Sequence[str], features: Floats) -> dict[str, dict[str, float]]:
    """What is seen, (n, COUNT), as a look keeps it; rounded to a millionth so that a show file stays small."""
    names = [feature.name for feature in FEATURES]
    rows = np.round(features, 6).tolist()
    return {key: dict(zip(names, row, strict=True)) for key, row in zip(keys, rows, strict=True)}


def look_features(rig: CompiledRig, look: Look, fixed: Values | None = None) -> Floats:
    """The features of a look alone, (n, COUNT): what it does not say is at home, what is set at the lamps stays."""
    said = value_rows(rig, look.values)
    return with_fixed(np.where(np.isnan(said), rig.home, said), value_rows(rig, fixed or {}))


def look_frame(show: Show, look: Look) -> NDArray[np.float32]:
    """The picture of a look alone, beams of shape (n, fields): what it does not say is at home."""
    made = compiled_show(show)
    return made.beams.frame(look_features(made.rig, look, fixed_of(show)))


def next_number(show: Show) -> int:
    """The number after the last look's."""
    return max((look.number for _, look in show.bodies(Look)), default=0) + 1
