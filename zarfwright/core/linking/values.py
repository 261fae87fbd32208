"""Values for consoles: what is held here of a fixture, as physical values by the functions that its type has
(docs/osc.md)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from zarfwright.core.dmx.encode import encode_raws
from zarfwright.core.dmx.features import COUNT, FEATURES, INDEX
from zarfwright.core.dmx.mode import driven_beams
from zarfwright.core.dmx.segments import lanes_of
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.model import Channel, ChannelFunction, FixtureType, Mode
from zarfwright.core.types.trial import home_slots, trial

UNITS: tuple[tuple[str, str], ...] = (
    ("PanRotate", "deg/s"), ("TiltRotate", "deg/s"), ("Pan", "deg"), ("Tilt", "deg"), ("Zoom", "deg"),
    ("ShaperRot", "deg"), ("CTC", "share"), ("Strobe", "Hz"), ("Shutter1Strobe", "Hz"), ("Shutter2Strobe", "Hz"),
)  # fmt: skip
"""By how an attribute begins; all others are shares of full, or slots as the type's file counts them."""


@dataclass(frozen=True)
class Value:
    """One function of a fixture. `part`: which of several of that attribute, counted by slots from 1; 0: the only
    one."""

    number: int
    attribute: str
    part: int
    value: float
    unit: str


def unit_of(attribute: str) -> str:
    """The unit of an attribute's physical values, as GDTF has it (DIN SPEC 15800, annex A)."""
    if "Rot" in attribute and attribute.startswith(("Blade", "Shaper")):
        return "deg"
    return next((unit for begins, unit in UNITS if attribute.startswith(begins)), "share")


def values_of(
    kind: FixtureType, mode_name: str, number: int, whole: Mapping[str, float], cells: Mapping[int, Mapping[str, float]]
) -> tuple[Value, ...]:
    """What a fixture is held at, all of it (`whole`) and single cells (by number, from 1), by feature."""
    mode = kind.mode(mode_name)
    parts = _parts(mode)
    found: dict[int, Value] = {}
    raws = encode_raws(kind, mode, dict(whole))
    for i in _driven(kind, mode, frozenset(whole)):
        found[i] = _value(mode.channels[i], parts[i], number, raws[i])
    chains = chains_of(kind, mode_name) if cells else ()
    for cell, held in cells.items():
        raws = encode_raws(kind, mode, {**whole, **held})
        for i in _driven(kind, mode, frozenset(held)):
            if cell - 1 in driven_beams(mode.channels[i], chains):
                found[i] = _value(mode.channels[i], parts[i], number, raws[i])
    return tuple(found[i] for i in sorted(found))


def _value(channel: Channel, part: int, number: int, raw: int) -> Value:
    function, first, last = _at(channel, raw)
    low, high = function.physical
    share = (raw - first) / (last - first) if last > first else 0.0
    return Value(number, function.attribute, part, low + share * (high - low), unit_of(function.attribute))


def _at(channel: Channel, raw: int) -> tuple[ChannelFunction, int, int]:
    return next((span for span in channel.spans() if span[1] <= raw <= span[2]), next(iter(channel.spans())))


def _parts(mode: Mode) -> list[int]:
    """Which of several channels of its attribute each one is."""
    several: dict[str, list[int]] = {}
    by_slot = sorted(range(len(mode.channels)), key=lambda i: (mode.channels[i].dmx_break, mode.channels[i].slots))
    for i in by_slot:
        if mode.channels[i].slots:
            several.setdefault(mode.channels[i].attribute, []).append(i)
    parts = [0] * len(mode.channels)
    for found in several.values():
        for n, i in enumerate(found, 1):
            parts[i] = n if len(found) > 1 else 0
    return parts


def _driven(kind: FixtureType, mode: Mode, features: frozenset[str]) -> list[int]:
    """The channels that have a say in some features."""
    wanted = {INDEX[name] for name in features if name in INDEX}
    return [
        i
        for i, channel in enumerate(mode.channels)
        if channel.slots
        and any(segment.feature in wanted for lane in lanes_of(kind, channel) for segment in lane.segments)
    ]


Said = Mapping[tuple[str, int], float]
"""Physical values by attribute and part, as a console says them."""


def features_of(kind: FixtureType, mode_name: str, said: Said) -> dict[str, float]:
    """What a console's values come to, by feature: those alone that they have a say in, of the fixture's first beam.
    What its mode has not is passed over."""
    mode = kind.mode(mode_name)
    parts = _parts(mode)
    slots = home_slots(mode)
    touched: set[str] = set()
    for channel, part in zip(mode.channels, parts, strict=True):
        raw = _raw_said(channel, part, said) if channel.slots else None
        if raw is None:
            continue
        for slot, byte in zip(channel.slots, raw.to_bytes(len(channel.slots), "big"), strict=True):
            slots[channel.dmx_break][slot - 1] = byte
        lanes = lanes_of(kind, channel)
        touched |= {FEATURES[one.feature].name for lane in lanes for one in lane.segments if one.feature < COUNT}
    if not touched:
        return {}
    row = trial(kind, mode_name, slots).features[0]
    return {name: float(row[INDEX[name]]) for name in touched}


def _raw_said(channel: Channel, part: int, said: Said) -> int | None:
    """In the range of the channel that has what is said of its attribute, else in the nearest: a shutter that is closed
    and one that is open are two ranges of one attribute."""
    best: tuple[float, int] | None = None
    for function, first, last in channel.spans():
        value = said.get((function.attribute, part), said.get((function.attribute, 0)))
        if value is None:
            continue
        low, high = function.physical
        off = max(min(low, high) - value, value - max(low, high), 0.0)
        if best is None or off < best[0]:
            share = min(max((value - low) / (high - low), 0.0), 1.0) if high != low else 0.0
            best = off, first + round(share * (last - first))
    return best[1] if best is not None else None
