"""What is constant of the beams of a type in a mode: worked out once for each."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from zarfwright.core.dmx.features import DRIVES, EMITTERS
from zarfwright.core.dmx.mode import default_zoom_deg
from zarfwright.core.lasers.light import beam_of
from zarfwright.core.lasers.light import flux_lm as laser_lm
from zarfwright.core.memo import Memo
from zarfwright.core.optics.beam import FROST_BEAM_SHARE, FROST_DEG, RIM_DEG_MAX, peak_candela
from zarfwright.core.optics.colour import rgb_from_xyy, white_rgb
from zarfwright.core.optics.spectrum import MATCHING, WAVELENGTHS, chromaticity, sampled, transmission_rgb
from zarfwright.core.space import Floats
from zarfwright.core.types.chain import Chain, chains_of
from zarfwright.core.types.model import Chromaticity, Emitter, Facet, Filter, FixtureType, Mode, Wheel

ADDITIVE = {
    "red": (0.690, 0.308, 22.0), "green": (0.170, 0.700, 45.0), "blue": (0.140, 0.045, 7.0),
    "white": (0.313, 0.329, 70.0), "amber": (0.560, 0.430, 35.0), "lime": (0.405, 0.545, 70.0),
    "yellow light": (0.480, 0.510, 60.0),
    "cyan light": (0.160, 0.330, 30.0), "magenta light": (0.320, 0.154, 15.0), "warm white": (0.440, 0.403, 60.0),
    "cold white": (0.300, 0.310, 70.0), "ultraviolet": (0.165, 0.010, 0.6),
}  # fmt: skip
"""x, y and relative flux of light sources whose type does not say: typical LEDs."""
SUBTRACTIVE = ("cyan", "magenta", "yellow")
WEB_FIELD_DEG_MAX = 112.0
SAME_XY = 0.02
ZOOM_STEPS = 48
ZOOM_LEAST_DEG = 0.1
HARD_KINDS = {"Spot", "Rectangle", "PC"}


def _zoom_range(mode: Mode, chain: Chain) -> tuple[float, float]:
    channel = mode.channel("Zoom")
    ends = [end for f in channel.functions if f.attribute == "Zoom" for end in f.physical] if channel else []
    own = default_zoom_deg(chain)
    if not ends:
        return own, own
    # Files have said 0 and more than half a turn: no lens does either.
    low, high = np.clip([min(ends), max(ends)], ZOOM_LEAST_DEG, RIM_DEG_MAX)
    return float(low), float(high)


def _emitters(fixture_type: FixtureType, mode: Mode, chain: Chain) -> tuple[Floats, Floats]:
    """Of each of EMITTERS at full: linear RGB (12, 3), all together of luminance 1; and its spectrum (12, WAVELENGTHS),
    as bright by MATCHING, zeros where the type does not say it. Zeros as well: no emitters."""
    used: dict[int, Emitter] = {}
    for channel in mode.channels:
        if channel.geometry not in chain.path:
            continue
        for function in channel.functions:
            drives = DRIVES.get(function.attribute, ())
            if not drives or drives[0].feature not in ADDITIVE:
                continue
            name = drives[0].feature
            emitter = next((e for e in fixture_type.emitters if e.name == function.emitter), None)
            used[EMITTERS.index(name)] = emitter or Emitter(name, Chromaticity(*ADDITIVE[name]))
    rgb, spectra = np.zeros((len(EMITTERS), 3)), np.zeros((len(EMITTERS), len(WAVELENGTHS)))
    whole = max(sum(emitter.colour.luminance for emitter in used.values()), 1e-9)
    for i, emitter in used.items():
        colour = emitter.colour
        rgb[i] = rgb_from_xyy(colour.x, colour.y, colour.luminance / whole)
        values = np.clip(sampled(emitter.spectrum), 0.0, None) if emitter.spectrum else np.zeros(0)
        seen = chromaticity(values) if len(values) else None
        # One that is of another colour than is said (changed in the shop, or a fault of a file) tells nothing.
        if seen is not None and math.dist(seen, (colour.x, colour.y)) < SAME_XY:
            spectra[i] = values * (colour.luminance / whole / max(float(MATCHING[1] @ values), 1e-12))
    return rgb, spectra


def _wheel_of(fixture_type: FixtureType, mode: Mode, feature: str) -> Wheel | None:
    """The wheel behind a feature such as "gobo slot": of the first function that turns it and names one."""
    for channel in mode.channels:
        for function in channel.functions:
            if function.wheel and any(drive.feature == feature for drive in DRIVES.get(function.attribute, ())):
                return fixture_type.wheel(function.wheel)
    return None


def wheel_behind(fixture_type: FixtureType, mode_name: str, feature: str) -> Wheel | None:
    """The wheel whose slots a feature such as `gobo slot` chooses, of a type in a mode."""
    return _wheel_of(fixture_type, fixture_type.mode(mode_name), feature)


def lets_through(colour: Chromaticity | None, filtered: Filter | None, kelvin: float) -> Floats:
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
    return np.array([lets_through(s.colour, fixture_type.filter(s.filter), kelvin) for s in wheel.slots])


def _filters(fixture_type: FixtureType, mode: Mode, kelvin: float) -> Floats:
    """What cyan, magenta and yellow let through when they are fully in, shape (3, 3)."""
    rgb = 1.0 - np.eye(3)
    for channel in mode.channels:
        for function in channel.functions:
            found = fixture_type.filter(function.filter)
            for drive in DRIVES.get(function.attribute, ()) if found else ():
                if drive.feature in SUBTRACTIVE:
                    rgb[SUBTRACTIVE.index(drive.feature)] = lets_through(None, found, kelvin)
    return rgb


@dataclass(frozen=True, eq=False)
class Constants:
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
    flux_lm: float
    laser: bool
    spectra: Floats
    """(12, WAVELENGTHS) of the emitters at full; zeros of those whose spectrum nobody knows."""


def _constants(fixture_type: FixtureType, mode: Mode, chain: Chain) -> Constants:
    beam = chain.beam
    low, high = _zoom_range(mode, chain)
    share = min(beam.beam_angle_deg / max(beam.field_angle_deg, 1e-6), 1.0)
    hard = beam.kind in HARD_KINDS
    zooms = np.linspace(low, high, ZOOM_STEPS)
    web = fixture_type.webs.get(chain.path[-1])
    light = beam_of(fixture_type, mode.name, chain)
    # A laser's flux is that of its wavelengths.
    flux = beam.flux_lm if light is None else laser_lm(light)
    candela = np.array([peak_candela(flux, z * share, z, hard) for z in zooms])
    if web is not None:
        candela = np.full(ZOOM_STEPS, web.peak_cd)
        # The stage draws a soft beam out to one and a half times its field: as far as the web is worth seeing.
        low = high = min(2 * web.reach_deg / 1.5, WEB_FIELD_DEG_MAX)
    frosted_deg = np.minimum(zooms + FROST_DEG, RIM_DEG_MAX)
    frosted = np.array([peak_candela(flux, z * FROST_BEAM_SHARE, z, False) for z in frosted_deg])
    (emitters, spectra), kelvin = _emitters(fixture_type, mode, chain), beam.colour_temperature_k
    white = np.zeros(3) if np.any(emitters) else white_rgb(beam.colour_temperature_k)
    brightest = float(max(np.clip(emitters, 0, None).sum(axis=0).max(), white.max(), 1e-6))
    wheels = [_wheel_of(fixture_type, mode, feature) for feature in ("gobo slot", "gobo 2 slot")]
    keys = fixture_type.image_keys
    gobos = [tuple(keys.get(slot.image or "") for slot in wheel.slots) if wheel else (None,) for wheel in wheels]
    prism = _wheel_of(fixture_type, mode, "prism slot")
    return Constants(
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
        flux_lm=flux,
        laser=beam.laser is not None,
        spectra=spectra,
    )


def with_lamp(one: Constants, flux_share: float, kelvin: float | None) -> Constants:
    """A beam with another lamp behind it: as bright as that is, and as white. Sources that mix colour stay theirs."""
    mixes = bool(np.any(one.emitters))
    warmth = one.source_k if kelvin is None or mixes else kelvin
    white = one.white if mixes else white_rgb(warmth)
    brightest = float(max(white.max(), 1e-6)) / float(max(one.white.max(), 1e-6)) if not mixes else 1.0
    return replace(
        one,
        candela=one.candela * flux_share,
        frosted=one.frosted * flux_share,
        flux_lm=one.flux_lm * flux_share,
        peak=max(one.peak * flux_share * brightest, 1e-6),
        white=white,
        source_k=warmth,
    )


def in_figure(one: Constants) -> Constants:
    """A laser whose light is drawn as a figure (core/lasers): its beam as such is dark. Others stay as they are."""
    if not one.laser:
        return one
    return replace(one, candela=np.zeros_like(one.candela), frosted=np.zeros_like(one.frosted), flux_lm=0.0, peak=1e-6)


def with_lens(one: Constants, field_deg: float) -> Constants:
    """A beam behind another lens tube: the same light in another angle, beam and field in proportion. What shines by a
    measured web, or zooms by itself, stays as it is."""
    if one.web is not None or one.high > one.low:
        return one
    beam_deg = field_deg * one.beam_share
    frosted_deg = min(field_deg + FROST_DEG, RIM_DEG_MAX)
    candela = peak_candela(one.flux_lm, beam_deg, field_deg, one.hard > 0.5)
    frosted = peak_candela(one.flux_lm, frosted_deg * FROST_BEAM_SHARE, frosted_deg, False)
    return replace(
        one,
        low=field_deg,
        high=field_deg,
        candela=np.full(ZOOM_STEPS, candela),
        frosted=np.full(ZOOM_STEPS, frosted),
        peak=max(candela * one.peak / max(float(one.candela.max()), 1e-9), 1e-6),
    )


def _of_mode(fixture_type: FixtureType, name: str) -> tuple[Constants, ...]:
    mode = fixture_type.mode(name)
    return tuple(_constants(fixture_type, mode, chain) for chain in chains_of(fixture_type, name))


constants_of = Memo(_of_mode, 120)
"""The constants of each beam of a type in a mode, in the order of its rows."""
