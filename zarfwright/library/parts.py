"""Parts that the shipped types are made of: channels, wheels, bodies."""

from __future__ import annotations

import math

from zarfwright.core.types.model import (
    BeamSource,
    Channel,
    ChannelFunction,
    ChannelSet,
    Chromaticity,
    Emitter,
    Facet,
    Geometry,
    Model,
    Wheel,
    WheelSlot,
    shifted,
)
from zarfwright.formats.gobos import GoboDrawing, draw_gobo

QUILLBACK, EMBER = "Quillback Lamp Co.", "Ember & Thole"
GOBOS_DRAWN = {
    "net_floats": GoboDrawing("dots", 19, 0.45), "slipway": GoboDrawing("bars", 9, 0.5),
    "shingle": GoboDrawing("breakup", 90, 0.5, seed=3), "lantern_rays": GoboDrawing("rays", 12, 0.43),
    "ripples": GoboDrawing("ripples", 7, 0.45),
}  # fmt: skip


def gobo_images(*names: str) -> dict[str, bytes]:
    """The drawn gobos of these names."""
    return {name: draw_gobo(GOBOS_DRAWN[name]) for name in names}


def _lobes(*lobes: tuple[float, float, float]) -> tuple[tuple[float, float], ...]:
    """A spectrum in steps of 10 nm as a sum of bells: peak and width in nm, height."""
    return tuple(
        (float(nm), round(sum(high * math.exp(-0.5 * ((nm - peak) / wide) ** 2) for peak, wide, high in lobes), 5))
        for nm in range(390, 711, 10)
    )


# The spectra have the chromaticities that are said; the white is a blue diode with a phosphor.
RGBW = (
    Emitter("Red", Chromaticity(0.6900, 0.3080, 21.0), _lobes((653.1, 26.1, 1.0))),
    Emitter("Green", Chromaticity(0.1700, 0.7000, 42.0), _lobes((523.7, 20.2, 1.0))),
    Emitter("Blue", Chromaticity(0.1400, 0.0450, 6.0), _lobes((460.9, 16.5, 1.0))),
    Emitter("White", Chromaticity(0.3130, 0.3290, 70.0), _lobes((452.0, 11.0, 1.0), (563.6, 48.0, 0.584))),
)


def plain(
    attribute: str,
    geometry: str,
    slots: tuple[int, ...],
    low: float,
    high: float,
    home: float = 0.0,
    fade_s: float = 0.0,
    start_s: float = 0.0,
) -> Channel:
    """A channel with one function over its whole range, resting at a physical value.

    `fade_s` is how long the real thing takes over the range, `start_s` how long it takes to full speed.
    """
    top = 256 ** len(slots) - 1
    default = round((home - low) / (high - low) * top)
    function = ChannelFunction(
        f"{attribute} 1", attribute, 0, (low, high), default, real_fade_s=fade_s, real_acceleration_s=start_s
    )
    return Channel(geometry, slots, (function,))


def rotation(attribute: str, geometry: str, slot: int, fastest: float = 180.0) -> Channel:
    """A wheel's turning, in degrees a second: still in the middle, forwards above, backwards below; it rests still."""
    functions = (
        ChannelFunction("Backwards", attribute, 0, (-fastest, -2.0), None),
        ChannelFunction("Still", attribute, 124, (0.0, 0.0), 128),
        ChannelFunction("Forwards", attribute, 132, (2.0, fastest), None),
    )
    return Channel(geometry, (slot,), functions)


def pan_tilt(pan_deg: float, tilt_deg: float, pan_s: float, tilt_s: float) -> list[Channel]:
    """Pan and tilt in 16 bits on slots 1 to 4, with the time that they take over their range."""
    return [
        plain("Pan", "Yoke", (1, 2), -pan_deg, pan_deg, fade_s=pan_s, start_s=0.25),
        plain("Tilt", "Head", (3, 4), -tilt_deg, tilt_deg, fade_s=tilt_s, start_s=0.2),
    ]


