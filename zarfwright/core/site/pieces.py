"""Scenery by a few numbers: each piece in its own frame, on the floor at its origin, facing downstage (-Y)."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from zarfwright.core.mesh import Mesh, box, cylinder, flat, join, moved, round_surface, tubes
from zarfwright.core.site.things import Piece

FLAT_M = 0.04
BOARD_M = 0.03
LEG_M = 0.05
PIPE_M = 0.02
FOLD_M = 0.16
"""How far apart the folds of a drape are when its cloth is twice as wide as it hangs."""


def _flat(p: Piece) -> Mesh:
    """A flat: a thin face on a frame, with a brace behind."""
    w, h = p.width_m, p.height_m
    face = box((w, 0.006, h), (0, -FLAT_M / 2, h / 2))
    rails = [box((w, FLAT_M, 0.07), (0, 0, z)) for z in (0.035, h / 2, h - 0.035)]
    stiles = [box((0.07, FLAT_M, h), (x, 0, h / 2)) for x in (-w / 2 + 0.035, w / 2 - 0.035)]
    foot = min(0.45 * h, 1.2)
    brace = tubes([(0, FLAT_M / 2, 0.75 * h)], [(0, foot, 0.02)], 0.018)
    return join([face, *rails, *stiles, brace])


def _platform(p: Piece) -> Mesh:
    top = box((p.width_m, p.depth_m, BOARD_M), (0, 0, p.height_m - BOARD_M / 2))
    x, y, z = p.width_m / 2 - LEG_M, p.depth_m / 2 - LEG_M, p.height_m - BOARD_M
    legs = [box((LEG_M, LEG_M, z), (sx * x, sy * y, z / 2)) for sx in (-1, 1) for sy in (-1, 1)]
    return join([top, *legs])


def _rostrum(p: Piece) -> Mesh:
    return box((p.width_m, p.depth_m, p.height_m), (0, 0, p.height_m / 2))


def _steps(p: Piece) -> Mesh:
    """Steps that rise upstage; as many as `count`."""
    n = max(p.count, 1)
    tread, rise = p.depth_m / n, p.height_m / n
    return join(
        [
            box((p.width_m, tread, rise * (i + 1)), (0, -p.depth_m / 2 + tread * (i + 0.5), rise * (i + 1) / 2))
            for i in range(n)
        ]
    )


def _ramp(p: Piece) -> Mesh:
    """A slope that rises upstage."""
    x, y, h = p.width_m / 2, p.depth_m / 2, p.height_m
    a, b, c, d = (-x, -y, 0), (x, -y, 0), (x, y, 0), (-x, y, 0)
    e, f = (x, y, h), (-x, y, h)
    return flat(np.array([[a, b, e, f], [d, c, b, a], [c, d, f, e], [b, c, e, e], [d, a, f, f]], dtype=float))


def _drape(p: Piece) -> Mesh:
    """Cloth that hangs in folds: `fullness` is how much wider the cloth is than it hangs (0.5: half as much again)."""
    w, h = p.width_m, p.height_m
    folds = max(2, round(w / FOLD_M * min(max(p.fullness, 0.05), 2.0)))
    steps = folds * 6
    x = np.linspace(-w / 2, w / 2, steps + 1)
    # The depth of a wave whose length is (1 + fullness) times its width, near enough: 2 a pi / l = 2 sqrt(fullness).
    deep = min(w / folds * math.sqrt(max(p.fullness, 0.0)) / math.pi * 1.2, 0.12)
    y = deep * np.sin(np.linspace(0, 2 * np.pi * folds, steps + 1))
    quads = [[(x[i], y[i], 0), (x[i + 1], y[i + 1], 0), (x[i + 1], y[i + 1], h), (x[i], y[i], h)] for i in range(steps)]
    front = flat(np.array(quads, dtype=float))
    back = flat(np.array([[q[1], q[0], q[3], q[2]] for q in quads], dtype=float))
    return join([front, back, tubes([(-w / 2, 0, h)], [(w / 2, 0, h)], PIPE_M)])


def _cyc(p: Piece) -> Mesh:
    """A cloth without folds whose ends come round downstage by `depth`."""
    w, d, h = p.width_m, p.depth_m, p.height_m
    turn = min(d, w / 2)
    bend = [(math.pi / 2 * k / 8) for k in range(9)]
    left = [(-w / 2 + turn - turn * math.sin(b), -turn + turn * math.cos(b)) for b in reversed(bend)]
    right = [(w / 2 - turn + turn * math.sin(b), -turn + turn * math.cos(b)) for b in bend]
    line = [(x, y) for x, y in (*left, *right)]
    quads = [[(*line[i], 0), (*line[i + 1], 0), (*line[i + 1], h), (*line[i], h)] for i in range(len(line) - 1)]
    return join(
        [flat(np.array(quads, dtype=float)), flat(np.array([[q[1], q[0], q[3], q[2]] for q in quads], dtype=float))]
    )


def _screen(p: Piece) -> Mesh:
    """A projection screen in its frame, its foot `lift` above the floor."""
    w, h, z = p.width_m, p.height_m, p.lift_m
    frame = [box((w + 0.1, 0.05, 0.05), (0, 0, z + edge)) for edge in (-0.025, h + 0.025)]
    frame += [box((0.05, 0.05, h), (x, 0, z + h / 2)) for x in (-w / 2 - 0.025, w / 2 + 0.025)]
    return join([box((w, 0.01, h), (0, 0, z + h / 2)), *frame])


def _table(p: Piece) -> Mesh:
    return _platform(p)


def _chair(p: Piece) -> Mesh:
    w, d, seat = p.width_m, p.depth_m, min(0.46, p.height_m * 0.52)
    x, y = w / 2 - 0.02, d / 2 - 0.02
    legs = [box((0.03, 0.03, seat), (sx * x, sy * y, seat / 2)) for sx in (-1, 1) for sy in (-1, 1)]
    back = box((w, 0.03, p.height_m - seat), (0, y, seat + (p.height_m - seat) / 2))
    return join([box((w, d, 0.04), (0, 0, seat)), back, *legs])


def _music_stand(p: Piece) -> Mesh:
    h = p.height_m
    feet = [tubes([(0, 0, 0.25)], [(0.3 * math.cos(a), 0.3 * math.sin(a), 0.01)], 0.01) for a in (0.5, 2.6, 4.7)]
    desk = moved(box((p.width_m, 0.02, 0.34)), (0, 0, h - 0.1))
    return join([tubes([(0, 0, 0.2)], [(0, 0, h - 0.2)], 0.012), desk, *feet])


def _piano(p: Piece) -> Mesh:
    """A block of a grand's outline on three legs, its keys at the downstage end."""
    w, d, h = p.width_m, p.depth_m, p.height_m
    body = [
        box((w, d * 0.45, 0.3), (0, -d * 0.27, h - 0.15)),
        box((w * 0.6, d * 0.6, 0.3), (-w * 0.2, d * 0.2, h - 0.15)),
    ]
    legs = [
        cylinder(0.05, h - 0.3, (x, y, (h - 0.3) / 2), 10)
        for x, y in ((-w * 0.4, -d * 0.3), (w * 0.4, -d * 0.3), (-w * 0.25, d * 0.4))
    ]
    return join([*body, box((w * 0.9, 0.15, 0.05), (0, -d / 2 - 0.05, h - 0.22)), *legs])


