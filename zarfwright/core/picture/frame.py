"""From features to what the stage draws, for all beams of a rig at once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.features import EMITTERS, INDEX
from zarfwright.core.optics.colour import white_rgb
from zarfwright.core.picture.constants import SUBTRACTIVE, ZOOM_STEPS
from zarfwright.core.picture.fields import COLUMN, FIELDS, PLAIN, SHARES
from zarfwright.core.space import Floats
from zarfwright.core.types.model import Facet

BLADE_SPAN = 2.0
"""The two ends of a blade that are set apart stand this far from each other, in gate radii."""
MIREDS = np.linspace(80.0, 500.0, 64)
WHITES = np.array([white_rgb(1e6 / mired) for mired in MIREDS])
WARM_K, COLD_K = 2800.0, 9000.0
"""Where colour correction leads that is given as a share of the way."""


@dataclass(frozen=True, eq=False)
class ColourWheel:
    """What each slot of a wheel lets through: linear RGB (n, slots, 3), and how many slots each beam's has (n,)."""

    colours: Floats
    count: NDArray[np.int64]

    @cached_property
    def colours_light(self) -> bool:
        """Whether any slot of any beam's wheel takes light away."""
        return bool((self.colours != 1.0).any())

    def at(self, position: Floats) -> Floats:
        """RGB (n, 3) at positions counted from 1; between two slots, both by their share of the gate."""
        rows = np.arange(len(position))
        place = np.mod(np.where(np.isfinite(position), position, 1.0) - 1.0, self.count)
        low = place.astype(np.int64)
        part = (place - low)[:, None]
        after = (low + 1) % self.count
        return np.asarray(self.colours[rows, low] * (1 - part) + self.colours[rows, after] * part)