def shutter(geometry: str, slot: int) -> Channel:
    """Closed, open, strobe from slow to fast, open; it rests open."""
    functions = (
        ChannelFunction("Closed", "Shutter1", 0, (0.0, 0.0), None, sets=(ChannelSet("Closed", 0),)),
        ChannelFunction("Open", "Shutter1", 20, (1.0, 1.0), 32, sets=(ChannelSet("Open", 20),)),
        ChannelFunction("Strobe", "Shutter1Strobe", 64, (0.5, 20.0), None, sets=(ChannelSet("Slow to fast", 64),)),
        ChannelFunction("Open again", "Shutter1", 224, (1.0, 1.0), None, sets=(ChannelSet("Open", 224),)),
    )
    # GDTF keeps the attribute of the logical channel: the first function's.
    return Channel(geometry, (slot,), functions)


def wheel_channel(attribute: str, geometry: str, slot: int, wheel: Wheel) -> Channel:
    """A wheel with slots of equal width, resting on the first."""
    width = 256 // len(wheel.slots)
    sets = tuple(ChannelSet(one.name, i * width, i + 1) for i, one in enumerate(wheel.slots))
    function = ChannelFunction(f"{attribute} 1", attribute, 0, (0.0, 1.0), 0, wheel.name, sets=sets)
    return Channel(geometry, (slot,), (function,))


def moving_head(beam: BeamSource, drop: float, head: Model, yoke: Model, base: Model) -> Geometry:
    """Base, a yoke that pans, a head that tilts, and the lens at its front; `drop` is from pan to tilt axis."""
    lens = Geometry("Lens", "Beam", None, shifted(0, 0, -head.height_m / 2), beam)
    tilting = Geometry("Head", "Axis", head.name, shifted(0, 0, -drop), children=(lens,))
    panning = Geometry("Yoke", "Axis", yoke.name, shifted(0, 0, -base.height_m / 2), children=(tilting,))
    return Geometry("Body", "Geometry", base.name, shifted(0, 0, -base.height_m / 2), children=(panning,))


COLOURS = Wheel(
    "Colour wheel",
    (
        WheelSlot("Open", Chromaticity(0.3127, 0.3290, 100.0)),
        WheelSlot("Harbour red", Chromaticity(0.640, 0.335, 18.0)),
        WheelSlot("Lamp amber", Chromaticity(0.540, 0.420, 52.0)),
        WheelSlot("Kelp green", Chromaticity(0.290, 0.560, 38.0)),
        WheelSlot("Fathom blue", Chromaticity(0.160, 0.090, 6.0)),
        WheelSlot("Heather", Chromaticity(0.290, 0.190, 22.0)),
        WheelSlot("Daylight to lamp", Chromaticity(0.437, 0.404, 68.0)),
        WheelSlot("Ice", Chromaticity(0.270, 0.290, 78.0)),
    ),
)
GOBOS = Wheel(
    "Gobo wheel",
    (
        WheelSlot("Open"),
        WheelSlot("Net floats", image="net_floats"),
        WheelSlot("Slipway", image="slipway"),
        WheelSlot("Shingle", image="shingle"),
    ),
)
TURNING_GOBOS = Wheel(
    "Gobo wheel 2",
    (WheelSlot("Open"), WheelSlot("Lantern rays", image="lantern_rays"), WheelSlot("Ripples", image="ripples")),
)


def _ring(count: int, reach: float) -> tuple[Facet, ...]:
    """Facets on a circle, each turned outwards."""
    turns = [(360.0 * i / count + 180.0) % 360.0 - 180.0 for i in range(count)]
    places = [(reach * math.cos(math.radians(a)), reach * math.sin(math.radians(a))) for a in turns]
    return tuple(Facet(round(x, 6), round(y, 6), a) for (x, y), a in zip(places, turns, strict=True))


PRISMS = Wheel(
    "Prism wheel",
    (
        WheelSlot("None"),
        WheelSlot("Three round", facets=_ring(3, 0.55)),
        WheelSlot("Four in a row", facets=tuple(Facet(x, 0.0) for x in (-1.2, -0.4, 0.4, 1.2))),
    ),
)
