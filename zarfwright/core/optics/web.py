"""Photometric webs: candela measured in every direction (IES LM-63), in place of a beam's formula.

Directions: gamma from the axis (0 along the head's -Z), phi about it (0 along the head's X, a quarter along its Y).
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zarfwright.core.space import Floats
from zarfwright.core.types.model import WebInfo

NEGLIGIBLE = 0.004
ROWS, COLUMNS = 128, 64
"""Of the table that the stage gets: rows by the square root of gamma / pi, columns by phi."""


@dataclass(frozen=True, eq=False)
class Web:
    """Candela over gamma (g,) and phi (p,) in radians, both rising; phi runs over the whole turn."""

    gamma: Floats
    phi: Floats
    candela: Floats
    """(p, g)"""

    @cached_property
    def peak_cd(self) -> float:
        return float(self.candela.max())

    def toward(self, gamma: ArrayLike, phi: ArrayLike) -> Floats:
        """Candela in directions, straight between the measured ones; 0 beyond the last gamma."""
        g, p = np.broadcast_arrays(np.asarray(gamma, dtype=float), np.asarray(phi, dtype=float) % (2 * np.pi))
        i = np.clip(np.searchsorted(self.gamma, g, side="right") - 1, 0, max(len(self.gamma) - 2, 0))
        j = np.clip(np.searchsorted(self.phi, p, side="right") - 1, 0, max(len(self.phi) - 2, 0))
        fg = np.clip((g - self.gamma[i]) / np.maximum(self.gamma[i + 1] - self.gamma[i], 1e-12), 0.0, 1.0)
        fp = np.clip((p - self.phi[j]) / np.maximum(self.phi[j + 1] - self.phi[j], 1e-12), 0.0, 1.0)
        low = self.candela[j, i] * (1 - fg) + self.candela[j, i + 1] * fg
        high = self.candela[j + 1, i] * (1 - fg) + self.candela[j + 1, i + 1] * fg
        return np.where(g <= self.gamma[-1] + 1e-9, low * (1 - fp) + high * fp, 0.0)

    @cached_property
    def table(self) -> NDArray[np.float32]:
        """(ROWS, COLUMNS) shares of the peak, as the stage samples them; columns lie in the middle of their part."""
        gamma = np.pi * (np.arange(ROWS) / (ROWS - 1)) ** 2
        phi = 2 * np.pi * (np.arange(COLUMNS) + 0.5) / COLUMNS
        return (self.toward(gamma[:, None], phi[None]) / max(self.peak_cd, 1e-9)).astype(np.float32)

    @cached_property
    def key(self) -> str:
        """What names the table on the wire and in caches."""
        return hashlib.sha256(self.table.tobytes()).hexdigest()[:24]

    @property
    def flux_lm(self) -> float:
        """Lumen in all: the integral of candela over the sphere."""
        gamma = np.linspace(0, np.pi, 721)
        phi = 2 * np.pi * (np.arange(72) + 0.5) / 72
        mean = self.toward(gamma[:, None], phi[None]).mean(axis=1)
        return float(2 * np.pi * np.trapezoid(mean * np.sin(gamma), gamma))

    @cached_property
    def info(self) -> WebInfo:
        """What a fixture type keeps of it."""
        gamma = np.linspace(0, np.pi / 2, 181)
        most = self.toward(gamma[:, None], (2 * np.pi * np.arange(36) / 36)[None]).max(axis=1)
        bright = np.flatnonzero(most > NEGLIGIBLE * self.peak_cd)
        return WebInfo(self.key, self.peak_cd, float(np.degrees(gamma[bright[-1]])) if len(bright) else 90.0)

    def angle_deg(self, share: float) -> float:
        """The full angle at which the mean candela round the axis has fallen to a share of the axis'."""
        gamma = np.linspace(0, np.pi / 2, 1801)
        mean = self.toward(gamma[:, None], (2 * np.pi * (np.arange(36) + 0.5) / 36)[None]).mean(axis=1)
        below = np.flatnonzero(mean < share * mean[0])
        return float(np.degrees(2 * gamma[below[0]])) if len(below) else 180.0
