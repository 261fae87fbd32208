"""Which type of the show, of the library or of the file itself the fixtures of a scene are to be, and why."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from zarfwright.core.exchange.scene import FoundType, Scene
from zarfwright.core.exchange.standing import STAND_IN
from zarfwright.core.rig.things import TypeEntry
from zarfwright.core.show import Show
from zarfwright.core.types.model import FixtureType

Source = Literal["show", "file", "library", "plain"]
ALIKE_LEAST = 4
SLOTS_MOST = 512


@dataclass(frozen=True)
class Match:
    """One type that fixtures may be of: where it is from, its name, why it would do, and its modes for theirs."""

    source: Source
    key: str
    """The type of the show, or the GUID of a shipped one; empty of the file's own and of a plain body."""
    name: str
    reason: str
    modes: Mapping[str, str] = field(default_factory=dict)
    """Its modes by those that the file names."""
    weight: float = 0.0
    """How well it matches; the best comes first."""

    @property
    def choice(self) -> str:
        """As a person chooses it."""
        return f"{self.source}:{self.key}" if self.key else self.source


@dataclass(frozen=True)
class Wanted:
    """A type as a scene uses it: the modes that its fixtures are in, and how many of them."""

    found: FoundType
    modes: tuple[str, ...]
    fixtures: int


def wanted_types(scene: Scene) -> list[Wanted]:
    """The types of a scene in the order in which its fixtures come."""
    modes: dict[str, dict[str, int]] = {}
    for thing in scene.things:
        if thing.said is not None:
            of = modes.setdefault(thing.said.spec, {})
            of[thing.said.mode] = of.get(thing.said.mode, 0) + 1
    return [Wanted(scene.types[spec], tuple(used), sum(used.values())) for spec, used in modes.items()]


def _words(text: str) -> str:
    return "".join(sign for sign in text.casefold() if sign.isalnum())


def sizes_of(fixture_type: FixtureType) -> dict[str, int]:
    """The slots of its modes."""
    return {mode.name: sum(mode.footprints.values()) for mode in fixture_type.modes}


def modes_for(wanted: Wanted, sizes: Mapping[str, int]) -> dict[str, str]:
    """For each mode that the file names, one of a type's: of the same name, else of the same size, else of the nearest
    one, else the first."""
    by_name = {_words(name): name for name in sizes}
    found: dict[str, str] = {}
    for mode in wanted.modes:
        size = wanted.found.footprints.get(mode)
        if _words(mode) in by_name:
            found[mode] = by_name[_words(mode)]
        elif size is not None:
            found[mode] = min(sizes, key=lambda name: abs(sizes[name] - size))
        else:
            found[mode] = next(iter(sizes))
    return found


def _said(wanted: Wanted, modes: Mapping[str, str], sizes: Mapping[str, int]) -> str:
    """What becomes of the modes, in words."""
    other = []
    for mode, to in modes.items():
        size = wanted.found.footprints.get(mode)
        if _words(mode) != _words(to):
            of = f" ({size} slots)" if size else ""
            other.append(f"“{mode}”{of} becomes “{to}” ({sizes[to]} slots)")
        elif size not in (None, sizes[to]):
            other.append(f"“{to}” has {sizes[to]} slots here, {size} in the file")
    return f"; {', '.join(other)}" if other else ""


def _alike(wanted: Wanted, fixture_type: FixtureType) -> tuple[float, str]:
    """How much a type is like the one that is named, and in what."""
    found, sizes = wanted.found, sizes_of(fixture_type)
    weight, said = 0.0, []
    name, other = _words(found.name), _words(fixture_type.name)
    if name and name == other:
        weight, said = 4.0, ["the same name"]
    elif len(min(name, other, key=len)) >= 4 and (name in other or other in name):
        weight, said = 2.0, ["a name like it"]
    else:
        return 0.0, ""
    if found.maker and _words(found.maker) == _words(fixture_type.maker):
        weight, said = weight + 2.0, ["the same maker", *said]
    elif found.maker:
        weight -= 1.0
    there = {_words(mode) for mode in sizes}
    if wanted.modes and all(_words(mode) in there for mode in wanted.modes):
        weight, said = weight + 1.5, [*said, "its modes"]
    slots = [found.footprints[mode] for mode in wanted.modes if mode in found.footprints]
    if slots and all(size in sizes.values() for size in slots):
        weight, said = weight + 1.5, [*said, "as many slots"]
    return weight, ", ".join(said)


