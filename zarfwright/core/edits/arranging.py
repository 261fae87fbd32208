"""Edits that arrange what is selected on the site: mirror images, turns, edges in line, things dropped."""

from __future__ import annotations

from typing import Literal

import numpy as np

from zarfwright.core.edits.base import Arguments, Edit, NewId, changed, require_some
from zarfwright.core.errors import JobError
from zarfwright.core.raycast import Caster
from zarfwright.core.scene import solids, solids_of
from zarfwright.core.show import Item, Show, listed
from zarfwright.core.site import placed
from zarfwright.core.space import Floats, rotate
from zarfwright.core.units import parse_angle_deg

ABOVE_M = 3.0
"""What is no more than this above a thing is something to be put on."""


def placed_among(show: Show, ids: list[str]) -> list[Item]:
    """The things with a place among some. Raises JobError when there are none."""
    require_some(ids, "what to arrange")
    items = [show.item(one) for one in ids]
    found = [item for item in items if item.is_a.placed]
    if not found:
        raise JobError(f"{listed(show, ids)} cannot be arranged here: select decks, scenery, structures or people.")
    return found


def bounds_of(show: Show, item: Item) -> tuple[Floats, Floats]:
    """The least and greatest corner (3,) of what is seen of a thing. Raises JobError where nothing is."""
    seen = [solid for solid in solids_of(show, item) if not solid.id.endswith("/rig")]
    if not seen:
        raise JobError(f"{item.name} has nothing that could be measured.")
    corners = [
        rotate(np.asarray(solid.placement.rotation), solid.mesh.vertices.astype(float) * solid.scale)
        + np.asarray(solid.placement.position)
        for solid in seen
    ]
    return np.min([c.min(axis=0) for c in corners], axis=0), np.max([c.max(axis=0) for c in corners], axis=0)


class Rotate(Arguments):
    """Turn things in plan about their own middles or about a common one."""

    ids: list[str]
    degrees: str
    about: Literal["own", "common"] = "common"


def rotate_things(show: Show, args: Rotate, _: NewId) -> Edit:
    items = placed_among(show, args.ids)
    degrees = parse_angle_deg(args.degrees)
    bounds = [bounds_of(show, item) for item in items]
    middles = [(low + high) / 2 for low, high in bounds]
    low, high = np.min([b[0] for b in bounds], axis=0), np.max([b[1] for b in bounds], axis=0)
    common = (low + high) / 2
    changes = tuple(
        changed(item, placed.turned(item.body, degrees, own if args.about == "own" else common))  # type: ignore[arg-type]
        for item, own in zip(items, middles, strict=True)
    )
    return Edit(changes, f"Turn {listed(show, [i.id for i in items])} by {degrees:g}°", tuple(i.id for i in items))


class Align(Arguments):
    """Bring edges or middles of things in line: low is stage right, downstage, below."""

    ids: list[str]
    axis: Literal["x", "y", "z"]
    edge: Literal["low", "middle", "high"]


WORDS = {"x": ("stage right", "stage left"), "y": ("downstage", "upstage"), "z": ("lower", "upper")}


def align(show: Show, args: Align, _: NewId) -> Edit:
    items = placed_among(show, args.ids)
    k = "xyz".index(args.axis)
    bounds = [bounds_of(show, item) for item in items]
    low, high = min(b[0][k] for b in bounds), max(b[1][k] for b in bounds)
    changes = []
    for item, (own_low, own_high) in zip(items, bounds, strict=True):
        shift = {"low": low - own_low[k], "high": high - own_high[k]}.get(
            args.edge, (low + high) / 2 - (own_low[k] + own_high[k]) / 2
        )
        by = np.zeros(3)
        by[k] = shift
        if abs(shift) > 1e-9:
            changes.append(changed(item, placed.moved(item.body, by)))  # type: ignore[arg-type]
    what = "middles" if args.edge == "middle" else f"{WORDS[args.axis][0 if args.edge == 'low' else 1]} edges"
    return Edit(tuple(changes), f"Align the {what} of {listed(show, args.ids)}", tuple(args.ids))


class Spread(Arguments):
    """Set things evenly between the first and the last of them: their middles, or the gaps between them."""

    ids: list[str]
    axis: Literal["x", "y", "z"]
    what: Literal["middles", "gaps"] = "middles"


def spread(show: Show, args: Spread, _: NewId) -> Edit:
    items = placed_among(show, args.ids)
    if len(items) < 3:
        raise JobError("Spreading takes three things: the first and the last stay where they are.", "ids")
    k = "xyz".index(args.axis)
    with_bounds = sorted(
        ((item, *bounds_of(show, item)) for item in items), key=lambda one: float(one[1][k] + one[2][k])
    )
    sizes = [float(high[k] - low[k]) for _, low, high in with_bounds]
    first, last = with_bounds[0], with_bounds[-1]
    start, end = float(first[1][k] + first[2][k]) / 2, float(last[1][k] + last[2][k]) / 2
    room = float(last[2][k] - first[1][k]) - sum(sizes)
    gap, at = room / (len(items) - 1), float(first[1][k])
    changes = []
    for i, (item, low, high) in enumerate(with_bounds):
        wanted = start + (end - start) * i / (len(items) - 1) if args.what == "middles" else at + sizes[i] / 2
        at += sizes[i] + gap
        by = np.zeros(3)
        by[k] = wanted - float(low[k] + high[k]) / 2
        if abs(by[k]) > 1e-9:
            changes.append(changed(item, placed.moved(item.body, by)))  # type: ignore[arg-type]
    return Edit(tuple(changes), f"Spread {listed(show, args.ids)}", tuple(args.ids))


class Drop(Arguments):
    """Let things down on what is below their middles, or up on top of it."""

    ids: list[str]


def drop(show: Show, args: Drop, _: NewId) -> Edit:
    items = placed_among(show, args.ids)
    going = {item.id for item in items}
    # What hangs above is nothing to stand on, nor is a roof.
    rest = [item for item in show.items.values() if item.id not in going and item.is_a.stood_on]
    caster = Caster(solids(show, rest))
    bounds = [bounds_of(show, item) for item in items]
    starts = np.array([[*(low + high)[:2] / 2, high[2] + ABOVE_M] for low, high in bounds])
    met = caster.first(starts, np.tile([0.0, 0.0, -1.0], (len(items), 1)))
    changes = []
    for item, (low, high), distance in zip(items, bounds, met.distance, strict=True):
        floor = float(high[2]) + ABOVE_M - float(distance) if np.isfinite(distance) else 0.0
        if abs(floor - low[2]) > 1e-6:
            changes.append(changed(item, placed.moved(item.body, np.array([0.0, 0.0, floor - low[2]]))))  # type: ignore[arg-type]
    if not changes:
        raise JobError(f"{listed(show, args.ids)} stand on what is below them already.")
    return Edit(tuple(changes), f"Set {listed(show, args.ids)} on what is below", tuple(args.ids))
