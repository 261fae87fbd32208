"""What fixtures come to hold when they are given a colour or a palette: each type by its own means."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from zarfwright.core.aiming.cells import cells_among
from zarfwright.core.aiming.colour import Prefer, Xy
from zarfwright.core.aiming.coloured import driven, kinds_of, matched
from zarfwright.core.aiming.pointing import Heads, Pair, aimable, point_each, short_of
from zarfwright.core.aiming.points import place_of
from zarfwright.core.aiming.yokes import chain_for, with_angles
from zarfwright.core.rig.held import holding, holding_cells
from zarfwright.core.rig.things import Aim, Fixture, FocusPoint, Palette
from zarfwright.core.show import Show, listed


def coloured(
    show: Show, pairs: list[Pair], xy: Xy, prefer: Prefer, cells: Sequence[int] = ()
) -> tuple[dict[str, Fixture], list[str]]:
    """Fixtures with a colour held, or some of their cells, by id, and what to say of those that cannot show it."""
    now = {item.id: fixture for item, fixture in pairs}
    made: dict[str, Fixture] = {}
    report: list[str] = []
    for kind in kinds_of(show, pairs):
        found = matched(show, kind, xy, prefer)
        name = listed(show, kind.ids)
        if found is None:
            how = "has no colour of its own" if len(kind.ids) == 1 else "have no colour of their own"
            report.append(f"{name.capitalize()} {how}: give {'it' if len(kind.ids) == 1 else 'them'} a gel in Hang.")
            continue
        if not found.reaches:
            report.append(
                f"{name.capitalize()} ({show.types[kind.type].name}): out of reach, the nearest is {found.off_uv:.3f} "
                "off in u′v′."
            )
        for key in kind.ids:
            fixture = now[key]
            kept = {sort: one for sort, one in fixture.palettes.items() if sort != "colour"}
            chosen = cells_among(show, fixture, cells)
            held = holding_cells(fixture, chosen, found.values) if cells else holding(fixture, found.values)
            made[key] = replace(held, palettes=kept)
    return made, report


def given(
    show: Show, key: str, palette: Palette, pairs: list[Pair], now: Heads
) -> tuple[dict[str, Fixture], list[str]]:
    """Fixtures with a palette, the item `key`, by id, and what to say of those that cannot have it."""
    if palette.sort == "colour" and palette.xy is not None:
        made_of, report = coloured(show, pairs, palette.xy, "brightest")
    elif palette.sort == "position":
        made_of, report = _aimed(show, palette, pairs, now)
    else:
        made_of, report = _shaped(show, palette, pairs)
    return {one: replace(body, palettes={**body.palettes, palette.sort: key}) for one, body in made_of.items()}, report


def _aimed(show: Show, palette: Palette, pairs: list[Pair], now: Heads) -> tuple[dict[str, Fixture], list[str]]:
    able, still = aimable(show, pairs)
    report = [f"{name.capitalize()} gives no light: there is nothing to aim." for name in still]
    found: dict[str, Fixture] = {}
    common = _common(show, palette)
    without, given, aims = 0, [], []
    for item, fixture in able:
        aim_at = palette.aims.get(item.id, common)
        if item.id in palette.angles:
            pan, tilt = palette.angles[item.id]
            found[item.id] = replace(with_angles(fixture, chain_for(show, fixture), pan, tilt), aim=None)
        elif aim_at is None:
            without += 1
        else:
            given.append((item, fixture))
            aims.append(replace(aim_at, place=place_of(show, aim_at)))
    pointed = point_each(show, given, np.array([one.place for one in aims]).reshape(-1, 3), now)
    for i, (item, fixture) in enumerate(given):
        turned = with_angles(fixture, pointed.chains[i], float(pointed.aimed.pan[i]), float(pointed.aimed.tilt[i]))
        found[item.id] = replace(turned, aim=aims[i])
    report += short_of(pointed)
    if without:
        report.append(f"{without} of them are not in it, and it is of no focus point: aim them, and update it.")
    return found, report


def _common(show: Show, palette: Palette) -> Aim | None:
    """What those that it does not name are aimed at: its focus point."""
    if palette.focus is None or palette.focus not in show.items:
        return None
    return Aim(show.body(palette.focus, FocusPoint).position, palette.focus)


def _shaped(show: Show, palette: Palette, pairs: list[Pair]) -> tuple[dict[str, Fixture], list[str]]:
    found: dict[str, Fixture] = {}
    lacking: dict[str, int] = {}
    for item, fixture in pairs:
        able = driven(show.type_of(fixture), fixture.mode)
        given = {name: value for name, value in palette.values.items() if name in able}
        for name in palette.values.keys() - given.keys():
            lacking[name] = lacking.get(name, 0) + 1
        if given:
            found[item.id] = holding(fixture, given)
    names = [name for name, _ in sorted(lacking.items())][:6]
    report = [f"{max(lacking.values())} of them have no {', '.join(names)}."] if lacking else []
    return found, report
