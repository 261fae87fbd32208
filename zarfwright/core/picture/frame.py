"""From features to what the stage draws, for all beams of a rig at once."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.features import EMITTERS, INDEX
from zarfwright.core.optics.colour import white_rgb
from zarfwright.core.picture.constants import SUBTRACTIVE, ZOOM_STEPS
from zarfwright.core.picture.fields import COLUMN, FIELDS, PLAIN, SHARES
from zarfwright.core.space import Floats, single
from zarfwright.core.types.model import Facet

BLADE_SPAN = 2.0
"""The two ends of a blade that are set apart stand this far from each other, in gate radii."""
MIREDS = np.linspace(80.0, 500.0, 64)
WHITES = np.array([white_rgb(1e6 / mired) for mired in MIREDS])
WHITES_ROWS = np.ascontiguousarray(WHITES.T)
WARM_K, COLD_K = 2800.0, 9000.0
"""Where colour correction leads that is given as a share of the way."""

COLOUR_SLOT, COLOUR_2_SLOT, MACRO_SLOT = INDEX["colour slot"], INDEX["colour 2 slot"], INDEX["macro slot"]
CORRECTIONS = [INDEX[name] for name in ("warmer", "colder", "white point")]
ZOOM, DIMMERS = INDEX["zoom"], [INDEX[name] for name in ("dimmer", "master dimmer", "shutter")]
PLAIN_COLUMNS = [(COLUMN[field], INDEX[feature]) for field, feature in PLAIN.items()]
SHARE_COLUMNS = [(COLUMN[field], INDEX[feature]) for field, feature in SHARES.items()]
SHARE_FIELDS = [field for field, _ in SHARE_COLUMNS]


def _four(first: int) -> slice:
    return slice(first, first + 4)


# Four blades lie beside each other, in features and in fields.
NEAR, FAR = _four(INDEX["blade 1"]), _four(INDEX["blade 1 far"])
BLADES, BLADE_ANGLES = _four(COLUMN["blade1"]), _four(COLUMN["blade1_angle"])
RGB = slice(COLUMN["red"], COLUMN["blue"] + 1)


@dataclass(frozen=True, eq=False)
class ColourWheel:
    """What each slot of a wheel lets through: linear RGB (n, slots, 3), and how many slots each beam's has (n,)."""

    colours: Floats
    count: NDArray[np.int64]

    @cached_property
    def colours_light(self) -> bool:
        """Whether any slot of any beam's wheel takes light away."""
        return bool((self.colours != 1.0).any())

    @cached_property
    def _flat(self) -> Floats:
        """Channel by channel, (3, n * slots)."""
        return np.ascontiguousarray(self.colours.reshape(-1, 3).T)

    @cached_property
    def _first(self) -> NDArray[np.int64]:
        """Where each beam's first slot is in them."""
        return np.asarray(np.arange(len(self.count)) * self.colours.shape[1])

    def at(self, position: Floats) -> Floats:
        """RGB (3, n) at positions counted from 1; between two slots, both by their share of the gate."""
        place = np.where(np.isfinite(position), position, 1.0) - 1.0
        place -= np.floor(place / self.count) * self.count
        # A hair below a whole turn is rounded up to one.
        low = np.minimum(place.astype(np.int64), self.count - 1)
        part = place - low
        colour = self._flat.take(self._first + low, axis=1)
        if part.any():
            after = np.where(low + 1 < self.count, low + 1, 0)
            colour += (self._flat.take(self._first + after, axis=1) - colour) * part
        return colour


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

    @cached_property
    def _constants(self) -> _PerBeam:
        return _PerBeam(self)

    def part(self, rows: slice) -> BeamTable:
        """The table of some of the beams; images, prisms and webs are numbered as in the whole."""
        sliced: dict[str, Any] = {
            one.name: value[rows] for one in fields(self) if isinstance(value := getattr(self, one.name), np.ndarray)
        }
        first, second = self.gobo_of_slot
        first_count, second_count = self.gobo_slots
        one, two, three = (ColourWheel(wheel.colours[rows], wheel.count[rows]) for wheel in self.wheels)
        return replace(
            self,
            **sliced,
            wheels=(one, two, three),
            gobo_of_slot=(first[rows], second[rows]),
            gobo_slots=(first_count[rows], second_count[rows]),
        )

    def single(self) -> BeamTable:
        """The table in single precision: the frames that come of it are half the work, and as fine as they are sent."""
        cast: dict[str, Any] = {
            one.name: single(value)
            for one in fields(self)
            if isinstance(value := getattr(self, one.name), np.ndarray) and value.dtype == np.float64
        }
        one, two, three = (ColourWheel(single(wheel.colours), wheel.count) for wheel in self.wheels)
        return replace(self, **cast, wheels=(one, two, three))

    def colour(self, features: Floats) -> Floats:
        """Linear RGB (n, 3) of each beam's light at full, from features (n, COUNT)."""
        return self._colour(features.T).T

    def _colour(self, column: Floats) -> Floats:
        """Linear RGB (3, n) of each beam's light from features (COUNT, n): its source through filters, or its emitters
        together. Channel by channel, and only what some beam of the rig has."""
        its = self._constants
        colour = self.white.T.copy()
        for feature, full in its.emitting:
            colour += np.minimum(np.maximum(column[feature], 0), 1) * full
        for feature, taken in its.taking:
            colour *= 1 - np.minimum(np.maximum(column[feature], 0), 1) * taken
        for feature, wheel in ((COLOUR_SLOT, self.wheels[0]), (COLOUR_2_SLOT, self.wheels[1])):
            if wheel.colours_light:
                colour *= wheel.at(column[feature])
        macro = self.wheels[2]
        if macro.colours.shape[1] > 1:
            # A built-in colour takes the place of what is mixed.
            position = column[MACRO_SLOT]
            colour = np.where(position >= 2, macro.at(position) * its.strongest, colour)
        corrections = column[CORRECTIONS]
        if corrections.any():
            colour *= its.correction(*corrections)
        return colour * its.gel if its.gels else colour

    def frame(self, features: Floats) -> NDArray[np.float32]:
        """Beam values of shape (n, len(FIELDS)) from features (n, COUNT)."""
        column, its = features.T, self._constants
        zoom = np.minimum(np.maximum(column[ZOOM], self.zoom_low), self.zoom_high)
        candela, frosted = its.at_zoom(zoom)
        strength = candela / self.peak_cd
        for level in DIMMERS:
            strength *= np.minimum(np.maximum(column[level], 0), 1)
        out = np.empty((len(FIELDS), features.shape[0]), dtype=np.float32)
        for field, feature in PLAIN_COLUMNS:
            out[field] = column[feature]
        for field, feature in SHARE_COLUMNS:
            out[field] = column[feature]
        out[SHARE_FIELDS] = np.minimum(np.maximum(out[SHARE_FIELDS], 0), 1)
        far = column[FAR]
        if (far >= 0).any():
            # A blade whose two ends are set apart: in by their mean, askew by their difference.
            near, both = column[NEAR], far >= 0
            mean = np.minimum(np.maximum((near + far) / 2, 0), 1)
            np.copyto(out[BLADES], mean, where=both, casting="same_kind")
            askew = np.arctan((far - near) / BLADE_SPAN)
            np.copyto(out[BLADE_ANGLES], askew, where=both, casting="same_kind")
        field_rad = np.radians(zoom)
        out[COLUMN["field"]] = field_rad
        out[COLUMN["beam"]] = field_rad * self.beam_share
        out[RGB] = self._colour(column) * strength
        out[COLUMN["hard"]] = self.hard
        for field, feature, table, slots in its.numbered:
            picked = np.minimum(np.maximum(column[feature].astype(np.int64) - 1, 0), slots - 1)
            out[field] = table.take(its.rows * slots + picked)
        out[COLUMN["web"]] = self.web
        out[COLUMN["frost_gain"]] = frosted / np.maximum(candela, 1e-9)
        return out.T


