"""How full a crowd has to be: who of it is seen from where, counted by identity, and who can be left out."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.raycast import Caster
from zarfwright.core.scene import Solid
from zarfwright.core.space import Vec, unit

PICTURE = (480, 270)
FIELD_DEG = 60.0
"""How wide a viewpoint looks, across the picture."""
COVERED = 0.98
"""The share of the crowd's picture that those who stay have to cover, from every viewpoint."""


def picture_rays(eye: Vec, target: Vec) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Origins and unit directions (m, 3) of a picture's rays, row by row."""
    ahead = unit(np.array(target, dtype=float) - np.array(eye, dtype=float))
    right = unit(np.cross(ahead, [0.0, 0.0, 1.0]))
    if not np.any(right):
        right = np.array([1.0, 0.0, 0.0])
    up = np.cross(right, ahead)
    width, height = PICTURE
    reach = math.tan(math.radians(FIELD_DEG) / 2)
    x = (np.arange(width) + 0.5) / width * 2 - 1
    y = 1 - (np.arange(height) + 0.5) / height * 2
    gx, gy = np.meshgrid(x * reach, y * reach * height / width)
    ways = unit(ahead + gx[..., None] * right + gy[..., None] * up).reshape(-1, 3)
    return np.tile(np.asarray(eye, dtype=float), (len(ways), 1)), ways


def seen_from(solids: Sequence[Solid], people: Sequence[str], view: tuple[Vec, Vec]) -> NDArray[np.int64]:
    """How many picture points each of the people has from one view: (people,)."""
    return np.asarray(seen(solids, people, [view])[0])


def seen(solids: Sequence[Solid], people: Sequence[str], views: Sequence[tuple[Vec, Vec]]) -> NDArray[np.int64]:
    """How many picture points each of the people (by their solids' ids) has from each view (eye, target):
    (views, people). All of the solids stand in the way."""
    caster = Caster(solids)
    index = {name: i for i, name in enumerate(people)}
    of_solid = np.array([index.get(name, -1) for name in caster.names], dtype=np.int64)
    counts = np.zeros((len(views), len(people)), dtype=np.int64)
    for v, (eye, target) in enumerate(views):
        met = caster.first(*picture_rays(eye, target))
        who = of_solid[met.thing[met.thing >= 0]]
        counts[v] = np.bincount(who[who >= 0], minlength=len(people))
    return counts


def needed(counts: NDArray[np.int64], covered: float = COVERED) -> NDArray[np.bool_]:
    """Who has to stay, (people,): nobody who is seen from nowhere; of the others as few as cover the share of every
    view's picture, the least seen left out first."""
    stay = counts.sum(axis=0) > 0
    whole = counts.sum(axis=1)
    room = np.floor(whole * (1 - covered) + 1e-9).astype(np.int64)
    share = (counts / np.maximum(whole, 1)[:, None]).max(axis=0)
    for i in np.argsort(share, kind="stable"):
        if stay[i] and (counts[:, i] <= room).all():
            stay[i] = False
            room -= counts[:, i]
    return np.asarray(stay)