def _barrier(p: Piece) -> Mesh:
    """A crowd barrier: rails and uprights, `count` of them beside each other."""
    n, h = max(p.count, 1), p.height_m
    each = p.width_m / n
    parts = []
    for i in range(n):
        left, right = -p.width_m / 2 + i * each + 0.02, -p.width_m / 2 + (i + 1) * each - 0.02
        bars = np.linspace(left, right, 12)
        parts.append(tubes([(left, 0, z) for z in (0.15, h)], [(right, 0, z) for z in (0.15, h)], PIPE_M))
        parts.append(tubes([(x, 0, 0.15) for x in bars], [(x, 0, h) for x in bars], 0.008))
        parts += [box((0.04, p.depth_m, 0.03), (x, 0, 0.015)) for x in (left + 0.2, right - 0.2)]
    return join(parts)


def _column(p: Piece) -> Mesh:
    r, h = p.width_m / 2, p.height_m
    base = [box((p.width_m * 1.3, p.width_m * 1.3, h * 0.04), (0, 0, z)) for z in (h * 0.02, h * 0.98)]
    return join([round_surface([(r, h * 0.04), (r * 0.88, h * 0.96)], 24), *base])


def _balustrade(p: Piece) -> Mesh:
    n = max(2, round(p.width_m / 0.14))
    x = np.linspace(-p.width_m / 2 + 0.07, p.width_m / 2 - 0.07, n)
    rails = [box((p.width_m, p.depth_m, 0.06), (0, 0, z)) for z in (0.08, p.height_m - 0.03)]
    posts = [cylinder(0.03, p.height_m - 0.17, (float(at), 0, p.height_m / 2), 10) for at in x]
    return join([*rails, *posts])


MESHES: dict[str, Callable[[Piece], Mesh]] = {
    "flat": _flat, "platform": _platform, "rostrum": _rostrum, "steps": _steps, "ramp": _ramp, "drape": _drape,
    "cyc": _cyc, "screen": _screen, "table": _table, "chair": _chair, "music stand": _music_stand, "piano": _piano,
    "barrier": _barrier, "column": _column, "balustrade": _balustrade,
}  # fmt: skip
SIZES: dict[str, tuple[float, float, float]] = {
    "flat": (1.2, 0.04, 3.6), "platform": (2.0, 1.0, 0.4), "rostrum": (1.0, 1.0, 0.3), "steps": (1.2, 0.9, 0.6),
    "ramp": (1.2, 3.0, 0.4), "drape": (6.0, 0.2, 5.0), "cyc": (12.0, 2.0, 6.0), "screen": (4.0, 0.05, 2.25),
    "table": (1.6, 0.8, 0.75), "chair": (0.45, 0.45, 0.88), "music stand": (0.5, 0.5, 1.2), "piano": (1.5, 2.2, 1.0),
    "barrier": (2.2, 0.6, 1.1), "column": (0.5, 0.5, 4.0), "balustrade": (3.0, 0.16, 1.0),
}  # fmt: skip
"""Width, depth and height in metres that each piece has at first."""


def piece_mesh(piece: Piece) -> Mesh:
    """The mesh of a piece in its own frame."""
    return MESHES[piece.piece](piece)
