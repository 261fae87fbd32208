"""What words say of things that turn: wheels with their slots, what is turned in the beam."""

from __future__ import annotations

import re
from dataclasses import replace

from zarfwright.core.types.manual.meaning import CONTROL, Meaning
from zarfwright.core.types.manual.wording import (
    BACK,
    CONTROL_WORDS,
    FALLING,
    FAST,
    FAST_DEG_S,
    FORWARD,
    INDEX,
    RISING,
    SLOW,
    SLOW_DEG_S,
    STOP,
    TURN,
    ends,
    speed,
    values_in,
)


def turning(text: str, attribute: str) -> Meaning:
    """A rotation with its sense and speed, in degrees a second."""
    rpm = values_in(text, "rpm")
    low, high = (rpm[0] * 6, rpm[1] * 6) if rpm else speed(text, SLOW_DEG_S, FAST_DEG_S)
    doubts = [] if rpm else [f"its speed is not given: {ends(low, high)}° a second was assumed"]
    if BACK.search(text) and not FORWARD.search(text):
        low, high = -abs(low), -abs(high)
    elif not FORWARD.search(text) and not BACK.search(text):
        doubts.insert(
            0, "which way it turns is not given" if doubts else "the way it turns is not given: forwards was assumed"
        )
    return Meaning(attribute, low, high, doubt="; ".join(doubts))


_PLAIN_WORDS = re.compile(
    r"(?i)\b(shak\w*|rotat\w*|spin\w*|scroll\w*|index\w*|cw|ccw|(anti-?|counter-?)?\s?clock-?\s?wise|slow\w*|fast\w*|to|from|speed|increasing|decreasing|min\w*|max\w*|wheel|gobos?(?!\s*#?(\d|[A-H]\b))|colou?rs?(?!\s*#?\d)|continuous\w*|direction|forwards?|backwards?|reversed?|effects?|rainbow|with|and|at|in|the|of|rpm|hz|low|high|on|positive|negative|infinite|endless|left|right|turn\w*|variable|stop\w*|flow|cycle|change|changing|through|all|whole)\b|\b\d+([.,]\d+)?\s*(-|to)?\s*(\d+([.,]\d+)?\s*)?(hz|rpm|°|%)"
)
OPENS = re.compile(
    r"(?i)(white|open|no (colou?r|gobo|filter|effect|pattern)s?|open hole|off|none|empty|blank|clear|open gobo|gobo open|open colou?r|colou?r open|no gobos?)"
)


_COUNTED = re.compile(
    r"(?i)\b(first|\d+)\s*(to|-|\.\.+|…)\s*([a-z]+ )?(last|\d+)\b|^\d+ (different )?(colou?rs|gobos|frames|slots|patterns|filters)\b"
)


def _remains(text: str) -> str:
    """What is left of words without those that tell how something turns or shakes: the name of a slot, or nothing."""
    rest = _PLAIN_WORDS.sub(" ", text)
    rest = re.sub(r"\(\s*[-,>/]*\s*\)", " ", rest)
    return re.sub(r"\s+", " ", rest).strip(" ,.:;->/()+&=")


def _shaken(text: str, shake: str) -> Meaning:
    """A slot that shakes, or the wheel where no slot is named."""
    said = values_in(text, "hz")
    hz = said or speed(text, 0.5, 6.0)
    slot = _remains(text)
    doubt = "" if said else f"its rate is not given: {ends(*hz)} Hz was assumed"
    if not slot:
        return Meaning(shake.replace("SelectShake", "WheelShake"), *hz, doubt=doubt)
    return Meaning(shake, *hz, slot=slot, doubt=doubt)


def _stopped(text: str) -> bool:
    # A static gobo stands in its place, and is one all the same.
    text = re.sub(r"(?i)\bstatic (?=gobo|colou?r|pattern)", "", text)
    turns = TURN.search(re.sub(r"(?i)no (rotation|spin)|rotation (off|stop\w*)", "", text))
    return bool((STOP.search(text) and not turns) or re.search(r"(?i)\brotation (off|stop\w*)\b", text))


