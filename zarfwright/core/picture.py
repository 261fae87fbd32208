"""From features to what the stage draws: one row of numbers for each beam.

The same function makes every frame: live, held, a look recalled, two looks compared.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.features import DRIVES, EMITTERS, INDEX
from zarfwright.core.dmx.mode import default_zoom_deg
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.optics.beam import FROST_BEAM_SHARE, FROST_DEG, RIM_DEG_MAX, peak_candela
from zarfwright.core.optics.colour import LUMINANCE, rgb_from_xyy, white_rgb
from zarfwright.core.optics.spectrum import transmission_rgb
from zarfwright.core.space import Floats
from zarfwright.core.types.chain import Chain, chains_of
from zarfwright.core.types.model import Chromaticity, Facet, Filter, FixtureType, Mode, Wheel

FIELDS = (
    "pan",
    "tilt",
    "field",
    "beam",
    "red",
    "green",
    "blue",
    "hard",
    "iris",
    "strobe",
    "focus",
    "frost",
    "gobo",
    "gobo_turn",
    "gobo_spin",
    "prism",
    "gobo2",
    "gobo2_turn",
    "gobo2_spin",
    "prism_turn",
    "blade1",
    "blade2",
    "blade3",
    "blade4",
    "blade1_angle",
    "blade2_angle",
    "blade3_angle",
    "blade4_angle",
    "blades_turn",
    "prism_spin",
    "frost_gain",
    "web",
    "strobe_kind",
)
"""Columns of a frame: angles in radians (field and beam are full angles), red green blue as shares of the beam's
`peak_cd` (they may be negative, outside Rec. 709), hard 0 or 1 (what kind of edge), iris, focus, frost and blades 0..1,
strobe in Hz, spins in rad/s. `gobo` and `gobo2` count the rig's gobo images from 1 (0: open), `prism` its prisms, `web`
its photometric webs, `strobe_kind` counts STROBE_KINDS from 0.
`frost_gain` is the peak of the frosted beam over that of the clear one."""

COLUMN = {name: i for i, name in enumerate(FIELDS)}
ADDITIVE = {
    "red": (0.690, 0.308, 22.0), "green": (0.170, 0.700, 45.0), "blue": (0.140, 0.045, 7.0),
    "white": (0.313, 0.329, 70.0), "amber": (0.560, 0.430, 35.0), "lime": (0.405, 0.545, 70.0),
    "yellow light": (0.480, 0.510, 60.0),
    "cyan light": (0.160, 0.330, 30.0), "magenta light": (0.320, 0.154, 15.0), "warm white": (0.440, 0.403, 60.0),
    "cold white": (0.300, 0.310, 70.0), "ultraviolet": (0.165, 0.010, 0.6),
}  # fmt: skip
"""x, y and relative flux of light sources whose type does not say: typical LEDs."""
SUBTRACTIVE = ("cyan", "magenta", "yellow")
SPINS = (("gobo_turn", "gobo_spin"), ("gobo2_turn", "gobo2_spin"), ("prism_turn", "prism_spin"))
PLAIN = {
    "pan": "pan", "tilt": "tilt", "strobe": "strobe", "gobo_turn": "gobo turn", "gobo_spin": "gobo spin",
    "gobo2_turn": "gobo 2 turn", "gobo2_spin": "gobo 2 spin", "prism_turn": "prism turn", "prism_spin": "prism spin",
    "blades_turn": "blades turn", "strobe_kind": "strobe kind",
    **{f"blade{n}_angle": f"blade {n} angle" for n in (1, 2, 3, 4)},
}  # fmt: skip
"""Columns that are a feature as it is."""
SHARES = {"iris": "iris", "focus": "focus", "frost": "frost", **{f"blade{n}": f"blade {n}" for n in (1, 2, 3, 4)}}
"""Columns that are a feature kept within 0..1."""
WEB_FIELD_DEG_MAX = 112.0
ZOOM_STEPS = 48
ZOOM_LEAST_DEG = 0.1
HARD_KINDS = {"Spot", "Rectangle", "PC"}
BLADE_SPAN = 2.0
"""The two ends of a blade that are set apart stand this far from each other, in gate radii."""
MIREDS = np.linspace(80.0, 500.0, 64)
WHITES = np.array([white_rgb(1e6 / mired) for mired in MIREDS])
WARM_K, COLD_K = 2800.0, 9000.0
"""Where colour correction leads that is given as a share of the way."""


def _zoom_range(mode: Mode, chain: Chain) -> tuple[float, float]:
    channel = mode.channel("Zoom")
    ends = [end for f in channel.functions if f.attribute == "Zoom" for end in f.physical] if channel else []
    own = default_zoom_deg(chain)
    if not ends:
        return own, own
    # Files have said 0 and more than half a turn: no lens does either.
    low, high = np.clip([min(ends), max(ends)], ZOOM_LEAST_DEG, RIM_DEG_MAX)
    return float(low), float(high)


def _emitter_rgb(fixture_type: FixtureType, mode: Mode, chain: Chain) -> Floats:
    """Linear RGB of each of EMITTERS at full, shape (12, 3); all together have luminance 1. Zeros: no emitters."""
    used: dict[int, Chromaticity] = {}
    for channel in mode.channels:
        if channel.geometry not in chain.path:
            continue
        for function in channel.functions:
            drives = DRIVES.get(function.attribute, ())
            if not drives or drives[0].feature not in ADDITIVE:
                continue
            name = drives[0].feature
            emitter = next((e for e in fixture_type.emitters if e.name == function.emitter), None)
            used[EMITTERS.index(name)] = emitter.colour if emitter else Chromaticity(*ADDITIVE[name])
    rgb = np.zeros((len(EMITTERS), 3))
    whole = sum(colour.luminance for colour in used.values())
    for i, colour in used.items():
        rgb[i] = rgb_from_xyy(colour.x, colour.y, colour.luminance / max(whole, 1e-9))
    return rgb


def _wheel_of(fixture_type: FixtureType, mode: Mode, feature: str) -> Wheel | None:
    """The wheel behind a feature such as "gobo slot": of the first function that turns it and names one."""
    for channel in mode.channels:
        for function in channel.functions:
            if function.wheel and any(drive.feature == feature for drive in DRIVES.get(function.attribute, ())):
                return fixture_type.wheel(function.wheel)
    return None


def _lets_through(colour: Chromaticity | None, filtered: Filter | None, kelvin: float) -> Floats:
    """Transmission (3,) in linear RGB of a slot or filter; by its spectrum where it has one; open is 1, 1, 1."""
    if filtered is not None and filtered.spectrum:
        return transmission_rgb(filtered.spectrum, kelvin)
    said = colour or (filtered.colour if filtered else None)
    if said is None or said.luminance >= 99.9:
        return np.ones(3)
    return np.clip(rgb_from_xyy(said.x, said.y, said.luminance / 100), 0.0, 1.0)


def _wheel_rgb(fixture_type: FixtureType, wheel: Wheel | None, kelvin: float) -> Floats:
    """Transmission in linear RGB of each slot of a colour wheel, shape (slots, 3)."""
    if wheel is None or not wheel.slots:
        return np.ones((1, 3))
    return np.array([_lets_through(s.colour, fixture_type.filter(s.filter), kelvin) for s in wheel.slots])


def _filters(fixture_type: FixtureType, mode: Mode, kelvin: float) -> Floats:
    """What cyan, magenta and yellow let through when they are fully in, shape (3, 3)."""
    rgb = 1.0 - np.eye(3)
    for channel in mode.channels:
        for function in channel.functions:
            found = fixture_type.filter(function.filter)
            for drive in DRIVES.get(function.attribute, ()) if found else ():
                if drive.feature in SUBTRACTIVE:
                    rgb[SUBTRACTIVE.index(drive.feature)] = _lets_through(None, found, kelvin)
    return rgb


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


@dataclass(frozen=True, eq=False)
class _Constants:
    """The constants of one beam of a type in a mode."""

    low: float
    high: float
    candela: Floats
    frosted: Floats
    beam_share: float
    white: Floats
    emitters: Floats
    filters: Floats
    colours: tuple[Floats, Floats, Floats]
    source_k: float
    gobos: tuple[tuple[str | None, ...], tuple[str | None, ...]]
    prisms: tuple[tuple[Facet, ...], ...]
    hard: float
    peak: float
    web: str | None


def _constants(fixture_type: FixtureType, mode: Mode, chain: Chain) -> _Constants:
    beam = chain.beam
    low, high = _zoom_range(mode, chain)
    share = min(beam.beam_angle_deg / max(beam.field_angle_deg, 1e-6), 1.0)
    hard = beam.kind in HARD_KINDS
    zooms = np.linspace(low, high, ZOOM_STEPS)
    web = fixture_type.webs.get(chain.path[-1])
    candela = np.array([peak_candela(beam.flux_lm, z * share, z, hard) for z in zooms])
    if web is not None:
        candela = np.full(ZOOM_STEPS, web.peak_cd)
        # The stage draws a soft beam out to one and a half times its field: as far as the web is worth seeing.
        low = high = min(2 * web.reach_deg / 1.5, WEB_FIELD_DEG_MAX)
    frosted_deg = np.minimum(zooms + FROST_DEG, RIM_DEG_MAX)
    frosted = np.array([peak_candela(beam.flux_lm, z * FROST_BEAM_SHARE, z, False) for z in frosted_deg])
    emitters, kelvin = _emitter_rgb(fixture_type, mode, chain), beam.colour_temperature_k
    white = np.zeros(3) if np.any(emitters) else white_rgb(beam.colour_temperature_k)
    brightest = float(max(np.clip(emitters, 0, None).sum(axis=0).max(), white.max(), 1e-6))
    wheels = [_wheel_of(fixture_type, mode, feature) for feature in ("gobo slot", "gobo 2 slot")]
    keys = fixture_type.image_keys
    gobos = [tuple(keys.get(slot.image or "") for slot in wheel.slots) if wheel else (None,) for wheel in wheels]
    prism = _wheel_of(fixture_type, mode, "prism slot")
    return _Constants(
        low=low,
        high=high,
        candela=candela,
        frosted=frosted,
        beam_share=share,
        white=white,
        emitters=emitters,
        filters=_filters(fixture_type, mode, kelvin),
        colours=(
            _wheel_rgb(fixture_type, _wheel_of(fixture_type, mode, "colour slot"), kelvin),
            _wheel_rgb(fixture_type, _wheel_of(fixture_type, mode, "colour 2 slot"), kelvin),
            _wheel_rgb(fixture_type, _wheel_of(fixture_type, mode, "macro slot"), kelvin),
        ),
        source_k=kelvin,
        gobos=(gobos[0], gobos[1]),
        prisms=tuple(slot.facets for slot in prism.slots) if prism else ((),),
        hard=1.0 if hard else 0.0,
        peak=max(float(candela.max()) * brightest, 1e-6),
        web=web.key if web is not None else None,
    )


def _numbered(rows: list[tuple[int, ...]]) -> NDArray[np.int64]:
    """Rows of unequal length as one table; what is missing is 0."""
    table = np.zeros((len(rows), max((len(row) for row in rows), default=1)), dtype=np.int64)
    for r, row in enumerate(rows):
        table[r, : len(row)] = row
    return table


def beam_table(rows: Sequence[PatchRow]) -> BeamTable:
    """The constants of the rig's beams, in the order of `compile_rig`."""
    per_mode: dict[tuple[int, str], list[_Constants]] = {}
    picked: list[_Constants] = []
    gels: list[Floats] = []
    for row in rows:
        key = (id(row.type), row.mode)
        if key not in per_mode:
            mode = row.type.mode(row.mode)
            per_mode[key] = [_constants(row.type, mode, chain) for chain in chains_of(row.type, row.mode)]
        picked += per_mode[key]
        gels += [_lets_through(row.gel, None, 0.0)] * len(per_mode[key])
    n = len(picked)
    gobos = sorted({key for one in picked for wheel in one.gobos for key in wheel if key})
    prisms = sorted({facets for one in picked for facets in one.prisms if facets}, key=repr)
    webs = sorted({one.web for one in picked if one.web})

    def colour_wheel(wheel: int) -> ColourWheel:
        counts = np.array([len(one.colours[wheel]) for one in picked], dtype=np.int64)
        colours = np.ones((n, int(counts.max(initial=1)), 3))
        for r, one in enumerate(picked):
            colours[r, : counts[r]] = one.colours[wheel]
        return ColourWheel(colours, counts)

    def gobo_rows(wheel: int) -> NDArray[np.int64]:
        return _numbered([tuple(gobos.index(k) + 1 if k else 0 for k in one.gobos[wheel]) for one in picked])

    def gobo_counts(wheel: int) -> NDArray[np.int64]:
        return np.array([len(one.gobos[wheel]) for one in picked], dtype=np.int64)

    return BeamTable(
        peak_cd=np.array([one.peak for one in picked]),
        zoom_low=np.array([one.low for one in picked]),
        zoom_high=np.array([one.high for one in picked]),
        candela=np.array([one.candela for one in picked]).reshape(n, ZOOM_STEPS),
        frosted=np.array([one.frosted for one in picked]).reshape(n, ZOOM_STEPS),
        beam_share=np.array([one.beam_share for one in picked]),
        white=np.array([one.white for one in picked]).reshape(n, 3),
        emitters=np.array([one.emitters for one in picked]).reshape(n, len(EMITTERS), 3),
        filters=np.array([one.filters for one in picked]).reshape(n, 3, 3),
        wheels=(colour_wheel(0), colour_wheel(1), colour_wheel(2)),
        source_k=np.array([one.source_k for one in picked]),
        hard=np.array([one.hard for one in picked]),
        gobo_of_slot=(gobo_rows(0), gobo_rows(1)),
        gobo_slots=(gobo_counts(0), gobo_counts(1)),
        prism_of_slot=_numbered([tuple(prisms.index(f) + 1 if f else 0 for f in one.prisms) for one in picked]),
        gobos=tuple(gobos),
        prisms=tuple(prisms),
        gel=np.array(gels).reshape(n, 3),
        web=np.array([webs.index(one.web) + 1 if one.web else 0 for one in picked], dtype=np.int64),
        webs=tuple(webs),
    )


def luminance_share(frame: NDArray[np.float32]) -> Floats:
    """(n,) how bright each beam of a frame is, as a share of its peak candela."""
    return np.asarray(frame[:, COLUMN["red"] : COLUMN["blue"] + 1] @ LUMINANCE)
