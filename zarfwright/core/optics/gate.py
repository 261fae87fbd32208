"""What the gate of a beam lets through: rim, iris, blades, gobos, prism (numbers.md, Beam).

Gate coordinates u have shape (..., 2): x along the head's X, y along its Y, 1 at the field angle's rim; a picture in
the gate is seen upright by who looks along the beam, the head's Y up. `light/beam.glsl` says the same for the stage.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.optics.beam import RIM_SHARP, rim_of, step
from zarfwright.core.space import Floats
from zarfwright.core.types.model import Facet

IRIS_OPEN = 0.995
BLADE_IN = 0.002
Mask = NDArray[np.uint8]
"""A gobo image: square, rows from the top, 255 lets all light through."""


def turned(u: Floats, angle: float) -> Floats:
    """Gate points turned back by `angle` radians: what is in the gate turns forward."""
    c, s = np.cos(angle), np.sin(angle)
    return np.stack([c * u[..., 0] + s * u[..., 1], c * u[..., 1] - s * u[..., 0]], axis=-1)


def iris_stop(u: Floats, iris: float, focus: float) -> Floats:
    """The iris: a round stop at u = iris, nothing else changes."""
    if iris >= IRIS_OPEN:
        return np.ones(u.shape[:-1])
    width = rim_of(focus)
    return np.asarray(1.0 - step(iris - width, iris + width, np.linalg.norm(u, axis=-1)))


def rim(u: Floats, focus: float) -> Floats:
    """The gate's own round edge, blurred by the focus."""
    width = rim_of(focus)
    return np.asarray(1.0 - step(1.0 - width, 1.0 + width, np.linalg.norm(u, axis=-1)))


def blades(u: Floats, depths: Sequence[float], angles: Sequence[float], turn: float, width: float) -> Floats:
    """Four blades, at the top, left, bottom and right as seen along the beam, turned about their edges; `width` is half
    of that of their edges, in gate radii."""
    through = np.ones(u.shape[:-1])
    for k in range(4):
        if depths[k] <= BLADE_IN:
            continue
        around = turn + np.pi / 2 * (k + 1)
        middle = np.array([np.cos(around), np.sin(around)]) * (1.0 - depths[k])
        across = np.array([np.cos(around + angles[k]), np.sin(around + angles[k])])
        through *= 1.0 - step(-width, width, (u - middle) @ across)
    return np.asarray(through)


@lru_cache(maxsize=64)
def _pyramid(data: bytes, size: int) -> tuple[Floats, ...]:
    """A mask as transmission, and the same at half the size again and again, each the mean of four."""
    level = np.frombuffer(data, dtype=np.uint8).reshape(size, size) / 255.0
    levels = [level]
    while len(level) > 1:
        level = level.reshape(len(level) // 2, 2, len(level) // 2, 2).mean(axis=(1, 3))
        levels.append(level)
    return tuple(levels)


def _sampled(level: Floats, at: Floats) -> Floats:
    """Between the pixels of an image, at gate points (..., 2); beyond its edge, its edge."""
    size = len(level)
    x = np.clip((at[..., 0] * 0.5 + 0.5) * size - 0.5, 0, size - 1)
    y = np.clip((0.5 - at[..., 1] * 0.5) * size - 0.5, 0, size - 1)
    i, j = np.minimum(x.astype(int), max(size - 2, 0)), np.minimum(y.astype(int), max(size - 2, 0))
    right, below = np.minimum(i + 1, size - 1), np.minimum(j + 1, size - 1)
    fx, fy = x - i, y - j
    upper = level[j, i] * (1 - fx) + level[j, right] * fx
    lower = level[below, i] * (1 - fx) + level[below, right] * fx
    return np.asarray(upper * (1 - fy) + lower * fy)


def gobo(u: Floats, mask: Mask | None, turn: float, focus: float = 1.0) -> Floats:
    """Transmission of an image in the gate, blurred by the focus; open where there is no image.

    The image's side is a power of two.
    """
    if mask is None:
        return np.ones(u.shape[:-1])
    levels = _pyramid(mask.tobytes(), len(mask))
    depth = min(np.log2(max(len(mask) / 2 * (rim_of(focus) - RIM_SHARP), 1.0)), len(levels) - 1.001)
    low, part = int(depth), depth - int(depth)
    at = turned(u, turn)
    return np.asarray(_sampled(levels[low], at) * (1 - part) + _sampled(levels[low + 1], at) * part)


def copies(u: Floats, facets: Sequence[Facet], turn: float) -> list[Floats]:
    """The gate points that each of a prism's n copies is seen through at; without a prism the points themselves."""
    if not facets:
        return [u]
    at = turned(u, turn)
    made = []
    for facet in facets:
        made.append(turned(turned(at - np.array([facet.x, facet.y]), np.radians(facet.turn_deg)), -turn))
    return made


def blades_of(u: Floats, beam: Mapping[str, float], width: float) -> Floats:
    """What the blades or barn doors of one beam let through, for its values by name."""
    depths = [beam[f"blade{n}"] for n in (1, 2, 3, 4)]
    angles = [beam[f"blade{n}_angle"] for n in (1, 2, 3, 4)]
    return blades(u, depths, angles, beam["blades_turn"], width)


def transmission(u: Floats, beam: Mapping[str, float], masks: Sequence[Mask | None]) -> Floats:
    """Rim, iris, blades and two gobos multiplied, for one beam's values by name (core/picture.py FIELDS)."""
    through = rim(u, beam["focus"]) * iris_stop(u, beam["iris"], beam["focus"])
    through = through * blades_of(u, beam, rim_of(beam["focus"]))
    first, second = (gobo(u, masks[k], beam[name], beam["focus"]) for k, name in enumerate(("gobo_turn", "gobo2_turn")))
    return np.asarray(through * first * second)
