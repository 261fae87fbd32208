"""The types of a scene as they are chosen: what each becomes, and what has to be added to the show for it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from hashlib import sha256

from zarfwright.core.exchange.incoming import Incoming
from zarfwright.core.exchange.lamps import TypeUse
from zarfwright.core.exchange.matching import Match, Wanted, matches, wanted_types, with_gaps
from zarfwright.core.exchange.scene import Scene
from zarfwright.core.exchange.standing import stand_in
from zarfwright.core.rig.things import TypeEntry
from zarfwright.core.show import Item, Show
from zarfwright.core.types.model import FixtureType


@dataclass(frozen=True)
class TypeChoice:
    """What the fixtures of a type will be of, and what they could be of."""

    wanted: Wanted
    chosen: Match
    others: tuple[Match, ...]


@dataclass(frozen=True)
class TypeSource:
    """A type that has to be added to the show: its entry, and name and bytes of its file."""

    item: Item
    type: FixtureType
    name: str
    data: bytes


def type_choices(show: Show, incoming: Incoming, scene: Scene, chosen_by: Mapping[str, str]) -> list[TypeChoice]:
    """What the fixtures of each type will be of: as chosen by the names of their files, else as suggested."""
    found = []
    types = with_gaps(scene)
    for wanted in wanted_types(replace(scene, types=types)):
        others = matches(show, wanted, incoming.types.get(wanted.found.spec), incoming.shipped)
        asked = chosen_by.get(wanted.found.spec)
        chosen = next((one for one in others if one.choice == asked), others[0])
        found.append(TypeChoice(wanted, chosen, tuple(others)))
    return found


def type_sources(
    show: Show, incoming: Incoming, chosen: list[TypeChoice]
) -> tuple[dict[str, TypeUse], dict[str, TypeSource]]:
    """The types as fixtures use them, by the name in the file; and those that are not in the show yet, by their id."""
    uses: dict[str, TypeUse] = {}
    sources: dict[str, TypeSource] = {}
    by_asset = {entry.asset: item.id for item, entry in show.bodies(TypeEntry) if item.id in show.types}
    for one in chosen:
        spec, match = one.wanted.found.spec, one.chosen
        if match.source == "show":
            uses[spec] = TypeUse(match.key, show.types[match.key], match.modes)
            continue
        fixture_type = _type_of(incoming, one)
        name, data = incoming.type_file(match.choice, spec, fixture_type if match.source == "plain" else None)
        asset = sha256(data).hexdigest()
        key = by_asset.get(asset, f"type-{asset[:32]}")
        if asset not in by_asset:
            entry = TypeEntry(fixture_type.name, fixture_type.maker, asset)
            sources[key] = TypeSource(Item(key, "type", entry), fixture_type, name, data)
        uses[spec] = TypeUse(key, fixture_type, match.modes)
    return uses, sources


def _type_of(incoming: Incoming, one: TypeChoice) -> FixtureType:
    if one.chosen.source == "file":
        return incoming.types[one.wanted.found.spec]
    if one.chosen.source == "library":
        return incoming.shipped[one.chosen.key]
    return stand_in(one.wanted.found, one.wanted.modes)
