"""Lux maps for other programs: a list of points as CSV, and a picture in false colour as PNG."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from zarfwright.core.review.grid import Grid
from zarfwright.core.review.maps import coloured, contours, steps_to
from zarfwright.core.space import Floats
from zarfwright.formats.csv import write_csv

LONG_PX = 960
SCALE_PX, FOOT_PX = 14, 40
INK, PAPER = (20, 26, 28), (244, 241, 234)


def map_csv(grid: Grid, lux: Floats, kelvin: Floats) -> bytes:
    """Every point with its lux and its colour temperature, which is empty where there is none."""
    rows = [
        [*(f"{value:.4f}" for value in point), f"{level:.3f}", "" if np.isnan(warm) else f"{warm:.0f}"]
        for point, level, warm in zip(grid.points.tolist(), lux.tolist(), kelvin.tolist(), strict=True)
    ]
    return write_csv(["x_m", "y_m", "z_m", "lux", "cct_k"], rows)


def map_image(lux: Floats, shape: tuple[int, int], size_m: tuple[float, float]) -> Image.Image:
    """Lux (ny * nx,) in false colour with contour lines, upstage above and stage left to the right, and its scale."""
    nx, ny = shape
    most = max(float(lux.max()), 1e-9)
    per_m = LONG_PX / max(size_m)
    width, height = (max(round(side * per_m), 40) for side in size_m)
    cells = coloured(lux / most).reshape(ny, nx, 3)[::-1].astype(np.uint8)
    page = Image.new("RGB", (max(width, 320), height + FOOT_PX), PAPER)
    page.paste(Image.fromarray(cells).resize((width, height), Image.Resampling.NEAREST), (0, 0))
    pen, face = ImageDraw.Draw(page), ImageFont.load_default(13)
    levels = steps_to(most)
    for contour in contours(lux, shape, levels):
        for line in contour.lines:
            places = [(float(u) * width, (1 - float(v)) * height) for u, v in line]
            pen.line(places, INK, 3)
            pen.line(places, PAPER, 1)
            if len(line) > 8:
                pen.text(places[len(places) // 2], f"{contour.lux:g}", PAPER, face, "mm", stroke_width=2,
                         stroke_fill=INK)  # fmt: skip
    _scale(page, pen, face, most, levels)
    return page


def _scale(page: Image.Image, pen: ImageDraw.ImageDraw, face: ImageFont.ImageFont | ImageFont.FreeTypeFont,
           most: float, levels: list[float]) -> None:  # fmt: skip
    left, right, top = 10, page.width - 70, page.height - FOOT_PX + 6
    wide = right - left
    band = coloured(np.linspace(0, 1, wide)).astype(np.uint8)
    page.paste(Image.fromarray(np.repeat(band[None], SCALE_PX, axis=0)), (left, top))
    for level in levels:
        at = left + wide * level / most
        pen.text((at, top + SCALE_PX + 2), f"{level:g}", INK, face, "ma")
    pen.text((right + 8, top), f"{most:.4g} lx", INK, face)


def map_png(lux: Floats, shape: tuple[int, int], size_m: tuple[float, float]) -> bytes:
    """The same as a PNG file."""
    out = io.BytesIO()
    map_image(lux, shape, size_m).save(out, "PNG")
    return out.getvalue()
