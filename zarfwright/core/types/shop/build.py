"""A draft to a fixture type, and a type to a draft that starts from a copy of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from hashlib import sha256

from zarfwright.core.types.model import (
    BeamSource,
    Channel,
    ChannelFunction,
    FixtureType,
    Geometry,
    Mode,
    ModeMaster,
    Relation,
    WebInfo,
)
from zarfwright.core.types.shop.bodies import geometry_of
from zarfwright.core.types.shop.draft import Draft, DraftChannel, DraftMode
from zarfwright.core.types.shop.functions import functions_of, ranges_of


def _copied_from(channel: DraftChannel, mode: Mode | None) -> Channel | None:
    """The channel of a file that one of a draft was copied from: of several of one name, the one it is like."""
    alike = [one for one in mode.channels if one.name == channel.key] if mode is not None and channel.key else []
    return next((one for one in alike if ranges_of(one) == channel.ranges), alike[0] if alike else None)


class _Named:
    """What the channels and functions of a mode were called where it came from, and what they are called now."""

    def __init__(self) -> None:
        self.channels: dict[str, str] = {}
        self.functions: dict[str, dict[str, str]] = {}

    def master(self, master: ModeMaster) -> ModeMaster:
        function = self.functions.get(master.channel, {}).get(master.function or "", master.function)
        return replace(master, channel=self.channels.get(master.channel, master.channel), function=function)

    def relation(self, relation: Relation) -> Relation:
        follower = relation.follower
        return replace(
            relation,
            master=self.channels.get(relation.master, relation.master),
            follower=self.channels.get(follower, follower),
            function=self.functions.get(follower, {}).get(relation.function, relation.function),
        )


def _mode(mode: DraftMode, geometry: str, was: Mode | None) -> Mode:
    """A mode of a draft; its masters and relations mean what they meant, whatever that is called now."""
    named = _Named()
    channels: list[Channel] = []
    for one in mode.channels:
        before = _copied_from(one, was)
        made = functions_of(one, before)
        channel = Channel(one.part, one.slots, made.functions, one.highlight, one.dmx_break)
        as_it_was = before is not None and made.functions is before.functions and one.part == before.geometry
        # Two of one name could not be told apart; then it keeps the one that it had.
        taken = channel.name in {other.name for other in channels} and one.key.startswith(f"{one.part}_")
        if as_it_was or taken:
            channel = replace(channel, key="" if one.key == channel.name else one.key)
        channels.append(channel)
        named.channels.setdefault(one.called, channel.name)
        named.functions.setdefault(one.called, made.names)

    def held(function: ChannelFunction) -> ChannelFunction:
        return function if function.master is None else replace(function, master=named.master(function.master))

    return Mode(
        mode.name,
        geometry,
        tuple(replace(one, functions=tuple(held(f) for f in one.functions)) for one in channels),
        tuple(named.relation(relation) for relation in mode.relations),
        mode.description,
    )


def type_id_of(draft: Draft) -> str:
    """A GUID from maker and name, for a draft that has none: the same draft gives the same one."""
    d = sha256(f"{draft.maker}\n{draft.name}".encode()).hexdigest().upper()
    return f"{d[:8]}-{d[8:12]}-4{d[13:16]}-8{d[17:20]}-{d[20:32]}"


def build(
    draft: Draft,
    images: Mapping[str, bytes] | None = None,
    webs: Mapping[str, tuple[bytes, WebInfo]] | None = None,
    copied: FixtureType | None = None,
) -> FixtureType:
    """The type that a draft comes to. `images` by name and `webs` by lens are the bytes of its assets; `copied` is the
    type that it was copied from: what nobody has changed of its channels stays as it is there."""
    if draft.kind == "as it came":
        geometries, models = draft.geometries, draft.models
    else:
        tree, models = geometry_of(draft)
        geometries = (tree,)
    modes = draft.modes or (DraftMode("Mode 1"),)
    found = dict(webs or {})
    trees = {tree.name for tree in geometries}
    before = {mode.name: mode for mode in copied.modes} if copied is not None else {}
    return FixtureType(
        name=draft.name,
        maker=draft.maker,
        type_id=draft.type_id or type_id_of(draft),
        geometries=geometries,
        modes=tuple(
            _mode(m, m.geometry if m.geometry in trees else geometries[0].name, before.get(m.was)) for m in modes
        ),
        models=models,
        wheels=draft.wheels,
        emitters=draft.emitters,
        profiles=draft.profiles,
        filters=draft.filters,
        description=draft.description,
        weight_kg=draft.weight_kg,
        power_w=draft.power_w,
        images=dict(images or {}),
        ies={name: data for name, (data, _) in found.items()},
        webs={name: info for name, (_, info) in found.items()},
    )


def _first_beam(trees: tuple[Geometry, ...]) -> BeamSource:
    return next((n.beam for tree in trees for n, _ in tree.walk() if n.beam is not None), BeamSource())


def draft_of(fixture_type: FixtureType, images: Mapping[str, str], webs: Mapping[str, str]) -> Draft:
    """A draft that starts from a copy of a type: its body is kept as it came. `images`, `webs`: assets by name."""
    return Draft(
        name=fixture_type.name,
        maker=fixture_type.maker,
        kind="as it came",
        beam=_first_beam(fixture_type.geometries),
        modes=tuple(
            DraftMode(
                m.name,
                tuple(
                    DraftChannel(c.geometry, c.slots, ranges_of(c), c.home, c.highlight, c.dmx_break, c.name)
                    for c in m.channels
                ),
                m.relations,
                m.description,
                m.geometry,
                m.name,
            )
            for m in fixture_type.modes
        ),
        wheels=fixture_type.wheels,
        emitters=fixture_type.emitters,
        filters=fixture_type.filters,
        profiles=fixture_type.profiles,
        images=dict(images),
        webs=dict(webs),
        geometries=fixture_type.geometries,
        models=fixture_type.models,
        description=fixture_type.description,
        weight_kg=fixture_type.weight_kg,
        power_w=fixture_type.power_w,
        type_id=fixture_type.type_id,
    )
