"""Fixtures as people speak of them: the heads of a truss, the lamps of a boom."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass

from zarfwright.core.aiming.yokes import aiming_chain
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Item, Show
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.sort import sort_of

NAMED = 4


@dataclass(frozen=True)
class Group:
    """All fixtures of a sort in one place."""

    where: str
    what: str
    ids: tuple[str, ...]

    def called(self, show: Show, some: Collection[str]) -> str:
        """Some of its fixtures as a sentence begins with them: all by the group's name, few by their numbers."""
        if len(some) == len(self.ids):
            if self.what == "drivers" and self.where:
                return self.where
            return f"{self.where} {self.what}" if self.where else self.what.capitalize()
        one = len(some) == 1
        names = [_number(show.items[key]) for key in self.ids if key in some]
        shown = ", ".join(names[:NAMED]) + (f" and {len(names) - NAMED} more" if len(names) > NAMED else "")
        what = self.what[:-1] if one else self.what
        return f"{self.where} {what} {shown}" if self.where else f"{what.capitalize()} {shown}"


def _number(item: Item) -> str:
    body = item.body
    return str(body.number) if isinstance(body, Fixture) and body.number is not None else "without number"


def _what(show: Show, fixture: Fixture) -> str:
    fixture_type = show.types.get(fixture.type)
    if fixture_type is None:
        return "fixtures"
    if fixture.drives is not None:
        return "drivers"
    if "laser" in sort_of(fixture_type).lower():
        return "lasers"
    if aiming_chain(fixture_type, fixture.mode).moves:
        return "heads"
    return "battens" if len(chains_of(fixture_type, fixture.mode)) > 1 else "lamps"


def groups_of(show: Show, ids: Iterable[str] | None = None) -> list[Group]:
    """The fixtures, or some of them, by where they hang and what they are; in the order of the fixtures."""
    wanted = None if ids is None else {*ids}
    found: dict[tuple[str, str], list[str]] = {}
    for item, fixture in show.fixtures():
        if wanted is not None and item.id not in wanted:
            continue
        structure = show.items.get(fixture.hang.structure) if fixture.hang is not None else None
        if fixture.drives is not None:
            structure = show.items.get(fixture.drives.thing)
        where = structure.name if structure is not None else ""
        found.setdefault((where, _what(show, fixture)), []).append(item.id)
    return [Group(where, what, tuple(members)) for (where, what), members in found.items()]
