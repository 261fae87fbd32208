"""Values in words: what a channel function does at a value, as a person would say it."""

from __future__ import annotations

import re

from zarfwright.core.dmx.features import DRIVES, FEATURES, INDEX, SLOT, STROBE_KINDS, Feature
from zarfwright.core.types.model import ChannelFunction, ChannelSet, FixtureType

CALLED = {
    "Dimmer": "intensity", "Pan": "pan", "Tilt": "tilt", "PositionMSpeed": "head speed", "Shutter1": "shutter",
    "Zoom": "zoom", "Focus1": "focus", "Iris": "iris", "Frost1": "frost", "Frost2": "second frost",
    "ColorSub_C": "cyan", "ColorSub_M": "magenta", "ColorSub_Y": "yellow", "ColorAdd_R": "red", "ColorAdd_G": "green",
    "ColorAdd_B": "blue", "ColorAdd_W": "white", "ColorAdd_RY": "amber", "ColorAdd_GY": "lime", 
    "ColorAdd_UV": "ultraviolet",
    "ColorAdd_WW": "warm white", "ColorAdd_CW": "cold white", "CTO": "warmer", "CTB": "colder", "Color1": "colour",
    "Color2": "second colour", "ColorMacro1": "built-in colour", "ColorEffects1": "colour program",
    "ColorMacro1Rate": "program speed", "Gobo1": "gobo", "Gobo2": "second gobo", "Gobo1Pos": "gobo index",
    "Gobo2Pos": "second gobo index", "Prism1": "prism", "Prism1Pos": "prism index", "ShaperRot": "blades turned",
    "DimmerCurve": "dimmer curve", "BlackoutMode": "dark while moving", "Control1": "control", 
    "Control2": "more control",
    "NoFeature": "nothing", "Haze1": "haze", "Fan1": "fan", "PanRotate": "pan without end", 
    "TiltRotate": "tilt without end",
    **{f"Blade{n}A": f"blade {n}" for n in (1, 2, 3, 4)},
    **{f"Blade{n}B": f"blade {n}, far corner" for n in (1, 2, 3, 4)},
    **{f"Blade{n}Rot": f"blade {n} angle" for n in (1, 2, 3, 4)},
}  # fmt: skip
"""What we call the attributes that people meet most."""


def called(attribute: str) -> str:
    """An attribute in words."""
    if attribute in CALLED:
        return CALLED[attribute]
    parted = re.sub(r"(?<=[a-z])(?=[A-Z])|_", " ", re.sub(r"(?<=[a-z])(\d+)", r" \1 ", attribute))
    return re.sub(r"\s+", " ", parted).strip().lower()


def _number(value: float) -> str:
    return f"{value:.1f}".rstrip("0").rstrip(".") if abs(value) < 100 else f"{value:.0f}"


def _amount(feature: Feature, what: str, value: float) -> str:
    """A physical value of a feature, with its unit."""
    if feature.name == "shutter":
        return "open" if value > 0.99 else "closed" if value < 0.01 else f"shutter {_number(value * 100)} %"
    if feature.unit == "Hz":
        return f"{_number(value)} Hz" if value > 0 else "still"
    if feature.unit in ("rad/s", "turn/s"):
        way = "on" if value > 0 else "back"
        return "still" if abs(value) < 1e-6 else f"{what} {_number(abs(value))}°/s {way}"
    if feature.unit in ("rad", "deg"):
        return f"{what} {_number(value)}°"
    if feature.unit == "K" or abs(value) >= 500:
        return f"{value:.0f} K"
    return f"{what} {_number(value * 100)} %"


def _slot(fixture_type: FixtureType, function: ChannelFunction, part: ChannelSet | None) -> str:
    """Which slot of a wheel is in, by its name."""
    wheel = fixture_type.wheel(function.wheel)
    slot = part.slot if part is not None and part.slot else 1
    named = part.name if part is not None else ""
    name = wheel.slots[slot - 1].name if wheel and slot <= len(wheel.slots) else named
    return f"{called(function.attribute.split('Select')[0])}: {name or f'slot {slot}'}"


def in_words(fixture_type: FixtureType, function: ChannelFunction, value: float, raw: int) -> str:
    """What a function does at a raw value whose physical value is `value`: `strobe, 7.2 Hz`, `gobo: Net floats`."""
    drives = DRIVES.get(function.attribute, ())
    part = next((one for one in reversed(function.sets) if one.start <= raw), None)
    what = called(function.attribute)
    if not drives:
        return (part.name if part is not None else "") or function.name or what
    said: list[str] = []
    for drive in drives:
        if drive.source == SLOT:
            said.append(_slot(fixture_type, function, part))
        elif not isinstance(drive.source, float):
            said.append(_amount(FEATURES[INDEX[drive.feature]], what, value))
        elif drive.feature == "strobe kind":
            said.insert(0, STROBE_KINDS[int(drive.source)])
    if function.attribute.startswith("StrobeMode"):
        return said[0] if said else what
    return ", ".join(said)
