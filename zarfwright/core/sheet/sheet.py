"""What a show keeps of a sheet: its paper, its views with what was arranged in them by hand, and what is written on it.

Places on a sheet are millimetres from its lower left corner; places in a view are metres in its own plane (frames.py).
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from zarfwright.core.space import Vec

Look = Literal["plan", "below", "front", "back", "left", "right", "section", "square"]
LOOKS: dict[Look, str] = {
    "plan": "Plan",
    "below": "From below",
    "front": "From the house",
    "back": "From upstage",
    "left": "From stage left",
    "right": "From stage right",
    "section": "Section",
    "square": "Square to it",
}
DimensionKind = Literal["rail", "centre", "trim", "free"]


@dataclass(frozen=True)
class Dimension:
    """A dimension: along a structure from its start to each clamp (`rail`), from the centre line to its ends
    (`centre`), the height of its ends (`trim`), or between two places of the show (`free`)."""

    key: str
    kind: DimensionKind
    structure: str = ""
    start: Vec | None = None
    end: Vec | None = None
    off_mm: float = 0.0
    """How much further away from what it measures than it is by itself; negative: nearer, or on the other side."""


@dataclass(frozen=True)
class View:
    """One picture on a sheet."""

    key: str
    look: Look = "plan"
    name: str = ""
    of: tuple[str, ...] = ()
    """Structures and carriers that alone are shown, with all that is on them; empty: everything."""
    at: tuple[float, float] | None = None
    """Where its middle is on the sheet; None: where there is room."""
    scale: int = 0
    """1 to so many; 0: the largest standard one that fits."""
    region: tuple[float, float, float, float] | None = None
    """What of its plane is shown: left, low, right, high; None: the rig, with the set about it."""
    cut_m: float | None = None
    """Where it cuts: a height in plans, a place across or along otherwise; None: as is usual."""
    style: str | None = None
    """The label style; None: the first one for such views, else numbers and units."""
    site: bool = True
    people: bool = True
    rig: bool = True
    labels: dict[str, tuple[float, float]] = field(default_factory=dict)
    """Labels put by hand, by fixture: the middle of the label from the fixture's own place, millimetres."""
    dimensions: tuple[Dimension, ...] = ()


@dataclass(frozen=True)
class Written:
    """Words on a sheet, lines apart."""

    key: str
    text: str
    at: tuple[float, float]
    size_mm: float = 2.5


@dataclass(frozen=True)
class Sheet:
    """A sheet."""

    name: str
    number: str = ""
    paper: str = "A1"
    upright: bool = False
    views: tuple[View, ...] = ()
    words: tuple[Written, ...] = ()
    drawn_by: str = ""
    note: str = ""
    legend: bool = True
    key_plan: bool = False
    """Whether a small plan shows where on the rig its views are."""
