"""What a channel does, from the words of a manual."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace


@dataclass(frozen=True)
class Named:
    """An attribute; `fine` counts the bytes below the coarse one; `cell` from 1 where the words name one."""

    attribute: str
    fine: int = 0
    cell: int | None = None
    known: bool = True


_FINE = re.compile(
    r"(?i)\b(ultra[\s-]?fine)\b|\b(fine|fein|lsb|low[\s-]?byte|lo byte|16[\s-]?bit|fine control)\b|\((f)\)|(?<=[a-z])[._](f)$"
)
_TABLE: tuple[tuple[str, str], ...] = (
    (r"^(reserved?|not used|unused|no func\w*|none|n/?a|empty|dummy|blank|no effect|not assigned|spare)\b", "NoFeature"),
    (r"(pan.*tilt|p\s*/\s*t|movement|motor|head|x\s*[/&-]?\s*y\b|vector|\bm)\b.*\b(speed|time|velocity)|\bspeed.*(pan|tilt|move)", "PositionMSpeed"),
    (r"(endless|infinite|continuous|rotat\w*).*\bpan|\bpan\b.*(endless|infinite|continuous|rotat\w*|spin)", "PanRotate"),
    (r"(endless|infinite|continuous|rotat\w*).*\btilt|\btilt\b.*(endless|infinite|continuous|rotat\w*|spin)", "TiltRotate"),
    (r"^(pan|tilt)\b.{0,12}\b(speed|time)\b", "PositionMSpeed"),
    (r"\b(cmy|rgb\w*|colou?r mix\w*)\b.{0,12}\b(speed|time|fade)\b", "ColorMixMSpeed"),
    (r"\bpan\b|^x\b", "Pan"),
    (r"\btilt\b|^y\b", "Tilt"),
    (r"dimm\w*\s*curve|dimming (curve|mode)|dimmer mode|\bcurve", "DimmerCurve"),
    (r"\btint\b|\b(green|magenta)[ /-]*(magenta)? ?(shift|bias|correction|adjust\w*)|green\s*[/-]\s*magenta|magenta\s*[/-]\s*green|(plus|minus|\+\s*/\s*-|±|\+|-)\s*green|\bduv\b", "Tint"),
    (r"cross ?-?fade\b", "?"),
    (r"\bhue\b", "HSB_Hue"),
    (r"\bsaturation\b", "HSB_Saturation"),
    (r"(dim\w*|intensity|zoom|focus|gobo)\w*\s*(speed|time|delay)|\bdimmer (response|delay)", "Control2"),
    (r"(blade|framing|shaper|shutter|frame)s?\s*(?P<n>[1-4]|top|bottom|left|right)\b.*\b(rot\w*|swivel|angle|tilt|turn\w*|skew)", "Blade{n}Rot"),
    (r"(shutter|blade|framing|shaper|frame)s?.*\b(module|assembly|frame)?.*\b(rot\w*|turn\w*|index)\b(?!.*\b[1-4]\b)", "ShaperRot"),
    (r"(blade|framing|shaper|shutter|frame)s?\s*(?P<n>[1-4]|top|bottom|left|right)\s*(?P<ab>[ab])?\b", "Blade{n}{ab}"),
    (r"(top|bottom|left|right)\s*(blade|framing|shaper|shutter)", ""),
    (r"strob\w*|^(str|stb|shut|sht|shtr)$|shutter", "Shutter1"),
    (r"^(led )?(?P<c>red|green|blue|white|amber|lime|cyan|magenta|uv)\b.{0,12}\b(intensity|dimm\w*|level|brightness|output)$|^(dimm\w*|intensity|level|brightness) (of )?(?P<d>red|green|blue|white|amber|lime|cyan|magenta|uv)$|^(?P<e>r|g|b|w|a|uv)\s*(dimm\w*|intensity|level)$", "+"),
    (r"dimm\w*|\bdim\b|^d$|^int\.?$|intensity|luminosity|master\b|brightness", "Dimmer"),
    (r"(program|effect|macro|auto|show|chase|pattern|pixel|\bfx)\w*.*\b(speed|spd|rate|fade|time)\b|\b(speed|rate)\b.*(program|effect|macro|auto|chase)", "Effects1Rate"),
    (r"(colou?r|rainbow|fade)\w*.*\b(speed|rate|fade)\b", "ColorMacro1Rate"),
    (r"colou?r.*(macro|preset|program|effect|mixe|mixture)|(macro|preset|virtual).*colou?r", "ColorMacro1"),
    (r"\bcto\b", "CTO"), (r"\bctb\b", "CTB"),
    (r"\bctc\b|colou?r\s*temp\w*|correction|\bcct\b|kelvin|white (balance|point)|variable white", "CTC"),
    (r"colou?rs?\s*(wheel)?\s*2|second colou?r|colou?r wheel b", "Color2"),
    (r"^(the |a )?(colou?rs?|col\.?)(\s*1)?$|colou?r\s*(wheel|disc|frames?|scroll\w*|change\w*)|scroller|farbrad|\bwheel\W+colou?rs?", "Color1"),
    (r"gobo.*\b(2|two|rotating)\b.*(rot\w*|index\w*|spin|pos\w*)|gobo\s*2\s*(rot|index)", "Gobo2Pos"),
    (r"gobo\w*.*\b(rotation|rotate|rot|index\w*|spin|orientation|position|rotating speed)\b|rotation.*gobo", "Gobo1Pos"),
    (r"gobo\w*.*\b(2|two|b)\b|second gobo|static gobo 2", "Gobo2"),
    (r"(animation|effects? (wheel|disc|disk)).*(rot\w*|index\w*|spin|pos\w*|speed)", "AnimationWheel1Pos"),
    (r"animation|effects? (wheel|disc|disk)", "AnimationWheel1"),
    (r"gobo", "Gobo1"),
    (r"prism\D*\b2\b.*(rot\w*|index\w*|spin|pos\w*)", "Prism2Pos"),
    (r"prism\D*\b2\b", "Prism2"),
    (r"prism.*(rot\w*|index\w*|spin|pos\w*)", "Prism1Pos"),
    (r"prism", "Prism1"),
    (r"iris", "Iris"),
    (r"auto\s*focus", "Control2"),
    (r"zoom|\b(beam|field) (angle|width|spread)\b", "Zoom"),
    (r"focus", "Focus1"),
    (r"frost\D*\b2\b|second frost|heavy frost", "Frost2"),
    (r"frost|diffus\w*|hardness|softness|\bedge\b", "Frost1"),
    (r"colou?r (mix\w*|flag) c(yan)?$", "ColorSub_C"), (r"colou?r (mix\w*|flag) m(agenta)?$", "ColorSub_M"),
    (r"colou?r (mix\w*|flag) y(ellow)?$", "ColorSub_Y"),
    (r"\bcyan\b|^cya?n$", "ColorSub_C"),
    (r"\bmagenta\b|^mag$", "ColorSub_M"),
    (r"warm\s*white|\bww\b", "ColorAdd_WW"),
    (r"(cold|cool)\s*white|\bcw\b", "ColorAdd_CW"),
    (r"\bred\b|^(r|rot)$", "ColorAdd_R"),
    (r"\bgreen\b|^(g|grn|gr(ü|ue)n)$", "ColorAdd_G"),
    (r"\bblue\b|^(b|blu|blau)$", "ColorAdd_B"),
    (r"\bwhite\b|^(w|wht|wei(ß|ss))$", "ColorAdd_W"),
    (r"\bamber\b|^(a|amb)$", "ColorAdd_RY"),
    (r"\blime\b|\bmint\b", "ColorAdd_GY"),
    (r"\buv\b|ultra\s*violet|\bviolet\b", "ColorAdd_UV"),
    (r"\byellow\b|^(yel|ylw)$", "ColorSub_Y"),
    (r"\b(haze|fog|smoke|output|pump)\b", "Haze1"),
    (r"\bfans?\s*(mode|control)", "FanMode"),
    (r"\bfans?\b", "Fan1"),
    (r"macro|\bfx\b|program\w*|effect\w*|auto\w*|show|chase|sound|pattern|^mode$|\bmode\b(?!.*\b(select|control))", "Effects1"),
    (r"^(all (lamps?|bulbs?)|(lamps?|bulbs?) ?#?\d+([+&/,]\d+)*)( 0 ?- ?100 ?%)?$", "Dimmer"),
    (r"control|reset|special|function|lamp|service|setting|reserved|not used|unused|no function|display|power", "Control1"),
)  # fmt: skip
TABLE = tuple((re.compile(pattern, re.IGNORECASE), attribute) for pattern, attribute in _TABLE)
SIDES = {"top": "1", "right": "2", "bottom": "3", "left": "4"}
_CELL = re.compile(r"(?i)\b(?:pixel|cell|led|zone|segment|section|ring|head|arm|px|array|group|unit|eye|tube|dot|point|part|bar|p|z)\s*#?(\d{1,3})\b|^(?:r|g|b|w|a|red|green|blue|white|amber|dimmer|uv|lime)\s*#?(\d{1,3})\b|\b(?:red|green|blue|white|amber|uv|lime|dimmer|cyan|magenta|yellow)\s+(\d{1,3})$")  # fmt: skip


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
        plain = re.sub(
            r"(?i)\b(pixel|cell|led|zone|segment|section|arm|px|array|group|unit|eye|tube|dot|point|part|bar|p|z)\b",
            " ",
            plain,
        ).strip(" -:,/")
    for pattern, attribute in TABLE:
        found = pattern.search(plain)
        if found is None:
            continue
        if attribute == "?":
            break
        if attribute == "+":
            return replace(attribute_of(found["c"] or found["d"] or found["e"]), fine=level, cell=cell)
        if not attribute:
            side = SIDES[found[1].lower()]
            turn = re.search(r"(?i)\b(rot\w*|swivel|angle|turn\w*)\b", plain)
            return Named(f"Blade{side}{'Rot' if turn else 'A'}", level, cell)
        groups = found.groupdict()
        n = (groups.get("n") or "").lower()
        ab = (groups.get("ab") or "a").upper()
        return Named(attribute.format(n=SIDES.get(n, n), ab=ab), level, cell)
    return Named("NoFeature", level, cell, known=False)


_SPOKEN: tuple[tuple[str, str], ...] = (
    (r"\b(strob\w*|closed?|shutter|open|puls\w*)\b", "Shutter1"),
    (r"\bcolou?r (macros?|presets?|chang\w*|fad\w*)\b", "ColorMacro1"),
    (r"\bgobos?\b|\bpattern \d", "Gobo1"),
    (r"\bprism|\bfacet", "Prism1"),
    (r"\b(red|orange|amber|yellow|green|cyan|blue|magenta|pink|violet|purple|cto|ctb|colou?r \d+)\b", "Color1"),
    (r"\b(reset|lamp (on|off)|fans?|display)\b", "Control1"),
    (r"\b(program|auto|sound|macro|show|chase|preset|manual|jump|colou?r (chang|fad|jump)\w*)\b", "Effects1"),
)  # fmt: skip


def guessed(said: Sequence[str]) -> Named | None:
    """What a channel without a name of its own does, by the words of its ranges; None where they do not tell."""
    if not said:
        return None
    if len(said) == 1:
        named = attribute_of(re.sub(r"^[\d\s.:-]*", "", said[0]) or said[0])
        return named if named.known and not named.attribute.startswith("Control") else None
    counts = [
        (sum(re.search(pattern, one, re.IGNORECASE) is not None for one in said), attribute)
        for pattern, attribute in _SPOKEN
    ]
    best = max(counts, key=lambda one: one[0])
    return Named(best[1]) if best[0] >= 0.5 * len(said) else None
