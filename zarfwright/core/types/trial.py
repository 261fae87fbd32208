"""A fixture tried out by itself: what each channel does at given slots, and what comes of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from zarfwright.core.compiled import compiled
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.encode import write_raw
from zarfwright.core.dmx.features import FEATURES, INDEX
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.dmx.segments import conditions_of
from zarfwright.core.optics.colour import XYZ_TO_RGB
from zarfwright.core.picture import BeamTable
from zarfwright.core.space import Floats
from zarfwright.core.types.model import Channel, ChannelFunction, FixtureType, Mode
from zarfwright.core.types.words import in_words


@dataclass(frozen=True)
class Doing:
    """One channel function that is there: its channel (by its place in the mode), its physical value, its words."""

    channel: int
    raw: int
    function: ChannelFunction
    physical: float
    words: str


@dataclass(frozen=True)
class Trial:
    """What slots come to. `features` (beams, COUNT) and `frame` (beams, FIELDS) as the stage gets them."""

    doing: tuple[Doing, ...]
    features: Floats
    frame: Floats
    table: BeamTable


def home_slots(mode: Mode) -> dict[int, bytearray]:
    """The slots of each break with every channel at its default."""
    slots = {number: bytearray(size) for number, size in mode.footprints.items()}
    for channel in mode.channels:
        if channel.slots:
            write_raw(slots[channel.dmx_break], channel, channel.home)
    return slots


def raw_of(channel: Channel, slots: Mapping[int, bytes | bytearray]) -> int:
    """A channel's raw value; a virtual one's default."""
    if channel.virtual:
        return channel.home
    raw = 0
    for slot in channel.slots:
        raw = raw << 8 | slots[channel.dmx_break][slot - 1]
    return raw


def physical_at(fixture_type: FixtureType, function: ChannelFunction, first: int, last: int, raw: int) -> float:
    """The physical value of a function at a raw value (GDTF: linear over its range, through its profile, a set's own
    values over the set)."""
    at = min(max(raw, first), last)
    starts = sorted(part.start for part in function.sets)
    part = next((one for one in reversed(function.sets) if one.start <= at), None)
    if part is not None and part.physical is not None:
        end = min([start for start in starts if start > part.start], default=last + 1) - 1
        share = (at - part.start) / (end - part.start) if end > part.start else 0.0
        return part.physical[0] + (part.physical[1] - part.physical[0]) * share
    share = (at - first) / (last - first) if last > first else 0.0
    profile = fixture_type.profile(function.profile)
    low, high = function.physical
    return low + (high - low) * (profile.at(share) if profile else share)


def doing(fixture_type: FixtureType, mode: Mode, slots: Mapping[int, bytes | bytearray]) -> list[Doing]:
    """The functions that are there at these slots, channel by channel."""
    raws = [raw_of(channel, slots) for channel in mode.channels]
    by_name = {name: raws[mode.place_of(name)] for name in mode.by_name}
    made = []
    for i, channel in enumerate(mode.channels):
        for lane in channel.lanes():
            conditions = conditions_of(mode, lane[0][0].master)
            if conditions is None or not all(c.low <= by_name[c.channel] <= c.high for c in conditions):
                continue
            function, first, last = next((one for one in reversed(lane) if one[1] <= raws[i]), lane[0])
            value = physical_at(fixture_type, function, first, last, raws[i])
            made.append(Doing(i, raws[i], function, value, in_words(fixture_type, function, value, raws[i])))
    return made


def trial(fixture_type: FixtureType, mode_name: str, slots: Mapping[int, bytes | bytearray]) -> Trial:
    """Try a fixture out; `slots` by break, as long as the mode's footprints (`home_slots` gives them)."""
    mode = fixture_type.mode(mode_name)
    numbers = list(mode.footprints)
    named = tuple((number, 1 + i, 1) for i, number in enumerate(numbers) if i)
    row = PatchRow("tried", fixture_type, mode.name, 1, 1, named)
    made = compiled([row])
    rig, table = made.rig, made.beams
    levels = np.zeros((max(len(rig.universes), 1), 512), dtype=np.uint8)
    for i, number in enumerate(numbers):
        given = slots[number]
        levels[i, : len(given)] = np.frombuffer(bytes(given), dtype=np.uint8)
    features = Decoder(rig).decode(levels).copy()
    return Trial(tuple(doing(fixture_type, mode, slots)), features, table.frame(features).astype(float), table)


def beam_words(tried: Trial, beam: int) -> dict[str, object]:
    """What one beam does: pan and tilt in degrees, intensity, its colour at full as xy and linear RGB (all the source
    has is about 1), the field angle, gobo slots, strobe."""
    feature = {f.name: float(tried.features[beam, INDEX[f.name]]) for f in FEATURES}
    rgb = tried.table.colour(tried.features)[beam]
    xyz = np.linalg.solve(XYZ_TO_RGB, rgb)
    whole = float(xyz.sum())
    return {
        "pan_deg": round(float(np.degrees(feature["pan"])), 6),
        "tilt_deg": round(float(np.degrees(feature["tilt"])), 6),
        "intensity": round(min(max(feature["dimmer"] * feature["master dimmer"] * feature["shutter"], 0.0), 1.0), 6),
        "colour_xy": [round(float(xyz[0]) / whole, 6), round(float(xyz[1]) / whole, 6)] if whole > 1e-9 else None,
        "colour_rgb": [round(float(value), 6) for value in rgb],
        "zoom_deg": round(feature["zoom"], 6),
        "gobo_slots": [feature["gobo slot"], feature["gobo 2 slot"]],
        "strobe_hz": round(feature["strobe"], 6),
    }
