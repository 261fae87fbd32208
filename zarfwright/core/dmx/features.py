"""The features of a fixture: the columns of every table of values, from DMX, looks and hands alike.

A feature is what the stage needs to know, in one unit whatever the type: pan and tilt in radians, shares 0..1,
strobe in Hz, zoom as the full field angle in degrees, wheel slots counted from 1 (between two slots both are seen),
blades as shares from the rim (0) to the middle (1), the far corner at -1 where a blade goes in square. Focus is 1
where the gate is sharp; `sharp at` in its place is the distance from the lens at which it is (0: by the focus).
Shifts in metres, turns, size, spin and return are what a driver does to what it moves (core/carriers). Of a laser
`zone` is whether its zone is on, `zone mirror` how it is turned over besides its own (core/lasers/zone.py).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from zarfwright.core.types.model import ChannelFunction


@dataclass(frozen=True)
class Feature:
    """`neutral` is its value where a mode has no channel for it."""

    name: str
    neutral: float
    unit: str = "share"
    steps: bool = False
    """Steps from value to value (wheel slots) instead of fading."""


STROBE_KINDS = ("strobe", "pulse", "ramp up", "ramp down", "random", "lightning")
"""How a lamp flashes, by the number in `strobe kind`."""
EMITTERS = (
    "red", "green", "blue", "white", "amber", "lime", "yellow light", "cyan light", "magenta light", "warm white",
    "cold white", "ultraviolet",
)  # fmt: skip
"""Light sources of a colour of their own, which add."""


def _wheel(name: str) -> tuple[Feature, ...]:
    return (
        Feature(f"{name} slot", 1.0, "slot", steps=True),
        Feature(f"{name} turn", 0.0, "rad"),
        Feature(f"{name} spin", 0.0, "rad/s"),
    )


FEATURES: tuple[Feature, ...] = (
    Feature("pan", 0.0, "rad"),
    Feature("tilt", 0.0, "rad"),
    Feature("pan spin", 0.0, "rad/s"),
    Feature("tilt spin", 0.0, "rad/s"),
    Feature("head speed", 1.0),
    Feature("dark while moving", 0.0),
    Feature("dimmer", 1.0),
    Feature("master dimmer", 1.0),
    Feature("shutter", 1.0),
    Feature("strobe", 0.0, "Hz"),
    Feature("strobe kind", 0.0, "slot", steps=True),
    Feature("zoom", math.nan, "deg"),
    Feature("iris", 1.0),
    Feature("focus", 1.0),
    Feature("frost", 0.0),
    Feature("cyan", 0.0),
    Feature("magenta", 0.0),
    Feature("yellow", 0.0),
    *(Feature(name, 0.0) for name in EMITTERS),
    Feature("warmer", 0.0),
    Feature("colder", 0.0),
    Feature("white point", 0.0, "K"),
    Feature("colour slot", 1.0, "slot", steps=True),
    Feature("colour spin", 0.0, "turn/s"),
    Feature("colour 2 slot", 1.0, "slot", steps=True),
    Feature("colour 2 spin", 0.0, "turn/s"),
    Feature("macro slot", 1.0, "slot", steps=True),
    Feature("macro rate", 0.0, "Hz"),
    *_wheel("gobo"),
    Feature("gobo shake", 0.0, "Hz"),
    Feature("gobo wheel spin", 0.0, "turn/s"),
    *_wheel("gobo 2"),
    Feature("gobo 2 shake", 0.0, "Hz"),
    Feature("gobo 2 wheel spin", 0.0, "turn/s"),
    *_wheel("prism"),
    *(Feature(f"blade {n}", 0.0) for n in (1, 2, 3, 4)),
    *(Feature(f"blade {n} far", -1.0) for n in (1, 2, 3, 4)),
    *(Feature(f"blade {n} angle", 0.0, "rad") for n in (1, 2, 3, 4)),
    Feature("blades turn", 0.0, "rad"),
    Feature("sharp at", 0.0, "m"),
    *(Feature(f"shift {axis}", 0.0, "m") for axis in "xyz"),
    *(Feature(f"turn {axis}", 0.0, "rad") for axis in "xyz"),
    Feature("size", 1.0),
    Feature("spin", 0.0, "rad/s"),
    Feature("return", 0.0),
    Feature("zone", 1.0, steps=True),
    Feature("zone mirror", 0.0, "slot", steps=True),
)
COUNT = len(FEATURES)
INDEX = {feature.name: i for i, feature in enumerate(FEATURES)}

PHYSICAL, SLOT, INVERSE = "physical", "slot", "inverse"


@dataclass(frozen=True)
class Drive:
    """What an attribute does to one feature: by its physical value, its wheel slot, one less it, or a constant."""

    feature: str
    source: str | float = PHYSICAL


def _drives() -> dict[str, tuple[Drive, ...]]:
    """GDTF's attributes (DIN SPEC 15800, annex A) by name. What is not here changes nothing in the picture."""
    table: dict[str, tuple[Drive, ...]] = {
        "Pan": (Drive("pan"),),
        "Tilt": (Drive("tilt"),),
        "PanRotate": (Drive("pan spin"),),
        "TiltRotate": (Drive("tilt spin"),),
        "PositionMSpeed": (Drive("head speed"),),
        "BlackoutMode": (Drive("dark while moving"),),
        "Dimmer": (Drive("dimmer"),),
        "Zoom": (Drive("zoom"),),
        "Iris": (Drive("iris"),),
        "Focus1": (Drive("focus"),),
        "Frost1": (Drive("frost"),),
        "Frost2": (Drive("frost"),),
        "ColorSub_C": (Drive("cyan"),),
        "ColorSub_M": (Drive("magenta"),),
        "ColorSub_Y": (Drive("yellow"),),
        "ColorRGB_Red": (Drive("cyan", INVERSE),),
        "ColorRGB_Green": (Drive("magenta", INVERSE),),
        "ColorRGB_Blue": (Drive("yellow", INVERSE),),
        "CTO": (Drive("warmer"),),
        "CTB": (Drive("colder"),),
        "CTC": (Drive("warmer"),),
        "Color1": (Drive("colour slot", SLOT),),
        "Color1WheelSpin": (Drive("colour spin"),),
        "Color2": (Drive("colour 2 slot", SLOT),),
        "Color2WheelSpin": (Drive("colour 2 spin"),),
        "ColorMacro1": (Drive("macro slot", SLOT),),
        "ColorMacro2": (Drive("macro slot", SLOT),),
        "ColorEffects1": (Drive("macro slot", SLOT), Drive("macro rate", 1.0)),
        "ColorMacro1Rate": (Drive("macro rate"),),
        "Prism1": (Drive("prism slot", SLOT),),
        "Prism1Pos": (Drive("prism turn"),),
        "Prism1PosRotate": (Drive("prism spin"),),
        "Prism1SelectSpin": (Drive("prism slot", SLOT), Drive("prism spin")),
        "ShaperRot": (Drive("blades turn"),),
        **{f"XYZ_{axis.upper()}": (Drive(f"shift {axis}"),) for axis in "xyz"},
        **{f"Rot_{axis.upper()}": (Drive(f"turn {axis}"),) for axis in "xyz"},
        "Scale_XYZ": (Drive("size"),),
        "Spin": (Drive("spin"),),
        "Return": (Drive("return"),),
    }
    strobes = {
        "Strobe": 0.0, "StrobePulse": 1.0, "StrobePulseOpen": 2.0, "StrobePulseClose": 3.0, "StrobeRandom": 4.0,
        "StrobeRandomPulse": 4.0, "StrobeRandomPulseOpen": 4.0, "StrobeRandomPulseClose": 4.0, "StrobeEffect": 5.0,
    }  # fmt: skip
    for n in (1, 2):
        table[f"Shutter{n}"] = (Drive("shutter"),)
        for name, kind in strobes.items():
            table[f"Shutter{n}{name}"] = (Drive("strobe"), Drive("strobe kind", kind))
    table["StrobeFrequency"] = (Drive("strobe"),)
    modes = {"Strobe": 0.0, "Pulse": 1.0, "Random": 4.0, "PulseOpen": 2.0, "PulseClose": 3.0}
    for name, kind in modes.items():
        table[f"StrobeMode{name}"] = (Drive("strobe kind", kind),)
    for n, wheel in ((1, "gobo"), (2, "gobo 2")):
        table[f"Gobo{n}"] = (Drive(f"{wheel} slot", SLOT),)
        table[f"Gobo{n}Pos"] = (Drive(f"{wheel} turn"),)
        table[f"Gobo{n}PosRotate"] = (Drive(f"{wheel} spin"),)
        table[f"Gobo{n}PosShake"] = (Drive(f"{wheel} shake"),)
        table[f"Gobo{n}SelectSpin"] = (Drive(f"{wheel} slot", SLOT), Drive(f"{wheel} spin"))
        table[f"Gobo{n}WheelSpin"] = (Drive(f"{wheel} wheel spin"),)
        table[f"Gobo{n}SelectShake"] = (Drive(f"{wheel} slot", SLOT), Drive(f"{wheel} shake"))
        table[f"Gobo{n}WheelShake"] = (Drive(f"{wheel} slot", SLOT), Drive(f"{wheel} shake"))
    for n in (1, 2, 3, 4):
        table[f"Blade{n}A"] = (Drive(f"blade {n}"),)
        table[f"Blade{n}B"] = (Drive(f"blade {n} far"),)
        table[f"Blade{n}Rot"] = (Drive(f"blade {n} angle"),)
    adds = {
        "red": ("R",), "green": ("G",), "blue": ("B",), "white": ("W",), "amber": ("RY",), "lime": ("GY",),
        "yellow light": ("Y",), "cyan light": ("C", "GC", "BC"), "magenta light": ("M", "BM", "RM"),
        "warm white": ("WW",), "cold white": ("CW",), "ultraviolet": ("UV",),
    }  # fmt: skip
    for name, endings in adds.items():
        for ending in endings:
            table[f"ColorAdd_{ending}"] = (Drive(name),)
    return table


DRIVES = _drives()
KELVIN_FROM = 500.0
"""Colour correction above this is a colour temperature, below a share of the way."""


def drives_of(function: ChannelFunction) -> tuple[Drive, ...]:
    """What a function does to features; nothing where its attribute is none that shows."""
    drives = DRIVES.get(function.attribute, ())
    if function.attribute in ("CTO", "CTB", "CTC") and max(map(abs, function.physical)) >= KELVIN_FROM:
        return (Drive("white point"),)
    return drives


def from_physical(feature: int) -> float:
    """The factor from GDTF's physical unit (degrees for turns, degrees a second for spins) to the feature's."""
    unit = FEATURES[feature].unit
    if unit == "turn/s":
        return 1 / 360.0
    return math.pi / 180.0 if unit.startswith("rad") else 1.0
