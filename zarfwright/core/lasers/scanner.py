"""What a head's mirrors make of a figure: rounder corners and smaller figures the faster it is drawn.

A figure is drawn again and again until another comes, so the mirrors' answer is periodic, and worked out by its Fourier
series: each mirror is two equal poles (critically damped: it never swings over), |H(f)| = 1 / (1 + (f / f0)^2).
A head rated at R points a second draws the standard's test circle of 12 points over 8 degrees 3 dB too small at R, so
that 1 / (1 + (f / f0)^2) = 1 / sqrt 2 at f = R / 12. What that circle asks of the mirrors in speed and acceleration is
all that they have: a figure that asks for more is drawn by mirrors as much slower. Colours are held back as long as the
mirrors lag, as in a head that is tuned.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.space import Floats

RATED_POINTS, RATED_DEG = 12, 8.0
MINUS_3_DB = math.sqrt(math.sqrt(2.0) - 1.0)
"""f / f0 where 1 / (1 + (f / f0)^2) is 1 / sqrt 2."""
TRIES = 24
FITS = 1.001


def natural_hz(rated_pps: float) -> float:
    """f0 of mirrors rated at so many points a second."""
    return rated_pps / RATED_POINTS / MINUS_3_DB


def most_speed(rated_pps: float) -> float:
    """The greatest speed of a mirror, degrees a second."""
    return RATED_DEG / 2 / math.sqrt(2.0) * math.tau * rated_pps / RATED_POINTS


def most_acceleration(rated_pps: float) -> float:
    """The greatest acceleration of a mirror, degrees a second squared."""
    return most_speed(rated_pps) * math.tau * rated_pps / RATED_POINTS


def _passed(hz: Floats, own: Floats) -> NDArray[np.complex128]:
    """What mirrors of f0 `own` (k, 1) make of each frequency, (k, m). Held back: the straight part of the lag is taken
    out, 2 / (2 pi f0)."""
    return np.asarray(np.exp(2j * (hz / own)) / (1 + 1j * (hz / own)) ** 2)


def answered(angles: Floats, rate_pps: float, rated_pps: float) -> Floats:
    """Where mirrors are (..., n), degrees, that are told to be at angles (..., n), point by point, over and over."""
    n = angles.shape[-1]
    flat = angles.reshape(-1, n)
    if n < 3 or not len(flat):
        return angles
    spectrum = np.fft.rfft(flat, axis=-1)
    # In the precision that the angles come in: half the work where that is single.
    hz = np.fft.rfftfreq(n, 1 / rate_pps).astype(angles.dtype)
    way, f0 = 2j * np.pi * hz, natural_hz(rated_pps)
    speed, quick = most_speed(rated_pps), most_acceleration(rated_pps)
    own = np.full((len(flat), 1), f0, dtype=angles.dtype)
    # Most ask for nothing that the mirrors do not have: they share one answer.
    moved = spectrum * _passed(hz, np.array([[f0]], dtype=angles.dtype))
    asking = np.arange(len(flat))
    for _ in range(TRIES):
        asked = moved[asking]
        # No more than the sum of its parts: whoever is below with that needs no closer look.
        size = np.abs(asked) * (2 / n)
        least = np.maximum(size @ np.abs(way) / speed, np.sqrt(size @ np.abs(way) ** 2 / quick))
        asking, asked = asking[least > 1.0], asked[least > 1.0]
        fast = np.abs(np.fft.irfft(asked * way, n, axis=-1)).max(axis=-1, initial=0.0) / speed
        hard = np.abs(np.fft.irfft(asked * way**2, n, axis=-1)).max(axis=-1, initial=0.0) / quick
        over = np.maximum(fast, np.sqrt(hard))
        asking, over = asking[over > FITS], over[over > FITS]
        if not len(asking):
            break
        own[asking] /= np.minimum(over, 2.0)[:, None]
        moved[asking] = spectrum[asking] * _passed(hz, own[asking])
    return np.asarray(np.fft.irfft(moved, n, axis=-1)).reshape(angles.shape)
