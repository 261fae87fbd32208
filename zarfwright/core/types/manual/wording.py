"""What words of a manual tell: kinds of words, values with their units, ways from one end to the other."""

from __future__ import annotations

import re

SLOW_HZ, FAST_HZ = 0.5, 20.0
SLOW_DEG_S, FAST_DEG_S = 4.0, 240.0
NUMBER = r"(\d+(?:[.,]\d+)?)"
IDLE = re.compile(r"^(null|no func\w*|null|no action|not used|unused|reserved|idle|no effect|no change|none(?!\s*(?:to|-|>))|n/?a|neutral(?!\s*(?:to|-|>))|nothing|ignored?|safe)\b|\bno function\b", re.I)  # fmt: skip
UNUSED = re.compile(r"^null$|\b(no func\w*|not used|unused|reserved|idle)\b", re.I)
CONTROL_WORDS = re.compile(r"\b(reset|lamp (on|off|strike)|fans?\b|calibrat\w*|service|display|standby|enable|disable|hibernat\w*|firmware|mode select|tracking|silent|quiet|auto (mode )?fan|dimmer curve|curve|pwm|refresh|dmx (in|loss)|pan tilt mode|colou?r mode|calib\w*|black ?out (while|by|when|during|on|off|in)\b)", re.I)  # fmt: skip
DARK = re.compile(r"\bblack\s?-?out\b.*\b(mov\w*|pan|tilt|motion)\b|\bdark while\b", re.I)
STROBE = re.compile(
    r"\b(strob\w*|flash\w*|puls\w*|ramp\w*|lightning|blink\w*|snap|random|flicker\w*)\b|(\b|(?<=\d))hz\b|\d ?/ ?s\b|\d per s(ec(ond)?)?\b",
    re.I,
)
CLOSED = re.compile(
    r"\b(clos\w+|black ?-?out|dark|shut|no light|light off|no output)\b|^(off|shutter off|leds? off)\.?$", re.I
)
OPEN = re.compile(
    r"\b(open\w*|full on|light on|no strobe|full intensity|steady|constant)\b|^(the )?(leds?|light|lamps?) (is|are|stays?|remains?) on\b|^(on|full|no function|shutter on|leds? on|100 ?%)\.?$",
    re.I,
)
LEVEL = re.compile(r"\b(dimm\w*|intensity|bright\w*|master|fad\w+ up)\b", re.I)
STROBE_OFF = re.compile(
    r"\bno (strob\w*|flash\w*|effect)\b|\bstrob\w*( function)? (off|disabled|inactive)\b|\bwithout strob", re.I
)
STOP = re.compile(r"\b(stop\w*|no rotation|no spin|still|stationary|halt|static)\b|^0$", re.I)
BACK = re.compile(r"\b(anti-?\s?clock\w*|counter-?\s?clock\w*|counter|ccw|acw|backwards?|reverse\w*|rear|left)\b", re.I)
FORWARD = re.compile(r"(?<!counter)(?<!anti)(?<!counter[- ])(?<!anti[- ])\b(clock-?\s?wise|cw|forwards?|right)\b", re.I)
TURN = re.compile(
    r"\b(rotat\w*|spin\w*|scroll\w*|continuous\w*|rainbow\w*|turn\w*|cycl\w*|flow\w*|chang(e|es|ing)|run\w*)\b", re.I
)
INDEX = re.compile(r"\b(index\w*|position\w*|angle|orient\w*)\b", re.I)
FALLING = re.compile(
    r"\b(fast|max\w*|high|quick)\w*\s*(?:to|>|-|\.\.)\s*(slow|min\w*|low)|\bdecreas\w*|\bslowing\b", re.I
)
RISING = re.compile(
    r"\b(slow|min\w*|low)\w*\s*(?:to|>|-|\.\.)\s*(fast|max\w*|high|quick)|\bincreas\w*|\bspeed\w*\b", re.I
)
FAST, SLOW = re.compile(r"\bfast\w*\b", re.I), re.compile(r"\bslow\w*\b", re.I)
_SPLIT = re.compile(r"\bsplit\b|\bhalf\b|[a-z]\s*[+/&]\s*[a-z]", re.I)
PROGRAM = re.compile(r"\b(program\w*|macros?|auto\w*|chase\w*|effects?|preset|show|cross ?fade|fade|sound)\b", re.I)
LINEAR = re.compile(r"\b(linear\w*|proportional\w*|continuous(ly)?|progressiv\w*|0 ?(%|-|to) ?\d*|intensity|dimmer|saturation|adjust\w*|variable|bright\w*|level|gradual\w*)\b|%", re.I)  # fmt: skip
_UNIT = {
    "hz": rf"{NUMBER}\s*(?:hz|fps|flash(?:es)?(?: ?(?:per|/) ?s(?:ec(?:ond)?)?)?|/s|per s(?:ec(?:ond)?)?\b)", "rpm": rf"{NUMBER}\s*(?:rpm|r/min)",
    "deg": rf"[-+]?{NUMBER}\s*(?:°|deg(?:rees?)?)", "k": rf"{NUMBER}\s*(?:k\b|kelvin)", "bpm": rf"{NUMBER}\s*bpm",
    "%": rf"{NUMBER}\s*%",
}  # fmt: skip
_EITHER_WAY = re.compile(r"(?:±|\+\s*/\s*-|\+-)\s*(\d+(?:[.,]\d+)?)")
_SIGNED = re.compile(
    r"(?<![\w.,])([-+]?\d+(?:[.,]\d+)?)\s*(?:°|deg(?:rees?)?)?\s*(?:to|>|\.\.+|/|-)\s*([-+]?\d+(?:[.,]\d+)?)"
)
"""`-270° to +270°`: two ends, one of them with a sign."""
_PAIR = re.compile(r"([-+]?\d+(?:[.,]\d+)?)\s*(?:hz|rpm|°|deg(?:rees?)?|k|%|bpm|fps)?\s*(?:to|>|-|\.\.)\s*([-+]?\d+(?:[.,]\d+)?)\s*(hz|rpm|r/min|°|deg(?:rees?)?|k\b|%|bpm|fps|flash(?:es)?|/s\b|per s(?:ec(?:ond)?)?\b)", re.I)  # fmt: skip


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