def matches(show: Show, wanted: Wanted, own: FixtureType | None, shipped: Mapping[str, FixtureType]) -> list[Match]:
    """What the fixtures of a type may be of, the suggestion first; a plain body is always the last."""
    found = wanted.found
    made = [*_in_show(show, wanted), *_in_library(wanted, shipped)]
    if own is not None:
        modes = modes_for(wanted, sizes_of(own))
        why = f"its GDTF is in the file{_said(wanted, modes, sizes_of(own))}"
        made.append(Match("file", "", own.name, why, modes, 7.0))
    made.sort(key=lambda match: -match.weight)
    plain = f"nothing here is like {found.name}: a plain body with its slots, to be swapped later"
    rest = Match("plain", "", f"{STAND_IN} for {found.name}", plain, {mode: mode for mode in wanted.modes})
    return [*made[:6], rest]


def _in_show(show: Show, wanted: Wanted) -> Iterable[Match]:
    for item, entry in show.bodies(TypeEntry):
        fixture_type = show.types.get(item.id)
        if fixture_type is None:
            continue
        sizes = sizes_of(fixture_type)
        modes = modes_for(wanted, sizes)
        tail = _said(wanted, modes, sizes)
        if wanted.found.asset and entry.asset == wanted.found.asset:
            yield Match("show", item.id, fixture_type.name, f"the show has this very file{tail}", modes, 10.0)
        elif wanted.found.type_id and fixture_type.type_id.casefold() == wanted.found.type_id.casefold():
            same = all(sizes.get(mode) == wanted.found.footprints.get(mode) for mode in wanted.modes)
            why = f"the show has this type, by its id, from another file{tail}"
            yield Match("show", item.id, fixture_type.name, why, modes, 8.0 if same else 6.0)
        else:
            weight, why = _alike(wanted, fixture_type)
            if weight >= ALIKE_LEAST - 2:
                yield Match(
                    "show", item.id, fixture_type.name, f"in the show: {why}{tail}", modes, min(weight, 6.5) * 0.7
                )


def _in_library(wanted: Wanted, shipped: Mapping[str, FixtureType]) -> Iterable[Match]:
    for key, fixture_type in shipped.items():
        sizes = sizes_of(fixture_type)
        modes = modes_for(wanted, sizes)
        tail = _said(wanted, modes, sizes)
        if wanted.found.type_id and key.casefold() == wanted.found.type_id.casefold():
            yield Match("library", key, fixture_type.name, f"the library has this type, by its id{tail}", modes, 6.6)
            continue
        weight, why = _alike(wanted, fixture_type)
        if weight >= ALIKE_LEAST - 2:
            yield Match(
                "library", key, fixture_type.name, f"in the library: {why}{tail}", modes, min(weight, 6.5) * 0.65
            )


def gaps(scene: Scene) -> dict[tuple[str, str], int]:
    """How many slots there is room for after fixtures of a type and mode, at the least: what a fixture of which nothing
    else is known may take."""
    starts: dict[int, list[tuple[int, tuple[str, str] | None]]] = {}
    for thing in scene.things:
        if thing.said is None:
            continue
        for number, universe, slot in thing.said.addresses:
            key = (thing.said.spec, thing.said.mode) if number == min(a[0] for a in thing.said.addresses) else None
            starts.setdefault(universe, []).append((slot, key))
    found: dict[tuple[str, str], int] = {}
    for there in starts.values():
        slots = sorted({slot for slot, _ in there})
        after = dict(itertools.pairwise(slots))
        for slot, key in there:
            if key is not None and slot in after:
                found[key] = min(found.get(key, SLOTS_MOST), after[slot] - slot)
    return found


def with_gaps(scene: Scene) -> Mapping[str, FoundType]:
    """The types of a scene, those of which nothing can be read with the room there is between addresses."""
    room = gaps(scene)
    made = dict(scene.types)
    for wanted in wanted_types(scene):
        if wanted.found.footprints:
            continue
        sizes = {mode: room.get((wanted.found.spec, mode), 1) for mode in wanted.modes}
        made[wanted.found.spec] = replace(wanted.found, footprints=sizes)
    return made
