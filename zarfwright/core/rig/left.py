"""What becomes of things when others go: those that hang on a structure, and those that are on a carrier."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import replace

from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.show import Item, Show


def left_behind(show: Show, going: Container[str]) -> dict[str, Item]:
    """The things that stay, where something that they hang on or are on goes: fixtures where they are, in mid-air; what
    was on a carrier, on the one that this was on."""
    found: dict[str, Item] = {}
    for item, fixture in show.fixtures():
        if item.id not in going and fixture.hang is not None and fixture.hang.structure in going:
            body = replace(fixture, hang=None, placement=clamp_placement(show, fixture))
            found[item.id] = replace(item, body=body)
    for item in show.items.values():
        if item.parent is None or item.parent not in going or item.id in going:
            continue
        above = show.items[item.parent].parent
        found[item.id] = replace(found.get(item.id, item), parent=above if above not in going else None)
    return found


def drivers_without(show: Show, going: Container[str]) -> list[Item]:
    """The drivers that stay, of what goes: they have nothing to move then."""
    return [
        item
        for item, fixture in show.fixtures()
        if fixture.drives is not None and fixture.drives.thing in going and item.id not in going
    ]
