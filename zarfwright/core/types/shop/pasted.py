"""A manual's text taken into a draft: ranges of a channel, and whole lists of channels with their wheels."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from zarfwright.core.types.manual.channels import ManualChannel, ManualList, read_channel, read_channels
from zarfwright.core.types.manual.names import attribute_of
from zarfwright.core.types.manual.ranges import ManualRange, ManualTable
from zarfwright.core.types.model import Chromaticity, Emitter, Wheel, WheelSlot
from zarfwright.core.types.naming import unlike
from zarfwright.core.types.shop.draft import Draft, DraftChannel, DraftMode, DraftRange
from zarfwright.core.types.shop.usual import USUAL, channel_for, usual
from zarfwright.core.types.shop.wheels import facets_of, named_colour

WHEELS = {
    "Color1": "Colour wheel", "Color2": "Colour wheel 2", "Gobo1": "Gobo wheel", "Gobo2": "Gobo wheel 2",
    "Prism1": "Prism wheel", "Prism2": "Prism wheel 2", "AnimationWheel1": "Animation wheel",
    "ColorMacro1": "Built-in colours", "ColorEffects1": "Built-in colours",
}  # fmt: skip
_BASE = re.compile(r"(Select(Spin|Shake)|Wheel(Spin|Shake|Index|Random)|Pos(Rotate|Shake)?)$")
EMITTERS = {
    "ColorAdd_R": ("Red", Chromaticity(0.690, 0.308, 22.0)), "ColorAdd_G": ("Green", Chromaticity(0.170, 0.700, 45.0)),
    "ColorAdd_B": ("Blue", Chromaticity(0.140, 0.045, 7.0)), "ColorAdd_W": ("White", Chromaticity(0.313, 0.329, 70.0)),
    "ColorAdd_RY": ("Amber", Chromaticity(0.560, 0.430, 35.0)), 
    "ColorAdd_GY": ("Lime", Chromaticity(0.405, 0.545, 70.0)),
    "ColorAdd_UV": ("Ultraviolet", Chromaticity(0.165, 0.010, 0.6)),
    "ColorAdd_WW": ("Warm white", Chromaticity(0.440, 0.403, 60.0)),
    "ColorAdd_CW": ("Cold white", Chromaticity(0.300, 0.310, 70.0)),
}  # fmt: skip
"""Light sources by what drives them: typical ones, until somebody knows better."""


@dataclass(frozen=True)
class Pasted:
    """A draft with text taken in, and what was left of it: line, words, why."""

    draft: Draft
    left: tuple[tuple[int, str, str], ...]
    doubts: int
    """How many ranges and channels somebody has to look at."""
    modes: tuple[ReadMode, ...] = ()
    """Where what was read is in the draft, and the lines that it was read from."""


@dataclass(frozen=True)
class ReadMode:
    """A mode of a draft that was read from text: its place, and the source line of each range of each channel."""

    mode: int
    lines: tuple[tuple[int, ...], ...]
    attributes: tuple[str, ...] = ()
    """What each channel as a whole does."""
    replaced: bool = False


def wheel_of(attribute: str) -> str | None:
    """The name of the wheel that an attribute turns."""
    return WHEELS.get(_BASE.sub("", attribute))


def _slot(wheels: dict[str, list[WheelSlot]], wheel: str, name: str) -> int:
    """The number of a slot by its name; a new one where the wheel has none of it."""
    slots = wheels.setdefault(wheel, [])
    for i, slot in enumerate(slots):
        if slot.name.casefold() == name.casefold():
            return i + 1
    colour = named_colour(name) if wheel.startswith(("Colour", "Built-in")) else None
    facets = facets_of(name) if wheel.startswith("Prism") else ()
    slots.append(WheelSlot(name[:60], colour, facets=facets))
    return len(slots)


def _ranges(found: Sequence[ManualRange], wheels: dict[str, list[WheelSlot]]) -> tuple[DraftRange, ...]:
    made = []
    for one in found:
        meaning, slot = one.meaning, None
        wheel = wheel_of(meaning.attribute)
        if wheel is not None and meaning.slot is not None:
            slot = _slot(wheels, wheel, meaning.slot)
        if slot is None and "WheelSpin" not in meaning.attribute:
            wheel = None if meaning.attribute not in WHEELS else wheel
        made.append(
            DraftRange(
                one.start, one.end, meaning.attribute, meaning.low, meaning.high, one.words[:80], slot, wheel,
                doubt=one.doubt,
            )
        )  # fmt: skip
    return tuple(made)


def _with_wheels(draft: Draft, wheels: dict[str, list[WheelSlot]]) -> Draft:
    kept = [replace(w, slots=tuple(wheels.pop(w.name))) if w.name in wheels else w for w in draft.wheels]
    return replace(draft, wheels=(*kept, *(Wheel(name, tuple(slots)) for name, slots in wheels.items())))


def paste_ranges(draft: Draft, mode: int, channel: int, text: str) -> Pasted:
    """Take a table into one channel; it replaces the channel's ranges. A 16-bit table gives it a fine byte."""
    into = draft.modes[mode].channels[channel]
    attribute = into.attribute
    table = read_channel(text, attribute, max(len(into.slots), 1), usual(attribute))
    if not table.ranges:
        return Pasted(draft, table.left, 0)
    wheels = {wheel.name: list(wheel.slots) for wheel in draft.wheels}
    ranges = _ranges(table.ranges, wheels)
    channels = list(draft.modes[mode].channels)
    slots = into.slots
    if table.size > len(slots):
        slots, channels = _widened(channels, channel, table.size)
    home = next((r.start for r in ranges if r.attribute == "Shutter1" and r.low == r.high == 1.0), 0)
    channels[channel] = replace(channels[channel], slots=slots, ranges=ranges, home=home)
    made = replace(draft.modes[mode], channels=tuple(channels))
    modes = tuple(made if i == mode else m for i, m in enumerate(draft.modes))
    doubts = sum(1 for one in ranges if one.doubt)
    lines = tuple(() if i != channel else tuple(r.line for r in table.ranges) for i in range(len(channels)))
    read = (ReadMode(mode, lines, tuple(c.attribute for c in channels)),)
    return Pasted(_with_wheels(replace(draft, modes=modes), wheels), table.left, doubts, read)


