"""Plain bodies that stand for types of which nobody has a file: their slots, and a dimmer on the first one."""

from __future__ import annotations

from collections.abc import Sequence

from zarfwright.core.exchange.scene import FoundType
from zarfwright.core.types.model import BeamSource, FixtureType
from zarfwright.core.types.shop.build import build
from zarfwright.core.types.shop.draft import Draft, DraftBody, DraftChannel, DraftMode, DraftRange

STAND_IN = "Stand-in"
"""The maker of them."""
SLOTS_MOST = 512


def stand_in(found: FoundType, modes_used: Sequence[str]) -> FixtureType:
    """A plain body with the modes of a type that nobody has: their slots, a dimmer on the first one."""
    names = modes_used or ("Mode 1",)
    modes = tuple(_plain_mode(name or "Mode 1", found.footprints.get(name, 1)) for name in dict.fromkeys(names))
    beam = BeamSource("Wash", "LED", 5_000.0, 5600.0, 20.0, 26.0, 0.06, 100.0)
    draft = Draft(
        f"{STAND_IN} for {found.name}", STAND_IN, "par", DraftBody(0.3, 0.3, 0.4), beam, modes,
        description=f"Stands for {found.maker} {found.name}, of which there is no file: swap it when there is one.",
        weight_kg=8.0,
    )  # fmt: skip
    return build(draft, {})


def _plain_mode(name: str, slots: int) -> DraftMode:
    def channel(slot: int) -> DraftChannel:
        attribute = "Dimmer" if slot == 1 else "NoFeature"
        part = "Lens" if slot == 1 else "Body"
        ranges = (DraftRange(0, 255, attribute, name=f"Slot {slot}"),)
        return DraftChannel(part, (slot,), ranges, key="" if slot == 1 else f"Slot {slot}")

    return DraftMode(name, tuple(channel(slot) for slot in range(1, max(min(slots, SLOTS_MOST), 1) + 1)))


def is_stand_in(fixture_type: FixtureType) -> bool:
    """Whether a type only stands for one that nobody has."""
    return fixture_type.maker == STAND_IN
