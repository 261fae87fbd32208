"""What stands under a view: its number and name, its scale with a bar, and what lies to its left and right."""

from __future__ import annotations

from zarfwright.core.sheet.frames import SIDES
from zarfwright.core.sheet.marks import Box, Mark, Point, Words
from zarfwright.core.sheet.paper import scale_text
from zarfwright.core.sheet.pens import NAME_MM, SMALL_MM, width_of
from zarfwright.core.sheet.prepare import Prepared
from zarfwright.core.sheet.sheet import LOOKS, View
from zarfwright.core.show import Show
from zarfwright.core.site.structures import end_trims_m
from zarfwright.core.site.things import Truss
from zarfwright.core.units import format_length

TITLE_MM = 13.5
"""The room under a view for its title."""
BAR_MM = (16.0, 42.0)
SCALE_MM = NAME_MM * 0.8


def title_and_view(ready: Prepared, scale: int) -> tuple[float, float]:
    """How much of the sheet a view takes with its title, millimetres."""
    wide, high = (size * 1000 / scale for size in ready.size_m)
    name = ready.view.name or LOOKS[ready.view.look]
    return max(wide, width_of(name, NAME_MM, True) + 8.0, 60.0), high + TITLE_MM


def view_box(ready: Prepared, scale: int, at: Point) -> Box:
    """Where a view lies on the sheet, the middle of its picture being `at`: what is shown, and its title below."""
    wide, high = title_and_view(ready, scale)
    x, y = at
    top = y + (high - TITLE_MM) / 2
    return Box(x - wide / 2, top - high, x + wide / 2, top)


def picture_box(ready: Prepared, scale: int, at: Point) -> Box:
    """The same without the title: what of the show is shown."""
    wide, high = (size * 1000 / scale for size in ready.size_m)
    x, y = at
    return Box(x - wide / 2, y - high / 2, x + wide / 2, y + high / 2)


def trim_text(show: Show, body: Truss) -> str:
    """A structure's name with its trim, as crews read it: of a boom its name alone."""
    if body.form == "upright":
        return body.name
    system = show.settings.system
    low, high = end_trims_m(body)
    trims = [format_length(trim, system) for trim in dict.fromkeys((round(low, 3), round(high, 3)))]
    return f"{body.name}, trim {' to '.join(trims)}"


def _said(show: Show, view: View, scale: float) -> str:
    """The scale, and of a structure alone its trim."""
    text = scale_text(scale, show.settings.system)
    body = show.items[view.of[0]].body if len(view.of) == 1 and view.of[0] in show.items else None
    if isinstance(body, Truss) and body.form != "upright":
        text += f"  {trim_text(show, body).rpartition(', ')[2]}"
    return text


def title_marks(show: Show, view: View, number: int, scale: int, box: Box, picture: Box, printed: float) -> list[Mark]:
    """A view's number and name, under them its scale with a bar; the sides named at the edges of the picture."""
    part = f"view/{view.key}"
    marks: list[Mark] = [Words("words", f"{number}", (box.x0, box.y0 + 6.0), NAME_MM * 1.2, bold=True, part=part)]
    x = box.x0 + width_of(f"{number}", NAME_MM * 1.2, True) + 2.0
    marks.append(Words("words", view.name or LOOKS[view.look], (x, box.y0 + 6.0), NAME_MM, bold=True, part=part))
    # Where paper is reduced, the bar is right by itself; what is said beside it is what the print is.
    text = _said(show, view, scale * printed)
    marks.append(Words("words", text, (x, box.y0 + 1.2), SCALE_MM, part=part))
    marks += scale_bar(x + width_of(text, SCALE_MM) + 4.0, box.y0 + 1.2, scale, show.settings.system, part)
    sides = SIDES.get(view.look)
    if sides is not None:
        y = picture.y0 - SMALL_MM - 0.8
        marks += [Words("datum", f"← {sides[0]}", (picture.x0, y), SMALL_MM, part=part),
                  Words("datum", f"{sides[1]} →", (picture.x1, y), SMALL_MM, "end", part=part)]  # fmt: skip
    return marks


def scale_bar(x: float, y: float, scale: int, system: str, part: str) -> list[Mark]:
    """A bar of round lengths, four parts, with its end in words."""
    unit = 1.0 if system == "metric" else 0.3048
    steps = [base * 10.0**power for power in range(-2, 4) for base in (1, 2, 4, 5)]
    fits = [step for step in steps if BAR_MM[0] <= step * unit * 1000 / scale <= BAR_MM[1]]
    long = (fits or [1.0])[0]
    wide = long * unit * 1000 / scale
    marks: list[Mark] = []
    for k in range(4):
        piece = Box(x + wide * k / 4, y, x + wide * (k + 1) / 4, y + 1.0)
        marks.append(piece.outline("title", part, "black" if k % 2 == 0 else "paper"))
    end = f"{long:g} {'m' if system == 'metric' else 'ft'}"
    return [*marks, Words("words", "0", (x, y + 1.7), SMALL_MM, "middle", part=part),
            Words("words", end, (x + wide, y + 1.7), SMALL_MM, "middle", part=part)]  # fmt: skip
