"""Features back to levels: for consoles that take values, and as the check that decoding is right."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from zarfwright.core.dmx.features import INDEX
from zarfwright.core.dmx.segments import Lane, conditions_of, lanes_of
from zarfwright.core.types.model import Channel, FixtureType, Mode


def nearest_raw(lane: Lane, top: int, feature: str, value: float) -> tuple[float, int] | None:
    """How far off a lane comes from a feature's value, and the raw value for that; None if it does not drive it."""
    wanted = INDEX[feature]
    ends = [segment.start - 1 for segment in lane.segments[1:]] + [top]
    best: tuple[float, int] | None = None
    for segment, last in zip(lane.segments, ends, strict=True):
        if segment.feature != wanted:
            continue
        raw = segment.start
        if segment.slope:
            exact = segment.origin + (value - segment.at) / segment.slope
            raw = min(max(round(exact), segment.start), last)
        miss = abs(segment.value(raw) - value)
        if best is None or miss < best[0] - 1e-12:
            best = (miss, raw)
    return best


def encode_raws(
    fixture_type: FixtureType,
    mode: Mode,
    values: Mapping[str, float],
    lanes: Sequence[Sequence[Lane]] | None = None,
    only: Sequence[int] | None = None,
) -> list[int]:
    """Raw values, channel by channel, for feature values; what is not given rests at its default. `lanes` by channel,
    where they are known already; `only` the channels that these features are known to need.

    Where a function needs a master, the master channel is set to where it holds.
    """
    raws = [channel.home for channel in mode.channels]
    for i in only if only is not None else range(len(mode.channels)):
        channel = mode.channels[i]
        here = lanes[i] if lanes is not None else lanes_of(fixture_type, channel)
        for feature, value in values.items():
            found = [(*nearest, lane) for lane in here if (nearest := nearest_raw(lane, channel.top, feature, value))]
            if not found:
                continue
            _, raws[i], lane = min(found, key=lambda one: (one[0], one[2].master is not None))
            for condition in conditions_of(mode, lane.master) or []:
                master = mode.place_of(condition.channel)
                if not condition.low <= raws[master] <= condition.high:
                    raws[master] = condition.low
    return raws


def write_raw(slots: bytearray, channel: Channel, raw: int) -> None:
    """Put a raw value on a channel's slots, coarse first."""
    for slot, byte in zip(channel.slots, raw.to_bytes(len(channel.slots), "big"), strict=True):
        slots[slot - 1] = byte


def encode(fixture_type: FixtureType, mode: Mode, values: dict[str, float], dmx_break: int | None = None) -> bytes:
    """The slots of a fixture's first break (or of another), in order, for feature values."""
    chosen = dmx_break if dmx_break is not None else next(iter(mode.footprints), 1)
    slots = bytearray(mode.footprints.get(chosen, 0))
    raws = encode_raws(fixture_type, mode, values)
    for channel, raw in zip(mode.channels, raws, strict=True):
        if channel.slots and channel.dmx_break == chosen:
            write_raw(slots, channel, raw)
    return bytes(slots)