def speed(text: str, slow: float, fast: float) -> tuple[float, float]:
    """From slow to fast, or the other way, or one of the two."""
    if FALLING.search(text):
        return fast, slow
    if RISING.search(text):
        return slow, fast
    if FAST.search(text) and not SLOW.search(text):
        return fast, fast
    if SLOW.search(text) and not FAST.search(text):
        return slow, slow
    return slow, fast


def ends(low: float, high: float) -> str:
    return f"{low:g} to {high:g}" if low != high else f"{low:g}"


def from_to(text: str, pairs: tuple[tuple[str, str], ...]) -> bool | None:
    """True where the words rise (first to second of a pair), False where they fall, None where neither."""
    for low, high in pairs:
        if re.search(rf"\b(?:{low})\w*\b.*?(?:to|>|-|\.\.).*?\b(?:{high})\w*\b", text, re.I):
            return True
        if re.search(rf"\b(?:{high})\w*\b.*?(?:to|>|-|\.\.).*?\b(?:{low})\w*\b", text, re.I):
            return False
    return None


RISES = (
    ("min", "max"), ("0 ?%|0", "100 ?%|100"), ("dark|clos|black|off", "bright|light|open|full|on|max"), ("narrow|small|spot", "wide|large|flood|big"),
    ("near", "far|infin"), ("hard|sharp", "soft"), ("none|no frost|no colou?r|out|clear|white|exclud", "full|heavy|in|strong"), ("low", "high"), ("slow", "fast"), ("light", "heavy"), ("cold", "warm"),
)  # fmt: skip
