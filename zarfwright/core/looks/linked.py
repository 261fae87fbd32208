"""What a look has of palettes and focus points, as these are now: moving a point moves it in every look."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

import numpy as np

from zarfwright.core.aiming.follow import cells_aimed
from zarfwright.core.aiming.giving import given
from zarfwright.core.aiming.pointing import Pair, point_each, rays
from zarfwright.core.aiming.points import place_of
from zarfwright.core.aiming.yokes import chain_for
from zarfwright.core.looks.look import Look
from zarfwright.core.looks.said import NOTHING, Said, Values, overlaid, said_of
from zarfwright.core.looks.sorts import SORT_OF, Sort
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.held import rows_held
from zarfwright.core.rig.things import Aim, Fixture, FocusPoint, Palette
from zarfwright.core.show import Show
from zarfwright.core.space import ORIGIN, unit

STILL_THERE = 2e-4
"""A head that looks within so many radians of its place is as well aimed as it can be: it is not aimed anew."""


def sort_of_link(show: Show, link: str) -> Sort | None:
    """What a link is about; None where the palette or point is gone."""
    item = show.items.get(link)
    if item is None:
        return None
    return item.body.sort if isinstance(item.body, Palette) else "position"


def linked(show: Show, look: Look) -> Said:
    """What a look says itself, with what it has of palettes and focus points as these are now."""
    layers = [look.values]
    for link, fixtures in look.links.items():
        item = show.items.get(link)
        pairs = _pairs(show, fixtures, look.values)
        if item is None or not pairs:
            continue
        if isinstance(item.body, Palette):
            layers.append(_of_palette(show, link, item.body, pairs))
        elif isinstance(item.body, FocusPoint):
            aims = [Aim(item.body.position, link, look.offsets.get(one.id, ORIGIN)) for one, _ in pairs]
            layers.append(_aimed(show, pairs, aims))
    return overlaid(layers)


def _pairs(show: Show, fixtures: Iterable[str], values: Values) -> list[Pair]:
    """Fixtures as the look has them: held at where it turns them, and at nothing else."""
    found: list[Pair] = []
    for key in fixtures:
        item = show.items.get(key)
        if item is None or not isinstance(item.body, Fixture) or item.body.type not in show.types:
            continue
        said = values.get(key) or values.get(f"{key}/1") or {}
        turned = {name: said[name] for name in ("pan", "tilt") if name in said}
        found.append((item, replace(item.body, hands=turned, cells={}, aim=None, palettes={})))
    return found


def _of_palette(show: Show, link: str, palette: Palette, pairs: list[Pair]) -> Said:
    if palette.sort == "position":
        common = palette.focus if palette.focus in show.items else None
        aims = {
            item.id: palette.aims.get(item.id) or (Aim(ORIGIN, common) if common else None) for item, _ in pairs
        }  # fmt: skip
        placed = [pair for pair in pairs if aims[pair[0].id] is not None and pair[0].id not in palette.angles]
        by_angle = {one.id: palette.angles[one.id] for one, _ in pairs if one.id in palette.angles}
        turned = said_of({key: {"pan": pan, "tilt": tilt} for key, (pan, tilt) in by_angle.items()})
        to = [at for pair in placed if (at := aims[pair[0].id]) is not None]
        return overlaid([turned, _aimed(show, placed, to)])
    bodies, _ = given(show, link, palette, pairs, {})
    rows: dict[str, Mapping[str, float]] = {}
    for one, body in bodies.items():
        rows |= rows_held(one, body)
    return said_of({row: {n: v for n, v in held.items() if SORT_OF[n] == palette.sort} for row, held in rows.items()})


def _aimed(show: Show, pairs: list[Pair], aims: list[Aim]) -> Said:
    """Heads turned to what they are aimed at; those that look there already stay as they are."""
    heads = [(pair, aim) for pair, aim in zip(pairs, aims, strict=True) if chain_for(show, pair[1]).moves]
    if not heads:
        return NOTHING
    pairs, aims = [pair for pair, _ in heads], [aim for _, aim in heads]
    chains = [chain_for(show, fixture) for _, fixture in pairs]
    mounts = [clamp_placement(show, fixture) for _, fixture in pairs]
    goals = np.array([place_of(show, aim) for aim in aims])
    now = np.array([[fixture.hands.get("pan", np.nan), fixture.hands.get("tilt", np.nan)] for _, fixture in pairs])
    lenses, ways = rays(chains, mounts, np.nan_to_num(now[:, 0]), np.nan_to_num(now[:, 1]))
    off = np.linalg.norm(np.cross(unit(goals - lenses), ways), axis=1)
    facing = np.sum((goals - lenses) * ways, axis=1) > 0
    anew = np.flatnonzero(~((off < STILL_THERE) & facing & ~np.isnan(now).any(axis=1)))
    if not len(anew):
        return NOTHING
    moved = [pairs[i] for i in anew]
    heads_now = {pairs[i][0].id: (float(now[i, 0]), float(now[i, 1])) for i in anew if not np.isnan(now[i]).any()}
    got = point_each(show, moved, goals[anew], heads_now).aimed
    items = []
    for i, (item, fixture) in enumerate(moved):
        hands = {"pan": float(got.pan[i]), "tilt": float(got.tilt[i])}
        aim = replace(aims[int(anew[i])], place=tuple(goals[anew[i]].tolist()))
        items.append(replace(item, body=replace(fixture, hands=hands, aim=aim)))
    apart = cells_aimed(show, items)
    rows: dict[str, Mapping[str, float]] = {}
    for item in items:
        body = apart.get(item.id, item).body
        assert isinstance(body, Fixture)
        rows |= rows_held(item.id, body)
    return said_of(rows)
