"""Gobo images drawn by the program: white lets light through. A few patterns with few numbers each."""

from __future__ import annotations

import io
import math
import random
from collections.abc import Callable
from dataclasses import dataclass

from PIL import Image, ImageDraw, ImageFont

SIZE_PX = 256
OVER = 4
"""Drawn this much larger and brought down, so that edges are smooth."""
PATTERNS = ("dots", "bars", "breakup", "spiral", "window", "text", "rays", "ripples")


@dataclass(frozen=True)
class GoboDrawing:
    """What to draw: how many of it, how heavy (0..1 of what there is room for), turned, and by which dice."""

    pattern: str
    count: int = 7
    weight: float = 0.5
    turn_deg: float = 0.0
    seed: int = 1
    text: str = ""


Pen = ImageDraw.ImageDraw


def _dots(pen: Pen, half: float, d: GoboDrawing) -> None:
    left, ring = max(d.count, 1), 0
    while left > 0:
        here = 1 if ring == 0 else min(6 * ring, left)
        reach = half * 0.36 * ring
        size = half * (0.05 + 0.13 * d.weight)
        for i in range(here):
            angle = 2 * math.pi * i / here
            x, y = half + reach * math.cos(angle), half + reach * math.sin(angle)
            pen.ellipse((x - size, y - size, x + size, y + size), fill=255)
        left, ring = left - here, ring + 1
        if ring * 0.36 > 1:
            return


def _bars(pen: Pen, half: float, d: GoboDrawing) -> None:
    pitch = 2 * half / max(d.count, 1)
    for i in range(max(d.count, 1)):
        middle = (i + 0.5) * pitch
        pen.rectangle((0, middle - pitch * d.weight / 2, 2 * half, middle + pitch * d.weight / 2), fill=255)


def _breakup(pen: Pen, half: float, d: GoboDrawing) -> None:
    dice = random.Random(d.seed)
    count = max(d.count, 3)
    for i in range(count):
        angle, ring = i * 2.399963, math.sqrt((i + 0.5) / count) * 0.95
        x, y = half + ring * half * math.cos(angle), half + ring * half * math.sin(angle)
        reach = half * (0.4 + dice.random()) * d.weight * 1.3 / math.sqrt(count)
        corners = [dice.uniform(0.45, 1.0) for _ in range(6)]
        pen.polygon(
            [
                (x + reach * r * math.cos(k * math.pi / 3 + i), y + reach * r * math.sin(k * math.pi / 3 + i))
                for k, r in enumerate(corners)
            ],
            fill=255,
        )


def _spiral(pen: Pen, half: float, d: GoboDrawing) -> None:
    arms = max(d.count, 1)
    for arm in range(arms):
        edge: list[tuple[float, float]] = []
        back: list[tuple[float, float]] = []
        for k in range(121):
            t = k / 120
            angle = 2 * math.pi * (arm / arms + 1.4 * t)
            width = math.pi / arms * d.weight
            for points, by in ((edge, -width), (back, width)):
                points.append((half + t * half * math.cos(angle + by), half + t * half * math.sin(angle + by)))
        pen.polygon(edge + back[::-1], fill=255)


def _window(pen: Pen, half: float, d: GoboDrawing) -> None:
    columns = max(round(math.sqrt(max(d.count, 1) * 0.7)), 1)
    rows = max(math.ceil(max(d.count, 1) / columns), 1)
    wide, high = 1.0 * half / columns, 1.35 * half / rows
    bar = min(wide, high) * (0.32 - 0.28 * d.weight)
    for r in range(rows):
        for c in range(columns):
            x, y = half - columns * wide / 2 + c * wide, half - rows * high / 2 + r * high
            pen.rectangle((x + bar, y + bar, x + wide - bar, y + high - bar), fill=255)


def _text(pen: Pen, half: float, d: GoboDrawing) -> None:
    words = d.text.strip()[:40] or "ZARF"
    size = 0.9 * half
    while size > 10:
        font = ImageFont.load_default(size)
        left, top, right, bottom = pen.multiline_textbbox((0, 0), words, font=font, align="center")
        if math.hypot(right - left, bottom - top) < 1.85 * half:
            break
        size *= 0.9
    place = (half - (left + right) / 2, half - (top + bottom) / 2)
    pen.multiline_text(place, words, font=font, fill=255, align="center")


def _rays(pen: Pen, half: float, d: GoboDrawing) -> None:
    count = max(d.count, 1)
    box = (half * 0.04, half * 0.04, half * 1.96, half * 1.96)
    for i in range(count):
        pen.pieslice(box, i * 360 / count, (i + d.weight) * 360 / count, fill=255)
    pen.ellipse((half * 0.78, half * 0.78, half * 1.22, half * 1.22), fill=0)


def _ripples(pen: Pen, half: float, d: GoboDrawing) -> None:
    count = max(d.count, 1)
    for i in range(count):
        ring = half * (0.12 + 0.84 * (i + 0.5) / count)
        width = max(round(0.84 * half / count * d.weight), 2)
        pen.arc((half - ring, half - ring, half + ring, half + ring), i * 40, i * 40 + 290, fill=255, width=width)


DRAW: dict[str, Callable[[Pen, float, GoboDrawing], None]] = {
    "dots": _dots, "bars": _bars, "breakup": _breakup, "spiral": _spiral, "window": _window, "text": _text,
    "rays": _rays, "ripples": _ripples,
}  # fmt: skip


def draw_gobo(drawing: GoboDrawing) -> bytes:
    """A PNG of SIZE_PX squared. The same drawing gives the same bytes. Raises KeyError for an unknown pattern."""
    size = SIZE_PX * OVER
    image = Image.new("L", (size, size), 0)
    DRAW[drawing.pattern](ImageDraw.Draw(image), size / 2, drawing)
    if drawing.turn_deg:
        image = image.rotate(drawing.turn_deg, Image.Resampling.BICUBIC)
    out = io.BytesIO()
    image.resize((SIZE_PX, SIZE_PX), Image.Resampling.BOX).save(out, "PNG")
    return out.getvalue()
