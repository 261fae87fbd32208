"""How views look at the show: the plane of paper, and how far things are from who looks.

A view's frame has three axes in the show's: `across` to the right on paper, `up` on paper, `towards` who looks. A place
of the show is (u, v, d) in it, metres.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from zarfwright.core.sheet.sheet import Look, View
from zarfwright.core.show import Show
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats, unit

# Right on paper, up on paper; who looks is on the side of their product.
AXES: dict[Look, tuple[tuple[float, float, float], tuple[float, float, float]]] = {
    "plan": ((1, 0, 0), (0, 1, 0)),
    "below": ((1, 0, 0), (0, -1, 0)),
    "front": ((1, 0, 0), (0, 0, 1)),
    "back": ((-1, 0, 0), (0, 0, 1)),
    "left": ((0, 1, 0), (0, 0, 1)),
    "right": ((0, -1, 0), (0, 0, 1)),
    "section": ((0, 1, 0), (0, 0, 1)),
}
USUAL_CUT_M = 3.0
"""A plan cuts so high over the datum: what is above is overhead."""
SIDES = {"front": ("SR", "SL"), "back": ("SL", "SR"), "left": ("DS", "US"), "right": ("US", "DS"),
         "section": ("DS", "US"), "plan": ("SR", "SL"), "below": ("SR", "SL")}  # fmt: skip
"""What lies to the left and to the right on paper."""


@dataclass(frozen=True, eq=False)
class Frame:
    """The axes of a view, shape (3, 3): rows across, up, towards who looks; and where it cuts, as a distance d."""

    axes: Floats
    cut: float | None
    flat: bool
    """Whether it looks straight down or up."""

    def of(self, points: ArrayLike) -> Floats:
        """Places of shape (..., 3) in the show's frame, in the view's."""
        return np.asarray(np.asarray(points, dtype=float) @ self.axes.T)


def _square(show: Show, view: View) -> Floats:
    """Across along the first of its structures, seen from the house where that is possible, else from stage left."""
    body = next((show.items[key].body for key in view.of if key in show.items), None)
    turn = math.radians(body.turn_deg) if isinstance(body, Truss) and body.form == "straight" else 0.0
    across = np.array([math.cos(turn), math.sin(turn), 0.0])
    if across[0] < -1e-9 or (abs(across[0]) <= 1e-9 and across[1] < 0):
        across = -across
    return np.stack([across, [0.0, 0.0, 1.0]])


def frame_of(show: Show, view: View) -> Frame:
    """The frame of a view."""
    pair = _square(show, view) if view.look == "square" else np.array(AXES[view.look], dtype=float)
    towards = unit(np.cross(pair[0], pair[1]))
    axes = np.stack([pair[0], pair[1], towards])
    flat = view.look in ("plan", "below")
    cut = view.cut_m
    if cut is None:
        cut = {"plan": USUAL_CUT_M, "section": 0.0}.get(view.look)
    elif not flat:
        # A place across or along, measured on the show's own axis.
        cut = cut * float(towards[int(np.argmax(np.abs(towards)))])
    elif view.look == "below":
        cut = -cut
    return Frame(axes, None if view.of and view.cut_m is None else cut, flat)
