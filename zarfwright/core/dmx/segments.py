"""Channels as straight pieces: from raw values to what features are, the form in which a rig is decoded.

A lane is what the functions of one logical channel under one master do to one feature.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zarfwright.core.dmx.features import COUNT, FEATURES, INDEX, INVERSE, SLOT, Drive, drives_of, from_physical
from zarfwright.core.types.model import Channel, ChannelFunction, ChannelSet, DmxProfile, FixtureType, Mode, ModeMaster

NOTHING = COUNT
"""The column for functions that change nothing in the picture."""
PROFILE_PIECES = 256
"""How many straight pieces stand for a curve over a function's range; on 8 bits each value has its own."""


@dataclass(frozen=True)
class Segment:
    """From `start` on, the feature is `at + slope * (raw - origin)`."""

    start: int
    origin: int
    at: float
    slope: float
    feature: int

    def value(self, raw: int) -> float:
        return self.at + self.slope * (raw - self.origin)


@dataclass(frozen=True)
class Lane:
    """The segments of one lane in order; a raw value belongs to the last one that starts at or below it."""

    segments: tuple[Segment, ...]
    master: ModeMaster | None
    spans: tuple[tuple[str, int, int], ...]
    """The functions by name, with their first and last raw value."""

    @property
    def drives(self) -> bool:
        return any(segment.feature != NOTHING for segment in self.segments)

    def at(self, raw: int) -> Segment:
        return next(segment for segment in reversed(self.segments) if segment.start <= raw)


def _value(drive: Drive, physical: float, factor: float) -> float:
    value = physical * factor
    return 1.0 - value if drive.source == INVERSE else value


def _curved(feature: int, first: int, last: int, low: float, high: float, profile: DmxProfile) -> list[Segment]:
    """A function that follows a curve, as chords between raw values."""
    width = last - first
    raws = np.unique(np.linspace(first, last, min(width, PROFILE_PIECES) + 1).astype(np.int64)).tolist()
    values = [low + (high - low) * profile.at((raw - first) / width if width else 0.0) for raw in raws]
    made = []
    for i, raw in enumerate(raws[:-1]):
        slope = (values[i + 1] - values[i]) / (raws[i + 1] - raw)
        made.append(Segment(raw, raw, values[i], slope, feature))
    return [*made, Segment(raws[-1], raws[-1], values[-1], 0.0, feature)]


def _set_segment(
    part: ChannelSet, end: int, drive: Drive, feature: int, factor: float, line: tuple[int, float, float]
) -> Segment:
    first, low, slope = line
    if drive.source == SLOT:
        return Segment(part.start, part.start, float(part.slot or 1), 0.0, feature)
    if part.physical is not None:
        a, b = (_value(drive, value, factor) for value in part.physical)
        width = end - 1 - part.start
        return Segment(part.start, part.start, a, (b - a) / width if width > 0 else 0.0, feature)
    return Segment(part.start, first, low, slope, feature)


def _function_segments(
    function: ChannelFunction, first: int, last: int, wanted: str, profile: DmxProfile | None
) -> list[Segment]:
    """What one function does to a feature: linear from its first to its last raw value (GDTF), or along its curve; a
    set with a wheel slot holds that slot; a set with physical values of its own is linear between them."""
    drive = next((one for one in drives_of(function) if one.feature == wanted), None)
    if drive is None:
        return [Segment(first, first, 0.0, 0.0, NOTHING)]
    feature = INDEX[wanted]
    if isinstance(drive.source, float):
        return [Segment(first, first, drive.source, 0.0, feature)]
    factor = from_physical(feature)
    low, high = (_value(drive, end, factor) for end in function.physical)
    slope = (high - low) / (last - first) if last > first else 0.0
    slots = drive.source == SLOT
    curved = profile is not None and not FEATURES[feature].steps
    made = []
    # Sets that only name a part of the line change nothing of it.
    sets = [p for p in function.sets if first <= p.start <= last and (slots or not curved or p.physical is not None)]
    ends = _ends(function, sets, last)
    if curved and profile is not None:
        line = _curved(feature, first, last, low, high, profile)
        for part, end in zip(sets, ends, strict=True):
            line = _overlaid(line, _set_segment(part, end, drive, feature, factor, (first, low, slope)), end)
        return line
    if not sets or sets[0].start > first:
        made.append(Segment(first, first, 1.0 if slots else low, 0.0 if slots else slope, feature))
    for part, end in zip(sets, ends, strict=True):
        made.append(_set_segment(part, end, drive, feature, factor, (first, low, slope)))
    return made


def _ends(function: ChannelFunction, sets: list[ChannelSet], last: int) -> list[int]:
    """Where each set ends: before the next set of the function, named or not."""
    starts = sorted(part.start for part in function.sets if part.start <= last)
    return [min([start for start in starts if start > part.start], default=last + 1) for part in sets]


def _overlaid(line: list[Segment], piece: Segment, end: int) -> list[Segment]:
    """A line with one piece laid over it, up to `end`."""
    before = [one for one in line if one.start < piece.start]
    after = [one for one in line if one.start >= end]
    under = next((one for one in reversed(line) if one.start <= end), None)
    if (not after or after[0].start > end) and under is not None:
        after.insert(0, Segment(end, under.origin, under.at, under.slope, under.feature))
    return [*before, piece, *after]


def lanes_of(fixture_type: FixtureType, channel: Channel) -> list[Lane]:
    """The lanes of a channel: one for each feature that its functions drive under one master.

    A value below the first function does what that function does where it begins.
    """
    made = []
    for group in channel.lanes():
        wanted = list(dict.fromkeys(drive.feature for function, _, _ in group for drive in drives_of(function)))
        spans = tuple((function.name, first, last) for function, first, last in group)
        for feature in wanted or [""]:
            segments: list[Segment] = []
            for function, first, last in group:
                segments += _function_segments(function, first, last, feature, fixture_type.profile(function.profile))
            lowest = segments[0]
            if lowest.start > 0:
                segments.insert(0, Segment(0, 0, lowest.value(lowest.start), 0.0, lowest.feature))
            made.append(Lane(tuple(segments), group[0][0].master, spans))
    return made


@dataclass(frozen=True)
class Condition:
    """A channel has to be within these raw values, both included."""

    channel: str
    low: int
    high: int


def conditions_of(mode: Mode, master: ModeMaster | None) -> list[Condition] | None:
    """All that has to hold for a master to hold; None where it never can (it leads to nothing, or in a circle).

    A function as a master has to be there itself: its channel within its range, and its own master holding.
    """
    found: list[Condition] = []
    seen: set[tuple[str, str | None]] = set()
    while master is not None:
        key = (master.channel, master.function)
        channel = mode.by_name.get(master.channel)
        if channel is None or key in seen:
            return None
        seen.add(key)
        low, high, above = master.low, master.high, None
        if master.function is not None:
            span = next((one for one in channel.spans() if one[0].name == master.function), None)
            if span is None:
                return None
            low, high, above = max(low, span[1]), min(high, span[2]), span[0].master
        found.append(Condition(master.channel, low, high))
        master = above
    return found
