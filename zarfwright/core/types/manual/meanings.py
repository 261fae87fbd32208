"""What the words of a range mean, on a channel of a known kind."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace

from zarfwright.core.types.manual.flashing import shutter, strobe
from zarfwright.core.types.manual.meaning import CONTROL, NOTHING, Meaning
from zarfwright.core.types.manual.names import attribute_of
from zarfwright.core.types.manual.turning import named_colours, told_way, turn, turning, wheel
from zarfwright.core.types.manual.wording import (
    CLOSED,
    CONTROL_WORDS,
    DARK,
    FALLING,
    FAST_HZ,
    IDLE,
    INDEX,
    LINEAR,
    OPEN,
    PROGRAM,
    RISES,
    RISING,
    SLOW_HZ,
    STOP,
    STROBE,
    TURN,
    UNUSED,
    ends,
    from_to,
    speed,
    turn_in,
    values_in,
)

OPEN_FIRST = {"Iris": (1.0, 0.1)}
"""Attributes whose first value is open: most manuals count an iris from open to closed."""


def _iris(text: str) -> Meaning | None:
    """An iris from one end to the other, or at one."""
    rising = from_to(text, (("clos|min|small|narrow", "open|max|large|wide|big"),))
    if rising is not None:
        return Meaning("Iris", 0.1, 1.0) if rising else Meaning("Iris", 1.0, 0.1)
    if OPEN.search(text):
        return Meaning("Iris", 1.0, 1.0)
    return Meaning("Iris", 0.1, 0.1) if CLOSED.search(text) else None


def _plain(text: str, attribute: str, default: tuple[float, float]) -> Meaning | None:
    """A channel that does one thing over a range."""
    if attribute == "HSB_Hue" and (hue := values_in(text, "deg")) is not None:
        return Meaning(attribute, hue[0] / 360, hue[1] / 360)
    unit = {"Zoom": "deg", "CTO": "k", "CTC": "k", "CTB": "k"}.get(attribute)
    turns = re.fullmatch(r"Pan|Tilt|ShaperRot|Blade\dRot", attribute) is not None
    said = turn_in(text) if turns else values_in(text, unit) if unit else None
    if said:
        return Meaning(attribute, *said)
    made = _plain_shares(text, attribute, default)
    assumed = ASSUMED.get(attribute)
    # A filter that is told in percent is told.
    told = attribute in ("CTO", "CTB") and "%" in text
    if made is None or not made.known or made.attribute != attribute or assumed is None or told:
        return made
    return replace(made, doubt=assumed.format(ends(made.low, made.high)))


ASSUMED = {
    "Zoom": "its angles are not given: {}° was assumed", "Pan": "its angle is not given: {}° was assumed",
    "Tilt": "its angle is not given: {}° was assumed", "CTC": "its colour temperatures are not given", "CTO": "its colour temperatures are not given",
    "CTB": "its colour temperatures are not given",
    "ColorMacro1Rate": "its rate is not given: {} Hz was assumed",
}  # fmt: skip
"""What is said where physical values are not in the words."""


def _plain_shares(text: str, attribute: str, default: tuple[float, float]) -> Meaning | None:
    """What a channel does over a range whose physical values are not written out."""
    low, high = OPEN_FIRST.get(attribute, default)
    if STROBE.search(text):
        return _iris_pulse(text) if attribute == "Iris" else None
    if attribute == "Iris" and (iris := _iris(text)) is not None:
        return iris
    if attribute in ("CTC", "CTO", "CTB", "Tint") and re.fullmatch(
        r"(?i)\W*(off|none|no (correction|function))\W*", text
    ):
        return NOTHING
    if default == (0.0, 1.0) and (share := _share(text)) is not None:
        minus = attribute == "Tint" and re.search(r"(?i)\bminus|-\s*green|\bmagenta\b", text)
        return Meaning(attribute, 0.0 - share[0], 0.0 - share[1]) if minus else Meaning(attribute, *share)
    rising = from_to(text, RISES)
    if rising is not None:
        least, most = min(low, high), max(low, high)
        return Meaning(attribute, *((least, most) if rising else (most, least)))
    if attribute.startswith("Frost") and (frost := _frost(text)) is not None:
        return Meaning(attribute, *frost)
    return Meaning(attribute, low, high) if _speaks_of(text, attribute) else None


def _iris_pulse(text: str) -> Meaning:
    pulse = re.search(r"(?i)\b(clos|open)", text)
    way = {"clos": "Close", "open": "Open"}[pulse[1].lower()] if pulse else ""
    said = values_in(text, "hz")
    low, high = said or speed(text, SLOW_HZ, FAST_HZ)
    doubt = "" if said else f"its rate is not given: {ends(low, high)} Hz was assumed"
    return Meaning(f"IrisPulse{way}", low, high, doubt=doubt)


_SIGNED_SHARE = re.compile(
    r"(?=.*%)(?=.*[-+]\s?\d)([-+]?\s?\d{1,3})\s*%?\s*(?:to|>|\.\.+)\s*([-+]?\s?\d{1,3})(?!\d)\s*%?"
)
"""`-100 % to 0`."""


def _share(text: str) -> tuple[float, float] | None:
    """From which share to which: `5 % to 100 %`, `off`."""
    signed = _SIGNED_SHARE.search(text)
    if signed:
        return float(signed[1].replace(" ", "")) / 100, float(signed[2].replace(" ", "")) / 100
    shares = values_in(text, "%")
    if shares is not None and max(shares) <= 100:
        return shares[0] / 100, shares[1] / 100
    return (0.0, 0.0) if re.fullmatch(r"(?i)\W*(off|none|out)\W*", text) else None


def _frost(text: str) -> tuple[float, float] | None:
    """Frost that is out, or in."""
    if re.search(r"(?i)\b(no|out|off|open|clear)\b", text):
        return 0.0, 0.0
    whole = r"(?i)\W*((heavy|full|light|medium) )?(frost )?(in|on|full|inserted|100 ?%)\W*"
    return (1.0, 1.0) if re.fullmatch(whole, text) or re.search(r"(?i)\b(heavy|medium|light) frost\b", text) else None


def _speaks_of(text: str, attribute: str) -> bool:
    """Whether words only say what the channel does over its whole range."""
    own = re.sub(r"[\d_]", " ", re.sub(r"([a-z])([A-Z])", r"\1 \2", attribute)).lower().split()
    words = text.lower().split()
    said = LINEAR.search(text) is not None or not words or any(word in words for word in own)
    return said or attribute_of(text).attribute == attribute


def _wheel_number(attribute: str) -> str:
    """Which of two wheels an attribute is of."""
    return next((n for n in "12" if n in attribute), "1")


def _colour(text: str, attribute: str) -> Meaning | None:
    return wheel(text, attribute, f"Color{_wheel_number(attribute)}WheelSpin", None)


def _gobo(text: str, attribute: str) -> Meaning | None:
    number = _wheel_number(attribute)
    return wheel(text, attribute, f"Gobo{number}WheelSpin", f"Gobo{number}SelectShake")


def _gobo_turn(text: str, attribute: str) -> Meaning | None:
    number = _wheel_number(attribute)
    return turn(text, f"Gobo{number}Pos", f"Gobo{number}PosRotate")


def _prism(text: str, attribute: str) -> Meaning | None:
    if re.fullmatch(
        r"(?i)(no prism|open|out|off|none|empty|prism (out|off|open)|no effect|no prism effect)", text.strip()
    ):
        return Meaning(attribute, slot="None")
    if CONTROL_WORDS.search(text):
        return CONTROL
    if TURN.search(text) or told_way(text) or RISING.search(text) or FALLING.search(text):
        return turning(text, f"{attribute}PosRotate")
    if INDEX.search(text) or values_in(text, "deg"):
        return turn(text, f"{attribute}Pos", f"{attribute}PosRotate")
    return Meaning(attribute, slot=text.strip()) if text.strip() else None


def _effects(text: str, attribute: str) -> Meaning | None:
    """A program that shows nothing we could know of: its words are kept."""
    if re.fullmatch(r"(?i)\W*(none|off|no (program|effect|macro|show)s?)\W*", text):
        return NOTHING
    if CONTROL_WORDS.search(text) and not PROGRAM.search(text):
        return CONTROL
    return Meaning(attribute, 0.0, 0.0) if text.strip() else None


def _curve(text: str, attribute: str) -> Meaning | None:
    """A way of working that shows nothing by itself: its words are kept. A fan's speed is a share."""
    if attribute == "Fan1" and (LINEAR.search(text) or from_to(text, RISES) is not None):
        return Meaning(attribute, 0.0, 1.0) if from_to(text, RISES) is not False else Meaning(attribute, 1.0, 0.0)
    return Meaning(attribute, 0.0, 0.0) if text.strip() else None


