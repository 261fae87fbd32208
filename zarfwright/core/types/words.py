"""Values in words: what a channel function does at a value, as a person would say it."""

from __future__ import annotations

import re
from collections.abc import Iterable

from zarfwright.core.dmx.features import DRIVES, FEATURES, INDEX, SLOT, STROBE_KINDS, Feature
from zarfwright.core.types.model import ChannelFunction, ChannelSet, FixtureType

CALLED = {
    "Dimmer": "intensity", "Pan": "pan", "Tilt": "tilt", "PositionMSpeed": "head speed", "Shutter1": "shutter",
    "ColorMixMSpeed": "colour speed",
    "Zoom": "zoom", "Focus1": "focus", "Iris": "iris", "Frost1": "frost", "Frost2": "second frost",
    "ColorSub_C": "cyan", "ColorSub_M": "magenta", "ColorSub_Y": "yellow", "ColorAdd_R": "red", "ColorAdd_G": "green",
    "ColorAdd_B": "blue", "ColorAdd_W": "white", "ColorAdd_RY": "amber", "ColorAdd_GY": "lime",
    "ColorAdd_UV": "ultraviolet",
    "ColorAdd_WW": "warm white", "ColorAdd_CW": "cold white", "CTO": "warmer", "CTB": "colder", "Color1": "colour",
    "Color2": "second colour", "ColorMacro1": "built-in colour", "ColorEffects1": "colour program",
    "ColorMacro1Rate": "program speed", "Gobo1": "gobo", "Gobo2": "second gobo", "Gobo1Pos": "gobo index",
    "Gobo2Pos": "second gobo index", "Prism1": "prism", "Prism1Pos": "prism index", "ShaperRot": "blades turned",
    "CTC": "colour temperature", "Tint": "green or magenta", "HSB_Hue": "hue", "HSB_Saturation": "saturation",
    "HSB_Brightness": "brightness", "HSB_Quality": "colour quality", "CIE_X": "colour, CIE x", "CIE_Y": "colour, CIE y",
    "CIE_Brightness": "colour, CIE brightness", "ColorAdd_C": "cyan light", "ColorAdd_M": "magenta light",
    "ColorAdd_Y": "yellow light", "ColorAdd_GC": "sea green light", "ColorAdd_BC": "sky blue light",
    "ColorAdd_BM": "violet light", "ColorAdd_RM": "rose light", "ColorSub_R": "red filter",
    "ColorSub_G": "green filter", "ColorSub_B": "blue filter",
    **{f"ColorRGB_{name}": f"mixed {name.lower()}" for name in ("Red", "Green", "Blue", "Cyan", "Magenta", "Yellow")},
    "ColorRGB_Quality": "quality of the mix", "Effects1": "effect", "Effects1Rate": "effect speed",
    "Shutter1Strobe": "strobe", "Shutter1StrobePulse": "pulse", "Shutter1StrobePulseOpen": "pulse, opening",
    "Shutter1StrobePulseClose": "pulse, closing", "Shutter1StrobeRandom": "strobe at random",
    "Shutter1StrobeRandomPulse": "pulse at random", "Shutter1StrobeEffect": "lightning", "Dummy": "nothing, kept free",
    "Function": "special function", "LampControl": "lamp on or off", "Fans": "all fans", "PositionEffect": "movement",
    "PositionEffectRate": "movement speed", "PositionEffectFade": "movement fade", "FanMode": "fan mode",
    "GlobalMSpeed": "speed of all that moves",
    "DimmerCurve": "dimmer curve", "BlackoutMode": "dark while moving", "Control1": "control",
    "Control2": "more control",
    "NoFeature": "nothing", "Haze1": "haze", "Fan1": "fan", "PanRotate": "pan without end",
    "TiltRotate": "tilt without end",
    **{f"BladeSoft{n}A": f"blade {n} soft edge" for n in (1, 2, 3, 4)},
    **{f"BladeSoft{n}B": f"blade {n} soft edge, far corner" for n in (1, 2, 3, 4)},
    **{f"Blade{n}A": f"blade {n}" for n in (1, 2, 3, 4)},
    **{f"Blade{n}B": f"blade {n}, far corner" for n in (1, 2, 3, 4)},
    **{f"Blade{n}Rot": f"blade {n} angle" for n in (1, 2, 3, 4)},
}  # fmt: skip
"""What we call the attributes that people meet most."""


