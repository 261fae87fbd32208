"""A manual's text taken into a draft: ranges of a channel, and whole lists of channels with their wheels."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from zarfwright.core.types.manual.channels import ManualChannel, ManualList, read_channels
from zarfwright.core.types.manual.names import attribute_of
from zarfwright.core.types.manual.ranges import ManualRange, ManualTable, read_ranges
from zarfwright.core.types.model import Chromaticity, Emitter, Wheel, WheelSlot
from zarfwright.core.types.shop.draft import Draft, DraftChannel, DraftMode, DraftRange
from zarfwright.core.types.shop.usual import USUAL, channel_for, usual
from zarfwright.core.types.shop.wheels import facets_of, named_colour

WHEELS = {
    "Color1": "Colour wheel", "Color2": "Colour wheel 2", "Gobo1": "Gobo wheel", "Gobo2": "Gobo wheel 2",
    "Prism1": "Prism wheel", "ColorMacro1": "Built-in colours", "ColorEffects1": "Built-in colours",
}  # fmt: skip
_BASE = re.compile(r"(Select(Spin|Shake)|WheelSpin|WheelShake|Pos(Rotate|Shake)?)$")
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


def wheel_of(attribute: str) -> str | None:
    """The name of the wheel that an attribute turns."""
    return WHEELS.get(_BASE.sub("", attribute))


def _slot(wheels: dict[str, list[WheelSlot]], wheel: str, name: str) -> int:
    """The number of a slot by its name; a new one where the wheel has none of it."""
    slots = wheels.setdefault(wheel, [])
    if not slots and name != "Open" and wheel != "Prism wheel":
        slots.append(WheelSlot("Open"))
    if not slots and wheel == "Prism wheel" and name != "None":
        slots.append(WheelSlot("None"))
    for i, slot in enumerate(slots):
        if slot.name.casefold() == name.casefold():
            return i + 1
    colour = named_colour(name) if wheel.startswith(("Colour", "Built-in")) else None
    facets = facets_of(name) if wheel == "Prism wheel" else ()
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
    table = read_ranges(text, attribute, max(len(into.slots), 1), usual(attribute))
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
    return Pasted(_with_wheels(replace(draft, modes=modes), wheels), table.left, doubts)


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
    ranges = _ranges(one.table.ranges, wheels)
    if one.named.attribute in EMITTERS:
        name = EMITTERS[one.named.attribute][0]
        ranges = tuple(replace(r, emitter=name) for r in ranges or plain.ranges)
    doubt = one.doubt or ("" if cell is None or part or len(lenses) == 1 else f"there is no cell {cell}")
    if ranges:
        home = next((r.start for r in ranges if r.attribute == "Shutter1" and r.low == r.high == 1.0), None)
        home = home if home is not None else (plain.home if len(ranges) == 1 else 0)
        plain = replace(plain, ranges=ranges, home=home)
    first = replace(plain.ranges[0], name=plain.ranges[0].name or one.words[:80], doubt=plain.ranges[0].doubt or doubt)
    return replace(plain, ranges=(first, *plain.ranges[1:]))


def paste_channels(draft: Draft, mode: int, text: str) -> Pasted:
    """Take a whole list into a mode; it replaces the mode's channels."""
    read: ManualList = read_channels(text, USUAL)
    if not read.channels:
        return Pasted(draft, read.left, 0)
    wheels = {wheel.name: list(wheel.slots) for wheel in draft.wheels}
    channels = [_list_channel(draft, one, wheels) for one in read.channels]
    left = [*read.left, *(entry for one in read.channels for entry in _lines(one))]
    made = DraftMode(draft.modes[mode].name, tuple(channels), (), draft.modes[mode].description)
    modes = tuple(made if i == mode else m for i, m in enumerate(draft.modes))
    doubts = sum(1 for c in channels for r in c.ranges if r.doubt)
    return Pasted(_emitters(_with_wheels(replace(draft, modes=modes), wheels), channels), tuple(sorted(left)), doubts)


def _lines(one: ManualChannel) -> list[tuple[int, str, str]]:
    return [(one.line + number, words, why) for number, words, why in one.table.left]


__all__ = ["ManualTable", "Pasted", "attribute_of", "paste_channels", "paste_ranges", "wheel_of"]