def _widened(channels: list[DraftChannel], which: int, size: int) -> tuple[tuple[int, ...], list[DraftChannel]]:
    """Room for the further bytes of a channel right behind it: what lies after moves up."""
    slots = channels[which].slots
    more, last = size - len(slots), slots[-1]
    number = channels[which].dmx_break
    moved = [
        replace(c, slots=tuple(s + more if s > last and c.dmx_break == number else s for s in c.slots))
        for c in channels
    ]
    return (*slots, *range(last + 1, last + 1 + more)), moved


def _emitters(draft: Draft, channels: Sequence[DraftChannel]) -> Draft:
    """Light sources for what the channels mix."""
    have = {emitter.name for emitter in draft.emitters}
    wanted = dict.fromkeys(r.attribute for c in channels for r in c.ranges if r.attribute in EMITTERS)
    more = [Emitter(*EMITTERS[a]) for a in wanted if EMITTERS[a][0] not in have]
    return replace(draft, emitters=(*draft.emitters, *more))


def _list_channel(draft: Draft, one: ManualChannel, wheels: dict[str, list[WheelSlot]]) -> DraftChannel:
    parts, lenses = draft.parts, draft.lenses
    cell = one.named.cell
    part = lenses[cell - 1] if cell is not None and len(lenses) > 1 and cell <= len(lenses) else None
    plain = channel_for(one.named.attribute, one.slots, parts, lenses, part)
    ranges = _ranges(one.table.ranges, wheels) or plain.ranges
    if one.named.attribute in EMITTERS:
        name = EMITTERS[one.named.attribute][0]
        ranges = tuple(replace(r, emitter=name) if r.attribute in EMITTERS else r for r in ranges)
    doubt = one.doubt
    if not doubt and cell is not None and part is None:
        doubt = f"it is of cell {cell}, and this body has {len(lenses)}: it drives all of it"
    home = next((r.start for r in ranges if r.attribute == "Shutter1" and r.low == r.high == 1.0), None)
    if one.home is not None:
        home = one.home * 256 ** (len(one.slots) - 1)
    elif home is None:
        home = plain.home if len(ranges) == 1 else 0
    first = replace(ranges[0], name=ranges[0].name or one.words[:80], doubt=ranges[0].doubt or doubt)
    return replace(plain, ranges=(first, *ranges[1:]), home=min(home, plain.top))


def paste_channels(draft: Draft, mode: int, text: str, replacing: bool = False) -> Pasted:
    """Take a whole list, with all of its modes, into a draft. A mode that has channels already stays, and what is read
    comes beside it, unless it is said that the first is `replacing` it."""
    read: ManualList = read_channels(text, USUAL)
    if not read.modes:
        return Pasted(draft, read.left, 0)
    wheels = {wheel.name: list(wheel.slots) for wheel in draft.wheels}
    modes, places = list(draft.modes), list[ReadMode]()
    new: list[DraftChannel] = []
    for n, one in enumerate(read.modes):
        channels = tuple(_list_channel(draft, channel, wheels) for channel in one.channels)
        new += channels
        into = n == 0 and mode < len(modes) and (replacing or not modes[mode].channels)
        taken = {m.name for i, m in enumerate(modes) if i != mode or not into}
        kept = modes[mode].name if into and not one.name else ""
        made = DraftMode(unlike(one.name[:60] or kept or f"Mode {len(modes) + (0 if into else 1)}", taken), channels)
        lines = tuple(tuple(r.line for r in c.table.ranges) or (c.line,) for c in one.channels)
        does = tuple(c.named.attribute for c in one.channels)
        if into:
            places.append(ReadMode(mode, lines, does, bool(modes[mode].channels)))
            modes[mode] = replace(made, description=modes[mode].description, geometry=modes[mode].geometry)
        else:
            places.append(ReadMode(len(modes), lines, does))
            modes.append(made)
    doubts = sum(1 for c in new for r in c.ranges if r.doubt)
    after = _emitters(_with_wheels(replace(draft, modes=tuple(modes)), wheels), new)
    return Pasted(after, read.left, doubts, tuple(places))


def cells_of(text: str) -> int:
    """How many cells a manual's text speaks of; 1 where it speaks of none."""
    read = read_channels(text, USUAL)
    return max((c.named.cell or 1 for mode in read.modes for c in mode.channels), default=1)


__all__ = [
    "ManualTable",
    "Pasted",
    "ReadMode",
    "attribute_of",
    "cells_of",
    "paste_channels",
    "paste_ranges",
    "wheel_of",
]
