"""Looks: physical values kept by fixture, not DMX, so that they outlive patch and mode."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.drive import value_rows, with_fixed
from zarfwright.core.patch import compiled_show, fixed_of
from zarfwright.core.settings import Look
from zarfwright.core.show import Show
from zarfwright.core.space import Floats

Values = Mapping[str, Mapping[str, float]]


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
