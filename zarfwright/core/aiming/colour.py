"""The same colour on any type: by its emitters, its flags, or the nearest of its slots; and how far off that is.

Emitters: the brightest mixture of a chromaticity in closed form. For every pair of emitters i, j with the normal
N = +-(E_i x E_j), H = sum of max(0, N . E_k); towards the direction d the mixture reaches t = min H / (N . d) over
N . d > 0: the face that gives it has i and j at a part, the others at full or out (a zonotope's support function).
Flags: the brightest mixture has one flag out of the light. Distances are in CIE 1976 u', v'.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import combinations
from typing import Literal

import numpy as np
from shapely import MultiPoint, Point, Polygon
from shapely.ops import nearest_points

from zarfwright.core.dmx.features import EMITTERS
from zarfwright.core.optics.colour import RGB_TO_XYZ, cct_k, uv_of, white_xy
from zarfwright.core.optics.spectrum import MATCHING, planck
from zarfwright.core.picture.constants import SUBTRACTIVE, Constants
from zarfwright.core.space import Floats

Prefer = Literal["brightest", "even", "fullest"]
"""Of all mixtures that come to a colour: the brightest; the one in which all share; the one whose spectrum is nearest
to that of a white of its temperature, where spectra are known."""
Xy = tuple[float, float]
REACHED_UV = 0.002
"""A difference that is smaller than this nobody sees beside each other."""
DARK = 1e-9


@dataclass(frozen=True)
class Means:
    """What a beam makes colour with: emitters by feature, flags that take light away, slots of its first wheel."""

    emitters: tuple[str, ...]
    flags: tuple[str, ...]
    slots: int
    """How many slots the wheel has; 0: there is none."""
    spectra: bool = False
    """Whether the spectra of all emitters are known."""

    @property
    def any(self) -> bool:
        return bool(self.emitters or self.flags or self.slots)


@dataclass(frozen=True)
class Match:
    """How a beam comes nearest to a colour: its features, the colour that it gives, how far off that is in u', v', and
    its luminance as a share of the most that it gives."""

    values: dict[str, float]
    xy: Xy
    off_uv: float
    share: float

    @property
    def reaches(self) -> bool:
        return self.off_uv < REACHED_UV


def xy_of_rgb(rgb: Floats) -> Xy:
    """The chromaticity of linear Rec. 709 light (3,); D65's of darkness."""
    xyz = RGB_TO_XYZ @ rgb
    whole = float(xyz.sum())
    return (float(xyz[0] / whole), float(xyz[1] / whole)) if whole > DARK else (0.3127, 0.3290)


def xy_of_uv(uv: Sequence[float]) -> Xy:
    """CIE 1931 x, y of a place in CIE 1976 u', v'."""
    u, v = float(uv[0]), float(uv[1])
    whole = 6 * u - 16 * v + 12
    return 9 * u / whole, 4 * v / whole


def xy_of_white(kelvin: float, tint: float = 0.0) -> Xy:
    """A white of a colour temperature, `tint` off the white line in CIE 1960 u, v: above it is green, below magenta."""
    here, beside = (uv_of(*white_xy(k)) * [1.0, 2 / 3] for k in (kelvin, kelvin * 1.001))
    along = (beside - here) / max(float(np.linalg.norm(beside - here)), 1e-12)
    # Towards greater v, which is the green side.
    across = np.array([-along[1], along[0]])
    across *= 1.0 if across[1] > 0 else -1.0
    u, v = here + tint * across
    return xy_of_uv((float(u), float(v) * 1.5))


def off(a: Xy, b: Xy) -> float:
    """How far apart two chromaticities are in u', v'."""
    return float(np.linalg.norm(uv_of(*a) - uv_of(*b)))


def _light(one: Constants, gel: Floats, levels: Floats) -> Floats:
    """Linear RGB (3,) of emitters at levels (k,)."""
    return np.asarray((levels[:, None] * one.emitters).sum(axis=0) * gel)


def _behind_flags(one: Constants, gel: Floats, flags: Floats) -> Floats:
    """Linear RGB (3,) of the source behind cyan, magenta and yellow, each in by its share (3,)."""
    through = np.prod(1 - flags[:, None] * (1 - one.filters), axis=0)
    return np.asarray(one.white * through * gel)


def brightest(emitters: Floats, direction: Floats) -> Floats | None:
    """Levels (k,) of emitters (k, 3 XYZ) that give the most light in a direction (3 XYZ); None outside of their
    gamut. The module's docstring has the formula."""
    k = len(emitters)
    if k < 3:
        return None
    best: tuple[float, Floats, tuple[int, int]] | None = None
    for i, j in combinations(range(k), 2):
        normal = np.cross(emitters[i], emitters[j])
        if float(np.linalg.norm(normal)) < 1e-12:
            continue
        for n in (normal, -normal):
            towards = float(n @ direction)
            if towards <= 1e-15:
                continue
            reach = float(np.maximum(emitters @ n, 0.0).sum()) / towards
            if best is None or reach < best[0]:
                best = (reach, n, (i, j))
    if best is None or best[0] <= DARK:
        return None
    reach, n, (i, j) = best
    levels = (emitters @ n > 1e-12).astype(float)
    levels[[i, j]] = 0.0
    rest = reach * direction - levels @ emitters
    part, *_ = np.linalg.lstsq(np.stack([emitters[i], emitters[j]], axis=1), rest, rcond=None)
    levels[[i, j]] = np.clip(part, 0.0, 1.0)
    return levels


