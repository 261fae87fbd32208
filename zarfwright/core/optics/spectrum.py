"""Spectra of light sources and filters, and what the eye makes of them.

A spectrum is a tuple of (wavelength in nm, value), in order of wavelength, straight between its points and zero
beyond them; a filter holds its end values beyond.
"""

from __future__ import annotations

import numpy as np

from zarfwright.core.optics.colour import rgb_from_xyy
from zarfwright.core.space import Floats

Spectrum = tuple[tuple[float, float], ...]
STEP_NM = 5.0
WAVELENGTHS = np.arange(380.0, 781.0, STEP_NM)
SECOND_RADIATION = 1.438776877e-2
"""hc/k in metre kelvin."""


def _lobe(peak: float, below: float, above: float) -> Floats:
    width = np.where(peak > WAVELENGTHS, below, above)
    return np.asarray(np.exp(-0.5 * ((WAVELENGTHS - peak) * width) ** 2))


def _matching() -> Floats:
    """CIE 1931 colour matching functions (3, n): the multi-lobe fit of Wyman, Sloan and Shirley, JCGT 2(2), 2013."""
    x = 1.056 * _lobe(599.8, 0.0264, 0.0323) + 0.362 * _lobe(442.0, 0.0624, 0.0374)
    x -= 0.065 * _lobe(501.1, 0.0490, 0.0382)
    y = 0.821 * _lobe(568.8, 0.0213, 0.0247) + 0.286 * _lobe(530.9, 0.0613, 0.0322)
    z = 1.217 * _lobe(437.0, 0.0845, 0.0278) + 0.681 * _lobe(459.0, 0.0385, 0.0725)
    return np.stack([x, y, z])


MATCHING = _matching()


def sampled(spectrum: Spectrum, filters: bool = False) -> Floats:
    """Its values at WAVELENGTHS."""
    points = np.array(spectrum, dtype=float).reshape(-1, 2)
    beyond = None if filters else 0.0
    return np.asarray(np.interp(WAVELENGTHS, points[:, 0], points[:, 1], left=beyond, right=beyond))


def planck(kelvin: float) -> Floats:
    """A black body's spectrum at WAVELENGTHS, 1 at 560 nm."""

    def radiance(metres: Floats) -> Floats:
        return np.asarray(metres**-5 / np.expm1(SECOND_RADIATION / (metres * kelvin)))

    return radiance(WAVELENGTHS * 1e-9) / radiance(np.array([560e-9]))


def chromaticity(values: Floats) -> tuple[float, float] | None:
    """CIE x, y of a spectrum given at WAVELENGTHS; None of darkness."""
    xyz = MATCHING @ values
    whole = float(xyz.sum())
    return (float(xyz[0] / whole), float(xyz[1] / whole)) if whole > 1e-12 else None


def transmission_rgb(spectrum: Spectrum, kelvin: float) -> Floats:
    """What a filter lets through of a source of this colour temperature, as shares in linear Rec.709 (3,)."""
    source = planck(kelvin)
    passed = MATCHING @ (source * np.clip(sampled(spectrum, filters=True), 0.0, None))
    clear = MATCHING @ source
    rgb = [
        rgb_from_xyy(v[0] / max(v.sum(), 1e-12), v[1] / max(v.sum(), 1e-12), v[1] / clear[1]) for v in (passed, clear)
    ]
    return np.asarray(np.clip(rgb[0] / np.maximum(rgb[1], 1e-6), 0.0, 1.0))
