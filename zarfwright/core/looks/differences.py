"""What differs between two looks: fixture by fixture in numbers, and group by group in words."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zarfwright.core.aiming.colour import xy_of_rgb
from zarfwright.core.carriers.words import COLUMNS as DRIVEN
from zarfwright.core.carriers.words import moved
from zarfwright.core.dmx.features import FEATURES, INDEX
from zarfwright.core.drive import value_rows
from zarfwright.core.looks.groups import groups_of
from zarfwright.core.looks.kept import SAME
from zarfwright.core.looks.said import DIGITS, Said
from zarfwright.core.looks.sorts import LIT, SORT_OF_COLUMN, SORTS
from zarfwright.core.optics.colour import cct_k, uv_of
from zarfwright.core.patch import compiled_show
from zarfwright.core.show import Show
from zarfwright.core.space import Floats

OTHER_UV = 0.004
"""Chromaticities further apart, in CIE 1976 u', v', are seen to differ."""
OTHER_K = 50.0
Pairs = dict[str, tuple[float | None, float | None]]


@dataclass(frozen=True)
class GroupDiff:
    """Some fixtures that differ in the same way, and how, in words."""

    fixtures: tuple[str, ...]
    text: str


@dataclass(frozen=True)
class Differences:
    """What differs: groups in words, and by row key and feature what the one and the other say; None: nothing."""

    groups: tuple[GroupDiff, ...]
    rows: dict[str, Pairs]

    @property
    def fixtures(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(key.split("/", 1)[0] for key in self.rows))


def differences(show: Show, a: Said, b: Said) -> Differences:
    """What of `b` is unlike `a`. In words, what one of them leaves alone is as it is at home."""
    compiled = compiled_show(show)
    rig = compiled.rig
    first, second = value_rows(rig, a), value_rows(rig, b)
    one_only = np.isnan(first) != np.isnan(second)
    with np.errstate(invalid="ignore"):
        differs = one_only | (np.abs(first - second) > SAME)
    rows: dict[str, Pairs] = {}
    for row in np.flatnonzero(differs.any(axis=1)).tolist():
        columns = np.flatnonzero(differs[row]).tolist()
        rows[rig.keys[row]] = {
            FEATURES[c].name: (_said(first[row, c]), _said(second[row, c])) for c in columns
        }  # fmt: skip
    whole = [np.where(np.isnan(one), rig.home, one) for one in (first, second)]
    with np.errstate(invalid="ignore"):
        shown = np.abs(whole[0] - whole[1]) > SAME
    seen = _Seen(rig.fixtures, whole[0], whole[1], shown, *(compiled.beams.colour(one) for one in whole))
    return Differences(tuple(_grouped(show, seen)), rows)


def _said(value: float) -> float | None:
    return None if math.isnan(value) else round(float(value), DIGITS)


@dataclass(frozen=True, eq=False)
class _Seen:
    """Both looks over the rig, rows (n, COUNT), where they differ, and the colours of their light (n, 3)."""

    fixtures: Sequence[str]
    first: Floats
    second: Floats
    differs: Floats
    light: Floats
    light_after: Floats


def _grouped(show: Show, seen: _Seen) -> list[GroupDiff]:
    rows_of: dict[str, list[int]] = {}
    for row in np.flatnonzero(seen.differs.any(axis=1)).tolist():
        rows_of.setdefault(seen.fixtures[row], []).append(row)
    found = []
    for group in groups_of(show):
        alike: dict[tuple[str, ...], list[str]] = {}
        for key in group.ids:
            if key in rows_of:
                alike.setdefault(_kinds(seen, rows_of[key]), []).append(key)
        for kinds, members in alike.items():
            rows = [row for key in members for row in rows_of[key]]
            text = ", ".join(_phrase(seen, kind, rows) for kind in kinds)
            if text:
                found.append(GroupDiff(tuple(members), f"{group.called(show, members)}: {text}"))
    return found


def _level(rows: Floats) -> Floats:
    columns = [INDEX[name] for name in ("dimmer", "master dimmer", "shutter")]
    return np.asarray(np.prod(rows[:, columns], axis=1))


def _kinds(seen: _Seen, rows: list[int]) -> tuple[str, ...]:
    """In which ways a fixture differs."""
    before, after = float(_level(seen.first[rows]).max()), float(_level(seen.second[rows]).max())
    kinds = []
    if before <= LIT < after:
        kinds.append("on")
    elif after <= LIT < before:
        # Of what is out the rest is not seen.
        return ("out",)
    elif max(before, after) <= LIT:
        return tuple(sort for i, sort in enumerate(SORTS) if i > 0 and _sort_differs(seen, rows, i))
    elif abs(after - before) > 0.005 * max(before, after):
        kinds.append("less" if after < before else "more")
    colour = _colour_kind(seen, rows)
    kinds += [colour] if colour else []
    kinds += ["position"] if _sort_differs(seen, rows, SORTS.index("position")) else []
    if _sort_differs(seen, rows, SORTS.index("beam")):
        zoom = seen.second[rows, INDEX["zoom"]] - seen.first[rows, INDEX["zoom"]]
        wide = float(np.nan_to_num(zoom).mean())
        kinds.append("wider" if wide > 0.05 else "narrower" if wide < -0.05 else "beam")
    if not kinds and _sort_differs(seen, rows, 0):
        kinds.append("flashes otherwise")
    return tuple(kinds)


def _sort_differs(seen: _Seen, rows: list[int], sort: int) -> bool:
    return bool(seen.differs[rows][:, sort == SORT_OF_COLUMN].any())


def _xy(light: Floats) -> tuple[float, float] | None:
    return xy_of_rgb(np.asarray(light, dtype=float)) if float(np.abs(light).sum()) > 1e-9 else None


def _colour_kind(seen: _Seen, rows: list[int]) -> str:
    a, b = _xy(seen.light[rows].sum(axis=0)), _xy(seen.light_after[rows].sum(axis=0))
    if a is None or b is None or float(np.linalg.norm(uv_of(*a) - uv_of(*b))) < OTHER_UV:
        return ""
    kelvin = cct_k(*a), cct_k(*b)
    if kelvin[0] and kelvin[1] and abs(kelvin[0] - kelvin[1]) > OTHER_K:
        return "warmer" if kelvin[1] < kelvin[0] else "colder"
    return f"{colour_word(b)} instead of {colour_word(a)}"


def _phrase(seen: _Seen, kind: str, rows: list[int]) -> str:
    """One way of differing, over all rows that do so."""
    before, after = _level(seen.first[rows]), _level(seen.second[rows])
    if kind == "on":
        return f"on at {spanned(after[after > LIT] * 100)} %"
    if kind in ("less", "more"):
        lit = before > LIT
        share = np.abs(1 - after[lit] / before[lit]) * 100
        return f"{spanned(share)} % {kind}"
    if kind in ("warmer", "colder"):
        a, b = _xy(seen.light[rows].sum(axis=0)), _xy(seen.light_after[rows].sum(axis=0))
        kelvin = (cct_k(*a), cct_k(*b)) if a is not None and b is not None else (None, None)
        by = abs((kelvin[0] or 0.0) - (kelvin[1] or 0.0))
        return f"{kind} by {round(by, -1):.0f} K"
    if kind == "position" and bool(seen.differs[rows][:, DRIVEN].any()):
        return "; ".join(f"{moved(seen.second[row])} (was {moved(seen.first[row])})" for row in rows)
    if kind == "position":
        return f"turned by {spanned(np.degrees(_turned(seen, rows)))}°"
    if kind in ("wider", "narrower"):
        zoom = np.abs(seen.second[rows, INDEX["zoom"]] - seen.first[rows, INDEX["zoom"]])
        return f"{kind} by {spanned(zoom[zoom > 0.05])}°"
    if kind == "beam":
        return _beam_words(seen, rows)
    return "another colour while dark" if kind == "colour" else kind


def _turned(seen: _Seen, rows: list[int]) -> Floats:
    """The angle between where heads look before and after, (n,) radians: of directions by pan and tilt."""

    def way(values: Floats) -> Floats:
        pan, tilt = values[rows, INDEX["pan"]], values[rows, INDEX["tilt"]]
        return np.stack([np.sin(tilt) * np.sin(pan), np.sin(tilt) * np.cos(pan), np.cos(tilt)], axis=1)

    cosine = np.clip(np.sum(way(seen.first) * way(seen.second), axis=1), -1.0, 1.0)
    return np.asarray(np.arccos(cosine))


_BEAM_WORDS = (
    ("gobo", "another pattern"), ("prism", "the prism otherwise"), ("blade", "cut otherwise"),
    ("focus", "focused otherwise"), ("sharp", "focused otherwise"),
)  # fmt: skip


def _beam_words(seen: _Seen, rows: list[int]) -> str:
    columns = np.flatnonzero(seen.differs[rows].any(axis=0) & (SORTS.index("beam") == SORT_OF_COLUMN))
    words = []
    for column in columns.tolist():
        name = FEATURES[column].name
        by = float((seen.second[rows, column] - seen.first[rows, column]).mean())
        if name in ("frost", "iris"):
            words.append({"frost": ("softer", "harder"), "iris": ("more open", "more closed")}[name][by < 0])
        else:
            words += [said for start, said in _BEAM_WORDS if name.startswith(start)]
    return " and ".join(dict.fromkeys(words)) or "shaped otherwise"


def spanned(values: Floats) -> str:
    """One number where all are about the same, else from the least to the most."""
    if not len(values):
        return "0"
    digits = 1 if float(values.max()) < 1.5 else 0
    low, high = round(float(values.min()), digits), round(float(values.max()), digits)
    return f"{low:g}" if low == high else f"{low:g} to {high:g}"


HUES = ((15, "red"), (38, "orange"), (52, "amber"), (70, "yellow"), (95, "lime"), (150, "green"), (195, "cyan"),
        (255, "blue"), (285, "violet"), (330, "magenta"), (346, "pink"), (361, "red"))  # fmt: skip


def colour_word(xy: tuple[float, float]) -> str:
    """What people call a colour: a white by its temperature, else the hue."""
    kelvin = cct_k(*xy)
    if kelvin is not None and 1800 < kelvin < 12_000:
        return f"white of {round(kelvin, -2):.0f} K"
    x, y = xy
    xyz = np.array([x / y, 1.0, (1 - x - y) / y])
    red, green, blue = np.clip(_TO_RGB @ xyz, 0.0, None).tolist()
    most, least = max(red, green, blue), min(red, green, blue)
    if most - least < 1e-9:
        return "white"
    if most == red:
        hue = 60 * ((green - blue) / (most - least) % 6)
    elif most == green:
        hue = 60 * ((blue - red) / (most - least) + 2)
    else:
        hue = 60 * ((red - green) / (most - least) + 4)
    return next(word for until, word in HUES if hue < until)


_TO_RGB = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])
"""XYZ to linear Rec.709 (IEC 61966-2-1)."""
