"""Colours over a rig: how each fixture comes nearest to one, what a selection can mix, what a fixture shows now."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from zarfwright.core.aiming.colour import Match, Means, Prefer, Xy, gamut, match, means_of, slots_of, xy_of_rgb
from zarfwright.core.aiming.pointing import Pair
from zarfwright.core.dmx.features import drives_of
from zarfwright.core.drive import value_rows
from zarfwright.core.memo import Memo
from zarfwright.core.patch import compiled_show
from zarfwright.core.picture.constants import constants_of, lets_through
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.space import Floats
from zarfwright.core.types.model import FixtureType


def _driven(fixture_type: FixtureType, mode: str) -> frozenset[str]:
    return frozenset(
        drive.feature
        for channel in fixture_type.mode(mode).channels
        for function in channel.functions
        for drive in drives_of(function)
    )


driven: Memo[frozenset[str]] = Memo(_driven, 500)
"""The features that a type's channels drive in a mode."""


def gel_of(fixture: Fixture) -> Floats:
    """What its gel lets through, linear RGB (3,)."""
    return lets_through(fixture.gel.colour if fixture.gel else None, None, 0.0)


@dataclass(frozen=True)
class Kind:
    """Fixtures of one type and mode behind one gel: they make colour alike."""

    type: str
    mode: str
    ids: tuple[str, ...]
    fixture: Fixture


def kinds_of(show: Show, pairs: Iterable[Pair]) -> list[Kind]:
    """The fixtures by what they make colour with."""
    groups: dict[tuple[str, str, object], list[Pair]] = {}
    for item, fixture in pairs:
        if fixture.type in show.types:
            groups.setdefault((fixture.type, fixture.mode, fixture.gel), []).append((item, fixture))
    return [
        Kind(kind, mode, tuple(item.id for item, _ in members), members[0][1])
        for (kind, mode, _), members in groups.items()
    ]


def matched(show: Show, kind: Kind, xy: Xy, prefer: Prefer = "brightest") -> Match | None:
    """How fixtures come nearest to a chromaticity; None where they make no colour by themselves."""
    fixture_type = show.types[kind.type]
    one = constants_of(fixture_type, kind.mode)[0]
    return match(one, gel_of(kind.fixture), set(driven(fixture_type, kind.mode)), xy, prefer)


def means(show: Show, kind: Kind) -> Means:
    """What fixtures make colour with."""
    fixture_type = show.types[kind.type]
    return means_of(constants_of(fixture_type, kind.mode)[0], set(driven(fixture_type, kind.mode)))


def mixes(show: Show, kind: Kind) -> tuple[list[Xy], list[Xy]]:
    """The outline of what fixtures can mix, and the colours of their slots, in x, y."""
    fixture_type = show.types[kind.type]
    one, drives = constants_of(fixture_type, kind.mode)[0], set(driven(fixture_type, kind.mode))
    return gamut(one, gel_of(kind.fixture), drives), slots_of(one, gel_of(kind.fixture), drives)


def shown_xy(show: Show, fixture: str, values: Mapping[str, Mapping[str, float]]) -> Xy | None:
    """The chromaticity of a fixture's first beam under these values, by fixture or cell; what they do not say is at
    home. None of what gives no light."""
    made = compiled_show(show)
    if fixture not in made.rig.fixtures:
        return None
    row = list(made.rig.fixtures).index(fixture)
    said = value_rows(made.rig, {key: values[key] for key in values if key.split("/", 1)[0] == fixture})
    rgb = made.beams.colour(np.where(np.isnan(said), made.rig.home, said))[row]
    return xy_of_rgb(np.asarray(rgb, dtype=float)) if float(np.abs(rgb).sum()) > 1e-9 else None
