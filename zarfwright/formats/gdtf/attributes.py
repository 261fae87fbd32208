"""What the standard says of attributes (DIN SPEC 15800, annex A): feature, unit, activation group, a short name.

The table itself is pygdtf's, which has it from the standard; it is imported when first needed.
"""

from __future__ import annotations

import re
from functools import cache
from typing import Any, NamedTuple


class Attribute(NamedTuple):
    """`feature` is group.feature; `unit` is GDTF's PhysicalUnit."""

    pretty: str
    feature: str
    unit: str
    group: str = ""


UNLISTED = Attribute("", "Control.Control", "None")
_NUMBER = re.compile(r"\d+")


@cache
def _table() -> dict[str, dict[str, Any]]:
    from pygdtf.utils.attribute_definitions_data import ANNEX_ATTRIBUTE_DEFINITIONS

    return {entry["name"]: entry for entry in ANNEX_ATTRIBUTE_DEFINITIONS["attributes"]}


def _pattern(name: str) -> tuple[str, list[str]]:
    """`Gobo1Pos` as `Gobo(n)Pos` with its numbers; `ColorAdd_R` as it is."""
    letters = iter("nm")
    return _NUMBER.sub(lambda _: f"({next(letters, 'm')})", name), _NUMBER.findall(name)


@cache
def attribute(name: str) -> Attribute:
    """The standard's data of an attribute; a neutral entry for names that are the maker's own."""
    entry = _table().get(name)
    numbers: list[str] = []
    if entry is None:
        pattern, numbers = _pattern(name)
        entry = _table().get(pattern)
    if entry is None:
        return UNLISTED._replace(pretty=name)

    def numbered(text: str) -> str:
        for letter, number in zip("nm", numbers, strict=False):
            text = text.replace(f"({letter})", number)
        return text

    pretty = numbered(entry["pretty"] or name)
    if numbers and pretty == entry["pretty"]:
        pretty = f"{pretty} {numbers[0]}"
    unit = entry["physical_unit"] or "None"
    return Attribute(pretty, entry["feature"], unit, numbered(entry["activation_group"] or ""))


def is_standard(name: str) -> bool:
    """Whether the standard's table has an attribute."""
    return name in _table() or _pattern(name)[0] in _table()


def all_attributes() -> list[str]:
    """The standard's attributes in its order, those with a number as their first two."""
    names: list[str] = []
    for name in _table():
        names += [name.replace("(n)", str(n)).replace("(m)", "1") for n in (1, 2)] if "(n)" in name else [name]
    return names
