"""What a head's mirrors make of a figure: rounder corners and smaller figures the faster it is drawn.

A figure is drawn again and again until another comes, so the mirrors' answer is periodic, and worked out by its Fourier
series: each mirror is two equal poles (critically damped: it never swings over), |H(f)| = 1 / (1 + (f / f0)^2).
A head rated at R points a second draws the standard's test circle of 12 points over 8 degrees 3 dB too small at R, so
that 1 / (1 + (f / f0)^2) = 1 / sqrt 2 at f = R / 12. What that circle asks of the mirrors in speed and acceleration is
all that they have: where a figure asks for more, as in a jump, it is drawn by mirrors half, a quarter ... as fast, and
by quick ones elsewhere. Colours are held back as long as the mirrors lag, as in a head that is tuned.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.space import Floats

RATED_POINTS, RATED_DEG = 12, 8.0
MINUS_3_DB = math.sqrt(math.sqrt(2.0) - 1.0)
"""f / f0 where 1 / (1 + (f / f0)^2) is 1 / sqrt 2."""
SLOWER_MOST = 5
"""Mirrors are drawn with down to one thirty-second of their speed."""
SETTLES = 1.0
FITS = 1.001
Spectra = NDArray[Any]
"""Complex, in the precision that the angles have."""


def natural_hz(rated_pps: float) -> float:
    """f0 of mirrors rated at so many points a second."""
    return rated_pps / RATED_POINTS / MINUS_3_DB


def most_speed(rated_pps: float) -> float:
    """The greatest speed of a mirror, degrees a second."""
    return RATED_DEG / 2 / math.sqrt(2.0) * math.tau * rated_pps / RATED_POINTS


def most_acceleration(rated_pps: float) -> float:
    """The greatest acceleration of a mirror, degrees a second squared."""
    return most_speed(rated_pps) * math.tau * rated_pps / RATED_POINTS


def _passed(hz: Floats, own: float) -> Spectra:
    """What mirrors of f0 `own` make of each frequency, (m,). Held back: the straight part of the lag is taken
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
    moved = _at_once(spectrum, hz, f0, n)
    quickest = spectrum * _passed(hz, f0)
    asking = np.flatnonzero(_most(quickest, way, speed, quick, n) > 1.0)
    asking = asking[(_asked(quickest[asking], way, speed, quick, n) > FITS).any(axis=-1)]
    if not len(asking):
        return moved.reshape(angles.shape)
    # By how much slower mirrors each place is drawn: the quickest that can do what is asked round it.
    asked = spectrum[asking]
    answers, fits = [moved[asking]], []
    for slower in range(1, SLOWER_MOST + 1):
        own = f0 / 2 ** (slower - 1)
        fits.append(_fits(asked * _passed(hz, own), way, speed, quick, n, rate_pps / own))
        answers.append(_at_once(asked, hz, f0 / 2**slower, n))
    left = np.ones_like(fits[0])
    mixed = np.zeros_like(answers[0])
    for answer, fit in zip(answers, [*fits, np.ones_like(left)], strict=True):
        share = left * fit
        mixed += share * answer
        left = left - share
    moved[asking] = mixed
    return moved.reshape(angles.shape)


def _at_once(spectrum: Spectra, hz: Floats, own: float, n: int) -> Floats:
    """The answer of mirrors of one f0 to figures (k, m), (k, n)."""
    return np.asarray(np.fft.irfft(spectrum * _passed(hz, own), n, axis=-1))


def _most(answer: Spectra, way: Spectra, speed: float, quick: float, n: int) -> Floats:
    """What figures (k, m) may ask of the mirrors at most (k,), over what they have: the sum of its parts."""
    size, turn = np.abs(answer) * (2 / n), np.abs(way)
    return np.asarray(np.maximum(size @ turn / speed, size @ turn**2 / quick))


def _asked(answer: Spectra, way: Spectra, speed: float, quick: float, n: int) -> Floats:
    """What answers (k, m) ask of the mirrors at each point (k, n), over what they have."""
    fast = np.abs(np.fft.irfft(answer * way, n, axis=-1)) / speed
    return np.asarray(np.maximum(fast, np.abs(np.fft.irfft(answer * way**2, n, axis=-1)) / quick))


def _fits(answer: Spectra, way: Spectra, speed: float, quick: float, n: int, points: float) -> Floats:
    """Where mirrors can do what an answer (k, m) asks of them (k, n): 1 they can, 0 they cannot, between the two over
    some `points`."""
    over = (_asked(answer, way, speed, quick, n) > FITS).astype(answer.real.dtype)
    # So long they take to settle, before and after.
    wide = min(max(2 * round(points * SETTLES / 2) + 1, 3), n - 1 + n % 2)
    bell = np.zeros(n, dtype=over.dtype)
    bell[: wide // 2 + 1] = bell[-(wide // 2) or n :] = 1.0
    kernel = np.fft.rfft(bell)
    near = np.fft.irfft(np.fft.rfft(over, axis=-1) * kernel, n, axis=-1) > 0.5
    soft = np.fft.irfft(np.fft.rfft(near.astype(over.dtype), axis=-1) * kernel, n, axis=-1) / wide
    return np.clip(1.0 - soft, 0.0, 1.0)
