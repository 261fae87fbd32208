"""Meshes of the room and of decks, each in its own frame on the floor at its origin."""

from __future__ import annotations

import numpy as np

from zarfwright.core.mesh import Mesh, box, flat, join, moved
from zarfwright.core.site.things import Venue

PLATFORM_M = 0.14
FASCIA_IN_M = 0.05
THIN_M = 0.3


def venue_mesh(venue: Venue) -> Mesh:
    """Floor, walls and roof seen from inside only, so that a view from outside looks in over them."""
    w, us, ds, eave, ridge = venue.width_m / 2, venue.upstage_m, -venue.downstage_m, venue.eave_m, venue.ridge_m
    floor = [(-w, ds, 0), (w, ds, 0), (w, us, 0), (-w, us, 0)]
    upstage = [(-w, us, 0), (w, us, 0), (w, us, eave), (-w, us, eave)]
    house = [(w, ds, 0), (-w, ds, 0), (-w, ds, eave), (w, ds, eave)]
    left = [(w, us, 0), (w, ds, 0), (w, ds, eave), (w, us, eave)]
    right = [(-w, ds, 0), (-w, us, 0), (-w, us, eave), (-w, ds, eave)]
    roof_left = [(w, us, eave), (w, ds, eave), (0, ds, ridge), (0, us, ridge)]
    roof_right = [(-w, ds, eave), (-w, us, eave), (0, us, ridge), (0, ds, ridge)]
    gable_us = [(-w, us, eave), (w, us, eave), (0, us, ridge), (0, us, ridge)]
    gable_ds = [(w, ds, eave), (-w, ds, eave), (0, ds, ridge), (0, ds, ridge)]
    faces = [floor, upstage, house, left, right, roof_left, roof_right, gable_us, gable_ds]
    return moved(flat(np.array(faces, dtype=float)), (venue.centre_m, 0.0, 0.0))


def deck_mesh(width_m: float, depth_m: float, height_m: float) -> Mesh:
    """A platform with a fascia all round, set back under its edge; a deck lower than its platform is a solid block."""
    if min(width_m, depth_m) < THIN_M:
        # A cloth or a flat, not a platform: no edge to set a fascia back from.
        return box((width_m, depth_m, height_m), (0, 0, height_m / 2))
    thick = min(PLATFORM_M, height_m)
    parts = [box((width_m, depth_m, thick), (0, 0, height_m - thick / 2))]
    below = height_m - thick
    if below > 0.02:
        inset = 2 * min(FASCIA_IN_M, width_m / 4, depth_m / 4)
        parts.append(box((width_m - inset, depth_m - inset, below), (0, 0, below / 2)))
    return join(parts)
