"""What an edit brings along: focus points go with what they ride on, and whatever is aimed is aimed anew when its point
or its own mount has moved. It becomes part of the same edit, so that undo takes back all of it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from zarfwright.core.aiming.points import carried_point, frame_of, offset_in, place_of
from zarfwright.core.aiming.solve import aim
from zarfwright.core.aiming.yokes import angles_now, chain_for, turns_by_hand, with_angles
from zarfwright.core.findings import first_few
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.held import holding_cells
from zarfwright.core.rig.things import Aim, Fixture, FocusPoint
from zarfwright.core.show import Change, Item, Show
from zarfwright.core.space import Vec
from zarfwright.core.types.chain import chains_of, turn_apart

TURNED = ("pan", "tilt")
STIRS = {"focus point", "figure", "carrier", "fixture", "truss", "type"}
"""The kinds whose changes may bring others along."""


@dataclass(frozen=True)
class Followed:
    """The changes of an edit with what follows them, and what to say of that."""

    changes: tuple[Change, ...]
    report: tuple[str, ...] = ()


def _aimed(items: Mapping[str, Item]) -> tuple[list[str], list[str]]:
    """The fixtures that remember an aim, and the focus points."""
    aimed: list[str] = []
    points: list[str] = []
    # Looked through with every edit: by words, which is the quickest.
    for key, item in items.items():
        if item.kind == "fixture":
            if item.body.aim is not None:  # type: ignore[union-attr]
                aimed.append(key)
        elif item.kind == "focus point":
            points.append(key)
    return aimed, points


def followed(before: Show, changes: tuple[Change, ...]) -> Followed:
    """The changes of an edit of `before`, and all that follows them."""
    kinds = {item.kind for change in changes for item in (change.before, change.after) if item is not None}
    if not kinds & STIRS:
        return Followed(changes)
    after = before.after(changes)
    aimed, points = _aimed(after.items)
    if not aimed and not points:
        return Followed(changes)
    touched = {change.id for change in changes}
    brought: dict[str, Item] = {}
    for key in points:
        moved = _point(before, after, after.items[key], touched)
        if moved is not None:
            brought[key] = moved
    if brought:
        after = replace(after, items={**after.items, **brought})
    new = _by_purpose(before, after, touched, points)
    if new:
        after = replace(after, items={**after.items, **new})
    # Whom the edit itself has aimed looks there already.
    rest = [key for key in aimed if key not in touched or not _just_aimed(before, after, key)]
    again, report = _aimed_anew(before, after, [*rest, *new])
    looked = {**{key: after.items[key] for key in aimed if key in touched}, **new, **again}
    brought = {**brought, **new, **again, **cells_aimed(after, looked.values())}
    return Followed(_merged(before, changes, brought), report)


def _point(before: Show, after: Show, item: Item, touched: set[str]) -> Item | None:
    """A focus point as the edit leaves it, where that is not as it is already."""
    point = item.body
    assert isinstance(point, FocusPoint)
    if point.rides is None:
        return None
    frame = frame_of(after.items.get(point.rides))
    if frame is None:
        return replace(item, body=replace(point, rides=None))
    was = before.items.get(item.id)
    own = was is None or not isinstance(was.body, FocusPoint) or was.body.rides != point.rides
    shifted = was is not None and isinstance(was.body, FocusPoint) and was.body.position != point.position
    if own or (shifted and point.rides not in touched):
        # It was put elsewhere by itself: it rides there from now on.
        body = replace(point, offset=offset_in(frame, point.position))
    else:
        body = carried_point(point, frame)
    return replace(item, body=body) if body != point else None


def _by_purpose(before: Show, after: Show, touched: set[str], points: list[str]) -> dict[str, Item]:
    """What was hung just now and is turned by hand is aimed at the focus point that has its purpose's name."""
    named = {}
    for key in points:
        point_item = after.items[key]
        if isinstance(point_item.body, FocusPoint):
            named[point_item.name.strip().casefold()] = (point_item, point_item.body)
    found: dict[str, Item] = {}
    if not named:
        return found
    for key in touched - before.items.keys():
        item = after.items.get(key)
        if item is None or not isinstance(item.body, Fixture) or item.body.aim is not None:
            continue
        point = named.get(item.body.purpose.strip().casefold())
        if point is None or item.body.type not in after.types or not turns_by_hand(chain_for(after, item.body)):
            continue
        found[key] = replace(item, body=replace(item.body, aim=Aim(point[1].position, point[0].id)))
    return found