THINGS = {
    "Gobo": "gobo", "AnimationWheel": "animation wheel", "AnimationSystem": "animation", "Prism": "prism",
    "Color": "colour", "Shutter": "shutter", "Iris": "iris", "Frost": "frost", "Focus": "focus", "Effects": "effect",
    "BeamShaper": "beam shaper", "Zoom": "zoom", "ColorEffects": "colour program", "ColorMacro": "built-in colour",
    "Fog": "fog", "Haze": "haze", "Fan": "fan", "Blower": "blower", "ShaperMacros": "blades macro", "CTO": "warmer",
    "CTB": "colder", "CTC": "colour temperature", "Pan": "pan", "Tilt": "tilt", "Position": "position",
    "Dimmer": "dimmer", "Intensity": "intensity", "Beam": "beam", "Frame": "blades", "GoboWheel": "gobo wheel",
    "ColorWheel": "colour wheel", "ColorMix": "colour mixing", "ColorWheelSelect": "colour wheel",
    "FixtureGlobal": "everything", "FixtureCalibration": "calibration", "BladeSoft": "soft edge of blade",
    "KeyStone": "keystone", "VideoEffect": "video effect", "Global": "every movement", "PanTilt": "pan and tilt",
    "Strobe": "strobe", "Cyan": "cyan", "Magenta": "magenta", "Yellow": "yellow",
}  # fmt: skip
"""What the standard's names begin with, in words of the trade."""
ENDS = {
    "": "{}", "SelectSpin": "{}, turning", "SelectShake": "{}, shaking", "SelectEffects": "{}, with an effect",
    "WheelIndex": "{} wheel at an angle", "WheelSpin": "{} wheel spinning", "WheelShake": "{} wheel shaking",
    "WheelRandom": "{} wheel at random", "WheelAudio": "{} wheel by sound", "Pos": "{} index",
    "PosRotate": "{} rotation", "PosShake": "{} shaking about its index", "PosRandom": "{} index at random",
    "PosAudio": "{} index by sound", "Macro": "{} macro", "Ramp": "{} ramp", "Shake": "{} shaking",
    "Audio": "{} by sound", "Random": "{} at random", "Rate": "{} speed", "Fade": "{} fade", "Mode": "{} mode",
    "MSpeed": "speed of the {}", "Reset": "reset of {}", "Strobe": "{} strobe", "StrobePulse": "{} pulse",
    "StrobePulseOpen": "{} pulse, opening", "StrobePulseClose": "{} pulse, closing", "StrobeRandom": "{} at random",
    "StrobeRandomPulse": "{} pulse at random", "StrobeRandomPulseOpen": "{} pulse at random, opening",
    "StrobeRandomPulseClose": "{} pulse at random, closing", "StrobeEffect": "{} lightning",
    "PulseOpen": "{} pulse, opening",
    "PulseClose": "{} pulse, closing", "RandomPulseOpen": "{} pulse at random, opening",
    "RandomPulseClose": "{} pulse at random, closing", "Adjust": "{} trim", "Distance": "{} in metres",
    "WheelMode": "{} wheel mode", "Speed": "{} speed",
}  # fmt: skip


def _any_of(names: Iterable[str]) -> str:
    return "|".join(sorted(filter(None, names), key=len, reverse=True))


_PARTED = re.compile(rf"^({_any_of(THINGS)})(\d*)({_any_of(ENDS)}|)(\d*)$")
ORDINALS = {"": "", "1": "", "2": "second ", "3": "third ", "4": "fourth "}


def called(attribute: str) -> str:
    """An attribute in words."""
    if attribute in CALLED:
        return CALLED[attribute]
    parted = _PARTED.match(attribute)
    if parted is not None:
        thing, number, end, _ = parted.groups()
        return ENDS[end].format(f"{ORDINALS.get(number, f'{number}. ')}{THINGS[thing]}")
    if attribute in ("Scale_XYZ", "Return"):
        return "size" if attribute == "Scale_XYZ" else "return home"
    moved = re.fullmatch(r"(XYZ|Rot|Scale)_(\w+)", attribute)
    if moved is not None:
        return {"XYZ": "place along {}", "Rot": "turn about {}", "Scale": "size along {}"}[moved[1]].format(
            moved[2].lower()
        )
    strobe = attribute.removeprefix("StrobeMode")
    if strobe != attribute:
        return f"kind of strobe: {_spaced(strobe)}"
    return _spaced(attribute)


def _spaced(name: str) -> str:
    """A name of the standard as words."""
    parted = re.sub(r"(?<=[a-z])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])|_", " ", re.sub(r"(?<=[a-z])(\d+)", r" \1 ", name))
    return re.sub(r"\s+", " ", parted).strip().lower().replace("color", "colour")


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
    if feature.unit == "m":
        return f"{what} {value:.2f} m"
    if feature.name == "size":
        return f"size × {_number(value)}"
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
