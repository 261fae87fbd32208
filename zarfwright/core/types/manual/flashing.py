"""What words say of a shutter: closed, open, dimmed, and all the ways of flashing."""

from __future__ import annotations

import re
from dataclasses import replace

from zarfwright.core.types.manual.meaning import Meaning
from zarfwright.core.types.manual.wording import (
    CLOSED,
    FALLING,
    FAST_HZ,
    LEVEL,
    OPEN,
    RISES,
    SLOW_HZ,
    STROBE,
    STROBE_OFF,
    ends,
    from_to,
    speed,
    values_in,
)

_UP = re.compile(
    r"\b(ramp\w*|fad\w*|puls\w*|soft\w*|slow\w*)\b[\s,-]*(effect )?(up|open\w*)\b|\bfad\w* in\b|\bopening\b|\bopen(ing)?[\s-]puls|\b(slow|soft)\w*[ -]open",
    re.I,
)
_DOWN = re.compile(
    r"\b(ramp\w*|fad\w*|puls\w*|soft\w*|slow\w*)\b[\s,-]*(effect )?(down|clos\w*)\b|\bfad\w* out\b|\bclosing\b|\bclos(e|ing)[\s-]puls|\b(slow|soft)\w*[ -]clos",
    re.I,
)
_BOTH_WAYS = re.compile(r"\bopen(ing)?\s*(/|and|&|-)\s*clos|\bup\s*(/|and|&)\s*down|\bin\s*(/|and|&)\s*out", re.I)


def _strobe_kind(text: str) -> str:
    """The attribute of a way of flashing."""
    up, down = bool(_UP.search(text)), bool(_DOWN.search(text))
    if _BOTH_WAYS.search(text) or (up and down):
        up = down = False
    way = "PulseOpen" if up else "PulseClose" if down else ""
    if re.search(r"\blightning\b|\bstorm\b|\bflicker", text, re.I):
        return "Shutter1StrobeEffect"
    if re.search(r"\brandom\w*\b", text, re.I):
        pulse = way or ("Pulse" if re.search(r"\bpuls\w*\b", text, re.I) else "")
        return f"Shutter1StrobeRandom{pulse}"
    if way:
        return f"Shutter1Strobe{way}"
    if re.search(r"\bramp\w*\b", text, re.I) and not _BOTH_WAYS.search(text):
        return "Shutter1StrobePulseOpen"
    return "Shutter1StrobePulse" if re.search(r"\b(puls\w*|ramp\w*)\b", text, re.I) else "Shutter1Strobe"


def strobe(text: str) -> Meaning:
    """A way of flashing, with its rate."""
    said = values_in(text, "hz")
    if said is None and (bpm := values_in(text, "bpm")):
        said = (bpm[0] / 60, bpm[1] / 60)
    low, high = said or speed(text, SLOW_HZ, FAST_HZ)
    doubt = "" if said else f"its rate is not given: {ends(low, high)} Hz was assumed"
    return Meaning(_strobe_kind(text), low, high, doubt=doubt)


def shutter(text: str) -> Meaning | None:
    off = STROBE_OFF.search(text) is not None
    if (STROBE.search(text) or re.search(r"(?i)\bslow\w*[ -](open|clos)", text)) and not off:
        return strobe(text)
    rising = from_to(text, RISES)
    if rising is not None and (LEVEL.search(text) or CLOSED.search(text)):
        low, high = (0.0, 1.0) if rising else (1.0, 0.0)
        return Meaning("Dimmer" if LEVEL.search(text) else "Shutter1", low, high)
    if LEVEL.search(text) and "%" in text:
        return Meaning("Dimmer", 0.0, 1.0)
    if CLOSED.search(text) and not OPEN.search(text):
        return Meaning("Shutter1", 0.0, 0.0)
    if OPEN.search(text) or off:
        return Meaning("Shutter1", 1.0, 1.0)
    if FALLING.search(text) or re.search(r"\bslow\w*\s*(to|>|-|\.\.)\s*fast|\bincreas", text, re.I):
        return replace(strobe(text), doubt="it speaks of a speed: a strobe of 0.5 to 20 Hz was assumed")
    if LEVEL.search(text):
        return Meaning("Dimmer", 0.0, 1.0)
    return None
