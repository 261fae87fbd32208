"""How a fixture hangs: its clamp frame from the rail that it belongs to.

The frame has its origin at the clamp, on the rail's axis; the fixture hangs from it in -Z, with X along the rail.
"""

from __future__ import annotations

import math

import numpy as np

from zarfwright.core.errors import JobError
from zarfwright.core.memo import Memo
from zarfwright.core.rig.things import Fixture, Hang
from zarfwright.core.show import Show
from zarfwright.core.site.structures import UP, Rail, rail_of
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats, Placement, about, cross, from_matrix, multiply, quat, unit, vec

X, Z = (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)
NOWHERE = Placement()
UPRIGHT = 0.99
"""What hangs on a rail as steep as this has no slope to be plumb on."""
SIDES_DEG = {"under": 0.0, "left": 90.0, "right": -90.0, "upper": 180.0}


def hanging_axes(rail: Rail, hang: Hang) -> tuple[Floats, Floats, Floats]:
    """Along the rail, to its left and up, unit vectors (3,) at a place on it: on its slope, or plumb."""
    along, up = rail.direction_at(hang.along_m), np.asarray(rail.up)
    if hang.on_slopes == "plumb" and abs(along[2]) < UPRIGHT:
        level = unit(along * [1.0, 1.0, 0.0])
        along, up = (level if np.any(level) else along), UP
    return along, cross(up, along), up


def hanging_frame(rail: Rail, hang: Hang) -> Placement:
    """The clamp frame at a place on a rail: on its slope or plumb, then turned about the rail, then about itself."""
    along, out, up = hanging_axes(rail, hang)
    base = from_matrix(np.stack([along, out, up], axis=1))
    place = rail.at(hang.along_m) + hang.out_m * out - hang.drop_m * up
    about_rail = about(X, math.radians(SIDES_DEG[hang.side] + hang.turn_deg))
    turned = multiply(multiply(base, about_rail), about(Z, math.radians(hang.spin_deg)))
    return Placement(vec(place), quat(turned))


def _hung(hang: Hang, truss: Truss) -> tuple[Placement, float]:
    """The clamp of what hangs on a structure, and how far it is past the end of its rail (metres)."""
    rail = rail_of(truss, hang.rail)
    past = max(0.0, hang.along_m - rail.length_m, -hang.along_m)
    return hanging_frame(rail, hang), past


_hung_memo = Memo(_hung)


def hang_rail(show: Show, hang: Hang) -> Rail:
    """The rail that a fixture hangs on. Raises JobError where the structure is gone or has no such rail."""
    structure = show.body(hang.structure, Truss)
    return rail_of(structure, hang.rail)


def clamp_placement(show: Show, fixture: Fixture) -> Placement:
    """Where the clamp of a fixture is, in the show's frame. One whose structure is gone stays at its placement."""
    hang = fixture.hang
    if hang is not None and hang.structure in show.items:
        place = _hung_memo(hang, show.item(hang.structure, "truss").body)[0]
        return show.poses[hang.structure].placed(place) if hang.structure in show.poses else place
    return fixture.placement or NOWHERE


def past_the_end(show: Show, fixture: Fixture) -> float:
    """By how many metres the clamp is beyond the rail's end; 0 where it is on it."""
    if fixture.hang is None or fixture.hang.structure not in show.items:
        return 0.0
    return _hung_memo(fixture.hang, show.item(fixture.hang.structure, "truss").body)[1]


def require_on_rail(rail: Rail, along_m: float) -> None:
    """Raises JobError when the distance is not on the rail."""
    if not -1e-9 <= along_m <= rail.length_m + 1e-9:
        raise JobError(f"{along_m:.2f} m is not on this rail, which is {rail.length_m:.2f} m long: type less.", "along")
