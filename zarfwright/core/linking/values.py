"""Values for consoles: what is held here of a fixture, as physical values by the functions that its type has
(docs/osc.md)."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from functools import cache

from zarfwright.core.dmx.encode import encode_raws
from zarfwright.core.dmx.features import COUNT, FEATURES, INDEX
from zarfwright.core.dmx.mode import driven_beams
from zarfwright.core.dmx.segments import Lane, lanes_of
from zarfwright.core.memo import Memo
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


@cache
def unit_of(attribute: str) -> str:
    """The unit of an attribute's physical values, as GDTF has it (DIN SPEC 15800, annex A)."""
    if "Rot" in attribute and attribute.startswith(("Blade", "Shaper")):
        return "deg"
    return next((unit for begins, unit in UNITS if attribute.startswith(begins)), "share")


Span = tuple[ChannelFunction, int, int]


@dataclass(frozen=True)
class _Ways:
    """What is to be known of a mode for each of its channels: its lanes, the features that they have a say in, which of
    several of its attribute it is, the beams that it drives."""

    lanes: tuple[tuple[Lane, ...], ...]
    features: tuple[frozenset[str], ...]
    parts: tuple[int, ...]
    spans: tuple[tuple[Span, ...], ...]
    beams: tuple[frozenset[int], ...]

    def driven(self, names: Collection[str]) -> list[int]:
        """The channels that have a say in some features."""
        wanted = set(names)
        return [i for i, own in enumerate(self.features) if own & wanted]


def _ways_of(kind: FixtureType, mode_name: str) -> _Ways:
    mode, chains = kind.mode(mode_name), chains_of(kind, mode_name)
    lanes = tuple(tuple(lanes_of(kind, channel)) for channel in mode.channels)
    features = tuple(
        frozenset(FEATURES[one.feature].name for lane in own for one in lane.segments if one.feature < COUNT)
        if channel.slots
        else frozenset[str]()
        for channel, own in zip(mode.channels, lanes, strict=True)
    )
    beams = tuple(frozenset(driven_beams(channel, chains)) for channel in mode.channels)
    spans = tuple(tuple(channel.spans()) for channel in mode.channels)
    return _Ways(lanes, features, tuple(_parts(mode)), spans, beams)


_ways: Memo[_Ways] = Memo(_ways_of, 500)


def values_of(
    kind: FixtureType, mode_name: str, number: int, whole: Mapping[str, float], cells: Mapping[int, Mapping[str, float]]
) -> tuple[Value, ...]:
    """What a fixture is held at, all of it (`whole`) and single cells (by number, from 1), by feature."""
    mode, ways = kind.mode(mode_name), _ways(kind, mode_name)
    found: dict[int, Value] = {}
    if whole:
        here = ways.driven(whole)
        raws = encode_raws(kind, mode, whole, ways.lanes, here)
        found = {i: _value(ways, i, number, raws[i]) for i in here}
    for cell, held in cells.items():
        here = [i for i in ways.driven(held) if cell - 1 in ways.beams[i]]
        raws = encode_raws(kind, mode, {**whole, **held}, ways.lanes, here)
        found |= {i: _value(ways, i, number, raws[i]) for i in here}
    return tuple(found[i] for i in sorted(found))


def _value(ways: _Ways, channel: int, number: int, raw: int) -> Value:
    spans = ways.spans[channel]
    function, first, last = next((span for span in spans if span[1] <= raw <= span[2]), spans[0])
    low, high = function.physical
    share = (raw - first) / (last - first) if last > first else 0.0
    unit = unit_of(function.attribute)
    return Value(number, function.attribute, ways.parts[channel], low + share * (high - low), unit)


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


Said = Mapping[tuple[str, int], float]
"""Physical values by attribute and part, as a console says them."""


def features_of(kind: FixtureType, mode_name: str, said: Said) -> dict[str, float]:
    """What a console's values come to, by feature: those alone that they have a say in, of the fixture's first beam.
    What its mode has not is passed over."""
    mode, ways = kind.mode(mode_name), _ways(kind, mode_name)
    slots = home_slots(mode)
    touched: set[str] = set()
    for i, channel in enumerate(mode.channels):
        raw = _raw_said(channel, ways.parts[i], said) if channel.slots else None
        if raw is None:
            continue
        for slot, byte in zip(channel.slots, raw.to_bytes(len(channel.slots), "big"), strict=True):
            slots[channel.dmx_break][slot - 1] = byte
        touched |= ways.features[i]
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
