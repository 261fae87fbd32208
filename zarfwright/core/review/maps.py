"""Lux maps (numbers.md, Photometry map): light at the points of an area, its figures, its contour lines."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from zarfwright.core.looks.stand import prints_of, stand_of
from zarfwright.core.optics.colour import LUMINANCE, RGB_TO_XYZ, temperatures_k
from zarfwright.core.optics.photometry import Beams, illuminance
from zarfwright.core.raycast import Caster, PackedSolids
from zarfwright.core.scene import Solid, solids
from zarfwright.core.show import Show
from zarfwright.core.space import Floats

PIECES = 12
"""Into how many pieces the work on one map is cut: so finely it can be stopped."""
FIGURES = {"figure", "crowd"}
DARK_LX = 0.05
"""Less light than this has no colour."""


def in_the_way(show: Show, people: bool) -> list[Solid]:
    """What is in the way of light: all that is shown, with or without people."""
    items = (item for item in show.items.values() if item.is_a.solid and not show.hidden(item))
    return solids(show, [item for item in items if people or item.kind not in FIGURES])


def made_of(show: Show, look_id: str) -> str:
    """Which state of the show a map is of."""
    return f"{stand_of(show)} {prints_of(show, look_id)}"


_caster = lru_cache(maxsize=2)(Caster.of)


def piece(packed: PackedSolids, beams: Beams, points: Floats, normals: Floats) -> Floats:
    """Lux by colour (m, 3) of one piece of a map: a call that can be made in another process."""
    return illuminance(beams, points, normals, _caster(packed))


def pieces(points: Floats, normals: Floats) -> list[tuple[Floats, Floats]]:
    """Points and normals (m, 3) cut into pieces, in their order."""
    return [pair for pair in zip(np.array_split(points, PIECES), np.array_split(normals, PIECES), strict=True)
            if len(pair[0])]  # fmt: skip


@dataclass(frozen=True)
class Figures:
    """What a map comes to: lux, and evenness = least / mean."""

    mean: float
    least: float
    most: float
    evenness: float


def figures_of(lux: Floats) -> Figures:
    """The figures of lux (m,)."""
    mean, least, most = float(lux.mean()), float(lux.min()), float(lux.max())
    return Figures(mean, least, most, least / mean if mean > 0 else 0.0)


def lux_of(rgb: Floats) -> Floats:
    """Lux (m,) of light by colour (m, 3)."""
    return np.asarray(rgb @ LUMINANCE)


def kelvin_of(rgb: Floats) -> Floats:
    """Colour temperatures (m,) of light by colour (m, 3); NaN where it is dark or no white."""
    xyz = rgb @ RGB_TO_XYZ.T
    whole = xyz.sum(axis=1)
    lit = (lux_of(rgb) > DARK_LX) & (whole > 0)
    found = np.full(len(rgb), np.nan)
    if lit.any():
        found[lit] = temperatures_k(xyz[lit, :2] / whole[lit, None])
    return found


ROUND = (1.0, 2.0, 5.0)
LINES = 6


def steps_to(most: float) -> list[float]:
    """Round numbers for contour lines of values up to `most`: about six, evenly apart."""
    if not most > 0:
        return []
    rough = most / (LINES + 1)
    size = 10.0 ** math.floor(math.log10(rough))
    apart = next(size * step for step in (*ROUND, 10.0) if size * step >= rough * 0.999)
    return [round(apart * i, 9) for i in range(1, math.ceil(most / apart))]


@dataclass(frozen=True, eq=False)
class Contour:
    """A line along which the light is the same: places (m, 2) as shares of the area's width and depth, from its corner
    at the right of the stage and downstage."""

    lux: float
    lines: Sequence[Floats]


def contours(lux: Floats, shape: tuple[int, int], levels: Sequence[float]) -> list[Contour]:
    """Contour lines through lux (ny * nx,) between the points; none where there is but one row of them."""
    from contourpy import contour_generator

    nx, ny = shape
    if nx < 2 or ny < 2:
        return []
    made = contour_generator((np.arange(nx) + 0.5) / nx, (np.arange(ny) + 0.5) / ny, lux.reshape(ny, nx))
    return [Contour(level, [np.asarray(line) for line in made.lines(level)]) for level in levels]


SCALE: tuple[tuple[float, str], ...] = (
    (0.0, "#10131f"),
    (0.18, "#27306b"),
    (0.38, "#2f7a8c"),
    (0.55, "#58ad6c"),
    (0.72, "#d8b23e"),
    (0.88, "#f0793b"),
    (1.0, "#fff3df"),
)
"""False colour from nothing to the most of a scale: ever brighter, so that it reads without colours, too."""


def coloured(share: Floats) -> Floats:
    """False colours (m, 3), sRGB 0..255, of shares (m,) of a scale."""
    at = [stop for stop, _ in SCALE]
    rgb = np.array([[int(colour[i : i + 2], 16) for i in (1, 3, 5)] for _, colour in SCALE])
    held = np.clip(share, 0.0, 1.0)
    return np.stack([np.interp(held, at, rgb[:, i]) for i in range(3)], axis=-1)
