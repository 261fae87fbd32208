"""Structures as they are drawn: chords in pairs and one zigzag from their parameters, not the tubes of their meshes."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from zarfwright.core.sheet.frames import Frame
from zarfwright.core.site.structures import (
    BASE_RADIUS_M,
    CHORD_RADIUS_M,
    LATTICES,
    SIDES,
    Rail,
    truss_placement,
    truss_rails,
)
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats

PANEL = 1.25
"""Panels of a lattice are so much longer than its section."""
PLAIN_FROM = 200
"""At this scale and smaller, chords stand alone."""
SAME_M = 0.02


@dataclass(frozen=True, eq=False)
class Drawn:
    """A line of a structure in a view's frame: its pen, and its points (n, 3)."""

    pen: str
    points: Floats
    closed: bool = False


def _places(rail: Rail, count: int) -> Floats:
    """Points (count + 1, 3) along a rail in the show's frame."""
    return np.array([rail.at(rail.length_m * k / count) for k in range(count + 1)])


def _panels(truss: Truss, rail: Rail) -> int:
    if truss.form == "arc":
        panels = max(3, round(truss.span_deg / 7.5))
        return panels + panels % 2
    return max(1, round(truss.length_m / (truss.section_m * PANEL)))


def drawn_structure(truss: Truss, frame: Frame, scale: int) -> list[Drawn]:
    """A structure's lines in a view. Chords that lie over one another in it are drawn once, and between the two that
    are furthest apart one zigzag."""
    rails = truss_rails(truss)
    chords = [rails[name] for name in list(rails)[: len(LATTICES[truss.lattice])]]
    if truss.lattice == "pipe":
        made = [line for rail in rails.values() for line in _pipe(rail, frame)]
    else:
        made = _lattice(truss, chords, frame, scale)
    if truss.form == "upright":
        made.append(_base(truss, frame))
    return made


def _lattice(truss: Truss, chords: list[Rail], frame: Frame, scale: int) -> list[Drawn]:
    count = _panels(truss, chords[0])
    lines = [frame.of(_places(chord, count)) for chord in chords]
    kept: list[int] = []
    for i, line in enumerate(lines):
        if all(np.abs(line[:, :2] - lines[k][:, :2]).max() > SAME_M for k in kept):
            kept.append(i)
    made = [Drawn("chord", lines[i]) for i in kept]
    if truss.form != "arc" or truss.span_deg < 360 - 1e-9:
        # The frames at its ends: all that is seen of it where one looks along it.
        made += [Drawn("chord", np.stack([lines[a][k], lines[b][k]])) for k in (0, -1) for a, b in SIDES[truss.lattice]
                 if np.abs(lines[a][k] - lines[b][k])[:2].max() > SAME_M]  # fmt: skip
    sides = [(a, b) for a, b in SIDES[truss.lattice] if a in kept and b in kept] or list(SIDES[truss.lattice])
    apart = [float(np.linalg.norm(lines[a][:, :2] - lines[b][:, :2], axis=1).mean()) for a, b in sides]
    if not apart or max(apart) < SAME_M:
        return made
    a, b = sides[int(np.argmax(apart))]
    if scale < PLAIN_FROM:
        zigzag = np.array([lines[a if k % 2 == 0 else b][k] for k in range(count + 1)])
        made.append(Drawn("lattice", zigzag))
    return made


def _pipe(rail: Rail, frame: Frame) -> list[Drawn]:
    """A pipe as its two edges, or as a circle where one looks along it."""
    count = 1 if rail.bend is None else max(12, math.ceil(math.degrees(rail.bend.span_rad) / 5))
    points = frame.of(_places(rail, count))
    along = np.gradient(points[:, :2], axis=0)
    far = np.linalg.norm(along, axis=1)
    if far.max() * count < 0.05:
        turn = np.linspace(0, 2 * np.pi, 17)[:-1]
        ring = np.stack([np.cos(turn), np.sin(turn), np.zeros(16)], axis=1) * CHORD_RADIUS_M
        return [Drawn("pipe", points[:1] + ring, True)]
    side = np.stack([-along[:, 1], along[:, 0], np.zeros(len(along))], axis=1) / np.maximum(far, 1e-9)[:, None]
    both = [points + side * CHORD_RADIUS_M * sign for sign in (1, -1)]
    if rail.closed:
        return [Drawn("chord", edge) for edge in both]
    return [Drawn("chord", np.concatenate([both[0], both[1][::-1]]), True)]


def _base(truss: Truss, frame: Frame) -> Drawn:
    """The round base of an upright one."""
    turn = np.linspace(0, 2 * np.pi, 33)[:-1]
    ring = np.stack([np.cos(turn), np.sin(turn), np.zeros(32)], axis=1) * BASE_RADIUS_M
    if frame.flat:
        return Drawn("chord", frame.of(truss_placement(truss).apply(ring)), True)
    foot = frame.of(np.asarray(truss.position))
    width = np.array([BASE_RADIUS_M, 0.0, 0.0])
    tall = np.array([0.0, 0.05, 0.0])
    return Drawn("chord", np.array([foot - width, foot + width, foot + width + tall, foot - width + tall]), True)


def silhouette(truss: Truss, frame: Frame) -> Floats:
    """Points (n, 3) in a view's frame that hold all of a structure, for its bounds."""
    return np.concatenate(
        [frame.of(_places(rail, 1 if rail.bend is None else 24)) for rail in truss_rails(truss).values()]
    )
