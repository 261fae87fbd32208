"""What turns when a fixture is aimed: its head, or by hand its yoke; and which of its lenses the aim is taken by."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from zarfwright.core.memo import Memo
from zarfwright.core.rig.held import holding
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.space import vec
from zarfwright.core.types.chain import DARK, Chain, chains_of
from zarfwright.core.types.model import FixtureType


def _middle(fixture_type: FixtureType, mode: str) -> Chain:
    """The chain that aims: of the one lens, of the middle between lenses that turn together, else of the first."""
    chains = chains_of(fixture_type, mode)
    first = chains[0]
    together = all(
        (one.pan_node, one.tilt_node, one.lens_turn, one.mount_turn, one.tilt_offset)
        == (first.pan_node, first.tilt_node, first.lens_turn, first.mount_turn, first.tilt_offset)
        for one in chains
    )
    if len(chains) == 1 or not together:
        return first
    return replace(first, lens_offset=vec(np.mean([one.lens_offset for one in chains], axis=0)))


aiming_chain = Memo(_middle, 500)
"""The chain of a type in a mode that aims are taken by."""


def chain_for(show: Show, fixture: Fixture) -> Chain:
    """The chain that a fixture is aimed by. Raises JobError when its type is lost."""
    return aiming_chain(show.type_of(fixture), fixture.mode)


def turns_by_hand(chain: Chain) -> bool:
    """Whether it is aimed by turning its yoke: it gives light and nothing of it moves by itself."""
    return not chain.moves and chain.beam is not DARK


def angles_now(fixture: Fixture, chain: Chain) -> tuple[float, float]:
    """Pan and tilt in radians as they are set: of what is turned by hand at the lamp, of a head as it is held."""
    held = fixture.hands if chain.moves else fixture.fixed
    return held.get("pan", 0.0), held.get("tilt", 0.0)


def with_angles(fixture: Fixture, chain: Chain, pan: float, tilt: float) -> Fixture:
    """The fixture with its head held, or its yoke set, at these angles in radians."""
    if chain.moves:
        return holding(fixture, {"pan": pan, "tilt": tilt})
    return replace(fixture, fixed={**fixture.fixed, "pan": pan, "tilt": tilt})