def _not_negative(a: Floats, b: Floats) -> Floats:
    """The x of no negative parts for which a x comes nearest to b."""
    # A tenth of what the program takes to start is this import, and starting does not need it.
    from scipy.optimize import nnls

    return np.asarray(nnls(a, b)[0])


def _fitted(miss: Callable[[Floats], Floats], start: Floats, to: float = 1e-8) -> tuple[Floats, Floats]:
    """The values from 0 to 1 that miss least, from a start, and by what they miss."""
    from scipy.optimize import least_squares

    fit = least_squares(miss, start, bounds=(0.0, 1.0), xtol=to, ftol=to, gtol=to)
    return np.asarray(fit.x), np.asarray(fit.fun)


def even(emitters: Floats, direction: Floats) -> Floats | None:
    """Levels (k,) of the least sum of squares that give a direction (3 XYZ): all emitters share in it, and a small
    change of colour changes them little. The strongest is at full. None outside of the gamut."""
    k = len(emitters)
    scale = float(np.abs(emitters).max())
    weigh = 1e4
    a = np.concatenate([emitters.T / scale * weigh, np.eye(k)])
    levels = _not_negative(a, np.concatenate([direction / float(np.linalg.norm(direction)) * weigh, np.zeros(k)]))
    most = float(levels.max(initial=0.0))
    return np.asarray(levels / most) if most > 0 else None


def fullest(emitters: Floats, spectra: Floats, direction: Floats) -> Floats | None:
    """Levels (k,) whose spectra (k, WAVELENGTHS) together come nearest, by least squares, to a black body's of the
    temperature nearest to a direction (3 XYZ, Y = 1), and give that direction: what is lit looks as in such light. The
    strongest is at full. None outside of the gamut, and of what is no white."""
    xy = (float(direction[0] / direction.sum()), float(direction[1] / direction.sum()))
    kelvin = cct_k(*xy)
    if kelvin is None:
        return None
    wanted = planck(kelvin)
    wanted = wanted / float(MATCHING[1] @ wanted)
    scale = float(np.linalg.norm(wanted))
    weigh = 1e4
    a = np.concatenate([emitters.T * weigh, spectra.T / scale])
    levels = _not_negative(a, np.concatenate([direction * weigh, wanted / scale]))
    most = float(levels.max(initial=0.0))
    return np.asarray(levels / most) if most > 0 else None


def _direction(xy: Xy) -> Floats:
    x, y = xy
    return np.array([x / y, 1.0, (1 - x - y) / y])


def _hull(points: Floats) -> Polygon | None:
    """The hull of places (n, 2), where it has an area."""
    made = MultiPoint(points).convex_hull
    return made if isinstance(made, Polygon) else None


def _pulled_in(hull: Polygon, xy: Xy) -> Xy:
    """A chromaticity, or the nearest to it in u', v' on the edge of a hull there."""
    here = Point(uv_of(*xy))
    # A hair inside, so that rounding never puts it out again.
    inner = hull.buffer(-1e-5)
    if inner.is_empty or inner.contains(here):
        return xy
    near = nearest_points(inner, here)[0]
    return xy_of_uv((near.x, near.y))


def _rows(one: Constants) -> list[int]:
    return [i for i in range(len(EMITTERS)) if np.any(one.emitters[i])]


def _known(one: Constants) -> bool:
    rows = _rows(one)
    return bool(rows) and bool(np.all(one.spectra[rows].any(axis=1)))


def by_emitters(one: Constants, gel: Floats, xy: Xy, prefer: Prefer) -> Match | None:
    """The colour by emitters that add; None where there are none."""
    rows = _rows(one)
    if not rows:
        return None
    xyz = (one.emitters[rows] * gel) @ RGB_TO_XYZ.T
    hull = _hull(uv_of(*(xyz[:, :2] / xyz.sum(axis=1, keepdims=True)).T)) if len(rows) > 2 else None
    levels: Floats | None = None
    if hull is not None:
        goal = _direction(_pulled_in(hull, xy))
        # What a gel does to spectra nobody knows.
        if prefer == "fullest" and _known(one) and bool(np.all(gel == 1.0)):
            levels = fullest(xyz, one.spectra[rows], goal)
        if levels is None:
            levels = even(xyz, goal) if prefer == "even" else brightest(xyz, goal)
    if levels is None:
        wanted, shown = np.asarray(uv_of(*xy)), one.emitters[rows] * gel
        found, _ = _fitted(lambda v: np.asarray(uv_of(*xy_of_rgb(v @ shown + DARK)) - wanted), np.full(len(rows), 0.5))
        levels = found / max(float(found.max()), 1e-9)
    all_of = np.zeros(len(EMITTERS))
    all_of[rows] = levels
    got = _light(one, gel, all_of)
    most = _light(one, gel, np.ones(len(EMITTERS)))
    values = {EMITTERS[i]: round(float(all_of[i]), 6) for i in rows}
    return _matched(values, got, most, xy)


