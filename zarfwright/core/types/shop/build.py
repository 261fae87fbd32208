"""A draft to a fixture type, and a type to a draft that starts from a copy of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from hashlib import sha256

from zarfwright.core.types.model import (
    BeamSource,
    Channel,
    ChannelFunction,
    ChannelSet,
    FixtureType,
    Geometry,
    Mode,
    WebInfo,
)
from zarfwright.core.types.shop.bodies import geometry_of
from zarfwright.core.types.shop.draft import Draft, DraftChannel, DraftMode, DraftRange


def _same_function(a: DraftRange, b: DraftRange) -> bool:
    """Whether two ranges are slots of one function."""
    if a.slot is None or b.slot is None or a.end + 1 != b.start:
        return False
    return (a.attribute, a.wheel, a.low, a.high, a.master, a.logical) == (
        b.attribute, b.wheel, b.low, b.high, b.master, b.logical,
    ) and (a.low == 0 or "Select" not in a.attribute)  # fmt: skip


def _filled(ranges: list[DraftRange]) -> list[DraftRange]:
    """Ranges of one lane with what nobody spoke of between them as doing nothing."""
    made: list[DraftRange] = []
    for one in sorted(ranges, key=lambda r: r.start):
        if made and one.start > made[-1].end + 1:
            made.append(DraftRange(made[-1].end + 1, one.start - 1, "NoFeature", 0.0, 0.0, "", logical=one.logical))
        if made and one.start == made[-1].start:
            continue
        made.append(one)
    return made


def functions_of(channel: DraftChannel) -> tuple[ChannelFunction, ...]:
    """Ranges as channel functions: slots of one wheel that follow each other become the sets of one function."""
    lanes: dict[tuple[int, object], list[DraftRange]] = {}
    for one in channel.ranges:
        lanes.setdefault((one.logical, one.master), []).append(one)
    groups: list[list[DraftRange]] = []
    for lane in lanes.values():
        before: DraftRange | None = None
        for one in _filled(lane):
            if before is not None and _same_function(before, one):
                groups[-1].append(one)
            else:
                groups.append([one])
            before = one
    names: dict[str, int] = {}
    made = []
    for group in groups:
        first = group[0]
        plain = (first.name if len(group) == 1 else "") or first.attribute
        names[plain] = names.get(plain, 0) + 1
        sets = tuple(ChannelSet(one.name, one.start, one.slot) for one in group if one.slot is not None or one.name)
        made.append(
            ChannelFunction(
                name=f"{plain} {names[plain]}",
                attribute=first.attribute,
                start=first.start,
                physical=(first.low, first.high),
                wheel=first.wheel,
                emitter=first.emitter,
                filter=first.filter,
                sets=sets,
                real_fade_s=first.fade_s,
                real_acceleration_s=first.start_s,
                master=first.master,
                profile=first.profile,
                logical=first.logical,
            )
        )
    made = made or [ChannelFunction("NoFeature 1", "NoFeature", 0, (0.0, 0.0))]
    ordered = sorted(made, key=lambda f: (f.logical, f.start))
    # The channel rests in the function that its home lies in.
    inside = [i for i, f in enumerate(ordered) if f.logical == ordered[0].logical and f.start <= channel.home]
    rests = inside[-1] if inside else 0
    return tuple(replace(f, default=channel.home) if i == rests else f for i, f in enumerate(ordered))


def _channel(channel: DraftChannel) -> Channel:
    return Channel(
        geometry=channel.part,
        slots=channel.slots,
        functions=functions_of(channel),
        highlight=channel.highlight,
        dmx_break=channel.dmx_break,
        key=channel.key,
    )


def type_id_of(draft: Draft) -> str:
    """A GUID from maker and name, for a draft that has none: the same draft gives the same one."""
    d = sha256(f"{draft.maker}\n{draft.name}".encode()).hexdigest().upper()
    return f"{d[:8]}-{d[8:12]}-4{d[13:16]}-8{d[17:20]}-{d[20:32]}"


def build(
    draft: Draft, images: Mapping[str, bytes] | None = None, webs: Mapping[str, tuple[bytes, WebInfo]] | None = None
) -> FixtureType:
    """The type that a draft comes to. `images` by name and `webs` by lens are the bytes of its assets."""
    if draft.kind == "as it came":
        geometries, models = draft.geometries, draft.models
    else:
        tree, models = geometry_of(draft)
        geometries = (tree,)
    modes = draft.modes or (DraftMode("Mode 1"),)
    found = dict(webs or {})
    return FixtureType(
        name=draft.name,
        maker=draft.maker,
        type_id=draft.type_id or type_id_of(draft),
        geometries=geometries,
        modes=tuple(
            Mode(m.name, geometries[0].name, tuple(_channel(c) for c in m.channels), m.relations, m.description)
            for m in modes
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


def _ranges(channel: Channel) -> tuple[DraftRange, ...]:
    made = []
    for function, first, last in channel.spans():
        low, high = function.physical
        common = {
            "attribute": function.attribute, "wheel": function.wheel, "emitter": function.emitter,
            "filter": function.filter, "profile": function.profile, "master": function.master,
            "logical": function.logical, "fade_s": function.real_fade_s, "start_s": function.real_acceleration_s,
        }  # fmt: skip
        sets = [s for s in function.sets if first <= s.start <= last]
        parted = any(s.slot is not None or s.physical is not None for s in sets)
        if not parted:
            name = sets[0].name if len(sets) == 1 else ""
            made.append(DraftRange(first, last, low=low, high=high, name=name or function.name, **common))  # type: ignore[arg-type]
            continue
        if sets[0].start > first:
            made.append(DraftRange(first, sets[0].start - 1, low=low, high=high, name="", **common))  # type: ignore[arg-type]
        for i, one in enumerate(sets):
            end = sets[i + 1].start - 1 if i + 1 < len(sets) else last
            ends = one.physical or (low, high)
            slot = one.slot or (1 if function.wheel else None)
            made.append(DraftRange(one.start, end, low=ends[0], high=ends[1], name=one.name, slot=slot, **common))  # type: ignore[arg-type]
    return tuple(made)


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
                    DraftChannel(c.geometry, c.slots, _ranges(c), c.home, c.highlight, c.dmx_break, c.key)
                    for c in m.channels
                ),
                m.relations,
                m.description,
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
