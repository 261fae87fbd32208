"""From luminance to what is shown: a camera or the eye, and white balance (numbers.md, Beam).

shown = L / (1.2 . 2^EV100), before the tone curve.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from zarfwright.core.optics.colour import XYZ_TO_RGB, white_xy
from zarfwright.core.space import Floats

# Bradford's cone responses (ICC.1:2010, annex E).
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
RGB_TO_XYZ = np.linalg.inv(XYZ_TO_RGB)
MIDDLE_GREY = 0.18
STARTS: dict[str, dict[str, Any]] = {
    "indoors": {"exposure_kind": "eye", "exposure_ev": 7.5, "iso": 800.0, "shutter_s": 1 / 50, "aperture": 2.8,
                "white_k": 4500.0},
    "dusk": {"exposure_kind": "eye", "exposure_ev": 9.5, "iso": 400.0, "shutter_s": 1 / 50, "aperture": 4.0,
             "white_k": 5600.0},
    "day": {"exposure_kind": "camera", "exposure_ev": 14.5, "iso": 100.0, "shutter_s": 1 / 200, "aperture": 11.0,
            "white_k": 5600.0},
}  # fmt: skip
"""Sensible settings to start from: a lit hall, an open-air stage at dusk, one by day."""


def camera_ev(aperture: float, shutter_s: float, iso: float) -> float:
    """EV100 = log2(N^2 / t) - log2(ISO / 100)."""
    return math.log2(aperture * aperture / shutter_s) - math.log2(iso / 100.0)


def eye_ev(mean_cd_m2: float) -> float:
    """The EV100 at which a mean luminance is shown as middle grey."""
    return math.log2(max(mean_cd_m2, 1e-6) / (1.2 * MIDDLE_GREY))


def shown_per_cd(ev100: float) -> float:
    """What 1 cd/m2 is shown as."""
    return float(1.0 / (1.2 * 2.0**ev100))


def white_balance(kelvin: float) -> Floats:
    """The 3x3 matrix in linear Rec. 709 that makes a white of this colour temperature look white (Bradford)."""
    x, y = white_xy(kelvin)
    source = np.array([x / y, 1.0, (1 - x - y) / y])
    d65 = RGB_TO_XYZ @ np.ones(3)
    gain = (BRADFORD @ d65) / (BRADFORD @ source)
    return np.asarray(XYZ_TO_RGB @ np.linalg.inv(BRADFORD) @ np.diag(gain) @ BRADFORD @ RGB_TO_XYZ)
