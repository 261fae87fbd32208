"""The lamp that is put into a conventional, where it is not the one of its type."""

from __future__ import annotations

import re
from dataclasses import dataclass

from zarfwright.core.errors import JobError
from zarfwright.core.types.model import BeamSource

_PART = re.compile(r"(?P<number>\d+(?:[.,]\d+)?)\s*(?P<unit>klm|lm|kw|w|k)\b", re.IGNORECASE)
POWER_W, FLUX_LM, KELVIN = (1.0, 20_000.0), (10.0, 1_000_000.0), (1500.0, 12_000.0)
"""What lamps there are."""


@dataclass(frozen=True)
class Lamp:
    """What is said of it; None: as its type has it. With power alone the flux is in proportion to it."""

    power_w: float | None = None
    flux_lm: float | None = None
    kelvin: float | None = None

    def flux_in(self, beam: BeamSource) -> float:
        """Its flux in lumens in the place of a type's lamp."""
        if self.flux_lm is not None:
            return self.flux_lm
        if self.power_w is not None and beam.power_w > 0:
            return beam.flux_lm * self.power_w / beam.power_w
        return beam.flux_lm


def parse_lamp(text: str) -> Lamp | None:
    """Read `575 W 14000 lm 3050 K`, any of the three; nothing typed is the type's own lamp. Raises JobError."""
    text = text.strip()
    if not text:
        return None
    said: dict[str, float] = {}
    for part in _PART.finditer(text):
        number, unit = float(part["number"].replace(",", ".")), part["unit"].lower()
        key = {"w": "power_w", "kw": "power_w", "k": "kelvin"}.get(unit, "flux_lm")
        said[key] = number * (1000.0 if unit in ("kw", "klm") else 1.0)
    if not said or _PART.sub("", text).strip(" ,;/"):
        how = "Type its power, flux and colour, or one of them: “575 W 14000 lm 3050 K”."
        raise JobError(f"“{text}” is no lamp. {how}", "lamp")
    ranges = {"power_w": (POWER_W, "W"), "flux_lm": (FLUX_LM, "lm"), "kelvin": (KELVIN, "K")}
    for key, value in said.items():
        (least, most), unit = ranges[key]
        if not least <= value <= most:
            raise JobError(f"No lamp has {value:g} {unit}: from {least:g} to {most:g} {unit} there are.", "lamp")
    return Lamp(**said)
