"""A show's running orders, ready to be played or looked at without a browser."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zarfwright.core.looks.look import Place
from zarfwright.core.looks.said import NOTHING, Said, packed, table_of
from zarfwright.core.looks.shown import carriers_of, layers_of, resolved
from zarfwright.core.patch import compiled_show, patch_rows
from zarfwright.core.playback.order import Order, Step, starts_of, step_at
from zarfwright.core.playback.score import Air, Score, limits_of, share_at
from zarfwright.core.show import Show
from zarfwright.core.space import single


def score_of(show: Show, order: Order) -> Score:
    """A running order over the rig of the show."""
    made = compiled_show(show)
    limits = limits_of(patch_rows(show))
    steps = [step for step in order.steps if step.look in show.items]
    return Score(steps, lambda look: resolved(show, look), made.rig, single(made.rig.home), limits)


def played(show: Show) -> Said:
    """What the show plays without a console: its look, or its running order where the first step of that has come."""
    order = show.items.get(show.settings.running or "")
    if order is not None and isinstance(order.body, Order) and order.body.steps:
        score = score_of(show, order.body)
        return packed(table_of(score.rig.keys, score.at(score.steps[0].comes_s)[0])) if score.steps else NOTHING
    return resolved(show, show.settings.playing)


def carriers_at(show: Show, steps: tuple[Step, ...], t: float) -> dict[str, Place]:
    """Where carriers are at a time: on their even way to where the step's look has them, in the time of positions."""
    if not steps:
        return {}
    starts = starts_of(steps)
    i = step_at(starts, t)
    goal: dict[str, Place] = {}
    before: dict[str, Place] = {}
    for j in range(i + 1):
        before = dict(goal)
        goal |= carriers_of(show, steps[j].look)
    share = share_at(t - float(starts[i]), *steps[i].time_of("position"))
    return {key: _between(before.get(key, place), place, share) for key, place in goal.items()}


def _between(a: Place, b: Place, share: float) -> Place:
    x, y, z, turn = (np.array(a) + share * (np.array(b) - np.array(a))).tolist()
    return (x, y, z, turn)


def air_of(show: Show, look_id: str) -> Air:
    """The haze, the house lights and the exposure of a look, with all that it is made of."""
    return merged_air(show, [look_id])


def merged_air(show: Show, looks: Sequence[str]) -> Air:
    """The same of several over each other, the later ones over the earlier."""
    haze: float | None = None
    house: float | None = None
    exposure: float | None = None
    for look in (layer for one in looks for layer in layers_of(show, one)):
        haze = look.haze_per_m if look.haze_per_m is not None else haze
        house = look.house_light_lx if look.house_light_lx is not None else house
        exposure = look.exposure_ev if look.exposure_ev is not None else exposure
    return haze, house, exposure