def told_way(text: str) -> bool:
    """Whether words say which way something turns."""
    return bool(BACK.search(text) or FORWARD.search(text))


def told_speed(text: str) -> bool:
    """Whether words say how fast."""
    return any(one.search(text) for one in (RISING, FALLING, SLOW, FAST))


def _spun(text: str, attribute: str, spin: str, selects: bool) -> Meaning | None:
    """The wheel turning, or one slot of it where words name one."""
    turns, way, quick = bool(TURN.search(text)), told_way(text), told_speed(text)
    turns = turns or (attribute.startswith("Animation") and quick)
    slot = _remains(text)
    if not ((turns and (way or quick or not slot)) or (way and quick)):
        return None
    made = turning(text, spin)
    if (
        slot
        and selects
        and not attribute.startswith("Animation")
        and not re.fullmatch(r"(?i)(auto|dynamic|mode|sound|\W)*", slot)
    ):
        return replace(made, attribute=attribute + "SelectSpin", slot=slot)
    return made


def _slot(name: str, attribute: str) -> Meaning | None:
    """A slot by its name."""
    if _COUNTED.search(name):
        return Meaning(attribute, 0.0, 0.0, doubt="which of its slots its values choose is not said")
    if OPENS.fullmatch(re.sub(r"\s*[/+(),-]\s*", " ", name).strip()) or OPENS.fullmatch(name):
        return Meaning(attribute, slot="Open")
    if re.search(r"(?i)[A-Za-z0-9] > [A-Za-z]", name):
        return Meaning(attribute, slot=name, doubt="from one slot to the next: how far it turns is not given")
    return Meaning(attribute, slot=name) if name else None


_OWN = re.compile(r"(?i)(rotat\w* )?(gobo|colou?r|pattern|slot|glass) ?#?\d+( rotat\w*)?")
_BETWEEN = re.compile(
    r"(?i)\b(linear|proportional|continuous|stepless|half[ -]?colou?rs?|split (?:colou?rs?|positions?)|between|analog\w*)\b"
)


def wheel(text: str, attribute: str, spin: str, shake: str | None) -> Meaning | None:
    """Something of a wheel: a slot by its name, a shake or a turn of one, the wheel spinning, or between its slots."""
    name = re.sub(r"\s+", " ", text).strip(" .:-")
    if CONTROL_WORDS.search(text):
        return CONTROL
    if shake and re.search(r"\bshak\w*\b", text, re.I):
        return _shaken(text, shake)
    if _stopped(text):
        return Meaning(spin, 0.0, 0.0)
    if re.search(r"(?i)\brandom\b", name):
        return None
    own, between = _OWN.fullmatch(name), _BETWEEN.search(text)
    if between and attribute.startswith("Color") and not (told_way(text) or told_speed(text) or named_colours(text)):
        return Meaning(attribute[:6] + "WheelIndex", 0.0, 360.0)
    spun = None if own else _spun(text, attribute, spin, shake is not None)
    if spun is None and ((INDEX.search(text) and not re.search(r"\d", text)) or (between and not own)):
        return None
    return spun or _slot(name, attribute)


COLOUR_WORDS = re.compile(
    r"(?i)\b(red|orange|amber|yellow|lime|green|turquoise|aqua\w*|cyan|(?:light |dark |deep |pale )?blue|indigo|violet|purple|lavender|magenta|pink|rose|salmon|peach|ct[obc]|uv|congo|fuchsia|white|mint|straw|teal)\b"
)


def named_colours(text: str) -> bool:
    return COLOUR_WORDS.search(text) is not None


def turn(text: str, position: str, rotation: str) -> Meaning | None:
    if STOP.search(text):
        return Meaning(rotation, 0.0, 0.0)
    degrees = values_in(text, "deg")
    if degrees and not values_in(text, "rpm"):
        return Meaning(position, *degrees)
    quick, way = told_speed(text), told_way(text)
    if INDEX.search(text) and not quick and not way:
        return Meaning(position, 0.0, 360.0, doubt="its angles are not given: 0 to 360° was assumed")
    if way or TURN.search(text) or quick:
        return turning(text, rotation)
    return None