def _built_in_colour(text: str, _: str) -> Meaning | None:
    if re.fullmatch(r"(?i)\W*(none|off|no (macro|colou?r|effect|program)s?|macros? off)\W*", text):
        return NOTHING
    if CONTROL_WORDS.search(text) and not named_colours(text):
        return CONTROL
    moves = RISING.search(text) or FALLING.search(text) or re.search(r"(?i)rainbow|cross ?fade|\bfade\b", text)
    if moves and (PROGRAM.search(text) or "rainbow" in text.lower()):
        return Meaning("ColorEffects1", 0.5, 4.0, doubt="its rate is not given: 0.5 to 4 Hz was assumed")
    return Meaning("ColorMacro1", slot=text.strip())


def _dark(text: str) -> Meaning:
    """Dark while the head moves, on or off."""
    off = re.search(r"(?i)\b(no|off|disabl\w*|without|un)\b", text)
    return Meaning("BlackoutMode", 0.0, 0.0) if off else Meaning("BlackoutMode", 1.0, 1.0)


def _control(text: str, attribute: str) -> Meaning | None:
    if attribute.startswith("Control") and re.fullmatch(r"(?i)\W*(off|null|nothing)\W*", text):
        return NOTHING
    return Meaning(attribute, 0.0, 0.0) if CONTROL_WORDS.search(text) else None