class _PerBeam:
    """What frames need of a table, laid out as they need it: channel by channel, tables flat."""

    def __init__(self, table: BeamTable) -> None:
        n = len(table.peak_cd)
        self.rows = np.arange(n)
        full = np.ascontiguousarray(table.emitters.transpose(1, 2, 0))
        self.emitting = [(INDEX[name], full[i]) for i, name in enumerate(EMITTERS) if full[i].any()]
        """The emitters that any beam has, each with its RGB at full, (3, n)."""
        taken = np.ascontiguousarray(1 - table.filters.transpose(1, 2, 0))
        self.taking = [(INDEX[name], taken[i]) for i, name in enumerate(SUBTRACTIVE)]
        """The filters, each with what it takes of RGB when it is fully in, (3, n)."""
        self.gel = np.ascontiguousarray(table.gel.T)
        self.gels = bool((self.gel != 1.0).any())
        whole = table.white + table.emitters.sum(axis=1)
        self.strongest = np.maximum(whole.max(axis=1, initial=0.0), 1e-6)
        self.own = 1e6 / table.source_k
        """Mireds."""
        self._own_white = np.array([np.interp(self.own, MIREDS, WHITES[:, c]) for c in range(3)])
        self.numbered = [
            (COLUMN[field], INDEX[feature], slots.reshape(-1), slots.shape[1])
            for field, feature, slots in (
                ("gobo", "gobo slot", table.gobo_of_slot[0]),
                ("gobo2", "gobo 2 slot", table.gobo_of_slot[1]),
                ("prism", "prism slot", table.prism_of_slot),
            )
        ]
        """Fields that count images: field, feature, the number of each beam's slots, and how many slots."""
        self._zoom_low = table.zoom_low
        self._zoom_step = (ZOOM_STEPS - 1) / np.maximum(table.zoom_high - table.zoom_low, 1e-9)
        self._zoom_first = self.rows * ZOOM_STEPS
        self._candela, self._frosted = table.candela.reshape(-1), table.frosted.reshape(-1)

    def at_zoom(self, zoom: Floats) -> tuple[Floats, Floats]:
        """I0 (n,) at a zoom within each beam's range: clear, and with the frost in."""
        place = (zoom - self._zoom_low) * self._zoom_step
        low = np.minimum(place.astype(np.int64), ZOOM_STEPS - 2)
        place -= low
        low += self._zoom_first
        high = low + 1
        clear, frosted = self._candela.take(low), self._frosted.take(low)
        clear += place * (self._candela.take(high) - clear)
        frosted += place * (self._frosted.take(high) - frosted)
        return clear, frosted

    def correction(self, warmer: Floats, colder: Floats, kelvin: Floats) -> Floats:
        """What a correction filter lets through (3, n): it shifts in mireds, and only takes light away."""
        own = self.own
        wanted = own + np.clip(warmer, 0, 1) * (1e6 / WARM_K - own) + np.clip(colder, 0, 1) * (1e6 / COLD_K - own)
        wanted = np.where(kelvin > 500, 1e6 / np.maximum(kelvin, 500.0), wanted)
        place = np.clip((wanted - MIREDS[0]) * (len(MIREDS) - 1) / (MIREDS[-1] - MIREDS[0]), 0, len(MIREDS) - 1)
        low = np.minimum(place.astype(np.int64), len(MIREDS) - 2)
        white = WHITES_ROWS.take(low, axis=1)
        white += (WHITES_ROWS.take(low + 1, axis=1) - white) * (place - low)
        share = white / self._own_white
        return np.asarray(share / share.max(axis=0))
