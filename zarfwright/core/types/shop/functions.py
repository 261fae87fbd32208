"""Ranges of a draft to the functions of its channels, and functions to ranges. What nobody has changed of a channel
that came out of a file stays as it was there; what was changed keeps its name, for masters and relations say it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from zarfwright.core.types.model import Channel, ChannelFunction, ChannelSet
from zarfwright.core.types.shop.draft import DraftChannel, DraftRange


def _same_function(a: DraftRange, b: DraftRange) -> bool:
    """Whether two ranges that follow each other are parts of one function."""
    if a.end + 1 != b.start or a.function != b.function:
        return False
    alike = (a.attribute, a.wheel, a.emitter, a.filter, a.profile) == (
        b.attribute, b.wheel, b.emitter, b.filter, b.profile,
    )  # fmt: skip
    if a.function:
        return alike
    slots = a.slot is not None and b.slot is not None
    return alike and slots and (a.low, a.high) == (b.low, b.high) and (a.low == 0 or "Select" not in a.attribute)


def _filled(ranges: list[DraftRange]) -> list[DraftRange]:
    """Ranges of one lane with what nobody spoke of between them as doing nothing."""
    made: list[DraftRange] = []
    for one in sorted(ranges, key=lambda r: r.start):
        if made and one.start > made[-1].end + 1:
            idle = DraftRange(made[-1].end + 1, one.start - 1, "NoFeature", 0.0, 0.0, "", logical=one.logical)
            made.append(replace(idle, master=one.master))
        if made and one.start == made[-1].start:
            continue
        made.append(one)
    return made


def _grouped(channel: DraftChannel) -> list[list[DraftRange]]:
    """The ranges of each function."""
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
    return groups


@dataclass(frozen=True)
class Made:
    """The functions of a channel, and what those that came out of a file are called now."""

    functions: tuple[ChannelFunction, ...]
    names: dict[str, str]


class _Names:
    """Names that stay where they can: each is given once."""

    def __init__(self) -> None:
        self._given: set[str] = set()

    def kept(self, wanted: str) -> str:
        return self._free(wanted, wanted)

    def counted(self, plain: str) -> str:
        return self._free(f"{plain} 1", plain)

    def _free(self, name: str, plain: str) -> str:
        n = 2
        while name in self._given:
            name, n = f"{plain} {n}", n + 1
        self._given.add(name)
        return name


def _set(one: DraftRange, whole: tuple[float, float]) -> ChannelSet:
    own = (one.low, one.high)
    return ChannelSet(one.name, one.start, one.slot, None if own == whole else own)


def _function(group: list[DraftRange], name: str, was: ChannelFunction | None) -> ChannelFunction:
    first = group[0]
    # Of several parts each has values of its own; those of the whole are known only where it came out of a file.
    whole = was.physical if was is not None and len(group) > 1 else (first.low, first.high)
    return ChannelFunction(
        name=name,
        attribute=first.attribute,
        start=first.start,
        physical=whole,
        wheel=first.wheel,
        emitter=first.emitter,
        filter=first.filter,
        sets=tuple(_set(one, whole) for one in group if one.slot is not None or one.name or len(group) > 1),
        real_fade_s=first.fade_s,
        real_acceleration_s=first.start_s,
        master=first.master,
        profile=first.profile,
        logical=first.logical,
    )


def functions_of(channel: DraftChannel, was: Channel | None = None) -> Made:
    """The functions of a channel; `was`: the channel that it was copied from."""
    if was is not None and _untouched(channel, was):
        return Made(was.functions, {f.name: f.name for f in was.functions})
    known: dict[str, tuple[ChannelFunction, list[DraftRange]]] = {}
    if was is not None:
        known = {one.name: (one, _parts(one, first, last)) for one, first, last in was.spans()}
    given, made = _Names(), []
    names: dict[str, str] = {}
    # Names that were there come first, so that no new one takes them.
    groups = sorted(_grouped(channel), key=lambda group: not group[0].function)
    for group in groups:
        first = group[0]
        plain = (first.name if len(group) == 1 else "") or first.attribute
        name = given.kept(first.function) if first.function else given.counted(plain)
        if first.function:
            names.setdefault(first.function, name)
        before, parts = known.get(first.function, (None, []))
        made.append(before if before is not None and group == parts else _function(group, name, before))
    made = made or [ChannelFunction("NoFeature 1", "NoFeature", 0, (0.0, 0.0))]
    ordered = sorted(made, key=lambda f: (f.logical, f.start))
    # The channel rests in the function that its home lies in.
    inside = [i for i, f in enumerate(ordered) if f.logical == ordered[0].logical and f.start <= channel.home]
    rests = inside[-1] if inside else 0
    return Made(tuple(replace(f, default=channel.home if i == rests else None) for i, f in enumerate(ordered)), names)


def _untouched(channel: DraftChannel, was: Channel) -> bool:
    return (channel.ranges, channel.home, len(channel.slots)) == (ranges_of(was), was.home, len(was.slots))


def _parts(function: ChannelFunction, first: int, last: int) -> list[DraftRange]:
    """A function between two raw values as ranges, one for each of its sets where these do something of their own."""
    if last < first:
        return []
    low, high = function.physical
    common: dict[str, Any] = {
        "attribute": function.attribute, "wheel": function.wheel, "emitter": function.emitter,
        "filter": function.filter, "profile": function.profile, "master": function.master,
        "logical": function.logical, "fade_s": function.real_fade_s, "start_s": function.real_acceleration_s,
        "function": function.name,
    }  # fmt: skip
    sets = [s for s in function.sets if first <= s.start <= last]
    if not any(s.slot is not None or s.physical is not None for s in sets):
        name = sets[0].name if len(sets) == 1 else ""
        return [DraftRange(first, last, low=low, high=high, name=name or function.name, **common)]

    def line(raw: int) -> float:
        return low + (high - low) * (raw - first) / (last - first) if last > first else low

    made = []
    if sets[0].start > first:
        end = sets[0].start - 1
        made.append(DraftRange(first, end, low=low, high=line(end), name="", **common))
    for i, one in enumerate(sets):
        end = sets[i + 1].start - 1 if i + 1 < len(sets) else last
        if end < one.start:
            continue
        slot = one.slot or (1 if function.wheel else None)
        # A part without values of its own lies on the line of the whole; where a wheel is chosen from, that is all.
        own = one.physical or ((low, high) if function.wheel else (line(one.start), line(end)))
        made.append(DraftRange(one.start, end, low=own[0], high=own[1], name=one.name, slot=slot, **common))
    return made


def ranges_of(channel: Channel) -> tuple[DraftRange, ...]:
    """The functions of a channel as ranges."""
    return tuple(part for function, first, last in channel.spans() for part in _parts(function, first, last))