def _matched(values: dict[str, float], got: Floats, most: Floats, xy: Xy) -> Match:
    reached = xy_of_rgb(got)
    bright = float((RGB_TO_XYZ @ got)[1]) / max(float((RGB_TO_XYZ @ most)[1]), DARK)
    return Match(values, reached, off(reached, xy), min(max(bright, 0.0), 1.0))


def by_flags(one: Constants, gel: Floats, xy: Xy) -> Match:
    """The colour by three flags, one of them out of the light; the nearest where none gives it."""
    wanted = uv_of(*xy)
    most = _behind_flags(one, gel, np.zeros(3))
    found: list[tuple[float, float, Floats]] = []
    for out in range(3):
        ins = [i for i in range(3) if i != out]

        def miss(v: Floats, ins: list[int] = ins) -> Floats:
            flags = np.zeros(3)
            flags[ins] = v
            return np.asarray(uv_of(*xy_of_rgb(_behind_flags(one, gel, flags) + DARK)) - wanted)

        for start in ((0.3, 0.3), (0.9, 0.1), (0.1, 0.9), (0.8, 0.8)):
            at, missed = _fitted(miss, np.array(start), 1e-12)
            flags = np.zeros(3)
            flags[ins] = at
            bright = float((RGB_TO_XYZ @ _behind_flags(one, gel, flags))[1])
            found.append((float(np.linalg.norm(missed)), -bright, flags))
            if found[-1][0] < 1e-6:
                break
    best = min(found, key=lambda one: (max(one[0], REACHED_UV / 4), one[1]))
    values = {name: round(float(v), 6) for name, v in zip(SUBTRACTIVE, best[2], strict=True)}
    return _matched(values, _behind_flags(one, gel, best[2]), most, xy)


def by_slots(one: Constants, gel: Floats, xy: Xy) -> Match:
    """The slot of the wheel that comes nearest."""
    most = one.white * gel
    tried = [_matched({"colour slot": float(n + 1)}, most * slot, most, xy) for n, slot in enumerate(one.colours[0])]
    return min(tried, key=lambda match: match.off_uv)


def means_of(one: Constants, drives: set[str]) -> Means:
    """What a beam with these features makes colour with."""
    emitters = tuple(EMITTERS[i] for i in _rows(one))
    flags = tuple(name for name in SUBTRACTIVE if name in drives) if not emitters else ()
    slots = len(one.colours[0]) if "colour slot" in drives and len(one.colours[0]) > 1 else 0
    return Means(emitters, flags if len(flags) == 3 else (), slots, _known(one))


NEUTRAL = {"warmer": 0.0, "colder": 0.0, "white point": 0.0, "macro slot": 1.0, "colour spin": 0.0}
"""What would tint a colour that was mixed, at rest."""


def match(one: Constants, gel: Floats, drives: set[str], xy: Xy, prefer: Prefer = "brightest") -> Match | None:
    """How a beam comes nearest to a chromaticity; None where it makes no colour by itself. What would tint it besides
    is at rest."""
    means = means_of(one, drives)
    if means.emitters:
        found = by_emitters(one, gel, xy, prefer)
    elif means.flags:
        found = by_flags(one, gel, xy)
        if means.slots and not found.reaches and (slot := by_slots(one, gel, xy)).off_uv < found.off_uv:
            still = dict.fromkeys(SUBTRACTIVE, 0.0)
            return replace(slot, values={**still, **_resting(drives), **slot.values})
    elif means.slots:
        found = by_slots(one, gel, xy)
    else:
        return None
    if found is None:
        return None
    opened = dict.fromkeys(drives & {"colour slot", "colour 2 slot"}, 1.0)
    return replace(found, values={**opened, **_resting(drives), **found.values})


def _resting(drives: set[str]) -> dict[str, float]:
    return {name: value for name, value in NEUTRAL.items() if name in drives}


def gamut(one: Constants, gel: Floats, drives: set[str]) -> list[Xy]:
    """The outline of what a beam can mix, in x, y; empty where it mixes nothing."""
    means = means_of(one, drives)
    if means.emitters:
        lights = one.emitters[_rows(one)] * gel
    elif means.flags:
        steps = np.linspace(0.0, 1.0, 9)
        lights = np.array(
            [_behind_flags(one, gel, np.array([a, b, c]) * 0.999) for a in steps for b in steps for c in steps]
        )
    else:
        return []
    points = np.array([xy_of_rgb(light) for light in lights])
    hull = _hull(points) if len(points) > 2 else None
    return [(float(x), float(y)) for x, y in hull.exterior.coords] if hull is not None else []


def slots_of(one: Constants, gel: Floats, drives: set[str]) -> list[Xy]:
    """The colours of the slots of its wheel, in x, y."""
    count = means_of(one, drives).slots
    return [xy_of_rgb(one.white * gel * one.colours[0][i]) for i in range(count)]
