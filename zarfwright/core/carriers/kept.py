"""How heads that keep their aim have turned in a show as drivers have moved it."""

from __future__ import annotations

import numpy as np

from zarfwright.core.aiming.points import place_of
from zarfwright.core.aiming.solve import aim
from zarfwright.core.aiming.yokes import angles_now, chain_for
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.show import Show


def kept_aims(show: Show) -> dict[str, dict[str, float]]:
    """How heads that keep their aim have turned, where drivers have brought them or their places elsewhere."""
    if not show.moved:
        return {}
    kept = [
        (item.id, fixture, chain_for(show, fixture), place_of(show, fixture.aim))
        for item, fixture in show.lamps()
        if fixture.aim is not None and fixture.aim.kept and fixture.type in show.types
    ]
    if not kept:
        return {}
    now = [angles_now(fixture, chain) for _, fixture, chain, _ in kept]
    mounts = [clamp_placement(show, fixture) for _, fixture, _, _ in kept]
    found = aim([chain for _, _, chain, _ in kept], mounts, np.array([place for *_, place in kept]), now)
    return {
        key: {"pan": float(found.pan[i]), "tilt": float(found.tilt[i])} for i, (key, *_) in enumerate(kept)
    }  # fmt: skip
