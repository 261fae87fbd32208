"""Light scattered once by haze on its way: what the stage's shafts are held against (numbers.md, Beam).

dL = sigma . p(cosine) . E . exp(-sigma (d + t)) dt along the ray of the eye, with E = I / d^2 square to the light, d
from the lens for the loss and from the virtual apex for E, t from the eye. The haze is even.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from zarfwright.core.optics.photometry import Beams, shape_toward
from zarfwright.core.space import Floats

G = 0.6
"""How much light goes on nearly as it came: 0 to all sides alike, 1 straight on."""
STEPS = 512


def henyey_greenstein(cosine: ArrayLike, g: float = G) -> Floats:
    """The phase function, 1/sr. `cosine` is between the way the light travels and the way from there to the eye: 1 is
    looking towards the lamp (Henyey and Greenstein 1941)."""
    c = np.asarray(cosine, dtype=float)
    return np.asarray((1 - g * g) / (4 * np.pi * (1 + g * g - 2 * g * c) ** 1.5))


def scattered(
    beams: Beams, i: int, eye: ArrayLike, ways: ArrayLike, until_m: ArrayLike, haze_per_m: float, steps: int = STEPS
) -> Floats:
    """Luminance (m,) of beam i's shaft for each candela of its axis, along unit `ways` (m, 3) from `eye` (3,) as far as
    `until_m` (m,). Samples lie at equal angles about the virtual apex, so that 1/d^2 is exact."""
    place, w = np.asarray(eye, dtype=float), np.asarray(ways, dtype=float)
    far = np.asarray(until_m, dtype=float)
    o = place - beams.apex[i]
    nearest = -(w @ o)
    away = np.maximum(np.linalg.norm(o + w * nearest[:, None], axis=1), 1e-3)
    first, last = np.arctan((0.0 - nearest) / away), np.arctan((far - nearest) / away)
    share = (np.arange(steps) + 0.5) / steps
    angle = first[:, None] + (last - first)[:, None] * share
    t = nearest[:, None] + away[:, None] * np.tan(angle)
    points = place + w[:, None] * t[..., None]
    flat = points.reshape(-1, 3)
    ahead = (flat - beams.lens[i]) @ beams.along[i] > 0
    shape = np.where(ahead, shape_toward(beams, i, flat), 0.0).reshape(t.shape)
    from_apex = points - beams.apex[i]
    cosine = -np.sum(from_apex * w[:, None], axis=2) / np.linalg.norm(from_apex, axis=2)
    loss = np.exp(-haze_per_m * (t + np.linalg.norm(points - beams.lens[i], axis=2)))
    # dt = d^2 / away . d(angle): the d^2 of E cancels.
    whole = np.sum(shape * henyey_greenstein(cosine) * loss, axis=1) * (last - first) / steps / away
    return np.asarray(whole * haze_per_m)
