"""Edits of what is held by hand: aiming at a place, values, and letting go."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from zarfwright.core.aim import aim
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.dmx.rows import fixture_of
from zarfwright.core.edits.base import Arguments, Around, Edit, NewId, changed, listed, require_some
from zarfwright.core.errors import JobError
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Item, Show
from zarfwright.core.space import Vec
from zarfwright.core.types.chain import chain_of


class AimAt(Arguments):
    """Point fixtures at a place in the show's frame. `now` gives where their heads are, pan and tilt in radians."""

    ids: list[str]
    point: Vec
    now: dict[str, tuple[float, float]] = {}


def chosen_fixtures(show: Show, ids: list[str]) -> list[tuple[Item, Fixture]]:
    require_some(ids, "fixtures")
    pairs = []
    for item_id in ids:
        item, fixture = show.thing(item_id, Fixture)
        pairs.append((item, fixture))
    return pairs


def needs_heads(show: Show, args: AimAt, around: Around) -> tuple[Show, AimAt]:
    """Where the heads are now, so that each goes the short way round."""
    if args.now:
        return show, args
    # Of a fixture of several cells the first one's.
    seen = {fixture_of(key): value for key, value in reversed(around.values().items())}
    now = {one: (seen[one]["pan"], seen[one]["tilt"]) for one in args.ids if one in seen}
    return show, args.model_copy(update={"now": now})


def aim_at(show: Show, args: AimAt, new_id: NewId) -> Edit:
    if not all(math.isfinite(part) for part in args.point):
        raise JobError("That place is not on the stage: click a surface.")
    pairs = [(item, fixture) for item, fixture in chosen_fixtures(show, args.ids)]
    chains = [chain_of(show.type_of(fixture), fixture.mode) for _, fixture in pairs]
    still = [item.name for (item, _), chain in zip(pairs, chains, strict=True) if not chain.moves]
    moving = [(pair, chain) for pair, chain in zip(pairs, chains, strict=True) if chain.moves]
    if not moving:
        raise JobError("None of these has a head that moves: turn its yoke instead.")
    now = np.array(
        [
            args.now.get(item.id, (fixture.hands.get("pan", 0.0), fixture.hands.get("tilt", 0.0)))
            for (item, fixture), _ in moving
        ]
    )
    mounts = [clamp_placement(show, fixture) for (_, fixture), _ in moving]
    result = aim([chain for _, chain in moving], mounts, args.point, now)
    changes, report = [], [f"{name.capitalize()} does not move: turn its yoke instead." for name in still]
    for i, ((item, fixture), _) in enumerate(moving):
        hands = {**fixture.hands, "pan": float(result.pan[i]), "tilt": float(result.tilt[i])}
        changes.append(changed(item, replace(fixture, hands=hands)))
        if not result.reaches[i]:
            miss = math.degrees(result.missing[i])
            report.append(f"{item.name.capitalize()} cannot reach: it stops {miss:.1f}° short. Turn it on its rail.")
    where = ", ".join(f"{part:.2f}" for part in args.point)
    return Edit(tuple(changes), f"Aim {listed(show, args.ids)} at {where}", tuple(args.ids), tuple(report))


FARTHEST = 1e6
"""No feature has a value beyond, in its own unit."""


def require_features(values: Mapping[str, float]) -> None:
    """Raises JobError where something is no feature, or has a value that none has."""
    for name, value in values.items():
        if name not in INDEX:
            raise JobError(f"“{name}” is nothing that a fixture does.", "values")
        if abs(value) > FARTHEST:
            raise JobError(f"The {name} cannot be {value:g}.", "values")


class HoldValues(Arguments):
    """Hold features of fixtures by hand (names and units of core/dmx/features.py)."""

    ids: list[str]
    values: dict[str, float]


def hold_values(show: Show, args: HoldValues, _: NewId) -> Edit:
    require_features(args.values)
    changes = tuple(
        changed(item, replace(fixture, hands={**fixture.hands, **args.values}))
        for item, fixture in chosen_fixtures(show, args.ids)
    )
    what = ", ".join(args.values)
    return Edit(changes, f"Hold {what} of {listed(show, args.ids)}", tuple(args.ids))


class Release(Arguments):
    """Let go of features held by hand; of all of them when none is named."""

    ids: list[str]
    features: list[str] = []


def release(show: Show, args: Release, _: NewId) -> Edit:
    changes = []
    for item, fixture in chosen_fixtures(show, args.ids):
        kept = {} if not args.features else {k: v for k, v in fixture.hands.items() if k not in args.features}
        if kept != fixture.hands:
            changes.append(changed(item, replace(fixture, hands=kept)))
    if not changes:
        raise JobError("Nothing is held by hand on these fixtures.")
    return Edit(tuple(changes), f"Let go of {listed(show, args.ids)}", tuple(args.ids))
