"""Ranges of a text that came to nothing: whatever way a text was read, what stands in it and is in no table is told."""

from __future__ import annotations

import re
from collections.abc import Iterable

from zarfwright.core.types.manual.numbers import DECIMAL, LINE_MOST, Found, cleaned, found_in

Ends = tuple[float, float]
_BEFORE = re.compile(r"^[\s|•*-]*$")


def missed(text: str, taken: set[Ends], slots: Iterable[range], told: set[int]) -> list[tuple[int, str, str]]:
    """Lines with ranges that nothing was made of: number, text and why.

    `taken`: first and last values of all ranges that were made; `slots`: those of each mode; `told`: lines that are told
    already. A range counts where one in its line follows the other, or where it begins a line that has no other.
    """
    made = []
    for number, raw in enumerate(text.splitlines(), 1):
        if number in told or len(raw) > LINE_MOST:
            continue
        # `< 240` is a range from where the one before ends.
        line = cleaned(raw.split("<")[0])
        found = [one for one in found_in(line) if one.base == DECIMAL and one.paired and one.low < one.high <= 255]
        lost = [one for one in found if (one.low, one.high) not in taken and _counts(one, found, line, taken, slots)]
        if lost:
            said = " and ".join(f"{one.low:.0f}-{one.high:.0f}" for one in lost)
            made.append((number, raw.strip()[:120], f"{said} in it came into no table"))
    return made


def _counts(one: Found, found: list[Found], line: str, taken: set[Ends], slots: Iterable[range]) -> bool:
    if any(int(one.low) in own and int(one.high) in own for own in slots):
        return False
    goes_on = any(one.low in (other.high + 1, other.high) or other.low == one.high + 1 for other in found)
    alone = not any((other.low, other.high) in taken for other in found)
    begins = _BEFORE.match(line[: one.start]) is not None and re.search("[A-Za-z]{2}", line[one.end :]) is not None
    return goes_on or (alone and begins)