def _just_aimed(before: Show, after: Show, key: str) -> bool:
    """Whether an edit gave a fixture the aim that it has, and moved neither it nor its point."""
    was, now = before.items.get(key), after.items[key]
    if was is None or not isinstance(was.body, Fixture) or not isinstance(now.body, Fixture) or now.body.aim is None:
        return False
    same_place = was.body.hang == now.body.hang and was.body.placement == now.body.placement
    return same_place and was.body.aim != now.body.aim and place_of(after, now.body.aim) == now.body.aim.place


def _stands(show: Show, key: str) -> object:
    """What of a fixture decides how it has to turn to its aim."""
    item = show.items.get(key)
    if item is None or not isinstance(item.body, Fixture) or item.body.aim is None:
        return None
    fixture, aim_at = item.body, item.body.aim
    known = aim_at.point in show.items if aim_at.point else None
    return clamp_placement(show, fixture), place_of(show, aim_at), known, fixture.type, fixture.mode


def _aimed_anew(before: Show, after: Show, keys: Iterable[str]) -> tuple[dict[str, Item], tuple[str, ...]]:
    """The fixtures whose aim or mount has moved, turned there; and who cannot reach."""
    items = [after.items[key] for key in keys if key in after.items and _stands(before, key) != _stands(after, key)]
    pairs = [
        (item, item.body) for item in items if isinstance(item.body, Fixture) and item.body.type in after.types
    ]  # fmt: skip
    if not pairs:
        return {}, ()
    chains = [chain_for(after, fixture) for _, fixture in pairs]
    places: list[Vec] = [place_of(after, fixture.aim) for _, fixture in pairs if fixture.aim is not None]
    mounts = [clamp_placement(after, fixture) for _, fixture in pairs]
    now = [angles_now(fixture, chain) for (_, fixture), chain in zip(pairs, chains, strict=True)]
    result = aim(chains, mounts, np.array(places), now)
    found: dict[str, Item] = {}
    report: list[str] = []
    for i, ((item, fixture), chain) in enumerate(zip(pairs, chains, strict=True)):
        assert fixture.aim is not None
        known = fixture.aim.point if fixture.aim.point in after.items else None
        kept = replace(fixture.aim, place=places[i], point=known)
        body = replace(with_angles(fixture, chain, float(result.pan[i]), float(result.tilt[i])), aim=kept)
        if body != fixture:
            found[item.id] = replace(item, body=body)
        if not result.reaches[i]:
            short = math.degrees(float(result.missing[i]))
            report.append(
                f"{item.name.capitalize()} can no longer reach what it is aimed at: {short:.1f}° are missing."
            )
    return found, tuple(first_few(report))


def cells_aimed(show: Show, items: Iterable[Item]) -> dict[str, Item]:
    """Those of some aimed fixtures whose cells turn each by itself, with each of them turned to the place; the first
    one's angles are the fixture's."""
    found: dict[str, Item] = {}
    for item in items:
        fixture = item.body
        if not isinstance(fixture, Fixture) or fixture.aim is None or fixture.type not in show.types:
            continue
        chains = chains_of(show.types[fixture.type], fixture.mode)
        if not turn_apart(chains):
            continue
        mounts = [clamp_placement(show, fixture)] * len(chains)
        first = angles_now(fixture, chains[0])
        now = [tuple(fixture.cells.get(str(i + 1), {}).get(k, v) for k, v in zip(TURNED, first, strict=True))
               for i in range(len(chains))]  # fmt: skip
        got = aim(chains, mounts, np.array([fixture.aim.place] * len(chains)), np.array(now))
        body = fixture
        for i in range(1, len(chains)):
            angles = {"pan": float(got.pan[i]), "tilt": float(got.tilt[i])}
            body = holding_cells(body, [i + 1], angles)
        if body != fixture:
            found[item.id] = replace(item, body=body)
    return found


def _merged(before: Show, changes: tuple[Change, ...], brought: dict[str, Item]) -> tuple[Change, ...]:
    """The changes with what was brought along, one for each item."""
    if not brought:
        return changes
    done = [
        Change(change.before, brought[change.id]) if change.id in brought else change for change in changes
    ]  # fmt: skip
    there = {change.id for change in changes}
    more = [
        Change(before.items[key], replace(item, rev=before.items[key].rev + 1))
        for key, item in brought.items()
        if key not in there
    ]
    return (*done, *more)
