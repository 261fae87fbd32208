"""What the heads of columns say, and what cells may hold: slots, ranges, percent, hex."""

from __future__ import annotations

import re
from collections.abc import Sequence

from zarfwright.core.types.manual.cells import blank

SLOT, LOW, HIGH, VALUE, HEX, PERCENT, NAME, WORDS, HOME, MODE, CELL, OTHER = (
    "slot", "low", "high", "value", "hex", "percent", "name", "words", "home", "mode", "cell", "other",
)  # fmt: skip

_HEADS: tuple[tuple[str, str], ...] = (
    (HOME, r"def(ault)?\.?( value)?|home|init\w*|preset value"),
    (MODE, r"(dmx ?)?modes?|personality|pers\.?"),
    (OTHER, r"type( of control)?|control type|bits?|snap( ?/ ?fade)?|fade( ?/ ?snap)?|fade|htp|ltp|htp ?/ ?ltp|priority|units?|resolution|control type"),
    (HEX, r"hex\w*\.?( value)?|dmx hex"),
    (PERCENT, r"%|per ?cent\w*|pct\.?|value ?\(?%\)?|range ?\(?%\)?|% ?value|in %"),
    (LOW, r"from|min\.?|minimum|start|low|begin|first|dmx from|min value|lower|value from|dmx min"),
    (HIGH, r"to|max\.?|maximum|end|high|until|last|till|dmx to|max value|upper|value to|dmx max"),
    (VALUE, r"(dmx ?-?)?values?|(dmx |value )?range|dec(imal)?\w*\.?( value)?|dmx ?data|levels?|dmx ?\(?dec\w*\.?\)?|values? ?\(?dec\w*\.?\)?|setting values?|dmx ?values? range|data"),
    (NAME, r"functions?( ?/ ?(channel|parameter|slot)s?)?|use|used for|purpose|parameters?|features?|attributes?|names?|channel (function|name)|controls?|fixture function|property|capability|assignments?|what"),
    (WORDS, r"descriptions?|effects?|meanings?|details?|actions?|remarks?|notes?|what it does|comment\w*|results?|settings?|content|mode of operation|sub ?-?functions?|function details?"),
    (SLOT, r"(dmx ?-?)?ch(an(n?el)?)?s?\.?( ?(no\.?|number|#|nr\.?))?|slots?|no\.?|#|nr\.?|addr(ess)?|offset|dmx|dmx ?slots?|number|byte|channel ?no\.?"),
)  # fmt: skip
HEADS = tuple((role, re.compile(rf"(?:{pattern})", re.IGNORECASE)) for role, pattern in _HEADS)
MODE_HEAD = re.compile(
    r"(?i)\b(mode|pers\w*|basic|standard|extended|std|ext|simple|full|compact|adv\w*|normal|enhanced|reduced|small|large|short|long|\d+ ?-?(ch|bit|channels?))\b|^[a-f]$|^\d{1,3} ?(ch\w*)?$|^m\d$"
)
SLOTS_CELL = re.compile(
    r"(?i)^(?:ch(?:annel)?s?\.?|slots?|dmx)?\s*#?(\d{1,3})(?:\s*([+/,&;]|-|\.\.+|and|to)\s*(\d{1,3}))?(?:\s*[+/,&;]\s*(\d{1,3}))?(?:\s*[+/,&;]\s*(\d{1,3}))?\s*[.):]?$"
)
RANGE_CELL = re.compile(r"^[(\[]?\d{1,5}\s*(?:-|\.\.+|>|to|bis|thru|through|÷)\s*\d{1,5}[)\]]?$", re.IGNORECASE)
INT_CELL = re.compile(r"^\d{1,5}$")
PERCENT_CELL = re.compile(r"^\d{1,3}(?:[.,]\d+)?\s*%?(?:\s*(?:-|\.\.+|to|>)\s*\d{1,3}(?:[.,]\d+)?)?\s*%$|^\d{1,3}%$")
HEX_CELL = re.compile(
    r"^(?:0x|\$|#)?[0-9a-fA-F]{1,4}h?(?:\s*(?:-|\.\.+|to|>)\s*(?:0x|\$|#)?[0-9a-fA-F]{1,4}h?)?$", re.IGNORECASE
)


def head_role(text: str) -> str | None:
    """What a column under this head holds."""
    plain = re.sub(r"\s+", " ", text).strip(" :.*").lower()
    plain = "%" if text.strip() == "%" else plain
    return next((role for role, pattern in HEADS if pattern.fullmatch(plain)), None)


COUNTED = re.compile(
    r"(?i)^(pixel|cell|led|zone|segment|section|ring|head|px|array|group|unit|eye|tube|arm|bar|lamp|beam)s?\s*(no\.?|nr\.?|#)?$"
)
"""A column of numbers under this says which of several a channel is of."""
CELL_HEAD = re.compile(
    r"(?i)^(pixel|cell|led|zone|segment|section|ring|head|px|array|group|unit|eye|tube|dot|part|bar|lamp)\s*#?\d{1,3}$"
)


def is_head(cells: Sequence[str]) -> bool:
    """Whether a line is the heads of columns: most of what stands in it are words that heads have, and no values."""
    said = [cell for cell in cells if not blank(cell)]
    if len(said) < 2:
        return False
    roles = [cell for cell in said if head_role(cell) is not None]
    cells = [cell for cell in said if CELL_HEAD.match(cell) or COUNTED.match(cell)]
    known = [cell for cell in said if head_role(cell) or MODE_HEAD.search(cell) or cell in cells]
    if len(roles) < 2 and any(INT_CELL.match(cell) for cell in said):
        return False
    if len(roles) < 2 and not (roles and (len(said) <= 3 or len(known) == len(said))):
        return False
    return (
        len(known) >= 0.6 * len(said)
        and not all(INT_CELL.match(cell) for cell in said)
        and not any(RANGE_CELL.match(cell) for cell in said)
    )


def only_modes(cells: Sequence[str]) -> bool:
    """Whether a line is the names of modes above their columns."""
    said = [cell for cell in cells if not blank(cell)]
    return len(said) >= 2 and all(MODE_HEAD.search(cell) and not INT_CELL.match(cell) for cell in said)


def slots_in(cell: str) -> list[int] | None:
    """The slots that a cell names: `3`, `1/2`, `3-5`, `Ch 7`, `1+2+3`; None where it names none."""
    match = SLOTS_CELL.match(cell.strip())
    if match is None:
        return None
    first, joint = int(match[1]), match[2]
    if match[3] is None:
        return [first]
    second = int(match[3])
    if joint.strip().lower() in ("-", "to") or joint.startswith(".."):
        return list(range(first, second + 1)) if first < second <= 512 else None
    found = [first, second, *(int(match[i]) for i in (4, 5) if match[i])]
    return found if found == sorted(set(found)) else None
