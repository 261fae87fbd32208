"""Colour in linear Rec. 709 (D65), from CIE 1931 chromaticities and colour temperatures."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from zarfwright.core.space import Floats

# IEC 61966-2-1: XYZ (Y = 1 is white) to linear Rec. 709.
XYZ_TO_RGB = np.array(
    [
        [3.2404541621, -1.5371385128, -0.4985314096],
        [-0.9692660305, 1.8760108454, 0.0415560175],
        [0.0556434310, -0.2040259135, 1.0572251882],
    ]
)
RGB_TO_XYZ = np.linalg.inv(XYZ_TO_RGB)
LUMINANCE = np.array([0.2126729, 0.7151522, 0.0721750])


def rgb_from_xyy(x: ArrayLike, y: ArrayLike, luminance: ArrayLike = 1.0) -> Floats:
    """Linear Rec. 709 of shape (..., 3) from chromaticity and relative luminance; colours outside it go negative."""
    xs, ys, whole = np.asarray(x, dtype=float), np.asarray(y, dtype=float), np.asarray(luminance, dtype=float)
    safe = np.maximum(ys, 1e-9)
    xyz = np.stack([xs / safe * whole, whole * np.ones_like(safe), (1 - xs - ys) / safe * whole], axis=-1)
    return np.asarray(xyz @ XYZ_TO_RGB.T)


def _planck_xy(kelvin: float) -> tuple[float, float]:
    # Kim et al., US patent 7024034 B2: cubic fit to the Planckian locus, 1667 K to 4000 K branch.
    t = 1000.0 / kelvin
    x = -0.2661239 * t**3 - 0.2343589 * t**2 + 0.8776956 * t + 0.179910
    if kelvin < 2222:
        return x, -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    return x, -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867


def _daylight_xy(kelvin: float) -> tuple[float, float]:
    # CIE 15: the D series, 4000 K to 25000 K.
    t = 1000.0 / kelvin
    if kelvin <= 7000:
        x = -4.6070 * t**3 + 2.9678 * t**2 + 0.09911 * t + 0.244063
    else:
        x = -2.0064 * t**3 + 1.9018 * t**2 + 0.24748 * t + 0.237040
    return x, -3.0 * x**2 + 2.870 * x - 0.275


def white_xy(kelvin: float) -> tuple[float, float]:
    """Chromaticity of a white source: Planck up to 4000 K, D series from 5000 K, blended between."""
    k = min(max(kelvin, 1667.0), 25000.0)
    if k <= 4000:
        return _planck_xy(k)
    if k >= 5000:
        return _daylight_xy(k)
    share = (k - 4000) / 1000
    warm, cold = _planck_xy(4000), _daylight_xy(5000)
    return warm[0] + share * (cold[0] - warm[0]), warm[1] + share * (cold[1] - warm[1])


def white_rgb(kelvin: float) -> Floats:
    """Linear Rec. 709 (3,) of a white source, luminance 1."""
    return rgb_from_xyy(*white_xy(kelvin))


def uv_of(x: ArrayLike, y: ArrayLike) -> Floats:
    """CIE 1976 u', v' of shape (..., 2) from CIE 1931 x, y."""
    xs, ys = np.asarray(x, dtype=float), np.asarray(y, dtype=float)
    whole = -2 * xs + 12 * ys + 3
    return np.stack([4 * xs / whole, 9 * ys / whole], axis=-1)


CCT_RANGE_K = (1500.0, 25_000.0)
WHITE_WITHIN = 0.05
"""Further from the white line than this in u, v (1960) a colour has no colour temperature (CIE 15)."""


def cct_k(x: float, y: float) -> float | None:
    """The correlated colour temperature of a chromaticity, kelvin: of the nearest white in CIE 1960 u, v. None of what
    is no white."""
    kelvin = float(temperatures_k([[x, y]])[0])
    return None if math.isnan(kelvin) else kelvin


AT_ONCE = 500


def temperatures_k(xy: ArrayLike) -> Floats:
    """The correlated colour temperatures (m,) of chromaticities (m, 2), kelvin; NaN of what is no white."""
    places = np.asarray(xy, dtype=float).reshape(-1, 2)
    found = np.full(len(places), np.nan)
    for start in range(0, len(places), AT_ONCE):
        here = uv_of(*places[start : start + AT_ONCE].T) * [1.0, 2 / 3]
        away = np.linalg.norm(_WHITES_1960[None] - here[:, None], axis=-1)
        nearest = away.argmin(axis=1)
        white = np.take_along_axis(away, nearest[:, None], axis=1)[:, 0] <= WHITE_WITHIN
        found[start : start + AT_ONCE] = np.where(white, np.round(1e6 / _MIREDS[nearest], 1), np.nan)
    return found


_MIREDS = np.linspace(1e6 / CCT_RANGE_K[1], 1e6 / CCT_RANGE_K[0], 2000)
_WHITES_1960 = np.array([uv_of(*white_xy(1e6 / mired)) * [1.0, 2 / 3] for mired in _MIREDS])
