"""What a look is: physical values, not DMX, so that they outlive patch and mode."""

from __future__ import annotations

from dataclasses import dataclass, field

from zarfwright.core.looks.said import Said
from zarfwright.core.space import Vec

Place = tuple[float, float, float, float]
"""Of a carrier: its pivot in metres, and its turn in degrees."""


@dataclass(frozen=True)
class Look:
    """Physical values of features by fixture, over those of the looks that it is made of."""

    name: str
    number: float
    values: Said
    note: str = ""
    carriers: dict[str, Place] = field(default_factory=dict)
    """Where carriers are."""
    exposure_ev: float | None = None
    """The eye's exposure that suits it; None: unknown."""
    haze_per_m: float | None = None
    """How much haze there is in it; None: as the show has it."""
    house_light_lx: float | None = None
    """How bright the house lights are; None: as the show has them."""
    parts: tuple[str, ...] = ()
    """The looks that it is made of, the later ones over the earlier; its own values lie over all of them."""
    links: dict[str, tuple[str, ...]] = field(default_factory=dict)
    """The fixtures that have their values of a palette, or look at a focus point, by the id of that: they follow it."""
    offsets: dict[str, Vec] = field(default_factory=dict)
    """How far beside the focus point that they are linked to fixtures look, metres in the show's frame."""
    viewpoint: str | None = None
    """The viewpoint that its picture is taken from; None: from the house."""
    whole: bool = True
    """Whether it was kept of all that there is: then it should say something of what is hung later, too."""
    source: str = ""
    """Where it was kept from, and when, where a console had a part in it."""


def number_text(number: float) -> str:
    """The number as people write it: 4, 4.5."""
    return f"{number:g}"


UNNAMED = "Unnamed"
"""What a look is called that nobody has named: its number tells it from others, also once it has another."""


def called(look: Look) -> str:
    """Number and name, as sentences have it."""
    return f"look {number_text(look.number)}, {look.name}"


def at_start(look: Look) -> str:
    """The same at the start of a sentence."""
    return f"Look {number_text(look.number)}, {look.name}"
