"""Colours by their plain names, and prisms by their number of facets: a start for slots that a manual only names."""

from __future__ import annotations

import math
import re

from zarfwright.core.types.model import Chromaticity, Facet

COLOURS: dict[str, tuple[float, float, float]] = {
    "red": (0.640, 0.335, 18.0), "orange": (0.580, 0.400, 40.0), "amber": (0.540, 0.420, 52.0),
    "yellow": (0.450, 0.490, 75.0), "lime": (0.380, 0.550, 65.0), "green": (0.290, 0.560, 38.0),
    "turquoise": (0.220, 0.400, 48.0), "aqua": (0.220, 0.340, 52.0), "cyan": (0.210, 0.310, 52.0),
    "blue": (0.160, 0.090, 7.0), "indigo": (0.180, 0.080, 5.0), "violet": (0.220, 0.110, 9.0),
    "purple": (0.270, 0.150, 13.0), "lavender": (0.280, 0.240, 36.0), "magenta": (0.370, 0.190, 20.0),
    "pink": (0.400, 0.290, 45.0), "rose": (0.420, 0.300, 42.0), "salmon": (0.430, 0.350, 50.0),
    "peach": (0.400, 0.370, 62.0), "cto": (0.437, 0.404, 68.0), "ctb": (0.270, 0.280, 45.0),
    "minus green": (0.320, 0.290, 60.0), "uv": (0.170, 0.030, 1.5), "congo": (0.190, 0.050, 2.0),
    "fuchsia": (0.430, 0.220, 24.0), "white": (0.3127, 0.3290, 100.0), "mint": (0.260, 0.420, 60.0),
    "straw": (0.400, 0.400, 78.0), "steel": (0.250, 0.280, 50.0), "teal": (0.200, 0.330, 26.0),
}  # fmt: skip
DEPTH = {"dark": 0.5, "deep": 0.5, "light": 1.5, "pale": 1.7, "medium": 0.8}


def _one(words: str) -> Chromaticity | None:
    text = words.lower()
    found = [(text.rfind(name), len(name), name) for name in COLOURS if re.search(rf"\b{name}\b", text)]
    if not found:
        return None
    x, y, luminance = COLOURS[max(found)[2]]
    factor = next((value for word, value in DEPTH.items() if re.search(rf"\b{word}\b", text)), 1.0)
    if factor > 1.0:
        # Paler: half the way to white.
        x, y = (x + 0.3127) / 2, (y + 0.3290) / 2
    return Chromaticity(round(x, 4), round(y, 4), round(min(luminance * factor, 95.0 if luminance < 100 else 100.0), 2))


def named_colour(words: str) -> Chromaticity | None:
    """The colour that plain words name; of two (`red + orange`, half in the beam each) the light of both together."""
    parts = [part for part in re.split(r"\s*(?:\+|/|&|\band\b|-)\s*", words) if part.strip()]
    colours = [colour for part in parts if (colour := _one(part)) is not None]
    if len(parts) == 2 and len(colours) == 2:
        a, b = colours
        # XYZ add: chromaticities weighted by Y/y.
        wa, wb = a.luminance / a.y, b.luminance / b.y
        x, y = (a.x * wa + b.x * wb) / (wa + wb), (a.y * wa + b.y * wb) / (wa + wb)
        return Chromaticity(round(x, 4), round(y, 4), round((a.luminance + b.luminance) / 2, 2))
    return _one(words)


def facets_of(words: str) -> tuple[Facet, ...]:
    """A prism's facets by its name: their number on a ring, or in a row where it says linear. None: no prism."""
    if re.fullmatch(r"(?i)\s*(none|open|no prism|out|off)\s*", words):
        return ()
    number = re.search(r"\d+", words)
    count = min(max(int(number[0]) if number else 3, 2), 16)
    if re.search(r"(?i)\b(linear|row|line)\b", words):
        return tuple(Facet(round((i - (count - 1) / 2) * 0.8, 4), 0.0) for i in range(count))
    turns = [(360.0 * i / count + 180.0) % 360.0 - 180.0 for i in range(count)]
    return tuple(
        Facet(round(0.55 * math.cos(math.radians(a)), 6), round(0.55 * math.sin(math.radians(a)), 6), a) for a in turns
    )
