"""Focus points: where they are on what they ride, and what is aimed at them."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from zarfwright.core.rig.things import Aim, Carrier, FocusPoint
from zarfwright.core.show import Item, Show
from zarfwright.core.site.things import Figure
from zarfwright.core.space import Placement, Vec, about, inverse, quat, rotate, vec


def frame_of(item: Item | None) -> Placement | None:
    """The frame of what a focus point may ride on, a figure or a carrier; None of anything else."""
    if item is None or not isinstance(item.body, Figure | Carrier):
        return None
    turn = about((0.0, 0.0, 1.0), math.radians(item.body.turn_deg))
    return Placement(item.body.position, quat(turn))


def offset_in(frame: Placement, position: Vec) -> Vec:
    """A place of the show in a frame."""
    return vec(rotate(inverse(frame.rotation), np.subtract(position, frame.position)))


def carried_point(point: FocusPoint, frame: Placement) -> FocusPoint:
    """A focus point where what it rides on has it."""
    x, y, z = np.round(frame.apply(point.offset), 9).tolist()
    return replace(point, position=(x, y, z))


def place_of(show: Show, aim: Aim) -> Vec:
    """What an aim looks at now; where its focus point is gone, where that was last."""
    item = show.items.get(aim.point) if aim.point else None
    if item is None or not isinstance(item.body, FocusPoint):
        return aim.place
    x, y, z = np.add(item.body.position, aim.offset).tolist()
    return (x, y, z)
