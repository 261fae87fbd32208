"""What labels say and how they are built up: fields in their shapes, one below the other; lists for those in line."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from zarfwright.core.patch import Place
from zarfwright.core.rig.things import Fixture, LabelStyle
from zarfwright.core.sheet.frames import Frame
from zarfwright.core.sheet.marks import Box, Line, Mark, Words
from zarfwright.core.sheet.marks import Circle as CircleMark
from zarfwright.core.sheet.pens import CIRCLE_MM, NUMBER_MM, SMALL_MM, UNIT_MM, width_of
from zarfwright.core.sheet.scope import Hung
from zarfwright.core.sheet.sheet import View
from zarfwright.core.show import Show
from zarfwright.core.site.things import Truss
from zarfwright.core.units import format_length

SIZES = {"number": NUMBER_MM, "unit": UNIT_MM}
PLAIN = LabelStyle("", (("number", "circle"), ("unit", "plain")), ("plan",))
SMALL_FROM = 100
"""At this scale and smaller, labels say less."""
ROW_GAP, PAD = 0.5, 0.6
ADDRESSED_MOST = 300
"""In elevations of more fixtures than that, addresses are left to the lists."""


@dataclass(frozen=True)
class Row:
    """A row of a label: its text, its shape, its height in capitals, and the room that it takes."""

    text: str
    shape: str
    size: float
    width: float
    height: float


@dataclass(frozen=True)
class Block:
    """A label: its rows, one below the other, and the fixture of each; a list has a box about it."""

    ids: tuple[str, ...]
    rows: tuple[Row, ...]
    listed: bool = False

    @property
    def width(self) -> float:
        return max(row.width for row in self.rows) + (2 * PAD if self.listed else 0.0)

    @property
    def height(self) -> float:
        return sum(row.height for row in self.rows) + ROW_GAP * (len(self.rows) - 1) + (2 * PAD if self.listed else 0.0)


def said(show: Show, fixture: Fixture, field: str) -> str:
    """What a field of a fixture says on a label; empty: nothing."""
    if field == "address":
        patched = fixture.universe is not None and fixture.address is not None
        return str(Place(fixture.universe or 1, fixture.address or 1)) if patched else ""
    if field == "type":
        return show.types[fixture.type].name if fixture.type in show.types else ""
    if field == "colour":
        return fixture.gel.name if fixture.gel else ""
    if field == "position":
        return show.items[fixture.hang.structure].name if fixture.hang and fixture.hang.structure in show.items else ""
    if field == "along":
        return format_length(fixture.hang.along_m, show.settings.system) if fixture.hang else ""
    value = getattr(fixture, field, None)
    return "" if value is None else str(value)


def style_for(show: Show, view: View) -> LabelStyle:
    """How a view labels: by its own style, by the first one made for such views, else by numbers and units."""
    if view.style is not None and view.style in show.items:
        return show.body(view.style, LabelStyle)
    look = {"below": "plan", "square": "front"}.get(view.look, view.look)
    return next((style for _, style in show.bodies(LabelStyle) if look in style.views), PLAIN)


def _row(text: str, shape: str, size: float) -> Row:
    wide = width_of(text, size)
    if shape == "circle":
        across = max(CIRCLE_MM, 2 * math.hypot(wide / 2, size / 2) + 0.4)
        return Row(text, shape, size, across, across)
    if shape in ("hexagon", "lozenge"):
        return Row(text, shape, size, wide + 2 * size, size + 1.4)
    if shape in ("box", "bar"):
        return Row(text, shape, size, wide + 1.2, size + 1.2)
    return Row(text, shape, size, wide, size)


def fields_of(style: LabelStyle, frame: Frame, scale: int, count: int) -> list[tuple[str, str]]:
    """The fields and shapes that a view of this scale has room for."""
    leave_out = set()
    if scale >= SMALL_FROM:
        leave_out |= {"along"} | (set() if frame.flat else {"address"})
    if not frame.flat and count > ADDRESSED_MOST:
        leave_out.add("address")
    return [(name, shape) for name, shape in style.parts if name not in leave_out]


def block_of(show: Show, style: LabelStyle, fields: Sequence[tuple[str, str]], group: Sequence[Hung]) -> Block | None:
    """The label of fixtures that share one; None where there is nothing to say of them."""
    if len(group) == 1:
        one = group[0]
        if style.types and one.fixture.type not in style.types:
            return None
        rows = [
            _row(text, shape, SIZES.get(name, SMALL_MM))
            for name, shape in fields
            for text in (said(show, one.fixture, name),)
            if text
        ]
        return Block((one.id,), tuple(rows)) if rows else None
    rows, ids = [], []
    for one in group:
        words = [text for name, _ in fields for text in (said(show, one.fixture, name),) if text]
        if words:
            rows.append(_row("  ".join(words), "plain", SMALL_MM))
            ids.append(one.id)
    return Block(tuple(ids), tuple(rows), True) if rows else None


def _shape(row: Row, x: float, y: float, part: str) -> list[Mark]:
    """The outline of a row whose middle is at x, y."""
    w, h = row.width / 2, row.height / 2
    if row.shape == "circle":
        return [CircleMark("label", (x, y), w, "paper", part)]
    if row.shape == "box":
        return [Box(x - w, y - h, x + w, y + h).outline("label", part, "paper")]
    if row.shape == "bar":
        return [Line("label", ((x - w, y - h), (x + w, y - h)), part=part)]
    if row.shape == "hexagon":
        corners = (
            (x - w, y),
            (x - w + h, y + h),
            (x + w - h, y + h),
            (x + w, y),
            (x + w - h, y - h),
            (x - w + h, y - h),
        )
        return [Line("label", corners, True, "paper", part)]
    if row.shape == "lozenge":
        return [Line("label", ((x - w, y), (x, y + h * 1.3), (x + w, y), (x, y - h * 1.3)), True, "paper", part)]
    return []


def block_marks(block: Block, box: Box, part: str) -> list[Mark]:
    """A label in its box: paper under it, its shapes, its words."""
    under = box.outline("label" if block.listed else "", part, "paper")
    marks: list[Mark] = [under]
    x = box.middle[0]
    top = box.y1 - (PAD if block.listed else 0.0)
    single = len(block.ids) == 1
    for k, row in enumerate(block.rows):
        middle = top - row.height / 2
        marks += _shape(row, x, middle, part)
        of = block.ids[0 if single else k]
        marks.append(Words("label", row.text, (x, middle - row.size / 2), row.size, "middle", part=part, of=of))
        top -= row.height + ROW_GAP
    return marks


def structure_side(show: Show, one: Hung, frame: Frame) -> float:
    """The way in which a label is liked best: away from the structure that the fixture hangs on, radians; downwards
    where it hangs on none, or one looks along it."""
    hang = one.fixture.hang
    body = show.items[hang.structure].body if hang and hang.structure in show.items else None
    if not isinstance(body, Truss) or not frame.flat:
        return -math.pi / 2
    away = one.at - frame.of(_nearest_axis(body, one))
    if math.hypot(float(away[0]), float(away[1])) < 0.02:
        return -math.pi / 2
    turn = math.atan2(float(away[1]), float(away[0]))
    # Of what hangs on both sides of a truss, each to its own: in quarters, so that a row of labels is a row.
    return round(turn / (math.pi / 2)) * math.pi / 2


def _nearest_axis(body: Truss, one: Hung) -> tuple[float, float, float]:
    """The place of a structure's axis that is nearest to a clamp, in plan."""
    x, y, _ = one.clamp.position
    px, py, pz = body.position
    if body.form == "arc":
        far = math.hypot(x - px, y - py) or 1.0
        share = body.diameter_m / 2 / far
        return (px + (x - px) * share, py + (y - py) * share, pz)
    if body.form == "upright":
        return (px, py, pz)
    cos, sin = math.cos(math.radians(body.turn_deg)), math.sin(math.radians(body.turn_deg))
    along = (x - px) * cos + (y - py) * sin
    return (px + along * cos, py + along * sin, pz)
