"""Pens by what a line means: how wide, how broken, how dark, and the layer of the file that it lies on."""

from __future__ import annotations

from dataclasses import dataclass

DOTTED, CENTRE, OVERHEAD = (0.3, 0.9), (7.0, 1.2, 1.2, 1.2), (4.0, 1.6)


@dataclass(frozen=True)
class Pen:
    """A pen: width in millimetres, lengths of dash and gap, grey from 0 (black) to 1 (paper)."""

    width_mm: float
    layer: str
    dash: tuple[float, ...] = ()
    grey: float = 0.0


PENS: dict[str, Pen] = {
    "border": Pen(0.70, "Border"),
    "title": Pen(0.25, "Border"),
    "words": Pen(0.18, "Border"),
    "cut": Pen(0.50, "Cut faces"),
    "hatch": Pen(0.13, "Cut faces", grey=0.25),
    "silhouette": Pen(0.25, "Set and venue", grey=0.2),
    "crease": Pen(0.13, "Set and venue", grey=0.35),
    "overhead": Pen(0.18, "Overhead", OVERHEAD, 0.35),
    "crowd": Pen(0.10, "Audience", grey=0.6),
    "chord": Pen(0.25, "Structures"),
    "lattice": Pen(0.13, "Structures", grey=0.3),
    "pipe": Pen(0.35, "Structures"),
    "name": Pen(0.18, "Structures"),
    "head": Pen(0.35, "Fixtures"),
    "detail": Pen(0.18, "Fixtures"),
    "tick": Pen(0.25, "Fixtures"),
    "label": Pen(0.18, "Labels"),
    "leader": Pen(0.13, "Labels"),
    "dimension": Pen(0.13, "Dimensions"),
    "datum": Pen(0.18, "Datum lines", CENTRE, 0.25),
    "frame": Pen(0.13, "Datum lines", DOTTED, 0.5),
    "note": Pen(0.25, "Notes"),
    "cloud": Pen(0.50, "Revisions"),
    "legend": Pen(0.18, "Legend"),
}
LAYERS = tuple(dict.fromkeys(pen.layer for pen in PENS.values()))
PAINTS: dict[str, float] = {"paper": 1.0, "black": 0.0, "solid": 0.25}
"""What areas are filled with, as grey; `paper` is what keeps words free of the lines under them."""
FACE = 1493 / 2048
"""How high capitals and figures of the shipped face are, as a share of its size."""
WIDE, WIDE_BOLD = 0.80, 0.90
"""How wide a letter is at most on the average, as a share of the height of capitals: where nobody measures."""

NUMBER_MM, SMALL_MM, UNIT_MM, NAME_MM, CIRCLE_MM = 1.9, 1.5, 1.6, 2.5, 5.0


def width_of(text: str, size_mm: float, bold: bool = False) -> float:
    """How wide a line of words is, at the most, millimetres: by classes of letters of the shipped face.

    Core has no fonts; `tests/formats` holds this against the face itself.
    """
    narrow = sum(sign in "iljtfrI.,:;'|()[] !-·" for sign in text)
    broad = sum(sign in "MWmw@%—½¼¾" for sign in text)
    share = (len(text) - narrow - broad) * WIDE + narrow * 0.60 + broad * 1.26
    return share * size_mm * (WIDE_BOLD / WIDE if bold else 1.0)
