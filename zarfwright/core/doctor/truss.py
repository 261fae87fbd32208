"""Heads that are lit and look into the structure that they hang on."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.aiming.pointing import rays
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.doctor.dark import Decoded, dark_where, lit_of
from zarfwright.core.doctor.facts import Cause
from zarfwright.core.doctor.rig import Patched
from zarfwright.core.lighting import Rig, caster_of, rig_of
from zarfwright.core.raycast import Caster
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.space import Floats, unit

STAYS_LEAST = 0.25
"""So much of the light has to stay in the structure: a lattice lets most of it through at its best."""
NEAR_M = 2.5
END_RAD = 1e-3
RINGS = ((0.0, 1), (0.5, 6), (0.9, 12))
"""Rays of a beam: at which share of half its field, and how many."""
TIMES_MOST = 12


def dark_truss(seen: Decoded, rig: list[Patched], show: Show) -> list[Cause]:
    """Intensity up, and the head tilted into its own truss."""
    made = rig_of(show)
    if made.rig.fixtures != seen.fixtures:
        return []
    lit: NDArray[np.bool_] = np.asarray(lit_of(seen).any(axis=0))
    hung = {row: on for row, on in _hung(made, show).items() if lit[row]}
    if not hung:
        return []
    caster = caster_of(show, [show.items[key] for key in sorted(set(hung.values()))])
    rows = np.array(sorted(hung))
    own = np.array([caster.names.index(hung[row]) if hung[row] in caster.names else -2 for row in rows])
    # A few of the times tell it: the others are as the one before.
    times = np.linspace(0, len(seen.values) - 1, min(TIMES_MOST, len(seen.values))).astype(np.int64)
    staying = np.zeros((len(times), len(seen.fixtures)))
    for k, time in enumerate(times):
        staying[k, rows] = _staying(made, rows, own, seen.values[time], caster)
    shut = staying >= STAYS_LEAST
    most = round(100 * float(staying.max()))
    nearest = np.abs(np.arange(len(seen.values))[:, None] - times).argmin(axis=1)
    return dark_where(
        seen, shut[nearest], rig, "dark_truss",
        lambda who: f"{who}: intensity is up, and the head looks into the truss it hangs on: {most} % stays there.",
        "Turn the head on the console; where it should look elsewhere, see whether pan or tilt is inverted there.",
    )  # fmt: skip


def _hung(made: Rig, show: Show) -> dict[int, str]:
    """The beams that a head turns and that hang on a structure, and which that is."""
    found = {}
    for row, (fixture, chain) in enumerate(zip(made.rig.fixtures, made.chains, strict=True)):
        hang = show.body(fixture, Fixture).hang
        if chain.moves and hang is not None and hang.structure in show.items:
            found[row] = hang.structure
    return found


def _staying(made: Rig, rows: NDArray[np.int64], own: NDArray[np.int64], values: Floats, caster: Caster) -> Floats:
    """How much of the light of some beams (m,) meets their own structure at once, under features (n, COUNT); none of
    those at the ends of both their ranges: these nobody has placed yet."""
    told = values[rows]
    chains, mounts = [made.chains[row] for row in rows], [made.mounts[row] for row in rows]
    at, way = rays(chains, mounts, told[:, INDEX["pan"]], told[:, INDEX["tilt"]])
    half = np.radians(np.clip(told[:, INDEX["zoom"]], 2.0, 90.0)) / 2
    across = unit(np.cross(way, np.where(np.abs(way[:, 2:]) < 0.9, (0.0, 0.0, 1.0), (1.0, 0.0, 0.0))))
    up = np.cross(way, across)
    staying, count = np.zeros(len(rows)), 0
    for share, rays_of in RINGS:
        for turn in np.arange(rays_of) * (2 * np.pi / rays_of):
            aside = across * np.cos(turn) + up * np.sin(turn)
            met = caster.first(at, way * np.cos(half * share)[:, None] + aside * np.sin(half * share)[:, None])
            staying += (met.thing == own) & (met.distance < NEAR_M)
            count += 1
    pan, tilt = (np.array([chain.pan_range for chain in chains]), np.array([chain.tilt_range for chain in chains]))
    unplaced = _at_an_end(told[:, INDEX["pan"]], pan) & _at_an_end(told[:, INDEX["tilt"]], tilt)
    return np.where(unplaced, 0.0, staying / count)


def _at_an_end(angle: Floats, ends: Floats) -> NDArray[np.bool_]:
    return np.asarray((np.abs(angle[:, None] - ends) < END_RAD).any(axis=1))
