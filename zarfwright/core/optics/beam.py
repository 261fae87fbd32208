"""The shape of a beam across its angle, and its candela from its flux (numbers.md, Beam).

Angles b (half of peak) and f (a tenth of peak) are full angles in degrees; t is the angle off axis in radians.
The stage's `light/beam.glsl` says the same in its own words; tests compare the two.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from zarfwright.core.space import Floats

P_MIN, P_MAX = 1.0, 12.6
TENTH = math.log(math.log2(10.0))
FROST_DEG = 12.0
"""How much wider (full angle) a beam gets with the frost fully in."""
FROST_BEAM_SHARE = 0.55
"""Beam angle over field angle of a frosted beam."""
RIM_DEG_MAX = 170.0
RIM_SHARP, RIM_BLUR = 0.012, 0.35
"""Half the width of a hard edge's rim in gate radii: in focus, and what full blur adds."""

NEAREST_M = 0.1
"""Nothing is looked at nearer to a lens."""
DOOR_RIM = 0.18
"""Half the width of the edge that a barn door cuts, in gate radii: it stands close before a large lens."""


def settled_angles(beam_deg: float, field_deg: float) -> tuple[float, float, float]:
    """Beam angle, field angle and the exponent p = ln(log2 10) / ln(f / b).

    The beam angle wins: f is raised to 1.1 b when smaller, and p is kept in 1..12.6.
    """
    b = max(beam_deg, 0.1)
    f = max(field_deg, 1.1 * b)
    return b, f, min(max(TENTH / math.log(f / b), P_MIN), P_MAX)


def soft_shape(t: ArrayLike, beam_deg: float, field_deg: float) -> Floats:
    """I(t) / I0 of a soft edge: 2^-(2t/b)^p, fading smoothly to nothing between f/2 and min(1.5 f/2, 90 degrees)."""
    b, f, p = settled_angles(beam_deg, field_deg)
    angle = np.abs(np.asarray(t, dtype=float))
    half, last = math.radians(f) / 2, min(1.5 * math.radians(f) / 2, math.pi / 2)
    s = np.clip((angle - half) / max(last - half, 1e-9), 0.0, 1.0)
    return np.asarray(np.exp2(-((2 * angle / math.radians(b)) ** p)) * (1 - s * s * (3 - 2 * s)))


def hot_spot(beam_deg: float, field_deg: float) -> float:
    """h of a hard edge: half of peak at b/2 where b < f, else 0.1; kept in 0..0.9."""
    if beam_deg >= field_deg * 0.999:
        return 0.1
    u = math.tan(math.radians(beam_deg) / 2) / math.tan(math.radians(field_deg) / 2)
    return min(max(0.5 / (u * u), 0.0), 0.9)


def hard_shape(t: ArrayLike, beam_deg: float, field_deg: float) -> Floats:
    """I(t) / I0 of a hard edge: 1 - h u^2 within the gate, u = tan t / tan(f/2)."""
    u = np.tan(np.abs(np.asarray(t, dtype=float))) / math.tan(math.radians(field_deg) / 2)
    return np.where(u < 1, 1 - hot_spot(beam_deg, field_deg) * u * u, 0.0)


def peak_candela(flux_lm: float, beam_deg: float, field_deg: float, hard: bool) -> float:
    """I0 from flux = I0 . 2 pi . integral of shape(t) sin t dt, with the beam open."""
    _, f, _ = settled_angles(beam_deg, field_deg)
    last = math.radians(field_deg) / 2 if hard else min(1.5 * math.radians(f) / 2, math.pi / 2)
    t = (np.arange(512) + 0.5) / 512 * last
    shape = hard_shape(t, beam_deg, field_deg) if hard else soft_shape(t, beam_deg, field_deg)
    share = 2 * math.pi * float(np.sum(shape * np.sin(t))) * last / 512
    return flux_lm / share


def step(edge_from: float, edge_to: float, x: ArrayLike) -> Floats:
    """The smooth step 3 s^2 - 2 s^3 from 0 at one edge to 1 at the other."""
    s = np.clip((np.asarray(x, dtype=float) - edge_from) / max(edge_to - edge_from, 1e-9), 0.0, 1.0)
    return np.asarray(s * s * (3 - 2 * s))


def focus_at(away: ArrayLike, sharp_at: float, lens_radius_m: float, half_field_rad: float) -> Floats:
    """The focus (1: sharp) of a gate that is sharp at one distance, at others (...), metres from the lens.

    A thin lens: a point of the gate is a disc of the angle r |1/s - 1/d| to either side, with the whole lens lit.
    """
    off = lens_radius_m * np.abs(1.0 / sharp_at - 1.0 / np.maximum(np.asarray(away, dtype=float), NEAREST_M))
    return np.asarray(1.0 - np.minimum(off / math.tan(half_field_rad) / RIM_BLUR, 1.0))


def rim_of(focus: float) -> float:
    """Half the width of the rim in gate radii, by focus (1: sharp)."""
    return RIM_SHARP + RIM_BLUR * (1.0 - focus)
