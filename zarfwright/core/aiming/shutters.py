"""What blades and barn doors a type has, and how far they go."""

from __future__ import annotations

import math

from zarfwright.core.aiming.blades import Blades
from zarfwright.core.aiming.coloured import driven
from zarfwright.core.aiming.yokes import aiming_chain, turns_by_hand
from zarfwright.core.types.model import FixtureType, Mode

BY_HAND = Blades(math.radians(35.0), 0.0, False)
"""What the shutters of a profile do that are pushed in by hand."""
DOORS = Blades(0.0, math.radians(45.0), False)
"""Barn doors are swung in square; the frame that holds them turns."""
HARD, WITH_DOORS = {"Spot", "Rectangle"}, {"Fresnel", "PC"}


def _range(mode: Mode, attribute: str) -> float:
    """How far a channel turns either way, radians; 0 where there is none."""
    ends = [
        abs(end)
        for channel in mode.channels
        for f in channel.functions
        if f.attribute == attribute
        for end in f.physical
    ]
    return math.radians(max(ends, default=0.0))


def blades_of(fixture_type: FixtureType, mode_name: str) -> Blades | None:
    """What the blades of a type in a mode can do; None where it has none."""
    able, mode = driven(fixture_type, mode_name), fixture_type.mode(mode_name)
    if "blade 1" in able:
        return Blades(_range(mode, "Blade1Rot"), _range(mode, "ShaperRot"), "blade 1 far" in able)
    chain = aiming_chain(fixture_type, mode_name)
    if not turns_by_hand(chain):
        return None
    return BY_HAND if chain.beam.kind in HARD else DOORS if chain.beam.kind in WITH_DOORS else None
