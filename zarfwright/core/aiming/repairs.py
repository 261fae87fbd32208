"""What would let a fixture reach what it cannot: its body turned, or another rail."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from zarfwright.core.aiming.solve import aim
from zarfwright.core.aiming.yokes import angles_now, chain_for
from zarfwright.core.findings import Repair
from zarfwright.core.rig.hang import clamp_placement, hanging_frame
from zarfwright.core.rig.things import Fixture, Hang
from zarfwright.core.show import Item, Show
from zarfwright.core.site.structures import rail_label, truss_rails
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Placement, Vec, about, multiply, quat
from zarfwright.core.units import format_length

STEP_DEG = 15.0
STEP_M = 0.25
FURTHEST_M = 12.0


def _reaching(show: Show, fixture: Fixture, mounts: list[Placement], target: Vec) -> list[bool]:
    chain = chain_for(show, fixture)
    now = angles_now(fixture, chain)
    return [bool(one) for one in aim([chain] * len(mounts), mounts, target, [now] * len(mounts)).reaches]


def _turns() -> list[float]:
    steps = np.arange(STEP_DEG, 180.0 + 1e-9, STEP_DEG)
    return [float(sign * step) for step in steps for sign in (1.0, -1.0)]


def _about_itself(show: Show, item: Item, fixture: Fixture, target: Vec) -> Repair | None:
    """The least turn of its body that lets it reach: about its own upright axis, or about its rail."""
    turns = _turns()
    if fixture.hang is not None and isinstance(getattr(show.items.get(fixture.hang.structure), "body", None), Truss):
        hang, rail = fixture.hang, truss_rails(show.body(fixture.hang.structure, Truss))[fixture.hang.rail]
        spun = [replace(hang, spin_deg=hang.spin_deg + turn) for turn in turns]
        rolled = [replace(hang, turn_deg=hang.turn_deg + turn) for turn in turns]
        reach = _reaching(show, fixture, [hanging_frame(rail, one) for one in (*spun, *rolled)], target)
        tried = [("spin", hang.spin_deg, ""), ("about rail", hang.turn_deg, " about its rail")]
    else:
        place = clamp_placement(show, fixture)
        up = [quat(multiply(place.rotation, about((0.0, 0.0, 1.0), math.radians(turn)))) for turn in turns]
        reach = _reaching(show, fixture, [Placement(place.position, one) for one in up], target)
        tried = [("turn z", 0.0, "")]
    for k, (field, base, how) in enumerate(tried):
        found = [turn for turn, able in zip(turns, reach[k * len(turns) :], strict=False) if able]
        if found:
            to = (base + found[0] + 180.0) % 360.0 - 180.0
            text = f"={to:g}" if field != "turn z" else f"+={found[0]:g}"
            args = {"ids": [item.id], "field": field, "text": text}
            return Repair(f"Turn {item.name} by {abs(found[0]):.0f}°{how}", "set field", args)
    return None


def _spots(hang: Hang | None, truss: Truss) -> Iterable[tuple[str, Placement]]:
    """Places along the rails of a structure, hung as before."""
    like = hang or Hang("", "", 0.0)
    for name, rail in truss_rails(truss).items():
        for along in np.arange(0.0, rail.length_m + 1e-9, STEP_M).tolist():
            yield name, hanging_frame(rail, replace(like, rail=name, along_m=along))


def _elsewhere(show: Show, item: Item, fixture: Fixture, target: Vec) -> Repair | None:
    """The nearest place on a rail from which it could, hung as it hangs now."""
    here = np.array(clamp_placement(show, fixture).position)
    spots: list[tuple[float, str, str, Placement]] = []
    for structure, truss in show.bodies(Truss):
        if show.hidden(structure):
            continue
        for name, mount in _spots(fixture.hang, truss):
            away = float(np.linalg.norm(np.array(mount.position) - here))
            if 0.3 < away < FURTHEST_M:
                spots.append((away, structure.id, name, mount))
    spots.sort(key=lambda spot: spot[0])
    if not spots:
        return None
    reach = _reaching(show, fixture, [spot[3] for spot in spots], target)
    for (away, structure_id, name, mount), able in zip(spots, reach, strict=True):
        if able:
            far = format_length(away, show.settings.system)
            truss = show.body(structure_id, Truss)
            label = f"Hang {item.name} on {truss.name}, {rail_label(truss, name)}, {far} away"
            by = (np.array(mount.position) - here).tolist()
            return Repair(label, "move", {"ids": [item.id], "by": by})
    return None


def repairs(show: Show, item: Item, fixture: Fixture, target: Vec) -> list[Repair]:
    """What would let it reach a place (metres, show), the least first; nothing where neither a turn of its body nor
    another rail does."""
    found = (_about_itself(show, item, fixture, target), _elsewhere(show, item, fixture, target))
    return [one for one in found if one is not None]
