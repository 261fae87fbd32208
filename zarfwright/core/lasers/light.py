"""The light of a laser: its power by wavelength, how wide its beam is, and the irradiance where it lands.

Radiant power in watts, wavelengths in nm, irradiance in W/m2. Luminous flux = 683 lm/W . sum of V(nm) . W (CIE).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from zarfwright.core.dmx.features import DRIVES, EMITTERS, INDEX
from zarfwright.core.optics.colour import rgb_from_xyy
from zarfwright.core.optics.spectrum import MATCHING, WAVELENGTHS
from zarfwright.core.space import Floats
from zarfwright.core.types.chain import Chain
from zarfwright.core.types.model import Chromaticity, FixtureType

LM_PER_W = 683.0
USUAL_NM = (638.0, 520.0, 450.0)
"""Red, green and blue where a type does not say."""
WHITE_XY = (0.3127, 0.3290)


class Line(NamedTuple):
    """One of a head's lasers: its wavelength, its radiant power, and the feature that dims it by itself ("": none)."""

    nm: float
    watts: float
    feature: str = ""


@dataclass(frozen=True)
class LaserBeam:
    """What leaves a head: its lines, how wide it is and by how much it grows."""

    lines: tuple[Line, ...]
    diameter_m: float
    divergence_mrad: float


def beam_of(fixture_type: FixtureType, mode_name: str, chain: Chain) -> LaserBeam | None:
    """The light of a head in a mode, by its emitters' colours; None: it is no laser."""
    source = chain.beam.laser
    if source is None:
        return None
    lines: tuple[Line, ...] = (Line(source.wavelength_nm, source.output_w),)
    if not source.wavelength_nm:
        said = _wavelengths(fixture_type, mode_name, chain)
        shared = balanced(source.output_w, [nm for _, nm in said])
        lines = tuple(line._replace(feature=feature) for line, (feature, _) in zip(shared, said, strict=True))
    return LaserBeam(lines, source.diameter_m, source.divergence_mrad)


def _wavelengths(fixture_type: FixtureType, mode_name: str, chain: Chain) -> list[tuple[str, float]]:
    """The features and wavelengths that the channels of a beam mix, in the order of EMITTERS; the usual three, which
    nothing dims by themselves, where none is said."""
    found: dict[int, float] = {}
    for channel in fixture_type.mode(mode_name).channels:
        for function in channel.functions if channel.geometry in chain.path else ():
            drives = DRIVES.get(function.attribute, ())
            emitter = next((one for one in fixture_type.emitters if one.name == function.emitter), None)
            if drives and drives[0].feature in EMITTERS and emitter is not None:
                found[EMITTERS.index(drives[0].feature)] = emitter.dominant_nm or wavelength_of(emitter.colour)
    return [(EMITTERS[key], found[key]) for key in sorted(found)] or [("", nm) for nm in USUAL_NM]


def matching_at(nm: ArrayLike) -> Floats:
    """CIE 1931 colour matching (3, n) at wavelengths."""
    return np.array([np.interp(np.asarray(nm, dtype=float), WAVELENGTHS, row) for row in MATCHING])


def chromaticity_of(nm: float) -> Chromaticity:
    """What light of one wavelength looks like."""
    x, y, z = matching_at(nm)
    whole = float(x + y + z)
    return Chromaticity(round(float(x) / whole, 5), round(float(y) / whole, 5), 100.0)


def wavelength_of(colour: Chromaticity) -> float:
    """The wavelength (nm, within 400..700) whose light is of that hue: the dominant one, against equal energy white."""
    nm = np.arange(400.0, 701.0, 0.5)
    x, y, z = matching_at(nm)
    whole = x + y + z
    ways = np.stack([x / whole, y / whole]) - 1 / 3
    wanted = np.array([colour.x, colour.y]) - 1 / 3
    cosine = wanted @ ways / np.maximum(np.linalg.norm(ways, axis=0) * np.linalg.norm(wanted), 1e-12)
    return float(nm[int(np.argmax(cosine))])


def balanced(total_w: float, wavelengths: Sequence[float] = USUAL_NM) -> tuple[Line, ...]:
    """How a head of several lasers shares its power so that all of them together are white (D65). Two, or
    lasers that cannot make white, share it evenly."""
    n = len(wavelengths)
    if n == 3:
        x, y = WHITE_XY
        shares = np.linalg.lstsq(matching_at(wavelengths), np.array([x / y, 1.0, (1 - x - y) / y]), rcond=None)[0]
        if np.all(shares > 0):
            return tuple(Line(nm, float(w)) for nm, w in zip(wavelengths, total_w * shares / shares.sum(), strict=True))
    return tuple(Line(nm, total_w / max(n, 1)) for nm in wavelengths)


def power_w(beam: LaserBeam) -> float:
    """The radiant power of all its lines."""
    return sum(line.watts for line in beam.lines)


def flux_lm(beam: LaserBeam) -> float:
    """The luminous flux of all its lines."""
    return float(sum(LM_PER_W * line.watts * matching_at(line.nm)[1] for line in beam.lines))


def line_rgb(line: Line) -> Floats:
    """The light of a line in linear Rec. 709 (3,), its luminance in lumen."""
    colour = chromaticity_of(line.nm)
    return np.asarray(rgb_from_xyy(colour.x, colour.y, LM_PER_W * line.watts * float(matching_at(line.nm)[1])))


def width_m(beam: LaserBeam, distance_m: ArrayLike) -> Floats:
    """How wide the beam is at a distance: its width at the head, and what its full divergence adds."""
    spread = 2 * math.tan(beam.divergence_mrad * 1e-3 / 2)
    return np.asarray(beam.diameter_m + np.asarray(distance_m, dtype=float) * spread)


def irradiance_w_m2(beam: LaserBeam, distance_m: ArrayLike, share: float = 1.0) -> Floats:
    """W/m2 in a beam that rests, evenly over its width (`share` of its power): E = P / (pi w^2 / 4)."""
    return np.asarray(share * power_w(beam) / (math.pi * width_m(beam, distance_m) ** 2 / 4))


def safe_distance_m(beam: LaserBeam, limit_w_m2: float, share: float = 1.0) -> float:
    """From how far on a resting beam is below a limit: w = sqrt(4 P / (pi E)), d = (w - w0) / spread. 0: everywhere;
    infinite: nowhere."""
    wide = math.sqrt(4 * share * power_w(beam) / (math.pi * limit_w_m2))
    spread = 2 * math.tan(beam.divergence_mrad * 1e-3 / 2)
    if wide <= beam.diameter_m:
        return 0.0
    return (wide - beam.diameter_m) / spread if spread > 0 else math.inf


DIMMERS = [INDEX[name] for name in ("dimmer", "master dimmer", "shutter")]


def told_shares(beam: LaserBeam, features: Floats) -> Floats:
    """The share of its power that each line is told to give, (lines,), by a row of features (COUNT,)."""

    def within(column: int) -> float:
        return min(max(float(features[column]), 0.0), 1.0)

    level = math.prod(within(column) for column in DIMMERS)
    return level * np.array([within(INDEX[line.feature]) if line.feature else 1.0 for line in beam.lines])


def told_share(beam: LaserBeam, features: Floats) -> float:
    """The share of the power of all its lines together."""
    watts = np.array([line.watts for line in beam.lines])
    return float(told_shares(beam, features) @ watts / max(float(watts.sum()), 1e-12))
