"""What the words of a range mean, on a channel of a known kind."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

SLOW_HZ, FAST_HZ = 0.5, 20.0
SLOW_DEG_S, FAST_DEG_S = 4.0, 240.0


@dataclass(frozen=True)
class Meaning:
    """An attribute with its physical values; `slot` is the name of a wheel slot; `known` False: nothing was made of it."""

    attribute: str
    low: float = 0.0
    high: float = 1.0
    slot: str | None = None
    known: bool = True


NOTHING = Meaning("NoFeature", 0.0, 0.0)
NUMBER = r"(\d+(?:[.,]\d+)?)"
_IDLE = re.compile(r"^(no func\w*|not used|unused|reserved|idle|no effect|no change|none|n/?a|neutral|nothing|ignored?|safe)\b|\bno function\b", re.I)  # fmt: skip
_UNUSED = re.compile(r"\b(no func\w*|not used|unused|reserved|idle)\b", re.I)
_CONTROL = re.compile(r"\b(reset|lamp (on|off|strike)|fans?\b|calibrat\w*|service|display|standby|enable|disable|hibernat\w*|firmware|mode select|tracking|silent|quiet|auto (mode )?fan|dimmer curve|curve|pwm|refresh|blackout while|blackout (on|off|during))", re.I)  # fmt: skip
_DARK = re.compile(r"\bblack\s?out\b.*\b(mov\w*|pan|tilt)\b|\bdark while\b", re.I)
_STROBE = re.compile(r"\b(strob\w*|flash\w*|puls\w*|ramp\w*|lightning|blink\w*|snap|random)\b|\bhz\b", re.I)
_CLOSED = re.compile(r"\b(clos\w+|black ?out|dark|shut)\b|^off$", re.I)
_OPEN = re.compile(r"\b(open\w*|full on|light on|no strobe)\b|^(on|full)$", re.I)
_STOP = re.compile(r"\b(stop\w*|no rotation|no spin|still|stationary|halt|static)\b|^0$", re.I)
_BACK = re.compile(r"\b(anti-?\s?clock\w*|counter-?\s?clock\w*|ccw|backwards?|reverse\w*|rear|left)\b", re.I)
_FORWARD = re.compile(r"\b(clock-?wise|cw|forwards?|right)\b", re.I)
_TURN = re.compile(r"\b(rotat\w*|spin\w*|scroll\w*|continuous\w*|rainbow\w*|turn\w*|cycle)\b", re.I)
_INDEX = re.compile(r"\b(index\w*|position\w*|angle|orient\w*)\b", re.I)
_FALLING = re.compile(
    r"\b(fast|max\w*|high|quick)\w*\s*(?:to|>|-|\.\.)\s*(slow|min\w*|low)|\bdecreas\w*|\bslowing\b", re.I
)
_RISING = re.compile(
    r"\b(slow|min\w*|low)\w*\s*(?:to|>|-|\.\.)\s*(fast|max\w*|high|quick)|\bincreas\w*|\bspeed\w*\b", re.I
)
_FAST, _SLOW = re.compile(r"\bfast\w*\b", re.I), re.compile(r"\bslow\w*\b", re.I)
_SPLIT = re.compile(r"\bsplit\b|\bhalf\b|[a-z]\s*[+/&]\s*[a-z]", re.I)
_PROGRAM = re.compile(r"\b(program\w*|macros?|auto\w*|chase\w*|effects?|preset|show|cross ?fade|fade|sound)\b", re.I)
_LINEAR = re.compile(r"\b(linear\w*|proportional\w*|continuous(ly)?|progressiv\w*|0 ?(%|-|to) ?\d*|intensity|dimmer|saturation|adjust\w*|variable|bright\w*|level|gradual\w*)\b|%", re.I)  # fmt: skip
_UNIT = {
    "hz": rf"{NUMBER}\s*(?:hz|fps|flashes(?: per second)?|/s)", "rpm": rf"{NUMBER}\s*(?:rpm|r/min)",
    "deg": rf"[-+]?{NUMBER}\s*(?:°|deg(?:rees?)?)", "k": rf"{NUMBER}\s*(?:k\b|kelvin)", "bpm": rf"{NUMBER}\s*bpm",
}  # fmt: skip
_EITHER_WAY = re.compile(r"(?:±|\+\s*/\s*-|\+-)\s*(\d+(?:[.,]\d+)?)")
_SIGNED = re.compile(
    r"(?<![\w.,])([-+]?\d+(?:[.,]\d+)?)\s*(?:°|deg(?:rees?)?)?\s*(?:to|>|\.\.+|/|-)\s*([-+]?\d+(?:[.,]\d+)?)"
)
"""`-270° to +270°`: two ends, one of them with a sign."""
_PAIR = re.compile(r"([-+]?\d+(?:[.,]\d+)?)\s*(?:hz|rpm|°|deg(?:rees?)?|k|%|bpm|fps)?\s*(?:to|>|-|\.\.)\s*([-+]?\d+(?:[.,]\d+)?)\s*(hz|rpm|r/min|°|deg(?:rees?)?|k\b|%|bpm|fps)", re.I)  # fmt: skip


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def values_in(text: str, unit: str) -> tuple[float, float] | None:
    """The physical values that are written out, in a unit: `0.5 to 8 Hz`, `10-45°`, `3 rpm`."""
    pair = _PAIR.search(text)
    if pair is not None and re.search(_UNIT[unit], f"{pair[2]} {pair[3]}", re.I):
        return _number(pair[1]), _number(pair[2])
    single = re.findall(_UNIT[unit], text, re.I)
    if len(single) == 2:
        return _number(single[0]), _number(single[1])
    return (_number(single[0]), _number(single[0])) if single else None


def turn_in(text: str) -> tuple[float, float] | None:
    """From where to where a head turns, in degrees: as it is written where a sign or two ends say it; a whole angle
    lies half on either side."""
    both = _EITHER_WAY.search(text)
    if both is not None:
        return -_number(both[1]), _number(both[1])
    ends = _SIGNED.search(text)
    if ends is not None and any(end[0] in "+-" for end in ends.groups()):
        return _number(ends[1]), _number(ends[2])
    said = values_in(text, "deg")
    if said is None:
        return None
    half = (said[1] - said[0] or abs(said[1])) / 2
    return -half, half


def _speed(text: str, slow: float, fast: float) -> tuple[float, float]:
    """From slow to fast, or the other way, or one of the two."""
    if _FALLING.search(text):
        return fast, slow
    if _RISING.search(text):
        return slow, fast
    if _FAST.search(text) and not _SLOW.search(text):
        return fast, fast
    if _SLOW.search(text) and not _FAST.search(text):
        return slow, slow
    return slow, fast


def strobe(text: str) -> Meaning:
    """A way of flashing, with its rate."""
    kind = "Shutter1Strobe"
    if re.search(r"\blightning\b", text, re.I):
        kind = "Shutter1StrobeEffect"
    elif re.search(r"\brandom\w*\b", text, re.I):
        kind = "Shutter1StrobeRandom"
    elif re.search(r"\b(ramp|fad|pulse|opening|soft)\w*[\s-]*(up|open\w*|in)\b|\bopening\b|\bslow open\w*", text, re.I):
        kind = "Shutter1StrobePulseOpen"
    elif re.search(
        r"\b(ramp|fad|pulse|closing|soft)\w*[\s-]*(down|clos\w*|out)\b|\bclosing\b|\bslow clos\w*", text, re.I
    ):
        kind = "Shutter1StrobePulseClose"
    elif re.search(r"\bramp\w*\b", text, re.I):
        kind = "Shutter1StrobePulseOpen"
    elif re.search(r"\bpuls\w*\b", text, re.I):
        kind = "Shutter1StrobePulse"
    said = values_in(text, "hz")
    if said is None and (bpm := values_in(text, "bpm")):
        said = (bpm[0] / 60, bpm[1] / 60)
    low, high = said or _speed(text, SLOW_HZ, FAST_HZ)
    return Meaning(kind, low, high)


def turning(text: str, attribute: str) -> Meaning:
    """A rotation with its sense and speed, in degrees a second."""
    rpm = values_in(text, "rpm")
    low, high = (rpm[0] * 6, rpm[1] * 6) if rpm else _speed(text, SLOW_DEG_S, FAST_DEG_S)
    if _BACK.search(text):
        low, high = -abs(low), -abs(high)
    return Meaning(attribute, low, high)


def _shutter(text: str) -> Meaning | None:
    if _STROBE.search(text) and not re.search(r"\bno strobe\b|strobe off", text, re.I):
        return strobe(text)
    if _CLOSED.search(text) and not (_OPEN.search(text) and re.search(r"\bto\b|>|-", text)):
        return Meaning("Shutter1", 0.0, 0.0)
    if _OPEN.search(text) or re.search(r"strobe off", text, re.I):
        return Meaning("Shutter1", 1.0, 1.0)
    return None


def _wheel(text: str, attribute: str, spin: str, shake: str | None) -> Meaning | None:
    """Something of a wheel: a slot by its name, a shake of one, or the wheel spinning."""
    name = re.sub(r"\s+", " ", text).strip(" .:-")
    if _CONTROL.search(text):
        return NOTHING
    if shake and re.search(r"\bshak\w*\b", text, re.I):
        slot = re.sub(
            r",?\s*\(?\b(shak\w*|slow|fast|to|speed|from|increasing|decreasing|min|max)\b\)?", "", name, flags=re.I
        )
        hz = values_in(text, "hz") or _speed(text, 0.5, 6.0)
        slot = re.sub(r"\s*(>|-|\.\.)\s*$|[()]|\s*\d[\d.]*\s*(-|to)?\s*[\d.]*\s*hz", "", slot, flags=re.I)
        return Meaning(shake, *hz, slot=slot.strip(" ,.:->") or None, known=bool(slot.strip(" ,.:->")))
    if _STOP.search(text) and not _TURN.search(re.sub(r"(?i)no rotation|no spin", "", text)):
        return Meaning(spin, 0.0, 0.0)
    sense = _BACK.search(text) or _FORWARD.search(text)
    speed = _RISING.search(text) or _FALLING.search(text)
    if (_TURN.search(text) and not re.search(r"(?i)^rotat\w* gobo \d+$|^gobo", text)) or (sense and speed):
        return turning(text, spin)
    if _INDEX.search(text) or re.search(r"(?i)\b(linear|proportional|continuous)\w*", text):
        return None
    if re.fullmatch(r"(?i)(white|open|no (colou?r|gobo)|no filter|open hole|open ?/ ?white|white ?/ ?open|off)", name):
        return Meaning(attribute, slot="Open")
    return Meaning(attribute, slot=name) if name else None


def _turn(text: str, position: str, rotation: str) -> Meaning | None:
    if _STOP.search(text):
        return Meaning(rotation, 0.0, 0.0)
    degrees = values_in(text, "deg")
    if degrees or (_INDEX.search(text) and not _TURN.search(text)):
        return Meaning(position, *(degrees or (0.0, 360.0)))
    if _BACK.search(text) or _FORWARD.search(text) or _TURN.search(text):
        return turning(text, rotation)
    return None


def _from_to(text: str, pairs: tuple[tuple[str, str], ...]) -> bool | None:
    """True where the words rise (first to second of a pair), False where they fall, None where neither."""
    for low, high in pairs:
        if re.search(rf"\b(?:{low})\w*\b.*?(?:to|>|-|\.\.).*?\b(?:{high})\w*\b", text, re.I):
            return True
        if re.search(rf"\b(?:{high})\w*\b.*?(?:to|>|-|\.\.).*?\b(?:{low})\w*\b", text, re.I):
            return False
    return None


RISES = (
    ("min", "max"), ("0 ?%|0", "100 ?%|100"), ("dark|clos|black|off", "bright|open|full|on|max"), ("narrow|small|spot", "wide|large|flood|big"),
    ("near", "far"), ("none|no frost|out|clear", "full|heavy|in|strong"), ("low", "high"), ("slow", "fast"), ("cold", "warm"),
)  # fmt: skip
OPEN_FIRST = {"Iris": (1.0, 0.1)}
"""Attributes whose first value is open: most manuals count an iris from open to closed."""


def _iris(text: str) -> Meaning | None:
    """An iris from one end to the other, or at one."""
    rising = _from_to(text, (("clos|min|small|narrow", "open|max|large|wide|big"),))
    if rising is not None:
        return Meaning("Iris", 0.1, 1.0) if rising else Meaning("Iris", 1.0, 0.1)
    if _OPEN.search(text):
        return Meaning("Iris", 1.0, 1.0)
    return Meaning("Iris", 0.1, 0.1) if _CLOSED.search(text) else None


def _plain(text: str, attribute: str, default: tuple[float, float]) -> Meaning | None:
    """A channel that does one thing over a range."""
    unit = {"Zoom": "deg", "CTO": "k", "CTC": "k", "CTB": "k"}.get(attribute)
    turns = attribute in ("Pan", "Tilt")
    said = turn_in(text) if turns else values_in(text, unit) if unit else None
    if said:
        return Meaning(attribute, *said)
    low, high = OPEN_FIRST.get(attribute, default)
    if _STROBE.search(text):
        pulse = re.search(r"(?i)\b(clos|open)", text)
        way = {"clos": "Close", "open": "Open"}[pulse[1].lower()] if pulse else ""
        return Meaning(f"IrisPulse{way}", *_speed(text, SLOW_HZ, FAST_HZ)) if attribute == "Iris" else None
    if attribute == "Iris" and (iris := _iris(text)) is not None:
        return iris
    rising = _from_to(text, RISES)
    if rising is not None:
        least, most = min(low, high), max(low, high)
        return Meaning(attribute, *((least, most) if rising else (most, least)))
    if attribute.startswith("Frost") and re.search(r"(?i)\b(no|out|off|open|clear)\b", text):
        return Meaning(attribute, low, low)
    own = re.sub(r"[\d_]", " ", re.sub(r"([a-z])([A-Z])", r"\1 \2", attribute)).lower().split()
    words = text.lower().split()
    if _LINEAR.search(text) or any(word in words for word in own) or not words:
        return Meaning(attribute, low, high)
    if attribute.startswith("Frost") and re.search(r"(?i)\b(in|on|full|heavy|light|medium|frost)\b", text):
        return Meaning(attribute, high, high)
    return None


def _wheel_number(attribute: str) -> str:
    """Which of two wheels an attribute is of."""
    return next((n for n in "12" if n in attribute), "1")


def _colour(text: str, attribute: str) -> Meaning | None:
    return _wheel(text, attribute, f"Color{_wheel_number(attribute)}WheelSpin", None)


def _gobo(text: str, attribute: str) -> Meaning | None:
    number = _wheel_number(attribute)
    return _wheel(text, attribute, f"Gobo{number}WheelSpin", f"Gobo{number}SelectShake")


def _gobo_turn(text: str, attribute: str) -> Meaning | None:
    number = _wheel_number(attribute)
    return _turn(text, f"Gobo{number}Pos", f"Gobo{number}PosRotate")


def _prism(text: str, _: str) -> Meaning | None:
    if re.fullmatch(r"(?i)(no prism|open|out|off|none|prism (out|off))", text.strip()):
        return Meaning("Prism1", slot="None")
    if _TURN.search(text) or (_BACK.search(text) or _FORWARD.search(text)):
        return turning(text, "Prism1PosRotate")
    return Meaning("Prism1", slot=text.strip())


def _built_in_colour(text: str, _: str) -> Meaning | None:
    if _PROGRAM.search(text) and (_RISING.search(text) or _FALLING.search(text) or "rainbow" in text.lower()):
        return Meaning("ColorEffects1", 0.5, 4.0, slot=None)
    return Meaning("ColorMacro1", slot=text.strip())


def _control(text: str, attribute: str) -> Meaning | None:
    if attribute != "NoFeature" and _DARK.search(text):
        off = re.search(r"(?i)\b(no|off|disabl\w*|without)\b", text)
        return Meaning("BlackoutMode", 0.0, 0.0) if off else Meaning("BlackoutMode", 1.0, 1.0)
    return Meaning(attribute, 0.0, 0.0) if _CONTROL.search(text) else None


SPECIFIC: tuple[tuple[str, Callable[[str, str], Meaning | None]], ...] = (
    (r"(Shutter|Strobe).*", lambda text, _: _shutter(text)),
    (r"Color[12]", _colour),
    (r"Gobo[12]", _gobo),
    (r"Gobo[12]Pos(Rotate)?", _gobo_turn),
    (r"Prism1Pos(Rotate)?", lambda text, _: _turn(text, "Prism1Pos", "Prism1PosRotate")),
    (r"Prism1", _prism),
    (r"ColorMacro[12]|ColorEffects1", _built_in_colour),
    (r"BlackoutMode|Control.*|NoFeature", _control),
)
"""Attributes whose words have a way of their own, and that way."""


def _level(text: str, attribute: str, default: tuple[float, float]) -> Meaning | None:
    """A dimmer's words, and those of what turns; else those of a channel that does one thing over a range."""
    if attribute == "Dimmer":
        if _STROBE.search(text):
            return strobe(text)
        if re.fullmatch(r"(?i)(closed|dark|off|blackout|black out)", text.strip()):
            return Meaning("Dimmer", 0.0, 0.0)
        if re.fullmatch(r"(?i)(open|full|on|full on|100 ?%|max\w*)", text.strip()):
            return Meaning("Dimmer", 1.0, 1.0)
    if attribute in ("Pan", "Tilt", "PanRotate", "TiltRotate") and (_TURN.search(text) or _STOP.search(text)):
        axis = attribute.removesuffix("Rotate")
        return Meaning(f"{axis}Rotate", 0.0, 0.0) if _STOP.search(text) else turning(text, f"{axis}Rotate")
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
    wheel = attribute in ("Color1", "Color2", "Gobo1", "Gobo2", "Prism1")
    if (_UNUSED if wheel else _IDLE).search(words):
        return NOTHING
    found = _specific(words, attribute, default)
    if found is not None and (found.known or not _CONTROL.search(words)):
        return found
    if _CONTROL.search(words) or _IDLE.search(words):
        return NOTHING
    return found or Meaning("NoFeature", 0.0, 0.0, known=False)
