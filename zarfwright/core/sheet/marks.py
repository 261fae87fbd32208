"""What a sheet is made of: lines, circles and words in millimetres from its lower left corner, y up."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from zarfwright.core.space import Vec

Point = tuple[float, float]
Anchor = Literal["start", "middle", "end"]


@dataclass(frozen=True)
class Line:
    """Straight pieces through points, drawn with a pen (pens.py), filled where it has a paint (pens.py)."""

    pen: str
    points: tuple[Point, ...]
    closed: bool = False
    paint: str = ""
    part: str = ""
    """What of the sheet it belongs to, to be moved with it: `view/KEY`, `label/KEY/ID`, `title` ..."""


@dataclass(frozen=True)
class Circle:
    """A circle."""

    pen: str
    at: Point
    radius_mm: float
    paint: str = ""
    part: str = ""


@dataclass(frozen=True)
class Words:
    """One line of text. `at` is on its base line; `size_mm` is the height of its capitals and figures."""

    pen: str
    text: str
    at: Point
    size_mm: float
    anchor: Anchor = "start"
    turn_deg: float = 0.0
    bold: bool = False
    part: str = ""
    of: str = ""
    """The id of the thing that it names."""


Mark = Line | Circle | Words


@dataclass(frozen=True)
class Box:
    """A rectangle on the sheet, edges along it."""

    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def width(self) -> float:
        return self.x1 - self.x0

    @property
    def height(self) -> float:
        return self.y1 - self.y0

    @property
    def middle(self) -> Point:
        return ((self.x0 + self.x1) / 2, (self.y0 + self.y1) / 2)

    def meets(self, other: Box, gap: float = 0.0) -> bool:
        """Whether two lie over each other, or nearer than `gap`."""
        return (self.x0 < other.x1 + gap and other.x0 < self.x1 + gap
                and self.y0 < other.y1 + gap and other.y0 < self.y1 + gap)  # fmt: skip

    def holds(self, other: Box, slack: float = 1e-6) -> bool:
        """Whether the other is inside of it."""
        return (other.x0 >= self.x0 - slack and other.y0 >= self.y0 - slack
                and other.x1 <= self.x1 + slack and other.y1 <= self.y1 + slack)  # fmt: skip

    def grown(self, by: float) -> Box:
        return Box(self.x0 - by, self.y0 - by, self.x1 + by, self.y1 + by)

    def outline(self, pen: str, part: str = "", paint: str = "") -> Line:
        corners = ((self.x0, self.y0), (self.x1, self.y0), (self.x1, self.y1), (self.x0, self.y1))
        return Line(pen, corners, True, paint, part)


@dataclass(frozen=True)
class Seen:
    """What became of one view: its scale, where it lies, whose labels found no room, and which symbols lie over each
    other."""

    key: str
    name: str
    scale: int
    box: Box
    fixtures: tuple[str, ...]
    not_placed: tuple[str, ...] = ()
    over: tuple[tuple[str, str], ...] = ()
    labels: dict[str, Box] = field(default_factory=dict)
    """Where the labels are, by fixture; those that share one have the same."""
    middles: dict[str, Point] = field(default_factory=dict)
    """The middles of symbols, by fixture."""
    at: Point = (0.0, 0.0)
    """The middle of its picture: where it is put."""
    middle: Point = (0.0, 0.0)
    """What place of the view's plane that is, metres."""
    axes: tuple[Vec, Vec] = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
    """To the right on paper, and up, in the show's frame."""
    outside: bool = False
    """Whether it reaches over the edge of the sheet's room."""


@dataclass(frozen=True)
class Drawing:
    """A drawn sheet: what is on it, in the order in which it is drawn."""

    number: str
    name: str
    paper: str
    width_mm: float
    height_mm: float
    marks: tuple[Mark, ...]
    views: tuple[Seen, ...] = ()

    @property
    def title(self) -> str:
        return f"{self.number} {self.name}".strip()

    @property
    def scale(self) -> int:
        """The scale of its first view; 0 where it has none."""
        return self.views[0].scale if self.views else 0

    @property
    def labels_not_placed(self) -> int:
        return sum(len(view.not_placed) for view in self.views)