@dataclass(frozen=True, eq=False)
class BeamTable:
    """What is constant for each of n beams, and how to turn features into frames."""

    peak_cd: Floats
    """(n,) candela that a colour share of 1 stands for."""
    zoom_low: Floats
    zoom_high: Floats
    candela: Floats
    """(n, ZOOM_STEPS) I0 over the zoom range."""
    frosted: Floats
    """(n, ZOOM_STEPS) I0 over the zoom range with the frost fully in."""
    beam_share: Floats
    """(n,) beam angle over field angle."""
    white: Floats
    """(n, 3) RGB of the source, zeros for additive heads."""
    emitters: Floats
    """(n, 12, 3)"""
    filters: Floats
    """(n, 3, 3) RGB that cyan, magenta and yellow let through when fully in."""
    wheels: tuple[ColourWheel, ColourWheel, ColourWheel]
    """Two colour wheels and the built-in colours."""
    source_k: Floats
    """(n,) the colour temperature of the source."""
    hard: Floats
    """(n,) 1 for a hard edge, 0 for a soft one."""
    gobo_of_slot: tuple[NDArray[np.int64], NDArray[np.int64]]
    """For each of two gobo wheels (n, slots): which image of `gobos` a slot is, counted from 1; 0 is open."""
    gobo_slots: tuple[NDArray[np.int64], NDArray[np.int64]]
    """How many slots each beam's gobo wheels have, (n,) each; 1 where there is none."""
    prism_of_slot: NDArray[np.int64]
    """(n, slots) which of `prisms` a slot is, counted from 1; 0 is none."""
    gobos: tuple[str, ...]
    """The rig's gobo images by key."""
    prisms: tuple[tuple[Facet, ...], ...]
    gel: Floats
    """(n, 3) linear RGB that the gel before the beam lets through; ones where there is none."""
    web: NDArray[np.int64]
    """(n,) which of `webs` a beam shines by, counted from 1; 0: by the formula."""
    webs: tuple[str, ...]

    def _at_zoom(self, table: Floats, zoom: Floats) -> Floats:
        width = np.maximum(self.zoom_high - self.zoom_low, 1e-9)
        place = (zoom - self.zoom_low) / width * (ZOOM_STEPS - 1)
        low = np.minimum(place.astype(np.int64), ZOOM_STEPS - 2)
        rows = np.arange(len(zoom))
        return np.asarray(table[rows, low] + (place - low) * (table[rows, low + 1] - table[rows, low]))

    def colour(self, features: Floats) -> Floats:
        """Linear RGB (n, 3) of each beam's light at full, from features (n, COUNT)."""
        return self._colour({name: features[:, i] for name, i in INDEX.items()})

    def _colour(self, column: Mapping[str, Floats]) -> Floats:
        """Linear RGB (n, 3) of each beam's light: its source through filters, or its emitters together."""
        # Channel by channel (3, n), and only what some beam of the rig has.
        light = self.white.T.copy()
        for name, full in self._emitting:
            light += np.clip(column[name], 0, 1) * full
        for name, taken in self._taking:
            light *= 1 - np.clip(column[name], 0, 1) * taken
        colour = light.T
        for name, wheel in (("colour slot", self.wheels[0]), ("colour 2 slot", self.wheels[1])):
            if wheel.colours_light:
                colour *= wheel.at(column[name])
        macro = self.wheels[2]
        if macro.colours.shape[1] > 1:
            # A built-in colour takes the place of what is mixed.
            chosen = column["macro slot"] >= 2
            full = self.white + self.emitters.sum(axis=1)
            strongest = np.maximum(full.max(axis=1, keepdims=True), 1e-6)
            colour = np.where(chosen[:, None], macro.at(column["macro slot"]) * strongest, colour)
        warmer, colder, kelvin = column["warmer"], column["colder"], column["white point"]
        if warmer.any() or colder.any() or kelvin.any():
            colour = colour * self._correction(warmer, colder, kelvin)
        return np.asarray(colour * self.gel if self._gels else colour)

    @cached_property
    def _emitting(self) -> list[tuple[str, Floats]]:
        """The emitters that any beam has, each with its RGB at full, (3, n)."""
        full = np.ascontiguousarray(self.emitters.transpose(1, 2, 0))
        return [(name, full[i]) for i, name in enumerate(EMITTERS) if full[i].any()]

    @cached_property
    def _taking(self) -> list[tuple[str, Floats]]:
        """The filters, each with what it takes of RGB when it is fully in, (3, n)."""
        taken = np.ascontiguousarray(1 - self.filters.transpose(1, 2, 0))
        return [(name, taken[i]) for i, name in enumerate(SUBTRACTIVE)]

    @cached_property
    def _gels(self) -> bool:
        return bool((self.gel != 1.0).any())

    def _correction(self, warmer: Floats, colder: Floats, kelvin: Floats) -> Floats:
        """What a correction filter lets through (n, 3): it shifts in mireds, and only takes light away."""
        own = 1e6 / self.source_k
        wanted = own + np.clip(warmer, 0, 1) * (1e6 / WARM_K - own) + np.clip(colder, 0, 1) * (1e6 / COLD_K - own)
        wanted = np.where(kelvin > 500, 1e6 / np.maximum(kelvin, 500.0), wanted)
        share = np.stack(
            [np.interp(wanted, MIREDS, WHITES[:, c]) / np.interp(own, MIREDS, WHITES[:, c]) for c in range(3)], axis=1
        )
        return np.asarray(share / share.max(axis=1, keepdims=True))

    def frame(self, features: Floats) -> NDArray[np.float32]:
        """Beam values of shape (n, len(FIELDS)) from features (n, COUNT)."""
        n = len(features)
        rows = np.arange(n)
        column = {name: features[:, i] for name, i in INDEX.items()}

        def slots(table: NDArray[np.int64], feature: str) -> NDArray[np.int64]:
            picked = np.clip(column[feature].astype(np.int64) - 1, 0, table.shape[1] - 1)
            return np.asarray(table[rows, picked])

        zoom = np.clip(column["zoom"], self.zoom_low, self.zoom_high)
        candela = self._at_zoom(self.candela, zoom)
        colour = self._colour(column)
        levels = np.clip(np.stack([column[name] for name in ("dimmer", "master dimmer", "shutter")]), 0, 1)
        strength = levels.prod(axis=0) * candela / self.peak_cd
        out = np.zeros((len(FIELDS), n), dtype=np.float32).T
        for name, feature in PLAIN.items():
            out[:, COLUMN[name]] = column[feature]
        for name, feature in SHARES.items():
            out[:, COLUMN[name]] = np.clip(column[feature], 0, 1)
        for k in (1, 2, 3, 4):
            # A blade whose two ends are set apart: in by their mean, askew by their difference.
            far = column[f"blade {k} far"]
            if (far >= 0).any():
                near, both = column[f"blade {k}"], far >= 0
                out[both, COLUMN[f"blade{k}"]] = np.clip((near + far) / 2, 0, 1)[both]
                out[both, COLUMN[f"blade{k}_angle"]] = np.arctan2(far - near, BLADE_SPAN)[both]
        out[:, COLUMN["field"]] = np.radians(zoom)
        out[:, COLUMN["beam"]] = np.radians(zoom) * self.beam_share
        out[:, COLUMN["red"] : COLUMN["blue"] + 1] = colour * strength[:, None]
        out[:, COLUMN["hard"]] = self.hard
        out[:, COLUMN["gobo"]] = slots(self.gobo_of_slot[0], "gobo slot")
        out[:, COLUMN["gobo2"]] = slots(self.gobo_of_slot[1], "gobo 2 slot")
        out[:, COLUMN["prism"]] = slots(self.prism_of_slot, "prism slot")
        out[:, COLUMN["web"]] = self.web
        out[:, COLUMN["frost_gain"]] = self._at_zoom(self.frosted, zoom) / np.maximum(candela, 1e-9)
        return out
