"""Gels: the sheet of colour before one fixture's lens. What a fixture has in its frame is the artist's, not DMX."""

from __future__ import annotations

import re
from dataclasses import dataclass

from zarfwright.core.errors import JobError
from zarfwright.core.types.model import Chromaticity
from zarfwright.core.types.shop.wheels import named_colour

_NUMBERS = re.compile(
    r"^(?P<name>.*?)[\s,;:]*(?<![\d.])(?P<x>0?\.\d+)[\s,;/]+(?P<y>0?\.\d+)[\s,;/]+(?P<through>\d+(?:\.\d+)?)\s*%?$"
)
NAME_MAX = 60


@dataclass(frozen=True)
class Gel:
    """What a gel is called, and the light that it lets through: CIE 1931 x, y under its source, and percent (Y)."""

    name: str
    x: float
    y: float
    luminance: float
    own: bool = False
    """Whether the numbers were given; else they are what the name stands for."""

    @property
    def colour(self) -> Chromaticity:
        """As the filters of types are kept."""
        return Chromaticity(self.x, self.y, self.luminance)


def parse_gel(text: str) -> Gel | None:
    """Read plain words (`pale amber`), or a name with numbers (`Quay 0.40 0.40 78`); nothing typed is no gel.

    Raises JobError when the words name no colour, or the numbers none that a filter can have.
    """
    text = " ".join(text.split())[: NAME_MAX + 40]
    if not text:
        return None
    numbers = _NUMBERS.match(text)
    if numbers is None:
        colour = named_colour(text)
        if colour is None:
            raise JobError(
                f"“{text}” names no colour. Type plain words such as “pale amber”, or a name with x, y and how many "
                "percent it lets through: “Quay 0.40 0.40 78”.",
                "gel",
            )
        return Gel(text[:NAME_MAX], colour.x, colour.y, colour.luminance)
    x, y, through = (float(numbers[key]) for key in ("x", "y", "through"))
    if not (0 < x < 1 and 0.01 <= y < 1 and x + y <= 1):
        raise JobError(f"No light has x {x:g} and y {y:g}: both are above 0, and together 1 at most.", "gel")
    if not 0 < through <= 100:
        raise JobError(f"A gel lets through more than 0 and up to 100 percent, not {through:g}.", "gel")
    return Gel(numbers["name"].strip()[:NAME_MAX] or "Own", x, y, through, own=True)
