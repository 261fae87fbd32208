"""What was drawn on the picture of a note, drawn into it."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence

from PIL import Image, ImageDraw

from zarfwright.core.review.notes import Stroke

COLOUR, EDGE = (238, 178, 74), (16, 20, 22)
WIDEST_PX = 960
HEAD = 0.35


def drawn_over(jpeg: bytes, strokes: Sequence[Stroke]) -> bytes:
    """A picture with strokes over it, as JPEG: the same that the browser shows (frontend/src/show/notes.ts)."""
    with Image.open(io.BytesIO(jpeg)) as opened:
        picture = opened.convert("RGB")
    picture.thumbnail((WIDEST_PX, WIDEST_PX))
    pen = ImageDraw.Draw(picture)
    wide = max(picture.width // 160, 2)
    for stroke in strokes:
        for line in _lines(stroke, picture.width, picture.height):
            pen.line(line, EDGE, wide + 2, joint="curve")
            pen.line(line, COLOUR, wide, joint="curve")
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=82)
    return out.getvalue()


def _lines(stroke: Stroke, width: int, height: int) -> list[list[tuple[float, float]]]:
    """The lines of a stroke in pixels."""
    spots = [(u * width, v * height) for u, v in stroke.places]
    (x0, y0), (x1, y1) = spots[0], spots[-1]
    far = math.hypot(x1 - x0, y1 - y0)
    if stroke.kind == "circle":
        turns = (2 * math.pi * i / 48 for i in range(49))
        return [[(x0 + far * math.cos(turn), y0 + far * math.sin(turn)) for turn in turns]]
    if stroke.kind == "arrow":
        turn, head = math.atan2(y1 - y0, x1 - x0), min(HEAD * far, width / 30)
        barbs = [(x1 - head * math.cos(turn + by), y1 - head * math.sin(turn + by)) for by in (0.5, -0.5)]
        return [[(x0, y0), (x1, y1)], [barbs[0], (x1, y1), barbs[1]]]
    return [spots]
