"""What a channel does, from the words of a manual."""

from __future__ import annotations

import re
from dataclasses import dataclass


@dataclass(frozen=True)
class Named:
    """An attribute; `fine` counts the bytes below the coarse one; `cell` from 1 where the words name one."""

    attribute: str
    fine: int = 0
    cell: int | None = None
    known: bool = True


_FINE = re.compile(r"(?i)\b(ultra[\s-]?fine)\b|\b(fine|lsb|low byte|16[\s-]?bit)\b|\((f)\)")
_TABLE: tuple[tuple[str, str], ...] = (
    (r"(pan.*tilt|p\s*/\s*t|movement|motor|head|x\s*/\s*y|vector|m)\b.*\b(speed|time|velocity)|\bspeed.*(pan|tilt|move)", "PositionMSpeed"),
    (r"(endless|infinite|continuous|rotat\w*).*\bpan|\bpan\b.*(endless|infinite|continuous|rotat\w*|spin)", "PanRotate"),
    (r"(endless|infinite|continuous|rotat\w*).*\btilt|\btilt\b.*(endless|infinite|continuous|rotat\w*|spin)", "TiltRotate"),
    (r"\bpan\b|^x[- ]?axis", "Pan"),
    (r"\btilt\b|^y[- ]?axis", "Tilt"),
    (r"dimmer\s*curve|dimming (curve|mode)|curve", "DimmerCurve"),
    (r"(dim|intensity|zoom|focus|colou?r|gobo)\w*\s*(speed|time|delay)", "Control2"),
    (r"(blade|framing|shaper|shutter)s?\s*(?P<n>[1-4]|top|bottom|left|right)\b.*\b(rot\w*|swivel|angle|tilt|turn\w*|skew)", "Blade{n}Rot"),
    (r"(shutter|blade|framing|shaper)s?.*\b(module|assembly|frame)?.*\b(rot\w*|turn\w*|index)\b(?!.*\b[1-4]\b)", "ShaperRot"),
    (r"(blade|framing|shaper|shutter)s?\s*(?P<n>[1-4]|top|bottom|left|right)\s*(?P<ab>[ab])?\b", "Blade{n}{ab}"),
    (r"(top|bottom|left|right)\s*(blade|framing|shaper|shutter)", ""),
    (r"strob\w*|shutter", "Shutter1"),
    (r"dimm\w*|intensity|luminosity|master\b|brightness", "Dimmer"),
    (r"(colou?r|program|effect|rainbow|fade|macro)\w*.*\b(speed|rate|fade)\b|\b(speed|rate)\b", "ColorMacro1Rate"),
    (r"colou?r.*(macro|preset|program|effect)|(macro|preset|virtual).*colou?r", "ColorMacro1"),
    (r"\bct[obc]\b|colou?r\s*temp\w*|correction|\bcct\b|kelvin", "CTO"),
    (r"colou?r\s*(wheel)?\s*2|second colou?r|colou?r wheel b", "Color2"),
    (r"colou?r\s*(wheel|disc|scroll\w*|change\w*)?(\s*1)?$|colou?r\s*(wheel|disc|scroll\w*|change\w*)|scroller", "Color1"),
    (r"gobo.*\b(2|two|rotating)\b.*(rot\w*|index\w*|spin|pos\w*)|gobo\s*2\s*(rot|index)", "Gobo2Pos"),
    (r"gobo\w*.*\b(rotation|rotate|index\w*|spin|orientation|position)\b|rotation.*gobo", "Gobo1Pos"),
    (r"gobo\w*.*\b(2|two|b)\b|second gobo|animation|static gobo 2", "Gobo2"),
    (r"gobo", "Gobo1"),
    (r"prism.*(rot\w*|index\w*|spin|pos\w*)", "Prism1Pos"),
    (r"prism", "Prism1"),
    (r"iris", "Iris"),
    (r"auto\s*focus", "Control2"),
    (r"zoom", "Zoom"),
    (r"focus", "Focus1"),
    (r"frost|diffus\w*|hardness|softness|\bedge\b", "Frost1"),
    (r"\bcyan\b", "ColorSub_C"),
    (r"\bmagenta\b", "ColorSub_M"),
    (r"warm\s*white|\bww\b", "ColorAdd_WW"),
    (r"(cold|cool)\s*white|\bcw\b", "ColorAdd_CW"),
    (r"\bred\b|^r$", "ColorAdd_R"),
    (r"\bgreen\b|^g$", "ColorAdd_G"),
    (r"\bblue\b|^b$", "ColorAdd_B"),
    (r"\bwhite\b|^w$", "ColorAdd_W"),
    (r"\bamber\b|^a$", "ColorAdd_RY"),
    (r"\blime\b|\bmint\b", "ColorAdd_GY"),
    (r"\buv\b|ultra\s*violet|\bviolet\b", "ColorAdd_UV"),
    (r"\byellow\b", "ColorSub_Y"),
    (r"\b(haze|fog|smoke|output|pump)\b", "Haze1"),
    (r"\bfans?\b", "Fan1"),
    (r"macro|program\w*|effect\w*|auto\w*|show|mode", "ColorEffects1"),
    (r"control|reset|special|function|lamp|service|setting|reserved|not used|unused|no function|display|power", "Control1"),
)  # fmt: skip
TABLE = tuple((re.compile(pattern, re.IGNORECASE), attribute) for pattern, attribute in _TABLE)
SIDES = {"top": "1", "right": "2", "bottom": "3", "left": "4"}
_CELL = re.compile(r"(?i)\b(?:pixel|cell|led|zone|segment|section|ring|head|px|array|group)\s*#?(\d{1,3})\b|^(?:r|g|b|w|a|red|green|blue|white|amber|dimmer|uv|lime)\s*#?(\d{1,3})\b|\b(?:red|green|blue|white|amber|uv|lime|dimmer|cyan|magenta|yellow)\s+(\d{1,3})$")  # fmt: skip


def attribute_of(words: str) -> Named:
    """What a channel of these words does. Where nothing fits: NoFeature, and not `known`."""
    text = re.sub(r"\s+", " ", words).strip(" .:-")
    fine = _FINE.search(text)
    level = 0 if fine is None else 2 if fine[1] else 1
    plain = _FINE.sub(" ", text).strip(" ()-")
    match = _CELL.search(plain)
    cell = next((int(group) for group in match.groups() if group), None) if match else None
    if match and re.match(r"(?i)[a-z]+\s*#?\d", match[0]):
        # The number is the cell's: the rest says what the channel does.
        plain = re.sub(r"#?\d{1,3}", " ", plain).strip()
        plain = re.sub(r"(?i)\b(pixel|cell|led|zone|segment|section|px|array|group)\b", " ", plain).strip(" -:,/")
    for pattern, attribute in TABLE:
        found = pattern.search(plain)
        if found is None:
            continue
        if not attribute:
            side = SIDES[found[1].lower()]
            turn = re.search(r"(?i)\b(rot\w*|swivel|angle|turn\w*)\b", plain)
            return Named(f"Blade{side}{'Rot' if turn else 'A'}", level, cell)
        groups = found.groupdict()
        n = (groups.get("n") or "").lower()
        ab = (groups.get("ab") or "a").upper()
        return Named(attribute.format(n=SIDES.get(n, n), ab=ab), level, cell)
    return Named("NoFeature", level, cell, known=False)