SPECIFIC: tuple[tuple[str, Callable[[str, str], Meaning | None]], ...] = (
    (r"(Shutter|Strobe).*", lambda text, _: shutter(text)),
    (r"Color[12]", _colour),
    (r"Gobo[12]", _gobo),
    (r"Gobo[12]Pos(Rotate)?", _gobo_turn),
    (r"Prism1Pos(Rotate)?", lambda text, _: turn(text, "Prism1Pos", "Prism1PosRotate")),
    (r"Prism[12]", _prism),
    (r"AnimationWheel1", lambda text, a: wheel(text, a, "AnimationWheel1PosRotate", "AnimationWheel1SelectShake")),
    (r"AnimationWheel1Pos(Rotate)?", lambda text, _: turn(text, "AnimationWheel1Pos", "AnimationWheel1PosRotate")),
    (r"ColorMacro[12]|ColorEffects1", _built_in_colour),
    (r"Effects[12]", _effects),
    (r"DimmerCurve|\w+Mode|Fan1", _curve),
    (r"BlackoutMode|Control.*|NoFeature", _control),
)
"""Attributes whose words have a way of their own, and that way."""


def _level(text: str, attribute: str, default: tuple[float, float]) -> Meaning | None:
    """A dimmer's words, and those of what turns; else those of a channel that does one thing over a range."""
    if attribute == "Dimmer":
        if STROBE.search(text):
            return strobe(text)
        if re.fullmatch(
            r"(?i)(shutter )?(closed|dark|off|blackout|black out|no light|light off|0 ?%|no output|min\w*)",
            text.strip(),
        ):
            return Meaning("Dimmer", 0.0, 0.0)
        if re.fullmatch(
            r"(?i)(shutter )?(open|full|on|full on|100 ?%|max\w*|light on|open ?/ ?full|full intensity|fully open|full open|led on)",
            text.strip(),
        ):
            return Meaning("Dimmer", 1.0, 1.0)
    # `Rotation 540 deg.` says how far a head turns, not that it goes round.
    far = values_in(text, "deg") is not None and not re.search(
        r"(?i)endless|infinite|continuous|speed|/ ?s|per s", text
    )
    if attribute in ("Pan", "Tilt", "PanRotate", "TiltRotate") and not far and (TURN.search(text) or STOP.search(text)):
        axis = attribute.removesuffix("Rotate")
        return Meaning(f"{axis}Rotate", 0.0, 0.0) if STOP.search(text) else turning(text, f"{axis}Rotate")
    return _plain(text, attribute, default)


def _specific(text: str, attribute: str, default: tuple[float, float]) -> Meaning | None:
    for pattern, read in SPECIFIC:
        if re.fullmatch(pattern, attribute):
            return read(text, attribute)
    return _level(text, attribute, default)


def meaning_of(text: str, attribute: str, default: tuple[float, float] = (0.0, 1.0)) -> Meaning:
    """What a range's words mean on a channel whose attribute is known; `default` are the attribute's usual values.

    A meaning that is not `known` changes nothing in the picture: the words are kept for a person to decide.
    """
    words = text.strip()
    wheel = re.fullmatch(r"(Color|Gobo|Prism|AnimationWheel|Effects|ColorMacro)[12]", attribute) is not None
    told_open = attribute == "Shutter1" and OPEN.search(re.sub(r"(?i)no func\w*", "", words))
    if (UNUSED if wheel else IDLE).search(words) and not told_open:
        return NOTHING
    if attribute != "NoFeature" and DARK.search(words):
        return _dark(words)
    found = _specific(words, attribute, default)
    if found is not None and (found.known or not CONTROL_WORDS.search(words)):
        return found
    if CONTROL_WORDS.search(words):
        return CONTROL
    if IDLE.search(words):
        return NOTHING
    return found or Meaning("NoFeature", 0.0, 0.0, known=False)
