"""What is otherwise than it was at the last review, in words: things, and looks."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from zarfwright.core.kinds import is_placed
from zarfwright.core.looks.differences import differences
from zarfwright.core.looks.look import Look, at_start
from zarfwright.core.looks.shown import resolved
from zarfwright.core.review.notes import Note
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Carrier, Fixture, FocusPoint
from zarfwright.core.show import Item, Show
from zarfwright.core.site.things import Crowd
from zarfwright.core.space import Vec
from zarfwright.core.units import format_length

REVIEW = "Review of "
"""How the names of restore points begin that were made when a review was closed."""
Sort = Literal["added", "removed", "moved", "swapped", "changed", "look"]
LEAST_M = 0.005
TOLD = {"fixture", "carrier", "focus point", "viewpoint", "order", "look"}
"""Besides what stands in the site: the kinds of which it is told that they came or went."""
NAMED = 12
LOOK_LINES = 6


@dataclass(frozen=True)
class Changed:
    """Things that changed alike, and how."""

    sort: Sort
    ids: tuple[str, ...]
    text: str


def changes_since(before: Show, now: Show) -> list[Changed]:
    """What came, went, moved (how far), was swapped or says something else since then. What changed alike is told at
    once; a look by what differs in it."""
    found: dict[tuple[Sort, str], list[str]] = {}
    for key in {**before.items, **now.items}:
        was, item = before.items.get(key), now.items.get(key)
        for sort, what in _of_thing(before, now, was, item):
            found.setdefault((sort, what), []).append(key)
    lines = [Changed(sort, tuple(ids), _named(before, now, ids, what)) for (sort, what), ids in found.items()]
    order: tuple[Sort, ...] = ("added", "removed", "moved", "swapped", "changed")
    return [*sorted(lines, key=lambda line: order.index(line.sort)), *_looks(before, now)]


def _told(item: Item) -> bool:
    return item.kind in TOLD or item.is_a.solid


def _of_thing(before: Show, now: Show, was: Item | None, item: Item | None) -> list[tuple[Sort, str]]:
    if was is None or item is None:
        one = item or was
        if one is None or not _told(one):
            return []
        return [("added", "is new")] if was is None else [("removed", "is gone")]
    if was.body == item.body or isinstance(item.body, Look | Note):
        return []
    said: list[tuple[Sort, str]] = []
    then, there = _place(before, was), _place(now, item)
    if then is not None and there is not None:
        away = float(np.linalg.norm(np.subtract(there, then)))
        if away >= LEAST_M:
            said.append(("moved", f"moved {format_length(away, now.settings.system)}"))
    if isinstance(was.body, Fixture) and isinstance(item.body, Fixture):
        said += _of_fixture(before, now, was.body, item.body)
    elif not said and item.is_a.solid:
        said.append(("changed", "was changed"))
    return said


def _of_fixture(before: Show, now: Show, was: Fixture, body: Fixture) -> list[tuple[Sort, str]]:
    said: list[tuple[Sort, str]] = []
    if (was.type, was.mode) != (body.type, body.mode):
        said.append(("swapped", f"is a {_type(now, body)} in place of a {_type(before, was)}"))
    if (was.universe, was.address) != (body.universe, body.address):
        said.append(("changed", f"is at {_address(body)}" if body.address is not None else "has no address any more"))
    if was.number != body.number:
        said.append(("changed", f"was {was.number}" if was.number is not None else "has a number now"))
    return said


def _type(show: Show, fixture: Fixture) -> str:
    name = show.types[fixture.type].name if fixture.type in show.types else "type that is gone"
    return f"{name}, {fixture.mode}"


def _address(fixture: Fixture) -> str:
    return f"{fixture.universe}.{fixture.address:03d}" if fixture.address is not None else ""


def _place(show: Show, item: Item) -> Vec | None:
    body = item.body
    if isinstance(body, Fixture):
        return (
            None
            if body.hang is not None and body.hang.structure not in show.items
            else clamp_placement(show, body).position
        )
    if isinstance(body, Carrier | FocusPoint):
        return body.position
    return body.position if is_placed(body) and not isinstance(body, Crowd) else None


def _named(before: Show, now: Show, ids: list[str], what: str) -> str:
    """Things by their names, and what they did."""
    items = [now.items.get(key) or before.items[key] for key in ids]
    fixtures = [item.body for item in items if isinstance(item.body, Fixture)]
    if len(items) == 1:
        return f"{items[0].name[0].upper()}{items[0].name[1:]} {what}."
    plural = what.replace("is ", "are ", 1).replace("was changed", "were changed").replace("has ", "have ", 1)
    if len(fixtures) == len(items):
        numbers = sorted(body.number for body in fixtures if body.number is not None)
        listed = f" ({', '.join(map(str, numbers[:NAMED]))}{' …' if len(numbers) > NAMED else ''})" if numbers else ""
        return f"{len(items)} fixtures{listed} {plural}."
    names = ", ".join(item.name for item in items[:NAMED])
    return f"{names}{f' and {len(items) - NAMED} more' if len(items) > NAMED else ''} {plural}."


def _looks(before: Show, now: Show) -> list[Changed]:
    found = []
    for item, look in now.bodies(Look):
        was = before.items.get(item.id)
        if was is None or not isinstance(was.body, Look):
            continue
        says = [*_facts(was.body, look)]
        groups = differences(now, resolved(before, item.id), resolved(now, item.id)).groups
        says += [group.text for group in groups[:LOOK_LINES]]
        if len(groups) > LOOK_LINES:
            says.append(f"and {len(groups) - LOOK_LINES} groups more")
        if says:
            found.append(Changed("look", (item.id,), f"{at_start(look)}: {'; '.join(says)}."))
    return found


def _facts(was: Look, look: Look) -> list[str]:
    says = []
    if was.name != look.name:
        says.append(f"it was called {was.name}")
    if was.number != look.number:
        says.append(f"it was number {was.number:g}")
    if was.carriers != look.carriers:
        says.append("carriers are elsewhere")
    return says
