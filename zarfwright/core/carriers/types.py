"""The fixture type of a driver: channels for what it moves, with their range, home, speed and acceleration.

By numbers.md, Drivers: of a place or a turn the middle value is home, in 8 bit 127 and 128, in 16 bit 32767 and 32768:
two functions, from the low end to home and from home to the high end. Size goes by limit^(2v-1). What spins stands
still within 2 % of the middle. A return brings all of it home in its upper quarter.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from hashlib import sha256
from typing import Literal, get_args

from zarfwright.core.errors import JobError
from zarfwright.core.types.model import (
    Channel,
    ChannelFunction,
    DmxProfile,
    FixtureType,
    Geometry,
    Mode,
    ProfilePoint,
)

Axis = Literal["x", "y", "z", "turn x", "turn y", "turn z", "size", "spin"]
AXES: tuple[Axis, ...] = get_args(Axis)
ATTRIBUTES: dict[Axis, str] = {
    "x": "XYZ_X", "y": "XYZ_Y", "z": "XYZ_Z", "turn x": "Rot_X", "turn y": "Rot_Y", "turn z": "Rot_Z",
    "size": "Scale_XYZ", "spin": "Spin",
}  # fmt: skip
MAKER = "Drivers"
PART = "Driver"
STILL = 0.02
PROFILE_STEPS = 24

RETURN_FROM = 192


@dataclass(frozen=True)
class Range:
    """What one channel does: metres, degrees, times as large, or degrees a second, a second and a second squared.

    Of size and spin `high` is the limit, and `low` and `home` follow from it.
    """

    axis: Axis
    low: float
    home: float
    high: float
    speed: float
    acceleration: float
    bits: Literal[8, 16] = 16

    @property
    def top(self) -> int:
        return int(2**self.bits) - 1

    @property
    def unit(self) -> str:
        return "m" if self.axis in ("x", "y", "z") else "times" if self.axis == "size" else "°"


Usual = Literal["lift", "fly bar", "slider", "turntable", "spinner", "all six"]
USUAL: dict[Usual, tuple[Range, ...]] = {
    "lift": (Range("z", 0.0, 0.0, 3.0, 0.3, 0.3),),
    "fly bar": (Range("z", -6.0, 0.0, 4.0, 1.2, 1.0),),
    "slider": (Range("x", -3.0, 0.0, 3.0, 0.6, 0.5),),
    "turntable": (Range("turn z", -180.0, 0.0, 180.0, 18.0, 9.0),),
    "spinner": (Range("spin", -36.0, 0.0, 36.0, 36.0, 12.0),),
    "all six": (
        *(Range(axis, -2.0, 0.0, 2.0, 0.5, 0.5) for axis in AXES[:3]),
        *(Range(axis, -90.0, 0.0, 90.0, 30.0, 20.0) for axis in AXES[3:6]),
    ),
}
"""The usual drivers, with ranges to begin with."""
MOST = {"m": 100.0, "°": 3600.0, "times": 16.0}


def require_ranges(ranges: Sequence[Range]) -> None:
    """Raises JobError where these are no channels that a driver could have."""
    if not ranges:
        raise JobError("A driver has at least one channel: say what it moves.", "channels")
    axes = [one.axis for one in ranges]
    if len(set(axes)) < len(axes) or {"spin", "turn z"} <= set(axes):
        twice = next((a for a in axes if axes.count(a) > 1), "turn z")
        raise JobError(f"Two channels of this driver are for one axis, {twice}: take one of them off.", "channels")
    for one in ranges:
        most = MOST[one.unit]
        if one.axis in ("size", "spin"):
            least = 1.01 if one.axis == "size" else 0.1
            if not least <= one.high <= most:
                raise JobError(f"The limit of {one.axis} lies between {least:g} and {most:g}: type another.", "high")
        elif not (-most <= one.low <= one.home <= one.high <= most and one.high - one.low > 1e-6):
            raise JobError(
                f"Of {one.axis}, the low end ({one.low:g}) comes first, then home ({one.home:g}), then the high end "
                f"({one.high:g}), within {most:g} {one.unit}: type others.", "home",
            )  # fmt: skip
        if not (0.0005 <= one.speed <= most * 10 and 0.0005 <= one.acceleration <= most * 100):
            raise JobError(f"The speed and the acceleration of {one.axis} are above nothing: type others.", "speed")


def _function(name: str, one: Range, start: int, physical: tuple[float, float], default: int | None = None,
              profile: str | None = None) -> ChannelFunction:  # fmt: skip
    span = abs(physical[1] - physical[0])
    return ChannelFunction(
        name, ATTRIBUTES[one.axis], start, physical, default, profile=profile, real_fade_s=span / one.speed,
        real_acceleration_s=one.speed / one.acceleration,
    )  # fmt: skip


def _functions(one: Range) -> tuple[ChannelFunction, ...]:
    """The functions of a channel, by numbers.md."""
    middle = (one.top + 1) // 2
    if one.axis == "size":
        name = f"Size {_said(one.high)}"
        return (
            _function("Smaller", one, 0, (1 / one.high, 1.0), profile=name),
            _function("Larger", one, middle, (1.0, one.high), middle, profile=name),
        )
    if one.axis == "spin":
        return _spin(one)
    return (_function("Below home", one, 0, (one.low, one.home)),
            _function("Above home", one, middle, (one.home, one.high), middle))  # fmt: skip


def _spin(one: Range) -> tuple[ChannelFunction, ...]:
    """Turning back, standing still, turning on: speed = (2v - 1) limit, still within 2 % of the middle."""
    first = math.ceil(one.top * (1 - STILL) / 2)
    last = math.floor(one.top * (1 + STILL) / 2)

    def at(raw: int) -> float:
        return (2 * raw / one.top - 1) * one.high

    # What is limited of a spin is how fast its speed changes: the time that a function's whole range takes.
    def turning(name: str, start: int, end: int) -> ChannelFunction:
        physical = (at(start), at(end))
        fade = abs(physical[1] - physical[0]) / one.acceleration
        return ChannelFunction(name, "Spin", start, physical, real_fade_s=fade)

    middle = (one.top + 1) // 2
    return (
        turning("Turn back", 0, first - 1),
        ChannelFunction("Stand still", "Spin", first, (0.0, 0.0), middle),
        turning("Turn on", last + 1, one.top),
    )


def _profile(limit: float) -> DmxProfile:
    """From the share of a range to the share of its sizes: (limit^s - 1) / (limit - 1), in cubic pieces that meet it
    and its slope at their ends."""

    def at(share: float) -> float:
        return float((limit**share - 1) / (limit - 1))

    def slope(share: float) -> float:
        return float(limit**share * math.log(limit) / (limit - 1))

    points = []
    step = 1.0 / PROFILE_STEPS
    for k in range(PROFILE_STEPS):
        begin, end = k * step, (k + 1) * step
        rise, d0, d1 = (at(end) - at(begin)) / step, slope(begin), slope(end)
        points.append(
            ProfilePoint(begin, at(begin), d0, (3 * rise - 2 * d0 - d1) / step, (d0 + d1 - 2 * rise) / step**2)
        )
    return DmxProfile(f"Size {_said(limit)}", tuple(points))


def _said(number: float) -> str:
    """A number as names of the standard may have it: without a dot."""
    return f"{number:g}".replace(".", "_")


def name_of(ranges: Sequence[Range], usual: str = "", returns: bool = False) -> str:
    """What such a type is called: what it is for and how far it goes, lengths in millimetres."""
    parts = []
    for one in ranges:
        if one.axis == "size":
            parts.append(f"size up to {_said(one.high)} times")
        elif one.axis == "spin":
            parts.append(f"up to {_said(one.high)} deg/s")
        else:
            unit, factor = ("deg", 1.0) if one.unit == "°" else ("mm", 1000.0)
            low, high = (_said(round(end * factor, 3)) for end in (one.low, one.high))
            parts.append(f"{one.axis} {low} to {high} {unit}")
    many = " and ".join(parts) if len(parts) < 3 else f"of {len(parts)} channels"
    title = usual.capitalize() if usual else "Driver"
    return f"{title} {many}{' with return' if returns and usual != 'spinner' else ''}"


def driver_type(ranges: Sequence[Range], usual: str = "", returns: bool = False) -> FixtureType:
    """The type of a driver with these channels. The same ones give the same type, under the same GUID. Raises
    JobError."""
    require_ranges(ranges)
    channels, slot = [], 1
    for one in ranges:
        slots = (slot,) if one.bits == 8 else (slot, slot + 1)
        functions = _functions(one)
        middle = (one.top + 1) // 2
        # Highlighted it stays at home: nobody is lifted to be found.
        channels.append(Channel(PART, slots, functions, highlight=middle))
        slot += len(slots)
    if returns:
        functions = (ChannelFunction("Free", "Return", 0, (0.0, 0.0), 0),
                     ChannelFunction("Come home", "Return", RETURN_FROM, (1.0, 1.0)))  # fmt: skip
        channels.append(Channel(PART, (slot,), functions, highlight=0))
    name = name_of(ranges, usual, returns)
    mode = Mode("Standard", PART, tuple(channels))
    return FixtureType(
        name=name,
        maker=MAKER,
        type_id=_guid(ranges, name, returns),
        geometries=(Geometry(PART),),
        modes=(mode,),
        profiles=tuple(_profile(one.high) for one in ranges if one.axis == "size"),
        description="Moves a carrier or one thing.",
    )


def _guid(ranges: Sequence[Range], name: str, returns: bool) -> str:
    said = repr(([asdict(one) for one in ranges], name, returns))
    d = sha256(said.encode()).hexdigest().upper()
    return f"{d[:8]}-{d[8:12]}-4{d[13:16]}-8{d[17:20]}-{d[20:32]}"


def is_driver(fixture_type: FixtureType) -> bool:
    """Whether a type moves other things, and gives no light: there are heads that are told a place by such channels."""
    if any(node.beam is not None for tree in fixture_type.geometries for node, _ in tree.walk()):
        return False
    moved = {*ATTRIBUTES.values()}
    return any(f.attribute in moved for mode in fixture_type.modes for c in mode.channels for f in c.functions)


def ranges_of(fixture_type: FixtureType, mode: str) -> tuple[Range, ...]:
    """The channels of a driver's type as ranges: also of one that came out of a file."""
    found = []
    for channel in fixture_type.mode(mode).channels:
        axis = next((axis for axis, name in ATTRIBUTES.items() if name == channel.attribute), None)
        if axis is not None:
            found.append(_range(channel, axis))
    return tuple(found)


