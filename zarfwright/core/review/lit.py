"""Who lights a place: how much of its light each beam gives, from where, and what keeps others away."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.optics.colour import LUMINANCE, RGB_TO_XYZ, cct_k
from zarfwright.core.optics.photometry import OFF_SURFACE_M, Beams, contribution
from zarfwright.core.raycast import SHORT_M, Caster
from zarfwright.core.show import Show
from zarfwright.core.space import Floats, Vec, vec

SHARE_LEAST = 1e-6
"""What gives less of the light than this is not listed."""


@dataclass(frozen=True)
class From:
    """What one beam gives to a place."""

    fixture: str
    cell: int
    """From 1; 1 where there is but one."""
    lux: float
    share: float
    """Of all the light there."""
    clear: float
    """Lux that it would give with nothing in its way."""
    direction: Vec
    """Unit: the way its light goes."""
    blocked_by: str | None
    """The name of what is in its way."""


@dataclass(frozen=True)
class Lit:
    """The light on a face."""

    lux: float
    x: float | None
    y: float | None
    cct_k: float | None
    parts: tuple[From, ...]
    """The strongest first."""


def blocked_by(show: Show, caster: Caster, start: Floats, at: Floats) -> str | None:
    """What stands between two places (3,), by name; None where nothing does."""
    way = at - start
    far = float(np.linalg.norm(way))
    met = caster.first(start[None], (way / far)[None])
    if float(met.distance[0]) >= far - SHORT_M:
        return None
    return name_of(show, caster.names[int(met.thing[0])])


def name_of(show: Show, key: str) -> str:
    """What a solid is called, by its key: the name of the item that it is a part of."""
    item = show.items.get(key.split("/", maxsplit=1)[0])
    return item.name if item is not None else key


def who_lights(show: Show, beams: Beams, rig: CompiledRig, caster: Caster, at: Floats, normal: Floats) -> Lit:
    """The light on a face at a place (3,) with a unit normal (3,): haze and bounced light are not in it."""
    rgb = np.zeros(3)
    found: list[From] = []
    for i in (int(row) for row in beams.lit()):
        clear = float(contribution(beams, i, at[None], normal[None])[0])
        if clear <= 0:
            continue
        got = float(contribution(beams, i, at[None], normal[None], caster)[0])
        colour = beams.colour_cd(i)
        rgb += got * colour
        blocked = None
        if got < clear * 0.999:
            blocked = blocked_by(show, caster, beams.lens[i], at + normal * OFF_SURFACE_M) or "something sheer"
        key = rig.keys[i]
        cell = int(key.split("/")[1]) if "/" in key else 1
        way = at - beams.apex[i]
        candela = float(colour @ LUMINANCE)
        found.append(From(rig.fixtures[i], cell, got * candela, 0.0, clear * candela,
                          vec(way / np.linalg.norm(way)), blocked))  # fmt: skip
    whole = float(rgb @ LUMINANCE)
    parts = tuple(
        From(one.fixture, one.cell, one.lux, one.lux / whole if whole > 0 else 0.0, one.clear, one.direction,
             one.blocked_by)
        for one in sorted(found, key=lambda one: (-one.lux, -one.clear))
        if one.clear > max(whole, 1.0) * SHARE_LEAST
    )  # fmt: skip
    xyz = rgb @ RGB_TO_XYZ.T
    if whole <= 1e-9 or xyz.sum() <= 0:
        return Lit(whole, None, None, None, parts)
    x, y = float(xyz[0] / xyz.sum()), float(xyz[1] / xyz.sum())
    return Lit(whole, x, y, cct_k(x, y), parts)