def _range(channel: Channel, axis: Axis) -> Range:
    ends = [end for f in channel.functions if f.attribute == ATTRIBUTES[axis] for end in f.physical]
    moving = [f for f in channel.functions if f.real_fade_s > 0]
    widest = max(moving, key=lambda f: abs(f.physical[1] - f.physical[0]), default=None)
    pace = abs(widest.physical[1] - widest.physical[0]) / widest.real_fade_s if widest is not None else 0.0
    quick = pace / widest.real_acceleration_s if widest is not None and widest.real_acceleration_s > 0 else 0.0
    if axis == "spin":
        limit = max(abs(end) for end in ends)
        return Range(axis, -limit, 0.0, limit, limit, round(pace, 6), _bits(channel))
    home = _home(channel)
    return Range(axis, min(ends), home, max(ends), round(pace, 6), round(quick, 6), _bits(channel))


def _bits(channel: Channel) -> Literal[8, 16]:
    return 8 if len(channel.slots) == 1 else 16


def _home(channel: Channel) -> float:
    """What a channel rests at, in its physical unit."""
    raw = channel.home
    for function, first, last in channel.spans():
        if first <= raw <= last:
            share = (raw - first) / max(last - first, 1)
            return function.physical[0] + share * (function.physical[1] - function.physical[0])
    return 0.0


def returns_home(fixture_type: FixtureType, mode: str) -> bool:
    """Whether a driver's type has a return."""
    return fixture_type.mode(mode).channel("Return") is not None


def usual_of(fixture_type: FixtureType) -> Usual | Literal[""]:
    """What a driver's type is for, by its name; nothing where that does not begin with any usual kind."""
    name = fixture_type.name.lower()
    return next((usual for usual in USUAL if name.startswith(usual)), "")
